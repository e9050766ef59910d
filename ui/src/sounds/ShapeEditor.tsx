// How one take is shaped, on its waveform: region, fades, envelope, loop. Nothing of it changes the sample.
import { NumberField } from '../app/NumberField';
import { Button, Select, Switch } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useAnswer } from '../app/useAnswer';
import { api, type Lane, type Project, type Shape, type Take, type Wave } from '../api/client';
import { explain, say, useBench } from '../app/state';
import { useSize } from '../app/useSize';
import { outlinePoints, hex, Poly } from '../lanes/marks';
import { hear, openShelf } from '../shelf/state';
import { useSample } from './peaks';
import { padOf, putPad, useSounds, withTake } from './state';

const waveH = 92;
/** The zero crossing or attack nearest to a frame. */
const snapped = async (hash: string, frame: number, to: 'zero' | 'attack') =>
  (await api.snapSample({ path: { hash }, query: { frame, to } })).frame;

/** room for the grips at both ends, px */
const edge = 9;

type Grip = 'start' | 'end' | 'fadeIn' | 'fadeOut' | 'loopStart' | 'loopEnd' | 'pan';
export type Snap = 'zero' | 'attack' | 'free';

function useWave(hash: string, from: number, to: number, columns: number): Wave | null {
  return useAnswer(
    useCallback(
      () =>
        api.drawSample({ path: { hash }, query: { start: Math.round(from), end: Math.round(to), columns } }),
      [hash, from, to, columns],
    ),
    30,
  );
}

const num = (v: number, digits = 1) => Number(v.toFixed(digits));

function Field({
  name,
  unit,
  value,
  set,
  min = 0,
  max = 20000,
  digits = 1,
  width = 62,
}: {
  name: string;
  unit: string;
  value: number;
  set: (v: number) => void;
  min?: number;
  max?: number;
  digits?: number;
  width?: number;
}) {
  return (
    <span className="row" style={{ gap: 4 }}>
      <span className="lab">{name}</span>
      <NumberField
        name={`${name}, ${unit}`}
        size="small"
        controls={false}
        style={{ width }}
        suffix={<span className="lab">{unit}</span>}
        min={min}
        max={max}
        value={num(value, digits)}
        set={(v) => v !== null && set(v)}
      />
    </span>
  );
}

/** Gain of the envelope and fades at a time after the start, ms, as drawn. */
function gainAt(s: Shape, ms: number, length: number): number {
  let g = 1;
  if (ms < s.attackMS) g = ms / s.attackMS;
  else if (ms < s.attackMS + s.decayMS) g = 1 - ((1 - s.sustainPct / 100) * (ms - s.attackMS)) / s.decayMS;
  else if (s.sustainPct < 100) g = s.sustainPct / 100;
  if (ms < s.fadeInMS) g *= ms / s.fadeInMS;
  const left = length - ms;
  if (left < s.fadeOutMS) {
    const x = Math.max(0, left / s.fadeOutMS);
    g *= s.curve === 'falling' ? x * x : s.curve === 'round' ? Math.sin((x * Math.PI) / 2) : x;
  }
  return g;
}

