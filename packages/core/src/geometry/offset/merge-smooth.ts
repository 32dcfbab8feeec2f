/**
 * Fewer nodes after an offset: neighbouring curves that pass smoothly into one another become one curve where one
 * is enough within a tolerance; greedily the longest run from each place. Corners and straight spans stay.
 * Cost: about runs × samples. The distance is measured against the curves that are replaced.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { endX, endY, evaluate, isLine, subSpan } from '../span.ts';
import { directionAt } from './parallel-curve.ts';
import { fitG1 } from './fit-g1.ts';

/** Joints that turn less than this are smooth, radians (1.1 degrees). */
const SMOOTH = 0.02;
/** One cubic is not asked to turn farther than this, radians. */
const MOST_TURN = 2.2;
const SAMPLES = 4;
const LONGEST_RUN = 12;
/** A fit this much better than the tolerance needs no further rounds. */
const ENOUGH = 0.9;

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
  const fit = fitG1(xy, directionAt(run[0] as Span, 0), directionAt(last, 1), tol * ENOUGH);
  return fit.error <= tol ? fit.span : undefined;
}

/** Curves are cut into this many pieces before they are merged, so that joints can come to lie anywhere. */
const PIECES = 4;

interface Piece {
  readonly span: Span;
  /** The whole span it comes from, when it is all of it. */
  readonly whole: Span | undefined;
  readonly turn: number;
}

const cut = (span: Span): Piece[] =>
  isLine(span)
    ? [{ span, whole: span, turn: 0 }]
    : Array.from({ length: PIECES }, (_, k) => {
        const part = subSpan(span, k / PIECES, (k + 1) / PIECES);
        return { span: part, whole: undefined, turn: turnOf(part) };
      });

/** A run of pieces as it was: whole spans where they are whole, else their parts. */
function longestFrom(pieces: readonly Piece[], from: number, tol: number): { span: Span; used: number } {
  const first = pieces[from] as Piece;
  let best = { span: first.span, used: 1 };
  let turn = first.turn;
  let reach = 1;
  let low = 1;
  while (from + reach < pieces.length && reach < LONGEST_RUN * PIECES) {
    const next = pieces[from + reach] as Piece;
    turn += next.turn;
    if (!isSmooth((pieces[from + reach - 1] as Piece).span, next.span) || turn > MOST_TURN) break;
    reach++;
  }
  const attempt = (count: number): Span | undefined =>
    fitRun(
      pieces.slice(from, from + count).map((piece) => piece.span),
      tol,
    );
  let high = Math.min(reach, 2 * PIECES);
  for (;;) {
    const span = high > low ? attempt(high) : undefined;
    if (!span) break;
    best = { span, used: high };
    low = high;
    if (high === reach) return best;
    high = Math.min(reach, high * 2);
  }
  while (high - low > 1) {
    const mid = (low + high) >> 1;
    const span = attempt(mid);
    if (span) [best, low] = [{ span, used: mid }, mid];
    else high = mid;
  }
  return best;
}

/** Spans between two corners again in as few as can be; as they were when that saves nothing. */
function mergeStretch(spans: readonly Span[], tol: number): readonly Span[] {
  if (spans.length < 2 && (spans[0] === undefined || isLine(spans[0]))) return spans;
  const pieces = spans.flatMap(cut);
  const out: Span[] = [];
  for (let i = 0; i < pieces.length;) {
    const { span, used } = longestFrom(pieces, i, tol);
    out.push(span);
    i += used;
    if (out.length >= spans.length) return spans;
  }
  return out;
}

function mergeContour(contour: Contour, tol: number): Contour {
  const n = contour.spans.length;
  const spanAt = (i: number): Span => contour.spans[i % n] as Span;
  const corners = contour.spans.flatMap((span, i) => (isSmooth(spanAt(i + n - 1), span) ? [] : [i]));
  const starts = corners.length > 0 ? corners : [0];
  const spans = starts.flatMap((start, k) => {
    const end = starts[k + 1] ?? (starts[0] as number) + n;
    return mergeStretch(
      Array.from({ length: end - start }, (_, i) => spanAt(start + i)),
      tol,
    );
  });
  return spans.length < 2 ? contour : { closed: contour.closed, spans };
}

/** @param tol greatest distance from the curves replaced, mm */
export const mergeSmooth = (outline: Outline, tol: number): Outline => ({
  contours: outline.contours.map((contour) => (contour.closed && contour.spans.length > 2 ? mergeContour(contour, tol) : contour)),
});
