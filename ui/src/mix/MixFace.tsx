// The mix: each drum's level, place and output, what is done to outputs, how loud it all is.
import { Button, Dropdown, InputNumber } from 'antd';
import { Choice } from '../app/Choice';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import type { Project } from '../api/client';
import { useFaceKeys } from '../app/face';
import { actionFor } from '../app/actions';
import { edit, shownLanes, useBench } from '../app/state';
import { Transport } from '../app/Transport';
import { useRows } from '../app/useRows';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { useSilent } from '../lanes/sounds';
import { newMixOutput } from '../model/constants.gen';
import { quietest } from '../model/loudness';
import { barTicks, ticksAt } from '../model/time';
import { player } from '../player/player';
import { songPosition } from '../song/time';
import { playSong } from '../song/state';
import { ExportFace } from './ExportFace';
import { dB } from './Fader';
import { Outputs } from './Outputs';
import { Processing } from './Processing';
import {
  compare,
  editMix,
  editStrips,
  keyOf,
  levelTo,
  measureNow,
  momentary,
  outputName,
  outputsOf,
  shortTerm,
  stripOf,
  tellPlaces,
  useMix,
} from './state';
import { scaleAt, scaleMarks, Strips } from './Strips';

const loud = (v: number) => (v <= quietest + 1 ? '–' : v.toFixed(1).replace('-', '−'));

/** How loud it is through the song or the pattern, bar by bar, and where it is now. */
function Through() {
  const measured = useMix((s) => s.measured);
  const measuring = useMix((s) => s.measuring);
  const line = useRef<HTMLDivElement>(null);
  const bars = measured?.loud.bars ?? [];
  useEffect(
    () =>
      player.listenToAll((r) => {
        const share = r.to > r.from ? (r.atS - r.from) / (r.to - r.from) : 0;
        if (!line.current) return;
        // a box as wide as the picture, moved by the compositor
        line.current.style.transform = `translateX(${(100 * Math.max(0, Math.min(1, share))).toFixed(2)}%)`;
        line.current.style.visibility = r.playing ? '' : 'hidden';
      }),
    [],
  );
  return (
    <div style={{ position: 'relative', minWidth: 0, overflow: 'hidden' }}>
      <svg
        width="100%"
        height="100%"
        viewBox="0 0 1000 72"
        preserveAspectRatio="none"
        role="img"
        aria-label="Loudness of each bar"
      >
        {bars.map((v, i) => {
          const h = Math.max(1, ((v + 48) / 48) * 52);
          return (
            <rect
              key={i}
              x={(i * 1000) / bars.length}
              y={70 - h}
              width={1000 / bars.length - 1}
              height={h}
              fill="var(--rule-strong)"
            />
          );
        })}
      </svg>
      <div ref={line} className="loudnow" style={{ visibility: 'hidden' }} />
      <span className="lab" style={{ position: 'absolute', left: 14, top: 2 }}>
        {measured
          ? `Loudness of each ${measured.of ? 'bar of the pattern' : 'bar of the song'}`
          : measuring
            ? 'Measuring how loud it is…'
            : ''}
      </span>
    </div>
  );
}

/** How loud it is now and as a whole, and whether anything clipped. */
function Totals() {
  const whole = useMix((s) => s.measured?.loud.whole);
  const clip = useMix((s) => s.clip);
  const now = useRef<HTMLElement>(null);
  useEffect(() => {
    let n = 0;
    return player.listenToAll(() => {
      if (now.current && n++ % 3 === 0)
        now.current.textContent = loud(
          Math.max(shortTerm(), shortTerm() <= quietest ? momentary() : quietest),
        );
    });
  }, []);
  return (
    <div>
      <div className="row" style={{ gap: 18 }}>
        <span>
          <span className="big">{whole ? loud(whole.integrated) : '–'}</span>
          <br />
          <span className="lab">LUFS, whole</span>
        </span>
        <span>
          <b className="big" ref={now}>
            –
          </b>
          <br />
          <span className="lab">LUFS, 3 s</span>
        </span>
        <span>
          <span className="big">{whole ? loud(-whole.peak) : '–'}</span>
          <br />
          <span className="lab">dB headroom</span>
        </span>
      </div>
      {clip ? (
        <button
          type="button"
          className="tag doubt"
          data-id="clip"
          title="Press to clear"
          onClick={() => useMix.setState({ clip: null })}
        >
          clipped at {clip.place} by {clip.db.toFixed(1)} dB ✕
        </button>
      ) : (
        <span className="lab">
          {whole && whole.peak > 0 ? 'it will clip: Levels… lowers it' : 'nothing clips'}
        </span>
      )}
    </div>
  );
}

