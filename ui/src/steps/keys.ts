// What the keys do while the grid has the focus. Digits type a velocity: 9 6 makes 96.
import type { Hit, Lane, Pattern } from '../api/client';
import { editPattern, strike, useBench } from '../app/state';
import { barTicks, hitAt, msToTicks } from '../lanes/time';
import type { StepsGeometry } from './geometry';

let typed = '';
let typedAt = 0;

function replace(was: Hit, is: Hit) {
  const moved = was.tick !== is.tick;
  void editPattern({
    op: 'hits',
    ...(moved ? { remove: [{ note: was.note, tick: was.tick }] } : {}),
    put: [is],
  });
}

/** Moves a hit to another lane. */
function replaceOn(hit: Hit, note: number) {
  void editPattern({
    op: 'hits',
    remove: [{ note: hit.note, tick: hit.tick }],
    put: [{ ...hit, note }],
  });
}

const clampVelocity = (v: number) => Math.min(127, Math.max(1, v));

/** The lane and cell the cursor moves to. */
function moveCursor(dx: number, dy: number, pattern: Pattern, lanes: Lane[], g: StepsGeometry) {
  const s = useBench.getState();
  const cells = Math.round((pattern.bars * barTicks(pattern)) / g.cell);
  const cell = (s.cell + dx + cells) % cells;
  const row = Math.min(lanes.length - 1, Math.max(0, lanes.findIndex((l) => l.note === s.lane) + dy));
  useBench.setState({
    cell,
    lane: lanes[row]?.note ?? s.lane,
    bar: Math.floor((cell * g.cell) / barTicks(pattern)),
  });
}

export function gridKey(e: React.KeyboardEvent, pattern: Pattern, lanes: Lane[], g: StepsGeometry) {
  if (e.ctrlKey || e.metaKey) return;
  const s = useBench.getState();
  const hit = hitAt(pattern, s.lane, s.cell);
  const bpm = s.project?.settings.bpm ?? 92;
  const lean = (ms: number) => {
    if (!hit) return;
    const limit = Math.floor(g.cell / 2) - 1;
    const line = s.cell * g.cell;
    const tick = Math.min(line + limit, Math.max(line - limit, hit.tick + msToTicks(ms, bpm)));
    replace(hit, { ...hit, tick: Math.max(-480, tick) });
  };
  const velocity = (v: number) => {
    if (!hit) return;
    replace(hit, { ...hit, velocity: clampVelocity(v) });
    if (!s.playing) strike(hit.note, clampVelocity(v));
  };
  if (/^[0-9]$/.test(e.key) && !e.altKey) {
    const now = performance.now();
    typed = now - typedAt < 1200 && typed.length < 3 ? typed + e.key : e.key;
    typedAt = now;
    if (Number(typed) > 127) typed = e.key;
    if (Number(typed) >= 1) velocity(Number(typed));
    e.preventDefault();
    e.stopPropagation();
    return;
  }
  if (e.altKey && hit && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
    const row = lanes.findIndex((l) => l.note === s.lane) + (e.key === 'ArrowUp' ? -1 : 1);
    const to = lanes[row];
    if (to && !hitAt(pattern, to.note, s.cell)) {
      replaceOn(hit, to.note);
      useBench.setState({ lane: to.note });
      strike(to.note, hit.velocity);
    }
    e.preventDefault();
    e.stopPropagation();
    return;
  }
  if (e.shiftKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
    const by = e.key === 'ArrowLeft' ? -1 : 1;
    void editPattern({
      op: 'shift',
      notes: [s.lane],
      by,
      fromBar: s.bar,
      toBar: s.bar + 1,
      label: `${by < 0 ? 'Earlier' : 'Later'}: ${lanes.find((l) => l.note === s.lane)?.name ?? ''}`,
    });
    e.preventDefault();
    e.stopPropagation();
    return;
  }
  switch (e.key) {
    case 'ArrowLeft':
      moveCursor(-1, 0, pattern, lanes, g);
      break;
    case 'ArrowRight':
      moveCursor(1, 0, pattern, lanes, g);
      break;
    case 'ArrowUp':
      moveCursor(0, -1, pattern, lanes, g);
      break;
    case 'ArrowDown':
      moveCursor(0, 1, pattern, lanes, g);
      break;
    case 'Home':
      moveCursor(g.firstCell - s.cell, 0, pattern, lanes, g);
      break;
    case 'End':
      moveCursor(g.firstCell + g.cells - 1 - s.cell, 0, pattern, lanes, g);
      break;
    case 'Enter':
      if (hit) void editPattern({ op: 'hits', remove: [{ note: hit.note, tick: hit.tick }] });
      else {
        const v = e.shiftKey ? 127 : s.strikeVelocity;
        void editPattern({
          op: 'hits',
          put: [{ note: s.lane, tick: s.cell * g.cell, velocity: v, length: 0, split: 0, slope: 0 }],
        });
        if (!s.playing) strike(s.lane, v);
      }
      break;
    case 'Delete':
    case 'Backspace':
      if (hit) void editPattern({ op: 'hits', remove: [{ note: hit.note, tick: hit.tick }] });
      break;
    case '+':
    case '=':
      velocity((hit?.velocity ?? 0) + (e.shiftKey && e.key === '+' ? 1 : 4));
      break;
    case '-':
      velocity((hit?.velocity ?? 0) - 4);
      break;
    case '_':
      velocity((hit?.velocity ?? 0) - 1);
      break;
    case ',':
      lean(-1);
      break;
    case '.':
      lean(1);
      break;
    case '/':
      if (hit) {
        const split = e.altKey ? 0 : Math.max(1, hit.split) >= 8 ? 2 : Math.max(1, hit.split) + 1;
        replace(hit, { ...hit, split, slope: split > 1 ? hit.slope : 0 });
      }
      break;
    default:
      return;
  }
  e.preventDefault();
  e.stopPropagation();
}
