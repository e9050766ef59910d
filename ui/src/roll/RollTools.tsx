import { memo } from 'react';
import { Button, InputNumber, Select, Slider, Switch } from 'antd';
import type { Pattern, Project } from '../api/client';
import { choosePattern, editPattern, useBench } from '../app/state';
import { grids } from '../model/time';

export const RollTools = memo(function RollTools({
  project,
  pattern,
  snap,
  setSnap,
  strength,
  setStrength,
  quantise,
  zoom,
  chosen,
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
  /** how many hits are chosen */
  chosen: number;
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
  const patternId = useBench((s) => s.patternId);
  const follow = useBench((s) => s.follow);
  return (
    <div className="tools">
      <Select
        style={{ width: 108 }}
        aria-label="Pattern"
        value={patternId}
        onChange={choosePattern}
        options={project.patterns.map((p) => ({ value: p.id, label: p.value.name }))}
      />
      <Select
        style={{ width: 76 }}
        aria-label="Grid"
        value={pattern.grid}
        options={grids.map((g) => ({ value: g, label: g }))}
        onChange={(grid: string) => void editPattern({ op: 'shape', grid })}
      />
      <Switch size="small" checked={snap} aria-label="Snap" onChange={setSnap} />
      <span className="muted" title="Alt does the opposite while it is held">
        Snap
      </span>
      <span className="sep" />
      <Button onClick={quantise} title="The hits chosen, or the lane">
        Quantise
      </Button>
      <Slider
        style={{ width: 60 }}
        min={0}
        max={100}
        value={strength}
        tooltip={{ open: false }}
        ariaLabelForHandle="Quantise strength"
        onChange={setStrength}
      />
      <span className="num">{strength}%</span>
      <span className="lab" title="Hits that lean no more than this stay where they are">
        leaving
      </span>
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
          value={shadowOf}
          options={[
            { value: '', label: 'no shadow' },
            ...project.recordings.map((r) => ({ value: r.id, label: r.name })),
          ]}
          onChange={setShadowOf}
        />
      )}
      <span className="grow" />
      <span className="lab" data-id="roll-chosen">
        {chosen > 0 ? `${chosen === 1 ? 'a hit' : `${chosen} hits`} chosen` : 'click draws'}
      </span>
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