/** The waveform with its grips; draws the shape that is being made. */
function Waveform({
  take,
  shape,
  change,
  done,
}: {
  take: Take;
  shape: Shape;
  change: (s: Shape) => void;
  done: () => void;
}) {
  const [ref, size] = useSize<HTMLDivElement>();
  const [view, setView] = useState<{ from: number; to: number } | null>(null);
  const width = Math.max(100, size.width);
  const wave = useWave(take.sample, view?.from ?? 0, view?.to ?? 0, Math.min(2000, Math.floor(width)));
  const drag = useRef<{ grip: Grip; x: number; from: number; to: number } | null>(null);
  const frames = wave?.frames ?? 1;
  const rate = wave?.rate ?? 44100;
  const from = view?.from ?? 0;
  const to = view && view.to > 0 ? view.to : frames;
  const span = Math.max(1, to - from);
  const x = (frame: number) => edge + ((frame - from) / span) * (width - 2 * edge);
  const frameAt = (px: number) =>
    Math.round(Math.min(frames, Math.max(0, from + ((px - edge) / (width - 2 * edge)) * span)));
  const end = shape.endFrame || frames;
  const length = ((end - shape.startFrame) / rate) * 1000;
  const ms = (f: number) => (f * 1000) / rate;
  const box = (e: { clientX: number }) => e.clientX - (ref.current?.getBoundingClientRect().left ?? 0);

  useEffect(() => {
    const el = ref.current;
    if (!el) return undefined;
    const zoom = (e: WheelEvent) => {
      e.preventDefault();
      const at = from + (box(e) / width) * span;
      const next = Math.min(frames, Math.max(64, span * (e.deltaY > 0 ? 1.25 : 0.8)));
      const start = Math.max(0, Math.min(frames - next, at - ((at - from) / span) * next));
      setView(next >= frames ? null : { from: start, to: start + next });
    };
    el.addEventListener('wheel', zoom, { passive: false });
    return () => el.removeEventListener('wheel', zoom);
  });

  const move = (e: React.PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const f = frameAt(box(e));
    switch (d.grip) {
      case 'start':
        change({ ...shape, startFrame: Math.min(f, end - 16), loopStart: Math.max(shape.loopStart, f) });
        break;
      case 'end':
        change({ ...shape, endFrame: f >= frames ? 0 : Math.max(f, shape.startFrame + 16) });
        break;
      case 'fadeIn':
        change({ ...shape, fadeInMS: num(Math.max(0, ms(f - shape.startFrame)), 2) });
        break;
      case 'fadeOut':
        change({ ...shape, fadeOutMS: num(Math.max(0, ms(end - f)), 2) });
        break;
      case 'loopStart':
        change({ ...shape, loopStart: Math.max(shape.startFrame, Math.min(f, (shape.loopEnd || end) - 16)) });
        break;
      case 'loopEnd':
        change({ ...shape, loopEnd: Math.min(end, Math.max(f, shape.loopStart + 16)) });
        break;
      case 'pan': {
        const by = ((d.x - e.clientX) / width) * (d.to - d.from);
        const start = Math.max(0, Math.min(frames - (d.to - d.from), d.from + by));
        setView({ from: start, to: start + d.to - d.from });
        break;
      }
    }
  };
  const grip = (which: Grip) => ({
    style: { cursor: 'ew-resize' },
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      (e.target as Element).setPointerCapture(e.pointerId);
      drag.current = { grip: which, x: e.clientX, from, to };
    },
    onPointerMove: move,
    onPointerUp: () => {
      if (drag.current && drag.current.grip !== 'pan') done();
      drag.current = null;
    },
  });
  const mid = waveH / 2;
  const column = (i: number, v: number) => {
    const f = from + (i / (wave?.high.length ?? 1)) * span;
    const inside = f >= shape.startFrame && f < end;
    const g = inside ? gainAt(shape, ms(f - shape.startFrame), length) : 0;
    return mid - (v / 127) * (mid - 4) * g;
  };
  const outline = (of: (i: number, v: number) => number) =>
    outlinePoints(wave, (i) => edge + (i / (wave?.high.length ?? 1)) * (width - 2 * edge), of);
  const line: string[] = [];
  for (let i = 0; i <= 120; i++) {
    const t = (length * i) / 120;
    const px = x(shape.startFrame + (t * rate) / 1000);
    line.push(`${px.toFixed(1)},${(4 + (1 - gainAt(shape, t, length)) * (mid - 4)).toFixed(1)}`);
  }
  const fadeInX = x(shape.startFrame + (shape.fadeInMS * rate) / 1000);
  const fadeOutX = x(end - (shape.fadeOutMS * rate) / 1000);
  const stepMS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 30000].find(
    (s) => (s / ms(span)) * width > 70,
  );
  const ticks = stepMS
    ? Array.from(
        { length: Math.floor(ms(span) / stepMS) + 1 },
        (_, i) => Math.ceil(ms(from) / stepMS + i) * stepMS,
      )
    : [];
  return (
    <div ref={ref} className="wave" title="Wheel zooms, dragging moves the view">
      <svg width={width} height={waveH + 14} {...grip('pan')}>
        <rect width={width} height={waveH} fill="var(--paper-raised)" />
        <rect width={Math.max(0, x(shape.startFrame))} height={waveH} fill="var(--paper-sunk)" />
        <rect
          x={Math.min(width, x(end))}
          width={Math.max(0, width - x(end))}
          height={waveH}
          fill="var(--paper-sunk)"
        />
        {shape.loop && (
          <rect
            x={x(shape.loopStart)}
            width={Math.max(0, x(shape.loopEnd || end) - x(shape.loopStart))}
            height={waveH}
            fill="var(--veil)"
          />
        )}
        <polygon points={outline((_, v) => mid - (v / 127) * (mid - 4))} fill="var(--shadow-hit)" />
        <polygon points={outline(column)} fill="var(--c)" />
        <line x2={width} y1={mid} y2={mid} stroke="var(--rule)" />
        <polyline
          points={line.join(' ')}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.5}
          pointerEvents="none"
        />
        {(
          [
            ['start', x(shape.startFrame)],
            ['end', x(end)],
          ] as const
        ).map(([which, px]) => (
          <g key={which} {...grip(which)} data-grip={which}>
            <rect x={px - 7} width={14} height={waveH} fill="transparent" />
            <line x1={px} x2={px} y2={waveH} stroke="var(--ink)" strokeWidth={2} />
            <Poly pts={hex(px, waveH - 8, 15, 14)} fill="var(--ink)" />
          </g>
        ))}
        {shape.loop &&
          (
            [
              ['loopStart', x(shape.loopStart)],
              ['loopEnd', x(shape.loopEnd || end)],
            ] as const
          ).map(([which, px]) => (
            <g key={which} {...grip(which)}>
              <rect x={px - 6} width={12} height={waveH} fill="transparent" />
              <line x1={px} x2={px} y2={waveH} stroke="var(--ink)" strokeDasharray="3 2" />
              <text
                x={px + (which === 'loopStart' ? 3 : -3)}
                y={mid - 4}
                textAnchor={which === 'loopStart' ? 'start' : 'end'}
              >
                loop
              </text>
            </g>
          ))}
        {(
          [
            ['fadeIn', fadeInX],
            ['fadeOut', fadeOutX],
          ] as const
        ).map(([which, px]) => (
          <g key={which} {...grip(which)}>
            <Poly pts={hex(px, 7, 15, 13)} className="paper" stroke="var(--ink)" strokeWidth={1.5} />
          </g>
        ))}
        {ticks.map((t) => (
          <text
            key={t}
            x={x((t * rate) / 1000)}
            y={waveH + 12}
            textAnchor={t === 0 ? 'start' : x((t * rate) / 1000) > width - 24 ? 'end' : 'middle'}
          >
            {stepMS && stepMS >= 1000 ? `${t / 1000} s` : `${t} ms`}
          </text>
        ))}
      </svg>
    </div>
  );
}

