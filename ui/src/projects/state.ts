// Projects and kits as things one manages: listed with pictures, named, copied, thrown away and brought back, and what of one
// comes to another.
import { create } from 'zustand';
import {
  ofPart,
  api,
  type Brought,
  type BringPatterns,
  type KeptKit,
  type ProjectCard,
  type Trashed,
} from '../api/client';
import {
  edit,
  explain,
  openProject,
  play,
  refreshPass,
  reload,
  say,
  soundOwnKit,
  stop,
  takePass,
  useBench,
} from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';
import { look } from '../shelf/state';

/** What is chosen: a project or a kept kit. */
export interface Chosen {
  what: 'project' | 'kit';
  id: string;
}

interface Projects {
  open: boolean;
  cards: ProjectCard[];
  kits: KeptKit[];
  trash: Trashed[];
  show: 'all' | 'projects' | 'kits';
  search: string;
  sort: 'opened' | 'changed' | 'name' | 'tempo';
  up: boolean;
  chosen: Chosen | null;
  /** IDs of the patterns of the project chosen that are to be brought */
  picked: string[];
  by: 'role' | 'note';
  /** what they would give the lanes here */
  brought: Brought | null;
  /** which pattern is heard, as it sounds in its project; 'here': those picked, as they would sound here */
  heard: string;
}

export const useProjects = create<Projects>()(() => ({
  open: false,
  cards: [],
  kits: [],
  trash: [],
  show: 'all',
  search: '',
  sort: 'opened',
  up: false,
  chosen: null,
  picked: [],
  by: 'role',
  brought: null,
  heard: '',
}));

const get = useProjects.getState;
const set = useProjects.setState;

const fails = (e: unknown) => say(explain(e));

/** Asks what there is. */
export async function loadProjects() {
  try {
    const [{ projects }, { kits }, { trash }] = await Promise.all([
      api.listProjects(),
      api.listKits(),
      api.listTrash(),
    ]);
    const c = get().chosen;
    const there = c && (c.what === 'project' ? projects : kits).some((x) => x.id === c.id);
    set({ cards: projects, kits, trash, ...(there ? {} : { chosen: null, picked: [], brought: null }) });
  } catch (e) {
    fails(e);
  }
}

export function openProjects() {
  set({ open: true });
  void loadProjects();
}

export function closeProjects() {
  endHearing();
  set({ open: false, chosen: null, picked: [], brought: null });
}

export const toggleProjects = () => (get().open ? closeProjects() : openProjects());

/** The cards that are looked for, in their order, the open project left out. */
export function cardsShown(s: Projects, here: string): ProjectCard[] {
  const words = s.search.toLowerCase().split(/\s+/).filter(Boolean);
  const has = (c: ProjectCard) => {
    const text = [c.title, c.kit, ...c.lanes.map((l) => l.name), ...c.patterns.map((p) => p.name)]
      .join(' ')
      .toLowerCase();
    return words.every((w) => text.includes(w));
  };
  const by: Record<Projects['sort'], (a: ProjectCard, b: ProjectCard) => number> = {
    opened: (a, b) => b.openedAt.localeCompare(a.openedAt),
    changed: (a, b) => b.updatedAt.localeCompare(a.updatedAt),
    name: (a, b) => a.title.localeCompare(b.title, undefined, { sensitivity: 'base', numeric: true }),
    tempo: (a, b) => a.bpm - b.bpm,
  };
  const out = s.cards.filter((c) => c.id !== here && has(c)).toSorted(by[s.sort]);
  return s.up ? out.toReversed() : out;
}

export const kitsShown = (s: Projects): KeptKit[] =>
  s.kits.filter(
    (k) =>
      !k.earlier &&
      `${k.name} ${k.description} ${k.map.lanes.map((l) => l.name).join(' ')}`
        .toLowerCase()
        .includes(s.search.toLowerCase()),
  );

export function choose(chosen: Chosen) {
  const same = get().chosen?.id === chosen.id;
  if (same) return;
  endHearing();
  set({ chosen, picked: [], brought: null });
}

/** Opens a project and leaves the list. */
export async function goTo(id: string) {
  try {
    endHearing();
    await openProject(await api.getProject({ path: { project: id } }));
    closeProjects();
  } catch (e) {
    fails(e);
  }
}

export async function newProject(demo = false) {
  try {
    const there = demo ? get().cards.find((c) => c.name === 'Lock Seven') : undefined;
    if (there) {
      await goTo(there.id); // it is looked at, not made a second time
      return;
    }
    await openProject(
      await api.createProject({ body: demo ? { name: 'Lock Seven', demo: true } : { name: '' } }),
    );
    closeProjects();
  } catch (e) {
    fails(e);
  }
}

/** Gives a project a name; the open one is shown under it at once. */
export async function rename(id: string, name: string) {
  try {
    await api.renameProject({ path: { project: id }, body: { name } });
    if (id === useBench.getState().project?.id) await reload();
    if (get().open) await loadProjects();
  } catch (e) {
    fails(e);
  }
}

