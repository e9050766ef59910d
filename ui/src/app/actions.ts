// Everything that has a key: what it is called, where it works and which keys do it. The person may choose other keys.
import { create } from 'zustand';
import { stored } from './bench';

/** What of a key's event names it. */
export type KeyLike = Pick<KeyboardEvent, 'key' | 'code' | 'altKey' | 'ctrlKey' | 'metaKey' | 'shiftKey'>;

/** Where an action's keys work. Those of a face go before those of everywhere. */
export type Where = 'everywhere' | 'steps' | 'roll' | 'break' | 'song' | 'mix';

interface Action {
  id: string;
  where: Where;
  does: string;
  /** chords, as chordOf spells them */
  keys: string[];
}

const all: [Where, [id: string, does: string, ...keys: string[]][]][] = [
  [
    'everywhere',
    [
      ['play', 'play, stop', 'Space'],
      ['record', 'record what is played; again: play on', 'R'],
      ['play-in', 'playing in: sources, passes, click', 'Shift+3'],
      ['steps', 'Steps', '1'],
      ['roll', 'Roll', '2'],
      ['break', 'Break', '3'],
      ['sounds', 'Sounds', '4'],
      ['song', 'Song', '5'],
      ['mix', 'Mix', '6'],
      ['play-song', 'this pattern plays, or the song', 'Shift+Space'],
      ['undo', 'undo', 'Ctrl+Z'],
      ['redo', 'redo', 'Ctrl+Shift+Z', 'Ctrl+Y'],
      ['history', 'everything that was done, to jump in', 'I'],
      ['mute', 'mute the chosen lane', 'M'],
      ['solo', 'solo the chosen lane', 'Shift+M'],
      ['bar-back', 'previous bar; in Break the previous doubtful hit', '['],
      ['bar-on', 'next bar; in Break the next doubtful hit', ']'],
      ['follow', 'follow what plays, or stay', 'Shift+P'],
      ['only', 'only lanes with hits, or all', 'Shift+2'],
      ['patterns', 'the patterns of this project', 'T'],
      ['pattern-back', 'previous pattern; in Break the bars before', 'PageUp'],
      ['pattern-on', 'next pattern; in Break the bars after', 'PageDown'],
      ['pattern-new', 'new pattern', 'Shift+T'],
      ['pattern-copy', 'copy the pattern', 'Shift+Y'],
      ['pattern-link', 'linked copy: edits mirror', 'Shift+U'],
      ['double', 'double its length with its contents', 'Shift+O'],
      ['vary', 'vary this bar', 'Shift+R'],
      ['fill-bar', 'end this bar in a fill', 'Shift+L'],
      ['clear-bar', 'clear this bar', 'Shift+Delete'],
      ['ready', 'ready patterns', 'W'],
      ['feel', 'feel: swing, groove, leans, humanise', 'U'],
      ['write-feel', 'write the feel into the hits', 'Shift+E'],
      ['shelf', 'the shelf of samples', 'L'],
      ['projects', 'all projects and kits', 'Shift+J'],
      ['map', 'edit the drum map', 'E'],
      ['map-all', 'all 128 notes, while the map is edited', 'K'],
      ['pads', 'pads open, shut', 'P'],
      ['files', 'MIDI in and out, bounce', 'Ctrl+O'],
      ['theme', 'light, dark', 'Shift+1'],
      ['help', 'help: how something is done, keys, words, marks, formats', '?'],
    ],
  ],
  [
    'steps',
    [
      ['left', 'step before', 'ArrowLeft'],
      ['right', 'step after', 'ArrowRight'],
      ['up', 'lane above', 'ArrowUp'],
      ['down', 'lane below', 'ArrowDown'],
      ['home', 'first step of the bar', 'Home'],
      ['end', 'last step of the bar', 'End'],
      ['set', 'set or clear the step', 'Enter'],
      ['set-full', 'set it at 127', 'Shift+Enter'],
      ['clear', 'clear the step', 'Delete', 'Backspace'],
      ['type-velocity', 'type a velocity: digits, then Enter (Y 9 6 makes 96)', 'Y'],
      ['louder', 'velocity 4 up', '+', '='],
      ['softer', 'velocity 4 down', '-'],
      ['louder-1', 'velocity 1 up', 'Shift++'],
      ['softer-1', 'velocity 1 down', '_'],
      ['early', 'lean 1 ms earlier', ','],
      ['late', 'lean 1 ms later', '.'],
      ['lane-early', 'the whole lane’s bar 1 ms earlier', '<'],
      ['lane-late', 'the whole lane’s bar 1 ms later', '>'],
      ['split', 'split in one more', '/'],
      ['unsplit', 'undo the split', 'Alt+/'],
      ['slope-down', 'strokes of a split fall by 8 more', ';'],
      ['slope-up', 'strokes of a split rise by 8 more', "'"],
      ['pan-left', 'pan the hit left', 'Alt+,'],
      ['pan-right', 'pan the hit right', 'Alt+.'],
      ['chance-down', 'chance 10 % less', 'Alt+-'],
      ['chance-up', 'chance 10 % more', 'Alt+='],
      ['tune-down', 'the hit a semitone lower', 'Alt+ArrowLeft'],
      ['tune-up', 'the hit a semitone higher', 'Alt+ArrowRight'],
      ['tune-down-fine', 'the hit 5 cents lower', 'Alt+Shift+ArrowLeft'],
      ['tune-up-fine', 'the hit 5 cents higher', 'Alt+Shift+ArrowRight'],
      ['lane-left', 'the lane’s bar a step earlier, wrapping round', 'Shift+ArrowLeft'],
      ['lane-right', 'the lane’s bar a step later', 'Shift+ArrowRight'],
      ['also-up', 'choose the lane above too', 'Shift+ArrowUp'],
      ['also-down', 'choose the lane below too', 'Shift+ArrowDown'],
      ['hit-up', 'move the hit to the lane above, sounding it', 'Alt+ArrowUp'],
      ['hit-down', 'move the hit to the lane below', 'Alt+ArrowDown'],
      ['copy', 'copy the chosen lanes’ bar', 'Ctrl+C'],
      ['copy-bar', 'copy the whole bar', 'Ctrl+Shift+C'],
      ['paste', 'paste into this bar', 'Ctrl+V'],
      ['quantise', 'quantise the chosen lanes', 'Q'],
      ['lane-tools', 'fill, spread, shape the lane', 'O'],
      ['strip', 'what the strip shows', 'Shift+Q'],
      ['fewer', 'fewer bars side by side', 'Ctrl+ArrowRight'],
      ['more', 'more bars side by side', 'Ctrl+ArrowLeft'],
      ['hold', 'hold these bars: loop just what is shown', '\\'],
      ['leave', 'only this lane, then leave the grid', 'Escape'],
    ],
  ],
  [
    'mix',
    [
      ['compare', 'the output looked at without its processing, as loud as with it', 'Q'],
      ['compare-all', 'everything without processing, as loud as with it', 'Shift+Q'],
      ['export', 'export', 'Ctrl+Shift+E'],
    ],
  ],
  [
    'song',
    [
      ['left', 'the cursor a bar back', 'ArrowLeft'],
      ['right', 'the cursor a bar on', 'ArrowRight'],
      ['choose-left', 'choose bars, back', 'Shift+ArrowLeft'],
      ['choose-right', 'choose bars, on', 'Shift+ArrowRight'],
      ['home', 'to the first bar', 'Home'],
      ['end', 'behind the last bar', 'End'],
      ['up', 'to the blocks', 'ArrowUp'],
      ['down', 'to the recordings', 'ArrowDown'],
      ['lay', 'choose the block at the cursor; on an empty bar lay the pattern there', 'Enter'],
      ['remove', 'remove what is chosen', 'Delete', 'Backspace'],
      ['earlier', 'what is chosen a bar earlier', 'Alt+ArrowLeft'],
      ['later', 'what is chosen a bar later', 'Alt+ArrowRight'],
      ['more', 'once more through', '+', '=', 'Shift++'],
      ['less', 'once less', '-', '_'],
      ['split', 'split at the cursor', '/'],
      ['copy', 'copy the block, or the section at the cursor, behind itself', 'Ctrl+D'],
      ['copy-own', 'copy behind itself, with patterns of its own', 'Ctrl+Shift+D'],
      ['mute', 'mute the block', '.'],
      ['fill', 'make the last bar a fill: heard first, a second press keeps it', 'Shift+L'],
      ['vary', 'vary the last time through, likewise', 'Shift+R'],
      ['open', 'open the block in Steps while the song plays on', 'O'],
      ['section', 'the chosen bars are a section with a name', 'Y'],
      ['loop', 'the chosen bars go round', '\\'],
      ['nearer', 'fewer bars, wider', 'Ctrl+ArrowRight'],
      ['farther', 'more bars', 'Ctrl+ArrowLeft'],
      ['whole', 'the whole song', 'Ctrl+0'],
      ['leave', 'choose nothing', 'Escape'],
    ],
  ],
  [
    'roll',
    [
      ['left', 'the cursor a step back; what is chosen a step earlier', 'ArrowLeft'],
      ['right', 'the cursor a step on; what is chosen a step later', 'ArrowRight'],
      ['set', 'set a hit at the cursor; choose the one there', 'Enter'],
      ['tick-left', 'a tick earlier', 'Shift+ArrowLeft'],
      ['tick-right', 'a tick later', 'Shift+ArrowRight'],
      ['up', 'the cursor, or what is chosen, to the lane above', 'ArrowUp'],
      ['down', 'to the lane below', 'ArrowDown'],
      ['early', '1 ms earlier', ','],
      ['late', '1 ms later', '.'],
      ['louder', 'velocity 4 up', '+', '='],
      ['softer', 'velocity 4 down', '-'],
      ['louder-1', 'velocity 1 up', 'Shift++'],
      ['softer-1', 'velocity 1 down', '_'],
      ['longer', 'a step longer', 'Alt+ArrowRight'],
      ['shorter', 'a step shorter', 'Alt+ArrowLeft'],
      ['legato', 'up to the next hit of the lane', 'Shift+W'],
      ['free-length', 'as long as the sound', 'Shift+0'],
      ['quantise', 'quantise what is chosen, or the lane', 'Q'],
      ['quantise-lengths', 'quantise lengths', 'Shift+Q'],
      ['all', 'choose all', 'Ctrl+A'],
      ['repeat', 'repeat what is chosen after itself', 'Ctrl+D'],
      ['repeat-fill', 'repeat it to the end of the pattern', 'Ctrl+Shift+D'],
      ['copy', 'copy what is chosen', 'Ctrl+C'],
      ['paste', 'paste at the bar shown', 'Ctrl+V'],
      ['erase', 'erase', 'Delete', 'Backspace'],
      ['none', 'choose nothing', 'Escape'],
      ['nearer', 'nearer', 'Ctrl+ArrowRight'],
      ['farther', 'farther', 'Ctrl+ArrowLeft'],
      ['begin', 'to the beginning', 'Home'],
      ['end', 'to the end', 'End'],
      ['snap', 'snap or free', 'O'],
      ['notes', 'all notes, or named lanes', 'Shift+I'],
    ],
  ],
  [
    'break',
    [
      ['keep', 'keep the doubtful hit', 'Y'],
      ['other', 'move it to the other lane that fits', 'O'],
      ['take-out', 'take the hit out; again to bring it back', 'Delete', 'Backspace'],
      ['hear-hit', 'hear the hit in the recording', 'Enter'],
      ['add-hit', 'add a hit of the chosen lane where it plays (mouse: double click)', 'Shift+Enter'],
      ['hit-before', 'the hit before, in the chosen lane', 'ArrowLeft'],
      ['hit-after', 'the hit after', 'ArrowRight'],
      ['lane-above', 'the nearest hit in a lane above', 'ArrowUp'],
      ['lane-below', 'the nearest hit in a lane below', 'ArrowDown'],
      ['also-before', 'choose the hit before, too', 'Shift+ArrowLeft'],
      ['also-after', 'choose the hit after, too', 'Shift+ArrowRight'],
      ['all', 'choose all hits of the lane', 'Ctrl+A'],
      ['copy', 'copy what is chosen', 'Ctrl+C'],
      ['paste', 'paste in the bar after', 'Ctrl+V'],
      ['early', 'what is chosen 1 ms earlier', ','],
      ['late', 'what is chosen 1 ms later', '.'],
      ['nearer', 'nearer, down to one hit', 'Ctrl+ArrowRight'],
      ['farther', 'farther, up to sixteen bars', 'Ctrl+ArrowLeft'],
      ['attack-before', 'the hit to the attack before', 'Alt+ArrowLeft'],
      ['attack-after', 'the hit to the attack after', 'Alt+ArrowRight'],
      ['louder', 'velocity 4 up', '+', '='],
      ['softer', 'velocity 4 down', '-'],
      ['louder-1', 'velocity 1 up', 'Shift++'],
      ['softer-1', 'velocity 1 down', '_'],
      ['hit-up', 'to the lane above', 'Alt+ArrowUp'],
      ['hit-down', 'to the lane below', 'Alt+ArrowDown'],
      ['ab', 'recording or kit, at the same loudness', 'Q'],
      ['ab-lane', 'only this lane: in the recording, on the kit, then everything again', 'Shift+Q'],
      ['tap', 'tap the tempo', "'"],
    ],
  ],
];

