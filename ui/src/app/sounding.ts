// What the window sounds: the player is given the pass and the kit, pads are struck.
import { api, type Pass } from '../api/client';
import { msToTicks, PPQ, swingShift, ticksToMS, ticksAt } from '../lanes/time';
import { midiOut } from '../player/midi';
import { player } from '../player/player';
import { type Bench, currentPattern, currentRecording, explain, say, useBench } from './bench';

const get = useBench.getState;
const set = useBench.setState;

/** What the player is to play now: the pattern, or in Break the recording's loop. */
export async function refreshPass(keepPlace = true) {
  const s = get();
  if (!s.project) return;
  const recording = currentRecording(s);
  if (s.instead) player.setPass(s.instead, keepPlace);
  else if (s.face === 'break' && recording) {
    const { slow, click } = s.hearing;
    const band = s.compared?.lane?.band ?? s.hearing.band;
    const of = {
      rate: player.rate,
      slow: slow ? 2 : 1,
      click,
      ...(band ? { loHz: band[0], hiHz: band[1] } : {}),
    };
    player.setPass(await api.recordingPass(s.project.id, recording.id, of), keepPlace);
  } else if (s.patternId) {
    takePass(await api.pass(s.project.id, s.patternId, player.rate), keepPlace);
  }
  applySilence();
  applyBlend();
}

export function applySilence() {
  const s = get();
  if (!s.project) return;
  const { muted, solo } = s.project.settings;
  const all = s.project.map.lanes.map((l) => l.note);
  const only = s.face === 'break' ? s.compared?.lane?.note : undefined;
  if (only !== undefined) player.setSilent(all.filter((n) => n !== only));
  else player.setSilent(solo.length > 0 ? all.filter((n) => !solo.includes(n)) : muted);
}

function applyBlend() {
  const { face, levels, compared, instead } = get();
  const output = get().project?.settings.output;
  midiOut.set(output, () => get().project?.map.lanes ?? []);
  if (face !== 'break' || instead) player.setBlend(output?.to === 'midi' ? 0 : 1, 0);
  else if (!compared) player.setBlend(levels.kit, levels.recording);
  else if (compared.side === 'recording') player.setBlend(0, 1);
  else player.setBlend(10 ** (Math.min(12, Math.max(-24, compared.matchDB)) / 20), 0);
}

/** Gives the player a pattern's pass, and tells the stage where its hits sound. */
export function takePass(pass: Pass, keepPlace = true) {
  const bpm = get().project?.settings.bpm ?? 92;
  const places = new Map<string, number>();
  for (const s of pass.strokes) {
    const key = `${s.note} ${s.tick}`;
    const at = ticksAt(s.at, bpm);
    const other = places.get(key);
    // a lane shorter than the pattern sounds a hit at several places: its own is the one near where it is written
    if (other === undefined || Math.abs(at - s.tick) < Math.abs(other - s.tick)) places.set(key, at);
  }
  set({ places });
  player.setPass(pass, keepPlace);
}

// the kit as the server has it, and the one the player has
let kitKept = '';
let kitInPlayer = '';

/** Names the kit the server has. */
export const kitIs = (kit: string) => {
  kitKept = kit;
};

export async function refreshKit() {
  const p = get().project;
  if (!p || kitKept === kitInPlayer) return;
  kitInPlayer = kitKept;
  await player.setTable(await api.table(p.id, player.rate));
}

/** Lets the player sound the project's own kit again, after something else was tried. */
export async function soundOwnKit() {
  kitInPlayer = '';
  await refreshKit();
  await refreshPass();
}

/** How loud the recording and the kit are together. */
export function setLevels(change: Partial<Bench['levels']>) {
  set((s) => ({ levels: { ...s.levels, ...change } }));
  hearCompared(null);
}

/** Hears the recording or the kit alone at the same loudness; null: both again. */
export function hearCompared(compared: Bench['compared']) {
  const was = get().compared?.lane;
  set({ compared });
  if (was?.note === compared?.lane?.note && was?.band.join() === compared?.lane?.band.join()) {
    applySilence();
    applyBlend();
  } else void refreshPass().catch((e: unknown) => say(explain(e)));
}

/** Hears the recording otherwise: slowly, with a click, one band alone. */
export function setHearing(change: Partial<Bench['hearing']>) {
  set((s) => ({ hearing: { ...s.hearing, ...change } }));
  void refreshPass().catch((e: unknown) => say(explain(e)));
}

export async function play() {
  set({ playing: true });
  await player.play().catch((e: unknown) => {
    set({ playing: false });
    say(explain(e));
  });
}

export function stop() {
  set({ playing: false });
  player.stop();
}

export const toggle = () => (get().playing ? stop() : void play());

let strikeCount = 0;

/** Strikes a lane's pad. Returns the ticket to let it go by. */
export function strike(note: number, velocity: number): number {
  const { ticket, layer } = player.strike(note, velocity);
  midiOut.strike(note, velocity);
  const s = get();
  set({
    lane: note,
    strikes: [{ id: ++strikeCount, note, velocity, layer, leanMS: leanNow(s, note) }, ...s.strikes].slice(
      0,
      4,
    ),
  });
  return ticket;
}

/** How far off the nearest sixteenth, as the lane sounds it, the beat is now, ms; null when nothing plays. */
function leanNow(s: Bench, note: number): number | null {
  if (!s.playing || !s.project || !player.last || s.face === 'break') return null;
  const { bpm } = s.project.settings;
  const feel = currentPattern(s)?.feel ?? s.project.settings.feel;
  const tick = ticksAt(player.atS(), bpm) - msToTicks(feel.laneLeanMS?.[note] ?? 0, bpm);
  const cell = PPQ / 4;
  let best = Infinity;
  for (const line of [-1, 0, 1].map((d) => (Math.round(tick / cell) + d) * cell)) {
    const off = tick - line - swingShift(line, feel.swing);
    if (Math.abs(off) < Math.abs(best)) best = off;
  }
  return ticksToMS(best, bpm);
}
