/** Lines that cross themselves nearby, and points thinned so that what joins them does not. Units pixels. */
import type { Span } from '../types/index.ts';
import { evaluate } from '../geometry/span.ts';
import type { P } from './line-fit.ts';

const STEPS = 5;
/** Loops are local: spans this many steps apart are compared. */
const LOCAL = 60;

/**
 * Two spans of a line that cross one another nearby, by index; undefined when none do.
 * @complexity spans times the few that follow each
 */
export function loopIn(spans: readonly Span[]): readonly [number, number] | undefined {
  const xy: P[] = [];
  const owner: number[] = [];
  spans.forEach((span, index) => {
    const n = span.length === 4 ? 1 : STEPS;
    for (let k = 0; k < n; k++) {
      xy.push([evaluate(span, k / n, 0), evaluate(span, k / n, 1)]);
      owner.push(index);
    }
  });
  const last = spans.at(-1);
  if (last) xy.push([evaluate(last, 1, 0), evaluate(last, 1, 1)]);
  const side = (a: P, b: P, c: P): number => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
  for (let i = 0; i + 3 < xy.length; i++) {
    const [a, b] = [xy[i] as P, xy[i + 1] as P];
    for (let j = i + 2; j + 1 < xy.length && j < i + LOCAL; j++) {
      const [c, d] = [xy[j] as P, xy[j + 1] as P];
      if (Math.max(a[0], b[0]) < Math.min(c[0], d[0]) || Math.min(a[0], b[0]) > Math.max(c[0], d[0])) continue;
      if (Math.max(a[1], b[1]) < Math.min(c[1], d[1]) || Math.min(a[1], b[1]) > Math.max(c[1], d[1])) continue;
      if (side(a, b, c) * side(a, b, d) < -1e-12 && side(c, d, a) * side(c, d, b) < -1e-12) return [owner[i] as number, owner[j] as number];
    }
  }
  return undefined;
}

/**
 * Points so that all others lie within a tolerance of the lines between them (U. Ramer, 1972; D. Douglas, T. Peucker, 1973).
 * @param tol pixels
 * @returns the first and last point always
 */
export function thinned(points: readonly P[], tol: number): readonly P[] {
  const [a, z] = [points[0], points.at(-1)];
  if (!a || !z || points.length < 3) return points;
  const [dx, dy] = [z[0] - a[0], z[1] - a[1]];
  const length = Math.hypot(dx, dy);
  const far = ([x, y]: P): number => (length === 0 ? Math.hypot(x - a[0], y - a[1]) : Math.abs((x - a[0]) * dy - (y - a[1]) * dx) / length);
  let best = 0;
  points.forEach((p, i) => i > 0 && i < points.length - 1 && (best === 0 || far(p) > far(points[best] as P)) && (best = i));
  if (far(points[best] as P) <= tol) return [a, z];
  return [...thinned(points.slice(0, best + 1), tol), ...thinned(points.slice(best), tol).slice(1)];
}
