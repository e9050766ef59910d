// What of the song is chosen and done: blocks, the cursor, what goes round, and the edits.
import { create } from 'zustand';
import type { SongBlock, BlockPut, Edit, Project, StoredBlock, StoredSection } from '../api/client';
import { choosePart, edit, play, refreshPass, say, stop, useBench } from '../app/state';
import { player } from '../player/player';

interface SongState {
  /** the bar the cursor is on, from 0 */
  cursor: number;
  /** the row it is on: a part's ID ('' is the first), or the recordings' */
  row: string;
  /** IDs of the blocks chosen */
  chosen: readonly string[];
  /** bars chosen on the ruler, or by Shift and arrows */
  range: { from: number; to: number } | null;
  /** the range goes round */
  looped: boolean;
  /** first bar shown and px a bar; null: all of it */
  view: { from: number; perBar: number } | null;
  /** what plays is laid at the cursor each time through */
  dropping: boolean;
  /** ID of the section that is given a name */
  naming: string;
  /** parts whose lanes are shown, or are not; of others those of the part one is in */
  open: Readonly<Record<string, boolean>>;
}

export const recordingsRow = 'recordings';

/** What a song begins with. */
const fresh: SongState = {
  cursor: 0,
  row: '',
  chosen: [],
  range: null,
  looped: false,
  view: null,
  dropping: false,
  naming: '',
  open: {},
};

export const useSong = create<SongState>()(() => fresh);

const get = useSong.getState;
const set = useSong.setState;

export const rowOf = (b: SongBlock) => (b.recording ? recordingsRow : (b.part ?? ''));
const endOf = (b: SongBlock) => b.bar + b.bars;

/** The block under a place of a row. */
export const blockAt = (p: Project, row: string, bar: number): StoredBlock | undefined =>
  p.blocks.find(({ value: b }) => rowOf(b) === row && b.bar <= bar && bar < endOf(b));

export const chosenBlocks = (p: Project): StoredBlock[] =>
  p.blocks.filter((b) => get().chosen.includes(b.id));

export const sectionAt = (p: Project, bar: number): StoredSection | undefined =>
  p.song.sections.find(({ value: s }) => s.bar <= bar && bar < s.bar + s.bars);

/** The project with the patterns of all its parts. */
const project = () => {
  const { project: p, allPatterns } = useBench.getState();
  return p && { ...p, patterns: allPatterns };
};

/** The rows from above: the parts, then the recordings. */
export const rowsOf = (p: Project) => [...p.parts.map((part) => part.id), recordingsRow];

/** Shows the lanes of parts, or folds them away. */
export const openParts = (parts: Readonly<Record<string, boolean>>) =>
  set((s) => ({ open: { ...s.open, ...parts } }));

/** Goes to a row; the lanes shown are its part's. */
export async function goToRow(row: string) {
  set({ row });
  if (row !== recordingsRow) await choosePart(row);
}

/** Makes an edit of the song. */
export const editSong = (song: NonNullable<Edit['song']>) => edit([{ song }]);

/** Lays blocks; what is chosen afterwards are those without an ID. */
export function layBlocks(put: BlockPut[], label = '') {
  return edit([{ song: { put, ...(label ? { label } : {}) } }], '', (results) => {
    const id = results[0]?.id;
    if (id) set({ chosen: [id] });
  });
}

/** Lays a pattern at the cursor, once through, and goes behind it. */
export function layPattern(id: string, at = get().cursor) {
  const p = project();
  const pattern = p?.patterns.find((x) => x.id === id)?.value;
  if (!p || !pattern) return;
  const part = pattern.part ?? '';
  void layBlocks([{ block: { ...(part ? { part } : {}), pattern: id, bar: at, bars: pattern.bars } }]);
  set({ cursor: at + pattern.bars, row: part });
}

/** Lays a recording at the cursor, as long as it was heard to be. */
export function layRecording(id: string, at = get().cursor) {
  const r = project()?.recordings.find((x) => x.id === id);
  if (!r) return;
  void layBlocks([{ block: { recording: id, bar: at, bars: Math.max(1, r.heard.bars) } }]);
  set({ row: recordingsRow });
}

/** Changes each chosen block; null takes it out. */
export function changeChosen(to: (b: SongBlock) => SongBlock | null, label = '') {
  const p = project();
  if (!p) return;
  const put: BlockPut[] = [];
  const remove: string[] = [];
  for (const { id, value } of chosenBlocks(p)) {
    const next = to(value);
    if (next === null) remove.push(id);
    else if (next.bar >= 0 && next.bars >= 1) put.push({ id, block: next });
    else return;
  }
  if (put.length + remove.length === 0) return;
  void editSong({
    ...(put.length > 0 ? { put } : {}),
    ...(remove.length > 0 ? { remove } : {}),
    ...(label ? { label } : {}),
  });
  if (remove.length > 0) set({ chosen: [] });
}

