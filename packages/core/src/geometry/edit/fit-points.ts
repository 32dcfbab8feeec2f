/**
 * Points to curves: a drawn or traced line as few smooth curves and lines within a tolerance, corners kept.
 * Method: corners where the direction over a short way turns by more than an angle; between corners greedily the
 * longest run that one curve fits (P. J. Schneider, An Algorithm for Automatically Fitting Digitized Curves, Graphics
 * Gems, 1990, with the fit of `fit-g1.ts`), straight where a line does. Directions at joints come from the points
 * on both sides, so that curves pass smoothly into one another. Units mm. Cost: about points × log(points).
 */
import type { Contour, Span } from '../../types/index.ts';
import { at } from '../span.ts';
import { segmentDistance } from '../hit.ts';
import { fitG1 } from '../offset/fit-g1.ts';

/** How closely the curve follows the points. */
export interface FitOptions {
  /** Greatest distance of a point from the result, mm. */
  readonly tolMm: number;
  /** Turns sharper than this stay corners, degrees. */
  readonly cornerDeg: number;
  readonly closed: boolean;
}

type Direction = readonly [number, number];

interface Points {
  readonly xy: readonly number[];
  readonly n: number;
}

const dist = (p: Points, i: number, j: number): number =>
  Math.hypot(at(p.xy, 2 * j) - at(p.xy, 2 * i), at(p.xy, 2 * j + 1) - at(p.xy, 2 * i + 1));

/** The first and last point of a stretch, by number. */
type Run = readonly [from: number, to: number];

/** Direction from a point a little way on (sign 1) or back (-1), within a run. */
function directionFrom(p: Points, i: number, sign: 1 | -1, reach: number, [low, high]: Run): Direction {
  let j = i;
  while (j + sign >= low && j + sign <= high && dist(p, i, j) < reach) j += sign;
  const [dx, dy] = [at(p.xy, 2 * j) - at(p.xy, 2 * i), at(p.xy, 2 * j + 1) - at(p.xy, 2 * i + 1)];
  const length = Math.hypot(dx, dy) || 1;
  return [dx / length, dy / length];
}

function straightEnough(p: Points, from: number, to: number, tol: number): boolean {
  for (let i = from + 1; i < to; i++)
    if (
      segmentDistance(
        at(p.xy, 2 * i),
        at(p.xy, 2 * i + 1),
        at(p.xy, 2 * from),
        at(p.xy, 2 * from + 1),
        at(p.xy, 2 * to),
        at(p.xy, 2 * to + 1),
      ) > tol
    )
      return false;
  return true;
}

/** One span for a run of points, with given directions at its ends (both forward); undefined when none is near enough. */
function fitRun(p: Points, [from, to]: Run, t0: Direction, t1: Direction, tol: number): Span | undefined {
  const ends = [at(p.xy, 2 * from), at(p.xy, 2 * from + 1), at(p.xy, 2 * to), at(p.xy, 2 * to + 1)];
  if (to === from + 1 || straightEnough(p, from, to, tol * 0.5)) return ends;
  if (t0[0] * t1[0] + t0[1] * t1[1] < -0.5) return undefined;
  const fit = fitG1(p.xy.slice(2 * from, 2 * to + 2), t0, t1);
  return fit.error <= tol ? fit.span : undefined;
}

/** Corners among the points of a line; the ends of an open one always. */
function cornersOf(p: Points, reach: number, cornerDeg: number, closed: boolean): number[] {
  const limit = Math.cos((cornerDeg * Math.PI) / 180);
  const sharp: { i: number; cos: number }[] = [];
  for (let i = 1; i < p.n - 1; i++) {
    const [ax, ay] = directionFrom(p, i, -1, reach, [0, p.n - 1]);
    const [bx, by] = directionFrom(p, i, 1, reach, [0, p.n - 1]);
    const cos = -(ax * bx + ay * by);
    if (cos < limit) sharp.push({ i, cos });
  }
  sharp.sort((a, b) => a.cos - b.cos);
  const chosen: number[] = [];
  for (const { i } of sharp) if (chosen.every((c) => Math.abs(c - i) > 1 && dist(p, c, i) > reach)) chosen.push(i);
  chosen.sort((a, b) => a - b);
  return closed ? chosen : [0, ...chosen, p.n - 1];
}

