/**
 * Kernels on one span: a line [x0,y0,x1,y1] or a cubic Bézier [x0,y0,…,x3,y3].
 * Sub-spans by blossoming (L. Ramshaw, Blossoming: A Connect-the-Dots Approach to Splines, 1987),
 * extrema by the derivative's roots, area by Green's theorem, length by adaptive
 * Gauss-Legendre quadrature. All exact up to rounding but the length (relative 1e-9).
 */
import type { Box, Span } from '../types/index.ts';

/** Is the span straight? */
export const isLine = (span: Span): boolean => span.length === 4;

/** Number at an index that is known to exist. */
export const at = (numbers: ArrayLike<number>, index: number): number => numbers[index] as number;

/** x where the span begins. */
export const startX = (span: Span): number => at(span, 0);
/** y where the span begins. */
export const startY = (span: Span): number => at(span, 1);
/** x where the span ends. */
export const endX = (span: Span): number => at(span, span.length - 2);
/** y where the span ends. */
export const endY = (span: Span): number => at(span, span.length - 1);

/**
 * Quadratic Bézier raised to a cubic, exactly.
 * @param qx,qy its only control point
 */
export function quadraticSpan(x0: number, y0: number, qx: number, qy: number, x1: number, y1: number): Span {
  const k = 2 / 3;
  return [x0, y0, x0 + k * (qx - x0), y0 + k * (qy - y0), x1 + k * (qx - x1), y1 + k * (qy - y1), x1, y1];
}

// The kernels below read their spans themselves: a common reader of all kinds of lists would be many times as slow.

/**
 * One coordinate (axis 0 = x, 1 = y) at parameter t.
 * @param t 0 to 1; beyond, the same polynomial goes on
 */
export function evaluate(span: Span, t: number, axis: 0 | 1): number {
  const p0 = span[axis] as number;
  if (span.length === 4) return p0 + ((span[2 + axis] as number) - p0) * t;
  const u = 1 - t;
  return (
    u * u * u * p0 +
    3 * u * u * t * (span[2 + axis] as number) +
    3 * u * t * t * (span[4 + axis] as number) +
    t * t * t * (span[6 + axis] as number)
  );
}

/**
 * One coordinate of the first derivative at parameter t.
 * @returns mm a unit of t; not of unit length
 */
export function derivative(span: Span, t: number, axis: 0 | 1): number {
  const p0 = span[axis] as number;
  const p1 = span[2 + axis] as number;
  if (span.length === 4) return p1 - p0;
  const p2 = span[4 + axis] as number;
  const p3 = span[6 + axis] as number;
  const u = 1 - t;
  return 3 * (u * u * (p1 - p0) + 2 * u * t * (p2 - p1) + t * t * (p3 - p2));
}

/** Direction at an end (0 start, 1 end), falling back to farther control points; [0,0] for a point. */
export function endTangent(span: Span, end: 0 | 1): [number, number] {
  const n = span.length;
  const px = end === 0 ? at(span, 0) : at(span, n - 2);
  const py = end === 0 ? at(span, 1) : at(span, n - 1);
  for (let k = 1; k < n / 2; k++) {
    const i = end === 0 ? 2 * k : n - 2 - 2 * k;
    const dx = at(span, i) - px;
    const dy = at(span, i + 1) - py;
    const length = Math.hypot(dx, dy);
    if (length > 1e-12) return end === 0 ? [dx / length, dy / length] : [-dx / length, -dy / length];
  }
  return [0, 0];
}

/**
 * The part of a span between two parameters, t0 < t1; the same array when it is the whole span.
 * @returns exact (de Casteljau's construction)
 */
