// The shelf of all samples: a drawer that lies over the stage of any face.
import { CloseOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Dropdown, Input, Progress, Slider, Switch } from 'antd';
import { type KeyboardEvent, useEffect, useRef } from 'react';
import type { Project } from '../api/client';
import { LongList } from '../app/LongList';
import { useFiles } from '../app/PickFile';
import { useEntered } from '../app/useEntered';
import { endTry, tryIt, useSounds } from '../sounds/state';
import { Actions, Tags } from './Actions';
import { Filters } from './Filters';
import { SampleRow } from './SampleRow';
import { chooseSample, hearItem, importSamples, look, throwAwayChosen, useShelf } from './state';

const sampleFiles = '.wav,.aif,.aiff,.flac,.mp3,.ogg,.opus,.m4a,.zip,audio/*';

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
          Import…
        </Button>
      </Dropdown>
      {files.input}
      {folder.input}
    </>
  );
}

export function ShelfDrawer({ project }: { project: Project }) {
  const s = useShelf();
  const trying = useSounds((x) => x.trying);
  const drawer = useRef<HTMLElement>(null);
  useEffect(() => {
    if (useShelf.getState().all === 0) void look();
  }, []);
  useEntered(() =>
    // after the key that opened it, which must not be typed
    setTimeout(() => drawer.current?.querySelector<HTMLElement>('[data-id="shelf-text"]')?.focus(), 60),
  );
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
    else if (!inText && e.key === 'Delete' && !trying) void throwAwayChosen();
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
      <LongList
        className="samples"
        role="listbox"
        tabIndex={0}
        aria-label="Samples found"
        aria-activedescendant={s.at >= 0 ? `shelf-${s.at}` : undefined}
        onKeyDown={(e) => keys(e, false)}
        items={s.found}
        height={38}
        at={s.at}
        atEnd={() => {
          if (s.found.length < s.total) void look({}, true);
        }}
        renderRow={(f, i) => (
          <SampleRow
            s={f}
            at={i}
            on={i === s.at}
            chosen={s.chosen.length > 1 && s.chosen.includes(f.hash)}
            likeness={Boolean(s.looking.like)}
          />
        )}
      >
        {s.found.length === 0 && (
          <p className="lab" style={{ padding: '24px 14px', whiteSpace: 'normal' }}>
            {s.all === 0
              ? 'Nothing here yet. Drop samples, a folder or a zip anywhere on the bench, or bring them in above. They stay on the shelf for every project.'
              : 'No sample answers to that. Clear the words, or choose any kind.'}
          </p>
        )}
      </LongList>
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
