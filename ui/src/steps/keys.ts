// What the keys do while the grid has the focus. Digits type a velocity only once a key has begun it, so that those that show a
// face never land in a hit.
import { readyTakes } from '../patterns/state';
import type { Hit, Lane, Pattern } from '../api/client';
import { actionFor, type KeyLike } from '../app/actions';
import {
  currentPattern,
  editPattern,
  showAcross,
  strike,
  toggleHeld,
  togglePanel,
  useBench,
} from '../app/state';
import { mostTune } from '../model/constants.gen';
import { barTicks, cellOf, hitAt, msToTicks } from '../model/time';
import { useReady } from '../patterns/state';
import { useSounds } from '../sounds/state';
import { copyLanes, paste } from './clipboard';
import type { StepsGeometry } from './geometry';

let typedEnds = 0;

/** How long typed digits rest before they take effect, ms. */
const typedMS = 1500;

function replace(was: Hit, is: Hit) {
  const moved = was.tick !== is.tick || was.note !== is.note;
  void editPattern({
    op: 'hits',
    ...(moved ? { remove: [{ note: was.note, tick: was.tick }] } : {}),
    put: [is],
  });
}

const clamp = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v));

/** The lane and cell the cursor moves to: in a lane with a grid of its own, the cell nearest in time. */
export function moveCursor(dx: number, dy: number, pattern: Pattern, lanes: Lane[]) {
  const s = useBench.getState();
  const row = clamp(lanes.findIndex((l) => l.note === s.lane) + dy, 0, lanes.length - 1);
  const lane = lanes[row]?.note ?? s.lane;
  const from = cellOf(pattern, s.lane);
  const size = cellOf(pattern, lane);
  const cells = Math.round((pattern.bars * barTicks(pattern)) / size);
  const cell = (Math.round((s.cell * from) / size) + dx + cells) % cells;
  useBench.setState({ cell, lane, bar: Math.floor((cell * size) / barTicks(pattern)) });
}

/** Chooses the lane above or below together with what is chosen. */
function alsoLane(by: number, lanes: Lane[]) {
  const s = useBench.getState();
  const to = lanes[lanes.findIndex((l) => l.note === s.lane) + by];
  if (!to) return;
  useBench.setState({ lane: to.note, alsoLanes: [...new Set([...s.alsoLanes, s.lane, to.note])] });
}

export const stripModes = ['Velocity', 'Timing', 'Split', 'Pan', 'Chance', 'Tune'] as const;
export type StripMode = (typeof stripModes)[number];

