// What the Sounds face shows and what is tried in it before it is kept.
import { create } from 'zustand';
import {
  ofPart,
  api,
  type Edit,
  type KitChange,
  type Layer,
  type LayoutOptions,
  type LoopPattern,
  type Pad,
  type Plan,
  type Project,
  type SamplePart,
  type Take,
  type TryReply,
} from '../api/client';
import { edit, editKit, explain, layOut, say, soundOwnKit, takePass, useBench } from '../app/state';
import { newPad, wholeShape } from '../model/constants.gen';
import { Latest } from '../model/latest';
import { player } from '../player/player';
import { useShelf } from '../shelf/state';

export type Hearing = 'new' | 'old' | 'both' | 'turn';

/** A sample heard in a place of the kit while the beat plays. */
export interface Trying {
  note: number;
  layer: number;
  sound: number;
  take: number;
  hash: string;
  name: string;
  hear: Hearing;
  /** for every layer of the pad, not only the one chosen */
  whole: boolean;
  /** raise or lower the new one to the old one's loudness */
  match: boolean;
  matchDB: number;
}

/** Samples dropped, with where they would go. */
export interface Dropping {
  parts: SamplePart[];
  names: string[];
  from: string;
  options: LayoutOptions;
  plan: Plan | null;
  /** hear the beat as it would be */
  hear: boolean;
  /** the project they are planned for */
  before: Project;
  /** plays pieces of a recording as it did, when its tempo is known */
  loop: LoopPattern | null;
  /** that pattern is made, too */
  withLoop: boolean;
}

/** A sample dropped on a pad that has sounds. */
export interface Asking {
  note: number;
  parts: SamplePart[];
  names: string[];
}

/** A single stroke that came while another face was shown: what becomes of it is asked. */
export interface Stroke {
  hash: string;
  name: string;
  kind: string;
  file: File;
}

interface Sounds {
  /** note of the pad edited */
  edited: number;
  layer: number;
  sound: number;
  take: number;
  /** the pad edited follows the pad struck */
  follow: boolean;
  trying: Trying | null;
  dropping: Dropping | null;
  asking: Asking | null;
  stroke: Stroke | null;
  /** a pad that was dragged to another lane */
  moving: { from: number; to: number } | null;
  /** hash of the recording that is cut */
  cutting: string;
}

export const useSounds = create<Sounds>()(() => ({
  edited: 36,
  layer: 0,
  sound: 0,
  take: 0,
  follow: true,
  trying: null,
  dropping: null,
  asking: null,
  stroke: null,
  moving: null,
  cutting: '',
}));

const get = useSounds.getState;
const set = useSounds.setState;

// the pad edited is the lane chosen; when that was by striking it, only if strikes are followed
useBench.subscribe((s, old) => {
  const struck = s.strikes[0] !== old.strikes[0] ? s.strikes[0] : undefined;
  const now = get();
  if (struck && (!now.follow || now.trying)) return;
  if (s.lane !== now.edited)
    set({
      edited: s.lane,
      layer: s.project ? mostStruck(s.project, s.patternId, s.lane) : 0,
      sound: 0,
      take: 0,
    });
  if (struck && struck.layer >= 0 && struck.layer !== get().layer)
    set({ layer: struck.layer, sound: 0, take: 0 });
});

/** The layer of a note's pad that the pattern strikes most, or all patterns when it strikes none; 0 when none does. */
function mostStruck(p: Project, patternId: string, note: number): number {
  const { layers } = padOf(p, note);
  if (layers.length < 2) return 0;
  const count = (patterns: Project['patterns']) =>
    layers.map((l) =>
      patterns.reduce(
        (n, pt) =>
          n + pt.value.hits.filter((h) => h.note === note && h.velocity >= l.lo && h.velocity <= l.hi).length,
        0,
      ),
    );
  const here = count(p.patterns.filter((pt) => pt.id === patternId));
  const hits = here.some((n) => n > 0) ? here : count(p.patterns);
  return hits.indexOf(Math.max(...hits));
}

/** The notes of all lanes chosen, the one edited first. */
export function chosenNotes(note: number): number[] {
  const { alsoLanes, lane } = useBench.getState();
  return lane === note ? [...new Set([note, ...alsoLanes])] : [note];
}

