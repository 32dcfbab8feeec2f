/**
 * Thin out: the same outline in fewer nodes, never farther from it than a tolerance. Corners sharper than an angle
 * stay where they are; straight runs become lines, the rest as few curves as one fit after another can do with.
 * Method: between corners greedily the longest run of spans that one line or curve replaces; the distance is
 * measured at dense samples of the old line to the new one and of the new one to the old. Units mm.
 * Cost: about spans × log(longest run) fits. Open contours keep their ends.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { InputError } from '../../errors/index.ts';
import { contourLength, nodeCount } from '../outline.ts';
import { at, chordSteps, endTangent, endX, endY, evaluate, spanLength, startX, startY } from '../span.ts';
import { segmentDistance } from '../hit.ts';
import { fitG1 } from '../offset/fit-g1.ts';

/** The outline with fewer nodes, and how far it is off at most, mm. */
export interface ThinnedOut {
  readonly outline: Outline;
  /** Greatest distance between old and new, mm. */
  readonly deviation: number;
  readonly nodesBefore: number;
  readonly nodesAfter: number;
}

interface Run {
  span: Span;
  deviation: number;
}

const MOST_SAMPLES = 16;

/** Samples of a run of spans [x0,y0,…], its ends included. */
function sample(run: readonly Span[], tol: number): number[] {
  const xy: number[] = [];
  for (const span of run) {
    const n = span.length === 4 ? 2 : Math.min(MOST_SAMPLES, Math.max(4, chordSteps(span, tol / 4)));
    for (let k = 0; k < n; k++) xy.push(evaluate(span, k / n, 0), evaluate(span, k / n, 1));
  }
  const last = run.at(-1) as Span;
  xy.push(endX(last), endY(last));
  return xy;
}

/** Greatest distance of points from a polyline [x0,y0,…] that runs along with them. */
function farthest(points: readonly number[], line: readonly number[], limit: number): number {
  let most = 0;
  let near = 0;
  const segments = line.length / 2 - 1;
  for (let i = 0; i < points.length; i += 2) {
    let best = Infinity;
    const from = Math.max(0, near - 3);
    for (let s = from; s < segments; s++) {
      const d = segmentDistance(
        at(points, i),
        at(points, i + 1),
        at(line, 2 * s),
        at(line, 2 * s + 1),
        at(line, 2 * s + 2),
        at(line, 2 * s + 3),
      );
      if (d < best) [best, near] = [d, s];
      else if (s > near + 12 && best <= limit) break;
    }
    most = Math.max(most, best);
    if (most > limit) return most;
  }
  return most;
}

const SPAN_SAMPLES = 24;

function polylineOf(span: Span): number[] {
  const n = span.length === 4 ? 1 : SPAN_SAMPLES;
  return Array.from({ length: n + 1 }, (_, k) => [evaluate(span, k / n, 0), evaluate(span, k / n, 1)]).flat();
}

type Direction = readonly [number, number];

/** One line or curve for a run with directions at its ends, if one is near enough. */
function replace(run: readonly Span[], t0: Direction, t1: Direction, tol: number): Run | undefined {
  const [first, last] = [run[0] as Span, run.at(-1) as Span];
  const xy = sample(run, tol);
  const line: Span = [startX(first), startY(first), endX(last), endY(last)];
  const off = farthest(xy, line, tol);
  if (off <= tol && Math.hypot(at(line, 2) - at(line, 0), at(line, 3) - at(line, 1)) > tol && isForward(xy, line))
    return { span: line, deviation: off };
  const fit = fitG1(xy, t0, t1);
  if (!(fit.error <= tol)) return undefined;
  const poly = polylineOf(fit.span);
  const deviation = Math.max(farthest(xy, poly, tol), farthest(poly, xy, tol));
  return deviation <= tol ? { span: fit.span, deviation } : undefined;
}

