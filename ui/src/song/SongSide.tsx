// What is chosen in the song: a block with what may be done to it, or the bars at the cursor.
import { Button, Dropdown, InputNumber } from 'antd';
import { useState } from 'react';
import type { Project, StoredBlock } from '../api/client';
import { NumberField } from '../app/NumberField';
import { edit } from '../app/state';
import {
  changeChosen,
  copyChosen,
  layBlocks,
  openBlock,
  repeatChosen,
  roundOf,
  splitChosen,
  useSong,
} from './state';
import { families, Swatch } from '../lanes/Swatch';
import { keepTrial, leaveTrial, tryBlock, useTrial } from './trial';

/** Lanes of the block's pattern, to be left out or not. */
function LeaveOut({ project, b }: { project: Project; b: StoredBlock }) {
  const pattern = project.patterns.find((p) => p.id === b.value.pattern)?.value;
  const has = new Set(pattern?.hits.map((h) => h.note));
  const out = b.value.leftOut ?? [];
  const lanes = project.map.lanes.filter((l) => has.has(l.note));
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: lanes.map((l) => ({
          key: String(l.note),
          label: `${out.includes(l.note) ? '✕ ' : ''}${l.name}`,
        })),
        onClick: ({ key }) => {
          const note = Number(key);
          changeChosen(
            (x) => {
              const left = x.leftOut ?? [];
              return {
                ...x,
                leftOut: left.includes(note) ? left.filter((n) => n !== note) : [...left, note],
              };
            },
            out.includes(note) ? 'Bring a lane back' : 'Leave a lane out',
          );
        },
      }}
    >
      <Button size="small" title="Lanes that are silent in this block">
        {out.length === 0 ? 'Leave out…' : `${out.length} left out`}
      </Button>
    </Dropdown>
  );
}

/** The colour of a block, else that of its pattern. */
function Colour({ b }: { b: StoredBlock }) {
  const own = b.value.color ?? '';
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: ['', ...families].map((f) => ({
          key: f || 'none',
          label: f ? <Swatch family={f} name={f} /> : 'as its pattern',
        })),
        onClick: ({ key }) => {
          const color = key === 'none' ? '' : key;
          changeChosen((x) => ({ ...x, color }), 'Colour of a block');
        },
      }}
    >
      <Button
        size="small"
        title="Colour of the block"
        aria-label="Colour of the block"
        data-id="block-colour"
      >
        <Swatch family={own} />
      </Button>
    </Dropdown>
  );
}

function Recording({ b }: { b: StoredBlock }) {
  const v = b.value;
  const put = (to: Partial<typeof v>, label: string) =>
    layBlocks([{ id: b.id, block: { ...v, ...to } }], label);
  return (
    <div className="row" style={{ flexWrap: 'wrap', gap: 4 }}>
      {(
        [
          ['level', 'Level, dB', -60, 12, v.levelDB ?? 0, (n) => ({ levelDB: n })],
          [
            'later',
            'How much later it begins, ms',
            -60000,
            60000,
            Math.round((v.nudge ?? 0) * 1000),
            (n) => ({ nudge: n / 1000 }),
          ],
          ['in', 'Fade in, seconds', 0, 60, v.fadeIn ?? 0, (n) => ({ fadeIn: n })],
          ['out', 'Fade out, seconds', 0, 60, v.fadeOut ?? 0, (n) => ({ fadeOut: n })],
        ] as [string, string, number, number, number, (n: number) => Partial<typeof v>][]
      ).map(([word, name, min, max, value, to]) => (
        <span key={word} className="row" style={{ gap: 4 }}>
          <span className="lab">{word}</span>
          <NumberField
            size="small"
            style={{ width: 46 }}
            name={name}
            min={min}
            max={max}
            controls={false}
            value={value}
            set={(n) => n !== null && void put(to(n), `${name.split(',')[0]}: a recording`)}
          />
        </span>
      ))}
      <Button
        size="small"
        title={
          v.free
            ? 'It keeps its own tempo; press to let it follow the song’s at the same pitch'
            : 'It follows the song’s tempo at the same pitch; press to leave it as it is'
        }
        onClick={() =>
          void put(
            { free: !v.free },
            v.free ? 'A recording follows the tempo' : 'A recording keeps its tempo',
          )
        }
      >
        {v.free ? 'own tempo' : 'follows'}
      </Button>
      <Button
        size="small"
        data-id="attack"
        title="The stroke heard nearest to its first bar falls on that bar"
        onClick={() => void edit([{ block: { id: b.id, attack: true } }])}
      >
        attack on the bar
      </Button>
    </div>
  );
}

