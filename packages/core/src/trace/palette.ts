/**
 * The flat colours of a picture. Method: pixels in flat surroundings are counted in a fine grid of CIE L*a*b*; the
 * fullest places draw together what lies round them (mean shift; K. Fukunaga, L. Hostetler, 1975), each colour taking
 * what is near it; colours that are only ever seen as a mixture along the edges of two others are none of their own.
 */
import { hexOf, labOf, rgbOf, type Lab } from '../colour/index.ts';
import type { Plane } from './pixels.ts';

export interface FlatColour {
  readonly rgb: readonly [number, number, number];
  readonly lab: Lab;
  readonly hex: string;
  /** Share of the flat pixels. */
  readonly share: number;
}

const BIN = 2.5;
/** After so many places that too few pixels share there is no colour left to find. */
const MOST_PASSED_OVER = 24;
const GRID = 112;

interface Bin {
  count: number;
  l: number;
  a: number;
  b: number;
  core: number;
  centre: Lab;
}

const distance = (p: Lab, q: Lab): number => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);

/** Pixels that are looked at; more would not tell more. */
const MOST_SAMPLED = 250_000;

const stepOf = ({ width, height }: Plane, most = MOST_SAMPLED): number => Math.max(1, Math.floor(Math.sqrt((width * height) / most)));

/** By how many levels (sum of channels) the most different of a pixel's eight neighbours differs; endless where something is clear. */
export function flatnessOf({ width, height, rgb, alpha }: Plane): Float32Array {
  const out = new Float32Array(width * height);
  const clear = (i: number): boolean => alpha !== undefined && (alpha[i] as number) < 250;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (clear(i)) out[i] = Infinity;
      // each pair of neighbours once: to the right, and the three below
      for (const [dx, dy] of FORWARD) {
        const [u, v] = [x + dx, y + dy];
        if (u < 0 || u >= width || v >= height) continue;
        const j = v * width + u;
        const far =
          clear(i) || clear(j)
            ? Infinity
            : Math.abs((rgb[3 * j] as number) - (rgb[3 * i] as number)) +
              Math.abs((rgb[3 * j + 1] as number) - (rgb[3 * i + 1] as number)) +
              Math.abs((rgb[3 * j + 2] as number) - (rgb[3 * i + 2] as number));
        if (far > (out[i] as number)) out[i] = far;
        if (far > (out[j] as number)) out[j] = far;
      }
    }
  return out;
}

const FORWARD = [
  [1, 0],
  [-1, 1],
  [0, 1],
  [1, 1],
] as const;

function binsOf(plane: Plane, flatness: Float32Array, levels: number): Bin[] {
  const { width, height, rgb } = plane;
  const isFlat = (i: number): boolean => (flatness[i] as number) <= levels;
  const bins = new Map<number, Bin>();
  const labs = new Map<number, Lab>();
  const step = stepOf(plane);
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const i = y * width + x;
      if (!isFlat(i)) continue;
      const [r, g, b] = [Math.round(rgb[3 * i] as number), Math.round(rgb[3 * i + 1] as number), Math.round(rgb[3 * i + 2] as number)];
      const key = (r << 16) | (g << 8) | b;
      let lab = labs.get(key);
      if (!lab) labs.set(key, (lab = labOf([r, g, b])));
      const k = (Math.round(lab[0] / BIN) * GRID + Math.round(lab[1] / BIN) + GRID / 2) * GRID + Math.round(lab[2] / BIN) + GRID / 2;
      const bin = bins.get(k) ?? { count: 0, l: 0, a: 0, b: 0, core: 0, centre: lab };
      bin.count++;
      bin.l += lab[0];
      bin.a += lab[1];
      bin.b += lab[2];
      const inside = x > 0 && y > 0 && x < width - 1 && y < height - 1;
      if (inside && isFlat(i - 1) && isFlat(i + 1) && isFlat(i - width) && isFlat(i + width)) bin.core++;
      bins.set(k, bin);
    }
  for (const bin of bins.values()) bin.centre = [bin.l / bin.count, bin.a / bin.count, bin.b / bin.count];
  return [...bins.values()];
}

