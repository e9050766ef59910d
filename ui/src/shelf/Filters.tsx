import { Button, Select, Switch } from 'antd';
import { useBench } from '../app/state';
import { kinds } from './kinds';
import { look, useShelf } from './state';

/** What narrows the shelf down besides words. */
export function Filters() {
  const looking = useShelf((s) => s.looking);
  const facets = useShelf((s) => s.kinds);
  const tags = useShelf((s) => s.tags);
  const folders = useShelf((s) => s.folders);
  const projectId = useBench((s) => s.project?.id ?? '');
  const count = new Map(facets.map((f) => [f.value, f.count]));
  return (
    <>
      <div className="row" style={{ gap: 6 }}>
        <Select
          size="small"
          style={{ width: 108 }}
          aria-label="Kind"
          value={looking.kind ?? ''}
          options={[
            { value: '', label: 'any kind' },
            ...kinds
              .filter((k) => count.has(k) || k === looking.kind)
              .map((k) => ({ value: k, label: `${k} ${count.get(k) ?? ''}` })),
          ]}
          onChange={(kind: string) => void look({ kind })}
        />
        <Select
          size="small"
          style={{ width: 94 }}
          aria-label="Length"
          value={looking.maxSeconds ?? 0}
          options={[
            { value: 0, label: 'any length' },
            { value: 0.5, label: 'under ½ s' },
            { value: 2, label: 'under 2 s' },
            { value: 10, label: 'under 10 s' },
          ]}
          onChange={(maxSeconds: number) => void look({ maxSeconds })}
        />
        <Select
          size="small"
          style={{ width: 86 }}
          aria-label="Sort"
          value={looking.sort ?? 'name'}
          options={[
            { value: 'name', label: 'by name' },
            { value: 'brightness', label: 'dull first' },
            { value: 'length', label: 'short first' },
            { value: 'loudness', label: 'loud first' },
            { value: 'likeness', label: 'most alike', disabled: !looking.like },
          ]}
          onChange={(sort: string) => void look({ sort })}
        />
      </div>
      <div className="row" style={{ gap: 6 }}>
        <Select
          size="small"
          style={{ width: 108 }}
          aria-label="Source"
          value={looking.folder ?? ''}
          options={[
            { value: '', label: 'any source' },
            ...folders
              .filter((f) => f.value)
              .map((f) => ({ value: f.value, label: `${f.value} ${f.count}` })),
          ]}
          onChange={(folder: string) => void look({ folder })}
        />
        <Select
          size="small"
          style={{ width: 94 }}
          aria-label="Tag"
          value={looking.tag ?? ''}
          notFoundContent="no tags yet"
          options={[
            { value: '', label: 'any tag' },
            ...tags.map((t) => ({ value: t.value, label: `${t.value} ${t.count}` })),
          ]}
          onChange={(tag: string) => void look({ tag })}
        />
        <Switch
          size="small"
          checked={Boolean(looking.usedIn)}
          aria-label="Only what this kit sounds"
          onChange={(on) => void look({ usedIn: on ? projectId : '' })}
        />
        <span className="lab">in this kit</span>
      </div>
      {looking.like && (
        <div className="row" style={{ gap: 6 }}>
          <span className="tag">sounds like the one chosen</span>
          <Button size="small" type="text" onClick={() => void look({ like: '', sort: 'name' })}>
            Show all
          </Button>
        </div>
      )}
    </>
  );
}
