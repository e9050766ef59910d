// Samples that were dropped, with where they would go. Nothing is written until “Lay out”.
import { Button, InputNumber, Segmented, Select, Switch } from 'antd';
import { type Lane, type LayoutOptions, type Project, type Row } from '../api/client';
import { Transport } from '../app/Transport';
import { LaneColumn } from '../lanes/LaneColumn';
import { Chip } from '../lanes/marks';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { codeOf, familyOf, kinds } from '../shelf/kinds';
import { Mini } from '../shelf/Mini';
import { hear } from '../shelf/state';
import { useSample } from './peaks';
import { type Dropping, endDrop, padOf, planDrop, useSounds } from './state';

const why: Record<string, string> = {
  loop: 'a loop',
  same: 'the kit sounds it already',
  full: 'no free note is left',
  unwanted: 'no lane wanted',
  name: 'its name tells no kind',
};

function Thumb({ hash, w = 46 }: { hash: string; w?: number }) {
  const s = useSample(hash);
  return (
    <button type="button" className="thumb" title={`Hear ${s?.name ?? ''}`} onClick={() => void hear(hash)}>
      {s && <Mini peaks={s.facts.peaks} w={w} h={20} />}
    </button>
  );
}

function Chips({ dropping }: { dropping: Dropping }) {
  const { plan, parts } = dropping;
  const lane = new Map<number, { code: string; family: string }>();
  for (const r of plan?.rows ?? [])
    for (const s of r.samples) lane.set(s, { code: r.lane.code, family: r.lane.color });
  const w = Math.min(54, Math.max(16, (976 - parts.length * 5) / parts.length));
  return (
    <div className="dropchips">
      {parts.slice(0, 45).map((p, i) => {
        const to = lane.get(i);
        const left = plan?.left.find((l) => l.sample === i);
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a sample is its place in the drop
          <div key={i} className={`f-${to?.family ?? 'other'} ${left ? 'left' : ''}`}>
            <Thumb hash={p.hash} w={w - 6} />
            <span className={plan?.doubtful.includes(i) ? 'b' : 'lab'}>
              {plan?.doubtful.includes(i) ? '? ' : ''}
              {to?.code ?? (left ? left.why : '')}
            </span>
          </div>
        );
      })}
    </div>
  );
}

