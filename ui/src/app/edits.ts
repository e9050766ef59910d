// Every way the project changes. Edits go to the server one after another, each with the revision the last one led to;
// what a click does shows at once and is confirmed or put right by the reply.
import {
  ApiError,
  api,
  type CarryRequest,
  type Edit,
  type GridChange,
  type Groove,
  type GrooveUse,
  type HearEdit,
  type Hit,
  type KitChange,
  type LayoutOptions,
  type Listener,
  type MapEdit,
  type Pad,
  type Pattern,
  type Project,
  type SamplePart,
  type Settings,
  type TakeReady,
} from '../api/client';
import { barTicks, cellOf } from '../lanes/time';
import { player } from '../player/player';
import { currentPattern, explain, type Face, say, shownLanes, stored, useBench } from './bench';
import { applySilence, kitIs, refreshKit, refreshPass, stop, takePass } from './sounding';

const get = useBench.getState;
const set = useBench.setState;

/** What edits not answered yet will do, in their order: later edits, however quick, build on it. */
const ahead: ((p: Project) => Project)[] = [];

function settle(reply: Project) {
  kitIs(reply.id + JSON.stringify(reply.kit));
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
    if (newest && after.patternId === id && after.face !== 'break') takePass(r.pass);
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
/** Changes one pattern that need not be the one shown. */
export const editAnyPattern = (id: string, edit: Edit) =>
  id === get().patternId
    ? editPattern(edit)
    : editProject(async (p) => {
        await api.editPattern(p.id, p.revision, id, player.rate, edit);
        return api.project(p.id);
      });
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

export function addPattern(name: string, bars: number, copyOf?: string, linked = false) {
  return editProject(async (p) => {
    const r = await api.addPattern(p.id, p.revision, name, bars, copyOf, linked);
    set({ patternId: r.patternId, bar: 0, cell: 0 });
    return r.project;
  });
}

export const writeFeel = (pattern: string) => editProject((p) => api.writeFeel(p.id, p.revision, pattern));

export const takeReady = (take: TakeReady) =>
  editProject(async (p) => {
    const r = await api.takeReady(p.id, p.revision, take);
    set({ patternId: r.patternId, ...(take.into ? {} : { bar: 0, cell: 0 }) });
    return r.project;
  });

/** Keeps a groove and lays nothing over yet. */
export const addGroove = (from: { name: string; patternId?: string; groove?: Groove }) =>
  editProject(async (p) => (await api.addGroove(p.id, p.revision, from)).project);
export const importGroove = (file: File) =>
  editProject(async (p) => (await api.importGroove(p.id, p.revision, file)).project);
export const renameGroove = (id: string, groove: Groove) =>
  editProject((p) => api.putGroove(p.id, p.revision, id, groove));
export const deleteGroove = (id: string) => editProject((p) => api.deleteGroove(p.id, p.revision, id));

export const deletePattern = (id: string) => editProject((p) => api.deletePattern(p.id, p.revision, id));

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

export function choosePattern(id: string) {
  set({ patternId: id, bar: 0, cell: 0 });
  void refreshPass().catch((e: unknown) => say(explain(e)));
}

export function chooseRecording(id: string) {
  set({ recordingId: id, compared: null });
  void refreshPass(false).catch((e: unknown) => say(explain(e)));
}

export function chooseFace(face: Face) {
  if (get().face === face) return;
  set({ face, compared: null });
  void refreshPass(false).catch((e: unknown) => say(explain(e)));
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

export const regrid = (recording: string, grid: GridChange) =>
  editProject((p) => api.regrid(p.id, recording, p.revision, grid));

export const editHits = (recording: string, edit: HearEdit, label: string) =>
  editProject((p) => api.editHits(p.id, recording, p.revision, edit, label));
export const setListener = (recording: string, lane: number, listener: Listener | null) =>
  editProject((p) => api.setListener(p.id, recording, p.revision, lane, listener));
export const setChannel = (recording: string, channel: string) =>
  editProject((p) => api.setChannel(p.id, recording, p.revision, channel));
export const flip = (recording: string, lane: number) =>
  editProject((p) => api.flip(p.id, recording, p.revision, lane));

/** Makes a kit of a recording's cleanest strokes, and says what came of it. */
export const cutKit = (recording: string, name: string) =>
  editProject(async (p) => {
    const { cut, project } = await api.cutKit(p.id, recording, p.revision, name);
    set({ patternId: cut.patternId, bar: 0, cell: 0 });
    const poor = cut.lanes
      .filter((l) => l.clean < 0.5)
      .map((l) => p.map.lanes.find((x) => x.note === l.note)?.name);
    say({
      title: `Cut into the kit ${name}`,
      detail: `${cut.lanes.length} lanes got ${cut.lanes.reduce((n, l) => n + l.layers, 0)} sounds; the others keep theirs. ${poor.length > 0 ? `Other drums sound with ${poor.join(', ')}.` : ''}`,
      error: false,
    });
    return project;
  });

/** Keeps a groove and lays it over a pattern. */
export const layGroove = (groove: Groove, name: string, patternId: string, use: GrooveUse) =>
  editProject(async (p) => {
    const r = await api.addGroove(p.id, p.revision, { name, groove });
    const pattern = r.project.patterns.find((x) => x.id === patternId);
    if (!pattern) return r.project;
    const feel = pattern.value.feel ?? r.project.settings.feel;
    await api.editPattern(p.id, r.project.revision, patternId, player.rate, {
      op: 'shape',
      feel: { ...feel, groove: { ...use, id: r.grooveId } },
      label: `Lay ${name} over ${pattern.value.name}`,
    });
    return api.project(p.id);
  });

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

export function toggleSilence(which: 'muted' | 'solo', note: number) {
  const p = get().project;
  if (!p) return;
  const on = p.settings[which].includes(note);
  const next = on ? p.settings[which].filter((n) => n !== note) : [...p.settings[which], note];
  const name = p.map.lanes.find((l) => l.note === note)?.name ?? `note ${note}`;
  const verb = which === 'muted' ? (on ? 'Unmute' : 'Mute') : on ? 'Unsolo' : 'Solo';
  void editSettings({ [which]: next }, `${verb} ${name}`);
}
