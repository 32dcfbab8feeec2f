/** The server, as typed calls. Refusals come as AppError with the server's code, sentence and remedy. */
import { AppError } from '@lorvek/core';
import {
  isProblem,
  type AccessState,
  type Asset,
  type Backup,
  type CameraAnswer,
  type CameraOrder,
  type Drawing,
  type FontEntry,
  type Health,
  type Inbox,
  type InboxFile,
  type Job,
  type JobChange,
  type JobHistory,
  type JobVersion,
  type LoggedChange,
  type Machine,
  type MachineChange,
  type MachineReport,
  type MaterialReport,
  type NewJob,
  type NewMachine,
  type NewRoll,
  type NewStockFilm,
  type NewStyle,
  type NewVersion,
  type OpenJob,
  type PostChange,
  type Roll,
  type Run,
  type RunAction,
  type Leftover,
  type Profile,
  type SoftLook,
  type NewSupply,
  type Supply,
  type SupplyChange,
  type StockReading,
  type Usage,
  type RunEvent,
  type RunTotals,
  type Papers,
  type BenchOrder,
  type BenchAnswer,
  type SendOrder,
  type StockFilm,
  type StockFilmChange,
  type SheetPlates,
  type ShopSettings,
  type Style,
  type TraySheet,
} from '@lorvek/model';

async function toError(response: Response): Promise<AppError> {
  const body: unknown = await response.json().catch(() => undefined);
  if (!isProblem(body)) return new AppError(`http.${response.status}`, `The server answered with ${response.status}. Try again.`);
  const { type, detail, remedy, status, ...rest } = body;
  return new AppError(type, remedy ? `${detail} ${remedy}` : detail, { ...rest, status });
}

/** The server says that nobody is signed in here. */
let onSignIn: () => void = () => undefined;
export const whenSignInIsAsked = (ask: () => void): void => {
  onSignIn = ask;
};

async function request<T>(path: string, init: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new AppError('offline', 'The server does not answer. What you made is kept here and sent when it is back.');
  }
  if (!response.ok) {
    const error = await toError(response);
    if (error.code === 'access.sign-in') onSignIn();
    throw error;
  }
  try {
    return (await response.json()) as T;
  } catch {
    // a page of a network that wants to be signed in to, or an answer that broke off: nobody knows what the server did
    throw new AppError('offline', 'What came back is no answer of the server. What you made is kept here and sent when it is back.');
  }
}

/** Bodies longer than this go out compressed, characters. */
const LONG_BODY = 64 * 1024;

async function compressed(text: string): Promise<{ headers: Record<string, string>; body: BodyInit }> {
  const headers = { 'content-type': 'application/json' };
  if (text.length < LONG_BODY || typeof CompressionStream === 'undefined') return { headers, body: text };
  const packed = new Blob([text]).stream().pipeThrough(new CompressionStream('gzip'));
  return { headers: { ...headers, 'content-encoding': 'gzip' }, body: await new Response(packed).blob() };
}

const call = async <T>(method: string, path: string, body?: unknown): Promise<T> =>
  request<T>(path, { method, ...(body === undefined ? {} : await compressed(JSON.stringify(body))) });

function upload<T>(path: string, file: File): Promise<T> {
  const body = new FormData();
  body.set('file', file);
  return request<T>(path, { method: 'POST', body });
}

const enc = encodeURIComponent;

/** Whose colours a print has. */
const printerQuery = (printer: string | undefined): string => (printer === undefined ? '' : `&printer=${enc(printer)}`);

