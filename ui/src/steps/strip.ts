// What the strip shows of a hit in each of its modes, and what dragging there makes of it.
import type { Hit } from '../api/client';
import { mostTune } from '../model/constants.gen';
import { leanOf, strokes, ticksToMS, tuneWords } from '../model/time';
import type { StripMode } from './keys';

export const clamp = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v));

/** As far as a hit may lean in a cell. */
const half = (cell: number) => Math.floor(cell / 2) - 1;

export interface Drawn {
  mode: StripMode;
  bpm: number;
  /** ticks of a cell of the hit's lane */
  cellOf: (h: Hit) => number;
}

/** What a mode shows of a hit: how far up from the foot (or from the middle) its bar goes, and its words. */
interface Show {
  /** from the middle: −1 to 1; from the foot: 0 to 1 */
  share: number;
  label: string;
}

export function shownAs(h: Hit, { mode, bpm, cellOf }: Drawn): Show {
  const lean = leanOf(h, cellOf(h));
  switch (mode) {
    case 'Timing':
      return { share: lean / half(cellOf(h)), label: `${Math.round(ticksToMS(lean, bpm))} ms` };
    case 'Pan':
      return {
        share: (h.pan ?? 0) / 100,
        label: (h.pan ?? 0) === 0 ? 'mid' : `${Math.abs(h.pan ?? 0)} ${(h.pan ?? 0) < 0 ? 'L' : 'R'}`,
      };
    case 'Tune':
      return { share: (h.tune ?? 0) / mostTune, label: tuneWords(h.tune ?? 0) };
    case 'Chance':
      return { share: 1 - (h.skip ?? 0) / 100, label: `${100 - (h.skip ?? 0)}%` };
    case 'Split':
      return { share: Math.max(1, h.split) / 8, label: `×${Math.max(1, h.split)}` };
    default:
      return { share: h.velocity / 127, label: strokes(h).join(' ') };
  }
}

/** A hit as a drag to a height leaves it; dx is how far from its middle. */
export function dragged(h: Hit, share: number, dx: number, { mode, cellOf }: Drawn): Hit {
  switch (mode) {
    case 'Timing': {
      const line0 = h.tick - leanOf(h, cellOf(h));
      return { ...h, tick: Math.max(-480, line0 + Math.round((share - 0.5) * 2 * half(cellOf(h)))) };
    }
    case 'Pan': {
      const pan = Math.round((share - 0.5) * 200);
      return { ...h, pan: Math.abs(pan) < 6 ? 0 : pan };
    }
    case 'Tune':
      return { ...h, tune: Math.round(((share - 0.5) * 2 * mostTune) / 100) * 100 };
    case 'Chance':
      return { ...h, skip: 100 - Math.round(share * 20) * 5 };
    case 'Split': {
      const split = Math.round(1 + share * 7);
      return split <= 1 ? { ...h, split: 0, slope: 0 } : { ...h, split };
    }
    default: {
      const velocity = clamp(Math.round(share * 127), 1, 127);
      const n = Math.max(1, h.split);
      const which = clamp(Math.floor(n / 2 + dx / 10), 0, n - 1);
      // a later stroke of a split slopes those between
      if (which > 0) return { ...h, slope: clamp(Math.round((velocity - h.velocity) / which), -126, 126) };
      return { ...h, velocity };
    }
  }
}
