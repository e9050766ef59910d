// What the mouse does on the stage of the Roll: draw, choose, move, copy, lengthen and erase hits.
import { type RefObject, useRef, useState } from 'react';
import type { Hit, Lane, Pattern } from '../api/client';
import { strike, useBench } from '../app/state';
import { barTicks, cellOf, nearestLine } from '../model/time';
import { endUnder, fitting, hitUnder, insideLine, keyOf, moved, type RollView, snapped } from './geometry';
import { counted } from './useRollEdits';

/** Hits as they are while they are drawn. */
export interface Draft {
  hits: Hit[];
  /** those that are changed, when they are few */
  moving?: Hit[];
  chosen: ReadonlySet<string>;
}

type Drag =
  | { kind: 'box'; x: number; y: number; add: boolean; erase?: Hit | undefined }
  | { kind: 'round'; line: [number, number][] }
  | { kind: 'length'; hit: Hit; x: number }
  | {
      kind: 'move';
      x: number;
      y: number;
      from: Hit[];
      grip: Hit;
      copy: boolean;
      stirred: boolean;
      rest?: Hit[];
    };

interface Stage {
  pattern: Pattern;
  lanes: Lane[];
  view: RollView;
  /** ticks of a cell and of the pattern */
  cell: number;
  length: number;
  snap: boolean;
  chosen: ReadonlySet<string>;
  setChosen: (keys: ReadonlySet<string>) => void;
  write: (remove: Hit[], put: Hit[], label: string) => void;
  wrap: RefObject<HTMLDivElement | null>;
}

interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** What is drawn just now. A box and a free line round hits lie over the stage, so that it is not drawn anew with them: outline is their path. */
export function useDrawn() {
  const [draft, showDraft] = useState<Draft | null>(null);
  const outline = useRef<SVGPathElement>(null);
  // letting go may come before what the last move drew
  const newest = useRef<{ draft: Draft | null; box: Box | null }>({ draft: null, box: null });
  const setDraft = (d: Draft | null) => {
    newest.current.draft = d;
    showDraft(d);
  };
  const setBox = (b: Box | null) => {
    newest.current.box = b;
    outline.current?.setAttribute('d', b ? `M${b.x0} ${b.y0}H${b.x1}V${b.y1}H${b.x0}Z` : '');
  };
  const setRound = (line: [number, number][] | null) =>
    outline.current?.setAttribute('d', line ? `M${line.map((p) => p.join(' ')).join('L')}` : '');
  return { draft, outline, newest, setDraft, setBox, setRound };
}

