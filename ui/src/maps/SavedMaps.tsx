// The maps kept by name, beside the one that is edited.
import { Button, Dropdown, Input, Modal } from 'antd';
import { useCallback, useEffect, useState } from 'react';
import { addresses, api, type Difference, type DrumMap, type KeptMap, type Project } from '../api/client';
import { NameDialog } from '../app/NameDialog';
import { useFiles } from '../app/PickFile';
import { editMap, explain, say, useBench } from '../app/state';
import { throwAway } from '../projects/state';
import { loadMap, loadMaps, mapNow, planCarry, saveMap, useMaps } from './state';

const ago = (at: string) =>
  new Date(at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });

function Stripes({ map }: { map: DrumMap }) {
  const w = Math.min(11, 210 / Math.max(1, map.lanes.length));
  return (
    <svg width={212} height={9} aria-hidden="true">
      {map.lanes.map((l, i) => (
        <g key={l.note} className={`f-${l.color}`}>
          <rect x={i * w} width={w - 1} height={9} fill="var(--c)" />
        </g>
      ))}
    </svg>
  );
}

async function setMap(m: KeptMap, isDefault: boolean, earlier: boolean) {
  try {
    useMaps.setState({
      kept: (await api.setMap({ path: { map: m.id }, body: { default: isDefault, earlier } })).maps,
    });
  } catch (e) {
    say(explain(e));
  }
}

const words: Record<string, string> = {
  same: 'the same',
  note: 'another note',
  role: 'another role',
  name: 'another name',
  'only a': 'only here',
  'only b': 'only there',
};

const laneOn = (m: DrumMap, n: number) => m.lanes.find((l) => l.note === n);

function Compare({ a, b, close }: { a: DrumMap; b: DrumMap; close: () => void }) {
  const [differences, setDifferences] = useState<Difference[] | null>(null);
  const [only, setOnly] = useState(true);
  useEffect(() => {
    api
      .compareMaps({ body: { a, b } })
      .then((r) => setDifferences(r.differences))
      .catch((e: unknown) => say(explain(e)));
  }, [a, b]);
  if (differences === null) return null;
  const shown = differences.filter((d) => !only || d.what !== 'same');
  return (
    <Modal open footer={null} width={620} title={`${a.name} and ${b.name}`} onCancel={close}>
      <Button size="small" onClick={() => setOnly(!only)}>
        {only ? 'Show what is the same too' : 'Only show what differs'}
      </Button>
      <div className="compare">
        <b>{a.name}</b>
        <b>{b.name}</b>
        <b>Differs by</b>
        {shown.map((d) => (
          <div key={`${d.a} ${d.b}`} style={{ display: 'contents' }}>
            <span>{d.a >= 0 ? `${d.a} · ${laneOn(a, d.a)?.name ?? ''}` : '–'}</span>
            <span>{d.b >= 0 ? `${d.b} · ${laneOn(b, d.b)?.name ?? ''}` : '–'}</span>
            <span className={d.what === 'same' ? 'lab' : ''}>{words[d.what]}</span>
          </div>
        ))}
        {shown.length === 0 && <span>Nothing differs.</span>}
      </div>
    </Modal>
  );
}

function SaveAs({ close }: { close: () => void }) {
  const [about, setAbout] = useState('');
  return (
    <NameDialog
      title="Save map as"
      name={mapNow().name}
      label="Name of the map"
      id="map-name"
      close={close}
      save={(name) => {
        close();
        void saveMap(name, about);
      }}
    >
      <Input
        style={{ marginTop: 6 }}
        value={about}
        placeholder="What it is for"
        aria-label="What the map is for"
        maxLength={300}
        onChange={(e) => setAbout(e.target.value)}
      />
    </NameDialog>
  );
}

async function exportMap(project: Project, as: 'midnam' | 'csv') {
  try {
    const { lost } = await api.mapExportLoses({ path: { project: project.id }, query: { as } });
    if (lost.length > 0)
      say({ title: `What ${as.toUpperCase()} cannot carry`, detail: `${lost.join('; ')}.`, error: false });
    const a = document.createElement('a');
    a.href = addresses.map(project.id, as);
    a.download = '';
    a.click();
  } catch (e) {
    say(explain(e));
  }
}

async function importMap(file: File) {
  try {
    const { map } = await api.readMap({ body: { file }, query: { middleC: useBench.getState().middleC } });
    await loadMap(map);
    if (useMaps.getState().carrying) return;
    say({
      title: `Loaded ${map.lanes.length} lanes from ${file.name}`,
      detail: 'Undo brings the map back that was here.',
      error: false,
    });
  } catch (e) {
    say(explain(e));
  }
}

function shut() {
  useMaps.setState({ savedOpen: false });
  document.querySelector<HTMLElement>('[data-id="saved-maps"]')?.focus();
}

