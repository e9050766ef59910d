// What can be done with the samples chosen on the shelf.
import { Button, Dropdown, Select } from 'antd';
import type { Project } from '../api/client';
import { shownLanes, useBench } from '../app/state';
import { addTo, bringTo, planDrop, tryIt, useSounds } from '../sounds/state';
import { kinds } from './kinds';
import { chosenSample, correct, look, throwAwayChosen, useShelf } from './state';

export function Actions({ project }: { project: Project }) {
  const s = useShelf(chosenSample);
  const chosen = useShelf((x) => x.chosen);
  const found = useShelf((x) => x.found);
  const lane = useBench((x) => x.lane);
  const layer = useSounds((x) => x.layer);
  const trying = useSounds((x) => x.trying);
  const pad = project.kit.pads.find((p) => p.note === lane);
  const name = shownLanes(project.map).find((l) => l.note === lane)?.name ?? `note ${lane}`;
  if (!s) {
    return (
      <p className="lab" style={{ whiteSpace: 'normal', margin: 0 }}>
        Arrows move and sound, space repeats, Delete puts in the trash. Drag a sample onto a lane, a layer or
        a pad; with Shift choose several.
      </p>
    );
  }
  if (chosen.length > 1) {
    const several = found.filter((f) => chosen.includes(f.hash));
    return (
      <div className="row" style={{ gap: 6 }}>
        <Button
          type="primary"
          onClick={() =>
            void planDrop({
              parts: several.map((f) => ({ hash: f.hash })),
              names: several.map((f) => f.name),
              from: 'the shelf',
            })
          }
        >
          Lay out {chosen.length}…
        </Button>
        <Button
          onClick={() =>
            bringTo(
              lane,
              several.map((f) => ({ hash: f.hash })),
              several.map((f) => f.name),
            )
          }
        >
          All on {name}
        </Button>
        <Button danger title="Put them in the trash (Delete)" onClick={() => void throwAwayChosen()}>
          Trash
        </Button>
      </div>
    );
  }
  const parts = [{ hash: s.hash }];
  const full = (pad?.layers.length ?? 0) > 0;
  const at = Math.min(layer, (pad?.layers.length ?? 1) - 1);
  return (
    <div className="row" style={{ gap: 6 }}>
      <Button
        type={trying ? 'default' : 'primary'}
        data-id="try"
        title={`Hear it in ${name} while the beat plays (T)`}
        onClick={() => void tryIt({ hash: s.hash, name: s.name })}
      >
        Try on {full ? `layer ${at + 1}` : name}
      </Button>
      <Dropdown
        trigger={['click']}
        placement="topLeft"
        menu={{
          items: [
            { key: 'replace', label: full ? `Replace all of ${name}` : `Put on ${name}` },
            { key: 'layer', label: `Add to ${name} as a layer`, disabled: !full },
            { key: 'stack', label: `Stack on layer ${at + 1} of ${name}`, disabled: !full },
            { key: 'stack all', label: `Stack on every layer of ${name}`, disabled: !full },
            { key: 'take', label: `Add to layer ${at + 1} as a take`, disabled: !full },
            { key: 'lane', label: 'Put on a lane of its own kind' },
            { type: 'divider' },
            { key: 'like', label: 'Show what sounds like it' },
            { key: 'cut', label: 'Cut sounds from it' },
            { type: 'divider' },
            { key: 'trash', label: 'Put in the trash', danger: true },
          ],
          onClick: ({ key }) => {
            if (key === 'like') void look({ like: s.hash, sort: 'likeness', kind: '', text: '' });
            else if (key === 'cut') {
              useSounds.setState({ cutting: s.hash });
              useBench.setState({ face: 'sounds' });
              useShelf.setState({ open: false });
            } else if (key === 'lane') void planDrop({ parts, names: [s.name], from: 'the shelf' });
            else if (key === 'stack all') void addTo(lane, parts, [s.name], 'stack', -1);
            else void addTo(lane, parts, [s.name], key as 'replace', key === 'layer' ? -1 : at);
          },
        }}
      >
        <Button data-id="put-on">Put on…</Button>
      </Dropdown>
      <Select
        size="small"
        style={{ width: 100 }}
        aria-label="What it is"
        title="What it is: correct it here"
        value={s.kind}
        options={[
          ...kinds.map((k) => ({ value: k, label: k })),
          { value: '', label: s.corrected ? `as heard: ${s.guesses[0]?.kind ?? ''}` : 'as heard' },
        ]}
        onChange={(kind: string) => void correct(s.hash, { kind })}
      />
    </div>
  );
}

/** Where a sample came from, with what lies beside it there; and the words it is found by. */
export function Tags() {
  const s = useShelf(chosenSample);
  if (!s) return null;
  return (
    <>
      <div className="row" style={{ gap: 6, marginBottom: 6 }}>
        <span className="lab ellipsis" style={{ flex: 1 }} title={`${s.folder}/${s.name}`}>
          {s.folder ? `from ${s.folder}` : 'came alone, without a folder'}
        </span>
        {s.folder !== '' && (
          <Button
            size="small"
            data-id="neighbours"
            title="Everything that came from this folder"
            onClick={() => void look({ folder: s.folder, text: '', kind: '', tag: '', maxSeconds: 0 })}
          >
            Its neighbours
          </Button>
        )}
      </div>
      <Select
        mode="tags"
        size="small"
        style={{ width: '100%' }}
        aria-label="Tags"
        placeholder="Tags"
        value={s.tags}
        tokenSeparators={[',']}
        onChange={(tags: string[]) => void correct(s.hash, { tags })}
      />
    </>
  );
}
