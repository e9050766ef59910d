// What may be dropped on a lane, a layer or a pad: samples from the shelf, or files.
import type { DragEvent } from 'react';
import { useState } from 'react';
import { dragType } from '../shelf/SampleRow';
import { useBench } from '../app/state';
import { importSamples, useShelf } from '../shelf/state';
import { bringTo } from './state';

/** Takes what was dropped on a pad. */
async function take(e: DragEvent, note: number) {
  const hashes = e.dataTransfer.getData(dragType);
  if (hashes) {
    const list = JSON.parse(hashes) as string[];
    const found = useShelf.getState().found;
    const names = list.map((h) => found.find((f) => f.hash === h)?.name ?? '');
    bringTo(
      note,
      list.map((hash) => ({ hash })),
      names,
    );
    return;
  }
  const files = [...e.dataTransfer.files];
  if (files.length === 0) return;
  const reports = (await importSamples(files, true)).filter((r) => r.hash);
  bringTo(
    note,
    reports.map((r) => ({ hash: r.hash ?? '' })),
    reports.map((r) => r.file.replace(/^.*\//, '')),
  );
}

const mine = (e: DragEvent) =>
  e.dataTransfer.types.includes(dragType) || e.dataTransfer.types.includes('Files');

/** Makes an element take samples for a note; over is true while one is held above it. */
export function useSampleDrop(note: number) {
  const [over, setOver] = useState(false);
  return {
    over,
    onDragOver: (e: DragEvent) => {
      if (!mine(e)) return;
      e.preventDefault();
      e.stopPropagation();
      e.dataTransfer.dropEffect = 'copy';
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      if (!mine(e)) return;
      e.preventDefault();
      e.stopPropagation();
      setOver(false);
      useBench.setState({ fileOver: false });
      void take(e, note);
    },
  };
}
