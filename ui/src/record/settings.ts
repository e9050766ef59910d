// How playing in is set, kept in this browser.
import { create } from 'zustand';
import type { Listener } from '../api/client';
import { keep, stored } from '../app/bench';

export type ClickWhen = 'off' | 'counting in' | 'recording' | 'always';

export interface RecordSettings {
  /** bars counted in */
  countIn: 0 | 1 | 2;
  click: ClickWhen;
  /** dB */
  clickDB: number;
  /** clicks a beat */
  clicksABeat: 1 | 2;
  /** what is played takes the place of what was on its lane, or comes on top */
  replace: boolean;
  /** quantising on the way in, percent; 0 is as played */
  strength: number;
  /** '': each lane's own grid */
  grid: string;
  /** the bars that are recorded: from the first on, before the second, from 0; null: all */
  punch: [number, number] | null;
  /** how much later than it was meant a strike of a source comes, ms */
  lateMS: Record<string, number>;
  /** strokes follow each other while a key is held, on this grid; '': one stroke */
  repeat: string;
  /** velocity a stroke, added from stroke to stroke */
  repeatSlope: number;
  /** of MIDI inputs: channel (0: all), how velocities are bent (1: as struck), one for all (0: as struck) */
  channel: number;
  curve: number;
  fixed: number;
  /** notes of MIDI inputs that play another lane */
  learnt: Record<number, number>;
  /** lanes that an open input strikes, each with the gate it hears by */
  live: Record<number, Listener>;
  /** the tempo goes out as MIDI clock; that of an input is followed */
  sendClock: boolean;
  followClock: boolean;
  /** MIDI inputs were asked for before */
  midi: boolean;
}

const plain: RecordSettings = {
  countIn: 1,
  click: 'recording',
  clickDB: -12,
  clicksABeat: 1,
  replace: false,
  strength: 0,
  grid: '',
  punch: null,
  lateMS: {},
  repeat: '',
  repeatSlope: 0,
  channel: 0,
  curve: 1,
  fixed: 0,
  learnt: {},
  live: {},
  sendClock: false,
  followClock: false,
  midi: false,
};

function read(): RecordSettings {
  try {
    return { ...plain, ...(JSON.parse(stored('record') ?? '{}') as Partial<RecordSettings>) };
  } catch {
    return plain;
  }
}

export const useRecordSettings = create<RecordSettings>()(read);

export function setRecord(change: Partial<RecordSettings>) {
  useRecordSettings.setState(change);
  keep('record', JSON.stringify(useRecordSettings.getState()));
}

/** A velocity as an input's curve bends it. */
export function bent(velocity: number, { curve, fixed }: Pick<RecordSettings, 'curve' | 'fixed'>): number {
  if (fixed > 0) return fixed;
  return Math.min(127, Math.max(1, Math.round(127 * (velocity / 127) ** curve)));
}
