// The guided path: six steps from sound to song. Each knows what it points at and when it is done.
import { barTicks } from '../model/time';
import { barsAcross, stepsGeometry } from '../steps/geometry';
import {
  chooseFace,
  currentPattern,
  currentRecording,
  setPadsOpen,
  shownLanes,
  useBench,
} from '../app/state';
import { found } from './Pointer';

type Bench = ReturnType<typeof useBench.getState>;
type Box = ReturnType<typeof found>[number];

export interface Step {
  name: string;
  title: string;
  /** what to do; a part between asterisks is a name, one between backticks a key */
  text: (s: Bench) => string;
  targets: (s: Bench) => Box[];
  /** how much is done, 0..1; began is the bench when the step began */
  done: (s: Bench, began: Bench) => number;
  /** brings what is pointed at into view */
  show: (s: Bench) => void;
}

const face = (n: number) => found(`nav.faces button:nth-of-type(${n})`);
const kickOf = (s: Bench) => s.project?.map.lanes.find((l) => l.role === 'kick') ?? s.project?.map.lanes[0];

/** The beats of the first bar that have no kick yet. */
function missing(s: Bench): number[] {
  const p = currentPattern(s);
  const kick = kickOf(s);
  if (!p || !kick) return [];
  const beat = barTicks(p) / p.meter.beats;
  return Array.from({ length: p.meter.beats }, (_, b) => b).filter(
    (b) => !p.hits.some((h) => h.note === kick.note && Math.abs(h.tick - b * beat) < 10),
  );
}

/** The cells of the kick's lane on those beats, in Steps. */
function cells(s: Bench): Box[] {
  const stage = document.querySelector('[data-id="stage"]')?.getBoundingClientRect();
  const p = currentPattern(s);
  if (!stage || !p || !s.project || s.bar !== 0) return [];
  const lanes = shownLanes(s.project.map);
  const row = lanes.findIndex((l) => l.note === kickOf(s)?.note);
  const rowH = stage.height / lanes.length;
  const g = stepsGeometry(p, s.project.settings.feel.swing, {
    bar: 0,
    bars: barsAcross(s.across, p, stage.width),
    width: stage.width,
    rowH,
  });
  return missing(s).map((b) => ({
    x: stage.left + g.at((b * barTicks(p)) / p.meter.beats) - 17,
    y: stage.top + (row + 0.5) * rowH - 14,
    w: 34,
    h: 28,
  }));
}

const swing = (s: Bench) => JSON.stringify([s.project?.settings.feel.swing, currentPattern(s)?.feel?.swing]);
const toSteps = () => chooseFace('steps');

export const steps: Step[] = [
  {
    name: 'Kit',
    title: 'Look at your sounds',
    text: () => 'Open *Sounds*, or press `4`: every lane is a drum of the kit, with its sounds in layers.',
    targets: () => face(4),
    done: (s) => (s.face === 'sounds' ? 1 : 0),
    show: () => chooseFace('sounds'),
  },
  {
    name: 'Strike',
    title: 'Play them',
    text: () => 'Press `Z`, `X` and `B`, or strike the pads: nearer to the middle is harder.',
    targets: (s) => (s.padsOpen ? found('[data-pad]') : found('[data-id="pads"], .dock')),
    done: (s, began) => Math.min(1, s.strikes.filter((x) => !began.strikes.includes(x)).length / 3),
    show: () => {
      toSteps();
      setPadsOpen(true);
    },
  },
  {
    name: 'Beat',
    title: 'Give it a kick on every beat',
    text: (s) =>
      `Click the ringed cells of *${kickOf(s)?.name ?? 'the kick'}*, or go there with the arrows and press \`Enter\`. \`Space\` plays.`,
    targets: (s) => (s.face === 'steps' ? cells(s) : face(1)),
    done: (s) => {
      const p = currentPattern(s);
      return p ? 1 - missing(s).length / p.meter.beats : 0;
    },
    show: toSteps,
  },
  {
    name: 'Feel',
    title: 'Let it swing',
    text: () => 'Draw *Swing* up while it plays: every second cell comes later.',
    targets: (s) =>
      s.face === 'steps' ? found('.ant-slider:has([aria-label="Swing in percent"])') : face(1),
    done: (s, began) => (swing(s) !== swing(began) ? 1 : 0),
    show: toSteps,
  },
  {
    name: 'Break',
    title: 'Turn a recorded break into hits',
    text: () =>
      'In *Break* (`3`), drop a recording of drums or take the bench’s own: its strokes land on your lanes.',
    targets: (s) =>
      s.face === 'break'
        ? found('[data-id="own-break"], [data-id="recording-file"] ~ *, .lanesrow .ant-btn')
        : face(3),
    done: (s) => (s.face === 'break' && currentRecording(s) ? 1 : 0),
    show: () => chooseFace('break'),
  },
  {
    name: 'Song',
    title: 'Put it in a row',
    text: () => 'In *Song* (`5`), patterns lie in a row, bar after bar. Press `Space` there and hear it.',
    targets: (s) => (s.face === 'song' ? found('[data-id="play"]') : face(5)),
    done: (s) => (s.face === 'song' && s.playing ? 1 : s.face === 'song' ? 0.5 : 0),
    show: () => chooseFace('song'),
  },
];
