// What the window sounds: the player is given the pass and the kit, pads are struck.
import { api, ofPart, type Kit, type Pass, type Sounding, type Sounds } from '../api/client';
import { notesAPart } from '../model/constants.gen';
import { Latest } from '../model/latest';
import { withDelta } from '../model/patch';
import { barTicks, PPQ, ticksAt } from '../model/time';
import { midiOut } from '../player/midi';
import { player } from '../player/player';
import { evenTime, songTime } from '../model/songClock';
import { type Bench, currentPattern, currentRecording, explain, say, useBench } from './bench';

const get = useBench.getState;
const set = useBench.setState;

/** What plays the song; song/stream.ts is it. */
export const songPlayer = {
  refresh: (_keepPlace: boolean): Promise<void> => Promise.resolve(),
  play: (): Promise<void> => Promise.resolve(),
  loop: (): void => undefined,
};

// passes that are asked for by themselves: of several the newest counts
const asked = new Latest();

/** What the player has: the pass of a pattern by its name, so that only what differs need be sent. */
let had: { pattern: string; id: string; pass: Pass } | null = null;

/** Patterns of other parts that sound beside the one shown. */
function beside(): string[] {
  const { project, allPatterns, together, shownOf } = get();
  if (!project || !together || project.parts.length < 2) return [];
  return project.parts.flatMap(({ id }) => {
    if (id === project.part) return [];
    const own = allPatterns.filter((p) => (p.value.part ?? '') === id);
    return (own.find((p) => p.id === shownOf[id]) ?? own[0])?.id ?? [];
  });
}

/** What a reply is to say of the sound, when a pattern sounds. */
export function soundingNow(): Sounding | undefined {
  const s = get();
  if (s.face === 'break' || s.instead || s.song || s.patternId === '') return undefined;
  const have = had?.pattern === s.patternId && player.pass === had.pass ? had.id : '';
  const others = beside();
  return {
    pattern: s.patternId,
    rate: player.rate,
    ...(have ? { have } : {}),
    ...(others.length > 0 ? { with: others } : {}),
  };
}

/** Takes what the shown pattern sounds: whole, or what differs. */
export function takeSounds(sounds: Sounds, keepPlace = true) {
  asked.forget(); // what is on its way is older
  const { patternId } = get();
  if (sounds.delta && had) {
    const pass = withDelta(had.pass, sounds.delta);
    had = { pattern: patternId, id: sounds.id, pass };
    placesOf(pass);
    player.changePass(pass, sounds.delta);
  } else if (sounds.pass) {
    had = { pattern: patternId, id: sounds.id, pass: sounds.pass };
    takePass(sounds.pass, keepPlace);
  }
  applyHeld();
}

/** What the player is to play now: the pattern, or in Break the recording's loop. */
export async function refreshPass(keepPlace = true) {
  const s = get();
  if (!s.project) return;
  const recording = currentRecording(s);
  player.seen = (r) => r;
  if (s.instead) player.setPass(s.instead, keepPlace);
  else if (s.song && s.face !== 'break') await songPlayer.refresh(keepPlace);
  else if (s.face === 'break' && recording) {
    const { slow, click, part } = s.hearing;
    const band = s.compared?.lane?.band ?? s.hearing.band;
    const of = {
      rate: player.rate,
      slow: slow ? 2 : 1,
      click,
      ...(band ? { loHz: band[0], hiHz: band[1] } : {}),
      ...(part ? { part } : {}),
    };
    const path = { project: s.project.id, recording: recording.id };
    const pass = await asked.of(api.getRecordingPass({ path, query: of }));
    if (pass) player.setPass(pass, keepPlace);
  } else if (s.patternId) {
    const path = { project: s.project.id, pattern: s.patternId };
    const others = beside().join();
    const query = { rate: player.rate, ...(others ? { with: others } : {}) };
    const sounds = await asked.of(api.getPass({ path, query }));
    if (sounds) takeSounds(sounds, keepPlace);
  }
  applySilence();
  applyBlend();
  applyHeld();
}

