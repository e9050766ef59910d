// A sample drawn small.
import { memo } from 'react';

export const Mini = memo(function Mini({
  peaks,
  w = 60,
  h = 26,
}: {
  peaks: number[];
  w?: number;
  h?: number;
}) {
  const x = (i: number) => (i * w) / (peaks.length - 1);
  const up = peaks.map((p, i) => `${x(i).toFixed(1)},${(h / 2 - (p / 255) * (h / 2)).toFixed(1)}`);
  const down = peaks
    .map((p, i) => `${x(i).toFixed(1)},${(h / 2 + (p / 255) * (h / 2)).toFixed(1)}`)
    .toReversed();
  return (
    <svg width={w} height={h} aria-hidden="true">
      <polygon points={[...up, ...down].join(' ')} fill="var(--c)" stroke="var(--c)" strokeWidth={0.7} />
    </svg>
  );
});
