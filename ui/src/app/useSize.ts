import { useLayoutEffect, useRef, useState } from 'react';

/** Width and height of an element, as they change. */
export function useSize<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  const [size, setSize] = useState({ width: 1004, height: 384 });
  useLayoutEffect(() => {
    const el = ref.current;
    if (!el) return undefined;
    const watch = new ResizeObserver(() => setSize({ width: el.clientWidth, height: el.clientHeight }));
    watch.observe(el);
    setSize({ width: el.clientWidth, height: el.clientHeight });
    return () => watch.disconnect();
  }, []);
  return [ref, size] as const;
}
