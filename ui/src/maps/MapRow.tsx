// One lane of the map as it is edited: colour, code, name, note, role.
import { DownOutlined, EyeInvisibleOutlined, EyeOutlined, UpOutlined } from '@ant-design/icons';
import { Button, Checkbox, Input, Popover, Select } from 'antd';
import { memo, useRef, useState } from 'react';
import type { Lane } from '../api/client';
import { useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { sameRow } from '../lanes/same';
import { noteName, parseNote } from '../model/time';
import { changeLanes, giveNote, listenFor, mapNow, moveLane, stopListening, useMaps } from './state';

const families: [string, string][] = [
  ['cym', 'cymbals'],
  ['hat', 'hats'],
  ['perc', 'percussion'],
  ['other', 'other'],
  ['clap', 'clap, rim'],
  ['tom', 'toms'],
  ['snare', 'snare'],
  ['kick', 'kick'],
];

export const roles = [
  'crash',
  'cymbal',
  'ride',
  'open hat',
  'pedal hat',
  'closed hat',
  'shaker',
  'tambourine',
  'cowbell',
  'percussion',
  'other',
  'rim',
  'clap',
  'high tom',
  'mid tom',
  'low tom',
  'snare',
  'kick',
];

const lanesNow = () => mapNow().lanes;

export function Colours({ lane, notes }: { lane: Lane; notes: number[] }) {
  const set = (color: string) =>
    void changeLanes(
      notes,
      { color },
      notes.length > 1 ? `Colour of ${notes.length} lanes` : `Colour of ${lane.name}`,
    );
  const palette = (
    <div className="palette" data-id="palette">
      {families.map(([f, name]) => (
        <button
          key={f}
          type="button"
          className={`f-${f} ${f === lane.color ? 'on' : ''}`}
          onClick={() => set(f)}
        >
          <Chip code="" family={f} />
          {name}
        </button>
      ))}
      <label className="row">
        <input
          type="color"
          aria-label="A colour of your own"
          defaultValue={lane.color.startsWith('#') ? lane.color : '#8a6fd1'}
          onBlur={(e) => set(e.target.value)}
        />
        your own: edges and letters are made to show
      </label>
    </div>
  );
  return (
    <Popover trigger="click" placement="bottomLeft" content={palette}>
      <button type="button" className="colour" aria-label={`Colour of ${lane.name}`} data-id="colour">
        <Chip code="" family={lane.color} w={22} h={18} />
        <DownOutlined style={{ fontSize: 8 }} />
      </button>
    </Popover>
  );
}

export const MapRow = memo(function MapRow({
  lane,
  hits,
  layers,
  waiting,
  chosen,
  selected,
  last,
  first,
}: {
  lane: Lane;
  hits: number;
  layers: number;
  waiting: boolean;
  chosen: boolean;
  selected: boolean;
  first: boolean;
  last: boolean;
}) {
  useBench((s) => s.middleC); // names follow it
  const [name, setName] = useState<string | null>(null);
  const [code, setCode] = useState<string | null>(null);
  const [note, setNote] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const row = useRef<HTMLDivElement>(null);
  const bad = note !== null && parseNote(note) === null;
  return (
    <div
      ref={row}
      className={`maprow f-${lane.color} ${selected ? 'sel' : ''} ${lane.shown ? '' : 'hid'} ${over ? 'over' : ''}`}
      data-maprow={lane.note}
      onPointerDown={() => useBench.setState({ lane: lane.note })}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes('application/x-hexachord-lane')) return;
        e.preventDefault();
        e.stopPropagation();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        setOver(false);
        const from = Number(e.dataTransfer.getData('application/x-hexachord-lane'));
        const all = lanesNow();
        void moveLane(
          from,
          all.findIndex((l) => l.note === lane.note) - all.findIndex((l) => l.note === from),
        );
      }}
      onKeyDown={(e) => {
        if (!e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return;
        e.preventDefault();
        void moveLane(lane.note, e.key === 'ArrowUp' ? -1 : 1);
      }}
    >
      <Checkbox
        checked={chosen}
        aria-label={`Choose ${lane.name}`}
        onChange={() =>
          useMaps.setState((s) => ({
            chosen: chosen ? s.chosen.filter((n) => n !== lane.note) : [...s.chosen, lane.note],
          }))
        }
      />
      <span
        className="grip"
        draggable
        title="Drag to another place (Alt+↑ ↓)"
        onDragStart={(e) => {
          e.dataTransfer.setData('application/x-hexachord-lane', String(lane.note));
          if (row.current) e.dataTransfer.setDragImage(row.current, 10, 10);
        }}
      >
        ⠿
      </span>
      <span className="updown">
        <button
          type="button"
          disabled={first}
          aria-label={`${lane.name} up`}
          onClick={() => void moveLane(lane.note, -1)}
        >
          <UpOutlined />
        </button>
        <button
          type="button"
          disabled={last}
          aria-label={`${lane.name} down`}
          onClick={() => void moveLane(lane.note, 1)}
        >
          <DownOutlined />
        </button>
      </span>
      <Colours lane={lane} notes={[lane.note]} />
      <Input
        size="small"
        style={{ width: 38, fontWeight: 650 }}
        aria-label={`Code of ${lane.name}`}
        data-id="lane-code"
        maxLength={2}
        value={code ?? lane.code}
        onChange={(e) => setCode(e.target.value.toUpperCase())}
        onBlur={() => {
          const next = code?.trim();
          setCode(null);
          if (!next || next === lane.code) return;
          const taken = lanesNow().some((l) => l.code === next);
          void changeLanes(
            [lane.note],
            { code: taken ? (useBench.getState().project?.codes[lane.note] ?? next) : next },
            `Code of ${lane.name}`,
          );
        }}
        onPressEnter={(e) => e.currentTarget.blur()}
      />
      <Input
        size="small"
        style={{ width: 112 }}
        aria-label={`Name of the lane on note ${lane.note}`}
        data-id="lane-name"
        maxLength={100}
        value={name ?? lane.name}
        onChange={(e) => setName(e.target.value)}
        onBlur={() => {
          const next = name?.trim();
          setName(null);
          if (next && next !== lane.name) void changeLanes([lane.note], { name: next }, `Name ${next}`);
        }}
        onPressEnter={(e) => e.currentTarget.blur()}
      />
      {waiting ? (
        <span className="strikenow">Strike a key</span>
      ) : (
        <Input
          size="small"
          className="num"
          style={{ width: 78 }}
          status={bad ? 'error' : ''}
          title={
            bad
              ? 'A number from 0 to 127, or a name like C2 or F#3'
              : `A number or a name, middle C is ${noteName(60)}`
          }
          aria-label={`Note of ${lane.name}`}
          data-id="lane-note"
          value={note ?? `${lane.note} ${noteName(lane.note)}`}
          onFocus={() => setNote(String(lane.note))}
          onChange={(e) => setNote(e.target.value)}
          onBlur={() => {
            const next = note === null ? null : parseNote(note);
            setNote(null);
            if (next !== null) void giveNote(lane.note, next);
          }}
          onPressEnter={(e) => e.currentTarget.blur()}
        />
      )}
      <Button
        size="small"
        type={waiting ? 'primary' : 'default'}
        title="Strike a key or a pad to give its note"
        aria-label={
          waiting ? `× leave ${lane.name} the note it has` : `strike: give ${lane.name} a note by striking it`
        }
        data-id="lane-strike"
        onClick={() => (waiting ? stopListening() : listenFor([lane.note]))}
      >
        {waiting ? '×' : 'strike'}
      </Button>
      <Select
        size="small"
        style={{ width: 96 }}
        aria-label={`Role of ${lane.name}`}
        value={lane.role}
        options={roles.map((r) => ({ value: r, label: r }))}
        onChange={(role: string) => void changeLanes([lane.note], { role }, `Role of ${lane.name}`)}
      />
      <span className="check">
        {layers === 0 ? (
          <span className="tag doubt">? no sound</span>
        ) : (
          <span className="lab">{layers} layers</span>
        )}
      </span>
      <span className="num hits">{hits}</span>
      <button
        type="button"
        className="eye"
        aria-pressed={lane.shown}
        aria-label={lane.shown ? `Hide ${lane.name}` : `Show ${lane.name}`}
        onClick={() =>
          void changeLanes(
            [lane.note],
            { shown: !lane.shown },
            `${lane.shown ? 'Hide' : 'Show'} ${lane.name}`,
          )
        }
      >
        {lane.shown ? <EyeOutlined /> : <EyeInvisibleOutlined />}
      </button>
    </div>
  );
}, sameRow);
