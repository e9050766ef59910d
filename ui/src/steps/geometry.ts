// Where things lie on the Steps stage: one bar across its width, swing moving the columns themselves. A lane with a grid of
// its own has its own columns.
import type { Hit, LaneGrid, Pattern, Swing } from '../api/client';
import { barTicks, cellOf, gridTicks, leanOf, nearestLine, type Shape, swingShift } from '../model/time';

export const pad = 14;
export const rowH = 32;

/** The columns of one grid. */
export interface Columns {
  cells: number;
  /** ticks of a cell, and px */
  cell: number;
  slot: number;
  /** first cell of the bar shown, from the pattern's start */
  firstCell: number;
  hitW: number;
  /** centre of a cell of the bar shown */
  x: (cellInBar: number) => number;
  /** where a hit is drawn, and where the grid is; soundsAt, in ticks, is where it sounds when something moves it */
  place: (h: Hit, soundsAt?: number) => { x: number; grid: number | undefined; cell: number };
}

export interface StepsGeometry extends Columns {
  width: number;
  bar: number;
  /** the columns of a lane */
  of: (note: number) => Columns;
  /** place on the stage of a tick of the bar shown, swing left aside */
  at: (tick: number) => number;
}

function columns(p: Shape, cell: number, bar: number, swing: Swing, width: number): Columns {
  const ticks = barTicks(p);
  const firstCell = Math.ceil((bar * ticks) / cell - 1e-9);
  const cells = Math.ceil(((bar + 1) * ticks) / cell - 1e-9) - firstCell;
  const inner = width - 2 * pad;
  const slot = (inner * cell) / ticks;
  // a column's middle stands for its line, half a cell of the pattern's own grid from the bar's edge
  const half = (inner * gridTicks(p.grid)) / ticks / 2;
  const at = (tick: number) => pad + half + ((tick - bar * ticks) / ticks) * inner;
  const x = (i: number) => {
    const tick = (firstCell + i) * cell;
    return at(tick + swingShift(tick, swing, cell));
  };
  return {
    cells,
    cell,
    slot,
    firstCell,
    hitW: Math.min(30, slot * 0.92),
    x,
    place: (h, soundsAt) => {
      const line = nearestLine(h.tick, cell);
      const index = Math.round(line / cell) - firstCell;
      const lean = leanOf(h, cell);
      const grid = x(index);
      const drawn = soundsAt === undefined ? grid + (lean / cell) * slot : at(soundsAt);
      return {
        x: Math.max(8, drawn),
        grid: Math.abs(drawn - grid) < 0.5 ? undefined : grid,
        cell: index + firstCell,
      };
    },
  };
}

export function stepsGeometry(
  p: Shape & { lanes?: Record<string, LaneGrid> },
  bar: number,
  swing: Swing,
  width: number,
): StepsGeometry {
  const own = columns(p, gridTicks(p.grid), bar, swing, width);
  const made = new Map<number, Columns>([[own.cell, own]]);
  const ticks = barTicks(p);
  return {
    ...own,
    width,
    bar,
    of: (note) => {
      const cell = cellOf(p, note);
      let c = made.get(cell);
      if (!c) {
        c = columns(p, cell, bar, swing, width);
        made.set(cell, c);
      }
      return c;
    },
    at: (tick) => pad + own.slot / 2 + ((tick - bar * ticks) / ticks) * (width - 2 * pad),
  };
}

/** Hits of the bar shown; those before the first line are shown with bar 1. */
export function hitsInBar(p: Pick<Pattern, 'hits'>, g: StepsGeometry): Hit[] {
  const known = inBars.get(p.hits) ?? new WeakMap<StepsGeometry, Hit[]>();
  inBars.set(p.hits, known);
  const found = known.get(g) ?? hitsOf(p, g);
  known.set(g, found);
  return found;
}

// asked for several times while one thing is drawn
const inBars = new WeakMap<Hit[], WeakMap<StepsGeometry, Hit[]>>();

function hitsOf(p: Pick<Pattern, 'hits'>, g: StepsGeometry): Hit[] {
  return p.hits.filter((h) => {
    const { cell, firstCell, cells } = g.of(h.note);
    const c = Math.max(0, Math.round(nearestLine(h.tick, cell) / cell));
    return c >= firstCell && c < firstCell + cells;
  });
}

/** The cell nearest to a place on the stage, within the bar shown. */
export function cellAt(g: Columns, px: number): number {
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
