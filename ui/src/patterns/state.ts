// The patterns of the project and the ready ones: what is tried, compared, taken.
import { create } from 'zustand';
import {
  api,
  type Comparison,
  type Project,
  type ReadyHeard,
  type ReadyPattern,
  type TakeReady,
} from '../api/client';
import {
  addPattern,
  currentPattern,
  explain,
  refreshPass,
  say,
  takePass,
  takeReady,
  useBench,
} from '../app/state';
import { player } from '../player/player';

export type Into = 'bar' | 'all' | 'new';

interface Ready {
  /** every ready pattern, once asked for */
  all: ReadyPattern[];
  text: string;
  family: string;
  /** only what lies well at the project's tempo, and what the kit's lanes play whole */
  holdsTempo: boolean;
  whole: boolean;
  /** the one that is heard in the pattern's place */
  heard: ReadyHeard | null;
  name: string;
  roles: string[];
  instead: Record<string, number>;
  into: Into;
  /** whether the ready pattern sounds, or the pattern's own hits */
  sounds: 'ready' | 'own';
  /** the pattern the shown one is compared with */
  compareWith: string;
  comparison: Comparison | null;
}

export const useReady = create<Ready>()(() => ({
  all: [],
  text: '',
  family: '',
  holdsTempo: false,
  whole: false,
  heard: null,
  name: '',
  roles: [],
  instead: {},
  into: 'all',
  sounds: 'ready',
  compareWith: '',
  comparison: null,
}));

const get = useReady.getState;
const set = useReady.setState;

export const seed = () => Math.floor(Math.random() * 2 ** 31);

export function freshName(p: Project, base: string): string {
  for (let n = 1; ; n++) {
    const name = `${base} ${n}`;
    if (!p.patterns.some((x) => x.value.name === name)) return name;
  }
}

export function newPattern() {
  const s = useBench.getState();
  const { project } = s;
  if (project) void addPattern(freshName(project, 'pattern'), currentPattern(s)?.bars ?? 2);
}

export function copyPattern(linked: boolean) {
  const s = useBench.getState();
  const p = currentPattern(s);
  const { project } = s;
  if (project && p) void addPattern(freshName(project, p.name), p.bars, s.patternId, linked);
}

/** The ready patterns that fit what is asked for. */
export function fitting(r: Ready, bpm: number, roles: ReadonlySet<string>): ReadyPattern[] {
  const words = r.text.toLowerCase().split(/\s+/).filter(Boolean);
  return r.all.filter((p) => {
    const about = [p.name, p.family, p.words, ...p.roles].join(' ').toLowerCase();
    return (
      (r.family === '' || p.family === r.family) &&
      words.every((w) => about.includes(w)) &&
      (!r.holdsTempo || (bpm >= p.loBPM && bpm <= p.hiBPM)) &&
      (!r.whole || p.roles.every((role) => roles.has(role)))
    );
  });
}

export async function loadReady() {
  if (get().all.length > 0) return;
  try {
    set({ all: (await api.ready()).patterns });
  } catch (e) {
    say(explain(e));
  }
}

/** What would be taken, as chosen now. */
function asked(): TakeReady {
  const r = get();
  const s = useBench.getState();
  const bars = currentPattern(s)?.bars ?? 1;
  const into =
    r.into === 'new'
      ? {}
      : r.into === 'bar'
        ? { into: s.patternId, fromBar: s.bar, toBar: s.bar + 1 }
        : { into: s.patternId, fromBar: 0, toBar: bars };
  return { name: r.name, roles: r.roles, instead: r.instead, ...into };
}

let newest = 0;

/** Hears what is chosen in the pattern's place; nothing is written. */
async function hear() {
  const { project } = useBench.getState();
  if (!project) return;
  const mine = ++newest;
  try {
    const heard = await api.hearReady(project.id, player.rate, asked());
    if (mine !== newest || get().name === '') return;
    set({ heard });
    if (get().sounds === 'ready') takePass(heard.pass);
  } catch (e) {
    say(explain(e));
  }
}

export function hearReady(name: string) {
  set({ name, roles: [], instead: {}, sounds: 'ready' });
  void hear();
}

export function chooseTake(change: Partial<Pick<Ready, 'roles' | 'instead' | 'into'>>) {
  set(change);
  void hear();
}

export function soundReady(sounds: 'ready' | 'own') {
  set({ sounds });
  const { heard } = get();
  if (sounds === 'ready' && heard) takePass(heard.pass);
  else void refreshPass().catch((e: unknown) => say(explain(e)));
}

export function stepReady(by: number) {
  const { project } = useBench.getState();
  const roles = new Set(project?.map.lanes.map((l) => l.role));
  const list = fitting(get(), project?.settings.bpm ?? 92, roles);
  const to = list[list.findIndex((p) => p.name === get().name) + by];
  if (to) hearReady(to.name);
}

const forget = () => {
  newest++;
  set({ heard: null, name: '', roles: [], instead: {} });
};

export function putBack() {
  forget();
  void refreshPass().catch((e: unknown) => say(explain(e)));
}

export function takeHeard() {
  const take = asked();
  forget();
  useBench.setState({ panel: '' });
  void takeReady(take);
}

/** Shows how the shown pattern differs from another; '' ends it. */
export async function compareWith(id: string) {
  const s = useBench.getState();
  if (!s.project || id === '') {
    set({ compareWith: '', comparison: null });
    return;
  }
  try {
    set({ compareWith: id, comparison: await api.comparePatterns(s.project.id, s.patternId, id) });
  } catch (e) {
    say(explain(e));
  }
}
