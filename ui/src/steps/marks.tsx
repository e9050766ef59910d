// What lies on the Steps stage: cells, hits, halos, the playing column.
import { memo, useEffect, useRef } from 'react';
import type { Hit, Lane, Pattern } from '../api/client';
import { handsBusy } from '../app/hands';
import { showBar, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { sameShallow } from '../lanes/same';
import { barTicks, beatTicks, loopOf, type Shape, strokes, ticksAt } from '../model/time';
import { player } from '../player/player';
import { hitsShown, pad, type StepsGeometry } from './geometry';
import { tuneWords } from '../model/time';

export interface Props {
  pattern: Pattern;
  shape: Shape & Pick<Pattern, 'lanes'>;
  lanes: Lane[];
  g: StepsGeometry;
  silent: (note: number) => boolean;
  layerOf: (note: number, velocity: number) => number;
  nextStrip: () => void;
}

export const Cells = memo(function Cells({ shape, lanes, g }: Pick<Props, 'shape' | 'lanes' | 'g'>) {
  const { rowH } = g;
  const beats = shape.meter.beats * g.bars;
  const beatW = (g.width - 2 * pad) / beats;
  const height = lanes.length * rowH;
  const perBeat = beatTicks(shape);
  return (
    <>
      {lanes.map((l, r) =>
        r > 0 ? (
          <line
            key={l.note}
            x1={0}
            x2={g.width}
            y1={r * rowH - 0.5}
            y2={r * rowH - 0.5}
            stroke="var(--rule)"
          />
        ) : null,
      )}
      {Array.from({ length: beats + 1 }, (_, b) => (
        // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
        <g key={b}>
          {(b % shape.meter.beats) % 2 === 1 && b < beats && (
            <rect x={pad + b * beatW} y={0} width={beatW} height={height} fill="var(--veil)" />
          )}
          <line
            x1={pad + b * beatW}
            x2={pad + b * beatW}
            y1={0}
            y2={height}
            stroke={b % shape.meter.beats === 0 && b > 0 && b < beats ? 'var(--ink-2)' : 'var(--rule-strong)'}
          />
        </g>
      ))}
      {lanes.map((l, r) => {
        const c = g.of(l.note);
        const loop = loopOf({ ...shape, bars: 1e6 }, l.note);
        return Array.from({ length: c.cells }, (_, i) => {
          const tick = (c.firstCell + i) * c.cell;
          const y = r * rowH + rowH / 2;
          if (tick >= loop)
            // the lane has begun again by then
            return <circle key={`${l.note} ${i}`} cx={c.x(i)} cy={y} r={1.5} fill="var(--rule-strong)" />;
          return (
            <Poly
              key={`${l.note} ${i}`}
              pts={hex(c.x(i), y, c.hitW, c.hitW * 0.867)}
              fill="none"
              stroke={(tick - g.bar * barTicks(shape)) % perBeat === 0 ? 'var(--rule-strong)' : 'var(--rule)'}
            />
          );
        });
      })}
    </>
  );
});

/** Names hits by their place in the bar shown: what stands there in the next bar takes the same marks over. */
function placeKeys() {
  const seen = new Map<string, number>();
  return (note: number, cell: number) => {
    const place = `${note} ${cell}`;
    const n = seen.get(place) ?? 0;
    seen.set(place, n + 1);
    return n === 0 ? place : `${place} ${n}`;
  };
}

export const Hits = memo(function Hits({
  hits,
  lanes,
  g,
  silent,
  cursorNote,
  cursorCell,
  places,
  preview,
  loop,
  rings,
}: Pick<Props, 'lanes' | 'g' | 'silent'> & {
  /** hits of the pass that is being played, by note and tick */
  rings?: ReadonlySet<string>;
  hits: Hit[];
  /** where the keyboard cursor stands; −1: nowhere */
  cursorNote: number;
  cursorCell: number;
  /** after how many ticks a lane begins again: what lies beyond is not heard */
  loop?: (note: number) => number;
  /** where hits sound, when the feel moves them */
  places: ReadonlyMap<string, number> | null;
  /** not written yet */
  preview?: boolean;
}) {
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  const keyOf = placeKeys();
  return (
    <>
      {hits.map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        const c = g.of(h.note);
        const place = c.place(h, places?.get(`${h.note} ${h.tick}`));
        const y = at.r * g.rowH + g.rowH / 2;
        return (
          <OneHit
            key={keyOf(h.note, place.cell - c.firstCell)}
            hit={h}
            color={at.l.color}
            x={place.x}
            y={y}
            w={c.hitW}
            grid={place.grid}
            dim={silent(h.note) || (loop !== undefined && h.tick >= loop(h.note))}
            preview={preview ?? false}
            selected={
              (h.note === cursorNote && place.cell === cursorCell) ||
              (rings?.has(`${h.note} ${h.tick}`) ?? false)
            }
          />
        );
      })}
    </>
  );
});

