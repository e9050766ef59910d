// A strip a lane: level with its meter, peak, pan, what is sent to the room and the delay, and where it goes.
import { Select } from 'antd';
import { memo, useEffect, useMemo, useRef } from 'react';
import type { Lane, MixStrip, Project } from '../api/client';
import { useBench } from '../app/state';
import { notesAPart } from '../model/constants.gen';
import { player } from '../player/player';
import { dB, Fader, side } from './Fader';
import { editStrips, newOutputFor, outputName, outputsOf, stripOf, tryStrip } from './state';

/** Lowest level on the scale, dB; below it there is silence. */
export const lowest = -48;
const highest = 6;
export const scaleAt = (db: number) => Math.max(0, Math.min(100, ((db - lowest) / (highest - lowest)) * 100));
export const scaleMarks = [-48, -36, -24, -12, -6, 0, 6];

/** How long a peak is held, ms, and how fast a meter falls, dB a second. */
const holdMS = 3000;
const fallDB = 26;

/** A meter that is drawn by itself, without the component being drawn anew. */
export function useMeter(read: (r: NonNullable<typeof player.last>) => number | undefined) {
  const bar = useRef<HTMLElement>(null);
  const mark = useRef<HTMLElement>(null);
  const words = useRef<HTMLElement>(null);
  const reader = useRef(read);
  useEffect(() => {
    reader.current = read;
  });
  useEffect(() => {
    let level = -100;
    let held = -100;
    let heldAt = 0;
    let shown = -1;
    let marked = NaN;
    let at = performance.now();
    return player.listenToAll((r) => {
      const now = performance.now();
      const peak = reader.current(r) ?? 0;
      const db = peak > 0 ? 20 * Math.log10(peak) : -100;
      level = Math.max(db, level - (fallDB * (now - at)) / 1000);
      at = now;
      if (db >= held || now - heldAt > holdMS) {
        held = Math.max(db, now - heldAt > holdMS ? db : held);
        heldAt = now;
      }
      // dozens of these move at once: the compositor moves the bar, and the rest is touched only when it says something else
      const share = scaleAt(level) / 100;
      if (bar.current && share !== shown) {
        bar.current.style.transform = `scaleX(${share.toFixed(4)})`;
        shown = share;
      }
      if (held === marked) return;
      marked = held;
      if (mark.current) {
        mark.current.style.transform = `translateX(${(scaleAt(held) - 100).toFixed(1)}%)`;
        mark.current.style.visibility = held > lowest ? 'visible' : 'hidden';
      }
      if (words.current) words.current.textContent = held > -90 ? held.toFixed(1) : '–';
    });
  }, []);
  return { bar, mark, words };
}

const Strip = memo(function Strip({
  project,
  lane,
  strip,
  selected,
  off,
  outputs,
}: {
  project: Project;
  lane: Lane;
  strip: MixStrip;
  selected: boolean;
  off: boolean;
  outputs: { value: string; label: string }[];
}) {
  const part = project.parts.findIndex((p) => p.id === project.part);
  const { bar, mark, words } = useMeter((r) => {
    const raised =
      useBench.getState().song && !useBench.getState().instead ? part * notesAPart + lane.note : lane.note;
    return r.meters?.lanes.find(([n]) => n === raised)?.[1];
  });
  const level = Math.max(lowest, strip.level ?? 0);
  const put = (change: Partial<MixStrip>, label: string) =>
    void editStrips(project, [lane.note], change, label);
  const send = (what: 'room' | 'delay') => {
    const v = strip[what];
    return (
      <span className="send">
        <input
          type="checkbox"
          aria-label={`${lane.name} to the ${what}`}
          title={v === undefined ? `Send ${lane.name} to the ${what}` : `${lane.name} stays dry`}
          checked={v !== undefined}
          onChange={(e) =>
            put(
              { [what]: e.target.checked ? -12 : undefined },
              e.target.checked ? `${lane.name} to the ${what}` : `${lane.name} without the ${what}`,
            )
          }
        />
        {v === undefined ? (
          <span className="lab">dry</span>
        ) : (
          <>
            <Fader
              name={`${lane.name} to the ${what}`}
              value={v}
              min={-40}
              max={6}
              step={0.5}
              page={3}
              zero={-12}
              words={dB}
              tries={(n) => tryStrip(project, lane.note, n === null ? null : { [what]: n })}
              set={(n) => put({ [what]: n }, `${lane.name} to the ${what}: ${dB(n)}`)}
            />
            <span className="num">{Math.round(v)}</span>
          </>
        )}
      </span>
    );
  };
  return (
    <div
      className={`strip-row f-${lane.color} ${selected ? 'sel' : ''} ${off ? 'off' : ''}`}
      data-strip={lane.note}
      onPointerDown={() => useBench.setState({ lane: lane.note })}
    >
      <span className="striplevel">
        <Fader
          name={`Level of ${lane.name}`}
          value={level}
          min={lowest}
          max={highest}
          step={0.5}
          page={3}
          words={(v) => dB(v <= lowest ? -96 : v)}
          tries={(v) => tryStrip(project, lane.note, v === null ? null : { level: v <= lowest ? -96 : v })}
          set={(v) =>
            put({ level: v <= lowest ? -96 : v }, `Level of ${lane.name}: ${dB(v <= lowest ? -96 : v)}`)
          }
        />
        <span className="meter">
          <i ref={bar} />
          <b ref={mark} />
        </span>
      </span>
      <span className="num">{(strip.level ?? 0) <= -96 ? 'off' : (strip.level ?? 0).toFixed(1)}</span>
      <span className="num peak" ref={words} title="Highest peak of late, dB">
        –
      </span>
      <span className="pan">
        <Fader
          name={`Pan of ${lane.name}`}
          value={strip.pan ?? 0}
          min={-1}
          max={1}
          step={0.02}
          page={0.2}
          words={side}
          tries={(v) => tryStrip(project, lane.note, v === null ? null : { pan: v })}
          set={(v) => put({ pan: v }, `Pan of ${lane.name}: ${side(v)}`)}
        />
        <span className="num">{side(strip.pan ?? 0)}</span>
      </span>
      {send('room')}
      {send('delay')}
      <Select
        size="small"
        style={{ width: 96 }}
        aria-label={`Output of ${lane.name}`}
        value={strip.output ?? ''}
        options={[...outputs, { value: 'new', label: '+ its own' }]}
        onChange={(v: string) => {
          if (v === 'new') void newOutputFor(project, lane.note);
          else put({ output: v }, `${lane.name} to ${outputs.find((o) => o.value === v)?.label ?? 'Main'}`);
        }}
      />
    </div>
  );
});

export function Strips({
  project,
  lanes,
  silent,
}: {
  project: Project;
  lanes: Lane[];
  silent: (note: number) => boolean;
}) {
  const chosen = useBench((s) => s.lane);
  const outputs = useMemo(
    () => outputsOf(project.mix).map((o, i) => ({ value: o.id, label: outputName(project, i) })),
    [project],
  );
  return (
    <div className="strips">
      {lanes.map((l) => (
        <Strip
          key={l.note}
          project={project}
          lane={l}
          strip={stripOf(project, l.note)}
          selected={l.note === chosen}
          off={silent(l.note)}
          outputs={outputs}
        />
      ))}
    </div>
  );
}
