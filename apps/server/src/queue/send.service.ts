/** From a drawing to files and runs: the sheets are planned by the compute pool from the drawing on the server. */
import { Injectable } from '@nestjs/common';
import { randomUUID } from 'node:crypto';
import { CancelledError, InputError, StaleError } from '@lorvek/core';
import type { PaperSize } from '@lorvek/core/print';
import {
  layUpOf,
  layerOf,
  printsOf,
  sendSchema,
  type Drawing,
  type Job,
  type Machine,
  type PaperChoice,
  type Run,
  type SendOrder,
  type SheetPlates,
  type SoftLook,
} from '@lorvek/model';
import { misfitsOf } from '@lorvek/model/machine-fit';
import { cuttingOf, type Cutting } from '@lorvek/model/cut-file';
import type { PlannedSheet } from '@lorvek/computations';
import type { Watch } from '../compute/compute.service.ts';
import type { RunRow } from '../db/entities.ts';
import { FilesService } from '../files/files.service.ts';
import { DocumentsService } from '../jobs/documents.service.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { MachinesService } from '../machines/machines.module.ts';
import { SheetFilesService, type SheetAsked } from './sheet-files.service.ts';
import { RunnerService } from './runner.service.ts';
import { RunsStore, type NewRun } from './runs.store.ts';
import { SuppliesService } from '../stock/supplies.service.ts';

/** A printer lays down so much of a roll in a second, mm; only for the time that Send says. */
const PRINT_MM_PER_S = 12;

export type CutterChoice = NonNullable<SendOrder['cutter']>;

interface Order {
  readonly orderId: string;
  readonly job: Job;
  readonly drawing: Drawing;
  readonly cutter: { readonly machine: Machine; readonly cutting: Cutting } | null;
  readonly printer: { readonly machine: Machine; readonly paper: PaperChoice | null; readonly size: PaperSize | undefined } | null;
  readonly hold: boolean;
}

@Injectable()
export class SendService {
  /** Orders whose files are being made. */
  private readonly underWay = new Map<string, AbortController>();

  constructor(
    private readonly jobs: JobsService,
    private readonly documents: DocumentsService,
    private readonly machines: MachinesService,
    private readonly files: FilesService,
    private readonly sheets: SheetFilesService,
    private readonly store: RunsStore,
    private readonly runner: RunnerService,
    private readonly supplies: SuppliesService,
  ) {}

  private async cutter({ machineId, setupId, cutting }: CutterChoice): Promise<NonNullable<Order['cutter']>> {
    const machine = await this.machines.get(machineId);
    if (printsOf(machine)) throw new InputError('machine', `${machine.name} prints and does not cut.`, { field: 'cutter' });
    const setup = machine.setups.find((entry) => entry.id === setupId);
    if (!setup) throw new InputError('missing', `${machine.name} has no such tool setup.`, { field: 'setupId' });
    const gone = Object.values(cutting?.kinds ?? {}).find((id) => !machine.setups.some((entry) => entry.id === id));
    if (gone !== undefined)
      throw new InputError('missing', `${machine.name} has no tool setup “${gone}”. Choose another one for that kind of line.`, {
        field: 'cutting',
      });
    return { machine, cutting: cuttingOf(machine.setups, setup, cutting) };
  }

  /** @throws InputError `input.machine`, `input.paper` for one that the printer does not have */
  private async printer({ machineId, paper }: NonNullable<SendOrder['printer']>): Promise<NonNullable<Order['printer']>> {
    const machine = await this.machines.get(machineId);
    if (!printsOf(machine)) throw new InputError('machine', `${machine.name} cuts and does not print.`, { field: 'printer' });
    if (machine.kind !== 'desk-printer') return { machine, paper: null, size: undefined };
    const { papers, usual, marginMm, text } = await this.machines.papers(machineId);
    const size =
      papers.find(({ name }) => name === (paper?.name ?? usual)) ?? (paper ? undefined : (papers.find(({ ready }) => ready) ?? papers[0]));
    if (!size) throw new InputError('paper', paper ? `${machine.name} has no paper “${paper.name}”.` : text, { field: 'printer' });
    return {
      machine,
      paper: { name: size.name, tray: paper?.tray ?? null },
      size: { widthMm: size.widthMm, heightMm: size.heightMm, marginMm },
    };
  }

  /** One layer's sheet as a file to cut. @throws InputError when nothing of it is cut */
  async file(jobId: string, layer: string, number: number, choice: CutterChoice, kind: 'plt' | 'svg'): Promise<Uint8Array> {
    const { drawing } = await this.documents.open(jobId);
    const all = await this.sheets.plan(jobId, drawing, [layer], (await this.cutter(choice)).cutting);
    const sheet = all.find((one) => one.number === number);
    if (!sheet) throw new InputError('missing', 'There is no such sheet any more.', { field: 'sheet' });
    if (!sheet.cut) throw new InputError('findings', 'Nothing of this sheet is cut.', { field: 'layer' });
    return kind === 'svg' ? sheet.svg : sheet.cut.hpgl;
  }

