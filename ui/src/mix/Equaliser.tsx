// The equaliser of an output, drawn over what passes through.
import { Button } from 'antd';
import { useEffect, useMemo, useRef } from 'react';
import { NumberField } from '../app/NumberField';
import { Transform } from '../model/convolver';
import { responseDB, sections } from '../model/desk';
import { player } from '../player/player';
import { Head, type StageOf } from './fields';

const wide = 300;
const loHz = 20;
const hiHz = 20000;
const xOfHz = (hz: number) => (Math.log(hz / loHz) / Math.log(hiHz / loHz)) * wide;
const tall = 36; // dB shown, half each way

export function EqualiserSection({ o, at, change }: StageOf) {
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
      if (!scope || n++ % 2 !== 0 || !passes.current) return;
      for (let i = 0; i < size; i++)
        re[i] = (scope[i] ?? 0) * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size));
      im.fill(0);
      transform.run(re, im);
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
          title="No band raised or lowered, no high-pass"
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
