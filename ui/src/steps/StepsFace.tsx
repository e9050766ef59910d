import { useCallback, useEffect, useMemo, useState } from 'react';
import type { LaneGrid, Pattern, Project } from '../api/client';
import { ReadyTake, ReadyTools } from '../patterns/ReadyTake';
import { useReady } from '../patterns/state';
import { moveHeld, shownLanes, useBench } from '../app/state';
import { useRows } from '../app/useRows';
import { useSize } from '../app/useSize';
import { fingerPx, useTouch } from '../app/touch';
import { LaneColumn } from '../lanes/LaneColumn';
import { MapBar, LaneHead } from '../lanes/MapBar';
import { useUnseen } from '../lanes/Unseen';
import { Transport } from '../app/Transport';
import { hex, Poly } from '../lanes/marks';
import { barTicks, type Shape, ticksAt } from '../model/time';
import { layersOf, useSilent } from '../lanes/sounds';
import { player } from '../player/player';
import { barsAcross, columnName, firstOfPage, pad, stepsGeometry, type StepsGeometry } from './geometry';
import { Overview } from './Overview';
import { type StripMode, stripModes } from './keys';
import { Strip, StripSide } from './Strip';
import { StepsStage } from './StepsStage';
import { StepsTools } from './Tools';
import { TouchBar } from './TouchBar';

/** Names of the columns; the one that plays stands on ink. */
function Ruler({
  shape,
  g,
  pattern,
  length,
}: {
  shape: Shape;
  g: StepsGeometry;
  pattern: Pattern;
  length: number;
}) {
  const unseen = useUnseen(pattern);
  const held = useBench((s) => s.held);
  const [now, setNow] = useState(-1);
  useEffect(
    () =>
      player.listen((r) => {
        const bpm = useBench.getState().project?.settings.bpm ?? 92;
        const cell = (ticksAt(r.atS, bpm) % length) / g.cell - g.firstCell;
        let column = -1;
        if (r.playing && cell >= 0 && cell < g.cells) {
          column = Math.floor(cell);
          // a swung column begins late: until then the one before it still plays
          if (g.x(column) - pad - g.slot * (column + 0.5) > (cell - column) * g.slot) column--;
        }
        setNow(column);
      }),
    [g, length],
  );
  return (
    <svg className="fill" width={g.width} height={22} aria-hidden="true">
      {Array.from({ length: g.cells }, (_, i) => {
        const name = columnName(i, shape, g);
        const on = i === now;
        return (
          // oxlint-disable-next-line react/no-array-index-key -- a column is its place
          <g key={i}>
            {on && <Poly pts={hex(g.x(i), 11, 24, 18)} fill="var(--ink)" />}
            <text
              x={g.x(i)}
              y={15}
              textAnchor="middle"
              className={on || /^\d/.test(name) ? 'b i' : ''}
              {...(on ? { style: { fill: 'var(--ink-on)' } } : {})}
            >
              {name}
            </text>
          </g>
        );
      })}
      {held && (
        <g data-id="held" fill="var(--ink)">
          <title>These bars are held: they play round and round</title>
          {[pad, g.width - pad].map((x, i) => (
            <Poly key={x} pts={hex(x + (i ? -1 : 1), 18.5, 10, 9)} />
          ))}
          <rect x={pad} y={17.5} width={g.width - 2 * pad} height={3} />
        </g>
      )}
      {unseen.hits.map((h) => {
        const lane = unseen.lanes.get(h.note);
        const cell = h.tick / g.cell - g.firstCell;
        if (!lane || cell < -0.5 || cell >= g.cells) return null;
        const at = g.x(Math.max(0, Math.floor(cell))) + (cell - Math.floor(cell)) * g.slot;
        return (
          <g key={`${h.note} ${h.tick}`} className={`f-${lane.color}`} data-unseen={h.note}>
            <title>{`${lane.name} sounds here; its lane is not shown`}</title>
            <path
              d={`M${at - 4} 22h8l-4-6z`}
              fill="var(--c)"
              stroke="var(--e)"
              transform={`translate(${(h.note % 3) * 3 - 3} 0)`}
            />
          </g>
        );
      })}
    </svg>
  );
}

