// Rows are drawn anew only for what changed: every reply brings new objects that often say the same.
const text = (v: unknown) => (typeof v === 'object' && v !== null ? JSON.stringify(v) : v);

/** Whether two rows' properties say the same; functions are left out. */
export function sameRow<T extends object>(a: T, b: T): boolean {
  return Object.entries(a).every(
    ([key, v]) => typeof v === 'function' || text(v) === text(b[key as keyof T]),
  );
}
