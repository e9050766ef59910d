import { memo } from 'react';
import { Button, InputNumber, Popover, Select, Slider, Switch } from 'antd';
import type { Pattern, Project } from '../api/client';
import { useBench } from '../app/state';
import { FeelTools } from '../steps/Feel';
import { Files, PatternPick } from '../steps/PatternTools';

export const RollTools = memo(function RollTools({
  project,
  pattern,
  snap,
  setSnap,
  strength,
  setStrength,
  quantise,
  zoom,
  within,
  setWithin,
  allNotes,
  setAllNotes,
  shadowOf,
  setShadowOf,
}: {
  project: Project;
  pattern: Pattern;
  snap: boolean;
  setSnap: (on: boolean) => void;
  strength: number;
  setStrength: (percent: number) => void;
  quantise: () => void;
  zoom: (by: number) => void;
  /** the hits and the lane the buttons are about, so that they are drawn anew with them and with nothing else */
  about: readonly unknown[];
  /** hits that lean so many ms at most stay when quantised */
  within: number;
  setWithin: (ms: number) => void;
  allNotes: boolean;
  setAllNotes: (on: boolean) => void;
  /** the recording whose energy lies behind the hits */
  shadowOf: string;
  setShadowOf: (id: string) => void;
}) {
  const follow = useBench((s) => s.follow);
  return (
    <div className="tools">
      <PatternPick project={project} pattern={pattern} />
      <Switch size="small" checked={snap} aria-label="Snap" onChange={setSnap} />
      <span className="muted" title="Alt does the opposite while it is held">
        Snap
      </span>
      <Button onClick={quantise} title={`The hits chosen, or the lane: ${strength} % (Q)`}>
        Quantise
      </Button>
      <Popover
        trigger="click"
        placement="bottom"
        content={
          <div className="lanetools" data-id="quantise-panel">
            <div className="row">
              <span className="lab">Strength</span>
              <Slider
                style={{ width: 120 }}
                min={0}
                max={100}
                value={strength}
                tooltip={{ open: false }}
                ariaLabelForHandle="Quantise strength"
                onChange={setStrength}
              />
              <span className="num">{strength}%</span>
            </div>
            <div className="row">
              <span>Hits within</span>
              <InputNumber
                size="small"
                style={{ width: 62 }}
                aria-label="Quantise leaves, ms"
                min={0}
                max={60}
                suffix="ms"
                controls={false}
                value={within}
                onChange={(v) => v !== null && setWithin(v)}
              />
              <span>of a line stay where they are</span>
            </div>
          </div>
        }
      >
        <Button size="small" data-id="quantise-how" title="How strongly, and what stays">
          {strength}%{within > 0 ? `, ±${within} ms stay` : ''}
        </Button>
      </Popover>
      <span className="sep" />
      <Button size="small" aria-label="Nearer" title="Nearer (Ctrl+wheel)" onClick={() => zoom(1.4)}>
        +
      </Button>
      <Button size="small" aria-label="Farther" title="Farther (Ctrl+wheel)" onClick={() => zoom(1 / 1.4)}>
        −
      </Button>
      <Switch
        size="small"
        checked={follow}
        aria-label="Follow"
        onChange={(f) => useBench.setState({ follow: f })}
      />
      <span className="muted">Follow</span>
      <Button
        size="small"
        title="All 128 notes, or the lanes of the map (Shift+I)"
        data-id="all-notes"
        onClick={() => setAllNotes(!allNotes)}
      >
        {allNotes ? 'Lanes' : 'Notes'}
      </Button>
      {project.recordings.length > 0 && (
        <Select
          size="small"
          style={{ width: 96 }}
          aria-label="Recording behind the hits"
          title="A recording whose energy is drawn behind the hits"
          value={shadowOf}
          options={[
            { value: '', label: 'no recording' },
            ...project.recordings.map((r) => ({ value: r.id, label: r.name })),
          ]}
          onChange={setShadowOf}
        />
      )}
      <FeelTools project={project} pattern={pattern} />
      <span className="grow" />
      <Files project={project} />
    </div>
  );
}, sameButFunctions);

/** The view moves sixty times a second; its functions are new each time, what they are about is not. */
function sameButFunctions(a: Record<string, unknown>, b: Record<string, unknown>): boolean {
  return Object.keys(b).every((k) => {
    const [x, y] = [a[k], b[k]];
    if (typeof y === 'function') return true;
    if (Array.isArray(x) && Array.isArray(y)) return x.length === y.length && x.every((v, i) => v === y[i]);
    return x === y;
  });
}
