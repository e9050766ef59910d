// How recordings are changed: their grid, their hits, how they are heard, what is made of them.
import type { Again, HearEdit, KeepRecording, Listener, Regrid } from '../api/client';
import { say, useBench } from './bench';
import { edit, showNew } from './edits';

export const regrid = (recording: string, grid: Omit<Regrid, 'recording'>) =>
  edit([{ regrid: { recording, ...grid } }]);
export const editHits = (recording: string, e: HearEdit, label: string) =>
  edit([{ heard: { recording, edit: e, label } }]);
export const setListener = (recording: string, lane: number, listener: Listener | null) =>
  edit([{ listener: { recording, lane, ...(listener ? { listener } : {}) } }]);
/** How a recording is heard again. */
export type HowAgain = Omit<Again, 'recording'>;

export const hearAgain = (recording: string, how: HowAgain) => edit([{ again: { recording, ...how } }]);
export const flip = (recording: string, lane: number) => edit([{ flip: { recording, lane } }]);

/** Makes a kit of a recording's cleanest strokes, and says what came of it. */
export const cutKit = (recording: string, name: string, wanted: number[]) =>
  edit([{ cutKit: { recording, name, ...(wanted.length > 0 ? { wanted } : {}) } }], '', (results) => {
    const cut = results[0]?.cut;
    showNew(results);
    if (!cut) return;
    const lanes = useBench.getState().project?.map.lanes;
    const poor = cut.lanes
      .filter((l) => l.clean < 0.5)
      .map((l) => lanes?.find((x) => x.note === l.note)?.name);
    say({
      title: `Cut into the kit ${name}`,
      detail: `${cut.lanes.length} lanes got ${cut.lanes.reduce((n, l) => n + l.layers, 0)} sounds; the others keep theirs. ${poor.length > 0 ? `Other drums sound with ${poor.join(', ')}.` : ''}`,
      error: false,
    });
  });

export const keepPattern = (recording: string, as: Omit<KeepRecording, 'recording'> & { name: string }) =>
  edit([{ keep: { recording, ...as } }], '', (results) => {
    const kept = results[0]?.kept;
    showNew(results);
    useBench.setState({ face: 'steps' });
    if (!kept) return;
    const left: string[] = [];
    if (kept.homeless > 0) left.push(`${kept.homeless} hits found no lane`);
    if (kept.outside > 0) left.push(`${kept.outside} hits lie outside the bars`);
    if (kept.patterns > 1) left.push(`a row of ${kept.patterns} patterns`);
    say({
      title: `Kept as ${as.name}`,
      detail: `${kept.hits} hits on your lanes${left.length > 0 ? `; ${left.join(', ')}` : ''}.`,
      error: false,
    });
  });
