/**
 * From sections of a sheet to tool paths in the order of cutting. A section is what one tool cuts in one way: a film's
 * outlines, its weed lines, the kiss cuts of a print. Sections come in the order of `CUT_KINDS`: what is cut through
 * last holds the sheet together as long as anything is left to do. Inside a section inner contours come before the ones
 * that hold them, with short ways between; each section begins where the tool stands after the one before.
 * On long rolls the sheet is cut window by window: everything that begins in one is done before the next, so that film is
 * not pulled to and fro over its whole length and wanders less. What a contour holds belongs to its window.
 * Units: mm, x along the material.
 */
import type { Contour, Control, Outline, Point } from '../types/index.ts';
import { contourBox } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';
import { containment, orderCuts } from './order-cuts.ts';
import { planBlade, startContourAt, startOnStraight, type BladeSetup, type ToolPath } from './plan-blade.ts';

/** Kinds of cuts in their order: film outlines and their weed lines, then the lines of a print. */
export const CUT_KINDS = ['film', 'weed', 'kiss', 'score', 'perforated', 'through'] as const;
/** A kind of line. */
export type CutKind = (typeof CUT_KINDS)[number];

/** Lines of one kind, with the setup of the blade for them. */
export interface CutSection {
  readonly kind: CutKind;
  readonly outline: Outline;
  readonly setup: BladeSetup;
}

/** Rules for the order in which a sheet is cut. */
export interface CutWay {
  /** Kinds in the order they are cut; those that it does not name come last, in their usual order. */
  readonly order?: readonly CutKind[];
  /** Length of a window, mm; absent or null: the whole sheet is one. */
  readonly windowMm?: number | null;
  /** What is no larger than this across is cut before the rest of its kind, while the material is still whole; 0: no such rule. */
  readonly smallFirstMm?: number;
}

/** Ways of one kind, in their order. */
export interface PlannedSection {
  readonly kind: CutKind;
  readonly paths: readonly ToolPath[];
}

/** Everything that a sheet is cut with. */
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

const rankIn = (order: readonly CutKind[] | undefined, kind: CutKind): number => {
  const at = order?.indexOf(kind) ?? -1;
  return at >= 0 ? at : CUT_KINDS.length + CUT_KINDS.indexOf(kind);
};

/** A section's contours in groups that are cut one after another: by window, small ones before the others. */
function groupsOf(contours: readonly Contour[], { windowMm, smallFirstMm = 0 }: CutWay): Map<number, Contour[][]> {
  if (!windowMm && smallFirstMm <= 0) return new Map([[0, [[...contours]]]]);
  const holders = containment(contours);
  const rootOf = (i: number): number => {
    const holder = holders[i] ?? -1;
    return holder < 0 ? i : rootOf(holder);
  };
  const groups = new Map<number, [Contour[], Contour[]]>();
  contours.forEach((contour, i) => {
    const { minX, minY, maxX, maxY } = contourBox(contours[rootOf(i)] as Contour);
    const window = windowMm ? Math.max(0, Math.floor(minX / windowMm)) : 0;
    const isSmall = Math.max(maxX - minX, maxY - minY) <= smallFirstMm;
    const [small, large] = groups.get(window) ?? [[], []];
    (isSmall ? small : large).push(contour);
    groups.set(window, [small, large]);
  });
  return groups;
}

/**
 * @param way the usual order and one window when it is empty
 * @throws CancelledError. @complexity that of `orderCuts`, a section after another
 */
export function planCut(sections: readonly CutSection[], way: CutWay = {}, control?: Control): CutPlan {
  const inOrder = sections
    .filter(({ outline }) => outline.contours.length > 0)
    .sort((a, b) => rankIn(way.order, a.kind) - rankIn(way.order, b.kind))
    .map((section) => ({ ...section, groups: groupsOf(section.outline.contours, way) }));
  const windows = [...new Set(inOrder.flatMap(({ groups }) => [...groups.keys()]))].sort((a, b) => a - b);
  let start: Point = { x: 0, y: 0 };
  let travelMm = 0;
  const pathsOf = (contours: readonly Contour[], setup: BladeSetup): ToolPath[] => {
    if (contours.length === 0) return [];
    const single = contours.map((contour): Outline => ({ contours: [contour] }));
    const order = orderCuts(single, { start }, control);
    travelMm += order.travelMm;
    const turned = order.order.map((index, k) => {
      const begun = startContourAt(contours[index] as Contour, order.startIndex[k] as number);
      return setup.entry === 'straight' ? startOnStraight(begun) : begun;
    });
    const paths = planBlade({ contours: turned }, setup);
    start = endOf(paths, start);
    return paths;
  };
  const planned = windows.flatMap((window) =>
    inOrder.flatMap(({ kind, setup, groups }): PlannedSection[] => {
      const paths = (groups.get(window) ?? []).flatMap((contours) => pathsOf(contours, setup));
      return paths.length > 0 ? [{ kind, paths }] : [];
    }),
  );
  return { sections: planned, paths: planned.flatMap(({ paths }) => paths), travelMm };
}