/** From L*a*b* back to sRGB by search: the inverse of the usual formulas. */
function rgbOfLab([l, a, b]: Lab): [number, number, number] {
  const fy = (l + 16) / 116;
  const inverse = (t: number): number => (t ** 3 > 216 / 24389 ? t ** 3 : (116 * t - 16) / (24389 / 27));
  const [x, y, z] = [inverse(fy + a / 500) * 0.95047, inverse(fy), inverse(fy - b / 200) * 1.08883];
  const linear = [
    3.2404542 * x - 1.5371385 * y - 0.4985314 * z,
    -0.969266 * x + 1.8760108 * y + 0.041556 * z,
    0.0556434 * x - 0.2040259 * y + 1.0572252 * z,
  ];
  return linear.map((v) => {
    const c = Math.min(1, Math.max(0, v));
    return 255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
  }) as [number, number, number];
}

export interface PaletteOptions {
  /** Levels (sum of channels) that neighbours of a flat pixel may differ by. */
  readonly levels: number;
  /** Colours nearer than this are one, ΔE 1976. */
  readonly apart: number;
  /** Least share of the flat pixels. */
  readonly leastShare: number;
  readonly max: number;
}

type Pair = readonly [FlatColour, FlatColour];

/** Pairs of colours that a colour lies between, as their mixture does (in sRGB, where pictures are drawn). */
function mixturesOf(one: FlatColour, others: readonly FlatColour[], within: number): Pair[] {
  const out: Pair[] = [];
  for (const [i, p] of others.entries())
    for (const q of others.slice(i + 1)) {
      if (p.share < one.share * 1.5 || q.share < one.share * 1.5) continue;
      const d = [0, 1, 2].map((c) => (q.rgb[c] as number) - (p.rgb[c] as number));
      const size = d.reduce((s, v) => s + v * v, 0);
      if (size === 0) continue;
      const t = [0, 1, 2].reduce((s, c) => s + ((one.rgb[c] as number) - (p.rgb[c] as number)) * (d[c] as number), 0) / size;
      if (t < 0.08 || t > 0.92) continue;
      const mixed = labOf([0, 1, 2].map((c) => (p.rgb[c] as number) + t * (d[c] as number)));
      if (distance(mixed, one.lab) < within) out.push([p, q]);
    }
  return out;
}

const isMixture = (one: FlatColour, others: readonly FlatColour[], within: number): boolean => mixturesOf(one, others, within).length > 0;

/** Levels (Euclidean) within which a pixel is taken for a colour when its surroundings are looked at. */
const LIKE = 34;

/** Is a colour seen between the two that it could be mixed of, as edges are, or on its own? */
function isSeenBetween({ width, height, rgb }: Plane, one: FlatColour, pairs: readonly Pair[]): boolean {
  const like = (i: number, to: FlatColour, levels: number): boolean =>
    Math.hypot((rgb[3 * i] as number) - to.rgb[0], (rgb[3 * i + 1] as number) - to.rgb[1], (rgb[3 * i + 2] as number) - to.rgb[2]) < levels;
  let [seen, between] = [0, 0];
  const step = stepOf({ width, height, rgb, alpha: undefined }, 120_000);
  for (let y = 3; y < height - 3 && seen < 1500; y += step)
    for (let x = 3; x < width - 3; x += step) {
      if (!like(y * width + x, one, 26)) continue;
      seen++;
      const around = (to: FlatColour): boolean => {
        for (let v = -3; v <= 3; v++) for (let u = -3; u <= 3; u++) if (like((y + v) * width + x + u, to, LIKE)) return true;
        return false;
      };
      if (pairs.some(([p, q]) => around(p) && around(q))) between++;
    }
  return between > 0.45 * seen;
}

/** @param flatness of the same plane @returns the colours, most used first */
export function findPalette(plane: Plane, flatness: Float32Array, options: PaletteOptions): FlatColour[] {
  let bins = binsOf(plane, flatness, options.levels);
  const total = bins.reduce((sum, bin) => sum + bin.count, 0);
  if (total === 0) return [];
  const found: (FlatColour & { core: number })[] = [];
  bins.sort((a, b) => b.count - a.count);
  let passedOver = 0;
  while (bins.length > 0 && found.length < options.max * 2 && passedOver < MOST_PASSED_OVER) {
    const [seed] = bins;
    if (!seed || seed.count < Math.max(3, total * options.leastShare * 0.2)) break;
    let lab = seed.centre;
    for (let round = 0; round < 6; round++) {
      const near = bins.filter((bin) => distance(bin.centre, lab) < options.apart * 0.6);
      const n = near.reduce((s, bin) => s + bin.count, 0);
      if (n === 0) break;
      const next: Lab = [
        near.reduce((s, x) => s + x.l, 0) / n,
        near.reduce((s, x) => s + x.a, 0) / n,
        near.reduce((s, x) => s + x.b, 0) / n,
      ];
      const moved = distance(next, lab);
      lab = next;
      if (moved < 0.05) break;
    }
    const own: Bin[] = [];
    const rest: Bin[] = [];
    for (const bin of bins) (distance(bin.centre, lab) < options.apart || bin === seed ? own : rest).push(bin);
    bins = rest;
    const count = own.reduce((s, bin) => s + bin.count, 0);
    const core = own.reduce((s, bin) => s + bin.core, 0);
    const rgb = rgbOfLab(lab);
    if (count >= Math.max(4, total * options.leastShare))
      found.push({ rgb, lab, hex: hexOf(rgb), share: count / total, core: core / count });
    else passedOver++;
  }
  found.sort((a, b) => b.share - a.share);
  return found
    .filter((one) => !(one.core < 0.25 && isMixture(one, found, 12)) && !(one.core < 0.04 && one.share < 0.01))
    .slice(0, options.max)
    .map(({ core: _core, ...colour }) => colour);
}

