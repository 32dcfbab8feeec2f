/**
 * Which pixels are wholly of one colour: near enough to it, four of them together, and no mixture of two others that are
 * both seen around. Units pixels and levels of sRGB (Euclidean).
 */
import { labDifference, labOf } from '../colour/index.ts';
import { offMixture } from './mixture.ts';
import type { FlatColour } from './palette.ts';
import type { Plane } from './pixels.ts';
import { runsOf } from './regions.ts';
import type { Compared } from './squeezed.ts';
import type { UnmixOptions } from './unmix.ts';

/** The label of pixels that are not wholly of any colour. */
export const NONE = 255;

function nearest(r: number, g: number, b: number, palette: readonly FlatColour[]): [number, number] {
  let best = 0;
  let least = Infinity;
  for (let k = 0; k < palette.length; k++) {
    const own = (palette[k] as FlatColour).rgb;
    const d = (r - own[0]) ** 2 + (g - own[1]) ** 2 + (b - own[2]) ** 2;
    if (d < least) {
      best = k;
      least = d;
    }
  }
  return [best, Math.sqrt(least)];
}

/**
 * The colour that reaches a pixel, the one that it is nearest to against its reach; undefined for none.
 * @param reaches CIEDE2000, one a colour; 0 reaches nothing
 */
export function reached(
  palette: readonly FlatColour[],
  reaches: readonly number[],
): (r: number, g: number, b: number) => number | undefined {
  const known = new Map<number, number | undefined>();
  return (r, g, b) => {
    const rgb = [Math.round(r), Math.round(g), Math.round(b)] as const;
    const key = (rgb[0] << 16) | (rgb[1] << 8) | rgb[2];
    if (known.has(key)) return known.get(key);
    const lab = labOf(rgb);
    let [best, least] = [-1, 1];
    reaches.forEach((reach, k) => {
      const own = palette[k]?.lab;
      const share = reach > 0 && own ? labDifference(lab, own) / reach : Infinity;
      if (share <= least) [best, least] = [k, share];
    });
    known.set(key, best < 0 ? undefined : best);
    return known.get(key);
  };
}

/** How far a pixel of each colour may be off it: of colours that are near one another half a mixture is not far off either. */
function limitsOf(palette: readonly FlatColour[], levels: number, share: number | undefined): number[] {
  if (share === undefined) return palette.map(() => levels);
  return palette.map(({ rgb: [r, g, b] }, k) => {
    const others = palette.filter((_, j) => j !== k).map(({ rgb }) => Math.hypot(r - rgb[0], g - rgb[1], b - rgb[2]));
    return Math.max(LEAST_PURE, Math.min(levels, share * Math.min(...others)));
  });
}

/** Rounding alone takes a pixel so many levels off. */
const LEAST_PURE = 1.5;

/**
 * Labels of pure pixels, NONE elsewhere.
 * @returns a label a pixel
 */
export function pureLabels({ plane, palette, seen }: Compared, { pureLevels, pureShare, clear, reaches }: UnmixOptions): Uint8Array {
  const limits = limitsOf(palette, pureLevels, pureShare);
  const reachedBy = reaches?.some((reach) => reach > 0) ? reached(seen.palette, reaches) : undefined;
  const { width, height, rgb, alpha, words } = plane;
  const out = new Uint8Array(width * height).fill(NONE);
  const labelOf = (i: number): number => {
    const from = seen.plane.rgb;
    const taken = reachedBy?.(from[3 * i] as number, from[3 * i + 1] as number, from[3 * i + 2] as number);
    if (taken !== undefined) return taken;
    const [k, d] = nearest(rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number, palette);
    return d <= (limits[k] as number) ? k : NONE;
  };
  // flat pictures have the same colour many times running
  let [before, known] = [-1, NONE];
  const isTold = !(reachedBy && plane !== seen.plane);
  const knownOf = (i: number): number => {
    const colour = ((rgb[3 * i] as number) << 16) | ((rgb[3 * i + 1] as number) << 8) | (rgb[3 * i + 2] as number);
    if (colour !== before || !isTold) [before, known] = [colour, labelOf(i)];
    return known;
  };
  const opaqueOf = (i: number): number => {
    const a = alpha ? (alpha[i] as number) : 255;
    if (clear !== undefined && a < 8) return clear;
    return a < 248 ? NONE : knownOf(i);
  };
  for (let i = 0; i < out.length; i++) out[i] = words && i > 0 && words[i] === words[i - 1] ? (out[i - 1] as number) : opaqueOf(i);
  return withoutMixtures(plane, withoutPassers(out, width, height, clear), palette);
}

