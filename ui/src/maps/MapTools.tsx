import { Button, Dropdown, Input, type InputRef, Popover, Select } from 'antd';
import { useEffect, useRef, useState } from 'react';
import type { Project } from '../api/client';
import { chooseMiddleC, useBench } from '../app/state';
import { usePorts } from '../player/midi';
import {
  hideUnused,
  listenFor,
  listenForLanes,
  nameLane,
  showAll,
  stepListening,
  stopListening,
  useMaps,
} from './state';

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
    <div className="tools pending besidesaved" data-id="listening">
      <b style={{ flex: 'none' }}>
        {l.make
          ? `Strike every key that needs a lane (${l.at} so far)`
          : `Strike the key for ${lane?.name ?? ''}`}
      </b>
      <span className="lab ellipsis" role="status" style={{ minWidth: 0, flex: 1 }}>
        {l.notes.length > 1 ? `${l.at + 1} of ${l.notes.length}. ` : ''}
        {l.word ||
          (quiet
            ? `Nothing came${ports.inputs.length === 0 ? '; no MIDI input is connected' : ''}. Strike a pad below, press Z to K, or click a note in the comb.`
            : 'A key of a MIDI keyboard, Z to K, a pad, or a note in the comb.')}
      </span>
      {l.notes.length > 1 && (
        <>
          <Button
            ghost
            data-id="listen-back"
            title="The lane before (←)"
            disabled={l.at === 0}
            onClick={() => stepListening(-1)}
          >
            Back
          </Button>
          <Button
            ghost
            data-id="listen-skip"
            title="Leave this lane its note (→)"
            onClick={() => stepListening(1)}
          >
            Skip
          </Button>
        </>
      )}
      <Button data-id="listen-stop" title="Stop listening (Esc)" onClick={stopListening}>
        Stop
      </Button>
    </div>
  );
}

/** Asks what a new lane is called: a name that says a drum gives it role, code, colour and note. */
function NewLane() {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState('');
  const field = useRef<InputRef>(null);
  const make = () => {
    setOpen(false);
    setName('');
    void nameLane(name.trim());
  };
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomRight"
      afterOpenChange={(now) => {
        if (now) field.current?.focus();
      }}
      content={
        <div style={{ width: 250 }}>
          <Input
            ref={field}
            aria-label="Name of the new lane"
            data-id="new-lane-name"
            placeholder="Deep kick, open hat, frog…"
            maxLength={100}
            value={name}
            onChange={(e) => setName(e.target.value)}
            onPressEnter={make}
          />
          <p className="lab" style={{ whiteSpace: 'normal', margin: '6px 0' }}>
            A name that says a drum brings its role, code, colour and a free note with it. All of them can be
            changed after.
          </p>
          <Button type="primary" data-id="make-lane" onClick={make}>
            Make the lane
          </Button>
        </div>
      }
    >
      <Button data-id="add-lane">+ Lane</Button>
    </Popover>
  );
}

export function MapTools({ project }: { project: Project }) {
  const all = useMaps((s) => s.all);
  const savedOpen = useMaps((s) => s.savedOpen);
  const middleC = useBench((s) => s.middleC);
  return (
    <div className="tools besidesaved">
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
      <NewLane />
      <Button
        className="narrowonly"
        data-id="saved-maps"
        aria-expanded={savedOpen}
        onClick={() => useMaps.setState({ savedOpen: !savedOpen })}
      >
        Saved maps
      </Button>
    </div>
  );
}
