// What the player and its audio worklet say to each other.
import type { Cue, Pass, PassDelta } from '../api/client';
import type { DeskPlan } from '../model/desk';

/** Whether what a cue's or stroke's when numbers sounds in pass n. */
export function sounds(pass: Pass, when: number, n: number): boolean {
  const w = pass.whens[when - 1];
  return w === undefined || w[n % w.length] === '1';
}

/** A voice: one array a channel, and for as long as it is held the frames between which it goes on. */
export interface VoiceAudio {
  channels: Float32Array[];
  loopStart: number;
  /** 0: no loop */
  loopEnd: number;
}

/** A strike: cues that sound at once, with the ticket by which a held pad is let go. */
export interface Strike {
  kind: 'strike';
  cues: Cue[];
  ticket: number;
  /** the audio's clock at which it sounds, seconds; at once when left out */
  atS?: number;
}

export type ToWorklet =
  | { kind: 'voice'; id: string; audio: VoiceAudio }
  | { kind: 'forget'; id: string }
  | { kind: 'pass'; pass: Pass; keepPlace: boolean }
  | { kind: 'delta'; delta: PassDelta }
  /** the cues that begin between two moments, in the place of those there, and how long all of it is */
  | { kind: 'stretch'; fromS: number; toS: number; cues: Cue[]; length: number; once: boolean }
  | { kind: 'play'; countInS: number; fromS: number }
  | { kind: 'metronome'; metronome: Metronome | null }
  | { kind: 'skip'; note: number; tick: number; pass: number }
  | { kind: 'once'; once: boolean }
  | { kind: 'stop' }
  | { kind: 'seek'; atS: number }
  | { kind: 'loop'; loop: Loop | null }
  | { kind: 'silent'; notes: number[] }
  | { kind: 'blend'; kit: number; recording: number }
  | { kind: 'desk'; desk: DeskSetup | null }
  | { kind: 'meters'; on: boolean; bus: number }
  | { kind: 'release'; ticket: number }
  | { kind: 'stall'; ms: number }
  | Strike;

/** The mix that is heard, and whose notes are whose in what is played. */
export interface DeskSetup extends DeskPlan {
  /** the parts whose notes lie above each other, 128 apart; those beyond are the recordings' */
  parts: string[];
  /** the part whose pads are struck */
  own: string;
}

/** What the meters show of the time since the last report. */
export interface MeterReport {
  /** peaks of the outputs, the room and the delay */
  buses: number[];
  /** by how much each output is turned down, dB */
  taken: { compressor: number; gate: number }[];
  /** peaks of lanes: notes as they are played, and how loud */
  lanes: [note: number, peak: number][];
  /** mean squares of tenths of a second, weighted */
  hops: number[];
  /** the last frames that came out of the output that is looked at, both sides added */
  scope: Float32Array;
}

/** A click at a place of what is played, seconds. */
export interface Click {
  at: number;
  accent: boolean;
}

/** A click on the beats: it goes to the ear alone. */
export interface Metronome {
  /** from click to click, seconds, and how many make a bar */
  clickS: number;
  perBar: number;
  /** where they fall in what is played instead, in order, when they do not fall evenly */
  places?: Click[];
  /** linear */
  level: number;
  /** only before the pass begins */
  countInOnly: boolean;
}

/** The stretch of the pass that is played round and round, seconds. */
export interface Loop {
  from: number;
  to: number;
  /** how much before the stretch a hit may sound that belongs to its beginning */
  lead: number;
}

/** A cue that was started. Frames count from the audio context's start. */
export interface Started {
  note: number;
  velocity: number;
  layer: number;
  tick: number;
  /** when the cue was to start, and when it did; they differ only when it was late */
  plannedFrame: number;
  frame: number;
  live: boolean;
}

export interface FromWorklet {
  kind: 'report';
  playing: boolean;
  /** place in the pass, seconds; before it while it is counted in */
  atS: number;
  /** frame at which what is played began for the first time, and the stretch of the pass that goes round, seconds */
  baseFrame: number;
  from: number;
  to: number;
  /** times through since play */
  passes: number;
  peakLeft: number;
  peakRight: number;
  started: Started[];
  /** notes of the sounds that ring now and are not being cut */
  sounding: number[];
  /** cues that started later than planned, or while the thread was behind the wall clock, since the start */
  late: number;
  /** cues whose voice had not come yet, since the start */
  missing: number;
  /** while they are asked for */
  meters?: MeterReport;
}

/** Everything a rendering without a window needs from the beginning. */
export interface WorkletOptions {
  voices?: Record<string, VoiceAudio>;
  pass?: Pass;
  passes?: number;
  desk?: DeskSetup;
}
