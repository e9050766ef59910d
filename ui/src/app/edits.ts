// Every way the project changes. All go through one queue (model/queue.ts): what an edit will do shows at once, and is
// confirmed or put right by its reply.
import {
  ApiError,
  ofPart,
  api,
  addresses,
  type AddGroove,
  type Changed,
  type Edit,
  type Groove,
  type GrooveUse,
  type KitChange,
  type LayoutOptions,
  type LoopPattern,
  type MapEdit,
  type Hit,
  type PassEdit,
  type Project,
  type RecordPass,
  type Result,
  type SamplePart,
  type SettingsEdit,
  type Sounding,
  type TakeReady,
} from '../api/client';
import { type PatternEdit, ofPattern } from '../model/edits';
import { foresee } from '../model/foresee';
import { EditQueue } from '../model/queue';
import { explain, type Face, keep, say, shownLanes, stored, useBench } from './bench';
import {
  applyHeld,
  applySettings,
  applySilence,
  refreshKit,
  refreshPass,
  soundingNow,
  stop,
  takeSounds,
} from './sounding';
import { goToPlace, lanesOf } from './view';
import { whereItActed } from '../model/where';

const get = useBench.getState;
const set = useBench.setState;

const clock = () => new Date().toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });

const had = (list: { id: string }[], id: string) => list.some((x) => x.id === id);

/** Shows a project; what is chosen stays chosen where it is still there. */
function show(all: Project) {
  const s = get();
  const own = all.parts.length > 1 || all.part !== '';
  // patterns of other parts are there for the song alone
  const project = own
    ? { ...all, patterns: all.patterns.filter((p) => (p.value.part ?? '') === all.part) }
    : all;
  const patternId =
    [s.patternId, s.shownOf[all.part] ?? ''].find((id) => had(project.patterns, id)) ??
    project.patterns[0]?.id ??
    '';
  const recordingId = had(project.recordings, s.recordingId)
    ? s.recordingId
    : (project.recordings[0]?.id ?? '');
  const lanes = shownLanes(project.map);
  const lane = lanes.some((l) => l.note === s.lane) ? s.lane : (lanes[lanes.length - 1]?.note ?? 36);
  const bars = project.patterns.find((p) => p.id === patternId)?.value.bars ?? 1;
  const saved = s.project?.revision !== project.revision && project.undo !== '';
  set({
    project,
    allPatterns: all.patterns,
    patternId,
    recordingId,
    lane,
    bar: Math.min(s.bar, bars - 1),
    savedAt: saved ? clock() : s.savedAt,
  });
}

/** What could not be sent now and is sent again by itself: nothing for the person to do. */
class SentAgain extends Error {}

const queue = new EditQueue({
  show,
  pending: (pending) => set({ pending }),
  failed: (e) => {
    if (e instanceof SentAgain) {
      // who sends it says so when it goes on
    } else if (e instanceof ApiError && e.status === 409 && e.title.startsWith('The project')) {
      say({
        title: 'This was changed in another window, too',
        detail: `It is shown as it is now; your last edit was not made. Meanwhile: ${e.detail.replace(/^.*?: /, '')}`,
        error: false,
      });
    } else say(explain(e));
    void reload().catch(() => undefined);
  },
});

let watching: EventSource | null = null;

/** Opens a project: shows it, loads its kit, and watches for other windows' edits. sounds is called once its sounds are asked for. */
export async function openProject(project: Project, sounds?: () => void) {
  await queue.idle(); // edits of the one before
  if (get().playing) stop();
  set({ bar: 0, cell: 0, held: null, ...lanesOf(project.id) });
  queue.open(project);
  goToPlace(project);
  keep('project', project.id);
  void api.openedProject({ path: { project: project.id } }).catch(() => undefined); // only the order of a list
  watching?.close();
  watching = new EventSource(addresses.events(project.id));
  watching.addEventListener('changed', (e: MessageEvent<string>) => {
    const changed = JSON.parse(e.data) as Changed;
    const before = queue.known?.revision ?? 0;
    // what another window did in another part is not told as this one sees it
    if (changed.part !== (queue.known?.part ?? '') || !queue.take(changed)) {
      if (queue.pending === 0) void reload().catch(() => undefined); // else the reply on its way brings it all
    } else if (changed.revision > before && queue.pending === 0) {
      void soundAfter(changed).catch((x: unknown) => say(explain(x)));
    }
  });
  const kit = refreshKit(true);
  await refreshPass(false);
  sounds?.();
  await kit;
}

