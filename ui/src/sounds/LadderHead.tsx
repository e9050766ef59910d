// Over the velocity ladder: what is wrong with it, and what is done to all of its layers.
import { Button, Dropdown } from 'antd';
import type { Lane, Pad, Project, Range } from '../api/client';
import { shownLanes } from '../app/state';
import { Chip } from '../lanes/marks';
import { noteName } from '../model/time';
import { openShelf } from '../shelf/state';
import { kitEdit, padOf, putPad } from './state';

const range = (r: Range) => (r.lo === r.hi ? `${r.lo}` : `${r.lo}–${r.hi}`);

export const counted = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;

export function LadderHead({
  project,
  lane,
  pad,
  wrong,
}: {
  project: Project;
  lane: Lane;
  pad: Pad;
  /** none while its edges are dragged */
  wrong: Project['ladders'][number] | undefined;
}) {
  const gap = wrong?.gaps[0];
  const overlap = wrong?.overlaps[0];
  const takes = pad.layers.reduce((n, l) => n + l.sounds.reduce((m, s) => m + s.takes.length, 0), 0);
  const others = shownLanes(project.map).filter(
    (l) => l.note !== lane.note && padOf(project, l.note).layers.length === pad.layers.length,
  );
  return (
    <>
      <div className="row" style={{ height: 40, padding: '0 14px' }}>
        <Chip code={lane.code} family={lane.color} />
        <span className="ttl" style={{ fontSize: 'var(--t-title)' }}>
          {lane.name}
        </span>
        <span className="lab">
          {lane.role}, {lane.note} {noteName(lane.note)}
        </span>
        <span className="grow" />
        {gap && (
          <span className="tag doubt" title="Strikes this hard are silent">
            gap {range(gap)}
          </span>
        )}
        {overlap && (
          <span
            className="tag"
            title={pad.crossfade ? 'The layers crossfade here' : 'Both layers sound here'}
          >
            {pad.crossfade ? 'crossfades' : 'overlap'} {range(overlap)}
          </span>
        )}
        <span className="lab">
          {counted(pad.layers.length, 'layer')}, {counted(takes, 'take')}
        </span>
      </div>
      <div className="row" style={{ padding: '0 14px', gap: 6 }}>
        <Button
          size="small"
          onClick={() => openShelf({ kind: '', text: '' })}
          title="Find a sound on the shelf (L)"
        >
          + Sound
        </Button>
        <Button
          size="small"
          data-id="even"
          disabled={pad.layers.length < 2}
          onClick={() =>
            void kitEdit({ op: 'even', notes: [lane.note], label: `Even ranges of ${lane.name}` })
          }
        >
          Even ranges
        </Button>
        <Button
          size="small"
          data-id="by-loudness"
          title="Order the layers from soft to loud, as measured"
          disabled={pad.layers.length < 2}
          onClick={() =>
            void kitEdit({ op: 'loudness', notes: [lane.note], label: `Order ${lane.name} by loudness` })
          }
        >
          Soft to loud
        </Button>
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              {
                key: 'ranges',
                label: 'Copy these ranges to',
                children: [
                  ...others.map((l) => ({ key: `ranges ${l.note}`, label: l.name })),
                  ...(others.length === 0
                    ? [{ key: 'none', label: 'no pad with as many layers', disabled: true }]
                    : []),
                ],
              },
              ...['envelope', 'fades', 'level', 'pan', 'tune', 'play'].map((setting) => ({
                key: setting,
                label: `Copy ${setting === 'play' ? 'how it plays' : `its ${setting}`} to`,
                children: [
                  { key: `${setting} all`, label: 'every other pad' },
                  ...project.kit.pads
                    .filter((p) => p.note !== lane.note)
                    .map((p) => ({
                      key: `${setting} ${p.note}`,
                      label: project.map.lanes.find((l) => l.note === p.note)?.name ?? `note ${p.note}`,
                    })),
                ],
              })),
              { type: 'divider' },
              { key: 'crossfade', label: pad.crossfade ? 'Do not crossfade overlaps' : 'Crossfade overlaps' },
              {
                key: 'empty',
                label: `Take all sounds off ${lane.name}`,
                danger: true,
                disabled: takes === 0,
              },
            ],
            onClick: ({ key }) => {
              const [what, to] = key.split(' ');
              if (key === 'crossfade')
                void putPad({ ...pad, crossfade: !pad.crossfade }, `Crossfade of ${lane.name}`);
              else if (key === 'empty')
                void kitEdit({ op: 'pads', remove: [lane.note], label: `Take the sounds off ${lane.name}` });
              else if (what === 'ranges')
                void kitEdit({
                  op: 'ranges',
                  from: lane.note,
                  notes: [Number(to)],
                  label: `Copy ranges of ${lane.name}`,
                });
              else if (what && to)
                void kitEdit({
                  op: 'copy',
                  from: lane.note,
                  notes:
                    to === 'all'
                      ? project.kit.pads.map((p) => p.note).filter((n) => n !== lane.note)
                      : [Number(to)],
                  settings: [what],
                  label: `Copy ${what} of ${lane.name}`,
                });
            },
          }}
        >
          <Button size="small">More…</Button>
        </Dropdown>
      </div>
    </>
  );
}
