// MIDI inputs, real ones and the bench controller, as sources of strikes.
import { create } from 'zustand';
import { editSettings, letGo, play, say, stop, strike, useBench } from '../app/state';
import { ClockFollower } from '../model/midiClock';
import { onMidiBytes, onMidiPorts, midiOut } from '../player/midi';
import { type MidiMessage, MidiStream } from '../model/midiStream';
import { player } from '../player/player';
import { useMaps } from '../maps/state';
import { bent, setRecord, useRecordSettings } from './settings';

/** How the bench controller calls itself. */
export const controllerName = 'bench controller';

interface Inputs {
  /** when each source was last heard, ms of the page's clock */
  heard: Record<string, number>;
  /** the newest velocities an input sent, as struck and as bent */
  struck: { as: number; to: number }[];
  /** the lane that learns a note: the next note of an input plays it */
  learning: number | null;
}

export const useInputs = create<Inputs>()(() => ({ heard: {}, struck: [], learning: null }));

const streams = new Map<string, MidiStream>();
/** tickets of notes that are held, by source and note */
const held = new Map<string, number>();

/** messages a second above which an input is thought to be broken, and the time from which they are counted */
const flood = 2000;
let counted = { from: 0, n: 0, said: false };

const clock = new ClockFollower();
/** the tempo that was last taken over, and where in the song the other machine stands, in sixteenths */
let taken = 0;
let position = 0;

/** Goes along with another machine: it starts, stops, and its tempo becomes the project's when it has been another for a quarter note. */
function followClock(m: MidiMessage, timeStamp: number) {
  switch (m.kind) {
    case 'clock': {
      clock.feed(timeStamp);
      const bpm = Math.round(clock.bpm * 10) / 10;
      const now = useBench.getState().project?.settings.bpm ?? bpm;
      if (!clock.sure || bpm < 20 || bpm > 400 || Math.abs(clock.bpm - now) < 0.25 || bpm === taken) return;
      taken = bpm;
      void editSettings({ bpm }, `Tempo ${bpm} BPM, as the MIDI clock has it`);
      break;
    }
    case 'position':
      position = m.sixteenths;
      break;
    case 'start':
    case 'continue': {
      const from = m.kind === 'start' ? 0 : position;
      const bpm = useBench.getState().project?.settings.bpm ?? 120;
      void play().then(() => from > 0 && player.seek(((from / 4) * 60) / bpm));
      break;
    }
    case 'stop':
      stop();
      break;
  }
}

/** Takes bytes of an input, as they came at a moment of the page's clock. */
export function midiIn(bytes: Iterable<number>, timeStamp: number, source: string) {
  if (timeStamp - counted.from > 1000) counted = { from: timeStamp, n: 0, said: counted.said };
  if (++counted.n > flood) {
    if (!counted.said)
      say({
        title: `${source} sends more than ${flood} messages a second`,
        detail: 'The rest of them is passed over; what was played before is kept. Unplug it if this goes on.',
        error: true,
      });
    counted.said = true;
    return;
  }
  let stream = streams.get(source);
  if (!stream) {
    stream = new MidiStream();
    streams.set(source, stream);
  }
  for (const m of stream.feed(bytes)) {
    const settings = useRecordSettings.getState();
    if (m.kind !== 'on' && m.kind !== 'off') {
      if (settings.followClock) followClock(m, timeStamp);
      continue;
    }
    if (settings.channel !== 0 && m.channel !== settings.channel) continue;
    const key = `${source} ${m.note}`;
    if (m.kind === 'off') {
      const ticket = held.get(key);
      held.delete(key);
      if (ticket) letGo(ticket, timeStamp);
      continue;
    }
    const { learning } = useInputs.getState();
    if (learning !== null) {
      setRecord({ learnt: { ...settings.learnt, [m.note]: learning } });
      useInputs.setState({ learning: null });
    }
    const note = learning ?? settings.learnt[m.note] ?? m.note;
    const velocity = bent(m.velocity, settings);
    useInputs.setState((s) => ({
      heard: { ...s.heard, [source]: timeStamp },
      struck: [{ as: m.velocity, to: velocity }, ...s.struck].slice(0, 12),
    }));
    held.set(key, strike(note, velocity, source, timeStamp));
  }
}

onMidiBytes((bytes, timeStamp, source) => {
  if (useMaps.getState().listening) return; // the map waits for a note of its own
  midiIn(bytes, timeStamp, source);
});

onMidiPorts((name, there) => {
  if (there) return;
  for (const [key, ticket] of held)
    if (key.startsWith(`${name} `)) {
      held.delete(key);
      letGo(ticket);
    }
  say({
    title: `${name} is unplugged`,
    detail: 'Everything it played is kept. Plug it in again and it plays on.',
    error: false,
  });
});

/** Asks for MIDI inputs, now and whenever the bench opens. */
export async function askForMidi() {
  await midiOut.ask();
  setRecord({ midi: true });
}

const clockAsSet = () => midiOut.sendClock(useRecordSettings.getState().sendClock);
useRecordSettings.subscribe(clockAsSet);
clockAsSet();

if (useRecordSettings.getState().midi) void midiOut.ask();
