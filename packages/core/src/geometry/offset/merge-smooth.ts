/**
 * Fewer nodes after an offset: neighbouring curves that pass smoothly into one another become one curve where one
 * is enough within a tolerance; greedily the longest run from each place. Corners and straight spans stay.
 * Cost: about runs × samples. The distance is measured against the curves that are replaced.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { chordSteps, evaluate, isLine, subSpan } from '../span.ts';
import { segmentDistance } from '../hit.ts';
import { directionAt } from './parallel-curve.ts';
import { fitG1, type Fit } from './fit-g1.ts';

/** Joints that turn less than this are smooth, radians (1.1 degrees). */
const SMOOTH = 0.02;
/** One cubic is not asked to turn farther than this, radians. */
const MOST_TURN = 2.8;
/** Points a span to fit to, and to check the fit by: a short curve may meet a long one, and the turn lie between two. */
const SAMPLES = 20;
const FEW_SAMPLES = 8;
const CHECKS = 40;
/** Chords of the check as a share of the tolerance. */
const CHECK_SHARE = 0.1;
const QUARTERS = 4;
const LONGEST_RUN = 12;
/** Ends of curves are looked for to this share of a span; 1: only where curves met before. */
export type Finest = 1 | typeof FINEST;
const FINEST = 1 / 24;
/** A fit this much better than the tolerance needs no further rounds. */
const ENOUGH = 0.9;

function turnBetween(a: readonly [number, number], b: readonly [number, number]): number {
  return Math.atan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1]);
}

const isSmooth = (before: Span, after: Span): boolean =>
  !isLine(before) && !isLine(after) && Math.abs(turnBetween(directionAt(before, 1), directionAt(after, 0))) < SMOOTH;

/** Curves between two corners, with places on them counted in spans: 2.5 is the middle of the third. */
class Stretch {
  readonly spans: readonly Span[];
  /** Turn up to each quarter of each span, radians. */
  private readonly turns: number[];

  constructor(spans: readonly Span[]) {
    this.spans = spans;
    this.turns = [0];
    for (const span of spans)
      for (let k = 0; k < QUARTERS; k++) {
        const [a, b] = [directionAt(span, k / QUARTERS), directionAt(span, (k + 1) / QUARTERS)];
        this.turns.push((this.turns.at(-1) as number) + Math.abs(turnBetween(a, b)));
      }
  }

  /** The farthest place one curve may be asked to reach. */
  reachFrom(from: number): number {
    const first = Math.floor(from * QUARTERS);
    const last = Math.min(this.turns.length - 1, first + LONGEST_RUN * QUARTERS);
    let quarter = first + 1;
    while (quarter < last && (this.turns[quarter + 1] as number) - (this.turns[first] as number) <= MOST_TURN) quarter++;
    return quarter / QUARTERS;
  }

  /** The span a place lies on and the parameter there; of two spans that meet the later one, or the earlier. */
  private place(at: number, earlier: boolean): { span: Span; t: number } {
    const i = Math.min(this.spans.length - 1, earlier ? Math.ceil(at) - 1 : Math.floor(at));
    return { span: this.spans[i] as Span, t: at - i };
  }

  /** Points along the curves from place to place. */
  private points(from: number, to: number, perSpan: (span: Span) => number): number[] {
    const xy: number[] = [];
    for (let i = Math.floor(from); i < to; i++) {
      const [t0, t1] = [Math.max(0, from - i), Math.min(1, to - i)];
      const span = this.spans[i] as Span;
      const samples = Math.max(4, Math.ceil((t1 - t0) * perSpan(span)));
      for (let k = 0; k < samples; k++) {
        const t = t0 + ((t1 - t0) * k) / samples;
        xy.push(evaluate(span, t, 0), evaluate(span, t, 1));
      }
    }
    const end = this.place(to, true);
    xy.push(evaluate(end.span, end.t, 0), evaluate(end.span, end.t, 1));
    return xy;
  }

