/**
 * Talks to a printer that takes PDF on a socket: the file is poured as fast as the machine takes it, the end of the file
 * is the end of what is sent. The machine tells how far it is (`P 0.25`), that it is done (`DONE`), or what is wrong
 * (`FAULT words`).
 */
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import type { Machine } from '@lorvek/model';
import type { Delivered, MachineDriver, SendControl } from './driver.ts';
import { DriverError } from './driver-error.ts';
import { MachineLine } from './machine-line.ts';
import { readPicture, readReport, type ReportedState } from './machine-report.ts';

const TOLD = /^(P) ([01](?:\.\d{1,6})?)$|^(DONE)$|^(FAULT) ([\x20-\x7e]{1,200})$/;
const READY = /^READY .{0,80}$/;
const ASK_MS = 1500;
/** Of the way, what the sending of the file counts for; the rest is printing. */
const SENDING = 0.2;
const CHUNK = 64 * 1024;

export class PrinterDriver implements MachineDriver {
  constructor(
    private readonly machine: Machine,
    private readonly allowed: readonly string[],
  ) {}

  report(): Promise<ReportedState | undefined> {
    return readReport(this.machine, this.allowed);
  }

  /** It greets whoever opens a line to it. */
  async ask(): Promise<boolean> {
    try {
      const line = await MachineLine.open(this.machine, this.allowed);
      try {
        await line.answer(READY, ASK_MS, AbortSignal.timeout(2 * ASK_MS));
        return true;
      } finally {
        await line.close();
      }
    } catch (error) {
      if (error instanceof DriverError) return false;
      throw error;
    }
  }

  async deliver(path: string, control: SendControl): Promise<Delivered> {
    const line = await MachineLine.open(this.machine, this.allowed);
    const done = { share: 0 };
    try {
      await line.answer(READY, control.patienceMs, control.signal);
      await this.pour(line, path, control, done);
      line.finish();
      await this.await(line, control, done);
    } catch (error) {
      if (error instanceof DriverError) throw new DriverError(error.fault, done.share, error.said);
      throw new DriverError('lost', done.share);
    } finally {
      await line.close();
    }
    const report = await this.report();
    if (!report) return {};
    return { picture: await readPicture(this.machine, report.sheet, this.allowed), inkMl: report.inkMl ?? undefined };
  }

  private async pour(line: MachineLine, path: string, control: SendControl, done: { share: number }): Promise<void> {
    const { size } = await stat(path);
    let sent = 0;
    for await (const chunk of createReadStream(path, { highWaterMark: CHUNK })) {
      await Promise.race([control.mayGoOn(), line.lost]);
      if (control.signal.aborted) throw new DriverError('aborted');
      await line.pour(chunk as Buffer, control.signal);
      sent += (chunk as Buffer).length;
      done.share = (SENDING * sent) / Math.max(1, size);
      control.onDone(done.share);
    }
  }

  private async await(line: MachineLine, control: SendControl, done: { share: number }): Promise<void> {
    for (;;) {
      const [, tells, share, isDone, , fault] = await line.answer(TOLD, control.patienceMs, control.signal);
      if (isDone) return;
      if (fault !== undefined) throw new DriverError('says', done.share, fault);
      if (tells) done.share = SENDING + (1 - SENDING) * Math.min(1, Number(share));
      control.onDone(done.share);
    }
  }
}
