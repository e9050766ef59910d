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
  /** struck softly, in the mode where each lane has a hard and a soft pad */
  soft?: boolean;
  /** cents, where one sound is played over the pads */
  tune?: number;
}

/** The mode in which the lower row strikes hard what the upper strikes softly. */
export const hardAndSoft = -1;

/** How hard a soft pad strikes, of what the keys strike at. */
export const softShare = 0.4;

/** What a key strikes its pad with. */
export const keyVelocity = (pad: PadKey, at: number, full: boolean) =>
  full ? 127 : pad.soft ? Math.max(1, Math.round(at * softShare)) : at;

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

/** One sound over the twelve pads, the lowest at the left below. */
function tunedKeys(lane: Lane | undefined, tunes: number[]): PadKey[] {
  return [...lower, ...upper].map(([key], i) => {
    const tune = tunes[i];
    const there = lane && tune !== undefined;
    return {
      key,
      note: there ? lane.note : -1,
      row: i < lower.length ? 1 : 0,
      column: i % lower.length,
      lane: there ? lane : undefined,
      ...(there ? { tune } : {}),
    };
  });
}

/** The pads as they are laid out now: one sound tuned, by role, hard and soft, or a bank. */
export function padsNow(
  lanes: Lane[],
  bank: number,
  kit: Kit,
  tuned: { note: number | null; tunes: number[] },
  all = false,
): PadKey[] {
  if (tuned.note !== null && !all)
    return tunedKeys(
      lanes.find((l) => l.note === tuned.note),
      tuned.tunes,
    );
  if (bank > 0) return bankKeys(lanes, bank, all);
  const pads = padKeys(lanes, new Set(kit.pads.filter((p) => p.layers.length > 0).map((p) => p.note)));
  if (bank !== hardAndSoft) return pads;
  return pads.map((p) => {
    const below = pads.find((o) => o.row === 1 && o.column === p.column);
    return p.row === 1 || !below ? p : { ...below, key: p.key, row: 0, soft: true };
  });
}
