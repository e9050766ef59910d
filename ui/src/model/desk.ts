// The desk on the audio thread: what the core's does, block by block, from the same description. Held to it by cases that Go wrote.
import type {
  MixCompressor as Compressor,
  MixDelay as Delay,
  MixEqualiser as Equaliser,
  MixGate as Gate,
  MixMix as Mix,
  MixOutput as Output,
} from '../api/client';
import { gridLengths, PPQ } from './constants.gen';
import { Convolver } from './convolver';

/** Where a lane's sound goes, and by which factors on the left and the right. */
export interface Send {
  bus: number;
  left: number;
  right: number;
}

/** Both sides of a bus. */
export type Bus = [Float64Array, Float64Array];

const silenceDB = -96;
const linear = (db: number) => (db <= silenceDB ? 0 : 10 ** (db / 20));
const pole = (ms: number, rate: number) => Math.exp(-1000 / (ms * rate));

/** Coefficients of a second-order section: b0, b1, b2, a1, a2. */
export type Biquad = [number, number, number, number, number];

const norm = (b0: number, b1: number, b2: number, a0: number, a1: number, a2: number): Biquad => [
  b0 / a0,
  b1 / a0,
  b2 / a0,
  a1 / a0,
  a2 / a0,
];

function angle(hz: number, rate: number): [number, number] {
  const w = (2 * Math.PI * Math.min(hz, 0.499 * rate)) / rate;
  return [Math.cos(w), Math.sin(w)];
}

function highPass(hz: number, q: number, rate: number): Biquad {
  const [cos, sin] = angle(hz, rate);
  const alpha = sin / (2 * q);
  return norm((1 + cos) / 2, -(1 + cos), (1 + cos) / 2, 1 + alpha, -2 * cos, 1 - alpha);
}

function bell(hz: number, db: number, q: number, rate: number): Biquad {
  const [cos, sin] = angle(hz, rate);
  const a = 10 ** (db / 40);
  const alpha = sin / (2 * q);
  return norm(1 + alpha * a, -2 * cos, 1 - alpha * a, 1 + alpha / a, -2 * cos, 1 - alpha / a);
}

function lowShelf(hz: number, db: number, rate: number): Biquad {
  const [cos, sin] = angle(hz, rate);
  const a = 10 ** (db / 40);
  const s = sin * Math.SQRT2 * Math.sqrt(a);
  return norm(
    a * (a + 1 - (a - 1) * cos + s),
    2 * a * (a - 1 - (a + 1) * cos),
    a * (a + 1 - (a - 1) * cos - s),
    a + 1 + (a - 1) * cos + s,
    -2 * (a - 1 + (a + 1) * cos),
    a + 1 + (a - 1) * cos - s,
  );
}

function highShelf(hz: number, db: number, rate: number): Biquad {
  const [cos, sin] = angle(hz, rate);
  const a = 10 ** (db / 40);
  const s = sin * Math.SQRT2 * Math.sqrt(a);
  return norm(
    a * (a + 1 + (a - 1) * cos + s),
    -2 * a * (a - 1 + (a + 1) * cos),
    a * (a + 1 + (a - 1) * cos - s),
    a + 1 - (a - 1) * cos + s,
    2 * (a - 1 - (a + 1) * cos),
    a + 1 - (a - 1) * cos - s,
  );
}

/** The equaliser's filters that do something. */
export function sections(e: Equaliser, rate: number): Biquad[] {
  const out: Biquad[] = [];
  const hz = e.highPass ?? 0;
  if (hz > 0) {
    if (e.slope === 24)
      out.push(highPass(hz, 0.541196100146197, rate), highPass(hz, 1.3065629648763766, rate));
    else out.push(highPass(hz, Math.SQRT2 / 2, rate));
  }
  if (e.low.db !== 0) out.push(lowShelf(e.low.hz, e.low.db, rate));
  if (e.mid.db !== 0) out.push(bell(e.mid.hz, e.mid.db, e.midQ, rate));
  if (e.high.db !== 0) out.push(highShelf(e.high.hz, e.high.db, rate));
  return out;
}

