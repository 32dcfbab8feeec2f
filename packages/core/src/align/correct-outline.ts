/**
 * Outlines under a correction. Shift, turn, scale and skew map control points exactly; a model that bends maps them too,
 * after long spans have been parted so that what is left of the bend between is below a micrometre: a sheet that bows by
 * 3 mm over 1 m strays by 3 · (25/1000)² / 4 mm within 25 mm.
 */
import type { Contour, Outline, Span } from '../types/index.ts';
import { at, endX, endY, startX, startY } from '../geometry/span.ts';
import { applyCorrection, type Correction } from './solve-marks.ts';

const LONGEST_MM = 25;

/** De Casteljau at the middle. */
function halves(span: Span): Span[] {
  const n = span.length / 2;
  let points = Array.from({ length: n }, (_, i) => [at(span, 2 * i), at(span, 2 * i + 1)] as const);
  const [left, right] = [[points[0]], [points[n - 1]]];
  while (points.length > 1) {
    points = points.slice(1).map(([x, y], i) => [(x + (points[i]?.[0] ?? x)) / 2, (y + (points[i]?.[1] ?? y)) / 2] as const);
    left.push(points[0]);
    right.unshift(points.at(-1));
  }
  return [left, right].map((side) => side.flatMap((p) => (p ? [p[0], p[1]] : [])) as unknown as Span);
}

function parted(span: Span): Span[] {
  const long = Math.hypot(endX(span) - startX(span), endY(span) - startY(span));
  if (long <= LONGEST_MM) return [span];
  return halves(span).flatMap(parted);
}

function mapSpan(correction: Correction, span: Span): Span {
  const out: number[] = [];
  for (let i = 0; i < span.length; i += 2) {
    const { x, y } = applyCorrection(correction, { x: at(span, i), y: at(span, i + 1) });
    out.push(x, y);
  }
  return out as unknown as Span;
}

/**
 * @complexity spans, and their length over 25 mm for a model that bends
 * @param correction from `solveMarks`
 * @returns what is to be cut so that it falls on what was printed, on the machine's plane, mm
 */
export function correctOutline(correction: Correction, { contours }: Outline): Outline {
  const isStraight = correction.model === 'similarity' || correction.model === 'affine';
  return {
    contours: contours.map(({ closed, spans }): Contour => ({
      closed,
      spans: (isStraight ? spans : spans.flatMap(parted)).map((span) => mapSpan(correction, span)),
    })),
  };
}
