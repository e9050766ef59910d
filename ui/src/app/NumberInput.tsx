import { InputNumber, type InputNumberProps } from 'antd';
import { useEffect, useRef, useState } from 'react';

/** See NumberField. */
export function NumberInput({
  value,
  set,
  name,
  empty = false,
  ...rest
}: {
  value: number | null;
  set: (v: number | null) => void;
  /** what the field is called */
  name: string;
  /** an emptied field means null, else it stays as it was */
  empty?: boolean;
} & Omit<InputNumberProps<number>, 'value' | 'onChange' | 'aria-label'>) {
  const [draft, setDraft] = useState<{ v: number | null } | null>(null);
  const newest = useRef<{ v: number | null } | null>(null);
  const rest_ = useRef(0);
  const take = (d: { v: number | null } | null) => {
    newest.current = d;
    setDraft(d);
  };
  const commit = () => {
    window.clearTimeout(rest_.current);
    const d = newest.current;
    take(null);
    if (!d || (d.v === null && !empty)) return;
    const v = d.v === null ? null : Math.min(rest.max ?? d.v, Math.max(rest.min ?? d.v, d.v));
    if (v !== value) set(v);
  };
  useEffect(() => () => window.clearTimeout(rest_.current), []);
  return (
    <InputNumber<number>
      {...rest}
      aria-label={name}
      value={draft ? draft.v : value}
      onChange={(v) => take({ v })}
      onStep={() => {
        window.clearTimeout(rest_.current);
        rest_.current = window.setTimeout(commit, 600);
      }}
      onBlur={() => window.setTimeout(commit, 0)} // after the field has brought what was typed into its range
      onKeyDown={(e) => {
        if (e.key === 'Escape') take(null);
        if (e.key === 'Escape' || e.key === 'Enter') e.currentTarget.blur();
      }}
    />
  );
}
