// Recording what is played: every strike, from whatever source, is placed on the audio's clock and sent as it falls; each time through
// the loop in which something is played is a pass. While nobody records, what was played is remembered for a while.
import { create } from 'zustand';
import type { Hit, PlayedStrike } from '../api/client';
import {
  currentPattern,
  onLetGo,
  onPlayed,
  play,
  type Played,
  say,
  sendStrikes,
  stop,
  takePassInstead,
  useBench,
} from '../app/state';
import { through } from '../model/take';
import { barTicks, beatTicks, cellOf, PPQ } from '../model/time';
import { player } from '../player/player';
import { playSong } from '../song/state';
import { beatsOf } from '../model/songClock';
import './repeat';
import { useRecordSettings } from './settings';

/** A strike that is remembered while nobody records. */
export interface Remembered {
  note: number;
  velocity: number;
  tune: number;
  from: string;
  /** the audio's clock, seconds */
  clockS: number;
  /** seconds since what was playing then began, a bar line; null when nothing played */
  since: number | null;
}

interface Recorder {
  on: boolean;
  /** the pass that is being played, '' before anything was */
  pass: string;
  /** strikes that the bench has not acknowledged yet */
  unsent: number;
  remembered: Remembered[];
}

export const useRecorder = create<Recorder>()(() => ({ on: false, pass: '', unsent: 0, remembered: [] }));

const get = useRecorder.getState;
const set = useRecorder.setState;

/** How many bars of what was just played are remembered. */
export const rememberedBars = 16;

const tickS = () => 60 / ((useBench.getState().project?.settings.bpm ?? 92) * PPQ);

interface Outgoing {
  pass: string;
  pattern: string;
  strikes: (PlayedStrike & { since: number })[];
  fromBar: number;
  toBar: number;
  inBar: number;
  outBar: number;
  /** where the loop has come, seconds, when what is played replaces */
  upTo: number;
}

let name = '';
let outgoing: Outgoing[] = [];
let sending = false;
/** strikes whose pads are still held, by their tickets */
const held = new Map<number, { out: Outgoing; strike: PlayedStrike & { since: number }; clockS: number }>();

/** A strike without its place in what was played. */
const asPlayed = ({ note, at, velocity, tune, held: long, from }: PlayedStrike): PlayedStrike => ({
  note,
  at,
  velocity,
  ...(tune ? { tune } : {}),
  ...(from ? { from } : {}),
  ...(long ? { held: long } : {}),
});

/** Sends what waits, one message after another; what could not be sent is sent again. */
async function flush() {
  if (sending) return;
  sending = true;
  let failed = 0;
  while (outgoing.length > 0) {
    const [out] = outgoing;
    if (!out) break;
    outgoing = outgoing.slice(1);
    const { strength, grid, replace } = useRecordSettings.getState();
    // oxlint-disable-next-line no-await-in-loop -- in the order they were played
    const sent = await sendStrikes(
      {
        id: out.pass,
        pattern: out.pattern,
        strikes: out.strikes.map(asPlayed),
        quantise: { strength, ...(grid ? { grid } : {}) },
        ...(replace ? { replace: true, upTo: out.upTo } : {}),
        fromBar: out.fromBar,
        toBar: out.toBar,
        inBar: out.inBar,
        outBar: out.outBar,
      },
      (hits) => passOver(hits, out.strikes),
    ).catch(() => 'failed' as const);
    // a pattern that is gone, a pass that is muted: said why by the reply; the others go on
    if (sent !== 'failed') {
      failed = 0;
      set((s) => ({ unsent: Math.max(0, s.unsent - out.strikes.length) }));
      continue;
    }
    outgoing = [out, ...outgoing];
    if (++failed === 3)
      say({
        title: 'What you play cannot be sent to the bench',
        detail: 'It is kept in this window and sent as soon as the bench answers. Leave the window open.',
        error: true,
      });
    // oxlint-disable-next-line no-await-in-loop -- the bench may be busy, or gone for a moment
    await new Promise((r) => setTimeout(r, Math.min(2000, 200 * failed)));
  }
  sending = false;
}

/** What was just played has sounded: its hits are passed over where they would sound again at once. */
function passOver(hits: Hit[], strikes: { note: number; since: number }[]) {
  const { last } = player;
  if (!last) return;
  const length = last.to - last.from;
  const places = useBench.getState().places;
  for (const h of hits) {
    const at = (places.get(`${h.note} ${h.tick}`) ?? h.tick) * tickS() - last.from;
    for (const s of strikes) {
      if (s.note !== h.note) continue;
      const round = Math.round((s.since - at) / length);
      if (Math.abs(s.since - at - round * length) < 0.25) player.skip(h.note, h.tick, Math.max(0, round));
    }
  }
}

function queue(out: Outgoing) {
  const last = outgoing[outgoing.length - 1];
  if (last?.pass === out.pass) {
    last.strikes.push(...out.strikes);
    last.upTo = Math.max(last.upTo, out.upTo);
  } else outgoing.push(out);
  set((s) => ({ unsent: s.unsent + out.strikes.length }));
  void flush();
}

/** The bars that go round, and those that are recorded. */
function bars() {
  const h = useBench.getState().held;
  const { punch } = useRecordSettings.getState();
  return {
    fromBar: h?.bar ?? 0,
    toBar: h ? h.bar + h.bars : 0,
    inBar: punch?.[0] ?? 0,
    outBar: punch?.[1] ?? 0,
  };
}

/** The pass that a place in what is played belongs to. */
const passOf = (round: number) => `${name}-${round}`;

