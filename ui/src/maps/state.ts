// Editing the drum map: what is done to it, and what waits to be kept.
import { create } from 'zustand';
import {
  ofPart,
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
  edit,
  editMap,
  explain,
  findLane,
  say,
  sound,
  takeKit,
  takeStrikes,
  useBench,
} from '../app/state';

/** Lanes that wait for a note to be struck, one after another. */
export interface Listening {
  notes: number[];
  at: number;
  since: number;
  /** every note struck makes a lane */
  make: boolean;
  /** what came of the last key or pad */
  word: string;
}

/** Patterns to be carried from one map to another. */
export interface Carrying {
  request: CarryRequest;
  plan: CarryPlan | null;
  /** the other map is put in place in the same step */
  loads: boolean;
  /** ID of the kit that is taken with its map in the same step; '' none */
  kit: string;
}

interface Maps {
  editing: boolean;
  /** notes of the lanes chosen together */
  chosen: number[];
  listening: Listening | null;
  /** all 128 notes are shown, lane or no lane */
  all: boolean;
  /** the saved maps lie over the editor; only asked where both have no room beside each other */
  savedOpen: boolean;
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
  savedOpen: false,
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
  set({ editing: true, chosen: [], all: false, savedOpen: false });
  void loadMaps();
}

export function stopEditing() {
  stopListening();
  set({ editing: false, all: false, savedOpen: false });
}

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
export function giveNote(from: number, to: number, saying = true): Promise<void> {
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
  if (other && saying)
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

/** Makes a lane of a name, on the note its role has, and shows it. */
export const nameLane = (name: string) =>
  findLane(name, () => {
    const lane = mapNow().lanes[0];
    if (lane) useBench.setState({ lane: lane.note });
  });

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

/** Shows lanes again. */
export const showLanes = (notes: number[]) =>
  changeLanes(notes, { shown: true }, notes.length === 1 ? 'Show a lane' : `Show ${notes.length} lanes`);

export const showAll = () => {
  const map = mapNow();
  return write({ ...map, lanes: map.lanes.map((l) => ({ ...l, shown: true })) }, 'Show every lane');
};

let bankBefore = 0;

/** While the map listens, typing keys and pads send the notes of a bank, whatever lanes have them. */
function listen(notes: number[], make: boolean) {
  if (!get().listening) bankBefore = useBench.getState().bank;
  useBench.setState({ bank: bankBefore || 1 + Math.floor(36 / 16) });
  takeStrikes(take);
  set({ listening: { notes, at: 0, since: Date.now(), make, word: '' } });
}

/** Listens for notes, one for each of these lanes in turn. */
export const listenFor = (notes: number[]) => {
  if (notes.length > 0) listen(notes, false);
};

/** Makes lanes of the notes struck, one after another. */
export const listenForLanes = () => listen([], true);

export function stopListening() {
  if (!get().listening) return;
  takeStrikes(null);
  useBench.setState({ bank: bankBefore });
  set({ listening: null });
}

const word = (words: string) => {
  const l = get().listening;
  if (l) set({ listening: { ...l, word: words, since: Date.now() } });
};

/** A typing key that sends no note was pressed. */
export const sendsNothing = (key: string) =>
  word(`${key} sends no note; Z to K do, as the pads below say, and [ ] move them by sixteen notes.`);

/** A key or pad was struck: its note goes to the lane that waits for one. The lane is heard; what is heard is no strike. */
function take(note: number, velocity: number) {
  const l = get().listening;
  if (!l) return;
  const { lanes } = mapNow();
  const there = lanes.find((x) => x.note === note);
  if (l.make) {
    sound(note, velocity);
    useBench.setState({ lane: note });
    if (there) return word(`Note ${note} has a lane, ${there.name}.`);
    set({ listening: { ...l, at: l.at + 1, word: `Note ${note} is a lane now.`, since: Date.now() } });
    void addLane(note);
    return;
  }
  const from = l.notes[l.at];
  const lane = lanes.find((x) => x.note === from);
  if (from === undefined || !lane) return stepListening(1);
  sound(from, velocity);
  // a lane that swapped notes with this one waits under its new note
  const notes = l.notes.map((n) => (n === from ? note : n === note ? from : n));
  const words = there && there !== lane ? ` ${there.name} is on ${from} now.` : '';
  void giveNote(from, note, false);
  if (l.at + 1 < notes.length)
    set({
      listening: {
        ...l,
        notes,
        at: l.at + 1,
        word: `${lane.name} has note ${note}.${words}`,
        since: Date.now(),
      },
    });
  else {
    stopListening();
    say({ title: `${lane.name} has note ${note}`, detail: words.trim(), error: false });
  }
}

/** Goes on to the next lane, or back to the one before; the last one's end is the end of listening. */
export function stepListening(by: number) {
  const l = get().listening;
  if (!l || l.make) return;
  const at = l.at + by;
  if (at >= l.notes.length) stopListening();
  else if (at >= 0) set({ listening: { ...l, at, word: '', since: Date.now() } });
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

/** Takes a kit with its map. When patterns would then miss their lanes it waits, and is offered along with carrying them. */
export async function bringKit(id: string) {
  const { project } = useBench.getState();
  if (!project) return;
  let to = project.map;
  try {
    const tried = await api.tryEdits({
      path: { project: project.id },
      body: { ...ofPart(project), edits: [{ takeKit: { kit: id } }] },
    });
    to = tried.patch.map ?? to;
  } catch (e) {
    say(explain(e));
    return;
  }
  if (!offerCarry(project.map, to, false, id)) await takeKit(id);
}

/** Offers to carry the patterns when another map is to be loaded, or comes with a kit, that does not put them where they
 * belong. False: there is nothing to offer. */
function offerCarry(from: DrumMap, to: DrumMap, loads: boolean, kit = ''): boolean {
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
  set({ carrying: { request, plan: null, loads, kit } });
  void planCarry({});
  return true;
}

/** A lane of the map that is left, made in the other one when they are carried. */
export function bringLane(lane: Lane) {
  const c = get().carrying;
  if (!c) return;
  const { to } = c.request;
  const taken = new Set(to.lanes.map((l) => l.code));
  const digits = Array.from({ length: 10 }, (_, n) => `${lane.code.slice(0, 1)}${n}`);
  const code = [lane.code, ...digits].find((x) => !taken.has(x)) ?? lane.code;
  set({ carrying: { ...c, loads: true } });
  void planCarry({ to: { ...to, lanes: [...to.lanes, { ...lane, code }] } });
}

const plans = new Latest();

export async function planCarry(change: Partial<CarryRequest>) {
  const { project } = useBench.getState();
  if (!project) return;
  const request: CarryRequest = { from: project.map, to: project.map, ...get().carrying?.request, ...change };
  const { loads = false, kit = '', plan: before = null } = get().carrying ?? {};
  set({ carrying: { request, plan: before, loads, kit } });
  try {
    const plan = await plans.of(api.planCarry({ path: { project: project.id }, body: { carry: request } }));
    const now = get().carrying;
    if (plan && now) set({ carrying: { ...now, request, plan } });
  } catch (e) {
    set({ carrying: null });
    say(explain(e));
  }
}

/** Carries the patterns chosen, with the map or kit that waits; without them only that, or nothing at all. */
export function endCarry(how: 'carry' | 'alone' | 'leave') {
  const c = get().carrying;
  set({ carrying: null });
  if (how === 'leave' || !c) return;
  const { request, loads, kit } = c;
  const map = request.to;
  const count = how === 'alone' ? 0 : (request.patterns?.length ?? 0);
  const edits: Edit[] = [];
  if (kit) edits.push({ takeKit: { kit } });
  if (loads) edits.push({ map: { map, label: `Load the map ${map.name}` } });
  if (loads) set({ saved: map });
  if (count > 0) edits.push({ carry: request });
  if (edits.length > 0)
    void edit(
      edits,
      edits.length > 1 && count > 0
        ? `Carry ${count} ${count === 1 ? 'pattern' : 'patterns'} to ${map.name} and ${kit ? 'take its kit' : 'load it'}`
        : '',
    );
}
