// Replays cases that Go wrote by the window's own rules, and tells which come out otherwise: [{call, args, want, only}] in
// cases.json beside this script; the rules are built beside it too. It says the faults as JSON on standard output.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { build } from 'vite';

const here = fileURLToPath(new URL('.', import.meta.url));
const out = join(here, 'rules');
const rooms = ['time', 'patch', 'foresee', 'midiStream', 'midiClock', 'take', 'liveGate', 'songClock', 'desk', 'loudness', 'voices'];
await build({
  configFile: false,
  logLevel: 'error',
  build: {
    ssr: true,
    outDir: out,
    emptyOutDir: true,
    rollupOptions: { input: Object.fromEntries(rooms.map((r) => [r, `src/model/${r}.ts`])), output: { entryFileNames: '[name].mjs' } },
  },
});
const rules = {};
for (const r of rooms) Object.assign(rules, await import(pathToFileURL(join(out, `${r}.mjs`))));

// what keeps a state is asked about a whole stream
rules.midiMessages = (parts) => {
  const cable = new rules.MidiStream();
  return parts.flatMap((p) => cable.feed(p));
};
rules.heardLive = (listener, rate, input) => {
  const gate = new rules.LiveGate(listener, rate);
  const x = Float32Array.from(input);
  return [...Array(Math.ceil(x.length / 128)).keys()].flatMap((i) => gate.feed(x.subarray(128 * i, 128 * i + 128)));
};
const near = (x) => Math.round(x * 1e7) / 1e7;
for (const name of ['secondsOfTick', 'tickOfSeconds']) {
  const exact = rules[name];
  rules[name] = (...args) => near(exact(...args));
}
const { beatsOf } = rules;
rules.beatsOf = (...args) => beatsOf(...args).map((b) => ({ ...b, at: near(b.at) }));
// a mix through which noise goes, as the core hears it: how far apart the two are, dB
rules.deskApart = (plan, rate, lanes, want) => {
  const desk = new rules.Desk({ ...plan, room: plan.room?.map((x) => Float32Array.from(x)) }, rate);
  const frames = want[0].length;
  let sum = 0;
  for (let from = 0; from < frames; from += 128) {
    const buses = Array.from({ length: desk.buses }, () => [new Float64Array(128), new Float64Array(128)]);
    for (const { part, note, sound } of lanes)
      for (const s of desk.sends(part, note))
        for (let i = 0; i < 128; i++) {
          buses[s.bus][0][i] += (sound[from + i] ?? 0) * s.left;
          buses[s.bus][1][i] += (sound[from + i] ?? 0) * s.right;
        }
    desk.run(buses);
    for (let i = 0; i < 128 && from + i < frames; i++)
      for (const side of [0, 1]) sum += (buses.reduce((n, b) => n + b[side][i], 0) - want[side][from + i]) ** 2;
  }
  return Math.max(-200, Math.round(10 * Math.log10(sum / (2 * frames) + 1e-30))) <= -120;
};
// a kit is asked for; the cues of a pass come to be known, and a voice is struck, while the first few are under way: the order in which they
// were asked for, how often, the most at once, and what became of one that fails
rules.voiceOrder = async (kit, cues, struck, failing) => {
  const order = [];
  let under = 0;
  let most = 0;
  const v = new rules.Voices(async (id) => {
    order.push(id);
    most = Math.max(most, ++under);
    await new Promise((go) => setTimeout(go, 1));
    under--;
    if (id === failing) throw new Error('no');
  });
  const all = v.bring(kit).then(() => 'all', () => 'one failed');
  await Promise.resolve();
  v.expect(cues);
  await Promise.all([v.bring([struck], true), v.bring(cues.map((c) => c.voice))]);
  const ended = await all;
  while (under > 0) await new Promise((go) => setTimeout(go, 1));
  return { order, most, ended };
};
// the loudness of the last tenths of a second of stereo sound, written in the audio thread's blocks
rules.loudLately = (left, right, rate, tenths) => {
  const hops = new rules.Hops(rate);
  for (let from = 0; from + 128 <= left.length; from += 128)
    hops.write([left, right].map((x) => Float32Array.from(x.slice(from, from + 128))));
  return near(rules.lately(hops.done, tenths));
};
rules.responseNear = (...args) => near(rules.responseDB(...args));
rules.followed = (times) => {
  const clock = new rules.ClockFollower();
  const round = (x) => Math.round(x * 1e4) / 1e4;
  return { times: times.map((t) => round(clock.feed(t))), bpm: round(clock.bpm) };
};

// JSON with its keys in order; null and what is not there are the same, as they are to the window
const plain = (v) =>
  Array.isArray(v)
    ? v.map(plain)
    : v && typeof v === 'object'
      ? Object.fromEntries(
          Object.keys(v)
            .toSorted()
            .filter((k) => v[k] !== undefined && v[k] !== null)
            .map((k) => [k, plain(v[k])]),
        )
      : typeof v === 'number'
        ? Number(v.toPrecision(12))
        : (v ?? null);
const faults = [];
const cases = JSON.parse(readFileSync(join(here, 'cases.json'), 'utf8'));
for (const { call, args, want, only } of cases) {
  const rule = rules[call];
  if (!rule) {
    faults.push(`there is no rule ${call}`);
    continue;
  }
  let got = await rule(...args);
  if (only) got = Object.fromEntries(only.map((k) => [k, got[k]]));
  const [a, b] = [JSON.stringify(plain(got)), JSON.stringify(plain(want))];
  if (a !== b && call !== 'setMiddleC') {
    let i = 0;
    while (a?.[i] === b?.[i]) i++;
    faults.push(`${call}(${JSON.stringify(args).slice(0, 160)}): …${a?.slice(Math.max(0, i - 60), i + 100)} but Go says …${b?.slice(Math.max(0, i - 60), i + 100)}`);
  }
}
console.log(JSON.stringify({ cases: cases.length, faults }));
