// The shelf of all samples: a drawer that lies over the stage of any face.
import { CloseOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Dropdown, Input, Progress, Select, Slider, Switch } from 'antd';
import { type KeyboardEvent, memo, useEffect, useRef } from 'react';
import type { FoundSample, Project } from '../api/client';
import { shownLanes, useBench } from '../app/state';
import { useFiles } from '../app/PickFile';
import { Chip } from '../lanes/marks';
import { addTo, bringTo, endTry, planDrop, tryIt, useSounds } from '../sounds/state';
import {
  chooseSample,
  chosenSample,
  correct,
  hearItem,
  importSamples,
  look,
  openShelf,
  useShelf,
} from './state';
import { Filters } from './Filters';
import { codeOf, familyOf, kinds } from './kinds';

export const dragType = 'application/x-hexachord-samples';

const sampleFiles = '.wav,.aif,.aiff,.flac,.mp3,.ogg,.opus,.m4a,.zip,audio/*';

/** A sample drawn small. */
export const Mini = memo(function Mini({
  peaks,
  w = 60,
  h = 26,
}: {
  peaks: number[];
  w?: number;
  h?: number;
}) {
  const x = (i: number) => (i * w) / (peaks.length - 1);
  const up = peaks.map((p, i) => `${x(i).toFixed(1)},${(h / 2 - (p / 255) * (h / 2)).toFixed(1)}`);
  const down = peaks
    .map((p, i) => `${x(i).toFixed(1)},${(h / 2 + (p / 255) * (h / 2)).toFixed(1)}`)
    .toReversed();
  return (
    <svg width={w} height={h} aria-hidden="true">
      <polygon points={[...up, ...down].join(' ')} fill="var(--c)" stroke="var(--c)" strokeWidth={0.7} />
    </svg>
  );
});

const seconds = (s: number) => (s < 10 ? `${s.toFixed(2)} s` : `${s.toFixed(1)} s`);

const Row = memo(function Row({
  s,
  at,
  on,
  chosen,
  likeness,
}: {
  s: FoundSample;
  at: number;
  on: boolean;
  chosen: boolean;
  likeness: boolean;
}) {
  return (
    <div
      role="option"
      aria-selected={on}
      id={`shelf-${at}`}
      className={`sample f-${familyOf(s.kind)} ${on ? 'on' : ''} ${chosen ? 'chosen' : ''}`}
      title={`${s.folder ? `${s.folder}/` : ''}${s.name}\n${s.format} ${s.rate / 1000} kHz, ${s.facts.loudness.toFixed(1)} LUFS`}
      draggable
      onDragStart={(e) => {
        const hashes = chosen ? useShelf.getState().chosen : [s.hash];
        e.dataTransfer.setData(dragType, JSON.stringify(hashes));
        e.dataTransfer.setData('text/plain', s.name);
        e.dataTransfer.effectAllowed = 'copy';
      }}
      onClick={(e) => {
        chooseSample(at, e.shiftKey || e.ctrlKey);
        if (!useShelf.getState().hearOnSelect) void hearItem(s);
      }}
    >
      <span className="go" aria-hidden="true">
        <svg width={10} height={10}>
          <path d="M1 0l9 5-9 5z" fill="currentColor" />
        </svg>
      </span>
      <Mini peaks={s.facts.peaks} />
      <span className="what">
        <b>{s.name.replace(/\.[^.]*$/, '')}</b>
        <span className="lab">
          {likeness ? `${Math.round(s.likeness * 100)}% alike, ` : ''}
          {s.kind}
          {s.confidence < 0.6 ? ' ?' : ''}
          {s.tags.length > 0 ? `, ${s.tags.join(', ')}` : ''}
        </span>
      </span>
      <span className="num muted">{seconds(s.facts.seconds)}</span>
      <Chip code={codeOf(s.kind)} family={familyOf(s.kind)} w={25} h={20} dashed={s.confidence < 0.6} />
    </div>
  );
});

function ImportButton() {
  const files = useFiles({
    accept: sampleFiles,
    id: 'sample-files',
    several: 'files',
    take: async (f) => void (await importSamples(f)),
  });
  const folder = useFiles({
    accept: '',
    id: 'sample-folder',
    several: 'folder',
    take: async (f) => void (await importSamples(f)),
  });
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'files', label: 'Files or zips' },
            { key: 'folder', label: 'A whole folder' },
          ],
          onClick: ({ key }) => (key === 'files' ? files.open() : folder.open()),
        }}
      >
        <Button size="small" title="WAV, AIFF, FLAC, MP3, Ogg and zips of them; dropping them works too">
          Bring in…
        </Button>
      </Dropdown>
      {files.input}
      {folder.input}
    </>
  );
}

