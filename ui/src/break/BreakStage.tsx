import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Lane, Listening, Picture, Recording } from '../api/client';
import { strike, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { player } from '../player/player';
import { pad, rowH } from '../steps/geometry';
import { addHit, chooseHit, moveHit, showMoment, useBreak } from './state';
import { inView, type View } from './view';

function Beats({ v, r, height }: { v: View; r: Recording; height: number }) {
  return (
    <>
      {v.beats.map((t, b) => {
        const x = v.x(t);
        const onBar = b % r.heard.meter.beats === 0;
        const next = v.beats[b + 1];
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b}>
            {b % 2 === 1 && next !== undefined && (
              <rect x={x} y={0} width={v.x(next) - x} height={height} fill="var(--veil)" />
            )}
            <line
              x1={x}
              x2={x}
              y1={0}
              y2={height}
              stroke={onBar ? 'var(--border)' : 'var(--rule-strong)'}
              strokeWidth={onBar ? 1.5 : 1}
            />
          </g>
        );
      })}
    </>
  );
}

/** Columns of the picture that lie in the view. */
function columns(r: Recording, v: View, p: Picture) {
  const perS = p.high.length / (r.endS - r.heard.barOneS);
  const from = Math.max(0, Math.floor((v.fromS - r.heard.barOneS) * perS));
  const to = Math.min(p.high.length, Math.ceil((v.toS - r.heard.barOneS) * perS));
  const x = (i: number) => v.x(r.heard.barOneS + i / perS);
  return { from, to, x };
}

/** The player's line across the stage or the crown. */
function Playhead({ v, r, height }: { v: View; r: Recording; height: number }) {
  const line = useRef<SVGLineElement>(null);
  useEffect(
    () =>
      player.listen((m) => {
        const el = line.current;
        if (!el) return;
        const slow = useBench.getState().hearing.slow ? 2 : 1;
        const at = r.heard.barOneS + m.atS / slow;
        const here = m.playing && !useBench.getState().instead && at >= v.fromS && at < v.toS;
        el.style.display = here ? '' : 'none';
        if (here) el.setAttribute('transform', `translate(${v.x(at).toFixed(1)} 0)`);
        if (m.playing && useBench.getState().follow && !here) showMoment(r, at);
      }),
    [v, r],
  );
  return (
    <line
      ref={line}
      y1={0}
      y2={height}
      stroke="var(--ink)"
      strokeWidth={1.5}
      style={{ display: 'none' }}
      pointerEvents="none"
    />
  );
}

