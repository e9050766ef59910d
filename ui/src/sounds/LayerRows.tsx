// The lanes as their layers: each box as wide as its velocities.
import { memo } from 'react';
import type { Lane, Layer, Pad, Project } from '../api/client';
import { useBench } from '../app/state';
import { sameRow } from '../lanes/same';
import { Mini } from '../shelf/Mini';
import { useSampleDrop } from './drops';
import { usePartPeaks } from './peaks';
import { chooseTake, padOf, useSounds } from './state';
import { padType } from '../shelf/dragTypes';

/** px of the rows: where velocity 1 begins, and how wide all are */
export const rowsLeft = 14;
export const rowsWide = 264;

/** Where a velocity lies, 1 to 128. */
export const vx = (v: number) => rowsLeft + ((v - 1) * rowsWide) / 127;

function Box({
  layer,
  on,
  dashed,
  choose,
}: {
  layer: Layer;
  on: boolean;
  dashed: boolean;
  choose: () => void;
}) {
  const take = layer.sounds[0]?.takes[0];
  const peaks = usePartPeaks({ sample: take?.sample ?? '', ...take?.shape });
  const w = vx(layer.hi + 1) - vx(layer.lo) - 2;
  return (
    <button
      type="button"
      className={`box ${on ? 'on' : ''} ${dashed ? 'dashed' : ''}`}
      style={{ left: vx(layer.lo), width: w }}
      tabIndex={-1}
      title={`${layer.sounds[0]?.takes[0]?.source ?? ''}, velocity ${layer.lo} to ${layer.hi}${layer.sounds.length > 1 ? `, ${layer.sounds.length} sounds stacked` : ''}`}
      onClick={choose}
    >
      {peaks && w > 8 && <Mini peaks={peaks} w={w - 4} h={layer.sounds.length > 1 ? 11 : 20} />}
      {layer.sounds.length > 1 && <span className="under" />}
    </button>
  );
}

const LayerRow = memo(function LayerRow({
  lane,
  pad,
  selected,
}: {
  lane: Lane;
  pad: Pad;
  selected: boolean;
}) {
  const at = useSounds((s) => s.layer);
  const trying = useSounds((s) => s.trying);
  const drop = useSampleDrop(lane.note);
  const { over, ...on } = drop;
  return (
    <div
      className={`layers f-${lane.color} ${selected ? 'sel' : ''} ${over ? 'over' : ''}`}
      data-drop={lane.note}
      draggable={pad.layers.length > 0}
      onDragStart={(e) => {
        e.dataTransfer.setData(padType, String(lane.note));
        e.dataTransfer.effectAllowed = 'copyMove';
      }}
      title={pad.layers.length > 0 ? 'Drag it to another lane to copy, move or swap the pad' : ''}
      onPointerDown={(e) => {
        if (!e.shiftKey && !e.ctrlKey) useBench.setState({ lane: lane.note });
      }}
      {...on}
    >
      {pad.layers.map((l, i) => (
        <Box
          // oxlint-disable-next-line react/no-array-index-key -- a layer is its place in the ladder
          key={i}
          layer={l}
          on={selected && i === at}
          dashed={trying !== null && trying.note === lane.note && trying.layer === i}
          choose={() => {
            useBench.setState({ lane: lane.note });
            chooseTake(i);
          }}
        />
      ))}
      {pad.layers.length === 0 && (
        <span className="lab" style={{ position: 'absolute', left: 22, top: 8 }}>
          {over ? 'Let go here' : 'no sound yet: drop one here'}
        </span>
      )}
    </div>
  );
}, sameRow);

export function LayerRows({ project, lanes }: { project: Project; lanes: Lane[] }) {
  const chosen = useBench((s) => s.lane);
  return (
    <div>
      {lanes.map((l) => (
        <LayerRow key={l.note} lane={l} pad={padOf(project, l.note)} selected={l.note === chosen} />
      ))}
    </div>
  );
}
