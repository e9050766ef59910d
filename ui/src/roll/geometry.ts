// Where things lie on the Roll stage: time runs on freely, lanes as high as everywhere.
import type { Hit, Lane } from '../api/client';
import { nearestLine } from '../model/time';

export interface RollView {
  /** first tick shown, and px a tick */
  from: number;
  perTick: number;
  /** height of a lane, px */
  rowH: number;
}

/** Size of a hit: it grows with its lane. */
export const hitSize = (v: Pick<RollView, 'rowH'>) => {
  const by = Math.min(1.6, v.rowH / 32);
  return { hitW: Math.round(22 * by), hitH: Math.round(19 * by) };
};

export const keyOf = (h: { note: number; tick: number }) => `${h.note} ${h.tick}`;

/** The hit under a place on the stage, the topmost first. */
export function hitUnder(hits: Hit[], lanes: Lane[], v: RollView, x: number, y: number): Hit | undefined {
  const { rowH } = v;
  const { hitW, hitH } = hitSize(v);
  const lane = lanes[Math.floor(y / rowH)];
  if (!lane || Math.abs((y % rowH) - rowH / 2) > hitH / 2 + 2) return undefined;
  let best: Hit | undefined;
  let near = hitW / 2 + 2;
  for (const h of hits) {
    if (h.note !== lane.note) continue;
    const d = Math.abs((h.tick - v.from) * v.perTick - x);
    if (d <= near) {
      near = d;
      best = h;
    }
  }
  return best;
}

/** The hit whose end (of a length of its own) is under a place. */
export function endUnder(hits: Hit[], lanes: Lane[], v: RollView, x: number, y: number): Hit | undefined {
  const lane = lanes[Math.floor(y / v.rowH)];
  return hits.find(
    (h) =>
      h.length > 0 && h.note === lane?.note && Math.abs((h.tick + h.length - v.from) * v.perTick - x) < 6,
  );
}

/** Whether a place lies inside a line drawn round (even-odd rule). */
export function insideLine(line: [number, number][], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = line.length - 1; i < line.length; j = i++) {
    const [xi, yi] = line[i] as [number, number];
    const [xj, yj] = line[j] as [number, number];
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) inside = !inside;
  }
  return inside;
}

/** The most of a move that keeps all hits in the pattern, in whole steps where it snaps. */
export function fitting(hits: Hit[], ticks: number, step: number, length: number): number {
  const least = Math.min(...hits.map((h) => h.tick));
  const most = Math.max(...hits.map((h) => h.tick));
  let by = ticks;
  if (most + by >= length) by -= Math.ceil((most + by - length + 1) / step) * step;
  if (least + by < -480) by += Math.ceil((-480 - least - by) / step) * step;
  return by;
}

/** Moves hits in time and by lanes, kept inside the pattern; those that leave the lanes stay on the outermost. */
export function moved(hits: Hit[], lanes: Lane[], ticks: number, rows: number, length: number): Hit[] {
  const least = Math.min(...hits.map((h) => h.tick));
  const most = Math.max(...hits.map((h) => h.tick));
  const by = Math.max(-480 - least, Math.min(length - 1 - most, ticks));
  return hits.map((h) => {
    const row = lanes.findIndex((l) => l.note === h.note);
    const to = lanes[Math.max(0, Math.min(lanes.length - 1, row + rows))];
    return { ...h, tick: h.tick + by, note: row < 0 || !to ? h.note : to.note };
  });
}

export const snapped = (tick: number, cell: number, free: boolean) =>
  free ? Math.round(tick) : nearestLine(tick, cell);
