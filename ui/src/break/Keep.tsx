// What is kept of a recording: a pattern, its groove, a kit, a layer under it.
import { Button, Input, Popover, Select, Slider, Switch } from 'antd';
import { useCallback, useEffect, useState } from 'react';
import { useAnswer } from '../app/useAnswer';
import { addresses, api, type Project, type Recording } from '../api/client';
import { addGroove, cutKit, edit, flip, keepPattern, say, useBench } from '../app/state';
import { ofPattern } from '../model/edits';
import { Chip } from '../lanes/marks';
import { GroovePicture } from '../steps/Feel';
import { tryGroove } from './groove';
import { doubts, loadReinforcement, useBreak } from './state';

/** Says where a groove that was kept is, and offers to lay it over the pattern shown. */
function kept(name: string) {
  const { project, patternId } = useBench.getState();
  const pattern = project?.patterns.find((p) => p.id === patternId)?.value;
  const id = project?.grooves.findLast((g) => g.value.name === name)?.id;
  if (!project || !id) return;
  say({
    title: `${name} is kept`,
    detail: 'It is in Feel (U), in the list of grooves.',
    error: false,
    ...(pattern && pattern.hits.length > 0
      ? {
          offer: {
            does: `Lay it over ${pattern.name}`,
            go: () => {
              const feel = pattern.feel ?? project.settings.feel;
              const groove = { id, time: 100, velocity: 50, noSwing: true };
              void edit([
                ofPattern(patternId, {
                  op: 'shape',
                  feel: { ...feel, groove },
                  label: `${pattern.name}: groove ${name}`,
                }),
              ]);
            },
          },
        }
      : {}),
  });
}

function TakeGroove({ project, r, done }: { project: Project; r: Recording; done: () => void }) {
  const base = r.name.replace(/\.[^.]*$/, '');
  const [name, setName] = useState(`${base} groove`);
  const [lane, setLane] = useState(-1);
  const [grid, setGrid] = useState('1/16');
  const [time, setTime] = useState(100);
  const [velocity, setVelocity] = useState(50);
  // a groove moves hits: an empty pattern has none
  const filled = project.patterns.filter((p) => p.value.hits.length > 0);
  const [over, setOver] = useState(filled[0]?.id ?? '');
  const groove = useAnswer(
    useCallback(
      () =>
        api.getRecordingGroove({
          path: { project: project.id, recording: r.id },
          query: { grid, lane, name: 'x' },
        }),
      [project.id, r.id, grid, lane],
    ),
  );
  const hits = groove?.cells.reduce((n, c) => n + c.hits, 0) ?? 0;
  return (
    <div className="lanetools feel" data-id="take-groove">
      <div className="row">
        <b>Groove of {r.name}</b>
        <span className="lab">
          {hits} hits on {groove?.cells.length ?? 0} cells of a bar
        </span>
      </div>
      {groove && <GroovePicture groove={groove} bpm={r.heard.bpm} w={400} />}
      <div className="lab caption">
        Above the line early, below late; big is louder than its lane’s mean; the numbers say of how many hits
        it is the mean.
      </div>
      <div className="row">
        <span className="lab">Taken from</span>
        <Select
          size="small"
          style={{ width: 140 }}
          aria-label="Taken from"
          value={lane}
          options={[
            { value: -1, label: 'all lanes' },
            ...project.map.lanes.map((l) => ({ value: l.note, label: l.name })),
          ]}
          onChange={setLane}
        />
        <Select
          size="small"
          style={{ width: 76 }}
          aria-label="Cells of the groove"
          value={grid}
          options={['1/8', '1/8t', '1/16', '1/16t', '1/32'].map((v) => ({ value: v, label: v }))}
          onChange={setGrid}
        />
      </div>
      <div className="row">
        <span className="lab">Name</span>
        <Input
          size="small"
          style={{ width: 220 }}
          value={name}
          aria-label="Name of the groove"
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <div className="row">
        <span className="lab">Its time, accents</span>
        <Slider
          style={{ width: 90 }}
          value={time}
          tooltip={{ open: false }}
          ariaLabelForHandle="Time"
          onChange={setTime}
        />
        <span className="num">{time}%</span>
        <Slider
          style={{ width: 90 }}
          value={velocity}
          tooltip={{ open: false }}
          ariaLabelForHandle="Accents"
          onChange={setVelocity}
        />
        <span className="num">{velocity}%</span>
      </div>
      <div className="row">
        <Button
          size="small"
          disabled={!groove}
          onClick={() => {
            done();
            if (groove)
              void addGroove({ name: name.trim() || base, groove }).then(() => kept(name.trim() || base));
          }}
        >
          Keep groove
        </Button>
        <span className="grow" />
        <Button
          size="small"
          type="primary"
          data-id="hear-groove"
          disabled={!groove || over === ''}
          title={
            over === ''
              ? 'No pattern has hits yet'
              : 'Plays the pattern with this groove; nothing is kept yet'
          }
          onClick={() => {
            done();
            if (groove)
              void tryGroove({
                groove: { ...groove, name: name.trim() || base },
                name: name.trim() || base,
                over,
                use: { id: '', time, velocity, noSwing: true },
              });
          }}
        >
          Hear it over
        </Button>
        <Select
          size="small"
          style={{ width: 120 }}
          aria-label="Lay over"
          value={over}
          options={filled.map((p) => ({ value: p.id, label: p.value.name }))}
          onChange={setOver}
        />
      </div>
    </div>
  );
}

