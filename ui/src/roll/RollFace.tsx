// The Roll: the same hits as Steps, in free time.
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Hit, Pattern, Project } from '../api/client';
import { shownLanes, strike, useBench } from '../app/state';
import { useFaceKeys } from '../app/face';
import { Transport } from '../app/Transport';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { Chip } from '../lanes/marks';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { barTicks, beatTicks, gridTicks, lateness, leanOf, ticksToMS, ticksAt } from '../model/time';
import { layersOf, useSilent } from '../lanes/sounds';
import { player } from '../player/player';
import { LaneTools } from '../steps/LaneTools';
import { Overview } from '../steps/Overview';
import { RollTools } from './RollTools';
import { drawStage, drawStrip, type Inks, inks, type Scene } from './draw';
import {
  endUnder,
  fitting,
  hitUnder,
  insideLine,
  keyOf,
  moved,
  type RollView,
  rowH,
  snapped,
} from './geometry';
import { everyNote, useShadow } from './rows';
import { counted, useRollEdits } from './useRollEdits';
import { useStrip } from './useStrip';

const lead = 120; // ticks shown before the first line

interface Draft {
  hits: Hit[];
  /** those that are changed, when they are few */
  moving?: Hit[];
  chosen: ReadonlySet<string>;
}

type Drag =
  | { kind: 'box'; x: number; y: number; add: boolean }
  | { kind: 'round'; line: [number, number][] }
  | { kind: 'length'; hit: Hit; x: number }
  | {
      kind: 'move';
      x: number;
      y: number;
      from: Hit[];
      grip: Hit;
      copy: boolean;
      stirred: boolean;
      rest?: Hit[];
    };

