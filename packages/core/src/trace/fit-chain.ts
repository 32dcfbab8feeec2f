/**
 * Chains of edge points to few lines and curves.
 *
 * Method: at each point a straight line is fitted to the points a little way on and another to those a little way back.
 * Where they meet at an angle close by the points, a corner stands at their meeting, which undoes the rounding of
 * antialiasing. Between corners long runs that are straight within the noise (by the sagitta of a parabola through
 * them) become lines; the rest as few curves as keep within a tolerance, smooth at their joints (P. J. Schneider, An
 * Algorithm for Automatically Fitting Digitized Curves, 1990). Lines on both sides of a corner are prolonged to meet.
 * Units pixels.
 */
import type { Span } from '../types/index.ts';
import { cutIntoPieces, withoutChords, withShallowCorners, type Piece, type Straightness } from './straight-runs.ts';
import { directionAt, fitCurves, lineSpan } from './fit-curves.ts';
import type { Judge } from './evidence.ts';
import { findCorners, Path, type FitSettings, type Mark } from './corners.ts';
import { loopIn, thinned } from './loops.ts';
import { flattened, weighCorners, type Trials } from './weigh-corners.ts';
import { circleThrough, fitLine, foot, meeting, off, sagitta, type LineFit, type P } from './line-fit.ts';

export type { FitSettings } from './corners.ts';

/** A stretch between two corners or junctions: its ends, and the points between that are not rounded off. */
interface Stretch {
  from: P;
  to: P;
  readonly inner: readonly P[];
  /** The ends as they were found, before they were moved to where lines meet. */
  readonly rawFrom: P;
  readonly rawTo: P;
  /** Its end stays where it is. */
  readonly isFixed: boolean;
}

interface Fitted {
  readonly first: LineFit | undefined;
  readonly last: LineFit | undefined;
  readonly pieces: readonly Piece[];
}

/** Points stray by more where edges were steps; over many of them a bow shows all the same. */
function straightnessOf({ tol, steps }: FitSettings): Straightness {
  const within = Math.min(0.32, tol * 1.3);
  return { off: Math.max(1.15 * within, STEP_OFF * steps), rms: Math.max(0.5 * within, STEP_RMS * steps), bow: 0.6 * within };
}

const STEP_OFF = 0.8;
const STEP_RMS = 0.4;

function piecesOf(stretch: Stretch, settings: FitSettings): Fitted {
  const { inner, from, to } = stretch;
  const whole = [from, ...inner, to];
  const straight = straightnessOf(settings);
  if (inner.length < 3) {
    const line = fitLine([from, to]);
    return { first: undefined, last: undefined, pieces: [{ line, points: whole }] };
  }
  const own = fitLine(inner);
  // a single straight edge, its rounded ends aside
  if (own && inner.every((p) => off(own, p) <= straight.off * 0.87) && sagitta(inner, own) < straight.bow * 1.25)
    return { first: own, last: own, pieces: [{ line: own, points: inner }] };
  const pieces = withShallowCorners(withoutChords(cutIntoPieces(inner, straight), settings.smoothPx), straight);
  const [a, z] = [pieces[0], pieces.at(-1)];
  return { first: a?.line, last: z?.line, pieces };
}

/** Ends of a stretch farther than this from its line are not on it, pixels. */
const OFF_LINE = 0.5;

/** Spans of a stretch between ends that are settled. */
function spansOf({ from, to }: Stretch, { pieces }: Fitted, settings: FitSettings, enough = 0): Span[] {
  const out: Span[] = [];
  let at = from;
  const lineTo = (end: P): void => {
    out.push(lineSpan(at, end));
    at = end;
  };
  pieces.forEach((piece, k) => {
    const isLast = k === pieces.length - 1;
    if (piece.line) {
      const [first, last] = [piece.points[0] as P, piece.points.at(-1) as P];
      // ends that do not lie on the line are not drawn to slantwise along all of it
      if (k === 0 && off(piece.line, at) > OFF_LINE) lineTo(foot(piece.line, first));
      if (!isLast || off(piece.line, to) > OFF_LINE) lineTo(foot(piece.line, last));
      if (isLast) lineTo(to);
      return;
    }
    const [before, after] = [pieces[k - 1]?.line, pieces[k + 1]?.line];
    const end = isLast ? to : after ? foot(after, piece.points.at(-1) as P) : (piece.points.at(-1) as P);
    const inner = k === 0 ? piece.points : piece.points.slice(1);
    const points = [at, ...(isLast ? inner : inner.slice(0, -1)), end];
    out.push(...fitCurves(points, before && [before.dx, before.dy], after && [after.dx, after.dy], settings, enough));
    at = end;
  });
  return out;
}

