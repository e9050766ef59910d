// What the window knows, and every way it changes. Edits go to the server one after another, each with the revision
// the last one led to; what a click does shows at once and is confirmed or put right by the reply.
import { create } from 'zustand';
import {
  ApiError,
  api,
  type DrumMap,
  type Edit,
  type Hit,
  type KitChange,
  type CarryRequest,
  type Lane,
  type LayoutOptions,
  type MapEdit,
  type Pad,
  type Pattern,
  type Project,
  type SamplePart,
  type Settings,
} from '../api/client';
import { PPQ, setMiddleC, swingShift, ticksToMS, ticksAt } from '../lanes/time';
import { midiOut } from '../player/midi';
import { player } from '../player/player';

export type Face = 'steps' | 'roll' | 'break' | 'sounds';

export interface LiveStrike {
  id: number;
  note: number;
  velocity: number;
  layer: number;
  /** how far off the grid it fell, ms; null when nothing played */
  leanMS: number | null;
}

export interface Notice {
  title: string;
  detail: string;
  error: boolean;
}

interface Bench {
  project: Project | null;
  face: Face;
  patternId: string;
  recordingId: string;
  /** note of the chosen lane */
  lane: number;
  /** cell of the grid's keyboard cursor, from the pattern's start */
  cell: number;
  /** bar shown, from 0 */
  bar: number;
  follow: boolean;
  playing: boolean;
  savedAt: string;
  /** edits under way */
  pending: number;
  dark: boolean;
  padsOpen: boolean;
  /** bank of sixteen pads shown, 1 to 8; 0 is twelve pads by role */
  bank: number;
  strikeVelocity: number;
  strikes: LiveStrike[];
  /** share of the kit in what Break sounds: 0 recording only, 1 kit only */
  blend: number;
  notice: Notice | null;
  /** colour families folded away, so that the others come near */
  folded: string[];
  /** octave in which note names count middle C, note 60 */
  middleC: number;
}

const stored = (key: string) => localStorage.getItem(`hexachord.${key}`);

export const useBench = create<Bench>()(() => ({
  project: null,
  face: 'steps',
  patternId: '',
  recordingId: '',
  lane: 36,
  cell: 0,
  bar: 0,
  follow: true,
  playing: false,
  savedAt: '',
  pending: 0,
  dark: stored('theme') === 'dark',
  padsOpen: stored('pads') !== 'shut',
  bank: 0,
  strikeVelocity: 100,
  strikes: [],
  blend: 0.35,
  notice: null,
  folded: [],
  middleC: Number(stored('middleC') ?? 4),
}));
setMiddleC(useBench.getState().middleC);

const get = useBench.getState;
const set = useBench.setState;

export function say(notice: Notice) {
  set({ notice });
}

/** Words for an error, for the person. */
export function explain(e: unknown): Notice {
  if (e instanceof ApiError) return { title: e.title, detail: e.detail, error: true };
  return { title: 'Something went wrong in this window', detail: String(e), error: true };
}

export function currentPattern(s: Bench): Pattern | null {
  return s.project?.patterns.find((p) => p.id === s.patternId)?.value ?? null;
}

export function currentRecording(s: Bench) {
  return s.project?.recordings.find((r) => r.id === s.recordingId) ?? s.project?.recordings[0] ?? null;
}

export function shownLanes(map: DrumMap): Lane[] {
  const { folded } = get();
  return map.lanes.filter((l) => l.shown && !folded.includes(l.color));
}

/** What edits not answered yet will do, in their order: later edits, however quick, build on it. */
const ahead: ((p: Project) => Project)[] = [];

function settle(reply: Project) {
  kitKept = reply.id + JSON.stringify(reply.kit);
  const project = ahead.reduce((p, foresee) => foresee(p), reply);
  const s = get();
  const patternId = project.patterns.some((p) => p.id === s.patternId)
    ? s.patternId
    : (project.patterns[0]?.id ?? '');
  const recordingId = project.recordings.some((r) => r.id === s.recordingId)
    ? s.recordingId
    : (project.recordings[0]?.id ?? '');
  const lanes = shownLanes(project.map);
  const lane = lanes.some((l) => l.note === s.lane) ? s.lane : (lanes[lanes.length - 1]?.note ?? 36);
  const bars = project.patterns.find((p) => p.id === patternId)?.value.bars ?? 1;
  set({
    project,
    patternId,
    recordingId,
    lane,
    bar: Math.min(s.bar, bars - 1),
    savedAt: project.undo ? clock() : s.savedAt,
  });
}

