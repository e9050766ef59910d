// Loudness by ITU-R BS.1770 as the window's meters show it while it plays; what is written is measured by the bench.
import { type Biquad, Section } from './desk';

/** The two filters through which loudness hears, as the core has them. */
function weighting(rate: number): [Biquad, Biquad] {
  const [shelfHz, shelfQ, shelfDB] = [1681.974450955533, 0.7071752369554196, 3.999843853973347];
  const [passHz, passQ] = [38.13547087602444, 0.5003270373238773];
  let k = Math.tan((Math.PI * shelfHz) / rate);
  const vh = 10 ** (shelfDB / 20);
  const vb = vh ** 0.4996667741545416;
  let a0 = 1 + k / shelfQ + k * k;
  const shelf: Biquad = [
    (vh + (vb * k) / shelfQ + k * k) / a0,
    (2 * (k * k - vh)) / a0,
    (vh - (vb * k) / shelfQ + k * k) / a0,
    (2 * (k * k - 1)) / a0,
    (1 - k / shelfQ + k * k) / a0,
  ];
  k = Math.tan((Math.PI * passHz) / rate);
  a0 = 1 + k / passQ + k * k;
  return [shelf, [1, -2, 1, (2 * (k * k - 1)) / a0, (1 - k / passQ + k * k) / a0]];
}

/** Hears blocks of stereo sound and tells mean squares of tenths of a second. */
export class Hops {
  private readonly filters: Section[];
  private readonly tenth: number;
  private readonly x = new Float64Array(128);
  private sum = 0;
  private n = 0;
  /** those that are whole and were not taken yet */
  done: number[] = [];

  constructor(rate: number) {
    this.filters = weighting(rate).map((f) => new Section(f));
    this.tenth = Math.floor(rate / 10);
  }

  write(sides: [Float32Array, Float32Array]) {
    const { x } = this;
    const energy = this.energy.fill(0);
    sides.forEach((side, i) => {
      x.set(side);
      for (const f of this.filters) f.run(i as 0 | 1, x);
      for (let k = 0; k < x.length; k++) energy[k] = (energy[k] as number) + (x[k] as number) ** 2;
    });
    for (const e of energy) {
      this.sum += e;
      if (++this.n < this.tenth) continue;
      this.done.push(this.sum / this.tenth);
      this.sum = this.n = 0;
    }
  }

  private readonly energy = new Float64Array(128);
}

export const quietest = -120;

/** The loudness of a mean square, LUFS. */
export const lufs = (square: number) => (square < 1e-12 ? quietest : -0.691 + 10 * Math.log10(square));

/** The loudness of the last tenths of a second, LUFS: 30 are short-term, 4 momentary. */
export function lately(hops: readonly number[], tenths: number): number {
  const some = hops.slice(-tenths);
  return some.length < tenths ? quietest : lufs(some.reduce((a, b) => a + b, 0) / tenths);
}
