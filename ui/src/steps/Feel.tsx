// What is laid over a pattern when it plays, beside the swing: a groove, lanes that lean, strokes left to chance. The
// project has a feel, and a pattern may have its own.
import { RestSlider } from '../app/RestSlider';
import { NumberField } from '../app/NumberField';
import { Button, Popover, Switch } from 'antd';
import { Dropdown, Select } from '../app/later';
import { Choice } from '../app/Choice';
import { useState } from 'react';
import {
  addresses,
  api,
  type Feel,
  type Groove,
  type Lane,
  type Pattern,
  type Project,
  type Share,
} from '../api/client';
import { midiFiles, useFiles } from '../app/PickFile';
import {
  addGroove,
  deleteGroove,
  editPattern,
  editSettings,
  explain,
  importGroove,
  renameGroove,
  say,
  useBench,
  writeFeel,
} from '../app/state';
import { gridTicks, ticksToMS } from '../model/time';
import { plainFeel } from '../patterns/inForce';

/** Saves a change of the feel where it belongs: with the pattern that has its own, or with the project. */
export function saveFeel(project: Project, pattern: Pattern, change: Partial<Feel>, label: string) {
  if (pattern.feel) void editPattern({ op: 'shape', feel: { ...pattern.feel, ...change }, label });
  else void editSettings({ feel: { ...project.settings.feel, ...change } }, label);
}

/** Begins the value of a ready groove in the list of grooves. */
const fromReady = 'ready ';

function Amount({
  name,
  value,
  min,
  max,
  unit,
  take,
  disabled,
}: {
  name: string;
  value: number;
  min: number;
  max: number;
  unit: string;
  take: (v: number) => void;
  disabled?: boolean;
}) {
  const [moving, setMoving] = useState<number | null>(null);
  const off = disabled ?? false;
  return (
    <>
      <RestSlider
        name={`${name}, slider`}
        style={{ width: 130, margin: '0 8px' }}
        min={min}
        max={max}
        value={value}
        disabled={off}
        moving={setMoving}
        set={take}
      />
      <NumberField
        name={name}
        size="small"
        style={{ width: 58 }}
        min={min}
        max={max}
        disabled={off}
        value={moving ?? value}
        set={(v) => v !== null && take(v)}
      />
      <span className="muted">{unit}</span>
    </>
  );
}

const signed = (ms: number) => `${ms > 0 ? '+' : ms < 0 ? '−' : ''}${Math.abs(ms)}`;