/** By how much filters raise a frequency, dB. */
export function responseDB(filters: readonly Biquad[], hz: number, rate: number): number {
  const w = (2 * Math.PI * hz) / rate;
  const at = (a: number, b: number, c: number) => {
    const re = a + b * Math.cos(w) + c * Math.cos(2 * w);
    const im = -b * Math.sin(w) - c * Math.sin(2 * w);
    return re * re + im * im;
  };
  let sum = 0;
  for (const [b0, b1, b2, a1, a2] of filters) sum += 10 * Math.log10(at(b0, b1, b2) / at(1, a1, a2));
  return sum;
}

const rest = 1e-25;

/** A second-order section at work on both sides. */
export class Section {
  private readonly s = [0, 0, 0, 0];

  constructor(public f: Biquad) {}

  run(side: 0 | 1, x: Float64Array) {
    const [b0, b1, b2, a1, a2] = this.f;
    let s1 = this.s[2 * side] as number;
    let s2 = this.s[2 * side + 1] as number;
    for (let i = 0; i < x.length; i++) {
      const v = x[i] as number;
      const y = b0 * v + s1;
      s1 = b1 * v - a1 * y + s2;
      s2 = b2 * v - a2 * y;
      x[i] = y;
    }
    // what it remembers that is nothing any more is nothing: numbers much smaller are slow
    const rests = Math.abs(s1) < rest && Math.abs(s2) < rest;
    this.s[2 * side] = rests ? 0 : s1;
    this.s[2 * side + 1] = rests ? 0 : s2;
  }
}

/** The level that comes out of a compressor for one that goes in, dB, without its make-up gain. */
export function compressed(c: Compressor, db: number): number {
  const over = db - c.threshold;
  if (2 * over < -c.knee) return db;
  if (2 * Math.abs(over) <= c.knee && c.knee > 0)
    return db + ((1 / c.ratio - 1) * (over + c.knee / 2) ** 2) / (2 * c.knee);
  return c.threshold + over / c.ratio;
}

const floorDB = -120;
const perNat = 20 / Math.LN10;
const perDB = Math.LN10 / 20;
const inDB = (x: number) => (x < 1e-6 ? floorDB : perNat * Math.log(x));

class Squeeze {
  /** how much is taken off, dB */
  y = 0;

  constructor(
    public c: Compressor,
    private readonly rate: number,
  ) {}

  run([l, r]: Bus) {
    const { c } = this;
    const [attack, release] = [pole(c.attack, this.rate), pole(c.release, this.rate)];
    const low = 10 ** ((c.threshold - c.knee / 2) / 20);
    const makeup = c.makeup ?? 0;
    let { y } = this;
    let was = y;
    let g = Math.exp(perDB * (makeup - y));
    for (let i = 0; i < l.length; i++) {
      const x = Math.max(Math.abs(l[i] as number), Math.abs(r[i] as number));
      let over = 0;
      if (x > low) {
        const db = inDB(x);
        over = db - compressed(c, db);
      }
      const a = over > y ? attack : release;
      y = a * y + (1 - a) * over;
      if (y < 1e-9) y = 0;
      // from one sample to the next the gain changes little: a short series does, and each block begins anew
      const d = perDB * (was - y);
      if (d > -0.02 && d < 0.02) g *= 1 + d * (1 + d * (1 / 2 + d * (1 / 6 + d / 24)));
      else g = Math.exp(perDB * (makeup - y));
      was = y;
      l[i] = (l[i] as number) * g;
      r[i] = (r[i] as number) * g;
    }
    this.y = y;
  }
}

const fallMS = 15;

class Door {
  private env = 0;
  gain: number;
  private open = false;
  private since = 0;

  constructor(
    public g: Gate,
    private readonly rate: number,
  ) {
    this.gain = linear(g.range);
  }