const clock = () => new Date().toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });

/** What the player is to play now: the pattern, or in Break the recording's loop. */
async function refreshPass(keepPlace = true) {
  const s = get();
  if (!s.project) return;
  const recording = currentRecording(s);
  if (s.face === 'break' && recording) {
    player.setPass(await api.recordingPass(s.project.id, recording.id, player.rate), keepPlace);
  } else if (s.patternId) {
    player.setPass(await api.pass(s.project.id, s.patternId, player.rate), keepPlace);
  }
  applySilence();
  applyBlend();
}

function applySilence() {
  const s = get();
  if (!s.project) return;
  const { muted, solo } = s.project.settings;
  const all = s.project.map.lanes.map((l) => l.note);
  player.setSilent(solo.length > 0 ? all.filter((n) => !solo.includes(n)) : muted);
}

function applyBlend() {
  const { face, blend } = get();
  const output = get().project?.settings.output;
  midiOut.set(output, () => get().project?.map.lanes ?? []);
  if (face !== 'break') player.setBlend(output?.to === 'midi' ? 0 : 1, 0);
  else player.setBlend(Math.sin((blend * Math.PI) / 2), Math.cos((blend * Math.PI) / 2));
}

// the kit as the server has it, and the one the player has
let kitKept = '';
let kitInPlayer = '';

async function refreshKit() {
  const p = get().project;
  if (!p || kitKept === kitInPlayer) return;
  kitInPlayer = kitKept;
  await player.setTable(await api.table(p.id, player.rate));
}

let watching: EventSource | null = null;

/** Opens a project: shows it, loads its kit, and watches for other windows' edits. */
export async function openProject(project: Project) {
  await queue; // edits of the one before
  if (get().playing) stop();
  set({ bar: 0, cell: 0 });
  settle(project);
  localStorage.setItem('hexachord.project', project.id);
  watching?.close();
  watching = api.watch(project.id);
  watching.addEventListener('revision', (e) => {
    const s = get();
    if (s.pending === 0 && s.project && Number(e.data) > s.project.revision) void reload();
  });
  await refreshKit();
  await refreshPass(false);
}

/** Opens the project this window had last, or the one changed last, or a new one. */
export async function begin() {
  const { projects } = await api.projects();
  const wanted = projects.find((p) => p.id === stored('project')) ?? projects[0];
  await openProject(wanted ? await api.project(wanted.id) : await api.createProject('Untitled', false));
}

export async function reload() {
  const id = get().project?.id;
  if (!id) return;
  settle(await api.project(id));
  await refreshKit();
  await refreshPass();
}

let queue: Promise<void> = Promise.resolve();

/** Runs an edit after those before it. A stale revision reloads the project instead of overwriting it. */
function enqueue(edit: (project: Project) => Promise<void>): Promise<void> {
  set((s) => ({ pending: s.pending + 1 }));
  queue = queue.then(async () => {
    const project = get().project;
    try {
      if (project) await edit(project);
    } catch (e) {
      if (e instanceof ApiError && e.status === 409 && e.title.startsWith('The project')) {
        say({
          title: 'This project was changed in another window',
          detail:
            'It is shown as it is now. Your last edit was not applied; make it again if it is still wanted.',
          error: false,
        });
      } else {
        say(explain(e));
      }
      await reload().catch(() => undefined);
    } finally {
      set((s) => ({ pending: s.pending - 1 }));
    }
  });
  return queue;
}

/** Runs an edit whose reply is the whole project. What is foreseen of it shows at once; the reply decides. */
function editProject(
  edit: (p: Project) => Promise<Project>,
  foresee: (p: Project) => Project = (p) => p,
): Promise<void> {
  const { project } = get();
  if (!project) return Promise.resolve();
  ahead.push(foresee);
  set({ project: foresee(project) });
  return enqueue(async (p) => {
    const reply = await edit(p).finally(() => ahead.shift());
    settle(reply);
    await refreshKit();
    await refreshPass();
  });
}

function withPattern(project: Project, id: string, value: Pattern): Project {
  return { ...project, patterns: project.patterns.map((p) => (p.id === id ? { id, value } : p)) };
}

