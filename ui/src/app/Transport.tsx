import { NumberField } from './NumberField';
import { Button } from 'antd';
import { Select } from './later';
import { memo, useEffect, useRef } from 'react';
import type { Pattern } from '../api/client';
import { hex, Poly } from '../lanes/marks';
import { toggleRecord, useRecorder } from '../record/recorder';
import { barTicks, beatTicks, ticksAt } from '../model/time';
import { player } from '../player/player';
import { songPosition } from '../song/time';
import {
  currentPattern,
  currentRecording,
  editPattern,
  editSettings,
  setHearing,
  toggle,
  useBench,
} from './state';

/** Bar.beat.quarter-beat of a place in a pass, all from 1. */
export function place(atS: number, p: Pattern, bpm: number): string {
  const tick = Math.floor(ticksAt(atS, bpm) + 1e-6);
  const bar = Math.floor(tick / barTicks(p));
  const beat = Math.floor((tick % barTicks(p)) / beatTicks(p));
  const quarter = Math.floor((tick % beatTicks(p)) / (beatTicks(p) / 4));
  return `${bar + 1}.${beat + 1}.${quarter + 1}`;
}

/** Beats that are still counted in. */
const countedIn = (leftS: number, p: Pattern, bpm: number) =>
  `in ${Math.ceil(ticksAt(leftS, bpm) / beatTicks(p) - 1e-6)}`;

// moved by the compositor: what changes 30 times a second must lay nothing out and paint nothing anew
const track = { height: 5, margin: '2px 0', background: 'var(--paper-sunk)', contain: 'strict' };
const filled = {
  height: 5,
  width: 66,
  background: 'var(--ink)',
  transform: 'translateX(-66px)',
  willChange: 'transform',
};

/** Level meter of both channels with a light that stays lit after a clip, until clicked. */
function Meter() {
  const left = useRef<HTMLDivElement>(null);
  const right = useRef<HTMLDivElement>(null);
  const clip = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    const fall = [0, 0];
    return player.listen((r) => {
      [r.peakLeft, r.peakRight].forEach((p, i) => {
        const share = p > 0 ? Math.max(0, Math.min(1, 1 + (20 * Math.log10(p)) / 48)) : 0; // 48 dB shown
        const was = fall[i] ?? 0;
        const now = Math.max(share, was - 0.04);
        if (now === was) return;
        fall[i] = now;
        const bar = i === 0 ? left.current : right.current;
        if (bar) bar.style.transform = `translateX(${66 * (now - 1)}px)`;
      });
      if (Math.max(r.peakLeft, r.peakRight) > 1 && clip.current) {
        clip.current.style.background = 'var(--error)';
        clip.current.title = 'The output clipped. Click to put the light out.';
      }
    });
  }, []);
  return (
    <div className="row" style={{ gap: 4 }} title="Output level, 48 dB to full scale">
      <div style={{ width: 66 }}>
        <div style={track}>
          <div ref={left} style={filled} />
        </div>
        <div style={track}>
          <div ref={right} style={filled} />
        </div>
      </div>
      <button
        ref={clip}
        type="button"
        aria-label="Clip light"
        title="Lit when the output clips"
        style={{
          width: 12,
          height: 12,
          border: '1px solid var(--border)',
          borderRadius: 6,
          padding: 0,
          background: 'none',
        }}
        onClick={(e) => {
          e.currentTarget.style.background = 'none';
        }}
      />
    </div>
  );
}

const meters = ['4/4', '3/4', '6/8', '12/8', '5/4', '7/8'];

/** In Break the recording's tempo is what is heard; the project's is another. */
function HeardIn({ bpm, project }: { bpm: number; project: number }) {
  const slow = useBench((s) => s.hearing.slow);
  return (
    <div
      className="abs heardin"
      data-id="heard-in"
      title={`The recording's tempo is heard; the project's is ${project}`}
    >
      <b className="n">{(slow ? bpm / 2 : bpm).toFixed(1)}</b>
      <span className="lab">{slow ? 'BPM, at half speed' : 'BPM, the recording'}</span>
    </div>
  );
}

/** How the recording is heard: slowly, with a click on its grid. */
function HearAs() {
  const { slow, click } = useBench((s) => s.hearing);
  return (
    <span className="row" style={{ gap: 4 }}>
      <Button
        size="small"
        type={slow ? 'primary' : 'default'}
        aria-pressed={slow}
        data-id="half-speed"
        title="Half speed, at the same pitch"
        onClick={() => setHearing({ slow: !slow })}
      >
        ½ speed
      </Button>
      <Button
        size="small"
        type={click ? 'primary' : 'default'}
        aria-pressed={click}
        data-id="click"
        title="A click on the grid"
        onClick={() => setHearing({ click: !click })}
      >
        click
      </Button>
    </span>
  );
}

