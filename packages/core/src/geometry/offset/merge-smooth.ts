/**
 * Fewer nodes after an offset: neighbouring curves that pass smoothly into one another become one curve where one
 * is enough within a tolerance, and, if wanted, a curve that is straight within it goes into the line beside it. Corners stay.
 * Method: from each place the longest curve that is near enough; where nodes are few only when joints may lie beside the
 * curves, the fewest of all ways over joints on them and on either side (shortest paths: R. Bellman, Dynamic Programming,
 * 1957; of ways with as many curves the one that has come farthest goes on).
 * Units mm. Cost: about runs × samples, with joints beside nine times as much. The distance is measured against the curves
 * that are replaced.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { chordSteps, evaluate, isLine, subSpan } from '../span.ts';
import { segmentDistance } from '../hit.ts';
import { directionAt, turnBetween } from './parallel-curve.ts';
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
/** Ends of curves are looked for to this share of a span. */
const FINEST = 1 / 24;
/**
 * Where curves may end that are merged: only where they met before, which is the quickest; anywhere on them; or beside them,
 * too, which needs the fewest.
 */
export type Joints = 'known' | 'anywhere' | 'beside';
/** Joints beside the curves lie off them by so much of the tolerance: what lies between two has the rest to the other side. */
const BESIDE_SHARE = 0.8;
/** Sides on which a joint may lie, the first being the curve itself. */
const SIDES = [0, -1, 1] as const;
type Side = (typeof SIDES)[number];
/** A fit this much better than the tolerance needs no further rounds. */
const ENOUGH = 0.9;

const isSmooth = (before: Span, after: Span): boolean =>
  !isLine(before) && !isLine(after) && Math.abs(turnBetween(directionAt(before, 1), directionAt(after, 0))) < SMOOTH;

/** A place on a stretch where curves meet, and on which side of it. */
interface Joint {
  readonly at: number;
  readonly side: Side;
}

