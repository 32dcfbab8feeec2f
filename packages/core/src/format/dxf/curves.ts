/**
 * Curves of DXF as spans, in the file's own units. Arcs and ellipses: cubic Béziers of at most a quarter turn
 * (greatest error 2.7e-4 of the radius, made finer for large ones). Splines: rational B-splines (L. Piegl, W. Tiller,
 * The NURBS Book, 2nd ed., algorithms A2.1, A2.2) as cubics that share ends and directions, halved until they lie
 * within a tolerance; a polynomial cubic comes out exact. Splines given by points only: natural cubic spline by chord
 * length.
 */
import type { Span } from '../../types/index.ts';
import { at } from '../../geometry/span.ts';

type XY = readonly [number, number];

/**
 * Ellipse arc round a centre: p(t) = c + cos t·u + sin t·v from t0 to t1 (radians, t1 > t0 turns from u to v).
 * @param c middle
 * @param u,v half axes, as vectors from the middle
 * @returns cubics of an eighth of a turn at most each
 */
export function ellipseSpans(c: XY, u: XY, v: XY, t0: number, t1: number): Span[] {
  const n = Math.max(1, Math.ceil(Math.abs(t1 - t0) / (Math.PI / 4) - 1e-9));
  const step = (t1 - t0) / n;
  const k = (4 / 3) * Math.tan(step / 4);
  const p = (t: number): XY => [c[0] + Math.cos(t) * u[0] + Math.sin(t) * v[0], c[1] + Math.cos(t) * u[1] + Math.sin(t) * v[1]];
  const d = (t: number): XY => [-Math.sin(t) * u[0] + Math.cos(t) * v[0], -Math.sin(t) * u[1] + Math.cos(t) * v[1]];
  return Array.from({ length: n }, (_, i): Span => {
    const [a, b] = [t0 + i * step, t0 + (i + 1) * step];
    const [p0, p3, d0, d3] = [p(a), p(b), d(a), d(b)];
    return [p0[0], p0[1], p0[0] + k * d0[0], p0[1] + k * d0[1], p3[0] - k * d3[0], p3[1] - k * d3[1], p3[0], p3[1]];
  });
}

/** An arc as cubic spans. */
export const arcSpans = (cx: number, cy: number, r: number, from: number, to: number): Span[] =>
  ellipseSpans([cx, cy], [r, 0], [0, r], from, to);

/**
 * A vertex pair with its bulge, the tangent of a quarter of the arc's angle; above zero it turns left.
 * @returns a line for a bulge of 0
 */
export function bulgeSpans(x0: number, y0: number, x1: number, y1: number, bulge: number): Span[] {
  if (x0 === x1 && y0 === y1) return [];
  if (!(Math.abs(bulge) > 1e-9)) return [[x0, y0, x1, y1]];
  const [dx, dy] = [x1 - x0, y1 - y0];
  const h = (1 - bulge * bulge) / (4 * bulge);
  const [cx, cy] = [(x0 + x1) / 2 - h * dy, (y0 + y1) / 2 + h * dx];
  const r = Math.hypot(x0 - cx, y0 - cy);
  const from = Math.atan2(y0 - cy, x0 - cx);
  const spans = arcSpans(cx, cy, r, from, from + 4 * Math.atan(bulge));
  const last = spans.at(-1);
  if (last) spans[spans.length - 1] = [...last.slice(0, 6), x1, y1];
  return spans;
}

/** A spline as the file has it: degree, knots, control points and weights. */
export interface SplineData {
  readonly degree: number;
  readonly knots: readonly number[];
  /** x, y, weight. */
  readonly control: readonly (readonly [number, number, number])[];
}

/** Values and derivatives of the basis functions at a parameter (A2.2, first derivative by the difference formula). */
function basis(knots: readonly number[], degree: number, span: number, t: number): number[] {
  const n = [1];
  const [left, right] = [[0], [0]];
  for (let j = 1; j <= degree; j++) {
    left[j] = t - at(knots, span + 1 - j);
    right[j] = at(knots, span + j) - t;
    let saved = 0;
    for (let r = 0; r < j; r++) {
      const width = at(right, r + 1) + at(left, j - r);
      const share = width === 0 ? 0 : at(n, r) / width;
      n[r] = saved + at(right, r + 1) * share;
      saved = at(left, j - r) * share;
    }
    n[j] = saved;
  }
  return n;
}

interface Jet {
  readonly p: XY;
  readonly d: XY;
}

function jet({ degree, knots, control }: SplineData, span: number, t: number): Jet {
  const n = basis(knots, degree, span, t);
  const lower = basis(knots, degree - 1, span, t);
  const sum = [0, 0, 0];
  const slope = [0, 0, 0];
  for (let i = 0; i <= degree; i++) {
    const k = span - degree + i;
    const [x, y, w] = control[k] ?? [0, 0, 1];
    const before = i === 0 ? 0 : at(lower, i - 1) / (at(knots, k + degree) - at(knots, k) || Infinity);
    const after = i === degree ? 0 : at(lower, i) / (at(knots, k + degree + 1) - at(knots, k + 1) || Infinity);
    const dn = degree * (before - after);
    [x * w, y * w, w].forEach((value, axis) => {
      sum[axis] = at(sum, axis) + at(n, i) * value;
      slope[axis] = at(slope, axis) + dn * value;
    });
  }
  const [x, y, w] = sum as [number, number, number];
  const [dx, dy, dw] = slope as [number, number, number];
  const p: XY = [x / w, y / w];
  return { p, d: [(dx - p[0] * dw) / w, (dy - p[1] * dw) / w] };
}

const DEEPEST = 12;

