// The window's side of the player: brings voices to the worklet, sends it passes and strikes, and tells listeners
// what it reports.
import { api, type Cue, type Pass, type PassDelta, type StrikePad, type Table } from '../api/client';
import type {
  DeskSetup,
  FromWorklet,
  Loop,
  Metronome,
  Started,
  ToWorklet,
  VoiceAudio,
  WorkletOptions,
} from './messages';
import workletUrl from './worklet.ts?worker&url';
import { Voices } from '../model/voices';

const log: Started[] = [];

/** how many sounds heard from the shelf are kept ready, and the note they have */
const mostAuditioned = 40;
const auditionNote = -2;

class Player {
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private opening: Promise<void> | null = null;
  private pads = new Map<number, StrikePad>();
  /** pads of one sound that is played tuned, by note and cents */
  private tuned = new Map<string, StrikePad>();
  private loaded = new Map<string, VoiceAudio>();
  private listeners = new Set<(r: FromWorklet) => void>();
  /** strokes so far of each sound that has several takes */
  private struck = new Map<string, number>();
  /** voices heard from the shelf, newest first, and those the kit or the pass needs */
  private auditioned: string[] = [];
  private kept = new Set<string>();
  private silent = new Set<number>();
  private loop: Loop | null = null;
  private metronome: Metronome | null = null;
  private desk: DeskSetup | null = null;
  private metered = false;
  private tickets = 0;
  private lastPass: Pass | null = null;
  /** the newest report, and when it came */
  last: FromWorklet | null = null;
  private lastCame = 0;
  private all = new Set<(r: FromWorklet) => void>();
  /** How those who show one pattern see a report: while a song plays, its place in the pattern shown. */
  seen: (r: FromWorklet) => FromWorklet = (r) => r;
  /** ms from the call of strike to the message sent, newest last, for measuring */
  strikeTimes: number[] = [];

  /** The sample rate everything is compiled for. */
  get rate(): number {
    this.context ??= new AudioContext({ latencyHint: 'interactive' });
    return this.context.sampleRate;
  }

  /** The pass that is played. */
  get pass(): Pass | null {
    return this.lastPass;
  }

  /** The stretch of it that is played round and round; null: all of it. */
  get stretch(): Loop | null {
    return this.loop;
  }

  /** Whether there is something to play yet. */
  get ready(): boolean {
    return this.lastPass !== null;
  }

  /** Whether the sound goes on. */
  get running(): boolean {
    return this.context?.state === 'running';
  }

  /** How many voices are ready. */
  get loadedCount(): number {
    return this.loaded.size;
  }

  /** Every cue started since the page was opened, for tests and measuring. */
  get started(): readonly Started[] {
    return log;
  }

  /** Gets the audio going; browsers allow it only after a click or a key. */
  async wake(): Promise<void> {
    this.opening ??= this.open();
    await this.opening;
    if (this.context?.state === 'suspended') await this.context.resume();
  }

