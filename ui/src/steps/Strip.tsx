// The strip under the steps: velocity, timing, split, pan or chance of the chosen lanes' hits, drawn where they stand.

import { Button } from 'antd';
import { Choice } from '../app/Choice';
import { memo, useRef, useState } from 'react';
import type { Hit, Lane, Pattern } from '../api/client';
import type { HitsEdit } from '../model/edits';
import { editPattern, strike, useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { leanOf, lateness, strokes, ticksToMS } from '../model/time';
import { hitsShown, pad, stepName, stepOf, type StepsGeometry } from './geometry';
import { type StripMode, stripModes } from './keys';
import { LaneTools } from './LaneTools';
import { useDragged } from './dragged';
import { clamp, dragged as draggedTo, type Drawn, shownAs } from './strip';

const top = 4;
const high = 76;
const middle = top + high / 2;

interface Props {
  pattern: Pattern;
  lane: Lane | undefined;
  g: StepsGeometry;
  mode: StripMode;
  /** lowest velocity of each layer, softest first */
  layers: number[];
}

const key = (h: Hit) => `${h.note} ${h.tick}`;

/** Height at which a velocity stands. */
const y = (v: number) => top + high - (high * v) / 127;

const words: Record<StripMode, string> = {
  Velocity: 'Drag to set how hard each hit is struck; Shift draws a line, Alt a curve',
  Timing: 'Drag up for later, down for earlier',
  Split: 'Drag up for more strokes; in Velocity each later stroke slopes the others',
  Pan: 'Drag up for right, down for left',
  Tune: 'Drag up for higher, down for lower, by semitones',
  Chance: 'Drag down to let a hit stay silent in some passes',
};

export function Strip({ pattern, lane, g, mode, layers }: Props) {
  const cell = useBench((s) => s.cell);
  const also = useBench((s) => s.alsoLanes);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const dragged = useDragged((s) => s.now);
  const [draft, setDraft] = useState<Map<string, Hit>>(new Map());
  const [line, setLine] = useState<{ x0: number; y0: number; x1: number; y1: number; bend: number } | null>(
    null,
  );
  const now = useRef({ draft, line, from: { px: 0, py: 0 } });
  const box = useRef<HTMLDivElement>(null);
  const write = (d: Map<string, Hit>) => {
    now.current.draft = d;
    setDraft(d);
  };
  const drawLine = (l: typeof line) => {
    now.current.line = l;
    setLine(l);
  };
  if (!lane) return <div className="strip" />;
  const chosen = new Set([lane.note, ...also]);
  const hits = hitsShown(pattern, g).filter((h) => chosen.has(h.note));
  const mine = hits.filter((h) => h.note === lane.note);
  const place = (h: Hit) => g.of(h.note).place(h);
  const centred = mode === 'Timing' || mode === 'Pan' || mode === 'Tune';

  const drawn: Drawn = { mode, bpm, cellOf: (h) => g.of(h.note).cell };
  const at = (e: React.PointerEvent) => {
    const r = (box.current as HTMLDivElement).getBoundingClientRect();
    return { px: e.clientX - r.left, py: e.clientY - r.top };
  };
  const change = (px: number, py: number) => {
    let hit: Hit | undefined;
    for (const h of mine) {
      const d = Math.abs(place(h).x - px);
      if (d < g.of(h.note).slot * 0.6 && (!hit || d < Math.abs(place(hit).x - px))) hit = h;
    }
    if (!hit) return;
    const { cell: column, x } = place(hit);
    useBench.setState({ cell: column, bar: stepOf(pattern, column, g.of(hit.note).cell).bar });
    const share = clamp((top + high - py) / high, 0, 1);
    const next = new Map(now.current.draft);
    for (const h of hits)
      if (h === hit || (h.note !== lane.note && Math.abs(place(h).x - x) < 3))
        next.set(key(h), draggedTo(next.get(key(h)) ?? h, share, px - x, drawn));
    write(next);
  };

  /** A fast hand reports few places: what lies between two of them is drawn too. */
  const between = (from: { px: number; py: number }, to: { px: number; py: number }) => {
    const steps = Math.max(1, Math.ceil(Math.abs(to.px - from.px) / 4));
    for (let i = 1; i <= steps; i++)
      change(from.px + ((to.px - from.px) * i) / steps, from.py + ((to.py - from.py) * i) / steps);
  };

  const finish = () => {
    const l = now.current.line;
    if (l) {
      drawLine(null);
      const [a, b] =
        l.x0 <= l.x1
          ? [l, { x: l.x1, y: l.y1 }]
          : [
              { x0: l.x1, y0: l.y1 },
              { x: l.x0, y: l.y0 },
            ];
      const value = (py: number) => clamp(Math.round(((top + high - py) / high) * 127), 1, 127);
      const tick = (x: number) => Math.round(((x - g.at(0)) / (g.at(g.cell) - g.at(0))) * g.cell);
      void editPattern({
        op: 'velocity',
        notes: [...chosen],
        fromBar: g.bar,
        toBar: g.bar + g.bars,
        how: 'line',
        amount: value(a.y0),
        to: value(b.y),
        fromTick: tick(a.x0),
        toTick: tick(b.x),
        bend: l.bend,
        label: `Velocities of ${lane.name} along a ${l.bend === 0 ? 'line' : 'curve'}`,
      });
      return;
    }
    const changed = [...now.current.draft].flatMap(([k, h]) => {
      const old = hits.find((o) => key(o) === k);
      return old && JSON.stringify(old) !== JSON.stringify(h) ? [{ old, h }] : [];
    });
    write(new Map());
    if (changed.length === 0) return;
    const edit: HitsEdit = { op: 'hits', put: changed.map(({ h }) => h) };
    const moved = changed.filter(({ old, h }) => old.tick !== h.tick);
    if (moved.length > 0) edit.remove = moved.map(({ old }) => ({ note: old.note, tick: old.tick }));
    const last = changed[changed.length - 1];
    if (last && !useBench.getState().playing) strike(last.h.note, last.h.velocity);
    void editPattern(edit);
  };

  const beats = pattern.meter.beats * g.bars;
  const beatW = (g.width - 2 * pad) / beats;
  return (
    <div
      ref={box}
      className="strip"
      data-id="strip"
      title={words[mode]}
      style={{ touchAction: 'none', cursor: 'ns-resize' }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        const { px, py } = at(e);
        if (mode === 'Velocity' && (e.shiftKey || e.altKey))
          drawLine({ x0: px, y0: py, x1: px, y1: py, bend: e.altKey ? 0.6 : 0 });
        else change(px, py);
        now.current.from = { px, py };
      }}
      onPointerMove={(e) => {
        if (e.buttons !== 1) return;
        const { px, py } = at(e);
        const { from } = now.current;
        now.current.from = { px, py };
        if (now.current.line) drawLine({ ...now.current.line, x1: px, y1: py });
        else between(from, { px, py });
      }}
      onPointerUp={finish}
      onPointerCancel={() => {
        write(new Map());
        drawLine(null);
      }}
    >
      <svg className="fill" width={g.width} height={98} aria-hidden="true">
        {Array.from({ length: beats + 1 }, (_, b) => (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b}>
            {(b % pattern.meter.beats) % 2 === 1 && b < beats && (
              <rect x={pad + b * beatW} y={0} width={beatW} height={98} fill="var(--veil)" />
            )}
            <line x1={pad + b * beatW} x2={pad + b * beatW} y1={0} y2={98} stroke="var(--rule-strong)" />
          </g>
        ))}
        {mode === 'Velocity' &&
          layers
            .slice(1)
            .map((v) => (
              <line
                key={v}
                x1={pad}
                x2={g.width - pad}
                y1={y(v)}
                y2={y(v)}
                stroke="var(--border)"
                strokeDasharray="1 3"
              />
            ))}
        {mode === 'Velocity' &&
          layers.length > 1 &&
          layers.map((lo, k) => (
            <text key={lo} x={3} y={(y(lo - 1) + y((layers[k + 1] ?? 128) - 1)) / 2 + 4}>
              {k + 1}
            </text>
          ))}
        {centred && (
          <>
            <line x1={pad} x2={g.width - pad} y1={middle} y2={middle} stroke="var(--border)" />
            <text x={2} y={16}>
              {mode === 'Pan' ? 'R' : mode === 'Tune' ? 'high' : 'late'}
            </text>
            <text x={2} y={76}>
              {mode === 'Pan' ? 'L' : mode === 'Tune' ? 'low' : 'early'}
            </text>
          </>
        )}
        <line x1={0} x2={g.width} y1={80.5} y2={80.5} stroke="var(--rule)" />
        {hits.map((old) => {
          const h = draft.get(key(old)) ?? (dragged?.was === old ? dragged.is : old);
          const p = place(h);
          const own = h.note === lane.note;
          const on = own && p.cell === cell;
          const all = mode === 'Velocity' ? strokes(h) : [0];
          const w = own ? Math.min(all.length > 1 ? 9 : 14, g.of(h.note).slot / all.length - 1) : 3;
          const edge = { stroke: on ? 'var(--ink)' : 'var(--e)', strokeWidth: on ? 2 : 1 };
          const { share, label } = shownAs(h, drawn);
          const family = own
            ? lane.color
            : useBench.getState().project?.map.lanes.find((l) => l.note === h.note)?.color;
          const tall = centred ? Math.max(2, (Math.abs(share) * high) / 2) : share * high;
          return (
            <g key={key(old)} className={`f-${family}`}>
              {mode === 'Velocity' ? (
                all.map((v, k) => (
                  <rect
                    // oxlint-disable-next-line react/no-array-index-key -- strokes have no name but their place
                    key={k}
                    x={p.x + (own ? 0 : 10) + (k - all.length / 2) * (w + 1)}
                    y={y(v)}
                    width={w}
                    height={80 - y(v)}
                    fill="var(--c)"
                    {...edge}
                  />
                ))
              ) : (
                <rect
                  x={p.x - w / 2}
                  width={w}
                  y={centred ? (share > 0 ? middle - tall : middle) : 80 - tall}
                  height={tall}
                  fill="var(--c)"
                  {...edge}
                />
              )}
              {own && (
                <text x={p.x} y={93} textAnchor="middle" className={on ? 'b i' : 'i'}>
                  {label}
                </text>
              )}
            </g>
          );
        })}
        {line && (
          <path
            d={
              line.bend === 0
                ? `M${line.x0} ${line.y0}L${line.x1} ${line.y1}`
                : `M${line.x0} ${line.y0}Q${line.x1} ${line.y0} ${line.x1} ${line.y1}`
            }
            fill="none"
            stroke="var(--ink)"
            strokeWidth={1.5}
          />
        )}
        {mine.length === 0 && (
          <text x={g.width / 2} y={50} textAnchor="middle">
            {`${lane.name} has no hits ${g.bars > 1 ? 'in these bars' : 'in this bar'}: click its row above, and they show here`}
          </text>
        )}
      </svg>
    </div>
  );
}

