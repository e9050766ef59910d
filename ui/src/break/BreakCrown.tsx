// The recording drawn over the stage, and what crown and stage have in common: beats, the picture's columns, the player's line.
import { memo, useCallback, useEffect, useMemo, useRef } from 'react';
import { api, type Lane, type Picture, type Recording } from '../api/client';
import { useAnswer } from '../app/useAnswer';
import { useBench } from '../app/state';
import { hex, Poly } from '../lanes/marks';
import { player } from '../player/player';
import { pad } from '../steps/geometry';
import { showMoment } from './state';
import { inView, type View } from './view';

export function Beats({ v, r, height }: { v: View; r: Recording; height: number }) {
  return (
    <>
      {v.beats.map((t, b) => {
        const x = v.x(t);
        const onBar = (v.firstBeat + b) % r.heard.meter.beats === 0;
        const next = v.beats[b + 1];
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b}>
            {((v.firstBeat + b) % r.heard.meter.beats) % 2 === 1 && next !== undefined && (
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
export function columns(r: Recording, v: View, p: Picture) {
  const perS = p.high.length / (r.endS - r.heard.barOneS);
  const from = Math.max(0, Math.floor((v.fromS - r.heard.barOneS) * perS));
  const to = Math.min(p.high.length, Math.ceil((v.toS - r.heard.barOneS) * perS));
  const x = (i: number) => v.x(r.heard.barOneS + i / perS);
  return { from, to, x };
}

/** The player's line across the stage or the crown. */
export function Playhead({ v, r, height }: { v: View; r: Recording; height: number }) {
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
  closeUp,
  picture,
  lanes,
  chosen,
}: {
  r: Recording;
  v: View;
  /** so near that the picture of the whole is too coarse */
  closeUp: boolean;
  picture: Picture | null;
  lanes: Lane[];
  chosen: number;
}) {
  // near to, the recording itself is drawn: the picture of the whole has no more to show
  const { audio } = r;
  const { fromS, toS } = v;
  const near = useAnswer(
    useCallback(async () => {
      if (!closeUp) return null;
      const path = { hash: audio };
      const s = await api.getSample({ path });
      const start = Math.max(0, Math.round(fromS * s.rate));
      const end = Math.min(s.frames, Math.round(toS * s.rate));
      const drawn = await api.drawSample({ path, query: { start, end, columns: 976 } });
      return { drawn, fromS: start / s.rate, toS: end / s.rate };
    }, [closeUp, audio, fromS, toS]),
  );
  const wave = useMemo(() => {
    if (near && near.drawn.high.length > 0) {
      const { high, low } = near.drawn;
      const n = high.length;
      const top = Math.max(1e-6, ...high, ...low.map((l) => -l));
      const place = (i: number, y: number) =>
        `${v.x(near.fromS + (i / n) * (near.toS - near.fromS)).toFixed(1)} ${(33 - (y / top) * 31).toFixed(1)}`;
      return `M${high.map((y, i) => place(i, y)).join('L')}L${low
        .map((y, i) => place(i, y))
        .toReversed()
        .join('L')}Z`;
    }
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
  }, [r, v, picture, near]);
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
