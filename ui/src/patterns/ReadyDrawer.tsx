// Ready patterns: found and heard on this kit while the beat plays.
import { CaretRightOutlined, CloseOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Input, Switch } from 'antd';
import { useEffect, useMemo } from 'react';
import type { Lane, Project, ReadyPattern } from '../api/client';
import { LongList } from '../app/LongList';
import { useBench } from '../app/state';
import { barTicks } from '../model/time';
import { familyOf } from '../shelf/kinds';
import { Role } from './Role';
import { findReady, hearReady, putBack, useReady } from './state';
import { Thumb } from './Thumb';

function Row({ p, on, byRole }: { p: ReadyPattern; on: boolean; byRole: ReadonlyMap<string, Lane> }) {
  const marks = p.strokes.map((s) => ({
    lane: byRole.get(s.role) ?? {
      note: p.roles.indexOf(s.role) - 99,
      name: '',
      code: '',
      role: s.role,
      color: familyOf(s.role),
      shown: true,
    },
    tick: s.tick,
    velocity: s.velocity,
  }));
  return (
    <button
      type="button"
      className={`readyrow ${on ? 'on' : ''}`}
      data-ready={p.name}
      onClick={() => hearReady(p.name)}
    >
      <span className={`sound ${on ? 'on' : ''}`}>
        <CaretRightOutlined />
      </span>
      <Thumb marks={marks} length={p.bars * barTicks(p)} />
      <span className="grow ellipsis">
        <b>{p.name}</b>
        <span className="lab">
          {p.family}, {p.loBPM}–{p.hiBPM}
        </span>
      </span>
      <span className="roles">
        {p.roles.map((r) => (
          <Role key={r} role={r} lane={byRole.get(r)} size={18} />
        ))}
      </span>
    </button>
  );
}

export function ReadyDrawer({ project }: { project: Project }) {
  const r = useReady();
  const { bpm } = project.settings;
  const { map } = project;
  useEffect(() => {
    void findReady({}, project);
  }, [project]);
  const byRole = useMemo(() => new Map(map.lanes.toReversed().map((l) => [l.role, l])), [map]);
  const { found, families } = r;
  return (
    <aside className="drawer" data-id="ready" aria-label="Ready patterns">
      <div className="row head">
        <h2>Ready patterns</h2>
        <span className="lab">
          {found.length === r.all ? r.all : `${found.length} of ${r.all}`}, made for this bench
        </span>
        <span className="grow" />
        <Button
          type="text"
          size="small"
          aria-label="Shut"
          icon={<CloseOutlined />}
          onClick={() => {
            if (r.heard) putBack();
            useBench.setState({ panel: '' });
          }}
        />
      </div>
      <div className="pads">
        <Input
          prefix={<SearchOutlined />}
          placeholder="Name, family or role"
          value={r.text}
          onChange={(e) => void findReady({ text: e.target.value })}
          allowClear
        />
      </div>
      <div className="row wrap pads">
        {['', ...families].map((f) => (
          <button
            key={f}
            type="button"
            className={`tagchip ${f === r.family ? 'on' : ''}`}
            onClick={() => void findReady({ family: f })}
          >
            {f || 'all'}
          </button>
        ))}
      </div>
      <div className="row pads">
        <Switch
          size="small"
          checked={r.holdsTempo}
          aria-label="Only what lies well at this tempo"
          onChange={(holdsTempo) => void findReady({ holdsTempo })}
        />
        <span>at {Math.round(bpm)} BPM</span>
        <Switch
          size="small"
          checked={r.whole}
          aria-label="Only what this kit can play whole"
          onChange={(whole) => void findReady({ whole })}
        />
        <span>{project.kit.name || 'this kit'} plays it whole</span>
      </div>
      <LongList
        className="list"
        items={found}
        height={45}
        at={found.findIndex((p) => p.name === r.name)}
        renderRow={(p) => <Row p={p} on={p.name === r.name} byRole={byRole} />}
      >
        {found.length === 0 && r.all > 0 && (
          <p className="lab pads">Nothing fits all of this. Clear the search, or choose “all”.</p>
        )}
      </LongList>
      <div className="foot lab">
        ↑ ↓ hear the next, Enter takes it, Escape puts back. Dashed: a role without a lane.
      </div>
    </aside>
  );
}
