import { memo, useEffect, useRef, useState } from 'react';
import { NoteName } from './NoteName';
import type { Lane } from '../api/client';
import { player } from '../player/player';
import { letGo, strike, toggleSilence, useBench } from '../app/state';
import { velocityAt } from '../pads/velocity';
import { useSampleDrop } from '../sounds/drops';
import { Chip, LevelLight } from './marks';
import { sameRow } from './same';

const lightMS = 260;

/** The level light of one lane, lit by the cues the player starts. */
function Light({ note, layers }: { note: number; layers: number }) {
  const [fired, setFired] = useState({ layer: -1, level: 0 });
  useEffect(() => {
    let off = 0;
    const stop = player.listen((r) => {
      const last = r.started.findLast((s) => s.note === note);
      if (!last) return;
      setFired({ layer: last.layer, level: last.velocity / 127 });
      clearTimeout(off);
      off = window.setTimeout(() => setFired({ layer: -1, level: 0 }), lightMS);
    });
    return () => {
      stop();
      clearTimeout(off);
    };
  }, [note]);
  return <LevelLight layers={layers} fired={fired.layer} level={fired.level} />;
}

const Row = memo(function Row({
  lane,
  layers,
  choke,
  selected,
  also,
  muted,
  solo,
  off,
}: {
  lane: Lane;
  layers: number;
  choke: number;
  selected: boolean;
  also: boolean;
  muted: boolean;
  solo: boolean;
  off: boolean;
}) {
  const { over, ...drop } = useSampleDrop(lane.note);
  const row = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!selected) return undefined;
    // what is worked on stays in view; with the next frame, so that nothing is laid out twice
    const soon = requestAnimationFrame(() => row.current?.scrollIntoView({ block: 'nearest' }));
    return () => cancelAnimationFrame(soon);
  }, [selected]);
  const held = useRef(0);
  const release = () => {
    if (held.current) letGo(held.current);
    held.current = 0;
  };
  return (
    <div
      ref={row}
      className={`lane f-${lane.color} ${selected ? 'sel' : also ? 'also' : ''} ${off ? 'off' : ''} ${over ? 'over' : ''}`}
      {...drop}
      data-note={lane.note}
      onPointerDown={(e) => chooseLane(lane.note, e.shiftKey || e.ctrlKey)}
    >
      <button
        type="button"
        className="pad"
        tabIndex={-1}
        aria-label={`${lane.code}, strike ${lane.name}`}
        title="Strike: harder near the centre"
        onPointerDown={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          held.current = strike(lane.note, velocityAt(e, box), 'pads', e.timeStamp);
        }}
        onPointerUp={release}
        onPointerLeave={release}
      >
        <Chip code={lane.code} family={lane.color} dashed={layers === 0} />
      </button>
      <span
        className="nm"
        data-role={lane.name.toLowerCase().includes(lane.role.toLowerCase()) ? undefined : lane.role}
        title={`${lane.name} (${lane.role}); Shift+click chooses several`}
      >
        {lane.name}
      </span>
      {choke > 0 && (
        <span className="choke" title={`Choke group ${choke}`}>
          {choke}
        </span>
      )}
      <span className="nt">
        <i>{lane.note}</i>
        <NoteName note={lane.note} />
      </span>
      <span className="ld">
        {layers > 0 ? <Light note={lane.note} layers={layers} /> : <span className="lab">none</span>}
      </span>
      <button
        type="button"
        className={`ms ${muted ? 'on' : ''}`}
        aria-pressed={muted}
        aria-label={`Mute ${lane.name}`}
        title="Mute (M)"
        onClick={() => toggleSilence('muted', lane.note)}
      >
        M
      </button>
      <button
        type="button"
        className={`ms ${solo ? 'on' : ''}`}
        aria-pressed={solo}
        aria-label={`Solo ${lane.name}`}
        title="Solo (Shift+M)"
        onClick={() => toggleSilence('solo', lane.note)}
      >
        S
      </button>
    </div>
  );
}, sameRow);

/** Chooses a lane, or with others: one chosen so before is let go. */
function chooseLane(note: number, also: boolean) {
  useBench.setState((s) => {
    if (!also) return { lane: note, alsoLanes: s.alsoLanes.includes(note) ? s.alsoLanes : [] };
    const others = new Set([...s.alsoLanes, s.lane]);
    if (others.has(note) && note !== s.lane) others.delete(note);
    else others.add(note);
    return { lane: note, alsoLanes: [...others] };
  });
}

export function LaneColumn({ lanes }: { lanes: Lane[] }) {
  const chosen = useBench((s) => s.lane);
  const alsoLanes = useBench((s) => s.alsoLanes);
  const settings = useBench((s) => s.project?.settings);
  const kit = useBench((s) => s.project?.kit);
  if (!settings || !kit) return null;
  const { muted, solo } = settings;
  return (
    <div className="lanes">
      {lanes.map((l) => (
        <Row
          key={l.note}
          lane={l}
          layers={kit.pads.find((p) => p.note === l.note)?.layers.length ?? 0}
          choke={kit.pads.find((p) => p.note === l.note)?.choke ?? 0}
          selected={l.note === chosen}
          also={alsoLanes.includes(l.note)}
          muted={muted.includes(l.note)}
          solo={solo.includes(l.note)}
          off={solo.length > 0 ? !solo.includes(l.note) : muted.includes(l.note)}
        />
      ))}
    </div>
  );
}
