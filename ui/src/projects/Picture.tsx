// A project in small, and a kit by its kick and snare.
import { memo } from 'react';
import type { DrumMap, Kit, PicturePattern, ProjectCard } from '../api/client';
import { hex, Poly } from '../lanes/marks';
import { Mini } from '../shelf/Mini';
import { useSample } from '../sounds/peaks';

/** One pattern on the rows of its project's lanes. */
export const PatternPicture = memo(function PatternPicture({
  pattern,
  lanes,
  w,
  h,
}: {
  pattern: PicturePattern;
  lanes: ProjectCard['lanes'];
  w: number;
  h: number;
}) {
  const rowH = (h - 2) / Math.max(4, lanes.length);
  return (
    <svg width={w} height={h} aria-hidden="true">
      <rect
        x={0.5}
        y={0.5}
        width={w - 1}
        height={h - 1}
        rx={2}
        fill="var(--paper)"
        stroke="var(--rule-strong)"
      />
      {Array.from({ length: pattern.bars * 2 - 1 }, (_, i) => (
        <line
          // oxlint-disable-next-line react/no-array-index-key -- a line is its place
          key={i}
          x1={((i + 1) * w) / (pattern.bars * 2)}
          x2={((i + 1) * w) / (pattern.bars * 2)}
          y1={1}
          y2={h - 1}
          stroke="var(--rule)"
        />
      ))}
      {pattern.dots.map((d) => (
        <rect
          key={`${d.row} ${d.at}`}
          className={`f-${lanes[d.row]?.color ?? 'other'}`}
          x={1 + Math.max(0, d.at) * (w - 5)}
          y={1 + d.row * rowH}
          width={3.4}
          height={Math.max(1.6, rowH - 1)}
          fill="var(--c)"
        />
      ))}
    </svg>
  );
});

/** Lanes at the left, the first patterns on their rows. */
export const ProjectPicture = memo(function ProjectPicture({
  of,
  patterns,
  w,
  h,
}: {
  of: Pick<ProjectCard, 'lanes' | 'patterns'>;
  patterns: number;
  /** px of one pattern */
  w: number;
  h: number;
}) {
  const rowH = h / Math.max(4, of.lanes.length);
  return (
    <span style={{ display: 'flex', gap: 4, minWidth: 0, overflow: 'hidden' }}>
      <svg width={12} height={h} aria-hidden="true">
        {of.lanes.map((l, i) => (
          <g key={l.note} className={`f-${l.color}`}>
            <Poly
              pts={hex(6, rowH * (i + 0.5), Math.min(11, rowH * 1.25), Math.min(10, rowH))}
              fill="var(--c)"
            />
          </g>
        ))}
      </svg>
      {of.patterns.slice(0, patterns).map((p) => (
        <PatternPicture key={p.id} pattern={p} lanes={of.lanes} w={w} h={h} />
      ))}
    </span>
  );
});

function Sound({ hash, family, w, h }: { hash: string; family: string; w: number; h: number }) {
  const s = useSample(hash || undefined);
  return (
    <span className={`f-${family} kitsound`} style={{ width: w, height: h }}>
      {s ? (
        <Mini peaks={s.facts.peaks} w={w - 8} h={h - 8} />
      ) : (
        <span className="lab">{hash ? '' : `no ${family}`}</span>
      )}
    </span>
  );
}

/** The hash of the hardest layer of a role's first lane that sounds; '' for none. */
function loudest(map: DrumMap, kit: Kit, role: string): string {
  for (const l of map.lanes) {
    const pad = l.role === role && kit.pads.find((p) => p.note === l.note && p.layers.length > 0);
    if (pad) return pad.layers.at(-1)?.sounds[0]?.takes[0]?.sample ?? '';
  }
  return '';
}

/** A kit's kick and snare. */
export function KitPicture({ map, kit, w, h }: { map: DrumMap; kit: Kit; w: number; h: number }) {
  return (
    <span style={{ display: 'flex', gap: 6 }}>
      <Sound hash={loudest(map, kit, 'kick')} family="kick" w={w} h={h} />
      <Sound hash={loudest(map, kit, 'snare')} family="snare" w={w} h={h} />
    </span>
  );
}

/** A map's colours in a row. */
export function Colours({ map }: { map: DrumMap }) {
  const lanes = map.lanes.slice(0, 18);
  return (
    <svg width={lanes.length * 9 + 4} height={12} aria-hidden="true">
      {lanes.map((l, i) => (
        <g key={l.note} className={`f-${l.color}`}>
          <Poly pts={hex(6 + i * 9, 6, 10, 9)} fill="var(--c)" />
        </g>
      ))}
    </svg>
  );
}
