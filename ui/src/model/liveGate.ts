// The gate of a listener that hears an input as it comes, repeated from the core for the audio thread; held to the core's cases.
import type { Listener } from '../api/client';
import { againDB, beginsUnder, lookS, risesS } from './constants.gen';

export interface LiveStrike {
  /** at which the gate opened, counted from the first that was fed */
  frame: number;
  velocity: number;
}

/** A second-order section (RBJ's cookbook), as in core/sound. */
class Biquad {
  private x1 = 0;
  private x2 = 0;
  private y1 = 0;
  private y2 = 0;
  private readonly b: [number, number, number];
  private readonly a: [number, number];

  constructor(hz: number, rate: number, high: boolean) {
    const w = (2 * Math.PI * Math.max(10, Math.min(hz, rate * 0.47))) / rate;
    const c = Math.cos(w);
    const alpha = Math.sin(w) / Math.SQRT2;
    const edge = high ? (1 + c) / 2 : (1 - c) / 2;
    const a0 = 1 + alpha;
    this.b = [edge / a0, (high ? -1 - c : 1 - c) / a0, edge / a0];
    this.a = [(-2 * c) / a0, (1 - alpha) / a0];
  }

  next(x: number): number {
    const { b, a } = this;
    const y = b[0] * x + b[1] * this.x1 + b[2] * this.x2 - a[0] * this.y1 - a[1] * this.y2;
    this.x2 = this.x1;
    this.x1 = x;
    this.y2 = this.y1;
    this.y1 = y;
    return y;
  }
}

const amplitude = (db: number) => 10 ** (db / 20);

export class LiveGate {
  private readonly filters: Biquad[];
  private readonly rise: number;
  private readonly fall: number;
  private level = 0;
  private lowest = 0;
  private loudest: number;
  private open = false;
  private frame = 0;
  private last = -Infinity;
  private opening = -1;
  private top = 0;

  constructor(
    private readonly of: Listener,
    private readonly rate: number,
  ) {
    const hi = Math.min(of.hiHz, rate * 0.45);
    this.filters = [true, true, false, false].map((high) => new Biquad(high ? of.loHz : hi, rate, high));
    this.rise = 1 - Math.exp(-1 / (Math.max(0.0005, 0.05 / of.loHz) * rate));
    this.fall = 1 - Math.exp(-1 / (0.03 * rate));
    this.loudest = amplitude(Math.max(-beginsUnder, of.openDB));
  }

  /** The level of the band now, dB under full scale. */
  get db(): number {
    return 20 * Math.log10(this.level + 1e-9);
  }

  /** Takes what came in next, one channel, and gives the strokes that are heard in it. */
  feed(block: ArrayLike<number>): LiveStrike[] {
    const strikes: LiveStrike[] = [];
    const { of, rate } = this;
    const opens = amplitude(of.openDB);
    const closes = amplitude(of.closeDB);
    const again = amplitude(againDB);
    // a stroke still swells within its gap
    const swells = Math.max(of.gapMS / 1000, risesS) * rate;
    for (let i = 0; i < block.length; i++) {
      let y = block[i] as number;
      for (const f of this.filters) y = f.next(y);
      y = Math.abs(y);
      this.level += (y - this.level) * (y > this.level ? this.rise : this.fall);
      const since = this.frame - this.last;
      this.lowest = since < swells ? this.level : Math.min(this.lowest, this.level);
      if (of.off) {
        // hears nothing
      } else if (this.opening >= 0) {
        this.top = Math.max(this.top, this.level);
        if (this.frame - this.opening >= lookS * rate) {
          this.loudest = Math.max(this.loudest, this.top);
          const velocity = Math.round(127 * Math.sqrt(this.top / this.loudest));
          strikes.push({ frame: this.opening, velocity: Math.min(127, Math.max(1, velocity)) });
          this.last = this.opening;
          this.opening = -1;
        }
      } else if (
        this.level >= opens &&
        (!this.open || this.level >= this.lowest * again) &&
        since >= (of.gapMS / 1000) * rate
      ) {
        this.open = true;
        this.opening = this.frame;
        this.top = this.level;
      } else if (this.open && this.level < closes) this.open = false;
      this.frame++;
    }
    return strikes;
  }
}
