// What leaves the bench: which files, how they are written and called, how far they have come and where they are.
import { Button, Checkbox, Input, InputNumber, Select } from 'antd';
import { Choice } from '../app/Choice';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, type ExportState, type Project, type ProjectExport as Export } from '../api/client';
import { explain, say, useBench } from '../app/state';
import { useAnswer } from '../app/useAnswer';
import { useEntered } from '../app/useEntered';
import { exportNames, nameWords } from '../model/constants.gen';
import { useSong } from '../song/state';
import { useMix } from './state';

const key = 'hexachord.export';

const usual: Export = {
  of: 'song',
  mix: true,
  rate: 44100,
  bits: 24,
  tail: 'ring',
  markers: true,
  names: exportNames,
  levelTo: -1,
};

function remembered(): Export {
  try {
    return { ...usual, ...(JSON.parse(localStorage.getItem(key) ?? '{}') as Partial<Export>) };
  } catch {
    return usual;
  }
}

/** Ready choices of what is made. */
const sets: { name: string; words: string; of: Partial<Export> }[] = [
  {
    name: 'For a friend',
    words: 'mix and bundle',
    of: { mix: true, outputs: false, lanes: false, midi: '', bundle: true },
  },
  {
    name: 'For another desk',
    words: 'outputs, lanes, MIDI',
    of: { mix: false, outputs: true, lanes: true, midi: 'tracks', bundle: false },
  },
  {
    name: 'All of it',
    words: 'everything',
    of: { mix: true, outputs: true, lanes: true, midi: 'tracks', bundle: true },
  },
];

const size = (bytes: number) =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
const file = (id: string, n: number) => `/api/v1/exports/${id}/files/${n}`;

function Files({ state, cancel }: { state: ExportState; cancel: () => void }) {
  const left = state.leftS > 1 ? `${Math.ceil(state.leftS)} s left` : 'nearly there';
  const dones = state.files.filter((f) => f.done).length;
  return (
    <>
      <div className="row" style={{ gap: 12 }} role="status" data-id="export-state">
        {state.error ? (
          <b>{state.error}</b>
        ) : state.done ? (
          <b>
            {state.files.length === 1 ? '1 file is made' : `${state.files.length} files are made`},{' '}
            {size(state.bytes)}
          </b>
        ) : (
          <>
            <b>
              Writing {dones} of {state.files.length}
            </b>
            <progress value={state.share} max={1} style={{ flex: 1 }} aria-label="How far it has come" />
            <span className="lab">
              {left}, {Math.round(state.times)} times as fast as it plays
            </span>
          </>
        )}
        <span className="grow" />
        {state.done && (
          <Button size="small" type="primary" href={`/api/v1/exports/${state.id}/zip`} data-id="export-zip">
            All as one zip
          </Button>
        )}
        <Button size="small" onClick={cancel}>
          {state.done || state.error ? 'Take out' : 'Cancel'}
        </Button>
      </div>
      <p className="lab" title={state.folder} data-folder={state.folder}>
        {state.done
          ? `They are kept in the data folder, in exports/${state.id}, until they are taken out`
          : state.error
            ? ''
            : 'It is written as it was when you pressed; go on working. What is cancelled leaves nothing behind.'}
      </p>
      {state.files.map((f, i) => (
        <div className="madefile" key={f.name} data-made={f.name}>
          <span>{f.done ? '✓' : '…'}</span>
          <span className="ellipsis" title={f.name}>
            {f.name} {f.of ? <span className="lab">{f.of.join(' ')}</span> : null}
          </span>
          <span className="num">{f.done ? size(f.size) : ''}</span>
          <span className="num lab">
            {f.done && f.peak > -100 && f.what !== 'midi' && f.what !== 'bundle'
              ? `${f.peak.toFixed(1)} dB, ${f.integrated > -100 ? `${f.integrated.toFixed(1)} LUFS` : 'short'}`
              : f.done && (f.what === 'mix' || f.what === 'output' || f.what === 'lane')
                ? 'silent'
                : ''}
          </span>
          <span>
            {state.done && (
              <a href={file(state.id, i)} download={f.name}>
                download
              </a>
            )}
          </span>
        </div>
      ))}
    </>
  );
}