/** A single pixel that passes by a colour on its way between two others is not pure: it has not four like it around it. */
function withoutPassers(out: Uint8Array, width: number, height: number, clear: number | undefined): Uint8Array {
  const kept = out.slice();
  const look = (x: number, y: number): void => {
    const i = y * width + x;
    const own = out[i] as number;
    let like = 0;
    for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) if (out[v * width + u] === own) like++;
    if (like < LEAST_LIKE) kept[i] = NONE;
  };
  eachEdgePixel(out, width, height, (x, y) => {
    const own = out[y * width + x];
    if (own !== NONE && own !== clear) look(x, y);
  });
  return kept;
}

const LEAST_LIKE = 4;

/** Visits the pixels that have another label beside them or lie in the first or last column; some of them twice. */
function eachEdgePixel(labels: Uint8Array, width: number, height: number, visit: (x: number, y: number) => void): void {
  const { starts, firstOfRow } = runsOf(labels, width, height);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    for (let k = firstOfRow[y] as number; k < (firstOfRow[y + 1] as number); k++) {
      visit((starts[k] as number) - row, y);
      visit((starts[k + 1] as number) - row - 1, y);
    }
    if (y === 0) continue;
    // where runs above and below one another differ
    let above = firstOfRow[y - 1] as number;
    for (let k = firstOfRow[y] as number; k < (firstOfRow[y + 1] as number); k++) {
      const [from, to] = [(starts[k] as number) - row, (starts[k + 1] as number) - row];
      while ((starts[above + 1] as number) - row + width <= from) above++;
      for (let upper = above; upper < (firstOfRow[y] as number) && (starts[upper] as number) - row + width < to; upper++) {
        if (labels[starts[upper] as number] === labels[starts[k] as number]) continue;
        const [a, b] = [Math.max(from, (starts[upper] as number) - row + width), Math.min(to, (starts[upper + 1] as number) - row + width)];
        for (let x = a; x < b; x++) {
          visit(x, y);
          visit(x, y - 1);
        }
      }
    }
  }
}

/** Levels (Euclidean) within which a colour is a mixture of two others, and a pixel like one of them. */
const MIXED = 14;
const LIKE = 34;
/** How far around both of them are looked for, pixels. */
const BETWEEN = 3;
/** Two colours that a third could be mixed of, by number; how near a pixel must be to each to be like it, levels squared. */
export interface Parents {
  readonly p: number;
  readonly q: number;
  /** Half the way from the third colour to the one and the other: beyond, a pixel is more like the mixture. */
  readonly halfToP: number;
  readonly halfToQ: number;
}

/** For each colour the pairs of others that it could be mixed of. */
export function pairsOf(palette: readonly FlatColour[]): (readonly Parents[])[] {
  return palette.map((own, k) =>
    palette.flatMap((p, i) =>
      palette.slice(i + 1).flatMap((q, after) => {
        const j = i + 1 + after;
        if (i === k || j === k) return [];
        const [r, g, b] = own.rgb;
        const [toP, toQ] = [p, q].map(({ rgb }) => Math.hypot(r - rgb[0], g - rgb[1], b - rgb[2])) as [number, number];
        const isMixture = Math.min(toP, toQ) > MIXED && offMixture(r, g, b, p, q) <= MIXED;
        return isMixture ? [{ p: i, q: j, halfToP: (toP / 2) ** 2, halfToQ: (toQ / 2) ** 2 }] : [];
      }),
    ),
  );
}

const isSame = (rgb: Uint8ClampedArray, i: number, j: number): boolean =>
  rgb[i] === rgb[j] && rgb[i + 1] === rgb[j + 1] && rgb[i + 2] === rgb[j + 2];

