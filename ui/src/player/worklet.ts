// The one player: mixes voices and starts cues on the audio thread, so that a busy window never delays a sound.
// It decides nothing: what sounds when is in the pass the server compiled.
import type { Cue, Pass } from '../api/client';
import { chokeFadeS, clickNote, notesAPart, recordingNote, recordingsStrip } from '../model/constants.gen';
import { type Bus, Desk, type Send } from '../model/desk';
import { Hops } from '../model/loudness';
import { withDelta } from '../model/patch';
import { sounds } from './messages';
import { Clicks } from './clicks';
import { firstFrom, mix, peak, type Sounding, takeOf } from './sum';
import type {
  FromWorklet,
  Loop,
  DeskSetup,
  MeterReport,
  Started,
  ToWorklet,
  VoiceAudio,
  WorkletOptions,
} from './messages';

declare const sampleRate: number;
declare const currentFrame: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, make: unknown): void;

const stopFadeS = 0.02;
/** about 30 a second: what moves is drawn so often; what is struck by hand is told at once */
const reportFrames = 1470;
const soonFrames = 735;
/** how far behind the wall clock a cue may start before it counts as late, seconds: more than a batch of blocks */
const lateS = 0.05;
const none: readonly Send[] = [];
/** how many frames are told of the output that is looked at */
const scopeFrames = 2048;

class Mixer extends AudioWorkletProcessor {
  private voices = new Map<string, VoiceAudio>();
  private pass: Pass = { length: 1, cues: [], turns: [], strokes: [], whens: [], silent: 0 };
  private playing = false;
  private loop: Loop | null = null;
  private readonly clicks = new Clicks(sampleRate);
  /** strikes whose time has not come */
  private coming: { cues: Cue[]; ticket: number; frame: number }[] = [];
  /** hits just played by hand, by note and tick: they sounded then, and are passed over in that time through */
  private skips = new Map<string, number>();
  /** frame at which what is played began for the first time, and how many passes are played at most */
  private base = 0;
  private lastPass = Infinity;
  private sounding: Sounding[] = [];
  private silent = new Set<number>();
  /** the mix that is heard; null: everything goes out as it is */
  private desk: Desk | null = null;
  private setup: DeskSetup | null = null;
  private buses: Bus[] = [];
  private meters: {
    lanes: Map<number, { peak: number; block: Float64Array; at: number }>;
    peaks: number[];
    hops: Hops;
    bus: number;
    scope: Float32Array;
    at: number;
  } | null = null;
  private kitGain = 1;
  private recordingGain = 1;
  private kitTarget = 1;
  private recordingTarget = 1;
  private peaks: [number, number] = [0, 0];
  private started: Started[] = [];
  private late = 0;
  private missing = 0;
  private reportedAt = 0;
  /** the frame after the last block */
  private done = -1;
  /** how far the frames are behind the wall clock, seconds, and how far they were when they were nearest to it of late */
  private behind = 0;
  private nearest = Infinity;

  constructor(options: { processorOptions?: WorkletOptions }) {
    super();
    this.port.onmessage = (e: MessageEvent<ToWorklet>) => this.take(e.data);
    const o = options.processorOptions;
    for (const [id, audio] of Object.entries(o?.voices ?? {})) this.voices.set(id, audio);
    if (o?.pass) {
      this.pass = o.pass;
      this.lastPass = o.passes ?? Infinity;
      this.playing = true;
    }
    if (o?.desk) this.setDesk(o.desk);
  }

