import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Edit, Hit, Lane, Pattern } from '../api/client';
import { editPattern, strike, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import {
  barTicks,
  beatTicks,
  lateness,
  leanOf,
  loopOf,
  nearestLine,
  type Shape,
  strokes,
  ticksToMS,
  ticksAt,
} from '../lanes/time';
import { useReady } from '../patterns/state';
import { player } from '../player/player';
import { cellAt, hitsInBar, pad, rowH, type StepsGeometry } from './geometry';
import { gridKey } from './keys';

interface Props {
  pattern: Pattern;
  shape: Shape & Pick<Pattern, 'lanes'>;
  lanes: Lane[];
  g: StepsGeometry;
  silent: (note: number) => boolean;
  layerOf: (note: number, velocity: number) => number;
  nextStrip: () => void;
}

const nowhere = { note: -1, cell: -1 };

const Cells = memo(function Cells({ shape, lanes, g }: Pick<Props, 'shape' | 'lanes' | 'g'>) {
  const beats = shape.meter.beats;
  const beatW = (g.width - 2 * pad) / beats;
  const height = lanes.length * rowH;
  const perBeat = beatTicks(shape);
  return (
    <>
      {lanes.map((l, r) =>
        r > 0 ? (
          <line
            key={l.note}
            x1={0}
            x2={g.width}
            y1={r * rowH - 0.5}
            y2={r * rowH - 0.5}
            stroke="var(--rule)"
          />
        ) : null,
      )}
      {Array.from({ length: beats + 1 }, (_, b) => (
        // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
        <g key={b}>
          {b % 2 === 1 && b < beats && (
            <rect x={pad + b * beatW} y={0} width={beatW} height={height} fill="var(--veil)" />
          )}
          <line x1={pad + b * beatW} x2={pad + b * beatW} y1={0} y2={height} stroke="var(--rule-strong)" />
        </g>
      ))}
      {lanes.map((l, r) => {
        const c = g.of(l.note);
        const loop = loopOf({ ...shape, bars: 1e6 }, l.note);
        return Array.from({ length: c.cells }, (_, i) => {
          const tick = (c.firstCell + i) * c.cell;
          const y = r * rowH + rowH / 2;
          if (tick >= loop)
            // the lane has begun again by then
            return <circle key={`${l.note} ${i}`} cx={c.x(i)} cy={y} r={1.5} fill="var(--rule-strong)" />;
          return (
            <Poly
              key={`${l.note} ${i}`}
              pts={hex(c.x(i), y, c.hitW, c.hitW * 0.867)}
              fill="none"
              stroke={(tick - g.bar * barTicks(shape)) % perBeat === 0 ? 'var(--rule-strong)' : 'var(--rule)'}
            />
          );
        });
      })}
    </>
  );
});

const Hits = memo(function Hits({
  hits,
  lanes,
  g,
  silent,
  cursor,
  places,
  preview,
}: Pick<Props, 'lanes' | 'g' | 'silent'> & {
  hits: Hit[];
  cursor: { note: number; cell: number };
  /** where hits sound, when the feel moves them */
  places: ReadonlyMap<string, number> | null;
  /** not written yet */
  preview?: boolean;
}) {
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return (
    <>
      {hits.map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        const c = g.of(h.note);
        const place = c.place(h, places?.get(`${h.note} ${h.tick}`));
        const y = at.r * rowH + rowH / 2;
        const chance = 100 - (h.skip ?? 0);
        const pan = h.pan ?? 0;
        return (
          <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`} data-hit={`${h.note} ${h.tick}`}>
            <g opacity={chance < 100 ? 0.4 + (0.6 * chance) / 100 : 1}>
              <HitMark
                x={place.x}
                y={y}
                w={c.hitW}
                h={c.hitW * 0.867}
                velocities={strokes(h)}
                grid={place.grid}
                dim={silent(h.note)}
                preview={preview ?? false}
                selected={h.note === cursor.note && place.cell === cursor.cell}
              />
            </g>
            {chance < 100 && (
              <text
                x={place.x}
                y={y - 4}
                textAnchor="middle"
                style={{ fontSize: 9, fontWeight: 700 }}
                className="i"
              >
                {chance}%
              </text>
            )}
            {pan !== 0 && (
              <line
                x1={place.x}
                x2={place.x + (pan / 100) * (c.hitW / 2)}
                y1={y + c.hitW * 0.43 + 1}
                y2={y + c.hitW * 0.43 + 1}
                stroke="var(--ink)"
                strokeWidth={2}
              />
            )}
          </g>
        );
      })}
    </>
  );
});

/** Hits of another pattern, or this one's own while a ready one is heard, small. */
const Small = memo(function Small({ hits, lanes, g }: Pick<Props, 'lanes' | 'g'> & { hits: Hit[] }) {
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return (
    <g data-id="small-hits" pointerEvents="none">
      {hits.map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        return (
          <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`}>
            <Poly
              pts={hex(g.of(h.note).place(h).x, at.r * rowH + rowH / 2, 10, 9)}
              fill="var(--c)"
              stroke="var(--e)"
              opacity={0.75}
            />
          </g>
        );
      })}
    </g>
  );
});

