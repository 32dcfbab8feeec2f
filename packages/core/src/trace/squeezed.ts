/**
 * Pictures squeezed by JPEG. Their blocks of eight pixels show; brightness is kept well, hue is kept at half the size
 * and smears over edges. So colours are compared with hue weighing less (muted): what is left is mostly brightness,
 * which tells the edges. Units levels and pixels.
 */
import type { FlatColour } from './palette.ts';
import { lightAt, type Plane } from './pixels.ts';

const BLOCK = 8;
/** Steps between neighbours above this are edges, no seams of blocks. */
const EDGE = 20;
/** One step counts for no more. */
const MOST_STEP = 6;
/** Seams show when steps at one of eight columns or rows are so many times those at the next. */
const SEAMS = 1.12;
const LEAST_SEAM = 0.15;

/**
 * Do the blocks show: is the picture stepped at every eighth column, or row, more than elsewhere? Edges of its own may
 * hide the one or the other, or look like it; so one is enough where blocks begin as they do in a whole picture, else
 * both must show.
 */
export function hasBlocks(plane: Plane): boolean {
  const { width, height } = plane;
  const columns = seamOf(plane, { length: width, next: 1, lines: height, line: width });
  const rows = seamOf(plane, { length: height, next: width, lines: width, line: 1 });
  return columns === 0 || rows === 0 || (columns !== undefined && rows !== undefined);
}

interface Lines {
  /** Pixels of a line, and from one to the next of it. */
  readonly length: number;
  readonly next: number;
  /** How many lines, and from one to the next. */
  readonly lines: number;
  readonly line: number;
}

/** Lines that are looked at. */
const MOST_LINES = 500;

/** Which of eight places along lines is stepped more than the others; undefined for none. */
function seamOf({ rgb }: Plane, { length, next, lines, line }: Lines): number | undefined {
  const [sums, counts] = [new Float64Array(BLOCK), new Float64Array(BLOCK)];
  const y = (i: number): number => lightAt(rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number);
  const step = Math.max(1, Math.floor(lines / MOST_LINES));
  for (let k = 0; k < lines; k += step)
    for (let x = 2; x < length - 1; x++) {
      const i = k * line + x * next;
      const [a, b, c, d] = [y(i - 2 * next), y(i - next), y(i), y(i + next)];
      const here = Math.abs(c - b);
      if (here > EDGE) continue;
      const more = here - (Math.abs(b - a) + Math.abs(d - c)) / 2;
      sums[x % BLOCK] = (sums[x % BLOCK] as number) + Math.min(MOST_STEP, Math.max(0, more));
      counts[x % BLOCK] = (counts[x % BLOCK] as number) + 1;
    }
  const means = sums.map((sum, k) => sum / Math.max(1, counts[k] as number));
  const [most = 0, second = 0] = [...means].sort((p, q) => q - p);
  return most > LEAST_SEAM && most > SEAMS * second ? means.indexOf(most) : undefined;
}

/** What hue weighs where colours are looked for, and where pixels are taken apart into known ones. */
export const HUE_OF_COLOURS = 0.5;
/** What hue counts for when shares of colours are told in such pictures. */
export const HUE_OF_SHARES = 0.25;

const mutedRgb = (r: number, g: number, b: number, hue: number): [number, number, number] => {
  const y = lightAt(r, g, b);
  return [y + hue * (r - y), y + hue * (g - y), y + hue * (b - y)];
};

/** A picture whose hue weighs less than its brightness. @param hue share of it that is kept */
export function mutedPlane(plane: Plane, hue: number): Plane {
  const rgb = new Uint8ClampedArray(plane.rgb.length);
  for (let i = 0; i < rgb.length; i += 3) {
    const [r, g, b] = mutedRgb(plane.rgb[i] as number, plane.rgb[i + 1] as number, plane.rgb[i + 2] as number, hue);
    rgb[i] = r;
    rgb[i + 1] = g;
    rgb[i + 2] = b;
  }
  return { ...plane, rgb, words: undefined };
}

/** The same of one colour. */
export const mutedColour = (colour: FlatColour, hue: number): FlatColour => ({ ...colour, rgb: mutedRgb(...colour.rgb, hue) });

/** How far two colours are apart in brightness and in hue that weighs half, levels (Euclidean); endless from what is clear. */
export function mutedApart(one: FlatColour | undefined, other: FlatColour | undefined): number {
  if (!one || !other) return Infinity;
  const [p, q] = [mutedColour(one, HUE_OF_COLOURS).rgb, mutedColour(other, HUE_OF_COLOURS).rgb];
  return Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
}

/** A picture and its colours as they are compared, and as they are seen. */
export interface Compared {
  readonly plane: Plane;
  readonly palette: readonly FlatColour[];
  readonly seen: { readonly plane: Plane; readonly palette: readonly FlatColour[] };
}

/** A picture and its colours as they are compared: with their hue muted when that is asked. */
export function comparedBy(hue: number | undefined, plane: Plane, palette: readonly FlatColour[]): Compared {
  const seen = { plane, palette };
  if (hue === undefined || hue >= 1) return { plane, palette, seen };
  return { plane: mutedPlane(plane, hue), palette: palette.map((colour) => mutedColour(colour, hue)), seen };
}
