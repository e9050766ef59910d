// The ruler of Break: bar and beat lines, dragged to where they are meant.
import { useRef, useState } from 'react';
import type { Recording } from '../api/client';
import { regrid } from '../app/state';
import { hex, Poly } from '../lanes/marks';
import { sureBar } from '../model/constants.gen';
import type { View } from './view';

/** Beats by name; bar lines, and beats while the grid follows, are dragged onto hits. */
export function BreakRuler({ r, v }: { r: Recording; v: View }) {
  const [held, setHeld] = useState<{ beat: number; x: number } | null>(null);
  const now = useRef(held);
  const hold = (h: typeof held) => {
    now.current = h;
    setHeld(h);
  };
  const per = r.heard.meter.beats;
  const ticks = 3840 / r.heard.meter.unit;
  const beatW = v.x(v.fromS + v.beatS) - v.x(v.fromS);
  const pins = r.heard.pins ?? [];
  const drop = () => {
    const h = now.current;
    hold(null);
    if (!h) return;
    // onto the nearest hit, when one is near
    let at = v.at(h.x);
    for (const hit of r.heard.hits)
      if (
        hit.state !== 'out' &&
        Math.abs(v.x(hit.time) - h.x) < 9 &&
        Math.abs(hit.time - v.at(h.x)) < Math.abs(at - v.at(h.x) || 1)
      )
        at = hit.time;
    void regrid(r.id, { pin: { tick: (v.firstBeat + h.beat) * ticks, time: Math.max(0, at) } });
  };
  return (
    <svg
      className="fill"
      data-id="break-ruler"
      width={v.width}
      height={22}
      style={{ touchAction: 'none' }}
      aria-label="Bars and beats; drag a bar line onto a hit"
      onPointerDown={(e) => {
        const x = e.clientX - e.currentTarget.getBoundingClientRect().left;
        const beat = v.beats.findIndex(
          (t, b) => Math.abs(v.x(t) - x) < 8 && ((v.firstBeat + b) % per === 0 || pins.length > 1),
        );
        if (beat < 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        hold({ beat, x: v.x(v.beats[beat] ?? 0) });
      }}
      onPointerMove={(e) => {
        if (now.current)
          hold({ ...now.current, x: e.clientX - e.currentTarget.getBoundingClientRect().left });
      }}
      onPointerUp={drop}
      onPointerCancel={() => hold(null)}
    >
      {v.beats.map((t, b) => {
        const x = held?.beat === b ? held.x : v.x(t);
        const onBar = (v.firstBeat + b) % per === 0;
        const last = b === v.beats.length - 1;
        const pin = pins.find((p) => p.tick === (v.firstBeat + b) * ticks);
        if (!onBar && !pin && beatW < 9) return null;
        const pinned = pin !== undefined;
        const inDoubt = pin?.sure !== undefined && pin.sure < sureBar;
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b} style={{ cursor: onBar || pins.length > 1 ? 'ew-resize' : 'default' }}>
            <line x1={x} x2={x} y1={onBar ? 4 : 10} y2={22} stroke="var(--border)" />
            {onBar && (
              <Poly
                pts={hex(x, 11, 13, 11)}
                fill={inDoubt ? 'var(--paper)' : pinned ? 'var(--ink)' : 'var(--ink-2)'}
                stroke={inDoubt ? 'var(--ink)' : undefined}
              >
                {pin?.sure !== undefined && (
                  <title>{`The bar that begins here: ${Math.round(pin.sure * 100)} % sure${inDoubt ? '; drag its line to where it begins' : ''}`}</title>
                )}
              </Poly>
            )}
            {!onBar && pinned && <Poly pts={hex(x, 13, 9, 8)} fill="var(--ink)" />}
            {!last && (onBar ? beatW * per > 34 : beatW > 34) && (
              <text x={x + (onBar ? 10 : 5)} y={15} className={onBar ? 'b i' : ''}>
                {beatW > 34
                  ? `${1 + Math.floor((v.firstBeat + b) / per)}.${1 + ((v.firstBeat + b) % per)}`
                  : 1 + Math.floor((v.firstBeat + b) / per)}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
