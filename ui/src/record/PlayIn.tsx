// Playing in: how it is recorded, from which sources, the passes so far, and what was just played.
import {
  CloseOutlined,
  DeleteOutlined,
  MutedOutlined,
  PlayCircleOutlined,
  SoundOutlined,
} from '@ant-design/icons';
import { Button, Select, Segmented, Slider, Switch } from 'antd';
import { useEffect, useState } from 'react';
import { api, type Project, type RecordedPass } from '../api/client';
import { editPass, explain, say, takePassInstead, useBench } from '../app/state';
import { NumberField } from '../app/NumberField';
import { Chip } from '../lanes/marks';
import { ClockFollower } from '../model/midiClock';
import { grids, lateness } from '../model/time';
import { player } from '../player/player';
import { usePorts } from '../player/midi';
import { Controller } from './Controller';
import { askForMidi, controllerName, useInputs } from './inputs';
import { JustPlayed } from './JustPlayed';
import { measureLatency, useTapping } from './latency';
import { record, endRecording, useRecorder } from './recorder';
import './record.css';
import { bent, type ClickWhen, setRecord, useRecordSettings } from './settings';

const clickWhen: ClickWhen[] = ['off', 'counting in', 'recording', 'always'];

function Settings() {
  const s = useRecordSettings();
  const on = useRecorder((r) => r.on);
  return (
    <section>
      <div className="row">
        <Button
          type={on ? 'primary' : 'default'}
          data-id="record-long"
          title="R"
          onClick={() => (on ? endRecording() : record())}
        >
          {on ? 'End recording' : 'Record'}
        </Button>
        <Segmented
          size="small"
          data-id="record-mode"
          value={s.replace ? 'replace' : 'add'}
          options={[
            { value: 'add', label: 'adds', title: 'What is played comes on top' },
            {
              value: 'replace',
              label: 'replaces',
              title: 'From the moment a lane is played, what was on it gives way',
            },
          ]}
          onChange={(v) => setRecord({ replace: v === 'replace' })}
        />
      </div>
      <div className="row">
        <span className="lab cap">Quantise in</span>
        <Slider
          style={{ width: 84 }}
          min={0}
          max={100}
          step={5}
          value={s.strength}
          tooltip={{ open: false }}
          ariaLabelForHandle="Quantise what is played, percent"
          onChange={(strength: number) => setRecord({ strength })}
        />
        <span className="num">{s.strength === 0 ? 'as played' : `${s.strength}%`}</span>
        {s.strength > 0 && (
          <Select
            size="small"
            style={{ width: 76 }}
            aria-label="Quantise to"
            value={s.grid}
            options={[{ value: '', label: 'lane’s' }, ...grids.map((g) => ({ value: g, label: g }))]}
            onChange={(grid: string) => setRecord({ grid })}
          />
        )}
      </div>
      <div className="row">
        <span className="lab cap">While held</span>
        <Select
          size="small"
          style={{ width: 96 }}
          aria-label="Strokes while a key or pad is held"
          data-id="repeat"
          value={s.repeat}
          options={[
            { value: '', label: 'one stroke' },
            ...['1/8', '1/8t', '1/16', '1/16t', '1/32'].map((g) => ({ value: g, label: g })),
          ]}
          onChange={(repeat: string) => setRecord({ repeat })}
        />
        {s.repeat !== '' && (
          <>
            <span className="lab" title="Velocity from stroke to stroke">
              slope
            </span>
            <NumberField
              size="small"
              style={{ width: 48 }}
              name="Velocity from stroke to stroke"
              min={-32}
              max={32}
              controls={false}
              value={s.repeatSlope}
              set={(v) => v !== null && setRecord({ repeatSlope: v })}
            />
          </>
        )}
      </div>
      <div className="row">
        <span className="lab cap">Count-in</span>
        <Segmented<number>
          size="small"
          data-id="count-in"
          value={s.countIn}
          options={[
            { value: 0, label: 'none' },
            { value: 1, label: '1 bar' },
            { value: 2, label: '2 bars' },
          ]}
          onChange={(n) => setRecord({ countIn: n as 0 | 1 | 2 })}
        />
      </div>
      <div className="row">
        <span className="lab cap">Click</span>
        <Select
          size="small"
          style={{ width: 92 }}
          aria-label="When it clicks"
          value={s.click}
          options={clickWhen.map((v) => ({ value: v, label: v }))}
          onChange={(click: ClickWhen) => setRecord({ click })}
        />
        <Select
          size="small"
          style={{ width: 64 }}
          aria-label="Clicks a beat"
          value={s.clicksABeat}
          options={[
            { value: 1, label: 'beats' },
            { value: 2, label: 'halves' },
          ]}
          onChange={(n: 1 | 2) => setRecord({ clicksABeat: n })}
        />
        <Slider
          style={{ width: 32, margin: '0 6px' }}
          min={-36}
          max={0}
          value={s.clickDB}
          tooltip={{ open: false }}
          ariaLabelForHandle="Level of the click, dB"
          onChange={(clickDB: number) => setRecord({ clickDB })}
        />
      </div>
    </section>
  );
}

/** The tempo of clocks that came at these moments, ms; 0 when they are too few. */
function tempoOf(clocks: number[]): number {
  const clock = new ClockFollower();
  for (const t of clocks) clock.feed(t);
  return clock.sure ? clock.bpm : 0;
}

