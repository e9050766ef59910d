// Draws the Roll on a canvas, so that thousands of hits stay fluid.
import type { Hit, Lane, Pattern } from '../api/client';
import { barTicks, beatTicks, gridTicks, strokes } from '../lanes/time';
import { hitH, hitW, keyOf, type RollView, rowH } from './geometry';

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
    ink: get('--ink'),
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
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const c = canvas.getContext('2d');
  c?.scale(ratio, ratio);
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
  ink: Inks;
  laneNow: number;
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

export function drawStage(canvas: HTMLCanvasElement, s: Scene) {
  const c = ready(canvas, s.width, s.height);
  if (!c) return;
  const { view, ink } = s;
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
  for (const h of s.hits) {
    const r = row.get(h.note);
    const lane = r === undefined ? undefined : s.lanes[r];
    if (r === undefined || !lane) continue;
    const x = (h.tick - view.from) * view.perTick;
    const long = h.length * view.perTick;
    if (x + Math.max(hitW, long) < 0 || x - hitW > s.width) continue;
    const y = r * rowH + rowH / 2;
    const color = ink.lane.get(lane.color) ?? { fill: ink.ink, edge: ink.ink };
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
    hexPath(c, x, y, hitW + (parts.length > 1 ? 6 : 0), hitH);
    c.fillStyle = ink.raised;
    c.fill();
    c.save();
    c.clip();
    c.fillStyle = color.fill;
    const w = (hitW + (parts.length > 1 ? 6 : 0)) / parts.length;
    parts.forEach((v, k) => {
      const tall = (hitH * v) / 127;
      c.fillRect(
        x - (w * parts.length) / 2 + k * w + (k ? 1 : 0),
        y + hitH / 2 - tall,
        w - (k ? 1 : 0),
        tall,
      );
    });
    c.restore();
    hexPath(c, x, y, hitW + (parts.length > 1 ? 6 : 0), hitH);
    c.strokeStyle = color.edge;
    c.lineWidth = 1.2;
    c.stroke();
    if (s.chosen.has(keyOf(h))) {
      hexPath(c, x, y, hitW + 6 + (parts.length > 1 ? 6 : 0), hitH + 5);
      c.strokeStyle = ink.ink;
      c.lineWidth = 2;
      c.stroke();
    }
  }
  c.globalAlpha = 1;
  if (s.box) {
    c.strokeStyle = ink.ink;
    c.setLineDash([4, 3]);
    c.strokeRect(s.box.x0, s.box.y0, s.box.x1 - s.box.x0, s.box.y1 - s.box.y0);
    c.setLineDash([]);
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
  c.font = `10px ${getComputedStyle(canvas).getPropertyValue('--mono') || 'monospace'}`;
  c.textAlign = 'center';
  let last = -Infinity;
  for (const h of shown) {
    const x = (h.tick - s.view.from) * s.view.perTick;
    if (x < -10 || x > s.width + 10) continue;
    const lane = s.lanes.find((l) => l.note === h.note);
    const color = s.ink.lane.get(lane?.color ?? '') ?? { fill: s.ink.ink, edge: s.ink.ink };
    c.fillStyle = color.fill;
    c.fillRect(x - 4, y(h.velocity), 8, s.height - 14 - y(h.velocity));
    if (x - last > 22) {
      c.fillStyle = s.ink.ink;
      c.fillText(String(h.velocity), x, s.height - 3);
      last = x;
    }
  }
}
