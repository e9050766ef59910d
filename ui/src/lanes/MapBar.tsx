import { Button } from 'antd';
import { Dropdown } from '../app/later';
import { memo } from 'react';
import type { Project } from '../api/client';
import { sameButHits } from './same';
import { PartMenu } from './PartMenu';
import { Unseen } from './Unseen';
import { toggleFold, toggleOnly, useBench } from '../app/state';
import { loadMap, loadMaps, startEditing, useMaps } from '../maps/state';

/** Which drum map the lanes are, and what in the project has no lane. */
export const MapBar = memo(function MapBar({ project, done }: { project: Project; done?: () => void }) {
  const n = project.map.lanes.length;
  const kept = useMaps((s) => s.kept);
  const lost = project.missing.reduce((sum, m) => sum + m.hits, 0);
  return (
    <div className="map">
      <Dropdown
        trigger={['click']}
        disabled={n === 0}
        onOpenChange={(open) => {
          if (open) void loadMaps();
        }}
        menu={{
          items: kept
            .filter((m) => !m.earlier)
            .map((m) => ({ key: m.id, label: `${m.name}, ${m.map.lanes.length} lanes` })),
          onClick: ({ key }) => {
            const m = kept.find((k) => k.id === key);
            if (m) void loadMap(m.map);
          },
        }}
      >
        <Button
          size="small"
          type="text"
          className="ellipsis"
          style={{ maxWidth: 128 }}
          data-id="map-menu"
          title="Drum map: load another"
        >
          {n === 0 ? 'no drum map yet' : `${project.map.name}, ${n === 1 ? '1 lane' : `${n} lanes`}`}
        </Button>
      </Dropdown>
      {!done && <PartMenu project={project} />}
      {!done && <Unseen />}
      <span className="grow" />
      {lost > 0 && !done && (
        <button
          type="button"
          className="tag doubt"
          title={`Patterns hold hits on notes that no lane has: ${project.missing.map((m) => m.note).join(', ')}. They stay, silent.`}
          onClick={startEditing}
        >
          ? {lost} hits
        </button>
      )}
      {done ? (
        <Button type="primary" size="small" data-id="map-done" onClick={done}>
          Done
        </Button>
      ) : (
        n > 0 && (
          <Button
            size="small"
            data-id="edit-map"
            title="Names, colours, notes and order of the lanes (E)"
            onClick={startEditing}
          >
            Edit
          </Button>
        )
      )}
    </div>
  );
}, sameButHits);

const names: Record<string, string> = {
  cym: 'cymbals',
  hat: 'hats',
  perc: 'percussion',
  other: 'other',
  clap: 'claps',
  tom: 'toms',
  snare: 'snares',
  kick: 'kicks',
};

/** Heads of the lane column, with the colour families that are folded away. */
export const LaneHead = memo(function LaneHead() {
  const folded = useBench((s) => s.folded);
  const only = useBench((s) => s.only !== null && (s.face === 'steps' || s.face === 'roll'));
  const map = useBench((s) => s.project?.map);
  const families = [...new Set(map?.lanes.filter((l) => l.shown).map((l) => l.color) ?? [])];
  return (
    <div className="lanehead">
      <Dropdown
        trigger={['click']}
        menu={{
          selectedKeys: families.filter((f) => !folded.includes(f)),
          items: [
            { key: 'only', label: only ? 'Show all lanes (Shift+2)' : 'Only lanes with hits (Shift+2)' },
            { type: 'divider' as const },
            ...families.map((f) => ({
              key: f,
              label: (
                <span className={`f-${f}`}>
                  <svg width={14} height={12} style={{ display: 'inline' }}>
                    <polygon points="0,6 3.5,0 10.5,0 14,6 10.5,12 3.5,12" fill="var(--c)" />
                  </svg>{' '}
                  {folded.includes(f) ? 'Show' : 'Fold'} {names[f] ?? f}
                </span>
              ),
            })),
          ],
          onClick: ({ key }) => (key === 'only' ? toggleOnly() : toggleFold(key)),
        }}
      >
        <button
          type="button"
          className="lab fold"
          title="Only lanes with hits; fold families of lanes away"
          data-id="fold"
        >
          {only ? 'Lane, with hits' : 'Lane'}{' '}
          {folded.length > 0 ? `(${folded.map((f) => names[f] ?? f).join(', ')} folded)` : '▾'}
        </button>
      </Dropdown>
      {folded.length === 0 && (
        <span className="lab" style={{ left: 158 }}>
          Note
        </span>
      )}
      <span className="lab" style={{ left: 200 }}>
        Layer
      </span>
    </div>
  );
});