  /** One curve from place to place, when its distance from points of it stays within the tolerance. */
  fit(from: number, to: number, tol: number): Span | undefined {
    const [start, end] = [this.place(from, false), this.place(to, true)];
    const directions = [directionAt(start.span, start.t), directionAt(end.span, end.t)] as const;
    const fit = (samples: number): Fit =>
      fitG1(
        this.points(from, to, () => samples),
        directions[0],
        directions[1],
        tol * ENOUGH,
      );
    if (fit(FEW_SAMPLES).error > tol) return undefined;
    const found = fit(SAMPLES);
    return found.error <= tol ? found.span : undefined;
  }

  /** Does a curve keep to what it stands for, also between the points it was fitted to? Both are walked together. */
  keeps(curve: Span, from: number, to: number, tol: number): boolean {
    const xy = this.points(from, to, (span) => chordSteps(span, tol * CHECK_SHARE));
    const last = xy.length / 2 - 2;
    const distance = (j: number, x: number, y: number): number =>
      segmentDistance(x, y, xy[2 * j] as number, xy[2 * j + 1] as number, xy[2 * j + 2] as number, xy[2 * j + 3] as number);
    let j = 0;
    for (let k = 1; k < CHECKS; k++) {
      const [x, y] = [evaluate(curve, k / CHECKS, 0), evaluate(curve, k / CHECKS, 1)];
      let here = distance(j, x, y);
      for (; j < last; j++) {
        const next = distance(j + 1, x, y);
        if (next > here) break;
        here = next;
      }
      if (here > tol) return false;
    }
    return true;
  }

  /** What there is from a place to another one on the same span. */
  part(from: number, to: number): Span {
    const { span, t } = this.place(from, false);
    return subSpan(span, t, to - from + t);
  }
}

/** The longest single curve from a place, and where it ends. */
function longestFrom(stretch: Stretch, from: number, tol: number, finest: Finest): { span: Span; to: number } {
  const reach = stretch.reachFrom(from);
  let low = Math.min(reach, Math.floor(from) + 1);
  const found = [{ span: stretch.part(from, low), to: low }];
  const attempt = (to: number): boolean => {
    const span = stretch.fit(from, to, tol);
    if (!span) return false;
    found.push({ span, to });
    low = to;
    return true;
  };
  let high = Math.min(reach, low + 1);
  while (high > low && attempt(high)) high = Math.min(reach, finest === 1 ? Math.floor(high) + 1 : high + 2 * (high - from));
  if (finest === 1) high = low;
  while (high - low > finest) {
    const mid = (low + high) / 2;
    if (!attempt(mid)) high = mid;
  }
  for (;;) {
    const last = found.pop() as { span: Span; to: number };
    if (found.length === 0 || stretch.keeps(last.span, from, last.to, tol)) return last;
  }
}

/** Spans between two corners again in as few as can be; as they were when that saves nothing. */
function mergeStretch(spans: readonly Span[], tol: number, finest: Finest): readonly Span[] {
  if (spans.length < 2) return spans;
  const stretch = new Stretch(spans);
  const out: Span[] = [];
  for (let from = 0; from < spans.length;) {
    const { span, to } = longestFrom(stretch, from, tol, finest);
    out.push(span);
    from = to;
    if (out.length >= spans.length) return spans;
  }
  return out;
}

function mergeContour(contour: Contour, tol: number, finest: Finest): Contour {
  const n = contour.spans.length;
  const spanAt = (i: number): Span => contour.spans[i % n] as Span;
  const corners = contour.spans.flatMap((span, i) => (isSmooth(spanAt(i + n - 1), span) ? [] : [i]));
  const starts = corners.length > 0 ? corners : [0];
  const spans = starts.flatMap((start, k) => {
    const end = starts[k + 1] ?? (starts[0] as number) + n;
    return mergeStretch(
      Array.from({ length: end - start }, (_, i) => spanAt(start + i)),
      tol,
      finest,
    );
  });
  return spans.length < 2 ? contour : { closed: contour.closed, spans };
}

/**
 * @param tol greatest distance from the curves replaced, mm
 * @param finest 1 is quicker and merges less
 */
export const mergeSmooth = (outline: Outline, tol: number, finest: Finest = FINEST): Outline => ({
  contours: outline.contours.map((contour) => (contour.closed && contour.spans.length > 2 ? mergeContour(contour, tol, finest) : contour)),
});
