// The patterns of the project: find, name, colour, tag, copy, compare.
import { CloseOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Input, Select } from 'antd';
import { memo, useMemo, useRef, useState } from 'react';
import type { Lane, Pattern, Project } from '../api/client';
import { choosePattern, deletePattern, editAnyPattern, editPattern, useBench } from '../app/state';
import { barTicks } from '../model/time';
import { hex, Poly } from '../lanes/marks';
import { families, Swatch } from '../lanes/Swatch';
import { compareWith, copyPattern, newPattern, seed, useReady } from './state';
import { Thumb } from './Thumb';

/** Two joined beads: a linked copy. */
const Linked = () => (
  <svg width={20} height={10} aria-label="linked: edits mirror" role="img">
    <line x1={5} x2={15} y1={5} y2={5} stroke="var(--ink)" />
    <Poly pts={hex(5, 5, 8, 7)} fill="var(--ink)" />
    <Poly pts={hex(15, 5, 8, 7)} fill="var(--ink)" />
  </svg>
);

const Row = memo(function Row({
  id,
  p,
  lanes,
  on,
}: {
  id: string;
  p: Pattern;
  lanes: ReadonlyMap<number, Lane>;
  on: boolean;
}) {
  const marks = p.hits.map((h) => ({ lane: lanes.get(h.note), tick: h.tick, velocity: h.velocity }));
  return (
    <button
      type="button"
      className={`patternrow ${on ? 'on' : ''} ${p.hits.length === 0 ? 'empty' : ''}`}
      data-pattern={p.name}
      onClick={() => choosePattern(id)}
    >
      {p.hits.length > 0 ? (
        <Thumb marks={marks} length={p.bars * barTicks(p)} />
      ) : (
        <span className="nothing">empty</span>
      )}
      <span className="grow ellipsis">
        <b>{p.name}</b>
        <span className="lab">
          {p.bars === 1 ? '1 bar' : `${p.bars} bars`}
          {p.hits.length > 0 ? `, ${p.hits.length} hits` : ''}
          {p.tags && p.tags.length > 0 ? ` · ${p.tags.join(', ')}` : ''}
        </span>
      </span>
      {p.link ? <Linked /> : null}
      {p.color ? <Swatch family={p.color} /> : null}
    </button>
  );
});

