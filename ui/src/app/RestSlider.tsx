import { Slider } from 'antd';
import { useEffect, useRef, useState } from 'react';

/** How long arrow keys must rest before what they chose takes effect, ms. */
const restMS = 500;

/** A slider that takes effect once: when it is let go, or when the arrow keys rest, another key is pressed or it is left. */
export function RestSlider({
  value,
  set,
  moving,
  name,
  ...rest
}: {
  value: number;
  set: (v: number) => void;
  /** told what it shows while it has not taken effect, null after */
  moving?: (v: number | null) => void;
  name: string;
  min: number;
  max: number;
  step?: number;
  disabled?: boolean;
  style?: React.CSSProperties;
}) {
  const [now, setNow] = useState<number | null>(null);
  const waiting = useRef<number | null>(null);
  const byKey = useRef(false);
  const timer = useRef(0);
  const show = (v: number | null) => {
    setNow(v);
    moving?.(v);
  };
  const flush = () => {
    window.clearTimeout(timer.current);
    const v = waiting.current;
    waiting.current = null;
    if (v === null) return;
    show(null);
    if (v !== value) set(v);
  };
  const newest = useRef(flush);
  useEffect(() => {
    newest.current = flush;
  });
  useEffect(() => () => newest.current(), []);
  return (
    <span
      style={{ display: 'inline-flex' }}
      onKeyDownCapture={(e) => {
        byKey.current = /^(Arrow|Page|Home|End)/.test(e.key);
        if (!byKey.current) flush();
      }}
      onPointerDownCapture={() => {
        byKey.current = false;
      }}
      onBlur={flush}
    >
      <Slider
        {...rest}
        value={now ?? value}
        tooltip={{ open: false }}
        ariaLabelForHandle={name}
        onChange={(v: number) => {
          show(v);
          waiting.current = v;
          window.clearTimeout(timer.current);
          if (byKey.current) timer.current = window.setTimeout(() => newest.current(), restMS);
        }}
        onChangeComplete={() => {
          if (!byKey.current) flush();
        }}
      />
    </span>
  );
}
