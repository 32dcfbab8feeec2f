/** /api/assets: pictures that lie on drawings. Kept by content; only raster pictures, whose head is read, never run. */
import { Controller, Get, Injectable, Module, Param, Post, Res, StreamableFile, UploadedFile, UseInterceptors } from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { imageSize } from 'image-size';
import { InputError, LimitError } from '@lorvek/core';
import type { Asset } from '@lorvek/model';
import { EventsModule } from '../events/events.module.ts';
import { FilesService } from '../files/files.service.ts';

const MOST_BYTES = 64 * 1024 * 1024;
const MOST_PIXELS = 200_000_000;
const TYPES: Record<string, string> = { png: 'image/png', jpg: 'image/jpeg', webp: 'image/webp', gif: 'image/gif', bmp: 'image/bmp' };

interface Uploaded {
  readonly buffer: Buffer;
}

interface Head {
  readonly type: string;
  readonly widthPx: number;
  readonly heightPx: number;
}

/** Orientations 5 to 8 of a camera's note lie on their side; a browser shows them upright. */
const liesOnItsSide = (orientation: number | undefined): boolean => orientation !== undefined && orientation >= 5 && orientation <= 8;

/** @throws InputError `input.picture`, LimitError `limit.picture` */
export function readHead(bytes: Buffer): Head {
  let size: ReturnType<typeof imageSize>;
  try {
    // a copy of its own: the parser reads on beyond the end of a part of a larger buffer
    size = imageSize(new Uint8Array(bytes));
  } catch {
    throw new InputError('picture', 'This file is not a picture that can be shown: PNG, JPEG, WebP, GIF and BMP can.', { field: 'file' });
  }
  const { width, height, type, orientation } = size;
  if (!type || !TYPES[type])
    throw new InputError('picture', `Pictures of the kind ${type ?? 'unknown'} cannot be placed. Save it as PNG or JPEG.`, { field: 'file' });
  if (!(width > 0 && height > 0)) throw new InputError('picture', 'The picture says that it has no pixels.', { field: 'file' });
  if (width * height > MOST_PIXELS || width > 60_000 || height > 60_000)
    throw new LimitError('picture', `The picture has ${width} by ${height} pixels; the most is 200 million. Make it smaller first.`);
  return liesOnItsSide(orientation) ? { type, widthPx: height, heightPx: width } : { type, widthPx: width, heightPx: height };
}

/** Dots an inch of a PNG (pHYs) or JPEG (JFIF density); undefined when not stated. */
export function statedDpi(bytes: Buffer): number | undefined {
  if (bytes.subarray(1, 4).toString('latin1') === 'PNG') {
    const at = bytes.subarray(0, 4096).indexOf('pHYs');
    if (at > 0 && at + 13 <= bytes.length && bytes[at + 12] === 1) {
      const dpi = bytes.readUInt32BE(at + 4) * 0.0254;
      return dpi >= 10 && dpi <= 5000 ? Math.round(dpi * 100) / 100 : undefined;
    }
    return undefined;
  }
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && bytes.length > 18 && bytes.subarray(6, 10).toString('latin1') === 'JFIF') {
    const [unit, density] = [bytes[13], bytes.readUInt16BE(14)];
    const dpi = unit === 1 ? density : unit === 2 ? density * 2.54 : 0;
    return dpi >= 10 && dpi <= 5000 ? dpi : undefined;
  }
  return undefined;
}

@Injectable()
export class AssetsService {
  constructor(private readonly files: FilesService) {}

  /** @throws InputError `input.picture`, LimitError `limit.picture` */
  async keep(bytes: Buffer): Promise<Asset> {
    const { widthPx, heightPx } = readHead(bytes);
    const dpi = statedDpi(bytes);
    return { asset: await this.files.put(bytes), widthPx, heightPx, ...(dpi === undefined ? {} : { dpi }) };
  }

  async read(name: string): Promise<{ bytes: Buffer; type: string }> {
    const bytes = await this.files.get(name);
    return { bytes, type: TYPES[readHead(bytes).type] as string };
  }
}

@ApiTags('assets')
@Controller('api/assets')
export class AssetsController {
  constructor(private readonly assets: AssetsService) {}

  @Post()
  @UseInterceptors(FileInterceptor('file', { limits: { fileSize: MOST_BYTES, files: 1, fields: 4 } }))
  keep(@UploadedFile() file: Uploaded | undefined): Promise<Asset> {
    if (!file) throw new InputError('picture', 'No picture came with the request.', { field: 'file' });
    return this.assets.keep(file.buffer);
  }

  @Get(':name')
  async read(@Param('name') name: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    const { bytes, type } = await this.assets.read(name);
    response.setHeader('cache-control', 'public, max-age=31536000, immutable');
    return new StreamableFile(bytes, { type });
  }
}

@Module({ imports: [EventsModule], controllers: [AssetsController], providers: [AssetsService] })
export class AssetsModule {}
