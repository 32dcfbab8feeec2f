/** PNG (ISO/IEC 15948) of 8-bit RGBA, RGB or grey pixels, unfiltered rows, with its resolution when that is known. */
import { zlibSync } from 'fflate';

const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

function crc(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of bytes) c = (CRC[(c ^ byte) & 255] as number) ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}

function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(data.length + 12);
  const view = new DataView(out.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i);
  out.set(data, 8);
  view.setUint32(8 + data.length, crc(out.subarray(4, 8 + data.length)));
  return out;
}

/** What is written: pixels, and how many of them lie on a mm. */
export interface PngPicture {
  readonly width: number;
  readonly height: number;
  /** 4 bytes a pixel (RGBA, straight alpha) or 3 (RGB), top row first. */
  readonly data: Uint8Array | Uint8ClampedArray;
  readonly pixelsPerMm?: number;
  /** Height of a pixel by its width; 1 when absent. */
  readonly pixelAspect?: number;
  /** Packs the rows (zlib, RFC 1950) where the host knows a faster way. */
  readonly pack?: (rows: Uint8Array) => Uint8Array;
}

/** Pixels a unit are told in whole numbers. */
const ASPECT_STEPS = 10_000;

/** The chunk that tells how large a pixel is, or only how tall for its width (ISO/IEC 15948, 11.3.4.3). */
function sizeChunk(pixelsPerMm: number | undefined, pixelAspect: number): Uint8Array {
  const size = new Uint8Array(9);
  const view = new DataView(size.buffer);
  const across = pixelsPerMm === undefined ? ASPECT_STEPS : pixelsPerMm * 1000;
  view.setUint32(0, Math.round(across));
  view.setUint32(4, Math.round(across / pixelAspect));
  size[8] = pixelsPerMm === undefined ? 0 : 1;
  return chunk('pHYs', size);
}

/** End of a PNG's signature and head, after which the size of its pixels may come. */
const HEAD_END = 33;

/**
 * A PNG that says how large its pixels are.
 * @param png as an encoder wrote it
 * @returns the same bytes with a pHYs chunk behind the head
 */
export function withResolution(png: Uint8Array, pixelsPerMm: number): Uint8Array {
  const size = sizeChunk(pixelsPerMm, 1);
  const out = new Uint8Array(png.length + size.length);
  out.set(png.subarray(0, HEAD_END));
  out.set(size, HEAD_END);
  out.set(png.subarray(HEAD_END), HEAD_END + size.length);
  return out;
}

/** Of grey, of colours, of colours with alpha (ISO/IEC 15948, 11.2.2). */
const COLOUR_TYPES = { 1: 0, 3: 2, 4: 6 } as const;

const packed = (rows: Uint8Array): Uint8Array => zlibSync(rows, { level: 6 });

/** A PNG file (ISO/IEC 15948). @param pack compresses bytes as zlib does */
export function writePng({ width, height, data, pixelsPerMm, pixelAspect = 1, pack = packed }: PngPicture): Uint8Array {
  const channels = data.length >= width * height * 4 ? 4 : data.length >= width * height * 3 ? 3 : 1;
  const rows = new Uint8Array(height * (width * channels + 1));
  for (let y = 0; y < height; y++)
    rows.set(data.subarray(y * width * channels, (y + 1) * width * channels), y * (width * channels + 1) + 1);
  const head = new Uint8Array(13);
  const view = new DataView(head.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  head.set([8, COLOUR_TYPES[channels], 0, 0, 0], 8);
  const parts = [Uint8Array.from(SIGNATURE), chunk('IHDR', head)];
  if (pixelsPerMm !== undefined || pixelAspect !== 1) parts.push(sizeChunk(pixelsPerMm, pixelAspect));
  parts.push(chunk('IDAT', pack(rows)), chunk('IEND', new Uint8Array()));
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
