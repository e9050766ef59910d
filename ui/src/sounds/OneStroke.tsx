// A single stroke was dropped away from Sounds: what becomes of it.
import { Button, Modal } from 'antd';
import type { Project } from '../api/client';
import { useBench } from '../app/state';
import { bringFile } from '../break/listen';
import { hear, openShelf } from '../shelf/state';
import { bringTo, planDrop, useSounds } from './state';

const close = () => useSounds.setState({ stroke: null });

export function OneStroke({ project }: { project: Project }) {
  const s = useSounds((x) => x.stroke);
  const lane = useBench((x) => x.lane);
  if (!s) return null;
  const chosen = project.map.lanes.find((l) => l.note === lane);
  const own = project.map.lanes.find((l) => l.role === s.kind);
  const put = (note: number) => {
    close();
    useBench.setState({ face: 'sounds' });
    bringTo(note, [{ hash: s.hash }], [s.name]);
  };
  const does: [id: string, label: string, words: string, go: () => void][] = [];
  if (own) does.push(['own', `Put on ${own.name}`, `the lane of its kind, ${s.kind}`, () => put(own.note)]);
  if (chosen && chosen !== own)
    does.push(['chosen', `Put on ${chosen.name}`, 'the lane chosen', () => put(chosen.note)]);
  does.push([
    'lane',
    'A lane of its own',
    'you see it before anything changes',
    () => {
      close();
      void planDrop({
        parts: [{ hash: s.hash }],
        names: [s.name],
        from: s.name,
        options: { by: 'kind', lane: { '0': -2 } },
      });
    },
  ]);
  does.push([
    'shelf',
    'Leave it on the shelf',
    'found there under its name',
    () => {
      close();
      openShelf({ text: s.name.replace(/\.[^.]*$/, ''), kind: '' });
    },
  ]);
  does.push([
    'break',
    'Hear its hits in Break',
    'it is a recording of several',
    () => {
      close();
      void bringFile(s.file);
    },
  ]);
  return (
    <Modal open onCancel={close} footer={null} width={460} title={`${s.name} is one stroke`}>
      <p style={{ marginTop: 0 }}>
        It is on the shelf now, and sounds like a {s.kind}.{' '}
        <Button size="small" onClick={() => void hear(s.hash)}>
          Hear it
        </Button>
      </p>
      <div className="asks">
        {does.map(([id, label, words, go], i) => (
          <div key={id} style={{ display: 'contents' }}>
            <Button
              data-id={`stroke-${id}`}
              type={i === 0 ? 'primary' : 'default'}
              autoFocus={i === 0}
              onClick={go}
            >
              {label}
            </Button>
            <span>{words}</span>
          </div>
        ))}
      </div>
    </Modal>
  );
}
