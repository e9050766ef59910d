import { useEffect, useMemo, useState } from 'react';
import { api, type Lane, type Picture, type Project, type Recording } from '../api/client';
import { currentRecording, editHits, explain, say, shownLanes, useBench } from '../app/state';
import { Transport } from '../app/Transport';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { BreakCrown, BreakRuler, BreakStage, barsShown, viewOf } from './BreakStage';
import { BreakTools, ChooseRecording } from './BreakTools';
import { endGroove, otherSide, useGroove } from './groove';
import { Keep } from './Keep';
import { ListenerPanel } from './Listener';
import { CleanUp, Doubt } from './Review';
import { compareLane, compareLoud, hearAround, judge, nextDoubt, useBreak } from './state';
import { tap } from './tap';

/** The recording drawn small, fetched anew when its grid changes. */
function usePicture(project: string, r: Recording | null): Picture | null {
  const [picture, setPicture] = useState<{ of: string; p: Picture } | null>(null);
  const of = r ? `${r.id} ${r.heard.barOneS} ${r.endS}` : '';
  const id = r?.id;
  const columns = Math.min(4096, Math.max(16, Math.ceil((r?.heard.bars ?? 1) / barsShown) * 976));
  useEffect(() => {
    if (!id) return undefined;
    let wanted = true;
    api
      .getPicture({ path: { project, recording: id }, query: { columns } })
      .then((p) => wanted && setPicture({ of, p }))
      .catch((e: unknown) => say(explain(e)));
    return () => {
      wanted = false;
    };
  }, [project, id, of, columns]);
  return picture?.of === of ? picture.p : null;
}

const turnPage = (by: number) => window.dispatchEvent(new CustomEvent('hexachord-page', { detail: by }));

/** What the keys of Break do; keys.ts names them. */
function useBreakKeys(r: Recording | null, lanes: Lane[]) {
  useEffect(() => {
    const listen = (e: Event) => {
      if (!r) return;
      const { chosen } = useBreak.getState();
      const h = r.heard.hits[chosen];
      const louder = (by: number) =>
        h &&
        void editHits(
          r.id,
          { op: 'velocity', hits: [chosen], velocity: Math.min(127, Math.max(1, h.velocity + by)) },
          'Velocity of a heard hit',
        );
      const toLane = (by: number) => {
        const to = lanes[lanes.findIndex((l) => l.note === r.lanes[chosen]) + by];
        if (h && to)
          void editHits(
            r.id,
            { op: 'lane', hits: [chosen], lane: to.note },
            `Move a heard hit to ${to.name}`,
          );
      };
      const does: Record<string, () => unknown> = {
        'doubt-on': () => nextDoubt(r, 1) || turnPage(1),
        'doubt-back': () => nextDoubt(r, -1) || turnPage(-1),
        keep: () => judge(r, 'keep'),
        other: () => judge(r, 'other'),
        'take-out': () => judge(r, h?.state === 'out' ? 'back' : 'out'),
        'hear-hit': () => h && hearAround(r, h.time),
        louder: () => louder(4),
        softer: () => louder(-4),
        'hit-up': () => toLane(-1),
        'hit-down': () => toLane(1),
        ab: () => (useGroove.getState().tried ? otherSide() : void compareLoud(r)),
        'ab-lane': () => void compareLane(r),
        tap: () => tap(r),
      };
      does[(e as CustomEvent<string>).detail]?.();
    };
    window.addEventListener('hexachord-break', listen);
    return () => window.removeEventListener('hexachord-break', listen);
  }, [r, lanes]);
}

function EmptyBreak() {
  return (
    <div
      style={{ padding: '56px 20px', display: 'grid', gap: 10, alignContent: 'start', justifyItems: 'start' }}
    >
      <b style={{ fontSize: 'var(--t-title)' }}>A recorded break</b>
      <span className="muted" style={{ maxWidth: 520 }}>
        Drop a recording of drums anywhere, or choose one. Its strokes become hits on these lanes, with their
        timing and loudness; what is doubtful is shown hollow. The recording itself is never changed.
      </span>
      <ChooseRecording primary />
      <span className="lab">WAV, FLAC or MP3</span>
    </div>
  );
}

export function BreakFace({ project }: { project: Project }) {
  const recording = useBench(currentRecording);
  const chosen = useBench((s) => s.lane);
  const [page, setPage] = useState(0);
  const [ref, size] = useSize<HTMLDivElement>();
  const lanes = useMemo(() => shownLanes(project.map), [project]);
  const picture = usePicture(project.id, recording);
  const pages = Math.ceil((recording?.heard.bars ?? 1) / barsShown);
  const at = Math.min(page, pages - 1);
  useEffect(() => {
    const to = (p: number) => Math.min(pages - 1, Math.max(0, p));
    const turn = (e: Event) => setPage((p) => to(p + (e as CustomEvent<number>).detail));
    // a moment is brought into view
    const show = (e: Event) => {
      const s = useBench.getState();
      const r = currentRecording(s);
      if (!r) return;
      const beat = r.beats.findLastIndex((t) => t <= (e as CustomEvent<number>).detail + 0.01);
      setPage(to(Math.floor(beat / (r.heard.meter.beats * barsShown))));
    };
    window.addEventListener('hexachord-page', turn);
    window.addEventListener('hexachord-show', show);
    return () => {
      window.removeEventListener('hexachord-page', turn);
      window.removeEventListener('hexachord-show', show);
    };
  }, [pages]);
  useBreakKeys(recording, lanes);
  useEffect(() => () => endGroove('back'), []);
  const laneNow = lanes.find((l) => l.note === chosen);
  const v = useMemo(() => recording && viewOf(recording, at, size.width), [recording, at, size.width]);
  return (
    <>
      <MapBar project={project} />
      <BreakTools project={project} recording={recording} page={at} pages={pages} turn={setPage} />
      <Transport />
      {recording && v ? (
        <BreakCrown r={recording} v={v} picture={picture} lanes={lanes} chosen={chosen} />
      ) : (
        <div className="crown">
          <svg className="fill" width={size.width} height={72}>
            <line
              x1={14}
              x2={size.width - 14}
              y1={36}
              y2={36}
              stroke="var(--rule-strong)"
              strokeDasharray="3 3"
            />
            <text x={size.width / 2} y={30} textAnchor="middle">
              The recording shows here
            </text>
          </svg>
        </div>
      )}
      <LaneHead />
      <div className="ruler" ref={ref}>
        {recording && v && <BreakRuler r={recording} v={v} />}
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={lanes} />
        {recording && v ? (
          <BreakStage r={recording} v={v} picture={picture} lanes={lanes} chosen={chosen} />
        ) : (
          <EmptyBreak />
        )}
      </div>
      {recording ? (
        <>
          {laneNow ? <ListenerPanel lane={laneNow} r={recording} /> : <div className="stripside" />}
          <div className="strip breakstrip">
            <Doubt r={recording} lanes={project.map.lanes} />
            <CleanUp r={recording} lane={laneNow} />
            <Keep key={recording.id} project={project} r={recording} />
          </div>
        </>
      ) : (
        <>
          <div className="stripside" />
          <div className="strip" />
        </>
      )}
    </>
  );
}