/** Opens the project this window had last, or the one changed last, or a new one. */
export async function begin(sounds: () => void) {
  const { projects } = await api.listProjects();
  const wanted = projects.find((p) => p.id === stored('project')) ?? projects[0];
  await openProject(
    wanted
      ? await api.getProject({ path: { project: wanted.id } })
      : await api.createProject({ body: { name: '' } }),
    sounds,
  );
}

export async function reload() {
  const p = get().project;
  if (!p) return;
  queue.open(await api.getProject({ path: { project: p.id }, query: ofPart(p) }));
  await refreshKit(true);
  await refreshPass();
}

/** What is heard follows a change: the kit when it is another, the pattern by what the reply says it sounds. */
async function soundAfter(changed: Changed, asked?: Sounding) {
  const { patch } = changed;
  if (patch.kit) await refreshKit(true);
  const { face, patternId, instead, song } = get();
  if (instead) return;
  if (song && face !== 'break') {
    await refreshPass();
    if (patch.settings) applySettings();
    return;
  }
  if (face === 'break') {
    if (patch.kit || patch.map || patch.recordings) await refreshPass();
    else applySilence();
  } else if (asked?.pattern === patternId && changed.sounds) takeSounds(changed.sounds);
  else if (asked || patch.kit || patch.settings || patch.grooves || patch.patterns || patch.edited)
    await refreshPass();
  if (patch.settings) applySettings();
  applyHeld();
}

type Send = (known: Project, sounding: Sounding | undefined) => Promise<Changed>;

/** Runs a change after those before it. */
function change(
  send: Send,
  foreseen?: (p: Project) => Project,
  then?: (c: Changed) => void | Promise<void>,
): Promise<void> {
  let sounding: Sounding | undefined;
  return queue.add(
    (known) => {
      sounding = soundingNow();
      return send(known, sounding);
    },
    foreseen,
    async (c) => {
      if (c.part !== (get().project?.part ?? '')) await reload();
      await then?.(c);
      await soundAfter(c, sounding);
    },
  );
}

/** Makes edits, all or none, as one step of the history. */
export const edit = (
  edits: Edit[],
  label = '',
  then?: (results: Result[]) => void | Promise<void>,
): Promise<void> =>
  change(
    (known, sounding) =>
      api.edit({
        path: { project: known.id },
        body: {
          revision: known.revision,
          ...ofPart(known),
          edits,
          ...(label ? { label } : {}),
          ...(sounding ? { sounding } : {}),
        },
      }),
    (p) => edits.reduce(foresee, p),
    then && ((c) => then(c.results ?? [])),
  );

/** What became of strikes that were sent: the bench has them, it will never take them, or they may be sent again. */
type Sent = 'kept' | 'refused' | 'failed';

/** Sends strikes of a pass as they fall: those of one pass are one step of the history. Resolves to whether the bench has them; told of the
 * hits they became before these sound. */
export function sendStrikes(pass: RecordPass, became: (hits: Hit[]) => void): Promise<Sent> {
  let sent: Sent = 'failed';
  return change(
    (known, sounding) =>
      api
        .edit({
          path: { project: known.id },
          body: {
            revision: known.revision,
            ...ofPart(known),
            edits: [{ recordPass: pass }],
            join: pass.id,
            ...(sounding ? { sounding } : {}),
          },
        })
        .catch((e: unknown) => {
          // what was changed meanwhile is sent again; what cannot be done at all is not
          if (e instanceof ApiError && e.status >= 400 && e.status < 500 && e.status !== 409) {
            sent = 'refused';
            throw e;
          }
          throw new SentAgain();
        }),
    undefined,
    (c) => {
      sent = 'kept';
      became(c.patch.edited?.find((e) => e.id === pass.pattern)?.put ?? []);
    },
  ).then(() => sent);
}