interface OneHitProps {
  hit: Hit;
  color: string;
  x: number;
  y: number;
  w: number;
  grid: number | undefined;
  dim: boolean;
  preview: boolean;
  selected: boolean;
}

/** One hit, drawn anew only when it is another or stands elsewhere. */
const OneHit = memo(function OneHit({ hit: h, color, x, y, w, grid, dim, preview, selected }: OneHitProps) {
  const chance = 100 - (h.skip ?? 0);
  const pan = h.pan ?? 0;
  const tune = h.tune ?? 0;
  return (
    <g className={`f-${color}`} data-hit={`${h.note} ${h.tick}`}>
      <g opacity={chance < 100 ? 0.4 + (0.6 * chance) / 100 : 1}>
        <HitMark
          x={x}
          y={y}
          w={w}
          h={w * 0.867}
          velocities={strokes(h)}
          grid={grid}
          dim={dim}
          preview={preview}
          selected={selected}
        />
      </g>
      {chance < 100 && (
        <text x={x} y={y - 4} textAnchor="middle" style={{ fontSize: 9, fontWeight: 700 }} className="i">
          {chance}%
        </text>
      )}
      {tune !== 0 && (
        <text
          x={x}
          y={y + w * 0.43 - 1}
          textAnchor="middle"
          style={{ fontSize: 9, fontWeight: 700 }}
          className="i"
        >
          {tuneWords(tune)}
        </text>
      )}
      {pan !== 0 && (
        <line
          x1={x}
          x2={x + (pan / 100) * (w / 2)}
          y1={y + w * 0.43 + 1}
          y2={y + w * 0.43 + 1}
          stroke="var(--ink)"
          strokeWidth={2}
        />
      )}
    </g>
  );
}, sameShallow);

