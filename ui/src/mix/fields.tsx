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

/** A number that may be set: its key, what it is called, its unit, least, most, step. */
export type Row<T> = [
  key: keyof T & string,
  name: string,
  unit: string,
  min: number,
  max: number,
  step?: number,
];

/** Fields of the numbers of one thing, which is called so in the history. */
export function Fields<T extends object>({
  word,
  of,
  rows,
  put,
}: {
  word: string;
  of: T;
  rows: Row<T>[];
  put: (to: Partial<T>, label: string) => void;
}) {
  return (
    <div className="fields" style={rows.length === 1 ? { gridTemplateColumns: '1fr' } : {}}>
      {rows.map(([key, name, unit, min, max, step]) => (
        <label key={key}>
          {name} {unit}
          <NumberField
            size="small"
            style={{ width: '100%' }}
            controls={false}
            name={`${name}, ${unit}`}
            min={min}
            max={max}
            step={step ?? 1}
            value={(of[key] as number | undefined) ?? 0}
            set={(v) =>
              v !== null && put({ [key]: v } as Partial<T>, `${word}: ${name.toLowerCase()} ${v} ${unit}`)
            }
          />
        </label>
      ))}
    </div>
  );
}

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
