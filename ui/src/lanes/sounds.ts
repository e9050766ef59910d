// What of a lane sounds: whether it is silent, and where its velocity layers begin.
import { useCallback } from 'react';
import type { Project } from '../api/client';

/** Whether a note's lane is silent: muted, or not among those soloed. */
export function useSilent({ muted, solo }: Project['settings']) {
  return useCallback(
    (note: number) => (solo.length > 0 ? !solo.includes(note) : muted.includes(note)),
    [muted, solo],
  );
}

/** The velocities at which a note's layers begin, from the lowest. */
export const layersOf = (kit: Project['kit'], note: number): number[] =>
  kit.pads
    .find((p) => p.note === note)
    ?.layers.map((l) => l.lo)
    .toSorted((a, b) => a - b) ?? [];
