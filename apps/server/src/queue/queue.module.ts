/** /api/runs and sending from a job. */
import { Body, Controller, Get, Header, HttpCode, Module, Param, Post, Query, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { createZodDto } from 'nestjs-zod';
import { z } from 'zod';
import { InputError } from '@lorvek/core';
import { runActionSchema, sendSchema, type Run, type RunAction, type RunState } from '@lorvek/model';
import { ComputeModule } from '../compute/compute.module.ts';
import { FilesService } from '../files/files.service.ts';
import { JobsModule } from '../jobs/jobs.module.ts';
import { MachinesModule } from '../machines/machines.module.ts';
import { StockModule } from '../stock/stock.module.ts';
import { RunnerService } from './runner.service.ts';
import { RunsStore } from './runs.store.ts';
import { SendService } from './send.service.ts';

class SendDto extends createZodDto(sendSchema) {}
class ActionDto extends createZodDto(z.object({ action: runActionSchema })) {}
class FileDto extends createZodDto(z.object({ machine: z.string().max(60), setup: z.string().max(60) })) {}

const PICTURE_POLICY = "default-src 'none'; style-src 'unsafe-inline'; sandbox";

@ApiTags('queue')
@Controller('api')
export class QueueController {
  constructor(
    private readonly store: RunsStore,
    private readonly runner: RunnerService,
    private readonly sending: SendService,
    private readonly files: FilesService,
  ) {}

  @Get('runs')
  list(): Promise<Run[]> {
    return this.store.list();
  }

  @Post('jobs/:id/send')
  send(@Param('id') id: string, @Body() body: SendDto): Promise<Run[]> {
    return this.sending.send(id, body);
  }

  @Get('jobs/:id/sheets/:film/cut.plt')
  @Header('content-disposition', 'attachment; filename="cut.plt"')
  async cutFile(@Param('id') id: string, @Param('film') film: string, @Query() query: FileDto): Promise<StreamableFile> {
    return new StreamableFile(await this.sending.file(id, film, query.machine, query.setup, 'plt'), { type: 'application/vnd.hp-hpgl' });
  }

  @Get('jobs/:id/sheets/:film/cut.svg')
  @Header('content-disposition', 'attachment; filename="cut.svg"')
  async sheetFile(@Param('id') id: string, @Param('film') film: string, @Query() query: FileDto): Promise<StreamableFile> {
    return new StreamableFile(await this.sending.file(id, film, query.machine, query.setup, 'svg'), { type: 'image/svg+xml' });
  }

  @Get('runs/:id/cut.plt')
  @Header('content-disposition', 'attachment; filename="cut.plt"')
  async runFile(@Param('id') id: string): Promise<StreamableFile> {
    return new StreamableFile(await this.files.get((await this.store.row(id)).cutFile), { type: 'application/vnd.hp-hpgl' });
  }

  @Get('runs/:id/sheet.svg')
  @Header('content-security-policy', PICTURE_POLICY)
  async sheet(@Param('id') id: string): Promise<StreamableFile> {
    return new StreamableFile(await this.files.get((await this.store.row(id)).sheetFile), { type: 'image/svg+xml' });
  }

  @Get('runs/:id/picture.svg')
  @Header('content-security-policy', PICTURE_POLICY)
  async picture(@Param('id') id: string): Promise<StreamableFile> {
    const { pictureFile } = await this.store.row(id);
    if (pictureFile === null) throw new InputError('missing', 'The machine has left no picture of this run.');
    return new StreamableFile(await this.files.get(pictureFile), { type: 'image/svg+xml' });
  }

  @Post('runs/:id/actions')
  @HttpCode(200)
  async act(@Param('id') id: string, @Body() { action }: ActionDto): Promise<Run> {
    if (action === 'repeat') return this.sending.repeat(id);
    const row = await this.store.row(id);
    if (!(await this.move(id, row.state, action))) throw new InputError('state', `A run that is ${row.state} cannot be told to ${action}.`);
    // also when a run that needed somebody was cancelled: the machine's queue goes on
    if (action === 'release' || action === 'retry' || action === 'cancel') this.runner.wake(row.machineId);
    return this.store.toRun(await this.store.row(id));
  }

  private async move(id: string, state: RunState, action: Exclude<RunAction, 'repeat'>): Promise<boolean> {
    switch (action) {
      case 'hold':
        return state === 'waiting' && this.store.move(id, state, 'held');
      case 'release':
        return state === 'held' && this.store.move(id, state, 'waiting', { reason: null });
      case 'retry':
        return (state === 'needs-you' || state === 'failed') && this.store.move(id, state, 'waiting', { reason: null });
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
}

@Module({
  imports: [JobsModule, MachinesModule, StockModule, ComputeModule],
  controllers: [QueueController],
  providers: [RunsStore, RunnerService, SendService],
  exports: [RunnerService],
})
export class QueueModule {}
