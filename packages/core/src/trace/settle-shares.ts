/** Shares taken anew where labels have changed since they were first told. Units pixels and levels. */
import { Mixture } from './mixture.ts';
import type { FlatColour } from './palette.ts';
import type { Plane } from './pixels.ts';
import { comparedBy } from './squeezed.ts';
import type { Shares } from './shares.ts';
import type { UnmixOptions } from './unmix.ts';

/** How far around a mixed pixel its two colours must be seen among the labels. */
const SETTLED = 2;

/**
 * Once labels are settled, pixels that are mixed of a colour that is none around them any more are taken apart anew,
 * among those that are; else an edge would be bent wherever a third colour was taken in.
 * @param labels of each pixel; changed where another colour comes to be most of one
 */
export function settleShares(
  seenPlane: Plane,
  seenPalette: readonly FlatColour[],
  shares: Shares,
  labels: Uint8Array,
  { hue, clear }: Pick<UnmixOptions, 'hue' | 'clear'>,
): void {
  const { plane, palette } = comparedBy(hue, seenPlane, seenPalette);
  const { width, height, first, second } = shares;
  const mixture = new Mixture(palette);
  const settled = labels.slice();
  const seen: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const [a, b] = [first[i] as number, second[i] as number];
      if (a === b && !(isBeside(settled, x, y, width, height) && offColour(plane, i, palette[a]) > TAKEN_IN)) continue;
      gatherAround(settled, x, y, shares, seen);
      if (a === clear || b === clear || (clear !== undefined && seen.includes(clear))) continue;
      if (a !== b && seen.includes(a) && seen.includes(b)) continue;
      mixture.start(plane.rgb[3 * i] as number, plane.rgb[3 * i + 1] as number, plane.rgb[3 * i + 2] as number);
      mixture.among(seen);
      shares.mix(i, mixture.a, mixture.b, mixture.t);
      labels[i] = mixture.a;
    }
}

/** Labels around a pixel, each once, into a list. */
function gatherAround(labels: Uint8Array, x: number, y: number, { width, height }: Shares, into: number[]): void {
  into.length = 0;
  for (let v = Math.max(0, y - SETTLED); v <= Math.min(height - 1, y + SETTLED); v++)
    for (let u = Math.max(0, x - SETTLED); u <= Math.min(width - 1, x + SETTLED); u++) {
      const k = labels[v * width + u] as number;
      if (!into.includes(k)) into.push(k);
    }
}

/** A pixel on an edge that is farther off its colour than this was taken into it, levels. */
const TAKEN_IN = 26;

const isBeside = (labels: Uint8Array, x: number, y: number, width: number, height: number): boolean => {
  const i = y * width + x;
  const own = labels[i];
  if (x > 0 && labels[i - 1] !== own) return true;
  if (x + 1 < width && labels[i + 1] !== own) return true;
  return (y > 0 && labels[i - width] !== own) || (y + 1 < height && labels[i + width] !== own);
};

function offColour({ rgb }: Plane, i: number, colour: FlatColour | undefined): number {
  if (!colour) return 0;
  const [r, g, b] = colour.rgb;
  return Math.hypot((rgb[3 * i] as number) - r, (rgb[3 * i + 1] as number) - g, (rgb[3 * i + 2] as number) - b);
}