export function StepsFace({ project, pattern }: { project: Project; pattern: Pattern }) {
  const bar = useBench((s) => s.bar);
  const lane = useBench((s) => s.lane);
  const [mode, setMode] = useState<StripMode>('Velocity');
  const touch = useTouch();
  const [onButtons, setOnButtons] = useState(true);
  const [ref, size] = useSize<HTMLDivElement>();
  const feel = pattern.feel ?? project.settings.feel;
  const aside = feel.groove.noSwing && project.grooves.some((o) => o.id === feel.groove.id);
  const percent = aside ? 50 : feel.swing.percent;
  const swung = feel.swing.grid;
  const swing = useMemo(() => ({ percent, grid: swung }), [percent, swung]);
  const heard = useReady((s) => s.heard !== null);
  // kept apart from the hits, so that setting one draws nothing anew but hits
  const { grid, meter } = pattern;
  const own = JSON.stringify(pattern.lanes ?? {});
  const shape = useMemo(
    () => ({
      grid,
      meter: { beats: meter.beats, unit: meter.unit },
      lanes: JSON.parse(own) as Record<string, LaneGrid>,
    }),
    [grid, meter.beats, meter.unit, own],
  );
  const asked = useBench((s) => s.across);
  const map = project.map;
  const lanes = useMemo(() => shownLanes(map), [map]);
  const rowH = useRows(lanes.length, 98, 0, touch ? fingerPx : undefined);
  const bars = barsAcross(asked, pattern, size.width);
  const first = firstOfPage(bar, bars, pattern.bars);
  const g = useMemo(
    () => stepsGeometry(shape, swing, { bar: first, bars, width: size.width, rowH }),
    [shape, first, bars, swing, size.width, rowH],
  );
  useEffect(() => moveHeld(first, bars), [first, bars]);
  const silent = useSilent(project.settings);
  const layerOf = (note: number, velocity: number) =>
    layersOf(project.kit, note).filter((lo) => lo <= velocity).length;
  const nextStrip = useCallback(
    () => setMode((m) => stripModes[(stripModes.indexOf(m) + 1) % stripModes.length] ?? 'Velocity'),
    [],
  );
  const chosen = lanes.find((l) => l.note === lane);
  const layers = layersOf(project.kit, lane);
  return (
    <>
      <MapBar project={project} />
      {heard ? (
        <ReadyTools project={project} pattern={pattern} />
      ) : (
        <StepsTools
          project={project}
          pattern={pattern}
          first={first}
          across={bars}
          roomy={size.width >= 1300}
        />
      )}
      <Transport />
      <Overview pattern={pattern} lanes={lanes} width={size.width} bar={first} bars={bars} />
      <LaneHead />
      <div className="ruler" ref={ref}>
        <Ruler shape={shape} g={g} pattern={pattern} length={pattern.bars * barTicks(pattern)} />
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={lanes} />
        <StepsStage
          pattern={pattern}
          shape={shape}
          lanes={lanes}
          g={g}
          silent={silent}
          layerOf={layerOf}
          nextStrip={nextStrip}
        />
      </div>
      {heard ? (
        <ReadyTake project={project} pattern={pattern} width={size.width} />
      ) : (
        <>
          <StripSide
            pattern={pattern}
            lane={chosen}
            g={g}
            mode={mode}
            setMode={(m) => {
              setMode(m);
              setOnButtons(false);
            }}
            layers={layers}
            layerOf={layerOf}
            fingers={touch ? { on: onButtons, set: setOnButtons } : undefined}
          />
          {touch && onButtons ? (
            <TouchBar pattern={pattern} lanes={lanes} g={g} />
          ) : (
            <Strip pattern={pattern} lane={chosen} g={g} mode={mode} layers={layers} />
          )}
        </>
      )}
    </>
  );
}
