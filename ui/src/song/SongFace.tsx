// The song: patterns in a row, drawn with their hits on the same lanes as everywhere.
import { useCallback, useEffect, useMemo, useRef } from 'react';
import type { Project } from '../api/client';
import { NameDialog } from '../app/NameDialog';
import { edit, shownLanes, useBench } from '../app/state';
import { useFaceKeys } from '../app/face';
import { Transport } from '../app/Transport';
import { useRows } from '../app/useRows';
import { useSize } from '../app/useSize';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { player } from '../player/player';
import { barOf, hitsByBar, pad, type SongView, xOf } from './draw';
import { songKeys } from './keys';
import { headH, lanesOf, PartGroup } from './PartGroup';
import { SectionRow } from './SectionRow';
import { SongRow } from './SongRow';
import { AtBar, SongSide } from './SongSide';
import { SongTools } from './SongTools';
import { Shapes } from './Shapes';
import { recordingsRow, useSong } from './state';
import { seekBar } from './stream';
import { barAt } from '../model/songClock';

/** Bars that are shown at least, so that there is room to lay. */
const leastBars = 16;
const overviewH = 44;
/** how low a lane may be in the song, px */
const songRow = 28;

/** What of the song is shown: all of it while it fits, else from where one went. */
function useView(end: number, width: number): SongView {
  const view = useSong((s) => s.view);
  return useMemo(
    () => view ?? { from: 0, perBar: Math.max(6, (width - 2 * pad) / Math.max(leastBars, end + 4)) },
    [view, end, width],
  );
}

function Ruler({ project, view, width }: { project: Project; view: SongView; width: number }) {
  const range = useSong((s) => s.range);
  const looped = useSong((s) => s.looped);
  const from = useRef(-1);
  const step = [1, 2, 4, 8, 16, 32, 64].find((n) => n * view.perBar >= 34) ?? 64;
  const last = Math.ceil(barOf(view, width));
  const first = Math.max(0, Math.floor(view.from / step) * step);
  const numbers = Array.from(
    { length: Math.max(0, Math.ceil((last - first) / step)) },
    (_, i) => first + i * step,
  );
  const barHere = (e: React.PointerEvent) =>
    Math.max(0, Math.floor(barOf(view, e.clientX - e.currentTarget.getBoundingClientRect().left)));
  return (
    <svg
      className="fill songruler"
      width={width}
      height={22}
      aria-label="Bars: press to go there, drag to choose bars"
      onPointerDown={(e) => {
        from.current = barHere(e);
        e.currentTarget.setPointerCapture(e.pointerId);
        void seekBar(from.current);
        useSong.setState({ range: null, looped: false });
      }}
      onPointerMove={(e) => {
        if (e.buttons !== 1 || from.current < 0) return;
        const bar = barHere(e);
        if (bar !== from.current || useSong.getState().range)
          useSong.setState({
            range: { from: Math.min(bar, from.current), to: Math.max(bar, from.current) + 1 },
          });
      }}
      onPointerUp={() => (from.current = -1)}
    >
      {range && (
        <rect
          x={xOf(view, range.from)}
          y={looped ? 0 : 14}
          width={(range.to - range.from) * view.perBar}
          height={looped ? 22 : 8}
          fill={looped ? 'var(--ink)' : 'var(--veil)'}
        />
      )}
      {numbers.map((bar) => (
        <g key={bar}>
          <line x1={xOf(view, bar)} x2={xOf(view, bar)} y1={14} y2={22} stroke="var(--rule-strong)" />
          <text
            x={xOf(view, bar) + 4}
            y={14}
            className={bar % 8 === 0 ? 'b' : ''}
            style={range && looped && bar >= range.from && bar < range.to ? { fill: 'var(--ink-on)' } : {}}
          >
            {bar + 1}
          </text>
        </g>
      ))}
      {project.song.tempos.map((t) => (
        <text key={`t${t.bar}`} x={xOf(view, t.bar) + 22} y={12} className="i">
          <title>{`From bar ${t.bar + 1}: ${t.bpm} BPM${t.glide ? ', gliding to the next tempo' : ''}`}</title>
          ♩{t.bpm}
          {t.glide ? '↝' : ''}
        </text>
      ))}
      {project.song.meters.map((m) => (
        <text key={`m${m.bar}`} x={xOf(view, m.bar) + 4} y={22} className="i">
          {m.meter.beats}/{m.meter.unit}
        </text>
      ))}
    </svg>
  );
}

/** Where the song is now, over the whole stage. */
function Playhead({ project, view, width }: { project: Project; view: SongView; width: number }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      player.listenToAll((r) => {
        if (!line.current) return;
        const shown = r.playing && useBench.getState().song && !useBench.getState().instead;
        line.current.style.display = shown ? '' : 'none';
        if (!shown) return;
        const bar = barAt(project.song.bars, r.atS);
        const x = xOf(view, bar);
        line.current.style.transform = `translateX(${x}px)`;
        line.current.style.visibility = x < 0 ? 'hidden' : '';
        line.current.dataset.bar = bar.toFixed(3);
        const { view: own } = useSong.getState();
        // a view of one's own follows what plays by pages
        if (own && useBench.getState().follow && (x > width - 8 || x < 0))
          useSong.setState({ view: { ...own, from: Math.max(0, Math.floor(bar)) } });
      }),
    [project.song.bars, view, width],
  );
  return <div ref={line} className="songhead" data-id="song-head" style={{ display: 'none' }} />;
}