export function useRollDrag(
  { pattern, lanes, view: v, cell, length, snap, chosen, setChosen, write, wrap }: Stage,
  { newest, setDraft, setBox, setRound }: ReturnType<typeof useDrawn>,
) {
  const drag = useRef<Drag | null>(null);
  const place = (e: React.PointerEvent) => {
    const r = (wrap.current as HTMLDivElement).getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  /** The cursor goes to the cell of a lane nearest to a tick. */
  const cursorAt = (note: number, tick: number) => {
    const size = cellOf(pattern, note);
    const at = Math.max(0, Math.min(length - size, nearestLine(tick, size)));
    useBench.setState({ lane: note, cell: Math.round(at / size), bar: Math.floor(at / barTicks(pattern)) });
  };
  const down = (e: React.PointerEvent) => {
    wrap.current?.focus();
    const { x, y } = place(e);
    const hit = hitUnder(pattern.hits, lanes, v, x, y);
    e.currentTarget.setPointerCapture(e.pointerId);
    if (e.button === 2) {
      // a right click erases; drawn from anywhere, also from a hit, it is a box
      drag.current = { kind: 'box', x, y, add: e.shiftKey, erase: hit };
      return;
    }
    const end = endUnder(pattern.hits, lanes, v, x, y);
    if (end && e.button === 0) {
      drag.current = { kind: 'length', hit: end, x };
      return;
    }
    if (!hit) {
      drag.current = e.ctrlKey ? { kind: 'round', line: [[x, y]] } : { kind: 'box', x, y, add: e.shiftKey };
      const row = lanes[Math.floor(y / v.rowH)];
      if (row) cursorAt(row.note, v.from + x / v.perTick);
      return;
    }
    cursorAt(hit.note, hit.tick);
    const key = keyOf(hit);
    const next = e.shiftKey ? new Set([...chosen, key]) : chosen.has(key) ? chosen : new Set([key]);
    setChosen(next);
    if (!useBench.getState().playing) strike(hit.note, hit.velocity);
    drag.current = {
      kind: 'move',
      x,
      y,
      from: pattern.hits.filter((h) => next.has(keyOf(h))),
      grip: hit,
      copy: e.ctrlKey,
      stirred: false,
    };
  };
  const move = (e: React.PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const { x, y } = place(e);
    if (d.kind === 'round') {
      d.line.push([x, y]);
      setRound(d.line);
      return;
    }
    if (d.kind === 'length') {
      const to = snapped(d.hit.tick + d.hit.length + (x - d.x) / v.perTick, cell, snap === e.altKey);
      const next = {
        ...d.hit,
        length: Math.min(length, Math.max(snap === e.altKey ? 1 : cell / 4, to - d.hit.tick)),
      };
      setDraft({ hits: pattern.hits.map((h) => (h === d.hit ? next : h)), chosen: new Set([keyOf(next)]) });
      return;
    }
    if (d.kind === 'box') {
      if (Math.hypot(x - d.x, y - d.y) > 4)
        setBox({ x0: Math.min(x, d.x), y0: Math.min(y, d.y), x1: Math.max(x, d.x), y1: Math.max(y, d.y) });
      return;
    }
    if (!d.stirred && Math.hypot(x - d.x, y - d.y) < 4) return;
    d.stirred = true;
    const free = snap === e.altKey;
    const want = snapped(d.grip.tick + (x - d.x) / v.perTick, cell, free);
    const rows = Math.floor(y / v.rowH) - Math.floor(d.y / v.rowH);
    const ticks = fitting(d.from, want - d.grip.tick, free ? 1 : cell, length);
    const next = moved(d.from, lanes, ticks, rows, length);
    if (!d.rest) {
      const gone = new Set(d.copy ? [] : d.from);
      d.rest = pattern.hits.filter((h) => !gone.has(h));
    }
    setDraft({ hits: [...d.rest, ...next], moving: next, chosen: new Set(next.map(keyOf)) });
  };
  const up = (e: React.PointerEvent) => {
    const d = drag.current;
    drag.current = null;
    const b = newest.current.box;
    setBox(null);
    setRound(null);
    if (!d) return;
    if (d.kind === 'round') {
      const inside = pattern.hits.filter((h) => {
        const row = lanes.findIndex((l) => l.note === h.note);
        return row >= 0 && insideLine(d.line, (h.tick - v.from) * v.perTick, row * v.rowH + v.rowH / 2);
      });
      setChosen(new Set(inside.map(keyOf)));
      return;
    }
    if (d.kind === 'length') {
      const is = newest.current.draft?.hits.find((h) => keyOf(h) === keyOf(d.hit));
      setDraft(null);
      if (is && is.length !== d.hit.length) write([d.hit], [is], 'Length of a hit');
      return;
    }
    if (d.kind === 'move') {
      const now = newest.current.draft;
      setDraft(null);
      if (!now || !d.stirred) return;
      const next = now.hits.filter((h) => now.chosen.has(keyOf(h)));
      write(d.copy ? [] : d.from, next, `${d.copy ? 'Copy' : 'Move'} ${counted(next.length)}`);
      return;
    }
    if (b) {
      const inside = pattern.hits.filter((h) => {
        const row = lanes.findIndex((l) => l.note === h.note);
        const x = (h.tick - v.from) * v.perTick;
        const y = row * v.rowH + v.rowH / 2;
        return row >= 0 && x >= b.x0 && x <= b.x1 && y >= b.y0 && y <= b.y1;
      });
      setChosen(new Set([...(d.add ? chosen : []), ...inside.map(keyOf)]));
      return;
    }
    if (d.erase) {
      write([d.erase], [], 'Erase a hit');
      return;
    }
    const row = lanes[Math.floor(d.y / v.rowH)];
    if (!row || e.button === 2) return;
    if (chosen.size > 1) {
      setChosen(new Set()); // several that were chosen are let go; the one drawn last is in nobody's way
      return;
    }
    const tick = snapped(v.from + d.x / v.perTick, cell, snap === e.altKey);
    if (tick < -480 || tick >= length) return;
    const velocity = e.shiftKey ? 127 : useBench.getState().strikeVelocity;
    const hit: Hit = { note: row.note, tick, velocity, length: 0, split: 0, slope: 0 };
    write([], [hit], `${row.name} drawn`);
    if (!useBench.getState().playing) strike(row.note, velocity);
  };
  return { onPointerDown: down, onPointerMove: move, onPointerUp: up };
}
