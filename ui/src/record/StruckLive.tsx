// Struck live: lanes listen to an input and sound while it plays, as drum triggers do.
import { CloseOutlined } from '@ant-design/icons';
import { Button, Slider } from 'antd';
import type { Listener, Project } from '../api/client';
import { useBench } from '../app/state';
import { Chip } from '../lanes/marks';
import { listenBands } from '../model/constants.gen';
import { openMicrophone, shutMicrophone, useMicrophone } from './microphone';
import { setRecord, useRecordSettings } from './settings';

/** How a lane listens first: its band by its role. */
function first(role: string): Listener {
  const [loHz, hiHz] = listenBands[role] ?? [300, 4000];
  return { loHz, hiHz, openDB: -30, closeDB: -38, gapMS: 45, off: false };
}

/** From the foot of the level's scale, dB. */
const floor = -60;

const x = (db: number) => (80 * Math.max(0, db - floor)) / -floor;

const hz = (f: number) => (f < 1000 ? String(f) : `${f / 1000}k`);

/** The level of a lane's band now, against its threshold. */
function Level({ place, open }: { place: number; open: number }) {
  const db = useMicrophone((s) => s.levels[place] ?? -90);
  return (
    <svg width={80} height={6} aria-hidden="true">
      <rect width={80} height={6} fill="var(--paper-sunk)" />
      <rect width={x(db)} height={6} fill={db >= open ? 'var(--ink)' : 'var(--ink-3)'} />
    </svg>
  );
}

export function StruckLive({ project }: { project: Project }) {
  const live = useRecordSettings((s) => s.live);
  const name = useMicrophone((s) => s.name);
  const lane = useBench((s) => project.map.lanes.find((l) => l.note === s.lane));
  const change = (note: number, to: Partial<Listener>) => {
    const now = live[note];
    if (now) setRecord({ live: { ...live, [note]: { ...now, ...to } } });
  };
  return (
    <section data-id="struck-live">
      <div className="row">
        <h3>Struck live</h3>
        <span className="grow" />
        <Button
          size="small"
          data-id="live-input"
          title="A microphone or line in strikes lanes while it plays; listen on phones, it hears the room"
          onClick={() => (name ? shutMicrophone() : void openMicrophone())}
        >
          {name ? 'Shut the input' : 'Open an input'}
        </Button>
      </div>
      <p className="lab wraps">
        {name
          ? `${name}: what it plays strikes the lanes below, and is recorded with R.`
          : 'Tap a table, play a kit: lanes that listen sound with each stroke.'}
      </p>
      {Object.entries(live).map(([n, l], place) => {
        const note = Number(n);
        const of = project.map.lanes.find((o) => o.note === note);
        return (
          <div key={n} className="row" data-live={note} style={{ flexWrap: 'nowrap', gap: 6 }}>
            {of ? (
              <Chip code={of.code} family={of.color} w={25} h={20} />
            ) : (
              <span className="num">{note}</span>
            )}
            <span className="lab" title="The band it listens in">
              {hz(l.loHz)} to {hz(l.hiHz)} Hz
            </span>
            <span className="grow" />
            <span style={{ display: 'grid', width: 80 }}>
              <Slider
                style={{ margin: '2px 0' }}
                min={floor}
                max={-3}
                value={l.openDB}
                tooltip={{ open: false }}
                ariaLabelForHandle={`Level that strikes ${of?.name ?? note}, dB`}
                onChange={(openDB: number) => change(note, { openDB, closeDB: Math.max(-90, openDB - 8) })}
              />
              <Level place={place} open={l.openDB} />
            </span>
            <span className="num" style={{ width: 44, whiteSpace: 'nowrap' }}>
              −{-l.openDB} dB
            </span>
            <Button
              type="text"
              size="small"
              icon={<CloseOutlined />}
              aria-label={`${of?.name ?? note} listens no longer`}
              title="Listens no longer"
              onClick={() => {
                const { [note]: _gone, ...rest } = live;
                setRecord({ live: rest });
              }}
            />
          </div>
        );
      })}
      {lane && !live[lane.note] && (
        <div className="row">
          <Button
            size="small"
            data-id="listen-live"
            title="The chosen lane listens in the band of its role"
            onClick={() => setRecord({ live: { ...live, [lane.note]: first(lane.role) } })}
          >
            Let {lane.name} listen
          </Button>
        </div>
      )}
    </section>
  );
}
