// What lies on the Steps stage: cells, hits, halos, the playing column.
import { memo, useEffect, useRef, useState } from 'react';
import type { Hit, Lane, Pattern } from '../api/client';
import { useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { barTicks, beatTicks, loopOf, type Shape, strokes, ticksAt } from '../model/time';
import { player } from '../player/player';
import { hitsInBar, pad, rowH, type StepsGeometry } from './geometry';

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
  const beats = shape.meter.beats;
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
          {b % 2 === 1 && b < beats && (
            <rect x={pad + b * beatW} y={0} width={beatW} height={height} fill="var(--veil)" />
          )}
          <line x1={pad + b * beatW} x2={pad + b * beatW} y1={0} y2={height} stroke="var(--rule-strong)" />
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

export const Hits = memo(function Hits({
  hits,
  lanes,
  g,
  silent,
  cursor,
  places,
  preview,
  loop,
}: Pick<Props, 'lanes' | 'g' | 'silent'> & {
  hits: Hit[];
  cursor: { note: number; cell: number };
  /** after how many ticks a lane begins again: what lies beyond is not heard */
  loop?: (note: number) => number;
  /** where hits sound, when the feel moves them */
  places: ReadonlyMap<string, number> | null;
  /** not written yet */
  preview?: boolean;
}) {
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return (
    <>
      {hits.map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        const c = g.of(h.note);
        const place = c.place(h, places?.get(`${h.note} ${h.tick}`));
        const y = at.r * rowH + rowH / 2;
        const chance = 100 - (h.skip ?? 0);
        const pan = h.pan ?? 0;
        return (
          <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`} data-hit={`${h.note} ${h.tick}`}>
            <g opacity={chance < 100 ? 0.4 + (0.6 * chance) / 100 : 1}>
              <HitMark
                x={place.x}
                y={y}
                w={c.hitW}
                h={c.hitW * 0.867}
                velocities={strokes(h)}
                grid={place.grid}
                dim={silent(h.note) || (loop !== undefined && h.tick >= loop(h.note))}
                preview={preview ?? false}
                selected={h.note === cursor.note && place.cell === cursor.cell}
              />
            </g>
            {chance < 100 && (
              <text
                x={place.x}
                y={y - 4}
                textAnchor="middle"
                style={{ fontSize: 9, fontWeight: 700 }}
                className="i"
              >
                {chance}%
              </text>
            )}
            {pan !== 0 && (
              <line
                x1={place.x}
                x2={place.x + (pan / 100) * (c.hitW / 2)}
                y1={y + c.hitW * 0.43 + 1}
                y2={y + c.hitW * 0.43 + 1}
                stroke="var(--ink)"
                strokeWidth={2}
              />
            )}
          </g>
        );
      })}
    </>
  );
});

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
              pts={hex(g.of(h.note).place(h).x, at.r * rowH + rowH / 2, 10, 9)}
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
  const to = from + barTicks(pattern);
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
                  pts={hex(g.at(t), r * rowH + rowH / 2, 16, 14)}
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

/** Halos on the hits that sound now, behind them. */
export function Halos({
  pattern,
  lanes,
  g,
  places,
}: Pick<Props, 'pattern' | 'lanes' | 'g'> & { places: ReadonlyMap<string, number> | null }) {
  const [struck, setStruck] = useState<ReadonlyMap<string, number>>(new Map());
  useEffect(
    () =>
      player.listen((r) => {
        const now = performance.now();
        setStruck((old) => {
          const fresh = r.started.filter((c) => !c.live);
          if (fresh.length === 0 && [...old.values()].every((until) => until > now)) return old;
          const next = new Map([...old].filter(([, until]) => until > now));
          for (const c of fresh) next.set(`${c.note} ${c.tick}`, now + haloMS);
          return next;
        });
      }),
    [],
  );
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return hitsInBar(pattern, g)
    .filter((h) => struck.has(`${h.note} ${h.tick}`))
    .map((h) => {
      const at = row.get(h.note);
      const wide = g.hitW + (h.split > 1 ? 17 : 9);
      return at ? (
        <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`}>
          <Poly
            pts={hex(
              g.of(h.note).place(h, places?.get(`${h.note} ${h.tick}`)).x,
              at.r * rowH + rowH / 2,
              wide,
              g.hitW * 0.867 + 6,
            )}
            fill="var(--c)"
            opacity={0.45}
          />
        </g>
      ) : null;
    });
}

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
        if (r.playing && s.follow && bar !== s.bar && bar < pattern.bars) useBench.setState({ bar });
        if (!line.current) return;
        const inBar = tick - g.bar * barTicks(pattern);
        const here = r.playing && inBar >= 0 && inBar < barTicks(pattern);
        line.current.style.display = here ? '' : 'none';
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
