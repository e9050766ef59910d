// A curve drawn over a sound's own time: clicked to add a point, dragged, and taken out with a double click.
import { useRef } from 'react';
import type { Point } from '../api/client';
import { hex, Poly } from '../lanes/marks';

export type CurveKind = 'level' | 'pan' | 'tune';

interface Scale {
  lo: number;
  hi: number;
  /** value of no change */
  rest: number;
  step: number;
  show: (v: number) => string;
}

const signed = (v: number, digits: number) =>
  `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(digits)}`;

export const scales: Record<CurveKind, Scale> = {
  level: { lo: -60, hi: 12, rest: 0, step: 0.5, show: (v) => (v <= -60 ? 'silent' : `${signed(v, 1)} dB`) },
  pan: {
    lo: -1,
    hi: 1,
    rest: 0,
    step: 0.05,
    show: (v) => (v === 0 ? 'middle' : `${Math.round(Math.abs(v) * 100)} ${v < 0 ? 'left' : 'right'}`),
  },
  tune: { lo: -24, hi: 24, rest: 0, step: 0.25, show: (v) => `${signed(v, 2)} st` },
};

export const mostPoints = 64;

/** The curve's value at a time, straight between its points; none is no change. */
export function drawnAt(points: readonly Point[] | undefined, ms: number): number {
  const list = points ?? [];
  const first = list[0];
  const last = list.at(-1);
  if (!first || !last) return 0;
  if (ms <= first.atMS) return first.value;
  if (ms >= last.atMS) return last.value;
  const i = list.findIndex((p) => p.atMS > ms);
  const a = list[i - 1] ?? first;
  const b = list[i] ?? last;
  return a.value + ((b.value - a.value) * (ms - a.atMS)) / (b.atMS - a.atMS);
}

export function Curve({
  kind,
  points,
  x,
  msAt,
  lengthMS,
  width,
  height,
  change,
  done,
}: {
  kind: CurveKind;
  points: readonly Point[];
  /** px of a time after the region's start, and the other way */
  x: (ms: number) => number;
  msAt: (px: number) => number;
  lengthMS: number;
  width: number;
  height: number;
  change: (points: Point[]) => void;
  done: () => void;
}) {
  const { lo, hi, rest, step, show } = scales[kind];
  const svg = useRef<SVGGElement>(null);
  const drag = useRef(-1);
  const y = (v: number) => 5 + ((hi - v) / (hi - lo)) * (height - 10);
  const at = (e: React.PointerEvent): Point => {
    const box = svg.current?.ownerSVGElement?.getBoundingClientRect();
    const px = e.clientX - (box?.left ?? 0);
    const py = e.clientY - (box?.top ?? 0);
    const v = hi - ((py - 5) / (height - 10)) * (hi - lo);
    const value = Math.min(hi, Math.max(lo, Math.round(v / step) * step));
    return {
      atMS: Math.round(Math.min(lengthMS, Math.max(0, msAt(px))) * 10) / 10,
      value: Number((Math.abs(value - rest) < (hi - lo) / 60 ? rest : value).toFixed(3)),
    };
  };
  const moved = (i: number, p: Point): Point[] => {
    // a point stays between its neighbours
    const low = (points[i - 1]?.atMS ?? -1) + 0.1;
    const high = (points[i + 1]?.atMS ?? lengthMS + 1) - 0.1;
    return points.map((o, k) => (k === i ? { ...p, atMS: Math.min(high, Math.max(low, p.atMS)) } : o));
  };
  const line = points.map((p) => `${x(p.atMS).toFixed(1)},${y(p.value).toFixed(1)}`).join(' ');
  const first = points[0];
  const last = points.at(-1);
  return (
    <g ref={svg}>
      <rect
        width={width}
        height={height}
        fill="transparent"
        style={{ cursor: 'crosshair' }}
        data-id="curve"
        onPointerDown={(e) => {
          e.stopPropagation();
          if (points.length >= mostPoints) return;
          const p = at(e);
          if (points.some((o) => Math.abs(o.atMS - p.atMS) < 0.2)) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          const next = [...points, p].toSorted((a, b) => a.atMS - b.atMS);
          drag.current = next.indexOf(p);
          change(next);
        }}
        onPointerMove={(e) => {
          if (drag.current >= 0) change(moved(drag.current, at(e)));
        }}
        onPointerUp={() => {
          if (drag.current >= 0) done();
          drag.current = -1;
        }}
      />
      <line
        x2={width}
        y1={y(rest)}
        y2={y(rest)}
        stroke="var(--rule-strong)"
        strokeDasharray="2 3"
        pointerEvents="none"
      />
      {first && last ? (
        <g pointerEvents="none" fill="none" stroke="var(--ink)" strokeWidth={1.8}>
          <polyline points={`${x(0)},${y(first.value)} ${line} ${x(lengthMS)},${y(last.value)}`} />
        </g>
      ) : (
        <text x={width / 2} y={16} textAnchor="middle" pointerEvents="none">
          Click to draw the {kind} over the sound’s time
        </text>
      )}
      {points.map((p, i) => (
        <g
          // oxlint-disable-next-line react/no-array-index-key -- a point is its place
          key={i}
          data-point={i}
          style={{ cursor: 'move' }}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            drag.current = i;
          }}
          onPointerMove={(e) => {
            if (drag.current === i) change(moved(i, at(e)));
          }}
          onPointerUp={() => {
            if (drag.current === i) done();
            drag.current = -1;
          }}
          onDoubleClick={(e) => {
            e.stopPropagation();
            change(points.filter((_, k) => k !== i));
            done();
          }}
        >
          <title>{`${p.atMS} ms: ${show(p.value)}; double click takes it out`}</title>
          <circle cx={x(p.atMS)} cy={y(p.value)} r={11} fill="transparent" />
          <Poly
            pts={hex(x(p.atMS), y(p.value), 13, 11)}
            className="paper"
            stroke="var(--ink)"
            strokeWidth={1.8}
          />
        </g>
      ))}
    </g>
  );
}
