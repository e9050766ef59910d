// Which key strikes which lane: two rows of six, the lower row for what is struck most.
import type { Lane } from '../api/client';

const upper: [string, string[]][] = [
  ['a', ['low tom']],
  ['s', ['high tom', 'mid tom']],
  ['d', ['shaker', 'percussion', 'tambourine', 'cowbell']],
  ['f', ['pedal hat', 'other']],
  ['g', ['ride']],
  ['h', ['crash', 'cymbal']],
];
const lower: [string, string[]][] = [
  ['z', ['kick']],
  ['x', ['snare']],
  ['c', ['clap']],
  ['v', ['rim']],
  ['b', ['closed hat']],
  ['n', ['open hat']],
];

export interface PadKey {
  key: string;
  row: 0 | 1;
  column: number;
  lane: Lane | undefined;
}

/** The twelve pads: first by role, then the lanes left over in the map's order. */
export function padKeys(lanes: Lane[]): PadKey[] {
  const free = [...lanes];
  const take = (roles: string[]) => {
    for (const role of roles) {
      const i = free.findIndex((l) => l.role === role);
      if (i >= 0) return free.splice(i, 1)[0];
    }
    return undefined;
  };
  const pads: PadKey[] = [];
  ([lower, upper] as const).forEach((row, r) =>
    row.forEach(([key, roles], column) =>
      pads.push({ key, row: r === 0 ? 1 : 0, column, lane: take(roles) }),
    ),
  );
  for (const p of pads) p.lane ??= free.shift();
  return pads;
}
