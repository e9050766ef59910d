import { DownOutlined, UpOutlined } from '@ant-design/icons';
import { Button, Slider } from 'antd';
import { Select } from '../app/later';
import { memo, useEffect, useRef, useState } from 'react';
import type { DrumMap, Kit, Project } from '../api/client';
import { addLane, letGo, setPadsOpen, strike, togglePanel, useBench } from '../app/state';
import { Chip, hex, hexUp, LevelLight, Poly } from '../lanes/marks';
import { sameButHits, sameRow } from '../lanes/same';
import { lateness, noteName } from '../model/time';
import { goToStep, leaveGuide, useHelp } from '../help/state';
import { useMaps } from '../maps/state';
import { useSampleDrop } from '../sounds/drops';
import { tuneWords } from '../model/time';
import { hardAndSoft, keyVelocity, type PadKey, padsNow, softShare } from './layout';
import { TunedSide } from './TunedSide';
import { useTuned } from './tuned';
import { velocityAt } from './velocity';

const w = 66;
const h = 76;

const Pad = memo(function Pad({
  pad,
  layers,
  struck,
  noted,
  at,
}: {
  pad: PadKey;
  layers: number;
  struck: boolean;
  /** its note is shown in the place of its code */
  noted: boolean;
  /** the velocity at which keys strike, when each pad says its own */
  at?: number | undefined;
}) {
  const held = useRef(0);
  const [spot, setSpot] = useState<[number, number] | null>(null);
  const { over, ...drop } = useSampleDrop(pad.note);
  const x = (pad.row === 0 ? 47 : 80) + 66 * pad.column;
  const y = pad.row === 0 ? 40 : 97;
  const lane = pad.lane;
  const release = () => {
    if (held.current) letGo(held.current);
    held.current = 0;
    setSpot(null);
  };
  if (!lane) {
    return (
      <g
        {...(pad.note >= 0 ? drop : {})}
        data-pad={pad.note}
        onPointerDown={() => pad.note >= 0 && strike(pad.note, 100)}
      >
        <Poly
          pts={hexUp(x, y, w - 3, h - 3)}
          fill={over ? 'var(--paper-sunk)' : 'transparent'}
          stroke="var(--border)"
          strokeDasharray="3 3"
        />
        <text x={x} y={y + 4} textAnchor="middle">
          {pad.note >= 0 ? pad.note : 'no lane'}
        </text>
        <text x={x} y={y + 25} textAnchor="middle" className="b i">
          {pad.key.toUpperCase()}
        </text>
      </g>
    );
  }
  const rings: [number, number, number][] = [
    [66, 76, 14],
    [45, 52, 36],
    [25, 29, 100],
  ];
  // what stands on it, and for a strike from the keys how hard that is
  const shown = noted ? lane.note : pad.tune === undefined ? lane.code : tuneWords(pad.tune);
  const by = at === undefined ? undefined : keyVelocity(pad, at, false);
  return (
    <g
      className={`padshape f-${lane.color}`}
      role="button"
      data-pad={lane.note}
      {...drop}
      onPointerDown={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        const full = velocityAt(e, box);
        const velocity = pad.soft ? Math.max(1, Math.round(full * softShare)) : full;
        held.current = strike(lane.note, velocity, 'pads', e.timeStamp, undefined, pad.tune);
        setSpot([
          x + ((e.clientX - box.left) / box.width - 0.5) * (w - 3),
          y + ((e.clientY - box.top) / box.height - 0.5) * (h - 3),
        ]);
      }}
      onPointerUp={release}
      onPointerLeave={release}
    >
      <title>{`${shown} ${pad.key.toUpperCase()}, strike ${lane.name}: harder near the centre, Shift hardest`}</title>
      {rings.map(([rw, rh, share], k) => (
        <Poly
          key={rw}
          pts={hexUp(x, y, rw - 3, rh - 3)}
          fill={
            layers === 0
              ? 'var(--paper-raised)'
              : `color-mix(in srgb, var(--c) ${share}%, var(--paper-raised))`
          }
          {...(k === 0
            ? { stroke: 'var(--e)', strokeWidth: 1.5, ...(layers === 0 ? { strokeDasharray: '3 3' } : {}) }
            : {})}
        />
      ))}
      <text
        x={x}
        y={y + 4}
        className="b"
        textAnchor="middle"
        style={{ fill: layers === 0 ? 'var(--ink)' : 'var(--o)' }}
      >
        {shown}
      </text>
      <text x={x} y={y + 29} className="b i n" textAnchor="middle">
        {pad.key.toUpperCase()}
      </text>
      {by !== undefined && (
        <text x={x} y={y - 16} className="i n" textAnchor="middle">
          {by}
        </text>
      )}
      {struck && <Poly pts={hexUp(x, y, w, h)} fill="none" stroke="var(--ink)" strokeWidth={2.5} />}
      {spot && (
        <circle
          cx={spot[0]}
          cy={spot[1]}
          r={4}
          fill="var(--paper-raised)"
          stroke="var(--ink)"
          strokeWidth={2}
        />
      )}
    </g>
  );
}, sameRow);

