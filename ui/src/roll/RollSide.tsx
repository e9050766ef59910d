// Beside and over the stage of the Roll: what is chosen, and the beats.
import type { Hit, Lane, Pattern } from '../api/client';
import { Chip } from '../lanes/marks';
import { barTicks, beatTicks, lateness, leanOf, ticksToMS } from '../model/time';
import { LaneTools } from '../steps/LaneTools';
import type { RollView } from './geometry';
import { counted } from './useRollEdits';

/** The beats in view, numbered. */
export function RollRuler({ pattern, view, width }: { pattern: Pattern; view: RollView; width: number }) {
  // names of bars stand apart, however far away they are seen
  const bar = barTicks(pattern) * view.perTick;
  const every = [1, 2, 4, 8, 16].find((n) => n * bar >= 34) ?? 32;
  const barNames = Array.from({ length: pattern.bars * pattern.meter.beats }, (_, b) => b);
  return (
    <svg className="fill" width={width} height={22} aria-hidden="true">
      {barNames.map((b) => {
        const x = (b * beatTicks(pattern) - view.from) * view.perTick;
        const name = `${Math.floor(b / pattern.meter.beats) + 1}.${(b % pattern.meter.beats) + 1}`;
        const first = b % pattern.meter.beats === 0;
        if (x < -30 || x > width || (!first && beatTicks(pattern) * view.perTick < 34)) return null;
        if (first && (b / pattern.meter.beats) % every !== 0) return null;
        return (
          <text key={b} x={x + 2} y={15} className={first ? 'b i' : ''}>
            {name}
          </text>
        );
      })}
    </svg>
  );
}

/** The lane, or the hits chosen. */
export function RollSide({
  lane,
  selection,
  under,
  step,
  cell,
  bpm,
}: {
  lane: Lane | undefined;
  selection: Hit[];
  /** the hit the cursor stands on, and its bar (from 0) and step (from 1) */
  under: Hit | undefined;
  step: { bar: number; step: number };
  cell: number;
  bpm: number;
}) {
  const one = selection.length === 1 ? selection[0] : selection.length === 0 ? under : undefined;
  const place = `Bar ${step.bar + 1}, step ${step.step}`;
  const said = one ? `velocity ${one.velocity}, ${lateness(ticksToMS(leanOf(one, cell), bpm))}` : 'empty';
  return (
    <div className="stripside">
      <div className="row abs" style={{ left: 10, top: 6, right: 12 }}>
        {lane && <Chip code={lane.code} family={lane.color} />}
        <span className="ttl" data-id="roll-chosen">
          {selection.length > 0 ? `${counted(selection.length)} chosen` : lane?.name}
        </span>
      </div>
      <div className="visually-hidden" aria-live="polite" data-id="roll-said">
        {selection.length > 0
          ? `${counted(selection.length)} chosen`
          : `${lane?.name ?? ''}, ${place}, ${said}`}
      </div>
      <div className="row abs" style={{ left: 12, top: 40, right: 12, gap: 10, whiteSpace: 'nowrap' }}>
        {selection.length === 0 && <b>{place}</b>}
        {one ? (
          <>
            <span>
              velocity <b>{one.velocity}</b>
            </span>
            <span>{lateness(ticksToMS(leanOf(one, cell), bpm))}</span>
          </>
        ) : (
          <span className="lab">
            {selection.length > 0 ? 'draw their velocities at the right' : 'empty; Enter or a click sets it'}
          </span>
        )}
      </div>
      {lane && (
        <div className="abs" style={{ right: 12, top: 66 }}>
          <LaneTools lane={lane} />
        </div>
      )}
    </div>
  );
}
