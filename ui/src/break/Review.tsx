// Doubts looked over one by one, and the usual faults cleaned away.
import { NumberField } from '../app/NumberField';
import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Dropdown } from 'antd';
import { useCallback, useState } from 'react';
import { useAnswer } from '../app/useAnswer';
import { api, type Lane, type Recording, type Wave } from '../api/client';
import { editHits, regrid } from '../app/state';
import { Chip } from '../lanes/marks';
import { PPQ, sureBar } from '../model/constants.gen';
import { chooseHit, chosenHits, doubts, judge, nextDoubt, useBreak } from './state';

const aroundS = 0.18;

/** The recording around a moment. */
function Moment({ r, timeS }: { r: Recording; timeS: number }) {
  const { audio } = r;
  const wave = useAnswer(
    useCallback(async (): Promise<Wave | null> => {
      const path = { hash: audio };
      const s = await api.getSample({ path }).catch(() => null); // not described yet
      if (!s) return null;
      const start = Math.max(0, Math.round((timeS - 0.045) * s.rate));
      const end = Math.round((timeS - 0.045 + aroundS) * s.rate);
      return api.drawSample({ path, query: { start, end, columns: 150 } });
    }, [audio, timeS]),
  );
  const w = 150;
  const h = 74;
  const x = (s: number) => ((s + 0.045) / aroundS) * w;
  let top = 1;
  for (let i = 0; i < (wave?.high.length ?? 0); i++)
    top = Math.max(top, wave?.high[i] ?? 0, -(wave?.low[i] ?? 0));
  return (
    <svg className="moment" width={w} height={h} aria-label="The recording around the hit">
      <rect width={w} height={h} fill="var(--paper-raised)" stroke="var(--rule-strong)" />
      {wave?.high.map((hi, i) => (
        <line
          // oxlint-disable-next-line react/no-array-index-key -- a column is its place
          key={i}
          x1={i}
          x2={i}
          y1={h / 2 - (hi / top) * (h / 2 - 3)}
          y2={h / 2 - ((wave.low[i] ?? 0) / top) * (h / 2 - 3)}
          stroke="var(--ink-2)"
        />
      ))}
      <line x1={x(0)} x2={x(0)} y1={0} y2={h} stroke="var(--ink)" strokeWidth={1.5} />
      <text x={w - 3} y={h - 4} textAnchor="end">
        180 ms
      </text>
    </svg>
  );
}

function VelocityInput({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number;
  onChange: (v: number) => void;
}) {
  return (
    <NumberField
      name={label}
      size="small"
      style={{ width: 46 }}
      min={1}
      max={127}
      controls={false}
      value={value}
      set={(v) => v !== null && onChange(v)}
    />
  );
}

/** What is to be said of a player who moves: that he does, or which bars of the grid that follows him are in doubt. */
function Moving({ r }: { r: Recording }) {
  const h = r.heard;
  const pins = h.pins ?? [];
  const perBar = (4 * PPQ * h.meter.beats) / h.meter.unit;
  const unsure = pins.filter((p) => p.sure !== undefined && p.sure < sureBar).map((p) => p.tick / perBar + 1);
  if (pins.length < 2)
    return h.moves ? (
      <div className="row">
        <span className="lab wraps">
          The player moves: {h.bpm.toFixed(1)} BPM is the mean, no steady tempo holds these hits.
        </span>
        <Button size="small" data-id="player-moves" onClick={() => void regrid(r.id, { follow: true })}>
          Follow
        </Button>
      </div>
    ) : null;
  return unsure.length > 0 ? (
    <span className="lab wraps" data-id="bars-in-doubt">
      {unsure.length === 1 ? 'Bar' : 'Bars'} {unsure.slice(0, 8).join(', ')}
      {unsure.length > 8 && ` and ${unsure.length - 8} more`} in doubt, hollow in the ruler: drag the line to
      where it begins.
    </span>
  ) : null;
}

