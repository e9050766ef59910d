// How one lane hears: by itself in a band, above a threshold, or as the recording was first heard.
import { NumberField } from '../app/NumberField';
import { Button, Slider, Switch } from 'antd';
import { useEffect, useState } from 'react';
import type { Lane, Listener, Recording } from '../api/client';
import { setHearing, useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { player } from '../player/player';
import { doubts, keepListener, tryListener, useBreak } from './state';

const none: Listener = { loHz: 0, hiHz: 0, openDB: 0, closeDB: 0, gapMS: 0, off: false };

/** The level of the band where it plays now. */
function Meter({ r, levels }: { r: Recording; levels: number[] }) {
  const [db, setDB] = useState(-90);
  useEffect(
    () =>
      player.listen((m) => {
        const span = r.endS - r.heard.barOneS;
        const i = Math.floor((m.atS / span) * levels.length);
        setDB(m.playing ? (levels[i] ?? -90) : -90);
      }),
    [r, levels],
  );
  return (
    <div className="bandmeter" title="Level of the band where it plays">
      <div style={{ width: `${Math.max(0, ((db + 60) / 60) * 100)}%` }} />
    </div>
  );
}

export function ListenerPanel({ lane, r }: { lane: Lane; r: Recording }) {
  const trial = useBreak((s) => (s.trying?.of === r.id && s.trying.lane === lane.note ? s.trying : null));
  const trying = trial?.heard ?? null;
  const band = useBench((s) => s.hearing.band);
  const kept = r.heard.listeners?.[lane.note];
  const now = trying?.listener ?? kept;
  const hits = r.heard.hits.filter((h, i) => r.lanes[i] === lane.note && h.state !== 'out');
  const weak = doubts(r).filter(({ i }) => r.lanes[i] === lane.note).length;
  const change = (to: Partial<Listener>) => {
    const next = { ...(now ?? none), ...to };
    if (next.closeDB > next.openDB) {
      if (to.openDB === undefined) next.openDB = next.closeDB;
      else next.closeDB = next.openDB;
    }
    void tryListener(r, lane.note, next);
    if (band && next.loHz > 0 && (to.loHz ?? to.hiHz)) setHearing({ band: [next.loHz, next.hiHz] });
  };
  const count = trying ? trying.strikes.length : hits.length;
  return (
    <div className="stripside listener" data-id="listener">
      <div className="row">
        <Chip code={lane.code} family={lane.color} />
        <span className="ttl ellipsis grow">Listen for {lane.name}</span>
        <Switch
          size="small"
          aria-label={`Hear ${lane.name}`}
          checked={!now?.off}
          onChange={(on) =>
            keepListener(
              r,
              lane.note,
              on ? (kept && !kept.off ? kept : null) : { ...(kept ?? sensible), off: true },
            )
          }
        />
      </div>
      {now && !now.off ? (
        <>
          <div className="row">
            <span className="lab">Band</span>
            <Slider
              range
              className="grow"
              min={0}
              max={100}
              tooltip={{ open: false }}
              ariaLabelForHandle={['Band from', 'Band to']}
              value={[place(now.loHz), place(now.hiHz)]}
              onChange={([a, b]: number[]) =>
                change({ loHz: hz(a ?? 0), hiHz: Math.max(hz(b ?? 100), hz(a ?? 0) * 1.2) })
              }
            />
            <span className="num">
              {brief(now.loHz)}–{brief(now.hiHz)}
            </span>
          </div>
          {(
            [
              ['Opens at', 'openDB'],
              ['Closes at', 'closeDB'],
            ] as const
          ).map(([label, k]) => (
            <div key={k} className="row">
              <span className="lab">{label}</span>
              <Slider
                className="grow"
                min={-60}
                max={-1}
                value={now[k]}
                tooltip={{ open: false }}
                ariaLabelForHandle={label}
                onChange={(v: number) => change({ [k]: v })}
              />
              <span className="num">{now[k]} dB</span>
            </div>
          ))}
          <Meter r={r} levels={trying?.levels ?? []} />
          <div className="row">
            <span className="lab">Gap</span>
            <NumberField
              size="small"
              style={{ width: 58 }}
              name="Minimum gap, ms"
              min={0}
              max={500}
              value={now.gapMS}
              set={(gapMS) => gapMS !== null && change({ gapMS })}
            />
            <span className="muted">ms</span>
            {trying && (trying.openDB !== now.openDB || trying.closeDB !== now.closeDB) && (
              <Button
                size="small"
                title="What the levels of this band suggest"
                onClick={() => change({ openDB: trying.openDB, closeDB: trying.closeDB })}
              >
                {trying.openDB} dB?
              </Button>
            )}
          </div>
        </>
      ) : (
        <div className="row">
          <span className="lab wraps">
            {now?.off
              ? 'Not listened to: no hit of this lane is kept.'
              : 'Heard by what the stroke is like, with the whole recording in mind.'}
          </span>
        </div>
      )}
      <div className="row foot">
        {trying ? (
          <>
            <Button
              size="small"
              type="primary"
              data-id="keep-listener"
              onClick={() => keepListener(r, lane.note, trying.listener)}
            >
              Keep
            </Button>
            <Button size="small" onClick={() => useBreak.setState({ trying: null })}>
              Put back
            </Button>
          </>
        ) : kept ? (
          <Button
            size="small"
            title="As the whole recording was first heard"
            onClick={() => keepListener(r, lane.note, null)}
          >
            As first heard
          </Button>
        ) : (
          <Button
            size="small"
            data-id="own-listener"
            title="A band and thresholds of this lane’s own"
            onClick={() => void tryListener(r, lane.note, none)}
          >
            By level…
          </Button>
        )}
        {now && !now.off && (
          <Button
            size="small"
            type={band ? 'primary' : 'default'}
            title="The recording’s band alone"
            onClick={() => setHearing({ band: band ? null : [now.loHz, now.hiHz] })}
          >
            Hear band
          </Button>
        )}
        <span className="grow" />
        <span className="lab" data-id="lane-count" aria-busy={trial?.behind ?? false}>
          {count === 1 ? '1 hit' : `${count} hits`}
          {!trying && weak > 0 ? `, ${weak}?` : ''}
        </span>
      </div>
    </div>
  );
}

const sensible: Listener = { loHz: 100, hiHz: 8000, openDB: -18, closeDB: -26, gapMS: 45, off: false };

/** A frequency's place on a slider from 20 to 20,000 Hz, evenly by octaves. */
const place = (f: number) => (100 * Math.log(f / 20)) / Math.log(1000);
const hz = (p: number) => {
  const f = 20 * 1000 ** (p / 100);
  return f > 1000 ? Math.round(f / 50) * 50 : Math.round(f);
};
const brief = (f: number) =>
  f >= 1000 ? `${(f / 1000).toFixed(f % 1000 === 0 ? 0 : 1)}k` : String(Math.round(f));
