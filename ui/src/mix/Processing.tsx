// What is done to the output that is looked at, or the room, or the delay.
import type { MixOutput, Project } from '../api/client';
import { CompressorSection, GateSection, SaturationSection } from './Dynamics';
import { EqualiserSection } from './Equaliser';
import type { StageOf } from './fields';
import { DelayPanel, RoomPanel } from './Spaces';
import { editOutput, outputName, outputsOf, useMix } from './state';

export function Processing({ project }: { project: Project }) {
  const looked = useMix((s) => s.looked);
  if (looked === 'room') return <RoomPanel project={project} />;
  if (looked === 'delay') return <DelayPanel project={project} />;
  const at = looked < outputsOf(project.mix).length ? looked : 0;
  const o = outputsOf(project.mix)[at] as MixOutput;
  const change: StageOf['change'] = (stage, to, label) =>
    void editOutput(project.mix, at, { [stage]: to }, `${outputName(project, at)}: ${label}`);
  const of = { o, at, change };
  return (
    <div className="processing" data-id="processing">
      <GateSection {...of} />
      <CompressorSection {...of} />
      <SaturationSection {...of} />
      <EqualiserSection {...of} />
    </div>
  );
}
