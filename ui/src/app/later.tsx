// Lists and menus, drawn shut until their code is here: it comes right after the first view, or when one is pressed before.
import type { DropdownProps, SelectProps } from 'antd';
import { type ReactNode, useState, useSyncExternalStore } from 'react';
import { notFetched } from './lazily';

type Lists = {
  Select: typeof import('antd/es/select').default;
  Dropdown: typeof import('antd/es/dropdown').default;
};

let lists: Lists | null = null;
let asked: Promise<void> | null = null;
const watchers = new Set<() => void>();

/** Fetches what opens lists and menus, once. */
export function fetchLists(): Promise<void> {
  asked ??= Promise.all([import('antd/es/select'), import('antd/es/dropdown')]).then(
    ([select, dropdown]) => {
      lists = { Select: select.default, Dropdown: dropdown.default };
      for (const changed of watchers) changed();
    },
    () => {
      asked = null; // tried again when one is pressed
      notFetched();
    },
  );
  return asked;
}

function useLists(): Lists | null {
  return useSyncExternalStore(
    (changed) => {
      watchers.add(changed);
      return () => watchers.delete(changed);
    },
    () => lists,
  );
}

type Option = { value?: unknown; label?: ReactNode; options?: Option[] };

function labelOf(options: Option[], value: unknown): ReactNode {
  for (const o of options) {
    const label = o.options ? labelOf(o.options, value) : o.value === value ? o.label : undefined;
    if (label !== undefined) return label;
  }
  return undefined;
}

/** The component library's Select. Pressed before its code is here, it opens when it comes. */
export function Select<Value>(props: SelectProps<Value>) {
  const now = useLists();
  const [pressed, press] = useState(false);
  const [entered, enter] = useState(false);
  if (now) return <now.Select<Value> defaultOpen={pressed} autoFocus={entered} {...props} />;
  const open = () => {
    press(true);
    props.onOpenChange?.(true);
    void fetchLists();
  };
  return (
    <button
      type="button"
      role="combobox"
      aria-expanded={false}
      aria-label={props['aria-label']}
      data-id={(props as { 'data-id'?: string })['data-id']}
      data-later
      className={`shutlist ${props.size === 'small' ? 'small' : ''}`}
      style={props.style}
      disabled={props.disabled ?? false}
      onFocus={() => enter(true)}
      onBlur={() => enter(false)}
      onClick={open}
    >
      <span className="ellipsis">
        {labelOf(props.options ?? [], props.value) ?? String(props.value ?? '')}
      </span>
      <svg viewBox="0 0 10 10" width="9" height="9" aria-hidden="true">
        <path d="M1 3l4 4 4-4" fill="none" stroke="currentColor" />
      </svg>
    </button>
  );
}

/** The component library's Dropdown around what opens it. */
export function Dropdown(props: DropdownProps) {
  const now = useLists();
  return now ? <now.Dropdown {...props} /> : props.children;
}
