// The velocity ladder of the pad edited: layers as bands from 1 at the foot to 127, dragged at their edges.
import { Button } from 'antd';
import { useEffect, useRef, useState } from 'react';
import type { Lane, Layer, Pad, Project } from '../api/client';
import { hex, Poly } from '../lanes/marks';
import { player } from '../player/player';
import { openShelf } from '../shelf/state';
import { useSampleDrop } from './drops';
import { counted, LadderHead } from './LadderHead';
import { TakeThumb } from './TakeThumb';
import { withLimit } from './limits';
import { chooseTake, padOf, putPad, useSounds, withLayer } from './state';

const headH = 76;

/** What a layer is called: by its first take, or by what is tried in it. */
const nameOf = (l: Layer, tried: string) =>
  (tried || (l.sounds[0]?.takes[0]?.source ?? '')).replace(/\.[^.]*$/, '');

/** The layer fired last and how hard, for a moment; none of another lane. */
function useFired(note: number) {
  const [fired, setFired] = useState({ note, layer: -1, velocity: 0 });
  useEffect(() => {
    let off = 0;
    const stop = player.listen((r) => {
      const last = r.started.findLast((s) => s.note === note);
      if (!last) return;
      setFired({ note, layer: last.layer, velocity: last.velocity });
      clearTimeout(off);
      off = window.setTimeout(() => setFired((f) => ({ ...f, layer: -1 })), 260);
    });
    return () => {
      stop();
      clearTimeout(off);
    };
  }, [note]);
  return fired.note === note ? fired : { layer: -1, velocity: 0 };
}

/** Bands that overlap stand beside each other. */
function columns(layers: Layer[]): { column: number; of: number }[] {
  const taken: Layer[][] = [];
  const at = layers.map((l) => {
    let c = taken.findIndex((col) => col.every((o) => o.hi < l.lo || o.lo > l.hi));
    if (c < 0) c = taken.push([]) - 1;
    taken[c]?.push(l);
    return c;
  });
  return at.map((column) => ({ column, of: taken.length }));
}

