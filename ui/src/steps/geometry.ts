// Where things lie on the Steps stage: one bar across its width, swing moving the columns themselves.
import type { Hit, Pattern, Swing } from '../api/client';
import { barTicks, gridTicks, leanOf, nearestLine, type Shape, swingShift } from '../lanes/time';

export const pad = 14;
export const rowH = 32;

export interface StepsGeometry {
  width: number;
  cells: number;
  /** ticks of a cell, and px */
  cell: number;
  slot: number;
  bar: number;
  /** first cell of the bar shown, from the pattern's start */
  firstCell: number;
  hitW: number;
  /** centre of a cell of the bar shown */
  x: (cellInBar: number) => number;
  /** where a hit is drawn, and where the grid is */
  place: (h: Hit) => { x: number; grid: number | undefined; cell: number };
}

export function stepsGeometry(p: Shape, bar: number, swing: Swing, width: number): StepsGeometry {
  const cell = gridTicks(p.grid);
  const cells = Math.ceil(barTicks(p) / cell);
  const slot = (width - 2 * pad) / (barTicks(p) / cell);
  const firstCell = Math.round((bar * barTicks(p)) / cell);
  const x = (i: number) => pad + slot * (i + 0.5) + (swingShift((firstCell + i) * cell, swing) / cell) * slot;
  return {
    width,
    cells,
    cell,
    slot,
    bar,
    firstCell,
    hitW: Math.min(30, slot * 0.92),
    x,
    place: (h) => {
      const line = nearestLine(h.tick, cell);
      const index = Math.round(line / cell) - firstCell;
      const lean = leanOf(h, cell);
      const at = x(index);
      return {
        x: Math.max(8, at + (lean / cell) * slot),
        grid: lean === 0 ? undefined : at,
        cell: index + firstCell,
      };
    },
  };
}

/** Hits of the bar shown; those before the first line are shown with bar 1. */
export function hitsInBar(p: Pattern, g: StepsGeometry): Hit[] {
  return p.hits.filter((h) => {
    const c = Math.max(0, Math.round(nearestLine(h.tick, g.cell) / g.cell));
    return c >= g.firstCell && c < g.firstCell + g.cells;
  });
}

/** The cell nearest to a place on the stage, within the bar shown. */
export function cellAt(g: StepsGeometry, px: number): number {
  let best = 0;
  for (let i = 1; i < g.cells; i++) if (Math.abs(g.x(i) - px) < Math.abs(g.x(best) - px)) best = i;
  return best;
}

/** Name of a column: beats counted, what lies between them said as counted aloud. */
export function columnName(i: number, p: Shape): string {
  const cell = gridTicks(p.grid);
  const beat = (960 * 4) / p.meter.unit;
  const tick = i * cell;
  if (tick % beat === 0) return String(tick / beat + 1);
  const part = (tick % beat) / (beat / 4);
  return p.meter.unit === 4 && Number.isInteger(part) ? (['', 'e', '&', 'a'][part] ?? '·') : '·';
}