  private take(m: ToWorklet) {
    switch (m.kind) {
      case 'voice':
        this.voices.set(m.id, m.audio);
        break;
      case 'forget':
        this.voices.delete(m.id);
        break;
      case 'pass':
        this.changePass(m.pass, m.keepPlace);
        break;
      case 'delta':
        this.changePass(withDelta(this.pass, m.delta), true);
        break;
      case 'stretch': {
        const { cues } = this.pass;
        const at = this.position(currentFrame);
        const [lo, hi] = [this.firstFrom(m.fromS), this.firstFrom(m.toS)];
        const moved = this.pass.length !== m.length;
        this.pass = {
          ...this.pass,
          length: m.length,
          cues: [...cues.slice(0, lo), ...m.cues, ...cues.slice(hi)],
        };
        this.lastPass = m.once ? 1 : Infinity;
        if (this.playing && moved) this.goTo(at);
        break;
      }
      case 'play':
        this.playing = true;
        this.base = currentFrame + Math.round((m.countInS - m.fromS) * sampleRate);
        this.skips.clear();
        break;
      case 'desk':
        this.setDesk(m.desk);
        break;
      case 'meters':
        this.meters = m.on
          ? {
              lanes: new Map(),
              peaks: [],
              hops: new Hops(sampleRate),
              bus: m.bus,
              scope: new Float32Array(scopeFrames),
              at: 0,
            }
          : null;
        break;
      case 'metronome':
        this.clicks.metronome = m.metronome;
        break;
      case 'skip':
        this.skips.set(`${m.note} ${m.tick}`, m.pass);
        break;
      case 'once':
        this.lastPass = m.once ? 1 : Infinity;
        break;
      case 'stop':
        this.playing = false;
        this.clicks.stop();
        for (const s of this.sounding) this.cut(s, currentFrame, stopFadeS);
        break;
      case 'seek':
        for (const s of this.sounding) this.cut(s, currentFrame, stopFadeS);
        this.goTo(m.atS);
        this.joinRecording();
        break;
      case 'loop':
        this.setLoop(m.loop);
        break;
      case 'silent':
        this.silent = new Set(m.notes);
        for (const s of this.sounding) if (this.silent.has(s.cue.note)) this.cut(s, currentFrame, stopFadeS);
        break;
      case 'blend':
        this.kitTarget = m.kit;
        this.recordingTarget = m.recording;
        break;
      case 'strike':
        if (m.atS === undefined) for (const c of m.cues) this.start(c, currentFrame, currentFrame, m.ticket);
        else this.coming.push({ cues: m.cues, ticket: m.ticket, frame: Math.round(m.atS * sampleRate) });
        break;
      case 'stall': {
        // for the tests: the audio thread has no time
        const until = Date.now() + m.ms;
        while (Date.now() < until);
        break;
      }
      case 'release':
        this.coming = this.coming.filter((c) => c.ticket !== m.ticket);
        for (const s of this.sounding) {
          if (s.ticket === m.ticket && s.cue.hold > 0) this.cut(s, currentFrame, s.cue.release);
        }
        break;
    }
  }

  /** A new pass takes over at the place in the bar the old one has reached: what has sounded is not sounded again. */
  private setDesk(setup: DeskSetup | null) {
    this.setup = setup;
    if (!setup) this.desk = null;
    else if (this.desk) this.desk.set(setup);
    else this.desk = new Desk(setup, sampleRate);
    this.buses = Array.from({ length: this.desk?.buses ?? 0 }, (): Bus => [
      new Float64Array(128),
      new Float64Array(128),
    ]);
  }

  /** Where a sound goes: those of the kit through the desk. */
  private sendsOf(s: Sounding): readonly Send[] {
    const { cue, ticket } = s;
    if (!this.desk || !this.setup) return none;
    if (ticket !== 0) return this.desk.sends(this.setup.own, cue.note);
    const part = this.setup.parts[Math.floor(cue.note / notesAPart)];
    return part === undefined
      ? this.desk.sends(recordingsStrip, 0)
      : this.desk.sends(part, cue.note % notesAPart);
  }

  /** What came through the desk is added to what is heard. */
  private mixDown(left: Float32Array, right: Float32Array) {
    const { desk, buses, meters } = this;
    if (!desk) return;
    desk.run(buses);
    buses.forEach(([l, r], n) => {
      for (let i = 0; i < left.length; i++) {
        left[i] = (left[i] as number) + (l[i] as number);
        right[i] = (right[i] as number) + (r[i] as number);
      }
      if (!meters) return;
      meters.peaks[n] = Math.max(peak(l, meters.peaks[n] ?? 0), peak(r, 0));
      if (n !== meters.bus) return;
      for (let i = 0; i < l.length; i++)
        meters.scope[(meters.at + i) % scopeFrames] = ((l[i] as number) + (r[i] as number)) / 2;
      meters.at = (meters.at + l.length) % scopeFrames;
    });
  }

  private changePass(pass: Pass, keepPlace: boolean) {
    this.lastPass = Infinity;
    const share = this.position(currentFrame) / this.pass.length;
    const moved = this.pass.length !== pass.length;
    this.pass = pass;
    if (this.playing && keepPlace && moved) this.goTo(share * pass.length);
    else if (this.playing && !keepPlace) {
      for (const s of this.sounding) this.cut(s, currentFrame, stopFadeS);
      this.base = currentFrame;
    }
  }

  /** What is played: the pass, or a stretch of it. */
  private stretch(): [number, number] {
    const { length } = this.pass;
    const { loop } = this;
    return loop && loop.from < length ? [loop.from, Math.min(length, loop.to)] : [0, length];
  }

  /** The place in the pass at a frame, seconds. */
  private position(frame: number): number {
    const [from, to] = this.stretch();
    const since = (frame - this.base) / sampleRate;
    if (since < 0) return from + since; // it is counted in
    return from + (since - Math.floor(since / (to - from)) * (to - from));
  }

  /** Goes on from a place in the pass; from the beginning of what is played when the place lies outside. */
  private goTo(atS: number) {
    const [from, to] = this.stretch();
    this.base = currentFrame - Math.round((atS >= from && atS < to ? atS - from : 0) * sampleRate);
  }