/** What is done to the pattern chosen. */
function Chosen({ id, pattern, project }: { id: string; pattern: Pattern; project: Project }) {
  const bar = useBench((s) => s.bar);
  const comparison = useReady((s) => s.comparison);
  const other = useReady((s) => s.compareWith);
  const [name, setName] = useState<string | null>(null);
  const shape = (change: { name?: string; color?: string; tags?: string[] }, label: string) =>
    void editAnyPattern(id, { op: 'shape', ...change, label });
  const one = (op: 'vary' | 'fillbar', label: string) => void editPattern({ op, bar, seed: seed(), label });
  return (
    <div className="chosenpattern">
      <div className="row">
        <Input
          size="small"
          aria-label="Name of the pattern"
          data-id="pattern-name"
          value={name ?? pattern.name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={(e) => e.currentTarget.blur()}
          onBlur={() => {
            if (name && name.trim() !== '' && name !== pattern.name)
              shape({ name: name.trim() }, `Rename ${pattern.name} to ${name.trim()}`);
            setName(null);
          }}
        />
        <Select
          size="small"
          style={{ width: 96 }}
          aria-label="Colour"
          value={pattern.color ?? ''}
          options={[
            { value: '', label: 'no colour' },
            ...families.map((f) => ({
              value: f,
              label: <Swatch family={f} name={f} />,
            })),
          ]}
          onChange={(color: string) => shape({ color }, `Colour of ${pattern.name}`)}
        />
      </div>
      <Select
        size="small"
        mode="tags"
        style={{ width: '100%' }}
        placeholder="tags"
        aria-label="Tags"
        value={pattern.tags ?? []}
        onChange={(tags: string[]) => shape({ tags }, `Tags of ${pattern.name}`)}
      />
      <div className="row wrap">
        <Button size="small" onClick={() => copyPattern(false)}>
          Copy
        </Button>
        <Button
          size="small"
          data-id="linked-copy"
          title="Edits of one are made in the other"
          onClick={() => copyPattern(true)}
        >
          Linked copy
        </Button>
        {pattern.link ? (
          <Button
            size="small"
            title="From here on it stands alone"
            onClick={() => void editPattern({ op: 'shape', link: '', label: `Unlink ${pattern.name}` })}
          >
            Unlink
          </Button>
        ) : null}
        <Button
          size="small"
          disabled={pattern.bars > 32}
          onClick={() => void editPattern({ op: 'double', label: `Double ${pattern.name}` })}
        >
          Double
        </Button>
        <Button size="small" onClick={() => one('vary', `Vary bar ${bar + 1}`)}>
          Vary bar {bar + 1}
        </Button>
        <Button size="small" data-id="fill-bar" onClick={() => one('fillbar', `A fill in bar ${bar + 1}`)}>
          Fill in bar {bar + 1}
        </Button>
        <Button
          size="small"
          disabled={pattern.hits.length === 0}
          onClick={() =>
            void editPattern({ op: 'clear', fromBar: 0, toBar: pattern.bars, label: `Clear ${pattern.name}` })
          }
        >
          Clear
        </Button>
        <Button
          size="small"
          disabled={project.patterns.length < 2}
          title="Undo brings it back"
          onClick={() => void deletePattern(id)}
        >
          Delete
        </Button>
      </div>
      <div className="row">
        <span className="lab">Compare with</span>
        <Select
          size="small"
          className="grow"
          showSearch
          optionFilterProp="label"
          aria-label="Compare with"
          value={other}
          options={[
            { value: '', label: 'nothing' },
            ...project.patterns.filter((p) => p.id !== id).map((p) => ({ value: p.id, label: p.value.name })),
          ]}
          onChange={(v: string) => void compareWith(v)}
        />
      </div>
      {comparison && (
        <div className="lab" data-id="comparison">
          {comparison.same} hits the same, {comparison.changed.length} played otherwise,{' '}
          {comparison.onlyA.length} only here, {comparison.onlyB.length} only there (small on the stage)
        </div>
      )}
    </div>
  );
}

const atATime = 150;

export function PatternsDrawer({ project }: { project: Project }) {
  const patternId = useBench((s) => s.patternId);
  const [text, setText] = useState('');
  const [tag, setTag] = useState('');
  const [most, setMost] = useState(atATime);
  const list = useRef<HTMLDivElement>(null);
  const { patterns, map } = project;
  const lanes = useMemo(() => new Map(map.lanes.map((l) => [l.note, l])), [map]);
  const tags = [...new Set(patterns.flatMap((p) => p.value.tags ?? []))].toSorted();
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = patterns.filter(
    (p) =>
      (tag === '' || p.value.tags?.includes(tag)) &&
      words.every((w) =>
        `${p.value.name} ${(p.value.tags ?? []).join(' ')} ${p.value.color ?? ''}`.toLowerCase().includes(w),
      ),
  );
  const chosen = patterns.find((p) => p.id === patternId);
  return (
    <aside className="drawer" data-id="patterns" aria-label="Patterns">
      <div className="row head">
        <h2>Patterns</h2>
        <span className="lab">
          {found.length === patterns.length ? patterns.length : `${found.length} of ${patterns.length}`} in{' '}
          {project.name}
        </span>
        <span className="grow" />
        <Button
          type="text"
          size="small"
          aria-label="Shut"
          icon={<CloseOutlined />}
          onClick={() => useBench.setState({ panel: '' })}
        />
      </div>
      <div className="row pads">
        <Input
          prefix={<SearchOutlined />}
          placeholder="Name, tag or colour"
          value={text}
          onChange={(e) => setText(e.target.value)}
          allowClear
        />
        <Button data-id="new-pattern" title="Shift+T" onClick={newPattern}>
          New
        </Button>
      </div>
      {tags.length > 0 && (
        <div className="row wrap pads">
          {['', ...tags].map((t) => (
            <button
              key={t}
              type="button"
              className={`tagchip ${t === tag ? 'on' : ''}`}
              onClick={() => setTag(t)}
            >
              {t || 'all'}
            </button>
          ))}
        </div>
      )}
      <div className="list" ref={list}>
        {found.slice(0, most).map((p) => (
          <Row key={p.id} id={p.id} p={p.value} lanes={lanes} on={p.id === patternId} />
        ))}
        {found.length > most && (
          <Button type="text" block onClick={() => setMost(most + atATime)}>
            {found.length - most} more
          </Button>
        )}
        {found.length === 0 && (
          <p className="lab pads">No pattern is called so. Clear the search, or make a new one.</p>
        )}
      </div>
      {chosen && <Chosen key={chosen.id} id={chosen.id} pattern={chosen.value} project={project} />}
    </aside>
  );
}
