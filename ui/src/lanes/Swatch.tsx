import { hex, Poly } from './marks';

/** The colour families of drums, which blocks and patterns may be coloured by too. */
export const families = ['kick', 'snare', 'clap', 'hat', 'tom', 'cym', 'perc', 'other'];

/** A family's colour, with its name; '' is none. */
export function Swatch({ family, name = '' }: { family: string; name?: string }) {
  return (
    <span className="row" style={{ gap: 6 }}>
      <svg width={14} height={12} className={family ? `f-${family}` : ''} aria-hidden="true">
        <Poly
          pts={hex(7, 6, 12, 10)}
          fill={family ? 'var(--c)' : 'none'}
          stroke={family ? 'var(--e)' : 'var(--ink-3)'}
        />
      </svg>
      {name}
    </span>
  );
}
