// An ink line from a card to what it speaks of, which is ringed; it follows both.
import { type RefObject, useEffect, useState } from 'react';

interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}

const boxOf = (r: DOMRect): Box => ({ x: r.left, y: r.top, w: r.width, h: r.height });
const same = (a: Box[], b: Box[]) => JSON.stringify(a) === JSON.stringify(b);
const gap = 4;

export function Pointer({
  from,
  targets,
}: {
  from: RefObject<HTMLElement | null>;
  /** where the targets are now; none while they are not shown */
  targets: () => Box[];
}) {
  const [boxes, setBoxes] = useState<Box[]>([]);
  useEffect(() => {
    const look = () => {
      const card = from.current && boxOf(from.current.getBoundingClientRect());
      const rings = targets();
      const next = card && rings.length > 0 ? [card, ...rings] : [];
      setBoxes((was) => (same(was, next) ? was : next));
    };
    look();
    const timer = window.setInterval(look, 200);
    return () => window.clearInterval(timer);
  }, [from, targets]);
  const [card, ...rings] = boxes;
  if (!card) return null;
  // the line leaves the card at its top, or at its side when the target stands beside it, and runs between
  const line = (b: Box) => {
    const x = b.x + b.w / 2;
    if (b.y + b.h < card.y - 12 && card.x + card.w < window.innerWidth - 2) {
      const bend = Math.min(card.y - 6, Math.max(...rings.map((r) => r.y + r.h)) + 12);
      return `M${card.x + card.w / 2} ${card.y}V${bend}H${x}V${b.y + b.h + gap}`;
    }
    const side = b.x + b.w < card.x ? card.x : card.x + card.w;
    const y = Math.min(Math.max(b.y + b.h / 2, card.y + 10), card.y + card.h - 10);
    return `M${side} ${y}H${x}V${y < b.y ? b.y - gap : y > b.y + b.h ? b.y + b.h + gap : y}`;
  };
  return (
    <svg className="pointer" aria-hidden="true">
      {rings.map((b) => (
        <g key={`${b.x} ${b.y}`}>
          <path d={line(b)} />
          <rect x={b.x - gap} y={b.y - gap} width={b.w + 2 * gap} height={b.h + 2 * gap} rx={7} />
        </g>
      ))}
    </svg>
  );
}

/** Where the first element that a selector finds is, when it can be seen. */
export function found(selector: string): Box[] {
  for (const el of document.querySelectorAll(selector)) {
    const r = el.getBoundingClientRect();
    if (r.width > 0 && r.height > 0) return [boxOf(r)];
  }
  return [];
}
