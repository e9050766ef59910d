// The mix as it is heard: what the project says of it goes to the audio thread, with the room's response when it is another.
import { api, type MixMix } from '../api/client';
import { framesOfDelay } from '../model/desk';
import { parseFloatWAV, player } from '../player/player';
import { explain, say, useBench } from './bench';

/** what is heard in the place of the mix, to compare; it ends when the mix is changed */
let without: MixMix | null = null;
let roomOf = '';
let asked = 0;

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
  const mix: MixMix | undefined = tried ?? without ?? p?.mix;
  if (!p || !mix || s.face === 'break' || (plain(mix) && s.face !== 'mix')) {
    player.setDesk(null);
    roomOf = '';
    return;
  }
  const song = s.song && !s.instead;
  const all = p.parts.map((part) => part.id);
  const plan = {
    mix,
    delayFrames: framesOfDelay(mix.delay, p.settings.bpm, player.rate),
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

/** Hears another mix to compare, or the project's. */
export function hearWithout(m: MixMix | null) {
  without = m;
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
    if (p?.mix !== was?.mix) tried = without = null;
    void applyMix();
  }
});
