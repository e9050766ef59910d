import { Button, Dropdown, Select } from 'antd';
import { useEffect, useState } from 'react';
import type { Project } from '../api/client';
import { chooseMiddleC, useBench } from '../app/state';
import { usePorts } from '../player/midi';
import { savedW } from './SavedMaps';
import { addLane, hideUnused, listenFor, listenForLanes, showAll, stepListening, useMaps } from './state';

/** What a lane that waits for a note is told. */
export function ListenBand({ project }: { project: Project }) {
  const l = useMaps((s) => s.listening);
  const ports = usePorts();
  const [quiet, setQuiet] = useState(false);
  useEffect(() => {
    const off = setTimeout(() => setQuiet(true), 6000);
    return () => clearTimeout(off);
  }, []);
  if (!l) return null;
  const lane = project.map.lanes.find((x) => x.note === l.notes[l.at]);
  return (
    <div className="tools pending" data-id="listening" style={{ marginRight: savedW }}>
      <b>
        {l.make
          ? `Strike every key that needs a lane (${l.at} so far)`
          : `Strike the key for ${lane?.name ?? ''}`}
      </b>
      <span className="lab">
        {l.notes.length > 1 ? `${l.at + 1} of ${l.notes.length}; ` : ''}
        {quiet
          ? `Nothing came. That key sends no note here${ports.inputs.length === 0 ? ', and no MIDI input is connected' : ''}; strike a pad, or click a note in the comb.`
          : 'a key of a MIDI keyboard, a pad, or a note in the comb'}
      </span>
      <span className="grow" />
      {l.notes.length > 1 && (
        <>
          <Button ghost disabled={l.at === 0} onClick={() => stepListening(-1)}>
            Back
          </Button>
          <Button ghost onClick={() => stepListening(1)}>
            Skip
          </Button>
        </>
      )}
      <Button onClick={() => useMaps.setState({ listening: null })}>Stop</Button>
    </div>
  );
}

export function MapTools({ project }: { project: Project }) {
  const all = useMaps((s) => s.all);
  const middleC = useBench((s) => s.middleC);
  return (
    <div className="tools" style={{ marginRight: savedW }}>
      <b>Editing the map</b>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'sound', label: 'Hide all without a sound' },
            { key: 'pattern', label: 'Hide all unused by this pattern' },
            { key: 'project', label: 'Hide all unused by the project' },
            { key: 'all', label: 'Show every lane' },
          ],
          onClick: ({ key }) => void (key === 'all' ? showAll() : hideUnused(project, key as 'sound')),
        }}
      >
        <Button data-id="hide-menu">Show, hide…</Button>
      </Dropdown>
      <Button
        type={all ? 'primary' : 'default'}
        title="Every note, lane or no lane (K)"
        data-id="all-notes"
        onClick={() => useMaps.setState({ all: !all })}
      >
        128 notes
      </Button>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'bank', label: 'Give the lowest sixteen lanes their notes, one after another' },
            { key: 'make', label: 'Make a lane of every key struck' },
          ],
          onClick: ({ key }) => {
            if (key === 'make') listenForLanes();
            else
              listenFor(
                project.map.lanes
                  .map((l) => l.note)
                  .toReversed()
                  .slice(0, 16),
              );
          },
        }}
      >
        <Button data-id="strike-menu">Strike…</Button>
      </Dropdown>
      <span className="lab">Middle C</span>
      <Select
        size="small"
        style={{ width: 56 }}
        aria-label="Middle C is"
        value={middleC}
        options={[3, 4, 5].map((o) => ({ value: o, label: `C${o}` }))}
        onChange={chooseMiddleC}
      />
      <span className="grow" />
      <Button
        data-id="add-lane"
        onClick={() => {
          const free = Array.from({ length: 128 }, (_, i) => (i + 36) % 128).find(
            (n) => !project.map.lanes.some((l) => l.note === n),
          );
          if (free !== undefined) void addLane(free);
        }}
      >
        + Lane
      </Button>
    </div>
  );
}
