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

/** A TIFF (6.0) in four process inks and one of a name of its own, which is a disc in the middle; 100 dots an inch. */
export function withSpotInk(width: number, height: number, name: string): Buffer {
  const strip = Buffer.alloc(5 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const inside = Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) < height / 3;
      strip.set([200, 60, 20, 10, inside ? 255 : 0], 5 * (y * width + x));
    }
  const names = Buffer.from(`${name}\0`, 'latin1');
  const tail = Buffer.concat([Buffer.from(new Uint16Array(5).fill(8).buffer), Buffer.from(new Uint32Array([100, 1]).buffer), names]);
  const [bits, dots, named] = [8 + strip.length, 18 + strip.length, 26 + strip.length];
  const tags: readonly (readonly [tag: number, kind: number, count: number, value: number])[] = [
    [256, 4, 1, width],
    [257, 4, 1, height],
    [258, 3, 5, bits],
    [259, 3, 1, 1],
    [262, 3, 1, 5],
    [273, 4, 1, 8],
    [277, 3, 1, 5],
    [278, 4, 1, height],
    [279, 4, 1, strip.length],
    [282, 5, 1, dots],
    [283, 5, 1, dots],
    [296, 3, 1, 2],
    [333, 2, names.length, named],
    [338, 3, 1, 0],
  ];
  const directory = Buffer.alloc(2 + 12 * tags.length + 4);
  directory.writeUInt16LE(tags.length, 0);
  tags.forEach(([tag, kind, count, value], i) => {
    directory.writeUInt16LE(tag, 2 + 12 * i);
    directory.writeUInt16LE(kind, 4 + 12 * i);
    directory.writeUInt32LE(count, 6 + 12 * i);
    directory.writeUInt32LE(value, 10 + 12 * i);
  });
  const head = Buffer.from([0x49, 0x49, 42, 0, 0, 0, 0, 0]);
  head.writeUInt32LE(8 + strip.length + tail.length, 4);
  return Buffer.concat([head, strip, tail, directory]);
}
