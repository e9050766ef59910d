// Editing the drum map: every lane a row of what it is called, looks like and answers to.
import { Button } from 'antd';
import { NoteName } from '../lanes/NoteName';
import { memo, useEffect } from 'react';
import type { Lane, Project } from '../api/client';
import { Transport } from '../app/Transport';
import { strike, useBench } from '../app/state';
import { useSize } from '../app/useSize';
import { MapBar } from '../lanes/MapBar';
import { Chip } from '../lanes/marks';
import { sameRow } from '../lanes/same';
import { midiOut, onMidiNote } from '../player/midi';
import { Comb } from './Comb';
import { Checks, Missing, Plays } from './MapChecks';
import { MapRow } from './MapRow';
import { ListenBand, MapTools } from './MapTools';
import { SavedMaps } from './SavedMaps';
import { addLane, stopEditing, useMaps } from './state';

/** A lane as it is shown in the column, beside the row that edits it. */
const Shown = memo(function Shown({
  note,
  lane,
  sounds,
  selected,
}: {
  note: number;
  lane: Lane | undefined;
  sounds: boolean;
  selected: boolean;
}) {
  const hidden = lane !== undefined && !lane.shown;
  return (
    <div
      className={`lane f-${lane?.color ?? 'other'} ${selected ? 'sel' : ''} ${hidden ? 'hid' : ''}`}
      data-note={note}
    >
      <button
        type="button"
        className="pad"
        aria-label={lane ? `${lane.code}, strike ${lane.name}` : `${note}, strike this note`}
        onPointerDown={() => strike(note, 100)}
      >
        <Chip code={lane?.code ?? String(note)} family={lane?.color ?? 'other'} dashed={!sounds} />
      </button>
      <span className="nm">{lane?.name ?? <span className="lab">no lane</span>}</span>
      <span className="nt">
        <i>{note}</i>
        <NoteName note={note} />
      </span>
    </div>
  );
}, sameRow);

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
    return onMidiNote(strike);
  }, []);
  useEffect(() => {
    if (all)
      document
        .querySelector(`[data-maprow="${useBench.getState().lane}"]`)
        ?.scrollIntoView({ block: 'center' });
  }, [all]);
  const { lanes } = project.map;
  const layersOf = (note: number) => project.kit.pads.find((p) => p.note === note)?.layers.length ?? 0;
  const rows = all ? Array.from({ length: 128 }, (_, i) => 127 - i) : lanes.map((l) => l.note);
  return (
    <>
      <MapBar project={project} done={stopEditing} />
      {listening ? <ListenBand key={listening.since} project={project} /> : <MapTools project={project} />}
      <Transport />
      <div className="crown">
        <Comb project={project} width={size.width} />
        <SavedMaps project={project} />
      </div>
      <div className="lanehead">
        <span className="lab" style={{ left: 12 }}>
          As it is shown
        </span>
      </div>
      <div className="ruler maphead besidesaved" ref={ref}>
        {(
          [
            [100, 'Colour'],
            [148, 'Code'],
            [191, 'Name'],
            [308, 'Note'],
            [441, 'Role'],
            [542, 'Sounds'],
            [632, 'Hits'],
            [662, 'Shown'],
          ] as const
        ).map(([left, name]) => (
          <span key={name} className="lab" style={{ left }}>
            {name}
          </span>
        ))}
      </div>
      <div className="lanesrow maprows">
        {rows.map((n, i) => {
          const l = lanes.find((x) => x.note === n);
          return (
            <div key={n} style={{ display: 'contents' }}>
              <Shown note={n} lane={l} sounds={layersOf(n) > 0} selected={n === lane} />
              {l ? (
                <MapRow
                  lane={l}
                  hits={hits.get(n) ?? 0}
                  layers={layersOf(n)}
                  waiting={listening?.notes[listening.at] === n}
                  chosen={chosen.includes(n)}
                  selected={n === lane}
                  first={all || i === 0}
                  last={all || i === lanes.length - 1}
                />
              ) : (
                <div className="maprow">
                  <Button size="small" type="text" onClick={() => void addLane(n)}>
                    Make a lane on {n} <NoteName note={n} />
                  </Button>
                </div>
              )}
            </div>
          );
        })}
      </div>
      <Checks project={project} hits={hits} />
      <div className="strip row besidesaved" style={{ alignItems: 'stretch', overflow: 'hidden' }}>
        <Missing project={project} />
        <Plays project={project} />
      </div>
    </>
  );
}