  /** What a sheet's file is called: job, film or medium. */
  async nameOf(jobId: string, layerId: string, number: number): Promise<string> {
    const { drawing } = await this.documents.open(jobId);
    const layer = layerOf(drawing, layerId);
    return `${(await this.jobs.get(jobId)).name} – ${layer ? `${layer.series} ${layer.name}` : layerId}${number > 0 ? ` – sheet ${number + 1}` : ''}`;
  }

  /** The sheet of a print layer. @param printerId whose colours it has; absent: the shipped profile's */
  private async asked(jobId: string, layer: string, number: number, printerId: string | undefined): Promise<SheetAsked> {
    const { drawing } = await this.documents.open(jobId);
    return { jobId, drawing, layer, number, printer: printerId === undefined ? null : await this.machines.get(printerId) };
  }

  /** One print layer's sheet as a file to print: the name it is kept under. */
  async pdf(jobId: string, layer: string, number: number, printerId: string | undefined): Promise<string> {
    const sheet = await this.asked(jobId, layer, number, printerId);
    await this.sheets.plan(jobId, sheet.drawing, [layer], null);
    return this.sheets.print(sheet);
  }

  /** The plates of a printed sheet, to be looked at. */
  async plates(jobId: string, layer: string, number: number, printerId: string | undefined): Promise<SheetPlates> {
    return this.sheets.plates(await this.asked(jobId, layer, number, printerId));
  }

  /** How it will look when it is printed. */
  async soft(jobId: string, layer: string, number: number, printerId: string | undefined): Promise<SoftLook> {
    return this.sheets.soft(await this.asked(jobId, layer, number, printerId));
  }

  /**
   * Makes runs: a print for each printed sheet, a cut for each that is cut; the cut of a printed sheet waits for its print.
   * The same order twice makes them once.
   * Nothing is made of an order that is stopped before it is taken.
   * @throws StaleError when the drawing is not at the order's revision; InputError `input.findings` for what must not be sent
   */
  async send(jobId: string, input: SendOrder): Promise<Run[]> {
    const { orderId } = input;
    const stop = new AbortController();
    this.underWay.set(orderId, stop);
    try {
      return await this.take(jobId, input, { signal: stop.signal, onShare: (share) => this.store.tellSending(orderId, share) });
    } finally {
      this.underWay.delete(orderId);
    }
  }

  /** Stops an order whose files are being made. @returns false when there is none, or it is taken already */
  stop(orderId: string): boolean {
    const stop = this.underWay.get(orderId);
    stop?.abort();
    return stop !== undefined;
  }

  private async take(jobId: string, input: SendOrder, { signal, onShare }: Watch): Promise<Run[]> {
    const { orderId, revision: wanted, layers, cutter, printer, hold } = sendSchema.parse(input);
    const known = await this.store.ofOrder(orderId);
    if (known.length > 0) return known;
    const job = await this.jobs.get(jobId);
    const { revision, drawing } = await this.documents.open(jobId);
    if (revision !== wanted)
      throw new StaleError('The drawing has changed since it was checked. Look at it again before sending.', { revision, missed: [] });
    const order: Order = {
      orderId,
      job,
      drawing,
      cutter: cutter && (await this.cutter(cutter)),
      printer: printer && (await this.printer(printer)),
      hold,
    };
    const runs: NewRun[] = [];
    const planned = await this.sheets.plan(jobId, drawing, layers, order.cutter?.cutting ?? null);
    for (const [i, sheet] of planned.entries())
      runs.push(...(await this.runsOf(sheet, order, { signal, onShare: (share) => onShare?.((i + share) / planned.length) })));
    if (runs.length === 0)
      throw new InputError('findings', 'Nothing of these layers goes to the machines that were chosen.', { field: 'layers' });
    if (signal?.aborted) throw new CancelledError();
    const taken = await this.store.add(orderId, runs);
    for (const machineId of new Set(taken.map((row) => row.machineId))) this.runner.wake(machineId);
    return this.store.ofOrder(orderId);
  }

  private async runsOf(sheet: PlannedSheet, order: Order, watch: Watch): Promise<NewRun[]> {
    const sheetFile = await this.files.put(Buffer.from(sheet.picture));
    const print = sheet.isPrinted && order.printer ? await this.printRun(sheet, order.printer, order, sheetFile, watch) : undefined;
    const cut =
      sheet.cut && order.cutter ? await this.cutRun(sheet, sheet.cut, order.cutter.machine, order, { sheetFile, print }) : undefined;
    return [print, cut].flatMap((run) => run ?? []);
  }

  /** @throws InputError `input.machine` for a sheet that is too long, or with marks that the machine does not find */
  private mustFit({ layer, lengthMm, widthMm, markKind }: PlannedSheet, machine: Machine, field: string): void {
    const sheet = { title: `${layer.series} ${layer.name}`, lengthMm, widthMm, marks: markKind };
    const stop = misfitsOf(sheet, machine).find(({ level }) => level === 'stop');
    if (stop) throw new InputError('machine', stop.text, { field });
  }

