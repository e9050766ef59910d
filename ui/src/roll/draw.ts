// Draws the Roll on a canvas, so that thousands of hits stay fluid.
import type { Hit, Lane, Pattern } from '../api/client';
import { barTicks, beatTicks, gridTicks, strokes } from '../model/time';
import { hitSize, keyOf, type RollView } from './geometry';

/** The colours the page has now, by daylight or in the dark; lane colours by their names. */
export function inks(el: HTMLElement, lanes: Lane[], dark: boolean) {
  const style = getComputedStyle(el);
  const get = (name: string) => style.getPropertyValue(name).trim();
  const lane = new Map<string, { fill: string; edge: string }>();
  for (const l of lanes) {
    if (lane.has(l.color)) continue;
    const probe = document.createElement('span');
    probe.className = `f-${l.color}`;
    el.append(probe);
    const s = getComputedStyle(probe);
    lane.set(l.color, { fill: s.getPropertyValue('--c').trim(), edge: s.getPropertyValue('--e').trim() });
    probe.remove();
  }
  return {
    dark,
    lanes,
    ink: get('--ink'),
    mono: get('--mono') || 'monospace',
    rule: get('--rule'),
    strong: get('--rule-strong'),
    raised: get('--paper-raised'),
    veil: get('--veil'),
    lane,
  };
}

export type Inks = ReturnType<typeof inks>;

/** Sizes a canvas for the screen's pixels and clears it. */
export function ready(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D | null {
  const ratio = window.devicePixelRatio || 1;
  const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
  const c = canvas.getContext('2d');
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w; // a canvas made anew costs as much as drawing on it
    canvas.height = h;
  }
  c?.setTransform(ratio, 0, 0, ratio, 0, 0);
  c?.clearRect(0, 0, width, height);
  return c;
}

function hexPath(c: CanvasRenderingContext2D, x: number, y: number, w: number, h: number) {
  c.beginPath();
  c.moveTo(x - w / 2, y);
  c.lineTo(x - w / 4, y - h / 2);
  c.lineTo(x + w / 4, y - h / 2);
  c.lineTo(x + w / 2, y);
  c.lineTo(x + w / 4, y + h / 2);
  c.lineTo(x - w / 4, y + h / 2);
  c.closePath();
}

export interface Scene {
  pattern: Pattern;
  hits: Hit[];
  lanes: Lane[];
  chosen: ReadonlySet<string>;
  silent: (note: number) => boolean;
  view: RollView;
  width: number;
  height: number;
  /** energy of a recording, by note, over the pattern's length; 0..1 */
  shadow: ReadonlyMap<number, number[]> | null;
  ink: Inks;
  laneNow: number;
  /** tick of the cursor in that lane */
  cursor: number;
  /** hits come by their ticks, as a pattern keeps them */
  sorted: boolean;
}

/** Lines of bars, beats and cells; finer ones only where they stand apart. */
function gridLines(c: CanvasRenderingContext2D, s: Scene) {
  const { view, width, height, ink } = s;
  const end = Math.min(s.pattern.bars * barTicks(s.pattern), view.from + width / view.perTick);
  const cell = gridTicks(s.pattern.grid);
  const beat = beatTicks(s.pattern);
  const bar = barTicks(s.pattern);
  for (let b = Math.floor(Math.max(0, view.from) / beat); b * beat < end; b++) {
    if (b % 2 === 0) continue;
    c.fillStyle = ink.veil;
    c.fillRect((b * beat - view.from) * view.perTick, 0, beat * view.perTick, height);
  }
  const lines = (step: number, color: string, wide: number) => {
    if (step * view.perTick < 7) return;
    c.strokeStyle = color;
    c.lineWidth = wide;
    c.beginPath();
    for (let t = Math.ceil(Math.max(0, view.from) / step) * step; t <= end; t += step) {
      const x = (t - view.from) * view.perTick;
      c.moveTo(x, 0);
      c.lineTo(x, height);
    }
    c.stroke();
  };
  lines(cell, ink.rule, 1);
  lines(beat, ink.strong, 1);
  lines(bar, ink.ink, 1.5);
}

interface Row {
  y: number;
  color: { fill: string; edge: string };
  stamp: StampsOf;
}

