/**
 * From runs on source spans back to true curves: junctions are polished by Newton's method on the two
 * true curves, whole runs return the source span itself, partial ones its exact sub-span (blossom).
 * Where curves touch or coincide Newton has no answer and the junction is the nearest point of both,
 * off by at most a few chord tolerances along the curve.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { contourArea } from '../outline.ts';
import { derivative, evaluate, isLine, projectNear, reverseSpan, startX, startY, endX, endY, subSpan } from '../span.ts';
import { CHORD_MM, SCALE, type CurveTable } from './curve-table.ts';
import type { Run, SegmentIndex } from './provenance.ts';

/** Runs shorter than this are rounding, integer units. */
const TINY = 0.0008 * SCALE;
/** Contours thinner than this vanish, mm. */
const MIN_THICKNESS_MM = 0.001;

interface Place {
  x: number;
  y: number;
}

/** Where two true curves cross, from a close guess; undefined when they are nearly parallel there. */
function crossing(a: Span, t: number, b: Span, s: number): { t: number; s: number } | undefined {
  for (let k = 0; k < 12; k++) {
    const fx = evaluate(a, t, 0) - evaluate(b, s, 0);
    const fy = evaluate(a, t, 1) - evaluate(b, s, 1);
    const ax = derivative(a, t, 0);
    const ay = derivative(a, t, 1);
    const bx = derivative(b, s, 0);
    const by = derivative(b, s, 1);
    const det = ay * bx - ax * by;
    if (Math.abs(det) <= 1e-4 * Math.hypot(ax, ay) * Math.hypot(bx, by)) return undefined;
    const dt = (fx * by - fy * bx) / det;
    const ds = (fx * ay - fy * ax) / det;
    t += dt;
    s += ds;
    if (!(Math.abs(t - 0.5) < 3 && Math.abs(s - 0.5) < 3)) return undefined;
    if (Math.abs(dt) < 1e-14 && Math.abs(ds) < 1e-14) break;
  }
  const gap = Math.hypot(evaluate(a, t, 0) - evaluate(b, s, 0), evaluate(a, t, 1) - evaluate(b, s, 1));
  return gap < 1e-7 ? { t, s } : undefined;
}

const isEndParam = (t: number): boolean => t === 0 || t === 1;
const distance = (p: Place, q: Place): number => Math.hypot(p.x - q.x, p.y - q.y);
const pointAt = (span: Span, t: number): Place => ({ x: evaluate(span, t, 0), y: evaluate(span, t, 1) });

/** A parameter within 20 nm of an end is that end. */
function settle(span: Span, t: number): number {
  const c = Math.min(1, Math.max(0, t));
  const eps = 2 / SCALE / (Math.hypot(derivative(span, c, 0), derivative(span, c, 1)) || 1);
  if (t < eps) return 0;
  return t > 1 - eps ? 1 : t;
}

/** A run on its curve, with the curve's own node where the run begins or ends at it. */
interface RunEnd {
  readonly run: Run;
  readonly curve: Span;
  readonly node: Place | undefined;
}

class RingBuilder {
  private readonly table: CurveTable;
  private readonly reach = 3 * CHORD_MM;

  constructor(table: CurveTable) {
    this.table = table;
  }

  private mm(ix: number, iy: number): Place {
    return { x: ix / SCALE + this.table.originX, y: iy / SCALE + this.table.originY };
  }

  private curve(run: Run): Span | undefined {
    return run.span < 0 ? undefined : this.table.spans[run.span];
  }

  /** The node between two runs; moves their parameters onto it. */
  junction(a: Run, b: Run): Place {
    const rough = this.mm(b.px, b.py);
    const curveA = this.curve(a);
    const curveB = this.curve(b);
    const nodeA = curveA && isEndParam(a.t1) ? pointAt(curveA, a.t1) : undefined;
    const nodeB = curveB && isEndParam(b.t0) ? pointAt(curveB, b.t0) : undefined;
    if (nodeA && nodeB && distance(nodeA, nodeB) < 3 / SCALE) return nodeB;
    if (curveA && curveB) return this.meet({ run: a, curve: curveA, node: nodeA }, { run: b, curve: curveB, node: nodeB }, rough);
    if (curveA) return nodeA ?? this.foot(curveA, a, 't1', rough);
    if (curveB) return nodeB ?? this.foot(curveB, b, 't0', rough);
    return rough;
  }

  private foot(curve: Span, run: Run, end: 't0' | 't1', near: Place): Place {
    run[end] = projectNear(curve, run[end], near.x, near.y);
    return pointAt(curve, run[end]);
  }

  private meet({ run: a, curve: ca, node: na }: RunEnd, { run: b, curve: cb, node: nb }: RunEnd, rough: Place): Place {
    const cross = crossing(ca, a.t1, cb, b.t0);
    if (cross) {
      const t = settle(ca, cross.t);
      const s = settle(cb, cross.s);
      const pa = pointAt(ca, t);
      const pb = pointAt(cb, s);
      if (distance(pa, rough) < this.reach && distance(pb, rough) < this.reach && distance(pa, pb) < 5 / SCALE) {
        a.t1 = t;
        b.t0 = s;
        return isEndParam(s) ? pb : pa;
      }
    }
    if (nb && distance(nb, rough) < this.reach) {
      if (!na) a.t1 = projectNear(ca, a.t1, nb.x, nb.y);
      return nb;
    }
    if (na && distance(na, rough) < this.reach) {
      b.t0 = projectNear(cb, b.t0, na.x, na.y);
      return na;
    }
    const pa = this.foot(ca, a, 't1', rough);
    const pb = this.foot(cb, b, 't0', rough);
    return { x: (pa.x + pb.x) / 2, y: (pa.y + pb.y) / 2 };
  }

