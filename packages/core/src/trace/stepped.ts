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
/** Antialiased edges have two or more pixels between their two sides for each corner of the pixels' lines, steps hardly any; */
const BLENDS = 0.3;
/** of the corners at least this share are steps of one pixel: where there are fewer, edges run along the pixels and lie where they seem. */
const STEPS = 0.15;
const FEWEST_STEPS = 6;
/** A pixel lies between two colours when it is off their mixtures by no more levels. */
const BETWEEN_LEVELS = 12;

/** A picture of few exact colours: the one of each pixel. */
export interface Stepped {
  /** Exact colours, the commonest first. */
  readonly colours: readonly FlatColour[];
  /** Of each pixel; what is clear has the number after the last colour. */
  readonly labels: Uint8Array;
}

const CLEAR = -1;

/** The exact colours of a picture that has few, and each pixel's number among them. */
export interface FewColours {
  readonly numbers: Int16Array;
  /** As 24-bit numbers. */
  readonly keys: readonly number[];
}

/** @returns undefined when there are more than 64, or pixels are half clear */
export function fewColours({ width, height, rgb, alpha, words }: Plane): FewColours | undefined {
  const numbers = new Int16Array(width * height);
  const known = new Map<number, number>();
  for (let i = 0; i < numbers.length; i++) {
    if (words && i > 0 && words[i] === words[i - 1]) {
      numbers[i] = numbers[i - 1] as number;
      continue;
    }
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
    }
    numbers[i] = number;
  }
  return { numbers, keys: [...known.keys()] };
}

type Rgb = readonly [number, number, number];

/** Is a colour a mixture of two others? */
function isBetween(p: Rgb, q: Rgb, r: Rgb): boolean {
  const way = [r[0] - p[0], r[1] - p[1], r[2] - p[2]] as const;
  const own = [q[0] - p[0], q[1] - p[1], q[2] - p[2]] as const;
  const t = (way[0] * own[0] + way[1] * own[1] + way[2] * own[2]) / Math.max(1, way[0] ** 2 + way[1] ** 2 + way[2] ** 2);
  return t > 0.08 && t < 0.92 && Math.hypot(own[0] - t * way[0], own[1] - t * way[1], own[2] - t * way[2]) <= BETWEEN_LEVELS;
}

const [NONE, UPPER_LEFT, UPPER_RIGHT, LOWER_LEFT, LOWER_RIGHT] = [0, 1, 2, 3, 4];

/** Which of four pixels differs from three that are alike. */
function oddOf(own: number, right: number, below: number, across: number): number {
  if (right === below) return right === across ? (own === right ? NONE : UPPER_LEFT) : right === own ? LOWER_RIGHT : NONE;
  if (own !== across) return NONE;
  return right === own ? LOWER_LEFT : below === own ? UPPER_RIGHT : NONE;
}

/** How many pixels lie between the colours on both sides of an edge, being a mixture of them. */
function blendsOf({ numbers }: FewColours, width: number, height: number, colours: readonly Rgb[]): number {
  const between = new Map<number, boolean>();
  const isBlend = (p: number, q: number, r: number): boolean => {
    if (p === q || q === r || p === r || p < 0 || q < 0 || r < 0) return false;
    const key = (p * MOST + q) * MOST + r;
    let answer = between.get(key);
    if (answer === undefined) between.set(key, (answer = isBetween(colours[p] as Rgb, colours[q] as Rgb, colours[r] as Rgb)));
    return answer;
  };
  let blends = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const own = numbers[i] as number;
      if (x > 0 && x + 1 < width && isBlend(numbers[i - 1] as number, own, numbers[i + 1] as number)) blends++;
      if (y > 0 && y + 1 < height && isBlend(numbers[i - width] as number, own, numbers[i + width] as number)) blends++;
    }
  return blends;
}

/** Corners of the pixels' lines, and steps of one pixel among them. */
function cornersOf(numbers: Int16Array, width: number, height: number): { corners: number; steps: number } {
  let [corners, steps] = [0, 0];
  // of each place where four pixels meet and one differs: which; of the row above, until it is looked at anew
  const odd = new Uint8Array(width);
  for (let y = 0; y + 1 < height; y++)
    for (let x = 0; x + 1 < width; x++) {
      const i = y * width + x;
      const above = odd[x];
      const before = x > 0 ? odd[x - 1] : NONE;
      const kind = oddOf(numbers[i] as number, numbers[i + 1] as number, numbers[i + width] as number, numbers[i + width + 1] as number);
      odd[x] = kind;
      if (kind === NONE) continue;
      corners++;
      // an edge that goes on beside itself after one pixel turns one way and back
      if ((above === LOWER_LEFT && kind === UPPER_RIGHT) || (above === LOWER_RIGHT && kind === UPPER_LEFT)) steps++;
      if ((before === UPPER_RIGHT && kind === LOWER_LEFT) || (before === LOWER_RIGHT && kind === UPPER_LEFT)) steps++;
    }
  return { corners, steps };
}