export function subSpan(span: Span, t0: number, t1: number): Span {
  if (t0 === 0 && t1 === 1) return span;
  if (span.length === 4) return [evaluate(span, t0, 0), evaluate(span, t0, 1), evaluate(span, t1, 0), evaluate(span, t1, 1)];
  const out: number[] = [];
  const blossom = (a: number, b: number, c: number, axis: number): number => {
    const p = at(span, axis);
    const q = at(span, 2 + axis);
    const r = at(span, 4 + axis);
    const s = at(span, 6 + axis);
    const pq = p + (q - p) * a;
    const qr = q + (r - q) * a;
    const rs = r + (s - r) * a;
    const left = pq + (qr - pq) * b;
    return left + (qr + (rs - qr) * b - left) * c;
  };
  for (const [a, b, c] of [
    [t0, t0, t0],
    [t0, t0, t1],
    [t0, t1, t1],
    [t1, t1, t1],
  ] as const) {
    out.push(blossom(a, b, c, 0), blossom(a, b, c, 1));
  }
  return out;
}

/** The same span run the other way. */
export function reverseSpan(span: Span): Span {
  const out: number[] = [];
  for (let i = span.length - 2; i >= 0; i -= 2) out.push(at(span, i), at(span, i + 1));
  return out;
}

/**
 * Signed area between the span and the point (ox, oy), mm²; sums to a contour's area (Green).
 * @returns above zero where the span runs counter-clockwise round the point
 */
export function spanArea(span: Span, ox: number, oy: number): number {
  const x0 = at(span, 0) - ox;
  const y0 = at(span, 1) - oy;
  const x1 = at(span, 2) - ox;
  const y1 = at(span, 3) - oy;
  if (span.length === 4) return (x0 * y1 - x1 * y0) / 2;
  const x2 = at(span, 4) - ox;
  const y2 = at(span, 5) - oy;
  const x3 = at(span, 6) - ox;
  const y3 = at(span, 7) - oy;
  return (x0 * (6 * y1 + 3 * y2 + y3) + 3 * x1 * (-2 * y0 + y2 + y3) + 3 * x2 * (-y0 - y1 + 2 * y3) + x3 * (-y0 - 3 * y1 - 6 * y2)) / 20;
}

/**
 * Parameters in (0,1) where the derivative along one axis vanishes.
 * @returns none for a line, two at most, in no order
 */
export function extremaAlong(span: Span, axis: 0 | 1): number[] {
  if (span.length === 4) return [];
  const p0 = at(span, axis);
  const p1 = at(span, 2 + axis);
  const p2 = at(span, 4 + axis);
  const p3 = at(span, 6 + axis);
  const a = p3 - 3 * p2 + 3 * p1 - p0;
  const b = 2 * (p2 - 2 * p1 + p0);
  const c = p1 - p0;
  return quadraticRoots(a, b, c).filter((t) => t > 0 && t < 1);
}

/**
 * Real roots of a t² + b t + c, by the form that does not cancel.
 * @returns none, one or two; one when `a` vanishes
 */
export function quadraticRoots(a: number, b: number, c: number): number[] {
  const scale = Math.max(Math.abs(a), Math.abs(b), Math.abs(c));
  if (scale === 0) return [];
  if (Math.abs(a) < 1e-14 * scale) return b === 0 ? [] : [-c / b];
  const disc = b * b - 4 * a * c;
  if (disc < 0) return [];
  const q = -0.5 * (b + (b >= 0 ? 1 : -1) * Math.sqrt(disc));
  return q === 0 ? [0] : [q / a, c / q];
}

/**
 * Exact box of some spans; empty (least above greatest) for none. A cubic lies in the hull of its points, often in that of its ends.
 * @complexity spans; the derivative is solved only where control points lie outside the box of the ends
 */
