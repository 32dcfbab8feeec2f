/** /api/fonts */
import { Controller, Get, Header, Module, Param, ParseIntPipe, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { FontEntry } from '@lorvek/model';
import { EventsModule } from '../events/events.module.ts';
import { FontsService } from './fonts.service.ts';

@ApiTags('fonts')
@Controller('api/fonts')
export class FontsController {
  constructor(private readonly fonts: FontsService) {}

  @Get()
  list(): FontEntry[] {
    return this.fonts.list();
  }

  @Get(':id/files/:index')
  @Header('cache-control', 'public, max-age=86400')
  async file(@Param('id') id: string, @Param('index', ParseIntPipe) index: number): Promise<StreamableFile> {
    return new StreamableFile(await this.fonts.file(id, index), { type: 'font/woff' });
  }

  @Get(':id/licence')
  @Header('content-type', 'text/plain; charset=utf-8')
  licence(@Param('id') id: string): Promise<string> {
    return this.fonts.licence(id);
  }
}

@Module({ imports: [EventsModule], controllers: [FontsController], providers: [FontsService], exports: [FontsService] })
export class FontsModule {}
