// The velocities of a pad's layers: limits that move together, layers taken out, gaps closed.
import type { Layer, Pad, Range } from '../api/client';

/** The pad with another limit of a layer; a neighbour that lay against the old one follows it as far as it has room. */
export function withLimit(pad: Pad, layer: number, edge: 'lo' | 'hi', to: number): Pad {
  const old = pad.layers[layer] as Layer;
  return {
    ...pad,
    layers: pad.layers.map((l, i) => {
      if (i === layer) return { ...l, [edge]: to };
      if (edge === 'hi' && l.lo === old.hi + 1 && to + 1 <= l.hi) return { ...l, lo: to + 1 };
      if (edge === 'lo' && l.hi === old.lo - 1 && to - 1 >= l.lo) return { ...l, hi: to - 1 };
      return l;
    }),
  };
}

/** The pad without a layer; what lay between its neighbours is a gap. */
export const withoutLayer = (pad: Pad, at: number): Pad => ({
  ...pad,
  layers: pad.layers.filter((_, i) => i !== at),
});

/** How a gap may be closed: by the layer under it, the one over it, or both halfway. */
export function closings(pad: Pad, gap: Range): { words: string; pad: Pad }[] {
  const under = pad.layers.findIndex((l) => l.hi === gap.lo - 1);
  const over = pad.layers.findIndex((l) => l.lo === gap.hi + 1);
  const put = (up: number, down: number): Pad => ({
    ...pad,
    layers: pad.layers.map((l, i) => ({
      ...l,
      ...(i === under ? { hi: up } : {}),
      ...(i === over ? { lo: down } : {}),
    })),
  });
  const half = Math.floor((gap.lo + gap.hi) / 2);
  const out: { words: string; pad: Pad }[] = [];
  if (under >= 0) out.push({ words: `Layer ${under + 1} up to ${gap.hi}`, pad: put(gap.hi, gap.hi + 1) });
  if (over >= 0) out.push({ words: `Layer ${over + 1} from ${gap.lo}`, pad: put(gap.lo - 1, gap.lo) });
  if (under >= 0 && over >= 0 && gap.hi > gap.lo)
    out.push({ words: 'Both, halfway', pad: put(half, half + 1) });
  return out;
}
