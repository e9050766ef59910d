// A take's waveform as it sounds, with the grips of its region, fades and loop, and the curves drawn over it.
import { useCallback, useEffect, useRef, useState } from 'react';
import { useAnswer } from '../app/useAnswer';
import { api, type Shape, type Take, type Wave } from '../api/client';
import { useSize } from '../app/useSize';
import { hex, outlinePoints, Poly } from '../lanes/marks';
import { Curve, type CurveKind, drawnAt } from './Curve';

export const waveH = 92;

/** room for the grips at both ends, px */
const edge = 9;

type Grip = 'start' | 'end' | 'fadeIn' | 'fadeOut' | 'loopStart' | 'loopEnd' | 'pan';

function useWave(hash: string, from: number, to: number, columns: number, wanted = true): Wave | null {
  const ask = useCallback(
    () =>
      api.drawSample({ path: { hash }, query: { start: Math.round(from), end: Math.round(to), columns } }),
    [hash, from, to, columns],
  );
  return useAnswer(wanted ? ask : null, 30);
}

/** A wave read backwards within a region, as it sounds turned round; mirror holds what is read. */
function turned(
  wave: Wave,
  mirror: Wave,
  view: { from: number; span: number },
  read: { from: number; span: number },
  region: { start: number; end: number },
): Wave {
  const n = wave.high.length;
  const pick = (own: number[], other: number[]) =>
    own.map((v, i) => {
      const f = view.from + ((i + 0.5) / n) * view.span;
      if (f < region.start || f >= region.end) return v;
      const at = Math.floor(((region.start + region.end - f - read.from) / read.span) * other.length);
      return other[at] ?? 0;
    });
  return { ...wave, high: pick(wave.high, mirror.high), low: pick(wave.low, mirror.low) };
}

export const num = (v: number, digits = 1) => Number(v.toFixed(digits));

/** Gain of the envelope and fades at a time after the start, ms, as drawn. */
function gainAt(s: Shape, ms: number, length: number): number {
  let g = 1;
  if (ms < s.attackMS) g = ms / s.attackMS;
  else if (ms < s.attackMS + s.decayMS) g = 1 - ((1 - s.sustainPct / 100) * (ms - s.attackMS)) / s.decayMS;
  else if (s.sustainPct < 100) g = s.sustainPct / 100;
  if (ms < s.fadeInMS) g *= ms / s.fadeInMS;
  const left = length - ms;
  if (left < s.fadeOutMS) {
    const x = Math.max(0, left / s.fadeOutMS);
    g *= s.curve === 'falling' ? x * x : s.curve === 'round' ? Math.sin((x * Math.PI) / 2) : x;
  }
  if (s.level && s.level.length > 0) {
    const db = drawnAt(s.level, ms);
    g *= db <= -60 ? 0 : 10 ** (db / 20);
  }
  return g;
}