  private async open() {
    const rate = this.rate;
    if (!this.context || rate <= 0) return;
    await this.context.audioWorklet.addModule(workletUrl);
    this.node = new AudioWorkletNode(this.context, 'hexachord-mixer', {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
    this.node.port.onmessage = (e: MessageEvent<FromWorklet>) => {
      this.last = e.data;
      this.lastCame = performance.now();
      log.push(...e.data.started);
      if (log.length > 20000) log.splice(0, log.length - 20000);
      const seen = this.seen(e.data);
      for (const l of this.listeners) l(seen);
      for (const l of this.all) l(e.data);
    };
    this.node.connect(this.context.destination);
    for (const [id, audio] of this.loaded) this.send({ kind: 'voice', id, audio });
    if (this.lastPass) this.send({ kind: 'pass', pass: this.lastPass, keepPlace: true });
    if (this.loop) this.send({ kind: 'loop', loop: this.loop });
    if (this.metronome) this.send({ kind: 'metronome', metronome: this.metronome });
    if (this.desk) this.send({ kind: 'desk', desk: this.desk });
    if (this.metered) this.send({ kind: 'meters', on: true, bus: 0 });
  }

  private send(m: ToWorklet) {
    this.node?.port.postMessage(m);
  }

  /** Place in the pass now, seconds: the last report's and the time since. */
  atS(): number {
    return this.last ? this.last.atS + (performance.now() - this.lastCame) / 1000 : 0;
  }

  /** Calls back with every report, about 30 times a second; returns what ends it. */
  listen(l: (r: FromWorklet) => void): () => void {
    this.listeners.add(l);
    return () => this.listeners.delete(l);
  }

  /** The same with reports as they come, also of a song. */
  listenToAll(l: (r: FromWorklet) => void): () => void {
    this.all.add(l);
    return () => this.all.delete(l);
  }

  /** Takes a compiled kit and brings the voices it does not have yet. */
  async setTable(table: Table) {
    this.pads = new Map(table.pads.map((p) => [p.note, p]));
    const voices = table.pads.flatMap((p) => p.layers.flatMap((l) => l.takes.map((t) => t.voice)));
    this.kept = new Set(voices);
    await this.bring(voices);
  }

  /** Takes the pads over which one sound is played, and brings their voices. */
  async setTuned(pads: { tune: number; pad: StrikePad }[]) {
    this.tuned = new Map(pads.map((p) => [`${p.pad.note} ${p.tune}`, p.pad]));
    await this.bring(pads.flatMap((p) => p.pad.layers.flatMap((l) => l.takes.map((t) => t.voice))));
  }

  private voices = new Voices(async (id) => {
    const audio = parseFloatWAV(
      (await api.getVoice({ path: { voice: id }, parseAs: 'arrayBuffer' })) as unknown as ArrayBuffer,
    );
    this.loaded.set(id, audio);
    this.send({ kind: 'voice', id, audio });
  });

  private async bring(ids: string[], urgent = false) {
    await this.voices.bring(
      [...new Set(ids)].filter((id) => !this.loaded.has(id)),
      urgent,
    );
  }

  /** What is played from now on; keepPlace goes on at the same place in the pass. */
  setPass(pass: Pass, keepPlace = true) {
    this.lastPass = pass;
    this.voices.expect(pass.cues);
    this.send({ kind: 'pass', pass, keepPlace });
    this.bringLater(voicesOf(pass));
  }

  /** The cues that begin between two moments, in the place of those there before; all of it is as long as the pass. Once: it is not played
   * round and round. */
  async setStretch(pass: Pass, fromS: number, toS: number, once: boolean) {
    const was = this.lastPass ?? pass;
    await this.bring(voicesOf(pass));
    const rest = was.cues.filter((c) => c.at < fromS || c.at >= toS);
    const strokes = was.strokes.filter((c) => c.at < fromS || c.at >= toS);
    this.lastPass = {
      ...was,
      length: pass.length,
      cues: [...rest, ...pass.cues].toSorted((a, b) => a.at - b.at),
      strokes: [...strokes, ...pass.strokes].toSorted((a, b) => a.at - b.at),
    };
    this.send({ kind: 'stretch', fromS, toS, cues: pass.cues, length: pass.length, once });
  }

  /** Goes on with a pass that differs little from the one that is played. */
  changePass(pass: Pass, delta: PassDelta) {
    this.lastPass = pass;
    this.send({ kind: 'delta', delta });
    const fresh = (delta.cues ?? []).flatMap((s) => s.put ?? []).map((c) => c.voice);
    for (const t of Object.values(delta.turns ?? {})) fresh.push(...t.takes.map((take) => take.voice));
    this.bringLater(fresh);
  }

  /** Brings voices that will be needed soon; what cannot come is said. */
  private bringLater(ids: string[]) {
    this.bring(ids).catch((e: unknown) => this.troubled(e));
  }

  /** Told of voices that could not come. */
  troubled: (e: unknown) => void = () => undefined;

  /** Begins at the beginning, or some seconds into it, after so many seconds of counting in. */
  async play(countInS = 0, fromS = 0) {
    await this.wake();
    if (this.lastPass) await this.bring(voicesOf(this.lastPass));
    this.send({ kind: 'play', countInS, fromS });
  }

  /** The mix that is heard; null: everything as it is. */
  setDesk(desk: DeskSetup | null) {
    this.send({ kind: 'desk', desk });
    // a room that was sent stays in the audio thread until another comes
    const room = desk?.room ?? this.desk?.room;
    this.desk = desk && { ...desk, ...(room ? { room } : {}) };
  }

  /** Lets reports tell how loud outputs and lanes are and what passes through one of them, or no more. */
  setMetered(on: boolean, bus = 0) {
    this.metered = on;
    this.send({ kind: 'meters', on, bus });
  }

  /** A click on the beats, at once; null: none. */
  setMetronome(metronome: Metronome | null) {
    this.metronome = metronome;
    this.send({ kind: 'metronome', metronome });
  }

  /** Passes a hit over in one time through: it was just played by hand. */
  skip(note: number, tick: number, pass: number) {
    this.send({ kind: 'skip', note, tick, pass });
  }

  /** The audio time that is heard at a moment of the page's clock (ms, as events carry it), seconds. */
  heardAt(timeStamp: number): number {
    const { context } = this;
    if (!context) return 0;
    const { contextTime, performanceTime } = context.getOutputTimestamp();
    if (!contextTime || !performanceTime) {
      const late = (context.outputLatency || 0) + context.baseLatency;
      return context.currentTime - late + (timeStamp - performance.now()) / 1000;
    }
    return contextTime + (timeStamp - performanceTime) / 1000;
  }

  /** Where in what is played a moment of the audio's clock lies: seconds since it began, times through and place in the pass; null
   * while nothing plays. */
  placeOf(clockS: number): { since: number; pass: number; atS: number; length: number } | null {
    const r = this.last;
    if (!r?.playing || !this.context) return null;
    const since = clockS - r.baseFrame / this.context.sampleRate;
    const length = r.to - r.from;
    const pass = Math.max(0, Math.floor(since / length));
    return { since, pass, atS: r.from + since - pass * length, length };
  }

  /** Whether what plays ends after its first time through. */
  setOnce(once: boolean) {
    this.send({ kind: 'once', once });
  }

  stop() {
    this.send({ kind: 'stop' });
  }

  /** Plays a stretch of the pass round and round; null: all of it. */
  setLoop(loop: Loop | null) {
    if (JSON.stringify(loop) === JSON.stringify(this.loop)) return;
    this.loop = loop;
    this.send({ kind: 'loop', loop });
  }

  seek(atS: number) {
    this.send({ kind: 'seek', atS });
  }

  /** Notes whose cues are passed over: muted lanes, or those not soloed. */
  setSilent(notes: number[]) {
    this.silent = new Set(notes);
    this.send({ kind: 'silent', notes });
  }

  isSilent(note: number): boolean {
    return this.silent.has(note);
  }

  /** Levels of the kit and of the recording, linear. */
  setBlend(kit: number, recording: number) {
    this.send({ kind: 'blend', kit, recording });
  }

  /** Sounds a pad at once, or at a moment of the audio's clock. Returns the ticket with which to let it go, and the layer that fired (−1:
   * none). */
  strike(note: number, velocity: number, atS?: number, tune = 0): { ticket: number; layer: number } {
    const begin = performance.now();
    const pad = (tune ? this.tuned.get(`${note} ${tune}`) : undefined) ?? this.pads.get(note);
    const ticket = ++this.tickets;
    if (!pad) return { ticket, layer: -1 };
    const cues: Cue[] = [];
    (pad.fires[velocity] ?? []).forEach((sound) => {
      const l = pad.layers[sound];
      if (!l) return;
      const gain = (pad.gains[velocity] ?? 0) * (l.blend?.[velocity - l.lo] ?? 1);
      const stroke = this.struck.get(`${note} ${sound}`) ?? 0;
      this.struck.set(`${note} ${sound}`, stroke + 1);
      const take = l.takes[l.order[stroke % l.order.length] ?? 0];
      if (!take) return;
      cues.push({
        at: 0,
        voice: take.voice,
        left: take.left * gain,
        right: take.right * gain,
        turn: 0,
        stroke: 0,
        when: 0,
        pan: 0,
        gain,
        note,
        velocity,
        layer: l.layer,
        tick: 0,
        choke: pad.choke,
        cutBy: pad.cutBy,
        selfChoke: pad.selfChoke,
        hold: pad.held ? 1 : 0,
        release: l.releaseS,
      });
    });
    const coming = cues.filter((c) => !this.loaded.has(c.voice));
    if (coming.length > 0) {
      // a kit that is still loading: what is struck comes first
      void this.bring(
        coming.map((c) => c.voice),
        true,
      ).then(() => this.send({ kind: 'strike', cues, ticket }));
    } else if (this.node && this.context?.state === 'running')
      this.send({ kind: 'strike', cues, ticket, ...(atS === undefined ? {} : { atS }) });
    else void this.wake().then(() => this.send({ kind: 'strike', cues, ticket }));
    this.strikeTimes.push(performance.now() - begin);
    return { ticket, layer: cues[0]?.layer ?? -1 };
  }

  /** Hears a sample on its own; the one heard before stops. */
  async audition(voice: string, gain: number) {
    await this.wake();
    await this.bring([voice], true);
    this.auditioned = [voice, ...this.auditioned.filter((v) => v !== voice)];
    for (const old of this.auditioned.splice(mostAuditioned)) {
      if (this.kept.has(old)) continue;
      this.loaded.delete(old);
      this.send({ kind: 'forget', id: old });
    }
    const side = gain * Math.SQRT1_2;
    const cue: Cue = {
      at: 0,
      voice,
      left: side,
      right: side,
      turn: 0,
      stroke: 0,
      when: 0,
      pan: 0,
      gain,
      note: auditionNote,
      velocity: 127,
      layer: 0,
      tick: 0,
      choke: 0,
      cutBy: 0,
      selfChoke: true,
      hold: 0,
      release: 0.02,
    };
    this.send({ kind: 'strike', cues: [cue], ticket: ++this.tickets });
  }

  /** Holds the audio thread up, for the tests. */
  stall(ms: number) {
    this.send({ kind: 'stall', ms });
  }

  /** The audio clock now, seconds. */
  get clock(): number {
    return this.context?.currentTime ?? 0;
  }

  release(ticket: number) {
    this.send({ kind: 'release', ticket });
  }

  /** Renders passes times through the current pass without a loudspeaker, by the same worklet; for checking it
   * against the bounce. */
  async renderOffline(passes: number, seconds: number): Promise<Float32Array[]> {
    const pass = this.lastPass;
    if (!pass) return [];
    await this.bring(voicesOf(pass));
    const offline = new OfflineAudioContext(2, Math.round(seconds * this.rate), this.rate);
    await offline.audioWorklet.addModule(workletUrl);
    const processorOptions: WorkletOptions = {
      voices: Object.fromEntries(this.loaded),
      pass,
      passes,
      ...(this.desk ? { desk: this.desk } : {}),
    };
    const node = new AudioWorkletNode(offline, 'hexachord-mixer', {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions,
    });
    node.connect(offline.destination);
    const out = await offline.startRendering();
    return [out.getChannelData(0), out.getChannelData(1)];
  }
}

/** Every voice a pass may sound. */
const voicesOf = (pass: Pass) => [
  ...pass.cues.map((c) => c.voice),
  ...pass.turns.flatMap((t) => t.takes.map((take) => take.voice)),
];

/** Reads the float WAV in which voices come, and its sample loop if it has one. */
export function parseFloatWAV(data: ArrayBuffer): VoiceAudio {
  const view = new DataView(data);
  const channels = view.getUint16(22, true);
  const voice: VoiceAudio = { channels: [], loopStart: 0, loopEnd: 0 };
  for (let at = 12; at + 8 <= view.byteLength;) {
    const id = view.getUint32(at, false);
    const size = view.getUint32(at + 4, true);
    const body = at + 8;
    if (id === 0x64617461) {
      const frames = Math.floor(size / 4 / channels);
      voice.channels = Array.from({ length: channels }, (_, c) => {
        const out = new Float32Array(frames);
        for (let i = 0; i < frames; i++) out[i] = view.getFloat32(body + (i * channels + c) * 4, true);
        return out;
      });
    } else if (id === 0x736d706c && size >= 60) {
      voice.loopStart = view.getUint32(body + 44, true);
      voice.loopEnd = view.getUint32(body + 48, true) + 1; // its last frame is stored
    }
    at = body + size + (size % 2);
  }
  return voice;
}

export const player = new Player();

declare global {
  interface Window {
    /** the player, for the tests and for measuring */
    hexachordPlayer: Player;
  }
}
window.hexachordPlayer = player;
