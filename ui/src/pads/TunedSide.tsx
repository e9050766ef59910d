// One sound over the pads: chosen, and along which scale.
import { Button } from 'antd';
import { Select } from '../app/later';
import { useBench } from '../app/state';
import { scales } from '../model/constants.gen';
import { playTuned, useTuned } from './tuned';

export function TunedSide() {
  const { note, scale, from, tunes } = useTuned();
  const lane = useBench((s) => s.project?.map.lanes.find((l) => l.note === s.lane));
  if (note === null)
    return (
      <div className="row" style={{ padding: '2px 12px' }}>
        <Button
          size="small"
          data-id="play-tuned"
          disabled={!lane}
          title="The pads and keys play this one sound, tuned; hits are recorded with their tune"
          onClick={() => lane && void playTuned({ note: lane.note })}
        >
          {lane ? `${lane.name} over all pads` : 'One sound over all pads'}
        </Button>
      </div>
    );
  const [lowest, highest] = [Math.min(...tunes), Math.max(...tunes)];
  return (
    <div className="row" style={{ padding: '2px 12px', gap: 4 }} data-id="tuned">
      <Select
        size="small"
        style={{ width: 96 }}
        aria-label="Scale"
        value={scale}
        popupMatchSelectWidth={150}
        options={scales.map((s) => ({ value: s, label: s }))}
        onChange={(s: string) => void playTuned({ scale: s, from: 0 })}
      />
      <Button
        size="small"
        aria-label="Lower"
        title="Lower"
        disabled={lowest <= -2300}
        onClick={() => void playTuned({ from: from - 6 })}
      >
        ↓
      </Button>
      <Button
        size="small"
        aria-label="Higher"
        title="Higher"
        disabled={highest >= 2300}
        onClick={() => void playTuned({ from: from + 6 })}
      >
        ↑
      </Button>
      <Button
        size="small"
        title="Every pad its own sound again"
        onClick={() => void playTuned({ note: null })}
      >
        All sounds
      </Button>
    </div>
  );
}
