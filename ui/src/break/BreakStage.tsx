import { memo, useMemo, useRef, useState } from 'react';
import type { Lane, Listening, Picture, Recording } from '../api/client';
import { strike, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { Beats, columns, Playhead } from './BreakCrown';
import {
  addHit,
  chooseHit,
  chooseSeveral,
  chosenHits,
  copyHit,
  moveHit,
  useBreak,
  type Break,
} from './state';
import { inView, type View } from './view';

/** What a listener that is tried hears: its band's level, its thresholds, its hits. */
function Trying({
  trying,
  row,
  r,
  v,
}: {
  trying: Listening;
  row: number | undefined;
  r: Recording;
  v: View;
}) {
  if (row === undefined) return null;
  const { rowH } = v;
  const foot = (row + 1) * rowH - 1;
  const y = (db: number) => foot - Math.max(0, (db + 60) / 60) * (rowH - 3);
  const span = r.endS - r.heard.barOneS;
  let d = '';
  trying.levels.forEach((db, i) => {
    const x = v.x(r.heard.barOneS + (i / trying.levels.length) * span);
    if (x > -20 && x < v.width + 20) d += `${d === '' ? 'M' : 'L'}${x.toFixed(1)} ${y(db).toFixed(1)}`;
  });
  return (
    <g data-id="trying-listener">
      <path d={d} fill="none" stroke="var(--ink-2)" strokeWidth={1} />
      <line
        x1={0}
        x2={v.width}
        y1={y(trying.listener.openDB)}
        y2={y(trying.listener.openDB)}
        stroke="var(--ink)"
      />
      <line
        x1={0}
        x2={v.width}
        y1={y(trying.listener.closeDB)}
        y2={y(trying.listener.closeDB)}
        stroke="var(--ink)"
        strokeDasharray="2 3"
      />
      {trying.strikes.map((s) =>
        inView(v, s.time) ? (
          <Poly
            key={s.time}
            pts={hex(v.x(s.time), (row + 0.5) * rowH, 20, 17)}
            className="paper"
            stroke="var(--ink)"
            strokeWidth={1.5}
            strokeDasharray="3 2"
          />
        ) : null,
      )}
    </g>
  );
}

export const BreakStage = memo(function BreakStage({
  r,
  v,
  picture,
  lanes,
  chosen,
  again = null,
}: {
  r: Recording;
  v: View;
  picture: Picture | null;
  lanes: Lane[];
  chosen: number;
  again?: Break['again'];
}) {
  const { rowH } = v;
  const height = lanes.length * rowH;
  const chosenHit = useBreak((s) => s.chosen);
  const also = useBreak((s) => s.also);
  const proposal = useBreak((s) => s.proposal);
  const trying = useBreak((s) => (s.trying?.of === r.id ? s.trying : null));
  const changes = again?.heard.changes;
  const struck = useMemo(
    () => new Set((again ? again.shown === 'now' && changes?.gone : r.clean[proposal]?.hits) || []),
    [r, proposal, again, changes],
  );
  const ringed = useMemo(
    () => new Set(again?.shown === 'again' ? [...(changes?.new ?? []), ...(changes?.other ?? [])] : []),
    [again, changes],
  );
  const rowOf = useMemo(() => new Map(lanes.map((l, i) => [l.note, i])), [lanes]);
  const svg = useRef<SVGSVGElement>(null);
  /** the hit that is dragged, and by how much */
  const [drag, setDrag] = useState<{ i: number; dx: number; dy: number } | null>(null);
  const held = useRef<{ i: number; x: number; y: number; moved: boolean; copy: boolean } | null>(null);
  /** the box that is drawn round hits */
  const [box, setBox] = useState<{ x0: number; y0: number; x1: number; y1: number } | null>(null);
  const boxFrom = useRef<{ x: number; y: number; box: typeof box; onTop: boolean } | null>(null);
  const among = useMemo(() => new Set(also), [also]);
  // hits that are dragged together go along
  const together = drag !== null && among.has(drag.i);
  const shadows = useMemo(() => {
    if (!picture) return [];
    const { from, to, x } = columns(r, v, picture);
    return lanes.map((l, row) => {
      const e = picture.energy[l.role] ?? [];
      const base = row * rowH + rowH - 1;
      let d = `M${x(from).toFixed(1)} ${base}`;
      for (let i = from; i < to; i += 2) {
        d += `L${x(i).toFixed(1)} ${(base - Math.max(e[i] ?? 0, e[i + 1] ?? 0) * (rowH - 5)).toFixed(1)}`;
      }
      return `${d}L${x(to - 1).toFixed(1)} ${base}Z`;
    });
  }, [r, v, picture, lanes, rowH]);
  return (
    <div className="stage" style={{ height }} inert={again !== null}>
      <svg
        ref={svg}
        className="fill"
        width={v.width}
        height={height}
        aria-label="Heard hits on the lanes: a double click adds one, dragging moves it, a box chooses several"
        onPointerDown={(e) => {
          if ((e.target as Element).closest('[data-heard]') || e.button !== 0) return;
          const b = e.currentTarget.getBoundingClientRect();
          boxFrom.current = { x: e.clientX - b.left, y: e.clientY - b.top, box: null, onTop: e.shiftKey };
          const lane = lanes[Math.floor((e.clientY - b.top) / rowH)];
          if (lane) useBench.setState({ lane: lane.note });
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          const from = boxFrom.current;
          if (!from) return;
          const b = e.currentTarget.getBoundingClientRect();
          const [x, y] = [e.clientX - b.left, e.clientY - b.top];
          if (!from.box && Math.hypot(x - from.x, y - from.y) < 4) return;
          from.box = {
            x0: Math.min(x, from.x),
            x1: Math.max(x, from.x),
            y0: Math.min(y, from.y),
            y1: Math.max(y, from.y),
          };
          setBox(from.box);
        }}
        onPointerUp={() => {
          const from = boxFrom.current;
          boxFrom.current = null;
          setBox(null);
          if (!from?.box) return;
          const { x0, x1, y0, y1 } = from.box;
          const inside = r.heard.hits.flatMap((h, i) => {
            const row = rowOf.get(r.lanes[i] ?? -1);
            if (row === undefined || h.state === 'out' || !inView(v, h.time)) return [];
            const [x, y] = [v.x(h.time), (row + 0.5) * rowH];
            return x >= x0 && x <= x1 && y >= y0 && y <= y1 ? [i] : [];
          });
          chooseSeveral(from.onTop ? [...chosenHits(r), ...inside] : inside);
        }}
        onPointerCancel={() => {
          boxFrom.current = null;
          setBox(null);
        }}
        onDoubleClick={(e) => {
          const b = e.currentTarget.getBoundingClientRect();
          const lane = lanes[Math.floor((e.clientY - b.top) / rowH)];
          if (lane && !(e.target as Element).closest('[data-heard]'))
            void addHit(r, v.at(e.clientX - b.left), lane.note, e.altKey);
        }}
      >
        {lanes.map((l, row) =>
          l.note === chosen ? (
            <rect key={l.note} y={row * rowH} width={v.width} height={rowH} fill="var(--paper-raised)" />
          ) : null,
        )}
        {lanes.map((l, row) =>
          row > 0 ? (
            <line
              key={l.note}
              x2={v.width}
              y1={row * rowH - 0.5}
              y2={row * rowH - 0.5}
              stroke="var(--rule)"
            />
          ) : null,
        )}
        <Beats v={v} r={r} height={height} />
        {shadows.map((d, row) => {
          const l = lanes[row];
          return l ? (
            <g key={l.note} className={`f-${l.color}`}>
              <path
                d={d}
                fill={`color-mix(in srgb, var(--c) ${l.note === chosen ? 45 : 24}%, var(--paper))`}
              />
            </g>
          ) : null;
        })}
        {trying && <Trying trying={trying.heard} row={rowOf.get(trying.lane)} r={r} v={v} />}
        {r.heard.hits.map((h, i) => {
          const row = rowOf.get(r.lanes[i] ?? -1);
          const lane = row === undefined ? undefined : lanes[row];
          if (row === undefined || !lane || !inView(v, h.time)) return null;
          if (trying && lane.note === trying.lane) return null;
          const weak = r.doubtful[i];
          const or = weak ? rowOf.get(r.orLanes[i] ?? -1) : undefined;
          const orLane = or === undefined || or === row ? undefined : lanes[or];
          const mine = drag && (drag.i === i || (together && among.has(i))) ? drag : null;
          const x = v.x(h.time) + (mine?.dx ?? 0);
          const y = (row + 0.5) * rowH + (mine ? Math.round(mine.dy / rowH) * rowH : 0);
          return (
            <g key={`${h.note} ${h.time}`}>
              {mine && (
                <Poly
                  pts={hex(v.x(h.time), (row + 0.5) * rowH, 22, 19)}
                  fill="none"
                  stroke="var(--ink)"
                  strokeDasharray="2 2"
                />
              )}
              <g
                className={`f-${lane.color}`}
                data-heard={lane.note}
                data-state={h.state ?? (weak ? 'doubtful' : '')}
                style={{ cursor: 'pointer' }}
                onPointerDown={(e) => {
                  strike(lane.note, h.velocity);
                  chooseHit(r, i, false, e.shiftKey);
                  e.currentTarget.setPointerCapture(e.pointerId);
                  const copy = e.ctrlKey || e.metaKey;
                  held.current = { i, x: e.clientX, y: e.clientY, moved: false, copy };
                }}
                onPointerMove={(e) => {
                  const d = held.current;
                  if (!d || d.i !== i) return;
                  const dx = e.clientX - d.x;
                  const dy = e.clientY - d.y;
                  if (!d.moved && Math.hypot(dx, dy) < 4) return;
                  d.moved = true;
                  setDrag({ i, dx: Math.abs(dx) < 4 ? 0 : dx, dy });
                }}
                onPointerUp={(e) => {
                  const d = held.current;
                  held.current = null;
                  setDrag(null);
                  if (!d?.moved || d.i !== i) return;
                  const dx = e.clientX - d.x;
                  const to = lanes[row + Math.round((e.clientY - d.y) / rowH)];
                  const time = Math.abs(dx) < 4 ? h.time : v.at(v.x(h.time) + dx);
                  (d.copy ? copyHit : moveHit)(
                    r,
                    i,
                    time,
                    to && to.note !== lane.note ? to.note : null,
                    time !== h.time && !e.altKey,
                  );
                }}
                onPointerCancel={() => {
                  held.current = null;
                  setDrag(null);
                }}
              >
                <title>{`${lane.name}, velocity ${h.velocity}, ${Math.round(h.confidence * 100)} % sure${h.state ? `, ${h.state === 'out' ? 'taken out' : 'kept'}` : ''}`}</title>
                {h.state === 'out' ? (
                  <>
                    <Poly pts={hex(x, y, 18, 16)} className="paper" stroke="var(--e)" />
                    <text x={x} y={y + 4} textAnchor="middle">
                      ×
                    </text>
                  </>
                ) : (
                  <HitMark
                    x={x}
                    y={y}
                    w={22}
                    h={19}
                    velocities={[h.velocity]}
                    doubtful={weak}
                    selected={i === chosenHit || among.has(i)}
                  />
                )}
                {i === chosenHit && h.state === 'out' && (
                  <Poly pts={hex(x, y, 26, 22)} fill="none" stroke="var(--ink)" strokeWidth={2} />
                )}
              </g>
              {ringed.has(i) && (
                <Poly pts={hex(x, y, 28, 24)} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
              )}
              {struck.has(i) && (
                <line x1={x - 13} x2={x + 13} y1={y} y2={y} stroke="var(--ink)" strokeWidth={2} />
              )}
              {or !== undefined && orLane && (
                <g className={`f-${orLane.color}`}>
                  <Poly
                    pts={hex(x, (or + 0.5) * rowH, 22, 19)}
                    className="paper"
                    stroke="var(--e)"
                    strokeWidth={1.5}
                    strokeDasharray="1.5 2.5"
                  />
                  <text x={x} y={(or + 0.5) * rowH + 4} className="i" textAnchor="middle">
                    or
                  </text>
                </g>
              )}
            </g>
          );
        })}
        {box && (
          <rect
            x={box.x0}
            y={box.y0}
            width={box.x1 - box.x0}
            height={box.y1 - box.y0}
            fill="none"
            stroke="var(--ink)"
            strokeDasharray="4 3"
          />
        )}
        <Playhead v={v} r={r} height={height} />
      </svg>
      <div className="visually-hidden" aria-live="polite" data-id="break-said">
        {saidOf(r, lanes, chosenHit, among.size)}
      </div>
    </div>
  );
});

/** What the keys stand on, in words. */
function saidOf(r: Recording, lanes: Lane[], i: number, several: number): string {
  const h = r.heard.hits[i];
  const lane = lanes.find((l) => l.note === r.lanes[i]);
  if (!h) return '';
  if (several > 1) return `${several} hits chosen`;
  const state =
    h.state === 'out' ? ', taken out' : r.doubtful[i] ? ', doubtful' : h.state === 'kept' ? ', kept' : '';
  return `${lane?.name ?? 'no lane'}, ${h.time.toFixed(2)} s, velocity ${h.velocity}${state}`;
}
