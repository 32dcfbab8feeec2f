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

/** As a scanner takes a picture: blurred by a pixel each way, a little grain, paper that is not quite white. */
export function asTaken({ width, height, data }: Pixels, seed: number): Pixels {
  const next = noise(seed);
  const out = new Uint8ClampedArray(data);
  const [side, middle] = [0.25, 0.5];
  const at = (x: number, y: number, c: number): number =>
    data[4 * (Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x))) + c] as number;
  const row = (x: number, y: number, c: number): number => side * (at(x - 1, y, c) + at(x + 1, y, c)) + middle * at(x, y, c);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const grain = 14 * next();
      for (let c = 0; c < 3; c++) {
        const level = side * (row(x, y - 1, c) + row(x, y + 1, c)) + middle * row(x, y, c);
        out[4 * (y * width + x) + c] = 0.97 * level + grain + 6 * next();
      }
    }
  return { width, height, data: out };
}

/** How coarsely JPEG keeps brightness and hue at its middle quality (ITU-T T.81, Annex K), every other row and column of the tables. */
const KEPT = {
  brightness: [
    [16, 10, 24, 51],
    [14, 16, 40, 69],
    [18, 37, 68, 103],
    [49, 78, 103, 120],
  ],
  hue: [
    [17, 24, 99, 99],
    [24, 56, 99, 99],
    [99, 99, 99, 99],
    [99, 99, 99, 99],
  ],
};

/** Eight waves at eight places (discrete cosine transform). */
const WAVES = Array.from({ length: 8 }, (_, k) =>
  Float64Array.from({ length: 8 }, (_, x) => (k === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos(((2 * x + 1) * k * Math.PI) / 16)),
);

/** Rows of eight by eight numbers to waves, or waves to rows, and then turned over the diagonal: twice is both ways. */
const turned = (from: Float64Array, isBack: boolean): Float64Array => {
  const out = new Float64Array(64);
  for (let row = 0; row < 8; row++)
    for (let k = 0; k < 8; k++) {
      let sum = 0;
      for (let x = 0; x < 8; x++) sum += (from[8 * row + x] as number) * ((isBack ? WAVES[x]?.[k] : WAVES[k]?.[x]) ?? 0);
      out[8 * k + row] = sum;
    }
  return out;
};

/** One channel through blocks of eight waves each way, each kept in steps. */
function blocks(channel: Float64Array, width: number, height: number, steps: readonly (readonly number[])[], coarse: number): void {
  const step = (v: number, u: number): number => coarse * (steps[v >> 1]?.[u >> 1] ?? 99);
  for (let y0 = 0; y0 < height; y0 += 8)
    for (let x0 = 0; x0 < width; x0 += 8) {
      const block = Float64Array.from(
        { length: 64 },
        (_, i) => channel[Math.min(height - 1, y0 + (i >> 3)) * width + Math.min(width - 1, x0 + (i & 7))] as number,
      );
      const waves = turned(turned(block, false), false).map((v, i) => Math.round(v / step(i >> 3, i & 7)) * step(i >> 3, i & 7));
      const back = turned(turned(waves, true), true);
      for (let y = 0; y < 8 && y0 + y < height; y++)
        for (let x = 0; x < 8 && x0 + x < width; x++) channel[(y0 + y) * width + x0 + x] = back[8 * y + x] as number;
    }
}

/** As JPEG leaves a picture whose sides are even: hue at half the size, blocks of eight kept in steps. @param coarse 1 is quality 50 */
export function squeezed({ width, height, data }: Pixels, coarse = 1): Pixels {
  const [w, h] = [width / 2, height / 2];
  const y = new Float64Array(width * height);
  const hues = [new Float64Array(w * h), new Float64Array(w * h)] as const;
  for (let i = 0; i < y.length; i++) {
    const [r, g, b] = [data[4 * i] as number, data[4 * i + 1] as number, data[4 * i + 2] as number];
    y[i] = 0.299 * r + 0.587 * g + 0.114 * b - 128;
    const j = (Math.floor(i / width) >> 1) * w + ((i % width) >> 1);
    [0.564 * (b - 128 - (y[i] as number)), 0.713 * (r - 128 - (y[i] as number))].forEach((v, c) => {
      const hue = hues[c as 0 | 1];
      hue[j] = (hue[j] as number) + v / 4;
    });
  }
  blocks(y, width, height, KEPT.brightness, coarse);
  hues.forEach((hue) => blocks(hue, w, h, KEPT.hue, coarse));
  // doubled by the nearer three quarters and the farther quarter each way
  const doubled = (hue: Float64Array, px: number, py: number): number => {
    const near = (p: number, size: number): readonly [number, number] => [
      p >> 1,
      Math.min(size - 1, Math.max(0, (p >> 1) + (p % 2 === 0 ? -1 : 1))),
    ];
    const [[x0, x1], [y0, y1]] = [near(px, w), near(py, h)];
    const row = (v: number): number => 0.75 * (hue[v * w + x0] as number) + 0.25 * (hue[v * w + x1] as number);
    return 0.75 * row(y0) + 0.25 * row(y1);
  };
  const out = new Uint8ClampedArray(data);
  for (let i = 0; i < y.length; i++) {
    const [blue, red] = hues.map((hue) => doubled(hue, i % width, Math.floor(i / width))) as [number, number];
    const level = (y[i] as number) + 128;
    out.set([level + red / 0.713, level - (0.114 / 0.587) * (blue / 0.564) - (0.299 / 0.587) * (red / 0.713), level + blue / 0.564], 4 * i);
  }
  return { width, height, data: out };
}
