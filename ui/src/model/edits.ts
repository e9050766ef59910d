// Edits as the window asks for them.
import type { Edit, PatternChange } from '../api/client';

type Operations = Required<Omit<PatternChange, 'label'>>;

/** A change of one pattern with its operation named beside its fields. */
export type PatternEdit = {
  [Op in keyof Operations]: { op: Op; label?: string } & (Op extends 'double' ? unknown : Operations[Op]);
}[keyof Operations];

type Only<T, Op> = T extends { op: Op } ? T : never;

/** Hits removed and put. */
export type HitsEdit = Only<PatternEdit, 'hits'>;

/** An operation on whole lanes, the lanes and bars left to be said. */
export type AboutLanes = Only<
  PatternEdit,
  'fill' | 'shift' | 'reverse' | 'quantise' | 'velocity' | 'lengths' | 'clear' | 'lean'
>;

/** An operation on hits chosen. */
export type AboutHits = Only<PatternEdit, 'quantise' | 'velocity' | 'lengths' | 'repeat' | 'lean'>;

/** The change as the bench takes it. */
export function patternChange({ op, label, ...fields }: PatternEdit): PatternChange {
  const change: PatternChange = { [op]: fields };
  if (label) change.label = label;
  return change;
}

/** An edit of one pattern. */
export const ofPattern = (id: string, edit: PatternEdit): Edit => ({
  pattern: { id, edit: patternChange(edit) },
});