/** Calls with every hit that is seen between two places, px, and where it stands: marks and lengths reach beyond it. */
function eachBetween(s: Scene, left: number, right: number, f: (h: Hit, x: number, row: Row) => void) {
  const { view, ink } = s;
  const size = hitSize(view);
  const plain = { fill: ink.ink, edge: ink.ink };
  const rows = new Map<number, Row>(
    s.lanes.map((l, i) => {
      const color = ink.lane.get(l.color) ?? plain;
      return [l.note, { y: (i + 0.5) * view.rowH, color, stamp: stampsOf(ink, color, size) }];
    }),
  );
  const reach = size.hitW + 8;
  const last = view.from + (right + reach) / view.perTick;
  for (const h of s.hits) {
    if (h.tick > last) {
      if (s.sorted) break;
      continue;
    }
    const x = (h.tick - view.from) * view.perTick;
    if (x + Math.max(reach, h.length * view.perTick) < left || x - reach > right) continue;
    const its = rows.get(h.note);
    if (its) f(h, x, its);
  }
}

/** From so many on a screen, hits are drawn as bars: their hexagons would only cover each other. */
const manyHits = 1500;

function drawMany(c: CanvasRenderingContext2D, s: Scene, left: number, right: number) {
  const { hitH } = hitSize(s.view);
  const wide = 2; // px of a bar; of those that would cover each other the tallest is drawn
  const tallest = new Map<string, Map<number, number>>(); // by colour, then by place
  const places = 65_536; // in a row; more than any window is wide
  eachBetween(s, left, right, (h, x, { y, color }) => {
    const name = s.chosen.size > 0 && s.chosen.has(keyOf(h)) ? s.ink.ink : color.fill;
    let bars = tallest.get(name);
    if (!bars) tallest.set(name, (bars = new Map()));
    const place = Math.round(y + hitH / 2) * places + Math.max(0, Math.round(x / wide));
    bars.set(place, Math.max(bars.get(place) ?? 0, Math.round((hitH * h.velocity) / 127)));
  });
  for (const [color, bars] of tallest) {
    c.fillStyle = color;
    for (const [place, tall] of bars)
      c.fillRect((place % places) * wide - 1, Math.floor(place / places) - tall, wide, tall); // whole pixels need no smoothing
  }
}

/** The part of a hexagon below a height. */
function lowerPart(c: CanvasRenderingContext2D, x: number, y: number, w: number, h: number, tall: number) {
  const top = y + h / 2 - tall;
  const half = w / 2 - ((w / 4) * Math.abs(top - y)) / (h / 2);
  c.beginPath();
  c.moveTo(x - half, top);
  c.lineTo(x + half, top);
  if (top < y) c.lineTo(x + w / 2, y);
  c.lineTo(x + w / 4, y + h / 2);
  c.lineTo(x - w / 4, y + h / 2);
  if (top < y) c.lineTo(x - w / 2, y);
  c.closePath();
}

/** Hexagons drawn once and stamped: by colours, then size and velocity. */
const stamps = new Map<string, Map<number, HTMLCanvasElement>>();

type StampsOf = (velocity: number) => HTMLCanvasElement;

/** The stamps of one lane's colour. */
function stampsOf(
  ink: Inks,
  color: { fill: string; edge: string },
  size: ReturnType<typeof hitSize>,
): StampsOf {
  const ratio = window.devicePixelRatio || 1;
  const name = `${color.fill} ${color.edge} ${ink.raised} ${ratio}`;
  const all = stamps.get(name) ?? new Map<number, HTMLCanvasElement>();
  stamps.set(name, all);
  return (velocity) => {
    const level = Math.round(velocity / 4) * 4;
    const key = level + 128 * size.hitW;
    const there = all.get(key) ?? drawStamp(ink, color, level, size, ratio);
    all.set(key, there);
    return there;
  };
}

function drawStamp(
  ink: Inks,
  color: { fill: string; edge: string },
  level: number,
  { hitW, hitH }: ReturnType<typeof hitSize>,
  ratio: number,
): HTMLCanvasElement {
  const stamp = document.createElement('canvas');
  stamp.width = Math.round((hitW + 4) * ratio);
  stamp.height = Math.round((hitH + 4) * ratio);
  const c = stamp.getContext('2d');
  if (c) {
    c.scale(ratio, ratio);
    const [x, y] = [hitW / 2 + 2, hitH / 2 + 2];
    hexPath(c, x, y, hitW, hitH);
    c.fillStyle = ink.raised;
    c.fill();
    c.fillStyle = color.fill;
    lowerPart(c, x, y, hitW, hitH, (hitH * level) / 127);
    c.fill();
    hexPath(c, x, y, hitW, hitH);
    c.strokeStyle = color.edge;
    c.lineWidth = 1.2;
    c.stroke();
  }
  return stamp;
}

