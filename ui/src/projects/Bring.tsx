// What comes from the project chosen to the one that is open, and the trash.
import { Button, Checkbox } from 'antd';
import { Choice } from '../app/Choice';
import type { Trashed } from '../api/client';
import { LongList } from '../app/LongList';
import { Chip } from '../lanes/marks';
import { codeOf, familyOf } from '../shelf/kinds';
import { api } from '../api/client';
import { explain, say } from '../app/state';
import { bringKit, loadMap } from '../maps/state';
import { Colours, PatternPicture } from './Picture';
import { when } from './ProjectsFace';
import {
  bringThem,
  closeProjects,
  emptyTrash,
  hearHere,
  hearThere,
  pick,
  restore,
  useProjects,
} from './state';

async function takeMap(project: string) {
  try {
    const p = await api.getProject({ path: { project } });
    closeProjects();
    await loadMap(p.map);
  } catch (e) {
    say(explain(e));
  }
}

export function Bring() {
  const card = useProjects((s) => s.cards.find((c) => c.id === s.chosen?.id));
  const picked = useProjects((s) => s.picked);
  const by = useProjects((s) => s.by);
  const brought = useProjects((s) => s.brought);
  const heard = useProjects((s) => s.heard);
  if (!card)
    return (
      <div className="dropcol" style={{ flex: 2 }}>
        <span className="ttl">Copy something over</span>
        <span className="lab" style={{ whiteSpace: 'normal' }}>
          Patterns, the map and the kit of another project come straight to this one: choose its picture.
        </span>
      </div>
    );
  const silent = Object.values(brought?.noHome ?? {}).reduce((n, x) => n + x, 0);
  return (
    <>
      <div className="dropcol scroll">
        <span className="row">
          <b className="ttl ellipsis">Patterns of {card.title}</b>
          <span className="lab">
            {picked.length > 0 ? `${picked.length} of ${card.patterns.length} chosen` : ''}
          </span>
        </span>
        {card.patterns.map((p) => (
          <span key={p.id} className="row bringrow" data-bring={p.name}>
            <Checkbox
              checked={picked.includes(p.id)}
              onChange={(e) =>
                void pick({
                  picked: e.target.checked ? [...picked, p.id] : picked.filter((x) => x !== p.id),
                })
              }
            >
              <span className="row">
                <PatternPicture pattern={p} lanes={card.lanes} w={62} h={20} />
                <b className="ellipsis" style={{ width: 96 }}>
                  {p.name}
                </b>
                <span className="lab">
                  {p.bars} {p.bars === 1 ? 'bar' : 'bars'}, {p.hits} hits
                </span>
              </span>
            </Checkbox>
            <span className="grow" />
            <button
              type="button"
              className={`ms ${heard === p.id ? 'on' : ''}`}
              aria-label={`Hear ${p.name} as it sounds there`}
              title="Hear it as it sounds there"
              onClick={() => void hearThere(card.id, p.id)}
            >
              {heard === p.id ? '■' : '▶'}
            </button>
          </span>
        ))}
      </div>
      <div className="dropcol">
        <span className="ttl">Copy them over</span>
        <span className="row">
          <span className="lab">Hits go by</span>
          <Choice
            name="Hits go by"

            value={by}
            options={['role', 'note']}
            onChange={(v) => void pick({ by: v as 'role' })}
          />
          {silent > 0 && <span className="tag doubt">? {silent} hits, no lane</span>}
        </span>
        <span className="row" style={{ gap: 6 }}>
          <Button
            size="small"
            type="primary"
            data-id="bring-patterns"
            disabled={picked.length === 0}
            onClick={bringThem}
          >
            Copy {picked.length === 1 ? 'it' : picked.length || ''} here
          </Button>
          <Button
            size="small"
            data-id="hear-here"
            disabled={picked.length === 0}
            title="The first one chosen, with the kit here; nothing is changed"
            onClick={() => void hearHere()}
          >
            {heard === 'here' ? '■ Stop' : '▶ Hear it here'}
          </Button>
        </span>
        <span className="row" style={{ gap: 6 }}>
          <Button size="small" data-id="bring-map" onClick={() => void takeMap(card.id)}>
            Copy its map
          </Button>
          <Button
            size="small"
            data-id="bring-kit"
            onClick={() => void bringKit(`project:${card.id}`).then(closeProjects)}
          >
            Copy its kit and map
          </Button>
        </span>
        <span className="lab" style={{ whiteSpace: 'normal' }}>
          Its feel comes along where it is another than here. What has no lane stays in the pattern, silent.
        </span>
      </div>
    </>
  );
}

const about = (t: Trashed) =>
  t.what === 'project'
    ? `project, ${t.patterns} ${t.patterns === 1 ? 'pattern' : 'patterns'}`
    : t.what === 'sample'
      ? `sample, ${t.kind ?? ''}`
      : `${t.what}, ${t.map.lanes.length} lanes`;

const trashRow = 40;

export function Trash() {
  const trash = useProjects((s) => s.trash);
  return (
    <div className="dropcol trashcol">
      <span className="row">
        <span className="ttl">Trash</span>
        <span className="lab">{trash.length > 0 ? 'kept until you empty it' : 'empty'}</span>
        <span className="grow" />
        {trash.length > 0 && (
          <Button
            size="small"
            type="text"
            danger
            data-id="empty-trash"
            title="What is in it cannot be brought back after this; samples that something sounds stay"
            onClick={() => void emptyTrash()}
          >
            Empty
          </Button>
        )}
      </span>
      <LongList
        className="trash"
        role="list"
        aria-label="In the trash"
        items={trash}
        height={trashRow}
        at={-1}
        renderRow={(t) => (
          <span role="listitem" className="row" data-trash={t.name || 'Untitled'}>
            {t.what === 'sample' ? (
              <Chip code={codeOf(t.kind ?? '')} family={familyOf(t.kind ?? '')} w={25} h={20} />
            ) : (
              <Colours map={{ ...t.map, lanes: t.map.lanes.slice(0, 5) }} />
            )}
            <span style={{ minWidth: 0, flex: 1 }}>
              <b className="ellipsis" style={{ display: 'block' }}>
                {t.name || 'Untitled'}
              </b>
              <span className="lab">
                {about(t)}, {when(t.trashedAt)}
              </span>
            </span>
            <Button size="small" onClick={() => void restore(t)}>
              Restore
            </Button>
          </span>
        )}
      />
    </div>
  );
}