/** Where a lane shorter than the pattern is heard again in the bar shown. */
const Again = memo(function Again({ pattern, lanes, g }: Pick<Props, 'pattern' | 'lanes' | 'g'>) {
  const from = g.bar * barTicks(pattern);
  const to = from + barTicks(pattern);
  return (
    <g pointerEvents="none">
      {lanes.map((l, r) => {
        const loop = loopOf(pattern, l.note);
        if (loop >= pattern.bars * barTicks(pattern)) return null;
        return pattern.hits
          .filter((h) => h.note === l.note && h.tick < loop)
          .flatMap((h) => {
            const ticks: number[] = [];
            for (let t = h.tick + loop; t < to; t += loop) if (t >= from) ticks.push(t);
            return ticks.map((t) => (
              <g key={`${h.note} ${t}`} className={`f-${l.color}`}>
                <Poly
                  pts={hex(g.at(t), r * rowH + rowH / 2, 16, 14)}
                  fill="var(--c)"
                  opacity={0.25 + (0.3 * h.velocity) / 127}
                  stroke="var(--e)"
                  strokeDasharray="2 2"
                />
              </g>
            ));
          });
      })}
    </g>
  );
});

/** Halos on the hits that sound now, behind them. */
function Halos({
  pattern,
  lanes,
  g,
  places,
}: Pick<Props, 'pattern' | 'lanes' | 'g'> & { places: ReadonlyMap<string, number> | null }) {
  const [struck, setStruck] = useState<ReadonlyMap<string, number>>(new Map());
  useEffect(
    () =>
      player.listen((r) => {
        const now = performance.now();
        setStruck((old) => {
          const fresh = r.started.filter((c) => !c.live);
          if (fresh.length === 0 && [...old.values()].every((until) => until > now)) return old;
          const next = new Map([...old].filter(([, until]) => until > now));
          for (const c of fresh) next.set(`${c.note} ${c.tick}`, now + haloMS);
          return next;
        });
      }),
    [],
  );
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return hitsInBar(pattern, g)
    .filter((h) => struck.has(`${h.note} ${h.tick}`))
    .map((h) => {
      const at = row.get(h.note);
      const wide = g.hitW + (h.split > 1 ? 17 : 9);
      return at ? (
        <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`}>
          <Poly
            pts={hex(
              g.of(h.note).place(h, places?.get(`${h.note} ${h.tick}`)).x,
              at.r * rowH + rowH / 2,
              wide,
              g.hitW * 0.867 + 6,
            )}
            fill="var(--c)"
            opacity={0.45}
          />
        </g>
      ) : null;
    });
}

const haloMS = 140;

/** The playing column, moved without drawing anything else anew. */
function Playhead({ pattern, g, height }: Pick<Props, 'pattern' | 'g'> & { height: number }) {
  const line = useRef<SVGGElement>(null);
  useEffect(
    () =>
      player.listen((r) => {
        const s = useBench.getState();
        const tick = ticksAt(r.atS, s.project?.settings.bpm ?? 92) % (pattern.bars * barTicks(pattern));
        const bar = Math.floor(tick / barTicks(pattern));
        if (r.playing && s.follow && bar !== s.bar && bar < pattern.bars) useBench.setState({ bar });
        if (!line.current) return;
        const inBar = tick - g.bar * barTicks(pattern);
        const here = r.playing && inBar >= 0 && inBar < barTicks(pattern);
        line.current.style.display = here ? '' : 'none';
        // the line passes a column's centre as that column sounds
        const x = Math.min(g.width - 2, g.at(tick));
        line.current.setAttribute('transform', `translate(${x.toFixed(1)} 0)`);
      }),
    [pattern, g],
  );
  return (
    <g ref={line} style={{ display: 'none' }} data-id="playhead" pointerEvents="none">
      <rect x={-19} y={0} width={38} height={height} fill="var(--veil)" />
      <line x1={0} x2={0} y1={0} y2={height} stroke="var(--ink)" strokeWidth={1.5} />
    </g>
  );
}

type Drag =
  | { kind: 'paint'; note: number; done: Set<number>; put: Hit[] }
  | { kind: 'clear'; note: number; remove: Hit[]; done: Set<number> }
  | { kind: 'hold'; hit: Hit; x: number; y: number; lane: boolean; carry: '' | 'move' | 'copy' }
  | { kind: 'velocity'; hit: Hit; y: number; velocity: number }
  | { kind: 'lean'; hit: Hit; lane: boolean; by: number }
  | { kind: 'carry'; hit: Hit; copy: boolean; to: Hit | null };

/** What the drag under way would write. */
function draftOf(d: Drag | null, pattern: Pattern, g: StepsGeometry): Edit | null {
  switch (d?.kind) {
    case 'paint':
      return { op: 'hits', put: d.put };
    case 'clear':
      return { op: 'hits', remove: d.remove.map((h) => ({ note: h.note, tick: h.tick })) };
    case 'velocity':
      return { op: 'hits', put: [{ ...d.hit, velocity: d.velocity }] };
    case 'lean': {
      const size = g.of(d.hit.note).cell;
      const limit = Math.floor(size / 2) - 1;
      const moved = (h: Hit) => {
        const line = nearestLine(h.tick, size);
        return { ...h, tick: Math.max(-480, Math.min(line + limit, Math.max(line - limit, h.tick + d.by))) };
      };
      const of = d.lane ? hitsInBar(pattern, g).filter((h) => h.note === d.hit.note) : [d.hit];
      return {
        op: 'hits',
        remove: of.map((h) => ({ note: h.note, tick: h.tick })),
        put: of.map(moved),
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

export function StepsStage(props: Props) {
  const { pattern, lanes, g } = props;
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
  const stage = useRef<HTMLDivElement>(null);
  const move = (d: Drag | null) => {
    dragNow.current = d;
    setDrag(d);
  };

  const visible = useMemo(() => {
    const draft = draftOf(drag, pattern, g);
    const shown = hitsInBar(pattern, g).filter(
      (h) =>
        !draft?.remove?.some((k) => k.note === h.note && k.tick === h.tick) &&
        !draft?.put?.some((k) => k.note === h.note && k.tick === h.tick),
    );
    return [...shown, ...(draft?.put ?? [])];
  }, [pattern, g, drag]);
  const tried = useMemo(
    () =>
      heard
        ? hitsInBar(heard.pattern, g).filter(
            (h) =>
              !pattern.hits.some((o) => o.note === h.note && o.tick === h.tick && o.velocity === h.velocity),
          )
        : [],
    [heard, g, pattern],
  );
  const differing = useMemo(
    () => (comparison ? hitsInBar({ hits: [...comparison.onlyB, ...comparison.changed] }, g) : []),
    [comparison, g],
  );

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
    return hitsInBar(pattern, g).find((h) => {
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
    useBench.setState((s) => ({
      lane: p.note,
      cell: g.of(p.note).firstCell + p.i,
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
      move({ kind: 'hold', hit, x: p.x, y: p.y, lane: e.shiftKey, carry });
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
        ? draftOf({ kind: 'clear', note: d.hit.note, remove: [d.hit], done: new Set() }, pattern, g)
        : draftOf(d, pattern, g);
    if (d.kind === 'velocity' && !useBench.getState().playing) strike(d.hit.note, d.velocity);
    if (edit && (edit.put?.length ?? 0) + (edit.remove?.length ?? 0) > 0) void editPattern(edit);
    move(null);
  };

  const mine = g.of(lane);
  const selected = visible.find((h) => h.note === lane && mine.place(h).cell === cell);
  const laneNow = lanes.find((l) => l.note === lane);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const step = cell - mine.firstCell + 1;
  const said = selected
    ? `${laneNow?.name}, step ${step}, velocity ${selected.velocity}, layer ${props.layerOf(lane, selected.velocity)}, ${lateness(ticksToMS(selected.tick - cell * mine.cell, bpm))}${selected.split > 1 ? `, split in ${selected.split}` : ''}${selected.skip ? `, chance ${100 - selected.skip} %` : ''}`
    : `${laneNow?.name ?? ''}, step ${step}, empty`;

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
      onKeyDown={(e) => gridKey(e, pattern, lanes, g, props.nextStrip)}
    >
      <svg className="fill" width={g.width} height={height} aria-hidden="true">
        <rect x={0} y={cursorRow * rowH} width={g.width} height={rowH} fill="var(--paper-raised)" />
        <Cells shape={props.shape} lanes={lanes} g={g} />
        {showHover && (
          <g className={`f-${hoverLane.color}`}>
            <HitMark
              x={g.of(hoverLane.note).x(hover.i)}
              y={hover.row * rowH + 16}
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
              cursor={nowhere}
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
            cursor={{ note: lane, cell }}
            places={drag ? null : places}
          />
        )}
        <Small hits={differing} lanes={lanes} g={g} />
        {!selected && cursorRow >= 0 && step >= 1 && step <= mine.cells && (
          <Poly
            pts={hex(mine.x(step - 1), cursorRow * rowH + 16, mine.hitW + 4, mine.hitW * 0.867 + 4)}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={1.5}
          />
        )}
        <Playhead pattern={pattern} g={g} height={height} />
      </svg>
      <div className="visually-hidden" aria-live="polite" data-id="announce">
        {said}
      </div>
    </div>
  );
}
