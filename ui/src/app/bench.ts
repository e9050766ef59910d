// What the window knows.
import { create } from 'zustand';
import {
  ApiError,
  type DrumMap,
  type Lane,
  type Pass,
  type Pattern,
  type Project,
  type StoredPattern,
} from '../api/client';
import { setMiddleC } from '../model/time';

export type Face = 'steps' | 'roll' | 'break' | 'sounds' | 'song' | 'mix';

/** A panel that lies over the stage or beside its button. */
export type Panel = '' | 'feel' | 'lane' | 'history' | 'patterns' | 'ready' | 'files' | 'play-in';

export interface LiveStrike {
  id: number;
  note: number;
  velocity: number;
  layer: number;
  /** the source it came from */
  from: string;
  /** cents, of one sound played over the pads */
  tune: number;
  /** how far off the grid it fell, ms; null when nothing played */
  leanMS: number | null;
}

export interface Notice {
  title: string;
  detail: string;
  error: boolean;
  /** what may be done about it, in one press */
  offer?: { does: string; go: () => void };
}

/** What is heard alone in Break. */
export interface Comparison {
  side: 'recording' | 'kit';
  /** by how much the kit's hits are raised to sound as loud as the recording, dB */
  matchDB: number;
  lane?: { note: number; band: [number, number] };
}

export interface Bench {
  project: Project | null;
  /** patterns of all parts, where the project's are those of the part it is seen from */
  allPatterns: StoredPattern[];
  face: Face;
  patternId: string;
  recordingId: string;
  /** note of the chosen lane */
  lane: number;
  /** notes of the lanes chosen together with it */
  alsoLanes: number[];
  /** where hits sound, in ticks from the pass's start, by note and tick; empty in Break */
  places: ReadonlyMap<string, number>;
  /** the song is played, not the pattern */
  song: boolean;
  /** while a pattern plays, the patterns of the other parts play too */
  together: boolean;
  /** the pattern last shown of each part */
  shownOf: Readonly<Record<string, string>>;
  /** which panel is open */
  panel: Panel;
  /** cell of the grid's keyboard cursor, from the pattern's start */
  cell: number;
  /** digits of a velocity that is being typed for the hit at the cursor; null when none is */
  typed: string | null;
  /** bar shown, from 0 */
  bar: number;
  follow: boolean;
  /** how many bars Steps shows side by side; 0: what the width takes */
  across: number;
  /** the bars that are played round and round: the first, and how many */
  held: { bar: number; bars: number } | null;
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
  /** how loud the recording and the kit are in Break, dB */
  levels: { recording: number; kit: number };
  /** what is heard in the place of what is shown, before it is kept */
  instead: Pass | null;
  /** the recorded pass that is heard alone, '' for none */
  alone: string;
  /** one of the two heard alone, at the same loudness; of one lane only, in its band, when that is named */
  compared: Comparison | null;
  /** how the recording is heard in Break */
  hearing: {
    slow: boolean;
    click: boolean;
    band: [number, number] | null;
    /** the recording's drums alone, or what is left when they are taken out */
    part: '' | 'drums' | 'left';
  };
  notice: Notice | null;
  /** a file is held over the window */
  fileOver: boolean;
  /** colour families folded away, so that the others come near */
  folded: string[];
  /** only these notes’ lanes are shown: those with hits; null: all */
  only: number[] | null;
  /** octave in which note names count middle C, note 60 */
  middleC: number;
}

export const stored = (key: string) => localStorage.getItem(`hexachord.${key}`);

/** Remembers in this browser. */
export const keep = (key: string, value: string) => localStorage.setItem(`hexachord.${key}`, value);

export const useBench = create<Bench>()(() => ({
  project: null,
  allPatterns: [],
  face: 'steps',
  patternId: '',
  recordingId: '',
  lane: 36,
  alsoLanes: [],
  places: new Map(),
  song: false,
  together: true,
  shownOf: {},
  panel: '',
  cell: 0,
  typed: null,
  bar: 0,
  follow: true,
  across: Number(stored('across') ?? 0),
  held: null,
  playing: false,
  savedAt: '',
  pending: 0,
  dark: stored('theme') === 'dark',
  padsOpen: stored('pads') !== 'shut',
  bank: 0,
  strikeVelocity: 100,
  strikes: [],
  levels: { recording: -1.5, kit: -6 },
  instead: null,
  alone: '',
  compared: null,
  hearing: { slow: false, click: false, band: null, part: '' },
  notice: null,
  fileOver: false,
  folded: [],
  only: null,
  middleC: Number(stored('middleC') ?? 4),
}));
setMiddleC(useBench.getState().middleC);

const get = useBench.getState;
const set = useBench.setState;

/** Opens a panel, or shuts it when it is open. */
export const togglePanel = (panel: Panel) => set((s) => ({ panel: s.panel === panel ? '' : panel }));

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

/** The lanes shown: those of the map that are not hidden or folded away; in Steps and Roll, when asked for, only those with hits. */
export function shownLanes(map: DrumMap): Lane[] {
  const { folded, only: withHits, face } = get();
  const only = face === 'steps' || face === 'roll' || face === 'song' ? withHits : null;
  return map.lanes.filter((l) => l.shown && !folded.includes(l.color) && (!only || only.includes(l.note)));
}

export function chooseMiddleC(octave: number) {
  keep('middleC', String(octave));
  setMiddleC(octave);
  set({ middleC: octave });
}

export function setDark(dark: boolean) {
  keep('theme', dark ? 'dark' : 'light');
  set({ dark });
}

export function setPadsOpen(padsOpen: boolean) {
  keep('pads', padsOpen ? 'open' : 'shut');
  set({ padsOpen });
}
