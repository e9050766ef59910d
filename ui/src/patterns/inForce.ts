// The feel that is in force for a pattern that has just come.
import type { Feel, Project } from '../api/client';
import { edit, say, useBench } from '../app/state';
import { ofPattern } from '../model/edits';

/** A feel that changes nothing. */
export const plainFeel = (seed: number): Feel => ({
  swing: { percent: 50, grid: '1/16' },
  laneLeanMS: {},
  shares: {},
  groove: { id: '', time: 0, velocity: 0, noSwing: false },
  humanise: { timeMS: 0, velocity: 0, seed },
});

/** What a feel does, in words; '' when it does nothing. */
function feelWords(feel: Feel, project: Project): string {
  const groove = project.grooves.find((g) => g.id === feel.groove.id)?.value.name;
  const leaning = Object.values(feel.laneLeanMS ?? {}).filter((ms) => ms !== 0).length;
  return [
    feel.swing.percent > 50 && !(groove && feel.groove.noSwing) ? `swing ${feel.swing.percent} %` : '',
    groove ? `groove ${groove}` : '',
    leaning > 0 ? `${leaning} ${leaning === 1 ? 'lane leans' : 'lanes lean'}` : '',
    feel.humanise.timeMS > 0 || feel.humanise.velocity > 0 ? 'humanised' : '',
  ]
    .filter((w) => w !== '')
    .join(', ');
}

/** Says of a pattern that has just come which feel is in force, with one press to be without it. */
export function tellFeel(id: string) {
  const { project } = useBench.getState();
  const pattern = project?.patterns.find((p) => p.id === id)?.value;
  if (!project || !pattern || pattern.feel) return;
  const { feel } = project.settings;
  const words = feelWords(feel, project);
  if (words === '') return;
  say({
    title: `${pattern.name} plays with the feel of every pattern`,
    detail: `In force: ${words}. The hits stay as they are written.`,
    error: false,
    offer: {
      does: 'Play it straight',
      go: () =>
        void edit([
          ofPattern(id, {
            op: 'shape',
            feel: plainFeel(feel.humanise.seed),
            label: `${pattern.name}: straight`,
          }),
        ]),
    },
  });
}
