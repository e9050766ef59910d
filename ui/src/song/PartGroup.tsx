// A part of the song: its head with what is heard of it, its blocks, and under them its lanes with their hits.
import { useEffect, useMemo, useRef } from 'react';
import type { Lane, Part, Project } from '../api/client';
import { choosePart, edit, toggleSilence, useBench } from '../app/state';
import { LaneColumn } from '../lanes/LaneColumn';
import { Chip } from '../lanes/marks';
import { NoteName } from '../lanes/NoteName';
import { inks } from '../roll/draw';
import { barOf, drawSong, type SongView } from './draw';
import { SongRow } from './SongRow';
import { goToRow, openParts, useSong } from './state';
import { seekBar } from './stream';

/** Height of a part's head, px. */
export const headH = 34;

/** The lanes of a part that are shown; none of one that is folded. */
export function lanesOf(
  project: Project,
  part: Part,
  own: Lane[],
  open: Readonly<Record<string, boolean>>,
): Lane[] {
  if (!(open[part.id] ?? part.id === project.part)) return [];
  return part.id === project.part ? own : part.lanes.filter((l) => l.shown);
}

function Silence({ part, what }: { part: Part; what: 'muted' | 'solo' }) {
  const on = part[what] === true;
  const word = what === 'muted' ? 'Mute' : 'Solo';
  return (
    <button
      type="button"
      className={`ms ${on ? 'on' : ''}`}
      aria-pressed={on}
      aria-label={`${word} the part ${part.title}`}
      title={`${word} the whole part`}
      onClick={() => void edit([{ part: { id: part.id, [what]: !on } }])}
    >
      {word[0]}
    </button>
  );
}

function Head({ project, part, shown }: { project: Project; part: Part; shown: boolean }) {
  const many = project.parts.length > 1;
  const here = part.id === project.part;
  const lanes = part.lanes.filter((l) => l.shown).length;
  return (
    <div
      className={`parthead ${here && many ? 'here' : ''} ${part.color ? `f-${part.color}` : ''}`}
      style={{ height: headH }}
    >
      <button
        type="button"
        className="fold"
        aria-expanded={shown}
        aria-label={`Lanes of the part ${part.title}`}
        title={shown ? 'Fold its lanes away' : 'Show its lanes'}
        onClick={() => openParts({ [part.id]: !shown })}
      >
        {shown ? '▾' : '▸'}
      </button>
      <button
        type="button"
        className="fold grow ellipsis"
        data-part={part.id || 'first'}
        title={many ? `Go to the part ${part.title}` : part.title}
        onClick={() => void goToRow(part.id)}
      >
        <b>{part.title}</b>{' '}
        <span className="lab">
          {part.output.to === 'kit' ? `${lanes} lanes` : `MIDI ${part.output.channel}`}
          {part.heard ? '' : ', not heard'}
        </span>
      </button>
      {many && <Silence part={part} what="muted" />}
      {many && <Silence part={part} what="solo" />}
    </div>
  );
}

/** The lanes of a part one is not in: pressed, one is in it. */
function OtherLanes({ part, lanes }: { part: Part; lanes: Lane[] }) {
  const go = (note: number) =>
    choosePart(part.id).then(() => useBench.setState({ lane: note, alsoLanes: [] }));
  return (
    <div className="lanes">
      {lanes.map((l) => {
        const off = part.silent.includes(l.note);
        return (
          <div key={l.note} className={`lane f-${l.color} ${off ? 'off' : ''}`} data-other={l.note}>
            <button
              type="button"
              className="pad"
              aria-label={`Go to ${l.name} of the part ${part.title}`}
              title={`Go to the part ${part.title}`}
              onClick={() => void go(l.note)}
            >
              <Chip code={l.code} family={l.color} />
            </button>
            <span className="nm">{l.name}</span>
            <span className="nt">
              <i>{l.note}</i>
              <NoteName note={l.note} />
            </span>
            <span className="ld" />
            {(['muted', 'solo'] as const).map((what) => {
              const word = what === 'muted' ? 'Mute' : 'Solo';
              return (
                <button
                  key={what}
                  type="button"
                  className="ms"
                  aria-label={`${word} ${l.name} of the part ${part.title}`}
                  title={word}
                  onClick={() => void go(l.note).then(() => toggleSilence(what, l.note))}
                >
                  {word[0]}
                </button>
              );
            })}
          </div>
        );
      })}
    </div>
  );
}

export function PartGroup({
  project,
  part,
  lanes,
  rowH,
  view,
  width,
}: {
  project: Project;
  part: Part;
  lanes: Lane[];
  rowH: number;
  view: SongView;
  width: number;
}) {
  const here = part.id === project.part;
  const lane = useBench((s) => (here ? s.lane : -1));
  const dark = useBench((s) => s.dark);
  const chosen = useSong((s) => s.chosen);
  const range = useSong((s) => s.range);
  const canvas = useRef<HTMLCanvasElement>(null);
  const silent = useMemo(() => new Set(part.silent), [part.silent]);
  useEffect(() => {
    if (!canvas.current?.parentElement || width === 0) return;
    drawSong(canvas.current, {
      project,
      part,
      lanes,
      rowH,
      view,
      width,
      silent: (note) => silent.has(note),
      chosen,
      range,
      lane,
      ink: inks(canvas.current.parentElement, lanes, dark),
    });
  }, [project, part, lanes, rowH, view, width, silent, chosen, range, lane, dark]);
  return (
    <>
      <Head project={project} part={part} shown={lanes.length > 0} />
      <div className="partblocks">
        <SongRow project={project} row={part.id} view={view} width={width} height={headH} />
      </div>
      {lanes.length > 0 && (
        <>
          {here ? <LaneColumn lanes={lanes} /> : <OtherLanes part={part} lanes={lanes} />}
          <div
            className="stage"
            data-id={here ? 'song-stage' : 'song-stage-other'}
            style={{ height: lanes.length * rowH }}
            onWheel={(e) => {
              const by = (e.deltaX || (e.shiftKey ? e.deltaY : 0)) / view.perBar;
              if (by !== 0) useSong.setState({ view: { ...view, from: Math.max(0, view.from + by) } });
            }}
            onPointerDown={(e) => {
              const bar = barOf(view, e.clientX - e.currentTarget.getBoundingClientRect().left);
              void seekBar(Math.max(0, Math.floor(bar)));
            }}
          >
            <canvas ref={canvas} style={{ width, height: lanes.length * rowH }} />
          </div>
        </>
      )}
    </>
  );
}
