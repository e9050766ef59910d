// One sound played over the pads: its lane, the scale along which it is tuned, and from which of its pitches on.
import { create } from 'zustand';
import { api, ofPart } from '../api/client';
import { explain, say, useBench } from '../app/state';
import { Latest } from '../model/latest';
import { player } from '../player/player';

interface Tuned {
  /** note of the lane; null: every pad has its own sound */
  note: number | null;
  scale: string;
  /** which pitch of the scale the first pad has, 0 the sound as it is */
  from: number;
  /** cents of each pad, the lower row first; beyond what a hit can be tuned there are none */
  tunes: number[];
}

export const useTuned = create<Tuned>()(() => ({ note: null, scale: 'semitones', from: 0, tunes: [] }));

const asked = new Latest();

/** Plays one sound over the pads; note null: every pad its own again. */
export async function playTuned(change: Partial<Pick<Tuned, 'note' | 'scale' | 'from'>>) {
  const was = useTuned.getState();
  const next = { ...was, ...change };
  const { project } = useBench.getState();
  if (next.note === null || !project) {
    useTuned.setState({ note: null, tunes: [] });
    return;
  }
  try {
    const { note, scale, from } = next;
    const reply = await asked.of(
      api.getTunedPads({
        path: { project: project.id },
        query: { note, scale, from, rate: player.rate, ...ofPart(project) },
      }),
    );
    if (!reply) return;
    await player.setTuned(reply.pads);
    useTuned.setState({ ...next, tunes: reply.pads.map((p) => p.tune) });
  } catch (e) {
    say(explain(e));
  }
}

useBench.subscribe((s, old) => {
  if (s.project?.id !== old.project?.id) useTuned.setState({ note: null, tunes: [] });
  else if (s.project?.kit !== old.project?.kit && useTuned.getState().note !== null) void playTuned({});
});