/** Moves a point to the left of a direction. */
function shift(xy: number[], i: number, [dx, dy]: readonly [number, number], mm: number): void {
  xy[i] = (xy[i] as number) - mm * dy;
  xy[i + 1] = (xy[i + 1] as number) + mm * dx;
}

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

  /** One curve from joint to joint, and how far points between them are off it: the best there is when that is too far. */
  fit(from: Joint, to: Joint, tol: number): Fit {
    const [start, end] = [this.place(from.at, false), this.place(to.at, true)];
    const directions = [directionAt(start.span, start.t), directionAt(end.span, end.t)] as const;
    const fit = (samples: number): Fit => {
      const xy = this.points(from.at, to.at, () => samples);
      shift(xy, 0, directions[0], from.side * BESIDE_SHARE * tol);
      shift(xy, xy.length - 2, directions[1], to.side * BESIDE_SHARE * tol);
      return fitG1(xy, directions[0], directions[1], tol * ENOUGH);
    };
    const few = fit(FEW_SAMPLES);
    return few.error > tol ? few : fit(SAMPLES);
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

/** A curve and where it ends. */
interface Run {
  readonly span: Span;
  readonly to: number;
}

/** The end of a stretch, or a place before it; only farther on than another place, if there is one. */
interface Ends {
  readonly end: number;
  readonly beyond: number | undefined;
}

/** The longest single curve from a joint to one on the given side; undefined when there is none to another side, or none so long. */
function longestFrom(stretch: Stretch, from: Joint, side: Side, { end, beyond }: Ends, { tol, joints }: Merging): Run | undefined {
  const reach = Math.min(end, stretch.reachFrom(from.at));
  const found: Run[] = [];
  let low = from.at;
  const attempt = (to: number): boolean => {
    const { span, error } = stretch.fit(from, { at: to, side }, tol);
    if (error > tol) return false;
    found.push({ span, to });
    low = to;
    return true;
  };
  // what was there already keeps to itself
  const isOnCurve = from.side === 0 && side === 0;
  if (isOnCurve) {
    low = Math.min(reach, Math.floor(from.at) + 1);
    found.push({ span: stretch.part(from.at, low), to: low });
  }
  if (beyond !== undefined && low <= beyond && !attempt(Math.min(reach, beyond + FINEST))) return undefined;
  let high = Math.min(reach, low + 1);
  while (high > low && attempt(high)) high = Math.min(reach, joints === 'known' ? Math.floor(high) + 1 : high + 2 * (high - from.at));
  if (joints === 'known') high = low;
  while (high - low > FINEST) {
    const mid = (low + high) / 2;
    if (!attempt(mid)) high = mid;
  }
  return found.findLast(({ span, to }, i) => (isOnCurve && i === 0) || stretch.keeps(span, from.at, to, tol));
}

/** How far from the start curves have come, the last of them, and the way before it. */
interface Way {
  readonly at: number;
  readonly span?: Span;
  readonly before?: Way;
}

function spansOf(way: Way): Span[] {
  const spans: Span[] = [];
  for (let one: Way | undefined = way; one?.span; one = one.before) spans.push(one.span);
  return spans.reverse();
}

/** So near the end no joint lies that could not be the end, in spans. */
const BEFORE_END = 0.1;

/** The fewest curves for a stretch that begins and ends on it; undefined when they are no fewer than there are. */
function fewest(stretch: Stretch, merging: Merging): readonly Span[] | undefined {
  const end = stretch.spans.length;
  const sides = merging.joints === 'beside' ? SIDES : ([0] as const);
  let ways = new Map<Side, Way>([[0, { at: 0 }]]);
  for (let count = 1; count < end && ways.size > 0; count++) {
    const next = new Map<Side, Way>();
    for (const [from, before] of ways)
      for (const side of sides) {
        const ends = { end: side === 0 ? end : end - BEFORE_END, beyond: next.get(side)?.at };
        const run = longestFrom(stretch, { at: before.at, side: from }, side, ends, merging);
        if (run && run.to > (ends.beyond ?? before.at)) next.set(side, { at: run.to, span: run.span, before });
      }
    ways = next;
    const done = ways.get(0);
    if (done && done.at >= end) return spansOf(done);
  }
  return undefined;
}

/** How curves are merged. */
interface Merging {
  readonly tol: number;
  readonly joints: Joints;
  /** Curves that are straight within the tolerance go into the lines beside them. */
  readonly straight: boolean;
}

/** Spans between two corners again in as few as can be; as they were when that saves nothing. */
function mergeStretch(spans: readonly Span[], merging: Merging): readonly Span[] {
  if (spans.length < 2) return spans;
  const stretch = new Stretch(spans);
  return fewest(stretch, merging) ?? spans;
}

/** A span, and the points of all that went into it. */
interface Straightened {
  readonly span: Span;
  readonly through: readonly number[];
}

/** More points than these are not gone through again. */
const MOST_THROUGH = 400;
const isBareLine = ({ through }: Straightened): boolean => through.length === 4;

/** One line for two spans when both keep to it, unless both are lines as they were, or curves. */
function asOneLine(before: Straightened, after: Straightened, tol: number): Straightened | undefined {
  if (isBareLine(before) && isBareLine(after)) return undefined;
  if ((!isLine(before.span) && !isLine(after.span)) || before.through.length > MOST_THROUGH) return undefined;
  const [x0, y0] = before.span as readonly [number, number];
  const [x1, y1] = after.span.slice(-2) as [number, number];
  const through = [...before.through, ...after.through];
  for (let i = 0; i < through.length; i += 2)
    if (segmentDistance(through[i] as number, through[i + 1] as number, x0, y0, x1, y1) > tol) return undefined;
  return { span: [x0, y0, x1, y1], through };
}

/** Curves that are straight go into the lines beside them. */
function straightened(spans: readonly Span[], tol: number): Span[] {
  const out: Straightened[] = [];
  for (const span of spans) {
    const own = { span, through: span };
    const last = out.at(-1);
    const line = last && asOneLine(last, own, tol);
    if (line) out[out.length - 1] = line;
    else out.push(own);
  }
  // all the way round: what ends there may go into what begins there
  const [first, last] = [out[0], out.at(-1)];
  const line = out.length > 3 && first && last ? asOneLine(last, first, tol) : undefined;
  return line ? [line.span, ...out.slice(1, -1).map(({ span }) => span)] : out.map(({ span }) => span);
}

function mergeContour({ closed, spans }: Contour, merging: Merging): Contour {
  const own = merging.straight ? straightened(spans, merging.tol) : spans;
  const n = own.length;
  const spanAt = (i: number): Span => own[i % n] as Span;
  const corners = own.flatMap((span, i) => (isSmooth(spanAt(i + n - 1), span) ? [] : [i]));
  const starts = corners.length > 0 ? corners : [0];
  const merged = starts.flatMap((start, k) => {
    const end = starts[k + 1] ?? (starts[0] as number) + n;
    const stretch = Array.from({ length: end - start }, (_, i) => spanAt(start + i));
    return mergeStretch(stretch, merging);
  });
  return merged.length < 2 ? { closed, spans } : { closed, spans: merged };
}

/**
 * @param tol greatest distance from the curves replaced, mm
 * @param how the more freely curves may end, the fewer there are, and the longer it takes; anywhere, and lines stay as they are,
 *   when not given
 */
export const mergeSmooth = (
  outline: Outline,
  tol: number,
  { joints = 'anywhere', straight = false }: { readonly joints?: Joints; readonly straight?: boolean } = {},
): Outline => ({
  contours: outline.contours.map((contour) =>
    contour.closed && contour.spans.length > 2 ? mergeContour(contour, { tol, joints, straight }) : contour,
  ),
});
