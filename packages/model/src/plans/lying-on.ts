/** Pieces that lie on one another, by their real outlines: touching, and a hair, is not. mm. */
import { area, bounds, keepOverlap, pathLength, type Box, type Outline } from '@lorvek/core/geometry';
import { lyingTogether } from '@lorvek/core/sheet';

/** Touching is not lying on one another: what is shared by less than that, or nowhere wider than about this, mm² and mm. */
const LEAST_OVERLAP_MM2 = 0.2;
const LEAST_OVERLAP_MM = 0.02;

/** Do they only touch? Parts along one another share a strip as long as they are and some micrometres wide. */
function onlyTouch(shared: Outline): boolean {
  const sharedMm2 = Math.abs(area(shared));
  return sharedMm2 <= Math.max(LEAST_OVERLAP_MM2, (LEAST_OVERLAP_MM * pathLength(shared)) / 2);
}

/**
 * Pairs of outlines that may share more than a hair, as indices, the lesser one first.
 * @complexity outlines whose boxes meet
 */
export function pairsThatMeet(outlines: readonly Outline[]): [number, number][] {
  const boxes = outlines.map(bounds);
  const overlap = (a: Box, b: Box): boolean =>
    Math.min(a.maxX, b.maxX) - Math.max(a.minX, b.minX) > LEAST_OVERLAP_MM &&
    Math.min(a.maxY, b.maxY) - Math.max(a.minY, b.minY) > LEAST_OVERLAP_MM;
  return lyingTogether(outlines).flatMap((set) =>
    set.flatMap((i, k) => set.slice(k + 1).flatMap((j): [number, number][] => (overlap(boxes[i] as Box, boxes[j] as Box) ? [[i, j]] : []))),
  );
}

/** What two outlines share; undefined when they only touch, or lie apart. */
export function sharedBy(one: Outline, other: Outline): Outline | undefined {
  const shared = keepOverlap([one, other]);
  return onlyTouch(shared) ? undefined : shared;
}
