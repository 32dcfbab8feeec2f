/**
 * Talks to a desk printer as driverless printers do: the Internet Printing Protocol (RFC 8010, 8011) over HTTP. The file
 * is streamed in a Print-Job; how far the printer is, is asked of the job until it says that it is over.
 */
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { request } from 'node:http';
import { isIP } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';
import ipp from 'ipp';
import { z } from 'zod';
import type { Machine, Paper, PaperChoice, Papers } from '@lorvek/model';
import { addressOf } from './machine-address.ts';
import { DriverError } from './driver-error.ts';
import type { Delivered, MachineDriver, SendControl } from './driver.ts';
import { paperOf } from './paper-names.ts';

const PATH = '/ipp/print';
const ASK_MS = 5000;
const LOOK_EVERY_MS = 250;
const MOST_ANSWER_BYTES = 256 * 1024;
/** Of the way, what the sending of the file counts for. */
const SENDING = 0.3;
/** Printers leave this much of the paper white where they do not say. */
const USUAL_MARGIN_MM = 5;

const many = z.preprocess((value) => (value === undefined ? [] : Array.isArray(value) ? value : [value]), z.array(z.unknown()).max(2000));
const names = many.transform((all) => all.filter((one): one is string => typeof one === 'string' && one.length < 100));
const numbers = many.transform((all) => all.filter((one): one is number => typeof one === 'number'));
const answerSchema = z.object({
  statusCode: z.string(),
  'job-attributes-tag': z.preprocess((value) => (Array.isArray(value) ? value[0] : value), z.record(z.string(), z.unknown()).optional()),
  'printer-attributes-tag': z.preprocess(
    (value) => (Array.isArray(value) ? value[0] : value),
    z.record(z.string(), z.unknown()).optional(),
  ),
});
const printerSchema = z.object({
  'media-supported': names,
  'media-ready': names,
  'media-default': names,
  'media-source-supported': names,
  'media-left-margin-supported': numbers,
  'document-format-supported': names,
});
const jobSchema = z.object({
  'job-id': z.number().int(),
  'job-state': z.string(),
  'job-state-reasons': names,
  'job-impressions': z.unknown().optional(),
  'job-impressions-completed': z.unknown().optional(),
});
type Job = z.infer<typeof jobSchema>;
const JOB_WANTED = Object.keys(jobSchema.shape);

// values of kinds that it does not know are left out without a word on the console
ipp.parse.handleUnknownTag = (_tag, _name, length, read) => (length > 0 ? read(length) : undefined);

/** The reasons that a person can do something about, in words. */
const REASONS: readonly (readonly [RegExp, string])[] = [
  [/media-empty|media-needed/, 'the paper has run out'],
  [/media-jam/, 'paper is jammed'],
  [/cover-open|door-open|interlock-open/, 'a cover is open'],
  [/toner-empty|marker-supply-empty/, 'ink or toner is empty'],
  [/document-format-error|unsupported-document/, 'it cannot read this file'],
];

/** Bytes of one attribute of a collection or a group. */
function attribute(tag: number, name: string, value: Buffer): Buffer {
  const head = Buffer.alloc(3);
  head.writeUInt8(tag);
  head.writeUInt16BE(Buffer.byteLength(name), 1);
  const length = Buffer.alloc(2);
  length.writeUInt16BE(value.length);
  return Buffer.concat([head, Buffer.from(name, 'ascii'), length, value]);
}
const integer = (n: number): Buffer => {
  const out = Buffer.alloc(4);
  out.writeInt32BE(Math.round(n));
  return out;
};
const [BEGIN, END, MEMBER, INTEGER, KEYWORD, JOB_GROUP] = [0x34, 0x37, 0x4a, 0x21, 0x44, 0x02];
const NONE = Buffer.alloc(0);
const member = (name: string, tag: number, value: Buffer): Buffer[] => [
  attribute(MEMBER, '', Buffer.from(name, 'ascii')),
  attribute(tag, '', value),
];

/** Size and tray as `media-col` (PWG 5100.7), in hundredths of a mm: `ipp` writes no collections. */
function mediaOf({ name, tray }: PaperChoice): Buffer {
  const paper = paperOf(name);
  if (!paper) return Buffer.concat([Buffer.from([JOB_GROUP]), attribute(KEYWORD, 'media', Buffer.from(name, 'ascii'))]);
  return Buffer.concat([
    Buffer.from([JOB_GROUP]),
    attribute(BEGIN, 'media-col', NONE),
    ...member('media-size', BEGIN, NONE),
    ...member('x-dimension', INTEGER, integer(100 * paper.widthMm)),
    ...member('y-dimension', INTEGER, integer(100 * paper.heightMm)),
    attribute(END, '', NONE),
    ...(tray === null ? [] : member('media-source', KEYWORD, Buffer.from(tray, 'ascii'))),
    attribute(END, '', NONE),
  ]);
}

