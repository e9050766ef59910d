// The audio worklet that takes an input: it hands over what comes in, in order and without a gap, and listens for strokes in it.
import type { Listener } from '../api/client';
import { LiveGate } from '../model/liveGate';

declare const sampleRate: number;
declare const currentFrame: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, make: unknown): void;

/** Lanes that listen: each with the gate it hears by. */
export type LiveLanes = { note: number; listener: Listener }[];

export type FromCapture =
  /** what came in, one array a channel, and the levels of the listening lanes, dB; frame is the one after it */
  | { kind: 'audio'; channels: Float32Array[]; levels: number[]; frame: number }
  /** a stroke was heard: the frame at which it began, and the one after the block it was found in */
  | { kind: 'stroke'; note: number; velocity: number; began: number; frame: number };

/** frames handed over at a time */
const batch = 2048;

class Capture extends AudioWorkletProcessor {
  private parts: Float32Array[] = [];
  private filled = 0;
  private lanes: { note: number; gate: LiveGate; from: number }[] = [];
  private mono = new Float32Array(128);

  constructor() {
    super();
    this.port.onmessage = (e: MessageEvent<LiveLanes>) => {
      this.lanes = e.data.map(({ note, listener }) => ({
        note,
        gate: new LiveGate(listener, sampleRate),
        from: -1,
      }));
    };
  }

  process(inputs: Float32Array[][]): boolean {
    const channels = inputs[0] ?? [];
    const frames = channels[0]?.length ?? 0;
    if (frames === 0) return true; // nothing is connected just now
    this.listen(channels, frames);
    if (this.parts.length !== channels.length) {
      this.send();
      this.parts = channels.map(() => new Float32Array(batch));
    }
    if (this.filled + frames > batch) this.send();
    channels.forEach((c, i) => this.parts[i]?.set(c, this.filled));
    this.filled += frames;
    return true;
  }

  private listen(channels: Float32Array[], frames: number) {
    if (this.lanes.length === 0) return;
    if (this.mono.length !== frames) this.mono = new Float32Array(frames);
    for (let i = 0; i < frames; i++) {
      let sum = 0;
      for (const c of channels) sum += c[i] as number;
      this.mono[i] = sum / channels.length;
    }
    for (const lane of this.lanes) {
      if (lane.from < 0) lane.from = currentFrame;
      for (const s of lane.gate.feed(this.mono))
        this.say({
          kind: 'stroke',
          note: lane.note,
          velocity: s.velocity,
          began: lane.from + s.frame,
          frame: currentFrame + frames,
        });
    }
  }

  private say(m: FromCapture) {
    this.port.postMessage(m);
  }

  private send() {
    if (this.filled > 0)
      this.say({
        kind: 'audio',
        channels: this.parts.map((p) => p.slice(0, this.filled)),
        levels: this.lanes.map((l) => l.gate.db),
        frame: currentFrame,
      });
    this.filled = 0;
  }
}

registerProcessor('hexachord-capture', Capture);
