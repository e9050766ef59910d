import { Button } from 'antd';
import { useCallback, useEffect, useMemo } from 'react';
import { useAnswer } from '../app/useAnswer';
import { actionFor, type KeyLike } from '../app/actions';
import { player } from '../player/player';
import { useFaceKeys } from '../app/face';
import { api, type Lane, type Picture, type Project, type Recording } from '../api/client';
import { currentRecording, editHits, shownLanes, useBench } from '../app/state';
import { Transport } from '../app/Transport';
import { useRows } from '../app/useRows';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { AgainBar } from './Again';
import { BreakRuler } from './BreakRuler';
import { BreakCrown } from './BreakCrown';
import { BreakStage } from './BreakStage';
import { viewOf } from './view';
import { BreakTools, ChooseRecording } from './BreakTools';
import { endGroove, otherSide, useGroove } from './groove';
import { Keep } from './Keep';
import { bringOwnBreak } from './listen';
import { ListenerPanel } from './Listener';
import { CleanUp, Doubt } from './Review';
import {
  compareLane,
  compareLoud,
  hearAround,
  judge,
  pagesOf,
  useBreak,
  chooseSeveral,
  chosenHits,
  copyChosen,
  pasteCopied,
  stepHit,
  zoomBy,
  addHit,
  moveHit,
  toAttack,
} from './state';
import { tap } from './tap';

/** The recording drawn small, fetched anew when its grid changes. */
function usePicture(project: string, r: Recording | null): Picture | null {
  const of = r ? `${r.id} ${r.heard.barOneS} ${r.endS}` : '';
  const id = r?.id;
  const columns = Math.min(4096, Math.max(16, Math.ceil((r?.heard.bars ?? 1) / 2) * 976));
  const ask = useCallback(
    async () => ({
      of,
      p: await api.getPicture({ path: { project, recording: id ?? '' }, query: { columns } }),
    }),
    [project, id, of, columns],
  );
  const picture = useAnswer(id ? ask : null);
  return picture?.of === of ? picture.p : null;
}

/** What the keys of Break do; keys.ts names them. */
function useBreakKeys(r: Recording | null, lanes: Lane[]) {
  const take = useCallback(
    (e: KeyLike) => {
      const id = actionFor('break', e);
      if (!r || !id) return false;
      const { chosen } = useBreak.getState();
      const h = r.heard.hits[chosen];
      const louder = (by: number) =>
        h &&
        void editHits(
          r.id,
          { op: 'louder', hits: chosenHits(r), velocity: by },
          chosenHits(r).length > 1
            ? `Velocity of ${chosenHits(r).length} heard hits`
            : 'Velocity of a heard hit',
        );
      const toLane = (by: number) => {
        const to = lanes[lanes.findIndex((l) => l.note === r.lanes[chosen]) + by];
        if (h && to)
          void editHits(
            r.id,
            { op: 'lane', hits: chosenHits(r), lane: to.note },
            chosenHits(r).length > 1
              ? `Move ${chosenHits(r).length} heard hits to ${to.name}`
              : `Move a heard hit to ${to.name}`,
          );
      };
      const does: Record<string, () => unknown> = {
        keep: () => judge(r, 'keep'),
        other: () => judge(r, 'other'),
        'take-out': () => judge(r, h?.state === 'out' ? 'back' : 'out'),
        'hear-hit': () => h && hearAround(r, h.time),
        'add-hit': () => {
          const at = player.last ? r.heard.barOneS + player.atS() : undefined;
          if (at !== undefined) void addHit(r, at, useBench.getState().lane);
        },
        early: () => h && moveHit(r, chosen, h.time - 0.001, null, false),
        late: () => h && moveHit(r, chosen, h.time + 0.001, null, false),
        nearer: () => zoomBy(r, 1),
        farther: () => zoomBy(r, -1),
        'attack-before': () => h && void toAttack(r, chosen, -1),
        'attack-after': () => h && void toAttack(r, chosen, 1),
        louder: () => louder(4),
        softer: () => louder(-4),
        'louder-1': () => louder(1),
        'softer-1': () => louder(-1),
        'hit-before': () => stepHit(r, lanes, -1, 0, false),
        'hit-after': () => stepHit(r, lanes, 1, 0, false),
        'lane-above': () => stepHit(r, lanes, 1, -1, false),
        'lane-below': () => stepHit(r, lanes, 1, 1, false),
        'also-before': () => stepHit(r, lanes, -1, 0, true),
        'also-after': () => stepHit(r, lanes, 1, 0, true),
        all: () =>
          chooseSeveral(
            r.heard.hits.flatMap((x, i) =>
              r.lanes[i] === useBench.getState().lane && x.state !== 'out' ? [i] : [],
            ),
          ),
        copy: () => copyChosen(r),
        paste: () => pasteCopied(r),
        'hit-up': () => toLane(-1),
        'hit-down': () => toLane(1),
        ab: () => (useGroove.getState().tried ? otherSide() : void compareLoud(r)),
        'ab-lane': () => void compareLane(r),
        tap: () => tap(r),
      };
      does[id]?.();
      return true;
    },
    [r, lanes],
  );
  useFaceKeys(take);
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
      <span className="row">
        <ChooseRecording />
        <Button data-id="own-break" onClick={() => void bringOwnBreak()}>
          Take the bench’s own break
        </Button>
      </span>
      <span className="lab">WAV, AIFF, FLAC or MP3; the microphone above records one</span>
    </div>
  );
}

export function BreakFace({ project }: { project: Project }) {
  const current = useBench(currentRecording);
  const again = useBreak((b) => (b.again && b.again.of === current?.id ? b.again : null));
  // what was heard again is looked at, not edited
  const recording = again?.shown === 'again' ? again.heard.recording : current;
  const chosen = useBench((s) => s.lane);
  const page = useBreak((b) => b.page);
  const zoom = useBreak((b) => b.zoom);
  const [ref, size] = useSize<HTMLDivElement>();
  const lanes = useMemo(() => shownLanes(project.map), [project]);
  const picture = usePicture(project.id, recording);
  const pages = recording ? pagesOf(recording) : 1;
  const at = Math.min(page, pages - 1);
  useBreakKeys(again ? null : current, lanes);
  useEffect(() => () => endGroove('back'), []);
  const laneNow = lanes.find((l) => l.note === chosen);
  const rowH = useRows(lanes.length, recording ? 206 : 98);
  const v = useMemo(
    () => recording && viewOf(recording, at, zoom, size.width, rowH),
    [recording, at, zoom, size.width, rowH],
  );
  return (
    <>
      <MapBar project={project} />
      <BreakTools
        project={project}
        recording={recording}
        page={at}
        pages={pages}
        zoom={zoom}
        turn={(to: number) => useBreak.setState({ page: to })}
      />
      <Transport />
      {recording && v ? (
        <BreakCrown
          r={recording}
          v={v}
          closeUp={zoom < 2 || recording.heard.bars > 8 * zoom}
          picture={picture}
          lanes={lanes}
          chosen={chosen}
        />
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
          <BreakStage r={recording} v={v} picture={picture} lanes={lanes} chosen={chosen} again={again} />
        ) : (
          <EmptyBreak />
        )}
      </div>
      {again && current ? (
        <>
          <div className="stripside" />
          <div className="strip">
            <AgainBar recording={current} />
          </div>
        </>
      ) : recording ? (
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
