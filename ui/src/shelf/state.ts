// The shelf: what is looked for, what was found, and hearing it.
import { create } from 'zustand';
import { api, type Facet, type FindSamplesData, type FoundSample, type SampleReport } from '../api/client';
import { explain, say, useBench } from '../app/state';
import { player } from '../player/player';

type Looking = NonNullable<FindSamplesData['query']>;

interface Importing {
  done: number;
  total: number;
  cancel: () => void;
}

interface Shelf {
  open: boolean;
  looking: Looking;
  found: FoundSample[];
  total: number;
  all: number;
  kinds: Facet[];
  tags: Facet[];
  folders: Facet[];
  /** place in found of the sample chosen, −1 for none */
  at: number;
  /** hashes chosen together */
  chosen: string[];
  hearOnSelect: boolean;
  /** dB under what all samples are brought to */
  levelDB: number;
  importing: Importing | null;
  reports: SampleReport[];
}

export const pageSize = 100;

export const useShelf = create<Shelf>()(() => ({
  open: false,
  looking: { sort: 'name', limit: pageSize },
  found: [],
  total: 0,
  all: 0,
  kinds: [],
  tags: [],
  folders: [],
  at: -1,
  chosen: [],
  hearOnSelect: true,
  levelDB: 0,
  importing: null,
  reports: [],
}));

const get = useShelf.getState;
const set = useShelf.setState;

let asking: AbortController | null = null;

/** Looks again; more goes on after what is found already. */
export async function look(change: Partial<Looking> = {}, more = false): Promise<void> {
  const looking = { ...get().looking, ...change };
  set(more ? { looking } : { looking, at: -1, chosen: [] });
  asking?.abort();
  const abort = new AbortController();
  asking = abort;
  try {
    const r = await api.findSamples({
      query: { ...looking, offset: more ? get().found.length : 0 },
      signal: abort.signal,
    });
    set({
      found: more ? [...get().found, ...r.items] : r.items,
      total: r.total,
      all: r.all,
      kinds: r.kinds,
      tags: r.tags,
      folders: r.folders,
    });
  } catch (e) {
    if (!abort.signal.aborted) say(explain(e));
  }
}

export function openShelf(change: Partial<Looking> = {}) {
  set({ open: true });
  void look(change);
}

/** Hears a sample or a part of it; a loop at the project's tempo. */
export async function hear(hash: string, of: { start?: number; end?: number; loop?: boolean } = {}) {
  try {
    const bpm = of.loop ? useBench.getState().project?.settings.bpm : undefined;
    const { loop: _, ...part } = of;
    const { voice, gain } = await api.auditionSample({
      path: { hash },
      query: { ...part, rate: player.rate, ...(bpm ? { bpm } : {}) },
    });
    await player.audition(voice, gain * 10 ** (get().levelDB / 20));
  } catch (e) {
    say(explain(e));
  }
}

export const hearItem = (s: FoundSample) => hear(s.hash, { loop: s.kind === 'loop' });

/** Chooses a sample found, and hears it if that is wanted. */
export function chooseSample(at: number, adding = false) {
  const { found, hearOnSelect, chosen } = get();
  const s = found[Math.max(0, Math.min(found.length - 1, at))];
  if (!s) return;
  const place = found.indexOf(s);
  set({ at: place, chosen: adding ? [...new Set([...chosen, s.hash])] : [s.hash] });
  if (place > found.length - 15 && found.length < get().total) void look({}, true);
  if (hearOnSelect) void hearItem(s);
}

export const chosenSample = (s: Shelf): FoundSample | undefined => s.found[s.at];

/** What the server decodes itself; anything else that is audio is decoded by the browser first. */
const native = /\.(wav|wave|aif|aiff|aifc|flac|mp3|zip)$/i;
const foreign = /\.(ogg|oga|opus|m4a|aac|webm|weba)$/i;

/** Rate of an Ogg file, from its first page; what the browser decodes to otherwise. */
function rateOf(bytes: Uint8Array): number {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 200));
  const vorbis = text.indexOf('\x01vorbis');
  if (vorbis >= 0) return new DataView(bytes.buffer).getUint32(vorbis + 12, true);
  return text.includes('OpusHead') ? 48000 : 44100;
}

