// Small pictures of the samples a kit sounds, asked for once each.
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
