import { Button, Modal } from 'antd';
import { Choice } from '../app/Choice';
import { useMemo, useState } from 'react';
import type { Lane, Project } from '../api/client';
import { shownLanes, useBench } from '../app/state';
import { Transport } from '../app/Transport';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { Chip } from '../lanes/marks';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { useShelf } from '../shelf/state';
import { CutFace } from './CutFace';
import { DropFace } from './DropFace';
import { Ladder } from './Ladder';
import { LayerRows, rowsWide, vx } from './LayerRows';
import type { CurveKind } from './Curve';
import { AskMove } from './PadThings';
import { PadSettings } from './PadSettings';
import { ShapeEditor } from './ShapeEditor';
import { SoundsTools } from './SoundsTools';
import { StackEditor } from './StackEditor';
import { addTo, padOf, useSounds } from './state';

const tabs = ['Shape', 'Stack', 'Level', 'Pan', 'Tune'] as const;
type Tab = (typeof tabs)[number];

/** The curves that are drawn on the waveform. */
const curves: Partial<Record<Tab, CurveKind>> = { Level: 'level', Pan: 'pan', Tune: 'tune' };

const rowsW = rowsWide + 29;
export const shelfW = 328;

/** How hard the lane is struck in all patterns, over the layers' limits. */
function Velocities({ project, lane }: { project: Project; lane: Lane }) {
  const bins = Array.from({ length: 25 }, () => 0);
  let n = 0;
  for (const p of project.patterns)
    for (const h of p.value.hits)
      if (h.note === lane.note) {
        const b = Math.min(24, Math.floor((h.velocity - 1) / 5.08));
        bins[b] = (bins[b] ?? 0) + 1;
        n++;
      }
  const most = Math.max(1, ...bins);
  const limits = padOf(project, lane.note).layers.map((l) => l.lo);
  return (
    <svg className={`fill f-${lane.color}`} width={rowsW} height={72}>
      <text x={14} y={13} className="i">
        {n === 0 ? `No pattern strikes ${lane.name} yet` : `How hard ${lane.name} is struck, ${n} hits`}
      </text>
      {bins.map((b, i) => (
        <rect
          // oxlint-disable-next-line react/no-array-index-key -- a bin is its place
          key={i}
          x={vx(1 + i * 5.08) + 0.5}
          width={rowsWide / 25 - 1}
          y={70 - (50 * b) / most}
          height={(50 * b) / most}
          fill="var(--c)"
        />
      ))}
      {limits.slice(1).map((lo) => (
        <line key={lo} x1={vx(lo)} x2={vx(lo)} y1={18} y2={70} stroke="var(--ink)" strokeDasharray="2 2" />
      ))}
    </svg>
  );
}

const close = () => useSounds.setState({ asking: null });

/** What becomes of a pad that has sounds. */
function Ask({ project }: { project: Project }) {
  const asking = useSounds((s) => s.asking);
  const layer = useSounds((s) => s.layer);
  if (!asking) return null;
  const lane = project.map.lanes.find((l) => l.note === asking.note);
  const pad = padOf(project, asking.note);
  const at = Math.min(layer, pad.layers.length - 1);
  const one = asking.names.length === 1;
  const what = one ? asking.names[0] : `${asking.names.length} samples`;
  const answer = (how: 'replace' | 'layer' | 'stack' | 'take') =>
    void addTo(asking.note, asking.parts, asking.names, how, how === 'layer' || how === 'replace' ? -1 : at);
  return (
    <Modal
      open
      onCancel={close}
      footer={null}
      width={460}
      title={`${what} on ${lane?.name ?? `note ${asking.note}`}`}
    >
      <p style={{ marginTop: 0 }}>
        {lane?.name} has {pad.layers.length} {pad.layers.length === 1 ? 'layer' : 'layers'} already. Whatever
        you choose, undo brings this back.
      </p>
      <div className="asks">
        <Button data-id="ask-layer" type="primary" autoFocus onClick={() => answer('layer')}>
          Add {one ? 'as a layer' : 'as layers'}
        </Button>
        <span>takes a share of the velocities, ordered by loudness</span>
        <Button data-id="ask-stack" onClick={() => answer('stack')}>
          Stack on layer {at + 1}
        </Button>
        <span>sounds together with it on every hit</span>
        {pad.layers.length > 1 && (
          <>
            <Button
              data-id="ask-stack-all"
              onClick={() => void addTo(asking.note, asking.parts, asking.names, 'stack', -1)}
            >
              Stack on every layer
            </Button>
            <span>sounds together with each, however hard it is struck</span>
          </>
        )}
        <Button data-id="ask-take" onClick={() => answer('take')}>
          Another take of layer {at + 1}
        </Button>
        <span>sounds in turn with it</span>
        <Button data-id="ask-replace" danger onClick={() => answer('replace')}>
          Replace
        </Button>
        <span>the old sounds come off the pad</span>
      </div>
    </Modal>
  );
}

