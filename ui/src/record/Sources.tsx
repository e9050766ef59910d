// Where strikes come from.
import { Button, Select, Slider, Switch } from 'antd';
import { useState } from 'react';
import { NumberField } from '../app/NumberField';
import { useBench } from '../app/state';
import { ClockFollower } from '../model/midiClock';
import { usePorts } from '../player/midi';
import { Controller } from './Controller';
import { askForMidi, controllerName, useInputs } from './inputs';
import { measureLatency, useTapping } from './latency';
import { bent, setRecord, useRecordSettings } from './settings';

/** The tempo of clocks that came at these moments, ms; 0 when they are too few. */
function tempoOf(clocks: number[]): number {
  const clock = new ClockFollower();
  for (const t of clocks) clock.feed(t);
  return clock.sure ? clock.bpm : 0;
}

export function Sources() {
  const s = useRecordSettings();
  const { inputs, why, clocks } = usePorts();
  const heardBPM = tempoOf(clocks);
  const heard = useInputs((i) => i.heard);
  const struck = useInputs((i) => i.struck);
  const learning = useInputs((i) => i.learning);
  const lane = useBench((b) => b.project?.map.lanes.find((l) => l.note === b.lane));
  const taps = useTapping((t) => t.taps);
  const [open, setOpen] = useState(false);
  const late = (source: string) => {
    const ms = s.lateMS[source];
    return ms ? `, ${ms} ms taken off` : '';
  };
  const learnt = Object.keys(s.learnt).length;
  return (
    <section>
      <div className="row">
        <h3>Sources</h3>
        <span className="grow" />
        <Button
          size="small"
          data-id="measure-latency"
          title="Strike along with eight clicks: how late each source comes is measured and taken off"
          onClick={measureLatency}
        >
          {taps === null ? 'Measure' : `${taps} of 8`}
        </Button>
      </div>
      <div className="source">
        <b>Keys</b> <span className="lab">A to H and Z to N, Shift at 127{late('keys')}</span>
      </div>
      <div className="source">
        <b>Pads</b> <span className="lab">mouse, touch, pen{late('pads')}</span>
      </div>
      {inputs.map((i) => (
        <div key={i} className="source">
          <b>{i}</b>{' '}
          <span className="lab">
            {heard[i] ? 'heard' : 'nothing heard yet'}
            {late(i)}
          </span>
        </div>
      ))}
      {inputs.length === 0 && (
        <div className="row">
          {s.midi ? (
            <span className="lab wraps">
              {why || 'No MIDI input is plugged in; one that comes is taken at once.'}
            </span>
          ) : (
            <Button size="small" data-id="ask-midi" onClick={() => void askForMidi()}>
              Use MIDI inputs
            </Button>
          )}
        </div>
      )}
      <div className="row source">
        <b>Bench controller</b>
        <span className="lab">{late(controllerName).slice(2) || 'simulated, on screen'}</span>
        <span className="grow" />
        <Button size="small" data-id="open-controller" onClick={() => setOpen(!open)}>
          {open ? 'Shut' : 'Open'}
        </Button>
      </div>
      <div className="row source">
        <b>MIDI clock</b>
        <Switch
          size="small"
          checked={s.sendClock}
          aria-label="Send the tempo as MIDI clock"
          onChange={(sendClock) => setRecord({ sendClock })}
        />
        <span className="lab" title="To the MIDI output chosen for the project, 24 clocks a quarter note">
          send
        </span>
        <Switch
          size="small"
          checked={s.followClock}
          aria-label="Follow an input’s MIDI clock"
          onChange={(followClock) => setRecord({ followClock })}
        />
        <span
          className="lab"
          title="Start, stop and tempo of another machine; where in the bar it stands is taken when it starts"
        >
          follow
        </span>
        {s.sendClock && heardBPM > 0 && (
          <span className="lab" data-id="receiver-tempo">
            the receiver hears {heardBPM.toFixed(1)}
          </span>
        )}
      </div>
      {open && <Controller />}
      {(inputs.length > 0 || open) && (
        <>
          <div className="row">
            <span className="lab cap">Velocity</span>
            <svg width={60} height={40} aria-label="How velocities are bent; dots are strikes">
              <rect width={60} height={40} fill="var(--paper-sunk)" />
              <polyline
                points={Array.from({ length: 31 }, (_, i) => {
                  const v = Math.max(1, (i / 30) * 127);
                  return `${i * 2},${40 - (38 * bent(v, s)) / 127}`;
                }).join(' ')}
                fill="none"
                stroke="var(--ink)"
              />
              {struck.map((x, i) => (
                <circle
                  // oxlint-disable-next-line react/no-array-index-key -- the newest first, each in its place
                  key={i}
                  cx={(x.as / 127) * 60}
                  cy={40 - (38 * x.to) / 127}
                  r={i === 0 ? 3 : 1.5}
                  fill="var(--ink-2)"
                />
              ))}
            </svg>
            <Slider
              style={{ width: 70 }}
              min={-100}
              max={100}
              disabled={s.fixed > 0}
              value={Math.round(-100 * Math.log2(s.curve))}
              tooltip={{ open: false }}
              ariaLabelForHandle="Softer strikes count more, or less"
              onChange={(v: number) => setRecord({ curve: 2 ** (-v / 100) })}
            />
            <Switch
              size="small"
              checked={s.fixed > 0}
              aria-label="One velocity for all"
              onChange={(on) => setRecord({ fixed: on ? 100 : 0 })}
            />
            <span className="lab">fixed</span>
            {s.fixed > 0 && (
              <NumberField
                size="small"
                style={{ width: 44 }}
                name="The one velocity"
                min={1}
                max={127}
                controls={false}
                value={s.fixed}
                set={(v) => v && setRecord({ fixed: v })}
              />
            )}
          </div>
          <div className="row">
            <span className="lab cap">Channel</span>
            <Select
              size="small"
              style={{ width: 66 }}
              aria-label="MIDI channel"
              value={s.channel}
              options={[
                { value: 0, label: 'all' },
                ...Array.from({ length: 16 }, (_, i) => ({ value: i + 1, label: String(i + 1) })),
              ]}
              onChange={(channel: number) => setRecord({ channel })}
            />
            <Button
              size="small"
              data-id="learn"
              type={learning === null ? 'default' : 'primary'}
              title="The next note an input sends plays the chosen lane from then on"
              onClick={() => useInputs.setState({ learning: learning === null && lane ? lane.note : null })}
            >
              {learning === null ? `Learn ${lane?.code ?? ''}` : 'Strike it now'}
            </Button>
            {learnt > 0 && (
              <Button size="small" onClick={() => setRecord({ learnt: {} })}>
                Forget {learnt}
              </Button>
            )}
          </div>
        </>
      )}
    </section>
  );
}