  private base(sheet: PlannedSheet, machine: Machine, { orderId, job, hold }: Order): NewRun['row'] {
    return {
      id: `run-${randomUUID().slice(0, 13)}`,
      orderId,
      jobId: job.id,
      jobName: job.name,
      title: `${sheet.layer.series} ${sheet.layer.name}${sheet.of > 1 ? ` · sheet ${sheet.number + 1} of ${sheet.of}` : ''}`,
      filmHex: sheet.layer.hex,
      machineId: machine.id,
      machineName: machine.name,
      rollId: sheet.rollId,
      kind: 'cut',
      sheet: sheet.id,
      code: sheet.code,
      after: null,
      heldFor: hold ? 'you' : null,
      step: null,
      marks: [],
      correction: null,
      origin: null,
      goOnAt: null,
      offMm: null,
      inkMl: null,
      paper: null,
      laminateId: null,
      offcutId: null,
      state: hold ? 'held' : 'waiting',
      progress: 0,
      reason: null,
      lengthMm: sheet.lengthMm,
      widthMm: sheet.widthMm,
      copies: sheet.copies,
      cutMm: 0,
      estimatedS: 0,
      createdAt: new Date().toISOString(),
      endedAt: null,
    };
  }

  /** @throws InputError `input.missing` for a laminate that is no longer in Stock */
  private async laminateOf({ layer }: PlannedSheet, { drawing }: Order): Promise<string | null> {
    const { laminate } = layUpOf(drawing, layer.id);
    if (!laminate) return null;
    if (!(await this.supplies.list()).some(({ id, kind }) => id === laminate.id && kind === 'laminate'))
      throw new InputError(
        'missing',
        `The laminate “${laminate.name}” of ${layer.name} is no longer in Stock. Choose another on Lay up, or none.`,
        {
          field: 'layers',
        },
      );
    return laminate.id;
  }

  private async printRun(
    sheet: PlannedSheet,
    { machine, paper, size }: NonNullable<Order['printer']>,
    order: Order,
    sheetFile: string,
    watch: Watch,
  ): Promise<NewRun> {
    if (!paper) this.mustFit(sheet, machine, 'printer');
    const row = this.base(sheet, machine, order);
    const laminateId = await this.laminateOf(sheet, order);
    return {
      // a desk printer takes paper of its own
      row: { ...row, ...(paper ? { rollId: null } : {}), kind: 'print', paper, laminateId, estimatedS: sheet.lengthMm / PRINT_MM_PER_S },
      files: {
        print: await this.sheets.print(
          { jobId: order.job.id, drawing: order.drawing, layer: sheet.layer.id, number: sheet.number, printer: machine },
          size,
          watch,
        ),
        sheet: sheetFile,
      },
    };
  }

  private async cutRun(
    sheet: PlannedSheet,
    cut: NonNullable<PlannedSheet['cut']>,
    machine: Machine,
    order: Order,
    { sheetFile, print }: { sheetFile: string; print: NewRun | undefined },
  ): Promise<NewRun> {
    const { marks } = cut.plan;
    this.mustFit(sheet, machine, 'cutter');
    const row = this.base(sheet, machine, order);
    const waits = print
      ? { after: print.row.id, state: 'held' as const, heldFor: 'print' as const, rollId: null }
      : marks.length > 0
        ? {
            state: 'needs-you' as const,
            step: 'load' as const,
            heldFor: null,
            rollId: null,
            reason: 'Put the printed sheet into the cutter, then let the camera read its code and find its marks.',
          }
        : {};
    return {
      row: { ...row, cutMm: cut.cutMm, estimatedS: cut.seconds, marks: marks.map(({ x, y }) => ({ x, y })), ...waits },
      files: { cut: await this.files.put(cut.hpgl), plan: await this.files.put(Buffer.from(JSON.stringify(cut.plan))), sheet: sheetFile },
    };
  }

  /** The same again, as new runs; the cut of a printed sheet asks for a sheet that is printed already. @returns the first of them */
  async repeat(runId: string, count = 1): Promise<Run> {
    const { place: _place, ...row } = await this.store.row(runId);
    const { cut, plan, print, sheet } = await this.store.files(runId);
    const files = Object.fromEntries(Object.entries({ cut, plan, print, sheet }).filter(([, file]) => file !== undefined));
    const orderId = `repeat-${randomUUID()}`;
    const asks = row.marks.length > 0;
    const again = Array.from({ length: count }, (): NewRun => ({ row: { ...row, ...afresh(asks), orderId }, files }));
    const [taken] = await this.store.add(orderId, again);
    this.runner.wake(row.machineId);
    return this.store.run((taken as RunRow).id);
  }
}

/** What a run that is repeated begins with. */
const afresh = (asks: boolean) => ({
  id: `run-${randomUUID().slice(0, 13)}`,
  state: asks ? ('needs-you' as const) : ('waiting' as const),
  after: null,
  heldFor: null,
  step: asks ? ('load' as const) : null,
  correction: null,
  origin: null,
  goOnAt: null,
  offMm: null,
  inkMl: null,
  offcutId: null,
  progress: 0,
  reason: asks ? 'Put a printed sheet of this work into the cutter, then let the camera read its code and find its marks.' : null,
  createdAt: new Date().toISOString(),
  endedAt: null,
});
