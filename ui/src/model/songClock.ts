// The song's clock in the window: bars, ticks and seconds, from the bars the bench tells. Held to the core's by cases that Go wrote.
import type { Song, SongBar } from '../api/client';
import { PPQ, ticksAt } from './time';

/** Where ticks lie in what is played, seconds, and back. */
export interface MusicalTime {
  secondsOf(tick: number): number;
  ticksOf(atS: number): number;
  /** its places are those of a song, which goes on; else what is played comes round and round, evenly */
  along: boolean;
  endS: number;
}

export const evenTime = (bpm: number): MusicalTime => ({
  secondsOf: (tick) => (tick * 60) / (bpm * PPQ),
  ticksOf: (atS) => ticksAt(atS, bpm),
  along: false,
  endS: Infinity,
});

/** The bar before which a moment lies, with how much of it has passed: 2.5 is the middle of the third bar. */
export function barAt(bars: readonly SongBar[], atS: number): number {
  let lo = 0;
  let hi = bars.length - 1;
  while (lo < hi) {
    const mid = (lo + hi + 1) >> 1;
    if ((bars[mid] as SongBar).at <= atS + 1e-9) lo = mid;
    else hi = mid - 1;
  }
  const [a, b] = [bars[lo], bars[lo + 1]];
  if (!a) return 0;
  return lo + (b ? Math.max(0, (atS - a.at) / (b.at - a.at)) : 0);
}

/** The seconds from a bar's beginning to so many ticks of it. Where the tempo glides through the bar from a to b BPM that is the integral of
 * seconds over it, as the core's clock has it. */
function secondsIn(a: SongBar, b: SongBar, ticks: number): number {
  const whole = b.tick - a.tick;
  const steady = (60 * whole) / (a.bpm * PPQ);
  if (Math.abs(steady - (b.at - a.at)) < 1e-9) return (ticks / whole) * steady;
  const slope = (b.bpm - a.bpm) / whole;
  return (60 / (PPQ * slope)) * Math.log1p((slope * ticks) / a.bpm);
}

/** When a tick of the song sounds, seconds; beyond the song at its end. */
export function secondsOfTick(bars: readonly SongBar[], tick: number): number {
  const place = barOfTick(bars, tick);
  const i = Math.floor(place);
  const [a, b] = [bars[i], bars[i + 1]];
  return a ? a.at + (b ? secondsIn(a, b, tick - a.tick) : 0) : 0;
}

/** The tick that sounds at a moment, seconds. */
export function tickOfSeconds(bars: readonly SongBar[], atS: number): number {
  const i = Math.floor(barAt(bars, atS));
  const [a, b] = [bars[i], bars[i + 1]];
  if (!a || !b) return a?.tick ?? 0;
  const whole = b.tick - a.tick;
  const steady = (60 * whole) / (a.bpm * PPQ);
  if (Math.abs(steady - (b.at - a.at)) < 1e-9) return a.tick + ((atS - a.at) / steady) * whole;
  const slope = (b.bpm - a.bpm) / whole;
  return a.tick + (a.bpm / slope) * Math.expm1(((atS - a.at) * PPQ * slope) / 60);
}

/** The beats of the song, or so many places in each of them, for the click. */
export function beatsOf(song: Song, inABeat: number): { at: number; accent: boolean }[] {
  const { bars, meters } = song;
  return bars.slice(0, -1).flatMap((a, bar) => {
    const b = bars[bar + 1] as SongBar;
    const many = (meters.findLast((m) => m.bar <= bar)?.meter.beats ?? 4) * inABeat;
    return Array.from({ length: many }, (_, i) => ({
      at: a.at + secondsIn(a, b, (i * (b.tick - a.tick)) / many),
      accent: i === 0,
    }));
  });
}

/** The bar, with how much of it has passed, of a tick of the song. */
export function barOfTick(bars: readonly SongBar[], tick: number): number {
  let lo = 0;
  let hi = bars.length - 1;
  while (lo < hi) {
    const mid = (lo + hi + 1) >> 1;
    if ((bars[mid] as SongBar).tick <= tick) lo = mid;
    else hi = mid - 1;
  }
  const [a, b] = [bars[lo], bars[lo + 1]];
  if (!a) return 0;
  return lo + (b ? (tick - a.tick) / (b.tick - a.tick) : 0);
}

/** The tick of a place in bars. */
export function tickAt(bars: readonly SongBar[], bar: number): number {
  const i = Math.max(0, Math.min(bars.length - 1, Math.floor(bar)));
  const [a, b] = [bars[i], bars[i + 1]];
  return a ? a.tick + (b ? (bar - i) * (b.tick - a.tick) : 0) : 0;
}

/** The song's time, for what goes out by it. */
export const songTime = (bars: readonly SongBar[]): MusicalTime => ({
  secondsOf: (tick) => secondsOfTick(bars, tick),
  ticksOf: (atS) => tickOfSeconds(bars, atS),
  along: true,
  endS: bars[bars.length - 1]?.at ?? 0,
});
