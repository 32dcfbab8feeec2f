/** A line to a machine, written without waiting for ever, its answers in lines. */
import type { Duplex } from 'node:stream';
import { setTimeout as wait } from 'node:timers/promises';
import { closeLine, openLine, type Connected } from './connection.ts';
import { DriverError } from './driver-error.ts';

/** Of what nobody asked for, a machine may say this much: greetings. */
const MOST_UNASKED = 8 * 1024;
const LONGEST_LINE = 1024;
/** No cutter says this. */
const IS_WEB = /^HTTP\/\d|<html|<!doctype/i;

export class MachineLine {
  private buffer = '';
  private unasked = '';
  private readonly lines: string[] = [];
  private failure: DriverError | undefined;
  private wake: () => void = () => undefined;
  private giveUp: (error: DriverError) => void = () => undefined;
  /** Rejects when the line is gone, for whoever waits for something else meanwhile. */
  readonly lost = new Promise<never>((_, reject) => {
    this.giveUp = reject;
  });

  private constructor(private readonly socket: Duplex) {
    // asked for only while something else is waited for
    this.lost.catch(() => undefined);
    const gone = (): void => this.fail(new DriverError('lost'));
    socket.on('error', gone);
    socket.on('close', gone);
    socket.on('data', (bytes: Buffer) => this.take(bytes.toString('latin1')));
  }

  /** @throws DriverError `unreachable`, `forbidden` */
  static async open(machine: Connected, allowed: readonly string[]): Promise<MachineLine> {
    return new MachineLine(await openLine(machine, allowed));
  }

  private fail(error: DriverError): void {
    this.failure ??= error;
    this.giveUp(error);
    this.wake();
  }

  private take(text: string): void {
    this.buffer += text;
    for (let end = this.buffer.search(/[\r\n]/); end >= 0; end = this.buffer.search(/[\r\n]/)) {
      const line = this.buffer.slice(0, end).trim();
      this.buffer = this.buffer.slice(end + 1);
      if (line !== '') this.lines.push(line);
    }
    if (this.buffer.length > LONGEST_LINE || this.lines.length > MOST_UNASKED) this.fail(new DriverError('flood'));
    this.wake();
  }

  /** Puts bytes into the line and waits while it is full. @throws DriverError `lost`; `aborted` when nobody wants it any more */
  async pour(bytes: Uint8Array, signal: AbortSignal): Promise<void> {
    if (this.failure) throw this.failure;
    if (this.socket.write(bytes)) return;
    await this.orGivenUp(new Promise<void>((resolve) => this.socket.once('drain', () => resolve())), signal);
  }

  /** A machine that takes nothing more keeps nobody waiting who has given up. */
  private async orGivenUp(work: Promise<void>, signal: AbortSignal): Promise<void> {
    const over = new AbortController();
    const given = new Promise<never>((_, reject) => {
      const giveUp = (): void => reject(new DriverError('aborted'));
      if (signal.aborted) giveUp();
      else signal.addEventListener('abort', giveUp, { once: true, signal: over.signal });
    });
    try {
      await Promise.race([work, this.lost, given]);
    } finally {
      over.abort();
    }
  }

  /** Waits until the line has taken everything. @throws DriverError as `pour` */
  async flush(signal: AbortSignal): Promise<void> {
    if (this.failure) throw this.failure;
    await this.orGivenUp(new Promise<void>((resolve) => this.socket.write(Buffer.alloc(0), () => resolve())), signal);
  }

  /** Nothing more is sent; answers may still come. */
  finish(): void {
    this.socket.end();
  }

  /** Puts bytes into the line. A machine that takes nothing is told by its missing answers, so nothing waits here. */
  send(text: string): void {
    if (!this.socket.destroyed) this.socket.write(Buffer.from(text, 'latin1'));
  }

  /**
   * The next line that is an answer of the expected form. Others are kept aside: a greeting is none.
   * @throws DriverError `lost`, `flood`; after `patienceMs` `silent`, or what the line said instead: `web`, `nonsense`
   */
  async answer(form: RegExp, patienceMs: number, signal: AbortSignal): Promise<RegExpExecArray> {
    const late = new AbortController();
    const timer = wait(patienceMs, 'late' as const, { signal: late.signal }).catch(() => 'late' as const);
    try {
      for (;;) {
        if (signal.aborted) throw new DriverError('aborted');
        for (let line = this.lines.shift(); line !== undefined; line = this.lines.shift()) {
          const found = form.exec(line);
          if (found) return found;
          this.unasked += `${line}\n`;
          if (IS_WEB.test(line)) throw new DriverError('web');
          if (this.unasked.length > MOST_UNASKED) throw new DriverError('flood');
        }
        if (this.failure) throw this.failure;
        const next = new Promise<'more'>((resolve) => {
          this.wake = () => resolve('more');
          signal.addEventListener('abort', () => resolve('more'), { once: true, signal: late.signal });
        });
        if ((await Promise.race([next, timer])) === 'late') throw this.missing();
      }
    } finally {
      late.abort();
    }
  }

  private missing(): DriverError {
    const said = this.unasked + this.buffer;
    return new DriverError(said.trim() === '' ? 'silent' : 'nonsense');
  }

  /** Sends something last, if the line takes it at once, and closes. */
  async close(last?: string): Promise<void> {
    if (last !== undefined && !this.socket.destroyed) {
      const sent = new Promise<void>((resolve) => this.socket.write(Buffer.from(last, 'latin1'), () => resolve()));
      await Promise.race([sent, wait(300)]);
    }
    await closeLine(this.socket);
  }
}
