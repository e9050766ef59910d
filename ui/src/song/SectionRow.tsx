// The sections of the song: named, moved, copied and taken out whole.
import { Dropdown } from 'antd';
import type { Project } from '../api/client';
import { currentPattern, edit, useBench } from '../app/state';
import { newSettings } from '../model/constants.gen';
import { type SongView, xOf } from './draw';
import { editSong, useSong } from './state';

/** The pattern shown and the project's settings. */
const inForce = () => {
  const s = useBench.getState();
  return { pattern: currentPattern(s), settings: s.project?.settings ?? newSettings };
};

export function SectionRow({ project, view, width }: { project: Project; view: SongView; width: number }) {
  const cursor = useSong((s) => s.cursor);
  const { sections } = project.song;
  return (
    <div className="sectionrow" data-id="sections" style={{ width }}>
      {sections.map((s, i) => {
        const { name, bar, bars } = s.value;
        const after = sections[i + 1]?.value;
        const before = sections[i - 1]?.value;
        const section = (how: 'move' | 'copy' | 'remove', toBar = 0) =>
          void edit([{ section: { id: s.id, do: how, toBar } }]);
        return (
          <Dropdown
            key={s.id}
            trigger={['click']}
            menu={{
              items: [
                { key: 'choose', label: 'Choose its bars' },
                { key: 'name', label: 'Rename…' },
                { key: 'copy', label: 'Copy it behind itself' },
                { key: 'earlier', label: 'Move it before the one before', disabled: !before },
                { key: 'later', label: 'Move it behind the one after', disabled: !after },
                {
                  key: 'cursor',
                  label: `Move it to bar ${cursor + 1}`,
                  disabled: cursor >= bar && cursor < bar + bars,
                },
                s.value.feel
                  ? { key: 'no-feel', label: 'Its feel: that of the project again' }
                  : { key: 'feel', label: 'Its feel: the one in force now, for itself' },
                { key: 'label', label: 'Take its name off' },
                { key: 'remove', label: 'Remove it with its bars' },
              ],
              onClick: ({ key }) => {
                if (key === 'choose') useSong.setState({ range: { from: bar, to: bar + bars }, chosen: [] });
                else if (key === 'name') useSong.setState({ naming: s.id });
                else if (key === 'copy') section('copy', bar + bars);
                else if (key === 'earlier') section('move', before?.bar ?? 0);
                else if (key === 'later') section('move', after ? after.bar + after.bars : 0);
                else if (key === 'cursor') section('move', cursor);
                else if (key === 'feel' || key === 'no-feel') {
                  const { feel: _was, ...rest } = s.value;
                  const { pattern, settings } = inForce();
                  const feel = pattern?.feel ?? settings.feel;
                  void editSong({
                    sections: [{ id: s.id, section: key === 'feel' ? { ...rest, feel } : rest }],
                    label: key === 'feel' ? `A feel for ${name}` : `No feel of its own for ${name}`,
                  });
                } else if (key === 'label') void editSong({ removeSections: [s.id] });
                else section('remove');
              },
            }}
          >
            <button
              type="button"
              className="section"
              data-section={name}
              title={`${name}, bars ${bar + 1} to ${bar + bars}${s.value.feel ? `, with a feel of its own: swing ${s.value.feel.swing.percent}%` : ''}`}
              style={{ left: xOf(view, bar), width: Math.max(6, bars * view.perBar - 2) }}
            >
              <b className="ellipsis">
                {name}
                {s.value.feel ? ' ~' : ''}
              </b>
              {bars * view.perBar > 90 && (
                <span className="lab">{bars === 1 ? '1 bar' : `${bars} bars`}</span>
              )}
            </button>
          </Dropdown>
        );
      })}
      {sections.length === 0 && (
        <span className="lab" style={{ position: 'absolute', left: 18, top: 3 }}>
          Choose bars and press Y: a section with a name, which moves and repeats whole
        </span>
      )}
    </div>
  );
}
