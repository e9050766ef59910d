// How the pad edited plays, whatever its layers are.
import { RestSlider } from '../app/RestSlider';
import { NumberField } from '../app/NumberField';
import { Select } from 'antd';
import { Choice } from '../app/Choice';
import { useState } from 'react';
import type { Lane, Pad, Project } from '../api/client';
import { useBench } from '../app/state';
import { chosenNotes, kitEdit, padOf } from './state';

function Line({
  name,
  value,
  min,
  max,
  step,
  set,
  show,
}: {
  name: string;
  value: number;
  min: number;
  max: number;
  step: number;
  set: (v: number) => void;
  show: (v: number) => string;
}) {
  const [now, setNow] = useState<number | null>(null);
  return (
    <>
      <span className="lab">{name}</span>
      <span className="row" style={{ gap: 6 }}>
        <RestSlider
          name={name}
          style={{ width: 92 }}
          min={min}
          max={max}
          step={step}
          value={value}
          moving={setNow}
          set={set}
        />
        <NumberField
          name={name}
          size="small"
          variant="borderless"
          controls={false}
          style={{ width: 74 }}
          min={min}
          max={max}
          value={now ?? value}
          formatter={(v) => show(Number(v))}
          parser={(v) => Number((v ?? '').replace('−', '-').replace(/[^0-9.-]/g, ''))}
          set={(v) => v !== null && set(v)}
        />
      </span>
    </>
  );
}

const signed = (v: number, digits: number) =>
  `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(digits)}`;

export function PadSettings({ project, lane }: { project: Project; lane: Lane }) {
  const pad = padOf(project, lane.note);
  const also = useBench((s) => s.alsoLanes);
  const several = chosenNotes(lane.note);
  const set = (part: Partial<Pad>, label: string) =>
    void kitEdit({
      op: 'pads',
      put: several.map((n) => ({ ...padOf(project, n), ...part })),
      label: several.length > 1 ? `${label} of ${several.length} pads` : `${label} of ${lane.name}`,
    });
  const members = (g: number) =>
    project.kit.pads
      .filter((p) => p.choke === g && p.note !== lane.note)
      .map((p) => project.map.lanes.find((l) => l.note === p.note)?.code ?? String(p.note));
  // an open hat beside a closed one wants to be in its group
  const hats = ['closed hat', 'open hat', 'pedal hat'];
  const offer =
    hats.includes(lane.role) && pad.choke === 0
      ? project.map.lanes
          .filter((l) => l.note !== lane.note && hats.includes(l.role))
          .map((l) => padOf(project, l.note).choke)
          .find((g) => g > 0)
      : undefined;
  return (
    <div className="padsettings" data-several={also.length > 0 ? several.length : 1}>
      <span className="lab">Play</span>
      <Choice
        name="How the pad plays"

        value={pad.held ? 'Held' : 'One-shot'}
        options={['One-shot', 'Held']}
        onChange={(v) => set({ held: v === 'Held' }, v)}
      />
      <span className="lab">Choke group</span>
      <span className="row" style={{ gap: 4 }}>
        <Select
          size="small"
          style={{ width: 102 }}
          aria-label="Choke group"
          value={pad.choke}
          options={Array.from({ length: 17 }, (_, g) => ({
            value: g,
            label:
              g === 0
                ? 'none'
                : `${g}${members(g).length > 0 ? `, ${members(g).slice(0, 3).join(' ')}` : ''}`,
          }))}
          onChange={(choke: number) => set({ choke }, 'Choke group')}
        />
        {offer === undefined ? (
          <button
            type="button"
            className={`ms wide ${pad.selfChoke ? 'on' : ''}`}
            aria-pressed={pad.selfChoke}
            title="A new stroke cuts the pad's own last one"
            onClick={() => set({ selfChoke: !pad.selfChoke }, 'Self-choke')}
          >
            cuts itself
          </button>
        ) : (
          <button
            type="button"
            className="ms wide on"
            title="Let the hats cut each other"
            onClick={() => set({ choke: offer, selfChoke: true }, 'Choke group')}
          >
            join {offer}
          </button>
        )}
      </span>
      <Line
        name="Tune"
        min={-48}
        max={48}
        step={0.01}
        value={pad.semitones}
        show={(v) => `${signed(v, 2)} st`}
        set={(v) => set({ semitones: v }, 'Tune')}
      />
      <Line
        name="Level"
        min={-60}
        max={12}
        step={0.5}
        value={pad.levelDB}
        show={(v) => `${signed(v, 1)} dB`}
        set={(v) => set({ levelDB: v }, 'Level')}
      />
      <Line
        name="Pan"
        min={-100}
        max={100}
        step={1}
        value={Math.round(pad.pan * 100)}
        show={(v) => `${v}`}
        set={(v) => set({ pan: v / 100 }, 'Pan')}
      />
      <Line
        name="Velocity"
        min={0}
        max={100}
        step={1}
        value={pad.velTrack}
        show={(v) => `${v} %`}
        set={(v) => set({ velTrack: v }, 'Velocity tracking')}
      />
    </div>
  );
}
