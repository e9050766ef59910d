// What the stages of an output have in common: a switch with a name, and fields.
import { Switch } from 'antd';
import type { MixOutput } from '../api/client';
import { NumberField } from '../app/NumberField';

export type Stage = 'gate' | 'compressor' | 'saturation' | 'equaliser';

export interface StageOf {
  o: MixOutput;
  at: number;
  change: (stage: Stage, to: MixOutput[Stage], label: string) => void;
}

interface FieldOf {
  name: string;
  unit: string;
  min: number;
  max: number;
  step?: number;
  value: number;
  set: (v: number) => void;
}

export const Fields = ({ of }: { of: FieldOf[] }) => (
  <div className="fields" style={of.length === 1 ? { gridTemplateColumns: '1fr' } : {}}>
    {of.map((f) => (
      <label key={f.name}>
        {f.name} {f.unit}
        <NumberField
          size="small"
          style={{ width: '100%' }}
          controls={false}
          name={`${f.name}${f.unit ? `, ${f.unit}` : ''}`}
          min={f.min}
          max={f.max}
          step={f.step ?? 1}
          value={f.value}
          set={(v) => v !== null && f.set(v)}
        />
      </label>
    ))}
  </div>
);

export function Head({
  name,
  on,
  set,
  children,
}: {
  name: string;
  on: boolean;
  set: (on: boolean) => void;
  children?: React.ReactNode;
}) {
  return (
    <div className="row" style={{ gap: 8 }}>
      <Switch size="small" checked={on} aria-label={`${name} on`} onChange={set} />
      <b>{name}</b>
      <span className="grow" />
      {children}
    </div>
  );
}
