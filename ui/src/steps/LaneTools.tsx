// What is done to a whole lane at once: fills, shifts, velocities.
import { NumberField } from '../app/NumberField';
import { Button, Popover } from 'antd';
import { lazily } from '../app/lazily';
import { Select } from '../app/later';
import { Choice } from '../app/Choice';
import { memo, useState } from 'react';
import type { Lane, Pattern } from '../api/client';
import type { AboutLanes } from '../model/edits';
import { currentPattern, editPattern, useBench } from '../app/state';
import { barTicks, cellOf, grids, msToTicks, PPQ } from '../model/time';

const InputNumber = lazily(async () => (await import('antd/es/input-number')).default<number>);

const Num = ({
  name,
  value,
  set,
  min,
  max,
}: {
  name: string;
  value: number;
  set: (v: number) => void;
  min: number;
  max: number;
}) => (
  <InputNumber
    size="small"
    style={{ width: 54 }}
    aria-label={name}
    min={min}
    max={max}
    value={value}
    onChange={(v) => v !== null && set(v)}
  />
);

function Panel({ pattern, lane }: { pattern: Pattern; lane: Lane }) {
  const bar = useBench((s) => s.bar);
  const velocity = useBench((s) => s.strikeVelocity);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const [where, setWhere] = useState<'this bar' | 'all bars'>('this bar');
  const cells = Math.round(barTicks(pattern) / cellOf(pattern, lane.note));
  const beat = Math.max(1, Math.round(PPQ / cellOf(pattern, lane.note)));
  const [strokes, setStrokes] = useState(5);
  const [over, setOver] = useState(cells);
  const [later, setLater] = useState(0);
  const [amount, setAmount] = useState(12);
  const [level, setLevel] = useState(100);
  const [percent, setPercent] = useState(90);
  const [nearer, setNearer] = useState(30);
  const [even, setEven] = useState(110);
  const [ghost, setGhost] = useState(50);
  const also = useBench((s) => s.alsoLanes);
  const [strength, setStrength] = useState(100);
  const [within, setWithin] = useState(0);
  const notes = [...new Set([lane.note, ...also])];
  const own = pattern.lanes?.[lane.note];
  const laneCells = Math.round((pattern.bars * barTicks(pattern)) / cellOf(pattern, lane.note));
  const shapeLane = (change: { grid?: string; cells?: number }, label: string) =>
    void editPattern({
      op: 'shape',
      notes,
      lane: { grid: own?.grid ?? '', cells: own?.cells ?? 0, ...change },
      label: `${lane.name}: ${label}`,
    });
  const scope = where === 'this bar' ? { fromBar: bar, toBar: bar + 1 } : { fromBar: 0, toBar: pattern.bars };
  const run = (e: AboutLanes, label: string) =>
    void editPattern({ ...scope, notes, ...e, label: `${label} ${lane.name}` });
  const fill = (every: number, offset: number, label: string) =>
    run({ op: 'fill', every, offset, velocity }, label);
  const shape = (
    how: 'set' | 'add' | 'scale' | 'compress' | 'accent' | 'random' | 'even',
    by: number,
    label: string,
  ) => run({ op: 'velocity', how, amount: by, ghost, seed: Math.floor(Math.random() * 2 ** 31) }, label);
  return (
    <div className="lanetools" data-id="lane-tools">
      <div className="row">
        <b>{notes.length > 1 ? `${notes.length} lanes, whole` : `${lane.name}, the whole lane`}</b>
        <span className="grow" />
        <Choice
          name="In which bars"

          value={where}
          options={['this bar', 'all bars']}
          onChange={(v) => setWhere(v as 'this bar')}
        />
      </div>
      <div className="row">
        <span className="lab">Fill</span>
        <Button size="small" onClick={() => fill(beat, 0, 'Beats of')}>
          beats
        </Button>
        <Button
          size="small"
          disabled={beat < 2}
          onClick={() => fill(beat, Math.floor(beat / 2), 'Off-beats of')}
        >
          off-beats
        </Button>
        <Button size="small" onClick={() => fill(beat * 2, beat, 'Backbeat of')}>
          2 and 4
        </Button>
        <Button size="small" onClick={() => fill(2, 0, 'Every second step of')}>
          every 2nd
        </Button>
        <Button size="small" onClick={() => fill(1, 0, 'Every step of')}>
          every
        </Button>
      </div>
      <div className="row">
        <span className="lab">Spread</span>
        <Num name="Strokes" value={strokes} set={setStrokes} min={0} max={over} />
        <span>strokes over</span>
        <Num name="Steps" value={over} set={setOver} min={1} max={64} />
        <span>steps,</span>
        <Num name="Steps later" value={later} set={setLater} min={-63} max={63} />
        <span>later</span>
        <Button
          size="small"
          data-id="spread"
          onClick={() =>
            run({ op: 'fill', strokes, cells: over, offset: later, velocity }, `${strokes} over ${over}:`)
          }
        >
          Spread
        </Button>
      </div>
      <div className="row">
        <span className="lab">Move</span>
        <Button size="small" title="Shift+←" onClick={() => run({ op: 'shift', by: -1 }, 'Earlier:')}>
          ← a step
        </Button>
        <Button size="small" title="Shift+→" onClick={() => run({ op: 'shift', by: 1 }, 'Later:')}>
          a step →
        </Button>
        <Button size="small" onClick={() => run({ op: 'reverse' }, 'Reverse')}>
          backwards
        </Button>
        <Button size="small" onClick={() => run({ op: 'clear' }, 'Clear')}>
          clear
        </Button>
      </div>
      <div className="row">
        <span className="lab">Quantise</span>
        <Num name="Quantise strength" value={strength} set={setStrength} min={0} max={100} />
        <span>%, hits within</span>
        <Num name="Quantise leaves, ms" value={within} set={setWithin} min={0} max={60} />
        <span>ms stay</span>
        <Button
          size="small"
          title="Q, with 100 %"
          onClick={() => run({ op: 'quantise', strength, within: msToTicks(within, bpm) }, 'Quantise')}
        >
          Quantise
        </Button>
      </div>
      <div className="row">
        <span className="lab">Own grid, length</span>
        <Select
          size="small"
          style={{ width: 110 }}
          aria-label="Grid of the lane"
          data-id="lane-grid"
          value={own?.grid ?? ''}
          options={[{ value: '', label: `as the rest` }, ...grids.map((v) => ({ value: v, label: v }))]}
          onChange={(grid: string) =>
            shapeLane({ grid }, grid === '' ? 'the pattern’s grid' : `grid ${grid}`)
          }
        />
        <NumberField
          size="small"
          style={{ width: 62 }}
          name="Length of the lane in steps"
          empty
          title="It begins again after so many steps, running on through the passes; empty: as long as the pattern"
          min={1}
          max={laneCells}
          placeholder={String(laneCells)}
          value={own?.cells ? own.cells : null}
          set={(v) =>
            shapeLane({ cells: v === laneCells ? 0 : (v ?? 0) }, v ? `${v} steps` : 'as long as the pattern')
          }
        />
        <span>steps</span>
      </div>
      <div className="row">
        <span className="lab">Harder, softer</span>
        <Num name="Amount" value={amount} set={setAmount} min={1} max={127} />
        <Button size="small" onClick={() => shape('add', amount, 'Harder:')}>
          +
        </Button>
        <Button size="small" onClick={() => shape('add', -amount, 'Softer:')}>
          −
        </Button>
        <Button
          size="small"
          title="Beats harder, what lies between softer"
          onClick={() => shape('accent', amount, 'Accents of')}
        >
          Accents
        </Button>
        <Button
          size="small"
          title="Up to this much to each side"
          onClick={() => shape('random', amount, 'Vary')}
        >
          Vary
        </Button>
      </div>
      <div className="row">
        <span className="lab">All to</span>
        <Num name="Velocity of all" value={level} set={setLevel} min={1} max={127} />
        <Button
          size="small"
          data-id="set-velocity"
          title="Every hit of the lane to this velocity"
          onClick={() => shape('set', level, 'Velocity of')}
        >
          Set
        </Button>
        <Num name="Percent of what they are" value={percent} set={setPercent} min={1} max={400} />
        <Button
          size="small"
          title="So many percent of what they are"
          onClick={() => shape('scale', percent, 'Scale')}
        >
          % of what they are
        </Button>
        <Num name="Percent nearer to each other" value={nearer} set={setNearer} min={1} max={100} />
        <Button
          size="small"
          title="So many percent nearer to their mean"
          onClick={() => shape('compress', nearer, 'Compress')}
        >
          % closer together
        </Button>
      </div>
      <div className="row">
        <span className="lab">Main strokes to</span>
        <Num name="Main strokes to" value={even} set={setEven} min={1} max={127} />
        <span>but not ghosts under</span>
        <Num name="Ghosts under" value={ghost} set={setGhost} min={1} max={127} />
        <Button size="small" onClick={() => shape('even', even, 'Even out')}>
          Even out
        </Button>
      </div>
      <div className="row">
        <span className="lab">Repeat bar {bar + 1} as bar</span>
        <Select
          size="small"
          style={{ width: 64 }}
          aria-label="Repeat this bar as bar"
          value={null}
          disabled={pattern.bars < 2}
          options={Array.from({ length: pattern.bars }, (_, b) => ({ value: b, label: `${b + 1}` })).filter(
            (o) => o.value !== bar,
          )}
          onChange={(b: number | null) =>
            b !== null &&
            void editPattern({
              op: 'copy',
              fromBar: bar,
              toBar: bar + 1,
              at: b,
              label: `Repeat bar ${bar + 1} as bar ${b + 1}`,
            })
          }
        />
        <span>every lane</span>
        <span className="grow" />
        <Button
          size="small"
          title="Every lane of it (Shift+Delete)"
          data-id="clear-bar"
          onClick={() =>
            void editPattern({
              op: 'clear',
              fromBar: bar,
              toBar: bar + 1,
              label: `Clear bar ${bar + 1} of ${pattern.name}`,
            })
          }
        >
          Clear bar {bar + 1}
        </Button>
      </div>
    </div>
  );
}

/** The panel of the pattern shown; without it nothing of the tools is drawn for a hit. */
function Shown({ lane }: { lane: Lane }) {
  const pattern = useBench((s) => (s.panel === 'lane' ? currentPattern(s) : null));
  return pattern && <Panel pattern={pattern} lane={lane} />;
}

export const LaneTools = memo(function LaneTools({ lane }: { lane: Lane }) {
  const open = useBench((s) => s.panel === 'lane');
  return (
    <Popover
      trigger="click"
      placement="topLeft"
      open={open}
      onOpenChange={(o) => useBench.setState({ panel: o ? 'lane' : '' })}
      content={<Shown lane={lane} />}
    >
      <Button
        size="small"
        data-id="lane-menu"
        title="Fill, shift, reverse, quantise, velocities, grid and length of the whole lane (O)"
      >
        Lane…
      </Button>
    </Popover>
  );
});