export const BreakCrown = memo(function BreakCrown({
  r,
  v,
  picture,
  lanes,
  chosen,
}: {
  r: Recording;
  v: View;
  picture: Picture | null;
  lanes: Lane[];
  chosen: number;
}) {
  const wave = useMemo(() => {
    if (!picture) return '';
    const { from, to, x } = columns(r, v, picture);
    let top = 1e-6;
    for (let i = 0; i < picture.high.length; i++)
      top = Math.max(top, picture.high[i] ?? 0, -(picture.low[i] ?? 0));
    let up = '';
    let down = '';
    for (let i = from; i < to; i++) {
      up += `${i === from ? 'M' : 'L'}${x(i).toFixed(1)} ${(33 - ((picture.high[i] ?? 0) / top) * 31).toFixed(1)}`;
      down = `L${x(i).toFixed(1)} ${(33 - ((picture.low[i] ?? 0) / top) * 31).toFixed(1)}${down}`;
    }
    return `${up}${down}Z`;
  }, [r, v, picture]);
  return (
    <div
      className="crown"
      title="Click to play from here"
      style={{ cursor: 'pointer' }}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        const s = v.fromS + ((e.clientX - box.left - pad) / (v.width - 2 * pad)) * (v.toS - v.fromS);
        const slow = useBench.getState().hearing.slow ? 2 : 1;
        player.seek(Math.max(0, (s - r.heard.barOneS) * slow));
      }}
    >
      <svg className="fill" width={v.width} height={72} aria-label="Waveform of the recording">
        <Beats v={v} r={r} height={72} />
        <path d={wave} fill="var(--ink-2)" />
        {r.heard.hits.map((h, i) => {
          const note = r.lanes[i];
          const lane = lanes.find((l) => l.note === note);
          if (!lane || !inView(v, h.time)) return null;
          const on = note === chosen;
          const x = v.x(h.time);
          if (h.state === 'out') return null;
          const weak = r.doubtful[i];
          return (
            <g key={`${h.note} ${h.time}`} className={`f-${lane.color}`}>
              <line
                x1={x}
                x2={x}
                y1={on ? 6 : 60}
                y2={72}
                stroke={weak ? 'var(--e)' : 'var(--c)'}
                strokeWidth={weak ? 1.5 : 2}
                {...(weak ? { strokeDasharray: '3 2' } : {})}
              />
              {on && (
                <Poly
                  pts={hex(x, 6, 10, 9)}
                  fill={weak ? 'var(--paper)' : 'var(--c)'}
                  stroke="var(--e)"
                  strokeWidth={1.5}
                />
              )}
            </g>
          );
        })}
        <Playhead v={v} r={r} height={72} />
      </svg>
    </div>
  );
});

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
            pts={hex(v.x(s.time), row * rowH + 16, 20, 17)}
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
}: {
  r: Recording;
  v: View;
  picture: Picture | null;
  lanes: Lane[];
  chosen: number;
}) {
  const height = lanes.length * rowH;
  const chosenHit = useBreak((s) => s.chosen);
  const proposal = useBreak((s) => s.proposal);
  const trying = useBreak((s) => (s.trying?.of === r.id ? s.trying : null));
  const struck = useMemo(() => new Set(r.clean[proposal]?.hits ?? []), [r, proposal]);
  const rowOf = useMemo(() => new Map(lanes.map((l, i) => [l.note, i])), [lanes]);
  const svg = useRef<SVGSVGElement>(null);
  /** the hit that is dragged, and by how much */
  const [drag, setDrag] = useState<{ i: number; dx: number; dy: number } | null>(null);
  const held = useRef<{ i: number; x: number; y: number; moved: boolean } | null>(null);
  const shadows = useMemo(() => {
    if (!picture) return [];
    const { from, to, x } = columns(r, v, picture);
    return lanes.map((l, row) => {
      const e = picture.energy[l.role] ?? [];
      const base = row * rowH + rowH - 1;
      let d = `M${x(from).toFixed(1)} ${base}`;
      for (let i = from; i < to; i += 2) {
        d += `L${x(i).toFixed(1)} ${(base - Math.max(e[i] ?? 0, e[i + 1] ?? 0) * 27).toFixed(1)}`;
      }
      return `${d}L${x(to - 1).toFixed(1)} ${base}Z`;
    });
  }, [r, v, picture, lanes]);
  return (
    <div className="stage" style={{ height }}>
      <svg
        ref={svg}
        className="fill"
        width={v.width}
        height={height}
        aria-label="Heard hits on the lanes: a double click adds one, dragging moves it"
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
          const mine = drag?.i === i ? drag : null;
          const x = v.x(h.time) + (mine?.dx ?? 0);
          const y = row * rowH + 16 + (mine ? Math.round(mine.dy / rowH) * rowH : 0);
          return (
            <g key={`${h.note} ${h.time}`}>
              {mine && (
                <Poly
                  pts={hex(v.x(h.time), row * rowH + 16, 22, 19)}
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
                  chooseHit(r, i, false);
                  e.currentTarget.setPointerCapture(e.pointerId);
                  held.current = { i, x: e.clientX, y: e.clientY, moved: false };
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
                  moveHit(
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
                    selected={i === chosenHit}
                  />
                )}
                {i === chosenHit && h.state === 'out' && (
                  <Poly pts={hex(x, y, 26, 22)} fill="none" stroke="var(--ink)" strokeWidth={2} />
                )}
              </g>
              {struck.has(i) && (
                <line x1={x - 13} x2={x + 13} y1={y} y2={y} stroke="var(--ink)" strokeWidth={2} />
              )}
              {or !== undefined && orLane && (
                <g className={`f-${orLane.color}`}>
                  <Poly
                    pts={hex(x, or * rowH + 16, 22, 19)}
                    className="paper"
                    stroke="var(--e)"
                    strokeWidth={1.5}
                    strokeDasharray="1.5 2.5"
                  />
                  <text x={x} y={or * rowH + 20} className="i" textAnchor="middle">
                    or
                  </text>
                </g>
              )}
            </g>
          );
        })}
        <Playhead v={v} r={r} height={height} />
      </svg>
    </div>
  );
});
