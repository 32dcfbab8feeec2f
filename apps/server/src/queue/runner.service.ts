/**
 * Works the queue: one run at a time a machine, oldest first. A run goes to a machine only by the move
 * waiting → working, so never twice by itself; what a stopped server left under way needs a person.
 */
import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import type { Machine } from '@lorvek/model';
import type { RunRow } from '../db/entities.ts';
import { FilesService } from '../files/files.service.ts';
import { DriverError, deliverCut } from '../machines/cutter.driver.ts';
import { readPicture, readReport } from '../machines/machine-report.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { StockService } from '../stock/stock.module.ts';
import { RunsStore } from './runs.store.ts';

/** A run under way: its brake and its stop. */
class Active {
  readonly stop = new AbortController();
  private resume: (() => void) | undefined;
  private gate: Promise<void> = Promise.resolve();
  isPaused = false;

  pause(): void {
    this.isPaused = true;
    this.gate = new Promise((resolve) => {
      this.resume = resolve;
    });
  }

  goOn(): void {
    this.isPaused = false;
    this.resume?.();
  }

  mayGoOn = (): Promise<void> => this.gate;
}

const REPORT_EVERY_MS = 200;
const LEAST_PATIENCE_MS = 60_000;

const percent = (part: number): string => `${Math.round(part * 100)} %`;

function reasonOf(error: DriverError, machine: Machine, total: number): string {
  const where = `${machine.name} (${machine.host}:${machine.port})`;
  switch (error.fault) {
    case 'unreachable':
      return `${where} does not answer. Switch it on and check its cable, then retry; nothing has been cut.`;
    case 'lost':
      return `The line to ${where} broke after ${percent(error.sent / total)} of the file. The sheet may be partly cut: load fresh film, then retry cuts it from the beginning.`;
    default:
      return `${where} took the whole file but does not say that it is done. Look at the sheet: cancel the run if it is cut, retry on fresh film if not.`;
  }
}

@Injectable()
export class RunnerService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('Queue');
  private readonly busy = new Set<string>();
  private readonly active = new Map<string, Active>();
  private closing = false;

  constructor(
    private readonly store: RunsStore,
    private readonly machines: MachinesService,
    private readonly files: FilesService,
    private readonly stock: StockService,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    for (const row of await this.store.interrupted()) {
      const reason =
        'The server stopped while this run was under way. Look at the machine: if the sheet is spoilt, load fresh film and retry; if it was cut, cancel the run.';
      await this.store.move(row.id, row.state, 'needs-you', { reason });
    }
    for (const machineId of await this.store.waitingMachines()) this.wake(machineId);
  }

  onModuleDestroy(): void {
    this.closing = true;
    for (const active of this.active.values()) active.stop.abort();
  }

  /** Looks for work for a machine. */
  wake(machineId: string): void {
    if (this.busy.has(machineId) || this.closing) return;
    this.busy.add(machineId);
    void this.work(machineId)
      .catch((error: unknown) => this.logger.error(error))
      .finally(() => {
        this.busy.delete(machineId);
      });
  }

  async pause(id: string): Promise<boolean> {
    const active = this.active.get(id);
    if (!active || !(await this.store.move(id, 'working', 'paused'))) return false;
    active.pause();
    return true;
  }

  async resume(id: string): Promise<boolean> {
    const active = this.active.get(id);
    if (!active || !(await this.store.move(id, 'paused', 'working'))) return false;
    active.goOn();
    return true;
  }

  /** Stops a run under way; its state is moved by the caller. */
  abort(id: string): void {
    this.active.get(id)?.stop.abort();
    this.active.get(id)?.goOn();
  }

  private async work(machineId: string): Promise<void> {
    while (!this.closing) {
      const row = await this.store.nextWaiting(machineId);
      if (!row) return;
      if (await this.store.move(row.id, 'waiting', 'working', { progress: 0, reason: null })) await this.cut(row);
    }
  }

  private async cut(row: RunRow): Promise<void> {
    const active = new Active();
    this.active.set(row.id, active);
    try {
      const machine = await this.machines.get(row.machineId);
      await this.send(row, machine, active);
    } catch (error) {
      this.logger.error(error);
      await this.store.move(row.id, 'working', 'needs-you', {
        reason: 'The run could not be started: its machine or its file is no longer there.',
      });
    } finally {
      this.active.delete(row.id);
    }
  }

  private async send(row: RunRow, machine: Machine, active: Active): Promise<void> {
    const bytes = await this.files.get(row.cutFile);
    const before = await readReport(machine);
    let sent = 0;
    const watching = this.watch(row, machine, active, before?.sheet ?? 0, () => sent);
    try {
      await deliverCut(machine, bytes, {
        signal: active.stop.signal,
        mayGoOn: active.mayGoOn,
        onSent: (done, total) => {
          sent = done / total;
        },
        patienceMs: Math.max(LEAST_PATIENCE_MS, 3000 * row.estimatedS),
      });
      await this.finish(row, machine);
    } catch (error) {
      if (!(error instanceof DriverError)) throw error;
      if (error.fault === 'aborted') return;
      const state = active.isPaused ? 'paused' : 'working';
      await this.store.move(row.id, state, 'needs-you', { reason: reasonOf(error, machine, bytes.length), progress: sent });
    } finally {
      clearInterval(watching);
    }
  }

  /** Tells where the tool is; by the machine's report, else by what was sent. */
  private watch(row: RunRow, machine: Machine, active: Active, sheetBefore: number, sent: () => number): ReturnType<typeof setInterval> {
    let asking = false;
    return setInterval(() => {
      if (asking) return;
      asking = true;
      void (async () => {
        const report = await readReport(machine);
        if (!this.active.has(row.id)) return;
        const isOurs = report !== undefined && report.sheet > sheetBefore;
        const progress = isOurs && row.cutMm > 0 ? Math.min(0.99, report.cutMm / row.cutMm) : Math.min(0.99, report ? 0 : sent());
        const carriage = isOurs ? { x: report.x, y: report.y, down: report.down } : null;
        await this.store.place(row, active.isPaused ? 'paused' : 'working', progress, carriage);
      })().finally(() => {
        asking = false;
      });
    }, REPORT_EVERY_MS);
  }

  private async finish(row: RunRow, machine: Machine): Promise<void> {
    const report = await readReport(machine);
    const picture = report ? await readPicture(machine, report.sheet) : undefined;
    const pictureFile = picture ? await this.files.put(picture) : null;
    this.active.delete(row.id);
    const wasPaused = !(await this.store.move(row.id, 'working', 'done', { progress: 1, pictureFile, reason: null }));
    if (wasPaused && (await this.store.move(row.id, 'paused', 'working')))
      await this.store.move(row.id, 'working', 'done', { progress: 1, pictureFile, reason: null });
    if (row.rollId) await this.stock.useUp(row.rollId, row.lengthMm);
  }
}
