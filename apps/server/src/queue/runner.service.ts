/**
 * Works the queue: one run at a time a machine, oldest first. A run goes to a machine only by the move
 * waiting → working, so never twice by itself; what a stopped server left under way needs a person.
 */
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { InputError } from '@lorvek/core';
import type { Machine, RunState } from '@lorvek/model';
import { setTimeout as wait } from 'node:timers/promises';
import { CONFIG, type Config } from '../config.ts';
import { StorageError } from '../db/storage-fault.ts';
import type { RunRow } from '../db/entities.ts';
import { EventsService } from '../events/events.service.ts';
import { FilesService } from '../files/files.service.ts';
import { answersOf } from '../machines/connection.ts';
import { driverOf, type Delivered, type MachineDriver } from '../machines/driver.ts';
import { DriverError } from '../machines/driver-error.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { reasonOf, stoppedReason } from './run-reasons.ts';
import { RunsStore } from './runs.store.ts';

/** A run under way: its brake and its stop. */
class Active {
  readonly stop = new AbortController();
  private resume: (() => void) | undefined;
  private gate: Promise<void> = Promise.resolve();
  isPaused = false;
  /** What is written down of its cancelling; the machine gets nothing new before that. */
  ending: Promise<unknown> = Promise.resolve();

  pause(): void {
    if (this.isPaused) return;
    this.isPaused = true;
    this.gate = new Promise((resolve) => {
      this.resume = resolve;
    });
  }

  goOn(): void {
    this.isPaused = false;
    this.resume?.();
  }

  abort(): void {
    this.stop.abort();
    this.goOn();
  }

  mayGoOn = (): Promise<void> => this.gate;
}

const REPORT_EVERY_MS = 200;
const KEEP_EVERY_MS = 1000;
/** A machine may keep quiet for so long before somebody is called. */
const PATIENCE_MS = 30_000;
/** Of a machine that never answers. */
const UNSEEN = 'Everything was sent. This machine does not answer, so look whether it has done it.';
/** What failed by the disk or the database is tried again after this. */
const RETRY_MS = 2000;

