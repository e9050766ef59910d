// Bytes of a MIDI cable to messages, as MIDI 1.0 has them: running status, a note-on of velocity 0 that lets go, real-time bytes between the
// bytes of other messages, and system exclusive passed over.

/** A channel voice or system message that means something here. */
export type MidiMessage =
  | { kind: 'on'; channel: number; note: number; velocity: number }
  | { kind: 'off'; channel: number; note: number }
  | { kind: 'clock' | 'start' | 'continue' | 'stop' }
  /** in sixteenths from the beginning */
  | { kind: 'position'; sixteenths: number };

/** How many data bytes follow a status. */
function dataBytes(status: number): number {
  if (status >= 0xf0) return { 0xf1: 1, 0xf2: 2, 0xf3: 1 }[status] ?? 0;
  return (status & 0xe0) === 0xc0 ? 1 : 2; // program and channel pressure have one
}

const realTime: Record<number, MidiMessage | undefined> = {
  0xf8: { kind: 'clock' },
  0xfa: { kind: 'start' },
  0xfb: { kind: 'continue' },
  0xfc: { kind: 'stop' },
};

/** One cable. */
export class MidiStream {
  private status = 0;
  private data: number[] = [];

  /** What bytes, the next of the cable, complete. Bytes that mean nothing are passed over. */
  feed(bytes: Iterable<number>): MidiMessage[] {
    const out: MidiMessage[] = [];
    for (const b of bytes) {
      if (!Number.isInteger(b) || b < 0 || b > 0xff) continue;
      if (b >= 0xf8) {
        const m = realTime[b];
        if (m) out.push(m);
        continue;
      }
      if (b >= 0x80) {
        this.status = b;
        this.data = [];
        continue;
      }
      if (this.status === 0 || this.status === 0xf0 || dataBytes(this.status) === 0) continue;
      this.data.push(b);
      if (this.data.length < dataBytes(this.status)) continue;
      const m = message(this.status, this.data);
      if (m) out.push(m);
      this.data = [];
      if (this.status >= 0xf0) this.status = 0; // system messages do not run on
    }
    return out;
  }
}

function message(status: number, [a = 0, b = 0]: number[]): MidiMessage | null {
  const channel = (status & 0x0f) + 1;
  switch (status & 0xf0) {
    case 0x90:
      return b > 0 ? { kind: 'on', channel, note: a, velocity: b } : { kind: 'off', channel, note: a };
    case 0x80:
      return { kind: 'off', channel, note: a };
    default:
      return status === 0xf2 ? { kind: 'position', sixteenths: a + 128 * b } : null;
  }
}