/** Lets the bars that are held be played round and round, in Steps and Roll. */
export function applyHeld() {
  const s = get();
  const p = currentPattern(s);
  if (s.song && s.face !== 'break' && !s.instead) {
    songPlayer.loop();
    return;
  }
  if (!s.held || !p || !s.project || s.face === 'break' || s.instead) {
    player.setLoop(null);
    return;
  }
  const tickS = 60 / (s.project.settings.bpm * PPQ);
  const from = s.held.bar * barTicks(p) * tickS;
  // a hit up to a 1/64 early is the bar's own
  player.setLoop({ from, to: from + s.held.bars * barTicks(p) * tickS, lead: (PPQ / 16) * tickS });
}

/** Lets mutes, solos and where the part plays to be heard. */
export function applySettings() {
  applySilence();
  applyBlend();
}

export function applySilence() {
  const s = get();
  if (!s.project) return;
  const { muted, solo } = s.project.settings;
  const all = s.project.map.lanes.map((l) => l.note);
  if (s.song && s.face !== 'break') {
    // notes of a part lie above those of the part before it; what was just pressed in the part one is in counts already
    const here = solo.length > 0 ? all.filter((n) => !solo.includes(n)) : muted;
    const { part: own, parts } = s.project;
    const silent = parts.map((part) => (part.id === own && part.heard ? here : part.silent));
    player.setSilent(silent.flatMap((notes, i) => notes.map((n) => n + i * notesAPart)));
    return;
  }
  const only = s.face === 'break' ? s.compared?.lane?.note : undefined;
  if (only !== undefined) player.setSilent(all.filter((n) => n !== only));
  else player.setSilent(solo.length > 0 ? all.filter((n) => !solo.includes(n)) : muted);
}

const linear = (db: number) => 10 ** (db / 20);

function applyBlend() {
  const { face, levels, compared, instead } = get();
  const output = get().project?.settings.output;
  const song = get().song && face !== 'break' && !instead;
  midiOut.set(
    output,
    () => get().project?.map.lanes ?? [],
    () => {
      const { project } = get();
      return song && project ? songTime(project.song.bars) : evenTime(project?.settings.bpm ?? 120);
    },
  );
  midiOut.setParts(() => {
    const { project } = get();
    const parts = project?.parts ?? [];
    if (song) return parts;
    // beside the pattern shown, whose notes are as they are
    const own = parts.find((part) => part.id === project?.part);
    return own ? [own, ...parts] : [];
  });
  if (song) player.setBlend(1, 0);
  else if (face !== 'break' || instead) player.setBlend(output?.to === 'midi' ? 0 : 1, 0);
  else if (!compared) player.setBlend(linear(levels.kit), linear(levels.recording));
  else if (compared.side === 'recording') player.setBlend(0, 1);
  else player.setBlend(linear(Math.min(12, Math.max(-24, compared.matchDB))), 0);
}

/** Gives the player a pattern's pass, and tells the stage where its hits sound. */
export function takePass(pass: Pass, keepPlace = true) {
  placesOf(pass);
  player.setPass(pass, keepPlace);
}

function placesOf(pass: Pass) {
  const bpm = get().project?.settings.bpm ?? 92;
  const places = new Map<string, number>();
  for (const s of pass.strokes) {
    const key = `${s.note} ${s.tick}`;
    const at = ticksAt(s.at, bpm);
    const other = places.get(key);
    // a lane shorter than the pattern sounds a hit at several places: its own is the one near where it is written
    if (other === undefined || Math.abs(at - s.tick) < Math.abs(other - s.tick)) places.set(key, at);
  }
  set({ places });
}

/** Hears a recorded pass in the place of its pattern; null: the pattern again. */
export async function takePassInstead(pass: Pass | null, id: string) {
  set({ instead: pass, alone: id });
  if (pass) player.setPass(pass, true);
  else await refreshPass();
}

const tables = new Latest();
let kitInPlayer: Kit | null = null;

/** Brings the kit to the player when it is another than it has, or anew when it may be. */
export async function refreshKit(anew = false) {
  const p = get().project;
  if (!p || (!anew && p.kit === kitInPlayer)) return;
  kitInPlayer = p.kit;
  const table = await tables.of(
    api.getTable({ path: { project: p.id }, query: { rate: player.rate, ...ofPart(p) } }),
  );
  if (table) await player.setTable(table);
}

/** Lets the player sound the project's own kit again, after something else was tried. */
export async function soundOwnKit() {
  await refreshKit(true);
  await refreshPass();
}

