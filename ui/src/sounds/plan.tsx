// The samples of a plan as things: dragged from lane to lane, to lanes of their own, or out of it.
import { type DragEvent, useState } from 'react';
import type { LayoutOptions } from '../api/client';
import { Mini } from '../shelf/Mini';
import { hear } from '../shelf/state';
import { usePartPeaks } from './peaks';
import { type Dropping, planDrop } from './state';

/** What a sample of the plan is dragged as: its place in the drop. */
const planType = 'application/x-hexachord-plan';

/** Where a person sends a sample, beside a lane's note. */
export const leftOut = -1;
export const ownLane = -2;

export const optionsWith = (options: LayoutOptions, o: Partial<LayoutOptions>) =>
  void planDrop({ options: { ...options, ...o } });

/** Sends a sample of the drop to the lane on a note, to a lane of its own or nowhere. */
export function send({ options }: Dropping, sample: number, to: number) {
  optionsWith(options, { lane: { ...options.lane, [String(sample)]: to } });
}

/** Makes an element take a sample of the plan. */
export function usePlanDrop(dropping: Dropping, to: number) {
  const [over, setOver] = useState(false);
  return {
    over,
    target: {
      onDragOver: (e: DragEvent) => {
        if (!e.dataTransfer.types.includes(planType)) return;
        e.preventDefault();
        setOver(true);
      },
      onDragLeave: () => setOver(false),
      onDrop: (e: DragEvent) => {
        const sample = e.dataTransfer.getData(planType);
        setOver(false);
        if (sample === '') return;
        e.preventDefault();
        e.stopPropagation();
        send(dropping, Number(sample), to);
      },
    },
  };
}

/** A sample of the drop, small: heard and chosen by a click, dragged to where it is wanted. */
export function PlanThumb({
  dropping,
  at,
  w,
  choose,
}: {
  dropping: Dropping;
  at: number;
  w: number;
  choose: (at: number) => void;
}) {
  const part = dropping.parts[at];
  const peaks = usePartPeaks({
    sample: part?.hash ?? '',
    startFrame: part?.startFrame,
    endFrame: part?.endFrame,
  });
  return (
    <button
      type="button"
      className="thumb"
      title={`${dropping.names[at] ?? ''}: hear it, or drag it to another lane`}
      data-sample={at}
      draggable
      onDragStart={(e) => {
        e.dataTransfer.setData(planType, String(at));
        e.dataTransfer.effectAllowed = 'move';
      }}
      onClick={() => {
        choose(at);
        if (part)
          void hear(part.hash, part.endFrame ? { start: part.startFrame ?? 0, end: part.endFrame } : {});
      }}
    >
      {peaks && <Mini peaks={peaks} w={w} h={20} />}
    </button>
  );
}
