// The pieces of a recording that is cut.
import { useCallback } from 'react';
import { useAnswer } from '../app/useAnswer';
import { api, type Piece, type SamplePart } from '../api/client';

/** Asks for the pieces anew whenever what decides on them changes. */
export function usePieces(
  hash: string,
  strength: number,
  minGapMS: number,
  deadDB: number,
  marks: number[] | null,
) {
  const answer = useAnswer(
    useCallback(
      () =>
        api.cutSample({
          path: { hash },
          body: { strength, minGapMS, deadDB, ...(marks ? { marks } : {}) },
        }),
      [hash, strength, minGapMS, deadDB, marks],
    ),
    120,
  );
  return answer?.pieces ?? null;
}

/** What a piece of a recording is called: after the recording, with its number; −1 is a region of it. */
export const pieceName = (recording: string, at: number): string => {
  const stem = recording.replace(/\.[^.]*$/, '');
  return at < 0 ? `${stem}, part` : `${stem} ${at + 1}`;
};

/** A piece as it is given to a lane. */
export const partOf = (hash: string, p: Piece): SamplePart => ({
  hash,
  startFrame: p.startFrame,
  endFrame: p.endFrame,
  kind: p.guess.kind,
  confidence: p.guess.confidence,
  fadeOutMS: 8,
});

/** The lane under the pointer. */
export const laneAt = (clientY: number) => {
  const rows = [...document.querySelectorAll<HTMLElement>('[data-cutlane]')];
  const row = rows.find((r) => {
    const b = r.getBoundingClientRect();
    return clientY >= b.top && clientY < b.bottom;
  });
  return row ? Number(row.dataset.cutlane) : null;
};
