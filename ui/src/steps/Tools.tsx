import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Dropdown, Select, Slider, Switch } from 'antd';
import { useState } from 'react';
import { api, type Pattern, type Project } from '../api/client';
import {
  addPattern,
  choosePattern,
  deletePattern,
  editPattern,
  editSettings,
  importMIDI,
  useBench,
} from '../app/state';
import { midiFiles, useFiles } from '../app/PickFile';
import { grids } from '../lanes/time';
import { FeelTools } from './Feel';

function freshName(p: Project, base: string): string {
  for (let n = 1; ; n++) {
    const name = `${base} ${n}`;
    if (!p.patterns.some((x) => x.value.name === name)) return name;
  }
}

function download(address: string) {
  const a = document.createElement('a');
  a.href = address;
  a.download = '';
  a.click();
}

const wavs = [44100, 48000, 96000].map((rate) => ({
  key: `wav ${rate}`,
  label: `Bounce to WAV, ${rate / 1000} kHz`,
  children: [16, 24, 32].map((bits) => ({
    key: `wav ${rate} ${bits}`,
    label: bits === 32 ? '32-bit float' : `${bits}-bit, dithered`,
  })),
}));

export function StepsTools({ project, pattern }: { project: Project; pattern: Pattern }) {
  const patternId = useBench((s) => s.patternId);
  const bar = useBench((s) => s.bar);
  const follow = useBench((s) => s.follow);
  const [swing, setSwing] = useState<number | null>(null);
  const feel = project.settings.feel;
  const midi = useFiles({
    accept: midiFiles,
    id: 'midi-file',
    take: ([f]) => (f ? importMIDI(f) : Promise.resolve()),
  });
  return (
    <div className="tools">
      <Select
        style={{ width: 124 }}
        data-id="pattern"
        aria-label="Pattern"
        value={patternId}
        onChange={choosePattern}
        options={project.patterns.map((p) => ({ value: p.id, label: p.value.name }))}
      />
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'new', label: 'New pattern' },
            { key: 'copy', label: `Copy ${pattern.name}` },
            { key: 'delete', label: `Delete ${pattern.name}`, disabled: project.patterns.length < 2 },
          ],
          onClick: ({ key }) => {
            if (key === 'new') void addPattern(freshName(project, 'pattern'), pattern.bars);
            if (key === 'copy') void addPattern(freshName(project, pattern.name), pattern.bars, patternId);
            if (key === 'delete') void deletePattern(patternId);
          },
        }}
      >
        <Button data-id="pattern-menu" aria-label="New, copy or delete">
          New…
        </Button>
      </Dropdown>
      <Select
        style={{ width: 74 }}
        aria-label="Bars"
        data-id="bars"
        value={pattern.bars}
        options={[...new Set([1, 2, 3, 4, 6, 8, 12, 16, 32, 64, pattern.bars])]
          .toSorted((a, b) => a - b)
          .map((n) => ({ value: n, label: n === 1 ? '1 bar' : `${n} bars` }))}
        onChange={(bars: number) => void editPattern({ op: 'shape', bars })}
      />
      <Select
        style={{ width: 76 }}
        aria-label="Grid"
        value={pattern.grid}
        options={grids.map((v) => ({ value: v, label: v }))}
        onChange={(grid: string) => void editPattern({ op: 'shape', grid })}
      />
      <span className="sep" />
      <Button
        size="small"
        icon={<LeftOutlined />}
        aria-label="Previous bar"
        title="Previous bar ([)"
        disabled={bar === 0}
        onClick={() => useBench.setState({ bar: bar - 1 })}
      />
      <span data-id="bar">
        <b>Bar {bar + 1}</b> of {pattern.bars}
      </span>
      <Button
        size="small"
        icon={<RightOutlined />}
        aria-label="Next bar"
        title="Next bar (])"
        disabled={bar >= pattern.bars - 1}
        onClick={() => useBench.setState({ bar: bar + 1 })}
      />
      <Switch
        size="small"
        checked={follow}
        aria-label="Follow"
        onChange={(v) => useBench.setState({ follow: v })}
      />
      <span className="muted">Follow</span>
      <span className="sep" />
      <span className="lab">Swing</span>
      <Slider
        style={{ width: 70 }}
        min={50}
        max={75}
        value={swing ?? feel.swing.percent}
        tooltip={{ open: false }}
        ariaLabelForHandle="Swing in percent"
        onChange={setSwing}
        onChangeComplete={(v: number) => {
          setSwing(null);
          void editSettings({ feel: { ...feel, swing: { ...feel.swing, percent: v } } }, `Swing ${v} %`);
        }}
      />
      <span className="num">{Math.round(swing ?? feel.swing.percent)}%</span>
      <FeelTools project={project} />
      <span className="grow" />
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'in', label: 'Import a MIDI file as a pattern' },
            { type: 'divider' },
            { key: 'midi', label: 'Take away as a MIDI file' },
            ...wavs,
          ],
          onClick: ({ key }) => {
            if (key === 'in') midi.open();
            if (key === 'midi') download(api.midiAddress(project.id, patternId));
            const wav = /^wav (\d+) (\d+)$/.exec(key);
            if (wav) download(api.wavAddress(project.id, patternId, Number(wav[1]), Number(wav[2]), 1));
          },
        }}
      >
        <Button data-id="files" title="MIDI in and out, bounce to WAV">
          Files…
        </Button>
      </Dropdown>
      {midi.input}
      <Button
        onClick={() =>
          void editPattern({
            op: 'clear',
            fromBar: bar,
            toBar: bar + 1,
            label: `Clear bar ${bar + 1} of ${pattern.name}`,
          })
        }
      >
        Clear bar
      </Button>
    </div>
  );
}
