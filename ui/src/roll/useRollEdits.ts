// What is done to the hits chosen in the Roll, by keys and buttons.
import type { Hit, Lane, Pattern } from '../api/client';
import type { AboutHits } from '../model/edits';
import { actionFor, type KeyLike } from '../app/actions';
import { currentPattern, editPattern, strike, useBench } from '../app/state';
import { beatTicks, cellOf, gridTicks, hitAt, msToTicks } from '../model/time';
import { moveCursor } from '../steps/keys';
import { copyHits, paste } from '../steps/clipboard';
import { barTicks } from '../model/time';
import { keyOf, moved } from './geometry';

const keysOf = (hits: Hit[]) => hits.map((h) => ({ note: h.note, tick: h.tick }));

export const counted = (n: number) => (n === 1 ? 'a hit' : `${n} hits`);

interface Given {
  pattern: Pattern;
  lanes: Lane[];
  bpm: number;
  /** note of the chosen lane, and the bar shown */
  lane: number;
  bar: number;
  /** cell of the lane the cursor stands on */
  cursor: number;
  chosen: ReadonlySet<string>;
  setChosen: (keys: ReadonlySet<string>) => void;
  selection: Hit[];
  /** of quantising: percent, and the ms within which nothing moves */
  strength: number;
  within: number;
  /** gives the stage the keys */
  focus: () => void;
  zoom: (by: number) => void;
  scroll: (to: 'begin' | 'end') => void;
  toggleSnap: () => void;
  toggleNotes: () => void;
}

export function useRollEdits(o: Given) {
  const { pattern, lanes, chosen, setChosen } = o;
  // with nothing chosen the keys are about the hit the cursor stands on
  const under = hitAt(pattern, o.lane, o.cursor);
  const selection = o.selection.length > 0 || !under ? o.selection : [under];
  const length = pattern.bars * barTicks(pattern);
  const cell = gridTicks(pattern.grid);
  const write = (was: Hit[], is: Hit[], label: string, choose = true) => {
    if (choose) setChosen(new Set(is.map(keyOf)));
    void editPattern({ op: 'hits', remove: keysOf(was), put: is, label });
  };
  /** An edit of the hits chosen, or of the lane's when none is. */
  const about = (edit: AboutHits) =>
    editPattern({ ...edit, ...(chosen.size > 0 ? { only: keysOf(selection) } : { notes: [o.lane] }) });
  /** The same, but of the hit under the cursor rather than its whole lane. */
  const aboutHits = (edit: AboutHits) =>
    selection.length > 0 && editPattern({ ...edit, only: keysOf(selection) });
  const what = () =>
    chosen.size > 0 ? counted(selection.length) : (lanes.find((l) => l.note === o.lane)?.name ?? 'the lane');

  const shift = (ticks: number, rows: number, label: string) => {
    if (selection.length === 0) return;
    const next = moved(selection, lanes, ticks, rows, length);
    if ((next[0]?.tick ?? 0) - (selection[0]?.tick ?? 0) !== ticks) return; // a part of a step would leave the grid
    write(selection, next, `${label} ${counted(next.length)}`, chosen.size > 0);
    const [first] = next;
    if (rows !== 0 && first) strike(first.note, first.velocity);
  };
  const louder = (by: number) => {
    void aboutHits({ op: 'velocity', how: 'add', amount: by, label: `Velocity of ${what()}` });
  };
  const lengths = (how: 'add' | 'legato' | 'free' | 'quantise' | 'trim', ticks: number, label: string) =>
    void (how === 'add' ? aboutHits : about)({ op: 'lengths', how, ticks, label: `${label} ${what()}` });
  const span = () =>
    Math.max(
      cell,
      Math.ceil(
        (Math.max(...selection.map((h) => h.tick)) - Math.min(...selection.map((h) => h.tick)) + 1) /
          beatTicks(pattern),
      ) * beatTicks(pattern),
    );
  const repeat = () => {
    if (selection.length === 0) return;
    const next = selection.map((h) => ({ ...h, tick: h.tick + span() })).filter((h) => h.tick < length);
    if (next.length > 0) write([], next, `Repeat ${counted(next.length)}`);
  };
  const quantise = () => {
    const before = new Set(pattern.hits.map(keyOf));
    const some = chosen.size > 0;
    o.focus();
    void about({
      op: 'quantise',
      strength: o.strength,
      within: msToTicks(o.within, o.bpm),
      label: `Quantise ${what()}`,
    }).then(() => {
      // those that were chosen stay so, where they are now
      const now = currentPattern(useBench.getState())?.hits.map(keyOf) ?? [];
      if (some) setChosen(new Set(now.filter((k) => chosen.has(k) || !before.has(k))));
    });
  };
  const ms = msToTicks(1, o.bpm);
  const some = chosen.size > 0;
  const does: Record<string, () => unknown> = {
    left: () => (some ? shift(-cell, 0, 'Move') : moveCursor(-1, 0, pattern, lanes)),
    right: () => (some ? shift(cell, 0, 'Move') : moveCursor(1, 0, pattern, lanes)),
    set: () => {
      if (under) {
        setChosen(
          new Set(
            chosen.has(keyOf(under))
              ? [...chosen].filter((k) => k !== keyOf(under))
              : [...chosen, keyOf(under)],
          ),
        );
        return;
      }
      const velocity = useBench.getState().strikeVelocity;
      const tick = o.cursor * cellOf(pattern, o.lane);
      write([], [{ note: o.lane, tick, velocity, length: 0, split: 0, slope: 0 }], 'Set a hit', false);
      if (!useBench.getState().playing) strike(o.lane, velocity);
    },
    'tick-left': () => shift(-1, 0, 'Move'),
    'tick-right': () => shift(1, 0, 'Move'),
    up: () => (some ? shift(0, -1, 'Move') : moveCursor(0, -1, pattern, lanes)),
    down: () => (some ? shift(0, 1, 'Move') : moveCursor(0, 1, pattern, lanes)),
    early: () => shift(-ms, 0, 'Lean'),
    late: () => shift(ms, 0, 'Lean'),
    louder: () => louder(4),
    softer: () => louder(-4),
    'louder-1': () => louder(1),
    'softer-1': () => louder(-1),
    longer: () => lengths('add', cell, 'Longer:'),
    shorter: () => lengths('add', -cell, 'Shorter:'),
    legato: () => lengths('legato', 0, 'Legato:'),
    'free-length': () => lengths('free', 0, 'As long as the sound:'),
    'quantise-lengths': () => lengths('quantise', 0, 'Quantise lengths of'),
    quantise,
    all: () => setChosen(new Set(pattern.hits.map(keyOf))),
    none: () => setChosen(new Set()),
    repeat,
    'repeat-fill': () =>
      selection.length > 0 &&
      void editPattern({
        op: 'repeat',
        only: keysOf(selection),
        by: span(),
        label: `Repeat ${what()} to the end`,
      }),
    copy: () => copyHits(pattern, selection),
    paste: () => setChosen(new Set(paste(pattern, o.bar, o.lane).map(keyOf))),
    erase: () => selection.length > 0 && write(selection, [], `Erase ${counted(selection.length)}`),
    nearer: () => o.zoom(1.4),
    farther: () => o.zoom(1 / 1.4),
    begin: () => o.scroll('begin'),
    end: () => o.scroll('end'),
    snap: o.toggleSnap,
    notes: o.toggleNotes,
  };
  const keys = (e: KeyLike) => {
    const id = actionFor('roll', e);
    if (!id || !does[id] || (id === 'none' && chosen.size === 0)) return false;
    does[id]();
    return true;
  };
  return { write, quantise, keys };
}
