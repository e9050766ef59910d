import { memo, useEffect, useMemo, useRef } from 'react';
import type { Lane, Picture, RecordingView } from '../api/client';
import { strike, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { player } from '../player/player';
import { pad, rowH } from '../steps/geometry';

export const doubtful = 0.6;
/** Bars of a recording shown at once. */
export const barsShown = 2;

/** The stretch of a recording on the stage, in free time. */
export interface View {
  width: number;
  /** seconds of the stage's left and right grid edge, from the file's start */
  fromS: number;
  toS: number;
  firstBar: number;
  bars: number;
  x: (s: number) => number;
  beatS: number;
}

export function viewOf(r: RecordingView, page: number, width: number): View {
  const beatS = (60 / r.heard.bpm) * (4 / r.heard.meter.unit);
  const barS = beatS * r.heard.meter.beats;
  const firstBar = page * barsShown;
  const fromS = r.heard.barOneS + firstBar * barS;
  const toS = fromS + barsShown * barS;
  return {
    width,
    fromS,
    toS,
    firstBar,
    bars: Math.min(barsShown, r.heard.bars - firstBar),
    beatS,
    x: (s) => pad + ((s - fromS) / (toS - fromS)) * (width - 2 * pad),
  };
}

function Beats({ v, r, height }: { v: View; r: RecordingView; height: number }) {
  const beats = v.bars * r.heard.meter.beats;
  return (
    <>
      {Array.from({ length: beats + 1 }, (_, b) => {
        const x = v.x(v.fromS + b * v.beatS);
        const onBar = b % r.heard.meter.beats === 0;
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b}>
            {b % 2 === 1 && b < beats && (
              <rect
                x={x}
                y={0}
                width={v.x(v.fromS + (b + 1) * v.beatS) - x}
                height={height}
                fill="var(--veil)"
              />
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
function columns(r: RecordingView, v: View, p: Picture) {
  const perS = p.high.length / (r.endS - r.heard.barOneS);
  const from = Math.max(0, Math.floor((v.fromS - r.heard.barOneS) * perS));
  const to = Math.min(p.high.length, Math.ceil((v.toS - r.heard.barOneS) * perS));
  const x = (i: number) => v.x(r.heard.barOneS + i / perS);
  return { from, to, x };
}

const inView = (v: View, t: number) =>
  t >= v.fromS - v.beatS / 8 && t < v.fromS + v.bars * barLength(v) - v.beatS / 64;
const barLength = (v: View) => (v.toS - v.fromS) / barsShown;

/** The player's line across the stage or the crown. */
function Playhead({ v, r, height }: { v: View; r: RecordingView; height: number }) {
  const line = useRef<SVGLineElement>(null);
  useEffect(
    () =>
      player.listen((m) => {
        const el = line.current;
        if (!el) return;
        const at = r.heard.barOneS + m.atS;
        const here = m.playing && at >= v.fromS && at < v.toS;
        el.style.display = here ? '' : 'none';
        if (here) el.setAttribute('transform', `translate(${v.x(at).toFixed(1)} 0)`);
        const page = Math.floor(m.atS / (v.toS - v.fromS));
        if (m.playing && useBench.getState().follow && page * barsShown !== v.firstBar) {
          window.dispatchEvent(new CustomEvent('hexachord-page', { detail: page - v.firstBar / barsShown }));
        }
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
  r: RecordingView;
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
        player.seek(Math.max(0, s - r.heard.barOneS));
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
          const weak = h.confidence < doubtful;
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

export function BreakRuler({ r, v }: { r: RecordingView; v: View }) {
  const beats = v.bars * r.heard.meter.beats;
  return (
    <svg className="fill" width={v.width} height={22} aria-hidden="true">
      {Array.from({ length: beats }, (_, b) => {
        const x = v.x(v.fromS + b * v.beatS);
        const onBar = b % r.heard.meter.beats === 0;
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b}>
            <line x1={x} x2={x} y1={10} y2={22} stroke="var(--border)" />
            <text x={x + 5} y={15} className={onBar ? 'b i' : ''}>
              {`${v.firstBar + 1 + Math.floor(b / r.heard.meter.beats)}.${1 + (b % r.heard.meter.beats)}`}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

export const BreakStage = memo(function BreakStage({
  r,
  v,
  picture,
  lanes,
  chosen,
}: {
  r: RecordingView;
  v: View;
  picture: Picture | null;
  lanes: Lane[];
  chosen: number;
}) {
  const height = lanes.length * rowH;
  const rowOf = useMemo(() => new Map(lanes.map((l, i) => [l.note, i])), [lanes]);
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
      <svg className="fill" width={v.width} height={height} aria-label="Heard hits on the lanes">
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
        {r.heard.hits.map((h, i) => {
          const row = rowOf.get(r.lanes[i] ?? -1);
          const lane = row === undefined ? undefined : lanes[row];
          if (row === undefined || !lane || !inView(v, h.time)) return null;
          const weak = h.confidence < doubtful;
          const or = weak ? rowOf.get(r.orLanes[i] ?? -1) : undefined;
          const orLane = or === undefined || or === row ? undefined : lanes[or];
          return (
            <g key={`${h.note} ${h.time}`}>
              <g
                className={`f-${lane.color}`}
                data-heard={lane.note}
                style={{ cursor: 'pointer' }}
                onPointerDown={() => strike(lane.note, h.velocity)}
              >
                <title>{`${lane.name}, velocity ${h.velocity}, ${Math.round(h.confidence * 100)} % sure`}</title>
                <HitMark
                  x={v.x(h.time)}
                  y={row * rowH + 16}
                  w={22}
                  h={19}
                  velocities={[h.velocity]}
                  doubtful={weak}
                />
              </g>
              {or !== undefined && orLane && (
                <g className={`f-${orLane.color}`}>
                  <Poly
                    pts={hex(v.x(h.time), or * rowH + 16, 22, 19)}
                    className="paper"
                    stroke="var(--e)"
                    strokeWidth={1.5}
                    strokeDasharray="1.5 2.5"
                  />
                  <text x={v.x(h.time)} y={or * rowH + 20} className="i" textAnchor="middle">
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