/** How near the pixels around a place come to each colour: looked for once a place, however many pairs ask. */
export class Surroundings {
  private readonly least: Float64Array;
  private readonly known: Int32Array;
  private place = 0;
  /** Where in `rgb` the different colours around the place are; most pixels are like the one before or above. */
  private readonly around: Int32Array;
  private count = 0;
  private readonly enough: Float64Array;
  private readonly most: number;

  /** @param reach how far around, pixels @param levels within which a pixel is like a colour at most */
  constructor(
    private readonly plane: Plane,
    private readonly palette: readonly FlatColour[],
    pairs: readonly (readonly Parents[])[],
    private readonly reach: number,
    levels: number,
  ) {
    this.most = levels * levels;
    this.least = new Float64Array(palette.length);
    this.known = new Int32Array(palette.length);
    this.around = new Int32Array((2 * reach + 1) ** 2);
    this.enough = new Float64Array(palette.length).fill(this.most);
    for (const { p, q, halfToP, halfToQ } of pairs.flat()) {
      this.enough[p] = Math.min(this.enough[p] as number, halfToP);
      this.enough[q] = Math.min(this.enough[q] as number, halfToQ);
    }
  }

  moveTo(x: number, y: number): void {
    const { width, height, rgb } = this.plane;
    const { reach } = this;
    const [left, top] = [Math.max(0, x - reach), Math.max(0, y - reach)];
    this.place++;
    this.count = 0;
    for (let v = top; v <= Math.min(height - 1, y + reach); v++)
      for (let u = left; u <= Math.min(width - 1, x + reach); u++) {
        const i = 3 * (v * width + u);
        if (u > left && isSame(rgb, i, i - 3)) continue;
        if (v > top && isSame(rgb, i, i - 3 * width)) continue;
        this.around[this.count++] = i;
      }
  }

  /** Are both colours of a pair seen, and not only what is more like the mixture? */
  hasAny(pairs: readonly Parents[]): boolean {
    return pairs.some(
      ({ p, q, halfToP, halfToQ }) => this.nearTo(p) < Math.min(this.most, halfToP) && this.nearTo(q) < Math.min(this.most, halfToQ),
    );
  }

  /** Least squared distance of the pixels around from a colour; once it is near enough for all that ask, it is looked for no further. */
  private nearTo(k: number): number {
    if (this.known[k] === this.place) return this.least[k] as number;
    const { rgb } = this.plane;
    const [r, g, b] = (this.palette[k] as FlatColour).rgb;
    const enough = this.enough[k] as number;
    let least = Infinity;
    for (let m = 0; m < this.count && least >= enough; m++) {
      const i = this.around[m] as number;
      const [dr, dg, db] = [(rgb[i] as number) - r, (rgb[i + 1] as number) - g, (rgb[i + 2] as number) - b];
      least = Math.min(least, dr * dr + dg * dg + db * db);
    }
    this.known[k] = this.place;
    this.least[k] = least;
    return least;
  }
}

/** Pixels of a colour that others could be mixed to are not pure where both of these are seen around them. */
function withoutMixtures(plane: Plane, pure: Uint8Array, palette: readonly FlatColour[]): Uint8Array {
  const { width, height } = plane;
  const pairs = pairsOf(palette);
  if (pairs.every((list) => list.length === 0)) return pure;
  const out = pure.slice();
  const surroundings = new Surroundings(plane, palette, pairs, BETWEEN, LIKE);
  const far = BETWEEN * width;
  for (let y = BETWEEN; y < height - BETWEEN; y++)
    for (let x = BETWEEN; x < width - BETWEEN; x++) {
      const i = y * width + x;
      const own = pure[i] as number;
      const list = pairs[own];
      if (!list || list.length === 0) continue;
      // within its own area nothing else is seen
      if (pure[i - BETWEEN] === own && pure[i + BETWEEN] === own && pure[i - far] === own && pure[i + far] === own) continue;
      surroundings.moveTo(x, y);
      if (surroundings.hasAny(list)) out[i] = NONE;
    }
  return out;
}
