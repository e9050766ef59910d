import type { Pattern, Project } from '../api/client';

// Rows are drawn anew only for what changed: every reply brings new objects that often say the same.
const text = (v: unknown) => (typeof v === 'object' && v !== null ? JSON.stringify(v) : v);

/** Whether two rows' properties say the same; functions are left out. */
export function sameRow<T extends object>(a: T, b: T): boolean {
  return Object.entries(a).every(
    ([key, v]) => typeof v === 'function' || text(v) === text(b[key as keyof T]),
  );
}

/** Whether two rows' properties say the same in objects of one level, at less cost. */
export function sameShallow<T extends object>(a: T, b: T): boolean {
  return Object.entries(a).every(([k, v]) => {
    const w = b[k as keyof T] as unknown;
    if (v === w) return true;
    return typeof v === 'object' && v !== null && typeof w === 'object' && w !== null && sameFields(v, w, []);
  });
}

const sameFields = (a: object, b: object, but: readonly string[]) =>
  Object.keys(a).length === Object.keys(b).length &&
  Object.entries(a).every(([k, v]) => but.includes(k) || v === (b as Record<string, unknown>)[k]);

const samePattern = (a: Pattern, b: Pattern) => a === b || sameFields(a, b, ['hits']);

/** Whether two values of the same fields say the same, but for which lanes are silent. */
const sameButSilent = (a: unknown, b: unknown) =>
  a === b || JSON.stringify(a, leaveOutSilent) === JSON.stringify(b, leaveOutSilent);

const leaveOutSilent = (key: string, v: unknown) =>
  key === 'muted' || key === 'solo' || key === 'silent' ? undefined : v;

const sameProject = (a: Project, b: Project) =>
  a === b ||
  (sameFields(a, b, ['patterns', 'revision', 'undo', 'redo', 'missing', 'settings', 'parts']) &&
    sameButSilent(a.settings, b.settings) &&
    sameButSilent(a.parts, b.parts) &&
    a.missing.length === b.missing.length &&
    a.missing.every((m, i) => m.note === b.missing[i]?.note && m.hits === b.missing[i].hits) &&
    (a.patterns === b.patterns ||
      (a.patterns.length === b.patterns.length &&
        a.patterns.every((p, i) => {
          const o = b.patterns[i];
          return o !== undefined && p.id === o.id && p.value.name === o.value.name;
        }))));

/** Whether what is drawn of a project and its pattern stays the same, whatever its hits are and which lanes are silent; functions are left
 * out. */
export function sameButHits<T extends object>(a: T, b: T): boolean {
  return Object.entries(a).every(([k, v]) => {
    const w = b[k as keyof T] as unknown;
    if (v === w || typeof v === 'function') return true;
    if (k === 'pattern' && v && w) return samePattern(v as Pattern, w as Pattern);
    if (k === 'project' && v && w) return sameProject(v as Project, w as Project);
    return false;
  });
}
