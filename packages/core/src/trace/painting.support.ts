/** Pictures painted for tests: known shapes with the exact coverage of every pixel, and noise that is the same every time. */
import { rgbOf } from '../colour/index.ts';
import { flatten, type Outline } from '../geometry/index.ts';
import type { Pixels } from './index.ts';

export interface Painted {
  readonly hex: string;
  readonly outline: Outline;
}

const FINE = 8;

/** Shares of the pixels of a row that an outline covers: its crossings with some lines through the row, filled by winding. */
function rowOf(lines: ReturnType<typeof flatten>, y: number, width: number): Float64Array {
  const out = new Float64Array(width);
  for (let v = 0; v < FINE; v++) {
    const at = y + (v + 0.5) / FINE;
    const crossings: [number, number][] = [];
    for (const { xy } of lines)
      for (let i = 0; i < xy.length; i += 2) {
        const [ax, ay] = [xy[i] as number, xy[i + 1] as number];
        const [bx, by] = [xy[(i + 2) % xy.length] as number, xy[(i + 3) % xy.length] as number];
        if (ay <= at !== by <= at) crossings.push([ax + ((at - ay) / (by - ay)) * (bx - ax), by > ay ? 1 : -1]);
      }
    crossings.sort((a, b) => a[0] - b[0]);
    let winding = 0;
    crossings.forEach(([x, turn], i) => {
      winding += turn;
      const end = crossings[i + 1]?.[0];
      if (winding === 0 || end === undefined) return;
      for (let u = Math.max(0, Math.floor(x)); u < Math.min(width, Math.ceil(end)); u++)
        out[u] = (out[u] as number) + Math.max(0, Math.min(u + 1, end) - Math.max(u, x)) / FINE;
    });
  }
  return out;
}

/** Paints shapes (pixels, y up) with the share of every pixel that they cover. */
export function paint(width: number, height: number, ground: string, shapes: readonly Painted[]): Pixels {
  const data = new Uint8ClampedArray(width * height * 4).fill(255);
  for (let y = 0; y < height; y++) {
    const row = Array.from({ length: width }, () => [...rgbOf(ground)]);
    for (const { hex, outline } of shapes) {
      const shares = rowOf(flatten(outline, 0.01), height - 1 - y, width);
      row.forEach((rgb, x) =>
        rgbOf(hex).forEach((v, c) => (rgb[c] = (rgb[c] as number) * (1 - (shares[x] as number)) + v * (shares[x] as number))),
      );
    }
    row.forEach((rgb, x) => data.set(rgb, 4 * (y * width + x)));
  }
  return { width, height, data };
}

/** A small generator, so that noise is the same every time. */
export const noise = (seed: number): (() => number) => {
  let s = seed;
  return () => {
    s = (s * 1_103_515_245 + 12_345) % 2_147_483_648;
    return s / 2_147_483_648 - 0.5;
  };
};
