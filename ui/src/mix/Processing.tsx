// What is done to the output that is looked at: gate, compressor, saturation, equaliser, each drawn; or the room, or the delay.
import { Button, Switch } from 'antd';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { api, type MixOutput, type MixRoom, type Project } from '../api/client';
import { NumberField } from '../app/NumberField';
import { useAnswer } from '../app/useAnswer';
import { compressed, responseDB, sections } from '../model/desk';
import { grids } from '../model/constants.gen';
import { Transform } from '../model/convolver';
import { parseFloatWAV, player } from '../player/player';
import { editMix, editOutput, outputName, outputsOf, useMix } from './state';

type Stage = 'gate' | 'compressor' | 'saturation' | 'equaliser';

interface FieldOf {
  name: string;
  unit: string;
  min: number;
  max: number;
  step?: number;
  value: number;
  set: (v: number) => void;
}

const Fields = ({ of }: { of: FieldOf[] }) => (
  <div className="fields" style={of.length === 1 ? { gridTemplateColumns: '1fr' } : {}}>
    {of.map((f) => (
      <label key={f.name}>
        {f.name} {f.unit}
        <NumberField
          size="small"
          style={{ width: '100%' }}
          controls={false}
          name={`${f.name}${f.unit ? `, ${f.unit}` : ''}`}
          min={f.min}
          max={f.max}
          step={f.step ?? 1}
          value={f.value}
          set={(v) => v !== null && f.set(v)}
        />
      </label>
    ))}
  </div>
);

/** Follows what the meters tell of the output looked at. */
function useTaken(at: number, of: 'compressor' | 'gate') {
  const ref = useRef<HTMLElement>(null);
  useEffect(
    () =>
      player.listenToAll((r) => {
        const db = r.meters?.taken[at]?.[of];
        if (ref.current && db !== undefined)
          ref.current.textContent = db < 0.05 ? 'nothing taken off' : `now −${db.toFixed(1)} dB`;
      }),
    [at, of],
  );
  return ref;
}

function GateSection({ o, at, change }: StageOf) {
  const g = o.gate;
  const taken = useTaken(at, 'gate');
  const level = useRef<SVGRectElement>(null);
  useEffect(
    () =>
      player.listenToAll((r) => {
        const peak = r.meters?.buses[at];
        if (peak !== undefined)
          level.current?.setAttribute('width', String(Math.max(0, 90 + 20 * Math.log10(peak + 1e-9))));
      }),
    [at],
  );
  const put = (to: Partial<typeof g>, label: string) => change('gate', { ...g, ...to }, label);
  return (
    <section>
      <Head name="Gate" on={g.on ?? false} set={(on) => put({ on }, on ? 'Gate on' : 'Gate off')}>
        <span className="lab" ref={taken} />
      </Head>
      <svg
        viewBox="0 0 90 40"
        preserveAspectRatio="none"
        role="img"
        aria-label={`Opens at ${g.open} dB, closes at ${g.close} dB`}
      >
        <rect ref={level} x={0} y={14} height={12} width={0} fill="var(--rule-strong)" />
        <line
          x1={90 + g.open}
          x2={90 + g.open}
          y1={4}
          y2={36}
          stroke="var(--ink)"
          vectorEffect="non-scaling-stroke"
        />
        <line
          x1={90 + g.close}
          x2={90 + g.close}
          y1={4}
          y2={36}
          stroke="var(--ink)"
          strokeDasharray="3 3"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <Fields
        of={[
          {
            name: 'Opens',
            unit: 'dB',
            min: -90,
            max: 0,
            value: g.open,
            set: (v) => put({ open: v, close: Math.min(v, g.close) }, `Gate opens at ${v} dB`),
          },
          {
            name: 'Closes',
            unit: 'dB',
            min: -96,
            max: g.open,
            value: g.close,
            set: (v) => put({ close: v }, `Gate closes at ${v} dB`),
          },
          {
            name: 'Range',
            unit: 'dB',
            min: -96,
            max: 0,
            value: g.range,
            set: (v) => put({ range: v }, `Gate’s range: ${v} dB`),
          },
          {
            name: 'Attack',
            unit: 'ms',
            min: 0.05,
            max: 100,
            step: 0.5,
            value: g.attack,
            set: (v) => put({ attack: v }, `Gate’s attack: ${v} ms`),
          },
          {
            name: 'Hold',
            unit: 'ms',
            min: 0,
            max: 2000,
            value: g.hold,
            set: (v) => put({ hold: v }, `Gate’s hold: ${v} ms`),
          },
          {
            name: 'Release',
            unit: 'ms',
            min: 1,
            max: 5000,
            value: g.release,
            set: (v) => put({ release: v }, `Gate’s release: ${v} ms`),
          },
        ]}
      />
    </section>
  );
}

