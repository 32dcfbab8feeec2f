/**
 * The parallel of one span at a distance, on the right of its direction for a positive one, as few cubics within a
 * tolerance; where the distance passes the radius of curvature (1 + κd < 0) the parallel runs backwards and is given
 * as short steps through the span itself, so that a vanished stretch cancels instead of coming back inside out.
 * Source: W. Tiller & E. Hanson, Offsets of Two-Dimensional Profiles, IEEE CG&A 1984, for the joins and the idea;
 * fitting by `fit-g1.ts`. Units mm.
 */
import type { Span } from '../../types/index.ts';
import { chordSteps, derivative, endTangent, evaluate, isLine, at } from '../span.ts';
import { fitG1 } from './fit-g1.ts';

type Direction = [number, number];

const SAMPLES = 16;
const DEEPEST = 10;
/** A fit this much better than the tolerance needs no further rounds. */
const ENOUGH = 0.6;

/** Unit direction at a parameter, also where the derivative vanishes. */
export function directionAt(span: Span, t: number): Direction {
  const dx = derivative(span, t, 0);
  const dy = derivative(span, t, 1);
  const speed = Math.hypot(dx, dy);
  if (speed > 1e-9) return [dx / speed, dy / speed];
  return endTangent(span, t < 0.5 ? 0 : 1);
}

function curvature(span: Span, t: number): number {
  const u = 1 - t;
  const second = (axis: 0 | 1): number =>
    6 *
    (u * (at(span, axis) - 2 * at(span, 2 + axis) + at(span, 4 + axis)) +
      t * (at(span, 2 + axis) - 2 * at(span, 4 + axis) + at(span, 6 + axis)));
  const dx = derivative(span, t, 0);
  const dy = derivative(span, t, 1);
  const speed = Math.hypot(dx, dy);
  return speed < 1e-12 ? 0 : (dx * second(1) - dy * second(0)) / (speed * speed * speed);
}

/** The parallel's point. */
export function parallelPoint(span: Span, t: number, d: number): [number, number] {
  const [tx, ty] = directionAt(span, t);
  return [evaluate(span, t, 0) + d * ty, evaluate(span, t, 1) - d * tx];
}

/** Stretches [from, to, runs forward] between the parameters where 1 + κd changes its sign. */
function stretches(span: Span, d: number): [number, number, boolean][] {
  const grows = (t: number): boolean => 1 + d * curvature(span, t) > 0;
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

function fitStretch(span: Span, d: number, t0: number, t1: number, tol: number): { span: Span; error: number; bends: boolean } | undefined {
  const xy: number[] = [];
  for (let i = 0; i <= SAMPLES; i++) xy.push(...parallelPoint(span, t0 + ((t1 - t0) * i) / SAMPLES, d));
  let length = 0;
  for (let i = 2; i < xy.length; i += 2) length += Math.hypot(at(xy, i) - at(xy, i - 2), at(xy, i + 1) - at(xy, i - 1));
  if (length < 1e-9) return undefined;
  const [a, b] = [directionAt(span, t0), directionAt(span, t1)];
  return { ...fitG1(xy, a, b, tol * ENOUGH), bends: a[0] * b[0] + a[1] * b[1] < -0.2 };
}

function halves(span: Span, d: number, t0: number, t1: number, tol: number, depth: number): Span[] {
  const fit = fitStretch(span, d, t0, t1, tol);
  if (!fit) return [];
  if ((fit.error <= tol && !fit.bends) || depth > DEEPEST) return [fit.span];
  const mid = (t0 + t1) / 2;
  return [...halves(span, d, t0, mid, tol, depth + 1), ...halves(span, d, mid, t1, tol, depth + 1)];
}

/** As one, two or three equal pieces when that is good enough, else by halving. */
function fitForward(span: Span, d: number, t0: number, t1: number, tol: number): Span[] {
  for (const pieces of [1, 2, 3]) {
    const fits = Array.from({ length: pieces }, (_, i) =>
      fitStretch(span, d, t0 + ((t1 - t0) * i) / pieces, t0 + ((t1 - t0) * (i + 1)) / pieces, tol),
    );
    if (fits.every((fit) => fit !== undefined && fit.error <= tol && !fit.bends)) return fits.map((fit) => (fit as { span: Span }).span);
  }
  return halves(span, d, t0, t1, tol, 0);
}

/** Receives the pieces of a parallel in order. */
export interface Pen {
  lineTo(x: number, y: number): void;
  /** A span that starts where the pen is, within rounding. */
  draw(span: Span): void;
}

/** Chords where a backward stretch begins and ends, mm. */
const BACKWARD_CHORD_MM = 0.0005;
/** In the middle of one that is turned round by more than this, and so cancels, so many chords are taken at once. */
const DEEP = -0.1;
const WIDEST_STRIDE = 16;

function drawBackward(span: Span, d: number, t0: number, t1: number, pen: Pen): void {
  const steps = Math.max(2, Math.ceil(chordSteps(span, BACKWARD_CHORD_MM) * (t1 - t0)));
  const widest = 1 + d * curvature(span, (t0 + t1) / 2) < DEEP ? WIDEST_STRIDE : 2;
  let [vx, vy] = [evaluate(span, t0, 0), evaluate(span, t0, 1)];
  pen.lineTo(vx, vy);
  for (let k = 0; k < steps;) {
    k += Math.min(widest, 1 + (Math.min(k, steps - k) >> 1), steps - k);
    const t = t0 + ((t1 - t0) * k) / steps;
    const [wx, wy] = [evaluate(span, t, 0), evaluate(span, t, 1)];
    const length = Math.hypot(wx - vx, wy - vy);
    if (length > 0) {
      const [nx, ny] = [(d * (wy - vy)) / length, (-d * (wx - vx)) / length];
      pen.lineTo(vx + nx, vy + ny);
      pen.lineTo(wx + nx, wy + ny);
      pen.lineTo(wx, wy);
    }
    [vx, vy] = [wx, wy];
  }
  pen.lineTo(...parallelPoint(span, t1, d));
}

/** Draws the parallel of a span at `d` mm to the right of its direction. */
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