export const api = {
  jobs: (archived: boolean) => call<Job[]>('GET', `/jobs?archived=${archived}`),
  createJob: (job: NewJob) => call<Job>('POST', '/jobs', job),
  changeJob: (id: string, fields: JobChange) => call<Job>('PATCH', `/jobs/${enc(id)}`, fields),
  duplicateJob: (id: string) => call<Job>('POST', `/jobs/${enc(id)}/duplicate`),
  openJob: (id: string) => call<OpenJob>('GET', `/jobs/${enc(id)}`),
  history: (id: string, upTo: number) => call<JobHistory>('GET', `/jobs/${enc(id)}/history?upTo=${upTo}`),
  versions: (id: string) => call<JobVersion[]>('GET', `/jobs/${enc(id)}/versions`),
  keepVersion: (id: string, version: NewVersion) => call<JobVersion>('POST', `/jobs/${enc(id)}/versions`, version),
  version: (id: string, version: string) => call<{ records: Drawing }>('GET', `/jobs/${enc(id)}/versions/${enc(version)}`),
  removeVersion: (id: string, version: string) => call<{ removed: true }>('DELETE', `/jobs/${enc(id)}/versions/${enc(version)}`),
  versionPictureUrl: (id: string, version: string) => `/api/jobs/${enc(id)}/versions/${enc(version)}/picture.svg`,
  jobFileUrl: (id: string) => `/api/jobs/${enc(id)}/file`,
  readJobFile: (file: File) => upload<Job>('/jobs/file', file),
  health: () => call<Health>('GET', '/health'),
  access: () => call<AccessState>('GET', '/access'),
  signIn: (passphrase: string) => call<AccessState>('POST', '/access', { passphrase }),
  signOut: () => call<AccessState>('DELETE', '/access'),
  backups: () => call<Backup[]>('GET', '/backups'),
  makeBackup: () => call<Backup>('POST', '/backups'),
  backupUrl: (name: string) => `/api/backups/${enc(name)}/file`,
  bringBack: (name: string) => call<Backup>('POST', `/backups/${enc(name)}/restore`),
  bringBackFile: (file: File) => upload<Backup>('/backups/file', file),
  changesSince: (id: string, revision: number) => call<LoggedChange[]>('GET', `/jobs/${enc(id)}/changes?since=${revision}`),
  postChange: (id: string, change: PostChange) => call<{ revision: number }>('POST', `/jobs/${enc(id)}/changes`, change),
  stock: () => call<StockFilm[]>('GET', '/stock'),
  addStock: (film: NewStockFilm) => call<StockFilm>('POST', '/stock', film),
  changeStock: (id: string, fields: StockFilmChange) => call<StockFilm>('PATCH', `/stock/films/${enc(id)}`, fields),
  removeStock: (id: string) => call<{ removed: true }>('DELETE', `/stock/films/${enc(id)}`),
  addRoll: (filmId: string, roll: NewRoll) => call<Roll>('POST', `/stock/films/${enc(filmId)}/rolls`, roll),
  removeRoll: (id: string) => call<{ removed: true }>('DELETE', `/stock/rolls/${enc(id)}`),
  setRollLength: (id: string, lengthLeftMm: number) => call<Roll>('PATCH', `/stock/rolls/${enc(id)}`, { lengthLeftMm }),
  inbox: () => call<Inbox>('GET', '/inbox'),
  inboxFile: async (file: InboxFile): Promise<File> => {
    const response = await fetch(`/api/inbox/${enc(file.id)}`);
    if (!response.ok) throw await toError(response);
    return new File([await response.arrayBuffer()], file.name);
  },
  machines: () => call<Machine[]>('GET', '/machines'),
  addMachine: (machine: NewMachine) => call<Machine>('POST', '/machines', machine),
  removeMachine: (id: string) => call<{ removed: true }>('DELETE', `/machines/${enc(id)}`),
  changeMachine: (id: string, fields: MachineChange) => call<Machine>('PATCH', `/machines/${enc(id)}`, fields),
  askMaterial: (id: string) => call<MaterialReport>('GET', `/machines/${enc(id)}/material`),
  askMachine: (id: string) => call<MachineReport>('GET', `/machines/${enc(id)}/report`),
  fonts: () => call<FontEntry[]>('GET', '/fonts'),
  addFont: (file: File) => upload<FontEntry>('/fonts', file),
  addPicture: (file: File) => upload<Asset>('/assets', file),
  settings: () => call<ShopSettings>('GET', '/settings'),
  keepSettings: (settings: ShopSettings) => call<ShopSettings>('PUT', '/settings', settings),
  styles: () => call<Style[]>('GET', '/styles'),
  keepStyle: (style: NewStyle) => call<Style>('POST', '/styles', style),
  removeStyle: (id: string) => call<{ removed: true }>('DELETE', `/styles/${enc(id)}`),
  runs: () => call<Run[]>('GET', '/runs'),
  send: (jobId: string, order: SendOrder) => call<Run[]>('POST', `/jobs/${enc(jobId)}/send`, order),
  /** What is not taken by then makes no runs. */
  stopSending: (orderId: string) => call<{ stopped: boolean }>('POST', `/orders/${enc(orderId)}/stop`),
  act: (runId: string, action: RunAction, count = 1) => call<Run>('POST', `/runs/${enc(runId)}/actions`, { action, count }),
  placeRun: (runId: string, before: string | null) => call<Run>('POST', `/runs/${enc(runId)}/place`, { before }),
  giveRunTo: (runId: string, machineId: string) => call<Run>('POST', `/runs/${enc(runId)}/machine`, { machineId }),
  offcutOf: (runId: string) => call<Leftover>('GET', `/runs/${enc(runId)}/offcut`),
  keepOffcut: (runId: string) => call<Run>('POST', `/runs/${enc(runId)}/offcut`, {}),
  supplies: () => call<Supply[]>('GET', '/stock/supplies'),
  addSupply: (supply: NewSupply) => call<Supply>('POST', '/stock/supplies', supply),
  changeSupply: (id: string, fields: SupplyChange) => call<Supply>('PATCH', `/stock/supplies/${enc(id)}`, fields),
  removeSupply: (id: string) => call<{ removed: true }>('DELETE', `/stock/supplies/${enc(id)}`),
  takeStockList: (bytes: string, name: string, dry: boolean) => call<StockReading>('POST', '/stock/list', { bytes, name, dry }),
  usage: (months: number) => call<Usage[]>('GET', `/stock/usage?months=${months}`),
  setOrigin: (runId: string, at: 'tool' | 'machine') => call<Run>('POST', `/runs/${enc(runId)}/origin`, { at }),
  runLog: (runId: string) => call<RunEvent[]>('GET', `/runs/${enc(runId)}/log`),
  runsBefore: (place: number) => call<Run[]>('GET', `/runs?before=${place}`),
  runTotals: (from: Date, to: Date) => call<RunTotals>('GET', `/runs/totals?from=${from.toISOString()}&to=${to.toISOString()}`),
  camera: (runId: string, order: CameraOrder) => call<CameraAnswer>('POST', `/runs/${enc(runId)}/camera`, { order }),
  cameraUrl: (runId: string) => `/api/runs/${enc(runId)}/camera.svg`,
  papers: (machineId: string) => call<Papers>('GET', `/machines/${enc(machineId)}/papers`),
  bench: (machineId: string, order: BenchOrder) => call<BenchAnswer>('POST', `/machines/${enc(machineId)}/bench`, { order }),
  benchCameraUrl: (machineId: string) => `/api/machines/${enc(machineId)}/camera.svg`,
  tray: (machineId: string) => call<TraySheet[]>('GET', `/machines/${enc(machineId)}/tray`),
  loadSheet: (machineId: string, sheet: string, turned: boolean) =>
    call<TraySheet[]>('POST', `/machines/${enc(machineId)}/load`, { sheet, turned }),
  /** @param sheet which of the layer's sheets, from 0 */
  plates: (jobId: string, layer: string, sheet: number, printer: string | undefined) =>
    call<SheetPlates>('GET', `/jobs/${enc(jobId)}/sheets/${enc(layer)}/plates?sheet=${sheet + 1}${printerQuery(printer)}`),
  /** @param sheet which of the layer's sheets, from 0 */
  printFileUrl: (jobId: string, layer: string, sheet: number, printer: string | undefined) =>
    `/api/jobs/${enc(jobId)}/sheets/${enc(layer)}/print.pdf?sheet=${sheet + 1}${printerQuery(printer)}`,
  soft: (jobId: string, layer: string, sheet: number, printer: string | undefined) =>
    call<SoftLook>('GET', `/jobs/${enc(jobId)}/sheets/${enc(layer)}/soft?sheet=${sheet + 1}${printerQuery(printer)}`),
  profiles: () => call<Profile[]>('GET', '/profiles'),
  addProfile: (file: File) => upload<Profile>('/profiles', file),
  removeProfile: (id: string) => call<{ removed: true }>('DELETE', `/profiles/${enc(id)}`),
  sheetFileUrl: (
    jobId: string,
    film: string,
    sheet: number,
    kind: 'plt' | 'svg',
    { machineId, setupId, cutting }: NonNullable<SendOrder['cutter']>,
  ) =>
    `/api/jobs/${enc(jobId)}/sheets/${enc(film)}/cut.${kind}?sheet=${sheet + 1}&machine=${enc(machineId)}&setup=${enc(setupId)}${cutting ? `&cutting=${enc(JSON.stringify(cutting))}` : ''}`,
};

/** The sentence to show for any failure. */
export const sentenceOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