export class DeskPrinterDriver implements MachineDriver {
  constructor(
    private readonly machine: Machine,
    private readonly allowed: readonly string[],
  ) {}

  report(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  async ask(): Promise<boolean> {
    try {
      await this.printer();
      return true;
    } catch (error) {
      if (error instanceof DriverError) return false;
      throw error;
    }
  }

  private head(operation: string, attributes: Record<string, string | number | string[]>): Buffer {
    return ipp.serialize({
      version: '1.1',
      operation,
      id: 1 + Math.floor(Math.random() * 2 ** 30),
      'operation-attributes-tag': {
        'attributes-charset': 'utf-8',
        'attributes-natural-language': 'en',
        'printer-uri': `ipp://${this.machine.host}:${this.machine.port}${PATH}`,
        ...attributes,
      },
    });
  }

  /** Sends a message, with a file behind it, and reads the answer. @throws DriverError */
  private async post(head: Buffer, file?: { path: string; size: number; control: SendControl; onSent: (bytes: number) => void }) {
    const ip = await addressOf(this.machine.host, this.allowed);
    if (ip === 'forbidden') throw new DriverError('forbidden');
    if (ip === 'unknown' || isIP(ip) === 0) throw new DriverError('unreachable');
    const bytes = await new Promise<Buffer>((resolve, reject) => {
      const to = request(
        {
          host: ip,
          port: this.machine.port,
          path: PATH,
          method: 'POST',
          timeout: file ? file.control.patienceMs : ASK_MS,
          headers: { 'content-type': 'application/ipp', 'content-length': head.length + (file?.size ?? 0) },
          ...(file ? { signal: file.control.signal } : {}),
        },
        (response) => {
          const chunks: Buffer[] = [];
          let size = 0;
          response.on('data', (chunk: Buffer) => {
            size += chunk.length;
            if (size > MOST_ANSWER_BYTES) response.destroy(new DriverError('flood'));
            else chunks.push(chunk);
          });
          response.on('end', () =>
            response.statusCode === 200 && response.headers['content-type']?.startsWith('application/ipp')
              ? resolve(Buffer.concat(chunks))
              : reject(new DriverError('web')),
          );
          response.on('error', (error) => reject(error instanceof DriverError ? error : new DriverError('lost')));
        },
      );
      to.on('timeout', () => to.destroy(new DriverError('silent')));
      to.on('error', (error: NodeJS.ErrnoException) => {
        if (error instanceof DriverError) reject(error);
        else if (error.name === 'AbortError') reject(new DriverError('aborted'));
        // what is not HTTP at all
        else if (error.code?.startsWith('HPE_')) reject(new DriverError('nonsense'));
        else
          reject(
            new DriverError(
              error.code === 'ECONNREFUSED' || error.code === 'EHOSTUNREACH' || error.code === 'ETIMEDOUT' ? 'unreachable' : 'lost',
            ),
          );
      });
      to.write(head);
      if (!file) return void to.end();
      let sent = 0;
      const stream = createReadStream(file.path);
      stream.on('data', (chunk) => {
        sent += chunk.length;
        file.onSent(sent);
        if (!to.write(chunk)) stream.pause();
      });
      to.on('drain', () => stream.resume());
      stream.on('end', () => to.end());
      stream.on('error', (error) => to.destroy(error));
    });
    return this.read(bytes);
  }

  private read(bytes: Buffer): z.infer<typeof answerSchema> {
    let said: unknown;
    try {
      said = ipp.parse(bytes);
    } catch {
      throw new DriverError('nonsense');
    }
    const answer = answerSchema.safeParse(said);
    if (!answer.success) throw new DriverError('nonsense');
    if (!answer.data.statusCode.startsWith('successful'))
      throw new DriverError(
        'says',
        0,
        answer.data.statusCode
          .replace(/^(client|server)-error-/, '')
          .replaceAll('-', ' ')
          .slice(0, 100),
      );
    return answer.data;
  }

  private async printer(): Promise<z.infer<typeof printerSchema>> {
    const wanted = [
      'media-supported',
      'media-ready',
      'media-default',
      'media-source-supported',
      'media-left-margin-supported',
      'document-format-supported',
    ];
    const { 'printer-attributes-tag': attributes } = await this.post(
      this.head('Get-Printer-Attributes', { 'requested-attributes': wanted }),
    );
    const known = printerSchema.safeParse(attributes ?? {});
    if (!known.success) throw new DriverError('nonsense');
    return known.data;
  }

  /** What it can print on. @throws DriverError */
  async papers(): Promise<Papers> {
    const said = await this.printer();
    const ready = new Set(said['media-ready']);
    const papers = [...new Set([...said['media-ready'], ...said['media-supported']])].flatMap((name): Paper[] => {
      const size = paperOf(name);
      return size ? [{ name, ...size, ready: ready.has(name) }] : [];
    });
    const margin = Math.min(...said['media-left-margin-supported'].filter((n) => n > 0)) / 100;
    return {
      papers,
      trays: said['media-source-supported'].filter((tray) => /^[\w.-]+$/.test(tray)),
      usual: said['media-default'][0] ?? null,
      marginMm: Number.isFinite(margin) ? Math.max(margin, 0) : USUAL_MARGIN_MM,
      text: `${this.machine.name} has ${papers.filter((paper) => paper.ready).length || papers.length} papers.`,
    };
  }

  async deliver(path: string, control: SendControl): Promise<Delivered> {
    const { size } = await stat(path);
    let done = 0;
    await Promise.race([control.mayGoOn(), wait(control.patienceMs)]);
    if (control.signal.aborted) throw new DriverError('aborted');
    const message = this.head('Print-Job', {
      'requesting-user-name': 'lorvek',
      'job-name': (control.title ?? 'Lorvek').slice(0, 120),
      'document-format': 'application/pdf',
    });
    // the media group goes before the tag that ends the attributes
    const head = control.paper ? Buffer.concat([message.subarray(0, -1), mediaOf(control.paper), message.subarray(-1)]) : message;
    const onSent = (bytes: number): void => {
      done = (SENDING * bytes) / Math.max(1, size);
      control.onDone(done);
    };
    try {
      const job = this.jobOf(await this.post(head, { path, size, control, onSent }));
      await this.await(job['job-id'], control, (share) => {
        done = share;
        control.onDone(share);
      });
    } catch (error) {
      // it may know more than was heard before: that all of it is printed
      throw error instanceof DriverError
        ? new DriverError(error.fault, Math.max(done, error.done), error.said)
        : new DriverError('lost', done);
    }
    return {};
  }

  private jobOf({ 'job-attributes-tag': attributes }: z.infer<typeof answerSchema>): Job {
    const job = jobSchema.safeParse(attributes ?? {});
    if (!job.success) throw new DriverError('nonsense');
    return job.data;
  }

  /** Cancels a job. @throws DriverError `goes-on` when the printer does not say that the job will not be printed */
  private async cancel(id: number): Promise<void> {
    const job = this.head('Cancel-Job', { 'job-id': id });
    try {
      await this.post(job);
    } catch (error) {
      if (!(error instanceof DriverError)) throw error;
      // it may have been cancelled at the printer meanwhile: that is no job to be cancelled
      const state = await this.post(this.head('Get-Job-Attributes', { 'job-id': id, 'requested-attributes': JOB_WANTED }))
        .then((answer) => this.jobOf(answer)['job-state'])
        .catch(() => undefined);
      if (state === 'canceled' || state === 'aborted') return;
      throw new DriverError('goes-on', state === 'completed' ? 1 : 0, error.said || 'it gave no answer');
    }
  }

  private async await(id: number, control: SendControl, onShare: (share: number) => void): Promise<void> {
    const ask = (): Promise<z.infer<typeof answerSchema>> =>
      this.post(this.head('Get-Job-Attributes', { 'job-id': id, 'requested-attributes': JOB_WANTED }));
    let quietSince = Date.now();
    let before = -1;
    for (;;) {
      if (control.signal.aborted) {
        await this.cancel(id);
        throw new DriverError('aborted');
      }
      const job = this.jobOf(await ask());
      const [of, printed] = [Number(job['job-impressions']), Number(job['job-impressions-completed'])];
      if (of > 0 && printed >= 0) onShare(SENDING + (1 - SENDING) * Math.min(1, printed / of));
      if (printed !== before) [before, quietSince] = [printed, Date.now()];
      if (job['job-state'] === 'completed') return;
      if (['aborted', 'canceled', 'processing-stopped'].includes(job['job-state'])) throw new DriverError('says', 0, reasonOf(job));
      if (Date.now() - quietSince > control.patienceMs) throw new DriverError('silent');
      await wait(LOOK_EVERY_MS);
    }
  }
}

function reasonOf(job: Job): string {
  const known = REASONS.find(([form]) => job['job-state-reasons'].some((reason) => form.test(reason)));
  return known?.[1] ?? (job['job-state'] === 'canceled' ? 'the job was cancelled at the printer' : 'the job was stopped');
}
