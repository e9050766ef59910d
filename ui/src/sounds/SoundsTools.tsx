// The tools of the Sounds face, and the band that takes their place while a sample is tried.
import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Dropdown, Input, Modal, Popover, Segmented, Switch } from 'antd';
import { useState } from 'react';
import { addresses, api, type Project } from '../api/client';
import { useFiles } from '../app/PickFile';
import { bringKit, bringSamples } from '../app/bring';
import { explain, say, shownLanes, useBench } from '../app/state';
import { chooseSample, openShelf, useShelf } from '../shelf/state';
import { toggleShelf } from '../shelf/Shelf';
import { endTry, type Hearing, padOf, tryIt, useSounds } from './state';

function TryBand({ shelfOpen }: { shelfOpen: boolean }) {
  const t = useSounds((s) => s.trying);
  const at = useShelf((s) => s.at);
  const total = useShelf((s) => s.total);
  if (!t) return null;
  return (
    <div className="tools pending" data-id="trying" style={shelfOpen ? { marginRight: 328 } : {}}>
      <b className="ellipsis" style={{ maxWidth: 130 }}>
        {t.name.replace(/\.[^.]*$/, '')}
      </b>
      <span className="lab">layer {t.layer + 1}</span>
      <Segmented
        size="small"
        value={t.hear}
        options={[
          { value: 'new', label: 'New' },
          { value: 'old', label: 'Old' },
          { value: 'both', label: 'Both' },
          { value: 'turn', label: 'In turn' },
        ]}
        onChange={(v) => void tryIt({ hear: v as Hearing })}
      />
      <Button
        size="small"
        ghost
        icon={<LeftOutlined />}
        aria-label="Previous candidate"
        onClick={() => chooseSample(at - 1)}
      />
      <span className="num">
        {at + 1} of {total}
      </span>
      <Button
        size="small"
        ghost
        icon={<RightOutlined />}
        aria-label="Next candidate"
        onClick={() => chooseSample(at + 1)}
      />
      <Switch
        size="small"
        checked={t.match}
        aria-label="Match loudness"
        onChange={(match) => void tryIt({ match })}
      />
      <span className="lab" title="Bring the new one to the old one’s loudness">
        match
      </span>
      <span className="grow" />
      <Button ghost data-id="put-back" onClick={() => endTry(false)} title="Put back (Esc)">
        Put back
      </Button>
      <Button data-id="keep-try" onClick={() => endTry(true)} title="Keep (Enter)">
        Keep
      </Button>
    </div>
  );
}

function SaveKit({ project, close }: { project: Project; close: () => void }) {
  const [name, setName] = useState(project.kit.name);
  const save = async () => {
    try {
      await api.saveKit({ path: { project: project.id }, body: { name } });
      say({
        title: `Kept the kit ${name}`,
        detail: 'Choose it in any project, at the top right.',
        error: false,
      });
      close();
    } catch (e) {
      say(explain(e));
    }
  };
  return (
    <Modal open title="Save kit as" okText="Save" width={380} onCancel={close} onOk={() => void save()}>
      <Input
        value={name}
        aria-label="Name of the kit"
        data-id="kit-name"
        maxLength={100}
        autoFocus
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => void save()}
      />
      <p className="lab" style={{ whiteSpace: 'normal' }}>
        With its drum map. A kit of that name stays in the list as an earlier state.
      </p>
    </Modal>
  );
}

function download(address: string) {
  const a = document.createElement('a');
  a.href = address;
  a.download = '';
  a.click();
}

async function exportKit(project: Project, as: 'sfz' | 'bundle') {
  try {
    const { lost } = await api.exportLoses({ path: { project: project.id }, query: { as } });
    if (lost.length > 0)
      say({ title: `What ${as.toUpperCase()} cannot carry`, detail: `${lost.join('; ')}.`, error: false });
    download(addresses.kit(project.id, as));
  } catch (e) {
    say(explain(e));
  }
}

export function SoundsTools({ project, shelfOpen }: { project: Project; shelfOpen: boolean }) {
  const trying = useSounds((s) => s.trying);
  const follow = useSounds((s) => s.follow);
  const [saving, setSaving] = useState(false);
  const kit = useFiles({
    accept: '.zip',
    id: 'kit-file',
    take: async (f) => {
      if (!(await bringKit(f)))
        say({
          title: 'There is no kit in this file',
          detail: 'A kit is a bundle made here, or a zip with an SFZ file and its samples.',
          error: false,
        });
    },
  });
  const samples = useFiles({
    accept: '.wav,.aif,.aiff,.flac,.mp3,.ogg,.opus,.m4a,.zip,audio/*',
    id: 'add-samples',
    several: 'files',
    take: (f) => bringSamples(f, f.length === 1 ? 'one file' : `${f.length} files`),
  });
  if (trying) return <TryBand shelfOpen={shelfOpen} />;
  const silent = shownLanes(project.map).filter((l) => padOf(project, l.note).layers.length === 0);
  const count = project.kit.pads.reduce((n, p) => n + p.layers.length, 0);
  return (
    <div className="tools" style={shelfOpen ? { marginRight: 328 } : {}}>
      <span className="lab">Kit</span>
      <b>{project.kit.name}</b>
      <span className="lab">
        {project.kit.pads.length} pads, {count} layers
      </span>
      {silent.length > 0 && (
        <Popover
          trigger="click"
          placement="bottomLeft"
          content={
            <div style={{ display: 'grid', gap: 4 }}>
              <b>Lanes still without a sound</b>
              {silent.map((l) => (
                <Button
                  key={l.note}
                  size="small"
                  type="text"
                  style={{ justifyContent: 'start' }}
                  onClick={() => {
                    useBench.setState({ lane: l.note });
                    openShelf({ kind: l.role, text: '' });
                  }}
                >
                  {l.code} {l.name}: show every {l.role}
                </Button>
              ))}
            </div>
          }
        >
          <button type="button" className="tag doubt">
            {silent.length} without a sound
          </button>
        </Popover>
      )}
      <span className="sep" />
      <Button data-id="add-samples-button" onClick={samples.open}>
        Add samples…
      </Button>
      {samples.input}
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'save', label: 'Save kit as…' },
            { key: 'in', label: 'Import a kit: bundle, or SFZ in a zip' },
            { type: 'divider' },
            { key: 'bundle', label: 'Export as a kit bundle' },
            { key: 'sfz', label: 'Export as SFZ with its samples' },
          ],
          onClick: ({ key }) => {
            if (key === 'save') setSaving(true);
            else if (key === 'in') kit.open();
            else void exportKit(project, key as 'sfz');
          },
        }}
      >
        <Button data-id="kit-menu">Save, import, export…</Button>
      </Dropdown>
      {kit.input}
      <span className="grow" />
      <Switch
        size="small"
        checked={follow}
        aria-label="The pad edited follows the pad struck"
        onChange={(v) => useSounds.setState({ follow: v })}
      />
      <span className="muted">Follow strikes</span>
      {!shelfOpen && (
        <Button type="primary" data-id="open-shelf" title="All samples (L)" onClick={toggleShelf}>
          Shelf
        </Button>
      )}
      {saving && <SaveKit project={project} close={() => setSaving(false)} />}
    </div>
  );
}
