/** From a drawing to cut files and runs: the sheets are prepared by the compute pool from the drawing on the server. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { InputError, StaleError } from '@lorvek/core';
import {
  ANY_ROLL,
  filmOf,
  filmsOf,
  leavesInScope,
  sendSchema,
  sheetOf,
  type Drawing,
  type Material,
  type Run,
  type SendOrder,
  type ToolSetup,
} from '@lorvek/model';
import { ComputeService } from '../compute/compute.service.ts';
import type { PlanAnswer } from '../compute/compute-ops.ts';
import type { RunRow } from '../db/entities.ts';
import { FilesService } from '../files/files.service.ts';
import { DocumentsService } from '../jobs/documents.service.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { StockService } from '../stock/stock.module.ts';
import { RunnerService } from './runner.service.ts';
import { RunsStore } from './runs.store.ts';

interface Planned {
  film: string;
  rollId: string | null;
  answer: PlanAnswer;
}

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

  private async material(drawing: Drawing, film: string): Promise<{ rollId: string | null; material: Material }> {
    const { rollId } = sheetOf(drawing, film);
    if (rollId === null) return { rollId, material: ANY_ROLL };
    const roll = await this.stock.roll(rollId);
    return { rollId, material: { widthMm: roll.widthMm, lengthMm: roll.lengthLeftMm } };
  }

  private async plan(drawing: Drawing, film: string, setup: ToolSetup): Promise<Planned> {
    if (!filmOf(drawing, film)) throw new InputError('missing', 'This film is not in the job.', { field: 'films' });
    const { rollId, material } = await this.material(drawing, film);
    return { film, rollId, answer: await this.compute.run({ op: 'plan', drawing, film, material, setup }) };
  }

  /** One film's sheet as a file. */
  async file(jobId: string, film: string, machineId: string, setupId: string, kind: 'plt' | 'svg'): Promise<Uint8Array> {
    const { drawing } = await this.documents.open(jobId);
    const { answer } = await this.plan(drawing, film, await this.setup(machineId, setupId));
    if (kind === 'svg') return answer.svg;
    this.refuseStops([{ film, rollId: null, answer }], drawing);
    return answer.hpgl;
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
    const inScope = leavesInScope(drawing);
    const films = filmsOf(drawing)
      .map((film) => film.id)
      .filter((id) => order.films.includes(id) && inScope.has(id));
    if (films.length === 0) throw new InputError('findings', 'None of these films has anything to cut.', { field: 'films' });
    const plans: Planned[] = [];
    for (const film of films) plans.push(await this.plan(drawing, film, setup));
    this.refuseStops(plans, drawing);
    const now = new Date().toISOString();
    const rows: RunRow[] = [];
    for (const { film, rollId, answer } of plans) {
      const record = filmOf(drawing, film);
      rows.push({
        id: `run-${randomUUID().slice(0, 13)}`,
        orderId: order.orderId,
        jobId,
        jobName: job.name,
        title: record ? `${record.series} ${record.name}` : film,
        filmHex: record?.hex ?? '#000000',
        machineId: machine.id,
        machineName: machine.name,
        rollId,
        state: order.hold ? 'held' : 'waiting',
        progress: 0,
        reason: null,
        lengthMm: answer.lengthMm,
        widthMm: answer.widthMm,
        copies: sheetOf(drawing, film).copies,
        cutMm: answer.cutMm,
        estimatedS: answer.seconds,
        cutFile: await this.files.put(answer.hpgl),
        sheetFile: await this.files.put(Buffer.from(answer.picture)),
        pictureFile: null,
        createdAt: now,
        endedAt: null,
      });
    }
    const taken = await this.store.add(order.orderId, rows);
    this.runner.wake(machine.id);
    return taken.map((row) => this.store.toRun(row));
  }

  private refuseStops(plans: readonly Planned[], drawing: Drawing): void {
    for (const { film, answer } of plans) {
      const stop = answer.findings.find((finding) => finding.level === 'stop');
      const name = filmOf(drawing, film)?.name ?? film;
      if (stop) throw new InputError('findings', `${name}: ${stop.text}`, { findings: answer.findings, film });
    }
  }

  /** The same cut once more, as a new run. */
  async repeat(runId: string): Promise<Run> {
    const row = await this.store.row(runId);
    const again: RunRow = {
      ...row,
      id: `run-${randomUUID().slice(0, 13)}`,
      orderId: `repeat-${randomUUID()}`,
      state: 'waiting',
      progress: 0,
      reason: null,
      pictureFile: null,
      createdAt: new Date().toISOString(),
      endedAt: null,
    };
    await this.store.add(again.orderId, [again]);
    this.runner.wake(row.machineId);
    return this.store.toRun(again);
  }
}
