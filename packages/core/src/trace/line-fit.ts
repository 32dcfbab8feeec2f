/** Lines and circles through points (least squares), and how far off points are. Units pixels. */
import { leastSquares } from './least-squares.ts';

/** x, y. */
export type P = readonly [number, number];

/** A straight line through points: a point on it and its direction of length one. */
export interface LineFit {
  readonly x: number;
  readonly y: number;
  readonly dx: number;
  readonly dy: number;
  readonly rms: number;
}

/**
 * Total least squares through points, pointing the way they run.
 * @returns through the points' middle, with a unit direction and the root mean square of what they are off; undefined for fewer than two
 */
export function fitLine(points: readonly P[]): LineFit | undefined {
  const n = points.length;
  if (n < 2) return undefined;
  let [sx, sy, sxx, sxy, syy] = [0, 0, 0, 0, 0];
  for (const [x, y] of points) {
    sx += x;
    sy += y;
  }
  const [mx, my] = [sx / n, sy / n];
  for (const [x, y] of points) {
    sxx += (x - mx) ** 2;
    sxy += (x - mx) * (y - my);
    syy += (y - my) ** 2;
  }
  const angle = 0.5 * Math.atan2(2 * sxy, sxx - syy);
  let [dx, dy] = [Math.cos(angle), Math.sin(angle)];
  const [a, b] = [points[0] as P, points[n - 1] as P];
  if ((b[0] - a[0]) * dx + (b[1] - a[1]) * dy < 0) [dx, dy] = [-dx, -dy];
  const across = Math.max(0, (sxx + syy) / 2 - Math.hypot((sxx - syy) / 2, sxy));
  return { x: mx, y: my, dx, dy, rms: Math.sqrt(across / n) };
}

/**
 * Where two lines meet; undefined when they are parallel.
 * @returns undefined also for lines within seven degrees of one another: their meeting tells nothing
 */
export const meeting = (p: LineFit, q: LineFit): P | undefined => {
  const det = p.dx * q.dy - p.dy * q.dx;
  if (Math.abs(det) < 0.12) return undefined;
  const t = ((q.x - p.x) * q.dy - (q.y - p.y) * q.dx) / det;
  return [p.x + t * p.dx, p.y + t * p.dy];
};

/** The point of a line that is nearest to a point. */
export const foot = (line: LineFit, [x, y]: P): P => {
  const t = (x - line.x) * line.dx + (y - line.y) * line.dy;
  return [line.x + t * line.dx, line.y + t * line.dy];
};

/**
 * How far a point is off a line.
 * @returns pixels, not below zero
 */
export const off = (line: LineFit, [x, y]: P): number => Math.abs((x - line.x) * line.dy - (y - line.y) * line.dx);

/** A parabola through many points is told by so many of them. */
const MOST_ASKED = 96;

/** Sagitta of the parabola that runs best through points, seen from their chord's line. */
export function sagitta(points: readonly P[], line: LineFit, from = 0, to = points.length - 1): number {
  const { x: mx, y: my, dx, dy } = line;
  const step = Math.max(1, Math.floor((to - from) / MOST_ASKED));
  let [s2, s4, sv, s2v, n, far] = [0, 0, 0, 0, 0, 0];
  for (let k = from; k <= to; k += step) {
    const p = points[k] as P;
    const [x, y] = [p[0] - mx, p[1] - my];
    const v = y * dx - x * dy;
    const u2 = (x * dx + y * dy) ** 2;
    far = Math.max(far, u2);
    s2 += u2;
    s4 += u2 * u2;
    sv += v;
    s2v += u2 * v;
    n++;
  }
  const det = n * s4 - s2 * s2;
  return det > 1e-9 ? Math.abs((n * s2v - s2 * sv) / det) * far : 0;
}

/**
 * Root mean square distance of points from the circle that runs best through them (I. Kåsa, 1976).
 * @returns Infinity where no circle fits
 */
export function bowError(points: readonly P[]): number {
  const circle = circleThrough(points);
  if (!circle) return Infinity;
  const { x, y, r } = circle;
  return Math.sqrt(points.reduce((sum, p) => sum + (Math.hypot(p[0] - x, p[1] - y) - r) ** 2, 0) / points.length);
}

/**
 * The circle that fits points best; undefined when they lie on a line.
 * @returns undefined also for fewer than four points
 * @source I. Kåsa, A curve fitting procedure and its error analysis, 1976
 */
export function circleThrough(points: readonly P[]): { x: number; y: number; r: number } | undefined {
  const n = points.length;
  if (n < 4) return undefined;
  const mx = points.reduce((s, p) => s + p[0], 0) / n;
  const my = points.reduce((s, p) => s + p[1], 0) / n;
  let [suu, suv, svv, suuu, svvv, suvv, svuu] = [0, 0, 0, 0, 0, 0, 0];
  for (const [x, y] of points) {
    const [u, v] = [x - mx, y - my];
    suu += u * u;
    suv += u * v;
    svv += v * v;
    suuu += u * u * u;
    svvv += v * v * v;
    suvv += u * v * v;
    svuu += v * u * u;
  }
  const det = suu * svv - suv * suv;
  if (Math.abs(det) < 1e-9) return undefined;
  const [a, b] = [(suuu + suvv) / 2, (svvv + svuu) / 2];
  const [u, v] = [(a * svv - b * suv) / det, (b * suu - a * suv) / det];
  return { x: mx + u, y: my + v, r: Math.sqrt(u * u + v * v + (suu + svv) / n) };
}

/**
 * Root mean square distance of points from the parabola that runs best through them, along a line.
 * @param line on which the parabola's axis stands upright
 */
export function parabolaError(points: readonly P[], line: LineFit): number {
  const along = points.map(([x, y]) => (x - line.x) * line.dx + (y - line.y) * line.dy);
  const across = points.map(([x, y]) => (y - line.y) * line.dx - (x - line.x) * line.dy);
  return polynomialError(along, across, 2);
}

/**
 * Root mean square distance of values from the cubic of their places that runs best through them.
 * @param places as many as values
 */
export const cubicError = (places: readonly number[], values: readonly number[]): number => polynomialError(places, values, 3);

function polynomialError(places: readonly number[], values: readonly number[], degree: number): number {
  const rows = places.map((u) => Array.from({ length: degree + 1 }, (_, k) => u ** k));
  const best = leastSquares(rows, values);
  const sum = rows.reduce((all, row, k) => all + ((values[k] as number) - row.reduce((v, b, i) => v + b * (best[i] as number), 0)) ** 2, 0);
  return Math.sqrt(sum / Math.max(1, values.length));
}
