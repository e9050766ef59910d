// Editing the drum map: every lane a row of what it is called, looks like and answers to.
import { Button } from 'antd';
import { useEffect } from 'react';
import type { Project } from '../api/client';
import { Transport } from '../app/Transport';
import { strike, useBench } from '../app/state';
import { useSize } from '../app/useSize';
import { MapBar } from '../lanes/MapBar';
import { Chip } from '../lanes/marks';
import { noteName } from '../lanes/time';
import { midiOut, onMidiNote } from '../player/midi';
import { Comb } from './Comb';
import { Checks, Missing, Plays } from './MapChecks';
import { MapRow } from './MapRow';
import { ListenBand, MapTools } from './MapTools';
import { SavedMaps, savedW } from './SavedMaps';
import { addLane, stopEditing, take, useMaps } from './state';

export function MapFace({ project }: { project: Project }) {
  const chosen = useMaps((s) => s.chosen);
  const listening = useMaps((s) => s.listening);
  const all = useMaps((s) => s.all);
  const lane = useBench((s) => s.lane);
  const [ref, size] = useSize<HTMLDivElement>();
  const hits = new Map<number, number>();
  for (const p of project.patterns)
    for (const h of p.value.hits) hits.set(h.note, (hits.get(h.note) ?? 0) + 1);
  useEffect(() => {
    void midiOut.ask();
    const off = onMidiNote((note, velocity) => {
      if (useMaps.getState().listening) take(note);
      else strike(note, velocity);
    });
    const strikes = useBench.subscribe((s, old) => {
      const struck = s.strikes[0];
      if (struck && struck !== old.strikes[0] && useMaps.getState().listening) take(struck.note);
    });
    return () => {
      off();
      strikes();
    };
  }, []);
  const { lanes } = project.map;
  const layersOf = (note: number) => project.kit.pads.find((p) => p.note === note)?.layers.length ?? 0;
  const width = size.width - savedW;
  return (
    <>
      <MapBar project={project} done={stopEditing} />
      {listening ? <ListenBand key={listening.since} project={project} /> : <MapTools project={project} />}
      <Transport />
      <div className="crown" ref={ref}>
        <Comb project={project} width={width} />
        <SavedMaps project={project} />
      </div>
      <div className="lanehead">
        <span className="lab" style={{ left: 12 }}>
          As it is shown
        </span>
      </div>
      <div className="ruler maphead" style={{ marginRight: savedW }}>
        {(
          [
            [62, 'Colour'],
            [108, 'Code'],
            [152, 'Name'],
            [280, 'Note'],
            [430, 'Role'],
            [536, 'Sounds'],
            [628, 'Hits'],
            [662, 'Shown'],
          ] as const
        ).map(([left, name]) => (
          <span key={name} className="lab" style={{ left }}>
            {name}
          </span>
        ))}
      </div>
      <div className="lanesrow maprows">
        {all
          ? Array.from({ length: 128 }, (_, i) => 127 - i).map((n) => {
              const l = lanes.find((x) => x.note === n);
              return (
                <div key={n} style={{ display: 'contents' }}>
                  <div className={`lane ${l ? `f-${l.color}` : ''}`} data-note={n}>
                    <button
                      type="button"
                      className="pad"
                      aria-label={`Strike note ${n}`}
                      onPointerDown={() => strike(n, 100)}
                    >
                      <Chip code={l?.code ?? String(n)} family={l?.color ?? 'other'} dashed={!l} />
                    </button>
                    <span className="nm">{l?.name ?? <span className="lab">no lane</span>}</span>
                    <span className="nt">
                      <i>{n}</i>
                      {noteName(n)}
                    </span>
                  </div>
                  {l ? (
                    <MapRow
                      lane={l}
                      hits={hits.get(n) ?? 0}
                      layers={layersOf(n)}
                      waiting={listening?.notes[listening.at] === n}
                      chosen={chosen.includes(n)}
                      selected={n === lane}
                      first
                      last
                    />
                  ) : (
                    <div className="maprow">
                      <Button size="small" type="text" onClick={() => void addLane(n)}>
                        Make a lane on {n} {noteName(n)}
                      </Button>
                    </div>
                  )}
                </div>
              );
            })
          : lanes.map((l, i) => (
              <div key={l.note} style={{ display: 'contents' }}>
                <div
                  className={`lane f-${l.color} ${l.note === lane ? 'sel' : ''} ${l.shown ? '' : 'hid'}`}
                  data-note={l.note}
                >
                  <button
                    type="button"
                    className="pad"
                    aria-label={`Strike ${l.name}`}
                    onPointerDown={() => strike(l.note, 100)}
                  >
                    <Chip code={l.code} family={l.color} dashed={layersOf(l.note) === 0} />
                  </button>
                  <span className="nm">{l.name}</span>
                  <span className="nt">
                    <i>{l.note}</i>
                    {noteName(l.note)}
                  </span>
                </div>
                <MapRow
                  lane={l}
                  hits={hits.get(l.note) ?? 0}
                  layers={layersOf(l.note)}
                  waiting={listening?.notes[listening.at] === l.note}
                  chosen={chosen.includes(l.note)}
                  selected={l.note === lane}
                  first={i === 0}
                  last={i === lanes.length - 1}
                />
              </div>
            ))}
      </div>
      <Checks project={project} hits={hits} />
      <div className="strip row" style={{ alignItems: 'stretch', marginRight: savedW, overflow: 'hidden' }}>
        <Missing project={project} />
        <Plays project={project} />
      </div>
    </>
  );
}
