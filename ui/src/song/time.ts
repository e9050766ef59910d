// Where in the song what is: bars, ticks and seconds, from the bars the bench tells; where in a pattern the song is.
import type { Project, Song, SongBar } from '../api/client';
import { barAt, tickAt } from '../model/songClock';
import { barTicks } from '../model/time';

/** Bar.beat.quarter-beat of a moment of the song, all from 1. */
export function songPosition(song: Song, atS: number): string {
  const place = barAt(song.bars, atS);
  const bar = Math.floor(place + 1e-6);
  const meter = song.meters.findLast((m) => m.bar <= bar)?.meter ?? { beats: 4, unit: 4 };
  const beats = (place - bar) * meter.beats + 1e-6;
  return `${bar + 1}.${Math.floor(beats) + 1}.${Math.floor((beats % 1) * 4) + 1}`;
}

/** When a bar begins, seconds; beyond the song the end. */
export const secondsAt = (bars: readonly SongBar[], bar: number): number =>
  bars[Math.max(0, Math.min(bars.length - 1, bar))]?.at ?? 0;

/** The tick of a pattern at which it plays in the song's bar; null when it does not play there. */
export function inPattern(p: Project, patternId: string, bar: number): number | null {
  const pattern = p.patterns.find((x) => x.id === patternId)?.value;
  const block = p.blocks.find(
    ({ value: b }) => b.pattern === patternId && !b.muted && b.bar <= bar && bar < b.bar + b.bars,
  )?.value;
  if (!pattern || !block) return null;
  const since = tickAt(p.song.bars, bar) - tickAt(p.song.bars, block.bar);
  return (since + (block.fromBar ?? 0) * barTicks(pattern)) % (pattern.bars * barTicks(pattern));
}
