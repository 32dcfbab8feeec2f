/**
 * Pictures in steps: a few exact colours and nothing between them, as old drawing programs and moving pictures have
 * them. Nothing tells where an edge lies within a pixel, so each pixel is given the colours of its nine as shares: steps
 * become slopes, as blurring two colours does, and no two colours make a third.
 */
import { colourOf, labApart, type FlatColour } from './palette.ts';
import type { Plane } from './pixels.ts';
import { Shares } from './shares.ts';

/** More exact colours than these are no steps. */
const MOST = 64;
/** So few pixels are no colour of their own, */
const FEWEST = 4;
/** nor are colours nearer to a commoner one, ΔE 1976. */
const APART = 6;
/** Edges of steps have pixels between their two sides no oftener than this share of them, */
const BLENDS = 0.04;
/** and corners at least in this share: where there are fewer, edges run along the pixels and lie where they seem. */
const CORNERS = 0.08;
/** A pixel lies between two colours when it is off their mixtures by no more levels. */
const BETWEEN_LEVELS = 12;

export interface Stepped {
  /** Exact colours, the commonest first. */
  readonly colours: readonly FlatColour[];
  /** Of each pixel; what is clear has the number after the last colour. */
  readonly labels: Uint8Array;
}

const CLEAR = -1;

/** Numbers of the exact colours, pixel by pixel; undefined when there are too many, or pixels are half clear. */
function exactColours({ width, height, rgb, alpha }: Plane): { numbers: Int16Array; keys: number[]; counts: number[] } | undefined {
  const numbers = new Int16Array(width * height);
  const known = new Map<number, number>();
  const counts: number[] = [];
  for (let i = 0; i < numbers.length; i++) {
    const clearness = alpha ? (alpha[i] as number) : 255;
    if (clearness === 0) {
      numbers[i] = CLEAR;
      continue;
    }
    if (clearness !== 255) return undefined;
    const key = ((rgb[3 * i] as number) << 16) | ((rgb[3 * i + 1] as number) << 8) | (rgb[3 * i + 2] as number);
    let number = known.get(key);
    if (number === undefined) {
      if (known.size === MOST) return undefined;
      known.set(key, (number = known.size));
      counts.push(0);
    }
    numbers[i] = number;
    counts[number] = (counts[number] as number) + 1;
  }
  return { numbers, keys: [...known.keys()], counts };
}

type Rgb = readonly [number, number, number];

/** Is a colour a mixture of two others? */
function isBetween(p: Rgb, q: Rgb, r: Rgb): boolean {
  const way = [r[0] - p[0], r[1] - p[1], r[2] - p[2]] as const;
  const own = [q[0] - p[0], q[1] - p[1], q[2] - p[2]] as const;
  const t = (way[0] * own[0] + way[1] * own[1] + way[2] * own[2]) / Math.max(1, way[0] ** 2 + way[1] ** 2 + way[2] ** 2);
  return t > 0.08 && t < 0.92 && Math.hypot(own[0] - t * way[0], own[1] - t * way[1], own[2] - t * way[2]) <= BETWEEN_LEVELS;
}

/** Do edges go straight from one colour to another, in steps? */
function hasSteps(numbers: Int16Array, width: number, height: number, colours: readonly Rgb[]): boolean {
  let [edges, blends, corners] = [0, 0, 0];
  const between = new Map<number, boolean>();
  const isBlend = (p: number, q: number, r: number): boolean => {
    if (p === q || q === r || p === r || p < 0 || q < 0 || r < 0) return false;
    const key = (p * MOST + q) * MOST + r;
    let answer = between.get(key);
    if (answer === undefined) between.set(key, (answer = isBetween(colours[p] as Rgb, colours[q] as Rgb, colours[r] as Rgb)));
    return answer;
  };
  for (let y = 0; y + 1 < height; y++)
    for (let x = 0; x + 1 < width; x++) {
      const i = y * width + x;
      const [own, right, below, across] = [numbers[i], numbers[i + 1], numbers[i + width], numbers[i + width + 1]] as [
        number,
        number,
        number,
        number,
      ];
      if (own === right && own === below && own === across) continue;
      if (own !== right) edges++;
      if (own !== below) edges++;
      if (x > 0 && isBlend(numbers[i - 1] as number, own, right)) blends++;
      if (y > 0 && isBlend(numbers[i - width] as number, own, below)) blends++;
      const like = Number(own === right) + Number(own === below) + Number(across === right) + Number(across === below);
      // three alike and one that is not
      if (like === 2 && (own === across || right === below)) corners++;
    }
  return blends <= BLENDS * edges && corners >= CORNERS * edges;
}

/** The colours of a picture in steps and the pixels' labels; undefined for all other pictures. */
export function steppedOf(plane: Plane): Stepped | undefined {
  const exact = exactColours(plane);
  if (!exact) return undefined;
  const { numbers, keys, counts } = exact;
  const rgbs = keys.map((key): Rgb => [key >> 16, (key >> 8) & 255, key & 255]);
  if (!hasSteps(numbers, plane.width, plane.height, rgbs)) return undefined;
  const order = keys.map((_, k) => k).sort((a, b) => (counts[b] as number) - (counts[a] as number));
  const solid = counts.reduce((sum, n) => sum + n, 0);
  const colours: FlatColour[] = [];
  for (const k of order) {
    const colour = { ...colourOf(`#${(keys[k] as number).toString(16).padStart(6, '0')}`), share: (counts[k] as number) / solid };
    const isOwn = (counts[k] as number) >= FEWEST && colours.every(({ lab }) => labApart(lab, colour.lab) >= APART);
    if (isOwn || colours.length === 0) colours.push(colour);
  }
  const into = keys.map((key) => nearestTo(colours, colourOf(`#${key.toString(16).padStart(6, '0')}`)));
  const labels = Uint8Array.from(numbers, (number) => (number === CLEAR ? colours.length : (into[number] as number)));
  return { colours, labels };
}

const nearestTo = (palette: readonly FlatColour[], { lab }: FlatColour): number =>
  palette.reduce((best, colour, k) => (labApart(colour.lab, lab) < labApart((palette[best] as FlatColour).lab, lab) ? k : best), 0);

/**
 * Each pixel as a mixture of its own colour and the commonest other one of its nine.
 * @param reachedBy the colour of the palette that is said to reach another one, if any
 */
export function sharesOfSteps(
  { colours, labels }: Stepped,
  { width, height }: Plane,
  palette: readonly FlatColour[],
  reachedBy?: (r: number, g: number, b: number) => number | undefined,
): Shares {
  const into = [...colours.map((colour) => reachedBy?.(...colour.rgb) ?? nearestTo(palette, colour)), palette.length];
  const own = labels.map((label) => into[label] as number);
  const shares = new Shares(width, height, own);
  const counts = new Uint8Array(palette.length + 1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const label = own[i] as number;
      let [n, other] = [0, -1];
      for (let v = y - 1; v <= y + 1; v++)
        for (let u = x - 1; u <= x + 1; u++) {
          // beyond the picture it goes on as at its border
          const near = own[Math.min(height - 1, Math.max(0, v)) * width + Math.min(width - 1, Math.max(0, u))] as number;
          if (near === label) n++;
          else {
            counts[near] = (counts[near] as number) + 1;
            if (other < 0 || (counts[near] as number) > (counts[other] as number)) other = near;
          }
        }
      if (other < 0) continue;
      shares.mix(i, label, other, n / 9);
      counts.fill(0);
    }
  return shares;
}
