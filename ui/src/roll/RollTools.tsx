import { Button, Select, Slider, Switch } from 'antd';
import type { Pattern, Project } from '../api/client';
import { choosePattern, editPattern, useBench } from '../app/state';
import { grids } from '../lanes/time';

export function RollTools({
  project,
  pattern,
  snap,
  setSnap,
  strength,
  setStrength,
  quantise,
  zoom,
  chosen,
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
}) {
  const patternId = useBench((s) => s.patternId);
  const follow = useBench((s) => s.follow);
  return (
    <div className="tools">
      <Select
        style={{ width: 124 }}
        aria-label="Pattern"
        value={patternId}
        onChange={choosePattern}
        options={project.patterns.map((p) => ({ value: p.id, label: p.value.name }))}
      />
      <span className="lab">Grid</span>
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
        style={{ width: 80 }}
        min={0}
        max={100}
        value={strength}
        tooltip={{ open: false }}
        ariaLabelForHandle="Quantise strength"
        onChange={setStrength}
      />
      <span className="num">{strength}%</span>
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
      <span className="grow" />
      <span className="lab" data-id="roll-chosen">
        {chosen > 0
          ? `${chosen === 1 ? 'a hit' : `${chosen} hits`} chosen`
          : 'click draws, dragging chooses, right click erases'}
      </span>
    </div>
  );
}
