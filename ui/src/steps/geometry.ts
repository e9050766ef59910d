// Where things lie on the Steps stage: one bar or several across its width, swing moving the columns themselves. A lane with a
// grid of its own has its own columns.
import type { Hit, LaneGrid, Pattern, Swing } from '../api/client';
import { barTicks, cellOf, gridTicks, leanOf, nearestLine, type Shape, swingShift } from '../model/time';

export const pad = 14;

/** The columns of one grid. */
export interface Columns {
  cells: number;
  /** ticks of a cell, and px */
  cell: number;
  slot: number;
  /** first cell of the bars shown, from the pattern's start */
  firstCell: number;
  hitW: number;
  /** centre of a cell, counted from the first shown */
  x: (cell: number) => number;
  /** where a hit is drawn, and where the grid is; soundsAt, in ticks, is where it sounds when something moves it */
  place: (h: Hit, soundsAt?: number) => { x: number; grid: number | undefined; cell: number };
}

export interface StepsGeometry extends Columns {
  width: number;
  /** first bar shown, and how many are */
  bar: number;
  bars: number;
  /** height of a lane, px */
  rowH: number;
  /** the columns of a lane */
  of: (note: number) => Columns;
  /** place on the stage of a tick of the bars shown, swing left aside */
  at: (tick: number) => number;
}

/** What is shown of a pattern, and how large. */
export interface Page {
  /** first bar shown, and how many are */
  bar: number;
  bars: number;
  /** px */
  width: number;
  rowH: number;
}

function columns(p: Shape, cell: number, swing: Swing, { bar, bars, width, rowH }: Page): Columns {
  const from = bar * barTicks(p);
  const ticks = bars * barTicks(p);
  const firstCell = Math.ceil(from / cell - 1e-9);
  const cells = Math.ceil((from + ticks) / cell - 1e-9) - firstCell;
  const inner = width - 2 * pad;
  const slot = (inner * cell) / ticks;
  // a column's middle stands for its line, half a cell of the pattern's own grid from the bar's edge
  const half = (inner * gridTicks(p.grid)) / ticks / 2;
  const at = (tick: number) => pad + half + ((tick - from) / ticks) * inner;
  const x = (i: number) => {
    const tick = (firstCell + i) * cell;
    return at(tick + swingShift(tick, swing, cell));
  };
  return {
    cells,
    cell,
    slot,
    firstCell,
    hitW: Math.min(rowH - 2, slot * 0.92),
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
  swing: Swing,
  page: Page,
): StepsGeometry {
  const own = columns(p, gridTicks(p.grid), swing, page);
  const made = new Map<number, Columns>([[own.cell, own]]);
  const { width, bar } = page;
  const ticks = barTicks(p);
  return {
    ...own,
    ...page,
    of: (note) => {
      const cell = cellOf(p, note);
      let c = made.get(cell);
      if (!c) {
        c = columns(p, cell, swing, page);
        made.set(cell, c);
      }
      return c;
    },
    at: (tick) => pad + own.slot / 2 + ((tick - bar * ticks) / (page.bars * ticks)) * (width - 2 * pad),
  };
}

/** Hits of the bars shown; those before the first line are shown with bar 1. */
export function hitsShown(p: Pick<Pattern, 'hits'>, g: StepsGeometry): Hit[] {
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

/** The cell nearest to a place on the stage, of those shown. */
export function cellAt(g: Columns, px: number): number {
  let best = 0;
  for (let i = 1; i < g.cells; i++) if (Math.abs(g.x(i) - px) < Math.abs(g.x(best) - px)) best = i;
  return best;
}

/** Name of a column: beats counted, what lies between them said as counted aloud. */
export function columnName(i: number, p: Shape, g: StepsGeometry): string {
  const cell = gridTicks(p.grid);
  const beat = (960 * 4) / p.meter.unit;
  const bar = barTicks(p);
  const tick = ((g.firstCell + i) * cell) % bar;
  if (tick === 0 && g.bars > 1) return `${Math.floor(((g.firstCell + i) * cell) / bar) + 1}.1`;
  if (tick % beat === 0) return String(tick / beat + 1);
  const part = (tick % beat) / (beat / 4);
  return p.meter.unit === 4 && Number.isInteger(part) ? (['', 'e', '&', 'a'][part] ?? '·') : '·';
}

/** The bar a cell of a lane lies in, and its number in that bar, from 1. */
export function stepOf(p: Shape, cell: number, size: number): { bar: number; step: number } {
  const bar = Math.floor((cell * size) / barTicks(p) + 1e-9);
  return { bar, step: cell - Math.ceil((bar * barTicks(p)) / size - 1e-9) + 1 };
}

/** The step as it is said: with its bar when several are shown. */
export function stepName(p: Shape, g: StepsGeometry, note: number, cell: number): string {
  const { bar, step } = stepOf(p, cell, g.of(note).cell);
  return g.bars > 1 ? `Bar ${bar + 1}, step ${step}` : `Step ${step}`;
}

/** How many bars are shown side by side: as many as asked for, or what the width takes by itself. */
export function barsAcross(asked: number, p: Shape & { bars: number }, width: number): number {
  const fit = asked > 0 ? asked : width >= 2800 ? 4 : width >= 1400 ? 2 : 1;
  const cells = barTicks(p) / gridTicks(p.grid);
  let n = Math.min(fit, p.bars);
  // marks narrower than a quarter of a lane cannot be hit
  while (n > 1 && (width - 2 * pad) / (n * cells) < 12) n = Math.floor(n / 2);
  return n;
}

/** The first of the bars shown together with a bar: pages lie side by side, the last one full. */
export const firstOfPage = (bar: number, across: number, bars: number) =>
  Math.max(0, Math.min(Math.floor(bar / across) * across, bars - across));
