// What is chosen and tried in Break.
import { create } from 'zustand';
import { api, type Listener, type Listening, type Recording, type ReinforceReply } from '../api/client';
import {
  currentRecording,
  editHits,
  explain,
  play,
  say,
  hearCompared,
  setListener,
  stop,
  useBench,
} from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';

interface Break {
  /** the hit chosen, by its place in the list; −1: none */
  chosen: number;
  /** a listener that is tried for a lane: what it hears, before it is kept */
  trying: { lane: number; of: string; heard: Listening } | null;
  /** which proposal's hits are shown struck through */
  proposal: number;
  reinforcement: { of: string; r: ReinforceReply } | null;
  /** which bars are shown, from 0 */
  page: number;
}

export const useBreak = create<Break>()(() => ({
  chosen: -1,
  trying: null,
  proposal: -1,
  reinforcement: null,
  page: 0,
}));

const get = useBreak.getState;
const set = useBreak.setState;

/** Hits the person may still want to look at, in time. */
export const doubts = (r: Recording) =>
  r.heard.hits.map((h, i) => ({ h, i })).filter(({ i }) => r.doubtful[i]);

/** Bars the stage shows at once. */
export const barsShown = 2;

export const pagesOf = (r: Recording) => Math.ceil(r.heard.bars / barsShown);

/** Shows other bars. */
export function turnPage(r: Recording, by: number) {
  set(({ page }) => ({ page: Math.min(pagesOf(r) - 1, Math.max(0, page + by)) }));
}

/** Brings a moment of the recording into view. */
export function showMoment(r: Recording, timeS: number) {
  const beat = r.beats.findLastIndex((t) => t <= timeS + 0.01);
  const page = Math.floor(beat / (r.heard.meter.beats * barsShown));
  set({ page: Math.min(pagesOf(r) - 1, Math.max(0, page)) });
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

export function chooseHit(r: Recording, i: number, hear: boolean) {
  const h = r.heard.hits[i];
  if (!h) return;
  set({ chosen: i });
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

/** Chooses the hit of a lane that lies at a moment, once it is there. */
function chooseAt(id: string, timeS: number) {
  const r = useBench.getState().project?.recordings.find((x) => x.id === id);
  const i = r?.heard.hits.findIndex((h) => Math.abs(h.time - timeS) < 5e-4 && h.state === 'kept') ?? -1;
  if (i >= 0) set({ chosen: i });
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
    chooseAt(r.id, at);
  } catch (e) {
    say(explain(e));
  }
}

/** Moves a hit to a moment, and to another lane when one is given. */
export function moveHit(r: Recording, i: number, timeS: number, lane: number | null, snaps: boolean) {
  const h = r.heard.hits[i];
  if (!h) return;
  const go = async () => {
    const at = snaps ? await attackNear(r, timeS) : Math.max(0, timeS);
    await editHits(
      r.id,
      { op: 'move', hits: [i], byS: at - h.time, ...(lane === null ? {} : { toLane: lane }) },
      'Move a heard hit',
    );
    chooseAt(r.id, at);
  };
  go().catch((e: unknown) => say(explain(e)));
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
  void editHits(r.id, { op, hits: [i] }, words[op]).then(() => {
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
      ? { trying: { ...s.trying, heard: { ...s.trying.heard, listener } } }
      : s,
  );
  try {
    const heard = await listens.of(
      api.listen({
        path: { project: project.id, recording: r.id },
        body: { lane, columns, ...(listener ? { listener } : {}) },
      }),
    );
    if (heard) set({ trying: { lane, of: r.id, heard } });
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
