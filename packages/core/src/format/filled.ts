/** How files mean their fills, and what maps do to strokes. */
import type { Contour, Matrix, Outline } from '../types/index.ts';
import { contourArea, EMPTY_OUTLINE, reverseContour } from '../geometry/outline.ts';
import { endX, endY, startX, startY } from '../geometry/span.ts';
import { evenOdd, weld } from '../geometry/weld/weld.ts';

/** What rounding leaves of a line that was closed, in square units of the page. */
const NO_AREA = 1e-9;

/**
 * An outline that fills as the file means it: outer contours counter-clockwise as it stands on the page.
 * @param rule `evenodd`; anything else is taken for non-zero
 * @complexity a clip of its contours with one another
 */
export function filled(outline: Outline, rule: string): Outline {
  const contours = outline.contours.filter((c) => c.spans.length > 0).map((c): Contour => (c.closed ? c : closed(c)));
  if (rule === 'evenodd' && contours.length > 0) return evenOdd({ contours });
  const [only] = contours;
  if (contours.length === 1 && only) {
    const area = contourArea(only);
    // a line has no inside to fill
    return Math.abs(area) < NO_AREA ? EMPTY_OUTLINE : { contours: [area < 0 ? reverseContour(only) : only] };
  }
  return contours.length === 0 ? EMPTY_OUTLINE : weld([{ contours }]);
}

function closed(contour: Contour): Contour {
  const [first, last] = [contour.spans[0], contour.spans.at(-1)];
  if (!first || !last) return contour;
  const gap = Math.hypot(endX(last) - startX(first), endY(last) - startY(first));
  return { closed: true, spans: gap < 1e-12 ? contour.spans : [...contour.spans, [endX(last), endY(last), startX(first), startY(first)]] };
}

/**
 * Does a map keep circles round?
 * @returns true also for one that mirrors
 */
export const isSimilar = ([a, b, c, d]: Matrix): boolean => {
  const size = Math.abs(a) + Math.abs(b) + Math.abs(c) + Math.abs(d);
  return Math.abs(a * c + b * d) < 1e-6 * size * size && Math.abs(a * a + b * b - c * c - d * d) < 1e-6 * size * size;
};

/** Coordinates beyond this are damage, mm. */
const FARTHEST_MM = 1e9;

/**
 * The contours whose numbers all are some.
 * @returns the same outline when all are
 */
export function sound(outline: Outline): Outline {
  const isSound = ({ spans }: Contour): boolean => spans.every((span) => span.every((v) => Math.abs(v) < FARTHEST_MM));
  return outline.contours.every(isSound) ? outline : { contours: outline.contours.filter(isSound) };
}
