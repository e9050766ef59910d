// The outputs, the room and the delay: how loud each is, what is done to it; pressed, it is looked at below.
import { Button } from 'antd';
import type { MixOutput, Project } from '../api/client';
import { dB, Fader } from './Fader';
import { editMix, editOutput, type Looked, outputName, outputsOf, tryOutput, useMix } from './state';
import { hearMix } from '../app/desk';
import { useMeter } from './Strips';

const stages = ['gate', 'compressor', 'saturation', 'equaliser'] as const;
const onOf = (o: MixOutput) => stages.filter((s) => o[s].on);

function Level({ at }: { at: number }) {
  const { bar, mark, words } = useMeter((r) => r.meters?.buses[at]);
  return (
    <>
      <span className="meter wide">
        <i ref={bar} />
        <b ref={mark} />
      </span>
      <span className="num" title="Highest peak of late, dB">
        <b ref={words}>–</b> dB
      </span>
    </>
  );
}

function Card({ project, at }: { project: Project; at: number }) {
  const looked = useMix((s) => s.looked === at);
  const o = outputsOf(project.mix)[at] as MixOutput;
  const lanes = project.mix.lanes[at] ?? [];
  const name = outputName(project, at);
  const on = onOf(o);
  return (
    <div
      className={`output ${looked ? 'sel' : ''} ${o.color ? `f-${o.color}` : ''}`}
      data-output={at}
      onPointerDown={() => useMix.setState({ looked: at })}
    >
      <div className="row">
        <button
          type="button"
          className="fold ellipsis"
          title="Look at its processing"
          onClick={() => useMix.setState({ looked: at })}
        >
          <b>{name}</b>{' '}
          <span className="lab">
            {lanes.length === 0 ? 'no lanes' : lanes.length <= 3 ? lanes.join(' ') : `${lanes.length} lanes`}
          </span>
        </button>
        <span className="grow" />
        <button
          type="button"
          className={`ms ${o.muted ? 'on' : ''}`}
          aria-pressed={o.muted ?? false}
          aria-label={`Mute ${name}`}
          onClick={() =>
            void editOutput(project.mix, at, { muted: !o.muted }, `${o.muted ? 'Unmute' : 'Mute'} ${name}`)
          }
        >
          M
        </button>
        <Button
          size="small"
          type="text"
          title={o.mono ? 'Mono; press for stereo' : 'Stereo; press for mono'}
          onClick={() =>
            void editOutput(project.mix, at, { mono: !o.mono }, `${name} in ${o.mono ? 'stereo' : 'mono'}`)
          }
        >
          {o.mono ? 'mono' : 'stereo'}
        </Button>
      </div>
      <div className="row">
        <Level at={at} />
      </div>
      <div className="row">
        <span className="lab">level</span>
        <Fader
          name={`Level of ${name}`}
          value={Math.max(-48, o.level ?? 0)}
          min={-48}
          max={12}
          step={0.5}
          page={3}
          words={dB}
          tries={(v) => tryOutput(project.mix, at, v === null ? null : { level: v })}
          set={(v) => void editOutput(project.mix, at, { level: v }, `Level of ${name}: ${dB(v)}`)}
        />
        <span className="num">{(o.level ?? 0).toFixed(1)}</span>
      </div>
      <div className="lab">
        {on.length > 0 ? (
          <>
            on: <b>{on.join(', ')}</b>
          </>
        ) : (
          'dry, as it leaves the lanes'
        )}
      </div>
    </div>
  );
}

function Space({ project, what }: { project: Project; what: Extract<Looked, string> }) {
  const looked = useMix((s) => s.looked === what);
  const space = project.mix[what];
  const sent = Object.values(project.mix.strips).filter((s) => s[what] !== undefined).length;
  const name = what === 'room' ? 'Room' : 'Delay';
  return (
    <div
      className={`output ${looked ? 'sel' : ''}`}
      data-output={what}
      onPointerDown={() => useMix.setState({ looked: what })}
    >
      <div className="row">
        <button
          type="button"
          className="fold"
          title="Look at what it does"
          onClick={() => useMix.setState({ looked: what })}
        >
          <b>{name}</b>{' '}
          <span className="lab">
            {sent === 0 ? `dry until a lane is sent` : sent === 1 ? '1 lane sends' : `${sent} lanes send`}
          </span>
        </button>
      </div>
      <div className="row">
        <Level at={outputsOf(project.mix).length + (what === 'room' ? 0 : 1)} />
      </div>
      <div className="row">
        <span className="lab">return</span>
        <Fader
          name={`Return of the ${what}`}
          value={Math.max(-40, space.return)}
          min={-40}
          max={12}
          step={0.5}
          page={3}
          zero={-9}
          words={dB}
          tries={(v) => hearMix(v === null ? null : { ...project.mix, [what]: { ...space, return: v } })}
          set={(v) => void editMix({ [what]: { ...space, return: v } }, `Return of the ${what}: ${dB(v)}`)}
        />
        <span className="num">{space.return.toFixed(1)}</span>
      </div>
    </div>
  );
}

export function Outputs({ project }: { project: Project }) {
  return (
    <div className="outputs" data-id="outputs">
      {outputsOf(project.mix).map((o, i) => (
        <Card key={o.id || 'main'} project={project} at={i} />
      ))}
      <Space project={project} what="room" />
      <Space project={project} what="delay" />
    </div>
  );
}
