/**
 * From colours to shares: each pixel as one flat colour or a mixture of two that stand beside it. Antialiasing, blur
 * and ringing make the pixels along an edge such mixtures; their shares tell where the edge runs between the pixel
 * centres. Method: pixels near enough to a flat colour in flat surroundings are pure; the others are taken apart along
 * the line in sRGB between two colours that lie pure in their neighbourhood, the pair with the least remainder winning.
 */
import { labDifference, labOf } from '../colour/index.ts';
import type { FlatColour, Unexplained } from './palette.ts';
import { isSeenAround, ROWS_A_SHARE, type OnShare, type Plane } from './pixels.ts';
import { Mixture, offMixture } from './mixture.ts';
import { Shares } from './shares.ts';
import { comparedBy, type Compared } from './squeezed.ts';

export interface UnmixOptions {
  /** How far pure pixels are looked for, pixels. */
  readonly reach: number;
  /** Levels (Euclidean) within which a pixel is pure. */
  readonly pureLevels: number;
  /** Label of what is transparent; its colour is none. */
  readonly clear: number | undefined;
  /** How far each colour reaches, ΔE; 0 for as far as it is nearest. */
  readonly reaches?: readonly number[];
  /** What hue weighs against brightness, 0 to 1; all when absent. */
  readonly hue?: number;
}

const NONE = 255;

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

/** The colour that reaches a pixel, the one that it is nearest to against its reach; undefined for none. */
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

/** Labels of pure pixels, 255 elsewhere. */
function pureLabels({ plane, palette, seen }: Compared, { pureLevels, clear, reaches }: UnmixOptions): Uint8Array {
  const reachedBy = reaches?.some((reach) => reach > 0) ? reached(seen.palette, reaches) : undefined;
  const { width, height, rgb, alpha, words } = plane;
  const out = new Uint8Array(width * height).fill(NONE);
  const labelOf = (i: number): number => {
    const from = seen.plane.rgb;
    const taken = reachedBy?.(from[3 * i] as number, from[3 * i + 1] as number, from[3 * i + 2] as number);
    if (taken !== undefined) return taken;
    const [k, d] = nearest(rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number, palette);
    return d <= pureLevels ? k : NONE;
  };
  // flat pictures have the same colour many times running
  let [lr, lg, lb, known] = [NaN, NaN, NaN, NONE];
  for (let i = 0; i < out.length; i++) {
    if (words && i > 0 && words[i] === words[i - 1]) {
      out[i] = out[i - 1] as number;
      continue;
    }
    if (alpha && clear !== undefined && (alpha[i] as number) < 8) {
      out[i] = clear;
      continue;
    }
    if (alpha && (alpha[i] as number) < 248) continue;
    const r = rgb[3 * i] as number;
    const g = rgb[3 * i + 1] as number;
    const b = rgb[3 * i + 2] as number;
    if (r !== lr || g !== lg || b !== lb || (reachedBy && plane !== seen.plane)) {
      known = labelOf(i);
      lr = r;
      lg = g;
      lb = b;
    }
    out[i] = known;
  }
  return withoutMixtures(plane, withoutPassers(out, width, height, clear), palette);
}

/** A single pixel that passes by a colour on its way between two others is not pure. */
function withoutPassers(out: Uint8Array, width: number, height: number, clear: number | undefined): Uint8Array {
  const kept = out.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const own = out[i] as number;
      if (own === NONE || own === clear) continue;
      // four like it are enough, and in flat places they are these
      if (out[i - 1] === own && out[i + 1] === own && out[i - width] === own && out[i + width] === own) continue;
      let like = 0;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) if (out[v * width + u] === own) like++;
      if (like < 4) kept[i] = NONE;
    }
  return kept;
}

/** Levels (Euclidean) within which a colour is a mixture of two others, and a pixel like one of them. */
const MIXED = 14;
const LIKE = 34;
/** How far around both of them are looked for, pixels. */
const BETWEEN = 3;
/** A colour that is not seen pure is doubtful where both that it could be mixed of are seen so far around, so well. */
const PARENTS = 8;
const PARENT_LIKE = 60;

/** For each colour the pairs of others that it could be mixed of. */
function pairsOf(palette: readonly FlatColour[]): (readonly (readonly [FlatColour, FlatColour])[])[] {
  return palette.map((own, k) =>
    palette.flatMap((p, i) =>
      palette.slice(i + 1).flatMap((q, j) => {
        if (i === k || i + 1 + j === k) return [];
        const [r, g, b] = own.rgb;
        const ends = Math.min(Math.hypot(r - p.rgb[0], g - p.rgb[1], b - p.rgb[2]), Math.hypot(r - q.rgb[0], g - q.rgb[1], b - q.rgb[2]));
        return ends > MIXED && offMixture(r, g, b, p, q) <= MIXED ? [[p, q] as const] : [];
      }),
    ),
  );
}

