/** /api/assets: pictures that lie on drawings. Kept by content; only raster pictures, whose head is read, never run. */
import { Controller, Get, Injectable, Module, Param, Post, Req, Res, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { readFile } from 'node:fs/promises';
import { imageSize } from 'image-size';
import { InputError, LimitError } from '@lorvek/core';
import type { Asset } from '@lorvek/model';
import { EventsModule } from '../events/events.module.ts';
import { PicturesService } from './pictures.service.ts';
import { FilesService, headOf } from '../files/files.service.ts';
import { UploadsService } from '../http/uploads.service.ts';

const MOST_BYTES = 64 * 1024 * 1024;
const MOST_PIXELS = 200_000_000;
const TYPES: Record<string, string> = { png: 'image/png', jpg: 'image/jpeg', webp: 'image/webp', gif: 'image/gif', bmp: 'image/bmp' };

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

/** Sizes are stated in the head of nearly every picture; one whose head goes on farther is read whole. */
const HEAD_BYTES = 1024 * 1024;
/** Kinds are told by their first bytes. */
const SIGNATURES: readonly (readonly [string, RegExp])[] = [
  ['png', /^\x89PNG/],
  ['jpg', /^\xff\xd8/],
  ['webp', /^RIFF[\s\S]{4}WEBP/],
  ['gif', /^GIF8/],
  ['bmp', /^BM/],
];

async function headOfPicture(path: string): Promise<Head & { dpi: number | undefined }> {
  const start = await headOf(path, HEAD_BYTES);
  const read = (bytes: Buffer): Head & { dpi: number | undefined } => ({ ...readHead(bytes), dpi: statedDpi(bytes) });
  if (start.length < HEAD_BYTES) return read(start);
  try {
    return read(start);
  } catch (error) {
    if (error instanceof LimitError) throw error;
    return read(await readFile(path));
  }
}

@Injectable()
export class AssetsService {
  constructor(private readonly files: FilesService) {}

  /** Keeps a picture that lies at `path`. @throws InputError `input.picture`, LimitError `limit.picture` */
  async keepFile(path: string): Promise<Asset> {
    const { widthPx, heightPx, dpi } = await headOfPicture(path);
    return { asset: await this.files.putFile(path), widthPx, heightPx, ...(dpi === undefined ? {} : { dpi }) };
  }

  /** Keeps a picture's bytes. @throws InputError `input.picture`, LimitError `limit.picture` */
  async keep(bytes: Buffer): Promise<Asset> {
    const { widthPx, heightPx } = readHead(bytes);
    const dpi = statedDpi(bytes);
    return { asset: await this.files.put(bytes), widthPx, heightPx, ...(dpi === undefined ? {} : { dpi }) };
  }

  async read(name: string): Promise<StreamableFile> {
    const start = (await this.files.head(name, 16)).toString('latin1');
    const kind = SIGNATURES.find(([, pattern]) => pattern.test(start))?.[0];
    if (kind === undefined) throw new InputError('missing', 'There is no such picture.');
    return new StreamableFile(await this.files.stream(name), { type: TYPES[kind] as string });
  }
}

@ApiTags('assets')
@Controller('api/assets')
export class AssetsController {
  constructor(
    private readonly assets: AssetsService,
    private readonly uploads: UploadsService,
  ) {}

  @Post()
  keep(@Req() request: Request): Promise<Asset> {
    return this.uploads.receive(request, MOST_BYTES, ({ path }) => this.assets.keepFile(path));
  }

  @Get(':name')
  async read(@Param('name') name: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    const file = await this.assets.read(name);
    response.setHeader('cache-control', 'private, max-age=31536000, immutable');
    return file;
  }
}

@Module({ imports: [EventsModule], controllers: [AssetsController], providers: [AssetsService, PicturesService], exports: [AssetsService, PicturesService] })
export class AssetsModule {}
