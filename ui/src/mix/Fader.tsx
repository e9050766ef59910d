// A slider that is heard while it moves and takes effect when it is let go, or when its keys rest.
import { useEffect, useRef, useState } from 'react';

const restMS = 500;

export function Fader({
  name,
  value,
  min,
  max,
  step,
  page,
  zero = 0,
  words,
  tries,
  set,
}: {
  name: string;
  value: number;
  min: number;
  max: number;
  step: number;
  page: number;
  /** where a double click puts it */
  zero?: number;
  words: (v: number) => string;
  /** told what it shows while it has not taken effect, null after */
  tries?: (v: number | null) => void;
  set: (v: number) => void;
}) {
  // what is shown until what was set has come
  const [now, setNow] = useState<{ v: number; was: number } | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const timer = useRef(0);
  const waiting = useRef<number | null>(null);
  const shown = now && now.was === value ? now.v : value;
  const show = (v: number) => {
    const next = Math.round(Math.min(max, Math.max(min, v)) / step) * step;
    waiting.current = next;
    setNow({ v: next, was: value });
    tries?.(next);
  };
  const commit = () => {
    window.clearTimeout(timer.current);
    const v = waiting.current;
    waiting.current = null;
    if (v === null) return;
    const rounded = Number(v.toFixed(3));
    if (rounded !== value) {
      set(rounded);
      return;
    }
    tries?.(null);
    setNow(null);
  };
  useEffect(() => () => window.clearTimeout(timer.current), []);
  const at = (clientX: number) => {
    const r = box.current?.getBoundingClientRect();
    return r ? min + ((clientX - r.left) / r.width) * (max - min) : value;
  };
  const share = ((shown - min) / (max - min)) * 100;
  return (
    <div
      ref={box}
      className="mixfader"
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuemin={min}
      aria-valuemax={max}
      aria-valuenow={shown}
      aria-valuetext={words(shown)}
      title={`${name}: ${words(shown)}. Drag it; double click: ${words(zero)}`}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        show(at(e.clientX));
      }}
      onPointerMove={(e) => e.buttons === 1 && waiting.current !== null && show(at(e.clientX))}
      onPointerUp={commit}
      onPointerCancel={() => {
        waiting.current = null;
        setNow(null);
        tries?.(null);
      }}
      onDoubleClick={() => {
        show(zero);
        commit();
      }}
      onBlur={commit}
      onKeyDown={(e) => {
        const by = {
          ArrowRight: step,
          ArrowUp: step,
          ArrowLeft: -step,
          ArrowDown: -step,
          PageUp: page,
          PageDown: -page,
        }[e.key];
        if (by === undefined && e.key !== 'Home' && e.key !== 'End') {
          if (e.key === 'Enter') commit();
          return;
        }
        e.preventDefault();
        e.stopPropagation();
        show(e.key === 'Home' ? min : e.key === 'End' ? max : (waiting.current ?? value) + (by ?? 0));
        window.clearTimeout(timer.current);
        timer.current = window.setTimeout(commit, restMS);
      }}
    >
      <i style={{ width: `${share}%` }} />
      <b style={{ left: `${share}%` }} />
    </div>
  );
}

export const dB = (v: number) => (v <= -96 ? 'silent' : `${v > 0 ? '+' : ''}${v.toFixed(1)} dB`);
export const side = (v: number) => (v === 0 ? 'C' : `${v < 0 ? 'L' : 'R'} ${Math.round(Math.abs(v) * 100)}`);
