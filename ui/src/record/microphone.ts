// A microphone or line in: what comes in is shown, and recorded as a WAV file at the device's own rate, to be heard in Break.
import { create } from 'zustand';
import type { Pass } from '../api/client';
import { explain, play, refreshPass, say, stop, strike, useBench } from '../app/state';
import { bringRecording } from '../break/listen';
import { player } from '../player/player';
import { encodeWAV } from '../model/wavFile';
import type { FromCapture } from './capture';
import captureUrl from './capture.ts?worker&url';
import { applyMetronome } from './recorder';
import { useRecordSettings } from './settings';

export type Side = 'left' | 'right' | 'both';

interface Microphone {
  /** its name; '' while none is open */
  name: string;
  devices: { id: string; label: string }[];
  device: string;
  rate: number;
  side: Side;
  /** the newest level, 0 to 1 of full scale */
  level: number;
  /** a recording is under way: seconds so far, samples that clipped and where the first of them was; null when none */
  taking: { seconds: number; clipped: number; clippedAt: number } | null;
  click: boolean;
  /** levels of the lanes that listen while it plays, dB under full scale, in their order */
  levels: number[];
}

/** The name under which what an input strikes is a source. */
export const liveName = 'microphone';

export const useMicrophone = create<Microphone>()(() => ({
  name: '',
  devices: [],
  device: '',
  rate: 0,
  side: 'both',
  level: 0,
  taking: null,
  click: false,
  levels: [],
}));

const get = useMicrophone.getState;
const set = useMicrophone.setState;

let context: AudioContext | null = null;
let stream: MediaStream | null = null;
let node: AudioWorkletNode | null = null;
let blocks: Float32Array[][] = [];
/** what the page's clock is at the input's frame 0, ms: the least of what messages say, as each is somewhat late */
let zero = Infinity;
/** how late strokes were told, from their block on, ms; newest last, for measuring */
const strokesTold: number[] = [];

/** A sample at this level or above has clipped. */
const clips = 0.999;

/** The longest recording, seconds; more is not sent. */
const longestS = 1800;

/** The channels that were asked for, of those that came. */
function chosen(channels: Float32Array[], side: Side): Float32Array[] {
  const [left, right] = channels;
  if (!left || side === 'both' || !right) return channels;
  return [side === 'left' ? left : right];
}

function take(channels: Float32Array[]) {
  const of = chosen(channels, get().side);
  let peak = 0;
  for (const c of of) for (const v of c) peak = Math.max(peak, Math.abs(v));
  const { taking, level, rate } = get();
  set({ level: Math.max(peak, level * 0.8) });
  if (!taking) return;
  blocks.push(of);
  let { clipped, clippedAt } = taking;
  if (peak >= clips)
    for (const c of of)
      for (const v of c)
        if (Math.abs(v) >= clips) {
          if (clipped === 0) clippedAt = taking.seconds;
          clipped++;
        }
  set({ taking: { seconds: taking.seconds + (of[0]?.length ?? 0) / rate, clipped, clippedAt } });
  if (taking.seconds > longestS) void keepTake();
}

/** Gives the worklet the lanes that listen. */
function listenAsSet() {
  const { live } = useRecordSettings.getState();
  node?.port.postMessage(Object.entries(live).map(([note, listener]) => ({ note: Number(note), listener })));
}
useRecordSettings.subscribe((s, old) => s.live !== old.live && listenAsSet());

/** A stroke of the input sounds its lane. */
function stroke(m: Extract<FromCapture, { kind: 'stroke' }>) {
  const ms = 1000 / get().rate;
  strike(m.note, m.velocity, liveName, zero + m.began * ms);
  strokesTold.push(performance.now() - zero - m.frame * ms);
}

