// The tools of the Sounds face, and the band that takes their place while a sample is tried.
import { unnamedKits, unnamedMaps } from '../model/constants.gen';
import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Dropdown, Popover, Switch } from 'antd';
import { Choice } from '../app/Choice';
import { useCallback, useState } from 'react';
import { addresses, api, type Project } from '../api/client';
import { useFiles } from '../app/PickFile';
import { bringKit, bringSamples } from '../app/bring';
import { NameDialog } from '../app/NameDialog';
import { edit, explain, say, shownLanes, useBench } from '../app/state';
import { chooseSample, openShelf, useShelf } from '../shelf/state';
import { toggleShelf } from '../shelf/state';
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
      <Choice
        name="Where it is tried"

        value={t.whole ? 'pad' : 'layer'}
        options={[
          { value: 'layer', label: `layer ${t.layer + 1}` },
          { value: 'pad', label: 'pad', title: 'Every layer of the pad' },
        ]}
        onChange={(v) => void tryIt({ whole: v === 'pad' })}
      />
      <Choice
        name="Which is heard"

        value={t.hear}
        options={[
          { value: 'new', label: 'New' },
          { value: 'old', label: 'Old' },
          { value: 'both', label: 'Both' },
          { value: 'turn', label: 'Turn', title: 'In turn, stroke by stroke' },
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
        {at + 1}/{total}
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
        as loud
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

/** Keeps the project's kit under a name, which is the kit's name in the project from then on. */
async function saveKit(project: Project, name: string) {
  try {
    await api.saveKit({ path: { project: project.id }, body: { name } });
    if (name !== project.kit.name) {
      const { map, kit } = project;
      const goesAlong = [kit.name, ...unnamedMaps].includes(map.name);
      await edit(
        [
          { kit: { op: 'pads', name } },
          ...(goesAlong ? [{ map: { map: { ...map, name }, label: `Name the map ${name}` } }] : []),
        ],
        `Save the kit as ${name}`,
      );
    }
    say({ title: `Kept the kit ${name}`, detail: 'It can be taken in any project.', error: false });
  } catch (e) {
    say(explain(e));
  }
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
  const stopSaving = useCallback(() => setSaving(false), []);
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
      {!shelfOpen && (
        <span className="lab">
          {project.kit.pads.length} pads, {count} layers
        </span>
      )}
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
      <Button
        data-id="add-samples-button"
        title="From your disk; first you see which lanes they would make"
        onClick={samples.open}
      >
        Import samples…
      </Button>
      {samples.input}
      <Button
        data-id="save-kit"
        disabled={project.kit.pads.length === 0}
        title="Keep this kit under its name; the state before stays in the list"
        onClick={() => {
          if (unnamedKits.includes(project.kit.name)) setSaving(true);
          else void saveKit(project, project.kit.name);
        }}
      >
        Save kit
      </Button>
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
        <Button data-id="kit-menu" title="The whole kit: under another name, from a file, into a file">
          Save as, import, export…
        </Button>
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
      {saving && (
        <NameDialog
          title="Save kit as"
          name={unnamedKits.includes(project.kit.name) ? '' : project.kit.name}
          label="Name of the kit"
          id="kit-name"
          close={stopSaving}
          save={(name) => {
            stopSaving();
            void saveKit(project, name);
          }}
        >
          <p className="lab" style={{ whiteSpace: 'normal' }}>
            With its drum map. A kit of that name stays in the list as an earlier state.
          </p>
        </NameDialog>
      )}
    </div>
  );
}