  private setLoop(loop: Loop | null) {
    const at = this.position(currentFrame);
    this.loop = loop;
    if (this.playing) this.goTo(at);
  }

  /** Takes up a recording that began before the place sought. */
  private joinRecording() {
    for (const cue of this.pass.cues) {
      const frame = this.base + Math.round(cue.at * sampleRate);
      const audio = this.voices.get(cue.voice);
      if (cue.note !== recordingNote || !audio || frame >= currentFrame) continue;
      this.sounding.push({
        cue,
        audio,
        frame,
        cutFrame: Infinity,
        fadeFrames: 0,
        ticket: 0,
        joined: currentFrame,
      });
      this.started.push({
        note: cue.note,
        velocity: cue.velocity,
        layer: cue.layer,
        tick: cue.tick,
        plannedFrame: currentFrame,
        frame: currentFrame,
        live: false,
      });
    }
  }

  private cut(s: Sounding, frame: number, fadeS: number) {
    if (s.cutFrame <= frame) return;
    s.cutFrame = frame;
    s.fadeFrames = Math.round(fadeS * sampleRate);
  }

  private start(cue: Cue, frame: number, planned: number, ticket: number) {
    this.started.push({
      note: cue.note,
      velocity: cue.velocity,
      layer: cue.layer,
      tick: cue.tick,
      plannedFrame: planned,
      frame,
      live: ticket !== 0,
    });
    if (frame > planned || this.behind > lateS) this.late++;
    const audio = this.voices.get(cue.voice);
    if (!audio) {
      this.missing++;
      return;
    }
    for (const s of this.sounding) {
      const own = s.cue.note === cue.note;
      if (own ? cue.selfChoke && s.frame !== frame : cue.choke !== 0 && cue.choke === s.cue.cutBy) {
        this.cut(s, frame, chokeFadeS);
      }
    }
    const held = cue.hold > 0 && ticket === 0;
    this.sounding.push({
      cue,
      audio,
      frame,
      cutFrame: held ? frame + Math.round(cue.hold * sampleRate) : Infinity,
      fadeFrames: held ? Math.round(cue.release * sampleRate) : 0,
      ticket,
      joined: -Infinity,
    });
  }

  /** Starts the cues whose frame lies in the block, in time order. */
  private startCues(from: number, to: number) {
    const { cues } = this.pass;
    const [begin, end] = this.stretch();
    const lead = this.loop?.lead ?? 0;
    const whole = end - begin === this.pass.length;
    // a hit a little before the stretch belongs to its first line, one as near to its end to what comes after
    const lo = whole ? 0 : this.firstFrom(begin - lead);
    const hi = whole ? cues.length : this.firstFrom(end - lead);
    if (lo === hi) return;
    const length = end - begin;
    const t0 = (from - this.base - 1) / sampleRate;
    const t1 = (to - this.base + 1) / sampleRate;
    const first = Math.max(0, Math.floor((t0 - ((cues[hi - 1]?.at ?? 0) - begin)) / length));
    const last = Math.min(this.lastPass - 1, Math.ceil((t1 - ((cues[lo]?.at ?? 0) - begin)) / length));
    for (let n = first; n <= last; n++) {
      let i = n === 0 ? lo : Math.max(lo, this.firstFrom(t0 - n * length + begin));
      for (; i < hi; i++) {
        const cue = cues[i] as Cue;
        const at = Math.max(0, n * length + cue.at - begin);
        if (at > t1) break;
        const frame = this.base + Math.round(at * sampleRate);
        if (
          frame >= from &&
          frame < to &&
          !this.silent.has(cue.note) &&
          sounds(this.pass, cue.when, n) &&
          !this.skipped(cue, n)
        ) {
          this.start(takeOf(this.pass, cue, n), Math.max(frame, currentFrame), frame, 0);
        }
      }
    }
  }

  /** Whether a hit was played by hand in this time through: it has sounded. */
  private skipped(cue: Cue, n: number): boolean {
    if (this.skips.size === 0) return false;
    const key = `${cue.note} ${cue.tick}`;
    const at = this.skips.get(key);
    if (at === undefined) return false;
    if (n > at) this.skips.delete(key);
    return n === at;
  }

