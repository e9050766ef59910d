import { Button, Input, Select, Slider } from 'antd';
import { useEffect, useMemo, useState } from 'react';
import { api, type Lane, type Picture, type Project, type RecordingView } from '../api/client';
import { currentRecording, explain, keepPattern, say, shownLanes, useBench } from '../app/state';
import { Transport } from '../app/Transport';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { Chip } from '../lanes/marks';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { BreakCrown, BreakRuler, BreakStage, barsShown, doubtful, viewOf } from './BreakStage';
import { BreakTools, ChooseRecording } from './BreakTools';

/** The recording drawn small, fetched anew when its grid changes. */
function usePicture(project: string, r: RecordingView | null): Picture | null {
  const [picture, setPicture] = useState<{ of: string; p: Picture } | null>(null);
  const of = r ? `${r.id} ${r.heard.barOneS} ${r.endS}` : '';
  const id = r?.id;
  const columns = Math.min(4096, Math.max(16, Math.ceil((r?.heard.bars ?? 1) / barsShown) * 976));
  useEffect(() => {
    if (!id) return undefined;
    let wanted = true;
    api
      .picture(project, id, columns)
      .then((p) => wanted && setPicture({ of, p }))
      .catch((e: unknown) => say(explain(e)));
    return () => {
      wanted = false;
    };
  }, [project, id, of, columns]);
  return picture?.of === of ? picture.p : null;
}

function LaneCount({ lane, r }: { lane: Lane | undefined; r: RecordingView }) {
  if (!lane) return <div className="stripside" />;
  const hits = r.heard.hits.filter((_, i) => r.lanes[i] === lane.note);
  const weak = hits.filter((h) => h.confidence < doubtful).length;
  const hardest = hits.reduce((v, h) => Math.max(v, h.velocity), 0);
  const softest = hits.reduce((v, h) => Math.min(v, h.velocity), 127);
  return (
    <div className="stripside">
      <div className="row" style={{ padding: '8px 10px 0' }}>
        <Chip code={lane.code} family={lane.color} />
        <span className="ttl">{lane.name}</span>
      </div>
      <div style={{ padding: '8px 12px', display: 'grid', gap: 6 }}>
        {hits.length === 0 ? (
          <span className="lab">Nothing was heard for this lane.</span>
        ) : (
          <>
            <span>
              <b>{hits.length}</b> hits heard{weak > 0 ? `, ${weak} doubtful` : ''}
            </span>
            <span>
              velocities <b>{softest}</b> to <b>{hardest}</b>
            </span>
          </>
        )}
      </div>
    </div>
  );
}

/** How many hits each lane got: what one looks over before keeping. */
function Summary({ lanes, r }: { lanes: Lane[]; r: RecordingView }) {
  const rows = lanes
    .map((l) => {
      const hits = r.heard.hits.filter((_, i) => r.lanes[i] === l.note);
      return { l, n: hits.length, weak: hits.filter((h) => h.confidence < doubtful).length };
    })
    .filter((x) => x.n > 0);
  const most = Math.max(1, ...rows.map((x) => x.n));
  return (
    <div style={{ padding: '8px 14px', width: 400 }}>
      <div className="ttl" style={{ marginBottom: 6 }}>
        Heard on the lanes{' '}
        <span className="lab" title="How far the hits stand off the grid, on average">
          grid within {Math.max(1, Math.round(r.heard.gridErrorMS))} ms
        </span>
      </div>
      <div
        style={{
          display: 'grid',
          gridTemplateColumns: '28px 118px 1fr 92px',
          gap: '2px 8px',
          alignItems: 'center',
        }}
      >
        {rows.slice(0, 7).map(({ l, n, weak }) => (
          <div key={l.note} style={{ display: 'contents' }}>
            <Chip code={l.code} family={l.color} w={25} h={20} />
            <span>{l.name}</span>
            <div style={{ height: 8, background: 'var(--paper-sunk)' }} className={`f-${l.color}`}>
              <div style={{ height: 8, width: `${(100 * n) / most}%`, background: 'var(--c)' }} />
            </div>
            <span className="num" style={{ whiteSpace: 'nowrap' }}>
              {n}
              {weak > 0 && <span className="lab"> {weak} doubtful</span>}
            </span>
          </div>
        ))}
      </div>
    </div>
  );
}

function Keep({ r }: { r: RecordingView }) {
  const base = r.name.replace(/\.[^.]*$/, '');
  const [name, setName] = useState(base);
  const [grid, setGrid] = useState('1/16');
  const [strength, setStrength] = useState(0);
  const homeless = r.lanes.filter((n) => n < 0).length;
  const weak = r.heard.hits.filter((h) => h.confidence < doubtful).length;
  return (
    <div style={{ padding: '8px 14px', display: 'grid', gap: 8, alignContent: 'start' }}>
      <div className="row">
        <span className="ttl">{r.heard.hits.length - homeless} hits ready</span>
        {weak > 0 && <span className="tag doubt">? {weak} doubtful</span>}
        {homeless > 0 && <span className="lab">{homeless} have no lane</span>}
      </div>
      <div className="row">
        <span className="lab" style={{ width: 74 }}>
          New pattern
        </span>
        <Input
          size="small"
          style={{ width: 200 }}
          value={name}
          aria-label="Name of the new pattern"
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <div className="row">
        <span className="lab" style={{ width: 74 }}>
          Quantise
        </span>
        <Slider
          style={{ width: 110 }}
          min={0}
          max={100}
          value={strength}
          tooltip={{ open: false }}
          ariaLabelForHandle="Quantise strength"
          onChange={setStrength}
        />
        <span className="num" style={{ width: 88 }}>
          {strength === 0 ? 'as played' : `${strength}% to`}
        </span>
        <Select
          size="small"
          style={{ width: 70 }}
          aria-label="Quantise to"
          disabled={strength === 0}
          value={grid}
          options={['1/8', '1/8t', '1/16', '1/16t', '1/32'].map((v) => ({ value: v, label: v }))}
          onChange={setGrid}
        />
      </div>
      <div className="row">
        <Button
          type="primary"
          data-id="keep"
          onClick={() => void keepPattern(r.id, { name: name.trim() || base, grid, strength })}
        >
          Keep as pattern
        </Button>
        <span className="lab">MIDI hits on your lanes, velocity and timing kept</span>
      </div>
    </div>
  );
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
    const turn = (e: Event) =>
      setPage((p) => Math.min(pages - 1, Math.max(0, p + (e as CustomEvent<number>).detail)));
    window.addEventListener('hexachord-page', turn);
    return () => window.removeEventListener('hexachord-page', turn);
  }, [pages]);
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
          <LaneCount lane={lanes.find((l) => l.note === chosen)} r={recording} />
          <div className="strip row" style={{ alignItems: 'stretch', gap: 0 }}>
            <Summary lanes={lanes} r={recording} />
            <div style={{ width: 1, margin: '12px 0', background: 'var(--rule-strong)' }} />
            <Keep key={recording.id} r={recording} />
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