/** Cubics through the ends with the ends' directions, halved until points between lie within the tolerance. */
function hermite(f: (t: number) => Jet, t0: number, t1: number, tol: number, depth = 0): Span[] {
  const [a, b] = [f(t0), f(t1)];
  const h = (t1 - t0) / 3;
  const span: Span = [...a.p, a.p[0] + h * a.d[0], a.p[1] + h * a.d[1], b.p[0] - h * b.d[0], b.p[1] - h * b.d[1], ...b.p];
  const off = (s: number): number => {
    const { p } = f(t0 + s * (t1 - t0));
    const r = 1 - s;
    const value = (k: number): number =>
      r * r * r * at(span, k) + 3 * r * r * s * at(span, 2 + k) + 3 * r * s * s * at(span, 4 + k) + s * s * s * at(span, 6 + k);
    return Math.hypot(value(0) - p[0], value(1) - p[1]);
  };
  if (depth >= DEEPEST || Math.max(off(0.25), off(0.5), off(0.75)) <= tol) return [span];
  const middle = (t0 + t1) / 2;
  return [...hermite(f, t0, middle, tol, depth + 1), ...hermite(f, middle, t1, tol, depth + 1)];
}

/** @returns undefined when knots and control points do not belong together */
export function splineSpans(data: SplineData, tol: number): Span[] | undefined {
  const { degree, knots, control } = data;
  if (!(degree >= 1 && degree <= 25) || control.length <= degree || knots.length !== control.length + degree + 1) return undefined;
  if (knots.some((k, i) => !Number.isFinite(k) || (i > 0 && k < at(knots, i - 1)))) return undefined;
  if (control.some((c) => !c.every(Number.isFinite) || c[2] <= 0)) return undefined;
  const out: Span[] = [];
  for (let i = degree; i < control.length; i++) {
    const [t0, t1] = [at(knots, i), at(knots, i + 1)];
    if (t1 - t0 > 1e-12 * (Math.abs(t0) + Math.abs(t1) + 1e-300)) out.push(...hermite((t) => jet(data, i, t), t0, t1, tol));
  }
  return out;
}

/** Slopes at the knots of the cubic spline through values, with the given slopes at its ends (tridiagonal system). */
function slopesThrough(t: readonly number[], y: readonly number[], first: number, last: number): number[] {
  const n = t.length - 1;
  const [c, d] = [[0], [first]];
  for (let i = 1; i < n; i++) {
    const [h0, h1] = [at(t, i) - at(t, i - 1), at(t, i + 1) - at(t, i)];
    const [before, after] = [(at(y, i) - at(y, i - 1)) / h0, (at(y, i + 1) - at(y, i)) / h1];
    const pivot = 2 * (h0 + h1) - h1 * at(c, i - 1);
    c[i] = h0 / pivot;
    d[i] = (3 * (h1 * before + h0 * after) - h1 * at(d, i - 1)) / pivot;
  }
  const out = new Array<number>(n + 1).fill(last);
  for (let i = n - 1; i >= 0; i--) out[i] = at(d, i) - at(c, i) * at(out, i + 1);
  return out;
}

const cross = (a: XY, b: XY): number => Math.abs(a[0] * b[1] - a[1] * b[0]);
const unit = ([x, y]: XY): XY => {
  const length = Math.hypot(x, y) || 1;
  return [x / length, y / length];
};

/** Direction of a curve at the first of its points, from the first three (L. Piegl, W. Tiller, The NURBS Book, 9.31 to 9.33). */
function startDirection(p: readonly XY[]): XY {
  const step = (i: number): XY => {
    const [a, b] = [p[i] as XY, p[i + 1] as XY];
    return [b[0] - a[0], b[1] - a[1]];
  };
  const beyond = (a: XY, b: XY): XY => [2 * a[0] - b[0], 2 * a[1] - b[1]];
  const q1 = step(0);
  if (p.length < 3) return unit(q1);
  const q2 = step(1);
  const q0 = beyond(q1, q2);
  const before = beyond(q0, q1);
  const [back, forth] = [cross(before, q0), cross(q1, q2)];
  const share = back + forth === 0 ? 0.5 : back / (back + forth);
  return unit([(1 - share) * q0[0] + share * q1[0], (1 - share) * q0[1] + share * q1[1]]);
}

/**
 * The curve of a spline that states points to go through and no control points: a cubic spline over the lengths of the
 * chords, its ends in the stated directions, else in those that its first and last points tell.
 */
export function throughPoints(
  points: readonly XY[],
  ends: { readonly first?: XY | undefined; readonly last?: XY | undefined } = {},
): Span[] {
  const p = points.filter((q, i) => i === 0 || q[0] !== (points[i - 1] as XY)[0] || q[1] !== (points[i - 1] as XY)[1]);
  if (p.length < 2) return [];
  const t = [0];
  for (let i = 1; i < p.length; i++)
    t.push(at(t, i - 1) + Math.hypot((p[i] as XY)[0] - (p[i - 1] as XY)[0], (p[i] as XY)[1] - (p[i - 1] as XY)[1]));
  const back = startDirection([...p].reverse());
  const first = ends.first ? unit(ends.first) : startDirection(p);
  const last: XY = ends.last ? unit(ends.last) : [-back[0], -back[1]];
  const [sx, sy] = [0, 1].map((axis) =>
    slopesThrough(
      t,
      p.map((q) => q[axis] as number),
      first[axis] as number,
      last[axis] as number,
    ),
  ) as [number[], number[]];
  return p.slice(1).map((q, i): Span => {
    const o = p[i] as XY;
    const h = (at(t, i + 1) - at(t, i)) / 3;
    return [o[0], o[1], o[0] + h * at(sx, i), o[1] + h * at(sy, i), q[0] - h * at(sx, i + 1), q[1] - h * at(sy, i + 1), q[0], q[1]];
  });
}
