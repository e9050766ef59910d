// Making a pattern shorter and longer: what lies beyond its end is kept aside until the pattern is left.
import type { Hit, Pattern } from '../api/client';
import { edit, say, useBench } from '../app/state';
import { ofPattern } from '../model/edits';
import { barTicks } from '../model/time';

/** What was cut off the pattern shown, and how long it has been since. */
let aside: { id: string; bars: number; hits: Hit[] } | null = null;

/** Gives a pattern another number of bars; hits that were cut off since it is shown come back with their bars. */
export function setBars(id: string, p: Pattern, bars: number) {
  const end = bars * barTicks(p);
  const kept = aside?.id === id && aside.bars === p.bars ? aside.hits : [];
  const beyond = [...p.hits, ...kept].filter((h) => h.tick >= end);
  const back = kept.filter((h) => h.tick < end);
  aside = beyond.length > 0 ? { id, bars, hits: beyond } : null;
  void edit(
    [
      ofPattern(id, { op: 'shape', bars }),
      ...(back.length > 0 ? [ofPattern(id, { op: 'hits', put: back })] : []),
    ],
    back.length > 0 ? `${p.name}: ${bars} bars, with the hits they had` : '',
  );
  if (bars < p.bars && beyond.length > 0)
    say({
      title: `${beyond.length === 1 ? 'One hit lies' : `${beyond.length} hits lie`} beyond bar ${bars}`,
      detail:
        'Made longer again, while this pattern is shown, it has them back; undo brings them back at any time.',
      error: false,
    });
}

useBench.subscribe((s, was) => {
  if (s.patternId !== was.patternId) aside = null;
});