function PlanRow({
  project,
  lane,
  row,
  dropping,
}: {
  project: Project;
  lane: Lane;
  row: Row | undefined;
  dropping: Dropping;
}) {
  const pad = padOf(project, lane.note);
  const { options, plan } = dropping;
  const set = (how: Row['how']) =>
    void planDrop({ options: { ...options, how: { ...options.how, [String(lane.note)]: how } } });
  return (
    <div className={`planrow f-${lane.color} ${row ? '' : 'idle'}`}>
      <span className="c1">
        {pad.layers.slice(0, 4).map((l, i) => (
          // oxlint-disable-next-line react/no-array-index-key -- a layer is its place in the ladder
          <Thumb key={i} hash={l.sounds[0]?.takes[0]?.sample ?? ''} w={26} />
        ))}
        {pad.layers.length === 0 && <span className="lab">nothing yet</span>}
      </span>
      {row ? (
        <>
          <span aria-hidden="true">→</span>
          <span className="c2">
            {row.samples.slice(0, 3).map((s) => (
              <Thumb key={s} hash={dropping.parts[s]?.hash ?? ''} w={34} />
            ))}
            <span className="ellipsis" style={{ maxWidth: 150 }}>
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
          {row.full ? (
            <Segmented
              size="small"
              value={row.how}
              options={[
                { value: 'replace', label: 'Replace' },
                { value: 'layer', label: 'Add layer' },
                { value: 'stack', label: 'Stack' },
              ]}
              onChange={set}
            />
          ) : (
            <span className="lab">first sounds of this lane</span>
          )}
          <span className="grow" />
          <svg width={138} height={22} aria-label={`${row.pad.layers.length} layers then`}>
            {row.pad.layers.map((l, i) => {
              const x = ((l.lo - 1) * 136) / 127;
              const w = Math.max(2, ((l.hi - l.lo + 1) * 136) / 127 - 2);
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
        <span className="lab">nothing; stays as it is</span>
      )}
    </div>
  );
}

/** The first sample whose kind is doubtful: hear it and say what it is. */
function Doubtful({ dropping }: { dropping: Dropping }) {
  const { plan, options, names, parts } = dropping;
  const at = plan?.doubtful[0];
  const sample = useSample(at === undefined ? undefined : parts[at]?.hash);
  if (!plan || at === undefined)
    return (
      <div className="dropcol">
        <span className="ttl">Nothing is doubtful</span>
        <span className="lab">Every sample’s kind is clear from its name and sound.</span>
      </div>
    );
  const say = (kind: string) =>
    void planDrop({ options: { ...options, kinds: { ...options.kinds, [String(at)]: kind } } });
  const guesses = sample?.guesses.slice(0, 3) ?? [];
  return (
    <div className="dropcol">
      <span className="row">
        <span className="tag doubt">? {plan.doubtful.length} doubtful</span>
        <b className="ellipsis">{names[at]}</b>
        <Thumb hash={parts[at]?.hash ?? ''} w={60} />
      </span>
      {guesses.map((g) => (
        <span key={g.kind} className={`row f-${familyOf(g.kind)}`}>
          <Chip code={codeOf(g.kind)} family={familyOf(g.kind)} w={25} h={20} />
          <Button size="small" style={{ width: 110 }} onClick={() => say(g.kind)}>
            It is {g.kind === 'other' ? 'other' : `a ${g.kind}`}
          </Button>
          <svg width={90} height={8}>
            <rect width={90} height={8} fill="var(--paper-sunk)" />
            <rect width={90 * g.confidence} height={8} fill="var(--c)" />
          </svg>
          <span className="num">{Math.round(g.confidence * 100)}%</span>
        </span>
      ))}
      <Select
        size="small"
        style={{ width: 140 }}
        placeholder="Another kind"
        value={null}
        options={kinds.map((k) => ({ value: k, label: k }))}
        onChange={(k: string | null) => k && say(k)}
      />
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
  const n = plan ? parts.length - plan.left.length : 0;
  const rows = new Map((plan?.rows ?? []).map((r) => [r.lane.note, r]));
  const fresh = plan?.rows.filter((r) => r.new) ?? [];
  const opt = (o: Partial<LayoutOptions>) => void planDrop({ options: { ...options, ...o } });
  const all = (how: Row['how']) =>
    opt({ how: Object.fromEntries((plan?.rows ?? []).map((r) => [String(r.lane.note), how])) });
  return (
    <>
      <MapBar project={project} />
      <div className="tools pending" data-id="dropping">
        <b>{parts.length === 1 ? '1 sample' : `${parts.length} samples`}</b>
        <span className="lab">from {dropping.from}. Nothing is changed yet.</span>
        <span className="sep" />
        <span className="lab">Lay out by</span>
        <Segmented
          size="small"
          value={options.by}
          options={[
            { value: 'kind', label: 'kind' },
            { value: 'name', label: 'name' },
            { value: 'order', label: 'order dropped' },
          ]}
          onChange={(by) => opt({ by: by as LayoutOptions['by'] })}
        />
        <span className="grow" />
        <Button ghost data-id="leave-drop" onClick={() => endDrop(false)}>
          Leave
        </Button>
        <Button data-id="lay-out" disabled={n === 0} onClick={() => endDrop(true)}>
          Lay out {n}
        </Button>
      </div>
      <Transport />
      <div className="crown">
        <Chips dropping={dropping} />
      </div>
      <LaneHead />
      <div className="ruler planhead">
        <span className="lab">Sits there now</span>
        <span className="lab" style={{ left: 176 }}>
          Arrives
        </span>
        <span className="lab" style={{ left: 486 }}>
          Heard as
        </span>
        <span className="lab" style={{ left: 606 }}>
          If something sits there
        </span>
        <span className="lab" style={{ right: 18 }}>
          Then, over velocity 1–127
        </span>
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={lanes} />
        <div>
          {lanes.map((l) => (
            <PlanRow key={l.note} project={project} lane={l} row={rows.get(l.note)} dropping={dropping} />
          ))}
        </div>
      </div>
      <div className="stripside" style={{ padding: '9px 12px' }}>
        <span className="ttl">When a lane is full</span>
        <dl className="means">
          <dt>Replace</dt>
          <dd>new sounds alone; old ones go to the shelf</dd>
          <dt>Add layer</dt>
          <dd>each takes a share of the velocities, by loudness</dd>
          <dt>Stack</dt>
          <dd>new over old, both sound on every hit</dd>
        </dl>
        <div className="row" style={{ gap: 5 }}>
          <Button size="small" onClick={() => all('replace')}>
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
      <div className="strip droprow">
        <Doubtful dropping={dropping} />
        <div className="dropcol">
          <span className="row">
            <span className="ttl">No lane yet</span>
            <span className="lab">
              {fresh.length > 0 ? 'go to free pads as new lanes' : 'every sample has its lane'}
            </span>
          </span>
          {fresh.slice(0, 4).map((r) => (
            <span key={r.lane.note} className="row">
              <Chip code={r.lane.code} family={r.lane.color} w={25} h={20} />
              <span className="ellipsis" style={{ width: 92 }}>
                {r.lane.name}
              </span>
              <span className="lab">{r.lane.role}</span>
              <InputNumber
                size="small"
                disabled
                controls={false}
                style={{ width: 44 }}
                value={r.lane.note}
                aria-label="Note"
              />
              <Button
                size="small"
                type="text"
                onClick={() => opt({ noLane: { ...options.noLane, [String(r.lane.note)]: true } })}
              >
                not this
              </Button>
            </span>
          ))}
          {(fresh.length > 0 || options.percussion) && (
            <span className="row">
              <Switch
                size="small"
                checked={options.percussion ?? false}
                aria-label="Send them to percussion"
                onChange={(percussion) => opt({ percussion })}
              />
              <span>make no lanes, send them to percussion</span>
            </span>
          )}
        </div>
        <div className="dropcol" style={{ borderRight: 0 }}>
          <span className="row">
            <span className="ttl">Not laid out</span>
            <span className="lab">{plan && plan.left.length > 0 ? 'stay on the shelf' : 'nothing'}</span>
          </span>
          {plan?.left.slice(0, 4).map((l) => (
            <span key={l.sample} className="row">
              <span className="ellipsis" style={{ width: 120 }}>
                {dropping.names[l.sample]}
              </span>
              <span className="lab">{why[l.why]}</span>
              {l.why === 'loop' && (
                <Button
                  size="small"
                  onClick={() => {
                    endDrop(false);
                    useSounds.setState({ cutting: parts[l.sample]?.hash ?? '' });
                  }}
                >
                  Cut
                </Button>
              )}
            </span>
          ))}
          {plan?.left.some((l) => l.why === 'same') && (
            <span className="row">
              <Switch
                size="small"
                checked={options.again ?? false}
                aria-label="Use them anyway"
                onChange={(again) => opt({ again })}
              />
              <span>use what the kit has anyway</span>
            </span>
          )}
          <span className="row">
            <Switch
              size="small"
              checked={dropping.hear}
              aria-label="Hear the beat as it would be"
              onChange={(h) => void planDrop({ hear: h })}
            />
            <span>Hear the beat as it would be</span>
          </span>
        </div>
      </div>
    </>
  );
}
