// Hits that sound although their lane is hidden or folded away: counted, and marked where they are.
import { useMemo } from 'react';
import type { Hit, Lane, Pattern } from '../api/client';
import { currentPattern, toggleFold, useBench } from '../app/state';
import { showLanes } from '../maps/state';

/** Lanes of the map that are not shown, with the hits of a pattern on them. */
export function useUnseen(pattern: Pattern | null): { lanes: Map<number, Lane>; hits: Hit[] } {
  const map = useBench((s) => s.project?.map);
  const folded = useBench((s) => s.folded);
  return useMemo(() => {
    const lanes = new Map(
      (map?.lanes ?? []).filter((l) => !l.shown || folded.includes(l.color)).map((l) => [l.note, l]),
    );
    return { lanes, hits: lanes.size === 0 ? [] : (pattern?.hits ?? []).filter((h) => lanes.has(h.note)) };
  }, [map, folded, pattern]);
}

/** How many hits of the pattern sound unseen; a press shows their lanes. */
export function Unseen() {
  const pattern = useBench(currentPattern);
  const { lanes, hits } = useUnseen(pattern);
  if (hits.length === 0) return null;
  const used = [...lanes.values()].filter((l) => hits.some((h) => h.note === l.note));
  const names = used.map((l) => `${l.name} ${hits.filter((h) => h.note === l.note).length}`).join(', ');
  return (
    <button
      type="button"
      className="tag doubt"
      data-id="unseen"
      title={`These hits sound although their lanes are not shown: ${names}. Show them.`}
      onClick={() => {
        const { folded } = useBench.getState();
        for (const f of new Set(used.map((l) => l.color))) if (folded.includes(f)) toggleFold(f);
        const hidden = used.filter((l) => !l.shown).map((l) => l.note);
        if (hidden.length > 0) void showLanes(hidden);
      }}
    >
      {hits.length} unseen
    </button>
  );
}
