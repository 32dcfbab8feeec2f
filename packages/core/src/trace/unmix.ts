/**
 * From colours to shares: each pixel as one flat colour or a mixture of two that stand beside it. Antialiasing, blur
 * and ringing make the pixels along an edge such mixtures; their shares tell where the edge runs between the pixel
 * centres. Method: pixels near enough to a flat colour in flat surroundings are pure; the others are taken apart along
 * the line in sRGB between two colours that lie pure in their neighbourhood, the pair with the least remainder winning.
 */
import type { FlatColour, Unexplained } from './palette.ts';
import { ROWS_A_SHARE, type OnShare, type Plane } from './pixels.ts';
import { Mixture, offMixture } from './mixture.ts';
import { Shares } from './shares.ts';
import { NONE, pairsOf, pureLabels, Surroundings, type Parents } from './pure-labels.ts';
import { comparedBy } from './squeezed.ts';

/** When a pixel is pure, and where pure ones are looked for. */
export interface UnmixOptions {
  /** How far pure pixels are looked for, pixels. */
  readonly reach: number;
  /** Levels (Euclidean) within which a pixel is pure. */
  readonly pureLevels: number;
  /** And within this share of the way to the nearest other colour; any when absent. */
  readonly pureShare?: number | undefined;
  /** Label of what is transparent; its colour is none. */
  readonly clear: number | undefined;
  /** How far each colour reaches, ΔE; 0 for as far as it is nearest. */
  readonly reaches?: readonly number[];
  /** What hue weighs against brightness, 0 to 1; all when absent. */
  readonly hue?: number;
}

/** A colour that is not seen pure is doubtful where both that it could be mixed of are seen so far around, so well. */
const PARENTS = 8;
const PARENT_LIKE = 60;

/**
 * The shares of colours in each pixel.
 * @returns two colours a pixel at most, and the share of the first
 */
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
  const pairs = pairsOf(palette);
  const scene: Scene = { pairs, surroundings: new Surroundings(plane, palette, pairs, PARENTS, PARENT_LIKE), seen, solid, reach };
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
  /** For each colour the pairs of others that it could be mixed of. */
  readonly pairs: readonly (readonly Parents[])[];
  readonly surroundings: Surroundings;
  readonly seen: Seen;
  readonly solid: readonly number[];
  readonly reach: number;
}

/** What each colour has against it at a pixel where these are near: more when it is likely a mixture. */
function doubts(near: readonly number[], { pairs, surroundings }: Scene, x: number, y: number): number[] {
  if (pairs.every((list, k) => list.length === 0 || near.includes(k))) return pairs.map(() => 0);
  surroundings.moveTo(x, y);
  return pairs.map((list, k) => (list.length > 0 && !near.includes(k) && surroundings.hasAny(list) ? STRANGER : 0));
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

/** The same, and when a pixel is explained by no mixture. */
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