function Sources() {
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

function PassRow({
  project,
  p,
  number,
  last,
}: {
  project: Project;
  p: RecordedPass;
  number: number;
  last: string;
}) {
  const now = useRecorder((r) => r.on && r.pass === p.id);
  const alone = useBench((s) => s.alone === p.id);
  const { strength = 0 } = p.quantise;
  const lanes = p.notes.map((n) => project.map.lanes.find((l) => l.note === n));
  const hear = async () => {
    try {
      if (alone) {
        await takePassInstead(null, '');
        return;
      }
      const sounds = await api.hearPassAlone({
        path: { project: project.id, pass: p.id },
        query: { rate: player.rate },
      });
      if (sounds.pass) await takePassInstead(sounds.pass, p.id);
    } catch (e) {
      say(explain(e));
    }
  };
  return (
    <div className={`passrow ${now ? 'on' : ''} ${p.muted ? 'off' : ''}`} data-pass={p.id}>
      <b className="n">{number}</b>
      <span className="grow">
        <span>
          {p.hits === 1 ? 'a hit' : `${p.hits} hits`}
          {now ? ' so far' : ''}
        </span>
        <span className="lab">
          {p.muted ? ', muted' : ''}, velocity {p.softest}
          {p.hardest > p.softest ? ` to ${p.hardest}` : ''}
        </span>
        <br />
        <span className="lab">
          {strength === 0 ? 'as played' : `quantised ${strength}%`}, {lateness(p.leanMS)}
        </span>
      </span>
      <span className="chips">
        {lanes
          .slice(0, 4)
          .map((l, i) =>
            l ? (
              <Chip key={l.note} code={l.code} family={l.color} w={22} h={19} />
            ) : (
              <span key={p.notes[i]}>?</span>
            ),
          )}
      </span>
      <span className="acts">
        <Button
          type={alone ? 'primary' : 'text'}
          size="small"
          icon={<PlayCircleOutlined />}
          aria-label={`Hear pass ${number} alone`}
          title="Hear it alone"
          onClick={() => void hear()}
        />
        <Button
          type="text"
          size="small"
          icon={p.muted ? <MutedOutlined /> : <SoundOutlined />}
          aria-label={p.muted ? `Hear pass ${number} again` : `Mute pass ${number}`}
          aria-pressed={p.muted}
          title={p.muted ? 'Hear it again' : 'Mute it: its hits leave the pattern, and come back as they are'}
          onClick={() => void editPass({ id: p.id, muted: !p.muted })}
        />
        <Select
          size="small"
          variant="borderless"
          style={{ width: 76 }}
          aria-label={`Quantise pass ${number}`}
          title="Quantise it, from where it was played"
          value={strength}
          popupMatchSelectWidth={110}
          options={[...new Set([0, 50, 75, 100, strength])]
            .toSorted((a, b) => a - b)
            .map((v) => ({ value: v, label: v === 0 ? 'played' : `${v}%` }))}
          onChange={(v: number) => void editPass({ id: p.id, quantise: { ...p.quantise, strength: v } })}
        />
        {last !== '' && (
          <Button
            type="text"
            size="small"
            title="Make it one with the pass before"
            onClick={() => void editPass({ id: last, merge: p.id })}
          >
            join
          </Button>
        )}
        <Button
          type="text"
          size="small"
          icon={<DeleteOutlined />}
          aria-label={`Remove pass ${number}`}
          title="Remove it with its hits; undo brings it back"
          onClick={() => void editPass({ id: p.id, remove: true })}
        />
      </span>
    </div>
  );
}

function Passes({ project }: { project: Project }) {
  const patternId = useBench((s) => s.patternId);
  const unsent = useRecorder((r) => r.unsent);
  const mine = project.passes.filter((p) => p.pattern === patternId);
  return (
    <section data-id="passes">
      <div className="row">
        <h3>Passes</h3>
        <span className="lab">newest first{unsent > 0 ? `; ${unsent} strikes on their way` : ''}</span>
      </div>
      {mine.length === 0 && (
        <p className="lab wraps">
          R records what you play. Each time through the loop in which you play something is a pass of its
          own: one undo, heard alone, muted, quantised afterwards.
        </p>
      )}
      {mine.toReversed().map((p, i) => {
        const at = mine.length - 1 - i;
        const before = mine[at - 1];
        return (
          <PassRow
            key={p.id}
            project={project}
            p={p}
            number={at + 1}
            last={before && before.muted === p.muted ? before.id : ''}
          />
        );
      })}
    </section>
  );
}

export function PlayInDrawer({ project }: { project: Project }) {
  useEffect(
    () => () => {
      if (useBench.getState().alone !== '') void takePassInstead(null, '');
    },
    [],
  );
  return (
    <aside className="drawer playin" data-id="play-in" aria-label="Playing in">
      <div className="row head">
        <h2>Playing in</h2>
        <span className="grow" />
        <Button
          type="text"
          size="small"
          aria-label="Shut"
          icon={<CloseOutlined />}
          onClick={() => useBench.setState({ panel: '' })}
        />
      </div>
      <div className="list">
        <Settings />
        <Passes project={project} />
        <JustPlayed />
        <Sources />
      </div>
    </aside>
  );
}
