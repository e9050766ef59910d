// The mix as it is heard: what the project says of it goes to the audio thread, with the room's response when it is another.
import { api, type MixMix, type MixOutput } from '../api/client';
import { gridLengths, PPQ } from '../model/constants.gen';
import { parseFloatWAV, player } from '../player/player';
import { explain, say, useBench } from './bench';

/** A comparison: an output (0 is Main), or all of it, is heard without its processing, as loud as with it. */
export interface Without {
  output: number | 'all';
  matchDB: number;
}

let without: Without | null = null;
let roomOf = '';
let asked = 0;

/** The mix without the processing of an output, or of all, so much louder. */
export function mixWithout(m: MixMix, w: Without): MixMix {
  const off = (o: MixOutput): MixOutput => ({
    ...o,
    level: (o.level ?? 0) + w.matchDB,
    gate: { ...o.gate, on: false },
    compressor: { ...o.compressor, on: false },
    saturation: { ...o.saturation, on: false },
    equaliser: { ...o.equaliser, on: false },
  });
  if (w.output === 'all') return { ...m, main: off(m.main), outputs: m.outputs.map(off), dry: true };
  return w.output === 0
    ? { ...m, main: off(m.main) }
    : { ...m, outputs: m.outputs.map((o, i) => (i + 1 === w.output ? off(o) : o)) };
}

/** Whether a mix does nothing, so that everything goes out as it is. */
const plain = (m: MixMix) =>
  Object.keys(m.strips).length === 0 &&
  m.outputs.length === 0 &&
  !m.main.mono &&
  !m.main.muted &&
  (m.main.level ?? 0) === 0 &&
  ![m.main.gate, m.main.compressor, m.main.saturation, m.main.equaliser].some((x) => x.on);

let tried: MixMix | null = null;

/** Lets another mix be heard while something is dragged; null: the project's again. */
export function hearMix(m: MixMix | null) {
  tried = m;
  void applyMix();
}

/** Lets the mix be heard as it is now; in Break sounds are compared as they are. */
export async function applyMix() {
  const mine = ++asked; // what was asked for before comes too late
  const s = useBench.getState();
  const p = s.project;
  const own = tried ?? p?.mix;
  const mix = own && without ? mixWithout(own, without) : own;
  if (!p || !mix || s.face === 'break' || (plain(mix) && s.face !== 'mix')) {
    player.setDesk(null);
    roomOf = '';
    return;
  }
  const song = s.song && !s.instead;
  const all = p.parts.map((part) => part.id);
  const plan = {
    mix,
    delayFrames: Math.max(
      1,
      Math.round((((gridLengths[mix.delay.grid] ?? PPQ) * 60) / (p.settings.bpm * PPQ)) * player.rate),
    ),
    parts: song ? all : [p.part, ...all],
    own: p.part,
  };
  const { size, length, tone } = mix.room;
  const room = `${player.rate} ${size} ${length} ${tone}`;
  const sends = !mix.dry && Object.values(mix.strips).some((x) => x.room !== undefined);
  if (!sends || room === roomOf) {
    if (!sends) roomOf = '';
    player.setDesk(plan);
    return;
  }
  try {
    const data = await api.getRoom({
      path: { project: p.id },
      query: { rate: player.rate },
      parseAs: 'arrayBuffer',
    });
    if (mine !== asked) return;
    const { channels } = parseFloatWAV(data as unknown as ArrayBuffer);
    roomOf = room;
    player.setDesk({ ...plan, room: [channels[0] as Float32Array, channels[1] as Float32Array] });
  } catch (e) {
    say(explain(e));
  }
}

/** Hears the mix without some of its processing, or as it is. */
export function hearWithout(w: Without | null) {
  without = w;
  void applyMix();
}

useBench.subscribe((s, old) => {
  const [p, was] = [s.project, old.project];
  if (
    p?.mix !== was?.mix ||
    p?.id !== was?.id ||
    p?.part !== was?.part ||
    p?.parts.length !== was?.parts.length ||
    p?.settings.bpm !== was?.settings.bpm ||
    s.song !== old.song ||
    s.instead !== old.instead ||
    s.face !== old.face
  ) {
    if (p?.mix !== was?.mix) tried = null;
    if (p?.id !== was?.id) without = null;
    void applyMix();
  }
});
