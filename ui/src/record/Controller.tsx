// The bench controller: a simulated controller of sixteen pads that sends what a real one sends, struck on screen or by performances with
// human timing.
import { Button, Select } from 'antd';
import { Choice } from '../app/Choice';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, type Performance } from '../api/client';
import { NumberField } from '../app/NumberField';
import { useAnswer } from '../app/useAnswer';
import { explain, say, useBench } from '../app/state';
import { hex, Poly } from '../lanes/marks';
import { clocksAQuarter } from '../model/midiClock';
import { player } from '../player/player';
import { controllerName, midiIn } from './inputs';

type Strength = 'even' | 'by place' | 'random';

/** Lowest note of its pads. */
const lowest = 36;

/** Sends a note as the controller does. */
const send = (note: number, velocity: number, timeStamp: number) =>
  midiIn(velocity > 0 ? [0x99, note, velocity] : [0x89, note, 0], timeStamp, controllerName);

/** The timer by which a performance goes on. */
let going = 0;

export function stopPerformance() {
  clearInterval(going);
}

/** Plays a performance from the next time through on, by the clock of what is heard, as a player does; when nothing plays, from now on. */
export function perform(p: Performance) {
  stopPerformance();
  const heard = player.heardAt(performance.now());
  const at = player.placeOf(heard);
  const begin = heard + (at ? (at.since < 0 ? -at.since : (at.pass + 1) * at.length - at.since) : 0.3);
  const events = p.strikes
    .flatMap((s) => [
      { at: s.at, note: s.note, velocity: s.velocity },
      { at: s.at + 0.06, note: s.note, velocity: 0 },
    ])
    .toSorted((a, b) => a.at - b.at);
  let next = 0;
  going = window.setInterval(() => {
    const now = performance.now();
    const clock = player.heardAt(now);
    for (let e = events[next]; e && begin + e.at <= clock; e = events[++next])
      send(e.note, e.velocity, now + (begin + e.at - clock) * 1000);
    if (next >= events.length) stopPerformance();
  }, 3);
}

/** The controller as a machine that has the tempo: its clock, every 24th of a quarter note. */
let ticking = 0;

function stopClock() {
  if (ticking === 0) return;
  clearInterval(ticking);
  ticking = 0;
  midiIn([0xfc], performance.now(), controllerName);
}

function startClock(bpm: number) {
  stopClock();
  const begin = performance.now();
  const period = 60000 / (bpm * clocksAQuarter);
  let n = 0;
  midiIn([0xfa], begin, controllerName);
  ticking = window.setInterval(() => {
    for (; begin + n * period <= performance.now(); n++) midiIn([0xf8], begin + n * period, controllerName);
  }, 4);
}

export function Controller() {
  const [clockBPM, setClockBPM] = useState(100);
  const [strength, setStrength] = useState<Strength>('by place');
  const [at, setAt] = useState(0);
  const lanes = useBench((s) => s.project?.map.lanes);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const held = useRef(new Map<number, number>());
  const found = useAnswer(useCallback(() => api.listPerformances({ query: { bpm, seed: 7 } }), [bpm]));
  useEffect(
    () => () => {
      stopPerformance();
      stopClock();
    },
    [],
  );
  const list = found?.performances ?? [];
  const velocity = (e: React.PointerEvent) => {
    if (strength === 'even') return 100;
    if (strength === 'random') return 30 + Math.floor(Math.random() * 98);
    const b = e.currentTarget.getBoundingClientRect();
    const far = Math.hypot(
      (e.clientX - b.left - b.width / 2) / (b.width / 2),
      (e.clientY - b.top - b.height / 2) / (b.height / 2),
    );
    return Math.max(1, Math.round(127 - 100 * Math.min(1, far)));
  };
  const chosen = list[at];
  return (
    <div data-id="controller">
      <svg width={296} height={124} aria-label="Pads of the bench controller">
        {Array.from({ length: 16 }, (_, i) => {
          const note = lowest + i;
          const lane = lanes?.find((l) => l.note === note);
          const x = 24 + (i % 8) * 35;
          const y = i < 8 ? 90 : 32;
          return (
            <g
              key={note}
              data-controller-pad={note}
              className={lane ? `f-${lane.color} padshape` : 'padshape'}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                held.current.set(e.pointerId, note);
                send(note, velocity(e), e.timeStamp);
              }}
              onPointerUp={(e) => {
                held.current.delete(e.pointerId);
                send(note, 0, e.timeStamp);
              }}
            >
              <title>{`note ${note}${lane ? `, ${lane.name}` : ', no lane'}`}</title>
              <Poly
                pts={hex(x, y, 34, 46)}
                fill={lane ? 'color-mix(in srgb, var(--c) 30%, var(--paper-raised))' : 'var(--paper-raised)'}
                stroke={lane ? 'var(--e)' : 'var(--border)'}
                {...(lane ? {} : { strokeDasharray: '3 3' })}
              />
              <text x={x} y={y + 4} textAnchor="middle" className="i n">
                {note}
              </text>
            </g>
          );
        })}
      </svg>
      <div className="row">
        <span className="lab">Strikes</span>
        <Choice<Strength>
          name="Strikes"

          options={['even', 'by place', 'random']}
          value={strength}
          onChange={setStrength}
        />
      </div>
      <div className="row">
        <Select
          size="small"
          style={{ width: 178 }}
          aria-label="Performance"
          data-id="performance"
          value={at}
          options={list.map((p, i) => ({ value: i, label: p.name }))}
          onChange={setAt}
        />
        <Button
          size="small"
          data-id="perform"
          disabled={!chosen}
          title="It plays by itself, as hands play, from the next time through"
          onClick={() => (chosen ? perform(chosen) : say(explain('no performance')))}
        >
          Play it
        </Button>
        <Button size="small" onClick={stopPerformance}>
          Stop
        </Button>
      </div>
      <div className="row">
        <span className="lab" title="It sends MIDI clock, for when no other machine is there">
          Clock
        </span>
        <NumberField
          size="small"
          style={{ width: 64 }}
          name="Tempo of the controller’s clock"
          min={20}
          max={400}
          controls={false}
          value={clockBPM}
          set={(v) => v && setClockBPM(v)}
        />
        <Button size="small" data-id="clock-start" onClick={() => startClock(clockBPM)}>
          Start
        </Button>
        <Button size="small" data-id="clock-stop" onClick={stopClock}>
          Stop
        </Button>
      </div>
    </div>
  );
}
