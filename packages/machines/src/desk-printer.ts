/**
 * A desk printer that is not there: takes jobs over the Internet Printing Protocol (RFC 8011, version 1.1), prints
 * their pages in accelerated real time, one after another, and tells how far it is. What it printed is kept as its file.
 */
import { createServer, type IncomingMessage, type Server } from 'node:http';
import { PDFDocument } from '@cantoo/pdf-lib';
import { Faults } from './faults.ts';
import { readIpp, TAG, writeIpp, type IppAttribute, type IppGroup, type IppMessage, type IppValue } from './ipp-message.ts';

export interface DeskPrinterOptions {
  readonly name: string;
  readonly port: number;
  readonly host?: string;
  timeScale: number;
}

interface Job {
  readonly id: number;
  readonly name: string;
  readonly user: string;
  readonly since: number;
  readonly bytes: Uint8Array;
  readonly media: string;
  readonly tray: string | null;
  state: 3 | 5 | 7 | 8 | 9;
  reason: string;
  pages: number;
  done: number;
}

const S_PER_PAGE = 4;
const TICK_MS = 40;
const MOST_BYTES = 2 ** 29;
const KEPT = 50;
const PAPERS = ['iso_a4_210x297mm', 'iso_a5_148x210mm', 'na_letter_8.5x11in'] as const;
const FORMATS = ['application/pdf', 'application/octet-stream'] as const;
const OPERATIONS = { 0x02: 'print', 0x04: 'validate', 0x08: 'cancel', 0x09: 'job', 0x0a: 'jobs', 0x0b: 'printer' } as const;
const STATUS = {
  ok: 0x0000,
  badRequest: 0x0400,
  notPossible: 0x0404,
  notFound: 0x0406,
  format: 0x040a,
  charset: 0x040d,
  operation: 0x0501,
  version: 0x0503,
  busy: 0x0507,
} as const;

const one = (tag: number, name: string, ...values: IppValue[]): IppAttribute => ({ tag, name, values });

class Refusal extends Error {
  constructor(readonly status: number) {
    super(String(status));
  }
}

const valueIn = (group: IppGroup | undefined, name: string): IppValue | undefined =>
  group?.attributes.find((attribute) => attribute.name === name)?.values[0];

/** Paper of a `media-col` by its size, in hundredths of a mm. */
function paperOfColumn(column: IppValue | undefined): { media?: string; tray?: string } {
  if (typeof column !== 'object' || !('collection' in column)) return {};
  const part = (of: readonly IppAttribute[], name: string): IppValue | undefined => of.find((entry) => entry.name === name)?.values[0];
  const size = part(column.collection, 'media-size');
  const tray = part(column.collection, 'media-source');
  const dims = typeof size === 'object' && 'collection' in size ? size.collection : [];
  const [x, y] = [part(dims, 'x-dimension'), part(dims, 'y-dimension')];
  const media = PAPERS.find((name) => {
    const [, w, h, unit] = /_([\d.]+)x([\d.]+)(mm|in)$/.exec(name) as RegExpExecArray;
    const scale = unit === 'in' ? 2540 : 100;
    return Math.abs(Number(x) - Number(w) * scale) < 2 && Math.abs(Number(y) - Number(h) * scale) < 2;
  });
  return { ...(media ? { media } : {}), ...(typeof tray === 'string' ? { tray } : {}) };
}

export class SimulatedDeskPrinter {
  readonly options: DeskPrinterOptions;
  readonly faults = new Faults();
  private server: Server | undefined;
  private timer: ReturnType<typeof setInterval> | undefined;
  private readonly jobs: Job[] = [];
  private port: number;
  private lastId = 0;
  private readonly begun = Date.now();

  constructor(options: DeskPrinterOptions) {
    this.options = options;
    this.port = options.port;
  }

