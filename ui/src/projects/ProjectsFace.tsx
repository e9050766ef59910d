// All projects and kits, each with its picture; opens from the project's name.
import { Button, Dropdown, Input, Select } from 'antd';
import { Choice } from '../app/Choice';
import { NoteName } from '../lanes/NoteName';
import { useEffect, useRef } from 'react';
import type { KeptKit, Project, ProjectCard } from '../api/client';
import { bringProject } from '../app/bring';
import { PickFile } from '../app/PickFile';
import { say } from '../app/state';
import { Transport } from '../app/Transport';
import { useEntered } from '../app/useEntered';
import { Chip } from '../lanes/marks';
import { bringKit } from '../maps/state';
import { ChosenStrip } from './ChosenStrip';
import { Bring, Trash } from './Bring';
import { Colours, KitPicture, ProjectPicture } from './Picture';
import {
  cardsShown,
  choose,
  closeProjects,
  duplicate,
  endHearing,
  goTo,
  kitsShown,
  newProject,
  rename,
  throwAway,
  useProjects,
} from './state';

const day = 86_400_000;

/** When something was, as a person says it. */
export function when(at: string): string {
  const then = new Date(at);
  const midnight = new Date().setHours(0, 0, 0, 0);
  if (then.getTime() >= midnight)
    return `today ${then.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}`;
  const days = Math.ceil((midnight - then.getTime()) / day);
  if (days === 1) return 'yesterday';
  if (days < 7) return `${days} days ago`;
  return then.toLocaleDateString([], { day: 'numeric', month: 'short', year: 'numeric' });
}

/** What an order is called, and turned round. */
const orders = {
  opened: ['newest first', 'oldest first'],
  changed: ['newest first', 'oldest first'],
  name: ['A to Z', 'Z to A'],
  tempo: ['slow first', 'fast first'],
} as const;

const counted = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;

function Card({ card, on }: { card: ProjectCard; on: boolean }) {
  const ref = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (on) ref.current?.scrollIntoView({ block: 'nearest' });
  }, [on]);
  return (
    <div
      ref={ref}
      className={`card ${on ? 'on' : ''}`}
      role="option"
      aria-selected={on}
      data-project={card.title}
      onClick={() => choose({ what: 'project', id: card.id })}
      onDoubleClick={() => void goTo(card.id)}
    >
      <span className="row">
        <b className="ellipsis" style={{ flex: 1 }}>
          {card.title}
        </b>
        <span className="lab">{when(card.openedAt)}</span>
      </span>
      <ProjectPicture of={card} patterns={3} w={62} h={54} />
      <span className="row">
        <span className="lab ellipsis" style={{ flex: 1 }}>
          {counted(card.patterns.length, 'pattern')}, {card.bpm.toFixed(1)}, {card.meter}
        </span>
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              { key: 'open', label: 'Open' },
              { key: 'copy', label: 'Copy' },
              { key: 'away', label: 'Delete', danger: true },
            ],
            onClick: ({ key, domEvent }) => {
              domEvent.stopPropagation();
              if (key === 'open') void goTo(card.id);
              else if (key === 'copy') void duplicate(card.id);
              else void throwAway('project', card.id, card.title);
            },
          }}
        >
          <button
            type="button"
            className="ms"
            aria-label={`More about ${card.title}`}
            onClick={(e) => e.stopPropagation()}
          >
            …
          </button>
        </Dropdown>
      </span>
    </div>
  );
}

function KitCard({ kit, on, here }: { kit: KeptKit; on: boolean; here: boolean }) {
  return (
    <div
      className={`card kit ${on ? 'on' : ''}`}
      role="option"
      aria-selected={on}
      data-kit={kit.name}
      title={kit.description}
      onClick={() => choose({ what: 'kit', id: kit.id })}
      onDoubleClick={() => void bringKit(kit.id).then(closeProjects)}
    >
      <span className="row">
        <b className="ellipsis" style={{ flex: 1 }}>
          {kit.name}
        </b>
        {here && <span className="tag">in this project</span>}
      </span>
      <KitPicture map={kit.map} kit={kit.kit} w={102} h={34} />
      <span className="row">
        <Colours map={kit.map} />
        <span className="grow" />
        <span className="lab">{counted(kit.kit.pads.length, 'pad')}</span>
      </span>
    </div>
  );
}

