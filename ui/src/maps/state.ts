// Editing the drum map: what is done to it, and what waits to be kept.
import { create } from 'zustand';
import {
  api,
  type CarryPlan,
  type CarryRequest,
  type DrumMap,
  type Edit,
  type KeptMap,
  type Lane,
  type Project,
} from '../api/client';
import { Latest } from '../model/latest';
import {
  addLane as makeLane,
  carryPatterns,
  edit,
  editMap,
  explain,
  say,
  strike,
  useBench,
} from '../app/state';

/** Lanes that wait for a note to be struck, one after another. */
export interface Listening {
  notes: number[];
  at: number;
  since: number;
  /** every note struck makes a lane */
  make: boolean;
}

/** Patterns to be carried from one map to another. */
export interface Carrying {
  request: CarryRequest;
  plan: CarryPlan | null;
  /** the other map is put in place in the same step */
  loads: boolean;
}

interface Maps {
  editing: boolean;
  /** notes of the lanes chosen together */
  chosen: number[];
  listening: Listening | null;
  /** all 128 notes are shown, lane or no lane */
  all: boolean;
  moveHits: boolean;
  moveSounds: boolean;
  kept: KeptMap[];
  search: string;
  carrying: Carrying | null;
  /** name the map had when it was saved or loaded, and what it was */
  saved: DrumMap | null;
}

export const useMaps = create<Maps>()(() => ({
  editing: false,
  chosen: [],
  listening: null,
  all: false,
  moveHits: true,
  moveSounds: true,
  kept: [],
  search: '',
  carrying: null,
  saved: null,
}));

const get = useMaps.getState;
const set = useMaps.setState;

export function startEditing() {
  set({ editing: true, chosen: [], all: false });
  void loadMaps();
}

export const stopEditing = () => set({ editing: false, listening: null, all: false });

export async function loadMaps() {
  try {
    set({ kept: (await api.listMaps()).maps });
  } catch (e) {
    say(explain(e));
  }
}

export const mapNow = (): DrumMap => useBench.getState().project?.map ?? { name: '', lanes: [] };

const write = (map: DrumMap, label: string) => editMap({ map, label });

/** Changes lanes by their notes. */
export function changeLanes(notes: number[], part: Partial<Lane>, label: string) {
  const map = mapNow();
  return write(
    { ...map, lanes: map.lanes.map((l) => (notes.includes(l.note) ? { ...l, ...part } : l)) },
    label,
  );
}

/** Moves a lane to another place in the order. */
export function moveLane(note: number, by: number) {
  const map = mapNow();
  const lanes = [...map.lanes];
  const at = lanes.findIndex((l) => l.note === note);
  const to = Math.max(0, Math.min(lanes.length - 1, at + by));
  const [lane] = lanes.splice(at, 1);
  if (!lane || at === to) return Promise.resolve();
  lanes.splice(to, 0, lane);
  return write({ ...map, lanes }, `Move ${lane.name}`);
}

/** Gives a lane another note; a lane that has it takes the old one. Hits and sounds go along if that is wanted. */
export function giveNote(from: number, to: number): Promise<void> {
  if (from === to) return Promise.resolve();
  const map = mapNow();
  const lane = map.lanes.find((l) => l.note === from);
  if (!lane) return Promise.resolve();
  const other = map.lanes.find((l) => l.note === to);
  const moves: Record<string, number> = { [String(from)]: to };
  if (other || padOn(to)) moves[String(to)] = from;
  const lanes = map.lanes.map((l) =>
    l.note === from ? { ...l, note: to } : l.note === to ? { ...l, note: from } : l,
  );
  const { moveHits, moveSounds } = get();
  if (other)
    say({
      title: `${lane.name} and ${other.name} have swapped notes`,
      detail: `Two lanes cannot share note ${to}; ${other.name} is on ${from} now.`,
      error: false,
    });
  useBench.setState({ lane: to });
  return editMap({
    map: { ...map, lanes },
    moves,
    moveHits,
    moveSounds,
    label: `${lane.name} on note ${to}`,
  });
}

const padOn = (note: number) =>
  useBench.getState().project?.kit.pads.some((p) => p.note === note && p.layers.length > 0) ?? false;

export function addLane(note: number, name?: string) {
  if (mapNow().lanes.some((l) => l.note === note)) return Promise.resolve();
  useBench.setState({ lane: note });
  return makeLane(note, name);
}

export function removeLanes(notes: number[]) {
  const map = mapNow();
  set({ chosen: [] });
  return write({ ...map, lanes: map.lanes.filter((l) => !notes.includes(l.note)) }, 'Take lanes off the map');
}

/** Sends the hits of a note that has no lane to a lane. */
export function sendHits(note: number, to: number) {
  return editMap({
    map: mapNow(),
    moves: { [String(note)]: to },
    moveHits: true,
    label: `Send hits of note ${note} to ${to}`,
  });
}