  /** Index of the first cue at or after a time in the pass. */
  private firstFrom(atS: number): number {
    return firstFrom(this.pass.cues, atS);
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const left = outputs[0]?.[0];
    const right = outputs[0]?.[1];
    if (!left || !right) return true;
    const from = currentFrame;
    const to = from + left.length;
    this.watch(from);
    // cues of blocks that were passed over start late rather than never
    if (this.playing) this.startCues(this.done < 0 ? from : Math.min(from, this.done), to);
    this.done = to;
    if (this.coming.length > 0) {
      for (const c of this.coming)
        if (c.frame < to)
          for (const cue of c.cues) this.start(cue, Math.max(c.frame, currentFrame), c.frame, c.ticket);
      this.coming = this.coming.filter((c) => c.frame >= to);
    }
    const glide = 1 - Math.exp(-left.length / (0.01 * sampleRate));
    this.kitGain += (this.kitTarget - this.kitGain) * glide;
    this.recordingGain += (this.recordingTarget - this.recordingGain) * glide;
    for (const [l, r] of this.buses) {
      l.fill(0);
      r.fill(0);
    }
    for (const s of this.sounding) {
      const gain =
        s.cue.note === recordingNote ? this.recordingGain : s.cue.note === clickNote ? 1 : this.kitGain;
      const { channels } = s.audio;
      const [a, b] = [s.cue.left * gain, s.cue.right * gain];
      if (!this.desk || s.cue.note < 0) {
        mix(left, s, channels[0], a, from);
        mix(right, s, channels[1] ?? channels[0], b, from);
        continue;
      }
      for (const send of this.sendsOf(s)) {
        const [l, r] = this.buses[send.bus] as Bus;
        if (send.left !== 0) mix(l, s, channels[0], a * send.left, from);
        if (send.right !== 0) mix(r, s, channels[1] ?? channels[0], b * send.right, from);
      }
      if (this.meters) this.meterLane(s, a, b, from);
    }
    this.mixDown(left, right);
    this.sounding = this.sounding.filter(
      (s) =>
        (s.audio.loopEnd > 0 || to - s.frame < (s.audio.channels[0]?.length ?? 0)) &&
        to < s.cutFrame + s.fadeFrames,
    );
    this.peaks = [peak(left, this.peaks[0]), peak(right, this.peaks[1])];
    this.meters?.hops.write([left, right]);
    const played = { base: this.base, stretch: this.stretch(), times: this.lastPass };
    this.clicks.run(left, right, from, this.playing ? played : null);
    const struck = this.started.at(-1)?.live ?? false;
    if (to - this.reportedAt >= (struck ? soonFrames : reportFrames)) this.report(to);
    return true;
  }

  /** Adds a sound to its lane's meter. */
  private meterLane(s: Sounding, left: number, right: number, from: number) {
    const [to] = this.sendsOf(s);
    if (!this.meters || !to) return;
    const note = s.ticket === 0 ? s.cue.note : s.cue.note % notesAPart;
    let lane = this.meters.lanes.get(note);
    if (!lane) this.meters.lanes.set(note, (lane = { peak: 0, block: new Float64Array(128), at: -1 }));
    if (lane.at !== from) lane.block.fill(0);
    lane.at = from;
    const [side, gain] = left * to.left > right * to.right ? [0, left * to.left] : [1, right * to.right];
    mix(lane.block, s, s.audio.channels[side] ?? s.audio.channels[0], gain, from);
    lane.peak = peak(lane.block, lane.peak);
  }

  private meterReport(): MeterReport | null {
    const { meters, desk } = this;
    if (!meters) return null;
    const report: MeterReport = {
      buses: meters.peaks,
      taken: desk?.taken ?? [],
      lanes: [...meters.lanes].map(([note, lane]) => [note, lane.peak]),
      hops: meters.hops.done,
      scope: Float32Array.from(meters.scope, (_, i) => meters.scope[(meters.at + i) % scopeFrames] as number),
    };
    meters.peaks = [];
    meters.hops.done = [];
    for (const lane of meters.lanes.values()) lane.peak = 0;
    return report;
  }

  /** Holds the frames against the wall clock. A thread that was held up is behind it, and what starts then is heard late. */
  private watch(frame: number) {
    const apart = Date.now() / 1000 - frame / sampleRate;
    // clocks drift apart by themselves, slowly: what counts is against the nearest of the last seconds
    this.nearest = Math.min(this.nearest + 1e-6, apart);
    this.behind = apart - this.nearest;
  }

  private report(frame: number) {
    this.reportedAt = frame;
    const since = (frame - this.base) / sampleRate;
    const [from, to] = this.stretch();
    const meters = this.meterReport();
    const message: FromWorklet = {
      kind: 'report',
      ...(meters ? { meters } : {}),
      playing: this.playing,
      atS: this.playing ? this.position(frame) : 0,
      passes: this.playing ? Math.max(0, Math.floor(since / (to - from))) : 0,
      baseFrame: this.base,
      from,
      to,
      peakLeft: this.peaks[0],
      peakRight: this.peaks[1],
      started: this.started,
      sounding: this.sounding.filter((s) => s.cutFrame > frame).map((s) => s.cue.note),
      late: this.late,
      missing: this.missing,
    };
    this.port.postMessage(message);
    this.peaks = [0, 0];
    this.started = [];
  }
}

registerProcessor('hexachord-mixer', Mixer);