export const actions: Action[] = all.flatMap(([where, list]) =>
  list.map(([id, does, ...keys]) => ({ id, where, does, keys })),
);

/** The person's own keys, by where and ID. */
export const useKeys = create<{ own: Record<string, string[]> }>()(() => ({
  own: JSON.parse(stored('keys') ?? '{}') as Record<string, string[]>,
}));

const name = (a: Action) => `${a.where} ${a.id}`;

export const keysOf = (a: Action): string[] => useKeys.getState().own[name(a)] ?? a.keys;

/** Keys that strike pads; no command can have them. */
const padKeys = new Set('ASDFGHZXCVBN'.split('').flatMap((k) => [k, `Shift+${k}`]));

/** What else a chord does where an action works, or why it cannot have it; '' when it is free. */
export function conflict(a: Action, chord: string): string {
  if (padKeys.has(chord)) return 'strikes a pad';
  if (/^[0-9]$/.test(chord)) return 'shows a face';
  const other = actions.find(
    (b) =>
      b !== a &&
      keysOf(b).includes(chord) &&
      (a.where === b.where || a.where === 'everywhere' || b.where === 'everywhere'),
  );
  return other ? other.does : '';
}

/** Gives an action a key of the person's choice; none: its own again. */
export function chooseKey(a: Action, chord: string | null) {
  const own = { ...useKeys.getState().own };
  if (chord === null) delete own[name(a)];
  else own[name(a)] = [chord];
  localStorage.setItem('hexachord.keys', JSON.stringify(own));
  useKeys.setState({ own });
}

export function ownKeysAgain() {
  localStorage.removeItem('hexachord.keys');
  useKeys.setState({ own: {} });
}

/** Spells the keys pressed: Ctrl, Alt, Shift, then the key. Shift is said of letters, digits, plus and named keys only,
 * as other signs are where a keyboard has them. */
export function chordOf(e: KeyLike): string {
  let key = e.key === ' ' ? 'Space' : e.key.length === 1 ? e.key.toUpperCase() : e.key;
  if (e.shiftKey && /^Digit[0-9]$/.test(e.code)) key = /^[0-9?/_+=]$/.test(key) ? key : e.code.slice(5);
  const shift = e.shiftKey && (key.length > 1 || /[A-Z0-9+]/.test(key));
  return `${e.ctrlKey || e.metaKey ? 'Ctrl+' : ''}${e.altKey ? 'Alt+' : ''}${shift ? 'Shift+' : ''}${key}`;
}

/** The action a key does in one place; undefined when none. */
export function actionFor(where: Where, e: KeyLike): string | undefined {
  const chord = chordOf(e);
  return actions.find((a) => a.where === where && keysOf(a).includes(chord))?.id;
}
