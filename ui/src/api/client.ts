// The bench's own interface. Calls and types are generated from the server's description of it; here stand how faults
// reach a person, and addresses of what is downloaded.
import { client } from './generated/client.gen';
import * as calls from './generated/sdk.gen';
import type { Problem } from './generated';

export type * from './generated';
export const api = calls;

/** An error reply, worded for the person. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
  ) {
    super(detail ? `${title}. ${detail}` : title);
  }
}

const baseUrl = '/api/v1';
client.setConfig({ baseUrl, throwOnError: true });
client.interceptors.error.use((error: unknown, response: Response | undefined) => {
  if (error instanceof DOMException && error.name === 'AbortError') return error;
  if (!response)
    return new ApiError(
      0,
      'The bench does not answer',
      'Is it still running? Start it again; nothing saved is lost.',
    );
  const p = (typeof error === 'object' ? error : {}) as Partial<Problem>;
  return new ApiError(response.status, p.title ?? response.statusText, p.detail ?? '');
});

/** An address with what is asked for; what is undefined is left out. */
function address(path: string, query: Record<string, string | number | boolean> = {}): string {
  const q = new URLSearchParams(Object.entries(query).map(([k, v]) => [k, String(v)]));
  return `${baseUrl}${path}${q.size > 0 ? `?${q}` : ''}`;
}

/** How a pattern is bounced: Hz, bits, times through, and what becomes of what still rings at the end. */
export interface BounceOptions {
  rate: number;
  bits: number;
  passes: number;
  tail: 'ring' | 'cut' | 'lap';
}

/** Addresses that a browser downloads by itself. */
export const addresses = {
  events: (project: string) => address(`/projects/${project}/events`),
  midi: (project: string, pattern: string, sounding: boolean) =>
    address(`/projects/${project}/patterns/${pattern}/midi`, { sounding }),
  wav: (project: string, pattern: string, as: BounceOptions) =>
    address(`/projects/${project}/patterns/${pattern}/wav`, { ...as }),
  groove: (project: string, groove: string) => address(`/projects/${project}/grooves/${groove}/midi`),
  /** the kit's hits under a recording: alone, or together with it at levels in dB */
  layer: (
    project: string,
    recording: string,
    lanes: number[],
    together?: { recordingDB: number; kitDB: number },
  ) =>
    address(`/projects/${project}/recordings/${recording}/layer`, {
      ...(lanes.length > 0 ? { lane: lanes.join() } : {}),
      ...(together ? { together: true, ...together } : {}),
    }),
  songMIDI: (project: string) => address(`/projects/${project}/song/midi`),
  songWAV: (project: string) => address(`/projects/${project}/song/wav`, { rate: 44100, bits: 24 }),
  part: (hash: string, start: number, end: number) => address(`/samples/${hash}/part`, { start, end }),
  kit: (project: string, as: string) => address(`/projects/${project}/kit/export`, { as }),
  map: (project: string, as: string) => address(`/projects/${project}/map/export`, { as }),
};

/** The part a project is seen from, as requests name it. */
export const ofPart = (p: { part: string }) => (p.part === '' ? {} : { part: p.part });
