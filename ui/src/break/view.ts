// The stretch of a recording that is shown, in free time.
import type { Recording } from '../api/client';
import { pad } from '../steps/geometry';
import { barsShown } from './state';

/** A page of bars on the stage, and where its moments stand. */
export interface View {
  width: number;
  /** seconds of the stage's left and right grid edge, from the file's start */
  fromS: number;
  toS: number;
  firstBar: number;
  bars: number;
  x: (s: number) => number;
  /** length of a beat of the tempo, and when each beat shown begins (with the last one's end) */
  beatS: number;
  beats: number[];
  /** the moment at a place */
  at: (x: number) => number;
}

export function viewOf(r: Recording, page: number, width: number): View {
  const per = r.heard.meter.beats;
  const beatS = (60 / r.heard.bpm) * (4 / r.heard.meter.unit);
  const firstBar = page * barsShown;
  const bars = Math.min(barsShown, r.heard.bars - firstBar);
  const first = firstBar * per;
  const beats = r.beats.slice(first, first + bars * per + 1);
  const fromS = beats[0] ?? 0;
  const last = beats[beats.length - 1] ?? fromS;
  const toS = last + (barsShown - bars) * per * beatS;
  return {
    width,
    fromS,
    toS,
    firstBar,
    bars,
    beats,
    beatS,
    x: (s) => pad + ((s - fromS) / (toS - fromS)) * (width - 2 * pad),
    at: (x) => fromS + ((x - pad) / (width - 2 * pad)) * (toS - fromS),
  };
}

/** Whether a moment is shown. */
export const inView = (v: View, t: number) =>
  t >= v.fromS - v.beatS / 8 && t < (v.beats[v.beats.length - 1] ?? v.toS) - v.beatS / 64;
