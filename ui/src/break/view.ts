// The stretch of a recording that is shown, in free time.
import type { Recording } from '../api/client';
import { pad } from '../steps/geometry';

/** What the stage can show at once, in bars: from many to a single hit. */
export const zooms = [16, 8, 4, 2, 1, 1 / 2, 1 / 4, 1 / 8];

/** A page of bars on the stage, and where its moments stand. */
export interface View {
  width: number;
  /** height of a lane, px */
  rowH: number;
  /** seconds of the stage's left and right grid edge, from the file's start, and where its bars end */
  fromS: number;
  toS: number;
  endS: number;
  x: (s: number) => number;
  /** length of a beat of the tempo, s */
  beatS: number;
  /** when each beat shown begins (with the last one's end), and the number of the first, from 0 */
  beats: number[];
  firstBeat: number;
  /** the moment at a place */
  at: (x: number) => number;
}

/** A page, so many bars long, of the recording. */
export function viewOf(r: Recording, page: number, zoom: number, width: number, rowH: number): View {
  const per = r.heard.meter.beats;
  const beatS = (60 / r.heard.bpm) * (4 / r.heard.meter.unit);
  const last = r.beats.length - 1;
  const timeOf = (beat: number) => {
    const i = Math.min(last, Math.floor(beat));
    const t = r.beats[i] ?? 0;
    return t + (beat - i) * (i < last ? (r.beats[i + 1] ?? t) - t : beatS);
  };
  const from = page * zoom * per;
  const to = from + zoom * per;
  const firstBeat = Math.floor(from + 1e-9);
  const fromS = timeOf(from);
  const toS = timeOf(to);
  return {
    width,
    rowH,
    fromS,
    toS,
    endS: timeOf(Math.min(to, last)),
    firstBeat,
    beats: r.beats.slice(firstBeat, Math.ceil(to - 1e-9) + 1),
    beatS,
    x: (s) => pad + ((s - fromS) / (toS - fromS)) * (width - 2 * pad),
    at: (x) => fromS + ((x - pad) / (width - 2 * pad)) * (toS - fromS),
  };
}

/** Whether a moment is shown. */
export function inView(v: View, t: number): boolean {
  const early = (v.toS - v.fromS) / 64;
  return t >= v.fromS - early && t < v.endS - early / 8;
}