/** Points moved half-way to the middle of their neighbours, so often. */
function calmed(xy: readonly number[], closed: boolean, times: number): readonly number[] {
  let now = xy;
  const n = xy.length / 2;
  if (n < 8) return xy;
  for (let k = 0; k < times; k++) {
    const before = now;
    now = before.map((v, i) => {
      const p = i >> 1;
      if (!closed && (p === 0 || p === n - 1)) return v;
      const c = i & 1;
      return 0.5 * v + 0.25 * ((before[2 * ((p + n - 1) % n) + c] as number) + (before[2 * ((p + 1) % n) + c] as number));
    });
  }
  return now;
}

/** A stretch of so many times the points of one that it crosses is left as it is at first. */
const MUCH_LONGER = 4;
/** How closely a stretch is followed when nothing else helps; before that with its lines, without them, by few points. */
const POINTWISE = 6;
/** How closely by few points, shares of the tolerance: the sides of a hairline lie nearer to one another than that. */
const THINNED = [1, 0.3, 0.1];

/** Spans of each stretch; those that loop are followed more closely, at last point by point. */
function withoutLoops(stretches: readonly Stretch[], fitted: readonly Fitted[], settings: FitSettings): Span[] {
  const rough = stretches.map(() => 0);
  const lists = stretches.map((stretch, k) => spansOf(stretch, fitted[k] as Fitted, settings));
  const redo = (k: number): void => {
    const stretch = stretches[k] as Stretch;
    const closely = { ...settings, tol: settings.tol * 0.4 };
    if (rough[k] === 1) {
      lists[k] = spansOf(stretch, fitted[k] as Fitted, closely);
      return;
    }
    if (rough[k] === 2) {
      const points = [stretch.from, ...stretch.inner, stretch.to];
      lists[k] = fitCurves(points, undefined, undefined, closely);
      return;
    }
    // the points themselves never loop; ends that were moved to a corner go back to where they were found
    const all = [stretch.rawFrom, ...stretch.inner, stretch.rawTo];
    const closeness = THINNED[(rough[k] as number) - 3];
    const whole = closeness === undefined ? all : thinned(all, settings.tol * closeness);
    lists[k] = whole.slice(1).map((p, i) => lineSpan(whole[i] as P, p));
    const [before, after] = [(k - 1 + lists.length) % lists.length, (k + 1) % lists.length];
    moveEnd(lists[before] as Span[], stretch.from, stretch.rawFrom, true);
    moveEnd(lists[after] as Span[], stretch.to, stretch.rawTo, false);
  };
  for (let round = 0; round < 8 * stretches.length + 8; round++) {
    const loop = loopIn(lists.flat());
    if (!loop) break;
    let sum = 0;
    const found = new Set<number>();
    lists.forEach((list, k) => {
      for (const index of loop) if (index >= sum && index < sum + list.length) found.add(k);
      sum += list.length;
    });
    if ([...found].every((k) => rough[k] === POINTWISE)) break;
    const points = (k: number): number => (stretches[k] as Stretch).inner.length;
    const fewest = Math.min(...[...found].filter((k) => rough[k] !== POINTWISE).map(points));
    for (const k of found) {
      // the short one first
      if (rough[k] === POINTWISE || points(k) > MUCH_LONGER * (fewest + 4)) continue;
      rough[k] = (rough[k] as number) + 1;
      redo(k);
    }
  }
  return lists.flat();
}

/** Moves the end of a list of spans that lies at a place to another. */
function moveEnd(list: Span[], from: P, to: P, atEnd: boolean): void {
  const index = atEnd ? list.length - 1 : 0;
  const span = list[index];
  if (!span) return;
  const i = atEnd ? span.length - 2 : 0;
  if (Math.hypot((span[i] as number) - from[0], (span[i + 1] as number) - from[1]) > 1e-9) return;
  const out = [...span];
  out[i] = to[0];
  out[i + 1] = to[1];
  list[index] = out;
}

/** Stretches between marks, from each to the next. */
function stretchesOf(path: Path, marks: readonly Mark[], { rounded, joint = rounded }: FitSettings): Stretch[] {
  return marks.slice(1).map((b, k) => {
    const a = marks[k] as Mark;
    const [wa, wb] = [path.wayTo(a.index), path.wayTo(b.index)];
    const trimOf = ({ isPlain, isJoint }: Mark): number => (isPlain ? -1 : Math.min(isJoint ? joint : rounded, (wb - wa) / 4));
    const [after, before] = [wa + trimOf(a), wb - trimOf(b)];
    const inner: P[] = [];
    for (let i = a.index; i <= b.index; i++) {
      const w = path.wayTo(i);
      if (w > after && w < before) inner.push(path.at(i));
    }
    return {
      from: a.apex,
      to: b.apex,
      inner,
      rawFrom: a.raw ?? path.at(a.index),
      rawTo: b.raw ?? path.at(b.index),
      isFixed: b.isFixed ?? false,
    };
  });
}