  run([l, r]: Bus) {
    const { g, rate } = this;
    const [attack, release, fall] = [pole(g.attack, rate), pole(g.release, rate), pole(fallMS, rate)];
    const [opens, closes, shut] = [linear(g.open), linear(g.close), linear(g.range)];
    const hold = Math.round((g.hold / 1000) * rate);
    for (let i = 0; i < l.length; i++) {
      this.env = Math.max(Math.abs(l[i] as number), Math.abs(r[i] as number), this.env * fall);
      if (this.env < rest) this.env = 0;
      if (this.env >= opens) {
        this.open = true;
        this.since = 0;
      } else if (this.env >= closes) this.since = 0;
      else {
        this.since++;
        this.open = this.open && this.since <= hold;
      }
      const a = this.open ? attack : release;
      this.gain = a * this.gain + (1 - a) * (this.open ? 1 : shut);
      l[i] = (l[i] as number) * this.gain;
      r[i] = (r[i] as number) * this.gain;
    }
  }
}

/** Frames from one repeat of the delay to the next. */
export const framesOfDelay = (d: Pick<Delay, 'grid'>, bpm: number, rate: number) =>
  Math.max(1, Math.round((((gridLengths[d.grid] ?? 0) * 60) / (bpm * PPQ)) * rate));

class Repeats {
  private line: Float64Array;
  private at = 0;
  private low = 0;

  constructor(
    public d: Delay,
    frames: number,
    private readonly rate: number,
  ) {
    this.line = new Float64Array(frames);
  }

  get frames() {
    return this.line.length;
  }

  run(x: Float64Array) {
    const { d, line } = this;
    const a = Math.exp((-2 * Math.PI * Math.min(d.tone, 0.49 * this.rate)) / this.rate);
    for (let i = 0; i < x.length; i++) {
      this.low = a * this.low + (1 - a) * (line[this.at] as number);
      if (Math.abs(this.low) < rest) this.low = 0;
      line[this.at] = (x[i] as number) + d.feedback * this.low;
      if (++this.at === line.length) this.at = 0;
      x[i] = this.low;
    }
  }
}

/** An output at work. */
class Track {
  private gate: Door | null = null;
  private comp: Squeeze | null = null;
  private drive = 0;
  private eq: Section[] = [];
  private gain = 1;
  private mono = false;

  /** Takes what an output is set to; what it remembers of the sound stays. */
  set(o: Output, dry: boolean, rate: number) {
    const c = o;
    const on = (x: { on?: boolean }) => !dry && x.on === true;
    this.mono = o.mono ?? false;
    this.gain = o.muted ? 0 : linear(o.level ?? 0);
    if (!on(c.gate)) this.gate = null;
    else if (this.gate) this.gate.g = c.gate;
    else this.gate = new Door(c.gate, rate);
    if (!on(c.compressor)) this.comp = null;
    else if (this.comp) this.comp.c = c.compressor;
    else this.comp = new Squeeze(c.compressor, rate);
    const steep = 10 ** (c.saturation.drive / 20) - 1;
    this.drive = on(c.saturation) && steep >= 1e-6 ? steep : 0;
    const filters = on(c.equaliser) ? sections(c.equaliser, rate) : [];
    this.eq = filters.map((f, i) => {
      const was = this.eq[i];
      if (!was || filters.length !== this.eq.length) return new Section(f);
      was.f = f;
      return was;
    });
  }

  /** By how much the compressor and the gate turn it down now, dB. */
  get taken(): { compressor: number; gate: number } {
    return { compressor: this.comp?.y ?? 0, gate: this.gate ? -inDB(this.gate.gain) : 0 };
  }

  run(x: Bus) {
    const [l, r] = x;
    if (this.mono) for (let i = 0; i < l.length; i++) l[i] = r[i] = ((l[i] as number) + (r[i] as number)) / 2;
    this.gate?.run(x);
    this.comp?.run(x);
    if (this.drive > 0) {
      const top = Math.tanh(this.drive);
      for (const side of x)
        for (let i = 0; i < side.length; i++) side[i] = Math.tanh(this.drive * (side[i] as number)) / top;
    }
    for (const f of this.eq) {
      f.run(0, l);
      f.run(1, r);
    }
    if (this.gain !== 1)
      for (const side of x) for (let i = 0; i < side.length; i++) side[i] = (side[i] as number) * this.gain;
  }
}