export function Ladder({
  project,
  lane,
  width,
  height,
}: {
  project: Project;
  lane: Lane;
  width: number;
  height: number;
}) {
  const pad = padOf(project, lane.note);
  const at = useSounds();
  const [draft, setDraft] = useState<Pad | null>(null);
  const drag = useRef<{ layer: number; edge: 'lo' | 'hi'; alone: boolean; start: Pad } | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const fired = useFired(lane.note);
  const drop = useSampleDrop(lane.note);
  const { over, ...dropping } = drop;
  const shown = draft ?? pad;
  const ladderH = height - headH - 8;
  const y = (v: number) => ((127 - v) * ladderH) / 127; // top of velocity v
  const hits = new Map<number, number>();
  for (const p of project.patterns)
    for (const h of p.value.hits)
      if (h.note === lane.note) hits.set(h.velocity, (hits.get(h.velocity) ?? 0) + 1);
  const hitsIn = (l: Layer) => [...hits].reduce((n, [v, c]) => n + (v >= l.lo && v <= l.hi ? c : 0), 0);
  const places = columns(shown.layers);
  const wrong = draft ? undefined : project.ladders.find((l) => l.note === lane.note);

  /** The pad with the edge where the pointer is. */
  const dragged = (e: React.PointerEvent): Pad | null => {
    const d = drag.current;
    const r = box.current?.getBoundingClientRect();
    if (!d || !r) return null;
    const v = 127 - ((e.clientY - r.top) * 127) / ladderH;
    const old = d.start.layers[d.layer] as Layer;
    // the edge lies between two velocities
    const edge = d.edge === 'hi' ? Math.round(v) : Math.round(v) + 1;
    const to = d.edge === 'hi' ? Math.min(127, Math.max(old.lo, edge)) : Math.max(1, Math.min(old.hi, edge));
    return d.alone
      ? withLayer(d.start, d.layer, { ...old, [d.edge]: to })
      : withLimit(d.start, d.layer, d.edge, to);
  };
  const finish = (e: React.PointerEvent | null) => {
    const put = e && dragged(e); // not the draft: a fast drag lets go before its last move is drawn
    const from = drag.current?.start;
    drag.current = null;
    setDraft(null);
    if (put && put.layers.some((l, i) => l.lo !== from?.layers[i]?.lo || l.hi !== from.layers[i]?.hi))
      void putPad(put, `Ranges of ${lane.name}`);
  };
  const handle = (layer: number, edge: 'lo' | 'hi') => ({
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      (e.target as Element).setPointerCapture(e.pointerId);
      drag.current = { layer, edge, alone: e.altKey, start: pad };
      setDraft(pad);
    },
    onPointerMove: (e: React.PointerEvent) => {
      const next = dragged(e);
      if (next) setDraft(next);
    },
    onPointerUp: finish,
    onPointerCancel: () => finish(null),
  });
  return (
    <section
      className={`ladder f-${lane.color} ${over ? 'over' : ''}`}
      style={{ width, height }}
      aria-label={`Layers of ${lane.name}`}
      {...dropping}
    >
      <LadderHead project={project} lane={lane} pad={pad} wrong={wrong} width={width} />
      <div className="rungs" ref={box} style={{ height: ladderH }}>
        <span className="num lab" style={{ position: 'absolute', left: 14, top: 0 }}>
          127
        </span>
        <span className="num lab" style={{ position: 'absolute', left: 26, bottom: 0 }}>
          1
        </span>
        {fired.velocity > 0 && (
          <div className="struckat num" style={{ top: y(fired.velocity) }}>
            {fired.velocity}
          </div>
        )}
        {shown.layers.map((l, i) => {
          const top = y(l.hi);
          const tall = y(l.lo - 1) - top;
          const place = places[i] ?? { column: 0, of: 1 };
          const left = 52 + (place.column * (width - 66)) / place.of;
          const on = i === at.layer;
          return (
            <div
              // oxlint-disable-next-line react/no-array-index-key -- a layer is its place in the ladder
              key={i}
              data-layer={i}
              className={`rung ${on ? 'on' : ''} ${i === fired.layer ? 'fired' : ''} ${at.trying?.note === lane.note && at.trying.layer === i ? 'tried' : ''}`}
              style={{ top, height: tall - 2, left, width: (width - 66) / place.of - 4 }}
              onClick={() => chooseTake(i)}
            >
              <svg width={22} height={20} style={{ flex: 'none' }} aria-hidden="true">
                <Poly
                  pts={hex(11, 10, 20, 18)}
                  fill={i === fired.layer ? 'var(--c)' : 'none'}
                  stroke="var(--e)"
                  strokeWidth={1.5}
                />
                <text x={11} y={14} textAnchor="middle" className="b">
                  {i + 1}
                </text>
              </svg>
              <div className="what">
                <b>
                  {nameOf(l, at.trying?.note === lane.note && at.trying.layer === i ? at.trying.name : '')}
                </b>
                {tall > 34 && (
                  <span className="lab">
                    {l.lo}–{l.hi}, {counted(hitsIn(l), 'hit')}
                    {l.sounds.length > 1 ? `, ${l.sounds.length} stacked` : ''}
                  </span>
                )}
              </div>
              <span className="grow" />
              {tall > 24 &&
                l.sounds.flatMap((s, j) =>
                  s.takes
                    .slice(0, 4)
                    .map((t, k) => (
                      <TakeThumb
                        key={`${j} ${t.sample} ${t.shape.startFrame}`}
                        part={{ sample: t.sample, ...t.shape }}
                        name={t.source}
                        w={28}
                        on={on && at.sound === j && at.take === k}
                        choose={() => chooseTake(i, j, k)}
                      />
                    )),
                )}
              <div
                className="edge top"
                {...handle(i, 'hi')}
                title="Drag the limit; with Alt this layer alone"
              >
                <svg width={30} height={16}>
                  <Poly pts={hex(15, 8, 28, 14)} className="paper" stroke="var(--ink)" strokeWidth={1.5} />
                  <text x={15} y={12} textAnchor="middle" className="n b">
                    {l.hi}
                  </text>
                </svg>
              </div>
              <div className="edge foot" {...handle(i, 'lo')} />
            </div>
          );
        })}
        {pad.layers.length === 0 && (
          <div className="none">
            <b>{lane.name} has no sound yet</b>
            <span className="muted">Drop a sample here, or find one on the shelf.</span>
            <Button type="primary" onClick={() => openShelf({ kind: lane.role, text: '' })}>
              Show every {lane.role}
            </Button>
          </div>
        )}
      </div>
    </section>
  );
}
