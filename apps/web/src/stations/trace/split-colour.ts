/** A colour of a picture taken as two: means of the halves of its pixels (S. Lloyd, Least Squares Quantization, 1982). */
import { hexOf, labOf, rgbOf, type Lab } from '@lorvek/core/colour';
import type { Pixels } from '@lorvek/core/trace';

const ROUNDS = 12;
const MOST_LOOKED_AT = 60_000;

const distance = (p: Lab, q: Lab): number => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);

/** @param others all colours of the picture @returns undefined when its pixels are all alike */
export function splitColour({ data }: Pixels, hex: string, others: readonly string[]): [string, string] | undefined {
  const palette = [...new Set([hex, ...others])].map((one) => ({ hex: one, lab: labOf(rgbOf(one)) }));
  const step = Math.max(1, Math.floor(data.length / 4 / MOST_LOOKED_AT));
  const own: { rgb: [number, number, number]; lab: Lab }[] = [];
  for (let i = 0; i < data.length; i += 4 * step) {
    if ((data[i + 3] ?? 0) < 250) continue;
    const rgb: [number, number, number] = [data[i] ?? 0, data[i + 1] ?? 0, data[i + 2] ?? 0];
    const lab = labOf(rgb);
    const nearest = palette.reduce((best, one) => (distance(one.lab, lab) < distance(best.lab, lab) ? one : best));
    if (nearest.hex === hex) own.push({ rgb, lab });
  }
  if (own.length < 2) return undefined;
  const farthestFrom = (lab: Lab): Lab => own.reduce((best, one) => (distance(one.lab, lab) > distance(best.lab, lab) ? one : best)).lab;
  let centres: [Lab, Lab] = [farthestFrom(labOf(rgbOf(hex))), [0, 0, 0]];
  centres[1] = farthestFrom(centres[0]);
  if (distance(...centres) < 2) return undefined;
  let halves: (typeof own)[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    halves = [0, 1].map((k) => own.filter(({ lab }) => distance(lab, centres[0]) <= distance(lab, centres[1]) === (k === 0)));
    const mean = (list: typeof own): Lab =>
      [0, 1, 2].map((c) => list.reduce((sum, { lab }) => sum + (lab[c] ?? 0), 0) / Math.max(1, list.length)) as unknown as Lab;
    centres = [mean(halves[0] ?? []), mean(halves[1] ?? [])];
  }
  const [one, two] = halves.map((list) =>
    hexOf([0, 1, 2].map((c) => list.reduce((sum, { rgb }) => sum + (rgb[c] ?? 0), 0) / Math.max(1, list.length))),
  );
  return one && two && one !== two ? [one, two] : undefined;
}