/** The Sounds face, or what lies over it: samples that were dropped, a recording that is cut. */
export function SoundsFace({ project }: { project: Project }) {
  const dropping = useSounds((s) => s.dropping);
  const cutting = useSounds((s) => s.cutting);
  const lanes = useMemo(() => shownLanes(project.map), [project.map]);
  if (dropping) return <DropFace project={project} lanes={lanes} dropping={dropping} />;
  if (cutting)
    return (
      <>
        <CutFace key={cutting} project={project} lanes={lanes} hash={cutting} />
        <Ask project={project} />
      </>
    );
  return <KitFace project={project} lanes={lanes} />;
}

function KitFace({ project, lanes }: { project: Project; lanes: Lane[] }) {
  const shelfOpen = useShelf((s) => s.open);
  const sounds = useSounds();
  const also = useBench((s) => s.alsoLanes);
  const [stageRef, stage] = useSize<HTMLDivElement>();
  const [lanesRef, lanesBox] = useSize<HTMLDivElement>();
  const [tab, setTab] = useState<Tab>('Shape');
  const lane = lanes.find((l) => l.note === sounds.edited) ?? lanes[lanes.length - 1];
  if (!lane) return null;
  const pad = padOf(project, lane.note);
  const layer = pad.layers[sounds.layer];
  const panelW = Math.max(320, stage.width - rowsW - (shelfOpen ? shelfW : 0));
  return (
    <>
      <MapBar project={project} />
      <SoundsTools project={project} shelfOpen={shelfOpen} />
      <Transport />
      <div className="crown" ref={stageRef} style={{ zIndex: 2 }}>
        <Velocities project={project} lane={lane} />
        <div className="abs" style={{ left: rowsW, top: 0 }}>
          <Ladder project={project} lane={lane} width={panelW} height={72 + 22 + lanesBox.height} />
        </div>
      </div>
      <LaneHead />
      <div className="ruler">
        <svg className="fill" width={rowsW} height={22} aria-hidden="true">
          {[1, 32, 64, 96, 127].map((v) => (
            <text
              key={v}
              x={vx(v)}
              y={15}
              textAnchor={v === 1 ? 'start' : v === 127 ? 'end' : 'middle'}
              className="n"
            >
              {v}
            </text>
          ))}
        </svg>
      </div>
      <div className="lanesrow" ref={lanesRef}>
        <LaneColumn lanes={lanes} />
        <LayerRows project={project} lanes={lanes} />
      </div>
      <div className={`stripside f-${lane.color}`}>
        <div className="row" style={{ padding: '7px 10px 0' }}>
          <Chip code={lane.code} family={lane.color} w={25} h={20} />
          <span className="ttl ellipsis">
            {also.length > 1 && also.includes(lane.note)
              ? `How ${also.length} pads play`
              : `How ${lane.name} plays`}
          </span>
        </div>
        <PadSettings project={project} lane={lane} />
      </div>
      <div className="strip" style={shelfOpen ? { paddingRight: shelfW } : {}}>
        {layer ? (
          <>
            <div className="tabs">
              <Choice
                name="What is shaped"

                vertical
                value={tab}
                options={tabs.map((t) => ({
                  value: t,
                  label: t,
                  title: t in curves ? `Draw its ${t.toLowerCase()} over the sound’s time` : '',
                }))}
                onChange={setTab}
              />
            </div>
            {tab === 'Stack' ? (
              <StackEditor project={project} lane={lane} />
            ) : (
              <ShapeEditor project={project} lane={lane} draws={curves[tab] ?? ''} />
            )}
          </>
        ) : (
          <p className="lab" style={{ textAlign: 'center', marginTop: 70, flex: 1 }}>
            The waveform of the layer chosen shows here, with its region, fades and envelope
          </p>
        )}
      </div>
      <Ask project={project} />
      <AskMove project={project} />
    </>
  );
}
