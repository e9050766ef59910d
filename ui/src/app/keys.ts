// The keys of the whole window. The grid has its own (steps/keys.ts); text fields keep theirs.
import { endGroove, useGroove } from '../break/groove';
import { nextDoubt, turnPage as turnBreak } from '../break/state';
import { keyVelocity, padsNow } from '../pads/layout';
import { useTuned } from '../pads/tuned';
import {
  sendsNothing,
  startEditing,
  stepListening,
  stopEditing,
  stopListening,
  useMaps,
} from '../maps/state';
import { copyPattern, newPattern, putBack, readyTakes, seed, stepReady, takeHeard } from '../patterns/state';
import { closeProjects, toggleProjects, useProjects } from '../projects/state';
import { toggleShelf } from '../shelf/state';
import { endTry, useSounds } from '../sounds/state';
import type { Project } from '../api/client';
import { chooseSample, useShelf } from '../shelf/state';
import { toggleRecord } from '../record/recorder';
import { actionFor } from './actions';
import { faceTakes } from './face';
import { playSong } from '../song/state';
import {
  type Bench,
  chooseFace,
  choosePattern,
  currentPattern,
  currentRecording,
  editPattern,
  type Face,
  letGo,
  redo,
  setDark,
  setPadsOpen,
  showBar,
  strike,
  toggle,
  togglePanel,
  toggleOnly,
  toggleSilence,
  undo,
  useBench,
  writeFeel,
} from './state';

const held = new Map<string, number>();

function inText(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement;
  return (
    t.isContentEditable ||
    (/^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName) && !(t instanceof HTMLInputElement && t.type === 'radio')) ||
    t.closest('[role="listbox"],[role="dialog"],.ant-dropdown') !== null
  );
}

/** Whether a face without a stage of its own takes a key although a control was pressed last: what the control itself takes stays its own. */
function takesBeside(face: Face, e: KeyboardEvent): boolean {
  if (face !== 'song' && face !== 'mix') return false;
  const button = e.target instanceof HTMLElement && e.target.tagName === 'BUTTON';
  return button ? e.key !== 'Enter' && e.key !== ' ' : !/^(Arrow|Page|Home|End|Enter| )/.test(e.key);
}

function turnPage(by: 1 | -1) {
  const s = useBench.getState();
  const r = currentRecording(s);
  if (s.face !== 'break') showBar(s.bar + by);
  else if (r && !nextDoubt(r, by)) turnBreak(r, by);
}

const up = (e: KeyboardEvent) => {
  const ticket = held.get(e.code);
  if (ticket === undefined) return;
  held.delete(e.code);
  letGo(ticket, e.timeStamp);
};

function step(by: number) {
  const s = useBench.getState();
  if (s.face === 'break') {
    const r = currentRecording(s);
    if (r) turnBreak(r, by);
    return;
  }
  const list = s.project?.patterns ?? [];
  const to = list[list.findIndex((p) => p.id === s.patternId) + by];
  if (to) choosePattern(to.id);
}

const barEdit = (op: 'vary' | 'fillbar' | 'clear', label: string) => {
  const { bar } = useBench.getState();
  const words = `${label} ${bar + 1}`;
  void editPattern(
    op === 'clear'
      ? { op, fromBar: bar, toBar: bar + 1, label: words }
      : { op, bar, seed: seed(), label: words },
  );
};

/** Shows a face, whatever was done before. */
const show = (face: Face) => {
  stopEditing();
  closeProjects();
  chooseFace(face);
};

/** Opens a panel, or shuts it; where the face shown has none of it, in the first one that has. */
function panelOf(panel: 'ready' | 'feel' | 'files' | 'play-in', faces: Face[]) {
  if (
    !faces.includes(useBench.getState().face) ||
    useMaps.getState().editing ||
    useProjects.getState().open
  ) {
    show(faces[0] ?? 'steps');
    useBench.setState({ panel });
  } else togglePanel(panel);
}

/** What each action of everywhere does. */
const does: Record<string, (s: Bench) => void> = {
  play: () => toggle(),
  record: (s) => {
    const away = (s.face !== 'steps' && s.face !== 'roll') || useProjects.getState().open;
    if (away || useMaps.getState().editing) show('steps');
    toggleRecord();
  },
  'play-in': () => panelOf('play-in', ['steps', 'roll']),
  steps: () => show('steps'),
  roll: () => show('roll'),
  break: () => show('break'),
  sounds: () => show('sounds'),
  song: () => show('song'),
  mix: () => show('mix'),
  'play-song': () => void playSong(!useBench.getState().song),
  undo: () => void undo(),
  redo: () => void redo(),
  history: () => togglePanel('history'),
  mute: (s) => toggleSilence('muted', s.lane),
  solo: (s) => toggleSilence('solo', s.lane),
  'bar-back': () => turnPage(-1),
  'bar-on': () => turnPage(1),
  follow: (s) => useBench.setState({ follow: !s.follow }),
  patterns: () => togglePanel('patterns'),
  'pattern-back': () => step(-1),
  'pattern-on': () => step(1),
  'pattern-new': () => newPattern(),
  'pattern-copy': () => copyPattern(false),
  'pattern-link': () => copyPattern(true),
  double: (s) => void editPattern({ op: 'double', label: `Double ${currentPattern(s)?.name ?? ''}` }),
  vary: () => barEdit('vary', 'Vary bar'),
  'fill-bar': () => barEdit('fillbar', 'A fill in bar'),
  'clear-bar': () => barEdit('clear', 'Clear bar'),
  only: () => toggleOnly(),
  ready: () => panelOf('ready', ['steps']),
  feel: () => panelOf('feel', ['steps', 'roll']),
  'write-feel': (s) => void writeFeel(s.patternId),
  shelf: () => toggleShelf(),
  projects: () => toggleProjects(),
  map: () => (useMaps.getState().editing ? stopEditing() : startEditing()),
  'map-all': () => {
    if (useMaps.getState().editing) useMaps.setState((m) => ({ all: !m.all }));
  },
  pads: (s) => setPadsOpen(!s.padsOpen),
  files: () => panelOf('files', ['steps', 'roll']),
  theme: (s) => setDark(!s.dark),
};

