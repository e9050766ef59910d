// Patterns carried from one map to another: every lane → lane with its hits, before anything changes.
import { Button, Checkbox, Select, Switch } from 'antd';
import { Choice } from '../app/Choice';
import { NoteName } from '../lanes/NoteName';
import type { Lane, Link, Project } from '../api/client';
import { Transport } from '../app/Transport';
import { useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { bringLane, type Carrying, endCarry, planCarry, useMaps } from './state';

const rowH = 32;
const linkW = 500;

/** A note of a map as a lane's row; a note without a lane is shown as itself. */
function Side({ lane, note, tail }: { lane: Lane | undefined; note: number; tail: string }) {
  return (
    <div className={`lane f-${lane?.color ?? 'other'}`}>
      <Chip code={lane?.code ?? String(note)} family={lane?.color ?? 'other'} dashed={!lane} />
      <span className="nm">{lane?.name ?? 'no lane'}</span>
      <span className="nt">
        <i>{note}</i>
        <NoteName note={note} />
      </span>
      <span className="num" style={{ marginLeft: 8 }}>
        {tail}
      </span>
    </div>
  );
}

/** What a note without a lane becomes. */
const noLane = { code: 'N1', role: 'other', color: 'other', shown: true } as const;

const why: Record<string, string> = { you: 'by you', role: 'role', name: 'name', note: 'note' };

/** Where each lane's hits go, as thick as there are many. */
function Links({
  left,
  from,
  to,
  link,
  hits,
}: {
  left: number[];
  from: Lane[];
  to: Lane[];
  link: ReadonlyMap<number, Link>;
  hits: (note: number) => number;
}) {
  const most = Math.max(1, ...left.map(hits));
  return (
    <svg className="links" width={linkW} height={Math.max(left.length, to.length) * rowH}>
      {left.map((n, i) => {
        const l = link.get(n);
        const at = to.findIndex((x) => x.note === l?.to);
        const y0 = i * rowH + rowH / 2;
        const w = 1 + (6 * hits(n)) / most;
        const color = from.find((x) => x.note === n)?.color ?? 'other';
        if (at < 0)
          return hits(n) > 0 ? (
            <g key={n}>
              <line x1={4} x2={64} y1={y0} y2={y0} stroke="var(--ink)" strokeDasharray="4 3" />
              <line x1={64} x2={64} y1={y0 - 7} y2={y0 + 7} stroke="var(--ink)" strokeWidth={1.5} />
              <text x={76} y={y0 + 4} className="b i">
                {hits(n)} hits have no home
              </text>
            </g>
          ) : null;
        const y1 = at * rowH + rowH / 2;
        return (
          <g key={n} className={`f-${color}`} opacity={hits(n) > 0 ? 1 : 0.35}>
            <path
              d={`M4 ${y0}C${linkW / 2} ${y0} ${linkW / 2} ${y1} ${linkW - 12} ${y1}`}
              fill="none"
              stroke="var(--c)"
              strokeWidth={w}
            />
            <path d={`M${linkW - 13} ${y1 - 5}l10 5-10 5z`} fill="var(--e)" />
          </g>
        );
      })}
    </svg>
  );
}

export function CarryFace({ project, carrying }: { project: Project; carrying: Carrying }) {
  const { request, plan, loads, kit } = carrying;
  const waits = loads || kit !== '';
  const kept = useMaps((s) => s.kept);
  const patternId = useBench((s) => s.patternId);
  const links = plan?.links ?? [];
  const from = request.from.lanes;
  const extra = links.filter((l) => !from.some((x) => x.note === l.from)).map((l) => l.from);
  const left = [...from.map((l) => l.note), ...extra];
  const to = request.to.lanes;
  const link = new Map<number, Link>(links.map((l) => [l.from, l]));
  const hits = (n: number) => plan?.hits[String(n)] ?? 0;
  const total = left.reduce((n, note) => n + hits(note), 0);
  const homeless = left.filter((n) => link.get(n)?.to === -1 && hits(n) > 0);
  const carried = total - homeless.reduce((n, note) => n + hits(note), 0);
  const chosen = request.patterns ?? project.patterns.map((p) => p.id);
  const correct = (note: number, target: number) =>
    void planCarry({ corrections: { ...request.corrections, [String(note)]: target } });
  const count = (what: string) => plan?.differences.filter((d) => d.what === what).length ?? 0;
  return (
    <>
      <div className="map">
        <span className="lab">From</span>
        <Select
          size="small"
          style={{ width: 170 }}
          aria-label="From the map"
          value={request.from.name}
          options={[request.from, ...kept.map((k) => k.map)]
            .filter((m, i, list) => list.findIndex((x) => x.name === m.name) === i)
            .map((m) => ({
              value: m.name,
              label: `${m.name}, ${m.lanes.length} ${m.lanes.length === 1 ? 'lane' : 'lanes'}`,
            }))}
          onChange={(name: string) => {
            const m = kept.find((k) => k.map.name === name)?.map;
            if (m) void planCarry({ from: m, corrections: {} });
          }}
        />
      </div>
      <div className="tools pending" data-id="carrying">
        <span className="lab">Carry patterns to</span>
        <b>{request.to.name}</b>
        <span className="lab">
          {kit
            ? 'Nothing is changed yet; the kit comes with them.'
            : loads
              ? 'Nothing is changed yet; the map comes with them.'
              : 'Nothing is changed yet.'}
        </span>
        <span className="sep" />
        <Button size="small" ghost onClick={() => void planCarry({ corrections: {} })}>
          Match again
        </Button>
        <span className="grow" />
        <Button
          ghost
          data-id="leave-carry"
          title="Everything stays as it is"
          onClick={() => endCarry('leave')}
        >
          Leave
        </Button>
        {waits && (
          <Button
            ghost
            data-id="carry-none"
            title="The patterns keep their notes"
            onClick={() => endCarry('alone')}
          >
            {kit ? 'Only the kit' : 'Only the map'}
          </Button>
        )}
        <Button data-id="carry" disabled={chosen.length === 0} onClick={() => endCarry('carry')}>
          {`Carry ${chosen.length} ${chosen.length === 1 ? 'pattern' : 'patterns'}`}
        </Button>
      </div>
      <Transport />
      <div className="crown" style={{ padding: '14px 16px' }}>
        <b>
          {carried} of {total} hits find a lane
        </b>
        <p className="lab" style={{ margin: '4px 0', whiteSpace: 'normal' }}>
          Matched by your corrections, then by the same note and role, by role, name and note. Velocity,
          timing and splits stay as they are; hits without a home stay in their patterns, silent.
        </p>
      </div>
      <div className="lanehead">
        <span className="lab" style={{ left: 12 }}>
          Lane
        </span>
        <span className="lab" style={{ left: 158 }}>
          Note
        </span>
        <span className="lab" style={{ left: 214 }}>
          Hits
        </span>
      </div>
      <div className="ruler maphead">
        <span className="lab" style={{ left: 14 }}>
          Why
        </span>
        <span className="lab" style={{ left: 104 }}>
          Goes to
        </span>
        <span className="lab" style={{ left: 736 }}>
          Lane in {request.to.name}
        </span>
      </div>
      <div className="lanesrow carryrows">
        <div>
          {left.map((n) => (
            <Side key={n} note={n} lane={from.find((l) => l.note === n)} tail={String(hits(n))} />
          ))}
        </div>
        <div className="goes">
          {left.map((n) => {
            const l = link.get(n);
            return (
              <div key={n} className="row" style={{ height: rowH, padding: '0 14px' }} data-carry={n}>
                <span style={{ width: 82 }}>
                  {l?.to === -1 ? (
                    <span className={hits(n) > 0 ? 'tag doubt' : 'lab'}>no home</span>
                  ) : l?.why === 'you' ? (
                    <span className="tag">by you</span>
                  ) : (
                    <span className="lab">
                      {l ? why[l.why] : ''}
                      {l?.why === 'role' ? `, ${from.find((x) => x.note === n)?.role ?? ''}` : ''}
                    </span>
                  )}
                </span>
                <Select
                  size="small"
                  style={{ width: 112 }}
                  aria-label={`Where hits of ${n} go`}
                  value={l?.to ?? -1}
                  options={[
                    { value: -1, label: 'nowhere' },
                    ...to.map((x) => ({ value: x.note, label: `${x.note} ${x.name}` })),
                  ]}
                  popupMatchSelectWidth={190}
                  onChange={(t: number) => correct(n, t)}
                />
              </div>
            );
          })}
          <Links left={left} from={from} to={to} link={link} hits={hits} />
        </div>
        <div>
          {to.map((l) => (
            <Side key={l.note} note={l.note} lane={l} tail="" />
          ))}
        </div>
      </div>
      <div className="stripside" style={{ padding: '9px 12px' }}>
        <span className="ttl">What differs</span>
        <div className="means" style={{ gridTemplateColumns: '28px 1fr' }}>
          {(
            [
              ['same', 'lanes the same, note and role'],
              ['note', 'go to a lane with another note'],
              ['role', 'same note, another role'],
              ['only a', `only in ${request.from.name}`],
              ['only b', `only in ${request.to.name}`],
            ] as const
          ).map(([what, text]) => (
            <div key={what} style={{ display: 'contents' }}>
              <b className="num" style={{ textAlign: 'right' }}>
                {what === 'same' ? count('same') + count('name') : count(what)}
              </b>
              <span>{text}</span>
            </div>
          ))}
        </div>
      </div>
      <div className="strip row" style={{ alignItems: 'stretch' }}>
        <div className="dropcol" style={{ flex: 1 }}>
          <span className="ttl">Patterns to carry</span>
          <div style={{ display: 'grid', gap: 4, maxHeight: 104, overflow: 'auto' }}>
            {project.patterns.map((p) => {
              const c = plan?.patterns.find((x) => x.patternId === p.id);
              return (
                <Checkbox
                  key={p.id}
                  checked={chosen.includes(p.id)}
                  onChange={(e) =>
                    void planCarry({
                      patterns: e.target.checked ? [...chosen, p.id] : chosen.filter((x) => x !== p.id),
                    })
                  }
                >
                  {p.value.name}
                  {p.id === patternId ? ' (open)' : ''}{' '}
                  <span className="lab">
                    {c?.carried ?? 0} carried{c && c.noHome > 0 ? `, ${c.noHome} without a home` : ''}
                  </span>
                </Checkbox>
              );
            })}
          </div>
          <span className="row">
            <span className="lab">Make</span>
            <Choice
              name="Make"

              value={request.copies ? 'copies' : 'change these'}
              options={['change these', 'copies']}
              onChange={(v) => void planCarry({ copies: v === 'copies' })}
            />
            {request.copies && <span className="lab">names gain “{request.to.name}”</span>}
          </span>
        </div>
        <div className="dropcol" style={{ width: 400, borderRight: 0 }}>
          {homeless.length > 0 ? (
            <>
              <span className="tag doubt" style={{ justifySelf: 'start' }}>
                ? {total - carried} hits, no home
              </span>
              {homeless.slice(0, 3).map((n) => (
                <span key={n} className="row">
                  <b className="ellipsis" style={{ width: 120 }}>
                    {from.find((l) => l.note === n)?.name ?? `note ${n}`}
                  </b>
                  <span className="num">{hits(n)}</span>
                  <Button
                    size="small"
                    disabled={to.some((l) => l.note === n)}
                    onClick={() =>
                      bringLane(from.find((l) => l.note === n) ?? { ...noLane, note: n, name: `note ${n}` })
                    }
                  >
                    Make a lane
                  </Button>
                </span>
              ))}
            </>
          ) : (
            <span className="ttl">Every hit finds a lane</span>
          )}
          <span className="row">
            <Switch
              size="small"
              checked={request.remember ?? false}
              aria-label="Remember my corrections"
              onChange={(remember) => void planCarry({ remember })}
            />
            <span>remember my corrections for these two maps</span>
          </span>
          <span className="lab">One step in the history brings everything back.</span>
        </div>
      </div>
    </>
  );
}
