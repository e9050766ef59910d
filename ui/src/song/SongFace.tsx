// The song: patterns in a row, drawn with their hits on the same lanes as everywhere.
import { useCallback, useEffect, useMemo, useRef } from 'react';
import type { Project } from '../api/client';
import { NameDialog } from '../app/NameDialog';
import { edit, shownLanes, useBench } from '../app/state';
import { useFaceKeys } from '../app/face';
import { Transport } from '../app/Transport';
import { useRows } from '../app/useRows';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { useSilent } from '../lanes/sounds';
import { player } from '../player/player';
import { inks } from '../roll/draw';
import { barOf, drawSong, pad, type SongView, xOf } from './draw';
import { songKeys } from './keys';
import './song.css';
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
function Playhead({ project, view }: { project: Project; view: SongView }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      player.listenToAll((r) => {
        if (!line.current) return;
        const shown = r.playing && useBench.getState().song && !useBench.getState().instead;
        line.current.style.display = shown ? '' : 'none';
        if (!shown) return;
        const bar = barAt(project.song.bars, r.atS);
        line.current.style.transform = `translateX(${xOf(view, bar)}px)`;
        line.current.dataset.bar = bar.toFixed(3);
        const { view: own } = useSong.getState();
        const width = line.current.parentElement?.clientWidth ?? 0;
        const x = xOf(view, bar);
        // a view of one's own follows what plays by pages
        if (own && useBench.getState().follow && (x > width - 8 || x < 0))
          useSong.setState({ view: { ...own, from: Math.max(0, Math.floor(bar)) } });
      }),
    [project.song.bars, view],
  );
  return <div ref={line} className="songhead" data-id="song-head" style={{ display: 'none' }} />;
}

const closeNaming = () => useSong.setState({ naming: '' });

export function SongFace({ project: seen }: { project: Project }) {
  const allPatterns = useBench((s) => s.allPatterns);
  // with the patterns of all parts
  const project = useMemo(() => ({ ...seen, patterns: allPatterns }), [seen, allPatterns]);
  const map = project.map;
  const lanes = useMemo(() => shownLanes(map), [map]);
  const lane = useBench((s) => s.lane);
  const dark = useBench((s) => s.dark);
  const chosen = useSong((s) => s.chosen);
  const range = useSong((s) => s.range);
  const naming = useSong((s) => s.naming);
  const [ref, size] = useSize<HTMLDivElement>();
  const view = useView(project.song.end, size.width);
  const rowH = useRows(lanes.length);
  const silent = useSilent(project.settings);
  const canvas = useRef<HTMLCanvasElement>(null);
  const wrap = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!canvas.current || !wrap.current || size.width === 0) return;
    drawSong(canvas.current, {
      project,
      part: project.part,
      lanes,
      rowH,
      view,
      width: size.width,
      silent,
      chosen,
      range,
      lane,
      ink: inks(wrap.current, lanes, dark),
    });
  }, [project, lanes, rowH, view, size.width, silent, chosen, range, lane, dark]);
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
      <div className="crown songcrown" ref={wrap} data-parts={Math.min(6, project.parts.length)}>
        <SectionRow project={project} view={view} width={size.width} />
        {project.parts.map((part) => (
          <SongRow
            key={part.id}
            project={project}
            row={part.id}
            view={view}
            width={size.width}
            height={project.parts.length > 1 ? 24 : 42}
          />
        ))}
      </div>
      <LaneHead />
      <div className="ruler" ref={ref}>
        <Ruler project={project} view={view} width={size.width} />
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={lanes} />
        <div
          className="stage"
          data-id="song-stage"
          style={{ height: lanes.length * rowH }}
          onWheel={(e) => {
            const by = (e.deltaX || (e.shiftKey ? e.deltaY : 0)) / view.perBar;
            if (by !== 0) useSong.setState({ view: { ...view, from: Math.max(0, view.from + by) } });
          }}
          onPointerDown={(e) =>
            void seekBar(
              Math.max(0, Math.floor(barOf(view, e.clientX - e.currentTarget.getBoundingClientRect().left))),
            )
          }
        >
          <canvas ref={canvas} style={{ width: size.width, height: lanes.length * rowH }} />
          <Playhead project={project} view={view} />
        </div>
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
