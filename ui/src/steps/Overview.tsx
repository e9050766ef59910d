import { memo, useEffect, useMemo, useRef } from 'react';
import type { Hit, Lane, Pattern } from '../api/client';
import { useBench } from '../app/state';
import { barTicks, cellOf, PPQ, strokes, ticksAt } from '../model/time';
import { player } from '../player/player';
import { pad } from './geometry';

/** How many bars fit in the crown; longer patterns show the ones around the bar below. */
const most = 8;

const none: Hit[] = [];

interface Small {
  hits: Hit[];
  /** the tick at which each sounds */
  at: number[];
}

const same = <T,>(a: T[], b: T[]) => a === b || (a.length === b.length && a.every((x, i) => x === b[i]));
const sameHits = (a: Small, b: Small) =>
  same(a.hits, b.hits) &&
  same(a.at, b.at) &&
  Object.entries(a).every(([k, v]) => k === 'hits' || k === 'at' || v === b[k as keyof typeof b]);

/** The hits of one bar in small, from its own left. */
const SmallHits = memo(function SmallHits({
  hits,
  at,
  lanes,
  w,
  from,
  ticks,
  rowH,
}: Small & {
  lanes: Lane[];
  w: number;
  from: number;
  ticks: number;
  rowH: number;
}) {
  // one path a colour: bars of hundreds of hits are drawn as often as the bar below is another
  const byColor = new Map<string, string[]>();
  hits.forEach((h, i) => {
    const row = lanes.findIndex((l) => l.note === h.note);
    const lane = lanes[row];
    if (!lane) return;
    const hh = 1.5 + ((rowH - 1.5) * Math.max(...strokes(h))) / 127;
    const hx = (w * (Math.max(0, at[i] ?? h.tick) - from + PPQ / 8)) / ticks;
    const wide = Math.min(8, w / 30);
    const mark = `M${(hx - wide / 2).toFixed(1)} ${(17.5 + (row + 1) * rowH - hh).toFixed(2)}h${wide.toFixed(1)}v${hh.toFixed(2)}h${(-wide).toFixed(1)}z`;
    const marks = byColor.get(lane.color);
    if (!marks) byColor.set(lane.color, [mark]);
    else marks.push(mark);
  });
  return [...byColor].map(([color, marks]) => (
    <path key={color} className={`f-${color}`} d={marks.join('')} fill="var(--c)" />
  ));
}, sameHits);

/** The whole pattern in small; a click shows that bar below. */
export const Overview = memo(function Overview({
  pattern,
  lanes,
  width,
  bar,
  bars,
}: {
  pattern: Pattern;
  lanes: Lane[];
  width: number;
  /** first bar shown below, and how many are */
  bar: number;
  bars: number;
}) {
  const places = useBench((s) => s.places);
  const held = useBench((s) => s.held);
  const line = useRef<SVGLineElement>(null);
  const count = Math.min(most, pattern.bars);
  const first = Math.min(Math.max(0, bar - Math.floor(Math.max(0, most - bars) / 2)), pattern.bars - count);
  const gap = 6;
  const w = (width - 2 * pad - gap * (count - 1)) / count;
  const left = (b: number) => pad + (b - first) * (w + gap);
  const ticks = barTicks(pattern);
  const rowH = Math.min(6, 48 / Math.max(1, lanes.length));
  const byBar = useMemo(() => {
    const of = new Map<number, Hit[]>();
    for (const h of pattern.hits) {
      const b = Math.floor(Math.max(0, h.tick) / ticks);
      const hits = of.get(b);
      if (hits) hits.push(h);
      else of.set(b, [h]);
    }
    return of;
  }, [pattern.hits, ticks]);
  const atOf = useMemo(() => {
    const of = new Map<number, number[]>();
    return (b: number) => {
      const at = of.get(b) ?? (byBar.get(b) ?? []).map((h) => places.get(`${h.note} ${h.tick}`) ?? h.tick);
      of.set(b, at);
      return at;
    };
  }, [byBar, places]);
  useEffect(() =>
    player.listen((r) => {
      const s = useBench.getState();
      const el = line.current;
      if (!el) return;
      const tick = ticksAt(r.atS, s.project?.settings.bpm ?? 92);
      const b = Math.floor(tick / ticks);
      el.style.display = r.playing && b >= first && b < first + count ? '' : 'none';
      const x = Math.min(left(b) + w, left(b) + (((tick % ticks) + PPQ / 8) / ticks) * w); // as the marks stand
      el.setAttribute('x1', x.toFixed(1));
      el.setAttribute('x2', x.toFixed(1));
    }),
  );
  return (
    <div className="crown">
      <svg className="fill" width={width} height={72}>
        {Array.from({ length: count }, (_, k) => first + k).map((b) => {
          const x = left(b);
          const on = b >= bar && b < bar + bars;
          const loops = held !== null && b >= held.bar && b < held.bar + held.bars;
          const hits = byBar.get(b) ?? none;
          return (
            <g
              key={b}
              role="button"
              aria-label={`Show bar ${b + 1}`}
              style={{ cursor: 'pointer' }}
              onClick={() =>
                useBench.setState((s) => ({
                  bar: b,
                  cell: Math.round((b * ticks) / cellOf(pattern, s.lane)),
                }))
              }
            >
              <text x={x + 1} y={12} className={on ? 'b i' : 'b'}>
                {count > 4 && !on ? b + 1 : `Bar ${b + 1}`}
                {loops && b === held.bar && w > 90 ? ', held' : ''}
              </text>
              <rect
                x={x}
                y={16}
                width={w}
                height={51}
                rx={2}
                fill={on ? 'var(--paper-raised)' : 'transparent'}
                stroke={on ? 'var(--ink)' : 'var(--rule-strong)'}
                strokeWidth={on ? 2 : 1}
                {...(hits.length === 0 ? { strokeDasharray: '3 3' } : {})}
              />
              {Array.from({ length: pattern.meter.beats - 1 }, (_, q) => (
                <line
                  // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
                  key={q}
                  x1={x + ((q + 1) * w) / pattern.meter.beats}
                  x2={x + ((q + 1) * w) / pattern.meter.beats}
                  y1={17}
                  y2={66}
                  stroke="var(--rule)"
                />
              ))}
              <g transform={`translate(${x} 0)`}>
                <SmallHits
                  hits={hits}
                  at={atOf(b)}
                  lanes={lanes}
                  w={w}
                  from={b * ticks}
                  ticks={ticks}
                  rowH={rowH}
                />
              </g>
            </g>
          );
        })}
        <line
          ref={line}
          y1={16}
          y2={67}
          stroke="var(--ink)"
          strokeWidth={1.5}
          style={{ display: 'none' }}
          pointerEvents="none"
        />
      </svg>
    </div>
  );
});