/** Of two colours and one that passes between them: which of the two it is taken for. */
class Passing {
  private readonly nearestOf = new Map<number, Int16Array>();

  constructor(private readonly colours: readonly Rgb[]) {}

  /** @returns the colour of p and r that is more of q; undefined when q is the nearest to no mixture of them */
  sideOf(p: number, q: number, r: number): number | undefined {
    const key = p * MOST + r;
    let nearest = this.nearestOf.get(key);
    if (!nearest) this.nearestOf.set(key, (nearest = this.mixturesOf(this.colours[p] as Rgb, this.colours[r] as Rgb)));
    const first = nearest.indexOf(q);
    if (first < 0) return undefined;
    return first + nearest.lastIndexOf(q) < nearest.length - 1 ? p : r;
  }

  /** The nearest colour to each mixture of two. */
  private mixturesOf(p: Rgb, r: Rgb): Int16Array {
    return Int16Array.from({ length: MIXTURES }, (_, k) => {
      const t = (k + 1) / (MIXTURES + 1);
      let [best, least] = [-1, Infinity];
      this.colours.forEach((colour, index) => {
        const far = colour.reduce<number>((sum, v, c) => sum + ((p[c] as number) * (1 - t) + (r[c] as number) * t - v) ** 2, 0);
        if (far < least) [best, least] = [index, far];
      });
      return best;
    });
  }
}

const MIXTURES = 9;
/** Ways to the colours on both sides of a pixel, the nearest first; between them may lie another pixel of the same edge. */
const ACROSS = [
  [1, 1],
  [1, 2],
  [2, 1],
].flatMap(([back = 1, on = 1]) =>
  [
    [1, 0],
    [0, 1],
    [1, 1],
    [1, -1],
  ].map(([dx = 0, dy = 0]) => [[back * dx, back * dy] as const, [on * dx, on * dy] as const] as const),
);

/**
 * Antialiased edges of a picture that was brought down to few colours after: their pixels became whatever colour was
 * nearest, which may be a third one. Single pixels between two colours whose mixture they are nearest to go to one of them.
 */
function withoutFringes(numbers: Int16Array, width: number, height: number, colours: readonly Rgb[]): Int16Array {
  const passing = new Passing(colours);
  const out = numbers.slice();
  const ownAt = (x: number, y: number): number =>
    x < 0 || y < 0 || x >= width || y >= height ? CLEAR : (numbers[y * width + x] as number);
  for (let y = 1; y + 1 < height; y++)
    for (let x = 1; x + 1 < width; x++) {
      const i = y * width + x;
      const own = numbers[i] as number;
      if (own < 0) continue;
      for (const [back, on] of ACROSS) {
        const [p, r] = [ownAt(x - back[0], y - back[1]), ownAt(x + on[0], y + on[1])];
        if (p === own || r === own || p === r || p < 0 || r < 0) continue;
        const side = passing.sideOf(p, own, r);
        if (side === undefined) continue;
        out[i] = side;
        break;
      }
    }
  return out;
}

/** The colours of a picture in steps and the pixels' labels; undefined for all other pictures. */
export function steppedOf(plane: Plane, exact: FewColours): Stepped | undefined {
  const { keys } = exact;
  const rgbs = keys.map((key): Rgb => [key >> 16, (key >> 8) & 255, key & 255]);
  const { width, height } = plane;
  if (blendsOf(exact, width, height, rgbs) > BLENDS * cornersOf(exact.numbers, width, height).corners) return undefined;
  const numbers = withoutFringes(exact.numbers, width, height, rgbs);
  const { corners, steps } = cornersOf(numbers, width, height);
  if (steps < Math.max(FEWEST_STEPS, STEPS * corners)) return undefined;
  const counts = keys.map(() => 0);
  for (const number of numbers) if (number >= 0) counts[number] = (counts[number] as number) + 1;
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
