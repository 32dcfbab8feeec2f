/**
 * The flat colours of a picture. Method: pixels in flat surroundings are counted in a fine grid of CIE L*a*b*; the
 * fullest places draw together what lies round them (mean shift; K. Fukunaga, L. Hostetler, 1975), each colour taking
 * what is near it; colours that are only ever seen as a mixture along the edges of two others are none of their own.
 */
import { hexOf, labOf, rgbOf, type Lab } from '../colour/index.ts';
import { mutedColour } from './squeezed.ts';
import { isSeenAround, rowsOf, STRIP_PIXELS, type Plane } from './pixels.ts';

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

/** How far two colours are apart, levels (Euclidean); not at all from what is clear. */
export const levelsApart = (one: FlatColour | undefined, other: FlatColour | undefined): number =>
  one && other ? Math.hypot(one.rgb[0] - other.rgb[0], one.rgb[1] - other.rgb[1], one.rgb[2] - other.rgb[2]) : 0;

/** How far two colours are apart in CIELAB (Euclidean). */
export const labApart = (p: Lab, q: Lab): number => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);

/** Pixels whose surroundings differ by more levels than this tell no colour. */
const LEAST_FLAT = 260;

/** Pixels that are looked at; more would not tell more. */
const MOST_SAMPLED = 250_000;

const stepOf = ({ width, height }: Plane, most = MOST_SAMPLED): number => Math.max(1, Math.round(Math.sqrt((width * height) / most)));

/** Nothing is flat where something is clear. */
export const ENDLESS = 0xffff;

/**
 * By how many levels (sum of channels) the most different of a pixel's eight neighbours differs; endless where something is clear.
 * @complexity pixels; runs of one colour are passed over
 */
export function flatnessOf({ width, height, rgb, alpha, words }: Plane): Uint16Array {
  const out = new Uint16Array(width * height);
  const compare = (i: number, j: number): void => {
    const far =
      Math.abs((rgb[3 * i] as number) - (rgb[3 * j] as number)) +
      Math.abs((rgb[3 * i + 1] as number) - (rgb[3 * j + 1] as number)) +
      Math.abs((rgb[3 * i + 2] as number) - (rgb[3 * j + 2] as number));
    if (far > (out[i] as number)) out[i] = far;
    if (far > (out[j] as number)) out[j] = far;
  };
  // each pair of neighbours once: to the right, and the three below
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (words && isLikeNext(words, i, width)) continue;
      if (x + 1 < width) compare(i, i + 1);
      if (y + 1 === height) continue;
      if (x > 0) compare(i, i + width - 1);
      compare(i, i + width);
      if (x + 1 < width) compare(i, i + width + 1);
    }
  if (alpha) markClear(out, alpha, width, height);
  return out;
}

/** Is a pixel like the one to its right and the three below? Those of the next row count at the ends of rows, which changes nothing. */
const isLikeNext = (words: Uint32Array, i: number, width: number): boolean => {
  const own = words[i];
  return own === words[i + 1] && own === words[i + width] && own === words[i + width - 1] && own === words[i + width + 1];
};

/** Nothing is flat where it, or what lies beside it, is clear. */
function markClear(flatness: Uint16Array, alpha: Uint8ClampedArray, width: number, height: number): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if ((alpha[y * width + x] as number) >= 250) continue;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) flatness[v * width + u] = ENDLESS;
    }
}

/** Pixels that tell the colours: how flat their surroundings are, and which place of the grid they fall in. */
export interface Samples {
  readonly count: number;
  readonly flatness: Uint16Array;
  /** How flat the least flat of the four neighbours is; endless at the picture's edge. */
  readonly around: Uint16Array;
  readonly place: Int32Array;
  readonly lab: Float32Array;
}

/**
 * Pixels that stand for the picture, taken at even steps.
 * @returns at most `MOST_SAMPLED` of them; what is not flat is left out
 */
