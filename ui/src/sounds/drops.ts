// What may be dropped on a lane, a layer or a pad: samples from the shelf, or files.
import type { DragEvent } from 'react';
import { useState } from 'react';
import { bring } from '../app/bring';
import { type Dropped, droppedFiles } from '../app/dropped';
import { explain, say, useBench } from '../app/state';
import { importSamples, useShelf } from '../shelf/state';
import { bringTo, useSounds } from './state';
import { dragType, padType } from '../shelf/dragTypes';

/** Takes samples of the shelf that were dropped on a pad. */
function takeHashes(hashes: string[], note: number) {
  const { found } = useShelf.getState();
  const names = hashes.map((h) => found.find((f) => f.hash === h)?.name ?? '');
  bringTo(
    note,
    hashes.map((hash) => ({ hash })),
    names,
  );
}

/** Takes files that were dropped on a pad: one goes there, of several the plan says where. */
async function takeFiles({ files, from }: Dropped, note: number) {
  const [one] = files;
  if (files.length !== 1 || !one || /\.(zip|sfz|midi?)$/i.test(one.name)) {
    await bring({ files, from, leftOut: 0 });
    return;
  }
  const [r] = await importSamples([one], true);
  if (r?.hash) bringTo(note, [{ hash: r.hash }], [one.name.replace(/^.*\//, '')]);
}

const mine = (e: DragEvent) =>
  [dragType, padType, 'Files'].some((type) => e.dataTransfer.types.includes(type));

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
      const from = e.dataTransfer.getData(padType);
      if (from !== '') {
        if (Number(from) !== note) useSounds.setState({ moving: { from: Number(from), to: note } });
        return;
      }
      const hashes = e.dataTransfer.getData(dragType);
      if (hashes) takeHashes(JSON.parse(hashes) as string[], note);
      else
        void droppedFiles(e.dataTransfer)
          .then((d) => takeFiles(d, note))
          .catch((x: unknown) => say(explain(x)));
    },
  };
}