/** The lanes here, with what each would get of the patterns chosen. */
function WouldGet({ project }: { project: Project }) {
  const brought = useProjects((s) => s.brought);
  return (
    <div className="lanes">
      {project.map.lanes.map((l) => {
        const n = brought?.hits[String(l.note)] ?? 0;
        return (
          <div key={l.note} className={`lane f-${l.color}`}>
            <Chip code={l.code} family={l.color} />
            <span className="nm ellipsis">{l.name}</span>
            <span className="nt">
              <i>{l.note}</i>
              <NoteName note={l.note} />
            </span>
            {brought &&
              (n > 0 ? (
                <span className="tag doubt would">+{n}</span>
              ) : (
                <span className="lab would">nothing</span>
              ))}
          </div>
        );
      })}
    </div>
  );
}

function Here({ project, card }: { project: Project; card: ProjectCard | undefined }) {
  return (
    <div className="herecard">
      {card && <ProjectPicture of={card} patterns={3} w={142} h={52} />}
      <div style={{ minWidth: 0 }}>
        <div className="row">
          <b className="ttl ellipsis">{project.title}</b>
          <span className="tag">open</span>
          <span className="lab">
            {counted(project.patterns.length, 'pattern')}, kit {project.kit.name}
            {card && card.bytes > 0 ? `, ${(card.bytes / 1e6).toFixed(1)} MB of sounds` : ''}
          </span>
        </div>
        <div className="row" style={{ marginTop: 6, gap: 6 }}>
          <Input
            size="small"
            style={{ width: 200 }}
            key={`${project.id} ${project.name}`}
            defaultValue={project.name}
            placeholder={project.title}
            aria-label="Name of this project"
            data-id="name-here"
            maxLength={200}
            onBlur={(e) => e.target.value !== project.name && void rename(project.id, e.target.value)}
            onPressEnter={(e) => e.currentTarget.blur()}
          />
          <Button size="small" onClick={() => void duplicate(project.id)}>
            Copy
          </Button>
          <Button
            size="small"
            data-id="delete-here"
            onClick={() => void throwAway('project', project.id, project.title)}
          >
            Delete
          </Button>
          <Button
            size="small"
            type="primary"
            data-id="back-to-bench"
            title="Back to the beat (Esc)"
            onClick={closeProjects}
          >
            Back to it
          </Button>
        </div>
      </div>
    </div>
  );
}

