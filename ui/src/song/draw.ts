// Draws a part of the song on a canvas: its lanes, with the hits of every block, so that a long song stays fluid.
import type { Lane, Part, Project } from '../api/client';
import { barTicks } from '../model/time';
import { type Inks, ready } from '../roll/draw';
import { rowOf } from './state';
import { barOfTick } from '../model/songClock';

export interface SongView {
  /** first bar shown, and px a bar */
  from: number;
  perBar: number;
}

/** Room before the first bar, px. */
export const pad = 14;

export const xOf = (v: SongView, bar: number) => pad + (bar - v.from) * v.perBar;
export const barOf = (v: SongView, x: number) => v.from + (x - pad) / v.perBar;

export interface SongScene {
  project: Project;
  part: Part;
  lanes: Lane[];
  rowH: number;
  view: SongView;
  width: number;
  silent: (note: number) => boolean;
  chosen: readonly string[];
  range: { from: number; to: number } | null;
  lane: number;
  ink: Inks;
}

/** On which rows a part's lanes play the hits of the part it layers: by the note there, carried by role. */
function layeredRows({ project, part, lanes }: SongScene): Map<number, number> {
  const from = project.parts.find((p) => p.id === part.layers);
  const rows = new Map<number, number>();
  for (const l of from?.lanes ?? []) {
    const at = lanes.findIndex((own) => own.role === l.role);
    if (at >= 0) rows.set(l.note, at);
  }
  return rows;
}

export function drawSong(canvas: HTMLCanvasElement, s: SongScene) {
  const { project, lanes, rowH, view, width, ink } = s;
  const height = lanes.length * rowH;
  const c = ready(canvas, width, height);
  if (!c) return;
  const { bars } = project.song;
  const last = barOf(view, width);
  const step = view.perBar >= 9 ? 1 : view.perBar >= 3 ? 4 : 16;
  if (s.range) {
    c.fillStyle = ink.veil;
    c.fillRect(xOf(view, s.range.from), 0, (s.range.to - s.range.from) * view.perBar, height);
  }
  for (let bar = Math.max(0, Math.floor(view.from)); bar <= last; bar++) {
    if (bar % step !== 0) continue;
    c.fillStyle = bar % (4 * step) === 0 ? ink.strong : ink.rule;
    c.fillRect(Math.round(xOf(view, bar)), 0, 1, height);
  }
  lanes.forEach((l, i) => {
    c.fillStyle = l.note === s.lane ? ink.strong : ink.rule;
    c.fillRect(0, (i + 1) * rowH - 1, width, 1);
  });
  const own = new Map(lanes.map((l, i) => [l.note, i]));
  const layered = layeredRows(s);
  for (const { id, value: b } of project.blocks) {
    const rowOfNote = rowOf(b) === s.part.id ? own : rowOf(b) === s.part.layers ? layered : null;
    if (!rowOfNote || b.recording || b.bar > last || b.bar + b.bars < view.from) continue;
    const pattern = project.patterns.find((p) => p.id === b.pattern)?.value;
    if (!pattern) continue;
    const [x0, x1] = [xOf(view, b.bar), xOf(view, b.bar + b.bars)];
    if (s.chosen.includes(id) && rowOfNote === own) {
      c.fillStyle = ink.veil;
      c.fillRect(x0, 0, x1 - x0, height);
    }
    const out = new Set(b.leftOut);
    for (const note of out) {
      const i = own.get(note);
      if (i === undefined || rowOfNote !== own) continue;
      c.strokeStyle = ink.strong;
      c.lineWidth = 1;
      c.beginPath();
      for (let x = Math.max(x0, 0); x < Math.min(x1, width); x += 8) {
        const along = Math.min(rowH - 14, x1 - x); // all at one slope, cut where the block ends
        c.moveTo(x, i * rowH + rowH - 7);
        c.lineTo(x + along, i * rowH + rowH - 7 - along);
      }
      c.stroke();
    }
    const length = pattern.bars * barTicks(pattern);
    const [from, to] = [bars[b.bar]?.tick ?? 0, bars[b.bar + b.bars]?.tick ?? 0];
    const begin = from - (b.fromBar ?? 0) * barTicks(pattern);
    let round = 0;
    let [ink0, alpha0] = ['', -1];
    for (let at = begin; at < to; at += length) {
      if (at + length <= from) continue;
      for (const h of pattern.hits) {
        const row = rowOfNote.get(h.note);
        const tick = at + h.tick;
        if (row === undefined || out.has(h.note) || tick < from - 60 || tick >= to - 60) continue;
        const x = xOf(view, barOfTick(bars, Math.max(tick, from)));
        if (x < 0 || x > width) continue;
        const lane = lanes[row] as Lane;
        const tall = Math.max(3, ((rowH - 8) * h.velocity) / 127);
        const colour = ink.lane.get(lane.color)?.edge ?? ink.ink;
        const alpha = b.muted || s.silent(lane.note) ? 0.18 : round > 0 || rowOfNote === layered ? 0.5 : 1;
        // a canvas is slow to be told what it knows
        if (alpha !== alpha0) c.globalAlpha = alpha0 = alpha;
        if (colour !== ink0) c.fillStyle = ink0 = colour;
        c.fillRect(x, (row + 1) * rowH - 3 - tall, view.perBar > 30 ? 2 : 1, tall);
      }
      round++;
    }
    c.globalAlpha = 1;
    if (rowOfNote === layered) continue;
    c.fillStyle = ink.strong;
    c.fillRect(Math.round(x0), 0, 1.5, height);
    c.fillRect(Math.round(x1), 0, 1.5, height);
  }
}

/** How many hits sound in each bar of the song, by part. */
export function hitsByBar(project: Project): number[][] {
  const out = Array.from({ length: project.song.end }, () => project.parts.map(() => 0));
  for (const { value: b } of project.blocks) {
    const part = project.parts.findIndex((p) => p.id === rowOf(b));
    const pattern = project.patterns.find((p) => p.id === b.pattern)?.value;
    if (!pattern || part < 0 || b.muted) continue;
    const byBar = Array.from({ length: pattern.bars }, () => 0);
    for (const h of pattern.hits) {
      const bar = Math.min(pattern.bars - 1, Math.floor(h.tick / barTicks(pattern)));
      if (!b.leftOut?.includes(h.note)) byBar[bar] = (byBar[bar] ?? 0) + 1;
    }
    for (let i = 0; i < b.bars; i++) {
      const bar = out[b.bar + i];
      if (bar) bar[part] = (bar[part] ?? 0) + (byBar[((b.fromBar ?? 0) + i) % pattern.bars] ?? 0);
    }
  }
  return out;
}
