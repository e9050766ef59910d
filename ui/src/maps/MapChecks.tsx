// What is wrong with the map, each fault with its remedy; and what the part plays to.
import { Button, Select, Switch } from 'antd';
import { NoteName } from '../lanes/NoteName';
import type { Project } from '../api/client';
import { editSettings } from '../app/state';
import { midiOut, usePorts } from '../player/midi';
import { Colours, roles } from './MapRow';
import { addLane, changeLanes, hideUnused, listenFor, removeLanes, sendHits, useMaps } from './state';

/** Faults of the map, each with its remedy. */
export function Checks({ project, hits }: { project: Project; hits: Map<number, number> }) {
  const { lanes } = project.map;
  const noSound = lanes.filter(
    (l) => !project.kit.pads.some((p) => p.note === l.note && p.layers.length > 0),
  );
  const noLane = project.kit.pads.filter((p) => p.layers.length > 0 && !lanes.some((l) => l.note === p.note));
  const unused = lanes.filter((l) => l.shown && !hits.has(l.note));
  const chosen = useMaps((s) => s.chosen);
  const moveHits = useMaps((s) => s.moveHits);
  const moveSounds = useMaps((s) => s.moveSounds);
  const first = lanes.find((l) => chosen.includes(l.note));
  if (chosen.length > 1 && first) {
    return (
      <div
        className="stripside"
        style={{ padding: '9px 12px', display: 'grid', gap: 6, alignContent: 'start' }}
      >
        <span className="ttl">{chosen.length} lanes together</span>
        <span className="row">
          <Colours lane={first} notes={chosen} />
          <Select
            size="small"
            style={{ width: 120 }}
            placeholder="Role"
            aria-label="Role of the lanes chosen"
            value={null}
            options={roles.map((r) => ({ value: r, label: r }))}
            onChange={(role: string | null) =>
              role && void changeLanes(chosen, { role }, `Role of ${chosen.length} lanes`)
            }
          />
        </span>
        <span className="row">
          <Button
            size="small"
            onClick={() => void changeLanes(chosen, { shown: true }, `Show ${chosen.length} lanes`)}
          >
            Show
          </Button>
          <Button
            size="small"
            onClick={() => void changeLanes(chosen, { shown: false }, `Hide ${chosen.length} lanes`)}
          >
            Hide
          </Button>
          <Button size="small" onClick={() => listenFor(chosen)}>
            Strike in turn
          </Button>
          <Button size="small" danger onClick={() => void removeLanes(chosen)}>
            Take off
          </Button>
        </span>
      </div>
    );
  }
  return (
    <div
      className="stripside"
      style={{ padding: '9px 12px', display: 'grid', gap: 5, alignContent: 'start' }}
    >
      <span className="ttl">Checks</span>
      {noLane.slice(0, 2).map((p) => (
        <span key={p.note} className="row">
          <span className="grow">? note {p.note} sounds, no lane</span>
          <Button
            size="small"
            onClick={() =>
              void addLane(p.note, p.layers[0]?.sounds[0]?.takes[0]?.source.replace(/\.[^.]*$/, ''))
            }
          >
            Make one
          </Button>
        </span>
      ))}
      {noSound.length > 0 && (
        <span className="row">
          <span className="grow">? {noSound.length} lanes without a sound</span>
          <Button size="small" onClick={() => void hideUnused(project, 'sound')}>
            Hide
          </Button>
        </span>
      )}
      {unused.length > 0 && (
        <span className="row">
          <span className="grow">{unused.length} unused by the project</span>
          <Button size="small" onClick={() => void hideUnused(project, 'project')}>
            Hide
          </Button>
        </span>
      )}
      {noLane.length + noSound.length + unused.length + project.missing.length === 0 && (
        <span className="lab">Every lane sounds, every hit has its lane.</span>
      )}
      <span className="row" style={{ marginTop: 4 }}>
        <Switch
          size="small"
          checked={moveHits}
          aria-label="Hits go along"
          onChange={(v) => useMaps.setState({ moveHits: v })}
        />
        <span>hits go along with a new note</span>
      </span>
      <span className="row">
        <Switch
          size="small"
          checked={moveSounds}
          aria-label="Sounds go along"
          onChange={(v) => useMaps.setState({ moveSounds: v })}
        />
        <span>and so do sounds</span>
      </span>
    </div>
  );
}