/** Spans along a path from its first mark to its last; with the first again at the end, n points on, round it. */
function fitMarked(path: Path, marks: readonly Mark[], closed: boolean, settings: FitSettings): Span[] {
  const stretches = stretchesOf(path, marks, settings);
  const fitted = stretches.map((stretch) => piecesOf(stretch, settings));
  settleCorners(stretches, fitted, closed);
  return withoutLoops(stretches, fitted, settings);
}

/** Rough dots are circles when no point is farther off one than the tolerance, so many times, before corners are looked for. */
const ROUGH_CIRCLE = 1.6;

/** How far beside a corner blur rounds points off. */
const BLURRED_PX = 2.2;
/** And antialiasing. */
const ROUNDED_PX = 1.6;

/** The points themselves, cut off to the corners beside these. */
function byPoints(path: Path, marks: readonly Mark[], trim: number): P[] {
  const out: P[] = [];
  marks.forEach((a, k) => {
    out.push(a.apex);
    const b = marks[k + 1];
    if (!b) return;
    for (let i = a.index + 1; i < b.index; i++) {
      const w = path.wayTo(i);
      if ((a.isPlain || w - path.wayTo(a.index) > trim) && (b.isPlain || path.wayTo(b.index) - w > trim)) out.push(path.at(i));
    }
  });
  return out;
}

/** Trials of marks: by points, quick; and as they will be fitted. By noise the curves of rough pictures differ all along, so points stand for them. */
function trialsOf(path: Path, settings: FitSettings): Trials {
  const isRough = settings.calm > 0;
  const quick = (marks: readonly Mark[]): P[] => byPoints(path, marks, isRough ? BLURRED_PX : ROUNDED_PX);
  return { quick, whole: isRough ? quick : (marks) => tryMarked(path, marks, settings) };
}

/** As marks will be fitted; undefined when the spans loop. */
function tryMarked(path: Path, marks: readonly Mark[], settings: FitSettings): P[] | undefined {
  const stretches = stretchesOf(path, marks, settings);
  const fitted = stretches.map((stretch) => piecesOf(stretch, settings));
  settleCorners(stretches, fitted, false);
  const spans = stretches.flatMap((stretch, k) => spansOf(stretch, fitted[k] as Fitted, settings, settings.tol));
  return loopIn(spans) ? undefined : flattened(spans);
}

/** A chain as it is fitted. */
export interface ChainToFit {
  readonly xy: readonly number[];
  readonly closed: boolean;
  /** Places of the junctions at the ends of an open one. */
  readonly from?: P | undefined;
  readonly to?: P | undefined;
}

/** @returns spans that share their ends and do not loop; for a closed chain the last ends where the first begins */
export function fitChain({ xy, closed, from, to }: ChainToFit, settings: FitSettings, judge?: Judge): Span[] {
  const path = new Path(calmed(xy, closed, settings.calm), closed, xy);
  const n = path.points.length;
  if (n === 0) return from && to ? [lineSpan(from, to)] : [];
  if (closed && (n < 4 || path.length < 3)) return ring(path.points);
  if (closed) return fitRing(path, settings, judge);
  const corners = cornersOf(path, settings, judge);
  const ends = [from ?? path.at(0), to ?? path.at(n - 1)] as const;
  return fitMarked(
    path,
    [
      { index: 0, apex: ends[0], raw: ends[0], isJoint: from !== undefined },
      ...corners,
      { index: n - 1, apex: ends[1], raw: ends[1], isJoint: to !== undefined },
    ],
    false,
    settings,
  );
}

function cornersOf(path: Path, settings: FitSettings, judge: Judge | undefined): readonly Mark[] {
  const found = findCorners(path, settings);
  return judge ? weighCorners(path, found, judge, trialsOf(path, settings)) : found;
}

/** A closed chain: a dot of a rough picture, a ring without corners, or from its first corner round to it. */
function fitRing(path: Path, settings: FitSettings, judge: Judge | undefined): Span[] {
  const dot = settings.calm > 0 ? asCircle(path, ROUGH_CIRCLE * settings.tol) : undefined;
  if (dot) return dot;
  const corners = cornersOf(path, settings, judge);
  const [first] = corners;
  if (!first) return unloopedRing(path, settings);
  return fitMarked(path, [...corners, { ...first, index: first.index + path.points.length }], true, settings);
}