const key = (h: { note: number; tick: number }) => h.note * 1e7 + h.tick;
const order = (a: Hit, b: Hit) => a.tick - b.tick || a.note - b.note;

/** Shows at once what setting and clearing hits will do; the reply decides. */
function hitsForeseen(p: Pattern, e: Edit): Pattern {
  if (e.op !== 'hits') return p;
  const hits = new Map(p.hits.map((h) => [key(h), h]));
  for (const k of e.remove ?? []) hits.delete(key(k));
  for (const h of e.put ?? []) hits.set(key(h), h);
  return { ...p, hits: [...hits.values()].toSorted(order) };
}

export function editPattern(edit: Edit): Promise<void> {
  const s = get();
  const id = s.patternId;
  const now = currentPattern(s);
  if (!s.project || !now) return Promise.resolve();
  set({ project: withPattern(s.project, id, hitsForeseen(now, edit)) });
  return enqueue(async (p) => {
    const r = await api.editPattern(p.id, p.revision, id, player.rate, edit);
    const after = get();
    if (!after.project) return;
    const newest = after.pending <= 1; // a later edit already shows more than this reply knows
    const project = newest ? withPattern(after.project, id, r.pattern) : after.project;
    set({ project: { ...project, revision: r.revision, undo: r.undo, redo: r.redo }, savedAt: clock() });
    if (newest && after.patternId === id && after.face !== 'break') player.setPass(r.pass);
  });
}

export const editSettings = (change: Partial<Settings>, label: string) => {
  const done = editProject(
    (p) => api.settings(p.id, p.revision, change, label),
    (p) => ({ ...p, settings: { ...p.settings, ...change } }),
  );
  applySilence();
  return done;
};

export const undo = () => editProject((p) => (p.undo ? api.undo(p.id, p.revision) : Promise.resolve(p)));
export const redo = () => editProject((p) => (p.redo ? api.redo(p.id, p.revision) : Promise.resolve(p)));
export const jumpTo = (number: number) => editProject((p) => api.jumpTo(p.id, p.revision, number));
export const takeKit = (kit: string) => editProject((p) => api.takeKit(p.id, p.revision, kit));

/** Puts a map in place. */
export const editMap = (edit: MapEdit) =>
  editProject(
    (p) => api.editMap(p.id, p.revision, edit),
    (p) => ({ ...p, map: edit.map }),
  );

export const carryPatterns = (carry: CarryRequest) => editProject((p) => api.carry(p.id, p.revision, carry));

/** Folds a colour family's lanes away, or brings them back. */
export function toggleFold(family: string) {
  const { folded, project } = get();
  const next = folded.includes(family) ? folded.filter((f) => f !== family) : [...folded, family];
  // the map is shown anew, though it is the same
  set({ folded: next, project: project && { ...project, map: { ...project.map } } });
}

export function chooseMiddleC(octave: number) {
  localStorage.setItem('hexachord.middleC', String(octave));
  setMiddleC(octave);
  set({ middleC: octave });
}

function withPads(p: Project, put: Pad[]): Project {
  const pads = new Map(p.kit.pads.map((x) => [x.note, x]));
  for (const x of put) pads.set(x.note, x);
  return { ...p, kit: { ...p.kit, pads: [...pads.values()].toSorted((a, b) => a.note - b.note) } };
}

export const editKit = (edit: KitChange) =>
  editProject(
    (p) => api.editKit(p.id, p.revision, edit),
    (p) => (edit.op === 'pads' ? withPads(p, edit.put ?? []) : p),
  );

export const layOut = (parts: SamplePart[], options: LayoutOptions) =>
  editProject((p) => api.layOut(p.id, p.revision, parts, options));

/** Lets the player sound the project's own kit again, after something else was tried. */
export async function soundOwnKit() {
  kitInPlayer = '';
  await refreshKit();
  await refreshPass();
}

export function addPattern(name: string, bars: number, copyOf?: string) {
  return editProject(async (p) => {
    const r = await api.addPattern(p.id, p.revision, name, bars, copyOf);
    set({ patternId: r.patternId, bar: 0, cell: 0 });
    return r.project;
  });
}

export const deletePattern = (id: string) => editProject((p) => api.deletePattern(p.id, p.revision, id));

