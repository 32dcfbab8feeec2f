/**
 * From sections of a sheet to tool paths in the order of cutting. A section is what one tool cuts in one way: a film's
 * outlines, its weed lines, the kiss cuts of a print. Sections come in the order of `CUT_KINDS`: what is cut through
 * last holds the sheet together as long as anything is left to do. Inside a section inner contours come before the ones
 * that hold them, with short ways between; each section begins where the tool stands after the one before.
 */
import type { Contour, Control, Outline, Point } from '../types/index.ts';
import { at } from '../geometry/span.ts';
import { orderCuts } from './order-cuts.ts';
import { planBlade, startContourAt, type BladeSetup, type ToolPath } from './plan-blade.ts';

/** Kinds of cuts in their order: film outlines and their weed lines, then the lines of a print. */
export const CUT_KINDS = ['film', 'weed', 'kiss', 'score', 'perforated', 'through'] as const;
export type CutKind = (typeof CUT_KINDS)[number];

export interface CutSection {
  readonly kind: CutKind;
  readonly outline: Outline;
  readonly setup: BladeSetup;
}

export interface PlannedSection {
  readonly kind: CutKind;
  readonly paths: readonly ToolPath[];
}

export interface CutPlan {
  /** Those that have something to cut, in the order of cutting. */
  readonly sections: readonly PlannedSection[];
  /** All of them, one after another. */
  readonly paths: readonly ToolPath[];
  /** Way with the tool up between them, from the lower left corner, mm. */
  readonly travelMm: number;
}

/** Where the tool is after a section. */
function endOf(paths: readonly ToolPath[], start: Point): Point {
  const xy = paths.at(-1)?.xy;
  return xy && xy.length >= 2 ? { x: at(xy, xy.length - 2), y: at(xy, xy.length - 1) } : start;
}

/** @throws CancelledError. @complexity that of `orderCuts`, a section after another */
export function planCut(sections: readonly CutSection[], control?: Control): CutPlan {
  const inOrder = [...sections]
    .filter(({ outline }) => outline.contours.length > 0)
    .sort((a, b) => CUT_KINDS.indexOf(a.kind) - CUT_KINDS.indexOf(b.kind));
  let start: Point = { x: 0, y: 0 };
  let travelMm = 0;
  const planned = inOrder.map(({ kind, outline: { contours }, setup }): PlannedSection => {
    const single = contours.map((contour): Outline => ({ contours: [contour] }));
    const order = orderCuts(single, { start }, control);
    travelMm += order.travelMm;
    const turned = order.order.map((index, k) => startContourAt(contours[index] as Contour, order.startIndex[k] as number));
    const paths = planBlade({ contours: turned }, setup);
    start = endOf(paths, start);
    return { kind, paths };
  });
  return { sections: planned, paths: planned.flatMap(({ paths }) => paths), travelMm };
}