/** Corners move to where the lines beside them meet, or onto the one line beside them. */
function settleCorners(stretches: Stretch[], fitted: readonly Fitted[], closed: boolean): void {
  const n = stretches.length;
  for (let k = closed ? 0 : 1; k < n; k++) {
    const before = (k - 1 + n) % n;
    const [p, q] = [fitted[before]?.last, fitted[k]?.first];
    const stretch = stretches[k] as Stretch;
    const old = stretch.from;
    const place = p && q ? meeting(p, q) : p ? foot(p, old) : q ? foot(q, old) : undefined;
    if ((stretches[before] as Stretch).isFixed) continue;
    if (!place || Math.hypot(place[0] - old[0], place[1] - old[1]) > 1.6) continue;
    stretch.from = place;
    (stretches[before] as Stretch).to = place;
  }
}

/** A closed chain without corners that does not loop: followed more and more closely, at last point by point. */
function unloopedRing(path: Path, settings: FitSettings): Span[] {
  for (const closeness of CLOSER) {
    const smooth = smoothRing(path, { ...settings, tol: settings.tol * closeness });
    if (!loopIn(smooth)) return smooth;
  }
  const [first] = path.points as [P];
  for (const closeness of THINNED) {
    const few = ring(thinned([...path.points, first], settings.tol * closeness).slice(0, -1));
    if (few.length > 2 && !loopIn(few)) return few;
  }
  return ring(path.points);
}

const CLOSER = [1, 0.4, 0.15];

const ring = (points: readonly P[]): Span[] => points.map((p, i) => lineSpan(p, points[(i + 1) % points.length] as P));

/** A closed chain without corners. */
function smoothRing(path: Path, settings: FitSettings): Span[] {
  const n = path.points.length;
  const circle = asCircle(path, settings.tol);
  if (circle) return circle;
  // begun on a straight run, or anywhere when there is none
  const twice = [...path.points, ...path.points, path.points[0] as P];
  const pieces = withoutChords(cutIntoPieces(twice.slice(0, n + 1), straightnessOf(settings)), settings.smoothPx);
  const straight = pieces.find((piece) => piece.line && piece.points.length < n);
  const start = straight ? path.points.indexOf(straight.points[Math.floor(straight.points.length / 2)] as P) : 0;
  const turned = twice.slice(Math.max(0, start), Math.max(0, start) + n + 1);
  const own = withoutChords(cutIntoPieces(turned, straightnessOf(settings)), settings.smoothPx);
  const seam = directionAt(twice, Math.max(0, start) + n, settings.window);
  const first = own[0];
  const last = own.at(-1);
  if (first?.line && last?.line && own.length > 1) {
    // the seam lies within one straight edge: both halves are that edge
    const line = fitLine([...last.points, ...first.points.slice(1)]) ?? first.line;
    const place = foot(line, turned[0] as P);
    const fitted: Fitted = {
      first: line,
      last: line,
      pieces: [{ line, points: first.points }, ...own.slice(1, -1), { line, points: last.points }],
    };
    const spans = spansOf({ from: place, to: place, inner: [], rawFrom: place, rawTo: place, isFixed: true }, fitted, settings);
    const [a, z] = [spans[0] as Span, spans.at(-1) as Span];
    return [lineSpan([z[0] as number, z[1] as number], [a[2] as number, a[3] as number]), ...spans.slice(1, -1)];
  }
  return fitCurves(turned, seam, seam, settings);
}

/** Four quarter curves when the points lie on one circle. */
function asCircle(path: Path, tol: number): Span[] | undefined {
  const pts = path.points;
  const n = pts.length;
  const circle = circleThrough(pts);
  if (!circle) return undefined;
  const { x: cx, y: cy, r } = circle;
  if (pts.some(([x, y]) => Math.abs(Math.hypot(x - cx, y - cy) - r) > Math.max(0.18, tol * 0.8))) return undefined;
  const [p, q] = [pts[0] as P, pts[Math.floor(n / 4)] as P];
  const sign = (p[0] - cx) * (q[1] - cy) - (p[1] - cy) * (q[0] - cx) >= 0 ? 1 : -1;
  const k = (4 / 3) * Math.tan(Math.PI / 8) * r;
  return [0, 1, 2, 3].map((i): Span => {
    const [s, e] = [(sign * i * Math.PI) / 2, (sign * (i + 1) * Math.PI) / 2];
    const [x0, y0, x3, y3] = [cx + r * Math.cos(s), cy + r * Math.sin(s), cx + r * Math.cos(e), cy + r * Math.sin(e)];
    return [
      x0,
      y0,
      x0 - sign * k * Math.sin(s),
      y0 + sign * k * Math.cos(s),
      x3 + sign * k * Math.sin(e),
      y3 - sign * k * Math.cos(e),
      x3,
      y3,
    ];
  });
}