/** Decodes with the browser and writes float WAV, so that a format the server does not know comes in all the same. */
async function decodeHere(file: File): Promise<File> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const rate = rateOf(bytes);
  const audio = await new OfflineAudioContext(1, 1, rate).decodeAudioData(bytes.buffer.slice(0));
  const channels = audio.numberOfChannels;
  const size = audio.length * channels * 4;
  const out = new DataView(new ArrayBuffer(44 + size));
  const tag = (at: number, s: string) => {
    for (let i = 0; i < s.length; i++) out.setUint8(at + i, s.charCodeAt(i));
  };
  tag(0, 'RIFF');
  out.setUint32(4, 36 + size, true);
  tag(8, 'WAVEfmt ');
  out.setUint32(16, 16, true);
  out.setUint16(20, 3, true);
  out.setUint16(22, channels, true);
  out.setUint32(24, audio.sampleRate, true);
  out.setUint32(28, audio.sampleRate * channels * 4, true);
  out.setUint16(32, channels * 4, true);
  out.setUint16(34, 32, true);
  tag(36, 'data');
  out.setUint32(40, size, true);
  for (let c = 0; c < channels; c++) {
    const x = audio.getChannelData(c);
    for (let i = 0; i < x.length; i++) out.setFloat32(44 + (i * channels + c) * 4, x[i] ?? 0, true);
  }
  return new File([out.buffer], `${file.name.replace(/\.[^.]*$/, '')}.wav`);
}

const batchFiles = 40;
const batchBytes = 48 << 20;

/** Brings files to the shelf, a few at a time, so that it can be seen and stopped. Returns every file's report;
 * shown says that what came in is shown anyway, so that only faults need words. */
export async function importSamples(files: File[], shown = false): Promise<SampleReport[]> {
  const abort = new AbortController();
  const reports: SampleReport[] = [];
  const progress = (done: number) =>
    set({ importing: { done, total: files.length, cancel: () => abort.abort() } });
  progress(0);
  try {
    for (let i = 0; i < files.length && !abort.signal.aborted;) {
      const batch: File[] = [];
      let bytes = 0;
      for (; i < files.length && batch.length < batchFiles && (bytes === 0 || bytes < batchBytes); i++) {
        const file = files[i] as File;
        const name = file.webkitRelativePath || file.name;
        bytes += file.size;
        if (native.test(file.name) || !foreign.test(file.name))
          batch.push(name === file.name ? file : new File([file], name));
        else {
          try {
            batch.push(await decodeHere(file));
          } catch {
            reports.push({ file: name, status: 'refused', detail: 'this browser cannot decode it either' });
          }
        }
      }
      if (batch.length > 0)
        reports.push(...(await api.importSamples({ body: { file: batch }, signal: abort.signal })).reports);
      progress(i);
    }
  } catch (e) {
    if (!abort.signal.aborted) say(explain(e));
  } finally {
    set({ importing: null, reports });
  }
  if (get().open) await look();
  const count = (status: string) => reports.filter((r) => r.status === status).length;
  const refused = reports.filter((r) => r.status === 'refused');
  if (shown && refused.length === 0 && !abort.signal.aborted) return reports;
  say({
    title: abort.signal.aborted ? 'Import stopped' : `${count('added')} samples are new on the shelf`,
    detail: [
      count('known') > 0 ? `${count('known')} were there already.` : '',
      refused.length > 0
        ? `${refused.length} could not be used: ${refused
            .slice(0, 4)
            .map((r) => `${r.file}, ${r.detail}`)
            .join('; ')}${refused.length > 4 ? ' …' : '.'}`
        : '',
    ]
      .filter(Boolean)
      .join(' '),
    error: refused.length > 0,
  });
  return reports;
}

export async function correct(hash: string, change: { kind?: string; tags?: string[] }) {
  try {
    const s = await api.correctSample({ path: { hash }, body: change });
    set({ found: get().found.map((f) => (f.hash === hash ? { ...f, ...s } : f)) });
  } catch (e) {
    say(explain(e));
  }
}

/** Puts the samples chosen in the trash; the next one found is chosen, so that a row of them goes one after another. */
export async function throwAwayChosen() {
  const { at, chosen, found } = get();
  const names = found.filter((f) => chosen.includes(f.hash)).map((f) => f.name);
  if (names.length === 0) return;
  const hearOnSelect = get().hearOnSelect;
  try {
    await api.putInTrash({ body: { what: 'sample', ids: chosen } });
    await look();
    set({ hearOnSelect: false });
    chooseSample(Math.max(0, at - names.length + 1));
    say({
      title: names.length === 1 ? `${names[0]} is in the trash` : `${names.length} samples are in the trash`,
      detail: 'What sounds them goes on sounding. They are restored in Projects (Shift+J).',
      error: false,
    });
  } catch (e) {
    say(explain(e));
  } finally {
    set({ hearOnSelect });
  }
}

export const toggleShelf = () =>
  useShelf.getState().open ? useShelf.setState({ open: false }) : openShelf();