  /** One run as a span from p to q, or nothing when it has no length left. */
  emit(run: Run, p: Place, q: Place): Span | undefined {
    const curve = this.curve(run);
    if (!curve || run.t0 === run.t1) return distance(p, q) > 1e-7 ? [p.x, p.y, q.x, q.y] : undefined;
    const piece = run.t1 > run.t0 ? subSpan(curve, run.t0, run.t1) : reverseSpan(subSpan(curve, run.t1, run.t0));
    if (startX(piece) === p.x && startY(piece) === p.y && endX(piece) === q.x && endY(piece) === q.y) return piece;
    return withEnds(piece, p, q);
  }
}

/** The span with its ends (and their handles) moved onto p and q. */
function withEnds(span: Span, p: Place, q: Place): Span {
  if (isLine(span)) return [p.x, p.y, q.x, q.y];
  const n = [...span];
  n[2] = (span[2] as number) + p.x - (span[0] as number);
  n[3] = (span[3] as number) + p.y - (span[1] as number);
  n[4] = (span[4] as number) + q.x - (span[6] as number);
  n[5] = (span[5] as number) + q.y - (span[7] as number);
  [n[0], n[1], n[6], n[7]] = [p.x, p.y, q.x, q.y];
  return n;
}

/** Neighbouring runs that are one stretch of one span become one. */
function mergeRuns(runs: Run[], index: SegmentIndex): Run[] {
  const out = [...runs];
  for (let i = 0; out.length > 1 && i < out.length; i++) {
    const a = out[i] as Run;
    const b = out[(i + 1) % out.length] as Run;
    const together =
      a !== b &&
      a.span >= 0 &&
      a.span === b.span &&
      a.direction === b.direction &&
      index.isContinuation(a.span, a.t1, b.t0, 0.6) &&
      (b.t1 - b.t0) * a.direction > 0;
    if (!together) continue;
    Object.assign(a, { t1: b.t1, qx: b.qx, qy: b.qy, length: a.length + b.length });
    out.splice((i + 1) % out.length, 1);
    i--;
  }
  return out;
}

/** Straight spans in one line become one. */
function mergeStraight(spans: Span[]): Span[] {
  const out = [...spans];
  for (let i = 0; out.length > 2 && i < out.length; i++) {
    const a = out[i] as Span;
    const b = out[(i + 1) % out.length] as Span;
    if (!isLine(a) || !isLine(b)) continue;
    const dx = endX(b) - startX(a);
    const dy = endY(b) - startY(a);
    const length = Math.hypot(dx, dy);
    const off = Math.abs((endX(a) - startX(a)) * dy - (endY(a) - startY(a)) * dx);
    const forward = (endX(a) - startX(a)) * (endX(b) - startX(b)) + (endY(a) - startY(a)) * (endY(b) - startY(b));
    if (length === 0 || off / length >= 2e-6 || forward <= 0) continue;
    out[(i + 1) % out.length] = [startX(a), startY(a), endX(b), endY(b)];
    out.splice(i, 1);
    i = Math.max(-1, i - 2);
  }
  return out;
}

function roughLength(spans: readonly Span[]): number {
  let sum = 0;
  for (const span of spans)
    for (let i = 2; i < span.length; i += 2)
      sum += Math.hypot((span[i] as number) - (span[i - 2] as number), (span[i + 1] as number) - (span[i - 1] as number));
  return sum;
}

/**
 * One output ring as a contour of true curves; undefined when it is thinner than a micrometre.
 * @param found its runs, in order
 * @param table the curves that they lie on
 * @complexity runs; curves that meet are brought to meet by Newton steps
 */
export function rebuildRing(found: readonly Run[], table: CurveTable, index: SegmentIndex): Contour | undefined {
  let runs = found.filter((run) => run.length > TINY);
  if (runs.length === 0) return undefined;
  runs = mergeRuns(mergeRuns(runs, index), index);
  const builder = new RingBuilder(table);
  const n = runs.length;
  const nodes = runs.map((run, i) => builder.junction(runs[(i + n - 1) % n] as Run, run));
  const spans: Span[] = [];
  runs.forEach((run, i) => {
    const span = builder.emit(run, nodes[i] as Place, nodes[(i + 1) % n] as Place);
    if (span) spans.push(span);
  });
  const contour = { closed: true, spans: mergeStraight(spans) };
  const curved = contour.spans.length === 1 && contour.spans[0]?.length === 8;
  if (contour.spans.length < 2 && !curved) return undefined;
  return Math.abs(contourArea(contour)) < (MIN_THICKNESS_MM * roughLength(contour.spans)) / 2 ? undefined : contour;
}

/** Contours as an outline; what is missing is left out. */
export const toOutline = (contours: readonly (Contour | undefined)[]): Outline => ({
  contours: contours.filter((contour): contour is Contour => contour !== undefined),
});
