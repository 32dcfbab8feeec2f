/** Affine maps on points, boxes and outlines; composition in the order of function application. */
import type { Box, Matrix, Outline, Point, Span } from '../types/index.ts';
import { bounds, EMPTY_BOX, isEmptyBox, reverseContour } from './outline.ts';

/** The map that changes nothing. */
export const IDENTITY: Matrix = [1, 0, 0, 1, 0, 0];
/** A move by x, y. */
export const translation = (x: number, y: number): Matrix => [1, 0, 0, 1, x, y];
/** A map that sizes by x and y, below zero mirrored. */
export const scaling = (x: number, y: number): Matrix => [x, 0, 0, y, 0, 0];

/** Turn counter-clockwise about the origin. Quarter turns are exact. */
export function rotation(angleDeg: number): Matrix {
  const quarter = angleDeg / 90;
  if (Number.isInteger(quarter)) {
    const c = [1, 0, -1, 0][((quarter % 4) + 4) % 4] as number;
    const s = [0, 1, 0, -1][((quarter % 4) + 4) % 4] as number;
    return [c, s, -s, c, 0, 0];
  }
  const angle = (angleDeg * Math.PI) / 180;
  return [Math.cos(angle), Math.sin(angle), -Math.sin(angle), Math.cos(angle), 0, 0];
}

/**
 * The map that does `inner` first, then `outer`.
 * @returns matrices as [a, b, c, d, e, f]: x' = a x + c y + e, y' = b x + d y + f
 */
export function compose(outer: Matrix, inner: Matrix): Matrix {
  const [a, b, c, d, e, f] = outer;
  const [p, q, r, s, t, u] = inner;
  return [a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, a * t + c * u + e, b * t + d * u + f];
}

/**
 * `map` done about a fixed point instead of the origin.
 * @param x,y the place that stays, mm
 */
export const about = (map: Matrix, x: number, y: number): Matrix => compose(translation(x, y), compose(map, translation(-x, -y)));

/** By how much a map changes areas; below zero it mirrors. */
export const determinant = (m: Matrix): number => m[0] * m[3] - m[1] * m[2];

/**
 * The inverse map; undefined when the map flattens the plane.
 * @returns to rounding exactly; undefined also for numbers that are none
 */
export function invert(m: Matrix): Matrix | undefined {
  const det = determinant(m);
  if (!Number.isFinite(1 / det)) return undefined;
  const [a, b, c, d, e, f] = m;
  return [d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det];
}

/** A place under a map. */
export const mapPoint = (m: Matrix, p: Point): Point => ({
  x: m[0] * p.x + m[2] * p.y + m[4],
  y: m[1] * p.x + m[3] * p.y + m[5],
});

function mapSpan(m: Matrix, span: Span): Span {
  const a = m[0];
  const b = m[1];
  const c = m[2];
  const d = m[3];
  const e = m[4];
  const f = m[5];
  const x0 = span[0] as number;
  const y0 = span[1] as number;
  const x1 = span[2] as number;
  const y1 = span[3] as number;
  if (span.length === 4) return [a * x0 + c * y0 + e, b * x0 + d * y0 + f, a * x1 + c * y1 + e, b * x1 + d * y1 + f];
  const x2 = span[4] as number;
  const y2 = span[5] as number;
  const x3 = span[6] as number;
  const y3 = span[7] as number;
  return [
    a * x0 + c * y0 + e,
    b * x0 + d * y0 + f,
    a * x1 + c * y1 + e,
    b * x1 + d * y1 + f,
    a * x2 + c * y2 + e,
    b * x2 + d * y2 + f,
    a * x3 + c * y3 + e,
    b * x3 + d * y3 + f,
  ];
}

/**
 * The outline under the map; a mirroring map also reverses contours, so that outer ones stay counter-clockwise.
 * @complexity spans; the same outline for the identity
 */
export function mapOutline(m: Matrix, outline: Outline): Outline {
  const mirrored = determinant(m) < 0;
  return {
    contours: outline.contours.map((contour) => {
      const mapped = { closed: contour.closed, spans: contour.spans.map((span) => mapSpan(m, span)) };
      return mirrored && contour.closed ? reverseContour(mapped) : mapped;
    }),
  };
}

/**
 * Box of the mapped box's corners.
 * @returns no smaller than the exact box of what lies in the box, larger when the map turns
 */
export function mapBox(m: Matrix, box: Box): Box {
  if (isEmptyBox(box)) return EMPTY_BOX;
  const corners = [
    mapPoint(m, { x: box.minX, y: box.minY }),
    mapPoint(m, { x: box.maxX, y: box.minY }),
    mapPoint(m, { x: box.minX, y: box.maxY }),
    mapPoint(m, { x: box.maxX, y: box.maxY }),
  ];
  const xs = corners.map((c) => c.x);
  const ys = corners.map((c) => c.y);
  return { minX: Math.min(...xs), minY: Math.min(...ys), maxX: Math.max(...xs), maxY: Math.max(...ys) };
}

/**
 * Exact box of an outline under a map; where the map keeps the axes, no outline is made for it.
 * @complexity spans where the map turns, four numbers where it does not
 */
export function mappedBounds(m: Matrix, outline: Outline): Box {
  const keepsAxes = (m[1] === 0 && m[2] === 0) || (m[0] === 0 && m[3] === 0);
  return keepsAxes ? mapBox(m, bounds(outline)) : bounds(mapOutline(m, outline));
}
