// How late strikes of a source come, measured by tapping along eight clicks.
import { create } from 'zustand';
import { onPlayed, say, useBench } from '../app/state';
import { player } from '../player/player';
import { setRecord, useRecordSettings } from './settings';

const clicks = 8;

/** How many of the clicks were tapped along; null while nothing is measured. */
export const useTapping = create<{ taps: number | null }>()(() => ({ taps: null }));

/** The middle of some numbers. */
export function median(of: number[]): number {
  const sorted = of.toSorted((a, b) => a - b);
  const mid = Math.floor(sorted.length / 2);
  return sorted.length % 2 === 1 ? (sorted[mid] ?? 0) : ((sorted[mid - 1] ?? 0) + (sorted[mid] ?? 0)) / 2;
}

/** Clicks eight times on the beat while the beat plays; what is tapped along says how late its source comes. */
export function measureLatency() {
  const bpm = useBench.getState().project?.settings.bpm ?? 92;
  const beatS = 60 / bpm;
  if (!useBench.getState().playing) {
    say({
      title: 'Play the beat first',
      detail: 'Then strike along with eight beats; how late the strikes come is taken off from then on.',
      error: false,
    });
    return;
  }
  const off: Record<string, number[]> = {};
  let n = 0;
  useTapping.setState({ taps: 0 });
  player.setMetronome({ clickS: beatS, perBar: 4, level: 0.4, countInOnly: false });
  const end = () => {
    stopListening();
    clearTimeout(giveUp);
    useTapping.setState({ taps: null });
    setRecord({}); // the metronome as it was
    const lateMS = { ...useRecordSettings.getState().lateMS };
    for (const [source, list] of Object.entries(off))
      if (list.length >= clicks / 2) lateMS[source] = Math.round(median(list));
    setRecord({ lateMS });
    const words = Object.entries(off)
      .filter(([, list]) => list.length >= clicks / 2)
      .map(([source]) => `${source} ${lateMS[source] ?? 0} ms`);
    say({
      title: words.length > 0 ? `Measured: ${words.join(', ')} late` : 'Too few strikes to measure by',
      detail:
        words.length > 0
          ? 'It is taken off what is recorded from now on.'
          : 'Strike along with all eight clicks.',
      error: false,
    });
  };
  const stopListening = onPlayed((p) => {
    const at = player.placeOf(player.heardAt(p.timeStamp));
    if (!at) return;
    const beats = at.since / beatS;
    (off[p.from] ??= []).push((beats - Math.round(beats)) * beatS * 1000);
    useTapping.setState({ taps: ++n });
    if (n >= clicks) end();
  });
  const giveUp = setTimeout(end, (clicks + 4) * beatS * 1000);
}
