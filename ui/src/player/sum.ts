// How sounds are summed: which takes a cue sounds, where it is in its voice, how it is cut.
import type { Cue, Pass } from '../api/client';
import type { VoiceAudio } from './messages';

/** how long a sound that joins in the middle takes to come, frames */
export const joinFrames = 128;

export interface Sounding {
  cue: Cue;
  audio: VoiceAudio;
  /** frame at which it began, and at which its cut begins */
  frame: number;
  cutFrame: number;
  fadeFrames: number;
  ticket: number;
  /** frame at which it was taken up in its middle; it is let in softly from there */
  joined: number;
}

/** Index of the first at or after a time, of things in the order of their times. */
export function firstFrom(places: readonly { at: number }[], atS: number): number {
  let lo = 0;
  let hi = places.length;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if ((places[mid] as { at: number }).at < atS) lo = mid + 1;
    else hi = mid;
  }
  return lo;
}

/** The cue as it sounds in pass n: a sound with several takes sounds them in turn. */
export function takeOf(pass: Pass, cue: Cue, n: number): Cue {
  const turn = pass.turns[cue.turn - 1];
  const take = turn?.takes[turn.order[(n * turn.strokes + cue.stroke) % turn.order.length] ?? 0];
  if (!take) return cue;
  return panned({ ...cue, voice: take.voice, left: take.left * cue.gain, right: take.right * cue.gain });
}

/** Moves a take to a side as the server has moved the others: by the equal-power law. */
export function panned(cue: Cue): Cue {
  if (cue.pan === 0) return cue;
  const power = Math.hypot(cue.left, cue.right);
  const angle = Math.atan2(cue.right, cue.left);
  const to = cue.pan < 0 ? 0 : Math.PI / 2;
  const at = angle + ((to - angle) * Math.abs(cue.pan)) / 100;
  return { ...cue, left: power * Math.cos(at), right: power * Math.sin(at) };
}

export function mix(
  out: Float32Array | Float64Array,
  s: Sounding,
  audio: Float32Array | undefined,
  gain: number,
  from: number,
) {
  if (!audio) return;
  const { loopStart, loopEnd } = s.audio;
  let i = Math.max(0, s.frame - from);
  for (; i < out.length; i++) {
    let at = from + i - s.frame;
    if (loopEnd > 0 && at >= loopEnd) at = loopStart + ((at - loopStart) % (loopEnd - loopStart));
    if (at >= audio.length) return;
    const past = from + i - s.cutFrame;
    if (past >= 0) {
      if (past >= s.fadeFrames) return;
      out[i] = (out[i] as number) + (audio[at] as number) * gain * (1 - past / s.fadeFrames);
    } else {
      const since = from + i - s.joined;
      out[i] =
        (out[i] as number) + (audio[at] as number) * gain * (since < joinFrames ? since / joinFrames : 1);
    }
  }
}

export function peak(block: Float32Array | Float64Array, start: number): number {
  let p = start;
  for (const v of block) {
    const a = v < 0 ? -v : v;
    if (a > p) p = a;
  }
  return p;
}
