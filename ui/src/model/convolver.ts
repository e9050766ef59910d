// Convolution without delay, for the room: the response's first 1024 frames by pieces of one block, the rest by pieces of 1024 (overlap-save).

const block = 128;
const large = 1024;

/** The discrete Fourier transform of a power of two, in place. */
export class Transform {
  private readonly cos: Float64Array;
  private readonly sin: Float64Array;
  private readonly order: Uint32Array;

  constructor(readonly size: number) {
    this.cos = Float64Array.from({ length: size / 2 }, (_, i) => Math.cos((2 * Math.PI * i) / size));
    this.sin = Float64Array.from({ length: size / 2 }, (_, i) => Math.sin((2 * Math.PI * i) / size));
    const bits = Math.log2(size);
    this.order = Uint32Array.from({ length: size }, (_, i) => {
      let r = 0;
      for (let b = 0; b < bits; b++) r |= ((i >> b) & 1) << (bits - 1 - b);
      return r;
    });
  }

  run(re: Float64Array, im: Float64Array, back: boolean) {
    const { size, cos, sin, order } = this;
    for (let i = 0; i < size; i++) {
      const j = order[i] as number;
      if (j <= i) continue;
      [re[i], re[j]] = [re[j] as number, re[i] as number];
      [im[i], im[j]] = [im[j] as number, im[i] as number];
    }
    const sign = back ? 1 : -1;
    for (let half = 1; half < size; half *= 2) {
      const step = size / (2 * half);
      for (let i = 0; i < size; i += 2 * half) {
        for (let k = 0; k < half; k++) {
          const c = cos[k * step] as number;
          const s = sign * (sin[k * step] as number);
          const [a, b] = [i + k, i + k + half];
          const [x, y] = [re[b] as number, im[b] as number];
          const [u, v] = [x * c - y * s, x * s + y * c];
          const [p, q] = [re[a] as number, im[a] as number];
          re[b] = p - u;
          im[b] = q - v;
          re[a] = p + u;
          im[a] = q + v;
        }
      }
    }
  }
}

/** Pieces of a response of one size, and the spectra of what came in. */
class Pieces {
  private readonly transform: Transform;
  private readonly re: Float64Array[] = [];
  private readonly im: Float64Array[] = [];
  private readonly pastRe: Float64Array[] = [];
  private readonly pastIm: Float64Array[] = [];
  private at = 0;
  private readonly last: Float64Array;
  private readonly sumRe: Float64Array;
  private readonly sumIm: Float64Array;

  constructor(
    response: Float64Array,
    readonly size: number,
  ) {
    this.transform = new Transform(2 * size);
    this.last = new Float64Array(size);
    this.sumRe = new Float64Array(2 * size);
    this.sumIm = new Float64Array(2 * size);
    for (let from = 0; from < response.length; from += size) {
      const [re, im] = [new Float64Array(2 * size), new Float64Array(2 * size)];
      re.set(response.subarray(from, from + size));
      this.transform.run(re, im, false);
      this.re.push(re);
      this.im.push(im);
      this.pastRe.push(new Float64Array(2 * size));
      this.pastIm.push(new Float64Array(2 * size));
    }
  }

  /** Takes the next block in, and adds to out what all pieces make of it and of what came before. */
  run(x: Float64Array, out: Float64Array) {
    const { size, transform, re, im, pastRe, pastIm, sumRe, sumIm } = this;
    const n = re.length;
    if (n === 0) return;
    this.at = (this.at + n - 1) % n;
    const [newRe, newIm] = [pastRe[this.at] as Float64Array, pastIm[this.at] as Float64Array];
    newRe.set(this.last);
    newRe.set(x, size);
    newIm.fill(0);
    this.last.set(x);
    transform.run(newRe, newIm, false);
    sumRe.fill(0);
    sumIm.fill(0);
    for (let p = 0; p < n; p++) {
      const i = (this.at + p) % n;
      const [ar, ai] = [re[p] as Float64Array, im[p] as Float64Array];
      const [br, bi] = [pastRe[i] as Float64Array, pastIm[i] as Float64Array];
      // the spectra of real sounds: the upper half mirrors the lower
      for (let k = 0; k <= size; k++) {
        const [a, b, c, d] = [ar[k] as number, ai[k] as number, br[k] as number, bi[k] as number];
        sumRe[k] = (sumRe[k] as number) + a * c - b * d;
        sumIm[k] = (sumIm[k] as number) + a * d + b * c;
      }
    }
    for (let k = 1; k < size; k++) {
      sumRe[2 * size - k] = sumRe[k] as number;
      sumIm[2 * size - k] = -(sumIm[k] as number);
    }
    transform.run(sumRe, sumIm, true);
    for (let i = 0; i < size; i++) out[i] = (out[i] as number) + (sumRe[size + i] as number) / (2 * size);
  }
}

/** One side of a room. Blocks are 128 frames. */
export class Convolver {
  private readonly head: Pieces;
  private readonly tail: Pieces;
  private readonly gathered = new Float64Array(large);
  private ready = new Float64Array(large);
  private at = 0;
  private readonly made = new Float64Array(block);

  constructor(response: Float64Array) {
    this.head = new Pieces(response.slice(0, large), block);
    this.tail = new Pieces(response.slice(large), large);
  }

  /** Replaces a block by what the room makes of it. */
  run(x: Float64Array) {
    const { made, ready, at } = this;
    made.fill(0);
    this.head.run(x, made);
    for (let i = 0; i < block; i++) made[i] = (made[i] as number) + (ready[at + i] as number);
    this.gathered.set(x, at);
    x.set(made);
    this.at += block;
    if (this.at < large) return;
    this.at = 0;
    this.ready.fill(0);
    this.tail.run(this.gathered, this.ready);
  }
}
