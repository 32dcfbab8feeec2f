/** POST /api/fonts: a font of the shop's own, as TTF, OTF, WOFF or WOFF2. It is read by the compute pool before it is kept. */
import { Controller, Injectable, Module, Post, Req } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request } from 'express';
import { readFile } from 'node:fs/promises';
import type { FontEntry } from '@lorvek/model';
import { ComputeModule } from '../compute/compute.module.ts';
import { ComputeService } from '../compute/compute.service.ts';
import { EventsModule } from '../events/events.module.ts';
import { FilesService } from '../files/files.service.ts';
import { UploadsService, type Upload } from '../http/uploads.service.ts';
import { FontsModule } from './fonts.module.ts';
import { FontsService } from './fonts.service.ts';

const MOST_BYTES = 32 * 1024 * 1024;

@Injectable()
export class OwnFontsService {
  constructor(
    private readonly compute: ComputeService,
    private readonly files: FilesService,
    private readonly fonts: FontsService,
  ) {}

  /** @throws InputError `input.font` for anything that is no font */
  async add({ path, name: fileName }: Upload): Promise<FontEntry> {
    const { description, sfnt } = await this.compute.run('font', { bytes: new Uint8Array(await readFile(path)) });
    const file = await this.files.put(sfnt);
    const id = `own-${file.slice(0, 16)}`;
    const name = description.name || fileName.replace(/\.[a-z0-9]+$/i, '').slice(0, 80) || 'Font without a name';
    const entry: FontEntry = {
      id,
      name,
      kind: 'own',
      weight: description.weight,
      scripts: [...description.scripts],
      licence: 'as the font states',
      files: [file],
      own: true,
      ...(description.axes.length > 0 ? { axes: [...description.axes] } : {}),
    };
    return this.fonts.add({ id, entry, licence: description.licence, addedAt: new Date().toISOString() });
  }
}

@ApiTags('fonts')
@Controller('api/fonts')
export class OwnFontsController {
  constructor(
    private readonly own: OwnFontsService,
    private readonly uploads: UploadsService,
  ) {}

  @Post()
  add(@Req() request: Request): Promise<FontEntry> {
    return this.uploads.receive(request, MOST_BYTES, (upload) => this.own.add(upload));
  }
}

@Module({ imports: [ComputeModule, FontsModule, EventsModule], controllers: [OwnFontsController], providers: [OwnFontsService] })
export class OwnFontsModule {}
