// What help answers: how something is done, what a word, a mark or a format means. Keys come from the actions themselves.
import type { Show } from './state';

export interface Entry {
  of: 'how' | 'words' | 'marks' | 'formats';
  title: string;
  text: string;
  show?: Show;
}

const how = (title: string, text: string, show?: Show): Entry => ({
  of: 'how',
  title,
  text,
  ...(show ? { show } : {}),
});
const word = (title: string, text: string): Entry => ({ of: 'words', title, text });
const mark = (title: string, text: string): Entry => ({ of: 'marks', title, text });
const format = (title: string, text: string): Entry => ({ of: 'formats', title, text });

export const entries: Entry[] = [
  how(
    'make a beat',
    'Click cells in *Steps*, or go there with the arrows and press `Enter`. `Space` plays while you do.',
    {
      face: 'steps',
      at: '[data-id="stage"]',
    },
  ),
  how(
    'begin from something',
    '*Ready…* has patterns to try on your kit; `↑` `↓` step through them while they play, `Enter` keeps.',
    {
      face: 'steps',
      at: '[data-id="ready-button"]',
    },
  ),
  how(
    'work by touch',
    'On a tablet a tap sets and clears. Let a finger rest on a hit to choose it: up and down is how hard, sideways when. The buttons under the steps change it, too; *Velocity* and the others beside *Hit* draw the strip again.',
    {
      face: 'steps',
      at: '[data-id="stage"]',
    },
  ),
  how(
    'make a stroke softer or harder',
    'Drag the hit up or down, or press `+` and `−`; type a number for one velocity.',
    {
      face: 'steps',
      at: '[data-id="strip"]',
    },
  ),
  how(
    'make the snare fall late',
    'Choose its hits and press `.` for 1 ms each time, `,` for earlier; or drag a hit sideways.',
    {
      face: 'steps',
      at: '[data-id="strip"]',
    },
  ),
  how('let it swing', 'Draw *Swing* up; in *Feel…* each lane may follow it more or less.', {
    face: 'steps',
    at: '[data-id="feel"]',
  }),
  how(
    'take the lateness of a recording for my own beat',
    'In *Break*, *Groove…* keeps how a recording leans; lay it over a pattern in *Feel…*.',
    {
      face: 'break',
      at: '[data-id="groove-of"], nav.faces button:nth-of-type(3)',
    },
  ),
  how('make a roll', 'Press `/` on a hit to split it into strokes; `Alt+/` undoes that.', {
    face: 'steps',
    at: '[data-id="stage"]',
  }),
  how('write longer patterns', 'Set *bars*; *Double* writes what is there twice.', {
    face: 'steps',
    at: '[data-id="bars"]',
  }),
  how('vary a bar, make a fill', '*Vary* and *Fill* propose and play; `Enter` keeps, `Esc` puts back.', {
    face: 'steps',
    at: '[data-id="stage"]',
  }),
  how(
    'play it in',
    'Press `R` and strike keys, pads or a controller. Every time through is a pass that can be muted or taken back.',
    {
      face: 'steps',
      at: '[data-id="record"]',
    },
  ),
  how(
    'set up a MIDI controller',
    '*Play in…* lists what is connected; choose its channel and curve, or learn its pads.',
    {
      face: 'steps',
      at: '[data-id="play-in-button"]',
    },
  ),
  how(
    'use my own samples',
    'Drop files, a folder or a zip on the window: you see where each goes before anything changes.',
    {
      face: 'sounds',
      at: '[data-id="open-shelf"]',
    },
  ),
  how(
    'try sounds in the beat',
    'Open the shelf (`L`), step with `↑` `↓` while it plays: each is heard in its lane until you keep one.',
    {
      face: 'sounds',
      at: '[data-id="open-shelf"]',
    },
  ),
  how(
    'name, colour and move lanes',
    '*Edit* beside the map opens it; notes, names, colours and roles are changed there.',
    { at: '[data-id="edit-map"]' },
  ),
  how(
    'fit another sampler’s notes',
    'In the map’s menu load or read a map; what your patterns need is shown before it is taken.',
    { at: '[data-id="map-menu"]' },
  ),
  how(
    'turn a recorded break into hits',
    'Drop the recording anywhere. What is doubtful is hollow: `[` and `]` go there, `Y` keeps, `O` moves it, `Delete` takes it out.',
    {
      face: 'break',
      at: 'nav.faces button:nth-of-type(3)',
    },
  ),
  how(
    'hear drums through other music',
    'In *Break*, *Listen…* has *only the drums*: basses, chords and voices are left out before the drums are heard.',
    {
      face: 'break',
      at: '[data-id="hearing-menu"]',
    },
  ),
  how(
    'correct the tempo of a break',
    'Type it, tap it (`’`), halve or double it; drag bar lines in the ruler when the player moves.',
    {
      face: 'break',
      at: '[data-id="tempo-times"]',
    },
  ),
  how(
    'put my kit under a recording',
    '*Reinforce…* aligns each sound with the recorded attack and turns polarity where that is fuller.',
    {
      face: 'break',
      at: '[data-id="reinforce-button"]',
    },
  ),
  how(
    'cut a break into a kit',
    '*Cut into a kit* takes the cleanest stroke of each drum, in layers of loudness.',
    { face: 'break', at: '[data-id="cut-kit"]' },
  ),
  how('make a song of patterns', 'In *Song* lay patterns in a row, name sections, repeat and split blocks.', {
    face: 'song',
    at: 'nav.faces button:nth-of-type(5)',
  }),
  how(
    'use a second instrument',
    '*+ part* adds one: another kit, or a MIDI output, with its own map and patterns.',
    { at: '.mapbar' },
  ),
  how('make the snare louder than the rest', 'In *Mix* draw its fader; *Levels* sets all by role.', {
    face: 'mix',
    at: '[data-id="levels"]',
  }),
  how(
    'give the drums a room',
    'In *Mix* send lanes to *room* or *delay*; *dry* leaves all processing out at once.',
    { face: 'mix', at: '[data-id="dry"]' },
  ),
  how(
    'export the song',
    'In *Mix*, *Export…*: the mix, outputs, lanes, MIDI or all in a bundle; the names are seen before they are written.',
    {
      face: 'mix',
      at: '[data-id="open-export"]',
    },
  ),
  how(
    'take something back',
    '`Ctrl+Z` undoes; `I` lists everything that was done, to jump in. Nothing is forgotten when you close the window.',
    {
      at: '[data-id="undo"]',
    },
  ),
  how(
    'bring back what I deleted',
    'The trash stands in *Projects* (`Shift+J`): projects, kits, maps and samples wait there whole; a sample that something sounds stays even when it is emptied.',
    { at: '[data-id="project"]' },
  ),
  how(
    'move to another machine',
    'Export a bundle, and drop it on the bench there; or `hexachord backup` writes everything to one file.',
  ),
  how('change a key', '*All keys* below lists every key; press its name to choose your own.'),

  word('lane', 'a row of the drum map: a note with name, code, colour and role.'),
  word('hit', 'a stroke in a pattern, or one heard in a recording.'),
  word('lean', 'how far a hit stands off its line, early or late; shown in ms.'),
  word('feel', 'what is laid over a pattern as it plays: swing, groove, leans, chance.'),
  word('groove', 'lateness and accents of one beat, laid over another.'),
  word('ghost', 'a soft stroke between the main ones.'),
  word('layer', 'sounds for one range of velocity: harder strokes sound the higher layers.'),
  word('choke', 'one sound ends another: a closed hat the open one.'),
  word('pass', 'one time through while recording what is played.'),
  word('hold', 'loops just the bars shown.'),
  word('part', 'an instrument of the project: a kit, or a MIDI output, with its map.'),
  word('block', 'a pattern, or a recording, laid on a row of the song.'),
  word('section', 'bars of the song with a name, over all parts.'),
  word('strip', 'what is done to a lane in the mix: gain, level, pan, sends, output.'),
  word('output', 'where lanes go: treated together, a file of its own when exported.'),
  word('bundle', 'a project, or a kit, with all its sounds in one zip.'),
  word('keep, put back', 'what ends something that is only tried: for good, or as it was.'),

  mark('filling', 'a hit is filled as high as its velocity.'),
  mark(
    'late and early',
    'a late hit stands right of its tick, an early one left; the tick stays on the grid.',
  ),
  mark('hollow, with ?', 'heard in a recording, and in doubt.'),
  mark('×', 'taken out of what is kept; it can come back.'),
  mark('split hexagon', 'a hit of several strokes.'),
  mark('struck-through name', 'the lane is muted.'),
  mark('dashed', 'not kept yet: tried, planned or proposed.'),

  format(
    'WAV, AIFF, FLAC, MP3',
    'samples and recordings come in; WAV and FLAC go out, 44.1 to 96 kHz, 16 to 24 bits and float.',
  ),
  format(
    'Standard MIDI File',
    'patterns and songs come in and go out; a hit’s lateness is written to the nearest of 960 ticks a beat.',
  ),
  format('SFZ', 'kits go out as instruments, with their layers and chokes, and come in.'),
  format('MIDNAM', 'maps come in and go out as note names other programs show.'),
  format('CSV', 'maps as a table: note, name, role, colour.'),
  format('zip', 'kits and projects as bundles; folders of samples come in so, too.'),
];
