// The audio worklet that hands over what comes in, in order and without a gap.
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, make: unknown): void;

/** frames handed over at a time */
const batch = 2048;

class Capture extends AudioWorkletProcessor {
  private parts: Float32Array[] = [];
  private filled = 0;

  process(inputs: Float32Array[][]): boolean {
    const channels = inputs[0] ?? [];
    const frames = channels[0]?.length ?? 0;
    if (frames === 0) return true; // nothing is connected just now
    if (this.parts.length !== channels.length) {
      this.send();
      this.parts = channels.map(() => new Float32Array(batch));
    }
    if (this.filled + frames > batch) this.send();
    channels.forEach((c, i) => this.parts[i]?.set(c, this.filled));
    this.filled += frames;
    return true;
  }

  private send() {
    if (this.filled > 0) this.port.postMessage(this.parts.map((p) => p.slice(0, this.filled)));
    this.filled = 0;
  }
}

registerProcessor('hexachord-capture', Capture);
