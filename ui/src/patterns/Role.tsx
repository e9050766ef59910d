// A role of a ready pattern.
import type { Lane } from '../api/client';
import { Chip } from '../lanes/marks';
import { codeOf, familyOf } from '../shelf/kinds';

/** A role: its lane's chip, or dashed when the map has none. */
export function Role({ role, lane, size }: { role: string; lane: Lane | undefined; size?: number }) {
  return lane ? (
    <Chip code={lane.code} family={lane.color} w={size ?? 22} />
  ) : (
    <Chip code={codeOf(role)} family={familyOf(role)} w={size ?? 22} dashed />
  );
}
