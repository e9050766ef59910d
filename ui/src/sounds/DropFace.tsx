// Samples that were dropped, with where they would go. Nothing is written until “Lay out”.
import { Button, Switch } from 'antd';
import { Choice } from '../app/Choice';
import { useState } from 'react';
import { type Lane, type LayoutOptions, type Project, type Row } from '../api/client';
import { Transport } from '../app/Transport';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { Mini } from '../shelf/Mini';
import { hear } from '../shelf/state';
import { DropStrip } from './DropStrip';
import { usePartPeaks } from './peaks';
import { optionsWith, ownLane, PlanThumb, usePlanDrop } from './plan';
import { type Dropping, endDrop, padOf, planDrop, useSounds } from './state';

/** A sound that sits on a lane now. */
function There({ hash, start, end }: { hash: string; start: number; end: number }) {
  const peaks = usePartPeaks({ sample: hash, startFrame: start, endFrame: end });
  return (
    <button
      type="button"
      className="thumb"
      title="Hear it"
      onClick={() => void hear(hash, end > 0 ? { start, end } : {})}
    >
      {peaks && <Mini peaks={peaks} w={26} h={20} />}
    </button>
  );
}

function Chips({
  dropping,
  chosen,
  choose,
}: {
  dropping: Dropping;
  chosen: number;
  choose: (at: number) => void;
}) {
  const { plan, parts } = dropping;
  const lane = new Map<number, { code: string; family: string }>();
  for (const r of plan?.rows ?? [])
    for (const s of r.samples) lane.set(s, { code: r.lane.code, family: r.lane.color });
  const w = Math.min(54, Math.max(16, (976 - parts.length * 5) / parts.length));
  return (
    <div className="dropchips">
      {parts.slice(0, 45).map((_, i) => {
        const to = lane.get(i);
        const left = plan?.left.find((l) => l.sample === i);
        return (
          <div
            // oxlint-disable-next-line react/no-array-index-key -- a sample is its place in the drop
            key={i}
            className={`f-${to?.family ?? 'other'} ${left ? 'left' : ''} ${i === chosen ? 'on' : ''}`}
          >
            <PlanThumb dropping={dropping} at={i} w={w - 6} choose={choose} />
            <span className={plan?.doubtful.includes(i) ? 'b' : 'lab'}>
              {plan?.doubtful.includes(i) ? '? ' : ''}
              {to?.code ?? (left ? 'out' : '')}
            </span>
          </div>
        );
      })}
    </div>
  );
}

/** What becomes of a lane that sounds already, or of samples beside such a lane. */
function How({ row, dropping }: { row: Row; dropping: Dropping }) {
  const { options, plan } = dropping;
  const note = row.full ? row.lane.note : row.beside;
  const beside = row.full ? undefined : plan?.map.lanes.find((l) => l.note === row.beside);
  if (!row.full && (!beside || padLayers(dropping, row.beside) === 0))
    return <span className="lab">{row.new ? 'a new lane' : 'first sounds of this lane'}</span>;
  const set = (how: string) => {
    const lane = { ...options.lane };
    const hows = { ...options.how };
    if (how === 'own') delete hows[String(note)];
    else hows[String(note)] = how;
    for (const s of row.samples) lane[String(s)] = how === 'own' ? ownLane : note;
    optionsWith(options, { how: hows, lane });
  };
  return (
    <Choice
      name="How it comes to the lane"

      value={row.full ? row.how : 'own'}
      title={beside ? `Beside ${beside.name}, another drum of its kind` : ''}
      options={[
        { value: 'own', label: 'Own lane' },
        { value: 'replace', label: 'Replace' },
        { value: 'layer', label: 'Layer' },
        { value: 'stack', label: 'Stack' },
      ]}
      onChange={set}
    />
  );
}

const padLayers = (d: Dropping, note: number) =>
  d.before.kit.pads.find((p) => p.note === note)?.layers.length ?? 0;

