// The waveform of a recording in its block of the song, with how it comes and goes.
import { useCallback } from 'react';
import { api, type Recording, type Song, type SongBlock, type Wave } from '../api/client';
import { useAnswer } from '../app/useAnswer';
import { secondsAt } from './time';

const high = 26;
const columns = 400;

/** When a bar of a recording begins, by its grid, seconds. */
function barBegins({ beats, heard }: Recording, bar: number): number {
  const beat = bar * heard.meter.beats;
  const beatS = (60 / heard.bpm) * (4 / heard.meter.unit);
  return beats[beat] ?? (beats.at(-1) ?? heard.barOneS) + Math.max(0, beat - beats.length + 1) * beatS;
}

export function BlockWave({
  recording,
  block,
  width,
  song,
}: {
  recording: Recording;
  block: SongBlock;
  width: number;
  song: Song;
}) {
  const { audio } = recording;
  const from = barBegins(recording, block.fromBar ?? 0);
  const seconds = secondsAt(song.bars, block.bar + block.bars) - secondsAt(song.bars, block.bar);
  const to = block.free ? from + seconds : barBegins(recording, (block.fromBar ?? 0) + block.bars);
  const wave = useAnswer(
    useCallback(async (): Promise<Wave | null> => {
      const path = { hash: audio };
      const s = await api.getSample({ path }).catch(() => null); // not described yet
      if (!s) return null;
      const [start, end] = [
        Math.max(0, Math.round(from * s.rate)),
        Math.min(s.frames, Math.round(to * s.rate)),
      ];
      return end - start < columns ? null : api.drawSample({ path, query: { start, end, columns } });
    }, [audio, from, to]),
  );
  const top = Math.max(1e-3, ...(wave?.high ?? []), ...(wave?.low ?? []).map((v) => -v));
  const x = (s: number) => (Math.min(1, s / Math.max(seconds, 1e-6)) * columns).toFixed(1);
  return (
    <svg
      className="blockwave"
      width={width}
      height="100%"
      viewBox={`0 0 ${columns} ${high}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path
        d={(wave?.high ?? [])
          .map((v, i) => {
            const [a, b] = [v / top, (wave?.low[i] ?? 0) / top].map((y) => (high / 2) * (1 - y * 0.9));
            return `M${i},${a?.toFixed(1)}V${b?.toFixed(1)}`;
          })
          .join('')}
        stroke="var(--ink-3)"
        fill="none"
      />
      {(block.fadeIn ?? 0) > 0 && (
        <path d={`M0,${high}L${x(block.fadeIn ?? 0)},0`} stroke="var(--ink)" fill="none" />
      )}
      {(block.fadeOut ?? 0) > 0 && (
        <path
          d={`M${x(seconds - (block.fadeOut ?? 0))},0L${columns},${high}`}
          stroke="var(--ink)"
          fill="none"
        />
      )}
    </svg>
  );
}
