// Convolution without delay, for the room: the response's first 1024 frames by pieces of one block, the rest by pieces of 1024 (overlap-save).
// The left is the real part of what is transformed, the right the imaginary one, so that one transform does for both. What the long pieces need
// is added up block by block, so that no block takes long.

const block = 128;
const large = 1024;
const blocks = large / block;

/** The discrete Fourier transform of a power of two, in place. */
export class Transform {
  private readonly cos: Float64Array;
  private readonly sin: Float64Array;
  private readonly order: Uint32Array;

  constructor(readonly size: number) {
    this.cos = Float64Array.from({ length: size / 2 }, (_, i) => Math.cos((2 * Math.PI * i) / size));
    this.sin = Float64Array.from({ length: size / 2 }, (_, i) => -Math.sin((2 * Math.PI * i) / size));
    const bits = Math.log2(size);
    this.order = Uint32Array.from({ length: size }, (_, i) => {
      let r = 0;
      for (let b = 0; b < bits; b++) r |= ((i >> b) & 1) << (bits - 1 - b);
      return r;
    });
  }

  /** Backwards: the imaginary part is given first. */
  run(re: Float64Array, im: Float64Array) {
    const { size, cos, sin, order } = this;
    for (let i = 0; i < size; i++) {
      const j = order[i] as number;
      if (j <= i) continue;
      const x = re[i] as number;
      re[i] = re[j] as number;
      re[j] = x;
      const y = im[i] as number;
      im[i] = im[j] as number;
      im[j] = y;
    }
    for (let half = 1; half < size; half *= 2) {
      const step = size / (2 * half);
      for (let k = 0; k < half; k++) {
        const c = cos[k * step] as number;
        const s = sin[k * step] as number;
        for (let a = k; a < size; a += 2 * half) {
          const b = a + half;
          const x = re[b] as number;
          const y = im[b] as number;
          const u = x * c - y * s;
          const v = x * s + y * c;
          const p = re[a] as number;
          const q = im[a] as number;
          re[b] = p - u;
          im[b] = q - v;
          re[a] = p + u;
          im[a] = q + v;
        }
      }
    }
  }
}

/** The lower half of a spectrum of each side. */
interface Halves {
  leftRe: Float64Array;
  leftIm: Float64Array;
  rightRe: Float64Array;
  rightIm: Float64Array;
}

const halves = (size: number): Halves => ({
  leftRe: new Float64Array(size + 1),
  leftIm: new Float64Array(size + 1),
  rightRe: new Float64Array(size + 1),
  rightIm: new Float64Array(size + 1),
});

/** Adds the product of two spectra. */
function product(
  sumRe: Float64Array,
  sumIm: Float64Array,
  aRe: Float64Array,
  aIm: Float64Array,
  bRe: Float64Array,
  bIm: Float64Array,
) {
  for (let k = 0; k < sumRe.length; k++) {
    const a = aRe[k] as number;
    const b = aIm[k] as number;
    const c = bRe[k] as number;
    const d = bIm[k] as number;
    sumRe[k] = (sumRe[k] as number) + a * c - b * d;
    sumIm[k] = (sumIm[k] as number) + a * d + b * c;
  }
}

/** Pieces of a response of one size, and the spectra of what came in. */
class Pieces {
  private readonly transform: Transform;
  private readonly pieces: Halves[] = [];
  private readonly past: Halves[] = [];
  private at = 0;
  private readonly lastLeft: Float64Array;
  private readonly lastRight: Float64Array;
  private readonly re: Float64Array;
  private readonly im: Float64Array;
  private readonly sum: Halves;

  constructor(
    left: Float64Array,
    right: Float64Array,
    readonly size: number,
  ) {
    this.transform = new Transform(2 * size);
    this.lastLeft = new Float64Array(size);
    this.lastRight = new Float64Array(size);
    this.re = new Float64Array(2 * size);
    this.im = new Float64Array(2 * size);
    this.sum = halves(size);
    for (let from = 0; from < left.length; from += size) {
      this.re.fill(0);
      this.im.fill(0);
      this.re.set(left.subarray(from, from + size));
      this.im.set(right.subarray(from, from + size));
      const piece = halves(size);
      this.tellApart(piece);
      this.pieces.push(piece);
      this.past.push(halves(size));
    }
  }

