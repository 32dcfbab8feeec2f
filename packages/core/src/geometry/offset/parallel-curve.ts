/**
 * The parallel of one span at a distance, on the right of its direction for a positive one, as few cubics within a
 * tolerance; where the distance passes the radius of curvature (1 + κd < 0) the parallel would run backwards, and the
 * evolute stands for it, so that a vanished stretch folds away instead of coming back inside out. Law: between a span and
 * what is drawn for it everything is swept in one sense, for no normal is followed beyond its centre of curvature; so the
 * positive windings are what lies nearer than the distance.
 * Source: W. Tiller & E. Hanson, Offsets of Two-Dimensional Profiles, IEEE CG&A 1984, for the joins and the idea; the
 * evolute as envelope of the normals: M. do Carmo, Differential Geometry of Curves and Surfaces, 1976, 1-5; fitting by
 * `fit-g1.ts`. Units mm.
 */
import type { Span } from '../../types/index.ts';
import { chordSteps, derivative, endTangent, evaluate, isLine, at } from '../span.ts';
import { fitG1, type Fit } from './fit-g1.ts';

type Direction = [number, number];

const SAMPLES = 16;
const DEEPEST = 10;
/** A fit this much better than the tolerance needs no further rounds. */
const ENOUGH = 0.6;

/**
 * Unit direction at a parameter, also where the derivative vanishes.
 * @param t 0 to 1
 */
export function directionAt(span: Span, t: number): Direction {
  const dx = derivative(span, t, 0);
  const dy = derivative(span, t, 1);
  const speed = Math.hypot(dx, dy);
  if (speed > 1e-9) return [dx / speed, dy / speed];
  return endTangent(span, t < 0.5 ? 0 : 1);
}

/**
 * Angle from one direction to another.
 * @returns radians, counter-clockwise above zero, at most half a turn
 */
export const turnBetween = ([ax, ay]: Readonly<Direction>, [bx, by]: Readonly<Direction>): number =>
  Math.atan2(ax * by - ay * bx, ax * bx + ay * by);

/** The curvature's numerator is a quadratic with these Bernstein coefficients: the turns of the control polygon. */
function turnsOf(span: Span): readonly [number, number, number] {
  const [ax, ay] = [at(span, 2) - at(span, 0), at(span, 3) - at(span, 1)];
  const [bx, by] = [at(span, 4) - at(span, 2), at(span, 5) - at(span, 3)];
  const [cx, cy] = [at(span, 6) - at(span, 4), at(span, 7) - at(span, 5)];
  return [ax * by - ay * bx, ax * cy - ay * cx, bx * cy - by * cx];
}

/** Curvature as a function of the parameter. */
function curvatureOf(span: Span): (t: number) => number {
  const [first, middle, last] = turnsOf(span);
  const [ax, ay] = [at(span, 2) - at(span, 0), at(span, 3) - at(span, 1)];
  const [bx, by] = [at(span, 4) - at(span, 2), at(span, 5) - at(span, 3)];
  const [cx, cy] = [at(span, 6) - at(span, 4), at(span, 7) - at(span, 5)];
  return (t) => {
    const u = 1 - t;
    const dx = u * u * ax + 2 * u * t * bx + t * t * cx;
    const dy = u * u * ay + 2 * u * t * by + t * t * cy;
    const speed2 = dx * dx + dy * dy;
    const speed = Math.sqrt(speed2);
    return 3 * speed < 1e-12 ? 0 : ((2 / 3) * (u * u * first + u * t * middle + t * t * last)) / (speed * speed2);
  };
}

/**
 * The parallel's point.
 * @param d mm to the right of the direction; below zero to the left
 */
export function parallelPoint(span: Span, t: number, d: number): [number, number] {
  const [tx, ty] = directionAt(span, t);
  return [evaluate(span, t, 0) + d * ty, evaluate(span, t, 1) - d * tx];
}

/** Stretches [from, to, runs forward] between the parameters where 1 + κd changes its sign. */
function stretches(span: Span, d: number): [number, number, boolean][] {
  // bent away from the parallel throughout: it is longer than the span everywhere
  if (turnsOf(span).every((turn) => turn * d >= 0)) return [[0, 1, true]];
  const curvature = curvatureOf(span);
  const grows = (t: number): boolean => 1 + d * curvature(t) > 0;
  const out: [number, number, boolean][] = [];
  let from = 0;
  let last = 1e-6;
  let forward = grows(last);
  for (let i = 1; i <= 48; i++) {
    const t = i === 48 ? 1 - 1e-6 : i / 48;
    if (grows(t) !== forward) {
      let [a, b] = [last, t];
      for (let k = 0; k < 50; k++) {
        const mid = (a + b) / 2;
        if (grows(mid) === forward) a = mid;
        else b = mid;
      }
      out.push([from, (a + b) / 2, forward]);
      from = (a + b) / 2;
      forward = !forward;
    }
    last = t;
  }
  out.push([from, 1, forward]);
  return out;
}

type Piece = Fit & { readonly bends: boolean };

