import type { Project } from '../api/client';

/** Which drum map the lanes are, and what in the project has no lane. */
export function MapBar({ project }: { project: Project }) {
  const n = project.map.lanes.length;
  return (
    <div className="map">
      <span className="lab">Drum map</span>
      <span>{n === 0 ? 'none yet' : `${project.map.name}, ${n === 1 ? '1 lane' : `${n} lanes`}`}</span>
      <span className="grow" />
      {project.missing.length > 0 && (
        <span
          className="tag doubt"
          title={`Patterns hold hits on notes that no lane has: ${project.missing.join(', ')}. They stay, silent.`}
        >
          ? {project.missing.length} without a lane
        </span>
      )}
    </div>
  );
}

export function LaneHead() {
  return (
    <div className="lanehead">
      <span className="lab" style={{ left: 12 }}>
        Drum
      </span>
      <span className="lab" style={{ left: 158 }}>
        Note
      </span>
      <span className="lab" style={{ left: 200 }}>
        Layer
      </span>
    </div>
  );
}
