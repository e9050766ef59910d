// Brings a recording in: uploads it, shows how far the hearing has come, and can stop it.
import { create } from 'zustand';
import { api } from '../api/client';
import { explain, importMIDI, say, showRecording, takeKit, useBench } from '../app/state';

interface Listening {
  name: string;
  /** share heard, 0..1 */
  share: number;
  cancel: () => void;
}

export const useListening = create<{ now: Listening | null }>()(() => ({ now: null }));

/** Hears a recording, while everything else goes on. Resolves to whether it is in. */
export async function bringRecording(file: File): Promise<boolean> {
  const project = useBench.getState().project;
  if (!project) return false;
  useListening.getState().now?.cancel();
  const ticket = crypto.randomUUID();
  const abort = new AbortController();
  const cancel = () => {
    void api.cancelHearing({ path: { ticket } });
    abort.abort();
  };
  const mine = { name: file.name, share: 0, cancel };
  useListening.setState({ now: mine });
  const poll = setInterval(() => {
    api
      .getHearing({ path: { ticket } })
      .then((p) => {
        if (p.running) useListening.setState((s) => ({ now: s.now && { ...s.now, share: p.share } }));
      })
      .catch(() => undefined);
  }, 150);
  try {
    const changed = await api.addRecording({
      path: { project: project.id },
      query: { ticket },
      body: { file },
      signal: abort.signal,
    });
    await showRecording(changed);
    return true;
  } catch (e) {
    if (abort.signal.aborted)
      say({ title: `Stopped listening to ${file.name}`, detail: 'Nothing was kept.', error: false });
    else say(explain(e));
    return false;
  } finally {
    clearInterval(poll);
    useListening.setState((s) => (s.now?.cancel === cancel ? { now: null } : s));
  }
}

/** Hears the bench's own recorded break. */
export async function bringOwnBreak(): Promise<void> {
  const project = useBench.getState().project;
  if (!project) return;
  try {
    await showRecording(await api.bringOwnBreak({ path: { project: project.id } }));
  } catch (e) {
    say(explain(e));
  }
}

/** Takes in a file: MIDI as a pattern, anything else as a recording. Where there are no lanes yet for its hits to
 * land on, the ready kit comes first. */
export async function bringFile(file: File): Promise<void> {
  if (useBench.getState().project?.map.lanes.length === 0) await takeKit('boathouse');
  await (/\.midi?$/i.test(file.name) ? importMIDI(file) : bringRecording(file));
}