export function ProjectsFace({ project }: { project: Project }) {
  const s = useProjects();
  const grid = useRef<HTMLDivElement>(null);
  const cards = cardsShown(s, project.id);
  const kits = kitsShown(s);
  const all = [
    ...(s.show === 'kits' ? [] : cards.map((c) => ({ what: 'project' as const, id: c.id }))),
    ...(s.show === 'projects' ? [] : kits.map((k) => ({ what: 'kit' as const, id: k.id }))),
  ];
  useEntered(() => grid.current?.focus());
  const keys = (e: KeyboardEvent) => {
    const t = e.target as HTMLElement;
    if (
      t.matches('textarea,input:not([type="checkbox"]):not([type="radio"])') ||
      t.closest('[role="dialog"],.ant-dropdown') ||
      e.ctrlKey ||
      e.metaKey
    )
      return;
    if (e.key === 'Enter' && t.tagName === 'BUTTON') return;
    const columns = 4;
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: columns, ArrowUp: -columns }[e.key];
    const at = all.findIndex((x) => x.id === s.chosen?.id);
    if (step !== undefined) {
      const to = all[at < 0 ? 0 : Math.max(0, Math.min(all.length - 1, at + step))];
      if (to) choose(to);
    } else if (e.key === 'Enter' && s.chosen) {
      if (s.chosen.what === 'project') void goTo(s.chosen.id);
      else void bringKit(s.chosen.id).then(closeProjects);
    } else if (e.key === 'Delete' && s.chosen) {
      const name =
        s.chosen.what === 'project'
          ? s.cards.find((c) => c.id === s.chosen?.id)?.title
          : s.kits.find((k) => k.id === s.chosen?.id)?.name;
      void throwAway(s.chosen.what, s.chosen.id, name ?? '');
    } else if (e.key === 'Escape') {
      if (s.heard) endHearing();
      else closeProjects();
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };
  useEffect(() => {
    document.addEventListener('keydown', keys); // before the keys of the whole window
    return () => document.removeEventListener('keydown', keys);
  });
  return (
    <>
      <div className="map">
        <span className="lab">Into</span>
        <b className="ellipsis">{project.title}</b>
      </div>
      <div className="tools">
        <Choice
          name="What is listed"

          value={s.show}
          options={[
            { value: 'all', label: 'all' },
            { value: 'projects', label: `projects ${s.cards.length}` },
            { value: 'kits', label: `kits ${kits.length}` },
          ]}
          onChange={(show) => useProjects.setState({ show: show as 'all' })}
        />
        <Input
          size="small"
          style={{ width: 190 }}
          allowClear
          placeholder="Name, kit or lane"
          aria-label="Look for projects and kits"
          data-id="search-projects"
          value={s.search}
          onChange={(e) => useProjects.setState({ search: e.target.value })}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown' || e.key === 'Escape') grid.current?.focus();
          }}
        />
        <span className="lab">Sort by</span>
        <Select
          size="small"
          style={{ width: 120 }}
          aria-label="Sort by"
          value={s.sort}
          options={[
            { value: 'opened', label: 'last opened' },
            { value: 'changed', label: 'last changed' },
            { value: 'name', label: 'name' },
            { value: 'tempo', label: 'tempo' },
          ]}
          onChange={(sort) => useProjects.setState({ sort })}
        />
        <Button size="small" onClick={() => useProjects.setState({ up: !s.up })}>
          {orders[s.sort][s.up ? 1 : 0]}
        </Button>
        <span className="grow" />
        <PickFile
          accept=".zip"
          id="bundle-file"
          title="A project that was exported as a bundle, from here or elsewhere: it opens beside what is here"
          take={async (file) => {
            if (await bringProject(file)) closeProjects();
            else
              say({
                title: 'There is no project in this file',
                detail:
                  'Choose the zip that Export made as a project bundle. A kit is dropped on the window.',
                error: true,
              });
          }}
        >
          Open a bundle…
        </PickFile>
        <Button data-id="demo-project" onClick={() => void newProject(true)}>
          Lock Seven, to look round
        </Button>
        <Button type="primary" data-id="new-project" onClick={() => void newProject()}>
          + Project
        </Button>
      </div>
      <Transport />
      <div className="crown">
        <Here project={project} card={s.cards.find((c) => c.id === project.id)} />
      </div>
      <div className="lanehead">
        <span className="lab" style={{ left: 12 }}>
          Lane
        </span>
        <span className="lab" style={{ left: 158 }}>
          Note
        </span>
        {s.brought && (
          <span className="lab" style={{ left: 212 }}>
            Would get
          </span>
        )}
      </div>
      <div className="ruler row" style={{ padding: '0 14px' }}>
        <b>
          {s.show === 'kits'
            ? counted(kits.length, 'kit')
            : cards.length === 0
              ? s.search
                ? 'Nothing is called that'
                : 'No other project yet'
              : counted(cards.length, 'other project')}
        </b>
        <span className="lab">
          a picture is the bench in small; arrows choose, Enter opens, Delete puts in the trash
        </span>
      </div>
      <div className="lanesrow">
        <WouldGet project={project} />
        <div
          ref={grid}
          className="projects"
          role="listbox"
          aria-label="Projects and kits"
          tabIndex={0}
          data-id="projects"
        >
          {s.show !== 'kits' && (
            <div className="cards">
              {cards.map((c) => (
                <Card key={c.id} card={c} on={c.id === s.chosen?.id} />
              ))}
            </div>
          )}
          {s.show !== 'projects' && (
            <>
              <div className="cardhead">
                <b>Kits</b>
                <span className="lab">
                  {kits.length === 0
                    ? 'none kept yet: save one in Sounds, and it can be taken in any project'
                    : 'kick and snare of each; taking one shows first which lanes meet'}
                </span>
              </div>
              <div className="cards">
                {kits.map((k) => (
                  <KitCard key={k.id} kit={k} on={k.id === s.chosen?.id} here={k.name === project.kit.name} />
                ))}
              </div>
            </>
          )}
        </div>
      </div>
      <div className="stripside" style={{ padding: '9px 12px' }}>
        <ChosenStrip />
      </div>
      <div className="strip droprow">
        <Bring />
        <Trash />
      </div>
    </>
  );
}
