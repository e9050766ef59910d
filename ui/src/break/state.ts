// What is chosen and tried in Break.
import { create } from 'zustand';
import {
  api,
  type AgainReply,
  type Lane,
  type Listener,
  type Listening,
  type Recording,
  type ReinforceReply,
} from '../api/client';
import {
  currentRecording,
  editHits,
  explain,
  hearAgain,
  type HowAgain,
  play,
  say,
  hearCompared,
  setListener,
  stop,
  useBench,
} from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';
import { inView, viewOf, zooms } from './view';

export interface Break {
  /** the hit chosen, by its place in the list, −1: none; and those chosen together with it */
  chosen: number;
  also: number[];
  /** a listener that is tried for a lane: what it hears, before it is kept */
  trying: {
    lane: number;
    of: string;
    heard: Listening;
    /** the sliders are ahead of what is shown */ behind: boolean;
  } | null;
  /** which proposal's hits are shown struck through */
  proposal: number;
  reinforcement: { of: string; r: ReinforceReply } | null;
  /** a recording that was heard again, beside what it is now, before it is taken; and which of both is shown */
  again: { of: string; revision: number; how: HowAgain; heard: AgainReply; shown: 'now' | 'again' } | null;
  /** how many bars the stage shows at once, and which of such pages is shown, from 0 */
  zoom: number;
  page: number;
}

export const useBreak = create<Break>()(() => ({
  chosen: -1,
  also: [],
  trying: null,
  proposal: -1,
  reinforcement: null,
  again: null,
  zoom: 2,
  page: 0,
}));

const get = useBreak.getState;
const set = useBreak.setState;

/** Hits the person may still want to look at, in time. */
export const doubts = (r: Recording) =>
  r.heard.hits.map((h, i) => ({ h, i })).filter(({ i }) => r.doubtful[i]);

export const pagesOf = (r: Recording) => Math.ceil(r.heard.bars / get().zoom);

/** Shows other bars. */
export function turnPage(r: Recording, by: number) {
  set(({ page }) => ({ page: Math.min(pagesOf(r) - 1, Math.max(0, page + by)) }));
}

/** Brings a moment of the recording into view. */
export function showMoment(r: Recording, timeS: number) {
  const beat = r.beats.findLastIndex((t) => t <= timeS + 0.01);
  const t = r.beats[beat] ?? 0;
  const part = Math.min(1, Math.max(0, (timeS + 0.01 - t) / ((r.beats[beat + 1] ?? Infinity) - t)));
  const page = Math.floor((beat + part) / (r.heard.meter.beats * get().zoom));
  set({ page: Math.min(pagesOf(r) - 1, Math.max(0, page)) });
}

/** Shows fewer bars, or more: around the hit chosen when it is in view, else around the middle. */
export function zoomBy(r: Recording, by: 1 | -1) {
  const { zoom, page, chosen } = get();
  const to = zooms[zooms.indexOf(zoom) + by];
  if (to === undefined || (by < 0 && zoom >= r.heard.bars)) return;
  const v = viewOf(r, page, zoom, 1, 1);
  const hit = r.heard.hits[chosen];
  const at = hit && inView(v, hit.time) ? hit.time : (v.fromS + Math.min(v.toS, v.endS)) / 2;
  set({ zoom: to });
  showMoment(r, at);
}

let stopping = 0;

/** Plays a moment of the recording, with what is around it. */
export function hearAround(r: Recording, timeS: number) {
  const slow = useBench.getState().hearing.slow ? 2 : 1;
  const at = Math.max(0, (timeS - r.heard.barOneS - 0.3) * slow);
  window.clearTimeout(stopping);
  const go = () => player.seek(at);
  if (useBench.getState().playing && stopping === 0) {
    go();
    return;
  }
  void play().then(go);
  stopping = window.setTimeout(() => {
    stopping = 0;
    stop();
  }, 1000 * slow);
}

/** All hits that are chosen, in time. */
export function chosenHits(r: Recording): number[] {
  const { chosen, also } = get();
  return [...new Set([chosen, ...also])].filter((i) => r.heard.hits[i]).toSorted((a, b) => a - b);
}

/** Chooses several hits, the first of them before the others. */
export function chooseSeveral(which: number[]) {
  set({ chosen: which[0] ?? -1, also: which });
}