export function ShapeEditor({ project, lane }: { project: Project; lane: Lane }) {
  const at = useSounds();
  const pad = padOf(project, lane.note);
  const sound = pad.layers[at.layer]?.sounds[at.sound];
  const take = sound?.takes[at.take];
  const [draft, setDraft] = useState<{ of: Take; shape: Shape } | null>(null);
  const [snap, setSnap] = useState<Snap>('zero');
  const [belowDB, setBelowDB] = useState(-48);
  const newest = useRef<Shape | null>(null);
  const known = useSample(take?.sample);
  if (!take) return null;
  const shape = draft && draft.of === take ? draft.shape : take.shape;
  // what changes is laid over the take as it is by then: another edit may have come between
  const write = (part: Partial<Shape>, label: string) => {
    const { project: now } = useBench.getState();
    const newestPad = now && padOf(now, lane.note);
    const t = newestPad?.layers[at.layer]?.sounds[at.sound]?.takes[at.take];
    setDraft(null);
    if (!t || t.sample !== take.sample) return;
    const s = { ...t.shape, ...part };
    void putPad(withTake(newestPad, at.layer, at.sound, at.take, { ...t, shape: s }), label);
  };
  const set = (part: Partial<Shape>, label: string) => write(part, `${label} of ${lane.name}`);
  const sample = take.sample;
  const done = async () => {
    const s = newest.current;
    newest.current = null;
    if (!s) return;
    const was = take.shape;
    const out: Partial<Shape> = Object.fromEntries(
      Object.entries(s).filter(([k, v]) => was[k as keyof Shape] !== v),
    );
    if (snap !== 'free') {
      try {
        if (out.startFrame !== undefined) out.startFrame = await snapped(sample, s.startFrame, snap);
        if (out.endFrame) out.endFrame = await snapped(sample, s.endFrame, snap);
        if (s.loop && out.loopStart !== undefined) out.loopStart = await snapped(sample, s.loopStart, 'zero');
        const end = out.endFrame ?? s.endFrame;
        if (end > 0 && end <= (out.startFrame ?? s.startFrame)) out.endFrame = s.endFrame;
      } catch (e) {
        say(explain(e));
      }
    }
    write(out, `Shape of ${lane.name}`);
  };
  const trimDead = async () => {
    try {
      const t = await api.trimSample({ path: { hash: sample }, query: { belowDB } });
      const start = await snapped(sample, t.startFrame, 'zero');
      set(
        { startFrame: start, endFrame: shape.endFrame && shape.endFrame <= start ? 0 : shape.endFrame },
        'Take dead air off the start',
      );
    } catch (e) {
      say(explain(e));
    }
  };
  const level = async () => {
    try {
      const s = await api.getSample({ path: { hash: sample } });
      set({ gainDB: num(-s.facts.peakDB, 2) }, 'Level to peak');
    } catch (e) {
      say(explain(e));
    }
  };
  return (
    <div className={`shape f-${lane.color}`}>
      <div className="row" style={{ gap: 6, height: 30 }}>
        <Button
          size="small"
          onClick={() => void hear(sample, { start: shape.startFrame, end: shape.endFrame })}
          title="Hear the region as it came"
        >
          Hear
        </Button>
        <b>
          Layer {at.layer + 1}
          {sound && sound.takes.length > 1 ? `, take ${at.take + 1} of ${sound.takes.length}` : ''}
        </b>
        <button
          type="button"
          className="tag ellipsis"
          style={{ maxWidth: 150 }}
          title="Show it on the shelf"
          onClick={() => openShelf({ text: take.source, kind: '', folder: '', tag: '', maxSeconds: 0 })}
        >
          {take.source}
        </button>
        <span className="grow" />
        <span className="lab">Snap</span>
        <Select
          size="small"
          style={{ width: 86 }}
          aria-label="Snap to"
          value={snap}
          options={[
            { value: 'zero', label: 'zero' },
            { value: 'attack', label: 'attacks' },
            { value: 'free', label: 'free' },
          ]}
          onChange={setSnap}
        />
        <Button size="small" onClick={() => void trimDead()} title="Begin where it first reaches this level">
          Trim start
        </Button>
        <NumberField
          name="Dead air lies below, dB"
          size="small"
          controls={false}
          style={{ width: 58 }}
          suffix={<span className="lab">dB</span>}
          min={-120}
          max={0}
          value={belowDB}
          set={(v) => setBelowDB(v ?? -48)}
        />
        <Button
          size="small"
          type={shape.reverse ? 'primary' : 'default'}
          aria-pressed={shape.reverse}
          onClick={() => set({ reverse: !shape.reverse }, 'Reverse')}
        >
          Reverse
        </Button>
        <Button size="small" onClick={() => void level()} title="Raise the sample's peak to full scale">
          To peak
        </Button>
      </div>
      <Waveform
        take={take}
        shape={shape}
        change={(s) => {
          newest.current = s;
          setDraft({ of: take, shape: s });
        }}
        done={() => void done()}
      />
      <div className="row" style={{ gap: 9, height: 30 }}>
        <Field
          name="Gain"
          unit="dB"
          min={-60}
          max={48}
          value={shape.gainDB}
          set={(v) => set({ gainDB: v }, 'Gain')}
        />
        <Field name="Fade in" unit="ms" value={shape.fadeInMS} set={(v) => set({ fadeInMS: v }, 'Fade in')} />
        <Field name="out" unit="ms" value={shape.fadeOutMS} set={(v) => set({ fadeOutMS: v }, 'Fade out')} />
        <Select
          size="small"
          style={{ width: 82 }}
          aria-label="Curve of the fade out"
          value={shape.curve}
          options={['straight', 'falling', 'round'].map((v) => ({ value: v, label: v }))}
          onChange={(curve: Shape['curve']) => set({ curve }, 'Fade curve')}
        />
        <Switch
          size="small"
          checked={shape.loop}
          disabled={!pad.held}
          aria-label="Loop while held"
          onChange={(loop) => {
            const own = known?.loops[0]; // the file's own loop, if it has one
            const from = shape.loopEnd === 0 && own ? own.startFrame : shape.loopStart;
            const to = shape.loopEnd === 0 && own ? own.endFrame : shape.loopEnd;
            set({ loop, loopStart: Math.max(from, shape.startFrame), loopEnd: to }, 'Loop');
          }}
        />
        <span
          className="lab"
          title={pad.held ? '' : 'A one-shot pad plays its region once; a held pad can loop'}
        >
          loop
        </span>
      </div>
      <div className="row" style={{ gap: 9, height: 30 }}>
        <Field name="Attack" unit="ms" value={shape.attackMS} set={(v) => set({ attackMS: v }, 'Attack')} />
        <Field name="Decay" unit="ms" value={shape.decayMS} set={(v) => set({ decayMS: v }, 'Decay')} />
        <Field
          name="Sustain"
          unit="%"
          max={100}
          value={shape.sustainPct}
          set={(v) => set({ sustainPct: v }, 'Sustain')}
        />
        <Field
          name="Release"
          unit="ms"
          value={shape.releaseMS}
          set={(v) => set({ releaseMS: v }, 'Release')}
        />
      </div>
    </div>
  );
}
