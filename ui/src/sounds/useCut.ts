// Where a recording is cut, and what becomes of the pieces.
import { type RefObject, useCallback, useEffect, useMemo, useState } from 'react';
import { useAnswer } from '../app/useAnswer';
import { api, type Lane, type Piece, type Project } from '../api/client';
import { useBench } from '../app/state';
import { outlinePoints } from '../lanes/marks';
import { hear } from '../shelf/state';
import { useSample } from './peaks';
import { partOf, pieceName, usePieces } from './pieces';
import { bringTo, findLoop, planDrop, useSounds } from './state';

const pad = 14;
const none: Piece[] = [];

/** The state of the face: marks, pieces, the one chosen, and the part of the recording in view. */
export function useCut(
  project: Project,
  lanes: Lane[],
  hash: string,
  ref: RefObject<HTMLDivElement | null>,
  width: number,
) {
  const [strength, setStrength] = useState(0.3);
  const [minGapMS, setMinGap] = useState(90);
  const [deadDB, setDead] = useState(-48);
  const [by, setBy] = useState<'attacks' | 'cues' | 'hand'>('attacks');
  const [marks, setMarks] = useState<number[] | null>(null);
  const [at, setAt] = useState(0);
  const [view, setView] = useState<{ from: number; to: number } | null>(null);
  const wave = useAnswer(
    useCallback(
      () =>
        api.drawSample({
          path: { hash },
          query: {
            start: Math.round(view?.from ?? 0),
            end: Math.round(view?.to ?? 0),
            columns: Math.min(2000, Math.floor(width - 2 * pad)),
          },
        }),
      [hash, view, width],
    ),
  );
  const [over, setOver] = useState<number | null>(null);
  const [region, setRegion] = useState<{ from: number; to: number } | null>(null);
  const sample = useSample(hash);
  const found = usePieces(hash, strength, minGapMS, deadDB, by === 'attacks' ? null : marks);
  const pieces = found ?? none;
  const frames = wave?.frames ?? sample?.frames ?? 1;
  const rate = wave?.rate ?? 44100;
  const from = view?.from ?? 0;
  const to = view?.to ?? frames;
  const x = (f: number) => pad + ((f - from) / Math.max(1, to - from)) * (width - 2 * pad);
  const frameAt = (px: number) =>
    Math.round(Math.min(frames, Math.max(0, from + ((px - pad) / (width - 2 * pad)) * (to - from))));
  const piece: Piece | undefined = region
    ? {
        startFrame: region.from,
        endFrame: region.to,
        nextFrame: region.to,
        peakDB: 0,
        guess: pieces.find((p) => p.startFrame >= region.from)?.guess ?? { kind: 'other', confidence: 0 },
      }
    : pieces[at];
  const given = useMemo(() => {
    const m = new Map<number, number>(); // piece's start → note
    for (const p of project.kit.pads)
      for (const l of p.layers)
        for (const s of l.sounds)
          for (const t of s.takes)
            if (t.sample === hash && t.shape.endFrame > 0) m.set(t.shape.startFrame, p.note);
    return m;
  }, [project.kit, hash]);
  const give = (p: Piece, note: number) => {
    const name = pieceName(sample?.name ?? '', region ? -1 : pieces.indexOf(p));
    bringTo(note, [{ ...partOf(hash, p), name }], [name]);
    if (!region) setAt((n) => Math.min(pieces.length - 1, n + 1));
    setRegion(null);
  };
  // a pad struck takes the sound chosen
  useEffect(() =>
    useBench.subscribe((s, old) => {
      const struck = s.strikes[0];
      if (struck && struck !== old.strikes[0] && piece) give(piece, struck.note);
    }),
  );
  const hearPiece = (p: Piece | undefined) => p && void hear(hash, { start: p.startFrame, end: p.endFrame });
  const outline = outlinePoints(
    wave,
    (i) => pad + (i / (wave?.high.length ?? 1)) * (width - 2 * pad),
    (_, v) => 82 - (v / 127) * 50,
  );
  useEffect(() => {
    const el = ref.current;
    if (!el) return undefined;
    const zoom = (e: WheelEvent) => {
      e.preventDefault();
      const span = to - from;
      const px = e.clientX - el.getBoundingClientRect().left;
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) {
        const by2 = ((e.deltaX || e.deltaY) / width) * span;
        const start = Math.max(0, Math.min(frames - span, from + by2));
        setView({ from: start, to: start + span });
        return;
      }
      const next = Math.min(frames, Math.max(500, span * (e.deltaY > 0 ? 1.25 : 0.8)));
      const f = frameAt(px);
      const start = Math.max(0, Math.min(frames - next, f - ((f - from) / span) * next));
      setView(next >= frames ? null : { from: start, to: start + next });
    };
    el.addEventListener('wheel', zoom, { passive: false });
    return () => el.removeEventListener('wheel', zoom);
  });
  const family = (p: Piece) => {
    const note = given.get(p.startFrame);
    return note === undefined ? '' : (lanes.find((l) => l.note === note)?.color ?? '');
  };
  const seconds = (f: number) => `${(f / rate).toFixed(3)} s`;
  const chop = (options: { by: 'kind' | 'order' }) => {
    const parts = pieces
      .map((p, i) => ({ ...partOf(hash, p), name: pieceName(sample?.name ?? '', i) }))
      .filter((p) => !given.has(p.startFrame ?? 0));
    void planDrop({
      parts,
      names: parts.map((p) => p.name),
      from: sample?.name ?? 'the recording',
      options,
    }).then(() => {
      useSounds.setState({ cutting: '' });
      void findLoop(hash, (sample?.name ?? '').replace(/\.[^.]*$/, ''));
    });
  };
  const byHand = (next: number[]) => {
    setBy('hand');
    setMarks(next.toSorted((a, b) => a - b));
  };
  const starts = marks && by !== 'attacks' ? marks : pieces.map((p) => p.startFrame);
  const stepS =
    [0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30].find((s) => ((s * rate) / (to - from)) * width > 80) ?? 60;
  return {
    hash,
    lanes,
    sample,
    /** pieces are still looked for */
    looking: found === null,
    pieces,
    piece,
    given,
    width,
    rate,
    from,
    to,
    x,
    frameAt,
    outline,
    seconds,
    starts,
    stepS,
    strength,
    setStrength,
    minGapMS,
    setMinGap,
    deadDB,
    setDead,
    by,
    setBy,
    setMarks,
    at,
    setAt,
    over,
    setOver,
    region,
    setRegion,
    give,
    hearPiece,
    family,
    chop,
    byHand,
  };
}

/** What the parts of the face share. */
export type Cut = ReturnType<typeof useCut>;