const signed = (v: number) => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(1)}`;

/** A level that nothing is heard of, dB. */
const silence = -200;

/** What the kit's sounds do to the recording's low end, lane by lane. */
function Reinforce({ project, r }: { project: Project; r: Recording }) {
  const got = useBreak((s) => s.reinforcement);
  useEffect(() => void loadReinforcement(r), [r]);
  const lanes = got?.r.lanes ?? [];
  const levels = useBench((s) => s.levels);
  const sounding = project.map.lanes.map((l) => l.note).filter((n) => !project.settings.muted.includes(n));
  return (
    <div className="lanetools wide" data-id="reinforce">
      <div className="row">
        <b>The kit under the recording</b>
        <span className="lab">below 120 Hz, with the kit’s sounds laid to the recorded attacks</span>
      </div>
      <div className="reinforce">
        <span className="lab">lane</span>
        <span className="lab">alone</span>
        <span className="lab">with the kit</span>
        <span className="lab">flipped</span>
        <span />
        {lanes.map((x) => {
          const lane = project.map.lanes.find((l) => l.note === x.note);
          const gain = x.afterDB - x.beforeDB;
          return (
            <div key={x.note} style={{ display: 'contents' }}>
              <span className="row">
                {lane && <Chip code={lane.code} family={lane.color} w={24} h={20} />}
                {lane?.name}
              </span>
              <span className="num">{x.beforeDB < -100 ? 'none' : `${x.beforeDB.toFixed(1)} dB`}</span>
              <span className={`num ${x.flip ? '' : 'better'}`}>
                {signed(gain)} dB{x.flip ? '' : ' better'}
              </span>
              <span className={`num ${x.flip ? 'better' : ''}`}>
                {signed(x.flippedDB - x.beforeDB)} dB{x.flip ? ' better' : ''}
              </span>
              <Button
                size="small"
                type={x.flip && !x.flipped ? 'primary' : 'default'}
                onClick={() => void flip(r.id, x.note)}
              >
                {x.flipped ? 'Flip back' : 'Flip polarity'}
              </Button>
            </div>
          );
        })}
      </div>
      <div className="row">
        <span className="lab">
          Mute lanes to reinforce only some; Q compares recording and kit at the same loudness.
        </span>
      </div>
      <div className="row">
        <Button
          size="small"
          title="WAV, 24-bit, aligned from the recording’s first sample"
          onClick={() => window.location.assign(addresses.layer(project.id, r.id, sounding))}
        >
          Bounce the layer alone
        </Button>
        <Button
          size="small"
          data-id="bounce-together"
          title="WAV, 24-bit: the recording and the layer at the faders’ levels"
          onClick={() =>
            window.location.assign(
              addresses.layer(project.id, r.id, sounding, {
                recordingDB: Math.max(silence, levels.recording),
                kitDB: Math.max(silence, levels.kit),
              }),
            )
          }
        >
          Bounce both together
        </Button>
      </div>
    </div>
  );
}

export function Keep({ project, r }: { project: Project; r: Recording }) {
  const base = r.name.replace(/\.[^.]*$/, '');
  const [name, setName] = useState(base);
  const [grid, setGrid] = useState('1/16');
  const [strength, setStrength] = useState(0);
  const [panel, setPanel] = useState('');
  const wanted = useBreak((s) => s.also);
  // with no other beat the project takes the recording's tempo, so that it plays as it was played
  const beat = project.patterns.some((p) => p.value.hits.length > 0);
  const [tempo, setTempo] = useState<boolean | null>(null);
  const takeTempo = tempo ?? !beat;
  const [section, setSection] = useState(64);
  const other = Math.abs(project.settings.bpm - r.heard.bpm) > 0.005;
  const row = Math.ceil(r.heard.bars / section);
  const sounding = r.heard.hits.filter((h) => h.state !== 'out');
  const homeless = r.heard.hits.filter((h, i) => h.state !== 'out' && (r.lanes[i] ?? -1) < 0).length;
  const weak = doubts(r).length;
  const out = r.heard.hits.length - sounding.length;
  return (
    <div className="keep">
      <div className="row">
        <span className="ttl" data-id="hits-ready">
          {sounding.length - homeless} hits ready
        </span>
        {weak > 0 && <span className="lab">{weak} doubtful</span>}
        {out > 0 && <span className="lab">{out} taken out</span>}
        {homeless > 0 && <span className="lab">{homeless} have no lane</span>}
      </div>
      <div className="row">
        <Button
          type="primary"
          data-id="keep"
          title="The hits become a pattern of this project"
          onClick={() =>
            void keepPattern(r.id, { name: name.trim() || base, grid, strength, takeTempo, section })
          }
        >
          Keep as pattern
        </Button>
        <Input
          size="small"
          style={{ width: 118 }}
          value={name}
          aria-label="Name of the new pattern"
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <div className="row">
        <Slider
          style={{ width: 84 }}
          min={0}
          max={100}
          value={strength}
          tooltip={{ open: false }}
          ariaLabelForHandle="Quantise strength"
          onChange={setStrength}
        />
        <span className="num">{strength === 0 ? 'as played' : `quantised ${strength}%`}</span>
        {strength > 0 && (
          <Select
            size="small"
            style={{ width: 66 }}
            aria-label="Quantise to"
            value={grid}
            options={['1/8', '1/8t', '1/16', '1/16t', '1/32'].map((v) => ({ value: v, label: v }))}
            onChange={setGrid}
          />
        )}
      </div>
      {other && (
        <div className="row">
          <Switch
            size="small"
            checked={takeTempo}
            aria-label="The project takes its tempo"
            data-id="take-tempo"
            onChange={setTempo}
          />
          <span className="lab" title="Only at its own tempo does it play as it was played">
            project to {r.heard.bpm.toFixed(2)} BPM{takeTempo ? '' : `, now ${project.settings.bpm}`}
          </span>
        </div>
      )}
      {r.heard.bars > 8 && (
        <div className="row">
          <Select
            size="small"
            style={{ width: 104 }}
            aria-label="Bars of each pattern"
            value={section}
            options={[4, 8, 16, 32, 64].map((n) => ({ value: n, label: `${n} bars each` }))}
            onChange={setSection}
          />
          <span className="lab">{row === 1 ? 'one pattern' : `${row} patterns, nothing lost`}</span>
        </div>
      )}
      <div className="row wrap">
        <Popover
          trigger="click"
          placement="topRight"
          open={panel === 'groove'}
          onOpenChange={(o) => setPanel(o ? 'groove' : '')}
          destroyOnHidden
          content={<TakeGroove project={project} r={r} done={() => setPanel('')} />}
        >
          <Button size="small" data-id="groove-of" title="Keep its groove">
            Groove…
          </Button>
        </Popover>
        <Button
          size="small"
          data-id="cut-kit"
          title="The cleanest strokes of each lane become its sounds, with a pattern; strokes chosen together (Shift, box) go before others. Undo brings the kit back"
          onClick={() => void cutKit(r.id, name.trim() || base, wanted)}
        >
          {wanted.length > 0 ? `Cut a kit with these ${wanted.length}` : 'Cut into a kit'}
        </Button>
        <Popover
          trigger="click"
          placement="topRight"
          open={panel === 'reinforce'}
          onOpenChange={(o) => setPanel(o ? 'reinforce' : '')}
          destroyOnHidden
          content={<Reinforce project={project} r={r} />}
        >
          <Button size="small" data-id="reinforce-button" title="The kit plays along with the recording">
            Reinforce…
          </Button>
        </Popover>
      </div>
    </div>
  );
}