export const takeOf = (hash: string, source: string): Take => ({
  sample: hash,
  source,
  shape: { ...wholeShape },
});

export const padOf = (p: Project, note: number): Pad =>
  p.kit.pads.find((x) => x.note === note) ?? { ...newPad, note };

/** Chooses a layer, sound and take of the pad edited. */
export const chooseTake = (layer: number, sound = 0, take = 0) => set({ layer, sound, take });

const replaced = <T>(list: T[], at: number, value: T) => list.map((v, i) => (i === at ? value : v));

/** The pad with one layer replaced. */
export const withLayer = (p: Pad, at: number, l: Layer): Pad => ({ ...p, layers: replaced(p.layers, at, l) });

/** The pad with one take replaced. */
export function withTake(p: Pad, layer: number, sound: number, take: number, t: Take): Pad {
  const l = p.layers[layer];
  const s = l?.sounds[sound];
  if (!l || !s) return p;
  const sounds = replaced(l.sounds, sound, { ...s, takes: replaced(s.takes, take, t) });
  return withLayer(p, layer, { ...l, sounds });
}

/** The pad with every take's shape changed in part. */
export const withTakes = (p: Pad, part: Partial<Take['shape']>): Pad => ({
  ...p,
  layers: p.layers.map((l) => ({
    ...l,
    sounds: l.sounds.map((s) => ({
      ...s,
      takes: s.takes.map((t) => ({ ...t, shape: { ...t.shape, ...part } })),
    })),
  })),
});

export const putPad = (p: Pad, label: string) => editKit({ op: 'pads', put: [p], label });

export const kitEdit = (change: KitChange) => editKit(change);

const previews = new Latest();

/** Sounds the project's kit as an edit would leave it, without keeping anything; null when something newer is tried. */
async function soundWith(tried: Edit): Promise<TryReply | null> {
  const s = useBench.getState();
  if (!s.project) return null;
  try {
    const r = await previews.of(
      api.tryEdits({
        path: { project: s.project.id },
        body: {
          ...ofPart(s.project),
          edits: [tried],
          table: player.rate,
          ...(s.patternId ? { sounding: { pattern: s.patternId, rate: player.rate } } : {}),
        },
      }),
    );
    if (!r?.table) return null;
    await player.setTable(r.table);
    if (s.face !== 'break' && r.sounds?.pass) takePass(r.sounds.pass);
    return r;
  } catch (e) {
    say(explain(e));
    return null;
  }
}

function ownKit() {
  previews.forget();
  void soundOwnKit().catch((e: unknown) => say(explain(e)));
}

/** The edit that keeps what is tried. */
const tryEdit = (t: Trying, label = ''): Edit => ({
  kit: {
    op: 'try',
    try: {
      note: t.note,
      layer: t.layer,
      sound: t.sound,
      take: t.take,
      sample: t.hash,
      source: t.name,
      hear: t.hear,
      match: t.match,
      ...(t.whole ? { whole: true } : {}),
    },
    ...(label ? { label } : {}),
  },
});

export const plainSound = (t: Take) => ({
  label: '',
  off: false,
  levelDB: 0,
  pan: 0,
  semitones: 0,
  takes: [t],
});

/** Tries a sample in the layer chosen, or changes how it is tried. */
export async function tryIt(change: Partial<Trying> & { hash?: string; name?: string }) {
  const { project, lane } = useBench.getState();
  if (!project) return;
  const now = get();
  const place = now.trying ?? {
    note: lane,
    layer: now.layer,
    sound: now.sound,
    take: now.take,
    hash: '',
    name: '',
    hear: 'new' as Hearing,
    whole: false,
    match: true,
    matchDB: 0,
  };
  const t = { ...place, ...change };
  set({ trying: t, layer: t.layer, sound: t.sound, take: t.take });
  const r = await soundWith(tryEdit(t));
  const still = get().trying;
  if (r && still?.hash === t.hash) set({ trying: { ...still, matchDB: r.matchDB } });
}