@Injectable()
export class RunnerService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('Queue');
  private readonly busy = new Set<string>();
  /** Machines that were woken while their queue was being worked. */
  private readonly again = new Set<string>();
  private readonly active = new Map<string, Active>();
  private closing = false;

  constructor(
    private readonly store: RunsStore,
    private readonly machines: MachinesService,
    private readonly files: FilesService,
    @Inject(CONFIG) private readonly config: Config,
    events: EventsService,
  ) {
    events.onRestored(() => void this.takeUp().catch((error: unknown) => this.logger.error(error)));
  }

  onApplicationBootstrap(): Promise<void> {
    return this.takeUp();
  }

  /** Is a machine at work for this server? */
  get isAtWork(): boolean {
    return this.active.size > 0;
  }

  /** Takes up the queue as the database has it: what was under way needs somebody, what waits goes on. */
  private async takeUp(): Promise<void> {
    for (const row of await this.store.interrupted()) {
      await this.store.move(row.id, row.state, 'needs-you', { reason: stoppedReason(row) });
    }
    for (const machineId of await this.store.waitingMachines()) this.wake(machineId);
  }

  onModuleDestroy(): void {
    this.closing = true;
    for (const active of this.active.values()) active.abort();
  }

  /** Looks for work for a machine. */
  wake(machineId: string): void {
    if (this.closing) return;
    if (this.busy.has(machineId)) return void this.again.add(machineId);
    this.busy.add(machineId);
    void this.work(machineId)
      .catch((error: unknown) => {
        this.logger.error(error);
        setTimeout(() => this.wake(machineId), RETRY_MS).unref();
      })
      .finally(() => {
        this.busy.delete(machineId);
        if (this.again.delete(machineId)) this.wake(machineId);
      });
  }

  /** Keeps a machine from its queue while something else is done with it. @throws InputError `input.state` while it has a run */
  async borrow<T>(machineId: string, work: () => Promise<T>): Promise<T> {
    if (this.busy.has(machineId)) throw new InputError('state', 'This machine has a run now. Wait until it is done, or pause its queue.');
    this.busy.add(machineId);
    try {
      return await work();
    } finally {
      this.busy.delete(machineId);
      this.wake(machineId);
    }
  }

  /** Nothing more goes out from now on; then it is written down. */
  async pause(id: string): Promise<boolean> {
    const active = this.active.get(id);
    if (!active) return false;
    active.pause();
    const moved = await this.store.move(id, 'working', 'paused').catch((error: unknown) => {
      this.logger.error(error);
      return false;
    });
    if (!moved) active.goOn();
    return moved;
  }

  async resume(id: string): Promise<boolean> {
    const active = this.active.get(id);
    if (!active || !(await this.store.move(id, 'paused', 'working'))) return false;
    active.goOn();
    return true;
  }

  /**
   * Cancels a run; one under way is stopped first, then it is written down. What waits behind it is held then, for the
   * sheet on the machine is partly cut and only a person sees that it is taken away.
   */
  async cancel(id: string, from: RunState): Promise<boolean> {
    const active = this.active.get(id);
    if (!active) {
      const moved = await this.store.move(id, from, 'cancelled');
      if (moved) await this.letGoOf(id);
      return moved;
    }
    const ended = this.writeCancelled(id, from);
    active.ending = ended.catch((error: unknown) => this.logger.error(error));
    active.abort();
    return ended;
  }

  /** Cuts that waited for a print which will not come are cancelled with it. */
  private async letGoOf(printId: string): Promise<void> {
    for (const id of await this.store.followers(printId)) {
      const { state } = await this.store.row(id);
      if (state === 'held') await this.store.move(id, 'held', 'cancelled', { reason: 'Its print was cancelled.' });
    }
  }

  private async writeCancelled(id: string, from: RunState): Promise<boolean> {
    const { machineId, kind } = await this.store.row(id);
    const moved = await this.store.move(id, from, 'cancelled');
    if (moved && kind === 'print') await this.letGoOf(id);
    if (moved && kind === 'cut')
      await this.store.holdWaiting(machineId, 'The run before was cancelled while it was cut. Load fresh film, then release this one.');
    return moved;
  }

  private async work(machineId: string): Promise<void> {
    while (!this.closing) {
      const row = await this.store.nextWaiting(machineId);
      if (!row) return;
      if (await this.store.move(row.id, 'waiting', 'working', { progress: row.goOnAt ?? 0, reason: null })) await this.perform(row);
    }
  }

  private async perform(row: RunRow): Promise<void> {
    const active = new Active();
    this.active.set(row.id, active);
    try {
      const machine = await this.machines.get(row.machineId);
      await this.send(row, machine, active);
    } catch (error) {
      this.logger.error(error);
      const reason = 'The run could not be started: its machine or its file is no longer there.';
      await this.written(() => this.store.move(row.id, active.isPaused ? 'paused' : 'working', 'needs-you', { reason }));
    } finally {
      await active.ending;
      this.active.delete(row.id);
    }
  }

  /** What a machine did is written down as soon as the disk takes it; nothing else goes to that machine before. */
  private async written<T>(write: () => Promise<T>): Promise<T | undefined> {
    while (!this.closing) {
      try {
        return await write();
      } catch (error) {
        if (!(error instanceof StorageError)) throw error;
        this.logger.error(error);
        await wait(RETRY_MS);
      }
    }
    return undefined;
  }

  private async send(row: RunRow, machine: Machine, active: Active): Promise<void> {
    const files = await this.store.files(row.id);
    const file = row.kind === 'print' ? files.print : (files.corrected ?? files.cut);
    if (file === undefined) throw new Error(`The run ${row.id} has no file to send.`);
    const driver = driverOf(machine, this.config.machineHosts);
    // of a machine that never answers nobody knows how much of what was sent it has done
    const isSeen = answersOf(machine);
    const before = await driver.report();
    let done = row.goOnAt ?? 0;
    // what goes on is cut on the sheet that was begun
    const sheetBefore = (before?.sheet ?? 0) - (row.goOnAt === null ? 0 : 1);
    const watching = this.watch(row, driver, active, { sheetBefore, done: () => done, isSeen });
    try {
      const left = await driver.deliver(this.files.path(file), {
        signal: active.stop.signal,
        mayGoOn: active.mayGoOn,
        onDone: (share) => {
          done = share;
        },
        patienceMs: PATIENCE_MS,
        title: `${row.jobName} – ${row.title}`,
        paper: row.paper,
        origin: row.origin,
        from: row.goOnAt,
      });
      await this.finish(row, left);
    } catch (error) {
      if (!(error instanceof DriverError)) throw error;
      if (error.fault === 'aborted') return;
      // cancelled it is, once that is written down; what the machine does is another matter
      if (error.fault === 'goes-on') {
        await active.ending;
        await this.written(() => this.store.note(row.id, { reason: reasonOf(error, machine) }));
        return;
      }
      const state = active.isPaused ? 'paused' : 'working';
      await this.written(() =>
        this.store.move(row.id, state, 'needs-you', {
          reason: reasonOf(error, machine, row.goOnAt),
          // one that could not even begin to go on is as far as it was
          progress: isSeen ? Math.max(error.done, row.goOnAt ?? 0) : 0,
        }),
      );
    } finally {
      clearInterval(watching);
    }
  }

  /** Tells where the tool is; by the machine's report, else by what was sent. */
  private watch(
    row: RunRow,
    driver: MachineDriver,
    active: Active,
    { sheetBefore, done, isSeen }: { readonly sheetBefore: number; readonly done: () => number; readonly isSeen: boolean },
  ): ReturnType<typeof setInterval> {
    let asking = false;
    let keptAt = Date.now();
    return setInterval(() => {
      if (asking) return;
      asking = true;
      void (async () => {
        const report = row.kind === 'cut' ? await driver.report() : undefined;
        if (!this.active.has(row.id)) return;
        const isOurs = report !== undefined && report.sheet > sheetBefore;
        const progress = Math.min(0.99, done());
        const carriage = isOurs ? { x: report.x, y: report.y, down: report.down } : null;
        await this.store.place(row, active.isPaused ? 'paused' : 'working', progress, carriage);
        if (isSeen && Date.now() - keptAt > KEEP_EVERY_MS) {
          keptAt = Date.now();
          await this.store.keepProgress(row.id, progress);
        }
      })()
        .catch((error: unknown) => this.logger.error(error))
        .finally(() => {
          asking = false;
        });
    }, REPORT_EVERY_MS);
  }

  private async finish(row: RunRow, { picture, offMm, inkMl, isUnseen }: Delivered): Promise<void> {
    const pictureFile = picture ? await this.keep(picture) : null;
    await this.written(() =>
      this.store.finish(row, { pictureFile, offMm: offMm ?? null, inkMl: inkMl ?? null, reason: isUnseen ? UNSEEN : null }),
    );
    if (row.kind === 'print') for (const id of await this.store.followers(row.id)) this.wake((await this.store.row(id)).machineId);
  }

  /** A picture that cannot be kept does not undo what was cut. */
  private async keep(picture: Buffer): Promise<string | null> {
    try {
      return await this.files.put(picture);
    } catch (error) {
      this.logger.error(error);
      return null;
    }
  }
}
