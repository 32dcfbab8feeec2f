/**
 * From colours to shares: each pixel as one flat colour or a mixture of two that stand beside it. Antialiasing, blur
 * and ringing make the pixels along an edge such mixtures; their shares tell where the edge runs between the pixel
 * centres. Method: pixels near enough to a flat colour in flat surroundings are pure; the others are taken apart along
 * the line in sRGB between two colours that lie pure in their neighbourhood, the pair with the least remainder winning.
 */
import { labDifference, labOf } from '../colour/index.ts';
import type { FlatColour, Unexplained } from './palette.ts';
import { isSeenAround, type Plane } from './pixels.ts';

/** A pixel's two colours and the share of the first. */
export interface Shares {
  readonly width: number;
  readonly height: number;
  readonly first: Uint8Array;
  readonly second: Uint8Array;
  readonly share: Float32Array;
}

export interface UnmixOptions {
  /** How far pure pixels are looked for, pixels. */
  readonly reach: number;
  /** Levels (Euclidean) within which a pixel is pure. */
  readonly pureLevels: number;
  /** Label of what is transparent; its colour is none. */
  readonly clear: number | undefined;
  /** How far each colour reaches, ΔE; 0 for as far as it is nearest. */
  readonly reaches?: readonly number[];
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
function reached(palette: readonly FlatColour[], reaches: readonly number[]): (r: number, g: number, b: number) => number | undefined {
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
function pureLabels(plane: Plane, palette: readonly FlatColour[], { pureLevels, clear, reaches }: UnmixOptions): Uint8Array {
  const reachedBy = reaches?.some((reach) => reach > 0) ? reached(palette, reaches) : undefined;
  const { width, height, rgb, alpha, words } = plane;
  const out = new Uint8Array(width * height).fill(NONE);
  const labelOf = (r: number, g: number, b: number): number => {
    const taken = reachedBy?.(r, g, b);
    if (taken !== undefined) return taken;
    const [k, d] = nearest(r, g, b, palette);
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
    if (r !== lr || g !== lg || b !== lb) {
      known = labelOf(r, g, b);
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

export function unmix(plane: Plane, palette: readonly FlatColour[], options: UnmixOptions): Shares {
  const { width, height, rgb, alpha } = plane;
  const pure = pureLabels(plane, palette, options);
  const first = new Uint8Array(width * height);
  const second = new Uint8Array(width * height);
  const share = new Float32Array(width * height).fill(1);
  const { reach, clear } = options;
  const all = palette.map((_, k) => k);
  const pairs = pairsOf(palette);
  first.set(pure);
  second.set(pure);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (pure[i] !== NONE) continue;
      const near = around(pure, width, height, x, y, reach);
      const [r, g, b] = [rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number];
      if (alpha && clear !== undefined && (alpha[i] as number) < 248) {
        const solid = near.filter((k) => k !== clear);
        const [k] = solid.length === 1 ? [solid[0] as number] : nearest(r, g, b, palette);
        first[i] = k;
        second[i] = clear;
        share[i] = (alpha[i] as number) / 255;
        continue;
      }
      const found = bestPair(
        r,
        g,
        b,
        near.filter((k) => k !== clear),
        all,
        palette,
        (k) => areParentsSeen(plane, x, y, palette[k] as FlatColour, pairs[k] ?? [], PARENTS, PARENT_LIKE),
      );
      first[i] = found.a;
      second[i] = found.b;
      share[i] = found.t;
    }
  return { width, height, first, second, share };
}

function around(pure: Uint8Array, width: number, height: number, x: number, y: number, reach: number): number[] {
  for (let r = 1; r <= reach; r++) {
    const out: number[] = [];
    for (let v = Math.max(0, y - r); v <= Math.min(height - 1, y + r); v++)
      for (let u = Math.max(0, x - r); u <= Math.min(width - 1, x + r); u++) {
        const k = pure[v * width + u] as number;
        if (k !== NONE && !out.includes(k)) out.push(k);
      }
    if (out.length >= 2 && r >= Math.min(2, reach)) return out;
    if (r === reach) return out;
  }
  return [];
}

interface Pair {
  readonly a: number;
  readonly b: number;
  readonly t: number;
  readonly off: number;
}

/** Pixels looked at for colours that are missing. */
const MOST_LOOKED_AT = 160_000;

/**
 * Pixels that are no mixture of a colour that lies pure beside them with any other; of any two where none does.
 * @param limit levels
 */
export function unexplained(
  plane: Plane,
  palette: readonly FlatColour[],
  options: UnmixOptions,
  limit: number,
): { found: Unexplained[]; looked: number } {
  const { width, height, rgb, alpha } = plane;
  const pure = pureLabels(plane, palette, options);
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
      const near = around(pure, width, height, x, y, options.reach).filter((k) => k !== options.clear);
      let off = Infinity;
      for (const p of near.length > 0 ? near : all)
        for (const q of all) {
          if (off < limit) break;
          off = Math.min(off, offMixture(r, g, b, palette[p] as FlatColour, palette[q] as FlatColour));
        }
      if (off >= limit && off < Infinity) found.push({ r, g, b, off });
    }
  return { found, looked };
}

/** How far a colour is from the mixtures of two, levels. */
function offMixture(r: number, g: number, b: number, one: FlatColour, two: FlatColour): number {
  const [dr, dg, db] = [one.rgb[0] - two.rgb[0], one.rgb[1] - two.rgb[1], one.rgb[2] - two.rgb[2]];
  const size = dr * dr + dg * dg + db * db;
  const t = size === 0 ? 0 : Math.min(1, Math.max(0, ((r - two.rgb[0]) * dr + (g - two.rgb[1]) * dg + (b - two.rgb[2]) * db) / size));
  return Math.hypot(r - two.rgb[0] - t * dr, g - two.rgb[1] - t * dg, b - two.rgb[2] - t * db);
}

/** A partner from farther away must explain the pixel better by this many levels. */
const STRANGER = 14;

function bestPair(
  r: number,
  g: number,
  b: number,
  near: readonly number[],
  all: readonly number[],
  palette: readonly FlatColour[],
  isDoubtful: (label: number) => boolean,
): Pair {
  const handicap = (k: number): number => (!near.includes(k) && isDoubtful(k) ? STRANGER : 0);
  let best: Pair = { a: 0, b: 0, t: 1, off: Infinity };
  const tryPair = (p: number, q: number, extra: number): void => {
    const [one, two] = [(palette[p] as FlatColour).rgb, (palette[q] as FlatColour).rgb];
    const [dr, dg, db] = [one[0] - two[0], one[1] - two[1], one[2] - two[2]];
    const size = dr * dr + dg * dg + db * db;
    const t = size === 0 ? 1 : Math.min(1, Math.max(0, ((r - two[0]) * dr + (g - two[1]) * dg + (b - two[2]) * db) / size));
    const off = Math.hypot(r - two[0] - t * dr, g - two[1] - t * dg, b - two[2] - t * db) + extra;
    if (off < best.off) best = t >= 0.5 ? { a: p, b: q, t, off } : { a: q, b: p, t: 1 - t, off };
  };
  for (let i = 0; i < near.length; i++) for (let j = i + 1; j < near.length; j++) tryPair(near[i] as number, near[j] as number, 0);
  if (best.off > STRANGER)
    for (const p of near.length > 0 ? near : all)
      for (const q of all)
        if (p !== q && !(near.includes(p) && near.includes(q))) tryPair(p, q, (near.length > 0 ? STRANGER : 0) + handicap(p) + handicap(q));
  if (best.off === Infinity) best = { a: near[0] ?? 0, b: near[0] ?? 0, t: 1, off: 0 };
  return best;
}