export function spansBox(spans: readonly Span[]): Box {
  let [minX, maxX] = [Infinity, -Infinity];
  let [minY, maxY] = [Infinity, -Infinity];
  const take = (x: number, y: number): void => {
    if (x < minX) minX = x;
    if (x > maxX) maxX = x;
    if (y < minY) minY = y;
    if (y > maxY) maxY = y;
  };
  const isOut = (x: number, y: number): boolean => x < minX || x > maxX || y < minY || y > maxY;
  for (const span of spans) {
    const last = span.length - 2;
    take(span[0] as number, span[1] as number);
    take(span[last] as number, span[last + 1] as number);
    if (last !== 6 || !(isOut(span[2] as number, span[3] as number) || isOut(span[4] as number, span[5] as number))) continue;
    for (const axis of AXES) for (const t of extremaAlong(span, axis)) take(evaluate(span, t, 0), evaluate(span, t, 1));
  }
  return { minX, minY, maxX, maxY };
}

const AXES = [0, 1] as const;

/** Exact box of one span. */
export const spanBox = (span: Span): Box => spansBox([span]);

const GAUSS_X = [0.1834346424956498, 0.525532409916329, 0.7966664774136267, 0.9602898564975363];
const GAUSS_W = [0.362683783378362, 0.3137066458778873, 0.2223810344533745, 0.1012285362903763];

function gaussLength(span: Span, t0: number, t1: number): number {
  const half = (t1 - t0) / 2;
  const mid = (t0 + t1) / 2;
  let sum = 0;
  for (let i = 0; i < 4; i++) {
    const away = half * at(GAUSS_X, i);
    sum += at(GAUSS_W, i) * (speed(span, mid - away) + speed(span, mid + away));
  }
  return sum * half;
}

function speed(span: Span, t: number): number {
  const dx = derivative(span, t, 0);
  const dy = derivative(span, t, 1);
  // many times as fast as Math.hypot, and no length of this trade is so large that its square would not fit
  return Math.sqrt(dx * dx + dy * dy);
}

/**
 * Length of the span between two parameters, mm, to about 1e-9 of itself.
 * @param depth of the halving so far; callers leave it
 */
export function spanLength(span: Span, t0 = 0, t1 = 1, depth = 0): number {
  if (span.length === 4) return Math.hypot(at(span, 2) - at(span, 0), at(span, 3) - at(span, 1)) * (t1 - t0);
  const whole = gaussLength(span, t0, t1);
  const mid = (t0 + t1) / 2;
  const halves = gaussLength(span, t0, mid) + gaussLength(span, mid, t1);
  if (depth >= 12 || Math.abs(whole - halves) <= 1e-9 * (1 + halves)) return halves;
  return spanLength(span, t0, mid, depth + 1) + spanLength(span, mid, t1, depth + 1);
}

/**
 * Number of equal parameter steps whose chords stay within `tol` mm of the span.
 * @source F. Fischer's bound on second differences: error ≤ max|second derivative| h² / 8.
 * @returns 1 for a line
 */
export function chordSteps(span: Span, tol: number): number {
  if (span.length === 4) return 1;
  const ax = at(span, 0) - 2 * at(span, 2) + at(span, 4);
  const ay = at(span, 1) - 2 * at(span, 3) + at(span, 5);
  const bx = at(span, 2) - 2 * at(span, 4) + at(span, 6);
  const by = at(span, 3) - 2 * at(span, 5) + at(span, 7);
  const most = Math.sqrt(Math.max(ax * ax + ay * ay, bx * bx + by * by));
  return Math.max(1, Math.ceil(Math.sqrt((0.75 * most) / tol)));
}

/**
 * Parameter in [0,1] of a local nearest point to (x, y), from a starting guess (Newton on the foot).
 * @param guess must lie near the foot that is meant: others are not looked for
 */
export function projectNear(span: Span, guess: number, x: number, y: number): number {
  let t = guess;
  for (let k = 0; k < 8; k++) {
    const dx = derivative(span, t, 0);
    const dy = derivative(span, t, 1);
    const speed2 = dx * dx + dy * dy;
    if (speed2 === 0) break;
    const step = ((x - evaluate(span, t, 0)) * dx + (y - evaluate(span, t, 1)) * dy) / speed2;
    t = Math.min(1, Math.max(0, t + step));
    if (Math.abs(step) < 1e-13) break;
  }
  return t;
}