/** How loud the recording and the kit are together, dB. */
export function setLevels(change: Partial<Bench['levels']>) {
  set((s) => ({ levels: { ...s.levels, ...change } }));
  hearCompared(null);
}

/** Hears the recording or the kit alone at the same loudness; null: both again. */
export function hearCompared(compared: Bench['compared']) {
  const was = get().compared?.lane;
  set({ compared });
  if (was?.note === compared?.lane?.note && was?.band.join() === compared?.lane?.band.join()) {
    applySilence();
    applyBlend();
  } else void refreshPass().catch((e: unknown) => say(explain(e)));
}

/** Hears the recording otherwise: slowly, with a click, one band alone. */
export function setHearing(change: Partial<Bench['hearing']>) {
  set((s) => ({ hearing: { ...s.hearing, ...change } }));
  void refreshPass().catch((e: unknown) => say(explain(e)));
}

/** Begins at the beginning, after so many seconds of counting in. */
export async function play(countInS = 0) {
  set({ playing: true });
  if (get().song && get().face !== 'break' && !get().instead) {
    await songPlayer.play().catch((e: unknown) => {
      set({ playing: false });
      say(explain(e));
    });
    return;
  }
  await player.play(countInS).catch((e: unknown) => {
    set({ playing: false });
    say(explain(e));
  });
}

export function stop() {
  set({ playing: false });
  player.stop();
}

export const toggle = () => (get().playing ? stop() : void play());

let strikeCount = 0;
let taker: ((note: number, velocity: number) => void) | null = null;

/** Lets strikes by hand go to something that waits for a note, in the place of the kit; null: to the kit again. */
export const takeStrikes = (by: typeof taker) => (taker = by);

/** Sounds a note without its being a strike by hand, at once or at a moment of the audio's clock. */
export function sound(note: number, velocity: number, atS?: number, tune = 0) {
  const struck = player.strike(note, velocity, atS, tune);
  midiOut.strike(note, velocity);
  return struck;
}

/** A strike by hand, as it is told to who records. */
export interface Played {
  note: number;
  velocity: number;
  /** the source */
  from: string;
  /** when, ms of the page's clock */
  timeStamp: number;
  ticket: number;
  /** cents, of one sound played over the pads */
  tune: number;
}

const players = new Set<(p: Played) => void>();
const letters = new Set<(ticket: number, timeStamp: number) => void>();

/** Calls back with every strike by hand; returns what ends it. */
export function onPlayed(l: (p: Played) => void): () => void {
  players.add(l);
  return () => players.delete(l);
}

/** Calls back when a strike is let go. */
export function onLetGo(l: (ticket: number, timeStamp: number) => void): () => void {
  letters.add(l);
  return () => letters.delete(l);
}

/** Lets a strike go that was held. */
export function letGo(ticket: number, timeStamp = performance.now()) {
  player.release(ticket);
  for (const l of letters) l(ticket, timeStamp);
}

/** A strike by hand: of a pad, a key, or an instrument. Returns the ticket to let it go by; 0 when another took it. */
export function strike(
  note: number,
  velocity: number,
  from = 'pads',
  timeStamp = performance.now(),
  atS?: number,
  tune = 0,
): number {
  if (taker) {
    taker(note, velocity);
    return 0;
  }
  const { ticket, layer } = sound(note, velocity, atS, tune);
  for (const l of players) l({ note, velocity, from, timeStamp, ticket, tune });
  const s = get();
  const id = ++strikeCount;
  set({
    lane: note,
    strikes: [{ id, note, velocity, layer, from, tune, leanMS: null }, ...s.strikes].slice(0, 4),
  });
  // where it was heard to fall, not where the sound is being made
  const place = player.placeOf(player.heardAt(timeStamp));
  if (s.playing && !s.song && s.project && place && place.since > 0 && s.face !== 'break') {
    const path = { project: s.project.id, pattern: s.patternId };
    void api
      .getLean({ path, query: { note, at: place.atS } })
      .then(({ leanMS }) =>
        set((now) => ({ strikes: now.strikes.map((x) => (x.id === id ? { ...x, leanMS } : x)) })),
      )
      .catch(() => undefined); // it was heard; where it fell is only a word beside it
  }
  return ticket;
}
