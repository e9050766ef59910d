// The metronome's clicks, on the audio thread: they go to the ear alone, after the meter.
import type { Click, Metronome } from './messages';
import { firstFrom } from './sum';

/** pitches of the click and of the one that begins a bar, and how fast it falls */
const clickHz = [1250, 1875] as const;
const clickFallS = 0.012;

/** What is played, as far as clicks go by it. */
export interface Played {
  /** frame at which it began for the first time */
  base: number;
  /** what of it goes round, seconds */
  stretch: [number, number];
  /** how many times through it is played at most */
  times: number;
}

export class Clicks {
  metronome: Metronome | null = null;
  /** clicks that sound: the frame at which each began, and whether it begins a bar */
  private ringing: { frame: number; accent: boolean }[] = [];

  constructor(private readonly rate: number) {}

  stop() {
    this.ringing = [];
  }

  /** Starts the clicks of the block that begins at a frame, and sounds those that ring; null: nothing is played. */
  run(left: Float32Array, right: Float32Array, from: number, played: Played | null) {
    const { metronome: m, rate } = this;
    const to = from + left.length;
    if (m?.places && played) this.along(m.places, from, to, played);
    else if (m && played) this.evenly(m, from, to, played.base);
    if (this.ringing.length === 0) return;
    const level = m?.level ?? 0;
    for (const c of this.ringing) {
      const w = (2 * Math.PI * (c.accent ? clickHz[1] : clickHz[0])) / rate;
      for (let i = Math.max(0, c.frame - from); i < left.length; i++) {
        const t = from + i - c.frame;
        const v = level * Math.sin(w * t) * Math.exp(-t / (clickFallS * rate));
        left[i] = (left[i] as number) + v;
        right[i] = (right[i] as number) + v;
      }
    }
    this.ringing = this.ringing.filter((c) => from - c.frame < 10 * clickFallS * rate);
  }

  private evenly(m: Metronome, from: number, to: number, base: number) {
    const step = m.clickS * this.rate;
    for (let k = Math.ceil((from - base) / step - 1e-6); base + k * step < to; k++) {
      if (m.countInOnly && k >= 0) break;
      const frame = Math.round(base + k * step);
      if (frame >= from) this.ringing.push({ frame, accent: ((k % m.perBar) + m.perBar) % m.perBar === 0 });
    }
  }

  /** Those that fall at places of what is played. */
  private along(places: readonly Click[], from: number, to: number, { base, stretch, times }: Played) {
    const [begin, end] = stretch;
    const length = end - begin;
    const since = (from - base) / this.rate;
    const last = Math.min(times - 1, Math.floor((to - base) / this.rate / length));
    for (let n = Math.max(0, Math.floor(since / length)); n <= last; n++) {
      const first = firstFrom(places, Math.max(begin, since - n * length + begin - 1e-4));
      for (const c of places.slice(first, first + 64)) {
        const frame = base + Math.round((n * length + c.at - begin) * this.rate);
        if (frame >= to || c.at >= end - 1e-6) break;
        if (frame >= from) this.ringing.push({ frame, accent: c.accent });
      }
    }
  }
}