export function ExportFace({ project }: { project: Project }) {
  const [e, set] = useState(remembered);
  const [state, setState] = useState<ExportState | null>(null);
  const [past, setPast] = useState<ExportState[]>([]);
  const panel = useRef<HTMLDivElement>(null);
  useEntered(() => panel.current?.querySelector('button')?.focus());
  const patternId = useBench((s) => s.patternId);
  const range = useSong((s) => s.range);
  const put = (to: Partial<Export>) => {
    const next = { ...e, ...to };
    set(next);
    localStorage.setItem(key, JSON.stringify(next));
  };
  const running = state !== null && !state.done && !state.error;
  useEffect(() => {
    if (!state || !running) return undefined;
    const soon = window.setTimeout(() => {
      api
        .getExport({ path: { export: state.id } })
        .then(setState)
        .catch((x: unknown) => say(explain(x)));
    }, 250);
    return () => window.clearTimeout(soon);
  }, [state, running]);
  const pattern = project.patterns.find((p) => p.id === patternId);
  const empty = e.of === 'song' && project.song.end === 0;
  const bars =
    e.of === 'song'
      ? e.toBar
        ? e.toBar - (e.fromBar ?? 0)
        : project.song.end
      : (pattern?.value.bars ?? 0) * Math.max(1, e.passes ?? 1);
  const nothing = !e.mix && !e.outputs && !e.lanes && !e.midi && !e.bundle;
  const ask = JSON.stringify({ ...e, ...(e.of === 'pattern' ? { pattern: patternId } : {}) });
  const planned = useAnswer(
    useCallback(
      () =>
        nothing || empty
          ? Promise.resolve(null)
          : // what cannot be made is said when it is asked for
            api
              .planExport({ path: { project: project.id }, body: JSON.parse(ask) as Export })
              .catch(() => null),
      [ask, project.id, nothing, empty],
    ),
    250,
  );
  const start = async () => {
    try {
      if (state) setPast((all) => [state, ...all]);
      const body = { ...e, ...(e.of === 'pattern' ? { pattern: patternId } : {}) };
      setState(await api.startExport({ path: { project: project.id }, body }));
    } catch (x) {
      say(explain(x));
    }
  };
  const drop = async (id: string) => {
    try {
      await api.stopExport({ path: { export: id } });
    } catch (x) {
      say(explain(x));
    }
    if (state?.id === id) setState(null);
    setPast((all) => all.filter((p) => p.id !== id));
  };
  return (
    <div className="exportface" data-id="export" ref={panel}>
      <div>
        <div className="row" style={{ paddingBottom: 8 }}>
          <span className="ttl">Export</span>
          <span className="lab">{bars === 1 ? '1 bar' : `${bars} bars`}</span>
          <span className="grow" />
          <Button size="small" onClick={() => useMix.setState({ exporting: false })}>
            Back to the mix
          </Button>
        </div>
        <fieldset>
          <legend>Of</legend>
          <Choice
            name="Of what"

            value={e.of === 'pattern' ? 'pattern' : e.toBar ? 'bars' : 'song'}
            options={[
              { value: 'song', label: 'song' },
              {
                value: 'bars',
                label: range ? `bars ${range.from + 1} to ${range.to}` : 'chosen bars',
                disabled: !range && !e.toBar,
              },
              { value: 'pattern', label: pattern?.value.name ?? 'pattern' },
            ]}
            onChange={(v) =>
              put(
                v === 'pattern'
                  ? { of: 'pattern', fromBar: 0, toBar: 0 }
                  : v === 'bars' && range
                    ? { of: 'song', fromBar: range.from, toBar: range.to }
                    : { of: 'song', fromBar: 0, toBar: 0 },
              )
            }
          />
          {e.of === 'pattern' && (
            <span className="row" style={{ gap: 6 }}>
              <InputNumber
                size="small"
                style={{ width: 56 }}
                aria-label="Times through"
                min={1}
                max={256}
                value={e.passes ?? 1}
                onChange={(v) => v && put({ passes: v })}
              />
              <span className="lab">times</span>
            </span>
          )}
        </fieldset>
        <fieldset>
          <legend>Files</legend>
          <Checkbox checked={e.mix ?? false} onChange={(x) => put({ mix: x.target.checked })}>
            the mix
          </Checkbox>
          <Checkbox checked={e.outputs ?? false} onChange={(x) => put({ outputs: x.target.checked })}>
            each output
          </Checkbox>
          <Checkbox checked={e.lanes ?? false} onChange={(x) => put({ lanes: x.target.checked })}>
            each lane, dry
          </Checkbox>
          <Checkbox checked={e.bundle ?? false} onChange={(x) => put({ bundle: x.target.checked })}>
            project bundle
          </Checkbox>
          <Select
            size="small"
            style={{ width: 148 }}
            aria-label="MIDI"
            value={e.midi ?? ''}
            options={[
              { value: '', label: 'no MIDI' },
              { value: 'tracks', label: 'MIDI, a track a lane' },
              { value: 'files', label: 'MIDI, a file a lane' },
              { value: 'one', label: 'MIDI, one track' },
            ]}
            onChange={(midi: NonNullable<Export['midi']>) => put({ midi })}
          />
          {e.midi && (
            <>
              <Checkbox checked={!e.straight} onChange={(x) => put({ straight: !x.target.checked })}>
                feel in it
              </Checkbox>
              <Checkbox checked={e.gm ?? false} onChange={(x) => put({ gm: x.target.checked })}>
                General MIDI notes
              </Checkbox>
            </>
          )}
          <span className="row" style={{ gap: 6, width: '100%' }}>
            {sets.map((s) => (
              <Button key={s.name} size="small" title={s.words} onClick={() => put(s.of)}>
                {s.name}
              </Button>
            ))}
          </span>
        </fieldset>
        <fieldset>
          <legend>Sound</legend>
          <Select
            size="small"
            style={{ width: 92 }}
            aria-label="Sample rate"
            value={e.rate}
            options={[44100, 48000, 88200, 96000].map((r) => ({ value: r, label: `${r / 1000} kHz` }))}
            onChange={(rate: number) => put({ rate })}
          />
          <Choice
            name="File format"

            value={e.flac ? 'FLAC' : 'WAV'}
            options={['WAV', 'FLAC']}
            onChange={(v) => put({ flac: v === 'FLAC', bits: v === 'FLAC' && e.bits === 32 ? 24 : e.bits })}
          />
          <Choice
            name="Depth"

            value={e.bits}
            options={[
              { value: 16, label: '16 bit', title: '16 bit, dithered' },
              { value: 24, label: '24 bit' },
              { value: 32, label: 'float', disabled: e.flac ?? false },
            ]}
            onChange={(bits) => put({ bits })}
          />
          <Checkbox checked={e.mono ?? false} onChange={(x) => put({ mono: x.target.checked })}>
            mix in mono
          </Checkbox>
          <Checkbox
            checked={e.markers ?? false}
            disabled={e.flac ?? false}
            onChange={(x) => put({ markers: x.target.checked })}
          >
            bars and tempo marked
          </Checkbox>
        </fieldset>
        <fieldset>
          <legend>Tail</legend>
          <Choice
            name="Tail"

            value={e.tail ?? 'ring'}
            options={[
              { value: 'ring', label: 'rings out' },
              { value: 'cut', label: 'cut' },
              { value: 'lap', label: 'laid over the beginning', title: 'A loop without a seam' },
            ]}
            onChange={(v) => put({ tail: v as NonNullable<Export['tail']> })}
          />
        </fieldset>
        <fieldset>
          <legend>Level</legend>
          <Choice
            name="Level"

            value={e.level ?? ''}
            options={[
              { value: '', label: 'as it is' },
              { value: 'peak', label: 'to a peak' },
              { value: 'loudness', label: 'to a loudness' },
            ]}
            onChange={(v) =>
              put({ level: v as NonNullable<Export['level']>, levelTo: v === 'loudness' ? -16 : -1 })
            }
          />
          {e.level && (
            <span className="row" style={{ gap: 6 }}>
              <InputNumber
                size="small"
                style={{ width: 64 }}
                aria-label={e.level === 'peak' ? 'Peak, dBFS' : 'Loudness, LUFS'}
                min={-60}
                max={0}
                step={0.5}
                value={e.levelTo ?? -1}
                onChange={(v) => v !== null && put({ levelTo: v })}
              />
              <span className="lab">{e.level === 'peak' ? 'dBFS' : 'LUFS'}</span>
            </span>
          )}
        </fieldset>
        <fieldset>
          <legend>Names</legend>
          <Input
            size="small"
            aria-label="Names of the files"
            value={e.names ?? ''}
            maxLength={200}
            onChange={(x) => put({ names: x.target.value })}
          />
          <span className="row" style={{ gap: 4, flexWrap: 'wrap' }}>
            {nameWords.map((w) => (
              <Button
                key={w}
                size="small"
                type="text"
                title={`Add the ${w}`}
                onClick={() => put({ names: `${e.names ?? ''}_{${w}}` })}
              >
                {w}
              </Button>
            ))}
          </span>
        </fieldset>
        <div className="row" style={{ paddingTop: 12 }}>
          <Button
            type="primary"
            data-id="start-export"
            disabled={running || nothing || empty}
            onClick={() => void start()}
          >
            Export
          </Button>
          <span className="lab">
            {empty
              ? 'The song is empty: lay a pattern on it, or export the pattern'
              : nothing
                ? 'Choose what is to be made'
                : ''}
          </span>
        </div>
      </div>
      <div>
        {planned && !state && (
          <>
            <div className="row" style={{ paddingBottom: 8 }}>
              <b>{planned.files.length === 1 ? '1 file' : `${planned.files.length} files`}</b>
              <span className="lab">
                {planned.seconds > 0 ? `${planned.seconds.toFixed(1)} s of sound each` : ''}
              </span>
            </div>
            {planned.files.map((f) => (
              <div className="madefile" key={f.name}>
                <span />
                <span className="ellipsis" title={f.name}>
                  {f.name} {f.of ? <span className="lab">{f.of.join(' ')}</span> : null}
                </span>
              </div>
            ))}
          </>
        )}
        {state ? (
          <Files state={state} cancel={() => void drop(state.id)} />
        ) : planned ? null : (
          <p className="lab">What is to be made is listed here, and when it is made its peak and loudness.</p>
        )}
        {past
          .filter((p) => p.id !== state?.id)
          .map((p) => (
            <Files key={p.id} state={p} cancel={() => void drop(p.id)} />
          ))}
      </div>
    </div>
  );
}
