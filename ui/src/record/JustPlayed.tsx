// What was just played while nobody recorded: its best whole bars are proposed, and can still be kept.
import { Button } from 'antd';
import { useCallback, useMemo, useState } from 'react';
import { api } from '../api/client';
import { addPattern, currentPattern, sendStrikes, useBench } from '../app/state';
import { useAnswer } from '../app/useAnswer';
import { barTicks, PPQ } from '../model/time';
import { freshName } from '../patterns/state';
import { useRecorder } from './recorder';
import { useRecordSettings } from './settings';

export function JustPlayed() {
  const remembered = useRecorder((s) => s.remembered);
  const project = useBench((s) => s.project);
  const patternId = useBench((s) => s.patternId);
  const pattern = useBench(currentPattern);
  const [chosen, setChosen] = useState(0);
  const heard = useMemo(
    () =>
      remembered.map(({ clockS, since, tune, ...r }) => ({
        ...r,
        at: clockS,
        ...(tune ? { tune } : {}),
        ...(since === null ? {} : { since }),
      })),
    [remembered],
  );
  const id = project?.id ?? '';
  const ask = useCallback(
    () =>
      api.fitJustPlayed({
        path: { project: id, pattern: patternId },
        body: { strikes: heard },
      }),
    [id, patternId, heard],
  );
  const fits = useAnswer(heard.length > 0 && patternId ? ask : null, 250);
  if (!project || !pattern) return null;
  const list = fits?.stretches ?? [];
  const strikes = fits?.strikes ?? [];
  const best = list[Math.min(chosen, list.length - 1)];
  const barS = (barTicks(pattern) * 60) / (project.settings.bpm * PPQ);
  const lastBar = Math.floor((strikes[strikes.length - 1]?.at ?? 0) / barS + 1 / 32);
  const lane = (note: number) => project.map.lanes.find((l) => l.note === note);
  const first = Math.min(lastBar - 3, best?.fromBar ?? 0, Math.floor((strikes[0]?.at ?? 0) / barS));
  const bars = Math.max(4, lastBar - first + 1);
  const w = 296;
  const keepIn = async (pid: string) => {
    if (!best) return;
    const { strength, grid } = useRecordSettings.getState();
    const sent = await sendStrikes(
      {
        id: crypto.randomUUID().slice(0, 23),
        pattern: pid,
        strikes: best.strikes,
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
      {heard.length === 0 ? (
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
                x={((best.fromBar - first) / bars) * w + 1}
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
                ? `${best.strikes.length} hits in ${best.bars === 1 ? 'a bar' : `${best.bars} bars`}${chosen === 0 ? ', fits best' : ''}`
                : `${heard.length} strikes`}
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
