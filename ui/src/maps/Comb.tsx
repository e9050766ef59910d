import type { Project } from '../api/client';
import { strike, useBench } from '../app/state';
import { hex, Poly } from '../lanes/marks';
import { noteName } from '../model/time';
import { useMaps } from './state';

/** All notes as a comb: odd above even, lanes as their hexagons. */
export function Comb({ project, width }: { project: Project; width: number }) {
  const listening = useMaps((s) => s.listening !== null);
  const chosen = useBench((s) => s.lane);
  useBench((s) => s.middleC); // names follow it
  const notes = [...project.map.lanes, ...project.missing].map((l) => l.note);
  const lo = Math.max(0, Math.min(33, ...notes) - 2);
  const hi = Math.min(127, Math.max(76, ...notes) + 2);
  const x = (n: number) => 20 + ((n - lo) * (width - 40)) / (hi - lo);
  const w = Math.min(24, (1.9 * (width - 40)) / (hi - lo)); // two notes apart do not touch
  return (
    <svg className="fill" width={width} height={72}>
      {Array.from({ length: hi - lo + 1 }, (_, i) => i + lo).map((n) => (
        <g key={n} style={{ cursor: 'pointer' }} onClick={() => strike(n, 100)}>
          <title>{`${n} · ${noteName(n)}${listening ? ': give it' : ': strike'}`}</title>
          <rect x={x(n) - 5} width={10} height={72} fill="transparent" />
          <line x1={x(n)} x2={x(n)} y1={52} y2={n % 12 === 0 ? 60 : 56} stroke="var(--rule-strong)" />
          {n % 12 === 0 && (
            <text x={x(n)} y={70} textAnchor="middle" className="b">
              {noteName(n)}
            </text>
          )}
        </g>
      ))}
      {project.map.lanes.map((l) => {
        const y = l.note % 2 ? 16 : 38;
        return (
          <g key={l.note} className={`f-${l.color}`} pointerEvents="none">
            <line x1={x(l.note)} x2={x(l.note)} y1={y + 10} y2={52} stroke="var(--e)" />
            <Poly
              pts={hex(x(l.note), y, w, w * 0.88)}
              fill="var(--c)"
              stroke={l.note === chosen ? 'var(--ink)' : 'var(--e)'}
              strokeWidth={l.note === chosen ? 2.5 : 1}
            />
            <text
              x={x(l.note)}
              y={y + 4}
              textAnchor="middle"
              style={{ fill: 'var(--o)', fontWeight: 700, fontSize: w < 20 ? 8 : 10 }}
            >
              {l.code}
            </text>
          </g>
        );
      })}
      {project.missing.map((m) => (
        <g key={m.note} pointerEvents="none">
          <Poly
            pts={hex(x(m.note), m.note % 2 ? 16 : 38, w, w * 0.88)}
            fill="var(--paper)"
            stroke="var(--ink)"
            strokeDasharray="3 2"
          />
          <text x={x(m.note)} y={(m.note % 2 ? 16 : 38) + 4} textAnchor="middle" className="n">
            {m.note}
          </text>
        </g>
      ))}
    </svg>
  );
}
