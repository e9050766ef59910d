// What of the project is shown: which bars, which lanes, and where the person was.
import type { Project } from '../api/client';
import { barTicks, cellOf } from '../model/time';
import { type Bench, currentPattern, type Face, keep, say, stored, useBench } from './bench';
import { applyHeld } from './sounding';

const get = useBench.getState;
const set = useBench.setState;

/** Where a person was in a project: kept, so that opening it again goes there. */
interface Place {
  face: Face;
  pattern: string;
  bar: number;
  recording?: string;
}

const placeKey = (project: string) => `place.${project}`;

/** Which lanes a project was seen with. */
export function lanesOf(id: string): Pick<Bench, 'folded' | 'only'> {
  try {
    const was = JSON.parse(stored(`lanes.${id}`) ?? '{}') as { folded?: unknown; only?: unknown };
    const folded = Array.isArray(was.folded) ? was.folded.filter((f) => typeof f === 'string') : [];
    return { folded, only: was.only === true ? [] : null };
  } catch {
    return { folded: [], only: null };
  }
}

/** Goes where the person was in a project. */
export function goToPlace(project: Project) {
  let place: Partial<Place>;
  try {
    place = JSON.parse(stored(placeKey(project.id)) ?? '{}') as Partial<Place>;
  } catch {
    return;
  }
  if (project.recordings.some((r) => r.id === place.recording)) set({ recordingId: place.recording ?? '' });
  const pattern = project.patterns.find((p) => p.id === place.pattern);
  if (!pattern) return;
  const bar = Math.max(0, Math.min(pattern.value.bars - 1, Math.round(place.bar ?? 0)));
  const cell = Math.round((bar * barTicks(pattern.value)) / cellOf(pattern.value, get().lane));
  set({ patternId: pattern.id, bar, cell });
  if (place.face && ['steps', 'roll', 'break', 'sounds'].includes(place.face)) set({ face: place.face });
}

useBench.subscribe((s, old) => {
  const id = s.project?.id;
  if (!id || id !== old.project?.id) return;
  const same = (['face', 'patternId', 'bar', 'recordingId'] as const).every((k) => s[k] === old[k]);
  if (same) return;
  const place: Place = { face: s.face, pattern: s.patternId, bar: s.bar, recording: s.recordingId };
  keep(placeKey(id), JSON.stringify(place));
});

// The cursor is always on what is shown: it goes along to the bar shown and, in a lane with another grid, to the cell nearest to
// where it was in time.
useBench.subscribe((s, old) => {
  if (s.bar === old.bar && s.cell === old.cell && s.lane === old.lane && s.project === old.project) return;
  const p = currentPattern(s);
  if (!p) return;
  const size = cellOf(p, s.lane);
  const before = s.patternId === old.patternId ? currentPattern(old) : null;
  const was = before && s.cell === old.cell ? cellOf(before, old.lane) : size;
  const bar = barTicks(p);
  const tick = s.cell * was;
  const place = Math.floor(tick / bar) === s.bar ? tick : s.bar * bar + (((tick % bar) + bar) % bar);
  const first = Math.ceil((s.bar * bar) / size - 1e-9);
  const last = Math.max(first, Math.ceil(((s.bar + 1) * bar) / size - 1e-9) - 1);
  const cell = Math.min(last, Math.max(first, Math.round(place / size)));
  if (cell !== s.cell) set({ cell });
});

// another pattern has other bars
useBench.subscribe((s, old) => {
  if (s.held && (s.patternId !== old.patternId || s.face === 'break') && s.held === old.held) {
    set({ held: null });
    applyHeld();
  }
});

/** Folds a colour family's lanes away, or brings them back. */
export function toggleFold(family: string) {
  const { folded } = get();
  showLanesOf({ folded: folded.includes(family) ? folded.filter((f) => f !== family) : [...folded, family] });
}

const notesWithHits = (s: Bench) => [...new Set(currentPattern(s)?.hits.map((h) => h.note) ?? [])];

/** Shows only the lanes with hits, or all again. */
export function toggleOnly() {
  const s = get();
  const notes = notesWithHits(s);
  if (!s.only && notes.length === 0) {
    say({ title: 'No lane has hits yet', detail: 'All lanes stay in view.', error: false });
    return;
  }
  showLanesOf({ only: s.only ? null : notes });
}

function showLanesOf(lanes: Partial<Pick<Bench, 'folded' | 'only'>>) {
  const { project } = get();
  // the map is shown anew, though it is the same
  set({ ...lanes, project: project && { ...project, map: { ...project.map } } });
  const { folded, only } = get();
  if (project) keep(`lanes.${project.id}`, JSON.stringify({ folded, only: only !== null }));
}

// lanes that get hits come into view; another pattern has others
useBench.subscribe((s, old) => {
  if (!s.only || (s.project === old.project && s.patternId === old.patternId)) return;
  const notes = notesWithHits(s);
  const other = s.patternId !== old.patternId;
  if (!other && notes.every((n) => s.only?.includes(n))) return;
  showLanesOf({ only: other ? notes : [...s.only, ...notes] });
});

/** Shows so many bars side by side. */
export function showAcross(across: number) {
  keep('across', String(across));
  set({ across });
}

/** Plays the bars shown round and round; again: the whole pattern. */
export function toggleHeld(bar: number, bars: number) {
  const { held } = get();
  set({ held: held ? null : { bar, bars } });
  applyHeld();
}

/** Holds other bars, when some are held. */
export function moveHeld(bar: number, bars: number) {
  const { held } = get();
  if (!held || (held.bar === bar && held.bars === bars)) return;
  set({ held: { bar, bars } });
  applyHeld();
}

/** Shows another bar of the pattern; the cursor goes to the same step there. */
export function showBar(bar: number) {
  const s = get();
  const p = currentPattern(s);
  if (!p) return;
  const to = Math.min(p.bars - 1, Math.max(0, bar));
  const size = cellOf(p, s.lane);
  const within = (s.cell * size) % barTicks(p);
  set({ bar: to, cell: Math.round((to * barTicks(p) + within) / size) });
}
