// The input in Break: chosen, its level seen, recorded and kept.
import { Button, Select, Switch } from 'antd';
import { Choice } from '../app/Choice';
import { useEffect } from 'react';
import {
  dropTake,
  keepTake,
  openMicrophone,
  shutMicrophone,
  type Side,
  startTake,
  listensLive,
  useMicrophone,
} from './microphone';

/** The level, 48 dB to full scale. */
function Level() {
  const level = useMicrophone((s) => s.level);
  const share = level > 0 ? Math.max(0, 1 + (20 * Math.log10(level)) / 48) : 0;
  return (
    <svg width={120} height={10} data-id="input-level" aria-label="Level of the input, 48 dB to full scale">
      <rect width={120} height={10} fill="var(--ink-3)" />
      <rect width={120 * Math.min(1, share)} height={10} fill="var(--ink-on)" />
    </svg>
  );
}

/** The pending band while an input is open: nothing is kept until its right-hand button. */
export function MicrophoneBand() {
  const s = useMicrophone();
  useEffect(
    () => () => {
      // another face is looked at: a recording under way goes on
      if (useMicrophone.getState().taking === null && !listensLive()) shutMicrophone();
    },
    [],
  );
  const { taking } = s;
  if (taking) {
    const { seconds, clipped, clippedAt } = taking;
    return (
      <div className="tools pending" data-id="taking">
        <b>Recording {s.name.slice(0, 24)}</b>
        <span className="num" data-id="taken">
          {Math.floor(seconds / 60)}:{(seconds % 60).toFixed(1).padStart(4, '0')}
        </span>
        <Level />
        {clipped > 0 ? (
          <span>
            ⚠ clipped at {clippedAt.toFixed(1)} s, {clipped} samples: turn the source down
          </span>
        ) : (
          <span className="lab">WAV, {s.rate / 1000} kHz, 24-bit</span>
        )}
        <span className="grow" />
        <Button ghost onClick={dropTake}>
          Put back
        </Button>
        <Button data-id="keep-take" onClick={() => void keepTake()}>
          Keep and hear
        </Button>
      </div>
    );
  }
  return (
    <div className="tools pending" data-id="microphone">
      <Select
        size="small"
        style={{ width: 170 }}
        aria-label="Input"
        value={s.device}
        options={s.devices.map((d) => ({ value: d.id, label: d.label }))}
        onChange={(id: string) => void openMicrophone(id)}
      />
      <Choice<Side>
        name="Channel of the input"

        value={s.side}
        options={['left', 'right', 'both']}
        onChange={(side) => useMicrophone.setState({ side })}
      />
      <Level />
      <Switch
        size="small"
        checked={s.click}
        aria-label="Count in and click"
        onChange={(click) => useMicrophone.setState({ click })}
      />
      <span>count in and click</span>
      <span className="lab">listen on phones: the click is heard too</span>
      <span className="grow" />
      <Button ghost onClick={shutMicrophone}>
        Put back
      </Button>
      <Button data-id="start-take" onClick={startTake}>
        Record
      </Button>
    </div>
  );
}
