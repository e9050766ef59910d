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
import { Latest } from '../model/latest';
import { tellFeel } from './inForce';
import { player } from '../player/player';

export type Into = 'bar' | 'all' | 'new';

interface Ready {
  /** those that fit what is asked for, how many there are in all, and their families */
  found: ReadyPattern[];
  all: number;
  families: string[];
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
  found: [],
  all: 0,
  families: [],
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

export function freshName(p: Project, base: string, n = 1): string {
  const name = `${base} ${n}`;
  return p.patterns.some((x) => x.value.name === name) ? freshName(p, base, n + 1) : name;
}

/** A name for a copy that says what it is: towpath copy, towpath linked, and when there is one, towpath copy 2. */
function copyName(p: Project, of: string, what: 'copy' | 'linked'): string {
  const name = `${of.replace(/ (copy|linked)( \d+)?$/, '')} ${what}`;
  return p.patterns.some((x) => x.value.name === name) ? freshName(p, name, 2) : name;
}

export function newPattern() {
  const s = useBench.getState();
  const { project } = s;
  if (project)
    void addPattern(freshName(project, 'pattern'), currentPattern(s)?.bars ?? 2).then(() =>
      tellFeel(useBench.getState().patternId),
    );
}

export function copyPattern(linked: boolean) {
  const s = useBench.getState();
  const p = currentPattern(s);
  const { project } = s;
  if (project && p)
    void addPattern(copyName(project, p.name, linked ? 'linked' : 'copy'), p.bars, s.patternId, linked);
}

const searches = new Latest();

/** Looks for ready patterns. */
export async function findReady(
  change: Partial<Pick<Ready, 'text' | 'family' | 'holdsTempo' | 'whole'>>,
  of = useBench.getState().project,
) {
  set(change);
  const { text, family, holdsTempo, whole } = get();
  if (!of) return;
  const query = {
    ...(text ? { text } : {}),
    ...(family ? { family } : {}),
    ...(holdsTempo ? { bpm: of.settings.bpm } : {}),
    ...(whole ? { for: of.id } : {}),
  };
  try {
    const r = await searches.of(api.findReady({ query }));
    if (r) set({ found: r.patterns, all: r.all, families: r.families });
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

const hearings = new Latest();

/** Hears what is chosen in the pattern's place; nothing is written. */
async function hear() {
  const { project } = useBench.getState();
  if (!project) return;
  try {
    const heard = await hearings.of(
      api.hearReady({
        path: { project: project.id },
        body: { take: asked(), sounding: { pattern: 'ready', rate: player.rate } },
      }),
    );
    if (!heard || get().name === '') return;
    set({ heard });
    if (get().sounds === 'ready' && heard.sounds.pass) takePass(heard.sounds.pass);
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
  if (sounds === 'ready' && heard?.sounds.pass) takePass(heard.sounds.pass);
  else void refreshPass().catch((e: unknown) => say(explain(e)));
}

/** Whether a key is for the ready patterns: while they are listed ↑ ↓, while one is heard Enter and Escape too. */
export function readyTakes(key: string): boolean {
  const { panel, face } = useBench.getState();
  const heard = get().heard !== null;
  const listed = panel === 'ready' && face === 'steps';
  return (
    ((heard || listed) && (key === 'ArrowDown' || key === 'ArrowUp')) ||
    (heard && (key === 'Enter' || key === 'Escape'))
  );
}

export function stepReady(by: number) {
  const list = get().found;
  const to = list[list.findIndex((p) => p.name === get().name) + by];
  if (to) hearReady(to.name);
}

const forget = () => {
  hearings.forget();
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
    set({
      compareWith: id,
      comparison: await api.comparePatterns({
        path: { project: s.project.id, pattern: s.patternId },
        query: { with: id },
      }),
    });
  } catch (e) {
    say(explain(e));
  }
}
