// The tempo of a recording, tapped along with it.
import type { Recording } from '../api/client';
import { regrid, say } from '../app/state';

const taps: number[] = [];

/** A tap; from the fourth on the tempo is their mean. */
export function tap(r: Recording) {
  const now = performance.now();
  if (taps.length > 0 && now - (taps[taps.length - 1] ?? 0) > 2500) taps.length = 0;
  taps.push(now);
  if (taps.length < 4) {
    say({ title: `Tap ${4 - taps.length} more`, detail: 'On the beats, with the recording.', error: false });
    return;
  }
  const beats = Math.min(16, taps.length - 1);
  const bpm = (60000 * beats * 4) / r.heard.meter.unit / (now - (taps[taps.length - 1 - beats] ?? now));
  if (bpm >= 20 && bpm <= 400) void regrid(r.id, { bpm: Math.round(bpm * 10) / 10 });
}
