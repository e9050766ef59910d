// What was copied: hits, counted from the beginning of their bar, for this pattern or another one.
import type { Hit, Pattern } from '../api/client';
import { editPattern, say } from '../app/state';
import { barTicks } from '../model/time';

interface Copied {
  hits: Hit[];
  /** the lanes copied; null: whole bars, every lane */
  notes: number[] | null;
  bars: number;
}

let copied: Copied | null = null;

const counted = (n: number) => (n === 1 ? 'a hit' : `${n} hits`);

/** Copies the bar's hits of some lanes, or of all. */
export function copyLanes(p: Pattern, bar: number, notes: number[] | null) {
  const from = bar * barTicks(p);
  const hits = p.hits
    .filter(
      (h) =>
        (!notes || notes.includes(h.note)) && (h.tick >= from || bar === 0) && h.tick < from + barTicks(p),
    )
    .map((h) => ({ ...h, tick: h.tick - from }));
  copied = { hits, notes, bars: 1 };
  say({
    title: `Copied ${counted(hits.length)}`,
    detail: notes
      ? 'Paste puts them in the bar and lane chosen.'
      : 'Paste puts the whole bar in place of another.',
    error: false,
  });
}

/** Copies hits as they are, counted from the bar of the first. */
export function copyHits(p: Pattern, hits: Hit[]) {
  if (hits.length === 0) return;
  const first = Math.min(...hits.map((h) => h.tick));
  const last = Math.max(...hits.map((h) => h.tick));
  const from = Math.max(0, Math.floor(first / barTicks(p))) * barTicks(p);
  copied = {
    hits: hits.map((h) => ({ ...h, tick: h.tick - from })),
    notes: [],
    bars: Math.ceil((last + 1 - from) / barTicks(p)),
  };
  say({ title: `Copied ${counted(hits.length)}`, detail: 'Paste puts them at the bar shown.', error: false });
}

/** Puts what was copied in a bar: one lane goes to the lane chosen, several to their own, a whole bar replaces all. */
export function paste(p: Pattern, bar: number, lane: number): Hit[] {
  if (!copied) {
    say({ title: 'Nothing was copied yet', detail: 'Copy a lane’s bar first (Ctrl+C).', error: false });
    return [];
  }
  const from = bar * barTicks(p);
  const to = from + copied.bars * barTicks(p);
  const { notes } = copied;
  const one = notes?.length === 1;
  const put = copied.hits
    .map((h) => ({ ...h, note: one ? lane : h.note, tick: h.tick + from }))
    .filter((h) => h.tick < p.bars * barTicks(p));
  const replaced = (n: number) => notes === null || (one ? n === lane : notes.includes(n));
  const remove = p.hits
    .filter((h) => replaced(h.note) && h.tick >= from && h.tick < to)
    .map((h) => ({ note: h.note, tick: h.tick }));
  void editPattern({ op: 'hits', remove, put, label: `Paste ${counted(put.length)}` });
  return put;
}
