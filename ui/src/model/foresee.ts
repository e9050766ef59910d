// What an edit will do, shown before the bench has answered. The reply decides; what is not foreseen here waits for it.
import type { Edit, KitChange, Pad, PatternChange, Project } from '../api/client';
import { withHits } from './patch';

function withPads(p: Project, put: Pad[], remove: number[]): Project {
  const pads = new Map(p.kit.pads.map((x) => [x.note, x]));
  for (const n of remove) pads.delete(n);
  for (const x of put) pads.set(x.note, x);
  return { ...p, kit: { ...p.kit, pads: [...pads.values()].toSorted((a, b) => a.note - b.note) } };
}

function chosen(notes: number[], change: Record<string, boolean> | undefined): number[] {
  if (!change) return notes;
  const kept = notes.filter((n) => !(String(n) in change));
  return [
    ...kept,
    ...Object.keys(change)
      .filter((n) => change[n])
      .map(Number),
  ];
}

function foreseePattern(p: Project, id: string, change: PatternChange): Project {
  const { hits, shape } = change;
  if (!hits && !shape) return p;
  return {
    ...p,
    patterns: p.patterns.map((x) => {
      if (x.id !== id) return x;
      if (hits) return { id, value: withHits(x.value, hits.remove ?? [], hits.put ?? []) };
      const { grid, name, color, tags, feel } = shape ?? {};
      return {
        id,
        value: {
          ...x.value,
          ...(grid ? { grid } : {}),
          ...(name ? { name } : {}),
          ...(color === undefined ? {} : { color }),
          ...(tags ? { tags } : {}),
          ...(feel ? { feel } : {}),
        },
      };
    }),
  };
}

const foreseeKit = (p: Project, change: KitChange): Project =>
  change.op === 'pads' ? withPads(p, change.put ?? [], change.remove ?? []) : p;

/** Blocks that are there already, as they will lie; what gives way to them is told by the reply. */
function foreseeSong(p: Project, { put = [], remove = [] }: NonNullable<Edit['song']>): Project {
  const now = new Map(put.flatMap((b) => (b.id ? [[b.id, b.block] as const] : [])));
  if (now.size + remove.length === 0) return p;
  const blocks = p.blocks
    .filter((b) => !remove.includes(b.id))
    .map((b) => ({ id: b.id, value: now.get(b.id) ?? b.value }));
  return { ...p, blocks };
}

/** The project as an edit will leave it, as far as that can be told here. */
export function foresee(p: Project, e: Edit): Project {
  if (e.pattern) return foreseePattern(p, e.pattern.id, e.pattern.edit);
  if (e.settings) {
    const { muted, solo, ...rest } = e.settings;
    const now = p.settings;
    return {
      ...p,
      settings: { ...now, ...rest, muted: chosen(now.muted, muted), solo: chosen(now.solo, solo) },
    };
  }
  if (e.map) return { ...p, map: e.map.map };
  if (e.kit) return foreseeKit(p, e.kit);
  if (e.song) return foreseeSong(p, e.song);
  if (e.removePattern) {
    const { id } = e.removePattern;
    return { ...p, patterns: p.patterns.filter((x) => x.id !== id) };
  }
  return p;
}