export function Doubt({ r, lanes }: { r: Recording; lanes: Lane[] }) {
  const chosen = useBreak((s) => s.chosen);
  const several = useBreak((s) => s.also.length);
  const list = doubts(r);
  const h = r.heard.hits[chosen];
  const lane = lanes.find((l) => l.note === r.lanes[chosen]);
  const or = lanes.find((l) => l.note === r.orLanes[chosen]);
  const at = list.findIndex((d) => d.i === chosen);
  const say = (op: 'keep' | 'other' | 'out' | 'back') => judge(r, op);
  const velocity = (v: number) =>
    void editHits(r.id, { op: 'velocity', hits: chosenHits(r), velocity: v }, 'Velocity of heard hits');
  return (
    <div className="doubt" data-id="doubt">
      <div className="row">
        <span className="tag doubt" data-id="doubts-left">
          {list.length === 0
            ? 'no doubts left'
            : at >= 0
              ? `? ${at + 1} of ${list.length} doubtful`
              : `? ${list.length} doubtful`}
        </span>
        {h && lane && (
          <span className="ellipsis">
            {several > 1 ? (
              <b data-id="heard-chosen">{several} hits chosen</b>
            ) : (
              <>
                <b>{lane.name}</b>, {h.time.toFixed(2)} s
              </>
            )}
          </span>
        )}
        <span className="grow" />
        <Button
          size="small"
          icon={<LeftOutlined />}
          aria-label="Previous doubtful hit"
          title="Previous doubtful hit ([)"
          disabled={list.length === 0}
          onClick={() => nextDoubt(r, -1)}
        />
        <Button
          size="small"
          icon={<RightOutlined />}
          aria-label="Next doubtful hit"
          title="Next doubtful hit (])"
          disabled={list.length === 0}
          onClick={() => nextDoubt(r, 1)}
        />
      </div>
      <Moving r={r} />
      {h && lane ? (
        <>
          <div className="row" style={{ gap: 12 }}>
            <button
              type="button"
              className="bare"
              title="Hear it in the recording (Enter)"
              onClick={() => chooseHit(r, chosen, true)}
            >
              <Moment r={r} timeS={h.time} />
            </button>
            <div className="fits">
              <span className="lab wraps">
                {h.state === 'out'
                  ? 'Taken out; it can come back.'
                  : h.state === 'kept'
                    ? 'Kept.'
                    : r.doubtful[chosen]
                      ? or
                        ? 'Weak, and two lanes fit.'
                        : 'Weak.'
                      : 'Sure.'}
              </span>
              {[
                { l: lane, c: h.confidence },
                ...(or && or.note !== lane.note ? [{ l: or, c: h.orConfidence ?? 0 }] : []),
              ].map(({ l, c }) => (
                <span key={l.note} className={`row f-${l.color}`}>
                  <Chip code={l.code} family={l.color} w={24} h={20} />
                  <span className="bar">
                    <span style={{ width: `${c * 100}%` }} />
                  </span>
                  <span className="num">{Math.round(c * 100)}%</span>
                </span>
              ))}
              <span className="row">
                <span className="lab">velocity</span>
                <VelocityInput
                  label="Velocity of the hit"
                  value={h.velocity}
                  onChange={(v) => v !== h.velocity && velocity(v)}
                />
              </span>
            </div>
          </div>
          <div className="row">
            {h.state === 'out' ? (
              <Button size="small" type="primary" onClick={() => say('back')}>
                Put back in
              </Button>
            ) : (
              <Button size="small" type="primary" title="Y" onClick={() => say('keep')}>
                Keep as {lane.code}
              </Button>
            )}
            {or && or.note !== lane.note && (
              <Button size="small" title="O" onClick={() => say('other')}>
                Move to {or.code}
              </Button>
            )}
            <Dropdown
              trigger={['click']}
              menu={{
                items: lanes.map((l) => ({ key: String(l.note), label: l.name })),
                onClick: ({ key }) =>
                  void editHits(
                    r.id,
                    { op: 'lane', hits: chosenHits(r), lane: Number(key) },
                    'Move heard hits to another lane',
                  ),
              }}
            >
              <Button size="small">Other…</Button>
            </Dropdown>
            {h.state !== 'out' && (
              <Button size="small" title="Delete" onClick={() => say('out')}>
                Take out
              </Button>
            )}
          </div>
        </>
      ) : (
        <p className="lab wraps">
          {list.length > 0
            ? 'Press ] to hear the first doubtful hit in the recording; Y keeps it, O moves it to the other drum, Delete takes it out, and the next one comes.'
            : 'Click a hit to see how sure it is, to move it or to take it out.'}
        </p>
      )}
    </div>
  );
}

export function CleanUp({ r, lane }: { r: Recording; lane: Lane | undefined }) {
  const proposal = useBreak((s) => s.proposal);
  const [to, setTo] = useState(112);
  const [ghost, setGhost] = useState(50);
  const p = r.clean[proposal];
  const ofLane = lane
    ? r.heard.hits.flatMap((h, i) => (r.lanes[i] === lane.note && h.state !== 'out' ? [i] : []))
    : [];
  const clean = (how: 'even' | 'set' | 'soft', amount: number, label: string) =>
    void editHits(r.id, { op: 'clean', hits: ofLane, clean: { how, amount, ghost } }, label);
  return (
    <div className="cleanup" data-id="clean-up">
      <div className="row">
        <span className="ttl">Clean up</span>
        <span className="lab">a line shows its hits struck through</span>
        <span className="grow" />
        <Button
          size="small"
          type="primary"
          title="The hits of the line chosen; undo brings them back"
          disabled={!p || p.hits.length === 0}
          onClick={() => {
            if (!p) return;
            useBreak.setState({ proposal: -1 });
            void editHits(r.id, { op: 'out', hits: p.hits }, `Take out ${p.hits.length}: ${p.name}`);
          }}
        >
          Take out {p?.hits.length ?? ''}
        </Button>
      </div>
      {r.clean.map((c, i) => (
        <button
          key={c.name}
          type="button"
          className={`cleanrow ${i === proposal ? 'on' : ''}`}
          disabled={c.hits.length === 0}
          title={c.words}
          onClick={() => useBreak.setState({ proposal: i === proposal ? -1 : i })}
        >
          <b>{c.name}</b>
          <span className="lab wraps">{c.words}</span>
          <span className="num">{c.hits.length}</span>
        </button>
      ))}
      {lane && ofLane.length > 0 && (
        <>
          <div className="row">
            <Chip code={lane.code} family={lane.color} w={24} h={20} />
            <span className="lab">velocity</span>
            <VelocityInput label="Velocity to set" value={to} onChange={setTo} />
            <Button
              size="small"
              title="Strokes softer than the ghosts’ limit are left"
              onClick={() => clean('even', to, `Main strokes of ${lane.name} to ${to}`)}
            >
              Set main strokes
            </Button>
            <Button
              size="small"
              title="Every hit of the lane, ghosts too, gets this velocity"
              onClick={() => clean('set', to, `${lane.name} to ${to}`)}
            >
              Set all
            </Button>
          </div>
          <div className="row">
            <span className="lab">ghosts are under</span>
            <VelocityInput label="Ghosts under" value={ghost} onChange={setGhost} />
            <Button
              size="small"
              title="Take out what is softer than this"
              onClick={() => clean('soft', ghost, `${lane.name} softer than ${ghost} out`)}
            >
              Take out ghosts
            </Button>
          </div>
        </>
      )}
    </div>
  );
}
