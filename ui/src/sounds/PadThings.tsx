// Pads as things: copied, moved, swapped by menu or by dragging a row to another, and spread over notes.
import { Button, InputNumber, Modal } from 'antd';
import { useState } from 'react';
import type { Lane, Project } from '../api/client';
import { edit, useBench } from '../app/state';
import { useSounds } from './state';

/** Brings a pad with all its settings to another note, and shows it there. */
export function movePad(from: number, to: number, how: 'copy' | 'move' | 'swap') {
  useSounds.setState({ moving: null });
  useBench.setState({ lane: to });
  void edit([{ movePad: { from, to, how } }]);
}

/** A pad was dragged to another lane: what becomes of the two. */
export function AskMove({ project }: { project: Project }) {
  const moving = useSounds((s) => s.moving);
  if (!moving) return null;
  const name = (note: number) => project.map.lanes.find((l) => l.note === note)?.name ?? `note ${note}`;
  const full = project.kit.pads.some((p) => p.note === moving.to && p.layers.length > 0);
  const go = (how: 'copy' | 'move' | 'swap') => movePad(moving.from, moving.to, how);
  return (
    <Modal
      open
      onCancel={() => useSounds.setState({ moving: null })}
      footer={null}
      width={460}
      title={`${name(moving.from)} to ${name(moving.to)}`}
    >
      <div className="asks">
        {full && (
          <>
            <Button data-id="pad-swap" type="primary" autoFocus onClick={() => go('swap')}>
              Swap the two
            </Button>
            <span>each sounds on the other’s note, with all its settings</span>
          </>
        )}
        <Button
          data-id="pad-move"
          type={full ? 'default' : 'primary'}
          autoFocus={!full}
          onClick={() => go('move')}
        >
          Move it
        </Button>
        <span>
          {name(moving.from)} is empty then{full ? `, and the sounds of ${name(moving.to)} come off` : ''}
        </span>
        <Button data-id="pad-copy" onClick={() => go('copy')}>
          Copy it
        </Button>
        <span>both sound the same{full ? `; the sounds of ${name(moving.to)} come off` : ''}</span>
      </div>
      <p className="lab" style={{ marginBottom: 0 }}>
        Lanes, hits and notes stay as they are; undo brings the pads back.
      </p>
    </Modal>
  );
}

function Count(p: {
  name: string;
  value: number;
  set: (v: number) => void;
  min: number;
  max: number;
  step?: number;
}) {
  return (
    <label className="row">
      <span style={{ width: 150 }}>{p.name}</span>
      <InputNumber
        size="small"
        style={{ width: 70 }}
        aria-label={p.name}
        min={p.min}
        max={p.max}
        step={p.step ?? 1}
        value={p.value}
        onChange={(v) => v !== null && p.set(v)}
      />
    </label>
  );
}

/** One sound over several notes, each tuned a step from the next. */
export function SpreadPad({ lane, close }: { lane: Lane; close: () => void }) {
  const [notes, setNotes] = useState(6);
  const [step, setStep] = useState(2);
  const [below, setBelow] = useState(2);
  const under = Math.min(below, notes - 1);
  const tunes = Array.from({ length: notes }, (_, i) => (i - under) * step);
  return (
    <Modal
      open
      title={`Spread ${lane.name} over notes`}
      okText={`Make ${notes - 1} lanes`}
      width={420}
      onCancel={close}
      okButtonProps={{ 'data-id': 'spread-pad' }}
      onOk={() => {
        close();
        void edit([{ spreadPad: { note: lane.note, count: notes - 1, step, below: under } }]);
      }}
    >
      <div style={{ display: 'grid', gap: 6 }}>
        <Count name="Notes in all" value={notes} set={setNotes} min={2} max={25} />
        <Count name="Semitones a step" value={step} set={setStep} min={-12} max={12} step={0.5} />
        <Count name="Of them below it" value={below} set={setBelow} min={0} max={24} />
      </div>
      <p className="lab" style={{ whiteSpace: 'normal' }}>
        Tuned {tunes.map((t) => `${t > 0 ? '+' : ''}${t}`).join(', ')}. Each has a lane of its own, with every
        layer and setting of {lane.name}.
      </p>
    </Modal>
  );
}