export function SongSide({ project }: { project: Project }) {
  const chosen = useSong((s) => s.chosen);
  const cursor = useSong((s) => s.cursor);
  const tried = useTrial((s) => s.now);
  const trial = tried && tried.what !== 'perform' ? tried : null;
  const [b, ...more] = project.blocks.filter((x) => chosen.includes(x.id));
  if (!b)
    return (
      <div className="stripside songside">
        <div className="row">
          <span className="ttl">Bar {cursor + 1}</span>
          <span className="lab">Enter lays the pattern here</span>
        </div>
        <p className="lab">Arrows move; Shift+arrows choose bars, {'\\'} lets them go round.</p>
      </div>
    );
  const name =
    project.patterns.find((p) => p.id === b.value.pattern)?.value.name ??
    project.recordings.find((r) => r.id === b.value.recording)?.name ??
    'gone';
  const alike = project.blocks.filter((x) => x.value.pattern && x.value.pattern === b.value.pattern).length;
  return (
    <div className="stripside songside" data-id="song-side">
      <div className="row">
        <span className="ttl ellipsis">{more.length > 0 ? `${more.length + 1} blocks` : name}</span>
        <span className="lab">
          bars {b.value.bar + 1} to {b.value.bar + b.value.bars}
        </span>
        <span className="grow" />
        <Button size="small" type="text" title="Remove (Delete)" onClick={() => changeChosen(() => null)}>
          Remove
        </Button>
      </div>
      {trial ? (
        <div className="row" style={{ flexWrap: 'wrap', gap: 4 }} data-id="trial">
          <Button
            size="small"
            type="primary"
            data-id="keep-trial"
            title="Enter"
            onClick={() => keepTrial(false)}
          >
            Keep here
          </Button>
          {alike > 1 && (
            <Button
              size="small"
              title="In every block that plays this pattern"
              onClick={() => keepTrial(true)}
            >
              In all {alike}
            </Button>
          )}
          <Button size="small" onClick={() => void tryBlock(trial.what, true)}>
            Another
          </Button>
          <Button size="small" type="text" title="Escape" onClick={leaveTrial}>
            Put back
          </Button>
        </div>
      ) : b.value.recording ? (
        <Recording b={b} />
      ) : (
        <>
          <div className="row" style={{ gap: 4 }}>
            <Button
              size="small"
              aria-label="Once less"
              title="Once less (-)"
              onClick={() => repeatChosen(-1)}
            >
              −
            </Button>
            <span className="num" data-id="rounds">
              × {Number((b.value.bars / roundOf(project, b.value)).toFixed(2))}
            </span>
            <Button size="small" aria-label="Once more" title="Once more (+)" onClick={() => repeatChosen(1)}>
              +
            </Button>
            <Button
              size="small"
              data-id="open-block"
              title="Open it in Steps while the song plays on (O)"
              onClick={() => void openBlock(b)}
            >
              Open
            </Button>
            <LeaveOut project={project} b={b} />
            <Colour b={b} />
          </div>
          <div className="row" style={{ gap: 4 }}>
            <Button
              size="small"
              data-id="fill-block"
              title="Its last bar a fill: heard first, a second press keeps it (Shift+L)"
              onClick={() => void tryBlock('fill')}
            >
              Fill
            </Button>
            <Button
              size="small"
              title="Its last time through a little otherwise (Shift+R)"
              onClick={() => void tryBlock('vary')}
            >
              Vary
            </Button>
            <Button
              size="small"
              title="Copy behind itself, linked (Ctrl+D)"
              onClick={() => copyChosen(false)}
            >
              Copy
            </Button>
            <Button size="small" title="Split at the cursor (/)" onClick={splitChosen}>
              Split
            </Button>
            {alike > 1 && (
              <Button
                size="small"
                data-id="own-block"
                title={`A copy of its own: it changes no longer with the ${alike - 1} others`}
                onClick={() => void edit([{ block: { id: b.id, own: true } }])}
              >
                Its own
              </Button>
            )}
          </div>
        </>
      )}
    </div>
  );
}

/** Tempo and meter from the cursor's bar on. */
export function AtBar({ project }: { project: Project }) {
  const cursor = useSong((s) => s.cursor);
  const { song } = project;
  const tempo = song.tempos.find((t) => t.bar === cursor);
  const [draft, setDraft] = useState<number | null>(null);
  const put = (tempos: typeof song.tempos, meters = song.meters) =>
    void edit([
      {
        song: {
          song: {
            tempos: tempos.toSorted((a, b) => a.bar - b.bar),
            meters: meters.toSorted((a, b) => a.bar - b.bar),
          },
        },
      },
    ]);
  const others = song.tempos.filter((t) => t.bar !== cursor);
  const meter = song.meters.find((m) => m.bar === cursor)?.meter;
  return (
    <div className="row" data-id="at-bar" style={{ gap: 4 }}>
      <b>From bar {cursor + 1}</b>
      <InputNumber
        size="small"
        style={{ width: 64 }}
        aria-label="Tempo from this bar on, BPM"
        placeholder="BPM"
        controls={false}
        min={20}
        max={400}
        value={draft ?? tempo?.bpm ?? null}
        onChange={(v) => setDraft(v)}
        onBlur={() => {
          if (draft !== null && draft !== tempo?.bpm)
            put([...others, { bar: cursor, bpm: draft, ...(tempo?.glide ? { glide: true } : {}) }]);
          setDraft(null);
        }}
        onPressEnter={(e) => e.currentTarget.blur()}
      />
      <span className="lab">BPM</span>
      {tempo && (
        <>
          <Button
            size="small"
            type={tempo.glide ? 'primary' : 'default'}
            aria-pressed={tempo.glide ?? false}
            title="From here the tempo glides to the next one"
            onClick={() => put([...others, { ...tempo, glide: !tempo.glide }])}
          >
            glides
          </Button>
          <Button size="small" type="text" title="No tempo of its own here" onClick={() => put(others)}>
            Take out
          </Button>
        </>
      )}
      <Dropdown
        trigger={['click']}
        menu={{
          items: ['as before', '4/4', '3/4', '6/8', '5/4', '7/8', '12/8'].map((m) => ({ key: m, label: m })),
          onClick: ({ key }) => {
            const rest = song.meters.filter((m) => m.bar !== cursor);
            const [beats, unit] = key.split('/').map(Number);
            put(song.tempos, beats && unit ? [...rest, { bar: cursor, meter: { beats, unit } }] : rest);
          },
        }}
      >
        <Button size="small" title="Meter from this bar on">
          {meter ? `${meter.beats}/${meter.unit}` : 'meter'}
        </Button>
      </Dropdown>
    </div>
  );
}
