// Plays the song: its cues come from the bench by stretches of bars, those that are heard next first.
import { api, type Pass } from '../api/client';
import { say, explain, songPlayer, stop, useBench } from '../app/state';
import { PPQ } from '../model/time';
import { player } from '../player/player';
import { useSong } from './state';
import { barAt } from '../model/songClock';
import { inPattern, secondsAt } from './time';

/** bars that come together, and how many of these are ready ahead of what is heard */
const together = 8;
const ahead = 2;

/** the revision each stretch was compiled from, by its number */
let have = new Map<number, number>();
let times = '';
let projectId = '';
let asking: Promise<unknown> = Promise.resolve();
let waiting = 0;

const empty = (length: number): Pass => ({ length, cues: [], turns: [], strokes: [], whens: [], silent: 0 });
const once = () => !useSong.getState().looped;

async function fetchStretch(n: number) {
  const p = useBench.getState().project;
  if (!p || have.get(n) === p.revision || n * together >= p.song.end) return;
  const reply = await api.getSongStretch({
    path: { project: p.id },
    query: { rate: player.rate, fromBar: n * together, toBar: Math.min(2000, (n + 1) * together) },
  });
  if (!useBench.getState().song || useBench.getState().project?.id !== p.id) return;
  have.set(n, reply.revision);
  await player.setStretch(reply.pass, reply.from, reply.to, once());
}

/** Brings the stretches from a bar on; one call after another. */
function bring(bar: number): Promise<void> {
  const first = Math.floor(Math.max(0, bar) / together);
  waiting++;
  const mine = asking.then(async () => {
    // oxlint-disable-next-line no-await-in-loop -- what is heard next comes first
    for (let n = first; n < first + ahead; n++) await fetchStretch(n);
  });
  asking = mine.catch(() => undefined).finally(() => waiting--);
  return mine;
}

/** Where the song is to begin. */
const beginBar = () => {
  const { looped, range, cursor } = useSong.getState();
  const end = useBench.getState().project?.song.end ?? 0;
  if (looped && range) return range.from;
  return cursor < end ? cursor : 0;
};

songPlayer.refresh = async (keepPlace) => {
  const s = useBench.getState();
  const p = s.project;
  if (!p) return;
  player.seen = (r) => {
    const now = useBench.getState();
    const { project: shown } = now;
    if (!shown || !r.playing) return { ...r, from: 0, to: 1, atS: 0 };
    const tick = inPattern(shown, now.patternId, barAt(shown.song.bars, r.atS));
    return tick === null
      ? { ...r, playing: false, from: 0, to: 1, atS: 0 }
      : { ...r, from: 0, atS: (tick * 60) / (shown.settings.bpm * PPQ) };
  };
  const length = Math.max(0.1, p.song.bars[p.song.bars.length - 1]?.at ?? 0);
  const now = JSON.stringify(p.song.bars);
  const at = player.last?.playing && s.playing ? barAt(p.song.bars, player.last.atS) : beginBar();
  if (!keepPlace || projectId !== p.id || times !== now) {
    const wasAt = keepPlace && projectId === p.id && s.playing ? bars(times, player.last?.atS ?? 0) : null;
    [projectId, times] = [p.id, now];
    have = new Map();
    player.setPass(empty(length), true);
    if (wasAt !== null) {
      await bring(Math.floor(wasAt));
      const i = Math.floor(wasAt);
      const [a, b] = [secondsAt(p.song.bars, i), secondsAt(p.song.bars, i + 1)];
      player.seek(a + (wasAt - i) * (b - a));
      songPlayer.loop();
      return;
    }
  }
  await bring(Math.floor(at));
  songPlayer.loop();
};

/** The bar of a moment by a table that was told before. */
function bars(told: string, atS: number): number {
  return told === '' ? 0 : barAt(JSON.parse(told) as { tick: number; at: number; bpm: number }[], atS);
}

songPlayer.play = async () => {
  const p = useBench.getState().project;
  if (!p) return;
  if (p.song.end === 0) {
    say({
      title: 'The song is empty',
      detail: 'Lay a pattern on it first: choose one, and press Enter in Song.',
      error: false,
    });
    stop();
    return;
  }
  const bar = beginBar();
  await bring(bar);
  songPlayer.loop();
  await player.play(0, secondsAt(p.song.bars, bar));
};

songPlayer.loop = () => {
  const p = useBench.getState().project;
  const { looped, range } = useSong.getState();
  if (!p || !looped || !range) {
    player.setLoop(null);
    return;
  }
  const [from, to] = [secondsAt(p.song.bars, range.from), secondsAt(p.song.bars, range.to)];
  player.setLoop(to > from ? { from, to, lead: 0.02 } : null);
};

/** Goes to a bar of the song, at once. */
export async function seekBar(bar: number) {
  const s = useBench.getState();
  useSong.setState({ cursor: bar });
  if (!s.song || !s.playing || !s.project) return;
  await bring(bar);
  player.seek(secondsAt(s.project.song.bars, bar));
}

player.listenToAll((r) => {
  const s = useBench.getState();
  if (!s.song || !s.playing || !r.playing || !s.project || s.instead || s.face === 'break') return;
  if (waiting > 0) return;
  if (once() && r.passes > 0) {
    stop();
    return;
  }
  const bar = Math.floor(barAt(s.project.song.bars, r.atS));
  const first = Math.floor(bar / together);
  for (let n = first; n < first + ahead; n++)
    if (n * together < s.project.song.end && have.get(n) !== s.project.revision) {
      void bring(bar).catch((e: unknown) => say(explain(e)));
      break;
    }
});

useSong.subscribe((s, old) => {
  if (s.looped === old.looped && s.range === old.range) return;
  if (useBench.getState().song) {
    songPlayer.loop();
    player.setOnce(once());
  }
});