interface StageOf {
  o: MixOutput;
  at: number;
  change: (stage: Stage, to: MixOutput[Stage], label: string) => void;
}

function Head({
  name,
  on,
  set,
  children,
}: {
  name: string;
  on: boolean;
  set: (on: boolean) => void;
  children?: React.ReactNode;
}) {
  return (
    <div className="row" style={{ gap: 8 }}>
      <Switch size="small" checked={on} aria-label={`${name} on`} onChange={set} />
      <b>{name}</b>
      <span className="grow" />
      {children}
    </div>
  );
}

function CompressorSection({ o, at, change }: StageOf) {
  const c = o.compressor;
  const taken = useTaken(at, 'compressor');
  const curve = useMemo(
    () =>
      Array.from(
        { length: 61 },
        (_, i) => `${i === 0 ? 'M' : 'L'}${i},${(-compressed(c, i - 60)).toFixed(2)}`,
      ).join(''),
    [c],
  );
  const history = useRef<SVGPathElement>(null);
  useEffect(() => {
    const last: number[] = [];
    return player.listenToAll((r) => {
      const db = r.meters?.taken[at]?.compressor;
      if (db === undefined || !r.playing) return;
      last.push(db);
      if (last.length > 240) last.shift();
      history.current?.setAttribute(
        'd',
        `M60,0${last.map((v, i) => `L${60 + i / 2},${Math.min(60, v * 3).toFixed(1)}`).join('')}L${60 + last.length / 2},0Z`,
      );
    });
  }, [at]);
  const put = (to: Partial<typeof c>, label: string) => change('compressor', { ...c, ...to }, label);
  return (
    <section>
      <Head
        name="Compressor"
        on={c.on ?? false}
        set={(on) => put({ on }, on ? 'Compressor on' : 'Compressor off')}
      >
        <span className="lab" ref={taken} />
      </Head>
      <svg
        viewBox="0 0 180 60"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${c.ratio} to 1 above ${c.threshold} dB; at the right what is taken off`}
      >
        <path d="M0,60L60,0" stroke="var(--rule)" fill="none" vectorEffect="non-scaling-stroke" />
        <line
          x1={60 + c.threshold}
          x2={60 + c.threshold}
          y1={0}
          y2={60}
          stroke="var(--ink)"
          strokeDasharray="3 3"
          vectorEffect="non-scaling-stroke"
        />
        <path d={curve} stroke="var(--ink)" strokeWidth={2} fill="none" vectorEffect="non-scaling-stroke" />
        <path ref={history} fill="var(--ink-3)" />
      </svg>
      <Fields
        of={[
          {
            name: 'Above',
            unit: 'dB',
            min: -60,
            max: 0,
            value: c.threshold,
            set: (v) => put({ threshold: v }, `Compressor above ${v} dB`),
          },
          {
            name: 'Ratio',
            unit: ': 1',
            min: 1,
            max: 100,
            step: 0.5,
            value: c.ratio,
            set: (v) => put({ ratio: v }, `Compressor ${v} : 1`),
          },
          {
            name: 'Knee',
            unit: 'dB',
            min: 0,
            max: 24,
            value: c.knee,
            set: (v) => put({ knee: v }, `Compressor’s knee: ${v} dB`),
          },
          {
            name: 'Attack',
            unit: 'ms',
            min: 0.1,
            max: 500,
            step: 0.5,
            value: c.attack,
            set: (v) => put({ attack: v }, `Compressor’s attack: ${v} ms`),
          },
          {
            name: 'Release',
            unit: 'ms',
            min: 1,
            max: 5000,
            value: c.release,
            set: (v) => put({ release: v }, `Compressor’s release: ${v} ms`),
          },
          {
            name: 'Gain',
            unit: 'dB',
            min: -24,
            max: 24,
            step: 0.5,
            value: c.makeup ?? 0,
            set: (v) => put({ makeup: v }, `Compressor’s gain: ${v} dB`),
          },
        ]}
      />
    </section>
  );
}

function SaturationSection({ o, change }: StageOf) {
  const s = o.saturation;
  const g = 10 ** (s.drive / 20) - 1;
  const y = (x: number) => (g < 1e-6 ? x : Math.tanh(g * x) / Math.tanh(g));
  return (
    <section>
      <Head
        name="Saturation"
        on={s.on ?? false}
        set={(on) => change('saturation', { ...s, on }, on ? 'Saturation on' : 'Saturation off')}
      />
      <svg viewBox="-1 -1 2 2" preserveAspectRatio="none" role="img" aria-label={`Driven by ${s.drive} dB`}>
        <path d="M-1,1L1,-1" stroke="var(--rule)" fill="none" vectorEffect="non-scaling-stroke" />
        <path
          d={Array.from(
            { length: 41 },
            (_, i) => `${i === 0 ? 'M' : 'L'}${(i / 20 - 1).toFixed(2)},${(-y(i / 20 - 1)).toFixed(3)}`,
          ).join('')}
          stroke="var(--ink)"
          strokeWidth={2}
          fill="none"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <Fields
        of={[
          {
            name: 'Drive',
            unit: 'dB',
            min: 0,
            max: 36,
            step: 0.5,
            value: s.drive,
            set: (v) => change('saturation', { ...s, drive: v }, `Saturation driven by ${v} dB`),
          },
        ]}
      />
    </section>
  );
}

const wide = 300;
const loHz = 20;
const hiHz = 20000;
const xOfHz = (hz: number) => (Math.log(hz / loHz) / Math.log(hiHz / loHz)) * wide;
const tall = 36; // dB shown, half each way

function EqualiserSection({ o, at, change }: StageOf) {
  const e = o.equaliser;
  const rate = player.rate || 48000;
  const curve = useMemo(() => {
    const f = sections(e, rate);
    return Array.from({ length: 101 }, (_, i) => {
      const hz = loHz * (hiHz / loHz) ** (i / 100);
      const db = Math.max(-tall / 2, Math.min(tall / 2, responseDB(f, Math.min(hz, rate * 0.49), rate)));
      return `${i === 0 ? 'M' : 'L'}${i * 3},${(tall / 2 - db).toFixed(2)}`;
    }).join('');
  }, [e, rate]);
  const passes = useRef<SVGPathElement>(null);
  useEffect(() => {
    player.setMetered(true, at);
    const size = 2048;
    const transform = new Transform(size);
    const [re, im] = [new Float64Array(size), new Float64Array(size)];
    const smooth = new Float64Array(100).fill(-100);
    let n = 0;
    return player.listenToAll((r) => {
      const { scope } = r.meters ?? {};
      if (!scope || n++ % 4 !== 0 || !passes.current) return;
      for (let i = 0; i < size; i++)
        re[i] = (scope[i] ?? 0) * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size));
      im.fill(0);
      transform.run(re, im, false);
      let d = `M0,${tall}`;
      for (let i = 0; i < 100; i++) {
        const [a, b] = [i, i + 1].map((k) =>
          Math.round(((loHz * (hiHz / loHz) ** (k / 100)) / rate) * size),
        ) as [number, number];
        let top = 0;
        for (let k = a; k <= Math.max(a, b - 1); k++)
          top = Math.max(top, (re[k] ?? 0) ** 2 + (im[k] ?? 0) ** 2);
        const db = 10 * Math.log10(top / (size / 4) ** 2 + 1e-12);
        smooth[i] = Math.max(db, (smooth[i] as number) - 2);
        d += `L${i * 3},${Math.max(0, Math.min(tall, (-(smooth[i] as number) * tall) / 80)).toFixed(1)}`;
      }
      passes.current.setAttribute('d', `${d}L${wide},${tall}Z`);
    });
  }, [at, rate]);
  const put = (to: Partial<typeof e>, label: string) => change('equaliser', { ...e, ...to }, label);
  const bands = [
    { key: 'low', name: 'Low shelf' },
    { key: 'mid', name: 'Bell' },
    { key: 'high', name: 'High shelf' },
  ] as const;
  return (
    <section>
      <Head
        name="Equaliser"
        on={e.on ?? false}
        set={(on) => put({ on }, on ? 'Equaliser on' : 'Equaliser off')}
      >
        <span className="lab">grey: what passes through</span>
        <Button
          size="small"
          type="text"
          onClick={() =>
            put(
              { highPass: 0, low: { ...e.low, db: 0 }, mid: { ...e.mid, db: 0 }, high: { ...e.high, db: 0 } },
              'Equaliser flat',
            )
          }
        >
          Flat
        </Button>
      </Head>
      <svg
        viewBox={`0 0 ${wide} ${tall}`}
        preserveAspectRatio="none"
        role="img"
        aria-label="What the equaliser raises and lowers, 20 Hz to 20 kHz, 18 dB each way"
      >
        <path ref={passes} fill="var(--rule)" />
        {[50, 100, 200, 500, 1000, 2000, 5000, 10000].map((hz) => (
          <line
            key={hz}
            x1={xOfHz(hz)}
            x2={xOfHz(hz)}
            y1={0}
            y2={tall}
            stroke="var(--rule)"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        <line
          x1={0}
          x2={wide}
          y1={tall / 2}
          y2={tall / 2}
          stroke="var(--rule-strong)"
          vectorEffect="non-scaling-stroke"
        />
        <path d={curve} stroke="var(--ink)" strokeWidth={2} fill="none" vectorEffect="non-scaling-stroke" />
      </svg>
      <div className="fields" style={{ gridTemplateColumns: 'repeat(4, minmax(0, 1fr))' }}>
        <label>
          High-pass Hz
          <NumberField
            size="small"
            style={{ width: '100%' }}
            controls={false}
            name="High-pass, Hz; 0 is none"
            min={0}
            max={2000}
            value={e.highPass ?? 0}
            set={(v) =>
              v !== null && put({ highPass: v, on: true }, v === 0 ? 'No high-pass' : `High-pass at ${v} Hz`)
            }
          />
        </label>
        {bands.map(({ key, name }) => (
          <label key={key}>
            {name} Hz
            <NumberField
              size="small"
              style={{ width: '100%' }}
              controls={false}
              name={`${name}, Hz`}
              min={20}
              max={20000}
              value={e[key].hz}
              set={(v) => v !== null && put({ [key]: { ...e[key], hz: v } }, `${name} at ${v} Hz`)}
            />
          </label>
        ))}
        <label>
          dB an octave
          <select
            aria-label="Slope of the high-pass, dB an octave"
            value={e.slope ?? 12}
            onChange={(x) =>
              put({ slope: Number(x.target.value) as 12 | 24 }, `High-pass of ${x.target.value} dB an octave`)
            }
          >
            <option>12</option>
            <option>24</option>
          </select>
        </label>
        {bands.map(({ key, name }) => (
          <label key={key}>
            dB
            <NumberField
              size="small"
              style={{ width: '100%' }}
              controls={false}
              name={`${name}, dB`}
              min={-18}
              max={18}
              step={0.5}
              value={e[key].db}
              set={(v) => v !== null && put({ [key]: { ...e[key], db: v }, on: true }, `${name}: ${v} dB`)}
            />
          </label>
        ))}
      </div>
    </section>
  );
}

function RoomPanel({ project }: { project: Project }) {
  const { room } = project.mix;
  const { id } = project;
  const { size, length, tone } = room;
  const response = useAnswer(
    useCallback(async () => {
      const data = await api.getRoom({
        path: { project: id },
        query: { rate: 8000 },
        parseAs: 'arrayBuffer',
      });
      const [left] = parseFloatWAV(data as unknown as ArrayBuffer).channels;
      // asked anew for another room
      return left && size + length + tone > -100 ? left : null;
    }, [id, size, length, tone]),
  );
  const put = (to: Partial<MixRoom>, label: string) => void editMix({ room: { ...room, ...to } }, label);
  const step = Math.max(1, Math.floor((response?.length ?? 0) / 300));
  return (
    <div className="processing" style={{ gridTemplateColumns: '1.4fr 1fr' }}>
      <section>
        <div className="row">
          <b>Room</b>
          <span className="lab">one for all: each lane is sent to it, or stays dry</span>
        </div>
        <svg
          viewBox="0 0 300 40"
          preserveAspectRatio="none"
          role="img"
          aria-label={`It dies away in ${length} seconds`}
        >
          <path
            d={Array.from({ length: Math.floor((response?.length ?? 0) / step) }, (_, i) => {
              let top = 0;
              for (let k = i * step; k < (i + 1) * step; k++)
                top = Math.max(top, Math.abs(response?.[k] ?? 0));
              return `M${i},40V${(40 - Math.max(0, 40 + (20 * Math.log10(top + 1e-5) * 40) / 80)).toFixed(1)}`;
            }).join('')}
            stroke="var(--ink-3)"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <Fields
          of={[
            {
              name: 'Size',
              unit: 'm',
              min: 3,
              max: 60,
              value: size,
              set: (v) => put({ size: v }, `A room of ${v} m`),
            },
            {
              name: 'Length',
              unit: 's',
              min: 0.2,
              max: 4,
              step: 0.1,
              value: length,
              set: (v) => put({ length: v }, `A room of ${v} s`),
            },
            {
              name: 'Tone',
              unit: '−1 dark, 1 bright',
              min: -1,
              max: 1,
              step: 0.1,
              value: tone,
              set: (v) => put({ tone: v }, `The room’s tone: ${v}`),
            },
          ]}
        />
      </section>
      <section>
        <p className="lab" style={{ whiteSpace: 'normal' }}>
          The first echo comes after {Math.round((size / 343) * 1000)} ms. Tick a lane’s room above to send it
          there; its slider says how much.
        </p>
      </section>
    </div>
  );
}

function DelayPanel({ project }: { project: Project }) {
  const { delay } = project.mix;
  const put = (to: Partial<typeof delay>, label: string) =>
    void editMix({ delay: { ...delay, ...to } }, label);
  return (
    <div className="processing" style={{ gridTemplateColumns: '1.4fr 1fr' }}>
      <section>
        <div className="row">
          <b>Delay</b>
          <span className="lab">in note values, at the project’s tempo</span>
        </div>
        <svg viewBox="0 0 100 40" preserveAspectRatio="none" role="img" aria-label="Repeats, each softer">
          {Array.from({ length: 12 }, (_, i) => (
            <line
              key={i}
              x1={2 + i * 8}
              x2={2 + i * 8}
              y1={40}
              y2={40 - 36 * (i === 0 ? 1 : delay.feedback ** (i - 1))}
              stroke={i === 0 ? 'var(--rule-strong)' : 'var(--ink)'}
              strokeWidth={2}
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </svg>
        <div className="fields">
          <label>
            Note value
            <select
              aria-label="From one repeat to the next"
              value={delay.grid}
              onChange={(x) => put({ grid: x.target.value }, `Delay of ${x.target.value}`)}
            >
              {grids.map((g) => (
                <option key={g}>{g}</option>
              ))}
            </select>
          </label>
          <label>
            Again, %
            <NumberField
              size="small"
              style={{ width: '100%' }}
              controls={false}
              name="How much of each repeat is in the next, %"
              min={0}
              max={95}
              value={Math.round(delay.feedback * 100)}
              set={(v) => v !== null && put({ feedback: v / 100 }, `Delay again: ${v} %`)}
            />
          </label>
          <label>
            Up to, Hz
            <NumberField
              size="small"
              style={{ width: '100%' }}
              controls={false}
              name="Repeats lose what lies above, Hz"
              min={200}
              max={20000}
              value={delay.tone}
              set={(v) => v !== null && put({ tone: v }, `Delay up to ${v} Hz`)}
            />
          </label>
        </div>
      </section>
      <section />
    </div>
  );
}

export function Processing({ project }: { project: Project }) {
  const looked = useMix((s) => s.looked);
  if (looked === 'room') return <RoomPanel project={project} />;
  if (looked === 'delay') return <DelayPanel project={project} />;
  const at = looked < outputsOf(project.mix).length ? looked : 0;
  const o = outputsOf(project.mix)[at] as MixOutput;
  const change: StageOf['change'] = (stage, to, label) =>
    void editOutput(project.mix, at, { [stage]: to }, `${outputName(project, at)}: ${label}`);
  const of = { o, at, change };
  return (
    <div className="processing" data-id="processing">
      <GateSection {...of} />
      <CompressorSection {...of} />
      <SaturationSection {...of} />
      <EqualiserSection {...of} />
    </div>
  );
}
