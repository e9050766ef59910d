// The passes of the pattern: heard alone, muted, swapped, quantised, joined, removed.
import { DeleteOutlined, MutedOutlined, PlayCircleOutlined, SoundOutlined } from '@ant-design/icons';
import { Button, Select } from 'antd';
import { api, type Project, type RecordedPass } from '../api/client';
import { editPass, explain, say, takePassInstead, useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { lateness } from '../model/time';
import { player } from '../player/player';
import { useRecorder } from './recorder';

function PassRow({
  project,
  p,
  number,
  last,
  swap,
}: {
  project: Project;
  p: RecordedPass;
  number: number;
  last: string;
  /** the pass it may be swapped with: one is heard, one is muted; null for none */
  swap: { id: string; number: number } | null;
}) {
  const now = useRecorder((r) => r.on && r.pass === p.id);
  const alone = useBench((s) => s.alone === p.id);
  const { strength = 0 } = p.quantise;
  const lanes = p.notes.map((n) => project.map.lanes.find((l) => l.note === n));
  const hear = async () => {
    try {
      if (alone) {
        await takePassInstead(null, '');
        return;
      }
      const sounds = await api.hearPassAlone({
        path: { project: project.id, pass: p.id },
        query: { rate: player.rate },
      });
      if (sounds.pass) await takePassInstead(sounds.pass, p.id);
    } catch (e) {
      say(explain(e));
    }
  };
  return (
    <div className={`passrow ${now ? 'on' : ''} ${p.muted ? 'off' : ''}`} data-pass={p.id}>
      <b className="n">{number}</b>
      <span className="grow">
        <span>
          {p.hits === 1 ? 'a hit' : `${p.hits} hits`}
          {now ? ' so far' : ''}
        </span>
        <span className="lab">
          {p.muted ? ', muted' : ''}, velocity {p.softest}
          {p.hardest > p.softest ? ` to ${p.hardest}` : ''}
        </span>
        <br />
        <span className="lab">
          {strength === 0 ? 'as played' : `quantised ${strength}%`}, {lateness(p.leanMS)}
        </span>
      </span>
      <span className="chips">
        {lanes
          .slice(0, 4)
          .map((l, i) =>
            l ? (
              <Chip key={l.note} code={l.code} family={l.color} w={22} h={19} />
            ) : (
              <span key={p.notes[i]}>?</span>
            ),
          )}
      </span>
      <span className="acts">
        <Button
          type={alone ? 'primary' : 'text'}
          size="small"
          icon={<PlayCircleOutlined />}
          aria-label={`Hear pass ${number} alone`}
          title="Hear it alone"
          onClick={() => void hear()}
        />
        <Button
          type="text"
          size="small"
          icon={p.muted ? <MutedOutlined /> : <SoundOutlined />}
          aria-label={p.muted ? `Hear pass ${number} again` : `Mute pass ${number}`}
          aria-pressed={p.muted}
          title={p.muted ? 'Hear it again' : 'Mute it: its hits leave the pattern, and come back as they are'}
          onClick={() => void editPass({ id: p.id, muted: !p.muted })}
        />
        <Select
          size="small"
          variant="borderless"
          style={{ width: 76 }}
          aria-label={`Quantise pass ${number}`}
          title="Quantise it, from where it was played"
          value={strength}
          popupMatchSelectWidth={110}
          options={[...new Set([0, 50, 75, 100, strength])]
            .toSorted((a, b) => a - b)
            .map((v) => ({ value: v, label: v === 0 ? 'played' : `${v}%` }))}
          onChange={(v: number) => void editPass({ id: p.id, quantise: { ...p.quantise, strength: v } })}
        />
        {swap && (
          <Button
            type="text"
            size="small"
            title={`Hear pass ${p.muted ? number : swap.number} in the place of pass ${p.muted ? swap.number : number}`}
            onClick={() => void editPass({ id: p.id, swap: swap.id })}
          >
            swap for {swap.number}
          </Button>
        )}
        {last !== '' && (
          <Button
            type="text"
            size="small"
            title="Make it one with the pass before"
            onClick={() => void editPass({ id: last, merge: p.id })}
          >
            join
          </Button>
        )}
        <Button
          type="text"
          size="small"
          icon={<DeleteOutlined />}
          aria-label={`Remove pass ${number}`}
          title="Remove it with its hits; undo brings it back"
          onClick={() => void editPass({ id: p.id, remove: true })}
        />
      </span>
    </div>
  );
}

export function Passes({ project }: { project: Project }) {
  const patternId = useBench((s) => s.patternId);
  const unsent = useRecorder((r) => r.unsent);
  const mine = project.passes.filter((p) => p.pattern === patternId);
  /** the newest muted pass that shares a lane with one that is heard */
  const other = (p: RecordedPass) => {
    const i = mine.findLastIndex((o) => o.muted && o.notes.some((n) => p.notes.includes(n)));
    const found = mine[i];
    return found ? { id: found.id, number: i + 1 } : null;
  };
  return (
    <section data-id="passes">
      <div className="row">
        <h3>Passes</h3>
        <span className="lab">newest first{unsent > 0 ? `; ${unsent} strikes on their way` : ''}</span>
      </div>
      {mine.length === 0 && (
        <p className="lab wraps">
          R records what you play. Each time through the loop in which you play something is a pass of its
          own: one undo, heard alone, muted, quantised afterwards.
        </p>
      )}
      {mine.toReversed().map((p, i) => {
        const at = mine.length - 1 - i;
        const before = mine[at - 1];
        return (
          <PassRow
            key={p.id}
            project={project}
            p={p}
            number={at + 1}
            last={before && before.muted === p.muted ? before.id : ''}
            swap={p.muted ? null : other(p)}
          />
        );
      })}
    </section>
  );
}