function PlanRow({
  project,
  lane,
  row,
  dropping,
  choose,
}: {
  project: Project;
  lane: Lane;
  row: Row | undefined;
  dropping: Dropping;
  choose: (at: number) => void;
}) {
  const pad = padOf(project, lane.note);
  const { plan } = dropping;
  const { over, target } = usePlanDrop(dropping, lane.note);
  return (
    <div
      className={`planrow f-${lane.color} ${row ? '' : 'idle'} ${over ? 'over' : ''}`}
      data-plan={lane.note}
      {...target}
    >
      <span className="c1">
        {pad.layers.slice(0, 4).map((l, i) => {
          const t = l.sounds[0]?.takes[0];
          return (
            <There
              // oxlint-disable-next-line react/no-array-index-key -- a layer is its place in the ladder
              key={i}
              hash={t?.sample ?? ''}
              start={t?.shape.startFrame ?? 0}
              end={t?.shape.endFrame ?? 0}
            />
          );
        })}
        {pad.layers.length === 0 && <span className="lab">{row?.new ? 'a new lane' : 'nothing yet'}</span>}
      </span>
      {row ? (
        <>
          <span aria-hidden="true">→</span>
          <span className="c2">
            {row.samples.slice(0, 2).map((s) => (
              <PlanThumb key={s} dropping={dropping} at={s} w={34} choose={choose} />
            ))}
            <span className="ellipsis" style={{ maxWidth: 156 }}>
              {dropping.names[row.samples[0] ?? 0]?.replace(/\.[^.]*$/, '')}
            </span>
            {row.samples.length > 1 && <span className="lab">{row.samples.length} files</span>}
          </span>
          <span className="c3">
            {row.samples.some((s) => plan?.doubtful.includes(s)) ? (
              <span className="tag doubt">? {lane.role}</span>
            ) : (
              <span className="lab">{lane.role}</span>
            )}
          </span>
          <How row={row} dropping={dropping} />
          <span className="grow" />
          <svg width={120} height={22} aria-label={`${row.pad.layers.length} layers then`}>
            {row.pad.layers.map((l, i) => {
              const x = ((l.lo - 1) * 118) / 127;
              const w = Math.max(2, ((l.hi - l.lo + 1) * 118) / 127 - 2);
              const fresh = l.sounds.some((s) =>
                s.takes.some((t) => row.samples.some((k) => dropping.parts[k]?.hash === t.sample)),
              );
              return (
                // oxlint-disable-next-line react/no-array-index-key -- a layer is its place in the ladder
                <g key={i}>
                  <rect
                    x={x + 1}
                    y={1}
                    width={w}
                    height={l.sounds.length > 1 ? 9 : 20}
                    rx={2}
                    fill={fresh ? 'var(--c)' : 'none'}
                    stroke="var(--e)"
                  />
                  {l.sounds.length > 1 && (
                    <rect x={x + 1} y={12} width={w} height={9} rx={2} fill="none" stroke="var(--e)" />
                  )}
                </g>
              );
            })}
          </svg>
        </>
      ) : (
        <span className="lab">{over ? 'let go here' : 'nothing; stays as it is'}</span>
      )}
    </div>
  );
}

