// A fill or a variation of a block, heard before it is kept.
import { create } from 'zustand';
import { api, ofPart } from '../api/client';
import { edit, explain, play, say, takePassInstead, useBench } from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';
import { seed } from '../patterns/state';
import { useSong } from './state';

type What = 'fill' | 'vary';

interface Trial {
  now: { block: string; what: What; seed: number } | null;
}

export const useTrial = create<Trial>()(() => ({ now: null }));

const asked = new Latest();

/** Hears the chosen block's end as a fill, or varied; a second press keeps what is heard. */
export async function tryBlock(what: What, another = false) {
  const { now } = useTrial.getState();
  const [block] = useSong.getState().chosen;
  const { project } = useBench.getState();
  if (now && now.what === what && !another) {
    keepTrial(false);
    return;
  }
  const id = now?.block ?? block;
  const of = project?.blocks.find((b) => b.id === id);
  if (!project || !of?.value.pattern || !id) {
    say({ title: 'Choose a block first', detail: 'Its last bar becomes the fill.', error: false });
    return;
  }
  const chosen = seed();
  try {
    const reply = await asked.of(
      api.tryEdits({
        path: { project: project.id },
        body: {
          ...ofPart(project),
          edits: [{ block: { id, seed: chosen, ...(what === 'fill' ? { fill: true } : { vary: true }) } }],
          sounding: { pattern: 'new', rate: player.rate },
        },
      }),
    );
    if (!reply?.sounds?.pass) return;
    useTrial.setState({ now: { block: id, what, seed: chosen } });
    await takePassInstead(reply.sounds.pass, 'song');
    if (!useBench.getState().playing) await play();
  } catch (e) {
    say(explain(e));
  }
}

async function end() {
  useTrial.setState({ now: null });
  await takePassInstead(null, '');
}

/** Keeps what is heard, in this block or in all that play its pattern. */
export function keepTrial(all: boolean) {
  const { now } = useTrial.getState();
  if (!now) return;
  void edit([
    {
      block: {
        id: now.block,
        seed: now.seed,
        ...(all ? { all } : {}),
        ...(now.what === 'fill' ? { fill: true } : { vary: true }),
      },
    },
  ]).then(end);
}

export const leaveTrial = () => void end();

useBench.subscribe((s, old) => {
  if (s.face !== old.face && useTrial.getState().now) void end();
});