/** Do the points run along a line without turning back by more than they may stray from it? */
function isForward(xy: readonly number[], line: Span): boolean {
  const [dx, dy] = [at(line, 2) - at(line, 0), at(line, 3) - at(line, 1)];
  const length = Math.hypot(dx, dy);
  let far = -Infinity;
  for (let i = 0; i < xy.length; i += 2) {
    const along = (at(xy, i) * dx + at(xy, i + 1) * dy) / length;
    if (along < far - 0.1) return false;
    far = Math.max(far, along);
  }
  return true;
}

/** How far to both sides directions are told, as a multiple of the tolerance: what is smaller is roughness. */
const REACH = 4;
const EXACT_COS = Math.cos((4 * Math.PI) / 180);

/** Directions at the nodes of a contour, told over a way that the tolerance cannot turn. */
class Directions {
  private readonly contour: Contour;
  private readonly lengths: readonly number[];
  private readonly reach: number;

  constructor(contour: Contour, tol: number) {
    this.contour = contour;
    this.lengths = contour.spans.map((span) => spanLength(span));
    this.reach = REACH * tol;
  }

  /** The place that lies a way on (sign 1) or back (-1) from a node. */
  private away(node: number, sign: 1 | -1): readonly [number, number] {
    const { spans, closed } = this.contour;
    const n = spans.length;
    let rest = this.reach;
    let k = sign === 1 ? node : node - 1;
    for (let steps = 0; steps < n; steps++, k += sign) {
      if (!closed && (k < 0 || k >= n)) break;
      const i = ((k % n) + n) % n;
      const span = spans[i] as Span;
      const length = at(this.lengths, i);
      if (length >= rest) {
        const t = sign === 1 ? rest / length : 1 - rest / length;
        return [evaluate(span, t, 0), evaluate(span, t, 1)];
      }
      rest -= length;
    }
    const end = spans[closed ? ((node % n) + n) % n : sign === 1 ? n - 1 : 0] as Span;
    return closed || sign === -1 ? [startX(end), startY(end)] : [endX(end), endY(end)];
  }

  private place(node: number): readonly [number, number] {
    const { spans } = this.contour;
    const n = spans.length;
    if (node < n || this.contour.closed) {
      const span = spans[node % n] as Span;
      return [startX(span), startY(span)];
    }
    const last = spans[n - 1] as Span;
    return [endX(last), endY(last)];
  }

  /** Direction from a node on, or (sign -1) that in which the line comes to it. */
  side(node: number, sign: 1 | -1): Direction {
    const { spans } = this.contour;
    const n = spans.length;
    const own = (((sign === 1 ? node : node - 1) % n) + n) % n;
    if (at(this.lengths, own) >= this.reach) return endTangent(spans[own] as Span, sign === 1 ? 0 : 1);
    const [x, y] = this.place(node);
    const [ax, ay] = this.away(node, sign);
    const length = Math.hypot(ax - x, ay - y);
    return length > 0 ? [(sign * (ax - x)) / length, (sign * (ay - y)) / length] : endTangent(spans[own] as Span, sign === 1 ? 0 : 1);
  }

  /** One direction through a node that is no corner. */
  through(node: number): Direction {
    const [a, b] = [this.side(node, -1), this.side(node, 1)];
    const cos = a[0] * b[0] + a[1] * b[1];
    if (cos > EXACT_COS) {
      const length = Math.hypot(a[0] + b[0], a[1] + b[1]);
      return [(a[0] + b[0]) / length, (a[1] + b[1]) / length];
    }
    const [p, q] = [this.away(node, -1), this.away(node, 1)];
    const length = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    return [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
  }

  /** Does the line turn at a node by more than an angle, seen close and from a little off? */
  isCorner(node: number, limit: number): boolean {
    const { spans } = this.contour;
    const n = spans.length;
    const turn = (a: Direction, b: Direction): number => Math.abs(Math.atan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1]));
    const close = turn(endTangent(spans[(node - 1 + n) % n] as Span, 1), endTangent(spans[node % n] as Span, 0));
    return close > limit && turn(this.side(node, -1), this.side(node, 1)) > limit;
  }
}

