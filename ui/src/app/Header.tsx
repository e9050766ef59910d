import { BulbOutlined, DownOutlined, QuestionOutlined, RedoOutlined, UndoOutlined } from '@ant-design/icons';
import { Button, Dropdown, Select, Tooltip } from 'antd';
import { memo, useState } from 'react';
import { api, type KeptKit, type Lane } from '../api/client';
import { hex, Poly } from '../lanes/marks';
import { History } from './History';
import { bringKit, stopEditing } from '../maps/state';
import { chooseFace, explain, type Face, openProject, redo, say, setDark, undo, useBench } from './state';

const faces: { id: Face; name: string }[] = [
  { id: 'steps', name: 'Steps' },
  { id: 'roll', name: 'Roll' },
  { id: 'break', name: 'Break' },
  { id: 'sounds', name: 'Sounds' },
];

const choose = async (key: string) => {
  if (key === 'new') await openProject(await api.createProject({ body: { name: 'Untitled' } }));
  else if (key === 'demo')
    await openProject(await api.createProject({ body: { name: 'Lock Seven', demo: true } }));
  else await openProject(await api.getProject({ path: { project: key } }));
};

function Projects() {
  const name = useBench((s) => s.project?.name ?? '');
  const [items, setItems] = useState<{ key: string; label: string }[]>([]);
  const load = async () => {
    const { projects } = await api.listProjects();
    setItems(projects.map((p) => ({ key: p.id, label: p.name })));
  };
  return (
    <Dropdown
      trigger={['click']}
      onOpenChange={(open) => {
        if (open) load().catch((e: unknown) => say(explain(e)));
      }}
      menu={{
        items: [
          ...items,
          { type: 'divider' },
          { key: 'new', label: 'New project' },
          { key: 'demo', label: 'Look round Lock Seven' },
        ],
        onClick: ({ key }) => choose(key).catch((e: unknown) => say(explain(e))),
      }}
    >
      <Button type="text" size="small" data-id="project">
        {name} <DownOutlined style={{ fontSize: 9 }} />
      </Button>
    </Dropdown>
  );
}

/** A kit's pads as small hexagons. */
function KitPicture({ lanes }: { lanes: Lane[] }) {
  return (
    <svg width={Math.min(12, lanes.length) * 9 + 4} height={12} aria-hidden="true">
      {lanes.slice(0, 12).map((l, i) => (
        <g key={l.note} className={`f-${l.color}`}>
          <Poly pts={hex(6 + i * 9, 6, 10, 9)} fill="var(--c)" />
        </g>
      ))}
    </svg>
  );
}

const when = (at: string) =>
  new Date(at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });

const option = (k: KeptKit) => ({
  value: k.id,
  label: (
    <div style={{ lineHeight: 1.35, padding: '2px 0' }}>
      {k.name}{' '}
      <span className="lab">
        {k.kit.pads.length} pads{k.earlier ? `, as of ${when(k.savedAt)}` : ''}
      </span>
      <KitPicture lanes={k.map.lanes} />
    </div>
  ),
});

function Kits({ name }: { name: string }) {
  const [kept, setKept] = useState<KeptKit[]>([]);
  return (
    <Select
      style={{ width: 126 }}
      value={name}
      aria-label="Kit"
      data-id="kit"
      popupMatchSelectWidth={230}
      onOpenChange={(open) => {
        if (open)
          api
            .listKits()
            .then((r) => setKept(r.kits))
            .catch((e: unknown) => say(explain(e)));
      }}
      options={[
        {
          label: 'Ready',
          options: [
            { value: 'boathouse', label: 'Boathouse' },
            { value: 'empty', label: 'Empty kit' },
          ],
        },
        { label: 'Yours', options: kept.filter((k) => !k.earlier).map(option) },
        { label: 'Earlier states', options: kept.filter((k) => k.earlier).map(option) },
      ].filter((g) => g.options.length > 0)}
      onSelect={(v) => {
        void bringKit(v);
      }}
    />
  );
}

/** Back and forth in the history. */
function Steps() {
  const back = useBench((s) => s.project?.undo ?? '');
  const forth = useBench((s) => s.project?.redo ?? '');
  return (
    <>
      <Tooltip title={back ? `Undo: ${back} (Ctrl+Z)` : 'Nothing to undo'}>
        <Button
          type="text"
          data-id="undo"
          aria-label="Undo"
          icon={<UndoOutlined />}
          disabled={!back}
          onClick={() => void undo()}
        />
      </Tooltip>
      <Tooltip title={forth ? `Redo: ${forth} (Ctrl+Shift+Z)` : 'Nothing to redo'}>
        <Button
          type="text"
          data-id="redo"
          aria-label="Redo"
          icon={<RedoOutlined />}
          disabled={!forth}
          onClick={() => void redo()}
        />
      </Tooltip>
    </>
  );
}

function Saved() {
  const savedAt = useBench((s) => s.savedAt);
  const pending = useBench((s) => s.pending > 0);
  const saved = pending ? 'Saving' : savedAt ? `Saved ${savedAt}` : 'Nothing to save yet';
  return (
    <span className="lab" data-id="saved" aria-live="polite">
      {saved}
    </span>
  );
}

export const Header = memo(function Header({ help }: { help: () => void }) {
  const face = useBench((s) => s.face);
  const kit = useBench((s) => s.project?.kit.name ?? '');
  const dark = useBench((s) => s.dark);
  return (
    <header className="top">
      <div className="brand">
        <svg width={24} height={21} aria-hidden="true">
          <Poly pts={hex(12, 10.5, 22, 19)} fill="none" stroke="var(--ink)" strokeWidth={2} />
          <path d="M1.500 11h21l-5.200 8.500h-10.600z" fill="var(--ink)" />
        </svg>
        <b>Hexachord</b>
        <span className="lab">/</span>
        <Projects />
      </div>
      <nav className="faces" aria-label="Faces">
        {faces.map((f, i) => (
          <button
            key={f.id}
            type="button"
            className={`face ${f.id === face ? 'on' : ''}`}
            aria-current={f.id === face}
            title={`${f.name} (${i + 1})`}
            onClick={() => {
              stopEditing();
              chooseFace(f.id);
            }}
          >
            {f.name}
          </button>
        ))}
      </nav>
      <div className="topright">
        <Saved />
        <span className="sep" />
        <Steps />
        <History />
        <span className="sep" />
        <span className="lab">Kit</span>
        <Kits name={kit} />
        <Tooltip title={dark ? 'Daylight' : 'Dark'}>
          <Button
            type="text"
            aria-label="Daylight or dark"
            icon={<BulbOutlined />}
            onClick={() => setDark(!dark)}
          />
        </Tooltip>
        <Tooltip title="Keys (?)">
          <Button type="text" aria-label="Keys" icon={<QuestionOutlined />} onClick={help} />
        </Tooltip>
      </div>
    </header>
  );
});
