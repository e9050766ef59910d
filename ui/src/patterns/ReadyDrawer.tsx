// Ready patterns: found, heard on this kit while the beat plays, taken whole or lane by lane.
import { CaretRightOutlined, CloseOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Input, Segmented, Select, Switch } from 'antd';
import { useEffect, useMemo, useRef } from 'react';
import type { Lane, Pattern, Project, ReadyPattern } from '../api/client';
import { useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { barTicks } from '../model/time';
import { codeOf, familyOf } from '../shelf/kinds';
import {
  chooseTake,
  hearReady,
  type Into,
  findReady,
  putBack,
  soundReady,
  takeHeard,
  useReady,
} from './state';
import { Thumb } from './Thumb';

/** A role: its lane's chip, or dashed when the map has none. */
function Role({ role, lane, size }: { role: string; lane: Lane | undefined; size?: number }) {
  return lane ? (
    <Chip code={lane.code} family={lane.color} w={size ?? 22} />
  ) : (
    <Chip code={codeOf(role)} family={familyOf(role)} w={size ?? 22} dashed />
  );
}

function Row({ p, on, byRole }: { p: ReadyPattern; on: boolean; byRole: ReadonlyMap<string, Lane> }) {
  const row = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (on) row.current?.scrollIntoView({ block: 'nearest' });
  }, [on]);
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
      ref={row}
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
      <div className="list">
        {found.map((p) => (
          <Row key={p.name} p={p} on={p.name === r.name} byRole={byRole} />
        ))}
        {found.length === 0 && r.all > 0 && (
          <p className="lab pads">Nothing fits all of this. Clear the search, or choose “all”.</p>
        )}
      </div>
      <div className="foot lab">
        ↑ ↓ hear the next, Enter takes it, Escape puts back. Dashed: a role without a lane.
      </div>
    </aside>
  );
}

/** The tools while a ready pattern is heard: nothing is written until it is taken. */
export function ReadyTools({ project, pattern }: { project: Project; pattern: Pattern }) {
  const r = useReady();
  const open = useBench((s) => s.panel === 'ready');
  return (
    <div className="tools pending" data-id="ready-tools" style={open ? { marginRight: 328 } : {}}>
      <span>
        Hearing <b>{r.name}</b>
      </span>
      <span className="muted ellipsis">
        {r.into === 'new' ? 'as a new pattern' : `in ${pattern.name}’s place`}, on {project.kit.name}
      </span>
      <Segmented
        size="small"
        value={r.sounds}
        options={[
          { value: 'ready', label: 'Ready' },
          { value: 'own', label: pattern.name },
        ]}
        onChange={(v) => soundReady(v as 'ready' | 'own')}
      />
      <span className="grow" />
      <Button ghost data-id="put-back" onClick={putBack}>
        Put back
      </Button>
      <Button data-id="take-ready" onClick={takeHeard}>
        Take
      </Button>
    </div>
  );
}

/** What is taken, in place of the strip. */
export function ReadyTake({
  project,
  pattern,
  width,
}: {
  project: Project;
  pattern: Pattern;
  width: number;
}) {
  const r = useReady();
  const open = useBench((s) => s.panel === 'ready');
  const ready = r.found.find((p) => p.name === r.name);
  if (!ready || !r.heard) return null;
  const { notes, missing } = r.heard.laid;
  const lane = (role: string) => project.map.lanes.find((l) => l.note === notes[role]);
  const picked = r.roles.length === 0 ? ready.roles : r.roles;
  const flip = (role: string) => {
    const next = picked.includes(role) ? picked.filter((x) => x !== role) : [...picked, role];
    chooseTake({ roles: next.length === ready.roles.length || next.length === 0 ? [] : next });
  };
  return (
    <>
      <div className="stripside ready">
        <div className="row abs" style={{ left: 12, top: 6, right: 12 }}>
          <span className="ttl">{ready.name}</span>
          <span className="lab">
            {ready.bars === 1 ? 'one bar' : `${ready.bars} bars`}, {ready.family}
          </span>
        </div>
        <div className="abs lab" style={{ left: 12, top: 30, right: 12, whiteSpace: 'normal' }}>
          {ready.words} Lies well from {ready.loBPM} to {ready.hiBPM}.
        </div>
        <div className="abs lab" style={{ left: 12, top: 76 }}>
          Dashed: it. Small: {pattern.name}’s own hits.
        </div>
      </div>
      <div className="strip ready" style={{ maxWidth: open ? width - 328 : width }}>
        <div className="row">
          <b>Take</b>
          {ready.roles.map((role) => (
            <button
              key={role}
              type="button"
              className={`rolepick ${picked.includes(role) ? 'on' : ''}`}
              aria-pressed={picked.includes(role)}
              title={picked.includes(role) ? `Leave the ${role} out` : `Take the ${role} too`}
              onClick={() => flip(role)}
            >
              <Role role={role} lane={lane(role)} size={30} />
              <span>{role}</span>
            </button>
          ))}
        </div>
        <div className="row">
          <span className="lab">Into</span>
          <Segmented<Into>
            size="small"
            value={r.into}
            options={[
              ...(pattern.bars > 1 ? [{ value: 'bar' as const, label: 'this bar' }] : []),
              { value: 'all', label: pattern.bars === 1 ? 'its bar' : `all ${pattern.bars} bars` },
              { value: 'new', label: 'a new pattern' },
            ]}
            onChange={(into) => chooseTake({ into })}
          />
          {r.into !== 'new' && <span className="lab">and keep {pattern.name}’s other lanes</span>}
          {missing.map((role) => (
            <span key={role} className="row">
              <span className="sep" />
              <b>{role}</b> plays on
              <Select
                size="small"
                style={{ width: 130 }}
                aria-label={`${role} plays on`}
                value={r.instead[role] ?? notes[role] ?? -1}
                options={[
                  { value: -1, label: 'left out' },
                  ...project.map.lanes.map((l) => ({ value: l.note, label: l.name })),
                ]}
                onChange={(note: number) => chooseTake({ instead: { ...r.instead, [role]: note } })}
              />
            </span>
          ))}
        </div>
      </div>
    </>
  );
}
