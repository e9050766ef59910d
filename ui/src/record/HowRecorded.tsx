// How what is played is recorded.
import { Button, Select, Slider, Switch } from 'antd';
import { Choice } from '../app/Choice';
import { currentPattern, useBench } from '../app/state';
import { NumberField } from '../app/NumberField';
import { grids } from '../model/time';
import { endRecording, record, useRecorder } from './recorder';
import { type ClickWhen, setRecord, useRecordSettings } from './settings';

const clickWhen: ClickWhen[] = ['off', 'counting in', 'recording', 'always'];

export function HowRecorded() {
  const s = useRecordSettings();
  const on = useRecorder((r) => r.on);
  const bars = useBench((b) => currentPattern(b)?.bars ?? 1);
  return (
    <section>
      <div className="row">
        <Button
          type={on ? 'primary' : 'default'}
          data-id="record-long"
          title="R"
          onClick={() => (on ? endRecording() : void record())}
        >
          {on ? 'End recording' : 'Record'}
        </Button>
        <Choice
          name="What recording does to what is there"

          data-id="record-mode"
          value={s.replace ? 'replace' : 'add'}
          options={[
            { value: 'add', label: 'adds', title: 'What is played comes on top' },
            {
              value: 'replace',
              label: 'replaces',
              title: 'From the moment a lane is played, what was on it gives way',
            },
          ]}
          onChange={(v) => setRecord({ replace: v === 'replace' })}
        />
      </div>
      <div className="row">
        <span className="lab cap">Quantise in</span>
        <Slider
          style={{ width: 84 }}
          min={0}
          max={100}
          step={5}
          value={s.strength}
          tooltip={{ open: false }}
          ariaLabelForHandle="Quantise what is played, percent"
          onChange={(strength: number) => setRecord({ strength })}
        />
        <span className="num">{s.strength === 0 ? 'as played' : `${s.strength}%`}</span>
        {s.strength > 0 && (
          <Select
            size="small"
            style={{ width: 76 }}
            aria-label="Quantise to"
            value={s.grid}
            options={[{ value: '', label: 'lane’s' }, ...grids.map((g) => ({ value: g, label: g }))]}
            onChange={(grid: string) => setRecord({ grid })}
          />
        )}
      </div>
      <div className="row">
        <span className="lab cap">While held</span>
        <Select
          size="small"
          style={{ width: 96 }}
          aria-label="Strokes while a key or pad is held"
          data-id="repeat"
          value={s.repeat}
          options={[
            { value: '', label: 'one stroke' },
            ...['1/8', '1/8t', '1/16', '1/16t', '1/32'].map((g) => ({ value: g, label: g })),
          ]}
          onChange={(repeat: string) => setRecord({ repeat })}
        />
        {s.repeat !== '' && (
          <>
            <span className="lab" title="Velocity from stroke to stroke">
              slope
            </span>
            <NumberField
              size="small"
              style={{ width: 48 }}
              name="Velocity from stroke to stroke"
              min={-32}
              max={32}
              controls={false}
              value={s.repeatSlope}
              set={(v) => v !== null && setRecord({ repeatSlope: v })}
            />
          </>
        )}
      </div>
      <div className="row">
        <span className="lab cap">Punch</span>
        <Switch
          size="small"
          data-id="punch"
          checked={s.punch !== null}
          aria-label="Record only some bars"
          onChange={(some) => setRecord({ punch: some ? [0, bars] : null })}
        />
        {s.punch ? (
          <>
            <span className="lab">bars</span>
            <NumberField
              size="small"
              style={{ width: 44 }}
              name="First bar that is recorded"
              min={1}
              max={bars}
              controls={false}
              value={s.punch[0] + 1}
              set={(v) => v && setRecord({ punch: [v - 1, Math.max(v, s.punch?.[1] ?? v)] })}
            />
            <span className="lab">to</span>
            <NumberField
              size="small"
              style={{ width: 44 }}
              name="Last bar that is recorded"
              min={s.punch[0] + 1}
              max={bars}
              controls={false}
              value={Math.min(bars, s.punch[1])}
              set={(v) => v && setRecord({ punch: [s.punch?.[0] ?? 0, v] })}
            />
          </>
        ) : (
          <span className="lab">all bars are recorded</span>
        )}
      </div>
      <div className="row">
        <span className="lab cap">Count-in</span>
        <Choice<number>
          name="Count-in"

          data-id="count-in"
          value={s.countIn}
          options={[
            { value: 0, label: 'none' },
            { value: 1, label: '1 bar' },
            { value: 2, label: '2 bars' },
          ]}
          onChange={(n) => setRecord({ countIn: n as 0 | 1 | 2 })}
        />
      </div>
      <div className="row">
        <span className="lab cap">Click</span>
        <Select
          size="small"
          style={{ width: 92 }}
          aria-label="When it clicks"
          value={s.click}
          options={clickWhen.map((v) => ({ value: v, label: v }))}
          onChange={(click: ClickWhen) => setRecord({ click })}
        />
        <Select
          size="small"
          style={{ width: 64 }}
          aria-label="Clicks a beat"
          value={s.clicksABeat}
          options={[
            { value: 1, label: 'beats' },
            { value: 2, label: 'halves' },
          ]}
          onChange={(n: 1 | 2) => setRecord({ clicksABeat: n })}
        />
        <Slider
          style={{ width: 32, margin: '0 6px' }}
          min={-36}
          max={0}
          value={s.clickDB}
          tooltip={{ open: false }}
          ariaLabelForHandle="Level of the click, dB"
          onChange={(clickDB: number) => setRecord({ clickDB })}
        />
      </div>
    </section>
  );
}