/** The chosen lane's strip: what the row has no room for. */
function Side({ project }: { project: Project }) {
  const note = useBench((s) => s.lane);
  const lane = project.map.lanes.find((l) => l.note === note);
  const strip = stripOf(project, note);
  const outputs = outputsOf(project.mix);
  const put = (change: Parameters<typeof editStrips>[2], words: string) =>
    void editStrips(project, [note], change, words);
  if (!lane) return <div className="stripside" />;
  return (
    <div className="stripside songside" data-id="mix-side">
      <div className="row">
        <span className="ttl ellipsis">{lane.name}</span>
        <span className="grow" />
        <span className="lab">
          to{' '}
          {outputName(
            project,
            Math.max(
              0,
              outputs.findIndex((o) => o.id === (strip.output ?? '')),
            ),
          )}
        </span>
      </div>
      <div className="row" style={{ gap: 8 }}>
        <span className="lab">gain before the strip</span>
        <InputNumber
          size="small"
          style={{ width: 74 }}
          aria-label={`Gain of ${lane.name} before its strip, dB`}
          min={-48}
          max={24}
          step={0.5}
          value={strip.gain ?? 0}
          onChange={(v) => v !== null && put({ gain: v }, `Gain of ${lane.name}: ${dB(v)}`)}
        />
        <span className="lab">dB</span>
      </div>
      <div className="row" style={{ gap: 8, flexWrap: 'wrap' }}>
        <span className="lab">also to</span>
        {outputs.map((o, i) =>
          o.id === (strip.output ?? '') ? null : (
            <Button
              key={o.id || 'main'}
              size="small"
              type={strip.also === o.id ? 'primary' : 'default'}
              aria-pressed={strip.also === o.id}
              onClick={() =>
                put(
                  { also: strip.also === o.id ? undefined : o.id },
                  strip.also === o.id
                    ? `${lane.name} to one output`
                    : `${lane.name} also to ${outputName(project, i)}`,
                )
              }
            >
              {outputName(project, i)}
            </Button>
          ),
        )}
        {outputs.length === 1 && <span className="lab">give it an output first</span>}
      </div>
      <div className="row" style={{ gap: 6 }}>
        <Button
          size="small"
          title="As it began: 0 dB, centre, dry, to Main"
          onClick={() =>
            void editMix({ strips: { [keyOf(project, note)]: null } as never }, `${lane.name} as it began`)
          }
        >
          As it began
        </Button>
        <Button
          size="small"
          title="Hear this lane alone: solo, and no other"
          onClick={() =>
            void edit(
              [
                {
                  settings: {
                    solo: Object.fromEntries(
                      project.map.lanes.map((l) => [
                        String(l.note),
                        l.note === note && !project.settings.solo.includes(note),
                      ]),
                    ),
                  },
                },
              ],
              `Only ${lane.name}`,
            )
          }
        >
          Only this
        </Button>
      </div>
    </div>
  );
}

