// Where a change acted: the pattern and the bar to look at.
import type { Hit, Project, StoredPattern } from '../api/client';
import { PPQ } from './constants.gen';
import { barTicks } from './time';

/** A hit up to 1/64 before a bar line leads into its bar. */
const leads = PPQ / 16;

const told = (h: Hit) => JSON.stringify(h);

/** The bars of a pattern in which hits differ; none where something else of it does. */
function barsChanged(was: StoredPattern | undefined, is: StoredPattern): Set<number> {
  const a = new Set(was?.value.hits.map(told));
  const b = new Set(is.value.hits.map(told));
  const differ = [
    ...(was?.value.hits.filter((h) => !b.has(told(h))) ?? []),
    ...is.value.hits.filter((h) => !a.has(told(h))),
  ];
  const per = barTicks(is.value);
  return new Set(
    differ.map((h) => Math.min(is.value.bars - 1, Math.max(0, Math.floor((h.tick + leads) / per)))),
  );
}

/** The pattern and bar that show what a step of the history did; null where what is shown shows it, or nothing of a pattern changed. */
export function whereItActed(
  was: Project,
  is: Project,
  shown: { patternId: string; bar: number },
): { patternId: string; bar: number } | null {
  const changed = is.patterns.filter((p) => was.patterns.find((q) => q.id === p.id)?.value !== p.value);
  const here = changed.find((p) => p.id === shown.patternId) ?? changed[0];
  if (!here) return null;
  const bars = barsChanged(
    was.patterns.find((q) => q.id === here.id),
    here,
  );
  if (here.id === shown.patternId && (bars.size === 0 || bars.has(shown.bar))) return null;
  return { patternId: here.id, bar: bars.size > 0 ? Math.min(...bars) : 0 };
}
