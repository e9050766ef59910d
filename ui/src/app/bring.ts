// What becomes of files that are dropped or chosen: kits, samples, recordings and MIDI files are told apart.
import { ApiError, api } from '../api/client';
import { bringFile } from '../break/listen';
import { bringKit as takeKitWithMap } from '../maps/state';
import { noBundle, noKit } from '../model/constants.gen';
import { importSamples } from '../shelf/state';
import { planDrop, useSounds } from '../sounds/state';
import type { Dropped } from './dropped';
import { explain, openProject, say, useBench } from './state';

const midi = /\.midi?$/i;
const kit = /\.(zip|sfz)$/i;

/** A recording is longer than this, seconds; a shorter one may be a single stroke. */
const oneShotS = 3;

/** Opens a project bundle as a new project; false when the file is none. */
export async function bringProject(file: File): Promise<boolean> {
  let got;
  try {
    got = await api.importProject({ body: { file } });
  } catch (e) {
    if (e instanceof ApiError && e.title === noBundle) return false;
    say(explain(e));
    return true;
  }
  await openProject(await api.getProject({ path: { project: got.id } }));
  const { said } = got;
  say(
    said.length > 0
      ? {
          title: 'The project is opened, without what is damaged',
          detail: `${said.slice(0, 6).join('. ')}${said.length > 6 ? `, and ${said.length - 6} more` : ''}.`,
          error: false,
        }
      : { title: 'The project is opened', detail: 'Nothing that was here is changed.', error: false },
  );
  return true;
}

/** Takes a kit in and lets the project sound it; false when there is none in the files. */
export async function bringKit(files: File[]): Promise<boolean> {
  let got;
  try {
    got = await api.importKit({ body: { file: files } });
  } catch (e) {
    if (e instanceof ApiError && e.title === noKit) return false;
    say(explain(e));
    return true;
  }
  await takeKitWithMap(got.id);
  const { said } = got;
  if (said.length > 0)
    say({
      title: 'The kit is taken in, with differences',
      detail: `${said.slice(0, 6).join('. ')}${said.length > 6 ? `, and ${said.length - 6} more` : ''}.`,
      error: false,
    });
  return true;
}

/** Brings samples to the shelf and shows where they would go. */
export async function bringSamples(files: File[], from: string) {
  const reports = (await importSamples(files, true)).filter((r) => r.hash);
  if (reports.length === 0) return;
  await planDrop({
    parts: reports.map((r) => ({ hash: r.hash ?? '' })),
    names: reports.map((r) => r.file.replace(/^.*\//, '')),
    from,
  });
}

/** How long a file sounds, seconds; infinite when the browser cannot tell. */
async function secondsOf(file: File): Promise<number> {
  if (file.size > 4 << 20) return Infinity;
  try {
    const context = new OfflineAudioContext(1, 1, 44100);
    return (await context.decodeAudioData(await file.arrayBuffer())).duration;
  } catch {
    return file.size > 600_000 ? Infinity : 0;
  }
}

/** One audio file away from Sounds: a recording is heard in Break, a single stroke is asked about. */
async function bringOne(file: File) {
  if ((await secondsOf(file)) > oneShotS) {
    await bringFile(file);
    return;
  }
  const [r] = await importSamples([file], true);
  if (!r?.hash) return;
  if (r.kind === 'loop') await bringFile(file);
  else useSounds.setState({ stroke: { hash: r.hash, name: file.name, kind: r.kind ?? 'other', file } });
}

/** Takes in what was dropped anywhere in the window. */
export async function bring({ files, from, leftOut }: Dropped) {
  const [first] = files;
  if (!first) {
    if (leftOut > 0)
      say({
        title: 'Nothing in there can be used',
        detail: `${from} holds ${leftOut} files, and none is a sound, a kit or a MIDI file.`,
        error: false,
      });
    return;
  }
  if (files.some((f) => /\.sfz$/i.test(f.name)) && (await bringKit(files))) return;
  for (const f of files.filter((x) => midi.test(x.name))) {
    // oxlint-disable-next-line no-await-in-loop -- one pattern after another
    await bringFile(f);
  }
  const sounds = files.filter((f) => !midi.test(f.name));
  if (sounds.length === 1 && sounds[0]) {
    const [one] = sounds;
    if (kit.test(one.name)) {
      if (!(await bringProject(one)) && !(await bringKit([one]))) await bringSamples([one], from);
    } else if (useBench.getState().face === 'sounds') await bringSamples([one], from);
    else await bringOne(one);
  } else if (sounds.length > 1) await bringSamples(sounds, from);
}