/** Hits of another pattern, or this one's own while a ready one is heard, small. */
export const Small = memo(function Small({ hits, lanes, g }: Pick<Props, 'lanes' | 'g'> & { hits: Hit[] }) {
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return (
    <g data-id="small-hits" pointerEvents="none">
      {hits.map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        return (
          <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`}>
            <Poly
              pts={hex(g.of(h.note).place(h).x, at.r * g.rowH + g.rowH / 2, 10, 9)}
              fill="var(--c)"
              stroke="var(--e)"
              opacity={0.75}
            />
          </g>
        );
      })}
    </g>
  );
});

/** Where a lane shorter than the pattern is heard again in the bar shown. */
export const Again = memo(function Again({ pattern, lanes, g }: Pick<Props, 'pattern' | 'lanes' | 'g'>) {
  const from = g.bar * barTicks(pattern);
  const to = from + g.bars * barTicks(pattern);
  return (
    <g pointerEvents="none">
      {lanes.map((l, r) => {
        const loop = loopOf(pattern, l.note);
        if (loop >= pattern.bars * barTicks(pattern)) return null;
        return pattern.hits
          .filter((h) => h.note === l.note && h.tick < loop)
          .flatMap((h) => {
            const ticks: number[] = [];
            for (let t = h.tick + loop; t < to; t += loop) if (t >= from) ticks.push(t);
            return ticks.map((t) => (
              <g key={`${h.note} ${t}`} className={`f-${l.color}`}>
                <Poly
                  pts={hex(g.at(t), r * g.rowH + g.rowH / 2, 16, 14)}
                  fill="var(--c)"
                  opacity={0.25 + (0.3 * h.velocity) / 127}
                  stroke="var(--e)"
                  strokeDasharray="2 2"
                />
              </g>
            ));
          });
      })}
    </g>
  );
});

/** Halos on the hits that sound now, behind them: one for each hit, lit and put out without drawing anything anew. */
export const Halos = memo(function Halos({
  pattern,
  lanes,
  g,
  places,
}: Pick<Props, 'pattern' | 'lanes' | 'g'> & { places: ReadonlyMap<string, number> | null }) {
  const layer = useRef<SVGGElement>(null);
  useEffect(() => {
    const lit = new Map<Element, number>();
    const stop = player.listen((r) => {
      const now = performance.now();
      for (const [el, until] of lit)
        if (until <= now) {
          el.removeAttribute('data-lit');
          lit.delete(el);
        }
      for (const c of r.started) {
        if (c.live) continue;
        const el = layer.current?.querySelector(`[data-halo="${c.note} ${c.tick}"]`);
        if (!el) continue;
        el.setAttribute('data-lit', '');
        lit.set(el, now + haloMS);
      }
    });
    return () => {
      stop();
      for (const el of lit.keys()) el.removeAttribute('data-lit');
    };
  }, []);
  const keyOf = placeKeys();
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return (
    <g ref={layer} className="halos" pointerEvents="none">
      {hitsShown(pattern, g).map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        const c = g.of(h.note);
        const place = c.place(h, places?.get(`${h.note} ${h.tick}`));
        return (
          <Halo
            key={keyOf(h.note, place.cell - c.firstCell)}
            id={`${h.note} ${h.tick}`}
            color={at.l.color}
            x={place.x}
            y={at.r * g.rowH + g.rowH / 2}
            w={g.hitW}
            split={h.split > 1}
          />
        );
      })}
    </g>
  );
});

const Halo = memo(function Halo(o: {
  id: string;
  color: string;
  x: number;
  y: number;
  w: number;
  split: boolean;
}) {
  return (
    <g className={`f-${o.color}`} data-halo={o.id}>
      <Poly pts={hex(o.x, o.y, o.w + (o.split ? 17 : 9), o.w * 0.867 + 6)} fill="var(--c)" opacity={0.45} />
    </g>
  );
});

const haloMS = 140;

/** The playing column, moved without drawing anything else anew. */
export function Playhead({ pattern, g, height }: Pick<Props, 'pattern' | 'g'> & { height: number }) {
  const line = useRef<SVGGElement>(null);
  useEffect(
    () =>
      player.listen((r) => {
        const s = useBench.getState();
        const tick = ticksAt(r.atS, s.project?.settings.bpm ?? 92) % (pattern.bars * barTicks(pattern));
        const bar = Math.floor(tick / barTicks(pattern));
        // the page turns by itself, but not under a hand
        const shown = bar >= g.bar && bar < g.bar + g.bars;
        if (r.playing && s.follow && !s.held && !shown && bar < pattern.bars && !handsBusy()) showBar(bar);
        if (!line.current) return;
        line.current.style.display = r.playing && shown ? '' : 'none';
        // the line passes a column's centre as that column sounds
        const x = Math.min(g.width - 2, g.at(tick));
        line.current.setAttribute('transform', `translate(${x.toFixed(1)} 0)`);
      }),
    [pattern, g],
  );
  return (
    <g ref={line} style={{ display: 'none' }} data-id="playhead" pointerEvents="none">
      <rect x={-19} y={0} width={38} height={height} fill="var(--veil)" />
      <line x1={0} x2={0} y1={0} y2={height} stroke="var(--ink)" strokeWidth={1.5} />
    </g>
  );
}
