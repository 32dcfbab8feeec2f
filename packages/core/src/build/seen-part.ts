/** Parts of a drawing as they are seen, and their boxes. */
import Flatbush from 'flatbush';
import type { Box, Outline } from '../types/index.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';

/** A part of a drawing: what has the same key (a colour, a film) lies on one level. */
export interface SeenPart {
  readonly key: string;
  readonly outline: Outline;
}

/** The closed contours, which hide what lies below. */
export const solidOf = (outline: Outline): Outline =>
  outline.contours.every(({ closed }) => closed) ? outline : { contours: outline.contours.filter(({ closed }) => closed) };

/** An index over the boxes of parts; those without an inside have none. */
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

export const boxesOf = (parts: readonly SeenPart[]): Box[] => parts.map(({ outline }) => bounds(solidOf(outline)));