function RecordButton() {
  const on = useRecorder((r) => r.on);
  const here = useBench((s) => s.face === 'steps' || s.face === 'roll');
  if (!here) return null;
  return (
    <button
      type="button"
      className="play"
      style={{ left: 72, top: 38 }}
      data-id="record"
      aria-label={on ? 'End recording' : 'Record'}
      aria-pressed={on}
      title={on ? 'End recording; the beat plays on (R)' : 'Record what you play (R)'}
      onClick={(e) => {
        e.currentTarget.blur();
        toggleRecord();
      }}
    >
      <svg width={30} height={26} aria-hidden="true">
        <Poly
          pts={hex(15, 13, 29, 25)}
          fill={on ? 'var(--ink)' : 'var(--paper-raised)'}
          stroke="var(--ink)"
          strokeWidth={1.5}
        />
        <circle cx={15} cy={13} r={5} fill={on ? 'var(--ink-on)' : 'var(--ink)'} />
      </svg>
    </button>
  );
}

export const Transport = memo(function Transport() {
  const playing = useBench((s) => s.playing);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const meter = useBench((s) => {
    const m = currentPattern(s)?.meter;
    return m ? `${m.beats}/${m.unit}` : '4/4';
  });
  const recording = useBench((s) => (s.face === 'break' ? currentRecording(s) : null));
  const records = useBench((s) => s.face === 'steps' || s.face === 'roll');
  const position = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      player.listenToAll((r) => {
        const s = useBench.getState();
        const p = currentPattern(s);
        if (!position.current || !s.project) return;
        const show = (words: string) => {
          if (position.current && position.current.textContent !== words)
            position.current.textContent = words;
        };
        if (s.song && s.face !== 'break' && !s.instead) {
          show(songPosition(s.project.song, r.playing ? r.atS : 0));
          return;
        }
        if (!p) return;
        const rec = s.face === 'break' ? currentRecording(s) : null;
        const shown = rec ? { ...p, meter: rec.heard.meter } : p;
        show(
          r.playing && r.atS < r.from
            ? countedIn(r.from - r.atS, p, s.project.settings.bpm)
            : place(r.atS, shown, rec ? rec.heard.bpm : s.project.settings.bpm),
        );
      }),
    [],
  );
  return (
    <div className="corner">
      <button
        type="button"
        className="play"
        data-id="play"
        aria-label={playing ? 'Stop' : 'Play'}
        title={playing ? 'Stop (space)' : 'Play (space)'}
        onClick={(e) => {
          e.currentTarget.blur();
          toggle();
        }}
      >
        <svg width={50} height={44} aria-hidden="true">
          <Poly pts={hex(25, 22, 50, 43)} fill="var(--ink)" />
          {playing ? (
            <rect x={18} y={15} width={14} height={14} rx={1} fill="var(--ink-on)" />
          ) : (
            <path d="M20 13.500l15 8.500-15 8.500z" fill="var(--ink-on)" />
          )}
        </svg>
      </button>
      <RecordButton />
      <div ref={position} className="abs count" data-id="position" style={{ left: 74, top: 9 }}>
        1.1.1
      </div>
      {recording && <HeardIn bpm={recording.heard.bpm} project={bpm} />}
      {!recording && (
        <div className="abs row bpm" style={{ right: 12, top: 8, gap: 4 }}>
          <NumberField
            name="Tempo in BPM"
            size="small"
            style={{ width: 78 }}
            variant="borderless"
            controls={false}
            min={20}
            max={400}
            precision={1}
            value={bpm}
            set={(v) => v !== null && void editSettings({ bpm: v }, `Tempo ${v} BPM`)}
          />
          <span className="lab">BPM</span>
        </div>
      )}
      <div
        className="abs row"
        style={{ left: records ? 106 : 74, right: 12, top: 39, justifyContent: 'space-between' }}
      >
        {recording ? (
          <HearAs />
        ) : (
          <Select
            size="small"
            style={{ width: 60 }}
            aria-label="Meter"
            value={meter}
            options={meters.map((m) => ({ value: m, label: m }))}
            onChange={(m: string) => {
              const [beats, unit] = m.split('/').map(Number);
              void editPattern({ op: 'shape', meter: { beats: beats ?? 4, unit: unit ?? 4 } });
            }}
          />
        )}
        <Meter />
      </div>
    </div>
  );
});
