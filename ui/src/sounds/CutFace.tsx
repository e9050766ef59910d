// Sounds cut from a loop or a longer recording: marks at its attacks, pieces given to lanes.
import type { Lane, Project } from '../api/client';
import { Transport } from '../app/Transport';
import { useSize } from '../app/useSize';
import { LaneColumn } from '../lanes/LaneColumn';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { CutStrip, CutTools, WhereToCut } from './CutTools';
import { CutLanes, CutRuler, CutWave } from './CutWave';
import { useCut } from './useCut';

export function CutFace({ project, lanes, hash }: { project: Project; lanes: Lane[]; hash: string }) {
  const [ref, size] = useSize<HTMLDivElement>();
  const cut = useCut(project, lanes, hash, ref, size.width);
  return (
    <>
      <MapBar project={project} />
      <CutTools cut={cut} />
      <Transport />
      <div className="crown opencrown" ref={ref}>
        <CutWave cut={cut} />
      </div>
      <LaneHead />
      <div className="ruler">
        <CutRuler cut={cut} />
      </div>
      <div className="lanesrow">
        <LaneColumn lanes={lanes} />
        <CutLanes cut={cut} />
      </div>
      <WhereToCut cut={cut} />
      <CutStrip cut={cut} />
    </>
  );
}