export function samplesOf(plane: Plane): Samples {
  const { width, height, rgb } = plane;
  const step = stepOf(plane);
  const most = Math.ceil(width / step) * Math.ceil(height / step);
  const [flat, around] = [new Uint16Array(most), new Uint16Array(most)];
  const place = new Int32Array(most);
  const lab = new Float32Array(3 * most);
  const known = new Map<number, Lab>();
  let count = 0;
  let before = -1;
  let own: Lab = [0, 0, 0];
  const rows = step * Math.max(1, Math.floor(STRIP_PIXELS / (width * step)));
  let top = 0;
  let flatness: Uint16Array = new Uint16Array(0);
  for (let y = 0; y < height; y += step) {
    if (y % rows === 0) {
      // a row's flatness takes those beside it, and what lies beside it is asked as well
      top = Math.max(0, y - 2);
      flatness = flatnessOf(rowsOf(plane, top, Math.min(height, y + rows + 2)));
    }
    for (let x = 0; x < width; x += step) {
      const i = y * width + x;
      const j = i - top * width;
      const levels = flatness[j] as number;
      if (levels > LEAST_FLAT) continue;
      const key = ((rgb[3 * i] as number) << 16) | ((rgb[3 * i + 1] as number) << 8) | (rgb[3 * i + 2] as number);
      if (key !== before) {
        const found = known.get(key);
        own = found ?? labOf([key >> 16, (key >> 8) & 255, key & 255]);
        if (!found) known.set(key, own);
        before = key;
      }
      const inside = x > 0 && y > 0 && x < width - 1 && y < height - 1;
      flat[count] = levels;
      around[count] = inside
        ? Math.max(flatness[j - 1] as number, flatness[j + 1] as number, flatness[j - width] as number, flatness[j + width] as number)
        : ENDLESS;
      place[count] = (Math.round(own[0] / BIN) * GRID + Math.round(own[1] / BIN) + GRID / 2) * GRID + Math.round(own[2] / BIN) + GRID / 2;
      lab[3 * count] = own[0];
      lab[3 * count + 1] = own[1];
      lab[3 * count + 2] = own[2];
      count++;
    }
  }
  return { count, flatness: flat, around, place, lab };
}

function binsOf({ count, flatness, around, place, lab }: Samples, levels: number): Bin[] {
  const bins = new Map<number, Bin>();
  let bin: Bin | undefined;
  let at = -1;
  for (let k = 0; k < count; k++) {
    if ((flatness[k] as number) > levels) continue;
    const own = place[k] as number;
    if (own !== at || !bin) {
      bin = bins.get(own);
      if (!bin) bins.set(own, (bin = { count: 0, l: 0, a: 0, b: 0, core: 0, centre: [0, 0, 0] }));
      at = own;
    }
    bin.count++;
    bin.l += lab[3 * k] as number;
    bin.a += lab[3 * k + 1] as number;
    bin.b += lab[3 * k + 2] as number;
    if ((around[k] as number) <= levels) bin.core++;
  }
  for (const one of bins.values()) one.centre = [one.l / one.count, one.a / one.count, one.b / one.count];
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

/** What counts as a colour of its own. */
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
      if (labApart(mixed, one.lab) < within) out.push([p, q]);
    }
  return out;
}

const isMixture = (one: FlatColour, others: readonly FlatColour[], within: number): boolean => mixturesOf(one, others, within).length > 0;

/** Levels (Euclidean) within which a pixel is taken for a colour when its surroundings are looked at. */
const LIKE = 34;

/** Is a colour seen between the two that it could be mixed of, as edges are, or on its own? */
function isSeenBetween(plane: Plane, one: FlatColour, pairs: readonly Pair[]): boolean {
  const { width, height } = plane;
  let [seen, between] = [0, 0];
  const step = stepOf(plane, 120_000);
  for (let y = 3; y < height - 3 && seen < 1500; y += step)
    for (let x = 3; x < width - 3; x += step) {
      if (!isSeenAround(plane, x, y, one.rgb, 0, 26)) continue;
      seen++;
      const around = (to: FlatColour): boolean => isSeenAround(plane, x, y, to.rgb, 3, LIKE);
      if (pairs.some(([p, q]) => around(p) && around(q))) between++;
    }
  return between > 0.45 * seen;
}

/** @returns the colours, most used first */
export function findPalette(samples: Samples, options: PaletteOptions): FlatColour[] {
  let bins = binsOf(samples, options.levels);
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
      const near = bins.filter((bin) => labApart(bin.centre, lab) < options.apart * 0.6);
      const n = near.reduce((s, bin) => s + bin.count, 0);
      if (n === 0) break;
      const next: Lab = [
        near.reduce((s, x) => s + x.l, 0) / n,
        near.reduce((s, x) => s + x.a, 0) / n,
        near.reduce((s, x) => s + x.b, 0) / n,
      ];
      const moved = labApart(next, lab);
      lab = next;
      if (moved < 0.05) break;
    }
    const own: Bin[] = [];
    const rest: Bin[] = [];
    for (const bin of bins) (labApart(bin.centre, lab) < options.apart || bin === seed ? own : rest).push(bin);
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