export function RollFace({ project, pattern }: { project: Project; pattern: Pattern }) {
  const { map, settings } = project;
  const [allNotes, setAllNotes] = useState(false);
  const lanes = useMemo(() => (allNotes ? everyNote(map.lanes) : shownLanes(map)), [map, allNotes]);
  const lane = useBench((s) => s.lane);
  const bar = useBench((s) => s.bar);
  const dark = useBench((s) => s.dark);
  const follow = useBench((s) => s.follow);
  const [stageRef, size] = useSize<HTMLDivElement>();
  const [view, setView] = useState<RollView | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [snap, setSnap] = useState(true);
  const [strength, setStrength] = useState(100);
  const [draft, showDraft] = useState<Draft | null>(null);
  const [box, showBox] = useState<Scene['box']>(null);
  // letting go may come before what the last move drew
  const [round, setRound] = useState<Scene['round']>(null);
  const [within, setWithin] = useState(0);
  const [shadowOf, setShadowOf] = useState('');
  const newest = useRef<{ draft: Draft | null; box: Scene['box'] }>({ draft: null, box: null });
  const setDraft = (d: Draft | null) => {
    newest.current.draft = d;
    showDraft(d);
  };
  const setBox = (b: Scene['box']) => {
    newest.current.box = b;
    showBox(b);
  };
  const stage = useRef<HTMLCanvasElement>(null);
  const strip = useRef<HTMLCanvasElement>(null);
  const wrap = useRef<HTMLDivElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const inkNow = useRef<Inks | null>(null);
  const drag = useRef<Drag | null>(null);
  const length = pattern.bars * barTicks(pattern);
  const cell = gridTicks(pattern.grid);
  const width = size.width;
  const height = lanes.length * rowH;
  const whole = useMemo(
    () => ({ from: -lead, perTick: width / (Math.min(length, 2 * barTicks(pattern)) + 2 * lead) }),
    [length, pattern, width],
  );
  const v = view ?? whole;
  const silent = useSilent(settings);
  const { kit } = project;
  const limits = useMemo(() => layersOf(kit, lane), [kit, lane]);
  const hits = draft?.hits ?? pattern.hits;
  const picked = draft?.chosen ?? chosen;
  const moving = draft?.moving;
  const selection = useMemo(
    () => (chosen.size === 0 ? [] : pattern.hits.filter((h) => chosen.has(keyOf(h)))),
    [chosen, pattern],
  );
  const stripHits = useMemo(
    () => moving ?? hits.filter((h) => (picked.size > 0 ? picked.has(keyOf(h)) : h.note === lane)),
    [moving, hits, picked, lane],
  );

  const shadow = useShadow(project, shadowOf, lanes);
  useEffect(() => {
    if (!wrap.current || !stage.current || !strip.current) return;
    // read anew with the theme, of which the canvas knows nothing
    if (inkNow.current?.dark !== dark || inkNow.current.lanes !== lanes)
      inkNow.current = inks(wrap.current, lanes, dark);
    const ink = inkNow.current;
    const scene: Scene = {
      pattern,
      hits,
      lanes,
      chosen: picked,
      silent,
      view: v,
      width,
      height,
      box,
      round,
      shadow,
      ink,
      laneNow: lane,
      sorted: draft === null,
    };
    drawStage(stage.current, scene);
    drawStrip(strip.current, { ...scene, height: 97 }, stripHits, limits);
  }, [
    pattern,
    hits,
    lanes,
    picked,
    silent,
    v,
    width,
    height,
    box,
    round,
    shadow,
    draft,
    lane,
    dark,
    stripHits,
    limits,
  ]);

  // the bar shown in the crown is the one at the left
  const shown = useRef(bar);
  useEffect(() => {
    if (shown.current === bar) return;
    shown.current = bar;
    setView((old) => ({ perTick: (old ?? whole).perTick, from: bar * barTicks(pattern) - lead }));
  }, [bar, pattern, whole]);

  useEffect(
    () =>
      player.listen((r) => {
        if (!head.current) return;
        const tick = ticksAt(r.atS, settings.bpm) % length;
        const x = (tick - v.from) * v.perTick;
        head.current.style.display = r.playing && x >= 0 && x <= width ? '' : 'none';
        head.current.style.transform = `translateX(${x.toFixed(1)}px)`;
        if (r.playing && follow && (x > width - 20 || x < -20))
          setView({
            perTick: v.perTick,
            from: Math.floor(tick / barTicks(pattern)) * barTicks(pattern) - lead,
          });
      }),
    [settings.bpm, v, width, follow, pattern, length],
  );

  const zoom = useCallback(
    (by: number, at: number) =>
      setView((old) => {
        const o = old ?? whole;
        const perTick = Math.min(0.6, Math.max(width / (length + 4 * lead), o.perTick * by));
        const tick = o.from + at / o.perTick;
        return { perTick, from: Math.max(-lead * 2, tick - at / perTick) };
      }),
    [whole, width, length],
  );

  useEffect(() => {
    const el = wrap.current;
    if (!el) return undefined;
    const wheel = (e: WheelEvent) => {
      if (!e.ctrlKey && !e.shiftKey && e.deltaX === 0) return; // lanes scroll
      e.preventDefault();
      if (e.ctrlKey) zoom(e.deltaY > 0 ? 0.85 : 1.18, e.clientX - el.getBoundingClientRect().left);
      else
        setView((old) => {
          const o = old ?? whole;
          const most = Math.max(-lead, length + lead - width / o.perTick);
          return { ...o, from: Math.min(most, Math.max(-lead, o.from + (e.deltaX || e.deltaY) / o.perTick)) };
        });
    };
    el.addEventListener('wheel', wheel, { passive: false });
    return () => el.removeEventListener('wheel', wheel);
  }, [zoom, whole, length, width]);

  const { write, quantise, keys } = useRollEdits({
    pattern,
    lanes,
    bpm: settings.bpm,
    lane,
    bar,
    chosen,
    setChosen,
    selection,
    strength,
    within,
    zoom: (by) => zoom(by, width / 2),
    scroll: (to) =>
      setView((old) => ({
        ...(old ?? whole),
        from: to === 'begin' ? -lead : Math.max(-lead, length + lead - width / v.perTick),
      })),
    toggleSnap: () => setSnap(!snap),
    toggleNotes: () => setAllNotes(!allNotes),
  });
  useFaceKeys(keys);

  const place = (e: React.PointerEvent) => {
    const r = (wrap.current as HTMLDivElement).getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const down = (e: React.PointerEvent) => {
    wrap.current?.focus();
    const { x, y } = place(e);
    const hit = hitUnder(pattern.hits, lanes, v, x, y);
    e.currentTarget.setPointerCapture(e.pointerId);
    const end = endUnder(pattern.hits, lanes, v, x, y);
    if (end && e.button === 0) {
      drag.current = { kind: 'length', hit: end, x };
      return;
    }
    if (!hit) {
      drag.current = e.ctrlKey ? { kind: 'round', line: [[x, y]] } : { kind: 'box', x, y, add: e.shiftKey };
      const row = lanes[Math.floor(y / rowH)];
      if (row) useBench.setState({ lane: row.note });
      return;
    }
    useBench.setState({ lane: hit.note });
    if (e.button === 2) {
      write([hit], [], 'Erase a hit');
      return;
    }
    const key = keyOf(hit);
    const next = e.shiftKey ? new Set([...chosen, key]) : chosen.has(key) ? chosen : new Set([key]);
    setChosen(next);
    if (!useBench.getState().playing) strike(hit.note, hit.velocity);
    drag.current = {
      kind: 'move',
      x,
      y,
      from: pattern.hits.filter((h) => next.has(keyOf(h))),
      grip: hit,
      copy: e.ctrlKey,
      stirred: false,
    };
  };
  const move = (e: React.PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const { x, y } = place(e);
    if (d.kind === 'round') {
      d.line.push([x, y]);
      setRound([...d.line]);
      return;
    }
    if (d.kind === 'length') {
      const to = snapped(d.hit.tick + d.hit.length + (x - d.x) / v.perTick, cell, snap === e.altKey);
      const next = {
        ...d.hit,
        length: Math.min(length, Math.max(snap === e.altKey ? 1 : cell / 4, to - d.hit.tick)),
      };
      setDraft({ hits: pattern.hits.map((h) => (h === d.hit ? next : h)), chosen: new Set([keyOf(next)]) });
      return;
    }
    if (d.kind === 'box') {
      if (Math.hypot(x - d.x, y - d.y) > 4)
        setBox({ x0: Math.min(x, d.x), y0: Math.min(y, d.y), x1: Math.max(x, d.x), y1: Math.max(y, d.y) });
      return;
    }
    if (!d.stirred && Math.hypot(x - d.x, y - d.y) < 4) return;
    d.stirred = true;
    const free = snap === e.altKey;
    const want = snapped(d.grip.tick + (x - d.x) / v.perTick, cell, free);
    const rows = Math.floor(y / rowH) - Math.floor(d.y / rowH);
    const ticks = fitting(d.from, want - d.grip.tick, free ? 1 : cell, length);
    const next = moved(d.from, lanes, ticks, rows, length);
    if (!d.rest) {
      const gone = new Set(d.copy ? [] : d.from);
      d.rest = pattern.hits.filter((h) => !gone.has(h));
    }
    setDraft({ hits: [...d.rest, ...next], moving: next, chosen: new Set(next.map(keyOf)) });
  };
  const up = (e: React.PointerEvent) => {
    const d = drag.current;
    drag.current = null;
    const b = newest.current.box;
    setBox(null);
    setRound(null);
    if (!d) return;
    if (d.kind === 'round') {
      const inside = pattern.hits.filter((h) => {
        const row = lanes.findIndex((l) => l.note === h.note);
        return row >= 0 && insideLine(d.line, (h.tick - v.from) * v.perTick, row * rowH + rowH / 2);
      });
      setChosen(new Set(inside.map(keyOf)));
      return;
    }
    if (d.kind === 'length') {
      const is = newest.current.draft?.hits.find((h) => keyOf(h) === keyOf(d.hit));
      setDraft(null);
      if (is && is.length !== d.hit.length) write([d.hit], [is], 'Length of a hit');
      return;
    }
    if (d.kind === 'move') {
      const now = newest.current.draft;
      setDraft(null);
      if (!now || !d.stirred) return;
      const next = now.hits.filter((h) => now.chosen.has(keyOf(h)));
      write(d.copy ? [] : d.from, next, `${d.copy ? 'Copy' : 'Move'} ${counted(next.length)}`);
      return;
    }
    if (b) {
      const inside = pattern.hits.filter((h) => {
        const row = lanes.findIndex((l) => l.note === h.note);
        const x = (h.tick - v.from) * v.perTick;
        const y = row * rowH + rowH / 2;
        return row >= 0 && x >= b.x0 && x <= b.x1 && y >= b.y0 && y <= b.y1;
      });
      setChosen(new Set([...(d.add ? chosen : []), ...inside.map(keyOf)]));
      return;
    }
    const row = lanes[Math.floor(d.y / rowH)];
    if (!row || e.button === 2) return;
    if (chosen.size > 0) {
      setChosen(new Set());
      return;
    }
    const tick = snapped(v.from + d.x / v.perTick, cell, snap === e.altKey);
    if (tick < -480 || tick >= length) return;
    const velocity = e.shiftKey ? 127 : useBench.getState().strikeVelocity;
    const hit: Hit = { note: row.note, tick, velocity, length: 0, split: 0, slope: 0 };
    write([], [hit], `${row.name} drawn`);
    if (!useBench.getState().playing) strike(row.note, velocity);
  };

  const stripOn = useStrip({ pattern, view: v, hits: stripHits, chosen, lane, show: setDraft });
  // what does not move with the view is not drawn anew with it
  const still = useMemo(
    () => ({
      map: <MapBar project={project} />,
      transport: <Transport />,
      head: <LaneHead />,
      lanes: <LaneColumn lanes={lanes} />,
    }),
    [project, lanes],
  );
  const laneNow = lanes.find((l) => l.note === lane);
  const one = selection.length === 1 ? selection[0] : undefined;
  const barNames = Array.from({ length: pattern.bars * pattern.meter.beats }, (_, b) => b);
  return (
    <>
      {still.map}
      <RollTools
        project={project}
        pattern={pattern}
        snap={snap}
        setSnap={setSnap}
        strength={strength}
        setStrength={setStrength}
        quantise={quantise}
        zoom={(by) => zoom(by, width / 2)}
        chosen={selection.length}
        about={[chosen, lane, bar, width, whole]}
        within={within}
        setWithin={setWithin}
        allNotes={allNotes}
        setAllNotes={setAllNotes}
        shadowOf={shadowOf}
        setShadowOf={setShadowOf}
      />
      {still.transport}
      <Overview pattern={pattern} lanes={lanes} width={width} bar={bar} />
      {still.head}
      <div className="ruler" ref={stageRef}>
        <svg className="fill" width={width} height={22} aria-hidden="true">
          {barNames.map((b) => {
            const x = (b * beatTicks(pattern) - v.from) * v.perTick;
            const name = `${Math.floor(b / pattern.meter.beats) + 1}.${(b % pattern.meter.beats) + 1}`;
            const first = b % pattern.meter.beats === 0;
            if (x < -30 || x > width || (!first && beatTicks(pattern) * v.perTick < 34)) return null;
            return (
              <text key={b} x={x + 2} y={15} className={first ? 'b i' : ''}>
                {name}
              </text>
            );
          })}
        </svg>
      </div>
      <div className="lanesrow">
        {still.lanes}
        <div
          ref={wrap}
          className="stage"
          data-id="roll"
          tabIndex={0}
          role="application"
          aria-label={`Roll of ${pattern.name}: ${pattern.hits.length} hits`}
          style={{ height }}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onContextMenu={(e) => e.preventDefault()}
          onKeyDown={(e) => {
            if (!keys(e)) return;
            e.preventDefault();
            e.stopPropagation();
          }}
        >
          <canvas ref={stage} style={{ width, height, display: 'block' }} />
          <div ref={head} className="rollhead" style={{ height, display: 'none' }} />
        </div>
      </div>
      <div className="stripside">
        <div className="row abs" style={{ left: 10, top: 6, right: 12 }}>
          {laneNow && <Chip code={laneNow.code} family={laneNow.color} />}
          <span className="ttl">{chosen.size > 0 ? counted(selection.length) : laneNow?.name}</span>
        </div>
        <div className="row abs" style={{ left: 12, top: 40, right: 12, gap: 12, whiteSpace: 'nowrap' }}>
          {one ? (
            <>
              <span>
                velocity <b>{one.velocity}</b>
              </span>
              <span>{lateness(ticksToMS(leanOf(one, cell), settings.bpm))}</span>
            </>
          ) : (
            <span className="lab">draw velocities at the right</span>
          )}
        </div>
        {laneNow && (
          <div className="abs" style={{ right: 12, top: 66 }}>
            <LaneTools lane={laneNow} />
          </div>
        )}
      </div>
      <div className="strip">
        <canvas
          ref={strip}
          data-id="roll-strip"
          style={{ width, height: 97, display: 'block', touchAction: 'none' }}
          {...stripOn}
        />
      </div>
    </>
  );
}
