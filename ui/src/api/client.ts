// The bench's own interface; types are generated from the server's description of it.
import type {
  Edit,
  ImportReply,
  KeepReply,
  ListReply,
  NewPatternReply,
  Pass,
  PatternReply,
  Picture,
  Problem,
  ProgressReply,
  Project,
  RecordingReply,
  Settings,
  Table,
} from './generated';

export type * from './generated';

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

const base = '/api/v1';

async function reply(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<Response> {
  const isForm = body instanceof FormData;
  const init: RequestInit = { method };
  if (signal) init.signal = signal;
  if (body !== undefined) {
    init.body = isForm ? body : JSON.stringify(body);
    if (!isForm) init.headers = { 'Content-Type': 'application/json' };
  }
  let res: Response;
  try {
    res = await fetch(base + path, init);
  } catch (e) {
    if (signal?.aborted) throw e;
    throw new ApiError(
      0,
      'The bench does not answer',
      'Is it still running? Start it again; nothing saved is lost.',
    );
  }
  if (!res.ok) {
    const p = (await res.json().catch(() => ({ title: res.statusText }))) as Partial<Problem>;
    throw new ApiError(res.status, p.title ?? 'Something went wrong', p.detail ?? '');
  }
  return res;
}

async function json<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  return (await reply(method, path, body, signal)).json() as Promise<T>;
}

function form(file: File): FormData {
  const f = new FormData();
  f.append('file', file, file.name);
  return f;
}

export const api = {
  projects: () => json<ListReply>('GET', '/projects'),
  createProject: (name: string, demo: boolean) => json<Project>('POST', '/projects', { name, demo }),
  project: (id: string) => json<Project>('GET', `/projects/${id}`),
  settings: (id: string, revision: number, change: Partial<Settings>, label: string) =>
    json<Project>('POST', `/projects/${id}/settings`, { ...change, revision, label }),
  takeKit: (id: string, revision: number, kit: 'boathouse' | 'empty') =>
    json<Project>('POST', `/projects/${id}/kit`, { revision, kit }),
  undo: (id: string, revision: number) => json<Project>('POST', `/projects/${id}/undo`, { revision }),
  redo: (id: string, revision: number) => json<Project>('POST', `/projects/${id}/redo`, { revision }),
  table: (id: string, rate: number) => json<Table>('GET', `/projects/${id}/table?rate=${rate}`),
  voice: async (voice: string) => (await reply('GET', `/voices/${voice}`)).arrayBuffer(),
  addPattern: (id: string, revision: number, name: string, bars: number, copyOf?: string) =>
    json<NewPatternReply>('POST', `/projects/${id}/patterns`, { revision, name, bars, copyOf }),
  deletePattern: (id: string, revision: number, pattern: string) =>
    json<Project>('DELETE', `/projects/${id}/patterns/${pattern}?revision=${revision}`),
  editPattern: (id: string, revision: number, pattern: string, rate: number, edit: Edit) =>
    json<PatternReply>('POST', `/projects/${id}/patterns/${pattern}/edits?rate=${rate}`, { revision, edit }),
  pass: (id: string, pattern: string, rate: number) =>
    json<Pass>('GET', `/projects/${id}/patterns/${pattern}/pass?rate=${rate}`),
  midiAddress: (id: string, pattern: string) => `${base}/projects/${id}/patterns/${pattern}/midi`,
  wavAddress: (id: string, pattern: string, rate: number, bits: number, passes: number) =>
    `${base}/projects/${id}/patterns/${pattern}/wav?rate=${rate}&bits=${bits}&passes=${passes}`,
  importMIDI: (id: string, revision: number, file: File) =>
    json<ImportReply>('POST', `/projects/${id}/midi?revision=${revision}`, form(file)),
  addRecording: (id: string, file: File, ticket: string, signal: AbortSignal) =>
    json<RecordingReply>('POST', `/projects/${id}/recordings?ticket=${ticket}`, form(file), signal),
  hearing: (ticket: string) => json<ProgressReply>('GET', `/hearings/${ticket}`),
  cancelHearing: (ticket: string) => json<ProgressReply>('DELETE', `/hearings/${ticket}`),
  picture: (id: string, recording: string, columns: number) =>
    json<Picture>('GET', `/projects/${id}/recordings/${recording}/picture?columns=${columns}`),
  recordingPass: (id: string, recording: string, rate: number) =>
    json<Pass>('GET', `/projects/${id}/recordings/${recording}/pass?rate=${rate}`),
  regrid: (
    id: string,
    recording: string,
    revision: number,
    grid: { bpm?: number; bars?: number; barOneS?: number },
  ) => json<Project>('POST', `/projects/${id}/recordings/${recording}/grid`, { ...grid, revision }),
  keep: (
    id: string,
    recording: string,
    revision: number,
    as: { name: string; grid: string; strength: number },
  ) => json<KeepReply>('POST', `/projects/${id}/recordings/${recording}/keep`, { ...as, revision }),
  watch: (id: string) => new EventSource(`${base}/projects/${id}/events`),
};
