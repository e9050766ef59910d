// The Steps: every gesture on the stage.
import { useCallback, useMemo, useRef, useState } from 'react';
import type { Hit, Pattern } from '../api/client';
import { maxLead } from '../model/constants.gen';
import type { HitsEdit } from '../model/edits';
import type { KeyLike } from '../app/actions';
import { useFaceKeys } from '../app/face';
import { editPattern, strike, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { lateness, leanOf, loopOf, nearestLine, ticksToMS } from '../model/time';
import { useReady } from '../patterns/state';
import { useRecorder } from '../record/recorder';
import { useDragged } from './dragged';
import { cellAt, hitsShown, stepName, stepOf, type StepsGeometry } from './geometry';
import { gridKey } from './keys';
import { Again, Cells, Halos, Hits, Playhead, type Props, Small } from './marks';

type Drag =
  | { kind: 'paint'; note: number; done: Set<number>; put: Hit[] }
  | { kind: 'clear'; note: number; remove: Hit[]; done: Set<number> }
  /** rested: a finger stayed on it, so that it is chosen and not cleared */
  | {
      kind: 'hold';
      hit: Hit;
      x: number;
      y: number;
      lane: boolean;
      carry: '' | 'move' | 'copy';
      rested?: boolean;
    }
  | { kind: 'velocity'; hit: Hit; y: number; velocity: number }
  | { kind: 'lean'; hit: Hit; lane: boolean; by: number }
  | { kind: 'carry'; hit: Hit; copy: boolean; to: Hit | null };

/** How long a finger stays on a hit to choose it, ms. */
const restMS = 350;

/** A hit that leans by more ticks, within its cell. */
function leanedTo(h: Hit, by: number, cell: number): Hit {
  const line = nearestLine(h.tick, cell);
  const limit = Math.floor(cell / 2) - 1;
  return { ...h, tick: Math.max(-maxLead, Math.min(line + limit, Math.max(line - limit, h.tick + by))) };
}

/** What the drag under way would write. */
function draftOf(d: Drag | null, pattern: Pattern, g: StepsGeometry): HitsEdit | null {
  switch (d?.kind) {
    case 'paint':
      return { op: 'hits', put: d.put };
    case 'clear':
      return { op: 'hits', remove: d.remove.map((h) => ({ note: h.note, tick: h.tick })) };
    case 'velocity':
      return { op: 'hits', put: [{ ...d.hit, velocity: d.velocity }] };
    case 'lean': {
      const size = g.of(d.hit.note).cell;
      const bar = (h: Hit) => stepOf(pattern, Math.round(nearestLine(h.tick, size) / size), size).bar;
      const of = d.lane
        ? hitsShown(pattern, g).filter((h) => h.note === d.hit.note && bar(h) === bar(d.hit))
        : [d.hit];
      return {
        op: 'hits',
        remove: of.map((h) => ({ note: h.note, tick: h.tick })),
        put: of.map((h) => leanedTo(h, d.by, size)),
        label: d.lane ? 'Lean the lane' : 'Lean a hit',
      };
    }
    case 'carry':
      return d.to
        ? {
            op: 'hits',
            ...(d.copy ? {} : { remove: [{ note: d.hit.note, tick: d.hit.tick }] }),
            put: [d.to],
            label: d.copy ? 'Copy a hit' : 'Move a hit',
          }
        : null;
    default:
      return null;
  }
}

/** The number where the hand is: the velocity or the lean of the hit that is dragged. */
function Told({ d, lanes, g, bpm }: { d: Drag | null; bpm: number } & Pick<Props, 'lanes' | 'g'>) {
  const rested = d?.kind === 'hold' && d.rested;
  if (d?.kind !== 'velocity' && d?.kind !== 'lean' && !rested) return null;
  const c = g.of(d.hit.note);
  const row = lanes.findIndex((l) => l.note === d.hit.note);
  const moved = d.kind === 'lean' ? leanedTo(d.hit, d.by, c.cell) : d.hit;
  const late = lateness(ticksToMS(leanOf(moved, c.cell), bpm));
  const text =
    d.kind === 'velocity'
      ? String(d.velocity)
      : d.kind === 'lean'
        ? late
        : `${d.hit.velocity}, ${late}; up harder, sideways leans`;
  const w = 14 + 6.4 * text.length;
  const { x } = c.place(moved);
  const left = x + 4 + c.hitW / 2 + w > g.width ? x - 4 - c.hitW / 2 - w : x + 4 + c.hitW / 2;
  return (
    <g data-id="told">
      <rect x={left} y={(row + 0.5) * g.rowH - 9} width={w} height={18} rx={3} fill="var(--ink)" />
      <text
        x={left + w / 2}
        y={(row + 0.5) * g.rowH + 4}
        textAnchor="middle"
        style={{ fill: 'var(--paper)' }}
      >
        {text}
      </text>
    </g>
  );
}

export function StepsStage(props: Props) {
  const { pattern, lanes, g } = props;
  const { rowH } = g;
  const lane = useBench((s) => s.lane);
  const cell = useBench((s) => s.cell);
  const places = useBench((s) => s.places);
  const strikeVelocity = useBench((s) => s.strikeVelocity);
  const heard = useReady((s) => s.heard);
  const comparison = useReady((s) => s.comparison);
  const [hover, setHover] = useState<{ row: number; i: number } | null>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const dragNow = useRef<Drag | null>(null);
  const held = useRef({ x: 0, y: 0 });
  const rests = useRef(0);
  const stage = useRef<HTMLDivElement>(null);
  const move = (d: Drag | null) => {
    dragNow.current = d;
    setDrag(d);
    const is =
      d?.kind === 'velocity'
        ? { ...d.hit, velocity: d.velocity }
        : d?.kind === 'lean' && !d.lane
          ? leanedTo(d.hit, d.by, g.of(d.hit.note).cell)
          : null;
    if (is && d && 'hit' in d) useDragged.setState({ now: { was: d.hit, is } });
    else if (useDragged.getState().now) useDragged.setState({ now: null });
  };

  const visible = useMemo(() => {
    const draft = draftOf(drag, pattern, g);
    const shown = hitsShown(pattern, g).filter(
      (h) =>
        !draft?.remove?.some((k) => k.note === h.note && k.tick === h.tick) &&
        !draft?.put?.some((k) => k.note === h.note && k.tick === h.tick),
    );
    return [...shown, ...(draft?.put ?? [])];
  }, [pattern, g, drag]);
  const tried = useMemo(
    () =>
      heard
        ? hitsShown(heard.pattern, g).filter(
            (h) =>
              !pattern.hits.some((o) => o.note === h.note && o.tick === h.tick && o.velocity === h.velocity),
          )
        : [],
    [heard, g, pattern],
  );
  const differing = useMemo(
    () => (comparison ? hitsShown({ hits: [...comparison.onlyB, ...comparison.changed] }, g) : []),
    [comparison, g],
  );

  const passNow = useRecorder((r) => (r.on ? r.pass : ''));
  const recorded = useBench((s) => s.project?.passes.find((p) => p.id === passNow));
  const rings = useMemo(() => new Set(recorded?.keys.map((k) => `${k.note} ${k.tick}`)), [recorded]);
  const loop = useCallback((note: number) => loopOf(pattern, note), [pattern]);
  const at = (e: React.PointerEvent) => {
    const box = (stage.current as HTMLDivElement).getBoundingClientRect();
    const x = e.clientX - box.left;
    const y = e.clientY - box.top;
    const row = Math.min(lanes.length - 1, Math.max(0, Math.floor(y / rowH)));
    const note = lanes[row]?.note ?? 36;
    return { x, y, row, i: cellAt(g.of(note), x), note };
  };
  const hitUnder = (note: number, x: number, i: number) => {
    const c = g.of(note);
    return hitsShown(pattern, g).find((h) => {
      if (h.note !== note) return false;
      const p = c.place(h, places.get(`${h.note} ${h.tick}`));
      return Math.abs(p.x - x) < c.hitW / 2 || p.cell === c.firstCell + i;
    });
  };
  const tickOf = (note: number, i: number) => (g.of(note).firstCell + i) * g.of(note).cell;

  const down = (e: React.PointerEvent) => {
    if (e.button !== 0 && e.button !== 2) return;
    stage.current?.setPointerCapture(e.pointerId);
    const p = at(e);
    const cellNow = g.of(p.note).firstCell + p.i;
    useBench.setState((s) => ({
      lane: p.note,
      cell: cellNow,
      bar: stepOf(pattern, cellNow, g.of(p.note).cell).bar,
      alsoLanes: s.alsoLanes.includes(p.note) ? s.alsoLanes : [],
    }));
    if (useReady.getState().heard) return; // what is tried is not edited
    const hit = hitUnder(p.note, p.x, p.i);
    if (e.button === 2) {
      move({ kind: 'clear', note: p.note, remove: hit ? [hit] : [], done: new Set([p.i]) });
      return;
    }
    if (hit) {
      const carry = e.altKey ? 'move' : e.ctrlKey || e.metaKey ? 'copy' : '';
      const hold: Drag = { kind: 'hold', hit, x: p.x, y: p.y, lane: e.shiftKey, carry };
      move(hold);
      window.clearTimeout(rests.current);
      if (e.pointerType === 'touch')
        rests.current = window.setTimeout(() => {
          if (dragNow.current === hold) move({ ...hold, rested: true });
        }, restMS);
      return;
    }
    const velocity = e.shiftKey ? 127 : strikeVelocity;
    const put = { note: p.note, tick: tickOf(p.note, p.i), velocity, length: 0, split: 0, slope: 0 };
    if (!useBench.getState().playing) strike(p.note, velocity);
    move({ kind: 'paint', note: p.note, put: [put], done: new Set([p.i]) });
  };

  const drive = (e: React.PointerEvent) => {
    const p = at(e);
    const d = dragNow.current;
    switch (d?.kind) {
      case undefined:
        setHover((h) => (h?.row === p.row && h.i === p.i ? h : { row: p.row, i: p.i }));
        break;
      case 'hold':
        if (Math.hypot(p.x - d.x, p.y - d.y) < 4) break;
        if (d.carry) move({ kind: 'carry', hit: d.hit, copy: d.carry === 'copy', to: null });
        else if (Math.abs(p.y - d.y) > Math.abs(p.x - d.x))
          move({ kind: 'velocity', hit: d.hit, y: d.y, velocity: d.hit.velocity });
        else move({ kind: 'lean', hit: d.hit, lane: d.lane, by: 0 });
        held.current = { x: d.x, y: d.y };
        break;
      case 'velocity': {
        const velocity = Math.min(127, Math.max(1, Math.round(d.hit.velocity + (d.y - p.y) * 0.9)));
        if (velocity !== d.velocity) move({ ...d, velocity });
        break;
      }
      case 'lean': {
        const c = g.of(d.hit.note);
        const by = Math.round(((p.x - held.current.x) / c.slot) * c.cell);
        if (by !== d.by) move({ ...d, by });
        break;
      }
      case 'carry': {
        const lean = leanOf(d.hit, g.of(d.hit.note).cell);
        const to = { ...d.hit, note: p.note, tick: tickOf(p.note, p.i) + lean };
        const taken = hitUnder(p.note, g.of(p.note).x(p.i), p.i);
        move({ ...d, to: taken && taken !== d.hit ? null : to });
        break;
      }
      case 'paint':
      case 'clear': {
        if (d.done.has(p.i)) break;
        const done = new Set(d.done).add(p.i);
        const hit = hitUnder(d.note, g.of(d.note).x(p.i), p.i);
        if (d.kind === 'clear') {
          move({ ...d, remove: hit ? [...d.remove, hit] : d.remove, done });
          break;
        }
        const first = d.put[0] as Hit;
        move({ ...d, put: hit ? d.put : [...d.put, { ...first, tick: tickOf(d.note, p.i) }], done });
        break;
      }
    }
  };

  const up = () => {
    const d = dragNow.current;
    if (!d) return;
    // a click on a hit clears it
    const edit =
      d.kind === 'hold'
        ? d.rested
          ? null
          : draftOf({ kind: 'clear', note: d.hit.note, remove: [d.hit], done: new Set() }, pattern, g)
        : draftOf(d, pattern, g);
    if (d.kind === 'velocity' && !useBench.getState().playing) strike(d.hit.note, d.velocity);
    if (edit && (edit.put?.length ?? 0) + (edit.remove?.length ?? 0) > 0) void editPattern(edit);
    move(null);
  };

  const mine = g.of(lane);
  const selected = visible.find((h) => h.note === lane && mine.place(h).cell === cell);
  const laneNow = lanes.find((l) => l.note === lane);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const step = stepName(pattern, g, lane, cell).toLowerCase();
  const said = selected
    ? `${laneNow?.name}, ${step}, velocity ${selected.velocity}, layer ${props.layerOf(lane, selected.velocity)}, ${lateness(ticksToMS(selected.tick - cell * mine.cell, bpm))}${selected.split > 1 ? `, split in ${selected.split}` : ''}${selected.skip ? `, chance ${100 - selected.skip} %` : ''}`
    : `${laneNow?.name ?? ''}, ${step}, empty`;

  const { nextStrip } = props;
  const keys = useCallback(
    (e: KeyLike) => gridKey(e, pattern, lanes, g, nextStrip),
    [pattern, lanes, g, nextStrip],
  );
  useFaceKeys(keys);

  const height = lanes.length * rowH;
  const hoverLane = hover ? lanes[hover.row] : undefined;
  const showHover =
    hover &&
    hoverLane &&
    !drag &&
    !visible.some(
      (h) => h.note === hoverLane.note && g.of(h.note).place(h).cell === g.of(h.note).firstCell + hover.i,
    );
  const cursorRow = lanes.findIndex((l) => l.note === lane);
  const column = cell - mine.firstCell;
  return (
    <div
      ref={stage}
      className="stage"
      data-id="stage"
      style={{ height }}
      // oxlint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- one tab stop for the whole grid
      tabIndex={0}
      role="application"
      aria-label={`Steps of ${pattern.name}. Arrows move, Enter sets or clears, digits set velocity.`}
      onPointerDown={down}
      onPointerMove={drive}
      onPointerUp={up}
      onPointerCancel={() => move(null)}
      onPointerLeave={() => setHover(null)}
      onContextMenu={(e) => e.preventDefault()}
      onKeyDown={(e) => {
        if (!keys(e)) return;
        e.preventDefault();
        e.stopPropagation();
      }}
    >
      <svg className="fill" width={g.width} height={height} aria-hidden="true">
        <rect x={0} y={cursorRow * rowH} width={g.width} height={rowH} fill="var(--paper-raised)" />
        <Cells shape={props.shape} lanes={lanes} g={g} />
        {showHover && (
          <g className={`f-${hoverLane.color}`}>
            <HitMark
              x={g.of(hoverLane.note).x(hover.i)}
              y={(hover.row + 0.5) * rowH}
              w={g.of(hoverLane.note).hitW}
              h={g.of(hoverLane.note).hitW * 0.867}
              velocities={[strikeVelocity]}
              preview
            />
          </g>
        )}
        <Again pattern={pattern} lanes={lanes} g={g} />
        <Halos pattern={pattern} lanes={lanes} g={g} places={places} />
        {heard ? (
          <>
            <Hits
              hits={tried}
              lanes={lanes}
              g={g}
              silent={props.silent}
              cursorNote={-1}
              cursorCell={-1}
              places={null}
              preview
            />
            <Small hits={visible} lanes={lanes} g={g} />
          </>
        ) : (
          <Hits
            hits={visible}
            lanes={lanes}
            g={g}
            silent={props.silent}
            cursorNote={lane}
            cursorCell={cell}
            places={drag?.kind === 'lean' ? null : places}
            loop={loop}
            rings={rings}
          />
        )}
        <Small hits={differing} lanes={lanes} g={g} />
        {!selected && cursorRow >= 0 && column >= 0 && column < mine.cells && (
          <Poly
            pts={hex(mine.x(column), (cursorRow + 0.5) * rowH, mine.hitW + 4, mine.hitW * 0.867 + 4)}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={1.5}
          />
        )}
        <Playhead pattern={pattern} g={g} height={height} />
        <Told d={drag} lanes={lanes} g={g} bpm={bpm} />
      </svg>
      <div className="visually-hidden" aria-live="polite" data-id="announce">
        {said}
      </div>
    </div>
  );
}
