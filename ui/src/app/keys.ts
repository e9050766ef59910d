// The keys of the whole window. The grid has its own (steps/keys.ts); text fields keep theirs.
import { padsNow } from '../pads/layout';
import { player } from '../player/player';
import { startEditing, stopEditing, useMaps } from '../maps/state';
import { toggleShelf } from '../shelf/Shelf';
import { endTry, useSounds } from '../sounds/state';
import { chooseSample, useShelf } from '../shelf/state';
import {
  chooseFace,
  currentPattern,
  redo,
  setPadsOpen,
  shownLanes,
  strike,
  toggle,
  toggleSilence,
  undo,
  useBench,
} from './state';

const held = new Map<string, number>();

function inText(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement;
  return (
    t.isContentEditable ||
    /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName) ||
    t.closest('[role="listbox"],[role="dialog"],.ant-dropdown') !== null
  );
}

/** Everything the keys do, for the sheet of keys. */
export const keySheet: { where: string; keys: [string, string][] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Space', 'play, stop'],
      ['1 2 3 4', 'face: Steps, Roll, Break, Sounds'],
      ['L', 'the shelf of samples'],
      ['E', 'edit the drum map; K there shows all 128 notes'],
      ['Z X C V B N', 'strike kick, snare, clap, rim, closed hat, open hat'],
      ['A S D F G H', 'strike the other six pads; with a bank of sixteen J K too'],
      ['Shift + pad key', 'strike at 127'],
      ['M, Shift+M', 'mute, solo the chosen lane'],
      ['[ ]', 'previous, next bar'],
      ['P', 'pads open, shut'],
      ['Ctrl+Z, Ctrl+Shift+Z', 'undo, redo'],
      ['?', 'this sheet'],
    ],
  },
  {
    where: 'In the Roll, once it has the focus',
    keys: [
      [
        'click, drag, right click',
        'draw; choose (Shift adds); erase. Dragging hits moves them, with Ctrl copies',
      ],
      ['Alt while dragging', 'the opposite of Snap'],
      ['← → ↑ ↓', 'move by the grid (Shift: by a tick), to the lane above or below'],
      [', .', 'lean 1 ms earlier, later'],
      ['+ −', 'velocity by 4, with Shift by 1'],
      ['Ctrl+A, Ctrl+D', 'choose all; repeat what is chosen after itself'],
      ['Delete, Escape', 'erase; choose nothing'],
    ],
  },
  {
    where: 'On the shelf, and while a sample is tried',
    keys: [
      ['↑ ↓', 'previous, next sample; with Shift choose several'],
      ['Space', 'hear it again (in the list)'],
      ['Enter', 'try it in the layer chosen; while trying, keep it'],
      ['Escape', 'put the old sound back; shut the shelf'],
    ],
  },
  {
    where: 'In the steps, once they have the focus (Tab or a click)',
    keys: [
      ['← → ↑ ↓', 'step and lane'],
      ['Home End', 'first, last step of the bar'],
      ['Enter', 'set or clear the step; Shift+Enter sets 127'],
      ['0 to 9', 'type a velocity: 9 6 makes 96'],
      ['+ −', 'velocity by 4, with Shift by 1'],
      [', .', 'lean 1 ms earlier, later'],
      ['/', 'split in one more; Alt+/ undoes the split'],
      ['Delete', 'clear the step'],
      ['Shift + ← →', 'move the whole lane’s bar a step, wrapping round'],
      ['Alt + ↑ ↓', 'move the hit to the lane above or below, sounding it'],
    ],
  },
];

function turnPage(by: number) {
  const s = useBench.getState();
  const bars = currentPattern(s)?.bars ?? 1;
  if (s.face !== 'break') useBench.setState({ bar: Math.min(bars - 1, Math.max(0, s.bar + by)) });
  else window.dispatchEvent(new CustomEvent('hexachord-page', { detail: by }));
}

const up = (e: KeyboardEvent) => {
  const ticket = held.get(e.code);
  if (ticket === undefined) return;
  held.delete(e.code);
  player.release(ticket);
};

/** Listens to the whole window's keys; returns what ends it. */
export function listenToKeys(help: () => void): () => void {
  const down = (e: KeyboardEvent) => {
    if (inText(e)) return;
    const s = useBench.getState();
    const key = e.key.toLowerCase();
    if ((e.ctrlKey || e.metaKey) && key === 'z') {
      e.preventDefault();
      void (e.shiftKey ? redo() : undo());
      return;
    }
    if (e.ctrlKey || e.metaKey || e.altKey || !s.project) return;
    const pad = padsNow(s.bank === 0 ? shownLanes(s.project.map) : s.project.map.lanes, s.bank).find(
      (p) => p.key === key && key !== '',
    );
    if (pad) {
      e.preventDefault();
      if (!e.repeat && pad.note >= 0) held.set(e.code, strike(pad.note, e.shiftKey ? 127 : s.strikeVelocity));
      return;
    }
    if (useSounds.getState().trying) {
      const shelf = useShelf.getState();
      const step = { arrowdown: 1, arrowup: -1 }[key];
      if (step !== undefined) chooseSample(shelf.at + step);
      else if (key === 'enter') endTry(true);
      else if (key === 'escape') endTry(false);
      if (step !== undefined || key === 'enter' || key === 'escape') {
        e.preventDefault();
        return;
      }
    }
    const onButton = (e.target as HTMLElement).tagName === 'BUTTON';
    switch (key) {
      case ' ':
        if (e.repeat) break;
        if (onButton) (e.target as HTMLElement).blur(); // space plays, wherever the last click was
        toggle();
        break;
      case '1':
        stopEditing();
        chooseFace('steps');
        break;
      case '2':
        stopEditing();
        chooseFace('roll');
        break;
      case '3':
        stopEditing();
        chooseFace('break');
        break;
      case '4':
        stopEditing();
        chooseFace('sounds');
        break;
      case 'l':
        toggleShelf();
        break;
      case 'e':
        if (useMaps.getState().editing) stopEditing();
        else startEditing();
        break;
      case 'k':
        if (!useMaps.getState().editing) return;
        useMaps.setState((m) => ({ all: !m.all }));
        break;
      case 'm':
        if (!e.repeat) toggleSilence(e.shiftKey ? 'solo' : 'muted', s.lane);
        break;
      case '[':
        turnPage(-1);
        break;
      case ']':
        turnPage(1);
        break;
      case 'p':
        setPadsOpen(!s.padsOpen);
        break;
      case '?':
        help();
        break;
      default:
        return;
    }
    e.preventDefault();
  };
  window.addEventListener('keydown', down);
  window.addEventListener('keyup', up);
  return () => {
    window.removeEventListener('keydown', down);
    window.removeEventListener('keyup', up);
  };
}
