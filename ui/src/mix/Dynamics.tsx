// The gate, the compressor and the saturation of an output, drawn as they work.
import { useEffect, useMemo, useRef } from 'react';
import { compressed } from '../model/desk';
import { player } from '../player/player';
import { Fields, Head, type StageOf } from './fields';

/** The pictures are drawn with every third report, ten times a second. */
const everyNth = 3;

/** Follows what the meters tell of the output looked at. */
function useTaken(at: number, of: 'compressor' | 'gate') {
  const ref = useRef<HTMLElement>(null);
  useEffect(() => {
    let said = '';
    return player.listenToAll((r) => {
      const db = r.meters?.taken[at]?.[of];
      if (!ref.current || db === undefined) return;
      const words = db < 0.05 ? 'nothing taken off' : `now −${db.toFixed(1)} dB`;
      if (words !== said) ref.current.textContent = words; // what is laid out anew costs the most
      said = words;
    });
  }, [at, of]);
  return ref;
}

export function GateSection({ o, at, change }: StageOf) {
  const g = o.gate;
  const taken = useTaken(at, 'gate');
  const level = useRef<SVGRectElement>(null);
  useEffect(() => {
    let n = 0;
    return player.listenToAll((r) => {
      const peak = r.meters?.buses[at];
      if (peak !== undefined && n++ % everyNth === 0)
        level.current?.setAttribute('width', Math.max(0, 90 + 20 * Math.log10(peak + 1e-9)).toFixed(0));
    });
  }, [at]);
  // it closes no higher than it opens
  const put = (to: Partial<typeof g>, label: string) =>
    change('gate', { ...g, ...to, close: Math.min(to.open ?? g.open, to.close ?? g.close) }, label);
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
        word="Gate"
        of={g}
        rows={[
          ['open', 'Opens', 'dB', -90, 0],
          ['close', 'Closes', 'dB', -96, g.open],
          ['range', 'Range', 'dB', -96, 0],
          ['attack', 'Attack', 'ms', 0.05, 100, 0.5],
          ['hold', 'Hold', 'ms', 0, 2000],
          ['release', 'Release', 'ms', 1, 5000],
        ]}
        put={put}
      />
    </section>
  );
}

export function CompressorSection({ o, at, change }: StageOf) {
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
    let n = 0;
    let still = 0; // reports in a row that took nothing off
    return player.listenToAll((r) => {
      const db = r.meters?.taken[at]?.compressor;
      if (db === undefined || !r.playing) return;
      last.push(db);
      if (last.length > 240) last.shift();
      still = db > 0 ? 0 : still + 1;
      if (n++ % everyNth !== 0 || still > 240 + everyNth) return;
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
        word="Compressor"
        of={c}
        rows={[
          ['threshold', 'Above', 'dB', -60, 0],
          ['ratio', 'Ratio', ': 1', 1, 100, 0.5],
          ['knee', 'Knee', 'dB', 0, 24],
          ['attack', 'Attack', 'ms', 0.1, 500, 0.5],
          ['release', 'Release', 'ms', 1, 5000],
          ['makeup', 'Gain', 'dB', -24, 24, 0.5],
        ]}
        put={put}
      />
    </section>
  );
}

export function SaturationSection({ o, change }: StageOf) {
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
        word="Saturation"
        of={s}
        rows={[['drive', 'Drive', 'dB', 0, 36, 0.5]]}
        put={(to, label) => change('saturation', { ...s, ...to }, label)}
      />
    </section>
  );
}