/** Keeps what is tried, or puts the old sound back. */
export function endTry(keep: boolean) {
  const { project } = useBench.getState();
  const t = get().trying;
  set({ trying: null });
  if (!t || !project) return;
  ownKit();
  if (!keep) return;
  void edit([tryEdit({ ...t, hear: t.hear === 'old' ? 'new' : t.hear }, `Try ${t.name}: kept`)]);
}

const hasPad = (note: number) => useBench.getState().project?.kit.pads.some((p) => p.note === note) ?? false;

/** Brings samples to a pad: asks what becomes of one that has sounds. */
export function bringTo(note: number, parts: SamplePart[], names: string[]) {
  const { project } = useBench.getState();
  if (!project || parts.length === 0) return;
  useBench.setState({ lane: note });
  if (padOf(project, note).layers.length > 0) {
    set({ asking: { note, parts, names } });
    return;
  }
  void addTo(note, parts, names, 'replace');
}

export function addTo(note: number, parts: SamplePart[], names: string[], how: KitChange['how'], layer = -1) {
  set({ asking: null });
  const takes = parts.map((p, i) => {
    const t = takeOf(p.hash, names[i] ?? '');
    t.shape.startFrame = p.startFrame ?? 0;
    t.shape.endFrame = p.endFrame ?? 0;
    t.shape.fadeOutMS = p.fadeOutMS ?? 0;
    return t;
  });
  const what = names.length === 1 ? (names[0] ?? 'a sample') : `${names.length} samples`;
  const words = {
    replace: `Put ${what} on a pad`,
    layer: `Add ${what} as a layer`,
    stack: `Stack ${what}`,
    take: `Add ${what} as a take`,
  };
  const notes = chosenNotes(note).slice(1); // other lanes chosen get the same
  return editKit({
    op: 'add',
    from: note,
    ...(notes.length > 0 && how !== 'take' ? { notes: notes.filter((n) => hasPad(n)) } : {}),
    takes,
    how,
    layer,
    label: words[how ?? 'replace'],
  });
}

const plans = new Latest();

/** Plans where samples go; nothing is written until it is applied. */
export async function planDrop(change: Partial<Dropping> & { parts?: SamplePart[] }) {
  const { project } = useBench.getState();
  if (!project) return;
  const blank: Dropping = {
    parts: [],
    names: [],
    from: '',
    options: { by: 'kind' },
    plan: null,
    hear: false,
    before: project,
    loop: null,
    withLoop: true,
  };
  const d = { ...(change.parts ? blank : (get().dropping ?? blank)), ...change, before: project };
  set({ dropping: d });
  useBench.setState({ face: 'sounds' });
  useShelf.setState({ open: false }); // the plan takes the whole stage
  try {
    const body = { parts: d.parts, options: d.options };
    const plan = await plans.of(api.planLayout({ path: { project: project.id }, body }));
    if (!plan) return;
    const { loop, withLoop } = get().dropping ?? d;
    set({ dropping: { ...d, loop, withLoop, plan } });
    if (d.hear) await soundWith({ layOut: body });
    else if (change.hear === false) ownKit();
  } catch (e) {
    set({ dropping: null });
    say(explain(e));
  }
}

/** Hears the tempo of the recording that pieces were cut from, so that a pattern can play them as it did. */
export async function findLoop(hash: string, name: string) {
  try {
    const t = await api.getSampleTempo({ path: { hash } });
    const now = get().dropping;
    const { project } = useBench.getState();
    if (!now || t.bpm <= 0 || now.parts[0]?.hash !== hash) return;
    const beat = project?.patterns.some((p) => p.value.hits.length > 0) ?? false;
    const loop: LoopPattern = {
      name: `${name}, as it was`,
      bpm: t.bpm,
      meter: t.meter,
      startS: t.barOneS,
      seconds: t.seconds,
      ...(beat ? {} : { takeTempo: true }),
    };
    set({ dropping: { ...now, loop } });
  } catch (e) {
    say(explain(e));
  }
}

export function endDrop(apply: boolean) {
  const d = get().dropping;
  set({ dropping: null });
  if (!d) return;
  if (d.hear) ownKit();
  if (apply)
    void layOut(
      d.parts,
      d.options,
      d.from.replace(/^the folder /, '').replace(/\.[^.]*$/, ''),
      d.withLoop ? d.loop : null,
    );
}