export function choosePattern(id: string) {
  set({ patternId: id, bar: 0, cell: 0 });
  void refreshPass().catch((e: unknown) => say(explain(e)));
}

export function chooseRecording(id: string) {
  set({ recordingId: id });
  void refreshPass(false).catch((e: unknown) => say(explain(e)));
}

export function chooseFace(face: Face) {
  if (get().face === face) return;
  set({ face });
  void refreshPass(false).catch((e: unknown) => say(explain(e)));
}

export function setBlend(blend: number) {
  set({ blend });
  applyBlend();
}

export function importMIDI(file: File) {
  return editProject(async (p) => {
    const { imported, project } = await api.importMIDI(p.id, p.revision, file);
    set({ patternId: imported.patternId, bar: 0, cell: 0, face: 'steps' });
    const parts = [`${imported.hits} hits`];
    if (imported.noLane.length > 0) {
      parts.push(
        `no lane for ${imported.noLane.map((n) => `${n.note}${n.name ? ` ${n.name}` : ''} (${n.hits})`).join(', ')}; these stay in the pattern, silent`,
      );
    }
    if (imported.cut > 0) parts.push(`${imported.cut} notes after bar 64 were left out`);
    if (imported.doubled > 0) parts.push(`${imported.doubled} doubled notes became one`);
    say({ title: `Imported ${file.name}`, detail: `${parts.join('. ')}.`, error: false });
    return project;
  });
}

export const regrid = (recording: string, grid: { bpm?: number; bars?: number; barOneS?: number }) =>
  editProject((p) => api.regrid(p.id, recording, p.revision, grid));

export function keepPattern(recording: string, as: { name: string; grid: string; strength: number }) {
  return editProject(async (p) => {
    const { kept, project } = await api.keep(p.id, recording, p.revision, as);
    set({ patternId: kept.patternId, bar: 0, cell: 0, face: 'steps' });
    const left: string[] = [];
    if (kept.homeless > 0) left.push(`${kept.homeless} hits found no lane`);
    if (kept.outside > 0) left.push(`${kept.outside} hits lie outside the bars`);
    say({
      title: `Kept as ${as.name}`,
      detail: `${kept.hits} hits on your lanes${left.length > 0 ? `; ${left.join(', ')}` : ''}.`,
      error: false,
    });
    return project;
  });
}

/** Shows a recording that has just been heard, after the edits under way. */
export function showRecording(recordingId: string): Promise<void> {
  return enqueue(async () => {
    set({ recordingId, face: 'break' });
    await reload();
    await refreshPass(false);
  });
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
    strikes: [{ id: ++strikeCount, note, velocity, layer, leanMS: leanNow(s) }, ...s.strikes].slice(0, 4),
  });
  return ticket;
}

/** How far off the nearest sounding sixteenth the beat is now, ms; null when nothing plays. */
function leanNow(s: Bench): number | null {
  if (!s.playing || !s.project || !player.last || s.face === 'break') return null;
  const { bpm, feel } = s.project.settings;
  const tick = ticksAt(player.atS(), bpm);
  const cell = PPQ / 4;
  let best = Infinity;
  for (const line of [-1, 0, 1].map((d) => (Math.round(tick / cell) + d) * cell)) {
    const off = tick - line - swingShift(line, feel.swing);
    if (Math.abs(off) < Math.abs(best)) best = off;
  }
  return ticksToMS(best, bpm);
}

export function toggleSilence(which: 'muted' | 'solo', note: number) {
  const p = get().project;
  if (!p) return;
  const on = p.settings[which].includes(note);
  const next = on ? p.settings[which].filter((n) => n !== note) : [...p.settings[which], note];
  const name = p.map.lanes.find((l) => l.note === note)?.name ?? `note ${note}`;
  const verb = which === 'muted' ? (on ? 'Unmute' : 'Mute') : on ? 'Unsolo' : 'Solo';
  void editSettings({ [which]: next }, `${verb} ${name}`);
}

export function setDark(dark: boolean) {
  localStorage.setItem('hexachord.theme', dark ? 'dark' : 'light');
  set({ dark });
}

export function setPadsOpen(padsOpen: boolean) {
  localStorage.setItem('hexachord.pads', padsOpen ? 'open' : 'shut');
  set({ padsOpen });
}
