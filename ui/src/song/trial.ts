// A fill, a variation or a performance, heard before it is kept.
import { create } from 'zustand';
import { api, type Edit, ofPart, type TryRequest } from '../api/client';
import { edit, explain, play, say, takePassInstead, useBench } from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';
import { seed } from '../patterns/state';
import { useSong } from './state';

type Ending = 'fill' | 'vary';
type Performing = NonNullable<Edit['perform']>;

/** What is tried: the end of a block, or some bars performed. */
type Tried =
  | { what: Ending; block: string; seed: number }
  | { what: 'perform'; perform: Performing; /** the bars as they are now are heard */ without: boolean };

export const useTrial = create<{ now: Tried | null }>()(() => ({ now: null }));

const asked = new Latest();

const ending = (what: Ending, id: string, by: number, all = false): Edit => ({
  block: { id, seed: by, ...(all ? { all } : {}), ...(what === 'fill' ? { fill: true } : { vary: true }) },
});

/** Sounds what a trial leads to, and remembers it as the one that is kept. */
async function hear(now: Tried, edits: Edit[], sounds: Pick<TryRequest, 'song' | 'sounding'>) {
  const { project } = useBench.getState();
  if (!project) return;
  try {
    const reply = await asked.of(
      api.tryEdits({ path: { project: project.id }, body: { ...ofPart(project), edits, ...sounds } }),
    );
    if (!reply?.sounds?.pass) return;
    useTrial.setState({ now });
    await takePassInstead(reply.sounds.pass, 'song');
    if (!useBench.getState().playing) await play();
  } catch (e) {
    say(explain(e));
  }
}

/** Hears the chosen block's end as a fill, or varied; a second press keeps what is heard. */
export async function tryBlock(what: Ending, another = false) {
  const { now } = useTrial.getState();
  if (now?.what === what && !another) {
    keepTrial(false);
    return;
  }
  const id = now && now.what !== 'perform' ? now.block : useSong.getState().chosen[0];
  const of = useBench.getState().project?.blocks.find((b) => b.id === id);
  if (!id || !of?.value.pattern) {
    say({ title: 'Choose a block first', detail: 'Its last bar becomes the fill.', error: false });
    return;
  }
  const by = seed();
  await hear({ what, block: id, seed: by }, [ending(what, id, by)], {
    sounding: { pattern: 'new', rate: player.rate },
  });
}

/** Hears some bars performed, or as they are without. */
export async function tryPerforming(perform: Performing, without = false) {
  const fromBar = perform.bar ?? 0;
  const song = { fromBar, toBar: fromBar + perform.bars, rate: player.rate };
  // without: the pattern goes round as it is
  const asItIs: Edit = {
    song: {
      put: [
        {
          block: {
            pattern: perform.pattern,
            bar: fromBar,
            bars: perform.bars,
            ...ofPart({ part: perform.part ?? '' }),
          },
        },
      ],
    },
  };
  await hear({ what: 'perform', perform, without }, [without ? asItIs : { perform }], { song });
}

async function end() {
  useTrial.setState({ now: null });
  await takePassInstead(null, '');
}

/** Keeps what is heard; the end of a block also in all that play its pattern. */
export function keepTrial(all: boolean) {
  const { now } = useTrial.getState();
  if (!now) return;
  void edit([
    now.what === 'perform' ? { perform: now.perform } : ending(now.what, now.block, now.seed, all),
  ]).then(end);
}

export const leaveTrial = () => void end();

useBench.subscribe((s, old) => {
  if (s.face !== old.face && useTrial.getState().now) void end();
});
