// What was just played while nobody recorded: its best whole bars are proposed, and can still be kept.
import { Button } from 'antd';
import { useCallback, useMemo, useState } from 'react';
import { api, type PlayedStrike } from '../api/client';
import { addPattern, currentPattern, sendStrikes, useBench } from '../app/state';
import { useAnswer } from '../app/useAnswer';
import { barTicks, PPQ } from '../model/time';
import { freshName } from '../patterns/state';
import { type Remembered, useRecorder } from './recorder';
import { useRecordSettings } from './settings';

/** When what was playing then began, the audio's clock; null when nothing played. */
const base = (r: Remembered) => (r.since === null ? null : r.clockS - r.since);

/** Strikes counted from a bar line: that of what was playing, or the first strike. */
function fromBarLine(all: Remembered[]): PlayedStrike[] {
  const last = all[all.length - 1];
  if (!last) return [];
  // only what belongs to the newest time something played, or to the newest time nothing did
  const same = all.filter((r) => {
    const [a, b] = [base(r), base(last)];
    return a === null || b === null ? a === b : Math.abs(a - b) < 0.5;
  });
  const zero = base(last) ?? same[0]?.clockS ?? 0;
  return same.map((r) => ({ note: r.note, velocity: r.velocity, from: r.from, at: r.clockS - zero }));
}

export function JustPlayed() {
  const remembered = useRecorder((s) => s.remembered);
  const project = useBench((s) => s.project);
  const patternId = useBench((s) => s.patternId);
  const pattern = useBench(currentPattern);
  const [chosen, setChosen] = useState(0);
  const strikes = useMemo(() => fromBarLine(remembered), [remembered]);
  const id = project?.id ?? '';
  const ask = useCallback(
    () =>
      api.fitJustPlayed({
        path: { project: id, pattern: patternId },
        body: { strikes },
      }),
    [id, patternId, strikes],
  );
  const fits = useAnswer(strikes.length > 0 && patternId ? ask : null, 250);
  if (!project || !pattern) return null;
  const list = fits?.stretches ?? [];
  const best = list[Math.min(chosen, list.length - 1)];
  const barS = (barTicks(pattern) * 60) / (project.settings.bpm * PPQ);
  const lastBar = Math.floor((strikes[strikes.length - 1]?.at ?? 0) / barS + 1 / 32);
  const lane = (note: number) => project.map.lanes.find((l) => l.note === note);
  const first = Math.min(lastBar - 3, Math.floor((strikes[0]?.at ?? 0) / barS));
  const bars = Math.max(4, lastBar - first + 1);
  const w = 296;
  const keepIn = async (pid: string) => {
    if (!best) return;
    const from = (lastBar + best.fromBar) * barS;
    const { strength, grid } = useRecordSettings.getState();
    const inside = strikes
      .map((s) => ({ ...s, at: s.at - from }))
      .filter((s) => s.at > -barS / 32 && s.at < best.bars * barS - barS / 32);
    const sent = await sendStrikes(
      {
        id: crypto.randomUUID().slice(0, 23),
        pattern: pid,
        strikes: inside,
        quantise: { strength, ...(grid ? { grid } : {}) },
      },
      () => undefined,
    );
    if (sent === 'kept') useRecorder.setState({ remembered: [] });
  };
  return (
    <section data-id="just-played">
      <div className="row">
        <h3>Just played</h3>
        <span className="lab">while nobody recorded</span>
      </div>
      {strikes.length === 0 ? (
        <p className="lab wraps">
          What you strike without recording is remembered for 16 bars, and can still be kept.
        </p>
      ) : (
        <>
          <svg width={w} height={34} aria-label="What was just played, bar by bar">
            <rect width={w} height={34} fill="var(--paper-sunk)" />
            {strikes.map((s) => {
              const x = ((s.at / barS - first) / bars) * w;
              const l = lane(s.note);
              return (
                <line
                  key={`${s.note} ${s.at}`}
                  className={l ? `f-${l.color}` : ''}
                  x1={x}
                  x2={x}
                  y1={32}
                  y2={32 - (28 * s.velocity) / 127}
                  stroke={l ? 'var(--c)' : 'var(--ink-3)'}
                  strokeWidth={2}
                />
              );
            })}
            {best && (
              <rect
                x={((lastBar + best.fromBar - first) / bars) * w + 1}
                y={1}
                width={(best.bars / bars) * w - 2}
                height={32}
                fill="none"
                stroke="var(--ink)"
                strokeWidth={2}
              />
            )}
          </svg>
          <div className="row">
            <span className="lab" data-id="just-fits">
              {best
                ? `${best.hits} hits in ${best.bars === 1 ? 'a bar' : `${best.bars} bars`}${chosen === 0 ? ', fits best' : ''}`
                : `${strikes.length} strikes`}
            </span>
            {list.length > 1 && (
              <Button size="small" title="Other bars" onClick={() => setChosen((chosen + 1) % list.length)}>
                Other bars
              </Button>
            )}
          </div>
          <div className="row">
            <Button size="small" data-id="keep-just" disabled={!best} onClick={() => void keepIn(patternId)}>
              Keep in {pattern.name}
            </Button>
            <Button
              size="small"
              data-id="just-new"
              disabled={!best}
              onClick={() =>
                void addPattern(freshName(project, 'played'), pattern.bars).then(() =>
                  keepIn(useBench.getState().patternId),
                )
              }
            >
              As a new pattern
            </Button>
            <Button size="small" type="text" onClick={() => useRecorder.setState({ remembered: [] })}>
              Forget
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
