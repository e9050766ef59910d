// Sounds cut from a loop or a longer recording: marks at its attacks, pieces given to lanes.
import { Button, InputNumber, Select, Slider } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { addresses, api, type Lane, type Piece, type Project, type Wave } from '../api/client';
import { explain, say, useBench } from '../app/state';
import { Transport } from '../app/Transport';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { outlinePoints, Chip, hex, Poly } from '../lanes/marks';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { codeOf, familyOf } from '../shelf/kinds';
import { hear } from '../shelf/state';
import { useSample } from './peaks';
import { laneAt, partOf, usePieces } from './pieces';
import { bringTo, planDrop, useSounds } from './state';

const pad = 14;

export function CutFace({ project, lanes, hash }: { project: Project; lanes: Lane[]; hash: string }) {
  const [strength, setStrength] = useState(0.3);
  const [minGapMS, setMinGap] = useState(90);
  const [deadDB, setDead] = useState(-48);
  const [by, setBy] = useState<'attacks' | 'cues' | 'hand'>('attacks');
  const [marks, setMarks] = useState<number[] | null>(null);
  const [at, setAt] = useState(0);
  const [view, setView] = useState<{ from: number; to: number } | null>(null);
  const [wave, setWave] = useState<Wave | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const drag = useRef<{ piece: number; moved: boolean } | null>(null);
  const free = useRef<{ from: number } | null>(null);
  const [region, setRegion] = useState<{ from: number; to: number } | null>(null);
  const [ref, size] = useSize<HTMLDivElement>();
  const sample = useSample(hash);
  const pieces = usePieces(hash, strength, minGapMS, deadDB, by === 'attacks' ? null : marks);
  const width = size.width;
  const frames = wave?.frames ?? sample?.frames ?? 1;
  const rate = wave?.rate ?? 44100;
  const from = view?.from ?? 0;
  const to = view?.to ?? frames;
  useEffect(() => {
    api
      .drawSample({
        path: { hash },
        query: {
          start: Math.round(view?.from ?? 0),
          end: Math.round(view?.to ?? 0),
          columns: Math.min(2000, Math.floor(width - 2 * pad)),
        },
      })
      .then(setWave)
      .catch((e: unknown) => say(explain(e)));
  }, [hash, view, width]);
  const x = (f: number) => pad + ((f - from) / Math.max(1, to - from)) * (width - 2 * pad);
  const frameAt = (px: number) =>
    Math.round(Math.min(frames, Math.max(0, from + ((px - pad) / (width - 2 * pad)) * (to - from))));
  const piece: Piece | undefined = region
    ? {
        startFrame: region.from,
        endFrame: region.to,
        nextFrame: region.to,
        peakDB: 0,
        guess: pieces.find((p) => p.startFrame >= region.from)?.guess ?? { kind: 'other', confidence: 0 },
      }
    : pieces[at];
  const given = useMemo(() => {
    const m = new Map<number, number>(); // piece's start → note
    for (const p of project.kit.pads)
      for (const l of p.layers)
        for (const s of l.sounds)
          for (const t of s.takes)
            if (t.sample === hash && t.shape.endFrame > 0) m.set(t.shape.startFrame, p.note);
    return m;
  }, [project.kit, hash]);
  const give = (p: Piece, note: number) => {
    bringTo(note, [partOf(hash, p)], [sample?.name ?? '']);
    if (!region) setAt((n) => Math.min(pieces.length - 1, n + 1));
    setRegion(null);
  };
  // a pad struck takes the sound chosen
  useEffect(() =>
    useBench.subscribe((s, old) => {
      const struck = s.strikes[0];
      if (struck && struck !== old.strikes[0] && piece) give(piece, struck.note);
    }),
  );
  const hearPiece = (p: Piece | undefined) => p && void hear(hash, { start: p.startFrame, end: p.endFrame });
  const outline = outlinePoints(
    wave,
    (i) => pad + (i / (wave?.high.length ?? 1)) * (width - 2 * pad),
    (_, v) => 82 - (v / 127) * 50,
  );
  useEffect(() => {
    const el = ref.current;
    if (!el) return undefined;
    const zoom = (e: WheelEvent) => {
      e.preventDefault();
      const span = to - from;
      const px = e.clientX - el.getBoundingClientRect().left;
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) {
        const by2 = ((e.deltaX || e.deltaY) / width) * span;
        const start = Math.max(0, Math.min(frames - span, from + by2));
        setView({ from: start, to: start + span });
        return;
      }
      const next = Math.min(frames, Math.max(500, span * (e.deltaY > 0 ? 1.25 : 0.8)));
      const f = frameAt(px);
      const start = Math.max(0, Math.min(frames - next, f - ((f - from) / span) * next));
      setView(next >= frames ? null : { from: start, to: start + next });
    };
    el.addEventListener('wheel', zoom, { passive: false });
    return () => el.removeEventListener('wheel', zoom);
  });
  const family = (p: Piece) => {
    const note = given.get(p.startFrame);
    return note === undefined ? '' : (lanes.find((l) => l.note === note)?.color ?? '');
  };
  const seconds = (f: number) => `${(f / rate).toFixed(3)} s`;
  const chop = (options: { by: 'kind' | 'order' }) =>
    void planDrop({
      parts: pieces.filter((p) => !given.has(p.startFrame)).map((p) => partOf(hash, p)),
      names: pieces.map((_, i) => `${sample?.name ?? ''} ${i + 1}`),
      from: sample?.name ?? 'the recording',
      options,
    }).then(() => useSounds.setState({ cutting: '' }));
  const byHand = (next: number[]) => {
    setBy('hand');
    setMarks(next.toSorted((a, b) => a - b));
  };
  const starts = marks && by !== 'attacks' ? marks : pieces.map((p) => p.startFrame);
  const stepS =
    [0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30].find((s) => ((s * rate) / (to - from)) * width > 80) ?? 60;
  return (
    <>
      <MapBar project={project} />
      <div className="tools" data-id="cutting">
        <span className="lab">Cut sounds from</span>
        <b className="ellipsis" style={{ maxWidth: 180 }}>
          {sample?.name}
        </b>
        <span className="lab">
          {sample &&
            `${sample.facts.seconds.toFixed(1)} s, ${sample.rate / 1000} kHz${sample.bits ? `, ${sample.bits} bit` : ''}`}
        </span>
        <span className="sep" />
        <span className="lab">Marks at</span>
        <Select
          size="small"
          style={{ width: 92 }}
          aria-label="Marks at"
          value={by}
          options={[
            { value: 'attacks', label: 'attacks' },
            ...((sample?.cues.length ?? 0) > 0 ? [{ value: 'cues', label: 'cue points' }] : []),
            { value: 'hand', label: 'by hand' },
          ]}
          onChange={(v: 'attacks' | 'cues' | 'hand') => {
            if (v === 'hand') byHand(starts);
            else setBy(v);
            if (v === 'cues') setMarks(sample?.cues ?? []);
          }}
        />
        <Button
          size="small"
          title="A mark in the middle of the sound chosen"
          onClick={() => piece && byHand([...starts, Math.round((piece.startFrame + piece.nextFrame) / 2)])}
        >
          + Mark
        </Button>
        <Button
          size="small"
          disabled={at === 0}
          title="Join the sound chosen to the one before it"
          onClick={() => piece && byHand(starts.filter((f) => f !== piece.startFrame))}
        >
          Join two
        </Button>
        <span className="grow" />
        <Button onClick={() => useSounds.setState({ cutting: '' })}>Close</Button>
      </div>
      <Transport />
      <div className="crown opencrown" ref={ref}>
        <svg
          className="fill"
          width={width}
          height={145}
          onPointerDown={(e) => {
            const f = frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left);
            free.current = { from: f };
          }}
          onPointerMove={(e) => {
            if (!free.current) return;
            const f = frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left);
            if (Math.abs(f - free.current.from) > (to - from) / 200)
              setRegion({ from: Math.min(f, free.current.from), to: Math.max(f, free.current.from) });
          }}
          onPointerUp={() => {
            if (region && free.current) void hear(hash, { start: region.from, end: region.to });
            free.current = null;
          }}
        >
          <polygon points={outline} fill="var(--ink-2)" />
          {pieces.map((p, i) => {
            const on = !region && i === at;
            const fam = family(p);
            return (
              <g key={p.startFrame} className={`f-${fam || 'other'}`}>
                <rect
                  x={x(p.startFrame)}
                  width={Math.max(1, x(p.endFrame) - x(p.startFrame))}
                  y={30}
                  height={104}
                  fill={fam ? 'var(--c)' : on ? 'var(--ink)' : 'transparent'}
                  opacity={fam ? 0.25 : 0.08}
                />
                <rect
                  x={x(p.endFrame)}
                  width={Math.max(0, x(p.nextFrame) - x(p.endFrame))}
                  y={30}
                  height={104}
                  fill="url(#dead)"
                />
                <line
                  x1={x(p.startFrame)}
                  x2={x(p.startFrame)}
                  y1={18}
                  y2={145}
                  stroke="var(--ink)"
                  strokeWidth={on ? 2 : 1}
                />
                <g
                  style={{ cursor: 'grab' }}
                  onPointerDown={(e) => {
                    e.stopPropagation();
                    e.currentTarget.setPointerCapture(e.pointerId);
                    setRegion(null);
                    setAt(i);
                    drag.current = { piece: i, moved: false };
                    hearPiece(p);
                  }}
                  onPointerMove={(e) => {
                    if (drag.current) setOver(laneAt(e.clientY));
                  }}
                  onPointerUp={(e) => {
                    const note = laneAt(e.clientY);
                    if (drag.current && note !== null) give(p, note);
                    drag.current = null;
                    setOver(null);
                  }}
                >
                  <title>Click to hear, draw it down to a lane to give it</title>
                  <rect
                    x={x(p.startFrame) - 2}
                    width={Math.max(14, x(p.nextFrame) - x(p.startFrame) - 3)}
                    y={30}
                    height={104}
                    fill="transparent"
                  />
                  <Poly
                    pts={hex(x(p.startFrame), 12, 17, 15)}
                    fill={fam ? 'var(--c)' : on ? 'var(--ink)' : 'var(--paper-raised)'}
                    stroke="var(--ink)"
                  />
                </g>
              </g>
            );
          })}
          {region && (
            <rect
              x={x(region.from)}
              width={x(region.to) - x(region.from)}
              y={26}
              height={112}
              fill="var(--veil)"
              stroke="var(--ink)"
              strokeWidth={1.5}
            />
          )}
          <defs>
            <pattern
              id="dead"
              width={6}
              height={6}
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <line x1={0} x2={0} y2={6} stroke="var(--rule-strong)" strokeWidth={1.5} />
            </pattern>
          </defs>
        </svg>
      </div>
      <LaneHead />
      <div className="ruler">
        <svg className="fill" width={width} height={22} aria-hidden="true">
          {Array.from(
            { length: Math.ceil((to - from) / rate / stepS) + 1 },
            (_, i) => (Math.ceil(from / rate / stepS) + i) * stepS,
          ).map((s) => (
            <text key={s} x={x(s * rate)} y={15}>
              {`${Number(s.toFixed(2))} s`}
            </text>
          ))}
        </svg>
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={lanes} />
        <div>
          {lanes.map((l) => (
            <div
              key={l.note}
              data-cutlane={l.note}
              className={`layers f-${l.color} ${over === l.note ? 'over' : ''}`}
            >
              <svg className="fill" width={width} height={32}>
                {pieces
                  .filter((p) => given.get(p.startFrame) === l.note)
                  .map((p) => (
                    <rect
                      key={p.startFrame}
                      x={x(p.startFrame)}
                      y={5}
                      width={Math.max(4, x(p.endFrame) - x(p.startFrame))}
                      height={22}
                      rx={2}
                      fill="var(--c)"
                      stroke="var(--e)"
                    />
                  ))}
                {over === l.note && piece && (
                  <rect
                    x={x(piece.startFrame)}
                    y={4}
                    width={Math.max(30, x(piece.endFrame) - x(piece.startFrame))}
                    height={24}
                    fill="none"
                    stroke="var(--ink)"
                    strokeDasharray="3 2"
                  />
                )}
              </svg>
            </div>
          ))}
        </div>
      </div>
      <div className="stripside" style={{ padding: '9px 12px' }}>
        <span className="ttl">Where to cut</span>
        <div className="padsettings" style={{ padding: '6px 0', minHeight: 0 }}>
          <span className="lab">Strength</span>
          <span className="row">
            <Slider
              style={{ width: 92 }}
              min={0}
              max={1}
              step={0.02}
              value={strength}
              tooltip={{ open: false }}
              ariaLabelForHandle="Strength"
              onChange={setStrength}
            />
            <span className="num">{Math.round(strength * 100)}%</span>
          </span>
          <span className="lab">Minimum gap</span>
          <span className="row">
            <Slider
              style={{ width: 92 }}
              min={20}
              max={1000}
              step={10}
              value={minGapMS}
              tooltip={{ open: false }}
              ariaLabelForHandle="Minimum gap"
              onChange={setMinGap}
            />
            <span className="num">{minGapMS} ms</span>
          </span>
          <span className="lab">Dead air under</span>
          <InputNumber
            size="small"
            controls={false}
            style={{ width: 64 }}
            min={-100}
            max={-10}
            suffix="dB"
            aria-label="Dead air under, dB"
            value={deadDB}
            onChange={(v) => setDead(v ?? -48)}
          />
        </div>
        <p className="lab" style={{ whiteSpace: 'normal', margin: 0 }}>
          Draw a sound from the waveform down to a lane, or strike the pad it belongs to. Drag over the
          waveform for any other region.
        </p>
      </div>
      <div className="strip row" style={{ alignItems: 'stretch' }}>
        <div className="dropcol" style={{ flex: 1 }}>
          {piece ? (
            <>
              <span className="row">
                <Button size="small" onClick={() => hearPiece(piece)}>
                  Hear
                </Button>
                <b>{region ? 'Region' : `Sound ${at + 1} of ${pieces.length}`}</b>
                <span className="lab">
                  {seconds(piece.startFrame)} to {seconds(piece.endFrame)}
                </span>
                <span className="tag">
                  <Chip code={codeOf(piece.guess.kind)} family={familyOf(piece.guess.kind)} w={22} h={16} />
                  &nbsp;sounds like {piece.guess.kind}, {Math.round(piece.guess.confidence * 100)}%
                </span>
              </span>
              <span className="row">
                <span className="lab">Give it to</span>
                <Select
                  size="small"
                  style={{ width: 150 }}
                  aria-label="Give it to"
                  data-id="give-to"
                  value={null}
                  placeholder="a lane"
                  options={lanes.map((l) => ({ value: l.note, label: l.name }))}
                  onChange={(n: number | null) => n !== null && give(piece, n)}
                />
                <Button size="small" disabled={at === 0} onClick={() => setAt(at - 1)}>
                  Previous
                </Button>
                <Button
                  size="small"
                  disabled={at >= pieces.length - 1}
                  onClick={() => {
                    setAt(at + 1);
                    hearPiece(pieces[at + 1]);
                  }}
                >
                  Next
                </Button>
                <Button
                  size="small"
                  href={addresses.part(hash, piece.startFrame, piece.endFrame)}
                  title="A WAV at the recording’s own rate and depth"
                >
                  Take away as WAV
                </Button>
              </span>
            </>
          ) : (
            <span className="lab">
              No sound reaches over the strength chosen. Lower it, or drag over the waveform.
            </span>
          )}
        </div>
        <div className="dropcol" style={{ width: 360, borderRight: 0 }}>
          <span className="ttl">{pieces.length} sounds between marks</span>
          <span className="lab">{given.size} given to lanes</span>
          <span className="row">
            <Button
              type="primary"
              data-id="chop"
              style={{ width: 112 }}
              disabled={pieces.length === 0}
              onClick={() => chop({ by: 'kind' })}
            >
              Chop all
            </Button>
            <span>to lanes by kind, shown before it is done</span>
          </span>
          <span className="row">
            <Button
              style={{ width: 112 }}
              disabled={pieces.length === 0}
              onClick={() => chop({ by: 'order' })}
            >
              Spread on pads
            </Button>
            <span>one a pad, in order</span>
          </span>
        </div>
      </div>
    </>
  );
}