export const colourOf = (hex: string): FlatColour => ({
  rgb: [...rgbOf(hex)] as [number, number, number],
  lab: labOf(rgbOf(hex)),
  hex,
  share: 0,
});

/** Is a colour none of those that were found, and no mixture that is seen between two of them? */
export function isNew(plane: Plane, colour: FlatColour, found: readonly FlatColour[], apart: number): boolean {
  if (found.some((other) => distance(other.lab, colour.lab) <= apart)) return false;
  const pairs = mixturesOf({ ...colour, share: 0 }, found, apart);
  return pairs.length === 0 || !isSeenBetween(plane, colour, pairs);
}

/** Pixels looked at for colours that are missing. */
const MOST_LOOKED_AT = 160_000;

/** How far a pixel is from every mixture of two colours, levels. */
function unexplained(r: number, g: number, b: number, palette: readonly FlatColour[], limit: number): number {
  let least = Infinity;
  for (let i = 0; i < palette.length; i++) {
    const p = (palette[i] as FlatColour).rgb;
    for (let j = i; j < palette.length; j++) {
      const q = (palette[j] as FlatColour).rgb;
      const [dr, dg, db] = [q[0] - p[0], q[1] - p[1], q[2] - p[2]];
      const size = dr * dr + dg * dg + db * db;
      const t = size === 0 ? 0 : Math.min(1, Math.max(0, ((r - p[0]) * dr + (g - p[1]) * dg + (b - p[2]) * db) / size));
      least = Math.min(least, Math.hypot(r - p[0] - t * dr, g - p[1] - t * dg, b - p[2] - t * db));
      if (least < limit) return least;
    }
  }
  return least;
}

/**
 * The colour of parts too small to be flat anywhere: of the pixels that no mixture of the known colours explains, those
 * that stand out most, as far as they agree.
 */
export function findUnexplained(
  { width, height, rgb, alpha }: Plane,
  palette: readonly FlatColour[],
  limit: number,
): FlatColour | undefined {
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / MOST_LOOKED_AT)));
  const found: { r: number; g: number; b: number; off: number }[] = [];
  let looked = 0;
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const i = y * width + x;
      if (alpha && (alpha[i] as number) < 250) continue;
      looked++;
      const [r, g, b] = [rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number];
      const off = unexplained(r, g, b, palette, limit);
      if (off >= limit) found.push({ r, g, b, off });
    }
  if (found.length < Math.max(5, 0.0005 * looked)) return undefined;
  found.sort((p, q) => q.off - p.off);
  const top = found.slice(0, Math.max(4, Math.ceil(found.length * 0.3)));
  const middle = (values: number[]): number => values.sort((p, q) => p - q)[Math.floor(values.length / 2)] as number;
  const rgbNow = [middle(top.map(({ r }) => r)), middle(top.map(({ g }) => g)), middle(top.map(({ b }) => b))] as const;
  const near = top.filter(({ r, g, b }) => Math.hypot(r - rgbNow[0], g - rgbNow[1], b - rgbNow[2]) < 50);
  if (near.length < Math.max(3, 0.3 * top.length)) return undefined;
  const mean = (of: (p: (typeof near)[number]) => number): number => near.reduce((sum, p) => sum + of(p), 0) / near.length;
  const own = [mean((p) => p.r), mean((p) => p.g), mean((p) => p.b)] as const;
  return { rgb: own, lab: labOf(own), hex: hexOf(own), share: found.length / looked };
}
