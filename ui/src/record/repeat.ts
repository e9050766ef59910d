// Stroke repeat: while a key or pad is held and the beat plays, strokes follow on the lines of a grid, with the swing in force.
import { onLetGo, onPlayed, strike, useBench } from '../app/state';
import { gridTicks, PPQ, swingShift } from '../model/time';
import { player } from '../player/player';
import { useRecordSettings } from './settings';

/** How far ahead of what is heard strokes are given to the audio, seconds. */
const aheadS = 0.15;

interface Held {
  note: number;
  velocity: number;
  from: string;
  tune: number;
  /** the line the newest stroke was on, from the beginning of what is played */
  line: number;
  strokes: number;
  timer: number;
}

const held = new Map<number, Held>();
/** a stroke of ours is not one that is held */
let ours = false;

/** When the line of a grid sounds, ticks from the beginning of what is played. */
function lineAt(line: number, cell: number): number {
  const s = useBench.getState();
  const pattern = s.project?.patterns.find((p) => p.id === s.patternId)?.value;
  const feel = pattern?.feel ?? s.project?.settings.feel;
  const tick = line * cell;
  return feel ? tick + swingShift(tick, feel.swing, cell) : tick;
}

function on(ticket: number, h: Held) {
  const { repeat, repeatSlope } = useRecordSettings.getState();
  const bpm = useBench.getState().project?.settings.bpm ?? 92;
  const now = performance.now();
  const clock = player.heardAt(now);
  const at = player.placeOf(clock);
  if (!at || repeat === '') {
    end(ticket);
    return;
  }
  const cell = gridTicks(repeat);
  const tickS = 60 / (bpm * PPQ);
  for (;;) {
    const line = h.line + 1;
    const when = lineAt(line, cell) * tickS - at.since; // from now on
    if (when > aheadS) break;
    h.line = line;
    if (when < -0.02) continue;
    h.strokes++;
    const velocity = Math.min(127, Math.max(1, h.velocity + h.strokes * repeatSlope));
    ours = true;
    strike(h.note, velocity, h.from, now + when * 1000, clock + when, h.tune);
    ours = false;
  }
}

function end(ticket: number) {
  const h = held.get(ticket);
  if (h) clearInterval(h.timer);
  held.delete(ticket);
}

onPlayed((p) => {
  const { repeat } = useRecordSettings.getState();
  if (ours || repeat === '' || p.ticket <= 0 || !useBench.getState().playing) return;
  const at = player.placeOf(player.heardAt(p.timeStamp));
  if (!at) return;
  const bpm = useBench.getState().project?.settings.bpm ?? 92;
  const cell = gridTicks(repeat);
  // the line the stroke itself was meant for
  const line = Math.round(at.since / ((cell * 60) / (bpm * PPQ)));
  const h: Held = {
    note: p.note,
    velocity: p.velocity,
    from: p.from,
    tune: p.tune,
    line,
    strokes: 0,
    timer: 0,
  };
  h.timer = window.setInterval(() => on(p.ticket, h), 15);
  held.set(p.ticket, h);
});

onLetGo(end);
