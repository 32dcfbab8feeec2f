/**
 * Shapes that are half clear all over. What cuts and prints knows no half-clear film: such a shape is traced in the
 * colour that it has on white. Pixels of it are told by neighbours that are exactly as clear; at its edges, up to two
 * pixels beyond these, what is less clear than the clearest shape is a share of it. Soft shadows are flat nowhere and
 * stay as clear as they are.
 */
import type { Pixels } from './pixels.ts';

/** Pixels more and less clear than this are taken for clear and for solid. */
const CLEAR = 8;
const SOLID = 247;
/** A clearness is that of a shape when flat pixels of it cover this share of the picture. */
const LEAST_SHARE = 0.002;
const BESIDE = 2;

/** @returns the same picture when nothing in it is half clear all over */
export function madeSolid(pixels: Pixels): Pixels {
  const { width, height, data } = pixels;
  const { isFlat, least } = flatOf(pixels);
  if (least < 0 || !isFlat) return pixels;
  const out = new Uint8ClampedArray(data);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const a = data[4 * i + 3] as number;
      if (a < CLEAR || a > SOLID || !isBeside(isFlat, width, height, x, y)) continue;
      const own = Math.max(a, least) / 255;
      for (let c = 0; c < 3; c++) out[4 * i + c] = own * (data[4 * i + c] as number) + 255 * (1 - own);
      out[4 * i + 3] = Math.min(255, (255 * a) / least);
    }
  return { width, height, data: out };
}

/** Half-clear pixels that are like their neighbours, and how clear the clearest shape of them is; -1 when there is none. */
function flatOf({ width, height, data }: Pixels): { isFlat: Uint8Array | undefined; least: number } {
  // most pictures are solid and need none
  let isFlat: Uint8Array | undefined;
  const counts = new Float64Array(256);
  for (let y = 0; y + 1 < height; y++)
    for (let x = 0; x + 1 < width; x++) {
      const i = y * width + x;
      const a = data[4 * i + 3] as number;
      if (a < CLEAR || a > SOLID || !isAlike(data, i, i + 1) || !isAlike(data, i, i + width)) continue;
      isFlat ??= new Uint8Array(width * height);
      isFlat[i] = 1;
      counts[a] = (counts[a] as number) + 1;
    }
  return { isFlat, least: counts.findIndex((n) => n >= Math.max(4, LEAST_SHARE * width * height)) };
}

const isAlike = (data: Uint8ClampedArray, i: number, j: number): boolean => {
  for (let c = 0; c < 4; c++) if (data[4 * i + c] !== data[4 * j + c]) return false;
  return true;
};

function isBeside(flat: Uint8Array, width: number, height: number, x: number, y: number): boolean {
  for (let v = Math.max(0, y - BESIDE); v <= Math.min(height - 1, y + BESIDE); v++)
    for (let u = Math.max(0, x - BESIDE); u <= Math.min(width - 1, x + BESIDE); u++) if (flat[v * width + u] === 1) return true;
  return false;
}