/** Chooses a hit; together with those chosen before, when it comes on top. */
export function chooseHit(r: Recording, i: number, hear: boolean, onTop = false) {
  const h = r.heard.hits[i];
  if (!h) return;
  set((s) => ({
    chosen: i,
    also: onTop ? [...new Set([...s.also, s.chosen, i])] : s.also.includes(i) && !hear ? s.also : [],
  }));
  const lane = r.lanes[i] ?? -1;
  if (lane >= 0) useBench.setState({ lane });
  showMoment(r, h.time);
  if (hear) hearAround(r, h.time);
}

/** How near a place pointed at must be to an attack to go there, s. */
const snapS = 0.03;

/** The attack nearest to a moment, when one is near enough; the moment itself, else. */
async function attackNear(r: Recording, timeS: number, reach = snapS): Promise<number> {
  const path = { hash: r.audio };
  const { rate } = await api.getSample({ path });
  const frame = Math.max(0, Math.round(timeS * rate));
  const found = (await api.snapSample({ path, query: { frame, to: 'attack' } })).frame / rate;
  return Math.abs(found - timeS) <= reach ? found : timeS;
}

/** Chooses the hits that lie at these moments, once they are there. */
function chooseAt(id: string, times: number[]) {
  const r = useBench.getState().project?.recordings.find((x) => x.id === id);
  const which = times.flatMap((t) => {
    const i = r?.heard.hits.findIndex((h) => Math.abs(h.time - t) < 5e-4 && h.state === 'kept') ?? -1;
    return i < 0 ? [] : [i];
  });
  if (which.length > 0) chooseSeveral(which);
}

/** Adds a hit that was not heard: on a lane, at the attack near a moment. */
export async function addHit(r: Recording, timeS: number, lane: number, free = false) {
  try {
    const at = free ? timeS : await attackNear(r, timeS);
    const velocity = useBench.getState().strikeVelocity;
    const name = useBench.getState().project?.map.lanes.find((l) => l.note === lane)?.name ?? '';
    await editHits(
      r.id,
      { op: 'add', hits: [], add: [{ time: at, lane, velocity }] },
      `Add a hit of ${name}`,
    );
    chooseAt(r.id, [at]);
  } catch (e) {
    say(explain(e));
  }
}

/** Moves a hit to a moment, and to another lane when one is given; what is chosen with it goes as far. */
export function moveHit(r: Recording, i: number, timeS: number, lane: number | null, snaps: boolean) {
  const h = r.heard.hits[i];
  if (!h) return;
  const go = async () => {
    const at = snaps ? await attackNear(r, timeS) : Math.max(0, timeS);
    const chosen = chosenHits(r);
    const hits = chosen.includes(i) ? chosen : [i];
    const byS = at - h.time;
    await editHits(
      r.id,
      { op: 'move', hits, byS, ...(lane === null ? {} : { toLane: lane }) },
      hits.length > 1 ? `Move ${hits.length} heard hits` : 'Move a heard hit',
    );
    chooseAt(
      r.id,
      hits.map((k) => (r.heard.hits[k]?.time ?? 0) + byS),
    );
  };
  go().catch((e: unknown) => say(explain(e)));
}

/** Puts copies of hits, so much later, on their own lanes or on one. */
async function putCopies(r: Recording, copies: { time: number; lane: number; velocity: number }[]) {
  const end = r.beats[r.beats.length - 1] ?? Infinity;
  const add = copies.filter((c) => c.lane >= 0 && c.time >= 0 && c.time < end);
  if (add.length === 0) return;
  await editHits(
    r.id,
    { op: 'add', hits: [], add },
    add.length === 1 ? 'Copy a heard hit' : `Copy ${add.length} heard hits`,
  );
  chooseAt(
    r.id,
    add.map((a) => a.time),
  );
}

/** Copies a hit to a moment, and to another lane when one is given; what is chosen with it goes as far. */
export function copyHit(r: Recording, i: number, timeS: number, lane: number | null, snaps: boolean) {
  const h = r.heard.hits[i];
  if (!h) return;
  const go = async () => {
    const at = snaps ? await attackNear(r, timeS) : Math.max(0, timeS);
    const chosen = chosenHits(r);
    const hits = chosen.includes(i) ? chosen : [i];
    await putCopies(
      r,
      hits.flatMap((k) => {
        const o = r.heard.hits[k];
        return o
          ? [{ time: o.time + at - h.time, lane: lane ?? r.lanes[k] ?? -1, velocity: o.velocity }]
          : [];
      }),
    );
  };
  go().catch((e: unknown) => say(explain(e)));
}

/** Hits that were copied: their places in beats of the grid, from the beginning of the bar of the first. */
let copied: { beat: number; lane: number; velocity: number }[] = [];