export function SavedMaps({ project }: { project: Project }) {
  const kept = useMaps((s) => s.kept);
  const search = useMaps((s) => s.search);
  const savedOpen = useMaps((s) => s.savedOpen);
  const [saving, setSaving] = useState(false);
  const stopSaving = useCallback(() => setSaving(false), []);
  const [comparing, setComparing] = useState<DrumMap | null>(null);
  const file = useFiles({
    accept: '.midnam,.xml,.csv,.mid,.midi',
    id: 'map-file',
    take: ([f]) => (f ? importMap(f) : Promise.resolve()),
  });
  const shown = kept.filter(
    (m) => !m.earlier && `${m.name} ${m.description}`.toLowerCase().includes(search.toLowerCase()),
  );
  const earlier = kept.filter(
    (m) => m.earlier && search !== '' && m.name.toLowerCase().includes(search.toLowerCase()),
  );
  const open = kept.find((m) => !m.earlier && m.name === project.map.name);
  const changed = open && JSON.stringify(open.map.lanes) !== JSON.stringify(project.map.lanes);
  const fromKit = async () => {
    try {
      await loadMap((await api.mapFromKit({ path: { project: project.id } })).map);
    } catch (e) {
      say(explain(e));
    }
  };
  return (
    <aside
      className={`savedmaps ${savedOpen ? 'open' : ''}`}
      aria-label="Saved maps"
      onKeyDown={(e) => {
        if (e.key !== 'Escape' || !savedOpen) return;
        e.stopPropagation();
        shut();
      }}
    >
      <div className="row" style={{ padding: '10px 12px 6px' }}>
        <span className="ttl" style={{ fontSize: 'var(--t-title)' }}>
          Saved maps
        </span>
        <span className="grow" />
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              { key: 'file', label: 'From a file: MIDNAM, CSV, or a MIDI file’s notes' },
              { key: 'kit', label: 'From the kit’s pads' },
              { type: 'divider' },
              { key: 'midnam', label: 'Export this map as MIDNAM' },
              { key: 'csv', label: 'Export this map as CSV' },
            ],
            onClick: ({ key }) => {
              if (key === 'file') file.open();
              else if (key === 'kit') void fromKit();
              else void exportMap(project, key as 'midnam' | 'csv');
            },
          }}
        >
          <Button size="small" data-id="map-files">
            Files…
          </Button>
        </Dropdown>
        <Button size="small" className="narrowonly" data-id="shut-saved-maps" onClick={shut}>
          Shut
        </Button>
        {file.input}
      </div>
      <div style={{ padding: '0 12px 8px' }}>
        <Input
          size="small"
          placeholder="Search maps"
          aria-label="Search maps"
          allowClear
          value={search}
          onChange={(e) => useMaps.setState({ search: e.target.value })}
        />
      </div>
      <div className="maplist">
        {[...shown, ...earlier].map((m) => (
          <div
            key={m.id}
            className={`keptmap ${m === open ? 'on' : ''}`}
            data-map={m.name}
            title={m.description}
          >
            <div className="row">
              <b className="ellipsis">{m.name}</b>
              <span className="grow" />
              {m === open && <span className="tag">{changed ? 'open, changed' : 'open'}</span>}
              {m.default && <span className="tag">default</span>}
              <Button size="small" onClick={() => void loadMap(m.map)}>
                Load
              </Button>
              <Dropdown
                trigger={['click']}
                menu={{
                  items: [
                    { key: 'carry', label: 'Carry patterns that were made for it' },
                    { key: 'compare', label: 'Compare with the map here' },
                    { key: 'copy', label: 'Load as a copy' },
                    ...(m.builtIn
                      ? []
                      : [
                          {
                            key: 'default',
                            label: m.default ? 'No longer the default' : 'New lanes begin with it',
                          },
                          {
                            key: 'off',
                            label: m.earlier ? 'Bring it back to the list' : 'Take off the list',
                          },
                          { key: 'trash', label: 'Delete', danger: true },
                        ]),
                  ],
                  onClick: ({ key }) => {
                    if (key === 'compare') setComparing(m.map);
                    else if (key === 'carry')
                      void planCarry({
                        from: m.map,
                        to: project.map,
                        patterns: project.patterns.map((p) => p.id),
                        remember: true,
                      });
                    else if (key === 'copy') void loadMap({ ...m.map, name: `${m.map.name} copy` });
                    else if (key === 'trash') void throwAway('map', m.id, m.name).then(loadMaps);
                    else if (key === 'default') void setMap(m, !m.default, m.earlier);
                    else void setMap(m, false, !m.earlier);
                  },
                }}
              >
                <Button size="small" type="text" aria-label={`More about ${m.name}`}>
                  …
                </Button>
              </Dropdown>
            </div>
            <Stripes map={m.map} />
            <span className="lab">
              {m.map.lanes.length} lanes,{' '}
              {m.builtIn ? 'built in' : m.earlier ? `earlier, ${ago(m.savedAt)}` : ago(m.savedAt)}
            </span>
          </div>
        ))}
        {shown.length === 0 && (
          <p className="lab" style={{ padding: 12 }}>
            No map is called that.
          </p>
        )}
      </div>
      <div className="row" style={{ padding: '8px 12px', borderTop: '1px solid var(--rule-strong)', gap: 6 }}>
        <Button type="primary" data-id="save-map" onClick={() => setSaving(true)}>
          Save map as…
        </Button>
        {open && !open.builtIn && changed && (
          <>
            <Button onClick={() => void saveMap(open.name, open.description)}>Save</Button>
            <Button
              type="text"
              onClick={() =>
                void editMap({ map: open.map, label: `Back to saved ${open.name}` }).then(loadMaps)
              }
            >
              Back to saved
            </Button>
          </>
        )}
      </div>
      {saving && <SaveAs close={stopSaving} />}
      {comparing && <Compare a={project.map} b={comparing} close={() => setComparing(null)} />}
    </aside>
  );
}