  async switchOn(): Promise<number> {
    if (this.server) return this.port;
    const server = createServer((request, response) => {
      void this.take(request)
        .then((answer) =>
          answer
            ? response.writeHead(200, { 'content-type': 'application/ipp' }).end(answer)
            : response.writeHead(404).end('There is nothing here.'),
        )
        .catch(() => response.destroy());
    });
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject);
      server.listen(this.port, this.options.host ?? '127.0.0.1', resolve);
    });
    this.server = server;
    const address = server.address();
    if (typeof address === 'object' && address) this.port = address.port;
    this.timer = setInterval(() => this.advance(TICK_MS / 1000), TICK_MS);
    return this.port;
  }

  async switchOff(): Promise<void> {
    clearInterval(this.timer);
    const { server } = this;
    this.server = undefined;
    for (const job of this.jobs) if (job.state === 3 || job.state === 5) [job.state, job.reason] = [8, 'aborted-by-system'];
    server?.closeAllConnections();
    if (server) await new Promise<void>((resolve) => server.close(() => resolve()));
  }

  dropConnections(): void {
    this.server?.closeAllConnections();
  }

  report() {
    const { name } = this.options;
    const job = this.jobs.at(-1);
    return {
      name,
      state: !this.server ? 'off' : this.current() ? 'printing' : 'ready',
      sheet: this.jobs.filter(({ state }) => state === 9).length,
      lastPages: job?.done ?? 0,
      lastMedia: job?.media ?? null,
      lastTray: job?.tray ?? null,
      faults: this.faults.list(),
    };
  }

  /** Files of jobs that were printed, the last one last. */
  printed(): readonly Uint8Array[] {
    return this.jobs.filter(({ state }) => state === 9).map(({ bytes }) => bytes);
  }

  trayList(): [] {
    return [];
  }

  pictureOf(): undefined {
    return undefined;
  }

  private current(): Job | undefined {
    return this.jobs.find(({ state }) => state === 3 || state === 5);
  }

  private advance(seconds: number): void {
    const job = this.current();
    if (!job) return;
    job.state = 5;
    if (this.faults.has('wrong-material')) return this.stop(job, 'media-needed');
    job.done += (seconds * this.options.timeScale) / S_PER_PAGE / (this.faults.get('slow') ?? 1);
    const share = job.done / Math.max(1, job.pages);
    if (this.faults.takeAt('end-of-material', share)) return this.stop(job, 'media-empty');
    if (this.faults.takeAt('power-lost', share)) return void this.switchOff();
    if (this.faults.takeAt('line-lost', share)) return this.dropConnections();
    if (share < 1) return;
    this.complete(job);
  }

  private complete(job: Job): void {
    [job.done, job.state, job.reason] = [job.pages, 9, 'job-completed-successfully'];
  }

  private stop(job: Job, reason: string): void {
    [job.state, job.reason] = [8, reason];
  }

  private async take(request: IncomingMessage): Promise<Buffer | undefined> {
    const chunks: Buffer[] = [];
    let size = 0;
    for await (const chunk of request as AsyncIterable<Buffer>) {
      size += chunk.length;
      if (size > MOST_BYTES) return undefined;
      chunks.push(chunk);
    }
    if (request.method !== 'POST' || !request.url?.startsWith('/ipp/print')) return undefined;
    if (this.faults.has('nonsense')) return Buffer.from('?!');
    let message: IppMessage;
    try {
      message = readIpp(Buffer.concat(chunks));
    } catch {
      return this.reply({ major: 1, minor: 1, id: 1 }, STATUS.badRequest, []);
    }
    try {
      const { status, groups } = await this.answer(message);
      return this.reply(message, status, groups);
    } catch (error) {
      if (error instanceof Refusal) return this.reply(message, error.status, []);
      throw error;
    }
  }

  private reply({ major, minor, id }: Pick<IppMessage, 'major' | 'minor' | 'id'>, code: number, groups: readonly IppGroup[]): Buffer {
    const isKnown = major === 1 || major === 2;
    const operation: IppGroup = {
      tag: TAG.operation,
      attributes: [one(TAG.charset, 'attributes-charset', 'utf-8'), one(TAG.language, 'attributes-natural-language', 'en')],
    };
    return writeIpp({ major: isKnown ? major : 1, minor: isKnown ? minor : 1, code, id, groups: [operation, ...groups] });
  }

  private async answer(message: IppMessage): Promise<{ status: number; groups: IppGroup[] }> {
    this.check(message);
    const operation = message.groups[0];
    const name = OPERATIONS[message.code as keyof typeof OPERATIONS];
    switch (name) {
      case undefined:
        throw new Refusal(STATUS.operation);
      case 'printer':
        return { status: STATUS.ok, groups: [{ tag: TAG.printer, attributes: this.wanted(this.description(), operation) }] };
      case 'validate':
        this.checkFormat(operation);
        return { status: STATUS.ok, groups: [] };
      case 'print':
        return { status: STATUS.ok, groups: [await this.print(message)] };
      case 'jobs':
        return { status: STATUS.ok, groups: this.list(operation) };
      case 'job': {
        const job = this.find(operation);
        return { status: STATUS.ok, groups: [{ tag: TAG.job, attributes: this.wanted(this.jobDescription(job), operation) }] };
      }
      case 'cancel': {
        const job = this.find(operation);
        if (this.faults.has('too-late') && job === this.current()) this.complete(job);
        if ((job.state !== 3 && job.state !== 5) || this.faults.has('keeps-on')) throw new Refusal(STATUS.notPossible);
        [job.state, job.reason] = [7, 'job-canceled-by-user'];
        return { status: STATUS.ok, groups: [] };
      }
    }
  }

  /** What every request must have, in its order (RFC 8011, 4.1.4). */
  private check({ major, id, groups }: IppMessage): void {
    if (major !== 1) throw new Refusal(STATUS.version);
    if (id <= 0) throw new Refusal(STATUS.badRequest);
    const [first] = groups;
    if (first?.tag !== TAG.operation) throw new Refusal(STATUS.badRequest);
    const [charset, language, target] = first.attributes;
    const is = (attribute: IppAttribute | undefined, tag: number, ...names: string[]): attribute is IppAttribute =>
      attribute?.tag === tag && names.includes(attribute.name);
    if (!is(charset, TAG.charset, 'attributes-charset')) throw new Refusal(STATUS.badRequest);
    if (!is(language, TAG.language, 'attributes-natural-language')) throw new Refusal(STATUS.badRequest);
    if (!['utf-8', 'us-ascii'].includes(String(charset.values[0]).toLowerCase())) throw new Refusal(STATUS.charset);
    if (!is(target, TAG.uri, 'printer-uri', 'job-uri')) throw new Refusal(STATUS.badRequest);
    if (groups.slice(1).some(({ tag }, i) => tag === TAG.operation || groups.slice(1, 1 + i).some((before) => before.tag === tag)))
      throw new Refusal(STATUS.badRequest);
  }

  private checkFormat(operation: IppGroup | undefined): void {
    const format = valueIn(operation, 'document-format');
    if (format !== undefined && !FORMATS.some((known) => known === format)) throw new Refusal(STATUS.format);
    const compression = valueIn(operation, 'compression');
    if (compression !== undefined && compression !== 'none') throw new Refusal(0x040f);
  }

  private find(operation: IppGroup | undefined): Job {
    const uri = valueIn(operation, 'job-uri');
    const id = uri === undefined ? valueIn(operation, 'job-id') : Number(String(uri).split('/').pop());
    if (id === undefined) throw new Refusal(STATUS.badRequest);
    const job = this.jobs.find((entry) => entry.id === id);
    if (!job) throw new Refusal(STATUS.notFound);
    return job;
  }

  private async print({ groups, data }: IppMessage): Promise<IppGroup> {
    const [operation] = groups;
    this.checkFormat(operation);
    if (this.faults.has('full-queue')) throw new Refusal(STATUS.busy);
    const asked = groups.find(({ tag }) => tag === TAG.job);
    const column = paperOfColumn(valueIn(asked, 'media-col'));
    const job: Job = {
      id: ++this.lastId,
      name: String(valueIn(operation, 'job-name') ?? 'Untitled'),
      user: String(valueIn(operation, 'requesting-user-name') ?? 'anonymous'),
      since: this.now(),
      bytes: Uint8Array.from(data),
      media: column.media ?? String(valueIn(asked, 'media') ?? PAPERS[0]),
      tray: column.tray ?? null,
      state: 3,
      reason: 'job-incoming',
      pages: 1,
      done: 0,
    };
    try {
      job.pages = (await PDFDocument.load(job.bytes, { updateMetadata: false })).getPageCount();
    } catch {
      [job.state, job.reason] = [8, 'document-format-error'];
    }
    if (job.state === 3) job.reason = 'none';
    this.jobs.push(job);
    if (this.jobs.length > KEPT) this.jobs.shift();
    const wanted = ['job-id', 'job-uri', 'job-state', 'job-state-reasons', 'job-state-message'];
    return { tag: TAG.job, attributes: this.jobDescription(job).filter(({ name }) => wanted.includes(name)) };
  }

  private list(operation: IppGroup | undefined): IppGroup[] {
    const which = valueIn(operation, 'which-jobs') ?? 'not-completed';
    if (which !== 'completed' && which !== 'not-completed') throw new Refusal(0x040b);
    const isOver = ({ state }: Job): boolean => state >= 7;
    const user = valueIn(operation, 'my-jobs') === true ? valueIn(operation, 'requesting-user-name') : undefined;
    const most = Number(valueIn(operation, 'limit') ?? KEPT);
    const found = this.jobs.filter((job) => isOver(job) === (which === 'completed') && (user === undefined || job.user === user));
    const usual = operation?.attributes.some(({ name }) => name === 'requested-attributes') ?? false;
    return found.slice(0, most).map((job) => {
      const all = this.jobDescription(job);
      return {
        tag: TAG.job,
        attributes: usual ? this.wanted(all, operation) : all.filter(({ name }) => name === 'job-id' || name === 'job-uri'),
      };
    });
  }

  private wanted(all: readonly IppAttribute[], operation: IppGroup | undefined): IppAttribute[] {
    const names = operation?.attributes.find(({ name }) => name === 'requested-attributes')?.values.map(String);
    const groups = ['all', 'printer-description', 'job-description', 'job-template'];
    if (!names || names.some((name) => groups.includes(name))) return [...all];
    return all.filter(({ name }) => names.includes(name));
  }

  private now(): number {
    return Math.max(1, Math.round((Date.now() - this.begun) / 1000));
  }

  private uri(): string {
    return `ipp://${this.options.host ?? '127.0.0.1'}:${this.port}/ipp/print`;
  }

  private jobDescription(job: Job): IppAttribute[] {
    const isOver = job.state >= 7;
    return [
      one(TAG.uri, 'job-uri', `${this.uri()}/${job.id}`),
      one(TAG.integer, 'job-id', job.id),
      one(TAG.uri, 'job-printer-uri', this.uri()),
      one(TAG.name, 'job-name', job.name),
      one(TAG.name, 'job-originating-user-name', job.user),
      one(TAG.enum, 'job-state', job.state),
      one(TAG.keyword, 'job-state-reasons', job.reason),
      one(TAG.text, 'job-state-message', job.reason),
      one(TAG.integer, 'job-printer-up-time', this.now()),
      one(TAG.integer, 'time-at-creation', job.since),
      job.done > 0 ? one(TAG.integer, 'time-at-processing', job.since) : one(TAG.noValue, 'time-at-processing', ''),
      isOver ? one(TAG.integer, 'time-at-completed', this.now()) : one(TAG.noValue, 'time-at-completed', ''),
      one(TAG.integer, 'job-impressions', job.pages),
      one(TAG.integer, 'job-impressions-completed', Math.floor(job.done)),
      one(TAG.charset, 'attributes-charset', 'utf-8'),
      one(TAG.language, 'attributes-natural-language', 'en'),
      one(TAG.keyword, 'media', job.media),
    ];
  }

  private description(): IppAttribute[] {
    const { name } = this.options;
    return [
      one(TAG.uri, 'printer-uri-supported', this.uri()),
      one(TAG.keyword, 'uri-security-supported', 'none'),
      one(TAG.keyword, 'uri-authentication-supported', 'none'),
      one(TAG.name, 'printer-name', name),
      one(TAG.text, 'printer-info', name),
      one(TAG.text, 'printer-location', 'Beside the bench'),
      one(TAG.text, 'printer-make-and-model', 'Simulated desk printer'),
      one(TAG.uri, 'printer-more-info', `http://${this.options.host ?? '127.0.0.1'}:${this.port + 1}/`),
      one(TAG.enum, 'printer-state', this.current() ? 4 : 3),
      one(TAG.keyword, 'printer-state-reasons', 'none'),
      one(TAG.text, 'printer-state-message', ''),
      one(TAG.keyword, 'ipp-versions-supported', '1.0', '1.1'),
      one(TAG.enum, 'operations-supported', ...Object.keys(OPERATIONS).map(Number)),
      one(TAG.boolean, 'multiple-document-jobs-supported', false),
      one(TAG.charset, 'charset-configured', 'utf-8'),
      one(TAG.charset, 'charset-supported', 'utf-8', 'us-ascii'),
      one(TAG.language, 'natural-language-configured', 'en'),
      one(TAG.language, 'generated-natural-language-supported', 'en'),
      one(TAG.mime, 'document-format-default', FORMATS[0]),
      one(TAG.mime, 'document-format-supported', ...FORMATS),
      one(TAG.boolean, 'printer-is-accepting-jobs', true),
      one(TAG.integer, 'queued-job-count', this.jobs.filter(({ state }) => state < 7).length),
      one(TAG.keyword, 'pdl-override-supported', 'attempted'),
      one(TAG.integer, 'printer-up-time', this.now()),
      one(TAG.keyword, 'compression-supported', 'none'),
      one(TAG.boolean, 'color-supported', true),
      one(TAG.keyword, 'media-default', PAPERS[0]),
      one(TAG.keyword, 'media-supported', ...PAPERS),
      one(TAG.keyword, 'media-ready', PAPERS[0], PAPERS[1]),
      one(TAG.keyword, 'media-source-supported', 'tray-1', 'tray-2', 'manual'),
      one(TAG.keyword, 'media-col-supported', 'media-size', 'media-source'),
      ...(['left', 'right', 'top', 'bottom'] as const).map((edge) => one(TAG.integer, `media-${edge}-margin-supported`, 420)),
      one(TAG.range, 'copies-supported', [1, 1]),
      one(TAG.integer, 'copies-default', 1),
      one(TAG.keyword, 'sides-supported', 'one-sided'),
      one(TAG.keyword, 'sides-default', 'one-sided'),
    ];
  }
}
