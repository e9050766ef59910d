import { useState } from 'react';
import { NumberField } from '../app/NumberField';
import { AudioOutlined, LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Dropdown, Popover, Progress, Select, Slider } from 'antd';
import { Choice } from '../app/Choice';
import type { Project, Recording } from '../api/client';
import { audioFiles, PickFile, useFiles } from '../app/PickFile';
import { chooseRecording, hearCompared, regrid, setLevels, useBench } from '../app/state';
import { EarlierEars, ListenTo } from './Again';
import { endGroove, otherSide, useGroove } from './groove';
import { bringRecording, useListening } from './listen';
import { compareLane, compareLoud, zoomBy } from './state';
import { zooms } from './view';
import { MicrophoneBand } from '../record/MicrophoneBand';
import { openMicrophone, useMicrophone } from '../record/microphone';
import { tap } from './tap';

/** The faders' lowest place, which is silence, and their highest, dB. */
const leastDB = -48;
const mostDB = 6;

const decibels = (db: number) =>
  db === -Infinity ? 'silent' : `${db > 0 ? '+' : ''}${db.toFixed(1).replace('-', '−')} dB`;

const parts: Record<string, string> = {
  0.5: 'half a bar',
  0.25: 'a quarter of a bar',
  0.125: 'an eighth of a bar',
};
const zoomName = (zoom: number) => parts[zoom] ?? (zoom === 1 ? '1 bar' : `${zoom} bars`);

/** The bars of a page, or the bar and beat at which a part of a bar begins. */
function pageName(page: number, zoom: number, bars: number, beats: number): string {
  if (zoom > 1) return `${page * zoom + 1}–${Math.min(bars, (page + 1) * zoom)}`;
  const bar = Math.floor(page * zoom + 1e-9);
  const beat = (page * zoom - bar) * beats;
  return zoom === 1
    ? String(bar + 1)
    : `${bar + 1}.${Math.floor(beat + 1e-9) + 1}${beat % 1 > 1e-6 ? '½' : ''}`;
}

/** Meters a recording is counted in. */
const meters = ['4/4', '3/4', '2/4', '5/4', '6/4', '7/4', '6/8', '7/8', '9/8', '12/8'];

export function ChooseRecording() {
  return (
    <PickFile accept={audioFiles} id="recording-file" take={bringRecording} type="primary">
      Choose a recording
    </PickFile>
  );
}

/** Opens a microphone or line in. */
function RecordInput() {
  return (
    <Button
      size="small"
      icon={<AudioOutlined />}
      aria-label="Record from a microphone or line in"
      title="Record from a microphone or line in"
      data-id="open-microphone"
      onClick={() => void openMicrophone()}
    />
  );
}

/** One more recording: from a file, or from an input. */
function MoreRecordings() {
  const file = useFiles({
    accept: audioFiles,
    id: 'recording-file',
    take: ([f]) => (f ? bringRecording(f) : Promise.resolve()),
  });
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'file', label: 'Import a recording' },
            { key: 'input', label: 'Record from a microphone or line in' },
          ],
          onClick: ({ key }) => (key === 'file' ? file.open() : void openMicrophone()),
        }}
      >
        <Button data-id="more-recordings" title="Another recording">
          +
        </Button>
      </Dropdown>
      {file.input}
    </>
  );
}

