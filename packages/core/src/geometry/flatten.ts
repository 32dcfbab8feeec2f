/**
 * Polylines within a chord tolerance of an outline, by equal parameter steps per span
 * (bound on second differences). Nodes of the outline are always nodes of the polyline.
 */
import type { Contour, Outline } from '../types/index.ts';
import { chordSteps, endX, endY, evaluate, startX, startY } from './span.ts';

/** A polyline [x0,y0,…]; a closed one does not repeat its first point. */
export interface Polyline {
  readonly closed: boolean;
  readonly xy: Float64Array;
}

/**
 * One contour as a polyline whose greatest distance from the contour is at most `tol` mm.
 * @returns points [x0, y0, …], mm; the first one is not repeated by a closed contour
 * @complexity the chords that the tolerance asks for
 */
export function flattenContour(contour: Contour, tol: number): Polyline {
  const out: number[] = [];
  for (const span of contour.spans) {
    const steps = chordSteps(span, tol);
    out.push(startX(span), startY(span));
    for (let k = 1; k < steps; k++) out.push(evaluate(span, k / steps, 0), evaluate(span, k / steps, 1));
  }
  const last = contour.spans.at(-1);
  if (last && !contour.closed) out.push(endX(last), endY(last));
  return { closed: contour.closed, xy: Float64Array.from(out) };
}

/**
 * Every contour as a polyline, `tol` mm. @complexity O(points)
 * @param tol above zero, mm
 * @returns a polyline a contour, in their order
 */
export const flatten = (outline: Outline, tol: number): Polyline[] => outline.contours.map((contour) => flattenContour(contour, tol));