/** What can be done with the sample chosen. */
function Actions({ project }: { project: Project }) {
  const s = useShelf(chosenSample);
  const chosen = useShelf((x) => x.chosen);
  const found = useShelf((x) => x.found);
  const lane = useBench((x) => x.lane);
  const layer = useSounds((x) => x.layer);
  const trying = useSounds((x) => x.trying);
  const pad = project.kit.pads.find((p) => p.note === lane);
  const name = shownLanes(project.map).find((l) => l.note === lane)?.name ?? `note ${lane}`;
  if (!s) {
    return (
      <p className="lab" style={{ whiteSpace: 'normal', margin: 0 }}>
        Arrows move and sound, space repeats. Drag a sample onto a lane, a layer or a pad; with Shift choose
        several.
      </p>
    );
  }
  if (chosen.length > 1) {
    const several = found.filter((f) => chosen.includes(f.hash));
    return (
      <div className="row" style={{ gap: 6 }}>
        <Button
          type="primary"
          onClick={() =>
            void planDrop({
              parts: several.map((f) => ({ hash: f.hash })),
              names: several.map((f) => f.name),
              from: 'the shelf',
            })
          }
        >
          Lay out {chosen.length}…
        </Button>
        <Button
          onClick={() =>
            bringTo(
              lane,
              several.map((f) => ({ hash: f.hash })),
              several.map((f) => f.name),
            )
          }
        >
          All on {name}
        </Button>
      </div>
    );
  }
  const parts = [{ hash: s.hash }];
  const full = (pad?.layers.length ?? 0) > 0;
  const at = Math.min(layer, (pad?.layers.length ?? 1) - 1);
  return (
    <div className="row" style={{ gap: 6 }}>
      <Button
        type={trying ? 'default' : 'primary'}
        data-id="try"
        title={`Hear it in ${name} while the beat plays (T)`}
        onClick={() => void tryIt({ hash: s.hash, name: s.name })}
      >
        Try on {full ? `layer ${at + 1}` : name}
      </Button>
      <Dropdown
        trigger={['click']}
        placement="topLeft"
        menu={{
          items: [
            { key: 'replace', label: full ? `Replace all of ${name}` : `Put on ${name}` },
            { key: 'layer', label: `Add to ${name} as a layer`, disabled: !full },
            { key: 'stack', label: `Stack on layer ${at + 1} of ${name}`, disabled: !full },
            { key: 'take', label: `Add to layer ${at + 1} as a take`, disabled: !full },
            { key: 'lane', label: 'Put on a lane of its own kind' },
            { type: 'divider' },
            { key: 'like', label: 'Show what sounds like it' },
            { key: 'cut', label: 'Cut sounds from it' },
          ],
          onClick: ({ key }) => {
            if (key === 'like') void look({ like: s.hash, sort: 'likeness', kind: '', text: '' });
            else if (key === 'cut') {
              useSounds.setState({ cutting: s.hash });
              useBench.setState({ face: 'sounds' });
              useShelf.setState({ open: false });
            } else if (key === 'lane') void planDrop({ parts, names: [s.name], from: 'the shelf' });
            else void addTo(lane, parts, [s.name], key as 'replace', key === 'layer' ? -1 : at);
          },
        }}
      >
        <Button data-id="put-on">Put on…</Button>
      </Dropdown>
      <Select
        size="small"
        style={{ width: 100 }}
        aria-label="What it is"
        title="What it is: correct it here"
        value={s.kind}
        options={[
          ...kinds.map((k) => ({ value: k, label: k })),
          { value: '', label: s.corrected ? `as heard: ${s.guesses[0]?.kind ?? ''}` : 'as heard' },
        ]}
        onChange={(kind: string) => void correct(s.hash, { kind })}
      />
    </div>
  );
}

function Tags() {
  const s = useShelf(chosenSample);
  if (!s) return null;
  return (
    <Select
      mode="tags"
      size="small"
      style={{ width: '100%' }}
      aria-label="Tags"
      placeholder="Tags"
      value={s.tags}
      tokenSeparators={[',']}
      onChange={(tags: string[]) => void correct(s.hash, { tags })}
    />
  );
}