/** A groove in small: above the line early, below late; wide means loud. */
export function GroovePicture({ groove, bpm, w = 292 }: { groove: Groove; bpm: number; w?: number }) {
  const cell = gridTicks(groove.grid);
  const h = 54;
  const slot = w / groove.cells.length;
  const most = Math.max(24, ...groove.cells.map((c) => Math.abs(c.leanTicks)));
  const y = (ticks: number) => h / 2 + (ticks / most) * (h / 2 - 8);
  return (
    <svg width={w} height={h + 12} role="img" aria-label={`Leans and accents of ${groove.name}`}>
      <line x1={0} x2={w} y1={h / 2} y2={h / 2} stroke="var(--rule-strong)" />
      {groove.cells.map((c, i) => {
        const x = slot * (i + 0.5);
        const beat = (i * cell) % ((960 * 4) / groove.meter.unit) === 0;
        if (c.hits === 0)
          // oxlint-disable-next-line react/no-array-index-key -- a cell is its place
          return <circle key={i} cx={x} cy={h / 2} r={1.5} fill="var(--rule-strong)" />;
        const size = Math.min(slot - 2, 4 + 6 * c.level);
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a cell is its place
          <g key={i}>
            <title>{`cell ${i + 1}: ${signed(Math.round(ticksToMS(c.leanTicks, bpm)))} ms, ${Math.round(c.level * 100)} % as loud as its lane, ${c.hits} hits`}</title>
            <line x1={x} x2={x} y1={h / 2} y2={y(c.leanTicks)} stroke="var(--ink)" />
            <ellipse
              cx={x}
              cy={y(c.leanTicks)}
              rx={size / 2}
              ry={size / 2}
              fill={c.hits > 1 ? 'var(--ink)' : 'none'}
              stroke="var(--ink)"
              {...(c.hits > 1 ? {} : { strokeDasharray: '2 1' })}
            />
            <text x={x} y={h + 10} textAnchor="middle" style={{ fontSize: 9 }} className={beat ? 'b i' : ''}>
              {c.hits}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function GroovePart({
  project,
  pattern,
  feel,
  save,
}: {
  project: Project;
  pattern: Pattern;
  feel: Feel;
  save: (change: Partial<Feel>, label: string) => void;
}) {
  const patternId = useBench((s) => s.patternId);
  const { groove } = feel;
  const used = project.grooves.find((g) => g.id === groove.id)?.value;
  const put = (change: Partial<Feel['groove']>, label: string) =>
    save({ groove: { ...groove, ...change } }, label);
  const [ready, setReady] = useState<Groove[]>([]);
  /** Lays a groove over that has just been kept. */
  const useNewest = () => {
    const newest = useBench.getState().project?.grooves.at(-1);
    if (newest) put({ id: newest.id, time: 100, velocity: 50, noSwing: true }, `Groove ${newest.value.name}`);
  };
  const midi = useFiles({
    accept: midiFiles,
    id: 'groove-file',
    take: ([f]) => (f ? importGroove(f).then(useNewest) : Promise.resolve()),
  });
  return (
    <>
      <div className="row">
        <span className="lab">Groove</span>
        <Select
          size="small"
          style={{ width: 150 }}
          aria-label="Groove"
          data-id="groove"
          value={used ? groove.id : ''}
          onOpenChange={(open) => {
            if (open && ready.length === 0)
              api.listReadyGrooves().then(
                (r) => setReady(r.grooves),
                (e: unknown) => say(explain(e)),
              );
          }}
          options={[
            { value: '', label: 'none' },
            ...(project.grooves.length > 0
              ? [
                  {
                    label: 'Of this project',
                    options: project.grooves.map((g) => ({ value: g.id, label: g.value.name })),
                  },
                ]
              : []),
            {
              label: 'Ready',
              options: ready
                .filter((g) => !project.grooves.some((o) => o.value.name === g.name))
                .map((g) => ({ value: `${fromReady}${g.name}`, label: g.name })),
            },
          ].filter((o) => o.options === undefined || o.options.length > 0)}
          onChange={(id: string) => {
            const own = ready.find((g) => id === `${fromReady}${g.name}`);
            if (own) {
              void addGroove({ name: own.name, groove: own }).then(useNewest);
              return;
            }
            put(
              {
                id,
                ...(groove.time === 0 && groove.velocity === 0
                  ? { time: 100, velocity: 50, noSwing: true }
                  : {}),
              },
              id === ''
                ? 'No groove'
                : `Groove ${project.grooves.find((g) => g.id === id)?.value.name ?? ''}`,
            );
          }}
        />
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              {
                key: 'take',
                label: `Keep the groove of ${pattern.name}`,
                disabled: pattern.hits.length === 0,
              },
              { key: 'in', label: 'Import one from a MIDI file' },
              { key: 'out', label: 'Export this one as a MIDI file', disabled: !used },
              { key: 'delete', label: 'Delete this one', disabled: !used },
            ],
            onClick: ({ key }) => {
              if (key === 'take')
                void addGroove({ name: `${pattern.name} groove`, patternId }).then(useNewest);
              if (key === 'in') midi.open();
              if (key === 'out') window.location.assign(addresses.groove(project.id, groove.id));
              if (key === 'delete') void deleteGroove(groove.id);
            },
          }}
        >
          <Button size="small" data-id="groove-menu">
            Grooves…
          </Button>
        </Dropdown>
        {midi.input}
      </div>
      {used && (
        <>
          <GroovePicture groove={used} bpm={project.settings.bpm} />
          <div className="row">
            <span className="lab">its time</span>
            <Amount
              name="Groove time"
              value={groove.time}
              min={0}
              max={100}
              unit="%"
              take={(time) => put({ time }, `Groove time ${time} %`)}
            />
          </div>
          <div className="row">
            <span className="lab">its accents</span>
            <Amount
              name="Groove velocity"
              value={groove.velocity}
              min={0}
              max={100}
              unit="%"
              take={(velocity) => put({ velocity }, `Groove accents ${velocity} %`)}
            />
          </div>
          <div className="row">
            <span className="lab">Name</span>
            <input
              className="plain"
              aria-label="Name of the groove"
              key={used.name}
              defaultValue={used.name}
              onBlur={(e) => {
                const name = e.target.value.trim();
                if (name !== '' && name !== used.name) void renameGroove(groove.id, { ...used, name });
              }}
            />
            <Switch
              size="small"
              checked={groove.noSwing}
              aria-label="Set the swing aside"
              onChange={(noSwing) => put({ noSwing }, noSwing ? 'Swing set aside' : 'Swing with the groove')}
            />
            <span>swing set aside</span>
          </div>
        </>
      )}
    </>
  );
}

const follows: (keyof Share)[] = ['swing', 'groove', 'humanise'];

function Panel({ project, pattern }: { project: Project; pattern: Pattern }) {
  const note = useBench((s) => s.lane);
  const patternId = useBench((s) => s.patternId);
  const feel = pattern.feel ?? project.settings.feel;
  const { humanise, swing } = feel;
  const leans = feel.laneLeanMS ?? {};
  const lane: Lane | undefined = project.map.lanes.find((l) => l.note === note);
  const leaning = project.map.lanes.filter((l) => leans[l.note] && l.note !== note);
  const save = (change: Partial<Feel>, label: string) => saveFeel(project, pattern, change, label);
  const share = feel.shares?.[note] ?? { swing: 100, groove: 100, humanise: 100 };
  const whole = follows.every((k) => share[k] === 100);
  return (
    <div className="lanetools feel" data-id="feel-panel">
      <div className="row">
        <b>Laid over as it plays; the hits stay as written</b>
      </div>
      <div className="row">
        <span className="lab">Feel of</span>
        <Choice
          name="Feel of"

          value={pattern.feel ? 'own' : 'all'}
          options={[
            { value: 'all', label: 'every pattern' },
            { value: 'own', label: `${pattern.name} alone` },
          ]}
          onChange={(v) =>
            void editPattern(
              v === 'own'
                ? { op: 'shape', feel: project.settings.feel, label: `${pattern.name}: a feel of its own` }
                : { op: 'shape', ownFeel: false, label: `${pattern.name}: the project’s feel` },
            )
          }
        />
      </div>
      <div className="row">
        <span className="lab">Swing moves</span>
        <Select
          size="small"
          style={{ width: 180 }}
          aria-label="Swing at"
          value={swing.grid}
          options={[
            { value: '1/8', label: 'every second eighth' },
            { value: '1/16', label: 'every second sixteenth' },
          ]}
          onChange={(grid: string) => save({ swing: { ...swing, grid } }, `Swing at ${grid}`)}
        />
      </div>
      <GroovePart project={project} pattern={pattern} feel={feel} save={save} />
      {lane && (
        <div className="row">
          <span
            className="lab"
            title="Negative is early, positive late. Choose another lane to lean that one."
          >
            {lane.name} leans
          </span>
          <Amount
            key={lane.note}
            name={`${lane.name} leans`}
            value={leans[lane.note] ?? 0}
            min={-100}
            max={100}
            unit="ms late (− early)"
            take={(ms) =>
              save({ laneLeanMS: { ...leans, [lane.note]: ms } }, `${lane.name} leans ${signed(ms)} ms`)
            }
          />
        </div>
      )}
      {lane && (
        <div className="row">
          <span className="lab" title="How much of the swing, the groove and the chance this lane follows">
            its share of
          </span>
          {follows.map((k) => (
            <span key={k} className="row" style={{ gap: 4 }}>
              {k}
              <NumberField
                name={`${lane.name} follows ${k}`}
                size="small"
                style={{ width: 50 }}
                min={0}
                max={100}
                value={share[k]}
                set={(v) =>
                  v !== null &&
                  save(
                    { shares: { ...feel.shares, [lane.note]: { ...share, [k]: v } } },
                    `${lane.name} follows ${v} % ${k}`,
                  )
                }
              />
            </span>
          ))}
          <span className="muted">{whole ? '%' : '% only'}</span>
        </div>
      )}
      {leaning.length > 0 && (
        <div className="row">
          <span className="lab">And</span>
          <span className="wraps">
            {leaning.map((l) => `${l.name} ${signed(leans[l.note] ?? 0)} ms`).join(', ')}
          </span>
        </div>
      )}
      <div className="row">
        <span className="lab">Humanise time</span>
        <Amount
          name="Humanise time"
          value={humanise.timeMS}
          min={0}
          max={40}
          unit="ms each way"
          take={(timeMS) => save({ humanise: { ...humanise, timeMS } }, `Humanise by ${timeMS} ms`)}
        />
      </div>
      <div className="row">
        <span className="lab">and velocity</span>
        <Amount
          name="Humanise velocity"
          value={humanise.velocity}
          min={0}
          max={60}
          unit="each way"
          take={(velocity) =>
            save({ humanise: { ...humanise, velocity } }, `Humanise velocity by ${velocity}`)
          }
        />
      </div>
      <div className="row">
        <Button
          size="small"
          title="Humanising and the hits’ own chances fall another way, and stay so: the bounce sounds like what you hear"
          onClick={() =>
            save({ humanise: { ...humanise, seed: Math.floor(Math.random() * 2 ** 32) } }, 'Shuffle chance')
          }
        >
          Shuffle chance
        </Button>
        <Button
          size="small"
          onClick={() => save({ ...plainFeel(humanise.seed), swing: { ...swing, percent: 50 } }, 'No feel')}
        >
          No feel
        </Button>
        <span className="grow" />
        <Button
          size="small"
          data-id="write-feel"
          title="The hits move to where they sound now; undo puts them back (Shift+E)"
          onClick={() => void writeFeel(patternId)}
        >
          Write into the hits
        </Button>
      </div>
    </div>
  );
}

export function FeelTools({ project, pattern }: { project: Project; pattern: Pattern }) {
  const open = useBench((s) => s.panel === 'feel');
  const { humanise, laneLeanMS, groove } = pattern.feel ?? project.settings.feel;
  const on =
    humanise.timeMS > 0 ||
    humanise.velocity > 0 ||
    (groove.id !== '' && project.grooves.some((g) => g.id === groove.id)) ||
    Object.values(laneLeanMS ?? {}).some((ms) => ms !== 0);
  return (
    <Popover
      trigger="click"
      placement="bottom"
      open={open}
      onOpenChange={(o) => useBench.setState({ panel: o ? 'feel' : '' })}
      content={<Panel project={project} pattern={pattern} />}
    >
      <Button data-id="feel" title="Groove, lanes early or late, humanise, what swings (U)">
        {pattern.feel ? 'Own feel…' : on ? 'Feel on…' : 'Feel…'}
      </Button>
    </Popover>
  );
}
