/**
 * Closed contours that lie in one another to shapes with holes, by how deep each lies: even depths are outer ones, odd
 * ones are the holes of what surrounds them. Method: boxes in an index (flatbush), a point of each contour tested
 * against those whose box holds it, greatest first. Contours that cross one another are kept as they are.
 */
import Flatbush from 'flatbush';
import type { Contour, Outline } from '../../types/index.ts';
import { contourArea, contourBox, contourStart, reverseContour } from '../outline.ts';
import { isInside } from '../hit.ts';

/** @returns one outline for each outer contour, greatest first, turned as the non-zero rule wants it */
export function nestContours(contours: readonly Contour[]): Outline[] {
  if (contours.length === 0) return [];
  const sorted = contours
    .map((contour) => ({ contour, area: contourArea(contour), box: contourBox(contour) }))
    .sort((a, b) => Math.abs(b.area) - Math.abs(a.area));
  const index = new Flatbush(sorted.length);
  for (const { box } of sorted) index.add(box.minX, box.minY, box.maxX, box.maxY);
  index.finish();
  const parts: { readonly depth: number; readonly own: Contour[] }[] = [];
  sorted.forEach(({ contour, area, box }, i) => {
    const p = contourStart(contour);
    const holders = index
      .search(p.x, p.y, p.x, p.y)
      .filter((k) => {
        const other = sorted[k]?.box;
        return (
          k < i &&
          other !== undefined &&
          other.minX <= box.minX &&
          other.maxX >= box.maxX &&
          other.minY <= box.minY &&
          other.maxY >= box.maxY &&
          isInside({ contours: [(sorted[k] as (typeof sorted)[number]).contour] }, p.x, p.y)
        );
      })
      .sort((a, b) => b - a);
    const [nearest] = holders;
    const around = nearest === undefined ? undefined : parts[nearest];
    const depth = around ? around.depth + 1 : 0;
    const isHole = depth % 2 === 1;
    const turned = area < 0 === isHole ? contour : reverseContour(contour);
    if (isHole && around) {
      around.own.push(turned);
      parts.push({ depth, own: around.own });
    } else parts.push({ depth, own: [turned] });
  });
  return parts.filter(({ depth }) => depth % 2 === 0).map(({ own }) => ({ contours: own }));
}
