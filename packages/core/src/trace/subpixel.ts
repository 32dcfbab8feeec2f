/**
 * Pictures of a screen whose lettering is drawn by the thirds of a pixel: red and blue of an edge lie a third of a pixel
 * to its sides, so that black on white has coloured fringes. The places of clean edges along rows are told for each
 * channel from their sums; where red and blue of most lie two thirds apart, both are moved back. Units pixels.
 */
import type { Pixels } from './pixels.ts';

/** Edges rise by at least so many levels in each channel, */
const HEIGHT = 60;
/** over at most so many pixels. */
const LONGEST = 5;
const FEWEST = 24;
/** Red and blue lie two thirds of a pixel apart, give or take this. */
const APART = 2 / 3;
const WITHIN = 0.25;
const MOST_ROWS = 150;

/** +1 where red lies to the left of blue at most edges, -1 where to the right, 0 where neither. */
function orderOf({ width, height, data }: Pixels): number {
  if (data.byteOffset % 4 !== 0) return 0;
  const apart: number[] = [];
  const step = Math.max(1, Math.floor(height / MOST_ROWS));
  const at = (row: number, x: number, c: number): number => data[4 * (row * width + x) + c] as number;
  const words = new Uint32Array(data.buffer, data.byteOffset, width * height);
  const isLevel = (row: number, x: number): boolean => words[row * width + x] === words[row * width + x + 1];
  for (let row = 0; row < height; row += step)
    for (let x = 0; x + 2 < width; x++) {
      if (!isLevel(row, x) || isLevel(row, x + 1)) continue;
      let end = x + 2;
      while (end + 1 < width && end - x <= LONGEST && !isLevel(row, end)) end++;
      if (end + 1 >= width || end - x > LONGEST) continue;
      const red = placeOfEdge(x, end, (u) => at(row, u, 0));
      const blue = placeOfEdge(x, end, (u) => at(row, u, 2));
      if (red !== undefined && blue !== undefined) apart.push(red - blue);
    }
  if (apart.length < FEWEST) return 0;
  // red that is sampled to the left sees an edge farther to the right
  const sign = [1, -1].find((way) => apart.filter((by) => Math.abs(way * by - APART) < WITHIN).length > apart.length / 2);
  return sign ?? 0;
}

/** Where a sharp edge of the same sum would lie; undefined for one that hardly rises. */
function placeOfEdge(first: number, last: number, level: (x: number) => number): number | undefined {
  const [from, to] = [level(first), level(last)];
  if (Math.abs(to - from) < HEIGHT) return undefined;
  let place = 0;
  for (let x = first; x <= last; x++) place += (to - level(x)) / (to - from);
  return place;
}

/** @returns the same picture when it is none of a screen's thirds */
export function withoutThirds(pixels: Pixels): Pixels {
  const order = orderOf(pixels);
  if (order === 0) return pixels;
  const { width, height, data } = pixels;
  const out = new Uint8ClampedArray(data);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = 4 * (y * width + x);
      const before = x > 0 ? i - 4 : i;
      const after = x + 1 < width ? i + 4 : i;
      const [towards, away] = order > 0 ? [after, before] : [before, after];
      out[i] = (2 * (data[i] as number) + (data[towards] as number)) / 3;
      // green keeps its place, and is softened as the others are
      out[i + 1] = ((data[before + 1] as number) + 4 * (data[i + 1] as number) + (data[after + 1] as number)) / 6;
      out[i + 2] = (2 * (data[i + 2] as number) + (data[away + 2] as number)) / 3;
    }
  return { width, height, data: out };
}