function fitStretch(span: Span, d: number, t0: number, t1: number, tol: number): Piece | undefined {
  const xy = new Float64Array(2 * SAMPLES + 2);
  let length = 0;
  for (let i = 0; i <= SAMPLES; i++) {
    const t = t0 + ((t1 - t0) * i) / SAMPLES;
    const dx = derivative(span, t, 0);
    const dy = derivative(span, t, 1);
    const speed = Math.sqrt(dx * dx + dy * dy);
    const [tx, ty] = speed > 1e-9 ? [dx / speed, dy / speed] : directionAt(span, t);
    const x = (xy[2 * i] = evaluate(span, t, 0) + d * ty);
    const y = (xy[2 * i + 1] = evaluate(span, t, 1) - d * tx);
    if (i > 0) length += Math.hypot(x - (xy[2 * i - 2] as number), y - (xy[2 * i - 1] as number));
  }
  if (length < 1e-9) return undefined;
  const [a, b] = [directionAt(span, t0), directionAt(span, t1)];
  return { ...fitG1(xy, a, b, tol * ENOUGH), bends: a[0] * b[0] + a[1] * b[1] < -0.2 };
}

const isGood = (fit: Piece | undefined, tol: number): boolean => fit !== undefined && fit.error <= tol && !fit.bends;

/**
 * Pieces of a stretch that are good enough, or not to be halved any more.
 * @param fit the piece for a stretch, undefined when there is nothing of it
 * @param known that of the whole one
 */
function halves(
  [t0, t1]: readonly [number, number],
  fit: (t0: number, t1: number) => Piece | undefined,
  tol: number,
  known: Piece | undefined,
  depth = 0,
): Span[] {
  if (!known) return [];
  if (isGood(known, tol) || depth > DEEPEST) return [known.span];
  const mid = (t0 + t1) / 2;
  return [...halves([t0, mid], fit, tol, fit(t0, mid), depth + 1), ...halves([mid, t1], fit, tol, fit(mid, t1), depth + 1)];
}

/** As one, two or three equal pieces when that is good enough, else by halving. */
function fitForward(span: Span, d: number, t0: number, t1: number, tol: number): Span[] {
  const whole = fitStretch(span, d, t0, t1, tol);
  if (whole && isGood(whole, tol)) return [whole.span];
  for (const pieces of [2, 3]) {
    const spans: Span[] = [];
    for (let i = 0; i < pieces; i++) {
      const fit = fitStretch(span, d, t0 + ((t1 - t0) * i) / pieces, t0 + ((t1 - t0) * (i + 1)) / pieces, tol);
      if (!fit || !isGood(fit, tol)) break;
      spans.push(fit.span);
    }
    if (spans.length === pieces) return spans;
  }
  return halves([t0, t1], (from, to) => fitStretch(span, d, from, to, tol), tol, whole);
}

/** Receives the pieces of a parallel in order. */
export interface Pen {
  lineTo(x: number, y: number): void;
  /** A span that starts where the pen is, within rounding. */
  draw(span: Span): void;
}

/** How far chords may lie from the evolute, mm, within these counts. */
const EVOLUTE_CHORD_MM = 0.002;
const FEWEST_CHORDS = 4;
const MOST_CHORDS = 16;

/**
 * Where the radius of curvature is less than the distance, nothing lies nearest to the span beyond its centres of
 * curvature: the evolute stands for the parallel. It meets it where that turns back, and everything between it and the
 * span is swept once, in the same sense as elsewhere.
 */
function drawBackward(span: Span, d: number, t0: number, t1: number, pen: Pen): void {
  const curvature = curvatureOf(span);
  const chords = Math.ceil(chordSteps(span, EVOLUTE_CHORD_MM) * (t1 - t0));
  const n = Math.min(MOST_CHORDS, Math.max(FEWEST_CHORDS, chords));
  for (let k = 0; k <= n; k++) {
    const t = t0 + ((t1 - t0) * k) / n;
    const bend = curvature(t) * d;
    pen.lineTo(...parallelPoint(span, t, bend < -1 ? -d / bend : d));
  }
  pen.lineTo(...parallelPoint(span, t1, d));
}

/**
 * Draws the parallel of a span at `d` mm to the right of its direction.
 * @param tol how far the drawn pieces may lie from the parallel, mm
 * @param pen is told the pieces in their order; where the parallel would run back the evolute stands for it
 */
export function drawParallel(span: Span, d: number, tol: number, pen: Pen): void {
  if (isLine(span)) {
    const [tx, ty] = directionAt(span, 0);
    pen.draw([at(span, 0) + d * ty, at(span, 1) - d * tx, at(span, 2) + d * ty, at(span, 3) - d * tx]);
    return;
  }
  for (const [t0, t1, forward] of stretches(span, d)) {
    if (t1 - t0 < 1e-9) continue;
    if (forward) for (const piece of fitForward(span, d, t0, t1, tol)) pen.draw(piece);
    else drawBackward(span, d, t0, t1, pen);
  }
}