/** Shows or hides lanes by what they are used for. */
export function hideUnused(project: Project, where: 'pattern' | 'project' | 'sound') {
  const used = new Set<number>();
  const { patternId } = useBench.getState();
  if (where === 'sound') for (const p of project.kit.pads) if (p.layers.length > 0) used.add(p.note);
  if (where !== 'sound')
    for (const p of project.patterns)
      if (where === 'project' || p.id === patternId) for (const h of p.value.hits) used.add(h.note);
  const map = project.map;
  if (!map.lanes.some((l) => used.has(l.note))) return Promise.resolve();
  return write(
    { ...map, lanes: map.lanes.map((l) => ({ ...l, shown: l.shown && used.has(l.note) })) },
    where === 'sound' ? 'Hide lanes without a sound' : `Hide lanes unused by the ${where}`,
  );
}

export const showAll = () => {
  const map = mapNow();
  return write({ ...map, lanes: map.lanes.map((l) => ({ ...l, shown: true })) }, 'Show every lane');
};

/** Listens for notes, one for each of these lanes in turn. */
export const listenFor = (notes: number[]) =>
  set({ listening: { notes, at: 0, since: Date.now(), make: false } });

/** Makes lanes of the notes struck, one after another. */
export const listenForLanes = () => set({ listening: { notes: [], at: 0, since: Date.now(), make: true } });

/** A key or pad was struck: it goes to the lane that waits for one. */
export function take(note: number) {
  const l = get().listening;
  if (!l) return;
  if (l.make) {
    void addLane(note).then(() => strike(note, 100));
    set({ listening: { ...l, at: l.at + 1 } });
    return;
  }
  const lane = l.notes[l.at];
  const next = l.at + 1;
  // a lane that swapped notes with this one waits under its new note
  const notes = l.notes.map((n) => (n === lane ? note : n === note ? (lane ?? n) : n));
  set({ listening: next < notes.length ? { ...l, notes, at: next, since: Date.now() } : null });
  if (lane !== undefined) void giveNote(lane, note).then(() => strike(note, 100));
}

export function stepListening(by: number) {
  const l = get().listening;
  if (!l) return;
  const at = l.at + by;
  set({ listening: at >= 0 && at < l.notes.length ? { ...l, at, since: Date.now() } : null });
}

export async function saveMap(name: string, description: string) {
  try {
    const map = { ...mapNow(), name };
    await api.saveMap({ body: { map, description } });
    if (map.name !== mapNow().name) await write(map, `Name the map ${name}`);
    set({ saved: map });
    await loadMaps();
    say({ title: `Kept the map ${name}`, detail: 'It can be loaded in any project.', error: false });
  } catch (e) {
    say(explain(e));
  }
}

/** Puts another map in place. When patterns would then miss their lanes it waits, and is offered along with carrying them. */
export async function loadMap(map: DrumMap) {
  if (offerCarry(mapNow(), map, true)) return;
  await write(map, `Load the map ${map.name}`);
  set({ saved: map });
}

/** Offers to carry the patterns when another map came, or is to be loaded, that does not put them where they belong. False:
 * there is nothing to offer. */
export function offerCarry(from: DrumMap, to: DrumMap, loads = false): boolean {
  const { project } = useBench.getState();
  if (!project || from.lanes.length === 0) return false;
  const used = new Set(project.patterns.flatMap((p) => p.value.hits.map((h) => h.note)));
  const moved = [...used].some((n) => {
    const a = from.lanes.find((l) => l.note === n);
    const b = to.lanes.find((l) => l.note === n);
    return a && (!b || a.role !== b.role);
  });
  if (!moved) return false;
  const request = { from, to, patterns: project.patterns.map((p) => p.id), remember: true };
  set({ carrying: { request, plan: null, loads } });
  void planCarry({});
  return true;
}

/** A lane of the map that is left, made in the one that is to be loaded. */
export function bringLane(lane: Lane) {
  const c = get().carrying;
  if (!c) return;
  const { to } = c.request;
  const taken = new Set(to.lanes.map((l) => l.code));
  const digits = Array.from({ length: 10 }, (_, n) => `${lane.code.slice(0, 1)}${n}`);
  const code = [lane.code, ...digits].find((x) => !taken.has(x)) ?? lane.code;
  void planCarry({ to: { ...to, lanes: [...to.lanes, { ...lane, code }] } });
}

const plans = new Latest();

export async function planCarry(change: Partial<CarryRequest>) {
  const { project } = useBench.getState();
  if (!project) return;
  const request: CarryRequest = { from: project.map, to: project.map, ...get().carrying?.request, ...change };
  const loads = get().carrying?.loads ?? false;
  set({ carrying: { request, plan: get().carrying?.plan ?? null, loads } });
  try {
    const plan = await plans.of(api.planCarry({ path: { project: project.id }, body: { carry: request } }));
    if (plan && get().carrying) set({ carrying: { request, plan, loads } });
  } catch (e) {
    set({ carrying: null });
    say(explain(e));
  }
}

export function endCarry(doIt: boolean) {
  const c = get().carrying;
  set({ carrying: null });
  if (!doIt || !c) return;
  const { request, loads } = c;
  if (!loads) {
    void carryPatterns(request);
    return;
  }
  const map = request.to;
  const count = request.patterns?.length ?? 0;
  const load: Edit = { map: { map, label: `Load the map ${map.name}` } };
  if (count === 0) void edit([load]);
  else
    void edit(
      [load, { carry: request }],
      `Carry ${count} ${count === 1 ? 'pattern' : 'patterns'} to ${map.name} and load it`,
    );
  set({ saved: map });
}