  get count() {
    return this.pieces.length;
  }

  /** The spectra of both sides of what lies in re and im. */
  private tellApart(to: Halves) {
    const { re, im, size } = this;
    this.transform.run(re, im);
    for (let k = 0; k <= size; k++) {
      const n = (2 * size - k) % (2 * size);
      const a = re[k] as number;
      const b = im[k] as number;
      const c = re[n] as number;
      const d = im[n] as number;
      to.leftRe[k] = (a + c) / 2;
      to.leftIm[k] = (b - d) / 2;
      to.rightRe[k] = (b + d) / 2;
      to.rightIm[k] = (c - a) / 2;
    }
  }

  /** Begins what comes out next. */
  begin() {
    for (const x of Object.values(this.sum) as Float64Array[]) x.fill(0);
  }

  /** Takes the next block in. */
  take(left: Float64Array, right: Float64Array) {
    const { size, count, re, im } = this;
    if (count === 0) return;
    this.at = (this.at + count - 1) % count;
    re.set(this.lastLeft);
    im.set(this.lastRight);
    re.set(left, size);
    im.set(right, size);
    this.lastLeft.set(left);
    this.lastRight.set(right);
    this.tellApart(this.past[this.at] as Halves);
  }

  /** Adds what pieces from..to make of what came in; with late, of a block that is still to come in before it comes out. */
  add(from: number, to: number, late: 0 | 1) {
    const { sum, count } = this;
    for (let p = Math.max(from, late); p < Math.min(to, count); p++) {
      const h = this.pieces[p] as Halves;
      const x = this.past[(this.at + p - late) % count] as Halves;
      product(sum.leftRe, sum.leftIm, h.leftRe, h.leftIm, x.leftRe, x.leftIm);
      product(sum.rightRe, sum.rightIm, h.rightRe, h.rightIm, x.rightRe, x.rightIm);
    }
  }

  /** Brings back what was added up. */
  out(left: Float64Array, right: Float64Array) {
    const { size, re, im, sum } = this;
    for (let k = 0; k <= size; k++) {
      const a = sum.leftRe[k] as number;
      const b = sum.leftIm[k] as number;
      const c = sum.rightRe[k] as number;
      const d = sum.rightIm[k] as number;
      re[k] = a - d;
      im[k] = b + c;
      if (k === 0 || k === size) continue;
      re[2 * size - k] = a + d;
      im[2 * size - k] = c - b;
    }
    this.transform.run(im, re); // backwards
    for (let i = 0; i < size; i++) {
      left[i] = (re[size + i] as number) / (2 * size);
      right[i] = (im[size + i] as number) / (2 * size);
    }
  }
}

/** A room. Blocks are 128 frames. */
export class Convolver {
  private readonly head: Pieces;
  private readonly tail: Pieces;
  private readonly gathered: [Float64Array, Float64Array] = [
    new Float64Array(large),
    new Float64Array(large),
  ];
  private readonly ready: [Float64Array, Float64Array] = [new Float64Array(large), new Float64Array(large)];
  private at = 0;

  constructor(left: Float64Array, right: Float64Array) {
    this.head = new Pieces(left.slice(0, large), right.slice(0, large), block);
    this.tail = new Pieces(left.slice(large), right.slice(large), large);
    this.tail.begin();
  }

  /** Replaces a block of both sides by what the room makes of it. */
  run([left, right]: [Float64Array, Float64Array]) {
    const { head, tail, gathered, ready, at } = this;
    gathered[0].set(left, at);
    gathered[1].set(right, at);
    head.take(left, right);
    head.begin();
    head.add(0, head.count, 0);
    head.out(left, right);
    for (let i = 0; i < block; i++) {
      left[i] = (left[i] as number) + (ready[0][at + i] as number);
      right[i] = (right[i] as number) + (ready[1][at + i] as number);
    }
    if (tail.count === 0) return;
    // a share of what the next long block needs of those before it
    const share = Math.ceil(tail.count / blocks);
    const n = at / block;
    tail.add(n * share, (n + 1) * share, 1);
    this.at += block;
    if (this.at < large) return;
    this.at = 0;
    tail.take(gathered[0], gathered[1]);
    tail.add(0, 1, 0);
    tail.out(ready[0], ready[1]);
    tail.begin();
  }
}
