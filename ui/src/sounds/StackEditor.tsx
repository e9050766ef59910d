// The sounds of one layer that sound together, and each sound's takes that sound in turn.
import { RestSlider } from '../app/RestSlider';
import { NumberField } from '../app/NumberField';
import { DeleteOutlined } from '@ant-design/icons';
import { Button, Input, Select, Switch } from 'antd';
import { useState } from 'react';
import type { Lane, Layer, Project, Sound } from '../api/client';
import { openShelf } from '../shelf/state';
import { TakeThumb } from './TakeThumb';
import { chooseTake, padOf, putPad, useSounds, withLayer } from './state';

function Knob({
  name,
  unit,
  value,
  min,
  max,
  step,
  set,
}: {
  name: string;
  unit: string;
  value: number;
  min: number;
  max: number;
  step: number;
  set: (v: number) => void;
}) {
  const [now, setNow] = useState<number | null>(null);
  return (
    <span className="row" style={{ gap: 4 }}>
      <RestSlider
        name={`${name}, ${unit}`}
        style={{ width: 62 }}
        min={min}
        max={max}
        step={step}
        value={value}
        moving={setNow}
        set={set}
      />
      <NumberField
        name={`${name}, ${unit}`}
        size="small"
        controls={false}
        style={{ width: 46 }}
        min={min}
        max={max}
        value={now ?? value}
        set={(v) => v !== null && set(v)}
      />
    </span>
  );
}

export function StackEditor({ project, lane }: { project: Project; lane: Lane }) {
  const at = useSounds();
  const pad = padOf(project, lane.note);
  const layer = pad.layers[at.layer];
  if (!layer) return null;
  const write = (l: Layer, label: string) =>
    void putPad(withLayer(pad, at.layer, l), `${label} of ${lane.name}`);
  const change = (i: number, part: Partial<Sound>, label: string) =>
    write({ ...layer, sounds: layer.sounds.map((s, j) => (j === i ? { ...s, ...part } : s)) }, label);
  return (
    <div className={`shape f-${lane.color}`} style={{ overflow: 'auto' }}>
      <div className="row" style={{ gap: 8, height: 30 }}>
        <b>
          Layer {at.layer + 1}:{' '}
          {layer.sounds.length === 1 ? 'one sound' : `a stack of ${layer.sounds.length} sounds`}
        </b>
        <span className="lab">
          all start on every hit from {layer.lo} to {layer.hi}
        </span>
        <span className="grow" />
        <span className="lab">Takes sound</span>
        <Select
          size="small"
          style={{ width: 104 }}
          aria-label="Order of takes"
          value={layer.order}
          options={[
            { value: 'turn', label: 'in turn' },
            { value: 'random', label: 'at random' },
          ]}
          onChange={(order: Layer['order']) => write({ ...layer, order }, 'Order of takes')}
        />
        <Button
          size="small"
          onClick={() => openShelf()}
          title="Choose on the shelf, then Put on…: stack or take"
        >
          + Sound
        </Button>
      </div>
      <div className="stack">
        <span />
        <span className="lab">For</span>
        <span className="lab">Takes</span>
        <span className="lab">Level, dB</span>
        <span className="lab">Pan</span>
        <span className="lab">Tune, st</span>
        <span />
        {layer.sounds.map((s, i) => (
          // oxlint-disable-next-line react/no-array-index-key -- a sound is its place in the stack
          <div key={i} style={{ display: 'contents' }}>
            <Switch
              size="small"
              checked={!s.off}
              aria-label={`Sound ${i + 1} on`}
              onChange={(on) => change(i, { off: !on }, on ? 'Switch on a sound' : 'Switch off a sound')}
            />
            <Input
              size="small"
              style={{ width: 92 }}
              placeholder={i === 0 ? 'body' : 'transient'}
              aria-label="What the sound is for"
              defaultValue={s.label}
              maxLength={24}
              onBlur={(e) =>
                e.target.value !== s.label && change(i, { label: e.target.value }, 'Name a sound')
              }
            />
            <span className="row" style={{ gap: 3 }}>
              {s.takes.map((t, k) => (
                <TakeThumb
                  // oxlint-disable-next-line react/no-array-index-key -- a take is its place in turn
                  key={k}
                  part={{ sample: t.sample, ...t.shape }}
                  name={t.source}
                  w={44}
                  on={at.sound === i && at.take === k}
                  choose={() => chooseTake(at.layer, i, k)}
                />
              ))}
            </span>
            <Knob
              name="Level"
              unit="dB"
              min={-60}
              max={12}
              step={0.5}
              value={s.levelDB}
              set={(v) => change(i, { levelDB: v }, 'Level')}
            />
            <Knob
              name="Pan"
              unit="left to right"
              min={-1}
              max={1}
              step={0.05}
              value={s.pan}
              set={(v) => change(i, { pan: v }, 'Pan')}
            />
            <Knob
              name="Tune"
              unit="semitones"
              min={-48}
              max={48}
              step={0.01}
              value={s.semitones}
              set={(v) => change(i, { semitones: v }, 'Tune')}
            />
            <Button
              size="small"
              type="text"
              icon={<DeleteOutlined />}
              aria-label={s.takes.length > 1 ? 'Take the chosen take out' : 'Take the sound out'}
              title={s.takes.length > 1 ? 'Take the chosen take out' : 'Take the sound out'}
              onClick={() => {
                const takes = s.takes.filter((_, k) => k !== (at.sound === i ? at.take : s.takes.length - 1));
                chooseTake(at.layer);
                if (takes.length > 0) change(i, { takes }, 'Take out a take');
                else if (layer.sounds.length > 1)
                  write({ ...layer, sounds: layer.sounds.filter((_, j) => j !== i) }, 'Take out a sound');
                else {
                  chooseTake(Math.max(0, at.layer - 1));
                  void putPad(
                    { ...pad, layers: pad.layers.filter((_, j) => j !== at.layer) },
                    `Take out a layer of ${lane.name}`,
                  );
                }
              }}
            />
          </div>
        ))}
      </div>
    </div>
  );
}