/** The spans between two corners in as few as can be. `direction` tells how the line runs at a node of the stretch. */
function thinStretch(spans: readonly Span[], direction: (node: number, sign: 1 | -1) => Direction, tol: number): Run[] {
  const out: Run[] = [];
  const tried = (from: number, count: number): Run | undefined =>
    replace(spans.slice(from, from + count), direction(from, 1), direction(from + count, -1), tol);
  let i = 0;
  while (i < spans.length) {
    let best: Run = { span: spans[i] as Span, deviation: 0 };
    let used = 1;
    let [reach, failed] = [2, spans.length - i + 1];
    while (reach < failed && i + reach <= spans.length) {
      const run = tried(i, reach);
      if (run) {
        [best, used] = [run, reach];
        reach = Math.min(reach * 2, spans.length - i);
        if (reach === used) break;
      } else {
        failed = reach;
        reach = (used + failed) >> 1;
        if (reach <= used) break;
      }
    }
    while (failed - used > 1 && failed <= spans.length - i) {
      const mid = (used + failed) >> 1;
      const run = tried(i, mid);
      if (run) [best, used] = [run, mid];
      else failed = mid;
    }
    if (used === 1 && best.span.length === 8) best = tried(i, 1) ?? best;
    out.push(best);
    i += used;
  }
  return out;
}

function thinContour(contour: Contour, tol: number, cornerRad: number): { contour: Contour; deviation: number } {
  const n = contour.spans.length;
  const spanAt = (i: number): Span => contour.spans[(i + n) % n] as Span;
  const corners: number[] = [];
  const directions = new Directions(contour, tol);
  for (let i = contour.closed ? 0 : 1; i < n; i++) if (directions.isCorner(i, cornerRad)) corners.push(i);
  const starts = contour.closed ? (corners.length > 0 ? corners : [0]) : [0, ...corners];
  const runs = starts.flatMap((start, k) => {
    const end = contour.closed ? (starts[k + 1] ?? (starts[0] as number) + n) : (starts[k + 1] ?? n);
    return thinStretch(
      Array.from({ length: end - start }, (_, i) => spanAt(start + i)),
      // at its ends the stretch has its own direction, unless it closes smoothly on itself
      (node, sign) =>
        (node > 0 && node < end - start) || (contour.closed && corners.length === 0)
          ? directions.through(start + node)
          : directions.side(start + node, sign),
      tol,
    );
  });
  if (contour.closed && runs.length < 2) return { contour, deviation: 0 };
  return {
    contour: { closed: contour.closed, spans: runs.map((run) => run.span) },
    deviation: Math.max(0, ...runs.map((run) => run.deviation)),
  };
}

/** The part of the tolerance the fit may use; the rest covers what lies between samples. */
const USED = 0.94;

/**
 * @param tolMm greatest distance from the original, mm
 * @param opts.cornerDeg turns sharper than this stay corners; 12 when not given
 * @throws InputError `input.tolerance`
 */
export function thinOut(o: Outline, tolMm: number, opts: { cornerDeg?: number } = {}): ThinnedOut {
  if (!(tolMm > 0 && tolMm <= 1000)) throw new InputError('tolerance', `The tolerance must lie above 0 and up to 1000 mm, not ${tolMm}.`);
  const cornerRad = ((opts.cornerDeg ?? 12) * Math.PI) / 180;
  let deviation = 0;
  const contours = o.contours.map((contour) => {
    if (contour.spans.length < 2 || contourLength(contour) < 2 * tolMm) return contour;
    const thin = thinContour(contour, tolMm * USED, cornerRad);
    deviation = Math.max(deviation, thin.deviation);
    return thin.contour;
  });
  const outline = { contours };
  return { outline, deviation, nodesBefore: nodeCount(o), nodesAfter: nodeCount(outline) };
}
