// What is chosen among projects and kits: its name, and what is done with it.
import { Button, Input } from 'antd';
import { bringKit } from '../maps/state';
import { closeProjects, describeKit, duplicate, goTo, rename, throwAway, useProjects } from './state';

export function ChosenStrip() {
  const chosen = useProjects((s) => s.chosen);
  const card = useProjects((s) => s.cards.find((c) => c.id === s.chosen?.id));
  const kit = useProjects((s) => s.kits.find((k) => k.id === s.chosen?.id));
  if (chosen?.what === 'project' && card)
    return (
      <div className="chosen">
        <Input
          key={`${card.id} ${card.name}`}
          defaultValue={card.name}
          placeholder={card.title}
          aria-label="Name of the project"
          data-id="project-name"
          maxLength={200}
          onBlur={(e) => e.target.value !== card.name && void rename(card.id, e.target.value)}
          onPressEnter={(e) => e.currentTarget.blur()}
        />
        <div className="row" style={{ gap: 6 }}>
          <Button size="small" type="primary" data-id="open-project" onClick={() => void goTo(card.id)}>
            Open
          </Button>
          <Button size="small" data-id="duplicate-project" onClick={() => void duplicate(card.id)}>
            Copy
          </Button>
          <Button
            size="small"
            data-id="delete-project"
            onClick={() => void throwAway('project', card.id, card.title)}
          >
            Delete
          </Button>
        </div>
        <dl>
          <dt>Kit</dt>
          <dd>{card.kit}</dd>
          <dt>Holds</dt>
          <dd>
            {card.sounds} sounds, {(card.bytes / 1e6).toFixed(1)} MB
            {card.recordings > 0
              ? `, ${card.recordings} ${card.recordings === 1 ? 'recording' : 'recordings'}`
              : ''}
          </dd>
        </dl>
        <p className="lab">Deleting puts it in the trash, whole.</p>
      </div>
    );
  if (chosen?.what === 'kit' && kit)
    return (
      <div className="chosen">
        <Input
          key={`${kit.id} ${kit.name}`}
          defaultValue={kit.name}
          aria-label="Name of the kit"
          data-id="kept-kit-name"
          maxLength={100}
          onBlur={(e) => {
            const name = e.target.value.trim();
            if (name && name !== kit.name) void describeKit(kit.id, name, kit.description);
          }}
          onPressEnter={(e) => e.currentTarget.blur()}
        />
        <Input.TextArea
          key={`${kit.id} about`}
          rows={2}
          defaultValue={kit.description}
          placeholder="What it is for"
          aria-label="What the kit is for"
          data-id="kept-kit-about"
          maxLength={300}
          onBlur={(e) =>
            e.target.value !== kit.description && void describeKit(kit.id, kit.name, e.target.value)
          }
        />
        <div className="row" style={{ gap: 6 }}>
          <Button
            size="small"
            type="primary"
            data-id="take-kit"
            onClick={() => void bringKit(kit.id).then(closeProjects)}
          >
            Copy it here
          </Button>
          <Button size="small" data-id="delete-kit" onClick={() => void throwAway('kit', kit.id, kit.name)}>
            Delete
          </Button>
        </div>
        <p className="lab">
          {kit.kit.pads.length} pads, {kit.kit.pads.reduce((n, p) => n + p.layers.length, 0)} layers. Projects
          that took it keep their own.
        </p>
      </div>
    );
  return (
    <p className="lab" style={{ whiteSpace: 'normal' }}>
      Choose a project to open it, or to bring its patterns, map or kit here; choose a kit to take it.
    </p>
  );
}
