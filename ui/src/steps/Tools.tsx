import { RestSlider } from '../app/RestSlider';
import { setBars } from './bars';
import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Dropdown, Select, Switch } from 'antd';
import { memo, useState } from 'react';
import { addresses, type Pattern, type Project } from '../api/client';
import { choosePattern, editPattern, importMIDI, showBar, togglePanel, useBench } from '../app/state';
import { midiFiles, useFiles } from '../app/PickFile';
import { sameButHits } from '../lanes/same';
import { grids } from '../model/time';
import { FeelTools, saveFeel } from './Feel';

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

/** Which bar is shown, and whether it follows what plays. */
function BarShown({ bars }: { bars: number }) {
  const bar = useBench((s) => s.bar);
  const follow = useBench((s) => s.follow);
  return (
    <>
      <Button
        size="small"
        icon={<LeftOutlined />}
        aria-label="Previous bar"
        title="Previous bar ([)"
        disabled={bar === 0}
        onClick={() => showBar(bar - 1)}
      />
      <span data-id="bar">
        <b>Bar {bar + 1}</b> of {bars}
      </span>
      <Button
        size="small"
        icon={<RightOutlined />}
        aria-label="Next bar"
        title="Next bar (])"
        disabled={bar >= bars - 1}
        onClick={() => showBar(bar + 1)}
      />
      <Switch
        size="small"
        checked={follow}
        aria-label="Follow"
        onChange={(v) => useBench.setState({ follow: v })}
      />
      <span className="muted">Follow</span>
    </>
  );
}

export const StepsTools = memo(function StepsTools({
  project,
  pattern,
}: {
  project: Project;
  pattern: Pattern;
}) {
  const patternId = useBench((s) => s.patternId);
  const [swing, setSwing] = useState<number | null>(null);
  const feel = pattern.feel ?? project.settings.feel;
  const filesOpen = useBench((s) => s.panel === 'files');
  const midi = useFiles({
    accept: midiFiles,
    id: 'midi-file',
    take: ([f]) => (f ? importMIDI(f) : Promise.resolve()),
  });
  return (
    <div className="tools">
      <Select
        style={{ width: 118 }}
        data-id="pattern"
        aria-label="Pattern"
        value={patternId}
        onChange={choosePattern}
        options={project.patterns.map((p) => ({ value: p.id, label: p.value.name }))}
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
        style={{ width: 74 }}
        aria-label="Bars"
        data-id="bars"
        value={pattern.bars}
        options={[...new Set([1, 2, 3, 4, 6, 8, 12, 16, 32, 64, pattern.bars])]
          .toSorted((a, b) => a - b)
          .map((n) => ({ value: n, label: n === 1 ? '1 bar' : `${n} bars` }))}
        onChange={(bars: number) => setBars(patternId, pattern, bars)}
      />
      <Select
        style={{ width: 76 }}
        aria-label="Grid"
        value={pattern.grid}
        options={grids.map((v) => ({ value: v, label: v }))}
        onChange={(grid: string) => void editPattern({ op: 'shape', grid })}
      />
      <span className="sep" />
      <BarShown bars={pattern.bars} />
      <span className="sep" />
      <span className="lab">Swing</span>
      <RestSlider
        name="Swing in percent"
        style={{ width: 70 }}
        min={50}
        max={75}
        value={feel.swing.percent}
        moving={setSwing}
        set={(v) => saveFeel(project, pattern, { swing: { ...feel.swing, percent: v } }, `Swing ${v} %`)}
      />
      <span className="num">{Math.round(swing ?? feel.swing.percent)}%</span>
      <FeelTools project={project} pattern={pattern} />
      <span className="grow" />
      <Dropdown
        trigger={['click']}
        open={filesOpen}
        onOpenChange={(o) => useBench.setState({ panel: o ? 'files' : '' })}
        menu={{
          items: [
            { key: 'in', label: 'Import a MIDI file as a pattern' },
            { type: 'divider' },
            { key: 'midi', label: 'Take away as a MIDI file, as written' },
            { key: 'sounding', label: 'Take away as a MIDI file, as it sounds' },
            ...wavs,
          ],
          onClick: ({ key }) => {
            if (key === 'in') midi.open();
            if (key === 'midi') download(addresses.midi(project.id, patternId, false));
            if (key === 'sounding') download(addresses.midi(project.id, patternId, true));
            const wav = /^wav (\d+) (\d+)$/.exec(key);
            if (wav) download(addresses.wav(project.id, patternId, Number(wav[1]), Number(wav[2]), 1));
          },
        }}
      >
        <Button data-id="files" title="MIDI in and out, bounce to WAV (Ctrl+O)">
          Files…
        </Button>
      </Dropdown>
      {midi.input}
    </div>
  );
}, sameButHits);
