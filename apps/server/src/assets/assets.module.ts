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
  /** Is it shown turned by a quarter? */
  readonly onSide: boolean;
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
  const onSide = liesOnItsSide(orientation);
  return onSide ? { type, widthPx: height, heightPx: width, onSide } : { type, widthPx: width, heightPx: height, onSide };
}

/** How large the pixels are, as a file states it. */
type Stated = Pick<Asset, 'dpi' | 'pixelAspect'>;

/** Dots an inch of a PNG (pHYs), JPEG (JFIF density) or BMP, each way, or only their ratio; null when nothing is stated. */
function statedDots(bytes: Buffer): { x: number; y: number; isSize: boolean } | null {
  if (bytes.subarray(1, 4).toString('latin1') === 'PNG') {
    const at = bytes.subarray(0, 4096).indexOf('pHYs');
    if (at <= 0 || at + 13 > bytes.length) return null;
    return { x: bytes.readUInt32BE(at + 4) * 0.0254, y: bytes.readUInt32BE(at + 8) * 0.0254, isSize: bytes[at + 12] === 1 };
  }
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && bytes.length > 18 && bytes.subarray(6, 10).toString('latin1') === 'JFIF') {
    const k = bytes[13] === 2 ? 2.54 : 1;
    return { x: bytes.readUInt16BE(14) * k, y: bytes.readUInt16BE(16) * k, isSize: bytes[13] === 1 || bytes[13] === 2 };
  }
  if (bytes.subarray(0, 2).toString('latin1') === 'BM' && bytes.length > 46 && bytes.readUInt32LE(14) >= 40)
    return { x: bytes.readInt32LE(38) * 0.0254, y: bytes.readInt32LE(42) * 0.0254, isSize: true };
  return null;
}

const isDpi = (dots: number): boolean => dots >= 10 && dots <= 5000;

/** @param onSide the picture is shown turned by a quarter, and so are its pixels */
export function statedResolution(bytes: Buffer, onSide: boolean): Stated {
  const stated = statedDots(bytes);
  if (!stated || !(stated.x > 0 && stated.y > 0)) return {};
  const [x, y] = onSide ? [stated.y, stated.x] : [stated.x, stated.y];
  if (stated.isSize && !(isDpi(x) && isDpi(y))) return {};
  const aspect = x / y;
  return {
    ...(stated.isSize ? { dpi: Math.round(x * 100) / 100 } : {}),
    ...(Math.abs(aspect - 1) > 1e-3 && aspect > 0.1 && aspect < 10 ? { pixelAspect: Math.round(aspect * 1e5) / 1e5 } : {}),
  };
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

async function headOfPicture(path: string): Promise<Head & Stated> {
  const start = await headOf(path, HEAD_BYTES);
  const read = (bytes: Buffer): Head & Stated => {
    const head = readHead(bytes);
    return { ...head, ...statedResolution(bytes, head.onSide) };
  };
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
    const { type: _type, onSide: _onSide, ...head } = await headOfPicture(path);
    return { asset: await this.files.putFile(path), ...head };
  }

  /** Keeps a picture's bytes. @throws InputError `input.picture`, LimitError `limit.picture` */
  async keep(bytes: Buffer): Promise<Asset> {
    const { widthPx, heightPx, onSide } = readHead(bytes);
    return { asset: await this.files.put(bytes), widthPx, heightPx, ...statedResolution(bytes, onSide) };
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
