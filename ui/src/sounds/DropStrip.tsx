// Under the plan of dropped samples: the one chosen, what has no lane yet, and what is left out.
import { Button, Select, Switch } from 'antd';
import type { LayoutOptions } from '../api/client';
import { Chip } from '../lanes/marks';
import { codeOf, familyOf, kinds } from '../shelf/kinds';
import { useSample } from './peaks';
import { leftOut, ownLane, PlanThumb, send, usePlanDrop } from './plan';
import { type Dropping, endDrop, planDrop, useSounds } from './state';

const why: Record<string, string> = {
  loop: 'a loop',
  same: 'the kit sounds it already',
  full: 'no free note is left',
  unwanted: 'left out',
  name: 'its name does not say',
};

interface Props {
  dropping: Dropping;
  chosen: number;
  choose: (at: number) => void;
}

const withArticle = (kind: string) =>
  kind === 'other' ? 'other' : `${/^[aeiou]/.test(kind) ? 'an' : 'a'} ${kind}`;

/** The sample chosen: what it is heard as, and where it goes. */
function Chosen({ dropping, chosen, choose }: Props) {
  const { plan, options, names, parts } = dropping;
  const sample = useSample(parts[chosen]?.hash);
  if (!plan) return <div className="dropcol">Looking where they go…</div>;
  const say = (kind: string) => {
    const lane = { ...options.lane };
    delete lane[String(chosen)];
    void planDrop({ options: { ...options, lane, kinds: { ...options.kinds, [String(chosen)]: kind } } });
  };
  const row = plan.rows.find((r) => r.samples.includes(chosen));
  const part = parts[chosen];
  const guesses = part?.endFrame
    ? [{ kind: part.kind ?? 'other', confidence: part.confidence ?? 0 }] // of the piece, not of the recording
    : (sample?.guesses.slice(0, 3) ?? []);
  const doubts = plan.doubtful.length;
  const next = plan.doubtful.find((d) => d !== chosen);
  return (
    <div className="dropcol">
      <span className="row">
        {plan.doubtful.includes(chosen) && <span className="tag doubt">?</span>}
        <b className="ellipsis" style={{ flex: 1 }}>
          {names[chosen]}
        </b>
        <PlanThumb dropping={dropping} at={chosen} w={60} choose={choose} />
      </span>
      {sample?.folder && <span className="lab ellipsis">in {sample.folder}</span>}
      <span className="row">
        <span className="lab">Goes to</span>
        <Select
          size="small"
          style={{ width: 170 }}
          aria-label="Where it goes"
          data-id="goes-to"
          value={row ? row.lane.note : leftOut}
          options={[
            { value: ownLane, label: 'a lane of its own' },
            { value: leftOut, label: 'nowhere: leave it out' },
            ...plan.map.lanes.map((l) => ({ value: l.note, label: l.name })),
          ]}
          onChange={(to: number) => send(dropping, chosen, to)}
        />
      </span>
      {guesses.map((g) => (
        <span key={g.kind} className={`row f-${familyOf(g.kind)}`}>
          <Chip code={codeOf(g.kind)} family={familyOf(g.kind)} w={25} h={20} />
          <Button size="small" style={{ width: 110 }} onClick={() => say(g.kind)}>
            It is {withArticle(g.kind)}
          </Button>
          <svg width={64} height={8}>
            <rect width={64} height={8} fill="var(--paper-sunk)" />
            <rect width={64 * g.confidence} height={8} fill="var(--c)" />
          </svg>
          <span className="num">{Math.round(g.confidence * 100)}%</span>
        </span>
      ))}
      <span className="row">
        <Select
          size="small"
          style={{ width: 110 }}
          placeholder="Another kind"
          value={null}
          options={kinds.map((k) => ({ value: k, label: k }))}
          onChange={(k: string | null) => k && say(k)}
        />
        {next !== undefined && (
          <Button size="small" onClick={() => choose(next)}>
            Next of {doubts} doubtful
          </Button>
        )}
      </span>
    </div>
  );
}

export function DropStrip({ dropping, chosen, choose }: Props) {
  const { plan, options, parts } = dropping;
  const opt = (o: Partial<LayoutOptions>) => void planDrop({ options: { ...options, ...o } });
  const fresh = plan?.rows.filter((r) => r.new) ?? [];
  const own = usePlanDrop(dropping, ownLane);
  const out = usePlanDrop(dropping, leftOut);
  return (
    <div className="strip droprow">
      <Chosen dropping={dropping} chosen={chosen} choose={choose} />
      <div className={`dropcol ${own.over ? 'over' : ''}`} data-id="own-lane" {...own.target}>
        <span className="row">
          <span className="ttl">New lanes</span>
          <span className="lab">drop a sample here for a lane of its own</span>
        </span>
        {fresh.slice(0, 5).map((r) => (
          <span key={r.lane.note} className="row">
            <Chip code={r.lane.code} family={r.lane.color} w={25} h={20} />
            <span className="ellipsis" style={{ flex: 1 }}>
              {r.lane.name}
            </span>
            <span className="num">{r.lane.note}</span>
            <Button
              size="small"
              type="text"
              onClick={() =>
                opt({
                  lane: {
                    ...options.lane,
                    ...Object.fromEntries(r.samples.map((s) => [String(s), leftOut])),
                  },
                })
              }
            >
              not this
            </Button>
          </span>
        ))}
        {fresh.length > 5 && <span className="lab">and {fresh.length - 5} more</span>}
        {(fresh.length > 0 || options.percussion) && (
          <span className="row">
            <Switch
              size="small"
              checked={options.percussion ?? false}
              aria-label="Send them to percussion"
              onChange={(percussion) => opt({ percussion })}
            />
            <span>kinds without a lane go to percussion</span>
          </span>
        )}
      </div>
      <div
        className={`dropcol ${out.over ? 'over' : ''}`}
        data-id="left-out"
        style={{ borderRight: 0 }}
        {...out.target}
      >
        <span className="row">
          <span className="ttl">Not laid out</span>
          <span className="lab">drop one here to leave it on the shelf</span>
        </span>
        {plan?.left.slice(0, 4).map((l) => (
          <span key={l.sample} className="row">
            <PlanThumb dropping={dropping} at={l.sample} w={34} choose={choose} />
            <span className="ellipsis" style={{ width: 100 }}>
              {dropping.names[l.sample]}
            </span>
            <span className="lab">{why[l.why]}</span>
            {l.why === 'loop' && (
              <Button
                size="small"
                onClick={() => {
                  endDrop(false);
                  useSounds.setState({ cutting: parts[l.sample]?.hash ?? '' });
                }}
              >
                Cut
              </Button>
            )}
          </span>
        ))}
        {(plan?.left.length ?? 0) > 4 && <span className="lab">and {(plan?.left.length ?? 0) - 4} more</span>}
        {plan?.left.some((l) => l.why === 'same') && (
          <span className="row">
            <Switch
              size="small"
              checked={options.again ?? false}
              aria-label="Use them anyway"
              onChange={(again) => opt({ again })}
            />
            <span>use what the kit has anyway</span>
          </span>
        )}
      </div>
    </div>
  );
}
