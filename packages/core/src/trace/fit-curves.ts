/**
 * A run of points as few curves as keep within a tolerance, smooth at their joints (P. J. Schneider, An Algorithm for
 * Automatically Fitting Digitized Curves, 1990); none of them loops, runs back or ends in a hook. Units pixels.
 */
import type { Span } from '../types/index.ts';
import { fitG1 } from '../geometry/offset/fit-g1.ts';
import { evaluate } from '../geometry/span.ts';
import type { FitSettings } from './corners.ts';
import { fitLine, type P } from './line-fit.ts';

/**
 * A straight span between two places.
 * @returns [ax, ay, bx, by]
 */
export const lineSpan = (a: P, b: P): Span => [a[0], a[1], b[0], b[1]];

const direction = (points: readonly P[]): P | undefined => {
  const line = fitLine(points);
  return line && [line.dx, line.dy];
};

/**
 * Direction at a point of a run, told over some points on both sides.
 * @param reach how far the points that tell it may lie, pixels
 * @returns a unit vector the way the points run
 */
export function directionAt(points: readonly P[], i: number, reach: number): P {
  let [low, high] = [i, i];
  const p = points[i] as P;
  const d = (k: number): number => Math.hypot((points[k] as P)[0] - p[0], (points[k] as P)[1] - p[1]);
  while (low > 0 && d(low) < reach) low--;
  while (high < points.length - 1 && d(high) < reach) high++;
  return direction(points.slice(low, high + 1)) ?? [1, 0];
}

/** Of many noisy points the farthest is farther off than of few: within so many tolerances when the mean square is well within. */
const MANY = 24;
const MOST_NOISE = 2;
const NOISE_RMS = 0.5;
/** And directions are told over so many times more of them where that fits better. */
const FARTHER = 2.5;

/** Directions are told over so much of the window; where no curve fits, over less of it, for the run bends tightly there. */
const OVER = 0.75;
const LESS = [0.4, 0.2];

/**
 * A run that is not straight as few curves, its first and last directions given where known.
 * @param t0,t1 unit vectors, both the way the points run
 * @param enough an error that is good enough, pixels; 0: as near as it comes
 */
export function fitCurves(points: readonly P[], t0: P | undefined, t1: P | undefined, settings: FitSettings, enough = 0): Span[] {
  const n = points.length;
  if (n < 2) return [];
  if (n === 2) return [lineSpan(points[0] as P, points[1] as P)];
  const out: Span[] = [];
  const run = new Run(points, t1, settings, enough);
  let start = 0;
  let d0 = t0 ?? run.ahead(0, OVER * settings.window);
  while (start < n - 1) {
    const found = run.longest(start, d0, OVER * settings.window) ?? tight(run, start, d0, settings.window);
    const { end, span } = found ?? { end: start + 1, span: lineSpan(points[start] as P, points[start + 1] as P) };
    out.push(span);
    const m = span.length;
    const [dx, dy] = [(span[m - 2] as number) - (span[m - 4] as number), (span[m - 1] as number) - (span[m - 3] as number)];
    const length = Math.hypot(dx, dy) || 1;
    d0 = [dx / length, dy / length];
    start = end;
  }
  return out;
}

/** A stretch of a run that one curve follows, and that curve. */
interface Followed {
  readonly end: number;
  readonly span: Span;
}

/** The longest of the stretches that one curve follows when it may set out in another direction, or is told it from nearer by. */
function tight(run: Run, start: number, d0: P, window: number): Followed | undefined {
  const ways = [
    [run.ahead(start, OVER * window), OVER] as const,
    ...LESS.flatMap((over) => [[d0, over] as const, [run.ahead(start, over * window), over] as const]),
  ];
  return ways.reduce<Followed | undefined>((best, [from, over]) => {
    const next = run.longest(start, from, over * window);
    return next && (!best || next.end > best.end) ? next : best;
  }, undefined);
}

/** A run of points, to be followed from any of them by one curve as far as that goes. */
class Run {
  private readonly points: readonly P[];
  private readonly flat: readonly number[];
  private readonly last: P | undefined;
  private readonly settings: FitSettings;
  private readonly enough: number;

  constructor(points: readonly P[], last: P | undefined, settings: FitSettings, enough: number) {
    this.points = points;
    this.flat = points.flat();
    this.last = last;
    this.settings = settings;
    this.enough = enough;
  }

  ahead(i: number, reach: number): P {
    return direction(this.points.slice(i, Math.min(this.points.length, i + Math.max(3, Math.ceil(reach))))) ?? [1, 0];
  }

  private back(i: number, reach: number): P {
    return direction(this.points.slice(Math.max(0, i - Math.max(2, Math.ceil(reach) - 1)), i + 1)) ?? [1, 0];
  }

