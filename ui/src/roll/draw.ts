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
  box: { x0: number; y0: number; x1: number; y1: number } | null;
  /** a free line drawn round hits */
  round: [number, number][] | null;
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

interface Seen {
  h: Hit;
  x: number;
  y: number;
  color: { fill: string; edge: string };
}

/** From so many on a screen, hits are drawn as bars: their hexagons would only cover each other. */
const manyHits = 1500;

function drawMany(c: CanvasRenderingContext2D, s: Scene, seen: Seen[]) {
  const { hitH } = hitSize(s.view);
  const byColor = new Map<string, Seen[]>();
  for (const one of seen) {
    const color = s.chosen.size > 0 && s.chosen.has(keyOf(one.h)) ? s.ink.ink : one.color.fill;
    const list = byColor.get(color);
    if (list) list.push(one);
    else byColor.set(color, [one]);
  }
  for (const [color, list] of byColor) {
    c.fillStyle = color;
    c.beginPath();
    for (const { h, x, y } of list) {
      const tall = Math.round((hitH * h.velocity) / 127);
      c.rect(Math.round(x) - 1, Math.round(y + hitH / 2) - tall, 2, tall); // whole pixels need no smoothing
    }
    c.fill();
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

/** Hexagons drawn once and stamped: by colours and velocity. */
const stamps = new Map<string, HTMLCanvasElement>();

function stampOf(
  ink: Inks,
  color: { fill: string; edge: string },
  velocity: number,
  { hitW, hitH }: ReturnType<typeof hitSize>,
): HTMLCanvasElement {
  const level = Math.round(velocity / 4) * 4;
  const ratio = window.devicePixelRatio || 1;
  const key = `${color.fill} ${color.edge} ${ink.raised} ${level} ${ratio} ${hitW}`;
  let stamp = stamps.get(key);
  if (stamp) return stamp;
  stamp = document.createElement('canvas');
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
  stamps.set(key, stamp);
  return stamp;
}

function drawHit(c: CanvasRenderingContext2D, s: Scene, { h, x, y, color }: Seen) {
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
    const stamp = stampOf(s.ink, color, h.velocity, { hitW, hitH });
    c.drawImage(stamp, Math.round(x - hitW / 2) - 2, Math.round(y - hitH / 2) - 2, hitW + 4, hitH + 4);
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

export function drawStage(canvas: HTMLCanvasElement, s: Scene) {
  const c = ready(canvas, s.width, s.height);
  if (!c) return;
  const { view, ink } = s;
  const { rowH } = view;
  const { hitW } = hitSize(view);
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
  const seen: Seen[] = [];
  const plain = { fill: ink.ink, edge: ink.ink };
  const last = view.from + (s.width + hitW) / view.perTick;
  for (const h of s.hits) {
    if (h.tick > last) {
      if (s.sorted) break;
      continue;
    }
    const r = row.get(h.note);
    if (r === undefined) continue;
    const x = (h.tick - view.from) * view.perTick;
    if (x + Math.max(hitW, h.length * view.perTick) < 0 || x - hitW > s.width) continue;
    seen.push({ h, x, y: r * rowH + rowH / 2, color: ink.lane.get(s.lanes[r]?.color ?? '') ?? plain });
  }
  if (seen.length > manyHits) drawMany(c, s, seen);
  else for (const one of seen) drawHit(c, s, one);
  c.globalAlpha = 1;
  if (now !== undefined && s.chosen.size === 0) {
    hexPath(
      c,
      (s.cursor - view.from) * view.perTick,
      now * rowH + rowH / 2,
      hitW + 7,
      hitSize(view).hitH + 6,
    );
    c.strokeStyle = ink.ink;
    c.lineWidth = 1.5;
    c.stroke();
  }
  if (s.round && s.round.length > 1) {
    c.strokeStyle = ink.ink;
    c.setLineDash([4, 3]);
    c.beginPath();
    for (const [x, y] of s.round) c.lineTo(x, y);
    c.stroke();
    c.setLineDash([]);
  }
  if (s.box) {
    c.strokeStyle = ink.ink;
    c.setLineDash([4, 3]);
    c.strokeRect(s.box.x0, s.box.y0, s.box.x1 - s.box.x0, s.box.y1 - s.box.y0);
    c.setLineDash([]);
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
  for (const h of shown) {
    const x = (h.tick - s.view.from) * s.view.perTick;
    if (x < -10 || x > s.width + 10) continue;
    const color = s.ink.lane.get(colors.get(h.note) ?? '') ?? { fill: s.ink.ink, edge: s.ink.ink };
    c.fillStyle = color.fill;
    c.fillRect(x - 4, y(h.velocity), 8, s.height - 14 - y(h.velocity));
    if (x - last > 22) {
      c.fillStyle = s.ink.ink;
      c.fillText(String(h.velocity), x, s.height - 3);
      last = x;
    }
  }
}