/** The chosen candidate while something is pending: ↑ ↓ choose, Enter keeps, Escape puts back. */
function pendingKey(key: string): boolean {
  const by = { ArrowDown: 1, ArrowUp: -1 }[key];
  if (useSounds.getState().trying) {
    const shelf = useShelf.getState();
    if (by !== undefined) chooseSample(shelf.at + by);
    else if (key === 'Enter') endTry(true);
    else if (key === 'Escape') endTry(false);
    else return false;
    return true;
  }
  if (readyTakes(key)) {
    if (by !== undefined) stepReady(by);
    else if (key === 'Enter') takeHeard();
    else putBack();
    return true;
  }
  if (useGroove.getState().tried) {
    if (key === 'Enter') endGroove('lay');
    else if (key === 'Escape') endGroove('back');
    else return false;
    return true;
  }
  return false;
}

/** Keys while the map waits for a note: pads send theirs, arrows go from lane to lane, and a key without a note says so. */
function listeningKey(e: KeyboardEvent, s: Bench, p: Project): boolean {
  if (e.ctrlKey || e.metaKey || e.altKey) return false;
  const key = e.key.toLowerCase();
  const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
  const bank = { '[': -1, ']': 1 }[e.key];
  const pad = padsNow(p.map.lanes, s.bank, p.kit, useTuned.getState(), true).find((x) => x.key === key);
  if (key === 'escape') stopListening();
  else if (by !== undefined) stepListening(by);
  else if (bank !== undefined) useBench.setState({ bank: Math.min(8, Math.max(1, s.bank + bank)) });
  else if (pad) {
    if (!e.repeat) strike(pad.note, e.shiftKey ? 127 : s.strikeVelocity);
  } else if (/^[^\s]$/.test(e.key)) sendsNothing(e.key.toUpperCase());
  else return false;
  return true;
}

/** Listens to the whole window's keys; returns what ends it. */
export function listenToKeys(help: () => void): () => void {
  const down = (e: KeyboardEvent) => {
    const s = useBench.getState();
    if (inText(e)) {
      // a panel is shut from inside its fields, too
      if (e.key === 'Escape' && s.panel !== '') {
        (document.activeElement as HTMLElement | null)?.blur();
        useBench.setState({ panel: '' });
      }
      return;
    }
    if (!s.project) return;
    if (useMaps.getState().listening && listeningKey(e, s, s.project)) {
      e.preventDefault();
      return;
    }
    const key = e.key.toLowerCase();
    if (!e.ctrlKey && !e.metaKey && !e.altKey) {
      const pad = padsNow(s.project.map.lanes, s.bank, s.project.kit, useTuned.getState()).find(
        (p) => p.key === key && key !== '',
      );
      if (pad) {
        e.preventDefault();
        if (!e.repeat && pad.note >= 0)
          held.set(
            e.code,
            strike(
              pad.note,
              keyVelocity(pad, s.strikeVelocity, e.shiftKey),
              'keys',
              e.timeStamp,
              undefined,
              pad.tune,
            ),
          );
        return;
      }
      if (pendingKey(e.key)) {
        e.preventDefault();
        return;
      }
      if (e.key === 'Escape' && s.panel !== '') {
        useBench.setState({ panel: '' });
        return;
      }
      if (e.key === 'Escape' && (useShelf.getState().open || useMaps.getState().editing)) {
        if (useShelf.getState().open) toggleShelf();
        else stopEditing();
        return;
      }
    }
    // the face shown takes its own keys, also when its stage has lost the focus
    const own =
      s.face !== 'sounds' &&
      !useProjects.getState().open &&
      !useMaps.getState().editing &&
      actionFor(s.face, e);
    if (own && e.target === document.body && s.face !== 'break')
      document.querySelector<HTMLElement>('[data-id="stage"],[data-id="roll"]')?.focus();
    if (own && (e.target === document.body || s.face === 'break' || takesBeside(s.face, e)) && faceTakes(e)) {
      e.preventDefault();
      return;
    }
    const id = actionFor('everywhere', e);
    if (!id) return;
    e.preventDefault();
    if (e.repeat && /^(play|record|mute|solo)$/.test(id)) return;
    // space plays, wherever the last click was
    if (id === 'play' && e.target instanceof HTMLElement && e.target.tagName === 'BUTTON') e.target.blur();
    if (id === 'help') help();
    else does[id]?.(s);
  };
  window.addEventListener('keydown', down);
  window.addEventListener('keyup', up);
  return () => {
    window.removeEventListener('keydown', down);
    window.removeEventListener('keyup', up);
  };
}