export function ShelfDrawer({ project }: { project: Project }) {
  const s = useShelf();
  const trying = useSounds((x) => x.trying);
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    list.current?.children[s.at]?.scrollIntoView({ block: 'nearest' });
  }, [s.at]);
  const drawer = useRef<HTMLElement>(null);
  useEffect(() => {
    if (useShelf.getState().all === 0) void look();
    // after the key that opened it, which must not be typed
    const soon = setTimeout(() => drawer.current?.querySelector('input')?.focus(), 60);
    return () => clearTimeout(soon);
  }, []);
  const sample = s.found[s.at];
  // while a sample is tried, moving on tries the next
  const hash = sample?.hash;
  const name = sample?.name;
  const trialOn = trying !== null;
  useEffect(() => {
    if (trialOn && hash && name && useSounds.getState().trying?.hash !== hash) void tryIt({ hash, name });
  }, [trialOn, hash, name]);
  const keys = (e: KeyboardEvent, inText: boolean) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[e.key];
    if (step !== undefined) chooseSample(s.at + step, e.shiftKey);
    else if (e.key === 'Enter' && trying) endTry(true);
    else if (e.key === 'Enter' && sample) void tryIt({ hash: sample.hash, name: sample.name });
    else if (e.key === 'Escape') {
      if (trying) endTry(false);
      else useShelf.setState({ open: false });
    } else if (!inText && e.key === ' ' && sample) void hearItem(sample);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <aside ref={drawer} className="shelf drawer" data-id="shelf" aria-label="Sample shelf">
      <div className="row" style={{ padding: '9px 14px 6px' }}>
        <span className="ttl" style={{ fontSize: 'var(--t-title)' }}>
          Sample shelf
        </span>
        <span className="lab">{s.all} samples</span>
        <span className="grow" />
        <ImportButton />
        <Button
          type="text"
          size="small"
          icon={<CloseOutlined />}
          aria-label="Shut the shelf"
          title="Shut the shelf (L)"
          onClick={() => useShelf.setState({ open: false })}
        />
      </div>
      <div style={{ padding: '0 14px 8px', display: 'grid', gap: 6 }}>
        <Input
          prefix={<SearchOutlined />}
          suffix={<span className="lab">{s.total} found</span>}
          placeholder="Name, tag, kind or folder"
          aria-label="Look for samples"
          data-id="shelf-text"
          allowClear
          value={s.looking.text ?? ''}
          onChange={(e) => void look({ text: e.target.value })}
          onKeyDown={(e) => keys(e, true)}
        />
        <Filters />
      </div>
      {s.importing && (
        <div className="row" style={{ padding: '0 14px 8px' }}>
          <Progress
            percent={Math.round((100 * s.importing.done) / Math.max(1, s.importing.total))}
            size="small"
            strokeColor="var(--ink)"
            showInfo={false}
          />
          <span className="num">
            {s.importing.done}/{s.importing.total}
          </span>
          <Button size="small" onClick={s.importing.cancel}>
            Stop
          </Button>
        </div>
      )}
      <div
        ref={list}
        className="samples"
        role="listbox"
        tabIndex={0}
        aria-label="Samples found"
        aria-activedescendant={s.at >= 0 ? `shelf-${s.at}` : undefined}
        onKeyDown={(e) => keys(e, false)}
        onScroll={(e) => {
          const el = e.currentTarget;
          if (el.scrollTop + el.clientHeight > el.scrollHeight - 200 && s.found.length < s.total)
            void look({}, true);
        }}
      >
        {s.found.map((f, i) => (
          <Row
            key={f.hash}
            s={f}
            at={i}
            on={i === s.at}
            chosen={s.chosen.length > 1 && s.chosen.includes(f.hash)}
            likeness={Boolean(s.looking.like)}
          />
        ))}
        {s.found.length === 0 && (
          <p className="lab" style={{ padding: '24px 14px', whiteSpace: 'normal' }}>
            {s.all === 0
              ? 'Nothing here yet. Drop samples, a folder or a zip anywhere on the bench, or bring them in above. They stay on the shelf for every project.'
              : 'No sample answers to that. Clear the words, or choose any kind.'}
          </p>
        )}
      </div>
      <div
        style={{
          padding: '8px 14px 10px',
          display: 'grid',
          gap: 8,
          borderTop: '1px solid var(--rule-strong)',
        }}
      >
        <div className="row">
          <Switch
            size="small"
            checked={s.hearOnSelect}
            aria-label="Hear on select"
            onChange={(v) => useShelf.setState({ hearOnSelect: v })}
          />
          <span>Hear on select</span>
          <span className="grow" />
          <span className="lab">Level</span>
          <Slider
            style={{ width: 76 }}
            min={-30}
            max={6}
            value={s.levelDB}
            tooltip={{ open: false }}
            ariaLabelForHandle="Level at which samples are heard, dB"
            onChange={(v: number) => useShelf.setState({ levelDB: v })}
          />
        </div>
        <Tags />
        <Actions project={project} />
      </div>
    </aside>
  );
}

export const toggleShelf = () =>
  useShelf.getState().open ? useShelf.setState({ open: false }) : openShelf();