/** Are both colours of a pair that another could be mixed of seen around, and not only what is more like the mixture? */
function areParentsSeen(
  plane: Plane,
  x: number,
  y: number,
  { rgb: [r, g, b] }: FlatColour,
  pairs: readonly (readonly [FlatColour, FlatColour])[],
  reach: number,
  levels: number,
): boolean {
  const isSeen = ({ rgb }: FlatColour): boolean => {
    const half = Math.hypot(r - rgb[0], g - rgb[1], b - rgb[2]) / 2;
    return isSeenAround(plane, x, y, rgb, reach, Math.min(levels, half));
  };
  return pairs.some(([p, q]) => isSeen(p) && isSeen(q));
}

/** Pixels of a colour that others could be mixed to are not pure where both of these are seen around them. */
function withoutMixtures(plane: Plane, pure: Uint8Array, palette: readonly FlatColour[]): Uint8Array {
  const { width, height } = plane;
  const pairs = pairsOf(palette);
  if (pairs.every((list) => list.length === 0)) return pure;
  const out = pure.slice();
  const far = BETWEEN * width;
  for (let y = BETWEEN; y < height - BETWEEN; y++)
    for (let x = BETWEEN; x < width - BETWEEN; x++) {
      const i = y * width + x;
      const own = pure[i] as number;
      const list = pairs[own];
      if (!list || list.length === 0) continue;
      // within its own area nothing else is seen
      if (pure[i - BETWEEN] === own && pure[i + BETWEEN] === own && pure[i - far] === own && pure[i + far] === own) continue;
      if (areParentsSeen(plane, x, y, palette[own] as FlatColour, list, BETWEEN, LIKE)) out[i] = NONE;
    }
  return out;
}

export function unmix(
  seenPlane: Plane,
  seenPalette: readonly FlatColour[],
  options: UnmixOptions,
  onShare: OnShare = () => undefined,
): Shares {
  const compared = comparedBy(options.hue, seenPlane, seenPalette);
  const { plane, palette } = compared;
  const { width, height, rgb, alpha } = plane;
  const pure = pureLabels(compared, options);
  const out = new Shares(width, height, pure);
  const { reach, clear } = options;
  const solid = palette.flatMap((_, k) => (k === clear ? [] : [k]));
  if (solid.length === 0) return new Shares(width, height, pure.fill(clear ?? 0));
  const mixture = new Mixture(palette);
  const seen = { labels: pure, width, height, clear };
  const scene: Scene = { plane, palette, pairs: pairsOf(palette), seen, solid, reach };
  for (let y = 0; y < height; y++) {
    if (y % ROWS_A_SHARE === 0) onShare(y / height);
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (pure[i] !== NONE) continue;
      mixture.start(rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number);
      const near = around(seen, x, y, reach);
      const isHalfClear = alpha && clear !== undefined && (alpha[i] as number) < 248;
      if (isHalfClear) explainHalfClear(mixture, near, scene, x, y);
      else explain(mixture, near, scene, x, y);
      if (!isHalfClear) {
        out.mix(i, mixture.a, mixture.b, mixture.t);
        continue;
      }
      // of two colours and clear the two that there is most of
      const a = (alpha[i] as number) / 255;
      const [most, less] = [a * mixture.t, a * (1 - mixture.t)];
      const isClear = 1 - a >= less;
      out.mix(i, mixture.a, isClear ? clear : mixture.b, most / (most + (isClear ? 1 - a : less)));
    }
  }
  return out;
}

/** What pixels are explained by. */
interface Scene {
  readonly plane: Plane;
  readonly palette: readonly FlatColour[];
  /** For each colour the pairs of others that it could be mixed of. */
  readonly pairs: readonly (readonly (readonly [FlatColour, FlatColour])[])[];
  readonly seen: Seen;
  readonly solid: readonly number[];
  readonly reach: number;
}

/** What each colour has against it at a pixel where these are near: more when it is likely a mixture. */
function doubts(near: readonly number[], { plane, palette, pairs }: Scene, x: number, y: number): number[] {
  return palette.map((own, k) => {
    const list = near.includes(k) ? [] : (pairs[k] ?? []);
    return list.length > 0 && areParentsSeen(plane, x, y, own, list, PARENTS, PARENT_LIKE) ? STRANGER : 0;
  });
}

