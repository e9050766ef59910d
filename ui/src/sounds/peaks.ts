// Small pictures of the samples a kit sounds, and of their parts, asked for once each.
import { useMemo } from 'react';
import { create } from 'zustand';
import { api, type Sample } from '../api/client';

const usePeaks = create<Record<string, Sample | null>>()(() => ({}));

/** What the shelf knows of a sample; null until it is known. */
export function useSample(hash: string | undefined): Sample | null {
  const s = usePeaks((all) => (hash ? all[hash] : undefined));
  if (hash && s === undefined) {
    queueMicrotask(() => {
      if (usePeaks.getState()[hash] !== undefined) return;
      usePeaks.setState({ [hash]: null });
      api
        .getSample({ path: { hash } })
        .then((found) => usePeaks.setState({ [hash]: found }))
        .catch(() => setTimeout(() => usePeaks.setState({ [hash]: undefined }), 1500)); // not described yet
    });
  }
  return s ?? null;
}

/** What of a sample is drawn. */
export interface Part {
  sample: string;
  startFrame?: number | undefined;
  /** 0 and undefined: to the end */
  endFrame?: number | undefined;
  reverse?: boolean | undefined;
}

const columns = 48;
const useParts = create<Record<string, number[] | null>>()(() => ({}));

/** The peaks of a part as it sounds, 0 to 255; null until they are known. */
export function usePartPeaks({
  sample,
  startFrame = 0,
  endFrame = 0,
  reverse = false,
}: Part): number[] | null {
  const whole = startFrame === 0 && endFrame === 0;
  const s = useSample(sample || undefined);
  const key = `${sample} ${startFrame} ${endFrame}`;
  const part = useParts((all) => (whole ? null : all[key]));
  if (!whole && sample && part === undefined) {
    queueMicrotask(() => {
      if (useParts.getState()[key] !== undefined) return;
      useParts.setState({ [key]: null });
      api
        .drawSample({ path: { hash: sample }, query: { start: startFrame, end: endFrame, columns } })
        .then((w) => {
          const tall = w.high.map((h, i) => Math.max(h, -(w.low[i] ?? 0)));
          const top = Math.max(1, ...tall);
          useParts.setState({ [key]: tall.map((v) => Math.round((255 * v) / top)) });
        })
        .catch(() => setTimeout(() => useParts.setState({ [key]: undefined }), 1500));
    });
  }
  const forward = whole ? (s?.facts.peaks ?? null) : (part ?? null);
  return useMemo(() => (forward && reverse ? forward.toReversed() : forward), [forward, reverse]);
}
