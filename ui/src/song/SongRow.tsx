// One row of the song: its blocks, chosen, dragged, made longer and shorter at their ends.
import { memo, useMemo, useRef, useState } from 'react';
import type { Pattern, Project, Recording, Song, StoredBlock } from '../api/client';
import { edit, useBench } from '../app/state';
import { hex, Poly } from '../lanes/marks';
import { barOf, type SongView, xOf } from './draw';
import {
  blockAt,
  goToRow,
  layBlocks,
  layPattern,
  layRecording,
  openBlock,
  recordingsRow,
  rowOf,
  useSong,
} from './state';
import { BlockWave } from './BlockWave';
import { seekBar } from './stream';

type Grip = 'all' | 'begin' | 'end';
interface Drag {
  id: string;
  grip: Grip;
  /** bars moved so far */
  by: number;
  copies: boolean;
}

/** px at either end of a block by which it is made longer */
const edge = 7;

/** What a drag makes of a block. */
function dragged(b: StoredBlock['value'], d: Drag): StoredBlock['value'] {
  if (d.grip === 'all') return { ...b, bar: Math.max(0, b.bar + d.by) };
  if (d.grip === 'end') return { ...b, bars: Math.max(1, b.bars + d.by) };
  const by = Math.max(-Math.min(b.bar, b.fromBar ?? 0), Math.min(b.bars - 1, d.by));
  return { ...b, bar: b.bar + by, bars: b.bars - by, fromBar: (b.fromBar ?? 0) + by };
}

/** Beads: one a time through; two joined ones when other blocks play the same pattern. */
function Beads({ rounds, linked }: { rounds: number; linked: boolean }) {
  return (
    <svg width={linked ? 22 : 12} height={12} aria-hidden="true" style={{ flex: 'none' }}>
      <title>{linked ? 'Linked: other blocks play this pattern too' : 'Its own'}</title>
      <Poly
        pts={hex(6, 6, 11, 10)}
        fill={rounds > 1 || linked ? 'var(--ink-2)' : 'none'}
        stroke="var(--ink-2)"
      />
      {linked && <Poly pts={hex(15, 6, 11, 10)} fill="none" stroke="var(--ink-2)" />}
    </svg>
  );
}

// drawn anew only when something of it changed: a long song has many, and one of them is dragged
const Block = memo(function Block({
  b,
  pattern,
  recording,
  song,
  linked,
  fault,
  view,
  drag,
}: {
  b: StoredBlock;
  pattern: Pattern | undefined;
  recording: Recording | undefined;
  /** the song's time, of a recording */
  song: Song | null;
  linked: boolean;
  fault: string | undefined;
  view: SongView;
  drag: Drag | null;
}) {
  const chosen = useSong((s) => s.chosen.includes(b.id));
  const value = drag ? dragged(b.value, drag) : b.value;
  const name = pattern?.name ?? recording?.name ?? 'gone';
  const rounds = value.bars / (pattern?.bars ?? 1);
  const times = recording ? `${value.bars} bars` : `× ${Number(rounds.toFixed(2))}`;
  const wide = value.bars * view.perBar;
  return (
    <div
      role="option"
      aria-selected={chosen}
      aria-label={`${name} ${times}, bars ${value.bar + 1} to ${value.bar + value.bars}${fault ? `: ${fault}` : ''}`}
      className={`songblock ${chosen ? 'on' : ''} ${value.muted ? 'off' : ''} ${value.color || pattern?.color ? `f-${value.color || pattern?.color}` : ''}`}
      data-block={b.id}
      title={`${name}: bars ${value.bar + 1} to ${value.bar + value.bars}. ${fault ? `⚠ ${fault}. ` : ''}Drag it; drag an end to make it longer; double click opens it`}
      style={{
        left: xOf(view, value.bar),
        width: Math.max(4, wide - 2),
      }}
    >
      {recording && song && (
        <BlockWave recording={recording} block={value} width={Math.max(4, wide - 2)} song={song} />
      )}
      {wide > 26 && !recording && <Beads rounds={rounds} linked={linked} />}
      {fault && <span>⚠</span>}
      {wide > (recording ? 150 : 40) && <b className="ellipsis grow">{name}</b>}
      {wide > 110 && <span className="num">{times}</span>}
    </div>
  );
});

