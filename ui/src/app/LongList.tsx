// A list of any length: only the rows in sight are drawn.
import { useVirtualizer } from '@tanstack/react-virtual';
import { type HTMLAttributes, type ReactNode, useEffect, useRef } from 'react';

interface Props<T> extends Omit<HTMLAttributes<HTMLDivElement>, 'children'> {
  items: readonly T[];
  /** pixels of a row */
  height: number;
  /** the row that is to be in sight, −1 for none */
  at: number;
  renderRow: (item: T, at: number) => ReactNode;
  /** asks for more: the last rows are in sight */
  atEnd?: () => void;
  /** after the rows */
  children?: ReactNode;
}

export function LongList<T>({ items, height, at, renderRow, atEnd, children, ...rest }: Props<T>) {
  const box = useRef<HTMLDivElement>(null);
  // oxlint-disable-next-line react/incompatible-library -- what it returns stays in this component, which is not memoised
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current,
    estimateSize: () => height,
    overscan: 8,
  });
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(at);
  }, [rows, at]);
  const shown = rows.getVirtualItems();
  const last = shown.at(-1)?.index ?? -1;
  const { length } = items;
  const more = useRef(atEnd);
  useEffect(() => {
    more.current = atEnd;
  });
  useEffect(() => {
    if (length > 0 && last >= length - 1) more.current?.();
  }, [last, length]);
  return (
    <div ref={box} {...rest}>
      <div style={{ height: rows.getTotalSize(), position: 'relative', flex: 'none' }}>
        {shown.map((v) => (
          <div
            key={v.key}
            style={{
              position: 'absolute',
              left: 0,
              right: 0,
              height,
              transform: `translateY(${v.start}px)`,
            }}
          >
            {renderRow(items[v.index] as T, v.index)}
          </div>
        ))}
      </div>
      {children}
    </div>
  );
}