const Modes = memo(function Modes({
  mode,
  setMode,
}: {
  mode: StripMode | null;
  setMode: (m: StripMode) => void;
}) {
  return (
    <Choice<StripMode | null>
      name="What the strip shows"
      options={[...stripModes]}
      value={mode}
      onChange={(m) => m && setMode(m)}
    />
  );
});

export function StripSide({
  pattern,
  lane,
  g,
  mode,
  setMode,
  layers,
  layerOf,
  fingers,
}: Props & {
  setMode: (m: StripMode) => void;
  layerOf: (note: number, velocity: number) => number;
  /** whether buttons stand in the strip's place, where it can be chosen */
  fingers?: { on: boolean; set: (on: boolean) => void } | undefined;
}) {
  const cell = useBench((s) => s.cell);
  const also = useBench((s) => s.alsoLanes);
  const typed = useBench((s) => s.typed);
  const places = useBench((s) => s.places);
  const dragged = useDragged((s) => s.now);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  if (!lane) return <div className="stripside" />;
  const mine = g.of(lane.note);
  const written = hitsShown(pattern, g).find((h) => h.note === lane.note && mine.place(h).cell === cell);
  const hit = dragged && dragged.was === written ? dragged.is : written;
  // what swing, groove, leans and chance do to it
  const sounds = written && places.get(`${written.note} ${written.tick}`);
  const felt = written && sounds !== undefined ? ticksToMS(sounds - written.tick, bpm) : 0;
  const others = also.filter((n) => n !== lane.note).length;
  const own = pattern.lanes?.[lane.note];
  return (
    <div className="stripside">
      <div className="row abs" style={{ left: 10, top: 6, right: 12 }}>
        <Chip code={lane.code} family={lane.color} />
        <span className="ttl ellipsis">{lane.name}</span>
        {others > 0 && <span className="lab">and {others} more</span>}
        <span className="grow" />
        {fingers && (
          <Button
            size="small"
            data-id="touch-bar"
            type={fingers.on ? 'primary' : 'default'}
            aria-pressed={fingers.on}
            title="The hit on buttons; below it what the strip shows instead"
            onClick={() => fingers.set(true)}
          >
            Hit
          </Button>
        )}
        <LaneTools lane={lane} />
      </div>
      <div
        className="row abs"
        style={{ left: 12, top: 31, right: 12, gap: 10, whiteSpace: 'nowrap' }}
        data-id="hit-facts"
      >
        <b>{stepName(pattern, g, lane.note, cell)}</b>
        {hit ? (
          <>
            <span>
              velocity{' '}
              {typed === null ? (
                <b>{hit.velocity}</b>
              ) : (
                <b className="typing" data-id="typing">
                  {typed || '…'}
                </b>
              )}
            </span>
            {layers.length > 0 && (
              <span>
                layer <b>{layerOf(lane.note, hit.velocity)}</b>
              </span>
            )}
          </>
        ) : (
          <span className="lab">empty; Enter sets it</span>
        )}
        {own && (
          <span className="lab">
            {own.grid || pattern.grid}
            {own.cells ? ` × ${own.cells}` : ''}
          </span>
        )}
      </div>
      {hit && (
        <div className="row abs" style={{ left: 12, top: 47, right: 12, gap: 10, whiteSpace: 'nowrap' }}>
          <span>{lateness(ticksToMS(leanOf(hit, mine.cell), bpm))}</span>
          {Math.abs(felt) >= 0.5 && (
            <span
              data-id="by-feel"
              title="Where swing, groove, leans and chance let it sound; the hit stays as written"
            >
              <b>
                {felt > 0 ? '+' : '−'}
                {Math.abs(felt).toFixed(0)} ms
              </b>{' '}
              by feel
            </span>
          )}
        </div>
      )}
      <div className="abs" style={{ left: 10, top: 67 }}>
        <Modes mode={fingers?.on ? null : mode} setMode={setMode} />
      </div>
    </div>
  );
}
