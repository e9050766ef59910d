// The recording to cut, drawn, and its marks and pieces to draw down to lanes.
import { useRef } from 'react';
import { hex, Poly } from '../lanes/marks';
import { hear } from '../shelf/state';
import { laneAt } from './pieces';
import type { Cut } from './useCut';

/** The waveform, its pieces, and any other region. */
export function CutWave({ cut }: { cut: Cut }) {
  const {
    hash,
    pieces,
    width,
    from,
    to,
    x,
    frameAt,
    outline,
    at,
    setAt,
    setOver,
    region,
    setRegion,
    give,
    hearPiece,
    family,
  } = cut;
  const drag = useRef<{ piece: number; moved: boolean } | null>(null);
  const free = useRef<{ from: number } | null>(null);
  return (
    <svg
      className="fill"
      width={width}
      height={145}
      onPointerDown={(e) => {
        const f = frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left);
        free.current = { from: f };
      }}
      onPointerMove={(e) => {
        if (!free.current) return;
        const f = frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left);
        if (Math.abs(f - free.current.from) > (to - from) / 200)
          setRegion({ from: Math.min(f, free.current.from), to: Math.max(f, free.current.from) });
      }}
      onPointerUp={() => {
        if (region && free.current) void hear(hash, { start: region.from, end: region.to });
        free.current = null;
      }}
    >
      <polygon points={outline} fill="var(--ink-2)" />
      {pieces.map((p, i) => {
        const on = !region && i === at;
        const fam = family(p);
        return (
          <g key={p.startFrame} className={`f-${fam || 'other'}`}>
            <rect
              x={x(p.startFrame)}
              width={Math.max(1, x(p.endFrame) - x(p.startFrame))}
              y={30}
              height={104}
              fill={fam ? 'var(--c)' : on ? 'var(--ink)' : 'transparent'}
              opacity={fam ? 0.25 : 0.08}
            />
            <rect
              x={x(p.endFrame)}
              width={Math.max(0, x(p.nextFrame) - x(p.endFrame))}
              y={30}
              height={104}
              fill="url(#dead)"
            />
            <line
              x1={x(p.startFrame)}
              x2={x(p.startFrame)}
              y1={18}
              y2={145}
              stroke="var(--ink)"
              strokeWidth={on ? 2 : 1}
            />
            <g
              style={{ cursor: 'grab' }}
              onPointerDown={(e) => {
                e.stopPropagation();
                e.currentTarget.setPointerCapture(e.pointerId);
                setRegion(null);
                setAt(i);
                drag.current = { piece: i, moved: false };
                hearPiece(p);
              }}
              onPointerMove={(e) => {
                if (drag.current) setOver(laneAt(e.clientY));
              }}
              onPointerUp={(e) => {
                const note = laneAt(e.clientY);
                if (drag.current && note !== null) give(p, note);
                drag.current = null;
                setOver(null);
              }}
            >
              <title>Click to hear, draw it down to a lane to give it</title>
              <rect
                x={x(p.startFrame) - 2}
                width={Math.max(14, x(p.nextFrame) - x(p.startFrame) - 3)}
                y={30}
                height={104}
                fill="transparent"
              />
              <Poly
                pts={hex(x(p.startFrame), 12, 17, 15)}
                fill={fam ? 'var(--c)' : on ? 'var(--ink)' : 'var(--paper-raised)'}
                stroke="var(--ink)"
              />
            </g>
          </g>
        );
      })}
      {region && (
        <rect
          x={x(region.from)}
          width={x(region.to) - x(region.from)}
          y={26}
          height={112}
          fill="var(--veil)"
          stroke="var(--ink)"
          strokeWidth={1.5}
        />
      )}
      <defs>
        <pattern id="dead" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1={0} x2={0} y2={6} stroke="var(--rule-strong)" strokeWidth={1.5} />
        </pattern>
      </defs>
    </svg>
  );
}

/** Seconds over the lanes. */
export function CutRuler({ cut }: { cut: Cut }) {
  const { width, rate, from, to, x, stepS } = cut;
  return (
    <svg className="fill" width={width} height={22} aria-hidden="true">
      {Array.from(
        { length: Math.ceil((to - from) / rate / stepS) + 1 },
        (_, i) => (Math.ceil(from / rate / stepS) + i) * stepS,
      ).map((s) => (
        <text key={s} x={x(s * rate)} y={15}>
          {`${Number(s.toFixed(2))} s`}
        </text>
      ))}
    </svg>
  );
}

/** The lanes, with the pieces that were given to them. */
export function CutLanes({ cut }: { cut: Cut }) {
  const { lanes, pieces, piece, given, width, x, over } = cut;
  return (
    <div>
      {lanes.map((l) => (
        <div
          key={l.note}
          data-cutlane={l.note}
          className={`layers f-${l.color} ${over === l.note ? 'over' : ''}`}
        >
          <svg className="fill" width={width} height={32}>
            {pieces
              .filter((p) => given.get(p.startFrame) === l.note)
              .map((p) => (
                <rect
                  key={p.startFrame}
                  x={x(p.startFrame)}
                  y={5}
                  width={Math.max(4, x(p.endFrame) - x(p.startFrame))}
                  height={22}
                  rx={2}
                  fill="var(--c)"
                  stroke="var(--e)"
                />
              ))}
            {over === l.note && piece && (
              <rect
                x={x(piece.startFrame)}
                y={4}
                width={Math.max(30, x(piece.endFrame) - x(piece.startFrame))}
                height={24}
                fill="none"
                stroke="var(--ink)"
                strokeDasharray="3 2"
              />
            )}
          </svg>
        </div>
      ))}
    </div>
  );
}