/** The waveform with its grips; draws the shape that is being made. */
export function Waveform({
  take,
  shape,
  change,
  done,
  draws,
}: {
  take: Take;
  shape: Shape;
  change: (s: Shape) => void;
  done: () => void;
  /** the curve that is drawn; '' for none, and the grips can be pulled */
  draws: CurveKind | '';
}) {
  const [ref, size] = useSize<HTMLDivElement>();
  const [view, setView] = useState<{ from: number; to: number } | null>(null);
  const width = Math.max(100, size.width);
  const wave = useWave(take.sample, view?.from ?? 0, view?.to ?? 0, Math.min(2000, Math.floor(width)));
  const drag = useRef<{ grip: Grip; x: number; from: number; to: number } | null>(null);
  const frames = wave?.frames ?? 1;
  const rate = wave?.rate ?? 44100;
  const from = view?.from ?? 0;
  const to = view && view.to > 0 ? view.to : frames;
  const span = Math.max(1, to - from);
  const x = (frame: number) => edge + ((frame - from) / span) * (width - 2 * edge);
  const frameAt = (px: number) =>
    Math.round(Math.min(frames, Math.max(0, from + ((px - edge) / (width - 2 * edge)) * span)));
  const end = shape.endFrame || frames;
  const length = ((end - shape.startFrame) / rate) * 1000;
  const ms = (f: number) => (f * 1000) / rate;
  const readFrom = Math.max(0, shape.startFrame + end - to);
  const readTo = Math.min(frames, Math.max(readFrom + 64, shape.startFrame + end - from));
  const mirror = useWave(take.sample, readFrom, readTo, Math.min(2000, Math.floor(width)), shape.reverse);
  const heard =
    wave && mirror && shape.reverse
      ? turned(
          wave,
          mirror,
          { from, span },
          { from: readFrom, span: readTo - readFrom },
          { start: shape.startFrame, end },
        )
      : wave;
  const box = (e: { clientX: number }) => e.clientX - (ref.current?.getBoundingClientRect().left ?? 0);

  useEffect(() => {
    const el = ref.current;
    if (!el) return undefined;
    const zoom = (e: WheelEvent) => {
      e.preventDefault();
      const at = from + (box(e) / width) * span;
      const next = Math.min(frames, Math.max(64, span * (e.deltaY > 0 ? 1.25 : 0.8)));
      const start = Math.max(0, Math.min(frames - next, at - ((at - from) / span) * next));
      setView(next >= frames ? null : { from: start, to: start + next });
    };
    el.addEventListener('wheel', zoom, { passive: false });
    return () => el.removeEventListener('wheel', zoom);
  });

  const move = (e: React.PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const f = frameAt(box(e));
    switch (d.grip) {
      case 'start':
        change({ ...shape, startFrame: Math.min(f, end - 16), loopStart: Math.max(shape.loopStart, f) });
        break;
      case 'end':
        change({ ...shape, endFrame: f >= frames ? 0 : Math.max(f, shape.startFrame + 16) });
        break;
      case 'fadeIn':
        change({ ...shape, fadeInMS: num(Math.max(0, ms(f - shape.startFrame)), 2) });
        break;
      case 'fadeOut':
        change({ ...shape, fadeOutMS: num(Math.max(0, ms(end - f)), 2) });
        break;
      case 'loopStart':
        change({ ...shape, loopStart: Math.max(shape.startFrame, Math.min(f, (shape.loopEnd || end) - 16)) });
        break;
      case 'loopEnd':
        change({ ...shape, loopEnd: Math.min(end, Math.max(f, shape.loopStart + 16)) });
        break;
      case 'pan': {
        const by = ((d.x - e.clientX) / width) * (d.to - d.from);
        const start = Math.max(0, Math.min(frames - (d.to - d.from), d.from + by));
        setView({ from: start, to: start + d.to - d.from });
        break;
      }
    }
  };
  const grip = (which: Grip) => ({
    style: { cursor: 'ew-resize' },
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      (e.target as Element).setPointerCapture(e.pointerId);
      drag.current = { grip: which, x: e.clientX, from, to };
    },
    onPointerMove: move,
    onPointerUp: () => {
      if (drag.current && drag.current.grip !== 'pan') done();
      drag.current = null;
    },
  });
  const mid = waveH / 2;
  const column = (i: number, v: number) => {
    const f = from + (i / (wave?.high.length ?? 1)) * span;
    const inside = f >= shape.startFrame && f < end;
    const g = inside ? gainAt(shape, ms(f - shape.startFrame), length) : 0;
    return mid - (v / 127) * (mid - 4) * g;
  };
  const outline = (of: (i: number, v: number) => number) =>
    outlinePoints(heard, (i) => edge + (i / (wave?.high.length ?? 1)) * (width - 2 * edge), of);
  const line: string[] = [];
  for (let i = 0; i <= 120; i++) {
    const t = (length * i) / 120;
    const px = x(shape.startFrame + (t * rate) / 1000);
    line.push(`${px.toFixed(1)},${(4 + (1 - gainAt(shape, t, length)) * (mid - 4)).toFixed(1)}`);
  }
  const fadeInX = x(shape.startFrame + (shape.fadeInMS * rate) / 1000);
  const fadeOutX = x(end - (shape.fadeOutMS * rate) / 1000);
  const stepMS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 30000].find(
    (s) => (s / ms(span)) * width > 70,
  );
  const ticks = stepMS
    ? Array.from(
        { length: Math.floor(ms(span) / stepMS) + 1 },
        (_, i) => Math.ceil(ms(from) / stepMS + i) * stepMS,
      )
    : [];
  return (
    <div ref={ref} className="wave" title="Wheel zooms, dragging moves the view">
      <svg width={width} height={waveH + 14} {...grip('pan')}>
        <rect width={width} height={waveH} fill="var(--paper-raised)" />
        <rect width={Math.max(0, x(shape.startFrame))} height={waveH} fill="var(--paper-sunk)" />
        <rect
          x={Math.min(width, x(end))}
          width={Math.max(0, width - x(end))}
          height={waveH}
          fill="var(--paper-sunk)"
        />
        {shape.loop && (
          <rect
            x={x(shape.loopStart)}
            width={Math.max(0, x(shape.loopEnd || end) - x(shape.loopStart))}
            height={waveH}
            fill="var(--veil)"
          />
        )}
        <polygon points={outline((_, v) => mid - (v / 127) * (mid - 4))} fill="var(--shadow-hit)" />
        <polygon points={outline(column)} fill="var(--c)" />
        <line x2={width} y1={mid} y2={mid} stroke="var(--rule)" />
        {!draws && (
          <polyline
            points={line.join(' ')}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={1.5}
            pointerEvents="none"
          />
        )}
        {(
          [
            ['start', x(shape.startFrame)],
            ['end', x(end)],
          ] as const
        ).map(([which, px]) => (
          <g key={which} {...grip(which)} data-grip={which}>
            <rect x={px - 7} width={14} height={waveH} fill="transparent" />
            <line x1={px} x2={px} y2={waveH} stroke="var(--ink)" strokeWidth={2} />
            <Poly pts={hex(px, waveH - 8, 15, 14)} fill="var(--ink)" />
          </g>
        ))}
        {shape.loop &&
          (
            [
              ['loopStart', x(shape.loopStart)],
              ['loopEnd', x(shape.loopEnd || end)],
            ] as const
          ).map(([which, px]) => (
            <g key={which} {...grip(which)}>
              <rect x={px - 6} width={12} height={waveH} fill="transparent" />
              <line x1={px} x2={px} y2={waveH} stroke="var(--ink)" strokeDasharray="3 2" />
              <text
                x={px + (which === 'loopStart' ? 3 : -3)}
                y={mid - 4}
                textAnchor={which === 'loopStart' ? 'start' : 'end'}
              >
                loop
              </text>
            </g>
          ))}
        {(
          [
            ['fadeIn', fadeInX],
            ['fadeOut', fadeOutX],
          ] as const
        ).map(([which, px]) => (
          <g key={which} {...grip(which)}>
            <Poly pts={hex(px, 7, 15, 13)} className="paper" stroke="var(--ink)" strokeWidth={1.5} />
          </g>
        ))}
        {draws && (
          <Curve
            kind={draws}
            points={shape[draws] ?? []}
            x={(t) => x(shape.startFrame + (t * rate) / 1000)}
            msAt={(px) => ms(frameAt(px) - shape.startFrame)}
            lengthMS={length}
            width={width}
            height={waveH}
            change={(points) => change({ ...shape, [draws]: points })}
            done={done}
          />
        )}
        {ticks.map((t) => (
          <text
            key={t}
            x={x((t * rate) / 1000)}
            y={waveH + 12}
            textAnchor={t === 0 ? 'start' : x((t * rate) / 1000) > width - 24 ? 'end' : 'middle'}
          >
            {stepMS && stepMS >= 1000 ? `${t / 1000} s` : `${t} ms`}
          </text>
        ))}
      </svg>
    </div>
  );
}
