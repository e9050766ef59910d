// The part whose lanes are shown; others are gone to, added, muted and taken out here.
import { Button } from 'antd';
import { Dropdown } from '../app/later';
import { useState } from 'react';
import type { Edit, Project } from '../api/client';
import { lazily } from '../app/lazily';
import { choosePart, edit, refreshPass, useBench } from '../app/state';

const NameDialog = lazily(async () => (await import('../app/NameDialog')).NameDialog);

/** Adds a part and goes to it. */
const add = (addPart: NonNullable<Edit['addPart']>) =>
  void edit([{ addPart }], '').then(() => choosePart(useBench.getState().project?.parts.at(-1)?.id ?? ''));

export function PartMenu({ project }: { project: Project }) {
  const [naming, setNaming] = useState(false);
  const together = useBench((s) => s.together);
  const { parts, part } = project;
  const here = parts.findIndex((p) => p.id === part);
  const now = parts[here] ?? parts[0];
  if (!now) return null;
  const many = parts.length > 1;
  const set = (to: Omit<NonNullable<Edit['part']>, 'id'>) => void edit([{ part: { id: part, ...to } }]);
  const close = () => setNaming(false);
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            ...(many
              ? parts.map((p, i) => ({
                  key: `go ${p.id}`,
                  label: (
                    <span>
                      {p.id === part ? <b>{`${i + 1} ${p.title}`}</b> : `${i + 1} ${p.title}`}
                      {p.output.to === 'kit' ? '' : <span className="lab"> MIDI {p.output.channel}</span>}
                      {p.heard ? '' : <span className="lab"> not heard</span>}
                    </span>
                  ),
                }))
              : []),
            ...(many ? [{ type: 'divider' as const }] : []),
            { key: 'copy', label: 'Add a part: a copy of this kit and map' },
            { key: 'midi', label: 'Add a part: a MIDI output with a map of its own' },
            ...(many
              ? [
                  { type: 'divider' as const },
                  { key: 'mute', label: now.muted ? 'Let this part be heard' : 'Mute this part' },
                  { key: 'solo', label: now.solo ? 'Solo no longer' : 'Solo this part' },
                  ...(part === ''
                    ? []
                    : parts
                        .filter((p) => p.id !== part)
                        .map((p, i) => ({
                          key: `layer ${p.id}`,
                          label:
                            now.layers === p.id
                              ? `Layer ${p.title} no longer`
                              : `Layer ${i === 0 && p.id === '' ? 'part 1' : p.title}: play its patterns too, by role`,
                        }))),
                  {
                    key: 'alone',
                    label: together ? 'Play this part’s pattern alone' : 'Play the parts’ patterns together',
                  },
                  { key: 'up', label: 'Move it up', disabled: here === 0 },
                  { key: 'down', label: 'Move it down', disabled: here === parts.length - 1 },
                  { key: 'name', label: 'Rename this part…' },
                  { key: 'remove', label: 'Remove this part', disabled: part === '' },
                ]
              : []),
          ],
          onClick: ({ key }) => {
            if (key.startsWith('go ')) void choosePart(key.slice(3));
            else if (key === 'copy') add({ copyOf: part, name: `${now.title} 2` });
            else if (key === 'midi')
              add({
                name: 'MIDI',
                output: { to: 'midi', port: 'receiver', channel: Math.min(16, parts.length) },
              });
            else if (key.startsWith('layer ')) {
              const of = key.slice(6);
              set({ layers: now.layers === of ? part : of });
            } else if (key === 'mute') set({ muted: !now.muted });
            else if (key === 'solo') set({ solo: !now.solo });
            else if (key === 'up' || key === 'down') set({ move: key === 'up' ? -1 : 1 });
            else if (key === 'alone') {
              useBench.setState({ together: !together });
              void refreshPass();
            } else if (key === 'name') setNaming(true);
            else void choosePart('').then(() => edit([{ part: { id: part, remove: true } }]));
          },
        }}
      >
        <Button
          size="small"
          data-id="part-menu"
          title={
            many ? `Part ${here + 1} of ${parts.length}: ${now.title}` : 'Add an instrument beside this kit'
          }
        >
          {many ? `${here + 1} of ${parts.length}` : '+ part'}
        </Button>
      </Dropdown>
      {naming && (
        <NameDialog
          id="part-name"
          title="Name of the part"
          label="Name"
          name={now.title}
          close={close}
          save={(name) => {
            close();
            set({ name });
          }}
        />
      )}
    </>
  );
}