export const editPass = (pass: PassEdit) => edit([{ pass }]);

/** What is shown turns to where a step of the history acted. */
function look(was: Project) {
  const { project, face, patternId, bar } = get();
  if (!project || (face !== 'steps' && face !== 'roll')) return;
  const at = whereItActed(was, project, { patternId, bar });
  if (at) set(at);
}

/** Sees the project from one of its parts: its lanes, its kit, its patterns. */
export async function choosePart(part: string) {
  const p = get().project;
  if (!p || p.part === part) return;
  set({ shownOf: { ...get().shownOf, [p.part]: get().patternId } });
  await queue.idle();
  queue.open(await api.getProject({ path: { project: p.id }, query: part === '' ? {} : { part } }));
  await refreshKit(true);
  await refreshPass();
}

/** A step in the history. */
const step = (call: typeof api.undo | typeof api.redo, possible: (p: Project) => boolean) => {
  const now = get().project;
  if (!now || !possible(now)) return Promise.resolve();
  return change(
    (known, sounding) =>
      call({
        path: { project: known.id },
        body: { revision: known.revision, ...ofPart(known), ...(sounding ? { sounding } : {}) },
      }),
    undefined,
    () => look(now),
  );
};

export const undo = () => step(api.undo, (p) => p.undo !== '');
export const redo = () => step(api.redo, (p) => p.redo !== '');
export const jumpTo = (number: number) =>
  change((known, sounding) =>
    api.jumpTo({
      path: { project: known.id },
      body: { revision: known.revision, ...ofPart(known), number, ...(sounding ? { sounding } : {}) },
    }),
  );

/** Changes one pattern that need not be the one shown. */
export const editAnyPattern = (id: string, e: PatternEdit) => edit([ofPattern(id, e)]);

export function editPattern(e: PatternEdit): Promise<void> {
  const { patternId } = get();
  return patternId === '' ? Promise.resolve() : editAnyPattern(patternId, e);
}

export const editSettings = (settings: SettingsEdit, label: string) => {
  const done = edit([{ settings }], label);
  applySilence();
  return done;
};

export const takeKit = (kit: string) => edit([{ takeKit: { kit } }]);
export const editMap = (map: MapEdit) => edit([{ map }]);
export const editKit = (kit: KitChange) => edit([{ kit }]);
export const layOut = (
  parts: SamplePart[],
  options: LayoutOptions,
  name: string,
  loop: LoopPattern | null = null,
) =>
  edit([{ layOut: { parts, options, name: name.slice(0, 100), ...(loop ? { loop } : {}) } }], '', (r) => {
    if (loop) showNew(r);
  });
export const writeFeel = (pattern: string) => edit([{ writeFeel: { pattern } }]);
export const deletePattern = (id: string) => edit([{ removePattern: { id } }]);
export const deleteGroove = (id: string) => edit([{ removeGroove: { id } }]);
export const renameGroove = (id: string, groove: Groove) => edit([{ putGroove: { id, groove } }]);

/** Makes a lane; its name, when it says a role, gives it role, code and colour. */
export const addLane = (note: number, name = '') => edit([{ addLane: { note, ...(name ? { name } : {}) } }]);

/** Makes a lane on the note that its name's role has, or the next free one. */
export const findLane = (name: string, then: () => void) =>
  edit([{ addLane: { note: 36, find: true, ...(name ? { name } : {}) } }], '', then);

/** Shows a pattern that has just come. */
export const showNew = ([r]: Result[]) => {
  if (r?.id) set({ patternId: r.id, bar: 0, cell: 0 });
};

export const addPattern = (name: string, bars: number, copyOf?: string, linked = false) =>
  edit([{ addPattern: { name, bars, linked, ...(copyOf ? { copyOf } : {}) } }], '', showNew);

export const takeReady = (take: TakeReady) =>
  edit([{ takeReady: take }], '', (r) => {
    if (!take.into) showNew(r);
  });

