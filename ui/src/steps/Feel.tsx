// What is laid over every pattern when it plays, beside the swing: lanes that lean, strokes left to chance.
import { Button, InputNumber, Popover, Select, Slider } from 'antd';
import { useState } from 'react';
import type { Feel, Lane, Project } from '../api/client';
import { editSettings, useBench } from '../app/state';

function Amount({
  name,
  value,
  min,
  max,
  unit,
  take,
}: {
  name: string;
  value: number;
  min: number;
  max: number;
  unit: string;
  take: (v: number) => void;
}) {
  const [moving, setMoving] = useState<number | null>(null);
  return (
    <>
      <Slider
        style={{ width: 150, margin: '0 8px' }}
        min={min}
        max={max}
        value={moving ?? value}
        tooltip={{ open: false }}
        ariaLabelForHandle={`${name}, slider`}
        onChange={setMoving}
        onChangeComplete={(v: number) => {
          setMoving(null);
          take(v);
        }}
      />
      <InputNumber
        size="small"
        style={{ width: 62 }}
        aria-label={name}
        min={min}
        max={max}
        value={moving ?? value}
        onChange={(v) => v !== null && v !== value && take(v)}
      />
      <span className="muted">{unit}</span>
    </>
  );
}

const signed = (ms: number) => `${ms > 0 ? '+' : ms < 0 ? '−' : ''}${Math.abs(ms)}`;

function Panel({ project }: { project: Project }) {
  const note = useBench((s) => s.lane);
  const { feel } = project.settings;
  const { humanise, swing } = feel;
  const leans = feel.laneLeanMS ?? {};
  const lane: Lane | undefined = project.map.lanes.find((l) => l.note === note);
  const leaning = project.map.lanes.filter((l) => leans[l.note] && l.note !== note);
  const save = (change: Partial<Feel>, label: string) =>
    void editSettings({ feel: { ...feel, ...change } }, label);
  return (
    <div className="lanetools feel" data-id="feel-panel">
      <div className="row">
        <b>Laid over every pattern as it plays; the hits stay as written</b>
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
            unit="ms later"
            take={(ms) =>
              save({ laneLeanMS: { ...leans, [lane.note]: ms } }, `${lane.name} leans ${signed(ms)} ms`)
            }
          />
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
        <span className="lab">Chance</span>
        <Button
          size="small"
          disabled={humanise.timeMS === 0 && humanise.velocity === 0}
          title="The same strokes vary otherwise; the bounce sounds like what you hear"
          onClick={() =>
            save(
              { humanise: { ...humanise, seed: Math.floor(Math.random() * 2 ** 32) } },
              'Humanise another way',
            )
          }
        >
          Another way
        </Button>
        <span className="grow" />
        <Button
          size="small"
          onClick={() =>
            save(
              {
                swing: { ...swing, percent: 50 },
                laneLeanMS: {},
                humanise: { timeMS: 0, velocity: 0, seed: humanise.seed },
              },
              'No feel',
            )
          }
        >
          Straight, no feel
        </Button>
      </div>
    </div>
  );
}

export function FeelTools({ project }: { project: Project }) {
  const { humanise, laneLeanMS } = project.settings.feel;
  const on =
    humanise.timeMS > 0 || humanise.velocity > 0 || Object.values(laneLeanMS ?? {}).some((ms) => ms !== 0);
  return (
    <Popover trigger="click" placement="bottom" content={<Panel project={project} />}>
      <Button data-id="feel" title="Lanes early or late, humanise, what swings">
        {on ? 'Feel on…' : 'Feel…'}
      </Button>
    </Popover>
  );
}
