// Which key strikes which lane: two rows of six, the lower row for what is struck most.
import type { Kit, Lane } from '../api/client';

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
  /** '' for a pad that no key strikes */
  key: string;
  note: number;
  row: 0 | 1;
  column: number;
  lane: Lane | undefined;
}

/** The twelve pads: first by role, of several lanes one that sounds, then the lanes left over in the map's order. */
function padKeys(lanes: Lane[], sounds: ReadonlySet<number>): PadKey[] {
  // lanes that are hidden come last; what is folded away keeps its pad
  const free = lanes.toSorted((a, b) => Number(b.shown) - Number(a.shown));
  const take = (roles: string[]) => {
    for (const may of [(l: Lane) => sounds.has(l.note), () => true])
      for (const role of roles) {
        const i = free.findIndex((l) => l.role === role && may(l));
        if (i >= 0) return free.splice(i, 1)[0];
      }
    return undefined;
  };
  const pads: PadKey[] = [];
  ([lower, upper] as const).forEach((row, r) =>
    row.forEach(([key, roles], column) =>
      pads.push({ key, note: -1, row: r === 0 ? 1 : 0, column, lane: take(roles) }),
    ),
  );
  for (const p of pads) {
    p.lane ??= free.shift();
    p.note = p.lane?.note ?? -1;
  }
  return pads;
}

/** A bank of sixteen notes as two rows of eight, from 1 to 8; J and K strike too. The two pads that have no key have one
 * while a note is waited for, as nothing else has the keys then. */
function bankKeys(lanes: Lane[], bank: number, all: boolean): PadKey[] {
  const [m, comma] = all ? ['m', ','] : ['', ''];
  const keys = ['z', 'x', 'c', 'v', 'b', 'n', m, comma, 'a', 's', 'd', 'f', 'g', 'h', 'j', 'k'];
  return keys.map((key, i) => {
    const note = (bank - 1) * 16 + i;
    return { key, note, row: i < 8 ? 1 : 0, column: i % 8, lane: lanes.find((l) => l.note === note) };
  });
}

/** The pads as they are laid out now: by role, or a bank. */
export const padsNow = (lanes: Lane[], bank: number, kit: Kit, all = false): PadKey[] =>
  bank === 0
    ? padKeys(lanes, new Set(kit.pads.filter((p) => p.layers.length > 0).map((p) => p.note)))
    : bankKeys(lanes, bank, all);
