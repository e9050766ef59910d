// MIDI outputs and inputs: an instrument that is not ours, or the simulated receiver that ships with the bench.
import { create } from 'zustand';
import type { Lane, Output, Stroke } from '../api/client';
import { clocksAQuarter } from '../model/midiClock';
import { evenTime, type MusicalTime } from '../model/songClock';
import { PPQ } from '../model/time';
import { notesAPart } from '../model/constants.gen';
import { type FromWorklet, sounds } from './messages';
import { player } from './player';

/** A note that arrived at the simulated receiver. */
export interface Arrival {
  id: number;
  note: number;
  name: string;
  velocity: number;
  channel: number;
  /** ms since the page was opened */
  atMS: number;
}

interface Ports {
  outputs: string[];
  inputs: string[];
  arrivals: Arrival[];
  /** clocks the simulated receiver got: when each was meant for, ms, and what was said of starting and stopping */
  clocks: number[];
  transport: string[];
  /** why there are no ports but the receiver */
  why: string;
}

export const receiverName = 'receiver';

export const usePorts = create<Ports>()(() => ({
  outputs: [],
  inputs: [],
  arrivals: [],
  clocks: [],
  transport: [],
  why: '',
}));

/** Strokes are sent this much ahead, with the time they are meant for. */
const aheadS = 0.12;

class MidiOut {
  private access: MIDIAccess | null = null;
  private parts: () => { output: Output; lanes: Lane[] }[] = () => [];
  private output: Output | undefined;
  private lanes: () => Lane[] = () => [];
  private timeOf: () => MusicalTime = () => evenTime(120);
  private sentTo = -Infinity; // place since play, seconds, up to which strokes were sent
  private wasPlaying = false;
  private arrived = 0;

  /** whether the clock is sent, whether it runs, and the number of its next clock */
  private clock = false;
  private running = false;
  private nextClock = 0;
  /** when the last clock was meant for, ms */
  private sentClockMS = 0;

  constructor() {
    player.listenToAll((r) => {
      this.clocks(r);
      if (!r.playing) {
        this.wasPlaying = false;
        return;
      }
      const pass = player.pass;
      if (!pass || this.parts().every((part) => part.output.to === 'kit')) return;
      const { from, to, lead } = player.stretch ?? { from: 0, to: pass.length, lead: 0 };
      const length = to - from;
      const now = r.passes * length + r.atS - from;
      if (!this.wasPlaying || now < this.sentTo - aheadS - 0.05 || now > this.sentTo + 1)
        this.sentTo = now - 0.02;
      this.wasPlaying = true;
      const until = now + aheadS;
      for (let n = Math.max(0, Math.floor(this.sentTo / length) - 1); n * length <= until + 1; n++) {
        for (const s of pass.strokes) {
          if (player.stretch && (s.at < from - lead || s.at >= to - lead)) continue;
          const at = Math.max(0, n * length + s.at - from);
          if (at >= this.sentTo && at < until && !player.isSilent(s.note) && sounds(pass, s.when, n))
            this.send(s, performance.now() + (at - now) * 1000);
        }
      }
      this.sentTo = until;
    });
  }

  /** Sends the project's tempo as MIDI clock, or no more. */
  sendClock(on: boolean) {
    this.clock = on;
  }

  /** Sends the clocks that are due: 24 a quarter note, ahead, each with the time it is meant for (MIDI 1.0, system real-time messages). */
  private clocks(r: FromWorklet) {
    const on = this.clock && r.playing;
    if (!on) {
      if (this.running) this.raw([0xfc], performance.now());
      this.running = false;
      return;
    }
    const time = this.timeOf();
    // a song is where it is; a pattern goes on counting
    const now = time.along ? r.atS : r.passes * (r.to - r.from) + r.atS - r.from;
    if (now < 0) return; // it is counted in
    const atS = (clock: number) => time.secondsOf((clock * PPQ) / clocksAQuarter);
    const nowMS = performance.now();
    if (!this.running) {
      this.running = true;
      this.nextClock = Math.ceil((time.ticksOf(now) * clocksAQuarter) / PPQ - 1e-6);
      this.sentClockMS = nowMS;
      this.raw([0xfa], nowMS);
    }
    // another tempo, or another loop, begins to count anew; what is on its way already is not sent again
    if (Math.abs(atS(this.nextClock) - now) > 0.5) {
      this.nextClock = Math.ceil((time.ticksOf(now) * clocksAQuarter) / PPQ - 1e-6);
      while (
        nowMS + (atS(this.nextClock) - now) * 1000 < this.sentClockMS + 1 &&
        atS(this.nextClock) < now + aheadS
      )
        this.nextClock++;
    }
    for (; atS(this.nextClock) < Math.min(time.endS, now + aheadS); this.nextClock++) {
      this.sentClockMS = nowMS + (atS(this.nextClock) - now) * 1000;
      this.raw([0xf8], this.sentClockMS);
    }
  }