/** A colour with its numbers in CIELAB, of no share of a picture yet. */
export const colourOf = (hex: string): FlatColour => ({
  rgb: [...rgbOf(hex)] as [number, number, number],
  lab: labOf(rgbOf(hex)),
  hex,
  share: 0,
});

/** Colours that were found in the same picture at another size differ by no more, ΔE 1976. */
const SAME = 8;

/**
 * The colour of a palette that is meant by a colour as it was found before, perhaps at another size; -1 for none.
 * @param hex `#rrggbb`
 */
export function indexOfColour(palette: readonly FlatColour[], hex: string): number {
  const exact = palette.findIndex((colour) => colour.hex === hex.toLowerCase());
  if (exact >= 0) return exact;
  const lab = labOf(rgbOf(hex));
  let [best, least] = [-1, SAME];
  palette.forEach((colour, k) => {
    const apart = labApart(colour.lab, lab);
    if (apart <= least) [best, least] = [k, apart];
  });
  return best;
}

/**
 * Is a colour none of those that were found, and no mixture that is seen between two of them?
 * @param hue what hue weighs when colours are compared
 */
export function isNew(plane: Plane, colour: FlatColour, found: readonly FlatColour[], apart: number, hue = 1): boolean {
  const labFor = (one: FlatColour): Lab => (hue < 1 ? labOf(mutedColour(one, hue).rgb) : one.lab);
  if (found.some((other) => labApart(labFor(other), labFor(colour)) <= apart)) return false;
  const pairs = mixturesOf({ ...colour, share: 0 }, found, apart);
  return pairs.length === 0 || !isSeenBetween(plane, colour, pairs);
}

/** A pixel that no mixture of the known colours explains, and by how many levels. */
export interface Unexplained {
  readonly r: number;
  readonly g: number;
  readonly b: number;
  readonly off: number;
}

/** Levels (Euclidean) within which unexplained pixels may be of one colour. */
const TOGETHER = 50;

/**
 * The colour of parts too small to be flat anywhere: of the pixels that no mixture of the known colours explains, those
 * that stand out most, as far as they agree.
 * @param looked how many pixels were looked at
 * @param share how many of those found are asked where to look, those that stand out most
 * @param alike levels within which pixels of one colour are alike; undefined when they vary too much to tell
 */
export function colourOfUnexplained(
  found: readonly Unexplained[],
  looked: number,
  share: number,
  alike: number | undefined,
): FlatColour | undefined {
  if (found.length < Math.max(5, 0.0005 * looked)) return undefined;
  const top = [...found].sort((p, q) => q.off - p.off).slice(0, Math.max(4, Math.ceil(found.length * share)));
  const middle = (values: number[]): number => values.sort((p, q) => p - q)[Math.floor(values.length / 2)] as number;
  const rgbNow = [middle(top.map(({ r }) => r)), middle(top.map(({ g }) => g)), middle(top.map(({ b }) => b))] as const;
  const isNear = ({ r, g, b }: Unexplained): boolean => Math.hypot(r - rgbNow[0], g - rgbNow[1], b - rgbNow[2]) < TOGETHER;
  const near = top.filter(isNear);
  if (near.length < Math.max(3, 0.3 * top.length)) return undefined;
  const own = alike === undefined ? meanOf(near) : densest(found.filter(isNear), alike);
  return { rgb: own, lab: labOf(own), hex: hexOf(own), share: found.length / looked };
}

function meanOf(pixels: readonly Unexplained[]): [number, number, number] {
  const mean = (of: (p: Unexplained) => number): number => pixels.reduce((sum, p) => sum + of(p), 0) / Math.max(1, pixels.length);
  return [mean((p) => p.r), mean((p) => p.g), mean((p) => p.b)];
}

/** Pixels that are asked where they crowd, and those that are counted round each. */
const MOST_ASKED = 600;
const MOST_COUNTED = 8000;

/** The middle of where pixels lie closest together in colour: what is wholly of a colour is alike, mixtures are not. */
function densest(all: readonly Unexplained[], radius: number): [number, number, number] {
  const thin = Math.max(1, Math.ceil(all.length / MOST_COUNTED));
  const pixels = thin === 1 ? all : all.filter((_, i) => i % thin === 0);
  const step = Math.max(1, Math.ceil(pixels.length / MOST_ASKED));
  const within = (p: Unexplained): Unexplained[] => pixels.filter(({ r, g, b }) => Math.hypot(r - p.r, g - p.g, b - p.b) <= radius);
  let best: readonly Unexplained[] = [];
  for (let i = 0; i < pixels.length; i += step) {
    const own = within(pixels[i] as Unexplained);
    if (own.length > best.length) best = own;
  }
  return meanOf(best);
}