/** Opens an input; the browser asks for leave the first time. */
export async function openMicrophone(device = get().device) {
  shutMicrophone();
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      audio: {
        ...(device ? { deviceId: { exact: device } } : {}),
        echoCancellation: false,
        noiseSuppression: false,
        autoGainControl: false,
        channelCount: { ideal: 2 },
      },
    });
    const [track] = stream.getAudioTracks();
    if (!track) throw new Error('the input has no sound');
    const rate = track.getSettings().sampleRate ?? 48000;
    context = new AudioContext({ sampleRate: rate, latencyHint: 'interactive' });
    await context.audioWorklet.addModule(captureUrl);
    node = new AudioWorkletNode(context, 'hexachord-capture', {
      numberOfInputs: 1,
      numberOfOutputs: 0,
    });
    zero = Infinity;
    set({ rate });
    node.port.onmessage = ({ data: m }: MessageEvent<FromCapture>) => {
      zero = Math.min(zero + 0.001, performance.now() - (m.frame * 1000) / rate);
      if (m.kind === 'stroke') stroke(m);
      else {
        set({ levels: m.levels });
        take(m.channels);
      }
    };
    listenAsSet();
    context.createMediaStreamSource(stream).connect(node);
    await context.resume();
    track.onended = () => {
      const { taking } = get();
      say({
        title: `${track.label} is gone`,
        detail: taking
          ? 'What was recorded up to now is still here: keep it or put it back.'
          : 'Plug it in again, then open it anew.',
        error: false,
      });
    };
    const devices = (await navigator.mediaDevices.enumerateDevices())
      .filter((d) => d.kind === 'audioinput')
      .map((d) => ({ id: d.deviceId, label: d.label || 'an input' }));
    set({ name: track.label || 'microphone', rate, devices, device: track.getSettings().deviceId ?? device });
  } catch (e) {
    shutMicrophone();
    const refused = e instanceof DOMException && e.name === 'NotAllowedError';
    say(
      refused
        ? {
            title: 'The browser may not use the microphone',
            detail: 'Allow it beside the address, then try again. Nothing else changes.',
            error: true,
          }
        : e instanceof DOMException && e.name === 'NotFoundError'
          ? {
              title: 'No microphone or line in is there',
              detail: 'Plug one in, then try again.',
              error: true,
            }
          : explain(e),
    );
  }
}

/** Whether lanes listen to the input that is open. */
export const listensLive = () => Object.keys(useRecordSettings.getState().live).length > 0;

export function shutMicrophone() {
  for (const t of stream?.getTracks() ?? []) t.stop();
  void context?.close();
  stream = null;
  context = null;
  node = null;
  blocks = [];
  set({ name: '', level: 0, taking: null });
}

let counting = 0;

const begin = () => set({ taking: { seconds: 0, clipped: 0, clippedAt: 0 } });
const two = (n: number) => String(n).padStart(2, '0');

/** Records, after the count-in when the click is on. */
export function startTake() {
  const s = useBench.getState();
  if (get().name === '') return;
  blocks = [];
  if (!get().click) {
    if (s.playing) stop();
    begin();
    return;
  }
  const beatS = 60 / (s.project?.settings.bpm ?? 92);
  const silence: Pass = { length: 16 * beatS, cues: [], turns: [], strokes: [], whens: [], silent: 0 };
  useBench.setState({ instead: silence });
  player.setPass(silence, false);
  player.setMetronome({
    clickS: beatS,
    perBar: 4,
    level: 10 ** (useRecordSettings.getState().clickDB / 20),
    countInOnly: false,
  });
  const countInS = useRecordSettings.getState().countIn * 4 * beatS;
  void play(countInS);
  counting = window.setTimeout(begin, Math.max(0, countInS * 1000 - 100));
}

function quiet() {
  clearTimeout(counting);
  if (!useBench.getState().instead) return;
  stop();
  useBench.setState({ instead: null });
  applyMetronome();
  void refreshPass(false);
}

/** Leaves the recording; the input stays open. */
export function dropTake() {
  quiet();
  blocks = [];
  set({ taking: null });
}

/** Ends the recording and lets it be heard in Break. */
export async function keepTake() {
  quiet();
  const { rate, taking } = get();
  const all = blocks;
  blocks = [];
  set({ taking: null });
  const channels = all[0]?.length ?? 0;
  if (!taking || channels === 0 || taking.seconds < 0.3) {
    say({ title: 'Nothing was recorded yet', detail: 'Play, then keep it.', error: false });
    return;
  }
  const at = new Date();
  const name = `take ${two(at.getHours())}-${two(at.getMinutes())}-${two(at.getSeconds())}.wav`;
  const file = new File([encodeWAV(all, channels, rate)], name, { type: 'audio/wav' });
  if (await bringRecording(file)) return;
  say({
    title: `${name} is not in the project`,
    detail: 'It is still here: save it as a file, and drop it on Break later.',
    error: true,
    offer: {
      does: 'Save it as a file',
      go: () => {
        const a = document.createElement('a');
        a.href = URL.createObjectURL(file);
        a.download = name;
        a.click();
      },
    },
  });
}

declare global {
  interface Window {
    /** how late strokes of an input were told, ms, for measuring */
    hexachordTold: number[];
  }
}
window.hexachordTold = strokesTold;
