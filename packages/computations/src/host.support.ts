/** A place for computations in tests: the fonts that ship, files and pictures in memory. */
import { countingClock } from './nest-parts.ts';
import { readFileSync } from 'node:fs';
import zlib from 'node:zlib';
import { AppError } from '@lorvek/core';
import type { Pixels } from '@lorvek/core/trace';
import type { FontEntry, PictureItem } from '@lorvek/model';
import { FontsAtHand } from './fonts-at-hand.ts';
import type { FileHost, FontSource, Painting, PictureHost } from './host.ts';

export const SHIPPED = JSON.parse(readFileSync('assets/fonts/fonts.json', 'utf8')) as FontEntry[];

export const shippedFiles = (id: string): Uint8Array[] | undefined =>
  SHIPPED.find((font) => font.id === id)?.files.map((file) => new Uint8Array(readFileSync(`assets/fonts/${file}`)));

export const shippedFonts: FontSource = {
  list: () => Promise.resolve(SHIPPED),
  files: (id) => Promise.resolve(shippedFiles(id)),
};

const base = {
  now: countingClock(),
  pause: () => Promise.resolve(),
  toBase64: (bytes: Uint8Array) => Buffer.from(bytes).toString('base64'),
};

/** A picture of one colour. */
export function plainPixels(width: number, height: number, rgba: readonly number[] = [200, 30, 30, 255]): Pixels {
  const data = new Uint8ClampedArray(4 * width * height);
  for (let i = 0; i < data.length; i++) data[i] = rgba[i % 4] as number;
  return { width, height, data };
}

/** What was asked of pictures is noted. */
export interface NotedPictures extends PictureHost {
  readonly asked: { opened: string[]; sizes: [number, number][]; closed: number; small: [string, number][]; painted: Painting[] };
}

/** @param pixels of each asset; one that is missing cannot be fetched. Pictures are made larger or smaller by the nearest pixel */
export function pictureHost(pixels: Readonly<Record<string, Pixels>>): NotedPictures {
  const asked: NotedPictures['asked'] = { opened: [], sizes: [], closed: 0, small: [], painted: [] };
  const of = (asset: string): Pixels => {
    const found = pixels[asset];
    if (!found) throw new AppError('offline', 'The picture could not be fetched.');
    return found;
  };
  const named = (item: PictureItem | string): string => (typeof item === 'string' ? item : item.id);
  return {
    ...base,
    fonts: new FontsAtHand(shippedFonts, 1000),
    asked,
    pictures: {
      open: (asset) => {
        asked.opened.push(asset);
        return Promise.resolve(asset)
          .then(of)
          .then((own) => ({
            width: own.width,
            height: own.height,
            pixels: (width, height) => {
              asked.sizes.push([width, height]);
              const data = new Uint8ClampedArray(4 * width * height);
              for (let y = 0; y < height; y++)
                for (let x = 0; x < width; x++) {
                  const from = 4 * (Math.floor((y * own.height) / height) * own.width + Math.floor((x * own.width) / width));
                  data.set(own.data.subarray(from, from + 4), 4 * (y * width + x));
                }
              return { width, height, data };
            },
            close: () => void asked.closed++,
          }));
      },
      file: (item) => Promise.resolve({ bytes: new TextEncoder().encode(item.asset), type: 'image/png' }),
      small: (item, strength) => {
        asked.small.push([named(item), strength]);
        return Promise.resolve(new Uint8Array(readFileSync('docs/screenshots/stock.png')));
      },
      painted: (painting) => {
        asked.painted.push(painting);
        return Promise.resolve(new Uint8Array(readFileSync('docs/screenshots/stock.png')));
      },
    },
  };
}

/** @param files by path; what is written comes to them */
export function fileHost(files: Map<string, Uint8Array>): FileHost & { readonly pieces: number[]; readonly left: { open: number } } {
  const pieces: number[] = [];
  const left = { open: 0 };
  const at = (path: string): Uint8Array => {
    const bytes = files.get(path);
    if (!bytes) throw new Error(`no file ${path}`);
    return bytes;
  };
  return {
    ...base,
    fonts: new FontsAtHand(shippedFonts, 1000),
    pieces,
    left,
    files: {
      read: (path) => Promise.resolve(path).then(at),
      readPart: (path, from, length) => Promise.resolve(path).then((own) => at(own).slice(from, from + length)),
      write: (path, bytes) => Promise.resolve(void files.set(path, bytes)),
      writeInPieces: async (path, work) => {
        const parts: Uint8Array[] = [];
        left.open++;
        try {
          await work((piece) => {
            parts.push(piece.slice());
            pieces.push(piece.length);
            return Promise.resolve();
          });
        } finally {
          left.open--;
          files.set(path, new Uint8Array(Buffer.concat(parts)));
        }
      },
    },
    unpackWoff2: () => Promise.reject(new Error('damaged')),
    packRows: (rows) => new Uint8Array(zlib.deflateSync(rows)),
  };
}
