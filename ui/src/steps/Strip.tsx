// The strip under the steps: velocity, timing or split of the chosen lane's hits, drawn where they stand.
import { Segmented } from 'antd';
import { useRef, useState } from 'react';
import type { Edit, Hit, Lane, Pattern } from '../api/client';
import { editPattern, strike, useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { leanOf, lateness, strokes, ticksToMS } from '../lanes/time';
import { hitsInBar, pad, type StepsGeometry } from './geometry';
import { LaneTools } from './LaneTools';

export type StripMode = 'Velocity' | 'Timing' | 'Split';

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

/** Height at which a velocity stands. */
const y = (v: number) => top + high - (high * v) / 127;

const clamp = (v: number, lo: number, hi: number) => Math.min(hi, Math.max(lo, v));

export function Strip({ pattern, lane, g, mode, layers }: Props) {
  const cell = useBench((s) => s.cell);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  const [draft, setDraft] = useState<Map<number, Hit>>(new Map());
  const draftNow = useRef(draft);
  const box = useRef<HTMLDivElement>(null);
  const write = (d: Map<number, Hit>) => {
    draftNow.current = d;
    setDraft(d);
  };
  if (!lane) return <div className="strip" />;
  const hits = hitsInBar(pattern, g).filter((h) => h.note === lane.note);
  const halfCell = Math.floor(g.cell / 2) - 1;

  const change = (e: React.PointerEvent) => {
    const r = (box.current as HTMLDivElement).getBoundingClientRect();
    const px = e.clientX - r.left;
    const py = e.clientY - r.top;
    let hit: Hit | undefined;
    for (const h of hits) {
      const d = Math.abs(g.place(h).x - px);
      if (d < g.slot * 0.6 && (!hit || d < Math.abs(g.place(hit).x - px))) hit = h;
    }
    if (!hit) return;
    useBench.setState({ cell: g.place(hit).cell });
    const share = clamp((top + high - py) / high, 0, 1);
    const now = draftNow.current.get(hit.tick) ?? hit;
    let next = now;
    if (mode === 'Velocity') next = { ...now, velocity: clamp(Math.round(share * 127), 1, 127) };
    else if (mode === 'Timing') {
      const line = hit.tick - leanOf(hit, g.cell);
      next = { ...now, tick: Math.max(-480, line + Math.round((0.5 - share) * -2 * halfCell)) };
    } else next = { ...now, split: Math.round(1 + share * 7) };
    if (next.split <= 1) next = { ...next, split: 0, slope: 0 };
    write(new Map(draftNow.current).set(hit.tick, next));
  };

  const finish = () => {
    const changed = [...draftNow.current].filter(([tick, h]) => {
      const old = hits.find((o) => o.tick === tick);
      return old && (old.velocity !== h.velocity || old.tick !== h.tick || old.split !== h.split);
    });
    write(new Map());
    if (changed.length === 0) return;
    const edit: Edit = { op: 'hits', put: changed.map(([, h]) => h) };
    const moved = changed.filter(([tick, h]) => tick !== h.tick);
    if (moved.length > 0) edit.remove = moved.map(([tick, h]) => ({ note: h.note, tick }));
    const last = changed[changed.length - 1];
    if (last && !useBench.getState().playing) strike(last[1].note, last[1].velocity);
    void editPattern(edit);
  };

  const beats = pattern.meter.beats;
  const beatW = (g.width - 2 * pad) / beats;
  const limits = layers.slice(1);
  return (
    <div
      ref={box}
      className="strip"
      data-id="strip"
      title={
        mode === 'Velocity'
          ? 'Drag to set how hard each hit is struck'
          : mode === 'Timing'
            ? 'Drag up for later, down for earlier'
            : 'Drag up for more strokes'
      }
      style={{ touchAction: 'none', cursor: 'ns-resize' }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        change(e);
      }}
      onPointerMove={(e) => {
        if (e.buttons === 1) change(e);
      }}
      onPointerUp={finish}
      onPointerCancel={() => write(new Map())}
    >
      <svg className="fill" width={g.width} height={98} aria-hidden="true">
        {Array.from({ length: beats + 1 }, (_, b) => (
          // oxlint-disable-next-line react/no-array-index-key -- a beat is its place
          <g key={b}>
            {b % 2 === 1 && b < beats && (
              <rect x={pad + b * beatW} y={0} width={beatW} height={98} fill="var(--veil)" />
            )}
            <line x1={pad + b * beatW} x2={pad + b * beatW} y1={0} y2={98} stroke="var(--rule-strong)" />
          </g>
        ))}
        {mode === 'Velocity' &&
          limits.map((v) => (
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
        {mode === 'Timing' && (
          <>
            <line x1={pad} x2={g.width - pad} y1={middle} y2={middle} stroke="var(--border)" />
            <text x={2} y={16}>
              late
            </text>
            <text x={2} y={76}>
              early
            </text>
          </>
        )}
        <line x1={0} x2={g.width} y1={80.5} y2={80.5} stroke="var(--rule)" />
        <g className={`f-${lane.color}`}>
          {hits.map((old) => {
            const h = draft.get(old.tick) ?? old;
            const place = g.place(h);
            const on = place.cell === cell;
            const all = strokes(h);
            const w = Math.min(all.length > 1 ? 9 : 14, g.slot / all.length - 1);
            const edge = { stroke: on ? 'var(--ink)' : 'var(--e)', strokeWidth: on ? 2 : 1 };
            const lean = leanOf(h, g.cell);
            const label =
              mode === 'Velocity'
                ? all.join(' ')
                : mode === 'Timing'
                  ? `${Math.round(ticksToMS(lean, bpm))} ms`
                  : `×${all.length}`;
            return (
              <g key={old.tick}>
                {mode === 'Timing' ? (
                  <rect
                    x={place.x - 6}
                    width={12}
                    y={lean > 0 ? middle - (lean / halfCell) * (high / 2) : middle}
                    height={Math.max(2, (Math.abs(lean) / halfCell) * (high / 2))}
                    fill="var(--c)"
                    {...edge}
                  />
                ) : (
                  all.map((v, k) => (
                    <rect
                      // oxlint-disable-next-line react/no-array-index-key -- strokes have no name but their place
                      key={k}
                      x={place.x + (k - all.length / 2) * (w + 1)}
                      y={y(v)}
                      width={w}
                      height={80 - y(v)}
                      fill="var(--c)"
                      {...edge}
                    />
                  ))
                )}
                <text x={place.x} y={93} textAnchor="middle" className={on ? 'b i' : 'i'}>
                  {label}
                </text>
              </g>
            );
          })}
        </g>
        {hits.length === 0 && (
          <text x={g.width / 2} y={50} textAnchor="middle">
            {`${lane.name} has no hits in this bar: click its row above, and they show here`}
          </text>
        )}
      </svg>
    </div>
  );
}

export function StripSide({
  pattern,
  lane,
  g,
  mode,
  setMode,
  layers,
  layerOf,
}: Props & { setMode: (m: StripMode) => void; layerOf: (note: number, velocity: number) => number }) {
  const cell = useBench((s) => s.cell);
  const bpm = useBench((s) => s.project?.settings.bpm ?? 92);
  if (!lane) return <div className="stripside" />;
  const hit = hitsInBar(pattern, g).find((h) => h.note === lane.note && g.place(h).cell === cell);
  return (
    <div className="stripside">
      <div className="row abs" style={{ left: 10, top: 6, right: 12 }}>
        <Chip code={lane.code} family={lane.color} />
        <span className="ttl">{lane.name}</span>
        <span className="grow" />
        <span className="lab">
          {layers.length === 1 ? '1 layer' : layers.length > 1 ? `${layers.length} layers` : 'no sound yet'}
        </span>
      </div>
      <div
        className="row abs"
        style={{ left: 12, top: 40, right: 12, gap: 12, whiteSpace: 'nowrap' }}
        data-id="hit-facts"
      >
        <b>Step {cell - g.firstCell + 1}</b>
        {hit ? (
          <>
            <span>
              velocity <b>{hit.velocity}</b>
            </span>
            {layers.length > 0 && (
              <span>
                layer <b>{layerOf(lane.note, hit.velocity)}</b>
              </span>
            )}
            <span>{lateness(ticksToMS(leanOf(hit, g.cell), bpm))}</span>
          </>
        ) : (
          <span className="lab">empty; Enter sets it</span>
        )}
      </div>
      <div className="abs" style={{ right: 12, top: 66 }}>
        <LaneTools pattern={pattern} lane={lane} />
      </div>
      <div className="abs" style={{ left: 10, top: 66 }}>
        <Segmented<StripMode>
          size="small"
          options={['Velocity', 'Timing', 'Split']}
          value={mode}
          onChange={setMode}
        />
      </div>
    </div>
  );
}