export function MixFace({ project }: { project: Project }) {
  const lanes = useMemo(() => shownLanes(project.map), [project.map]);
  const rowH = useRows(lanes.length, 206);
  const silent = useSilent(project.settings);
  const song = useBench((s) => s.song);
  const patternId = useBench((s) => s.patternId);
  const exporting = useMix((s) => s.exporting);
  const looked = useMix((s) => s.looked);
  const without = useMix((s) => s.without);
  useEffect(() => {
    player.setMetered(true, 0);
    return () => player.setMetered(false);
  }, []);
  useEffect(() => {
    tellPlaces((atS) => {
      if (song) return songPosition(project.song, atS);
      const p = project.patterns.find((x) => x.id === patternId)?.value;
      if (!p) return `${atS.toFixed(1)} s`;
      const tick = ticksAt(atS, project.settings.bpm);
      return `bar ${Math.floor(tick / barTicks(p)) + 1}`;
    });
  }, [song, patternId, project]);
  useEffect(() => {
    // when what is set rests, it is measured anew
    const soon = window.setTimeout(() => void measureNow(), 700);
    return () => window.clearTimeout(soon);
    // oxlint-disable-next-line react/exhaustive-effect-dependencies -- what is measured is what these say
  }, [project.revision, song, patternId]);
  const at = typeof looked === 'number' ? Math.min(looked, project.mix.outputs.length) : 0;
  useFaceKeys(
    useCallback(
      (e: Parameters<typeof actionFor>[1]) => {
        const does: Record<string, () => void> = {
          compare: () => void compare(at),
          'compare-all': () => void compare('all'),
          export: () => useMix.setState({ exporting: true }),
        };
        const action = actionFor('mix', e);
        if (!action || !does[action]) return false;
        does[action]();
        return true;
      },
      [at],
    ),
  );
  if (exporting) return <ExportFace project={project} />;
  const { dry } = project.mix;
  return (
    <>
      <MapBar project={project} />
      <div className="tools">
        <Choice<boolean>
          name="What is played"

          value={song}
          options={[
            { value: false, label: 'pattern', title: 'The pattern is played (Shift+Space)' },
            { value: true, label: 'song', title: 'The song is played (Shift+Space)' },
          ]}
          onChange={(v) => void playSong(v)}
        />
        <Button
          size="small"
          type={without?.output === at ? 'primary' : 'default'}
          aria-pressed={without?.output === at}
          data-id="compare"
          title="Hear the output looked at without its processing, as loud as with it (Q)"
          onClick={() => void compare(at)}
        >
          {without?.output === at
            ? `${outputName(project, at)} without, ${dB(without.matchDB)}`
            : `Hear ${outputName(project, at)} without`}
        </Button>
        <Button
          size="small"
          type={without?.output === 'all' ? 'primary' : 'default'}
          aria-pressed={without?.output === 'all'}
          title="Hear everything without processing and spaces, as loud as with them (Shift+Q)"
          onClick={() => void compare('all')}
        >
          {without?.output === 'all' ? `All without, ${dB(without.matchDB)}` : 'Hear all without'}
        </Button>
        <Button
          size="small"
          type={dry ? 'primary' : 'default'}
          aria-pressed={dry ?? false}
          data-id="dry"
          title={
            dry
              ? 'Processing and spaces again, as they were'
              : 'All processing and both spaces off; what they are set to is remembered'
          }
          onClick={() => void editMix({ dry: !dry }, dry ? 'Not dry' : 'All dry')}
        >
          Dry
        </Button>
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              { key: '6', label: 'Levels to 6 dB of headroom' },
              { key: '1', label: 'Levels to 1 dB of headroom' },
              { key: 'role', label: 'Levels by role, as a place to begin' },
            ],
            onClick: ({ key }) =>
              key === 'role' ? void editMix({ byRole: true }, 'Levels by role') : void levelTo(Number(key)),
          }}
        >
          <Button size="small" data-id="levels" title="Bring all lanes to a headroom, or to levels by role">
            Levels…
          </Button>
        </Dropdown>
        <span className="grow" />
        <Button
          size="small"
          data-id="add-output"
          title="An output of its own: a file of its own when exported"
          disabled={project.mix.outputs.length >= 31}
          onClick={() => void editMix({ outputs: [newMixOutput] }, 'Add an output')}
        >
          + Output
        </Button>
        {at > 0 && typeof looked === 'number' && (
          <Button
            size="small"
            type="text"
            onClick={() => {
              const id = outputsOf(project.mix)[at]?.id;
              if (id) void editMix({ removeOutputs: [id] }, `Remove ${outputName(project, at)}`);
              useMix.setState({ looked: 0 });
            }}
          >
            Remove this output
          </Button>
        )}
        <Button
          size="small"
          type="primary"
          data-id="open-export"
          title="Files of the song or the pattern (Ctrl+Shift+E)"
          onClick={() => useMix.setState({ exporting: true })}
        >
          Export…
        </Button>
      </div>
      <Transport />
      <div className="crown mixcrown">
        <Through />
        <Totals />
      </div>
      <LaneHead />
      <div className="ruler mixcrown">
        <div
          style={{
            position: 'relative',
            display: 'grid',
            gridTemplateColumns: 'var(--strip-cols)',
            gap: 'var(--strip-gap)',
            padding: '2px 12px 0 14px',
          }}
        >
          <span className="dbscale" style={{ position: 'relative' }}>
            {scaleMarks.map((m) => (
              <span
                key={m}
                className="lab"
                style={{
                  position: 'absolute',
                  left: `${scaleAt(m)}%`,
                  transform: `translateX(${m === -48 ? 0 : m === 6 ? -100 : -50}%)`,
                }}
              >
                {m > 0 ? `+${m}` : String(m).replace('-', '−')}
              </span>
            ))}
          </span>
          <span className="lab">Level</span>
          <span className="lab">Peak</span>
          <span className="lab">Pan</span>
          <span className="lab">Room</span>
          <span className="lab">Delay</span>
          <span className="lab">Output</span>
        </div>
        <span className="lab" style={{ padding: '2px 14px' }}>
          Outputs
        </span>
      </div>
      <div className="lanesrow mixrow">
        <LaneColumn lanes={lanes} />
        <div style={{ height: lanes.length * rowH }}>
          <Strips project={project} lanes={lanes} silent={silent} />
        </div>
        <Outputs project={project} />
      </div>
      <Side project={project} />
      <div className="strip">
        <Processing project={project} />
      </div>
    </>
  );
}
