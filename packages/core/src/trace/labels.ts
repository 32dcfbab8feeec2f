/**
 * From shares to labels: one colour for each pixel. A line thinner than a pixel is nowhere mostly of its colour; it is
 * followed along its crest, where its share is greater than on both sides.
 */
import type { Shares } from './shares.ts';

/** Lines thinner than a pixel are followed down to this share of it; in pictures with blur or noise less far. */
const FAINTEST = 0.2;
const FAINTEST_ROUGH = 0.27;
/** Across a line as it was drawn no more than this share of it lies beyond two pixels. */
const BEYOND = 0.25;

/**
 * @param isSharp edges are as drawn, not blurred or made up by enlarging
 * @returns the colour that each pixel is mostly of; along the crest of a thin line, the line's
 */
export function labelsOf(shares: Shares, isSharp: boolean): Uint8Array {
  const { width, height, first, second } = shares;
  const faintest = isSharp ? FAINTEST : FAINTEST_ROUGH;
  const out = first.slice();
  for (let i = 0; i < out.length; i++) if (shares.shareAt(i) < 0.5) out[i] = second[i] as number;
  const of = (i: number, label: number): number => shares.of(i, label);
  // else it is the side of something wider that runs along the row
  const isThin = (i: number, d: number, label: number, own: number, a: number, b: number): boolean => {
    if (!isSharp) return true;
    const far = of(i - 2 * d, label) + of(i + 2 * d, label);
    return Math.min(a, b) + far < BEYOND * (own + a + b + far);
  };
  const kept = out.slice();
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      if (first[i] === second[i]) continue;
      const minor = out[i] === first[i] ? (second[i] as number) : (first[i] as number);
      const own = of(i, minor);
      if (own < faintest) continue;
      for (const d of [1, width, width + 1, width - 1]) {
        const [a, b] = [of(i - d, minor), of(i + d, minor)];
        if (
          own > a &&
          own >= b &&
          a < 0.45 &&
          b < 0.45 &&
          out[i - d] !== minor &&
          out[i + d] !== minor &&
          own > 0.6 * (a + b) &&
          isThin(i, d, minor, own, a, b)
        ) {
          kept[i] = minor;
          break;
        }
      }
    }
  return kept;
}
