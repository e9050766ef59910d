import { memo } from 'react';
import type { Lane } from '../api/client';

interface Mark {
  lane: Lane | undefined;
  tick: number;
  velocity: number;
}

/** A pattern drawn small: its lanes from the top down, its hits in time. */
export const Thumb = memo(function Thumb({
  marks,
  length,
  w = 62,
  h = 26,
}: {
  marks: Mark[];
  length: number;
  w?: number;
  h?: number;
}) {
  const order = [...new Set(marks.map((m) => m.lane?.note))];
  const rowH = h / Math.max(4, order.length);
  return (
    <svg width={w} height={h} aria-hidden="true">
      {marks.slice(0, 120).map((m) => (
        <rect
          key={`${m.lane?.note} ${m.tick}`}
          className={`f-${m.lane?.color ?? 'other'}`}
          x={(Math.max(0, m.tick) / length) * (w - 4)}
          y={order.indexOf(m.lane?.note) * rowH + 0.5}
          width={3.4}
          height={Math.max(1.5, rowH - 1.5)}
          opacity={0.35 + (0.65 * m.velocity) / 127}
          fill="var(--c)"
        />
      ))}
    </svg>
  );
});