/** Fits the stretch between two corners. */
function fitStretch(p: Points, from: number, to: number, reach: number, tol: number): Span[] {
  const out: Span[] = [];
  let start = from;
  let t0 = directionFrom(p, from, 1, reach, [from, to]);
  while (start < to) {
    let [best, bestTo] = [undefined as Span | undefined, start + 1];
    const tryTo = (end: number): Span | undefined => {
      const [bx, by] = directionFrom(p, end, -1, reach, [from, to]);
      if (end === to) return fitRun(p, [start, end], t0, [-bx, -by], tol);
      const [fx, fy] = directionFrom(p, end, 1, reach, [from, to]);
      const length = Math.hypot(fx - bx, fy - by) || 1;
      return fitRun(p, [start, end], t0, [(fx - bx) / length, (fy - by) / length], tol);
    };
    let step = 4;
    let high = start + 1;
    for (;;) {
      const end = Math.min(to, high + step);
      const span = tryTo(end);
      if (!span) {
        let [low, top] = [bestTo, end];
        while (top - low > 1) {
          const mid = (low + top) >> 1;
          const half = tryTo(mid);
          if (half) [best, bestTo, low] = [half, mid, mid];
          else top = mid;
        }
        break;
      }
      [best, bestTo, high] = [span, end, end];
      step *= 2;
      if (end === to) break;
    }
    const span = best ??
      tryTo(start + 1) ?? [at(p.xy, 2 * start), at(p.xy, 2 * start + 1), at(p.xy, 2 * start + 2), at(p.xy, 2 * start + 3)];
    out.push(span);
    start = bestTo;
    const n = span.length;
    const [dx, dy] = [at(span, n - 2) - at(span, n - 4), at(span, n - 1) - at(span, n - 3)];
    const length = Math.hypot(dx, dy) || 1;
    t0 = [dx / length, dy / length];
  }
  return out;
}

/** Points nearer together than this are one, mm. */
const SAME = 1e-6;

/**
 * @param points [x0,y0,…], mm; a closed line does not repeat its first point
 * @returns a contour through the first point (and the last of an open one); no spans for fewer than two points
 */
export function fitPoints(points: ArrayLike<number>, { tolMm, cornerDeg, closed }: FitOptions): Contour {
  const xy: number[] = [];
  for (let i = 0; i < points.length; i += 2) {
    const [x, y] = [at(points, i), at(points, i + 1)];
    if (xy.length === 0 || Math.hypot(x - at(xy, xy.length - 2), y - at(xy, xy.length - 1)) > SAME) xy.push(x, y);
  }
  if (xy.length < 4) return { closed: false, spans: [] };
  const reach = Math.max(3 * tolMm, 1e-3);
  if (!closed) {
    const p = { xy, n: xy.length / 2 };
    const corners = cornersOf(p, reach, cornerDeg, false);
    return { closed: false, spans: corners.slice(1).flatMap((to, i) => fitStretch(p, at(corners, i), to, reach, tolMm)) };
  }
  // a closed line is begun at its sharpest corner, else where it stands
  const around = { xy: [...xy, ...xy, at(xy, 0), at(xy, 1)], n: xy.length + 1 };
  const [first = 0] = cornersOf(around, reach, cornerDeg, true);
  const turned = [...xy.slice(2 * (first % (xy.length / 2))), ...xy.slice(0, 2 * (first % (xy.length / 2)))];
  const p = { xy: [...turned, at(turned, 0), at(turned, 1)], n: xy.length / 2 + 1 };
  const inner = cornersOf(p, reach, cornerDeg, true);
  const corners = [0, ...inner.filter((i) => i > 0 && i < p.n - 1), p.n - 1];
  return { closed: true, spans: corners.slice(1).flatMap((to, i) => fitStretch(p, at(corners, i), to, reach, tolMm)) };
}