function drawHit(c: CanvasRenderingContext2D, s: Scene, h: Hit, x: number, { y, color, stamp }: Row) {
  const { hitW, hitH } = hitSize(s.view);
  const long = h.length * s.view.perTick;
  c.globalAlpha = s.silent(h.note) ? 0.45 : 1;
  if (long > 0) {
    c.strokeStyle = color.edge;
    c.lineWidth = 2;
    c.beginPath();
    c.moveTo(x, y);
    c.lineTo(x + long, y);
    c.moveTo(x + long, y - 5);
    c.lineTo(x + long, y + 5);
    c.stroke();
  }
  const parts = strokes(h);
  const wide = hitW + (parts.length > 1 ? 6 : 0);
  if (parts.length === 1) {
    c.drawImage(
      stamp(h.velocity),
      Math.round(x - hitW / 2) - 2,
      Math.round(y - hitH / 2) - 2,
      hitW + 4,
      hitH + 4,
    );
  } else {
    hexPath(c, x, y, wide, hitH);
    c.fillStyle = s.ink.raised;
    c.fill();
    c.fillStyle = color.fill;
    c.save();
    c.clip();
    const w = wide / parts.length;
    parts.forEach((v, k) => {
      const tall = (hitH * v) / 127;
      c.fillRect(x - wide / 2 + k * w + (k ? 1 : 0), y + hitH / 2 - tall, w - (k ? 1 : 0), tall);
    });
    c.restore();
    hexPath(c, x, y, wide, hitH);
    c.strokeStyle = color.edge;
    c.lineWidth = 1.2;
    c.stroke();
  }
  if (s.chosen.size > 0 && s.chosen.has(keyOf(h))) {
    hexPath(c, x, y, wide + 6, hitH + 5);
    c.strokeStyle = s.ink.ink;
    c.lineWidth = 2;
    c.stroke();
  }
}

/** What lies on a canvas, so that scrolling need draw only what comes into view. */
const lying = new WeakMap<HTMLCanvasElement, { scene: Scene; many: boolean; ratio: number }>();

/** Whether two scenes differ only in where they begin. */
const sameButFrom = (a: Scene, b: Scene) =>
  a.view.perTick === b.view.perTick &&
  a.view.rowH === b.view.rowH &&
  Object.entries(a).every(([k, v]) => k === 'view' || v === b[k as keyof Scene]);

export function drawStage(canvas: HTMLCanvasElement, s: Scene) {
  const ratio = window.devicePixelRatio || 1;
  let count = 0;
  eachBetween(s, 0, s.width, () => count++);
  const many = count > manyHits;
  const was = lying.get(canvas);
  lying.set(canvas, { scene: s, many, ratio });
  const by = was ? (was.scene.view.from - s.view.from) * s.view.perTick : 0; // px that all moves to the right
  const whole = Math.round(by);
  if (
    was &&
    was.many === many &&
    was.ratio === ratio &&
    Number.isInteger(ratio) &&
    Math.abs(by - whole) < 0.01 &&
    Math.abs(whole) < s.width / 2 &&
    sameButFrom(was.scene, s)
  ) {
    const c = canvas.getContext('2d');
    if (!c || whole === 0) return;
    c.setTransform(1, 0, 0, 1, 0, 0);
    c.globalCompositeOperation = 'copy';
    c.drawImage(canvas, whole * ratio, 0);
    c.globalCompositeOperation = 'source-over';
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    const [left, right] = whole > 0 ? [0, whole] : [s.width + whole, s.width];
    c.save();
    c.beginPath();
    c.rect(left, 0, right - left, s.height);
    c.clip();
    drawBetween(c, s, left, right, many);
    c.restore();
    return;
  }
  const c = ready(canvas, s.width, s.height);
  if (c) drawBetween(c, s, 0, s.width, many);
}