/** The place of a moment on the grid, in beats from bar 1, and the moment of such a place. */
function beatOf(r: Recording, timeS: number): number {
  const i = Math.max(
    0,
    Math.min(
      r.beats.length - 2,
      r.beats.findLastIndex((t) => t <= timeS),
    ),
  );
  const [a, b] = [r.beats[i] ?? 0, r.beats[i + 1] ?? 1];
  return i + (timeS - a) / (b - a);
}
function timeOf(r: Recording, beat: number): number {
  const i = Math.max(0, Math.min(r.beats.length - 2, Math.floor(beat)));
  const [a, b] = [r.beats[i] ?? 0, r.beats[i + 1] ?? 1];
  return a + (beat - i) * (b - a);
}

export function copyChosen(r: Recording) {
  const which = chosenHits(r);
  const per = r.heard.meter.beats;
  const beats = which.map((i) => beatOf(r, r.heard.hits[i]?.time ?? 0));
  const from = Math.floor(Math.min(...beats) / per + 1e-3) * per;
  copied = which.map((i, k) => ({
    beat: (beats[k] ?? 0) - from,
    lane: r.lanes[i] ?? -1,
    velocity: r.heard.hits[i]?.velocity ?? 100,
  }));
  say({
    title: which.length === 1 ? 'Copied a hit' : `Copied ${which.length} hits`,
    detail: 'Paste (Ctrl+V) puts them in the bar after the hit chosen.',
    error: false,
  });
}

/** Puts what was copied in the bar after that of the hit chosen last. */
export function pasteCopied(r: Recording) {
  const which = chosenHits(r);
  const last = r.heard.hits[which[which.length - 1] ?? -1];
  if (copied.length === 0 || !last) return;
  const per = r.heard.meter.beats;
  const bar = (Math.floor(beatOf(r, last.time) / per + 1e-3) + 1) * per;
  putCopies(
    r,
    copied.map((c) => ({ time: timeOf(r, bar + c.beat), lane: c.lane, velocity: c.velocity })),
  ).catch((e: unknown) => say(explain(e)));
}

/** The next hit of the chosen lane, or the one before; in a lane above or below, the one nearest in time. */
export function stepHit(r: Recording, lanes: Lane[], by: 1 | -1, lane: 0 | 1 | -1, onTop: boolean) {
  const { chosen } = get();
  const now = r.heard.hits[chosen];
  const note = useBench.getState().lane;
  const of = (n: number) => r.heard.hits.map((h, i) => ({ h, i })).filter(({ i }) => r.lanes[i] === n);
  if (lane === 0) {
    const list = of(note);
    const t = now?.time ?? (by > 0 ? -1 : Infinity);
    const to = by > 0 ? list.find(({ h }) => h.time > t + 1e-9) : list.findLast(({ h }) => h.time < t - 1e-9);
    if (to) chooseHit(r, to.i, false, onTop);
    return;
  }
  for (let row = lanes.findIndex((l) => l.note === note) + lane; lanes[row]; row += lane) {
    const list = of(lanes[row]?.note ?? -1);
    const t = now?.time ?? 0;
    const near = list.toSorted((a, b) => Math.abs(a.h.time - t) - Math.abs(b.h.time - t))[0];
    if (near) {
      chooseHit(r, near.i, false, onTop);
      return;
    }
  }
}

/** Moves a hit to the attack before it or after it. */
export async function toAttack(r: Recording, i: number, by: 1 | -1) {
  const h = r.heard.hits[i];
  if (!h) return;
  try {
    // looked for ever farther away, until another attack is the nearest
    for (let d = 0.02; d < 1; d += 0.01) {
      // oxlint-disable-next-line no-await-in-loop -- the nearest first
      const at = await attackNear(r, Math.max(0, h.time + by * d), 0.02);
      if ((at - h.time) * by > 0.008 && Math.abs(at - (h.time + by * d)) > 1e-9) {
        moveHit(r, i, at, null, false);
        return;
      }
    }
  } catch (e) {
    say(explain(e));
  }
}

/** The next doubtful hit, or the one before; after the last comes the first. */
export function nextDoubt(r: Recording, by: 1 | -1): boolean {
  const list = doubts(r);
  if (list.length === 0) return false;
  const now = r.heard.hits[get().chosen]?.time ?? (by > 0 ? -1 : Infinity);
  const at = get().chosen;
  const after =
    by > 0
      ? list.find(({ h, i }) => h.time > now || (h.time === now && i > at))
      : list.findLast(({ h, i }) => h.time < now || (h.time === now && i < at));
  const to = after ?? (by > 0 ? list[0] : list[list.length - 1]);
  if (to) chooseHit(r, to.i, true);
  return true;
}

