/** Pictures of a page as PNG. */
import { writePng } from '../write-png.ts';
import type { PdfPicture } from './engine.ts';
import type { ArtworkPicture } from '../artwork.ts';
import type { PictureInPlates } from './plates.ts';
import type { PaintedPicture } from './inks.ts';

const MOST_PIXELS = 100_000_000;

const bytesToBase64 = (bytes: Uint8Array): string => {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const parts: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const [a, b, c] = [bytes[i] as number, bytes[i + 1] ?? 0, bytes[i + 2] ?? 0];
    const pad = bytes.length - i;
    parts.push(
      `${letters[a >> 2]}${letters[((a & 3) << 4) | (b >> 4)]}${pad > 1 ? letters[((b & 15) << 2) | (c >> 6)] : '='}${pad > 2 ? letters[c & 63] : '='}`,
    );
  }
  return parts.join('');
};

/** Pixels of a picture as the parser hands them out. */
function pixelsOf({ width, height, kind, data }: PdfPicture): Uint8Array | undefined {
  if (!data) return undefined;
  if (kind !== 1) return data instanceof Uint8Array ? data : new Uint8Array(data.buffer);
  const out = new Uint8Array(width * height * 3);
  const row = (width + 7) >> 3;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const on = ((data[y * row + (x >> 3)] ?? 0) >> (7 - (x & 7))) & 1;
      out.fill(on * 255, (y * width + x) * 3, (y * width + x) * 3 + 3);
    }
  return out;
}

/** A picture as the base64 text of a PNG; undefined when it cannot be read. */
function pngOf(picture: PdfPicture | null): string | undefined {
  if (!picture || !(picture.width > 0 && picture.height > 0) || picture.width * picture.height > MOST_PIXELS) return undefined;
  const data = pixelsOf(picture);
  return data && bytesToBase64(writePng({ width: picture.width, height: picture.height, data }));
}

type Png = Pick<ArtworkPicture, 'bytesBase64' | 'ink'>;

const twoDigits = (v: number): string => v.toString(16).padStart(2, '0');

/** The look of the one ink of a picture: that of the pixel that has most of it. */
function lookOf(data: Uint8ClampedArray, pixels: Uint8Array, channels: number): string | undefined {
  let best = -1;
  for (let p = 0; 4 * p < data.length; p++) if ((data[4 * p + 3] as number) > (best < 0 ? 127 : (data[4 * best + 3] as number))) best = p;
  return best < 0 ? undefined : `#${[0, 1, 2].map((c) => twoDigits(pixels[channels * best + c] ?? 0)).join('')}`;
}

/** A picture taken apart, as PNGs: what is in process inks first. @param seen the same in plain colours, for its look and what is clear in it */
function pngsOfPlates({ width, height, base, plates }: PictureInPlates, seen: PdfPicture | null): Png[] {
  const pixels = seen && seen.width === width && seen.height === height ? pixelsOf(seen) : undefined;
  const channels = pixels && pixels.length >= 4 * width * height ? 4 : 3;
  const clear = (data: Uint8ClampedArray): Uint8ClampedArray => {
    if (pixels && channels === 4) for (let i = 3; i < data.length; i += 4) data[i] = ((data[i] as number) * (pixels[i] as number)) / 255;
    return data;
  };
  const png = (data: Uint8ClampedArray): string => bytesToBase64(writePng({ width, height, data: clear(data) }));
  return [
    ...(base ? [{ bytesBase64: png(base) }] : []),
    ...plates.map(({ name, hex, data }) => {
      const own = !base && plates.length === 1 && pixels ? (lookOf(data, pixels, channels) ?? hex) : hex;
      const [r, g, b] = [1, 3, 5].map((i) => Number.parseInt(own.slice(i, i + 2), 16)) as [number, number, number];
      for (let i = 0; i < data.length; i += 4) data.set([r, g, b], i);
      return { bytesBase64: png(data), ink: { name, hex: own } };
    }),
  ];
}

/**
 * A picture as PNGs, the lowest first: one, or one for each ink of its own name besides what is in process inks.
 * @returns none when it cannot be read; `isPlain` when inks of their own names were lost, `isShort` when some of them were
 */
export function pngsOf(
  picture: PdfPicture | null,
  painted: PaintedPicture | undefined,
): { pngs: readonly Png[]; isPlain: boolean; isShort: boolean } {
  const isInked = painted !== undefined && painted.inks.length > 0;
  const apart = isInked ? painted.plates() : undefined;
  if (apart) return { pngs: pngsOfPlates(apart, picture), isPlain: false, isShort: apart.isShort };
  const bytesBase64 = pngOf(picture);
  return { pngs: bytesBase64 === undefined ? [] : [{ bytesBase64 }], isPlain: isInked, isShort: false };
}
