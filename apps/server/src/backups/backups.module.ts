/** /api/backups */
import { Controller, Get, HttpCode, Module, Param, Post, Req, Res, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import type { Backup } from '@lorvek/model';
import { UploadsService } from '../http/uploads.service.ts';
import { QueueModule } from '../queue/queue.module.ts';
import { BackupsService } from './backups.service.ts';

const MOST_BYTES = 64 * 1024 ** 3;

@ApiTags('backups')
@Controller('api/backups')
export class BackupsController {
  constructor(
    private readonly backups: BackupsService,
    private readonly uploads: UploadsService,
  ) {}

  @Get()
  list(): Promise<Backup[]> {
    return this.backups.list();
  }

  @Post()
  make(): Promise<Backup> {
    return this.backups.make('by-hand');
  }

  @Get(':name/file')
  file(@Param('name') name: string, @Res({ passthrough: true }) response: Response): StreamableFile {
    const packed = this.backups.packed(name);
    response.setHeader('content-disposition', `attachment; filename="${name.replace('.sqlite', '.tar')}"`);
    return new StreamableFile(packed as never, { type: 'application/x-tar' });
  }

  @Post('file')
  @HttpCode(200)
  bringBackFile(@Req() request: Request): Promise<Backup> {
    return this.uploads.receive(request, MOST_BYTES, ({ path }) => this.backups.bringBackFile(path));
  }

  @Post(':name/restore')
  @HttpCode(200)
  bringBack(@Param('name') name: string): Promise<Backup> {
    return this.backups.bringBack(name);
  }
}

@Module({ imports: [QueueModule], controllers: [BackupsController], providers: [BackupsService] })
export class BackupsModule {}
