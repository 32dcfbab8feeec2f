/** Pictures unpacked for printing and for the screen, on a real data folder. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { existsSync, readFileSync, statSync } from 'node:fs';
import sharp from 'sharp';
import { AssetsService } from '../src/assets/assets.module.ts';
import { PicturesService } from '../src/assets/pictures.service.ts';
import type { RawPicture } from '@lorvek/computations/with-files';
import { startServer, type TestServer } from './support.ts';

const [WIDTH, HEIGHT] = [90, 60];
/** Each pixel unlike its neighbours, some of them clear. */
const samples = (channels: 1 | 3 | 4): Buffer =>
  Buffer.from(Uint8Array.from({ length: WIDTH * HEIGHT * channels }, (_, i) => (i * 37 + (i >> 5) * 11) % 256));
const from = (channels: 1 | 3 | 4) => sharp(samples(channels), { raw: { width: WIDTH, height: HEIGHT, channels } });

describe('pictures', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await startServer();
  });
  afterAll(() => server.close());

  const keep = async (bytes: Buffer): Promise<string> => (await server.app.get(AssetsService).keep(bytes)).asset;
  const unpack = <T>(asset: string, use: (raw: RawPicture) => T, mostPx?: number): Promise<T> =>
    server.app
      .get(PicturesService)
      .unpacked([asset], (pictures) => Promise.resolve(use(pictures[asset]!)), mostPx === undefined ? {} : { mostPx });
  const pixels = ({ path, offset, widthPx, heightPx }: RawPicture): Buffer =>
    readFileSync(path).subarray(offset, offset + 4 * widthPx * heightPx);

  test.each([
    ['colours', () => from(3).png().toBuffer()],
    ['colours that let through', () => from(4).png().toBuffer()],
    ['grey', () => from(1).png().toBuffer()],
    ['sixteen bits', () => from(3).toColourspace('rgb16').png().toBuffer()],
    ['four inks', () => from(3).toColourspace('cmyk').jpeg({ quality: 100 }).toBuffer()],
    ['turned by its camera', () => from(3).withMetadata({ orientation: 6 }).jpeg({ quality: 100 }).toBuffer()],
  ])('of %s are unpacked to four bytes a pixel, upright, as they are seen', async (_, make) => {
    const bytes = await make();
    const { hasAlpha } = await sharp(bytes).metadata();
    const asset = await keep(bytes);
    const seen = await sharp(bytes).rotate().toColourspace('srgb').ensureAlpha().raw().toBuffer({ resolveWithObject: true });
    await unpack(asset, (raw) => {
      expect([raw.widthPx, raw.heightPx]).toEqual([seen.info.width, seen.info.height]);
      expect(raw.hasAlpha).toBe(hasAlpha);
      expect(pixels(raw).equals(seen.data)).toBe(true);
    });
  });

  test('are gone from the disk when they have been used, also when that failed', async () => {
    const asset = await keep(await from(3).png().toBuffer());
    const path = await unpack(asset, (raw) => raw.path);
    expect(existsSync(path)).toBe(false);
    let other = '';
    await expect(
      unpack(asset, (raw) => {
        other = raw.path;
        throw new Error('in the middle');
      }),
    ).rejects.toThrow('in the middle');
    expect(other).not.toBe('');
    expect(existsSync(other)).toBe(false);
  });

  test('for the screen are unpacked once; one that is let go stays for whoever reads it', async () => {
    const asset = await keep(await from(4).png().toBuffer());
    const node = (raw: RawPicture): number => statSync(raw.path).ino;
    const first = await unpack(asset, node, 30);
    expect(await unpack(asset, node, 30)).toBe(first);
    expect(await unpack(asset, (raw) => Math.max(raw.widthPx, raw.heightPx), 30)).toBe(30);
    expect(await unpack(asset, node, 20)).not.toBe(first);
    const others = await Promise.all(
      Array.from({ length: 20 }, async (_, i) =>
        keep(
          await from(3)
            .tint({ r: 10 * i, g: 40, b: 200 })
            .png()
            .toBuffer(),
        ),
      ),
    );
    const pictures = server.app.get(PicturesService);
    await pictures.unpacked(
      [asset],
      async ({ [asset]: raw }) => {
        const before = pixels(raw!);
        for (const other of others) await unpack(other, () => undefined, 30);
        expect(pixels(raw!).equals(before)).toBe(true);
      },
      { mostPx: 30 },
    );
  });

  test('that cannot be read are refused in words', async () => {
    const asset = await keep(await from(3).png().toBuffer());
    const pictures = server.app.get(PicturesService);
    await expect(
      pictures.unpacked([`${asset.slice(0, -1)}${asset.endsWith('0') ? '1' : '0'}`], () => Promise.resolve(1)),
    ).rejects.toMatchObject({ code: 'input.picture' });
  });
});