export async function duplicate(id: string) {
  try {
    const copy = await api.duplicateProject({ path: { project: id } });
    await loadProjects();
    set({ chosen: { what: 'project', id: copy.id }, picked: [], brought: null });
  } catch (e) {
    fails(e);
  }
}

/** Puts something in the trash. The open project makes room for another. */
export async function throwAway(what: Trashed['what'], id: string, name: string) {
  try {
    if (what === 'project' && id === useBench.getState().project?.id) {
      const other = get().cards.find((c) => c.id !== id);
      await openProject(
        other
          ? await api.getProject({ path: { project: other.id } })
          : await api.createProject({ body: { name: '' } }),
      );
    }
    await api.putInTrash({ body: { what, ids: [id] } });
    await loadProjects();
    say({
      title: `${name} is in the trash`,
      detail: `The ${what} stays there whole until the trash is emptied.`,
      error: false,
    });
  } catch (e) {
    fails(e);
  }
}

export async function restore(t: Trashed) {
  try {
    await api.restoreFromTrash({ body: { what: t.what, ids: [t.id] } });
    await loadProjects();
    if (t.what === 'sample') void look();
    else if (t.what !== 'map') choose({ what: t.what, id: t.id });
  } catch (e) {
    fails(e);
  }
}

export async function emptyTrash() {
  try {
    const { trash } = await api.emptyTrash();
    set({ trash });
    if (trash.length > 0)
      say({
        title:
          trash.length === 1
            ? `${trash[0]?.name} stays in the trash`
            : `${trash.length} samples stay in the trash`,
        detail: 'A project, its history or a kept kit sounds what stays. The rest is gone.',
        error: false,
      });
  } catch (e) {
    fails(e);
  }
}

export async function describeKit(id: string, name: string, description: string) {
  try {
    const { kits } = await api.describeKit({ path: { kit: id }, body: { name, description } });
    set({ kits });
  } catch (e) {
    fails(e);
  }
}

const plans = new Latest();

const asked = (s: Projects): BringPatterns | null =>
  s.chosen?.what === 'project' && s.picked.length > 0
    ? { project: s.chosen.id, patterns: s.picked, by: s.by }
    : null;

/** Chooses patterns to be brought, or how, and finds what the lanes here would get. Nothing is written. */
export async function pick(change: Partial<Pick<Projects, 'picked' | 'by'>>) {
  set(change);
  const here = useBench.getState().project;
  const bringPatterns = asked(get());
  if (!here || !bringPatterns) {
    plans.forget();
    if (get().heard === 'here') endHearing();
    set({ brought: null });
    return;
  }
  try {
    const r = await plans.of(
      api.tryEdits({
        path: { project: here.id },
        body: {
          ...ofPart(here),
          edits: [{ bringPatterns }],
          ...(get().heard === 'here' ? { sounding: { pattern: 'new', rate: player.rate } } : {}),
        },
      }),
    );
    if (!r) return;
    set({ brought: r.results[0]?.brought ?? null });
    if (get().heard === 'here' && r.sounds?.pass) sound(r.sounds.pass);
  } catch (e) {
    fails(e);
  }
}

const sound = (instead: NonNullable<ReturnType<typeof useBench.getState>['instead']>) => {
  useBench.setState({ instead });
  takePass(instead, false);
};

/** Hears the first pattern picked as it would sound here. */
export async function hearHere() {
  if (get().heard === 'here') {
    endHearing();
    return;
  }
  endHearing();
  set({ heard: 'here' });
  await pick({});
  if (get().heard === 'here') await play();
}

/** Hears a pattern as it sounds in its own project; again: no more. */
export async function hearThere(project: string, pattern: string) {
  if (get().heard === pattern) {
    endHearing();
    return;
  }
  try {
    const [table, sounds] = await Promise.all([
      api.getTable({ path: { project }, query: { rate: player.rate } }),
      api.getPass({ path: { project, pattern }, query: { rate: player.rate } }),
    ]);
    set({ heard: pattern });
    await player.setTable(table);
    if (sounds.pass) sound(sounds.pass);
    await play();
  } catch (e) {
    fails(e);
  }
}

/** Sounds the open project again. */
export function endHearing() {
  if (get().heard === '') return;
  set({ heard: '' });
  useBench.setState({ instead: null });
  stop();
  void soundOwnKit()
    .then(() => refreshPass())
    .catch(fails);
}

/** Copies the patterns picked into the open project, in one step of its history. */
export function bringThem() {
  const bringPatterns = asked(get());
  if (!bringPatterns) return;
  endHearing();
  set({ picked: [], brought: null });
  void edit([{ bringPatterns }], '', (results) => {
    const b = results[0]?.brought;
    if (!b) return;
    if (b.ids[0]) useBench.setState({ patternId: b.ids[0], bar: 0, cell: 0 });
    const silent = Object.values(b.noHome).reduce((n, x) => n + x, 0);
    say({
      title: b.ids.length === 1 ? 'The pattern is here' : `${b.ids.length} patterns are here`,
      detail:
        silent > 0
          ? `${silent} hits find no lane; they came along and stay silent.`
          : 'Every hit has its lane. Undo takes them out again.',
      error: false,
    });
  });
}
