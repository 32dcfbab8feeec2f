/** The server, as typed calls. Refusals come as AppError with the server's code, sentence and remedy. */
import { AppError } from '@lorvek/core';
import {
  problemSchema,
  type Asset,
  type FontEntry,
  type Inbox,
  type InboxFile,
  type Job,
  type JobChange,
  type LoggedChange,
  type Machine,
  type MachineChange,
  type MachineReport,
  type NewJob,
  type NewStockFilm,
  type NewStyle,
  type StockFilmChange,
  type OpenJob,
  type PostChange,
  type Roll,
  type Run,
  type RunAction,
  type SendOrder,
  type StockFilm,
  type Style,
} from '@lorvek/model';

async function toError(response: Response): Promise<AppError> {
  const body: unknown = await response.json().catch(() => undefined);
  const problem = problemSchema.loose().safeParse(body);
  if (!problem.success) return new AppError(`http.${response.status}`, `The server answered with ${response.status}. Try again.`);
  const { type, detail, remedy, status, ...rest } = problem.data;
  return new AppError(type, remedy ? `${detail} ${remedy}` : detail, { ...rest, status });
}

async function request<T>(path: string, init: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new AppError('offline', 'The server does not answer. What you made is kept here and sent when it is back.');
  }
  if (!response.ok) throw await toError(response);
  return (await response.json()) as T;
}

const call = <T>(method: string, path: string, body?: unknown): Promise<T> =>
  request<T>(path, {
    method,
    ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
  });

function upload<T>(path: string, file: File): Promise<T> {
  const body = new FormData();
  body.set('file', file);
  return request<T>(path, { method: 'POST', body });
}

const enc = encodeURIComponent;

export const api = {
  jobs: (archived: boolean) => call<Job[]>('GET', `/jobs?archived=${archived}`),
  createJob: (job: NewJob) => call<Job>('POST', '/jobs', job),
  changeJob: (id: string, fields: JobChange) => call<Job>('PATCH', `/jobs/${enc(id)}`, fields),
  duplicateJob: (id: string) => call<Job>('POST', `/jobs/${enc(id)}/duplicate`),
  openJob: (id: string) => call<OpenJob>('GET', `/jobs/${enc(id)}`),
  changesSince: (id: string, revision: number) => call<LoggedChange[]>('GET', `/jobs/${enc(id)}/changes?since=${revision}`),
  postChange: (id: string, change: PostChange) => call<{ revision: number }>('POST', `/jobs/${enc(id)}/changes`, change),
  stock: () => call<StockFilm[]>('GET', '/stock'),
  addStock: (film: NewStockFilm) => call<StockFilm>('POST', '/stock', film),
  changeStock: (id: string, fields: StockFilmChange) => call<StockFilm>('PATCH', `/stock/films/${enc(id)}`, fields),
  setRollLength: (id: string, lengthLeftMm: number) => call<Roll>('PATCH', `/stock/rolls/${enc(id)}`, { lengthLeftMm }),
  inbox: () => call<Inbox>('GET', '/inbox'),
  inboxFile: async (file: InboxFile): Promise<File> => {
    const response = await fetch(`/api/inbox/${enc(file.id)}`);
    if (!response.ok) throw await toError(response);
    return new File([await response.arrayBuffer()], file.name);
  },
  machines: () => call<Machine[]>('GET', '/machines'),
  changeMachine: (id: string, fields: MachineChange) => call<Machine>('PATCH', `/machines/${enc(id)}`, fields),
  askMachine: (id: string) => call<MachineReport>('GET', `/machines/${enc(id)}/report`),
  fonts: () => call<FontEntry[]>('GET', '/fonts'),
  addFont: (file: File) => upload<FontEntry>('/fonts', file),
  addPicture: (file: File) => upload<Asset>('/assets', file),
  styles: () => call<Style[]>('GET', '/styles'),
  keepStyle: (style: NewStyle) => call<Style>('POST', '/styles', style),
  removeStyle: (id: string) => call<{ removed: true }>('DELETE', `/styles/${enc(id)}`),
  runs: () => call<Run[]>('GET', '/runs'),
  send: (jobId: string, order: SendOrder) => call<Run[]>('POST', `/jobs/${enc(jobId)}/send`, order),
  act: (runId: string, action: RunAction) => call<Run>('POST', `/runs/${enc(runId)}/actions`, { action }),
  sheetFileUrl: (jobId: string, film: string, kind: 'plt' | 'svg', machine: string, setup: string) =>
    `/api/jobs/${enc(jobId)}/sheets/${enc(film)}/cut.${kind}?machine=${enc(machine)}&setup=${enc(setup)}`,
};

/** The sentence to show for any failure. */
export const sentenceOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
