/** From a drawing to cut files and runs: the sheets are prepared by the compute pool from the drawing on the server. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError, StaleError } from '@lorvek/core';
import { filmOf, sendSchema, sheetOf, type Drawing, type Run, type SendOrder, type ToolSetup } from '@lorvek/model';
import { ComputeService } from '../compute/compute.service.ts';
import type { PlannedSheet } from '../compute/compute-ops.ts';
import type { RunRow } from '../db/entities.ts';
import { FilesService } from '../files/files.service.ts';
import { DocumentsService } from '../jobs/documents.service.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { StockService } from '../stock/stock.module.ts';
import { RunnerService } from './runner.service.ts';
import { RunsStore, type NewRun } from './runs.store.ts';

@Injectable()
export class SendService {
  constructor(
    private readonly jobs: JobsService,
    private readonly documents: DocumentsService,
    private readonly machines: MachinesService,
    private readonly stock: StockService,
    private readonly compute: ComputeService,
    private readonly files: FilesService,
    private readonly store: RunsStore,
    private readonly runner: RunnerService,
  ) {}

  private async setup(machineId: string, setupId: string): Promise<ToolSetup> {
    const machine = await this.machines.get(machineId);
    const setup = machine.setups.find((entry) => entry.id === setupId);
    if (!setup) throw new InputError('missing', `${machine.name} has no such tool setup.`, { field: 'setupId' });
    return setup;
  }

  /** The sheets of these films as the page shows them. @throws InputError `input.findings` for what must not be cut */
  private async plan(drawing: Drawing, films: readonly string[], setup: ToolSetup): Promise<readonly PlannedSheet[]> {
    const { sheets, stops, findings } = await this.compute.run({ op: 'plan', drawing, films, stock: await this.stock.list(), setup });
    const [stop, ...others] = stops;
    if (stop) {
      const more = others.length > 0 ? ` And ${others.length} more.` : '';
      throw new InputError('findings', `${stop.text}${more}`, { findings, field: 'films' });
    }
    if (sheets.length === 0) throw new InputError('findings', 'None of these films has anything to cut.', { field: 'films' });
    return sheets;
  }

  /** One film's sheet as a file. */
  async file(jobId: string, film: string, machineId: string, setupId: string, kind: 'plt' | 'svg'): Promise<Uint8Array> {
    const { drawing } = await this.documents.open(jobId);
    const [sheet] = await this.plan(drawing, [film], await this.setup(machineId, setupId));
    return (kind === 'svg' ? sheet?.svg : sheet?.hpgl) ?? new Uint8Array();
  }

  /**
   * Makes runs. The same order twice makes them once.
   * @throws StaleError when the drawing is not at the order's revision; InputError `input.findings` for what must not be sent
   */
  async send(jobId: string, input: SendOrder): Promise<Run[]> {
    const order = sendSchema.parse(input);
    const known = await this.store.ofOrder(order.orderId);
    if (known.length > 0) return known;
    const job = await this.jobs.get(jobId);
    const { revision, drawing } = await this.documents.open(jobId);
    if (revision !== order.revision)
      throw new StaleError('The drawing has changed since it was checked. Look at it again before sending.', { revision, missed: [] });
    const machine = await this.machines.get(order.machineId);
    const setup = await this.setup(order.machineId, order.setupId);
    const now = new Date().toISOString();
    const rows: NewRun[] = [];
    for (const sheet of await this.plan(drawing, order.films, setup)) {
      const record = filmOf(drawing, sheet.film);
      rows.push({
        id: `run-${randomUUID().slice(0, 13)}`,
        orderId: order.orderId,
        jobId,
        jobName: job.name,
        title: record ? `${record.series} ${record.name}` : sheet.film,
        filmHex: record?.hex ?? '#000000',
        machineId: machine.id,
        machineName: machine.name,
        rollId: sheet.rollId,
        state: order.hold ? 'held' : 'waiting',
        progress: 0,
        reason: null,
        lengthMm: sheet.lengthMm,
        widthMm: sheet.widthMm,
        copies: sheetOf(drawing, sheet.film).copies,
        cutMm: sheet.cutMm,
        estimatedS: sheet.seconds,
        cutFile: await this.files.put(sheet.hpgl),
        sheetFile: await this.files.put(Buffer.from(sheet.picture)),
        pictureFile: null,
        createdAt: now,
        endedAt: null,
      });
    }
    const taken = await this.store.add(order.orderId, rows);
    this.runner.wake(machine.id);
    return taken.map((row) => this.store.toRun(row));
  }

  /** The same cut once more, as a new run. */
  async repeat(runId: string): Promise<Run> {
    const { place: _place, ...row } = await this.store.row(runId);
    const orderId = `repeat-${randomUUID()}`;
    const again: NewRun = {
      ...row,
      id: `run-${randomUUID().slice(0, 13)}`,
      orderId,
      state: 'waiting',
      progress: 0,
      reason: null,
      pictureFile: null,
      createdAt: new Date().toISOString(),
      endedAt: null,
    };
    const [taken] = await this.store.add(orderId, [again]);
    this.runner.wake(row.machineId);
    return this.store.toRun(taken as RunRow);
  }
}
