/** /api/runs and sending from a job. */
import { Body, Controller, Get, Header, HttpCode, Module, Param, Post, Query, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { z } from 'zod';
import { InputError } from '@lorvek/core';
import {
  actSchema,
  benchOrderSchema,
  cameraSchema,
  cuttingChoiceSchema,
  isMovable,
  type Leftover,
  originSchema,
  otherMachineSchema,
  placeSchema,
  sendSchema,
  totalsAskedSchema,
  type BenchAnswer,
  type CameraAnswer,
  type Run,
  type RunAction,
  type RunEvent,
  type RunState,
  type RunTotals,
  type SheetPlates,
  type SoftLook,
} from '@lorvek/model';
import { ComputeModule } from '../compute/compute.module.ts';
import { AssetsModule } from '../assets/assets.module.ts';
import { FilesService } from '../files/files.service.ts';
import { JobsModule } from '../jobs/jobs.module.ts';
import { MachinesModule } from '../machines/machines.module.ts';
import { ProfilesModule } from '../profiles/profiles.module.ts';
import { StockModule } from '../stock/stock.module.ts';
import { SheetFilesService } from './sheet-files.service.ts';
import { RunnerService } from './runner.service.ts';
import { CameraService } from './camera.service.ts';
import type { RunFileRole, RunRow } from '../db/entities.ts';
import { BenchService } from './bench.service.ts';
import { OffcutsService } from './offcuts.service.ts';
import { MovingService } from './moving.service.ts';
import { RunsStore } from './runs.store.ts';
import { SendService, type CutterChoice } from './send.service.ts';

class SendDto extends createZodDto(sendSchema) {}
class ActionDto extends createZodDto(actSchema) {}
class BenchDto extends createZodDto(z.object({ order: benchOrderSchema })) {}
class PlaceDto extends createZodDto(placeSchema) {}
class OriginDto extends createZodDto(originSchema) {}
class OtherMachineDto extends createZodDto(otherMachineSchema) {}
class TotalsDto extends createZodDto(totalsAskedSchema) {}
class ListDto extends createZodDto(z.object({ before: z.coerce.number().int().optional() })) {}
class CameraDto extends createZodDto(z.object({ order: cameraSchema })) {}
/** Which of a layer's sheets, from 1. */
const sheet = z.coerce.number().int().min(1).max(1000).default(1);
class SheetDto extends createZodDto(z.object({ sheet, printer: z.string().max(60).optional() })) {}
/** Kinds and order as JSON, since it is asked for by an address. */
const cutting = z
  .string()
  .max(2000)
  .transform((text, context): unknown => {
    try {
      return JSON.parse(text);
    } catch {
      context.addIssue({ code: 'custom', message: 'the kinds of lines as JSON' });
      return z.NEVER;
    }
  })
  .pipe(cuttingChoiceSchema)
  .optional();
class FileDto extends createZodDto(z.object({ machine: z.string().max(60), setup: z.string().max(60), sheet, cutting })) {}
const choiceOf = ({ machine, setup, cutting: choice }: FileDto): CutterChoice => ({
  machineId: machine,
  setupId: setup,
  ...(choice ? { cutting: choice } : {}),
});

const PICTURE_POLICY = "default-src 'none'; style-src 'unsafe-inline'; sandbox";

/** A file to be taken away under a name of its own (RFC 6266); what no file system takes is left out. */
const attachment = (name: string): string =>
  `attachment; filename*=UTF-8''${encodeURIComponent(name.replace(/[\\/:*?"<>|\p{Cc}]/gu, ' ').trim())}`;

@ApiTags('queue')
@Controller('api')
export class QueueController {
  constructor(
    private readonly store: RunsStore,
    private readonly runner: RunnerService,
    private readonly sending: SendService,
    private readonly moving: MovingService,
    private readonly benches: BenchService,
    private readonly offcuts: OffcutsService,
    private readonly files: FilesService,
    private readonly cameras: CameraService,
  ) {}

  @Get('runs')
  list(@Query() { before }: ListDto): Promise<Run[]> {
    return this.store.list(before);
  }

  @Get('runs/totals')
  totals(@Query() { from, to }: TotalsDto): Promise<RunTotals> {
    return this.store.totals(from, to);
  }

  @Get('runs/:id/log')
  log(@Param('id') id: string): Promise<RunEvent[]> {
    return this.store.log(id);
  }

  @Post('runs/:id/place')
  @HttpCode(200)
  async place(@Param('id') id: string, @Body() { before }: PlaceDto): Promise<Run> {
    await this.store.reorder(id, before);
    return this.store.run(id);
  }

  /** What is left of the sheet of a run that was cut. */
  @Get('runs/:id/offcut')
  offcut(@Param('id') id: string): Promise<Leftover> {
    return this.offcuts.look(id);
  }

  @Post('runs/:id/offcut')
  @HttpCode(200)
  async keepOffcut(@Param('id') id: string): Promise<Run> {
    await this.offcuts.keep(id);
    return this.store.run(id);
  }

  @Post('runs/:id/origin')
  @HttpCode(200)
  origin(@Param('id') id: string, @Body() { at }: OriginDto): Promise<Run> {
    return this.moving.setOrigin(id, at);
  }

  @Post('runs/:id/machine')
  @HttpCode(200)
  otherMachine(@Param('id') id: string, @Body() { machineId }: OtherMachineDto): Promise<Run> {
    return this.moving.giveTo(id, machineId);
  }

  @Post('jobs/:id/send')
  send(@Param('id') id: string, @Body() body: SendDto): Promise<Run[]> {
    return this.sending.send(id, body);
  }

  /** Stops an order whose files are being made; a page that only goes away stops nothing. */
  @Post('orders/:id/stop')
  @HttpCode(200)
  stopSending(@Param('id') id: string): { stopped: boolean } {
    return { stopped: this.sending.stop(id) };
  }

  @Get('jobs/:id/sheets/:film/cut.plt')
  async cutFile(@Param('id') id: string, @Param('film') film: string, @Query() query: FileDto): Promise<StreamableFile> {
    return this.asFile(
      await this.sending.file(id, film, query.sheet - 1, choiceOf(query), 'plt'),
      'application/vnd.hp-hpgl',
      `${await this.sending.nameOf(id, film, query.sheet - 1)}.plt`,
    );
  }

  @Get('jobs/:id/sheets/:film/cut.svg')
  async sheetFile(@Param('id') id: string, @Param('film') film: string, @Query() query: FileDto): Promise<StreamableFile> {
    return this.asFile(
      await this.sending.file(id, film, query.sheet - 1, choiceOf(query), 'svg'),
      'image/svg+xml',
      `${await this.sending.nameOf(id, film, query.sheet - 1)}.svg`,
    );
  }

  @Get('runs/:id/cut.plt')
  runFile(@Param('id') id: string): Promise<StreamableFile> {
    return this.fileOf(id, 'cut', 'application/vnd.hp-hpgl', 'plt');
  }

  @Get('runs/:id/print.pdf')
  printFile(@Param('id') id: string): Promise<StreamableFile> {
    return this.fileOf(id, 'print', 'application/pdf', 'pdf');
  }

  @Get('jobs/:id/sheets/:layer/print.pdf')
  async pdf(@Param('id') id: string, @Param('layer') layer: string, @Query() query: SheetDto): Promise<StreamableFile> {
    const stream = await this.files.stream(await this.sending.pdf(id, layer, query.sheet - 1, query.printer));
    return new StreamableFile(stream, {
      type: 'application/pdf',
      disposition: attachment(`${await this.sending.nameOf(id, layer, query.sheet - 1)}.pdf`),
    });
  }

  /** The plates of a sheet as they will be printed. */
  @Get('jobs/:id/sheets/:layer/plates')
  plates(@Param('id') id: string, @Param('layer') layer: string, @Query() query: SheetDto): Promise<SheetPlates> {
    return this.sending.plates(id, layer, query.sheet - 1, query.printer);
  }

  /** How a sheet will look when it is printed, and what of it is out of reach. */
  @Get('jobs/:id/sheets/:layer/soft')
  soft(@Param('id') id: string, @Param('layer') layer: string, @Query() query: SheetDto): Promise<SoftLook> {
    return this.sending.soft(id, layer, query.sheet - 1, query.printer);
  }

  @Post('machines/:id/bench')
  @HttpCode(200)
  bench(@Param('id') id: string, @Body() { order }: BenchDto): Promise<BenchAnswer> {
    return this.benches.act(id, order);
  }

  @Get('machines/:id/camera.svg')
  @Header('content-security-policy', PICTURE_POLICY)
  async benchCamera(@Param('id') id: string): Promise<StreamableFile> {
    return new StreamableFile(await this.benches.view(id), { type: 'image/svg+xml' });
  }

  /** What the cutter's camera sees, for bringing the tool over the first mark. */
  @Get('runs/:id/camera.svg')
  @Header('content-security-policy', PICTURE_POLICY)
  @Header('cache-control', 'no-store')
  async camera(@Param('id') id: string): Promise<StreamableFile> {
    return new StreamableFile(await this.cameras.view(id), { type: 'image/svg+xml' });
  }

  @Post('runs/:id/camera')
  @HttpCode(200)
  look(@Param('id') id: string, @Body() { order }: CameraDto): Promise<CameraAnswer> {
    return this.cameras.act(id, order);
  }

  private asFile(bytes: Uint8Array, type: string, name: string): StreamableFile {
    return new StreamableFile(bytes, { type, disposition: attachment(name) });
  }

  /** @param ending of a file that is taken away, under the name of job, layer and sheet; absent: it is looked at */
  private async fileOf(id: string, role: RunFileRole, type: string, ending?: string): Promise<StreamableFile> {
    const file = await this.store.file(id, role);
    if (file === undefined)
      throw new InputError('missing', role === 'picture' ? 'The machine has left no picture of this run.' : 'This run has no such file.');
    const { jobName, title, code, sheet } = await this.store.row(id);
    const disposition = ending && attachment(`${jobName} – ${title} – ${code ?? sheet.split('/').at(-1) ?? ''}.${ending}`);
    return new StreamableFile(await this.files.stream(file), disposition ? { type, disposition } : { type });
  }

  @Get('runs/:id/sheet.svg')
  @Header('content-security-policy', PICTURE_POLICY)
  sheet(@Param('id') id: string): Promise<StreamableFile> {
    return this.fileOf(id, 'sheet', 'image/svg+xml');
  }

  @Get('runs/:id/picture.svg')
  @Header('content-security-policy', PICTURE_POLICY)
  picture(@Param('id') id: string): Promise<StreamableFile> {
    return this.fileOf(id, 'picture', 'image/svg+xml');
  }

  @Post('runs/:id/actions')
  @HttpCode(200)
  async act(@Param('id') id: string, @Body() { action, count }: ActionDto): Promise<Run> {
    if (action === 'repeat') return this.sending.repeat(id, count);
    const row = await this.store.row(id);
    if (!(await this.move(row, action))) throw new InputError('state', `A run that is ${row.state} cannot be told to ${action}.`);
    // also when a run that needed somebody was cancelled: the machine's queue goes on
    if (action === 'release' || action === 'retry' || action === 'go-on' || action === 'cancel') this.runner.wake(row.machineId);
    return this.store.run(id);
  }

  private async move({ id, state, heldFor, step }: RunRow, action: Exclude<RunAction, 'repeat'>): Promise<boolean> {
    switch (action) {
      case 'first':
        return this.first(id);
      case 'hold':
        return state === 'waiting' && this.store.move(id, state, 'held', { heldFor: 'you' });
      case 'release':
        // a cut whose sheet is not printed, or whose marks were not found, is not let go
        if (state === 'needs-you') return step === 'ready' && this.store.move(id, state, 'waiting', { reason: null, step: null });
        return state === 'held' && heldFor !== 'print' && this.store.move(id, state, 'waiting', { reason: null, heldFor: null });
      case 'retry':
        return (state === 'needs-you' || state === 'failed') && step === null && this.retry(id, state);
      case 'go-on':
        return this.goOn(id);
      case 'pause':
        return this.runner.pause(id);
      case 'resume':
        return this.runner.resume(id);
      case 'cancel': {
        if (state === 'done' || state === 'cancelled') return false;
        return this.runner.cancel(id, state);
      }
    }
  }

  private async first(id: string): Promise<boolean> {
    const row = await this.store.row(id);
    if (!isMovable(row)) return false;
    const first = await this.store.firstOf(row.machineId);
    if (first !== id) await this.store.reorder(id, first);
    return true;
  }

  /** From where it stopped, on the sheet that lies in the machine; marks that were found stay found. */
  private async goOn(id: string): Promise<boolean> {
    const { kind, state, step, progress } = await this.store.row(id);
    if (kind !== 'cut' || state !== 'needs-you' || step !== null) return false;
    if (!(progress > 0 && progress < 1))
      throw new InputError('state', 'How far this cut came is not known, so it cannot go on. Load fresh film and retry, or cancel it.');
    return this.store.move(id, state, 'waiting', { reason: null, goOnAt: progress });
  }

  /** From the beginning; the cut of a printed sheet asks for its sheet and its marks again. */
  private async retry(id: string, state: RunState): Promise<boolean> {
    const { marks } = await this.store.row(id);
    if (marks.length === 0 || state === 'failed') return this.store.move(id, state, 'waiting', { reason: null, goOnAt: null });
    await this.store.note(id, {
      step: 'load',
      goOnAt: null,
      progress: 0,
      correction: null,
      reason: 'Put the printed sheet in again and let the camera find its marks: it may have moved.',
    });
    return true;
  }
}

@Module({
  imports: [AssetsModule, JobsModule, ProfilesModule, MachinesModule, StockModule, ComputeModule],
  controllers: [QueueController],
  providers: [RunsStore, RunnerService, SendService, MovingService, BenchService, OffcutsService, SheetFilesService, CameraService],
  exports: [RunnerService],
})
export class QueueModule {}
