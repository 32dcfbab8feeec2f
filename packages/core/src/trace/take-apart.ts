/** From a prepared picture to labels: each pixel taken apart, colours that were merged joined, specks taken in. */
import { absorbDoubtful } from './doubtful.ts';
import { recolourIslands } from './island-colours.ts';
import { labelsOf } from './labels.ts';
import { colourOf, indexOfColour, levelsApart, type FlatColour } from './palette.ts';
import type { OnShare, Plane } from './pixels.ts';
import type { Following } from './prepare.ts';
import { absorbFaint, absorbSpecks } from './regions.ts';
import { HUE_OF_SHARES, mutedApart } from './squeezed.ts';
import { settleShares } from './settle-shares.ts';
import type { Shares } from './shares.ts';
import { sharesOfSteps, type Stepped } from './stepped.ts';
import { reached } from './pure-labels.ts';
import { unmix } from './unmix.ts';

/**
 * Edges are as they were drawn: not blurred, and not made up by enlarging.
 * @param times 1 for a picture at its own size
 */
export const isSharp = ({ calm }: Following, times: number): boolean => calm === 0 && times === 1;

/** Pixels of merged colours become the colour they are merged into; mixtures of the two are wholly of it. */
function mergeLabels(shares: Shares, palette: readonly FlatColour[], merge: readonly (readonly [string, string])[]): void {
  if (merge.length === 0) return;
  const into = palette.map((_, k) => k);
  for (const [from, to] of merge) {
    const [a, b] = [indexOfColour(palette, from), indexOfColour(palette, to)];
    if (a < 0 || b < 0) continue;
    const target = into[b] as number;
    into.forEach((label, k) => label === into[a] && (into[k] = target));
  }
  shares.relabel(into);
}

/** What is known from the user; the picture's own when absent. */
export interface TakeApartOptions {
  readonly merge?: readonly (readonly [string, string])[];
  readonly smallestPx?: number;
  readonly reaches?: readonly (readonly [string, number])[];
}

/** Shares and labels of the pixels after mixtures were taken apart. */
export interface TakenApart {
  readonly shares: Shares;
  readonly labels: Uint8Array;
  /** The label of what is clear. */
  readonly clear: number | undefined;
}

/** A pixel that differs by so many levels from what it lies in is worth one pixel of edge round it. */
const FAINT_LEVELS = 90;

/** Settling makes further regions doubtful, fewer each time. */
const MOST_ROUNDS = 4;

/** A picture in the colours that were found, and how it is followed. */
export interface Coloured {
  readonly plane: Plane;
  readonly palette: readonly FlatColour[];
  readonly following: Following;
  /** Its pixels are so many times smaller than the customer's. */
  readonly times: number;
}

/**
 * Every pixel's colour and share; what is clear has the label after the last colour.
 * @param onShare is told how much is done, 0 to 1
 */
export function takenApart(
  { plane, palette, following, times }: Coloured,
  { merge = [], smallestPx, reaches, stepped }: TakeApartOptions & { readonly stepped?: Stepped | undefined } = {},
  onShare?: OnShare,
): TakenApart {
  const clear = plane.alpha ? palette.length : undefined;
  const all = clear === undefined ? palette : [...palette, { ...colourOf('#ffffff'), rgb: [1e4, 1e4, 1e4] as const }];
  const reachOf = new Map(reaches?.map(([hex, reach]) => [indexOfColour(palette, hex), reach]));
  const hue = following.isSqueezed ? HUE_OF_SHARES : 1;
  const reachedFrom = palette.map((_, k) => reachOf.get(k) ?? 0);
  const shares = stepped
    ? sharesOfSteps(stepped, plane, palette, reached(palette, reachedFrom))
    : unmix(plane, all, { ...following, clear, reaches: reachedFrom, hue }, onShare);
  mergeLabels(shares, palette, merge);
  // what fades away in squeezed and enlarged pictures may be made up
  const apart = following.isTaken && times === 1 ? (a: number, b: number): number => levelsApart(palette[a], palette[b]) : undefined;
  const labels = labelsOf(shares, { isSharp: isSharp(following, times), isRough: following.isRough, apart });
  const smallest = smallestPx === undefined ? following.smallestPx : smallestPx * times * times;
  const takeIn = (): void => {
    absorbSpecks(shares, labels, smallest);
    if (following.isSqueezed) absorbFaint(shares, labels, (a, b) => mutedApart(palette[a], palette[b]) / FAINT_LEVELS);
  };
  takeIn();
  if (!following.isRough) return { shares, labels, clear };
  // what was told by hand stays
  const sure = new Set([...reachOf].flatMap(([k, reach]) => (reach > 0 ? [k] : [])));
  const settle = (): void => {
    for (let round = 0; round < MOST_ROUNDS; round++) {
      settleShares(plane, all, shares, labels, { hue, clear });
      takeIn();
      if (!absorbDoubtful(plane, all, shares, labels, { hue, clear, sure })) break;
    }
  };
  settle();
  if (following.isSqueezed && clear === undefined) recolourIslands({ plane, shares, labels, times }, palette, sure);
  return { shares, labels, clear };
}