/** What can be done at the cursor, by name; the same for keys and for fingers. */
export function gridActions(pattern: Pattern, lanes: Lane[], g: StepsGeometry, nextStrip: () => void) {
  const s = useBench.getState();
  const hit = hitAt(pattern, s.lane, s.cell);
  const bpm = s.project?.settings.bpm ?? 92;
  const size = cellOf(pattern, s.lane);
  const chosen = [...new Set([s.lane, ...s.alsoLanes])];
  const name = lanes.find((l) => l.note === s.lane)?.name ?? '';
  const inBar = { fromBar: s.bar, toBar: s.bar + 1 };
  const change = (to: Partial<Hit>) => hit && replace(hit, { ...hit, ...to });
  const velocity = (v: number) => {
    if (!hit) return;
    change({ velocity: clamp(v, 1, 127) });
    if (!s.playing) strike(hit.note, clamp(v, 1, 127));
  };
  const lean = (ms: number) => {
    const limit = Math.floor(size / 2) - 1;
    const line = s.cell * size;
    if (hit)
      change({
        tick: Math.max(-480, clamp(hit.tick + msToTicks(ms, bpm), line - limit, line + limit)),
      });
  };
  const leanLane = (ms: number) =>
    void editPattern({
      op: 'lean',
      notes: chosen,
      by: msToTicks(ms, bpm),
      ...inBar,
      label: `Lean ${name}`,
    });
  const shift = (by: number) =>
    void editPattern({
      op: 'shift',
      notes: chosen,
      by,
      ...inBar,
      label: `${by < 0 ? 'Earlier' : 'Later'}: ${name}`,
    });
  const toLane = (by: number) => {
    const to = lanes[lanes.findIndex((l) => l.note === s.lane) + by];
    if (!hit || !to || hitAt(pattern, to.note, s.cell)) return;
    change({ note: to.note });
    useBench.setState({ lane: to.note });
    strike(to.note, hit.velocity);
  };
  const put = (v: number) => {
    void editPattern({
      op: 'hits',
      put: [{ note: s.lane, tick: s.cell * size, velocity: v, length: 0, split: 0, slope: 0 }],
    });
    if (!s.playing) strike(s.lane, v);
  };
  const erase = () => hit && void editPattern({ op: 'hits', remove: [{ note: hit.note, tick: hit.tick }] });
  const split = Math.max(1, hit?.split ?? 1);
  const skip = hit?.skip ?? 0;
  const pan = hit?.pan ?? 0;
  const does: Record<string, () => unknown> = {
    left: () => moveCursor(-1, 0, pattern, lanes),
    right: () => moveCursor(1, 0, pattern, lanes),
    up: () => moveCursor(0, -1, pattern, lanes),
    down: () => moveCursor(0, 1, pattern, lanes),
    home: () => moveCursor(Math.ceil((s.bar * barTicks(pattern)) / size) - s.cell, 0, pattern, lanes),
    end: () =>
      moveCursor(Math.ceil(((s.bar + 1) * barTicks(pattern)) / size) - 1 - s.cell, 0, pattern, lanes),
    fewer: () => showAcross(Math.max(1, Math.floor(g.bars / 2))),
    more: () => showAcross(Math.min(4, g.bars * 2)),
    hold: () => toggleHeld(g.bar, g.bars),
    set: () => (hit ? erase() : put(s.strikeVelocity)),
    'set-full': () => (hit ? velocity(127) : put(127)),
    clear: erase,
    louder: () => velocity((hit?.velocity ?? 0) + 4),
    softer: () => velocity((hit?.velocity ?? 0) - 4),
    'louder-1': () => velocity((hit?.velocity ?? 0) + 1),
    'softer-1': () => velocity((hit?.velocity ?? 0) - 1),
    early: () => lean(-1),
    late: () => lean(1),
    'lane-early': () => leanLane(-1),
    'lane-late': () => leanLane(1),
    split: () => change({ split: split >= 8 ? 2 : split + 1 }),
    unsplit: () => change({ split: 0, slope: 0 }),
    'slope-down': () => split > 1 && change({ slope: clamp((hit?.slope ?? 0) - 8, -126, 126) }),
    'slope-up': () => split > 1 && change({ slope: clamp((hit?.slope ?? 0) + 8, -126, 126) }),
    'pan-left': () => change({ pan: clamp(pan - 10, -100, 100) }),
    'pan-right': () => change({ pan: clamp(pan + 10, -100, 100) }),
    'chance-down': () => change({ skip: clamp(skip + 10, 0, 100) }),
    'chance-up': () => change({ skip: clamp(skip - 10, 0, 100) }),
    'tune-down': () => change({ tune: clamp((hit?.tune ?? 0) - 100, -mostTune, mostTune) }),
    'tune-down-fine': () => change({ tune: clamp((hit?.tune ?? 0) - 5, -mostTune, mostTune) }),
    'tune-up-fine': () => change({ tune: clamp((hit?.tune ?? 0) + 5, -mostTune, mostTune) }),
    'tune-up': () => change({ tune: clamp((hit?.tune ?? 0) + 100, -mostTune, mostTune) }),
    'lane-left': () => shift(-1),
    'lane-right': () => shift(1),
    'also-up': () => alsoLane(-1, lanes),
    'also-down': () => alsoLane(1, lanes),
    'hit-up': () => toLane(-1),
    'hit-down': () => toLane(1),
    copy: () => copyLanes(pattern, s.bar, chosen),
    'copy-bar': () => copyLanes(pattern, s.bar, null),
    paste: () => paste(pattern, s.bar, s.lane),
    quantise: () =>
      void editPattern({ op: 'quantise', notes: chosen, strength: 100, ...inBar, label: `Quantise ${name}` }),
    'lane-tools': () => togglePanel('lane'),
    strip: nextStrip,
    leave: () => {
      if (s.alsoLanes.length > 0) useBench.setState({ alsoLanes: [] });
      else (document.activeElement as HTMLElement | null)?.blur();
    },
  };
  return { does, hit, velocity };
}

export function gridKey(
  e: KeyLike,
  pattern: Pattern,
  lanes: Lane[],
  g: StepsGeometry,
  nextStrip: () => void,
): boolean {
  const s = useBench.getState();
  if (readyTakes(e.key)) return false;
  const { does, hit, velocity } = gridActions(pattern, lanes, g, nextStrip);
  const endTyping = (take: boolean) => {
    window.clearTimeout(typedEnds);
    const { typed } = useBench.getState();
    useBench.setState({ typed: null });
    if (take && typed) velocity(Number(typed));
  };
  if (s.typed !== null && !e.altKey && !e.ctrlKey && !e.metaKey) {
    if (/^[0-9]$/.test(e.key)) {
      const next = s.typed + e.key;
      useBench.setState({ typed: Number(next) > 127 ? e.key : next });
      window.clearTimeout(typedEnds);
      typedEnds = window.setTimeout(() => endTyping(true), typedMS);
      return true;
    }
    if (e.key === 'Backspace') {
      useBench.setState({ typed: s.typed.slice(0, -1) });
      return true;
    }
    endTyping(e.key !== 'Escape');
    if (e.key === 'Enter' || e.key === 'Escape') return true;
    // any other key takes the velocity and does its own upon it
    return gridKey(e, currentPattern(useBench.getState()) ?? pattern, lanes, g, nextStrip);
  }
  const id = actionFor('steps', e);
  if (id === 'type-velocity') {
    if (!hit) return true;
    useBench.setState({ typed: '' });
    window.clearTimeout(typedEnds);
    typedEnds = window.setTimeout(() => endTyping(true), 2 * typedMS);
    return true;
  }
  if (!id || !does[id]) return false;
  // Escape ends what is pending, or shuts the panel, before it leaves the grid
  if (id === 'leave' && (s.panel !== '' || useSounds.getState().trying || useReady.getState().heard))
    return false;
  does[id]();
  return true;
}
