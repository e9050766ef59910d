import {
  BulbOutlined,
  DownOutlined,
  QuestionOutlined,
  RedoOutlined,
  UndoOutlined,
  UpOutlined,
} from '@ant-design/icons';
import { Button, type InputRef, Popover, Tooltip } from 'antd';
import Input from 'antd/es/input/Input';
import { Select } from './later';
import { memo, useRef, useState } from 'react';
import { api, type KeptKit } from '../api/client';
import { hex, Poly } from '../lanes/marks';
import { History } from './History';
import { bringKit, stopEditing } from '../maps/state';
import { KitPicture } from '../projects/Picture';
import { closeProjects, rename, toggleProjects, useProjects } from '../projects/state';
import { chooseFace, explain, type Face, redo, say, setDark, undo, useBench } from './state';

const faces: { id: Face; name: string }[] = [
  { id: 'steps', name: 'Steps' },
  { id: 'roll', name: 'Roll' },
  { id: 'break', name: 'Break' },
  { id: 'sounds', name: 'Sounds' },
  { id: 'song', name: 'Song' },
  { id: 'mix', name: 'Mix' },
];

/** The project's name, which opens all projects; one without a name is asked for one, where it does not hurry. */
function Projects() {
  const id = useBench((s) => s.project?.id ?? '');
  const title = useBench((s) => s.project?.title ?? '');
  const unnamed = useBench((s) => s.project !== null && ['', 'Untitled'].includes(s.project.name));
  const made = useBench((s) => (s.project?.undo ?? '') !== '');
  const managing = useProjects((s) => s.open);
  const [naming, setNaming] = useState(false);
  const field = useRef<InputRef>(null);
  return (
    <>
      <Button
        type="text"
        size="small"
        className="ellipsis"
        data-id="project"
        aria-expanded={managing}
        title="All projects and kits (Shift+J)"
        style={{ maxWidth: unnamed && made ? 78 : 138, ...(unnamed ? { fontStyle: 'italic' } : {}) }}
        onClick={toggleProjects}
      >
        {title} {managing ? <UpOutlined style={{ fontSize: 9 }} /> : <DownOutlined style={{ fontSize: 9 }} />}
      </Button>
      {unnamed && made && !managing && (
        <Popover
          open={naming}
          onOpenChange={setNaming}
          trigger="click"
          placement="bottomLeft"
          afterOpenChange={(open) => {
            if (open) field.current?.focus();
          }}
          content={
            <Input
              ref={field}
              style={{ width: 220 }}
              placeholder={title}
              aria-label="Name of the project"
              data-id="name-project"
              maxLength={200}
              onPressEnter={(e) => {
                setNaming(false);
                void rename(id, e.currentTarget.value);
              }}
            />
          }
        >
          <Button
            size="small"
            type="dashed"
            data-id="name-it"
            title="It is called after its pattern or kit until then"
          >
            name it
          </Button>
        </Popover>
      )}
    </>
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
      <KitPicture map={k.map} kit={k.kit} w={92} h={24} />
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
  const managing = useProjects((s) => s.open);
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
            className={`face ${f.id === face && !managing ? 'on' : ''}`}
            aria-current={f.id === face && !managing}
            title={`${f.name} (${i + 1})`}
            onClick={() => {
              stopEditing();
              closeProjects();
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
        <Tooltip title="Help (?)">
          <Button
            type="text"
            aria-label="Help"
            data-id="help-button"
            icon={<QuestionOutlined />}
            onClick={help}
          />
        </Tooltip>
      </div>
    </header>
  );
});