/** The bars once through a block's pattern takes. */
export function roundOf(p: Project, b: SongBlock): number {
  return p.patterns.find((x) => x.id === b.pattern)?.value.bars ?? 1;
}

/** One time through more, or less. */
export function repeatChosen(by: 1 | -1) {
  const { chosen } = get();
  if (chosen.length > 0) void edit(chosen.map((id) => ({ block: { id, repeat: by } })));
}

/** Splits the chosen block at the cursor. */
export function splitChosen() {
  const p = project();
  const [one] = p ? chosenBlocks(p) : [];
  const { cursor } = get();
  if (!one || cursor <= one.value.bar || cursor >= endOf(one.value)) {
    say({
      title: 'Nothing to split here',
      detail: 'Choose a block, and put the cursor inside it.',
      error: false,
    });
    return;
  }
  void edit([{ block: { id: one.id, splitAt: cursor } }]);
}

/** Copies the chosen blocks, or the section at the cursor, behind the last of them: linked, or with patterns of their own. */
export function copyChosen(own: boolean) {
  const p = project();
  const all = p ? chosenBlocks(p).map((b) => b.value) : [];
  if (!p) return;
  if (all.length === 0) {
    const s = sectionAt(p, get().cursor);
    if (!s) return;
    const toBar = s.value.bar + s.value.bars;
    void edit([{ section: { id: s.id, do: 'copy', toBar } }]);
    set({ cursor: toBar });
    return;
  }
  const first = Math.min(...all.map((b) => b.bar));
  const last = Math.max(...all.map(endOf));
  const put = all.map((b) => ({
    block: { ...b, bar: b.bar + last - first },
    ...(own && b.pattern ? { own } : {}),
  }));
  void edit(
    [{ song: { put, label: all.length === 1 ? 'Copy a block' : `Copy ${all.length} blocks` } }],
    '',
    (results) => {
      const id = results[0]?.id;
      if (!id) return;
      set({ chosen: [id], cursor: last });
    },
  );
}

/** Gives the bars chosen, or those of the chosen blocks, a name. */
export function nameSection(name: string) {
  const p = project();
  const bars = barsChosen();
  if (!p || !bars) return;
  const used = p.song.sections.length + 1;
  const section = { name: name || `section ${used}`, bar: bars.from, bars: bars.to - bars.from };
  void edit([{ song: { sections: [{ section }] } }], '', (results) =>
    set({ naming: name ? '' : (results[0]?.id ?? '') }),
  );
}

/** The bars that are chosen: on the ruler, or those of the chosen blocks, or of the section at the cursor. */
export function barsChosen(): { from: number; to: number } | null {
  const p = project();
  const { range, cursor } = get();
  if (range) return range;
  if (!p) return null;
  const all = chosenBlocks(p).map((b) => b.value);
  if (all.length > 0) return { from: Math.min(...all.map((b) => b.bar)), to: Math.max(...all.map(endOf)) };
  const s = sectionAt(p, cursor)?.value;
  return s ? { from: s.bar, to: s.bar + s.bars } : null;
}

/** Lets the chosen bars go round, or all of the song be played. */
export function toggleLooped() {
  const bars = barsChosen();
  const { looped } = get();
  set(looped || !bars ? { looped: false } : { looped: true, range: bars });
}

/** Plays the song, or the pattern, in the place of the other; what plays goes on. */
export async function playSong(song: boolean) {
  const s = useBench.getState();
  if (s.song === song) return;
  const { playing } = s;
  if (playing) stop();
  useBench.setState({ song, held: null });
  await refreshPass(false);
  if (playing) await play();
}

/** Opens the pattern of a block where it is edited, while the song plays on. */
export async function openBlock(b: StoredBlock | undefined, face: 'steps' | 'roll' = 'steps') {
  if (!b?.value.pattern) return;
  await choosePart(b.value.part ?? '');
  useBench.setState({ patternId: b.value.pattern, face, bar: 0, cell: 0, song: true });
  await refreshPass();
}

// another project has another song
useBench.subscribe((s, old) => {
  if (!old.project || s.project?.id === old.project.id) return;
  set(fresh);
  if (s.song) useBench.setState({ song: false });
});

// play and drop: each time through what plays it is laid, and the cursor goes on
let rounds = 0;
player.listenToAll((r) => {
  const { dropping } = get();
  const s = useBench.getState();
  if (!r.playing || !dropping || s.song) {
    rounds = 0;
    return;
  }
  if (r.passes + 1 > rounds) {
    rounds = r.passes + 1;
    layPattern(s.patternId);
  }
});
