/**
 * What a film costs: material, waste, and the time that weeding and pressing take. Units mm, mm², minutes; money in the
 * shop's own currency. The rule for weeding is the shop's: so many minutes a metre of cut, so many seconds a part, and
 * parts finer than a size count more. It is an estimate and says so; the rest is what was measured.
 */
import type { Outline } from '../types/index.ts';
import { contourArea } from '../geometry/outline.ts';

/** How long weeding takes. */
export interface WeedingRule {
  readonly minutesPerMetre: number;
  readonly secondsPerPart: number;
  /** Parts whose area is below this squared are fine. */
  readonly fineMm: number;
  /** A fine part counts as so many parts. */
  readonly fineTimes: number;
}

/** Weeding until a shop says otherwise. */
export const USUAL_WEEDING: WeedingRule = { minutesPerMetre: 0.4, secondsPerPart: 5, fineMm: 15, fineTimes: 2 };

/** What is cut, of which material. */
export interface CostProblem {
  /** What is cut, all copies. */
  readonly outline: Outline;
  /** Its area, part by part: parts may run either way round. */
  readonly areaMm2: number;
  readonly cutMm: number;
  readonly usedLengthMm: number;
  readonly materialWidthMm: number;
  readonly pricePerMetre: number;
  /** All pressings together; 0: it is not pressed. */
  readonly pressSeconds: number;
  readonly rule: WeedingRule;
}

/** Material, time and price of what is cut. */
export interface Cost {
  readonly areaMm2: number;
  readonly cutMm: number;
  readonly usedLengthMm: number;
  readonly wasteMm2: number;
  /** Of the material used, 0 to 1. */
  readonly wasteShare: number;
  readonly parts: number;
  readonly fineParts: number;
  readonly weedingMinutes: number;
  readonly pressMinutes: number;
  readonly price: number;
}

/**
 * Material, time and price of what is cut. Areas mm², lengths mm, times minutes.
 * @returns prices in the shop's currency, not rounded
 */
export function costOf(problem: CostProblem): Cost {
  const { outline, areaMm2, cutMm, usedLengthMm, materialWidthMm, pricePerMetre, pressSeconds, rule } = problem;
  const sizes = outline.contours.filter(({ closed }) => closed).map((contour) => Math.sqrt(Math.abs(contourArea(contour))));
  const fineParts = sizes.filter((size) => size < rule.fineMm).length;
  const usedMm2 = usedLengthMm * materialWidthMm;
  const counted = sizes.length + fineParts * (rule.fineTimes - 1);
  return {
    areaMm2,
    cutMm,
    usedLengthMm,
    wasteMm2: Math.max(0, usedMm2 - areaMm2),
    wasteShare: usedMm2 > 0 ? Math.max(0, 1 - areaMm2 / usedMm2) : 0,
    parts: sizes.length,
    fineParts,
    weedingMinutes: (cutMm / 1000) * rule.minutesPerMetre + (counted * rule.secondsPerPart) / 60,
    pressMinutes: pressSeconds / 60,
    price: (usedLengthMm / 1000) * pricePerMetre,
  };
}

/** What an hour costs, and what is added, percent. */
export interface Rates {
  readonly hourlyRate: number;
  readonly marginPct: number;
}

/** A price: material, work, margin and their sum. */
export interface Quote {
  readonly material: number;
  readonly minutes: number;
  readonly work: number;
  readonly margin: number;
  readonly total: number;
}

/**
 * A price for the whole: material and time, and the margin on both.
 * @param costs one a film
 */
export function quoteOf(costs: readonly Cost[], { hourlyRate, marginPct }: Rates): Quote {
  const material = costs.reduce((sum, { price }) => sum + price, 0);
  const minutes = costs.reduce((sum, { weedingMinutes, pressMinutes }) => sum + weedingMinutes + pressMinutes, 0);
  const work = (minutes / 60) * hourlyRate;
  const margin = ((material + work) * marginPct) / 100;
  return { material, minutes, work, margin, total: material + work + margin };
}