export function DropFace({
  project,
  lanes,
  dropping,
}: {
  project: Project;
  lanes: Lane[];
  dropping: Dropping;
}) {
  const { plan, options, parts } = dropping;
  const [picked, setPicked] = useState(-1);
  const n = plan ? parts.length - plan.left.length : 0;
  const rows = new Map((plan?.rows ?? []).map((r) => [r.lane.note, r]));
  // lanes that would be made stand where they will; hidden ones only when something arrives there
  const shown = plan
    ? plan.map.lanes.filter((l) => rows.has(l.note) || lanes.some((x) => x.note === l.note))
    : lanes;
  const all = (how: Row['how']) => {
    const notes = (plan?.rows ?? []).map((r) => (r.full || r.beside < 0 ? r.lane.note : r.beside));
    optionsWith(options, { how: Object.fromEntries(notes.map((note) => [String(note), how])), lane: {} });
  };
  const chosen = picked >= 0 ? picked : (plan?.doubtful[0] ?? 0);
  return (
    <>
      <MapBar project={project} />
      <div className="tools pending" data-id="dropping">
        <b>{parts.length === 1 ? '1 sample' : `${parts.length} samples`}</b>
        <span className="lab">from {dropping.from}. Nothing is changed yet.</span>
        <span className="sep" />
        <span className="lab">Lay out by</span>
        <Choice
          name="Lay out by"

          value={options.by}
          options={[
            { value: 'kind', label: 'kind' },
            { value: 'name', label: 'name' },
            { value: 'order', label: dropping.loop ? 'one a pad, in order' : 'one a pad' },
            ...(parts.some((p) => p.endFrame)
              ? []
              : [
                  {
                    value: 'pitch',
                    label: 'pitch',
                    title: 'The note in the name: an instrument sampled note by note',
                  },
                ]),
          ]}
          onChange={(by) => optionsWith(options, { by: by as LayoutOptions['by'], lane: {} })}
        />
        {dropping.loop && (
          <>
            <span className="sep" />
            <Switch
              size="small"
              checked={dropping.withLoop}
              aria-label="With a pattern that plays them as the recording did"
              data-id="with-loop"
              onChange={(withLoop) => useSounds.setState({ dropping: { ...dropping, withLoop } })}
            />
            <span title="A pattern that plays the pieces at their places in the recording">
              as a pattern, {dropping.loop.bpm.toFixed(1)} BPM
            </span>
          </>
        )}
        <span className="grow" />
        <Switch
          size="small"
          checked={dropping.hear}
          aria-label="Hear the beat as it would be"
          onChange={(h) => void planDrop({ hear: h })}
        />
        <span>Hear it so</span>
        <Button ghost data-id="leave-drop" onClick={() => endDrop(false)}>
          Leave
        </Button>
        <Button data-id="lay-out" disabled={n === 0} onClick={() => endDrop(true)}>
          Lay out {n}
        </Button>
      </div>
      <Transport />
      <div className="crown">
        <Chips dropping={dropping} chosen={chosen} choose={setPicked} />
      </div>
      <LaneHead />
      <div className="ruler planhead">
        <span className="lab">Sits there now</span>
        <span className="lab" style={{ left: 176 }}>
          Arrives: drag it where it belongs
        </span>
        <span className="lab" style={{ left: 446 }}>
          As
        </span>
        <span className="lab" style={{ left: 540 }}>
          Beside a drum of its kind
        </span>
        <span className="lab" style={{ right: 18 }}>
          Then, by velocity
        </span>
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={shown} />
        <div>
          {shown.map((l) => (
            <PlanRow
              key={l.note}
              project={project}
              lane={l}
              row={rows.get(l.note)}
              dropping={dropping}
              choose={setPicked}
            />
          ))}
        </div>
      </div>
      <div className="stripside" style={{ padding: '9px 12px' }}>
        <span className="ttl">When a drum of its kind is there</span>
        <dl className="means">
          <dt>Own lane</dt>
          <dd>a row of its own; both stay</dd>
          <dt>Replace</dt>
          <dd>the old stays on the shelf</dd>
          <dt>Layer</dt>
          <dd>share velocities, by loudness</dd>
          <dt>Stack</dt>
          <dd>both sound on every hit</dd>
        </dl>
        <div className="row" style={{ gap: 5 }}>
          <Button size="small" data-id="replace-all" onClick={() => all('replace')}>
            Replace all
          </Button>
          <Button size="small" onClick={() => all('layer')}>
            Layer all
          </Button>
          <Button size="small" onClick={() => all('stack')}>
            Stack all
          </Button>
        </div>
      </div>
      <DropStrip dropping={dropping} chosen={chosen} choose={setPicked} />
    </>
  );
}
