// The marks a drum owns: all six-sided.
import type { ReactNode } from 'react';

type Point = [number, number];

const points = (pts: Point[]) => pts.map((p) => p.map((n) => n.toFixed(1)).join()).join(' ');

/** A hexagon with a flat top. */
export const hex = (x: number, y: number, w: number, h: number): Point[] => [
  [x - w / 2, y],
  [x - w / 4, y - h / 2],
  [x + w / 4, y - h / 2],
  [x + w / 2, y],
  [x + w / 4, y + h / 2],
  [x - w / 4, y + h / 2],
];

/** A hexagon that stands on its point. */
export const hexUp = (x: number, y: number, w: number, h: number): Point[] => [
  [x, y - h / 2],
  [x + w / 2, y - h / 4],
  [x + w / 2, y + h / 4],
  [x, y + h / 2],
  [x - w / 2, y + h / 4],
  [x - w / 2, y - h / 4],
];

/** The part of a convex shape where side ≥ 0. */
function cut(pts: Point[], side: (p: Point) => number): Point[] {
  const out: Point[] = [];
  pts.forEach((a, i) => {
    const b = pts[(i + 1) % pts.length] as Point;
    const sa = side(a);
    const sb = side(b);
    if (sa >= 0) out.push(a);
    if (sa * sb < 0) {
      const t = sa / (sa - sb);
      out.push([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
    }
  });
  return out;
}

type PolyProps = React.SVGProps<SVGPolygonElement> & { pts: Point[] };
export const Poly = ({ pts, ...rest }: PolyProps) =>
  pts.length > 2 ? <polygon points={points(pts)} {...rest} /> : null;

export interface HitMarkProps {
  x: number;
  y: number;
  /** velocity of each stroke; several for a split */
  velocities: number[];
  w?: number;
  h?: number;
  /** where the grid is, when the hit is off it */
  grid?: number | undefined;
  selected?: boolean;
  struck?: boolean;
  dim?: boolean;
  doubtful?: boolean;
  preview?: boolean;
}

/** A hit: fill height is velocity; slices cut it; ticks stay at the grid when it leans. */
export function HitMark(o: HitMarkProps) {
  const { x, y, velocities, h = 26, grid } = o;
  const n = velocities.length;
  const w = (o.w ?? 30) + (n > 1 ? (o.w ? 4 : 8) : 0);
  const x0 = x - w / 2;
  const lean = h * 0.29;
  const shape: Point[] = [
    [x0, y],
    [x0 + lean, y - h / 2],
    [x0 + w - lean, y - h / 2],
    [x0 + w, y],
    [x0 + w - lean, y + h / 2],
    [x0 + lean, y + h / 2],
  ];
  const fillFrom = (v: number) => y + h / 2 - (h * v) / 127;
  let body: ReactNode;
  if (o.preview) {
    body = (
      <>
        <Poly pts={shape} className="paper" stroke="var(--e)" strokeWidth={1.5} strokeDasharray="2 2" />
        <Poly
          pts={cut(shape, (p) => p[1] - fillFrom(velocities[0] ?? 100))}
          fill="var(--c)"
          fillOpacity={0.35}
        />
      </>
    );
  } else if (o.doubtful) {
    body = (
      <>
        <Poly pts={shape} className="paper" stroke="var(--e)" strokeWidth={1.6} strokeDasharray="3 2" />
        <text x={x} y={y + 4} textAnchor="middle" className="b i">
          ?
        </text>
      </>
    );
  } else {
    body = velocities.map((v, k) => {
      const a = x0 + (w * k) / n + (k ? 1 : 0);
      const b = x0 + (w * (k + 1)) / n - (k < n - 1 ? 1 : 0);
      const part = cut(
        cut(shape, (p) => p[0] - a),
        (p) => b - p[0],
      );
      return (
        // oxlint-disable-next-line react/no-array-index-key -- strokes have no name but their place
        <g key={k}>
          <Poly pts={part} className="paper" />
          <Poly pts={cut(part, (p) => p[1] - fillFrom(v))} fill="var(--c)" />
          <Poly
            pts={part}
            fill="none"
            stroke="var(--e)"
            strokeWidth={n > 1 ? 1 : h > 20 ? 1.5 : 1.2}
            strokeLinejoin="round"
          />
        </g>
      );
    });
  }
  return (
    <g opacity={o.dim ? 0.45 : 1}>
      {o.struck && <Poly pts={hex(x, y, w + 9, h + 6)} fill="var(--c)" opacity={0.38} />}
      {body}
      {o.selected && <Poly pts={hex(x, y, w + 5, h + 4)} fill="none" stroke="var(--ink)" strokeWidth={2} />}
      {grid !== undefined &&
        [-1, 1].map((d) => (
          <g key={d}>
            <line
              x1={grid}
              x2={grid}
              y1={y + d * (h / 2 + 3)}
              y2={y + d * (h / 2 - 4)}
              stroke="var(--paper-raised)"
              strokeWidth={3.5}
            />
            <line
              x1={grid}
              x2={grid}
              y1={y + d * (h / 2 + 3)}
              y2={y + d * (h / 2 - 4)}
              stroke="var(--ink)"
              strokeWidth={1.5}
            />
          </g>
        ))}
    </g>
  );
}

/** A lane's colour hexagon with its two-letter code. */
export function Chip({
  code,
  family,
  w = 32,
  h = 26,
  dashed = false,
}: {
  code: string;
  family: string;
  w?: number;
  h?: number;
  dashed?: boolean;
}) {
  return (
    <svg className={`f-${family}`} width={w} height={h} aria-hidden="true">
      <Poly
        pts={hex(w / 2, h / 2, w - 1.5, h - 1.5)}
        fill={dashed ? 'none' : 'var(--c)'}
        stroke="var(--e)"
        strokeWidth={dashed ? 1.5 : 1}
        {...(dashed ? { strokeDasharray: '2.5 2' } : {})}
      />
      <text
        x={w / 2}
        y={h / 2 + 4}
        textAnchor="middle"
        style={{ fill: dashed ? 'var(--ink-2)' : 'var(--o)', fontWeight: 700, fontSize: w < 28 ? 10 : 11.5 }}
      >
        {code}
      </text>
    </svg>
  );
}

/** Level light: one rung a velocity layer, softest at the foot; the rung that fired fills as far as the level. */
export function LevelLight({
  layers,
  fired = -1,
  level = 0,
}: {
  layers: number;
  fired?: number;
  level?: number;
}) {
  const rung = layers > 4 ? 3 : 5;
  const gap = layers > 4 ? 1 : 2;
  const foot = (28 + layers * (rung + gap) - gap) / 2;
  return (
    <svg width={16} height={28} aria-hidden="true">
      {Array.from({ length: layers }, (_, k) => {
        const y = foot - (k + 1) * (rung + gap) + gap;
        const on = k === fired;
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a rung is its place
          <g key={k}>
            <rect
              x={0.5}
              y={y}
              width={15}
              height={rung}
              rx={1}
              fill={on ? 'var(--paper-raised)' : 'none'}
              stroke={on ? 'var(--e)' : 'var(--rule-strong)'}
            />
            {on && <rect x={1} y={y + 0.5} width={14 * level} height={rung - 1} fill="var(--c)" />}
          </g>
        );
      })}
    </svg>
  );
}

/** The points of a waveform's outline: x of column i, y of column i at height v (−127..127). */
export function outlinePoints(
  wave: { high: number[]; low: number[] } | null,
  x: (i: number) => number,
  y: (i: number, v: number) => number,
): string {
  if (!wave) return '';
  const point = (v: number, i: number) => `${x(i).toFixed(1)},${y(i, v).toFixed(1)}`;
  return [...wave.high.map(point), ...wave.low.map(point).toReversed()].join(' ');
}
