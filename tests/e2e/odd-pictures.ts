/**
 * Pictures as customers send them that are not eight bits of red, green and blue. Beside this lie a JPEG in four inks
 * and a GIF of two frames, both drawn for these tests.
 */
import { readFileSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { chunk } from '../../demo/hull-picture.ts';

export const fourInks = (): Buffer => readFileSync(new URL('./pictures/four-inks.jpg', import.meta.url));
export const moving = (): Buffer => readFileSync(new URL('./pictures/moving.gif', import.meta.url));

/** A PNG of sixteen bits a channel (ISO/IEC 15948) with a disc in its middle; the head may say that it is larger. */
export function sixteenBits(width: number, height: number, disc: readonly [number, number, number], said = [width, height]): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(said[0] ?? width, 0);
  head.writeUInt32BE(said[1] ?? height, 4);
  head.set([16, 2, 0, 0, 0], 8);
  const rows = Buffer.alloc(height * (1 + 6 * width));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const inside = Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) < height / 3;
      for (let c = 0; c < 3; c++) rows.writeUInt16BE(257 * (inside ? (disc[c] ?? 0) : 255), y * (1 + 6 * width) + 1 + 6 * x + 2 * c);
    }
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  return Buffer.concat([signature, chunk('IHDR', head), chunk('IDAT', deflateSync(rows)), chunk('IEND', Buffer.alloc(0))]);
}