/** Draws a scene, of its hits those that are seen between two places. */
function drawBetween(c: CanvasRenderingContext2D, s: Scene, left: number, right: number, many: boolean) {
  const { view, ink } = s;
  const { rowH } = view;
  const { hitW, hitH } = hitSize(view);
  const row = new Map(s.lanes.map((l, i) => [l.note, i]));
  const now = row.get(s.laneNow);
  if (now !== undefined) {
    c.fillStyle = ink.raised;
    c.fillRect(0, now * rowH, s.width, rowH);
  }
  gridLines(c, s);
  c.strokeStyle = ink.rule;
  c.lineWidth = 1;
  c.beginPath();
  for (let i = 1; i < s.lanes.length; i++) {
    c.moveTo(0, i * rowH - 0.5);
    c.lineTo(s.width, i * rowH - 0.5);
  }
  c.stroke();
  drawShadow(c, s, row);
  if (many) drawMany(c, s, left, right);
  else eachBetween(s, left, right, (h, x, its) => drawHit(c, s, h, x, its));
  c.globalAlpha = 1;
  if (now !== undefined && s.chosen.size === 0) {
    hexPath(c, (s.cursor - view.from) * view.perTick, now * rowH + rowH / 2, hitW + 7, hitH + 6);
    c.strokeStyle = ink.ink;
    c.lineWidth = 1.5;
    c.stroke();
  }
}

/** The energy of a recording behind the hits, each lane's in its own row. */
function drawShadow(c: CanvasRenderingContext2D, s: Scene, row: ReadonlyMap<number, number>) {
  if (!s.shadow) return;
  const length = s.pattern.bars * barTicks(s.pattern);
  const { rowH } = s.view;
  c.fillStyle = s.ink.rule;
  for (const [note, energy] of s.shadow) {
    const r = row.get(note);
    if (r === undefined) continue;
    const foot = (r + 1) * rowH - 1;
    c.beginPath();
    c.moveTo((0 - s.view.from) * s.view.perTick, foot);
    energy.forEach((e, i) => {
      const x = ((i / energy.length) * length - s.view.from) * s.view.perTick;
      if (x > -20 && x < s.width + 20) c.lineTo(x, foot - e * (rowH - 6));
    });
    c.lineTo((length - s.view.from) * s.view.perTick, foot);
    c.fill();
  }
}

/** Velocities of the lane chosen, or of the hits chosen together, as stems. */
export function drawStrip(canvas: HTMLCanvasElement, s: Scene, shown: Hit[], limits: number[]) {
  const c = ready(canvas, s.width, s.height);
  if (!c) return;
  gridLines(c, { ...s, height: s.height });
  const y = (v: number) => s.height - 14 - ((s.height - 22) * v) / 127;
  c.strokeStyle = s.ink.strong;
  c.setLineDash([2, 3]);
  for (const lo of limits.slice(1)) {
    c.beginPath();
    c.moveTo(0, y(lo));
    c.lineTo(s.width, y(lo));
    c.stroke();
  }
  c.setLineDash([]);
  c.font = `10px ${s.ink.mono}`;
  c.textAlign = 'center';
  let last = -Infinity;
  const colors = new Map(s.lanes.map((l) => [l.note, l.color]));
  const inView: { h: Hit; x: number }[] = [];
  for (const h of shown) {
    const x = (h.tick - s.view.from) * s.view.perTick;
    if (x >= -10 && x <= s.width + 10) inView.push({ h, x });
  }
  // of stems that would cover each other the tallest is drawn
  const near = inView.length > s.width ? 2 : 0;
  const stems = near ? tallestEvery(inView, near) : inView;
  for (const { h, x } of stems) {
    const color = s.ink.lane.get(colors.get(h.note) ?? '') ?? { fill: s.ink.ink, edge: s.ink.ink };
    const wide = near || 8;
    c.fillStyle = color.fill;
    c.fillRect(x - wide / 2, y(h.velocity), wide, s.height - 14 - y(h.velocity));
    if (x - last > 22) {
      c.fillStyle = s.ink.ink;
      c.fillText(String(h.velocity), x, s.height - 3);
      last = x;
    }
  }
}

function tallestEvery(all: { h: Hit; x: number }[], px: number) {
  const by = new Map<number, { h: Hit; x: number }>();
  for (const one of all) {
    const place = Math.round(one.x / px);
    const there = by.get(place);
    if (!there || there.h.velocity < one.h.velocity) by.set(place, { h: one.h, x: place * px });
  }
  return by.values();
}