/** The lane last struck by hand, for a moment. */
function useStruck(): { note: number; tune: number } | null {
  const last = useBench((s) => s.strikes[0]);
  const [over, setOver] = useState(0);
  const id = last?.id ?? 0;
  useEffect(() => {
    const off = setTimeout(() => setOver(id), 180);
    return () => clearTimeout(off);
  }, [id]);
  return last && over !== id ? last : null;
}

function LastStrikes({ map, kit, left }: { map: DrumMap; kit: Kit; left: number }) {
  const strikes = useBench((s) => s.strikes);
  const met = useHelp((s) => s.met);
  if (strikes.length === 0) {
    return (
      <div
        className="abs lab strikehint"
        style={{ left, right: 10, top: met ? 40 : 8, maxWidth: 972 - left, whiteSpace: 'normal' }}
      >
        <p>
          Strike a pad with the mouse, or with <kbd>A</kbd> to <kbd>H</kbd> and <kbd>Z</kbd> to <kbd>N</kbd>;
          Shift strikes hardest.
        </p>
        <p>
          What you struck last shows here: how hard, which layer sounded, and how far off the grid it fell
          while the beat played.
        </p>
        {!met && (
          <p className="row">
            <b>New here?</b>
            <Button
              size="small"
              type="primary"
              data-id="invited"
              title="A path through the bench; it can be left at any step"
              onClick={() => goToStep(0)}
            >
              Six steps from sound to song
            </Button>
            <Button size="small" type="text" title="The way is in the help, too (?)" onClick={leaveGuide}>
              Not now
            </Button>
          </p>
        )}
      </div>
    );
  }
  return (
    <table
      className="abs laststrikes"
      style={{ left, top: 4, width: `min(${990 - left}px, 100% - ${left + 8}px)` }}
    >
      <thead>
        <tr>
          <th style={{ width: 140 }}>Last strikes</th>
          <th style={{ width: 114 }}>Velocity</th>
          <th style={{ width: 58 }}>Layer</th>
          <th>Timing off the grid</th>
          <th>From</th>
        </tr>
      </thead>
      <tbody>
        {strikes.map((s) => {
          const lane = map.lanes.find((l) => l.note === s.note);
          const layers = kit.pads.find((p) => p.note === s.note)?.layers.length ?? 0;
          if (!lane)
            return (
              <tr key={s.id}>
                <td>
                  <span className="row">
                    <b>{s.note}</b> {noteName(s.note)}, no lane
                  </span>
                </td>
                <td className="num">{s.velocity}</td>
                <td colSpan={2}>
                  <Button
                    size="small"
                    data-id="make-lane"
                    title="It sounds when a pad has a sound; a lane gives it a name and hits"
                    onClick={() => void addLane(s.note)}
                  >
                    Make a lane of it
                  </Button>
                </td>
                <td className="lab">{s.from}</td>
              </tr>
            );
          return (
            <tr key={s.id} className={`f-${lane.color}`}>
              <td>
                <span className="row">
                  <Chip code={lane.code} family={lane.color} w={25} h={20} />
                  {lane.name}
                  {s.tune !== 0 && <b className="num">{tuneWords(s.tune)}</b>}
                </span>
              </td>
              <td>
                <span className="row">
                  <span className="num" style={{ width: 24, textAlign: 'right' }}>
                    {s.velocity}
                  </span>
                  <svg width={80} height={8}>
                    <rect y={1} width={80} height={6} fill="var(--paper-sunk)" />
                    <rect y={1} width={(80 * s.velocity) / 127} height={6} fill="var(--c)" />
                  </svg>
                </span>
              </td>
              <td>
                {s.layer < 0 ? (
                  <span className="lab">silent</span>
                ) : (
                  <span className="row" style={{ gap: 5 }}>
                    <LevelLight layers={layers} fired={s.layer} level={s.velocity / 127} />
                    <span className="num">{s.layer + 1}</span>
                  </span>
                )}
              </td>
              <td>
                {s.leanMS === null ? (
                  <span className="lab">nothing played</span>
                ) : (
                  <span className="row">
                    <svg width={90} height={18}>
                      <line x1={0} x2={90} y1={9} y2={9} stroke="var(--rule-strong)" />
                      <line x1={45} x2={45} y1={3} y2={15} stroke="var(--ink)" strokeWidth={1.5} />
                      <Poly
                        pts={hex(45 + Math.max(-38, Math.min(38, s.leanMS * 0.6)), 9, 12, 10)}
                        fill="var(--c)"
                        stroke="var(--e)"
                      />
                    </svg>
                    {lateness(s.leanMS)}
                  </span>
                )}
              </td>
              <td className="lab">{s.from}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What stands beside the open pads: how hard keys strike, and which pads are shown. */
const Side = memo(function Side({ noSound }: { noSound: boolean }) {
  const velocity = useBench((s) => s.strikeVelocity);
  const listening = useMaps((s) => s.listening !== null);
  const bank = useBench((s) => s.bank);
  return (
    <div className="dockside">
      <div className="row" style={{ padding: '5px 12px 0' }}>
        <span className="ttl">Pads</span>
        {listening || noSound ? (
          <span className="lab">
            {listening ? 'each sends the note it names' : 'silent until lanes have sounds'}
          </span>
        ) : (
          <Button
            size="small"
            data-id="play-in-button"
            title="Record what you play: passes, sources, click, what was just played (Shift+3)"
            onClick={() => togglePanel('play-in')}
          >
            Play in…
          </Button>
        )}
        <span className="grow" />
        <Button
          type="text"
          size="small"
          icon={<DownOutlined />}
          aria-label="Shut the pads"
          title="Shut the pads (P)"
          onClick={() => setPadsOpen(false)}
        />
      </div>
      <div className="row" style={{ padding: '8px 12px 0' }}>
        <span
          className="lab"
          style={{ width: 76 }}
          title="Clicked steps take this velocity too; with Shift, 127"
        >
          Keys strike at
        </span>
        <Slider
          style={{ width: 92 }}
          min={1}
          max={127}
          value={velocity}
          tooltip={{ open: false }}
          ariaLabelForHandle="Velocity at which keys strike"
          onChange={(v: number) => useBench.setState({ strikeVelocity: v })}
        />
        <span className="num">{velocity}</span>
      </div>
      <div className="row" style={{ padding: '2px 12px' }}>
        <span className="lab" style={{ width: 76 }}>
          Pads
        </span>
        <Select
          size="small"
          style={{ width: 132 }}
          aria-label="Pads shown"
          value={bank}
          options={[
            { value: 0, label: 'twelve, by role' },
            { value: hardAndSoft, label: 'six, hard and soft' },
            ...[1, 2, 3, 4, 5, 6, 7, 8].map((b) => ({
              value: b,
              label: `bank ${b}: ${b * 16 - 16} to ${b * 16 - 1}`,
            })),
          ]}
          onChange={(b: number) => useBench.setState({ bank: b })}
        />
      </div>
      {listening ? (
        <p className="lab" style={{ padding: '2px 12px', margin: 0, whiteSpace: 'normal' }}>
          The keys [ and ] show the sixteen notes below and above.
        </p>
      ) : (
        <TunedSide />
      )}
    </div>
  );
});

/** The pads; the one struck is ringed. */
function Pads({ map, kit }: { map: DrumMap; kit: Kit }) {
  const bank = useBench((s) => s.bank);
  const listening = useMaps((s) => s.listening !== null);
  const struck = useStruck();
  const tuned = useTuned();
  const velocity = useBench((s) => (s.bank === hardAndSoft ? s.strikeVelocity : undefined));
  return (
    <svg className="fill" width={bank <= 0 || tuned.note !== null ? 460 : 582} height={139}>
      {padsNow(map.lanes, bank, kit, tuned, listening).map((p) => (
        <Pad
          key={`${p.row} ${p.column}`}
          pad={p}
          layers={kit.pads.find((k) => k.note === p.lane?.note)?.layers.length ?? 0}
          struck={p.lane !== undefined && p.lane.note === struck?.note && (p.tune ?? 0) === struck.tune}
          noted={listening}
          at={velocity}
        />
      ))}
    </svg>
  );
}

function Shut({ map }: { map: DrumMap }) {
  const bank = useBench((s) => s.bank);
  const last = useBench((s) => s.strikes[0]);
  const lane = last && map.lanes.find((l) => l.note === last.note);
  return (
    <>
      <div className="dockside shut">
        <div className="row" style={{ height: 31, padding: '0 12px' }}>
          <span className="ttl">Pads</span>
          <span className="lab">{bank <= 0 ? '12 pads on two rows of keys' : `bank ${bank} of 16 pads`}</span>
          <span className="grow" />
          <Button
            type="text"
            size="small"
            icon={<UpOutlined />}
            aria-label="Show the pads"
            title="Show the pads (P)"
            onClick={() => setPadsOpen(true)}
          />
        </div>
      </div>
      <div className="dock shut">
        <div className="row" style={{ height: 31, padding: '0 14px', gap: 14 }}>
          <span className="lab">Last strike</span>
          {last && lane ? (
            <>
              <Chip code={lane.code} family={lane.color} w={26} h={21} />
              <span className="num">{last.velocity}</span>
              {last.layer >= 0 && <span className="lab">layer {last.layer + 1}</span>}
              {last.leanMS !== null && <span className="lab">{lateness(last.leanMS)}</span>}
            </>
          ) : (
            <span className="lab">none yet</span>
          )}
        </div>
      </div>
    </>
  );
}

export const Dock = memo(function Dock({ project, open }: { project: Project; open: boolean }) {
  const { map, kit } = project;
  const bank = useBench((s) => s.bank);
  const listening = useMaps((s) => s.listening !== null);
  const tuned = useTuned((s) => s.note !== null);
  if (!open) return <Shut map={map} />;
  return (
    <>
      <Side noSound={kit.pads.length === 0} />
      <div className="dock">
        <Pads map={map} kit={kit} />
        {!listening && <LastStrikes map={map} kit={kit} left={bank <= 0 || tuned ? 492 : 596} />}
      </div>
    </>
  );
}, sameButHits);
