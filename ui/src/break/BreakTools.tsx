import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, InputNumber, Progress, Select, Slider } from 'antd';
import type { Project, RecordingView } from '../api/client';
import { audioFiles, PickFile } from '../app/PickFile';
import { chooseRecording, regrid, setBlend, useBench } from '../app/state';
import { barsShown } from './BreakStage';
import { bringRecording, useListening } from './listen';

export function ChooseRecording({ primary = false }: { primary?: boolean }) {
  return (
    <PickFile
      accept={audioFiles}
      id="recording-file"
      take={bringRecording}
      type={primary ? 'primary' : 'default'}
    >
      {primary ? 'Choose a recording' : 'Add…'}
    </PickFile>
  );
}

export function BreakTools({
  project,
  recording,
  page,
  pages,
  turn,
}: {
  project: Project;
  recording: RecordingView | null;
  page: number;
  pages: number;
  turn: (page: number) => void;
}) {
  const blend = useBench((s) => s.blend);
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
  if (!recording) {
    return (
      <div className="tools">
        <span className="lab">No recording in this project yet</span>
      </div>
    );
  }
  const h = recording.heard;
  return (
    <div className="tools">
      <Select
        style={{ width: 140 }}
        aria-label="Recording"
        value={recording.id}
        options={project.recordings.map((r) => ({ value: r.id, label: r.name }))}
        onChange={chooseRecording}
      />
      <ChooseRecording />
      <span className="sep" />
      <span className="lab">Bars</span>
      <InputNumber
        style={{ width: 48 }}
        aria-label="Bars"
        data-id="break-bars"
        min={1}
        max={64}
        controls={false}
        precision={0}
        value={h.bars}
        onChange={(bars) => {
          if (bars && bars !== h.bars) void regrid(recording.id, { bars });
        }}
        changeOnBlur
      />
      <span className="lab">Tempo</span>
      <InputNumber
        style={{ width: 66 }}
        aria-label="Tempo of the recording"
        data-id="break-tempo"
        min={20}
        max={400}
        controls={false}
        precision={2}
        value={h.bpm}
        onChange={(bpm) => {
          if (bpm && Math.abs(bpm - h.bpm) > 0.005) void regrid(recording.id, { bpm });
        }}
        changeOnBlur
      />
      <Button
        size="small"
        disabled={h.bpm < 40}
        onClick={() =>
          void regrid(recording.id, { bpm: h.bpm / 2, bars: Math.max(1, Math.round(h.bars / 2)) })
        }
      >
        Halve
      </Button>
      <Button
        size="small"
        disabled={h.bpm > 200}
        onClick={() => void regrid(recording.id, { bpm: h.bpm * 2, bars: Math.min(64, h.bars * 2) })}
      >
        Double
      </Button>
      {pages > 1 && (
        <>
          <span className="sep" />
          <Button
            size="small"
            icon={<LeftOutlined />}
            disabled={page === 0}
            aria-label="Earlier bars"
            title="Earlier bars ([)"
            onClick={() => turn(page - 1)}
          />
          <span>
            <b>
              Bars {page * barsShown + 1}–{Math.min(h.bars, (page + 1) * barsShown)}
            </b>{' '}
            of {h.bars}
          </span>
          <Button
            size="small"
            icon={<RightOutlined />}
            disabled={page >= pages - 1}
            aria-label="Later bars"
            title="Later bars (])"
            onClick={() => turn(page + 1)}
          />
        </>
      )}
      <span className="grow" />
      <span className="lab">Hear recording</span>
      <Slider
        style={{ width: 110 }}
        min={0}
        max={100}
        value={Math.round(blend * 100)}
        tooltip={{ open: false }}
        ariaLabelForHandle="From the recording to its hits on the kit"
        onChange={(v: number) => setBlend(v / 100)}
      />
      <span className="lab">kit</span>
    </div>
  );
}
