// What a reply says has changed, laid over what the window has. Held to the core by cases that Go wrote.
import type {
  Changed,
  EditedPattern,
  Hit,
  Pass,
  PassDelta,
  Patch,
  Pattern,
  Project,
  RecordedPass,
  StoredBlock,
  StoredPattern,
} from '../api/client';

const order = (a: Hit, b: Hit) => a.tick - b.tick || a.note - b.note;
const key = (h: { note: number; tick: number }) => h.note * 1e7 + h.tick;

/** A pattern with hits removed and put. */
export function withHits(
  p: Pattern,
  remove: readonly { note: number; tick: number }[],
  put: readonly Hit[],
): Pattern {
  const gone = new Set([...remove.map(key), ...put.map(key)]);
  const kept = p.hits.filter((h) => !gone.has(key(h)));
  const last = new Map(put.map((h) => [key(h), h])); // of two on one note and tick the later
  return { ...p, hits: [...kept, ...last.values()].toSorted(order) };
}

function edited(p: Pattern, e: EditedPattern): Pattern {
  const next = withHits(p, e.remove ?? [], e.put ?? []);
  return e.settings ? { ...e.settings, hits: next.hits } : next;
}

function patterns(old: StoredPattern[], patch: Patch): StoredPattern[] {
  if (!patch.patterns && !patch.edited && !patch.patternIds) return old;
  const whole = new Map(patch.patterns?.map((p) => [p.id, p]));
  const parts = new Map(patch.edited?.map((e) => [e.id, e]));
  const next = old.map((p) => {
    const put = whole.get(p.id);
    whole.delete(p.id);
    const part = parts.get(p.id);
    return put ?? (part ? { id: p.id, value: edited(p.value, part) } : p);
  });
  next.push(...whole.values());
  if (!patch.patternIds) return next;
  const byId = new Map(next.map((p) => [p.id, p]));
  return patch.patternIds.flatMap((id) => byId.get(id) ?? []);
}

function passes(old: RecordedPass[], patch: Patch): RecordedPass[] {
  if (!patch.passes && !patch.passIds) return old;
  const came = new Map(patch.passes?.map((x) => [x.id, x]));
  const byId = new Map([...old, ...came.values()].map((x) => [x.id, came.get(x.id) ?? x]));
  return (patch.passIds ?? old.map((x) => x.id)).flatMap((id) => byId.get(id) ?? []);
}

function blocks(old: StoredBlock[], patch: Patch): StoredBlock[] {
  if (!patch.blocks && !patch.blocksGone) return old;
  const gone = new Set(patch.blocksGone);
  const came = new Map(patch.blocks?.map((b) => [b.id, b]));
  const rest = old.filter((b) => !gone.has(b.id) && !came.has(b.id));
  return [...rest, ...came.values()].toSorted((a, b) => (a.id < b.id ? -1 : 1));
}

/** The project with a patch laid over. */
export function withPatch(p: Project, patch: Patch): Project {
  const {
    patterns: _patterns,
    edited: _edited,
    patternIds: _patternIds,
    passes: _passes,
    passIds: _passIds,
    blocks: _blocks,
    blocksGone: _blocksGone,
    ...documents
  } = patch;
  return {
    ...p,
    ...documents,
    patterns: patterns(p.patterns, patch),
    passes: passes(p.passes, patch),
    blocks: blocks(p.blocks, patch),
  };
}

/** The project as a change leads it on. */
export function patched(p: Project, c: Changed): Project {
  return { ...withPatch(p, c.patch), revision: c.revision, undo: c.undo, redo: c.redo };
}

interface Splice<T> {
  keep?: number;
  drop?: number;
  put?: T[];
}

function spliced<T>(old: T[], by: Splice<T>[] | undefined): T[] {
  if (!by) return old;
  const next: T[] = [];
  let i = 0;
  for (const s of by) {
    const keep = s.keep ?? 0;
    for (let k = 0; k < keep; k++) next.push(old[i + k] as T);
    if (s.put) next.push(...s.put);
    i += keep + (s.drop ?? 0);
  }
  return next;
}

/** The pass that what differs leads to. */
export function withDelta(old: Pass, d: PassDelta): Pass {
  const turns = d.turns ? old.turns.map((t, i) => d.turns?.[i] ?? t) : old.turns;
  return {
    length: d.length,
    cues: spliced(old.cues, d.cues),
    strokes: spliced(old.strokes, d.strokes),
    turns,
    whens: d.whens ?? old.whens,
    silent: d.silent,
  };
}
