// Velocities drawn on the strip under the Roll: freehand, along a line (Shift) or a curve (Alt).
import { useRef } from 'react';
import type { Hit, Pattern } from '../api/client';
import { editPattern } from '../app/state';
import { keyOf, type RollView } from './geometry';
import { counted } from './useRollEdits';

const clampV = (v: number) => Math.min(127, Math.max(1, Math.round(v)));

interface Given {
  pattern: Pattern;
  view: RollView;
  /** the hits the strip shows */
  hits: Hit[];
  chosen: ReadonlySet<string>;
  /** note of the lane that is shaped when no hit is chosen */
  lane: number;
  /** shows what is drawn before it is written; null ends that */
  show: (draft: { hits: Hit[]; chosen: ReadonlySet<string> } | null) => void;
}

type Pointer = React.PointerEvent<HTMLCanvasElement>;

const at = (e: Pointer) => {
  const r = e.currentTarget.getBoundingClientRect();
  const y = e.clientY - r.top;
  return { x: e.clientX - r.left, velocity: clampV(((r.height - 14 - y) / (r.height - 22)) * 127) };
};

export function useStrip({ pattern, view, hits, chosen, lane, show }: Given) {
  const painting = useRef<Map<string, Hit> | null>(null);
  const line = useRef<{ x: number; velocity: number; bend: number } | null>(null);
  const paint = (e: Pointer) => {
    const p = painting.current;
    if (!p) return;
    const { x, velocity } = at(e);
    const near = hits.filter((h) => Math.abs((h.tick - view.from) * view.perTick - x) < 7);
    for (const h of near) p.set(keyOf(h), { ...h, velocity });
    show({ hits: pattern.hits.map((h) => p.get(keyOf(h)) ?? h), chosen });
  };
  return {
    title: 'Draw velocities; Shift draws a line, Alt a curve',
    onPointerDown: (e: Pointer) => {
      e.currentTarget.setPointerCapture(e.pointerId);
      if (e.shiftKey || e.altKey) {
        line.current = { ...at(e), bend: e.altKey ? 0.6 : 0 };
        return;
      }
      painting.current = new Map();
      paint(e);
    },
    onPointerMove: paint,
    onPointerUp: (e: Pointer) => {
      const from = line.current;
      const p = painting.current;
      line.current = null;
      painting.current = null;
      if (p) {
        show(null);
        if (p.size > 0)
          void editPattern({ op: 'hits', put: [...p.values()], label: `Velocities of ${counted(p.size)}` });
      }
      if (!from) return;
      const to = at(e);
      const [a, b] = from.x <= to.x ? [from, to] : [to, from];
      const only = pattern.hits
        .filter((h) => chosen.has(keyOf(h)))
        .map((h) => ({ note: h.note, tick: h.tick }));
      void editPattern({
        op: 'velocity',
        ...(only.length > 0 ? { only } : { notes: [lane] }),
        how: 'line',
        amount: a.velocity,
        to: b.velocity,
        fromTick: Math.round(view.from + a.x / view.perTick),
        toTick: Math.round(view.from + b.x / view.perTick),
        bend: from.bend,
        label: `Velocities along a ${from.bend === 0 ? 'line' : 'curve'}`,
      });
    },
  };
}
