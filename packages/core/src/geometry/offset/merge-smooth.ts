/**
 * Fewer nodes after an offset: neighbouring curves that pass smoothly into one another become one curve where one
 * is enough within a tolerance; greedily the longest run from each place. Corners and straight spans stay.
 * Cost: about runs × samples. The distance is measured against the curves that are replaced.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { endX, endY, evaluate, isLine } from '../span.ts';
import { directionAt } from './parallel-curve.ts';
import { fitG1 } from './fit-g1.ts';

/** Joints that turn less than this are smooth, radians (1.1 degrees). */
const SMOOTH = 0.02;
/** One cubic is not asked to turn farther than this, radians. */
const MOST_TURN = 2.2;
const SAMPLES = 10;
const LONGEST_RUN = 12;

function turnBetween(a: readonly [number, number], b: readonly [number, number]): number {
  return Math.atan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1]);
}

const isSmooth = (before: Span, after: Span): boolean =>
  !isLine(before) && !isLine(after) && Math.abs(turnBetween(directionAt(before, 1), directionAt(after, 0))) < SMOOTH;

/** Total turn of a span, by its sampled directions. */
function turnOf(span: Span): number {
  let sum = 0;
  for (let k = 0; k < 4; k++) sum += Math.abs(turnBetween(directionAt(span, k / 4), directionAt(span, (k + 1) / 4)));
  return sum;
}

function fitRun(run: readonly Span[], tol: number): Span | undefined {
  const xy: number[] = [];
  for (const span of run) for (let k = 0; k < SAMPLES; k++) xy.push(evaluate(span, k / SAMPLES, 0), evaluate(span, k / SAMPLES, 1));
  const last = run.at(-1) as Span;
  xy.push(endX(last), endY(last));
  const fit = fitG1(xy, directionAt(run[0] as Span, 0), directionAt(last, 1));
  return fit.error <= tol ? fit.span : undefined;
}

function mergeContour(contour: Contour, tol: number): Contour {
  const n = contour.spans.length;
  const spanAt = (i: number): Span => contour.spans[i % n] as Span;
  const corner = contour.spans.findIndex((span, i) => !isSmooth(spanAt(i + n - 1), span));
  const start = Math.max(0, corner);
  const out: Span[] = [];
  for (let i = 0; i < n;) {
    let best = spanAt(start + i);
    let used = 1;
    let turn = turnOf(best);
    const run = [best];
    while (i + run.length < n && run.length < LONGEST_RUN) {
      const next = spanAt(start + i + run.length);
      turn += turnOf(next);
      if (!isSmooth(run.at(-1) as Span, next) || turn > MOST_TURN) break;
      run.push(next);
      const merged = fitRun(run, tol);
      if (!merged) break;
      best = merged;
      used = run.length;
    }
    out.push(best);
    i += used;
  }
  return { closed: contour.closed, spans: out };
}

/** @param tol greatest distance from the curves replaced, mm */
export const mergeSmooth = (outline: Outline, tol: number): Outline => ({
  contours: outline.contours.map((contour) => (contour.closed && contour.spans.length > 2 ? mergeContour(contour, tol) : contour)),
});