export function SongRow({
  project,
  row,
  view,
  width,
  height,
}: {
  project: Project;
  row: string;
  view: SongView;
  width: number;
  height: number;
}) {
  const cursor = useSong((s) => (s.row === row ? s.cursor : -1));
  const [drag, setDrag] = useState<Drag | null>(null);
  const from = useRef(0);
  const box = useRef<HTMLDivElement>(null);
  const at = (clientX: number) => barOf(view, clientX - (box.current?.getBoundingClientRect().left ?? 0));
  const blocks = project.blocks.filter((b) => rowOf(b.value) === row);
  const patterns = useMemo(() => new Map(project.patterns.map((p) => [p.id, p.value])), [project.patterns]);
  const plays = useMemo(() => {
    const n = new Map<string, number>();
    for (const { value } of project.blocks)
      if (value.pattern) n.set(value.pattern, (n.get(value.pattern) ?? 0) + 1);
    return n;
  }, [project.blocks]);
  const last = barOf(view, width);
  const finish = () => {
    if (!drag) return;
    const b = project.blocks.find((x) => x.id === drag.id);
    setDrag(null);
    if (!b || drag.by === 0) return;
    const next = dragged(b.value, drag);
    if (drag.grip === 'end') void edit([{ block: { id: b.id, end: next.bar + next.bars } }]);
    else if (drag.grip === 'begin') void edit([{ block: { id: b.id, begin: next.bar } }]);
    else if (drag.copies) void layBlocks([{ block: next }], 'Copy a block');
    else {
      const { chosen } = useSong.getState();
      const moved = project.blocks.filter((x) => chosen.includes(x.id));
      // together up to the beginning, not onto each other
      const by = Math.max(drag.by, -Math.min(...moved.map((x) => x.value.bar)));
      const put = moved.map((x) => ({ id: x.id, block: { ...x.value, bar: x.value.bar + by } }));
      void layBlocks(put, put.length > 1 ? `Move ${put.length} blocks` : 'Move a block');
    }
  };
  return (
    <div
      ref={box}
      className="songrow"
      role={blocks.length === 0 ? 'group' : 'listbox'}
      aria-label={row === recordingsRow ? 'Recordings in the song' : 'Blocks of the song'}
      data-row={row === recordingsRow ? 'recordings' : row || 'first'}
      style={{ height }}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        const bar = Math.max(0, Math.floor(at(e.clientX)));
        const pattern = e.dataTransfer.getData('text/x-pattern');
        const recording = e.dataTransfer.getData('text/x-recording');
        if (!pattern && !recording) return;
        e.preventDefault();
        e.stopPropagation();
        if (pattern) layPattern(pattern, bar);
        else layRecording(recording, bar);
      }}
      onDoubleClick={(e) => void openBlock(blockAt(project, row, Math.floor(at(e.clientX))))}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        const place = at(e.clientX);
        const bar = Math.max(0, Math.floor(place));
        const b = blockAt(project, row, bar);
        if (!b) {
          useSong.setState({ chosen: [], range: null });
          void goToRow(row);
          void seekBar(bar);
          return;
        }
        const x = place - b.value.bar;
        const end = b.value.bar + b.value.bars - place;
        const grip = end * view.perBar < edge ? 'end' : x * view.perBar < edge ? 'begin' : 'all';
        const { chosen } = useSong.getState();
        const also = e.shiftKey;
        useSong.setState({
          row,
          cursor: bar,
          range: null,
          chosen: also ? [...new Set([...chosen, b.id])] : chosen.includes(b.id) ? chosen : [b.id],
        });
        void goToRow(row).then(() => b.value.pattern && useBench.setState({ patternId: b.value.pattern }));
        from.current = place;
        e.currentTarget.setPointerCapture(e.pointerId);
        setDrag({ id: b.id, grip, by: 0, copies: e.ctrlKey || e.metaKey });
      }}
      onPointerMove={(e) => {
        if (!drag || e.buttons !== 1) return;
        const by = Math.round(at(e.clientX) - from.current);
        if (by !== drag.by) setDrag({ ...drag, by });
      }}
      onPointerUp={finish}
      onPointerCancel={() => setDrag(null)}
    >
      {blocks
        .filter((b) => b.id === drag?.id || (b.value.bar <= last && b.value.bar + b.value.bars >= view.from))
        .map((b) => (
          <Block
            key={b.id}
            b={b}
            pattern={patterns.get(b.value.pattern ?? '')}
            recording={project.recordings.find((r) => r.id === b.value.recording)}
            song={b.value.recording ? project.song : null}
            linked={(plays.get(b.value.pattern ?? '') ?? 0) > 1}
            fault={project.song.faults[b.id]}
            view={view}
            drag={drag?.id === b.id ? drag : null}
          />
        ))}
      {cursor >= 0 && (
        <div
          className="songcursor"
          data-id="song-cursor"
          style={{ left: xOf(view, cursor), width: view.perBar - 2 }}
        />
      )}
      {blocks.length === 0 && (
        <span
          className="lab"
          style={{ position: 'absolute', left: 18 + (cursor === 0 ? view.perBar : 0), top: height / 2 - 9 }}
        >
          {row === recordingsRow
            ? 'Drag a recording here, and it runs along with the bars'
            : 'Drag a pattern here, or press Enter: it is laid at the cursor'}
        </span>
      )}
    </div>
  );
}