  private raw(bytes: number[], atMS: number) {
    if ((this.output?.port ?? receiverName) === receiverName) {
      if (bytes[0] === 0xf8) usePorts.setState((s) => ({ clocks: [...s.clocks, atMS].slice(-200) }));
      else
        usePorts.setState((s) => ({
          transport: [...s.transport, bytes[0] === 0xfa ? 'start' : 'stop'].slice(-20),
        }));
      return;
    }
    this.port()?.send(bytes, atMS);
  }

  private port(output = this.output) {
    return [...(this.access?.outputs.values() ?? [])].find((o) => (o.name ?? o.id) === output?.port);
  }

  /** Asks for MIDI; a browser without it, or a person who says no, leaves the receiver. */
  async ask() {
    try {
      this.access ??= await navigator.requestMIDIAccess();
      const list = () => {
        usePorts.setState({
          outputs: [...(this.access?.outputs.values() ?? [])].map((o) => o.name ?? o.id),
          inputs: [...(this.access?.inputs.values() ?? [])].map((i) => i.name ?? i.id),
          why: '',
        });
        for (const input of this.access?.inputs.values() ?? []) {
          input.onmidimessage = (e) => {
            const bytes = e.data ?? [];
            const [status = 0, note = 0, velocity = 0] = bytes;
            for (const l of rawListeners) l(bytes, e.timeStamp, input.name ?? input.id);
            if ((status & 0xf0) === 0x90 && velocity > 0) heard(note, velocity);
          };
        }
      };
      this.access.onstatechange = (e) => {
        list();
        const { port } = e;
        if (port?.type === 'input')
          for (const l of unplugged) l(port.name ?? port.id, port.state === 'connected');
      };
      list();
    } catch {
      usePorts.setState({
        why: 'This browser gives no MIDI; the receiver that ships with the bench is there all the same.',
      });
    }
  }

  /** Where the parts play to whose notes lie above each other in what is played. */
  setParts(parts: () => { output: Output; lanes: Lane[] }[]) {
    this.parts = parts;
  }

  set(output: Output | undefined, lanes: () => Lane[], timeOf: () => MusicalTime) {
    this.output = output;
    this.lanes = lanes;
    this.timeOf = timeOf;
  }

  strike(note: number, velocity: number) {
    this.sendTo(this.output, this.lanes(), { note, velocity, length: 0.1 }, performance.now());
  }

  private send(s: Pick<Stroke, 'note' | 'velocity' | 'length'>, atMS: number) {
    const { output, lanes } = this.parts()[Math.floor(s.note / notesAPart)] ?? {
      output: this.output,
      lanes: this.lanes(),
    };
    this.sendTo(output, lanes, { ...s, note: s.note % notesAPart }, atMS);
  }

  private sendTo(
    output: Output | undefined,
    lanes: Lane[],
    s: Pick<Stroke, 'note' | 'velocity' | 'length'>,
    atMS: number,
  ) {
    if (!output || output.to === 'kit') return;
    const { channel } = output;
    const { note } = s;
    const on = [0x8f + channel, note, s.velocity];
    if (output.port === receiverName) {
      setTimeout(() => this.arrive(on, atMS, lanes), Math.max(0, atMS - performance.now()));
      return;
    }
    const port = this.port(output);
    port?.send(on, atMS);
    port?.send([0x7f + channel, note, 0], atMS + s.length * 1000);
  }

  /** The simulated receiver: what it is sent, as it would show it. */
  private arrive([status = 0, note = 0, velocity = 0]: number[], atMS: number, lanes: Lane[]) {
    const arrival: Arrival = {
      id: ++this.arrived,
      note,
      velocity,
      name: lanes.find((l) => l.note === note)?.name ?? '',
      channel: (status & 0x0f) + 1,
      atMS,
    };
    usePorts.setState((s) => ({ arrivals: [arrival, ...s.arrivals].slice(0, 200) }));
  }
}

type TakeBytes = (bytes: Iterable<number>, timeStamp: number, source: string) => void;

const rawListeners = new Set<TakeBytes>();
const unplugged = new Set<(name: string, there: boolean) => void>();

/** Calls back when an input comes or goes; returns what ends it. */
export function onMidiPorts(l: (name: string, there: boolean) => void): () => void {
  unplugged.add(l);
  return () => unplugged.delete(l);
}

/** Calls back with every message of a MIDI input; returns what ends it. */
export function onMidiBytes(l: TakeBytes): () => void {
  rawListeners.add(l);
  return () => rawListeners.delete(l);
}

const listeners = new Set<(note: number, velocity: number) => void>();

function heard(note: number, velocity: number) {
  for (const l of listeners) l(note, velocity);
}

/** Calls back with every note a MIDI input sends; returns what ends it. */
export function onMidiNote(l: (note: number, velocity: number) => void): () => void {
  listeners.add(l);
  return () => listeners.delete(l);
}

export const midiOut = new MidiOut();
