// The Roll: the same hits as Steps, in free time.
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Pattern, Project } from '../api/client';
import { shownLanes, useBench } from '../app/state';
import { useFaceKeys } from '../app/face';
import { Transport } from '../app/Transport';
import { fingerPx, useTouch } from '../app/touch';
import { useRows } from '../app/useRows';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { barTicks, cellOf, gridTicks, hitAt, ticksAt } from '../model/time';
import { layersOf, useSilent } from '../lanes/sounds';
import { handsBusy } from '../app/hands';
import { player } from '../player/player';
import { stepOf } from '../steps/geometry';
import { Overview } from '../steps/Overview';
import { RollTools } from './RollTools';
import { drawStage, drawStrip, type Inks, inks, type Scene } from './draw';
import { keyOf, type RollView } from './geometry';
import { RollRuler, RollSide } from './RollSide';
import { everyNote, useShadow } from './rows';
import { useDrawn, useRollDrag } from './useRollDrag';
import { useRollEdits } from './useRollEdits';
import { useStrip } from './useStrip';

type TimeView = Omit<RollView, 'rowH'>;

const lead = 120; // ticks shown before the first line

/** The first bar that begins in view, or the one that fills it: what is pasted comes there. */
function barInView(v: RollView, width: number, p: Pattern): number {
  const bar = barTicks(p);
  const first = Math.max(0, Math.ceil((v.from - 1) / bar));
  const begins = (first * bar - v.from) * v.perTick < width - 20;
  return Math.max(0, Math.min(p.bars - 1, begins ? first : Math.floor(v.from / bar)));
}

/** The bars that are shown, for the overview. */
function barsInView(v: RollView, width: number, p: Pattern): { bar: number; bars: number } {
  const ticks = barTicks(p);
  const first = Math.max(0, Math.min(p.bars - 1, Math.floor((v.from + lead + 1) / ticks)));
  const end = Math.min(p.bars, Math.ceil((v.from + width / v.perTick - lead - 1) / ticks));
  return { bar: first, bars: Math.max(1, end - first) };
}

export function RollFace({ project, pattern }: { project: Project; pattern: Pattern }) {
  const { map, settings } = project;
  const [allNotes, setAllNotes] = useState(false);
  const lanes = useMemo(() => (allNotes ? everyNote(map.lanes) : shownLanes(map)), [map, allNotes]);
  const lane = useBench((s) => s.lane);
  const bar = useBench((s) => s.bar);
  const cursor = useBench((s) => s.cell);
  const dark = useBench((s) => s.dark);
  const follow = useBench((s) => s.follow);
  const [stageRef, size] = useSize<HTMLDivElement>();
  const [view, setView] = useState<TimeView | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [snap, setSnap] = useState(true);
  const [strength, setStrength] = useState(100);
  const drawn = useDrawn();
  const { draft, outline, setDraft } = drawn;
  const [within, setWithin] = useState(0);
  const [shadowOf, setShadowOf] = useState('');
  const stage = useRef<HTMLCanvasElement>(null);
  const strip = useRef<HTMLCanvasElement>(null);
  const wrap = useRef<HTMLDivElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const inkNow = useRef<Inks | null>(null);
  const length = pattern.bars * barTicks(pattern);
  const cell = gridTicks(pattern.grid);
  const width = size.width;
  const touch = useTouch();
  const rowH = useRows(allNotes ? shownLanes(map).length : lanes.length, 98, 0, touch ? fingerPx : undefined);
  const height = lanes.length * rowH;
  const [startBar] = useState(bar); // the face opens where the others were
  const whole = useMemo(() => {
    const first = Math.max(0, Math.min(startBar, pattern.bars - 2));
    return {
      from: first * barTicks(pattern) - lead,
      perTick: width / (Math.min(length, 2 * barTicks(pattern)) + 2 * lead),
    };
  }, [length, pattern, width, startBar]);
  const time = view ?? whole;
  const v = useMemo<RollView>(() => ({ ...time, rowH }), [time, rowH]);
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
      shadow,
      ink,
      laneNow: lane,
      cursor: cursor * cellOf(pattern, lane),
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
    shadow,
    draft,
    lane,
    cursor,
    dark,
    stripHits,
    limits,
  ]);

  // all notes are more than the window holds: those with hits come into view
  const notesWithHits = useRef<number[]>([]);
  useEffect(() => {
    notesWithHits.current = pattern.hits.map((h) => h.note);
  }, [pattern]);
  useEffect(() => {
    const rows = wrap.current?.parentElement;
    const notes = notesWithHits.current;
    if (!allNotes || !rows || notes.length === 0) return undefined;
    const mid = 127 - (Math.min(...notes) + Math.max(...notes)) / 2;
    const soon = requestAnimationFrame(() => {
      rows.scrollTop = (mid + 0.5) * rowH - rows.clientHeight / 2;
    });
    return () => cancelAnimationFrame(soon);
  }, [allNotes, rowH]);

  // the bar shown in the crown is the one at the left
  const shown = useRef(bar);
  const now = useRef(v);
  useEffect(() => {
    now.current = v;
  }, [v]);
  useEffect(() => {
    if (shown.current === bar) return;
    shown.current = bar;
    const at = (bar * barTicks(pattern) - now.current.from) * now.current.perTick;
    if (at >= -1 && at < width - 60) return; // it begins in view
    setView((old) => ({ perTick: (old ?? whole).perTick, from: bar * barTicks(pattern) - lead }));
  }, [bar, pattern, whole, width]);

  useEffect(
    () =>
      player.listen((r) => {
        if (!head.current) return;
        const tick = ticksAt(r.atS, settings.bpm) % length;
        const x = (tick - v.from) * v.perTick;
        head.current.style.display = r.playing && x >= 0 && x <= width ? '' : 'none';
        head.current.style.transform = `translateX(${x.toFixed(1)}px)`;
        if (r.playing && follow && (x > width - 20 || x < -20) && !handsBusy())
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
    cursor,
    bar: barInView(v, width, pattern),
    focus: () => wrap.current?.focus(),
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

  const on = useRollDrag(
    { pattern, lanes, view: v, cell, length, snap, chosen, setChosen, write, wrap },
    drawn,
  );

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
  const under = useMemo(() => hitAt(pattern, lane, cursor), [pattern, lane, cursor]);
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
        about={[chosen, lane, bar, width, whole]}
        within={within}
        setWithin={setWithin}
        allNotes={allNotes}
        setAllNotes={setAllNotes}
        shadowOf={shadowOf}
        setShadowOf={setShadowOf}
      />
      {still.transport}
      <Overview pattern={pattern} lanes={lanes} width={width} {...barsInView(v, width, pattern)} />
      {still.head}
      <div className="ruler" ref={stageRef}>
        <RollRuler pattern={pattern} view={v} width={width} />
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
          {...on}
          onContextMenu={(e) => e.preventDefault()}
          onKeyDown={(e) => {
            if (!keys(e)) return;
            e.preventDefault();
            e.stopPropagation();
          }}
        >
          <canvas ref={stage} style={{ width, height, display: 'block' }} />
          <svg className="rolldrawn" width={width} height={height} aria-hidden="true">
            <path ref={outline} />
          </svg>
          <div ref={head} className="rollhead" style={{ height, display: 'none' }} />
        </div>
      </div>
      <RollSide
        lane={laneNow}
        selection={selection}
        under={under}
        step={stepOf(pattern, cursor, cellOf(pattern, lane))}
        cell={cell}
        bpm={settings.bpm}
      />
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