/** Keeps a groove and lays nothing over yet. */
export const addGroove = (groove: AddGroove) => edit([{ addGroove: groove }]);

/** Keeps a groove and lays it over a pattern. */
export const layGroove = (groove: Groove, name: string, over: string, use: GrooveUse) =>
  addGroove({ name, groove, over, use });

export const importGroove = (file: File) =>
  change((known) =>
    api.importGroove({ path: { project: known.id }, query: { revision: known.revision }, body: { file } }),
  );

export function choosePattern(id: string) {
  set({ patternId: id, bar: 0, cell: 0 });
  void refreshPass().catch((e: unknown) => say(explain(e)));
}

export function chooseRecording(id: string) {
  set({ recordingId: id, compared: null });
  void refreshPass(false).catch((e: unknown) => say(explain(e)));
}

export function chooseFace(face: Face) {
  const before = get().face;
  if (before === face) return;
  set((s) => ({ face, compared: null, notice: s.notice?.error ? s.notice : null }));
  // Break sounds a recording; all others sound the pattern, which plays on
  void refreshPass(before !== 'break' && face !== 'break').catch((e: unknown) => say(explain(e)));
}

/** Imports a MIDI file as a song, from a bar on. */
export const importSong = (file: File, bar: number) =>
  change((known) =>
    api.importSongMidi({
      path: { project: known.id },
      query: { revision: known.revision, bar },
      body: { file },
    }),
  );

export const importMIDI = (file: File) =>
  change(
    (known) =>
      api.importMidi({ path: { project: known.id }, query: { revision: known.revision }, body: { file } }),
    undefined,
    (c) => {
      const in_ = c.results?.[0];
      if (!in_?.id) return;
      set({ patternId: in_.id, bar: 0, cell: 0, face: 'steps' });
      const parts = [`${in_.hits ?? 0} hits`];
      const { id, noLane, patterns, doubled, bpm, tookTempo } = in_;
      if (noLane && noLane.length > 0) {
        parts.push(
          `no lane for ${noLane.map((n) => `${n.note}${n.name ? ` ${n.name}` : ''} (${n.hits})`).join(', ')}; these stay in the pattern, silent`,
        );
      }
      if (patterns && patterns > 1) parts.push(`longer than 64 bars: it became ${patterns} patterns`);
      if (bpm)
        parts.push(
          tookTempo
            ? `the project plays at its ${bpm} BPM now`
            : `it was written at ${bpm} BPM; the project keeps its own`,
        );
      if (doubled) parts.push(`${doubled} doubled notes became one`);
      const p = get().project?.patterns.find((x) => x.id === id)?.value;
      if (p) parts.push(`its meter is ${p.meter.beats}/${p.meter.unit}`);
      const settings = get().project?.settings;
      const other = bpm !== undefined && !tookTempo && bpm !== settings?.bpm;
      say({
        title: `Imported ${file.name}`,
        detail: `${parts.join('. ')}.`,
        error: false,
        ...(other
          ? {
              offer: {
                does: `Play the project at ${bpm} BPM`,
                go: () => void editSettings({ bpm }, `Tempo ${bpm} BPM`),
              },
            }
          : {}),
      });
    },
  );

/** Shows a recording that has just been heard, after the edits under way. */
export function showRecording(changed: Changed): Promise<void> {
  return change(
    () => Promise.resolve(changed),
    undefined,
    async (c) => {
      set({ recordingId: c.results?.[0]?.id ?? '', face: 'break' });
      await reload();
      await refreshPass(false);
    },
  );
}

export function toggleSilence(which: 'muted' | 'solo', note: number) {
  const p = get().project;
  if (!p) return;
  const on = p.settings[which].includes(note);
  const name = p.map.lanes.find((l) => l.note === note)?.name ?? `note ${note}`;
  const verb = which === 'muted' ? (on ? 'Unmute' : 'Mute') : on ? 'Unsolo' : 'Solo';
  void editSettings({ [which]: { [String(note)]: !on } }, `${verb} ${name}`);
}