/** By colours that are pure beside a pixel, or one of them and one from farther away where that explains much more. */
function explain(mixture: Mixture, near: readonly number[], scene: Scene, x: number, y: number): void {
  const { seen, solid, reach } = scene;
  if (near.length > 1) mixture.among(near);
  if (mixture.off <= FARTHER) return;
  const against = doubts(near, scene, x, y);
  if (near.length > 0) mixture.between(near, farther(seen, x, y, TIMES_FARTHER * reach), FARTHER, against);
  if (mixture.off <= STRANGER) return;
  if (near.length > 0) mixture.between(near, solid, STRANGER, against);
  else for (const p of solid) mixture.between([p], solid, against[p] as number, against);
  if (mixture.off === Infinity) mixture.among(near);
}

/** The solid colours of a pixel that is clear in part, by what is near before what is farther away. */
function explainHalfClear(mixture: Mixture, near: readonly number[], { seen, solid, reach }: Scene, x: number, y: number): void {
  mixture.among(near);
  if (mixture.off >= STRANGER) mixture.among(farther(seen, x, y, TIMES_FARTHER * reach));
  if (mixture.off >= STRANGER) mixture.among(solid);
}

interface Seen {
  readonly labels: Uint8Array;
  readonly width: number;
  readonly height: number;
  readonly clear: number | undefined;
}

/** Colours that are pure anywhere within a reach; every other row and column is looked at. */
function farther({ labels, width, height, clear }: Seen, x: number, y: number, reach: number): number[] {
  const out: number[] = [];
  for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v += 2)
    for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u += 2) {
      const k = labels[v * width + u] as number;
      if (k !== NONE && k !== clear && !out.includes(k)) out.push(k);
    }
  return out;
}

/** Colours that are pure around a pixel, as far as it takes to see two, what is clear among them; it is left out. */
function around({ labels, width, height, clear }: Seen, x: number, y: number, reach: number): number[] {
  const out: number[] = [];
  let isClear = 0;
  for (let r = 1; r <= reach; r++) {
    for (let v = Math.max(0, y - r); v <= Math.min(height - 1, y + r); v++) {
      // only what the last round did not see
      const step = v === y - r || v === y + r ? 1 : 2 * r;
      for (let u = x - r; u <= x + r; u += step) {
        if (u < 0 || u >= width) continue;
        const k = labels[v * width + u] as number;
        if (k === NONE) continue;
        if (k === clear) isClear = 1;
        else if (!out.includes(k)) out.push(k);
      }
    }
    if (out.length + isClear >= 2 && r >= Math.min(2, reach)) break;
  }
  return out;
}

/** Pixels looked at for colours that are missing. */
const MOST_LOOKED_AT = 160_000;

export interface UnexplainedOptions extends UnmixOptions {
  /** How far off an unexplained pixel is, levels. */
  readonly limit: number;
  /** How far beyond two colours their mixtures go, shares: waves beside edges overshoot. */
  readonly beyond: number;
}

/** Pixels that are no mixture of a colour that lies pure beside them with any other; of any two where none does. */
export function unexplained(
  seenPlane: Plane,
  seenPalette: readonly FlatColour[],
  options: UnexplainedOptions,
): { found: Unexplained[]; looked: number } {
  const compared = comparedBy(options.hue, seenPlane, seenPalette);
  const { plane, palette } = compared;
  const { width, height, rgb, alpha } = plane;
  const { limit, beyond } = options;
  const pure = pureLabels(compared, options);
  const step = Math.max(1, Math.round(Math.sqrt((width * height) / MOST_LOOKED_AT)));
  const all = palette.map((_, k) => k);
  const found: Unexplained[] = [];
  let looked = 0;
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const i = y * width + x;
      if (alpha && (alpha[i] as number) < 250) continue;
      looked++;
      if (pure[i] !== NONE) continue;
      const [r, g, b] = [rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number];
      const near = around({ labels: pure, width, height, clear: options.clear }, x, y, options.reach);
      let off = Infinity;
      for (const p of near.length > 0 ? near : all)
        for (const q of all) {
          if (off < limit) break;
          off = Math.min(off, offMixture(r, g, b, palette[p] as FlatColour, palette[q] as FlatColour, beyond));
        }
      if (off < limit || off === Infinity) continue;
      const from = seenPlane.rgb;
      found.push({ r: from[3 * i] as number, g: from[3 * i + 1] as number, b: from[3 * i + 2] as number, off });
    }
  return { found, looked };
}

/** A partner from anywhere must explain the pixel better by this many levels, one that is pure not far away by so many. */
const STRANGER = 14;
const FARTHER = 5;
/** How much farther that is. */
const TIMES_FARTHER = 3;