const closeNaming = () => useSong.setState({ naming: '' });

/** How many hits sound in each bar of each part, and what of the song is shown: pressed, one goes there. */
function Overview({ project, view, width }: { project: Project; view: SongView; width: number }) {
  const bars = useMemo(() => hitsByBar(project), [project]);
  const end = Math.max(leastBars, project.song.end);
  // all of it seen, its bars stand under their numbers
  const step =
    (width - 2 * pad) / view.perBar >= end && view.from === 0 ? view.perBar : (width - 2 * pad) / end;
  const most = Math.max(1, ...bars.map((parts) => parts.reduce((a, b) => a + b, 0)));
  const shown = (width - 2 * pad) / view.perBar;
  const go = (e: React.PointerEvent) => {
    const bar = (e.clientX - e.currentTarget.getBoundingClientRect().left - pad) / step;
    if (useSong.getState().view)
      useSong.setState({ view: { ...view, from: Math.max(0, Math.floor(bar - shown / 2)) } });
    else void seekBar(Math.max(0, Math.min(end - 1, Math.floor(bar))));
  };
  return (
    <svg
      className="songwhole"
      width={width}
      height={overviewH}
      aria-label="The whole song: how many hits sound in each bar. Press to go there"
      onPointerDown={go}
      onPointerMove={(e) => e.buttons === 1 && go(e)}
    >
      {bars.map((parts, bar) => {
        let y = overviewH - 3;
        return parts.map((n, i) => {
          const h = (n / most) * (overviewH - 8);
          y -= h;
          return n === 0 ? null : (
            <rect
              key={`${bar} ${project.parts[i]?.id ?? ''}`}
              x={pad + bar * step}
              y={y}
              width={Math.max(0.5, step - 1)}
              height={h}
              fill={i % 2 === 0 ? 'var(--rule-strong)' : 'var(--ink-3)'}
            />
          );
        });
      })}
      {shown < end && (
        <rect
          x={pad + view.from * step}
          y={1}
          width={Math.min(width, shown * step)}
          height={overviewH - 2}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.5}
        />
      )}
    </svg>
  );
}

export function SongFace({ project: seen }: { project: Project }) {
  const allPatterns = useBench((s) => s.allPatterns);
  // with the patterns of all parts
  const project = useMemo(() => ({ ...seen, patterns: allPatterns }), [seen, allPatterns]);
  const map = project.map;
  const own = useMemo(() => shownLanes(map), [map]);
  const open = useSong((s) => s.open);
  const naming = useSong((s) => s.naming);
  const [ref, size] = useSize<HTMLDivElement>();
  const view = useView(project.song.end, size.width);
  const groups = useMemo(
    () => project.parts.map((part) => ({ part, lanes: lanesOf(project, part, own, open) })),
    [project, own, open],
  );
  const rowH = useRows(
    groups.reduce((n, g) => n + g.lanes.length, 0),
    98,
    groups.length * headH,
    songRow,
  );
  const keys = useCallback(
    (e: Parameters<typeof songKeys>[0]) => songKeys(e, view, size.width),
    [view, size.width],
  );
  useFaceKeys(keys);
  const section = project.song.sections.find((s) => s.id === naming);
  return (
    <>
      <MapBar project={project} />
      <SongTools project={seen} />
      <Transport />
      <div className="crown songcrown">
        <SectionRow project={project} view={view} width={size.width} />
        <Overview project={project} view={view} width={size.width} />
      </div>
      <LaneHead />
      <div className="ruler" ref={ref}>
        <Ruler project={project} view={view} width={size.width} />
      </div>
      <div className="lanesrow songgroups">
        {groups.map(({ part, lanes }) => (
          <PartGroup
            key={part.id}
            project={project}
            part={part}
            lanes={lanes}
            rowH={rowH}
            view={view}
            width={size.width}
          />
        ))}
        <Playhead project={project} view={view} width={size.width} />
      </div>
      <SongSide project={project} />
      <div className="strip songstrip">
        <SongRow project={project} row={recordingsRow} view={view} width={size.width} height={36} />
        <div className="row" style={{ padding: '6px 14px', gap: 24, flexWrap: 'wrap' }}>
          <AtBar project={project} />
          <Shapes project={seen} />
        </div>
      </div>
      {section && (
        <NameDialog
          key={section.id}
          id="section-name"
          title="Name of the section"
          label="Name"
          name={section.value.name}
          close={closeNaming}
          save={(name) => {
            closeNaming();
            void edit([{ song: { sections: [{ id: section.id, section: { ...section.value, name } }] } }]);
          }}
        />
      )}
    </>
  );
}
