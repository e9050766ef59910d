import { BulbOutlined, DownOutlined, QuestionOutlined, RedoOutlined, UndoOutlined } from '@ant-design/icons';
import { Button, Dropdown, Select, Tooltip } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import { hex, Poly } from '../lanes/marks';
import {
  chooseFace,
  explain,
  type Face,
  openProject,
  redo,
  say,
  setDark,
  takeKit,
  undo,
  useBench,
} from './state';

const faces: { id: Face; name: string }[] = [
  { id: 'steps', name: 'Steps' },
  { id: 'break', name: 'Break' },
];

const choose = async (key: string) => {
  if (key === 'new') await openProject(await api.createProject('Untitled', false));
  else if (key === 'demo') await openProject(await api.createProject('Lock Seven', true));
  else await openProject(await api.project(key));
};

function Projects() {
  const name = useBench((s) => s.project?.name ?? '');
  const [items, setItems] = useState<{ key: string; label: string }[]>([]);
  const load = async () => {
    const { projects } = await api.projects();
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

export function Header({ help }: { help: () => void }) {
  const face = useBench((s) => s.face);
  const project = useBench((s) => s.project);
  const savedAt = useBench((s) => s.savedAt);
  const pending = useBench((s) => s.pending);
  const dark = useBench((s) => s.dark);
  const saved = pending > 0 ? 'Saving' : savedAt ? `Saved ${savedAt}` : 'Nothing to save yet';
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
            onClick={() => chooseFace(f.id)}
          >
            {f.name}
          </button>
        ))}
      </nav>
      <div className="topright">
        <span className="lab" data-id="saved" aria-live="polite">
          {saved}
        </span>
        <span className="sep" />
        <Tooltip title={project?.undo ? `Undo: ${project.undo} (Ctrl+Z)` : 'Nothing to undo'}>
          <Button
            type="text"
            data-id="undo"
            aria-label="Undo"
            icon={<UndoOutlined />}
            disabled={!project?.undo}
            onClick={() => void undo()}
          />
        </Tooltip>
        <Tooltip title={project?.redo ? `Redo: ${project.redo} (Ctrl+Shift+Z)` : 'Nothing to redo'}>
          <Button
            type="text"
            data-id="redo"
            aria-label="Redo"
            icon={<RedoOutlined />}
            disabled={!project?.redo}
            onClick={() => void redo()}
          />
        </Tooltip>
        <span className="sep" />
        <span className="lab">Kit</span>
        <Select
          style={{ width: 126 }}
          value={project?.kit.name ?? ''}
          aria-label="Kit"
          options={[
            { value: 'boathouse', label: 'Boathouse' },
            { value: 'empty', label: 'Empty kit' },
          ]}
          onSelect={(v) => void takeKit(v === 'empty' ? 'empty' : 'boathouse')}
        />
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
}
