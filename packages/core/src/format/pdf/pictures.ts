/** Pictures of a page as PNG. */
import { writePng } from '../write-png.ts';
import type { PdfPicture } from './engine.ts';

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
export function pngOf(picture: PdfPicture | null): string | undefined {
  if (!picture || !(picture.width > 0 && picture.height > 0) || picture.width * picture.height > MOST_PIXELS) return undefined;
  const data = pixelsOf(picture);
  return data && bytesToBase64(writePng({ width: picture.width, height: picture.height, data }));
}