  private curve(start: number, end: number, d0: P, reach: number): Span | undefined {
    const own = this.curveTo(start, end, d0, reach);
    const isTold = end === this.points.length - 1 && this.last !== undefined;
    if (own || !this.settings.isRough || isTold || end - start < MANY) return own;
    return this.curveTo(start, end, d0, FARTHER * reach);
  }

  private curveTo(start: number, end: number, d0: P, reach: number): Span | undefined {
    const { points, settings } = this;
    const d1 = end === points.length - 1 ? (this.last ?? this.back(end, reach)) : directionAt(points, end, reach);
    const { span, error, rms } = fitG1(this.flat.slice(2 * start, 2 * end + 2), d0, d1, this.enough);
    const isNoise =
      settings.isRough === true && end - start >= MANY && error <= MOST_NOISE * settings.tol && rms <= NOISE_RMS * settings.tol;
    if ((error > settings.tol && !isNoise) || !isTame(span)) return undefined;
    return unhooked(span, points.slice(start, end + 1), HOOK_TOLS * settings.tol);
  }

  /** The longest stretch from a point that one curve follows: forward in growing steps, then the last step halved. */
  longest(start: number, d0: P, reach: number): Followed | undefined {
    const last = this.points.length - 1;
    const whole = this.curve(start, last, d0, reach);
    if (whole) return { end: last, span: whole };
    let best: Followed | undefined;
    let low = start + 1;
    let high: number;
    for (let step = 4; ; step *= 2) {
      const end = Math.min(last, low + step);
      const span = this.curve(start, end, d0, reach);
      if (!span) {
        high = end;
        break;
      }
      best = { end, span };
      low = end;
      if (end === last) return best;
    }
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      const span = this.curve(start, middle, d0, reach);
      if (span) [best, low] = [{ end: middle, span }, middle];
      else high = middle;
    }
    return best;
  }
}

/** A curve without its hook may stray by so many times the tolerance. */
const HOOK_TOLS = 1;

/** Handles that overtake one another along the chord make a hook; shortened they do not, where the points allow it. */
function unhooked(span: Span, points: readonly P[], most: number): Span {
  if (span.length === 4) return span;
  const [x0, y0, x1, y1, x2, y2, x3, y3] = span as unknown as [number, number, number, number, number, number, number, number];
  const along = (x: number, y: number): number => x * (x3 - x0) + y * (y3 - y0);
  const [both, all] = [along(x1 - x0, y1 - y0) + along(x3 - x2, y3 - y2), along(x3 - x0, y3 - y0)];
  if (both <= all || all < 1e-9) return span;
  const f = (0.8 * all) / both;
  const short: Span = [x0, y0, x0 + f * (x1 - x0), y0 + f * (y1 - y0), x3 + f * (x2 - x3), y3 + f * (y2 - y3), x3, y3];
  const off = ([x, y]: P): number => {
    let least = Infinity;
    for (let k = 0; k <= 12; k++) least = Math.min(least, Math.hypot(evaluate(short, k / 12, 0) - x, evaluate(short, k / 12, 1) - y));
    return least;
  };
  const spacing = Math.sqrt(all) / 24;
  return points.every((p) => off(p) <= most + spacing) ? short : span;
}

/** Cosine between a handle and the chord. */
const MOST_BACK = -0.35;

/** Handles that cross over or run far beyond the curve make loops. */
function isTame(span: Span): boolean {
  if (span.length === 4) return true;
  const [x0, y0, x1, y1, x2, y2, x3, y3] = span as unknown as [number, number, number, number, number, number, number, number];
  const chord = Math.hypot(x3 - x0, y3 - y0);
  const handles = Math.hypot(x1 - x0, y1 - y0) + Math.hypot(x3 - x2, y3 - y2);
  if (handles > 3 * chord + 1) return false;
  // nor does a curve begin or end by running back
  const along = (dx: number, dy: number): number => (dx * (x3 - x0) + dy * (y3 - y0)) / (Math.hypot(dx, dy) * chord || 1);
  if (Math.min(along(x1 - x0, y1 - y0), along(x3 - x2, y3 - y2)) < MOST_BACK) return false;
  let [before, turns] = [0, 0];
  for (let k = 0; k < 8; k++) {
    const [t, u] = [k / 8, (k + 1) / 8];
    const angle = Math.atan2(evaluate(span, u, 1) - evaluate(span, t, 1), evaluate(span, u, 0) - evaluate(span, t, 0));
    if (k > 0) turns += Math.abs(Math.atan2(Math.sin(angle - before), Math.cos(angle - before)));
    before = angle;
  }
  return turns < 1.35 * Math.PI;
}
