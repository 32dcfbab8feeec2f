/** Pictures unpacked for printing, and small copies of them for thumbnails. Decoded by libvips (`sharp`), upright. */
import { Inject, Injectable, Logger } from '@nestjs/common';
import { LRUCache } from 'lru-cache';
import { randomUUID } from 'node:crypto';
import { link, mkdir, open, rm } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { CancelledError, InputError } from '@lorvek/core';
import { leavesOf, seriesOf, type Drawing } from '@lorvek/model';
import type { RawPicture } from '@lorvek/computations/with-files';
import type { Watch } from '../compute/compute.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { storageFaultOf } from '../db/storage-fault.ts';
import { FilesService } from '../files/files.service.ts';
import { INCOMING } from '../http/uploads.service.ts';

const MOST_PIXELS = 400_000_000;
const SMALL_PX = 160;
const SMALL_KEPT = 500;
/** Of at most 36 MB each, on the disk. */
const LOOKS_KEPT = 16;

/** Pictures of a drawing that are printed, each once. */
export const printedAssets = (drawing: Drawing, layer?: string): string[] => [
  ...new Set([
    ...leavesOf(drawing).flatMap((leaf) => (leaf.kind === 'picture' && leaf.layer !== null && (layer ?? leaf.layer) === leaf.layer ? [leaf.asset] : [])),
    ...(seriesOf(drawing)?.pictures ?? []).map(({ asset }) => asset),
  ]),
];

/** Before the pixels in libvips' uncompressed form. */
const HEADER_BYTES = 64;
/** Of its header: the first four bytes say in which order numbers are written, the sixth number how a sample is, 0 a byte. */
const BIG_FIRST = 0xb6_a6_f2_08;
const SAMPLE_AT = 20;

/** Are the samples of a file in that form single bytes? */
async function isBytes(path: string): Promise<boolean> {
  const file = await open(path, 'r');
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(HEADER_BYTES), 0, HEADER_BYTES, 0);
    const sample = buffer.readUInt32BE(0) === BIG_FIRST ? buffer.readUInt32BE(SAMPLE_AT) : buffer.readUInt32LE(SAMPLE_AT);
    return bytesRead === HEADER_BYTES && sample === 0;
  } finally {
    await file.close();
  }
}

/** A second name for a file. @returns false where that cannot be: the disk knows none, or the file is gone */
const linked = (from: string, to: string): Promise<boolean> =>
  link(from, to).then(
    () => true,
    () => false,
  );

@Injectable()
export class PicturesService {
  private readonly logger = new Logger('Pictures');
  private readonly small = new LRUCache<string, string>({ max: SMALL_KEPT });
  /** Copies for the screen, by asset and size. Whoever looks has links of its own, so that one that is let go stays as long as it is read. */
  private readonly looks = new LRUCache<string, RawPicture>({ max: LOOKS_KEPT, dispose: ({ path }) => void rm(path, { force: true }) });

  constructor(
    private readonly files: FilesService,
    @Inject(CONFIG) private readonly config: Config,
  ) {
    // each picture is unpacked once: what libvips would keep of it is never asked for again
    sharp.cache(false);
    sharp.concurrency(1);
  }

  /** Small copies as data URLs, by asset; a picture that cannot be read is left out. */
  async smallCopies(assets: readonly string[]): Promise<Record<string, string>> {
    const out: Record<string, string> = {};
    for (const asset of assets) {
      const known = this.small.get(asset) ?? (await this.smallCopy(asset));
      if (known === undefined) continue;
      this.small.set(asset, known);
      out[asset] = known;
    }
    return out;
  }

  private async smallCopy(asset: string): Promise<string | undefined> {
    try {
      const png = await sharp(this.files.path(asset), { limitInputPixels: MOST_PIXELS })
        .rotate()
        .resize(SMALL_PX, SMALL_PX, { fit: 'inside', withoutEnlargement: true })
        .png()
        .toBuffer();
      return `data:image/png;base64,${png.toString('base64')}`;
    } catch {
      return undefined;
    }
  }

  /**
   * Unpacks pictures into a folder of their own and hands them to `use`; the folder is gone afterwards.
   * @param watch `mostPx`: of what is only looked at, the longest side; larger ones are averaged down
   * @throws InputError `input.picture` for one that cannot be read; CancelledError
   */
  async unpacked<T>(
    assets: readonly string[],
    use: (pictures: Record<string, RawPicture>, dir: string) => Promise<T>,
    { signal, onShare, mostPx }: Watch & { readonly mostPx?: number } = {},
  ): Promise<T> {
    const dir = join(this.config.dataDir, INCOMING, `print-${process.pid}-${Math.trunc(1e6 * performance.now())}`);
    await mkdir(dir, { recursive: true });
    try {
      const pictures: Record<string, RawPicture> = {};
      for (const [i, asset] of assets.entries()) {
        onShare?.(i / assets.length);
        const path = join(dir, `${asset}.v`);
        pictures[asset] = mostPx === undefined ? await this.unpack(asset, path, signal) : await this.look(asset, path, mostPx, signal);
      }
      return await use(pictures, dir);
    } finally {
      await rm(dir, { recursive: true, force: true });
    }
  }

  /** A copy for the screen: the one of the last look, where it is still there. */
  private async look(asset: string, path: string, mostPx: number, signal: AbortSignal | undefined): Promise<RawPicture> {
    const key = `${asset} ${mostPx}`;
    const known = this.looks.get(key);
    if (known && (await linked(known.path, path))) return { ...known, path };
    const made = await this.unpack(asset, path, signal, mostPx);
    const dir = join(this.config.dataDir, INCOMING, `looks-${process.pid}`);
    await mkdir(dir, { recursive: true });
    const kept = join(dir, `${randomUUID()}.v`);
    if (await linked(path, kept)) this.looks.set(key, { ...made, path: kept });
    return made;
  }

  private async unpack(asset: string, path: string, signal: AbortSignal | undefined, mostPx?: number): Promise<RawPicture> {
    try {
      const picture = sharp(this.files.path(asset), { limitInputPixels: MOST_PIXELS }).rotate();
      const { hasAlpha } = await picture.metadata();
      const sized =
        mostPx === undefined ? picture : picture.resize(mostPx, mostPx, { fit: 'inside', withoutEnlargement: true, kernel: 'linear' });
      // strip by strip into libvips' own uncompressed form: the whole is never in memory
      const { width, height, channels } = await sized.toColourspace('srgb').ensureAlpha().toFile(path);
      if (signal?.aborted) throw new CancelledError();
      if (channels !== 4 || !(await isBytes(path))) throw new Error('It was not unpacked to four bytes a pixel.');
      return { path, offset: HEADER_BYTES, widthPx: width, heightPx: height, hasAlpha };
    } catch (error) {
      if (signal?.aborted) throw new CancelledError();
      if (storageFaultOf(error)) throw error;
      this.logger.warn(`${asset}: ${String(error)}`);
      throw new InputError('picture', 'A picture of this print cannot be read. Place it anew.', { asset });
    }
  }
}
