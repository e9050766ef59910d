// The bench's own interface; types are generated from the server's description of it.
import type {
  GrooveUse,
  Compared,
  AuditionReply,
  CarryPlan,
  CarryRequest,
  CompareReply,
  Comparison,
  CutKitReply,
  CutReply,
  DrumMap,
  Edit,
  FoundSamples,
  Groove,
  GrooveReply,
  HearEdit,
  HistoryReply,
  ImportReply,
  ImportSamplesReply,
  KeepReply,
  KeptKitReply,
  KeptReply,
  KitChange,
  LayoutOptions,
  Listener,
  Listening,
  ListReply,
  LostReply,
  MapEdit,
  MapReply,
  MapsReply,
  NewPatternReply,
  Pad,
  Pass,
  PatternReply,
  Picture,
  Plan,
  Preview,
  Problem,
  ProgressReply,
  ReadyHeard,
  ReadyReply,
  Project,
  RecordingReply,
  Regrid,
  ReinforceReply,
  Sample,
  SavedMapReply,
  SamplePart,
  Settings,
  SnapReply,
  TakeReady,
  Table,
  TrimReply,
  Wave,
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

/** An address with what is asked for; what is undefined is left out. */
function query(path: string, of: object): string {
  const q = new URLSearchParams();
  for (const [k, v] of Object.entries(of) as [string, unknown][]) {
    if (typeof v === 'string' ? v !== '' : typeof v === 'number' || v === true) q.set(k, String(v));
  }
  return `${path}?${q}`;
}

/** What is changed of a recording's grid. */
export type GridChange = Omit<Regrid, 'revision'>;

export interface Looking {
  text?: string;
  kind?: string;
  tag?: string;
  folder?: string;
  maxSeconds?: number;
  usedIn?: string;
  sort?: string;
  like?: string;
  offset?: number;
  limit?: number;
}

export const api = {
  projects: () => json<ListReply>('GET', '/projects'),
  createProject: (name: string, demo: boolean) => json<Project>('POST', '/projects', { name, demo }),
  project: (id: string) => json<Project>('GET', `/projects/${id}`),
  settings: (id: string, revision: number, change: Partial<Settings>, label: string) =>
    json<Project>('POST', `/projects/${id}/settings`, { ...change, revision, label }),
  takeKit: (id: string, revision: number, kit: string) =>
    json<Project>('POST', `/projects/${id}/kit`, { revision, kit }),
  undo: (id: string, revision: number) => json<Project>('POST', `/projects/${id}/undo`, { revision }),
  redo: (id: string, revision: number) => json<Project>('POST', `/projects/${id}/redo`, { revision }),
  history: (id: string) => json<HistoryReply>('GET', `/projects/${id}/history`),
  jumpTo: (id: string, revision: number, number: number) =>
    json<Project>('POST', `/projects/${id}/history`, { revision, number }),
  table: (id: string, rate: number) => json<Table>('GET', `/projects/${id}/table?rate=${rate}`),
  voice: async (voice: string) => (await reply('GET', `/voices/${voice}`)).arrayBuffer(),
  addPattern: (
    id: string,
    revision: number,
    name: string,
    bars: number,
    copyOf: string | undefined,
    linked: boolean,
  ) => json<NewPatternReply>('POST', `/projects/${id}/patterns`, { revision, name, bars, copyOf, linked }),
  comparePatterns: (id: string, pattern: string, other: string) =>
    json<Comparison>('GET', query(`/projects/${id}/patterns/${pattern}/compare`, { with: other })),
  writeFeel: (id: string, revision: number, pattern: string) =>
    json<Project>('POST', `/projects/${id}/patterns/${pattern}/feel`, { revision }),
  ready: () => json<ReadyReply>('GET', '/ready'),
  hearReady: (id: string, rate: number, take: TakeReady) =>
    json<ReadyHeard>('POST', query(`/projects/${id}/ready/hear`, { rate }), { take }),
  takeReady: (id: string, revision: number, take: TakeReady) =>
    json<NewPatternReply>('POST', `/projects/${id}/ready/take`, { revision, take }),
  hearGroove: (id: string, pattern: string, rate: number, groove: Groove, use: GrooveUse) =>
    json<Pass>('POST', query(`/projects/${id}/patterns/${pattern}/felt`, { rate }), { groove, use }),
  addGroove: (id: string, revision: number, from: { name: string; patternId?: string; groove?: Groove }) =>
    json<GrooveReply>('POST', `/projects/${id}/grooves`, { ...from, revision }),
  putGroove: (id: string, revision: number, groove: string, value: Groove) =>
    json<Project>('PUT', `/projects/${id}/grooves/${groove}`, { revision, groove: value }),
  deleteGroove: (id: string, revision: number, groove: string) =>
    json<Project>('DELETE', `/projects/${id}/grooves/${groove}?revision=${revision}`),
  grooveAddress: (id: string, groove: string) => `${base}/projects/${id}/grooves/${groove}/midi`,
  importGroove: (id: string, revision: number, file: File) =>
    json<GrooveReply>('POST', `/projects/${id}/grooves/midi?revision=${revision}`, form(file)),
  deletePattern: (id: string, revision: number, pattern: string) =>
    json<Project>('DELETE', `/projects/${id}/patterns/${pattern}?revision=${revision}`),
  editPattern: (id: string, revision: number, pattern: string, rate: number, edit: Edit) =>
    json<PatternReply>('POST', `/projects/${id}/patterns/${pattern}/edits?rate=${rate}`, { revision, edit }),
  pass: (id: string, pattern: string, rate: number) =>
    json<Pass>('GET', `/projects/${id}/patterns/${pattern}/pass?rate=${rate}`),
  midiAddress: (id: string, pattern: string, sounding: boolean) =>
    `${base}/projects/${id}/patterns/${pattern}/midi?sounding=${sounding}`,
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
  recordingPass: (
    id: string,
    recording: string,
    of: { rate: number; slow?: number; click?: boolean; loHz?: number; hiHz?: number },
  ) => json<Pass>('GET', query(`/projects/${id}/recordings/${recording}/pass`, of)),
  editHits: (id: string, recording: string, revision: number, edit: HearEdit, label: string) =>
    json<Project>('POST', `/projects/${id}/recordings/${recording}/hits`, { revision, edit, label }),
  listen: (id: string, recording: string, lane: number, listener: Listener, columns: number) =>
    json<Listening>('POST', `/projects/${id}/recordings/${recording}/listen`, { lane, listener, columns }),
  setListener: (id: string, recording: string, revision: number, lane: number, listener: Listener | null) =>
    json<Project>('PUT', `/projects/${id}/recordings/${recording}/listener`, {
      revision,
      lane,
      ...(listener ? { listener } : {}),
    }),
  setChannel: (id: string, recording: string, revision: number, channel: string) =>
    json<Project>('PUT', `/projects/${id}/recordings/${recording}/channel`, { revision, channel }),
  recordingGroove: (id: string, recording: string, of: { grid: string; lane: number; name: string }) =>
    json<Groove>('GET', query(`/projects/${id}/recordings/${recording}/groove`, of)),
  cutKit: (id: string, recording: string, revision: number, name: string) =>
    json<CutKitReply>('POST', `/projects/${id}/recordings/${recording}/cut`, { revision, name }),
  reinforce: (id: string, recording: string) =>
    json<ReinforceReply>('GET', `/projects/${id}/recordings/${recording}/reinforce`),
  compareLane: (id: string, recording: string, lane: number) =>
    json<Compared>('GET', query(`/projects/${id}/recordings/${recording}/compare`, { lane })),
  flip: (id: string, recording: string, revision: number, lane: number) =>
    json<Project>('POST', `/projects/${id}/recordings/${recording}/flip`, { revision, lane }),
  layerAddress: (id: string, recording: string, lanes: number[]) =>
    base + query(`/projects/${id}/recordings/${recording}/layer`, { lane: lanes.join(',') }),
  regrid: (id: string, recording: string, revision: number, grid: GridChange) =>
    json<Project>('POST', `/projects/${id}/recordings/${recording}/grid`, { ...grid, revision }),
  keep: (
    id: string,
    recording: string,
    revision: number,
    as: { name: string; grid: string; strength: number },
  ) => json<KeepReply>('POST', `/projects/${id}/recordings/${recording}/keep`, { ...as, revision }),
  samples: (of: Looking, signal?: AbortSignal) =>
    json<FoundSamples>('GET', query('/samples', of), undefined, signal),
  sample: (hash: string) => json<Sample>('GET', `/samples/${hash}`),
  importSamples: (files: { file: Blob; name: string }[], signal: AbortSignal) => {
    const f = new FormData();
    for (const { file, name } of files) f.append('file', file, name);
    return json<ImportSamplesReply>('POST', '/samples', f, signal);
  },
  correctSample: (hash: string, change: { kind?: string; tags?: string[] }) =>
    json<Sample>('POST', `/samples/${hash}`, change),
  wave: (hash: string, start: number, end: number, columns: number) =>
    json<Wave>('GET', query(`/samples/${hash}/wave`, { start, end, columns })),
  trim: (hash: string, belowDB: number) =>
    json<TrimReply>('GET', query(`/samples/${hash}/trim`, { belowDB })),
  snap: (hash: string, frame: number, to: 'zero' | 'attack') =>
    json<SnapReply>('GET', query(`/samples/${hash}/snap`, { frame, to })),
  audition: (hash: string, of: { start?: number; end?: number; rate: number; bpm?: number }) =>
    json<AuditionReply>('GET', query(`/samples/${hash}/audition`, of)),
  cut: (hash: string, of: { strength: number; minGapMS: number; deadDB: number; marks?: number[] }) =>
    json<CutReply>('POST', `/samples/${hash}/cut`, of),
  partAddress: (hash: string, start: number, end: number) =>
    base + query(`/samples/${hash}/part`, { start, end }),
  editKit: (id: string, revision: number, edit: KitChange) =>
    json<Project>('POST', `/projects/${id}/kit/edits`, { revision, edit }),
  previewKit: (id: string, pattern: string, rate: number, pads: Pad[]) =>
    json<Preview>('POST', `/projects/${id}/patterns/${pattern}/preview?rate=${rate}`, { pads }),
  planLayout: (id: string, parts: SamplePart[], options: LayoutOptions) =>
    json<Plan>('POST', `/projects/${id}/layout/plan`, { parts, options }),
  layOut: (id: string, revision: number, parts: SamplePart[], options: LayoutOptions) =>
    json<Project>('POST', `/projects/${id}/layout`, { revision, parts, options }),
  kits: () => json<KeptReply>('GET', '/kits'),
  saveKit: (id: string, name: string) => json<KeptKitReply>('POST', `/projects/${id}/kit/save`, { name }),
  importKit: (file: File) => json<KeptKitReply>('POST', '/kits', form(file)),
  kitLoses: (id: string, as: string) => json<LostReply>('GET', query(`/projects/${id}/kit/lost`, { as })),
  kitAddress: (id: string, as: string) => base + query(`/projects/${id}/kit/export`, { as }),
  editMap: (id: string, revision: number, edit: MapEdit) =>
    json<Project>('POST', `/projects/${id}/map`, { revision, edit }),
  maps: () => json<MapsReply>('GET', '/maps'),
  saveMap: (map: DrumMap, description: string) => json<SavedMapReply>('POST', '/maps', { map, description }),
  setMap: (id: string, isDefault: boolean, earlier: boolean) =>
    json<MapsReply>('POST', `/maps/${id}`, { default: isDefault, earlier }),
  readMap: (file: File, middleC: number) =>
    json<MapReply>('POST', query('/maps/read', { middleC }), form(file)),
  compareMaps: (a: DrumMap, b: DrumMap) => json<CompareReply>('POST', '/maps/compare', { a, b }),
  mapFromKit: (id: string) => json<MapReply>('GET', `/projects/${id}/map/fromkit`),
  mapLoses: (id: string, as: string) => json<LostReply>('GET', query(`/projects/${id}/map/lost`, { as })),
  mapAddress: (id: string, as: string) => base + query(`/projects/${id}/map/export`, { as }),
  planCarry: (id: string, carry: CarryRequest) =>
    json<CarryPlan>('POST', `/projects/${id}/carry/plan`, { carry }),
  carry: (id: string, revision: number, carry: CarryRequest) =>
    json<Project>('POST', `/projects/${id}/carry`, { revision, carry }),
  watch: (id: string) => new EventSource(`${base}/projects/${id}/events`),
};
