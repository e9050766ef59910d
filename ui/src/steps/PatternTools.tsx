// What Steps and Roll offer of the pattern alike: which one, how long, on which grid, how it feels, and its files.
import { Button, Popover } from 'antd';
import { Select } from '../app/later';
import { Choice } from '../app/Choice';
import { useState } from 'react';
import { addresses, type BounceOptions, type Pattern, type Project } from '../api/client';
import {
  choosePattern,
  currentPattern,
  editPattern,
  importMIDI,
  keep,
  stored,
  togglePanel,
  useBench,
} from '../app/state';
import { NumberField } from '../app/NumberField';
import { midiFiles, useFiles } from '../app/PickFile';
import { grids } from '../model/time';
import { newPattern } from '../patterns/state';
import { setBars } from './bars';

/** A value of the list of patterns that is none of them. */
const fresh = ' new';

/** The pattern shown, its drawer, its length and its grid. */
export function PatternPick({ project, pattern }: { project: Project; pattern: Pattern }) {
  const patternId = useBench((s) => s.patternId);
  return (
    <>
      <Select
        style={{ width: 92 }}
        data-id="pattern"
        aria-label="Pattern"
        value={patternId}
        popupMatchSelectWidth={150}
        onChange={(id: string) => (id === fresh ? newPattern() : choosePattern(id))}
        options={[
          ...project.patterns.map((p) => ({ value: p.id, label: p.value.name })),
          { value: fresh, label: 'New pattern' },
        ]}
      />
      <Button
        data-id="patterns-button"
        title="Name, colour, tag, copy, vary, compare patterns (T)"
        onClick={() => togglePanel('patterns')}
      >
        Patterns
      </Button>
      <Button
        data-id="ready-button"
        title="Ready patterns to begin from (W)"
        onClick={() => togglePanel('ready')}
      >
        Ready
      </Button>
      <Select
        style={{ width: 84 }}
        aria-label="Bars"
        data-id="bars"
        value={pattern.bars}
        options={[...new Set([1, 2, 3, 4, 6, 8, 12, 16, 32, 64, pattern.bars])]
          .toSorted((a, b) => a - b)
          .map((n) => ({ value: n, label: n === 1 ? '1 bar' : `${n} bars` }))}
        onChange={(bars: number) => setBars(patternId, pattern, bars)}
      />
      <Select
        style={{ width: 72 }}
        aria-label="Grid"
        value={pattern.grid}
        options={grids.map((v) => ({ value: v, label: v }))}
        onChange={(grid: string) => void editPattern({ op: 'shape', grid })}
      />
    </>
  );
}

function download(address: string) {
  const a = document.createElement('a');
  a.href = address;
  a.download = '';
  a.click();
}

const plain: BounceOptions = { rate: 44100, bits: 24, passes: 1, tail: 'ring' };

function lastBounce(): BounceOptions {
  try {
    return { ...plain, ...(JSON.parse(stored('bounce') ?? '{}') as Partial<BounceOptions>) };
  } catch {
    return plain;
  }
}

function Panel({ project, open }: { project: Project; open: () => void }) {
  const patternId = useBench((s) => s.patternId);
  const tuned = useBench((s) => currentPattern(s)?.hits.filter((h) => h.tune).length ?? 0);
  const [bounce, setBounce] = useState(lastBounce);
  const change = (to: Partial<BounceOptions>) => {
    const next = { ...bounce, ...to };
    keep('bounce', JSON.stringify(next));
    setBounce(next);
  };
  return (
    <div className="lanetools files" data-id="files-panel">
      <div className="row">
        <b>Import</b>
        <Button size="small" data-id="import-midi" onClick={open}>
          A MIDI file as a pattern
        </Button>
      </div>
      <div className="row">
        <b>Export MIDI</b>
        <Button
          size="small"
          title="The hits as they are written, without swing, groove and leans"
          onClick={() => download(addresses.midi(project.id, patternId, false))}
        >
          As written
        </Button>
        <Button
          size="small"
          title="With the feel, as the first pass sounds"
          onClick={() => download(addresses.midi(project.id, patternId, true))}
        >
          As it sounds
        </Button>
        {tuned > 0 && (
          <span className="lab">
            {tuned === 1 ? 'a hit is' : `${tuned} hits are`} tuned, which MIDI cannot say
          </span>
        )}
      </div>
      <div className="row">
        <b>Bounce</b>
        <Select
          size="small"
          style={{ width: 92 }}
          aria-label="Sample rate"
          value={bounce.rate}
          options={[44100, 48000, 96000].map((r) => ({ value: r, label: `${r / 1000} kHz` }))}
          onChange={(rate: number) => change({ rate })}
        />
        <Select
          size="small"
          style={{ width: 128 }}
          aria-label="Bits"
          value={bounce.bits}
          options={[16, 24, 32].map((b) => ({
            value: b,
            label: b === 32 ? '32-bit float' : `${b}-bit, dithered`,
          }))}
          onChange={(bits: number) => change({ bits })}
        />
        <NumberField
          size="small"
          style={{ width: 50 }}
          name="Times through"
          min={1}
          max={256}
          controls={false}
          value={bounce.passes}
          set={(passes) => passes && change({ passes })}
        />
        <span>{bounce.passes === 1 ? 'time through' : 'times through'}</span>
      </div>
      <div className="row">
        <span className="lab">At its end</span>
        <Choice<BounceOptions['tail']>
          name="At its end"

          data-id="tail"
          value={bounce.tail}
          options={[
            { value: 'ring', label: 'it rings out' },
            {
              value: 'lap',
              label: 'the tail lies over the beginning',
              title: 'For a loop without a seam: as it sounds when it is played round and round',
            },
            { value: 'cut', label: 'it is cut' },
          ]}
          onChange={(tail) => change({ tail })}
        />
      </div>
      <div className="row">
        <span className="grow" />
        <Button
          type="primary"
          data-id="bounce"
          onClick={() => download(addresses.wav(project.id, patternId, bounce))}
        >
          Bounce to WAV
        </Button>
      </div>
    </div>
  );
}

/** What comes in and goes out. */
export function Files({ project }: { project: Project }) {
  const open = useBench((s) => s.panel === 'files');
  const midi = useFiles({
    accept: midiFiles,
    id: 'midi-file',
    take: ([f]) => {
      useBench.setState({ panel: '' });
      return f ? importMIDI(f) : Promise.resolve();
    },
  });
  return (
    <>
      <Popover
        trigger="click"
        placement="bottomRight"
        open={open}
        onOpenChange={(o) => useBench.setState({ panel: o ? 'files' : '' })}
        content={<Panel project={project} open={midi.open} />}
      >
        <Button data-id="files" title="MIDI in and out, bounce to WAV (Ctrl+O)">
          Files…
        </Button>
      </Popover>
      {midi.input}
    </>
  );
}
