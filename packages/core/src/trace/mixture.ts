/** Pixels as mixtures of two flat colours: the pair and the shares that explain one best. Units levels of sRGB. */
import type { FlatColour } from './palette.ts';

/**
 * How far a colour is from the mixtures of two, levels.
 * @param r,g,b levels of sRGB
 * @param beyond by which share the mixture may lie outside of the two
 */
export function offMixture(r: number, g: number, b: number, one: FlatColour, two: FlatColour, beyond = 0): number {
  const [dr, dg, db] = [one.rgb[0] - two.rgb[0], one.rgb[1] - two.rgb[1], one.rgb[2] - two.rgb[2]];
  const size = dr * dr + dg * dg + db * db;
  const t =
    size === 0
      ? 0
      : Math.min(1 + beyond, Math.max(-beyond, ((r - two.rgb[0]) * dr + (g - two.rgb[1]) * dg + (b - two.rgb[2]) * db) / size));
  return Math.hypot(r - two.rgb[0] - t * dr, g - two.rgb[1] - t * dg, b - two.rgb[2] - t * db);
}

/** The two colours that a pixel is mixed of, the pair with the least remainder of those that were tried. */
export class Mixture {
  /** The one that there is more of, the other, and the share of the first. */
  a = 0;
  b = 0;
  t = 1;
  /** The remainder and what the pair had against it, levels. */
  off = Infinity;
  private readonly palette: readonly FlatColour[];
  private r = 0;
  private g = 0;
  private blue = 0;

  constructor(palette: readonly FlatColour[]) {
    this.palette = palette;
  }

  start(r: number, g: number, b: number): void {
    this.r = r;
    this.g = g;
    this.blue = b;
    this.off = Infinity;
  }

  private tryPair(p: number, q: number, extra: number): void {
    const [one, two] = [(this.palette[p] as FlatColour).rgb, (this.palette[q] as FlatColour).rgb];
    const dr = one[0] - two[0];
    const dg = one[1] - two[1];
    const db = one[2] - two[2];
    const [r, g, b] = [this.r - two[0], this.g - two[1], this.blue - two[2]];
    const size = dr * dr + dg * dg + db * db;
    const t = size === 0 ? 1 : Math.min(1, Math.max(0, (r * dr + g * dg + b * db) / size));
    const off = Math.sqrt((r - t * dr) ** 2 + (g - t * dg) ** 2 + (b - t * db) ** 2) + extra;
    if (off >= this.off) return;
    this.off = off;
    this.a = t >= 0.5 ? p : q;
    this.b = t >= 0.5 ? q : p;
    this.t = t >= 0.5 ? t : 1 - t;
  }

  /** All pairs of a list; a single colour by itself. */
  among(list: readonly number[]): void {
    if (list.length === 1) this.tryPair(list[0] as number, list[0] as number, 0);
    for (let i = 0; i < list.length; i++) for (let j = i + 1; j < list.length; j++) this.tryPair(list[i] as number, list[j] as number, 0);
  }

  /** Colours that are near with others, which have something against them. */
  between(near: readonly number[], others: readonly number[], extra: number, against: readonly number[]): void {
    for (const q of others) {
      if (near.includes(q)) continue;
      const more = extra + (against[q] as number);
      if (more < this.off) for (const p of near) this.tryPair(p, q, more);
    }
  }
}
