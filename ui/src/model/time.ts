// Musical time as the stage draws it. The rules are the core's; what is repeated here to place marks at once is held to it by
// cases that Go wrote.
import type { Hit, Pattern, Swing } from '../api/client';
import { gridLengths, grids, noteNames, PPQ } from './constants.gen';

export { grids, PPQ };

export const gridTicks = (grid: string): number => gridLengths[grid] ?? PPQ / 4;

/** What of a pattern decides how its cells lie. */
export type Shape = Pick<Pattern, 'grid' | 'meter'>;

export const beatTicks = (p: Shape) => (PPQ * 4) / p.meter.unit;
export const barTicks = (p: Shape) => beatTicks(p) * p.meter.beats;
export const nearestLine = (tick: number, cell: number) => Math.floor(tick / cell + 0.5) * cell;

/** How many ticks later the swing makes a tick sound on a lane with cells of laneCell ticks, as drawn. Triplets and dotted notes are
 * not bent. */
export function swingShift(tick: number, swing: Swing, laneCell: number): number {
  const cell = gridTicks(swing.grid);
  if ((laneCell % cell !== 0 && cell % laneCell !== 0) || (tick % 160 === 0 && tick % 60 !== 0)) return 0;
  return Math.floor(tick / cell + 0.5) % 2 === 0 ? 0 : (swing.percent / 50 - 1) * cell;
}

export const leanOf = (h: Hit, cell: number) => h.tick - nearestLine(h.tick, cell);
export const ticksToMS = (ticks: number, bpm: number) => (ticks * 60000) / (bpm * PPQ);
export const ticksAt = (atS: number, bpm: number) => (atS * bpm * PPQ) / 60;
export const msToTicks = (ms: number, bpm: number) => Math.round((ms * bpm * PPQ) / 60000);

export const strokes = (h: Hit): number[] =>
  Array.from({ length: Math.max(1, h.split) }, (_, i) =>
    Math.min(127, Math.max(1, h.velocity + i * h.slope)),
  );

/** Ticks of a cell of a lane's grid, its own or the pattern's. */
export const cellOf = (p: Pick<Pattern, 'grid' | 'lanes'>, note: number) =>
  gridTicks(p.lanes?.[note]?.grid || p.grid);

/** After how many ticks a lane begins again. */
export function loopOf(p: Pick<Pattern, 'grid' | 'lanes' | 'bars' | 'meter'>, note: number): number {
  const cells = p.lanes?.[note]?.cells ?? 0;
  const length = p.bars * barTicks(p);
  return cells > 0 ? Math.min(length, cells * cellOf(p, note)) : length;
}

/** The hit whose nearest line is the cell's, the one closest to it if there are several. */
export function hitAt(p: Pattern, note: number, cell: number): Hit | undefined {
  const size = cellOf(p, note);
  let best: Hit | undefined;
  for (const h of p.hits) {
    if (h.note !== note || nearestLine(h.tick, size) !== cell * size) continue;
    if (!best || Math.abs(leanOf(h, size)) < Math.abs(leanOf(best, size))) best = h;
  }
  return best;
}

export const lateness = (ms: number) =>
  Math.abs(ms) < 0.5 ? 'on the grid' : `${Math.abs(Math.round(ms))} ms ${ms < 0 ? 'early' : 'late'}`;

let middleC = 4;

/** Sets the octave in which names count middle C. */
export const setMiddleC = (octave: number) => {
  middleC = octave;
};

const flats: Record<string, string> = { db: 'c#', eb: 'd#', gb: 'f#', ab: 'g#', bb: 'a#' };

/** Reads a note as a number or a name; null when it is none. */
export function parseNote(text: string): number | null {
  const s = text.trim().toLowerCase();
  const name = s.replace(/^[a-g]b/, (f) => flats[f] ?? f);
  const n = /^\d+$/.test(s)
    ? Number(s)
    : (noteNames[middleC] ?? []).findIndex((x) => x.toLowerCase() === name);
  return n >= 0 && n <= 127 ? n : null;
}

/** Name of a note; its number always goes before it. */
export const noteName = (note: number): string => noteNames[middleC]?.[note] ?? '';

/** A tune in semitones, cents after the point. */
export const tuneWords = (cents: number) =>
  cents === 0 ? '0' : `${cents > 0 ? '+' : '−'}${Number((Math.abs(cents) / 100).toFixed(2))}`;
