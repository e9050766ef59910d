// Over the velocity ladder: what is wrong with it, and what is done to all of its layers.
import { DeleteOutlined } from '@ant-design/icons';
import { useState } from 'react';
import { NoteName } from '../lanes/NoteName';
import { Button, Dropdown } from 'antd';
import type { Lane, Pad, Project, Range } from '../api/client';
import { edit, shownLanes } from '../app/state';
import { Chip } from '../lanes/marks';
import { openShelf } from '../shelf/state';
import { movePad, SpreadPad } from './PadThings';
import { NumberField } from '../app/NumberField';
import { closings, withLimit, withoutLayer } from './limits';
import { chooseTake, kitEdit, padOf, putPad, useSounds } from './state';

/** What a setting that is copied is called. */
const copied: Record<string, string> = { play: 'how it plays', drawn: 'its drawn curves' };

const range = (r: Range) => (r.lo === r.hi ? `${r.lo}` : `${r.lo}–${r.hi}`);

export const counted = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;

export function LadderHead({
  project,
  lane,
  pad,
  wrong,
  width,
}: {
  project: Project;
  lane: Lane;
  pad: Pad;
  /** none while its edges are dragged */
  wrong: Project['ladders'][number] | undefined;
  /** px */
  width: number;
}) {
  const at = Math.min(
    useSounds((s) => s.layer),
    pad.layers.length - 1,
  );
  const layer = pad.layers[at];
  const narrow = width < 560;

  const gap = wrong?.gaps[0];
  const overlap = wrong?.overlaps[0];
  const takes = pad.layers.reduce((n, l) => n + l.sounds.reduce((m, s) => m + s.takes.length, 0), 0);
  const others = shownLanes(project.map).filter(
    (l) => l.note !== lane.note && padOf(project, l.note).layers.length === pad.layers.length,
  );
  const [spreading, setSpreading] = useState(false);
  const even = () => void kitEdit({ op: 'even', notes: [lane.note], label: `Even ranges of ${lane.name}` });
  const byLoudness = () =>
    void kitEdit({ op: 'loudness', notes: [lane.note], label: `Order ${lane.name} by loudness` });
  return (
    <>
      <div className="row" style={{ height: 40, padding: '0 14px' }}>
        <Chip code={lane.code} family={lane.color} />
        <span className="ttl" style={{ fontSize: 'var(--t-title)' }}>
          {lane.name}
        </span>
        <span className="lab">
          {lane.role}, {lane.note} <NoteName note={lane.note} />
        </span>
        <span className="grow" />
        {gap && (
          <Dropdown
            trigger={['click']}
            menu={{
              items: closings(pad, gap).map((c) => ({ key: c.words, label: c.words })),
              onClick: ({ key }) => {
                const to = closings(pad, gap).find((c) => c.words === key);
                if (to) void putPad(to.pad, `Close a gap of ${lane.name}`);
              },
            }}
          >
            <button
              type="button"
              className="tag doubt"
              data-id="gap"
              title="Strikes this hard are silent; close it here"
            >
              gap {range(gap)}, close…
            </button>
          </Dropdown>
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
      {spreading && <SpreadPad lane={lane} close={() => setSpreading(false)} />}
      <div className="row" style={{ padding: '0 14px', gap: 6 }}>
        <Button
          size="small"
          onClick={() => openShelf({ kind: '', text: '' })}
          title="Find a sound on the shelf (L)"
        >
          + Sound
        </Button>
        {!narrow && (
          <>
            <Button
              size="small"
              data-id="even"
              title="All layers get the same share of the velocities"
              disabled={pad.layers.length < 2}
              onClick={even}
            >
              Even ranges
            </Button>
            <Button
              size="small"
              data-id="by-loudness"
              title="Order the layers from soft to loud, as measured"
              disabled={pad.layers.length < 2}
              onClick={byLoudness}
            >
              Soft to loud
            </Button>
          </>
        )}
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              ...(narrow
                ? [
                    { key: 'even', label: 'Even ranges', disabled: pad.layers.length < 2 },
                    { key: 'loudness', label: 'Soft to loud, as measured', disabled: pad.layers.length < 2 },
                    { type: 'divider' as const },
                  ]
                : []),
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
              ...['envelope', 'fades', 'drawn', 'level', 'pan', 'tune', 'play'].map((setting) => ({
                key: setting,
                label: `Copy ${copied[setting] ?? `its ${setting}`} to`,
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
              ...(['copy', 'move', 'swap'] as const).map((how) => ({
                key: `pad ${how}`,
                label: { copy: 'Copy the whole pad to', move: 'Move the pad to', swap: 'Swap the pad with' }[
                  how
                ],
                disabled: takes === 0,
                children: project.map.lanes
                  .filter((l) => l.note !== lane.note)
                  .map((l) => ({ key: `pad-${how} ${l.note}`, label: `${l.code} ${l.name}` })),
              })),
              { key: 'duplicate', label: 'Copy it to a lane of its own', disabled: takes === 0 },
              { key: 'spread', label: 'Spread it over notes…', disabled: takes === 0 },
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
              if (what?.startsWith('pad-') && to) {
                movePad(lane.note, Number(to), what.slice(4) as 'copy');
                return;
              }
              if (key === 'duplicate') {
                void edit([{ spreadPad: { note: lane.note, count: 1, step: 0 } }]);
                return;
              }
              if (key === 'spread') {
                setSpreading(true);
                return;
              }
              if (key === 'even') even();
              else if (key === 'loudness') byLoudness();
              else if (key === 'crossfade')
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
          <Button
            size="small"
            data-id="ladder-more"
            title="Ranges, copies to other pads, crossfade, all sounds off"
          >
            More…
          </Button>
        </Dropdown>
        <span className="grow" />
        {layer && (
          <>
            <span className="lab">
              {narrow ? '' : 'Layer '}
              {at + 1}:
            </span>
            {(['lo', 'hi'] as const).map((edge) => (
              <NumberField
                key={edge}
                name={edge === 'lo' ? 'Softest velocity of the layer' : 'Hardest velocity of the layer'}
                size="small"
                controls={false}
                style={{ width: 42 }}
                min={edge === 'lo' ? 1 : layer.lo}
                max={edge === 'lo' ? layer.hi : 127}
                value={layer[edge]}
                set={(v) => {
                  if (v !== null) void putPad(withLimit(pad, at, edge, v), `Ranges of ${lane.name}`);
                }}
              />
            ))}
            <Button
              size="small"
              type="text"
              data-id="remove-layer"
              icon={<DeleteOutlined />}
              aria-label={`Take layer ${at + 1} out`}
              title="Take this layer out; its velocities stay free until a neighbour takes them"
              onClick={() => {
                chooseTake(Math.max(0, at - 1));
                void putPad(withoutLayer(pad, at), `Take out layer ${at + 1} of ${lane.name}`);
              }}
            />
          </>
        )}
      </div>
    </>
  );
}
