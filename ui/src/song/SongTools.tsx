// What may be laid on the song, and how it is played.
import { Button, Dropdown, Modal } from 'antd';
import { Choice } from '../app/Choice';
import { addresses, api, type Project } from '../api/client';
import { midiFiles, useFiles } from '../app/PickFile';
import { edit, explain, importSong, say, useBench } from '../app/state';
import { layPattern, layRecording, nameSection, playSong, toggleLooped, useSong } from './state';

const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`;

export function SongTools({ project }: { project: Project }) {
  const song = useBench((s) => s.song);
  const looped = useSong((s) => s.looped);
  const dropping = useSong((s) => s.dropping);
  const cursor = useSong((s) => s.cursor);
  const [modal, asking] = Modal.useModal();
  const files = useFiles({
    accept: midiFiles,
    id: 'song-file',
    take: async ([file]) => {
      if (!file) return;
      try {
        const plan = await api.planSongMidi({
          path: { project: project.id },
          query: { revision: project.revision, bar: cursor },
          body: { file },
        });
        modal.confirm({
          title: `Lay ${plan.name} from bar ${cursor + 1} on?`,
          content: `${plan.bars} bars with ${plan.hits} hits become ${plan.patterns} patterns: equal bars share one. ${
            plan.instruments.length > 1
              ? `${plan.instruments.length} instruments: ${plan.instruments.slice(1).join(', ')} become parts that play to MIDI. `
              : ''
          }${plan.takesTempo ? 'Its tempi and meters become the song’s.' : 'The song keeps its tempi and meters.'}`,
          okText: 'Lay it',
          cancelText: 'Put back',
          onOk: () => importSong(file, cursor),
        });
      } catch (e) {
        say(explain(e));
      }
    },
  });
  const { bars } = project.song;
  // blocks that are on their way count already
  const end = Math.max(project.song.end, ...project.blocks.map((b) => b.value.bar + b.value.bars));
  const shown = project.patterns.slice(0, 3);
  const rest = project.patterns.slice(3);
  return (
    <div className="tools">
      {asking}
      <Choice<boolean>
        name="What is played"

        data-id="plays"
        value={song}
        options={[
          { value: false, label: 'pattern', title: 'The pattern is played (Shift+Space)' },
          { value: true, label: 'song', title: 'The song is played (Shift+Space)' },
        ]}
        onChange={(v) => void playSong(v)}
      />
      <span className="lab">Lay</span>
      {shown.map((p) => (
        <Button
          key={p.id}
          size="small"
          draggable
          data-lay={p.id}
          title={`${p.value.name}, ${p.value.bars} bars: drag it to its bar, or press to lay it at the cursor`}
          onDragStart={(e) => e.dataTransfer.setData('text/x-pattern', p.id)}
          onClick={() => layPattern(p.id)}
        >
          {p.value.name} <span className="lab">{p.value.bars}</span>
        </Button>
      ))}
      {rest.length > 0 && (
        <Dropdown
          trigger={['click']}
          menu={{
            items: rest.map((p) => ({ key: p.id, label: `${p.value.name}, ${p.value.bars} bars` })),
            style: { maxHeight: 400, overflow: 'auto' },
            onClick: ({ key }) => layPattern(key),
          }}
        >
          <Button size="small">{rest.length} more</Button>
        </Dropdown>
      )}
      {project.recordings.slice(0, 1).map((r) => (
        <Dropdown
          key={r.id}
          trigger={['contextMenu']}
          menu={{
            items: [
              { key: 'along', label: `It runs along from bar ${cursor + 1} on` },
              { key: 'bars', label: 'Its bars as patterns: those alike share one, sections are proposed' },
              { key: 'both', label: 'Both' },
            ],
            onClick: ({ key }) => {
              if (key === 'along') layRecording(r.id);
              else
                void edit([
                  { layHeard: { recording: r.id, bar: cursor, ...(key === 'both' ? { along: true } : {}) } },
                ]);
            },
          }}
        >
          <Button
            size="small"
            draggable
            data-lay-recording={r.id}
            title={`${r.name}: drag it under its bars, or press to lay it at the cursor; right click lays its bars as patterns`}
            onDragStart={(e) => e.dataTransfer.setData('text/x-recording', r.id)}
            onClick={() => layRecording(r.id)}
          >
            ∿{' '}
            <span className="ellipsis" style={{ maxWidth: 110 }}>
              {r.name}
            </span>
          </Button>
        </Dropdown>
      ))}
      <Button
        size="small"
        type={dropping ? 'primary' : 'default'}
        aria-pressed={dropping}
        data-id="play-and-drop"
        title="While patterns play, each time through is laid at the cursor: choose the next one as you listen"
        onClick={() => useSong.setState({ dropping: !dropping })}
      >
        Play and drop
      </Button>
      <span className="grow" />
      <Button
        size="small"
        data-id="name-section"
        title="The chosen bars are a section with a name (Y)"
        onClick={() => nameSection('')}
      >
        Section
      </Button>
      <Button
        size="small"
        type={looped ? 'primary' : 'default'}
        aria-pressed={looped}
        title="The chosen bars go round (\\)"
        onClick={toggleLooped}
      >
        Loop
      </Button>
      <b data-id="song-length">
        {end === 1 ? '1 bar' : `${end} bars`}, {clock(bars[bars.length - 1]?.at ?? 0)}
      </b>
      <Dropdown
        trigger={['click']}
        menu={{
          onClick: ({ key }) => key === 'import' && files.open(),
          items: [
            { key: 'import', label: `Import a MIDI file from bar ${cursor + 1} on…` },
            { key: 'midi', label: <a href={addresses.songMIDI(project.id)}>MIDI file, a track a lane</a> },
            { key: 'wav', label: <a href={addresses.songWAV(project.id)}>WAV of the song, 24-bit</a> },
          ],
        }}
      >
        <Button size="small" data-id="song-export" title="The song as MIDI or WAV; a MIDI file as a song">
          Files…
        </Button>
      </Dropdown>
      {files.input}
    </div>
  );
}
