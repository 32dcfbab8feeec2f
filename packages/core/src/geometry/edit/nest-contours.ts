/**
 * Closed contours that lie in one another to shapes with holes, by how deep each lies: even depths are outer ones, odd
 * ones are the holes of what surrounds them. Method: boxes in an index (flatbush), a point of each contour tested
 * against those whose box holds it, greatest first. Contours that cross one another are kept as they are.
 */
import Flatbush from 'flatbush';
import type { Box, Contour, Outline } from '../../types/index.ts';
import { LimitError } from '../../errors/index.ts';
import { contourArea, contourBox, contourStart, reverseContour } from '../outline.ts';
import { isInside } from '../hit.ts';

interface Sorted {
  readonly contour: Contour;
  readonly area: number;
  readonly box: Box;
}

/** Spans asked about whether a point lies within their contour, in all: a few seconds. */
const MOST_EFFORT = 6_000_000;

const holds = ({ box: other }: Sorted, box: Box): boolean =>
  other.minX <= box.minX && other.maxX >= box.maxX && other.minY <= box.minY && other.maxY >= box.maxY;

/** The smallest of the candidates that holds the point: those of higher numbers are smaller. Most often the first asked. */
function nearestHolder(candidates: number[], isHolder: (k: number) => boolean): number | undefined {
  let best = -1;
  for (const k of candidates) if (k > best) best = k;
  if (best < 0) return undefined;
  if (isHolder(best)) return best;
  return candidates.sort((a, b) => b - a).find((k) => k !== best && isHolder(k));
}

/**
 * @returns one outline for each outer contour, greatest first, turned as the non-zero rule wants it
 * @throws LimitError `limit.nesting` for heaps of lines in which each lies in thousands of others
 */
export function nestContours(contours: readonly Contour[]): Outline[] {
  if (contours.length === 0) return [];
  const sorted = contours
    .map((contour) => ({ contour, area: contourArea(contour), box: contourBox(contour) }))
    .sort((a, b) => Math.abs(b.area) - Math.abs(a.area));
  const index = new Flatbush(sorted.length);
  for (const { box } of sorted) index.add(box.minX, box.minY, box.maxX, box.maxY);
  index.finish();
  let effort = 0;
  const spend = (work: number): void => {
    effort += work;
    if (effort > MOST_EFFORT) throw new LimitError('nesting', 'The lines lie in one another so often that they cannot be told apart.');
  };
  const parts: { readonly depth: number; readonly own: Contour[] }[] = [];
  sorted.forEach(({ contour, area, box }, i) => {
    const p = contourStart(contour);
    const nearest = nearestHolder(
      index.search(p.x, p.y, p.x, p.y, (k) => {
        spend(0.1);
        return k < i && holds(sorted[k] as Sorted, box);
      }),
      (k) => {
        const { contour: other } = sorted[k] as Sorted;
        spend(other.spans.length);
        return isInside({ contours: [other] }, p.x, p.y);
      },
    );
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
