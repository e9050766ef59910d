// A recording's groove, heard over a pattern before it is kept.
import { create } from 'zustand';
import { api, ofPart, type Groove, type GrooveUse, type Pass } from '../api/client';
import { addGroove, explain, layGroove, play, refreshPass, say, useBench } from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';

interface Tried {
  groove: Groove;
  name: string;
  /** the pattern it is laid over, and how strongly */
  over: string;
  use: GrooveUse;
  with: boolean;
  passes: { with: Pass; without: Pass };
}

const tries = new Latest();

export const useGroove = create<{ tried: Tried | null }>()(() => ({ tried: null }));

function sound(keepPlace: boolean) {
  const { tried } = useGroove.getState();
  useBench.setState({ instead: tried && (tried.with ? tried.passes.with : tried.passes.without) });
  refreshPass(keepPlace).catch((e: unknown) => say(explain(e)));
}

/** Plays a pattern with the groove laid over; nothing is written. */
export async function tryGroove(t: Omit<Tried, 'passes' | 'with'>) {
  const { project, playing } = useBench.getState();
  if (!project) return;
  try {
    const { rate } = player;
    const laid = { name: t.name || 'groove', groove: t.groove, over: t.over, use: t.use };
    const answers = await tries.of(
      Promise.all([
        api.tryEdits({
          path: { project: project.id },
          body: { ...ofPart(project), edits: [{ addGroove: laid }], sounding: { pattern: t.over, rate } },
        }),
        api.getPass({ path: { project: project.id, pattern: t.over }, query: { rate } }),
      ]),
    );
    const felt = answers?.[0].sounds?.pass;
    const without = answers?.[1].pass;
    if (!felt || !without || useBench.getState().face !== 'break') return; // left meanwhile
    useGroove.setState({ tried: { ...t, with: true, passes: { with: felt, without } } });
    sound(false);
    if (!playing) await play();
  } catch (e) {
    say(explain(e));
  }
}

/** With the groove, or as the pattern is. */
export function otherSide() {
  useGroove.setState(({ tried }) => ({ tried: tried && { ...tried, with: !tried.with } }));
  sound(true);
}

/** Keeps the groove, lays it over as well, or puts everything back. */
export function endGroove(how: 'keep' | 'lay' | 'back') {
  const { tried } = useGroove.getState();
  if (!tried) return;
  useGroove.setState({ tried: null });
  sound(false);
  if (how === 'keep') void addGroove({ name: tried.name, groove: tried.groove });
  if (how === 'lay') void layGroove(tried.groove, tried.name, tried.over, tried.use);
}
