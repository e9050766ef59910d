// A ready pattern that is heard: what of it is taken, whole or lane by lane.
import { Button } from 'antd';
import { Select } from '../app/later';
import { Choice } from '../app/Choice';
import type { Pattern, Project } from '../api/client';
import { Role } from './Role';
import { chooseTake, type Into, putBack, soundReady, takeHeard, useReady } from './state';

/** The tools while a ready pattern is heard: nothing is written until it is taken. */
export function ReadyTools({ project, pattern }: { project: Project; pattern: Pattern }) {
  const r = useReady();
  return (
    <div className="tools pending" data-id="ready-tools">
      <span>
        Hearing <b>{r.name}</b>
      </span>
      <span className="muted ellipsis">
        {r.into === 'new' ? 'as a new pattern' : `in ${pattern.name}’s place`}, on {project.kit.name}
      </span>
      <Choice
        name="Whose sounds it is heard with"

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
      <div className="strip ready" style={{ maxWidth: width }}>
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
          <Choice<Into>
            name="Into what it goes"

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
