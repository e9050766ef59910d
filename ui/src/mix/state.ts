// What the Mix shows and does: the output looked at, edits of the mix, meters and comparisons.
import { create } from 'zustand';
import {
  api,
  type Measured,
  type MixEdit,
  type MixMix,
  type MixOutput,
  type MixStrip,
  type Project,
} from '../api/client';
import { hearMix, hearWithout } from '../app/desk';
import { edit, explain, say, useBench } from '../app/state';
import { newMixOutput, newOutput } from '../model/constants.gen';
import { lately } from '../model/loudness';
import { player } from '../player/player';

/** Which bus is looked at: an output by its number (0 is Main), the room or the delay. */
export type Looked = number | 'room' | 'delay';

interface MixState {
  looked: Looked;
  /** what was heard to be too loud: when, in words, and by how much */
  clip: { place: string; db: number } | null;
  /** how loud it is as measured, and the revision and what of it was */
  measured: { revision: number; of: string; loud: Measured } | null;
  measuring: boolean;
  /** heard without its processing, at the same loudness */
  without: { output: number | 'all'; matchDB: number } | null;
  exporting: boolean;
}

export const useMix = create<MixState>()(() => ({
  looked: 0,
  clip: null,
  measured: null,
  measuring: false,
  without: null,
  exporting: false,
}));

const get = useMix.getState;
const set = useMix.setState;

/** Makes an edit of the mix. */
export const editMix = (change: Omit<MixEdit, 'label'>, label: string) =>
  edit([{ mix: { ...change, label } }]);

export const keyOf = (p: Project, note: number) => `${p.part}:${note}`;
export const stripOf = (p: Project, note: number): MixStrip => p.mix.strips[keyOf(p, note)] ?? {};
export const outputName = (p: Project, at: number): string => p.mix.names[at] ?? '';
export const outputsOf = (m: MixMix): MixOutput[] => [m.main, ...m.outputs];

/** Changes the strips of lanes of the part one is in. */
export function editStrips(p: Project, notes: number[], change: Partial<MixStrip>, label: string) {
  const strips = Object.fromEntries(notes.map((n) => [keyOf(p, n), { ...stripOf(p, n), ...change }]));
  return editMix({ strips }, label);
}

/** Lets a strip be heard as it would be while it is dragged; null: as it is. */
export function tryStrip(p: Project, note: number, change: Partial<MixStrip> | null) {
  if (!change) hearMix(null);
  else
    hearMix({
      ...p.mix,
      strips: { ...p.mix.strips, [keyOf(p, note)]: { ...stripOf(p, note), ...change } },
    });
}

/** Changes an output: 0 is Main. */
export function editOutput(m: MixMix, at: number, change: Partial<MixOutput>, label: string) {
  const o = outputsOf(m)[at];
  if (!o) return Promise.resolve();
  const next = { ...o, ...change };
  return editMix(at === 0 ? { main: next } : { outputs: [next] }, label);
}

/** Lets an output be heard as it would be. */
export function tryOutput(m: MixMix, at: number, change: Partial<MixOutput> | null) {
  if (!change) hearMix(null);
  else if (at === 0) hearMix({ ...m, main: { ...m.main, ...change } });
  else hearMix({ ...m, outputs: m.outputs.map((o, i) => (i + 1 === at ? { ...o, ...change } : o)) });
}

/** What is measured: the song while it plays, or the pattern shown. */
const measuredOf = () => {
  const s = useBench.getState();
  return s.song ? '' : s.patternId;
};

async function measure(): Promise<Measured | null> {
  const p = useBench.getState().project;
  if (!p) return null;
  const of = measuredOf();
  try {
    return await api.measureMix({ path: { project: p.id }, query: of ? { pattern: of } : {} });
  } catch (e) {
    say(explain(e));
    return null;
  }
}

/** Measures how loud it is as it is now, unless that is known. What changes in the meantime is measured after it. */
export async function measureNow(): Promise<void> {
  const p = useBench.getState().project;
  const of = measuredOf();
  const { measured, measuring } = get();
  if (!p || measuring || (measured?.revision === p.revision && measured.of === of)) return;
  set({ measuring: true });
  const loud = await measure();
  set({ measuring: false, ...(loud ? { measured: { revision: p.revision, of, loud } } : {}) });
  if (loud && useBench.getState().face === 'mix') await measureNow();
}

/** Hears an output, or all, without its processing at the same loudness; again as it is. */
export async function compare(output: number | 'all') {
  const p = useBench.getState().project;
  if (get().without?.output === output) {
    set({ without: null });
    hearWithout(null);
    return;
  }
  if (!p) return;
  const of = measuredOf();
  try {
    const query = { output: String(output), ...(of ? { pattern: of } : {}) };
    const { mix, matchDB } = await api.compareMix({ path: { project: p.id }, query });
    if (useBench.getState().project?.mix !== p.mix) return;
    set({ without: { output, matchDB } });
    hearWithout(mix);
  } catch (e) {
    say(explain(e));
  }
}

// a mix that is changed is heard as it is
useBench.subscribe((s, old) => {
  if (s.project?.mix !== old.project?.mix && get().without) set({ without: null });
});

/** Raises or lowers everything that comes out, so that its highest peak keeps so much headroom. */
export async function levelTo(headroomDB: number) {
  const m = await measure();
  if (!m || m.whole.peak <= -100) {
    say({
      title: 'Nothing sounds',
      detail: 'Lay hits first: levels are set by what is heard.',
      error: false,
    });
    return;
  }
  const shift = Math.round((-headroomDB - m.whole.peak) * 100) / 100;
  if (shift !== 0) await editMix({ shift }, `Levels to ${headroomDB} dB of headroom`);
}

/** An output for a lane alone, called and coloured after it. */
export function newOutputFor(p: Project, note: number) {
  const lane = p.map.lanes.find((l) => l.note === note);
  const name = lane?.name ?? 'a lane';
  const output = { ...newMixOutput, ...(lane ? { color: lane.color } : {}) };
  const strips = { [keyOf(p, note)]: { ...stripOf(p, note), output: newOutput } };
  return editMix({ outputs: [output], strips }, `An output for ${name}`);
}

/** Loudness of what plays, as the meters have it: mean squares of tenths of a second, the newest last. */
const hops: number[] = [];
export const shortTerm = () => lately(hops, 30);
export const momentary = () => lately(hops, 4);

player.listenToAll((r) => {
  if (!r.meters) return;
  hops.push(...r.meters.hops);
  if (hops.length > 100) hops.splice(0, hops.length - 100);
  const top = Math.max(r.peakLeft, r.peakRight);
  if (top > 1 && r.playing) {
    const db = 20 * Math.log10(top);
    const { clip } = get();
    if (!clip || db > clip.db) set({ clip: { place: placeOf(r.atS), db } });
  }
});

/** Where a moment of what is played lies, in words. */
let placeOf = (atS: number) => `${atS.toFixed(1)} s`;
export const tellPlaces = (by: typeof placeOf) => (placeOf = by);
