/** From contours on a sheet to tool paths in the order of cutting, weed lines last. */
import type { Contour, Control, Outline } from '../types/index.ts';
import { orderCuts } from './order-cuts.ts';
import { planBlade, startContourAt, type BladeSetup, type ToolPath } from './plan-blade.ts';

export interface CutPlan {
  readonly paths: readonly ToolPath[];
  /** Way with the tool up between them, from the lower left corner, mm. */
  readonly travelMm: number;
}

function ordered(contours: readonly Contour[], control?: Control): { contours: Contour[]; travelMm: number } {
  const { order, startIndex, travelMm } = orderCuts(
    contours.map((contour): Outline => ({ contours: [contour] })),
    {},
    control,
  );
  return { contours: order.map((index, k) => startContourAt(contours[index] as Contour, startIndex[k] as number)), travelMm };
}

/** @throws CancelledError */
export function planCut(cut: Outline, weed: Outline, setup: BladeSetup, control?: Control): CutPlan {
  const first = ordered(cut.contours, control);
  const second = ordered(weed.contours, control);
  return {
    paths: planBlade({ contours: [...first.contours, ...second.contours] }, setup),
    travelMm: first.travelMm + second.travelMm,
  };
}