/** Hits on notes that no lane has. */
export function Missing({ project }: { project: Project }) {
  return (
    <div className="dropcol" style={{ flex: 1 }}>
      <span className="row">
        <span className="ttl">Hits with no lane</span>
        <span className="lab">
          {project.missing.length > 0
            ? 'they stay in their patterns, silent'
            : 'none; every hit has its lane'}
        </span>
      </span>
      {project.missing.slice(0, 4).map((m) => (
        <span key={m.note} className="row" data-missing={m.note}>
          <b className="num" style={{ width: 62 }}>
            {m.note} <NoteName note={m.note} />
          </b>
          <span className="ellipsis" style={{ width: 110 }}>
            {m.patterns.join(', ')}
          </span>
          <span className="num">{m.hits}</span>
          <Button size="small" onClick={() => void addLane(m.note)}>
            Make a lane
          </Button>
          <Select
            size="small"
            style={{ width: 110 }}
            placeholder="Send to"
            aria-label={`Send hits of note ${m.note} to`}
            value={null}
            options={project.map.lanes.map((l) => ({ value: l.note, label: l.name }))}
            onChange={(n: number | null) => n !== null && void sendHits(m.note, n)}
          />
        </span>
      ))}
    </div>
  );
}

/** What the part plays to, and what arrives at the simulated receiver. */
export function Plays({ project }: { project: Project }) {
  const { output } = project.settings;
  const ports = usePorts();
  const set = (part: Partial<typeof output>) =>
    void editSettings({ output: { ...output, ...part } }, 'What the part plays to');
  return (
    <div className="dropcol" style={{ width: 330, borderRight: 0 }}>
      <span className="row">
        <span className="ttl">Plays</span>
        <Select
          size="small"
          style={{ width: 92 }}
          aria-label="Plays to"
          data-id="plays-to"
          value={output.to}
          options={[
            { value: 'kit', label: 'the kit' },
            { value: 'midi', label: 'MIDI out' },
            { value: 'both', label: 'both' },
          ]}
          onChange={(to: 'kit' | 'midi' | 'both') => {
            void midiOut.ask();
            set({ to });
          }}
        />
        {output.to !== 'kit' && (
          <>
            <Select
              size="small"
              style={{ width: 104 }}
              aria-label="MIDI output"
              value={output.port}
              options={[
                { value: 'receiver', label: 'receiver' },
                ...ports.outputs.map((o) => ({ value: o, label: o })),
                ...(output.port !== 'receiver' && !ports.outputs.includes(output.port)
                  ? [{ value: output.port, label: `${output.port} (away)` }]
                  : []),
              ]}
              onChange={(port: string) => set({ port })}
            />
            <Select
              size="small"
              style={{ width: 52 }}
              aria-label="Channel"
              value={output.channel}
              options={Array.from({ length: 16 }, (_, i) => ({ value: i + 1, label: `${i + 1}` }))}
              onChange={(channel: number) => set({ channel })}
            />
          </>
        )}
      </span>
      {output.to === 'kit' ? (
        <span className="lab" style={{ whiteSpace: 'normal' }}>
          With MIDI out the map alone is needed: an instrument that is not ours plays what the lanes name. The
          receiver that ships with the bench shows what would arrive.
        </span>
      ) : (
        <div className="received" data-id="received">
          {ports.why && output.port !== 'receiver' && <span className="lab">{ports.why}</span>}
          {ports.arrivals.slice(0, 6).map((a) => (
            <span key={a.id} className="row num" data-received={a.note}>
              <span style={{ width: 64 }}>{(a.atMS / 1000).toFixed(3)} s</span>
              <span style={{ width: 56 }}>
                {a.note} <NoteName note={a.note} />
              </span>
              <span style={{ width: 30 }}>{a.velocity}</span>
              <span className="ellipsis">{a.name || 'no lane'}</span>
            </span>
          ))}
          {ports.arrivals.length === 0 && (
            <span className="lab">Nothing has arrived yet: play, or strike a pad.</span>
          )}
        </div>
      )}
    </div>
  );
}
