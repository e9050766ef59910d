import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Edit, Hit, Lane, Pattern } from '../api/client';
import { editPattern, strike, useBench } from '../app/state';
import { HitMark, hex, Poly } from '../lanes/marks';
import { barTicks, beatTicks, lateness, type Shape, strokes, ticksToMS, ticksAt } from '../lanes/time';
import { player } from '../player/player';
import { cellAt, hitsInBar, pad, rowH, type StepsGeometry } from './geometry';
import { gridKey } from './keys';

interface Props {
  pattern: Pattern;
  shape: Shape;
  lanes: Lane[];
  g: StepsGeometry;
  silent: (note: number) => boolean;
  layerOf: (note: number, velocity: number) => number;
}

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
      {lanes.map((l, r) =>
        Array.from({ length: g.cells }, (_, i) => (
          <Poly
            key={`${l.note} ${i}`}
            pts={hex(g.x(i), r * rowH + rowH / 2, g.hitW, g.hitW * 0.867)}
            fill="none"
            stroke={(i * g.cell) % perBeat === 0 ? 'var(--rule-strong)' : 'var(--rule)'}
          />
        )),
      )}
    </>
  );
});

const Hits = memo(function Hits({
  hits,
  lanes,
  g,
  silent,
  cursor,
}: Pick<Props, 'lanes' | 'g' | 'silent'> & { hits: Hit[]; cursor: { note: number; cell: number } }) {
  const row = new Map(lanes.map((l, r) => [l.note, { l, r }]));
  return (
    <>
      {hits.map((h) => {
        const at = row.get(h.note);
        if (!at) return null;
        const place = g.place(h);
        return (
          <g key={`${h.note} ${h.tick}`} className={`f-${at.l.color}`} data-hit={`${h.note} ${h.tick}`}>
            <HitMark
              x={place.x}
              y={at.r * rowH + rowH / 2}
              w={g.hitW}
              h={g.hitW * 0.867}
              velocities={strokes(h)}
              grid={place.grid}
              dim={silent(h.note)}
              selected={h.note === cursor.note && place.cell === cursor.cell}
            />
          </g>
        );
      })}
    </>
  );
});