/** What the audio thread needs of a mix. */
export interface DeskPlan {
  mix: Mix;
  /** frames from one repeat of the delay to the next */
  delayFrames: number;
  /** the room's response, left and right; left out: it is not heard, or as it was */
  room?: [Float32Array, Float32Array];
}

export class Desk {
  private mix: Mix;
  private tracks: Track[] = [];
  private room: Convolver | null = null;
  private delay: [Repeats, Repeats] | null = null;
  private readonly known = new Map<string, Send[]>();

  constructor(
    plan: DeskPlan,
    private readonly rate: number,
  ) {
    this.mix = plan.mix;
    this.set(plan);
  }

  /** Takes another description; what it remembers of the sound stays. */
  set({ mix, delayFrames, room }: DeskPlan) {
    this.mix = mix;
    this.known.clear();
    const dry = mix.dry ?? false;
    const all = [mix.main, ...mix.outputs];
    this.tracks = all.map((o, i) => {
      const track = this.tracks[i] ?? new Track();
      track.set(o, dry, this.rate);
      return track;
    });
    const strips = Object.values(mix.strips);
    if (dry || strips.every((s) => s.room === undefined)) this.room = null;
    else if (room) this.room = new Convolver(Float64Array.from(room[0]), Float64Array.from(room[1]));
    if (dry || strips.every((s) => s.delay === undefined)) this.delay = null;
    else if (this.delay && this.delay[0].frames === delayFrames) for (const d of this.delay) d.d = mix.delay;
    else
      this.delay = [
        new Repeats(mix.delay, delayFrames, this.rate),
        new Repeats(mix.delay, delayFrames, this.rate),
      ];
  }

  /** How many buses there are: the outputs, the room and the delay. */
  get buses() {
    return this.tracks.length + 2;
  }

  /** By how much each output is turned down now. */
  get taken() {
    return this.tracks.map((t) => t.taken);
  }

  private index(id: string) {
    return id === '' ? 0 : 1 + this.mix.outputs.findIndex((o) => o.id === id);
  }

  /** Where a lane goes. */
  sends(part: string, note: number): Send[] {
    const key = `${part}:${note}`;
    const known = this.known.get(key);
    if (known) return known;
    const s = this.mix.strips[key] ?? {};
    const g = linear(s.gain ?? 0) * linear(s.level ?? 0);
    const pan = s.pan ?? 0;
    const [left, right] = [g * Math.min(1, 1 - pan), g * Math.min(1, 1 + pan)];
    const out: Send[] = [{ bus: this.index(s.output ?? ''), left, right }];
    if (s.also !== undefined) {
      const also = this.index(s.also);
      if (also !== out[0]?.bus) out.push({ bus: also, left, right });
    }
    if (!this.mix.dry)
      [s.room, s.delay].forEach((db, i) => {
        if (db === undefined) return;
        const to = linear(db);
        out.push({ bus: this.tracks.length + i, left: left * to, right: right * to });
      });
    this.known.set(key, out);
    return out;
  }

  /** Makes of what goes into the buses what comes out of them, in their place. */
  run(buses: Bus[]) {
    this.tracks.forEach((t, i) => t.run(buses[i] as Bus));
    const n = this.tracks.length;
    const back = (at: number, run: (x: Bus) => void, db: number) => {
      const x = buses[at] as Bus;
      run(x);
      const g = linear(db);
      for (const side of x) for (let i = 0; i < side.length; i++) side[i] = (side[i] as number) * g;
    };
    const { room, delay } = this;
    if (room) back(n, (x) => room.run(x), this.mix.room.return);
    if (delay)
      back(
        n + 1,
        (x) => {
          delay[0].run(x[0]);
          delay[1].run(x[1]);
        },
        this.mix.delay.return,
      );
  }
}
