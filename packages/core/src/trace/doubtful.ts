/**
 * Small regions of a colour that is not needed there. Where a part runs out, or blur mixes what lies beside it, a third
 * colour comes up by chance: its pixels are mixtures of the colours around them as well. A region keeps its colour only
 * when that explains its pixels better than the colours around alone do, by more than noise (a comparison of nested
 * models; S. S. Wilks, 1938). Units levels and pixels.
 */
import { Mixture } from './mixture.ts';
import { levelsApart, type FlatColour } from './palette.ts';
import type { Plane } from './pixels.ts';
import { partsOf, regionsOf } from './regions.ts';
import type { Shares } from './shares.ts';
import { comparedBy } from './squeezed.ts';
import type { UnmixOptions } from './unmix.ts';

/** Regions of more pixels are not doubted. */
const MOST_PIXELS = 400;
/** What a colour must explain more of a region's pixels, in the mean; less where hue weighs less. */
const NEEDED = 14;
const NEEDED_SQUEEZED = 10;
/** A pixel becomes of the colour that takes a region over when it is so much of it. */
const LEAST_SHARE = 0.27;

/**
 * Takes the doubtful regions over by the colour around them that is most like theirs.
 * @param labels of each pixel; changed as the shares are
 * @param sure colours that are not doubted
 * @returns whether there were any
 */
export function absorbDoubtful(
  seenPlane: Plane,
  seenPalette: readonly FlatColour[],
  shares: Shares,
  labels: Uint8Array,
  { hue, clear, sure }: Pick<UnmixOptions, 'hue' | 'clear'> & { readonly sure: ReadonlySet<number> },
): boolean {
  const { plane, palette } = comparedBy(hue, seenPlane, seenPalette);
  const needed = hue !== undefined && hue < 1 ? NEEDED_SQUEEZED : NEEDED;
  const regions = regionsOf(labels, shares.width, shares.height);
  const mixture = new Mixture(palette);
  const explain = (i: number, list: readonly number[]): number => {
    mixture.start(plane.rgb[3 * i] as number, plane.rgb[3 * i + 1] as number, plane.rgb[3 * i + 2] as number);
    mixture.among(list);
    return mixture.off;
  };
  let any = false;
  for (const { label, beside, pixels } of partsOf(regions, 1, MOST_PIXELS)) {
    const around = [...beside.keys()];
    // with one colour around there is nothing that it could be mixed of
    if (around.length < 2 || sure.has(label) || label === clear || (clear !== undefined && around.includes(clear))) continue;
    const all = [label, ...around];
    if (pixels.reduce((sum, i) => sum + explain(i, around) - explain(i, all), 0) >= needed * pixels.length) continue;
    const far = (k: number): number => levelsApart(palette[k], palette[label]);
    const winner = around.reduce((one, other) => (far(other) < far(one) ? other : one));
    for (const i of pixels) {
      explain(i, around);
      shares.mix(i, mixture.a, mixture.b, mixture.t);
      labels[i] = shares.of(i, winner) >= LEAST_SHARE ? winner : mixture.a;
    }
    any = true;
  }
  return any;
}