/** Halos on the hits that sound now, behind them. */
function Halos({ pattern, lanes, g }: Pick<Props, 'pattern' | 'lanes' | 'g'>) {
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
            pts={hex(g.place(h).x, at.r * rowH + rowH / 2, wide, g.hitW * 0.867 + 6)}
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
        const tick = ticksAt(r.atS, s.project?.settings.bpm ?? 92);
        const bar = Math.floor(tick / barTicks(pattern));
        if (r.playing && s.follow && bar !== s.bar && bar < pattern.bars) useBench.setState({ bar });
        if (!line.current) return;
        const inBar = tick - g.bar * barTicks(pattern);
        const here = r.playing && inBar >= 0 && inBar < barTicks(pattern);
        line.current.style.display = here ? '' : 'none';
        // the line passes a column's centre as that column sounds
        const x = Math.min(g.width - 2, pad + g.slot * (inBar / g.cell + 0.5));
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
  | { kind: 'paint'; note: number; done: Set<number>; put: Hit[]; moved: boolean }
  | { kind: 'clear'; note: number; remove: Hit[]; done: Set<number> }
  | { kind: 'hold'; hit: Hit; cell: number; x: number; y: number }
  | { kind: 'velocity'; hit: Hit; y: number; velocity: number };

/** What the drag under way would write. */
function draftOf(d: Drag | null): Edit | null {
  switch (d?.kind) {
    case 'paint':
      return { op: 'hits', put: d.put };
    case 'clear':
      return { op: 'hits', remove: d.remove.map((h) => ({ note: h.note, tick: h.tick })) };
    case 'velocity':
      return { op: 'hits', put: [{ ...d.hit, velocity: d.velocity }] };
    default:
      return null;
  }
}

export function StepsStage(props: Props) {
  const { pattern, lanes, g } = props;
  const lane = useBench((s) => s.lane);
  const cell = useBench((s) => s.cell);
  const strikeVelocity = useBench((s) => s.strikeVelocity);
  const [hover, setHover] = useState<{ row: number; i: number } | null>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const dragNow = useRef<Drag | null>(null);
  const stage = useRef<HTMLDivElement>(null);
  const move = (d: Drag | null) => {
    dragNow.current = d;
    setDrag(d);
  };

  const visible = useMemo(() => {
    const draft = draftOf(drag);
    const shown = hitsInBar(pattern, g).filter(
      (h) =>
        !draft?.remove?.some((k) => k.note === h.note && k.tick === h.tick) &&
        !draft?.put?.some((k) => k.note === h.note && k.tick === h.tick),
    );
    return [...shown, ...(draft?.put ?? [])];
  }, [pattern, g, drag]);

  const at = (e: React.PointerEvent) => {
    const box = (stage.current as HTMLDivElement).getBoundingClientRect();
    const y = e.clientY - box.top;
    const row = Math.min(lanes.length - 1, Math.max(0, Math.floor(y / rowH)));
    return {
      x: e.clientX - box.left,
      y,
      row,
      i: cellAt(g, e.clientX - box.left),
      note: lanes[row]?.note ?? 36,
    };
  };
  const hitUnder = (note: number, x: number, i: number) =>
    hitsInBar(pattern, g).find(
      (h) =>
        h.note === note && (Math.abs(g.place(h).x - x) < g.hitW / 2 || g.place(h).cell === g.firstCell + i),
    );

  const down = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    stage.current?.setPointerCapture(e.pointerId);
    const p = at(e);
    useBench.setState({ lane: p.note, cell: g.firstCell + p.i });
    const hit = hitUnder(p.note, p.x, p.i);
    if (hit) {
      move({ kind: 'hold', hit, cell: p.i, x: p.x, y: p.y });
      return;
    }
    const velocity = e.shiftKey ? 127 : strikeVelocity;
    const put = { note: p.note, tick: (g.firstCell + p.i) * g.cell, velocity, length: 0, split: 0, slope: 0 };
    if (!useBench.getState().playing) strike(p.note, velocity);
    move({ kind: 'paint', note: p.note, put: [put], done: new Set([p.i]), moved: false });
  };

  const drive = (e: React.PointerEvent) => {
    const p = at(e);
    const d = dragNow.current;
    if (!d) {
      setHover((h) => (h?.row === p.row && h.i === p.i ? h : { row: p.row, i: p.i }));
      return;
    }
    if (d.kind === 'hold') {
      if (Math.abs(p.y - d.y) > 4 && Math.abs(p.y - d.y) > Math.abs(p.x - d.x)) {
        move({ kind: 'velocity', hit: d.hit, y: d.y, velocity: d.hit.velocity });
      } else if (p.i !== d.cell) {
        move({ kind: 'clear', note: d.hit.note, remove: [d.hit], done: new Set([d.cell]) });
      }
      return;
    }
    if (d.kind === 'velocity') {
      const velocity = Math.min(127, Math.max(1, Math.round(d.hit.velocity + (d.y - p.y) * 0.9)));
      if (velocity !== d.velocity) move({ ...d, velocity });
      return;
    }
    if (d.done.has(p.i)) return;
    const done = new Set(d.done).add(p.i);
    const hit = hitUnder(d.note, g.x(p.i), p.i);
    if (d.kind === 'paint') {
      const first = d.put[0] as Hit;
      const put = hit ? d.put : [...d.put, { ...first, tick: (g.firstCell + p.i) * g.cell }];
      move({ ...d, put, done, moved: true });
    } else {
      move({ ...d, remove: hit ? [...d.remove, hit] : d.remove, done });
    }
  };

  const up = () => {
    const d = dragNow.current;
    if (!d) return;
    // a click on a hit clears it
    const edit =
      d.kind === 'hold'
        ? draftOf({ kind: 'clear', note: d.hit.note, remove: [d.hit], done: new Set() })
        : draftOf(d);
    if (d.kind === 'velocity' && !useBench.getState().playing) strike(d.hit.note, d.velocity);
    if (edit) void editPattern(edit);
    move(null);
  };

  const selected = visible.find((h) => h.note === lane && g.place(h).cell === cell);
  const laneNow = lanes.find((l) => l.note === lane);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const step = cell - g.firstCell + 1;
  const said = selected
    ? `${laneNow?.name}, step ${step}, velocity ${selected.velocity}, layer ${props.layerOf(lane, selected.velocity)}, ${lateness(ticksToMS(selected.tick - cell * g.cell, bpm))}${selected.split > 1 ? `, split in ${selected.split}` : ''}`
    : `${laneNow?.name ?? ''}, step ${step}, empty`;

  const height = lanes.length * rowH;
  const hoverLane = hover ? lanes[hover.row] : undefined;
  const showHover =
    hover &&
    hoverLane &&
    !drag &&
    !visible.some((h) => h.note === hoverLane.note && g.place(h).cell === g.firstCell + hover.i);
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
      onKeyDown={(e) => gridKey(e, pattern, lanes, g)}
    >
      <svg className="fill" width={g.width} height={height} aria-hidden="true">
        <rect x={0} y={cursorRow * rowH} width={g.width} height={rowH} fill="var(--paper-raised)" />
        <Cells shape={props.shape} lanes={lanes} g={g} />
        {showHover && (
          <g className={`f-${hoverLane.color}`}>
            <HitMark
              x={g.x(hover.i)}
              y={hover.row * rowH + 16}
              w={g.hitW}
              h={g.hitW * 0.867}
              velocities={[strikeVelocity]}
              preview
            />
          </g>
        )}
        <Halos pattern={pattern} lanes={lanes} g={g} />
        <Hits hits={visible} lanes={lanes} g={g} silent={props.silent} cursor={{ note: lane, cell }} />
        {!selected && cursorRow >= 0 && step >= 1 && step <= g.cells && (
          <Poly
            pts={hex(g.x(step - 1), cursorRow * rowH + 16, g.hitW + 4, g.hitW * 0.867 + 4)}
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