export function BreakTools({
  project,
  recording,
  page,
  pages,
  zoom,
  turn,
}: {
  project: Project;
  recording: Recording | null;
  page: number;
  pages: number;
  /** bars shown at once */
  zoom: number;
  turn: (page: number) => void;
}) {
  const [menu, setMenu] = useState(false);
  const levels = useBench((s) => s.levels);
  const compared = useBench((s) => s.compared);
  const tried = useGroove((s) => s.tried);
  const microphone = useMicrophone((s) => s.name !== '');
  const listening = useListening((s) => s.now);
  if (listening) {
    return (
      <div className="tools pending" data-id="hearing">
        <b>Hearing {listening.name}</b>
        <Progress
          percent={Math.round(listening.share * 100)}
          size="small"
          strokeColor="var(--ink-on)"
          railColor="var(--ink-3)"
          style={{ width: 260 }}
          showInfo={false}
        />
        <span className="num">{Math.round(listening.share * 100)}%</span>
        <span className="grow" />
        <Button ghost onClick={listening.cancel}>
          Cancel
        </Button>
      </div>
    );
  }
  if (tried) {
    return (
      <div className="tools pending" data-id="groove-tried">
        <b>{tried.name}</b>
        <span>over {project.patterns.find((p) => p.id === tried.over)?.value.name}</span>
        <Choice
          name="The groove tried"

          value={tried.with ? 'with' : 'without'}
          options={['with', 'without']}
          onChange={otherSide}
        />
        <span className="lab">Q with and without, Enter lays it over, Escape puts back</span>
        <span className="grow" />
        <Button ghost onClick={() => endGroove('back')}>
          Put back
        </Button>
        <Button ghost onClick={() => endGroove('keep')}>
          Keep groove
        </Button>
        <Button data-id="lay-groove" onClick={() => endGroove('lay')}>
          Keep and lay over
        </Button>
      </div>
    );
  }
  if (microphone) return <MicrophoneBand />;
  if (!recording) {
    return (
      <div className="tools">
        <span className="lab">No recording in this project yet</span>
        <span className="grow" />
        <RecordInput />
      </div>
    );
  }
  const h = recording.heard;
  return (
    <div className="tools">
      <Select
        style={{ width: 98 }}
        aria-label="Recording"
        value={recording.id}
        options={project.recordings.map((r) => ({ value: r.id, label: r.name }))}
        onChange={chooseRecording}
      />
      <MoreRecordings />
      <Select
        size="small"
        style={{ width: 56 }}
        aria-label="Meter of the recording"
        data-id="break-meter"
        title="Count it in another meter"
        value={`${h.meter.beats}/${h.meter.unit}`}
        options={[...new Set([...meters, `${h.meter.beats}/${h.meter.unit}`])].map((m) => ({
          value: m,
          label: m,
        }))}
        onChange={(m: string) => {
          const [beats = 4, unit = 4] = m.split('/').map(Number);
          void regrid(recording.id, { meter: { beats, unit } });
        }}
      />
      <NumberField
        style={{ width: 56 }}
        suffix={h.bars === 1 ? 'bar' : 'bars'}
        name="Bars"
        data-id="break-bars"
        min={1}
        max={3600}
        controls={false}
        precision={0}
        value={h.bars}
        set={(bars) => bars && void regrid(recording.id, { bars })}
      />
      <NumberField
        style={{ width: 88 }}
        suffix="BPM"
        name="Tempo of the recording"
        data-id="break-tempo"
        min={20}
        max={400}
        controls={false}
        precision={2}
        value={h.bpm}
        set={(bpm) => {
          if (bpm && Math.abs(bpm - h.bpm) > 0.005) void regrid(recording.id, { bpm });
        }}
      />
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'half', label: 'Half the tempo', disabled: h.bpm < 40 },
            { key: 'twice', label: 'Twice the tempo', disabled: h.bpm > 200 },
          ],
          onClick: ({ key }) =>
            void regrid(
              recording.id,
              key === 'half'
                ? { bpm: h.bpm / 2, bars: Math.max(1, Math.round(h.bars / 2)) }
                : { bpm: h.bpm * 2, bars: h.bars * 2 },
            ),
        }}
      >
        <Button size="small" data-id="tempo-times" title="Half or twice the tempo">
          ÷ ×
        </Button>
      </Dropdown>
      <Button size="small" title="Tap the tempo, four times and more (')" onClick={() => tap(recording)}>
        Tap
      </Button>
      <Choice
        name="How the tempo goes"

        value={(h.pins?.length ?? 0) > 1 ? 'following' : 'steady'}
        options={[
          { value: 'steady', label: 'steady', title: 'One tempo; drag the first bar line to move bar 1' },
          {
            value: 'following',
            label: 'following',
            title: 'Bar lines pinned to hits, for a player who drifts; drag them in the ruler',
          },
        ]}
        onChange={(v) => void regrid(recording.id, { follow: v === 'following' })}
      />
      <Popover
        open={menu}
        onOpenChange={setMenu}
        trigger="click"
        placement="bottom"
        content={
          <div className="hearingpanel" data-id="hearing-panel">
            <ListenTo
              key={`${recording.id} ${h.channel ?? ''} ${h.drums ?? false}`}
              recording={recording}
              done={() => setMenu(false)}
            />
            <span className="lab">Compare</span>
            <span className="row">
              <Button
                size="small"
                title="Recording or kit, at the same loudness (Q)"
                onClick={() => void compareLoud(recording)}
              >
                {compared && !compared.lane && compared.side === 'kit' ? 'to the recording' : 'to the kit'}
              </Button>
              <Button
                size="small"
                title="The chosen lane alone: its band of the recording, then the kit’s sound of it, then everything again (Shift+Q)"
                onClick={() => void compareLane(recording)}
              >
                this lane
              </Button>
            </span>
          </div>
        }
      >
        <Button
          size="small"
          data-id="hearing-menu"
          title="What is listened to, hearing again, and what is compared"
        >
          Listen…
        </Button>
      </Popover>
      <EarlierEars recording={recording} />
      {pages > 1 && (
        <>
          <span className="sep" />
          <Button
            size="small"
            icon={<LeftOutlined />}
            disabled={page === 0}
            aria-label="Earlier bars"
            title="Earlier bars (PageUp)"
            onClick={() => turn(page - 1)}
          />
          <span>
            <b>{pageName(page, zoom, h.bars, h.meter.beats)}</b>
          </span>
          <Button
            size="small"
            icon={<RightOutlined />}
            disabled={page >= pages - 1}
            aria-label="Later bars"
            title="Later bars (PageDown)"
            onClick={() => turn(page + 1)}
          />
        </>
      )}
      <Button
        size="small"
        aria-label="Farther"
        title={`Farther: ${zoomName(zoom)} shown (Ctrl+←)`}
        data-id="break-farther"
        disabled={zoom >= h.bars || zoom === zooms[0]}
        onClick={() => zoomBy(recording, -1)}
      >
        −
      </Button>
      <Button
        size="small"
        aria-label="Nearer"
        title={`Nearer: ${zoomName(zoom)} shown (Ctrl+→)`}
        data-id="break-nearer"
        disabled={zoom === zooms[zooms.length - 1]}
        onClick={() => zoomBy(recording, 1)}
      >
        +
      </Button>
      <span className="grow" />
      {compared ? (
        <Button
          size="small"
          type="primary"
          data-id="compared"
          title="Hear both again"
          onClick={() => hearCompared(null)}
        >
          {compared.side === 'kit' ? 'kit' : 'recording'} alone
          {compared.lane ? `: ${project.map.lanes.find((l) => l.note === compared.lane?.note)?.name}` : ''}
        </Button>
      ) : (
        (['recording', 'kit'] as const).map((of) => (
          <label
            key={of}
            className="fader"
            title={`How loud the ${of} is; a double click sets 0 dB`}
            onDoubleClick={() => setLevels({ [of]: 0 })}
          >
            <span className="lab">{of === 'recording' ? 'break' : of}</span>
            <span className="num">{decibels(levels[of])}</span>
            <Slider
              min={leastDB}
              max={mostDB}
              step={0.5}
              value={Math.max(leastDB, levels[of])}
              marks={{ 0: ' ' }}
              tooltip={{ open: false }}
              ariaLabelForHandle={`Level of the ${of}`}
              onChange={(db: number) => setLevels({ [of]: db <= leastDB ? -Infinity : db })}
            />
          </label>
        ))
      )}
    </div>
  );
}