function place(
  p: Played,
): { out: Outgoing; strike: PlayedStrike & { since: number }; clockS: number } | null {
  const s = useBench.getState();
  const pattern = currentPattern(s);
  const late = (useRecordSettings.getState().lateMS[p.from] ?? 0) / 1000;
  const clockS = player.heardAt(p.timeStamp) - late;
  const at = player.placeOf(clockS);
  if (!pattern || !at) return null;
  const round = through(at.since, at.length, cellOf(pattern, p.note) * tickS());
  if (round < 0) return null; // it is counted in
  const { note, velocity, from, tune } = p;
  const strike = { note, velocity, from, tune, at: at.atS, since: at.since };
  const out: Outgoing = {
    pass: passOf(round),
    pattern: s.patternId,
    strikes: [strike],
    ...bars(),
    upTo: at.atS,
  };
  return { out, strike, clockS };
}

onPlayed((p) => {
  const s = useBench.getState();
  if (get().on && (s.face === 'steps' || s.face === 'roll')) {
    const placed = place(p);
    if (!placed) return;
    queue(placed.out);
    set({ pass: placed.out.pass });
    if (p.ticket > 0 && s.project?.kit.pads.find((k) => k.note === p.note)?.held) held.set(p.ticket, placed);
    return;
  }
  const clockS = player.heardAt(p.timeStamp) - (useRecordSettings.getState().lateMS[p.from] ?? 0) / 1000;
  const long = rememberedBars * barTicks(currentPattern(s) ?? { grid: '1/16', meter: { beats: 4, unit: 4 } });
  const since = player.placeOf(clockS)?.since ?? null;
  const { note, velocity, from, tune } = p;
  const one: Remembered = { note, velocity, from, tune, clockS, since };
  set((r) => ({
    remembered: [...r.remembered.filter((o) => clockS - o.clockS < long * tickS()), one].slice(-4000),
  }));
});

onLetGo((ticket, timeStamp) => {
  const h = held.get(ticket);
  if (!h) return;
  held.delete(ticket);
  const heldS = player.heardAt(timeStamp) - h.clockS;
  queue({ ...h.out, strikes: [{ ...h.strike, held: Math.max(0.001, heldS) }] });
});

/** While what is played replaces, the loop clears its lanes as it comes by. */
setInterval(() => {
  const { on, pass } = get();
  const pattern = useBench.getState().patternId;
  if (!on || pass === '' || !useRecordSettings.getState().replace) return;
  const at = player.placeOf(player.heardAt(performance.now()));
  if (!at) return;
  const now = passOf(at.pass);
  if (now === pass) queue({ pass, pattern, strikes: [], ...bars(), upTo: at.atS });
  else {
    queue({ pass, pattern, strikes: [], ...bars(), upTo: 1e5 });
    set({ pass: '' });
  }
}, 150);

/** Begins to record: at once while the beat plays, else after the count-in. */
export async function record() {
  // what is recorded goes into the pattern: it plays, not the song
  await playSong(false);
  const s = useBench.getState();
  const pattern = currentPattern(s);
  if (!s.project || !pattern) return;
  if (s.face !== 'steps' && s.face !== 'roll') useBench.setState({ face: 'steps' });
  name = crypto.randomUUID().slice(0, 18);
  set({ on: true, pass: '' });
  applyMetronome();
  if (!s.playing) void play(useRecordSettings.getState().countIn * barTicks(pattern) * tickS());
}

/** Ends recording; the beat plays on. */
export function endRecording() {
  const { pass } = get();
  if (pass !== '' && useRecordSettings.getState().replace) {
    const at = player.placeOf(player.heardAt(performance.now()));
    if (at && passOf(at.pass) === pass)
      queue({
        pass,
        pattern: useBench.getState().patternId,
        strikes: [],
        ...bars(),
        upTo: at.atS,
      });
  }
  set({ on: false, pass: '' });
  held.clear();
  applyMetronome();
}

export const toggleRecord = () => (get().on ? endRecording() : void record());

/** Lets the metronome be heard as it is set. */
export function applyMetronome() {
  const s = useBench.getState();
  const { click, clickDB, clicksABeat } = useRecordSettings.getState();
  const { on } = get();
  const pattern = currentPattern(s);
  if (!pattern || s.face === 'break' || s.face === 'sounds' || (!on && click !== 'always')) {
    player.setMetronome(null);
    return;
  }
  const places = s.song && !s.instead && s.project ? beatsOf(s.project.song, clicksABeat) : undefined;
  player.setMetronome({
    ...(places ? { places } : {}),
    clickS: (beatTicks(pattern) / clicksABeat) * tickS(),
    perBar: pattern.meter.beats * clicksABeat,
    level: 10 ** (clickDB / 20),
    countInOnly: click === 'off' || click === 'counting in',
  });
}

useBench.subscribe((s, old) => {
  if (((!s.playing && old.playing) || s.song) && get().on) endRecording();
  if (s.alone !== '' && s.patternId !== old.patternId) void takePassInstead(null, '');
  if (get().on && (s.patternId !== old.patternId || s.project?.id !== old.project?.id)) {
    stop();
    endRecording();
  }
  if (
    s.face !== old.face ||
    s.patternId !== old.patternId ||
    s.song !== old.song ||
    s.instead !== old.instead ||
    s.project?.song !== old.project?.song ||
    s.project?.settings.bpm !== old.project?.settings.bpm
  )
    applyMetronome();
});
useRecordSettings.subscribe(applyMetronome);

// a page that is hidden or a machine that sleeps: the audio's clock stands still, and what is lost is said
document.addEventListener('visibilitychange', () => {
  if (document.hidden || !get().on) return;
  if (!player.running) {
    endRecording();
    say({
      title: 'Recording ended while the window was away',
      detail: 'The sound stood still in the meantime. Everything played before is kept.',
      error: false,
    });
  }
});
