/** A colour of a picture taken as two: means of the halves of its pixels (S. Lloyd, Least Squares Quantization, 1982). */
import { hexOf, labOf, rgbOf, type Lab } from '@lorvek/core/colour';
import type { Pixels } from '@lorvek/core/trace';

const ROUNDS = 12;
const MOST_LOOKED_AT = 60_000;

const distance = (p: Lab, q: Lab): number => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);

interface Pixel {
  readonly rgb: readonly [number, number, number];
  readonly lab: Lab;
}

/** Solid pixels that are nearer to a colour than to the others; some of them, of a large picture. */
function pixelsOf({ data }: Pixels, hex: string, others: readonly string[]): Pixel[] {
  const palette = [...new Set([hex, ...others])].map((one) => ({ hex: one, lab: labOf(rgbOf(one)) }));
  const step = Math.max(1, Math.floor(data.length / 4 / MOST_LOOKED_AT));
  const own: Pixel[] = [];
  for (let i = 0; i < data.length; i += 4 * step) {
    if ((data[i + 3] ?? 0) < 250) continue;
    const rgb: [number, number, number] = [data[i] ?? 0, data[i + 1] ?? 0, data[i + 2] ?? 0];
    const lab = labOf(rgb);
    const nearest = palette.reduce((best, one) => (distance(one.lab, lab) < distance(best.lab, lab) ? one : best));
    if (nearest.hex === hex) own.push({ rgb, lab });
  }
  return own;
}

/** Mean of each channel. */
const meanOf = (list: readonly (readonly number[])[]): number[] =>
  [0, 1, 2].map((c) => list.reduce((sum, v) => sum + (v[c] ?? 0), 0) / Math.max(1, list.length));

/** @param others all colours of the picture @returns undefined when its pixels are all alike */
export function splitColour(pixels: Pixels, hex: string, others: readonly string[]): [string, string] | undefined {
  const own = pixelsOf(pixels, hex, others);
  if (own.length < 2) return undefined;
  const farthestFrom = (lab: Lab): Lab => own.reduce((best, one) => (distance(one.lab, lab) > distance(best.lab, lab) ? one : best)).lab;
  let a = farthestFrom(labOf(rgbOf(hex)));
  let b = farthestFrom(a);
  if (distance(a, b) < 2) return undefined;
  let halves: Pixel[][] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const isFirst = ({ lab }: Pixel): boolean => distance(lab, a) <= distance(lab, b);
    halves = [own.filter(isFirst), own.filter((pixel) => !isFirst(pixel))];
    [a, b] = halves.map((half) => meanOf(half.map(({ lab }) => lab)) as unknown as Lab) as [Lab, Lab];
  }
  const [one, two] = halves.map((half) => hexOf(meanOf(half.map(({ rgb }) => rgb))));
  return one && two && one !== two ? [one, two] : undefined;
}
