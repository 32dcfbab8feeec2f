/** Parts of a drawing as they are seen, and their boxes. */
import Flatbush from 'flatbush';
import type { Box, Outline } from '../types/index.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';

/** A part of a drawing: what has the same key (a colour, a film) lies on one level. */
export interface SeenPart {
  readonly key: string;
  readonly outline: Outline;
}

/**
 * The closed contours, which hide what lies below.
 * @returns an empty outline for a line
 */
export const solidOf = (outline: Outline): Outline =>
  outline.contours.every(({ closed }) => closed) ? outline : { contours: outline.contours.filter(({ closed }) => closed) };

/**
 * An index over the boxes of parts; those without an inside have none.
 * @returns undefined when no part has an inside
 */
export function indexOf(boxes: readonly Box[]): Flatbush | undefined {
  if (boxes.length === 0) return undefined;
  const index = new Flatbush(boxes.length);
  for (const box of boxes) {
    if (isEmptyBox(box)) index.add(Infinity, Infinity, -Infinity, -Infinity);
    else index.add(box.minX, box.minY, box.maxX, box.maxY);
  }
  index.finish();
  return index;
}

/**
 * Groups of boxes that meet, one over another, by their numbers; empty boxes are groups of one.
 * @param may which two may be of one group; any when absent
 */
export function clustersOf(boxes: readonly Box[], may: (a: number, b: number) => boolean = () => true): number[][] {
  const index = indexOf(boxes);
  const seen = new Set<number>();
  return boxes.flatMap((_, first): number[][] => {
    if (seen.has(first)) return [];
    const cluster = [first];
    seen.add(first);
    for (let k = 0; index && k < cluster.length; k++) {
      const box = boxes[cluster[k] as number] as Box;
      if (isEmptyBox(box)) continue;
      for (const next of index.search(box.minX, box.minY, box.maxX, box.maxY, (i) => !seen.has(i) && may(first, i))) {
        seen.add(next);
        cluster.push(next);
      }
    }
    return [cluster.sort((p, q) => p - q)];
  });
}

/**
 * Boxes of the parts.
 * @returns an empty box for a part without contours
 */
export const boxesOf = (parts: readonly SeenPart[]): Box[] => parts.map(({ outline }) => bounds(solidOf(outline)));
