/**
 * Registration marks round the work, for a camera to find: where each one's centre is, its printed shape, and the zone
 * about it that stays free so that nothing is taken for it. The first mark is the lower left one, nearest to where the
 * machine starts; the others follow counter-clockwise, mid marks along a long sheet after them.
 *   corners-in   angles whose arms run along the work's sides: they need the least material
 *   corners-out  angles whose arms run away from the work
 *   dots, crosses
 * Centre of an angle: where the middle lines of its arms meet. Units mm, x along the material.
 */
import type { Box, Outline, Point } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { bounds, growBox } from '../geometry/outline.ts';
import { boxShape, ovalShape } from '../geometry/shapes.ts';
import { mapOutline, translation } from '../geometry/transform.ts';
import { weld } from '../geometry/weld/weld.ts';

/** Shapes of registration marks. */
export type MarkKind = 'corners-in' | 'corners-out' | 'dots' | 'crosses';

/** Marks round what, of which kind and size. mm. */
export interface MarksProblem {
  /** What the marks stand round. */
  readonly work: Box;
  /** The material that they must lie on. */
  readonly frame: Box;
  readonly kind: MarkKind;
  readonly count: 2 | 3 | 4;
  /** Further marks along both sides at most so far apart; absent: none. */
  readonly midSpacingMm?: number;
  readonly thicknessMm: number;
  /** Length of an arm from the centre; diameter of a dot. */
  readonly armMm: number;
  /** From the work to the nearest ink of a mark. */
  readonly distanceMm: number;
  /** The corners of the work's box are the middles of the marks. */
  readonly onCorners?: boolean;
}

/** A mark on the sheet, and the clear ground that it needs. */
export interface PlacedMark {
  readonly centre: Point;
  readonly outline: Outline;
  /** Stays free of everything else; of an angle, about its corner. */
  readonly clear: Box;
}

/** Free room round a mark, mm; less where the work is nearer. */
const CLEAR_MM = 3;

const bar = (x0: number, y0: number, x1: number, y1: number): Outline =>
  mapOutline(translation(Math.min(x0, x1), Math.min(y0, y1)), boxShape(Math.abs(x1 - x0), Math.abs(y1 - y0)));

/** An angle about the origin with arms towards (sx, sy). */
function angle(arm: number, thickness: number, sx: number, sy: number): Outline {
  const h = thickness / 2;
  return weld([bar(-h * sx, -h * sy, arm * sx, h * sy), bar(-h * sx, -h * sy, h * sx, arm * sy)]);
}

function shapeOf(kind: MarkKind, arm: number, thickness: number, sx: number, sy: number): Outline {
  switch (kind) {
    case 'corners-in':
      return angle(arm, thickness, sx, sy);
    case 'corners-out':
      return angle(arm, thickness, -sx, -sy);
    case 'dots':
      return mapOutline(translation(-arm / 2, -arm / 2), ovalShape(arm, arm));
    case 'crosses':
      return weld([bar(-arm, -thickness / 2, arm, thickness / 2), bar(-thickness / 2, -arm, thickness / 2, arm)]);
  }
}

const isAngular = (kind: MarkKind): boolean => kind === 'corners-in' || kind === 'corners-out';

/** Between the corners nothing may run into the work: an angle there has one arm along it and one away from it. */
const midShape = (kind: MarkKind, arm: number, thickness: number, sy: number): Outline =>
  isAngular(kind) ? angle(arm, thickness, 1, -sy) : shapeOf(kind, arm, thickness, 1, sy);

/** How far a mark's ink reaches from its centre away from the work, and towards it. */
function reachOf({ kind, armMm, thicknessMm }: Pick<MarksProblem, 'kind' | 'armMm' | 'thicknessMm'>): { out: number; in: number } {
  if (kind === 'dots') return { out: armMm / 2, in: armMm / 2 };
  if (kind === 'crosses') return { out: armMm, in: armMm };
  return kind === 'corners-in' ? { out: thicknessMm / 2, in: thicknessMm / 2 } : { out: armMm, in: thicknessMm / 2 };
}

/** Width of the band of material that the marks take on each side of the work, mm. */
export function marksBandMm(marks: Pick<MarksProblem, 'kind' | 'armMm' | 'thicknessMm' | 'distanceMm' | 'midSpacingMm'>): number {
  const reach = reachOf(marks);
  // between the corners an angle's second arm runs away from the work
  const out = marks.midSpacingMm !== undefined && isAngular(marks.kind) ? Math.max(reach.out, marks.armMm) : reach.out;
  return marks.distanceMm + reach.in + out;
}

/**
 * @returns the first mark first
 * @throws InputError `input.marks` when they do not lie on the material
 */
export function placeMarks(problem: MarksProblem): PlacedMark[] {
  const { work, frame, kind, count, thicknessMm, armMm, distanceMm, midSpacingMm, onCorners = false } = problem;
  const stand = onCorners ? 0 : distanceMm + reachOf(problem).in;
  const [left, right, low, high] = [work.minX - stand, work.maxX + stand, work.minY - stand, work.maxY + stand];
  const corners: [number, number, number, number][] = [
    [left, low, 1, 1],
    [right, low, -1, 1],
    [right, high, -1, -1],
    [left, high, 1, -1],
  ];
  const chosen = count === 4 ? corners : count === 3 ? [corners[0], corners[1], corners[3]] : [corners[0], corners[1]];
  const between = midSpacingMm === undefined ? 0 : Math.max(0, Math.ceil((right - left) / midSpacingMm) - 1);
  const mid = Array.from({ length: between }, (_, k) => left + ((right - left) * (k + 1)) / (between + 1));
  const places = [...chosen, ...mid.flatMap((x) => [[x, low, 1, 1] as const, [x, high, 1, -1] as const])];
  const clear = onCorners ? CLEAR_MM : Math.min(CLEAR_MM, 0.9 * distanceMm);
  const half = thicknessMm / 2;
  return places.map((place, i) => {
    const [x, y, sx, sy] = place as [number, number, number, number];
    const shape = i < chosen.length ? shapeOf(kind, armMm, thicknessMm, sx, sy) : midShape(kind, armMm, thicknessMm, sy);
    const outline = mapOutline(translation(x, y), shape);
    const box = bounds(outline);
    if (box.minX < frame.minX - 1e-6 || box.minY < frame.minY - 1e-6 || box.maxX > frame.maxX + 1e-6 || box.maxY > frame.maxY + 1e-6)
      throw new InputError(
        'marks',
        'The registration marks do not lie on the material. Bring them nearer to the work or take wider material.',
      );
    return {
      centre: { x, y },
      outline,
      // the arms of an angle run along the work: free is what lies about its corner
      clear: growBox(isAngular(kind) ? { minX: x - half, minY: y - half, maxX: x + half, maxY: y + half } : box, clear),
    };
  });
}