/** Says something of the hit chosen, and goes on to the next doubt when there was one. */
export function judge(r: Recording, op: 'keep' | 'other' | 'out' | 'back') {
  const i = get().chosen;
  const h = r.heard.hits[i];
  if (!h) return;
  if (op === 'other' && !h.or) {
    say({
      title: 'No other drum comes near this one',
      detail: 'Move it to a lane with Alt and the arrows.',
      error: false,
    });
    return;
  }
  const was = r.doubtful[i];
  const words = {
    keep: 'Keep a heard hit',
    other: 'Move a heard hit to the other drum',
    out: 'Take a heard hit out',
    back: 'Bring a heard hit back',
  };
  const hits = op === 'other' ? [i] : chosenHits(r);
  void editHits(r.id, { op, hits }, words[op]).then(() => {
    const next = currentRecording(useBench.getState());
    if (was && next) nextDoubt(next, 1);
  });
}

const listens = new Latest();
const columns = 976;

/** Lets a lane's listener be tried; what it hears shows at once. */
export async function tryListener(r: Recording, lane: number, listener: Listener | null) {
  const { project } = useBench.getState();
  if (!project) return;
  // the sliders go with the hand; what is heard follows
  set((s) =>
    listener && s.trying?.lane === lane
      ? { trying: { ...s.trying, heard: { ...s.trying.heard, listener }, behind: true } }
      : s,
  );
  try {
    const heard = await listens.of(
      api.listen({
        path: { project: project.id, recording: r.id },
        body: { lane, columns, ...(listener ? { listener } : {}) },
      }),
    );
    if (heard) set({ trying: { lane, of: r.id, heard, behind: false } });
  } catch (e) {
    say(explain(e));
  }
}

export function keepListener(r: Recording, lane: number, listener: Listener | null) {
  listens.forget();
  set({ trying: null, chosen: -1 });
  void setListener(r.id, lane, listener);
}

/** From the recording to its hits on the kit and back, at the same loudness. */
export async function compareLoud(r: Recording) {
  const { project, compared } = useBench.getState();
  if (!project) return;
  try {
    const of = `${r.id} ${project.revision}`;
    const known = get().reinforcement;
    const reply =
      known?.of === of
        ? known.r
        : await api.getReinforcement({ path: { project: project.id, recording: r.id } });
    set({ reinforcement: { of, r: reply } });
    const side = compared && !compared.lane && compared.side === 'kit' ? 'recording' : 'kit';
    hearCompared({ side, matchDB: reply.matchDB });
  } catch (e) {
    say(explain(e));
  }
}

/** The chosen lane alone: its band of the recording, then the kit's sound of it, then everything again. */
export async function compareLane(r: Recording) {
  const { project, compared, lane } = useBench.getState();
  if (!project) return;
  const now = compared?.lane?.note === lane ? compared : null;
  if (now?.side === 'kit') hearCompared(null);
  else if (now) hearCompared({ ...now, side: 'kit' });
  else
    try {
      const c = await api.compareLane({
        path: { project: project.id, recording: r.id },
        query: { lane },
      });
      hearCompared({
        side: 'recording',
        matchDB: c.matchDB,
        lane: { note: lane, band: [c.loHz, c.hiHz] },
      });
    } catch (e) {
      say(explain(e));
    }
}

export async function loadReinforcement(r: Recording) {
  const { project } = useBench.getState();
  if (!project) return;
  try {
    const path = { project: project.id, recording: r.id };
    set({
      reinforcement: { of: `${r.id} ${project.revision}`, r: await api.getReinforcement({ path }) },
    });
  } catch (e) {
    say(explain(e));
  }
}

/** Hears a recording again and shows what that would change. */
export async function lookAgain(r: Recording, how: HowAgain) {
  const { project } = useBench.getState();
  if (!project) return;
  try {
    const heard = await again.of(
      api.hearAgain({ path: { project: project.id, recording: r.id }, query: how }),
    );
    if (heard)
      set({
        again: { of: r.id, revision: project.revision, how, heard, shown: 'again' },
        chosen: -1,
        also: [],
      });
  } catch (e) {
    say(explain(e));
  }
}

const again = new Latest();

/** Takes what was heard again, or leaves everything as it is. */
export function endAgain(take: boolean) {
  const now = get().again;
  set({ again: null, chosen: -1, also: [] });
  if (take && now) void hearAgain(now.of, now.how);
}
