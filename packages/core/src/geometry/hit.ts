/** Where a point lies against an outline: inside by winding number, or how far from the line. */
import type { Outline } from '../types/index.ts';
import { flatten, type Polyline } from './flatten.ts';

/**
 * Winding number of closed polylines round a point (D. Sunday, Inclusion of a Point in a Polygon, 2001).
 * @param lines open ones count as closed by their chord
 * @returns above zero inside contours that run counter-clockwise; on a line either
 * @complexity points of the lines
 */
export function windingNumber(lines: readonly Polyline[], x: number, y: number): number {
  let winding = 0;
  for (const { closed, xy } of lines) {
    if (!closed) continue;
    const n = xy.length;
    let ax = xy[n - 2] as number;
    let ay = xy[n - 1] as number;
    for (let i = 0; i < n; i += 2) {
      const bx = xy[i] as number;
      const by = xy[i + 1] as number;
      const side = (bx - ax) * (y - ay) - (x - ax) * (by - ay);
      if (ay <= y && by > y && side > 0) winding++;
      else if (ay > y && by <= y && side < 0) winding--;
      ax = bx;
      ay = by;
    }
  }
  return winding;
}

/**
 * Is the point within the filled shape (non-zero rule)? `tol` is the flattening used, mm.
 * @complexity flattens the outline each time: for many points flatten once and ask `windingNumber`
 */
export const isInside = (outline: Outline, x: number, y: number, tol = 0.01): boolean => windingNumber(flatten(outline, tol), x, y) !== 0;

/**
 * Distance from a point to the segment a-b.
 * @returns mm; to the point a when both ends are one
 */
export function segmentDistance(x: number, y: number, ax: number, ay: number, bx: number, by: number): number {
  const dx = bx - ax;
  const dy = by - ay;
  const length2 = dx * dx + dy * dy;
  const t = length2 === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length2));
  return Math.hypot(x - ax - t * dx, y - ay - t * dy);
}

/**
 * Distance from a point to the nearest of the polylines; Infinity for none. @complexity O(points)
 * @param lines their own flattening is part of the error
 */
export function lineDistance(lines: readonly Polyline[], x: number, y: number): number {
  let best = Infinity;
  for (const { closed, xy } of lines) {
    const n = xy.length / 2;
    for (let i = 0; i < (closed ? n : n - 1); i++) {
      const j = (i + 1) % n;
      best = Math.min(
        best,
        segmentDistance(x, y, xy[2 * i] as number, xy[2 * i + 1] as number, xy[2 * j] as number, xy[2 * j + 1] as number),
      );
    }
  }
  return best;
}
