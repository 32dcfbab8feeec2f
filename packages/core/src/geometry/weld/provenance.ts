/**
 * Which source span does each edge of a clipped polygon lie on? Every output edge is looked up among
 * the input edges that cover it; consecutive edges on one span, in one direction, form a run.
 * No clipper bookkeeping is needed, so any polygon clipper can stand before this.
 */
import Flatbush from 'flatbush';
import type { CurveTable, Vertices } from './curve-table.ts';
import { SCALE } from './curve-table.ts';

/** A stretch of an output ring that lies on one span between two parameters (t1 < t0: run backwards). */
export interface Run {
  /** Span id, -1 for a straight edge whose source was not found. */
  span: number;
  direction: 1 | -1;
  t0: number;
  t1: number;
  /** Integer end points and length. */
  px: number;
  py: number;
  qx: number;
  qy: number;
  length: number;
}

interface Cover {
  span: number;
  direction: 1 | -1;
  t0: number;
  t1: number;
}

interface Edge {
  px: number;
  py: number;
  qx: number;
  qy: number;
  length: number;
  covers: Cover[];
}

/** How far an output vertex may lie from its input segment (integer units): rounding of crossings. */
const EPS = 2.5;
const EPS_WIDE = 12;

/** Input segments of the polylines, found by place. */
export class SegmentIndex {
  private readonly tree: Flatbush;
  private readonly next: Int32Array;
  private readonly ids: Int32Array;
  private readonly table: CurveTable;
  private readonly v: Vertices;

  constructor(table: CurveTable, vertices: Vertices) {
    this.table = table;
    this.v = vertices;
    const { x, y, start } = vertices;
    this.next = Int32Array.from({ length: x.length }, (_, i) => i + 1);
    for (let r = 0; r + 1 < start.length; r++)
      if ((start[r] as number) < (start[r + 1] as number)) this.next[(start[r + 1] as number) - 1] = start[r] as number;
    const ids: number[] = [];
    for (let i = 0; i < x.length; i++) {
      const j = this.next[i] as number;
      if ((x[i] as number) !== (x[j] as number) || (y[i] as number) !== (y[j] as number)) ids.push(i);
    }
    this.ids = Int32Array.from(ids);
    this.tree = new Flatbush(Math.max(1, ids.length));
    for (const i of ids) {
      const j = this.next[i] as number;
      this.tree.add(
        Math.min(x[i] as number, x[j] as number),
        Math.min(y[i] as number, y[j] as number),
        Math.max(x[i] as number, x[j] as number),
        Math.max(y[i] as number, y[j] as number),
      );
    }
    if (ids.length === 0) this.tree.add(0, 0, 0, 0);
    this.tree.finish();
  }

  /** Every span stretch that covers the edge p→q. */
  covers(px: number, py: number, qx: number, qy: number): Cover[] {
    const found = this.search(px, py, qx, qy, EPS);
    return found.length > 0 ? found : this.search(px, py, qx, qy, EPS_WIDE);
  }

  private search(px: number, py: number, qx: number, qy: number, eps: number): Cover[] {
    const mx = (px + qx) / 2;
    const my = (py + qy) / 2;
    const out: Cover[] = [];
    this.tree.search(mx - eps, my - eps, mx + eps, my + eps, (index) => {
      const cover = this.cover(this.ids[index] as number, px, py, qx, qy, eps);
      if (cover) out.push(cover);
      return false;
    });
    return out;
  }

  private cover(i: number, px: number, py: number, qx: number, qy: number, eps: number): Cover | undefined {
    const { x, y, t, span } = this.v;
    const j = this.next[i] as number;
    const x0 = x[i] as number;
    const y0 = y[i] as number;
    const dx = (x[j] as number) - x0;
    const dy = (y[j] as number) - y0;
    const length = Math.hypot(dx, dy);
    if (Math.abs((px - x0) * dy - (py - y0) * dx) > eps * length) return undefined;
    if (Math.abs((qx - x0) * dy - (qy - y0) * dx) > eps * length) return undefined;
    const up = ((px - x0) * dx + (py - y0) * dy) / length;
    const uq = ((qx - x0) * dx + (qy - y0) * dy) / length;
    if (Math.min(up, uq) < -eps || Math.max(up, uq) > length + eps) return undefined;
    const t0 = t[i] as number;
    const t1 = (span[j] as number) === (span[i] as number) && (t[j] as number) > t0 ? (t[j] as number) : 1;
    const param = (u: number): number => {
      if (Math.abs(u) < 1.5 || u < 0) return t0;
      if (Math.abs(u - length) < 1.5 || u > length) return t1;
      return t0 + (u / length) * (t1 - t0);
    };
    return { span: span[i] as number, direction: uq >= up ? 1 : -1, t0: param(up), t1: param(uq) };
  }

  /** May a stretch that starts at `t0` continue one that ended at `t1` on this span? */
  isContinuation(span: number, t1: number, t0: number, slack: number): boolean {
    const steps = this.table.steps[span] as number;
    if (steps > 1) return Math.abs(t1 - t0) < slack / steps;
    const s = this.table.spans[span] as readonly number[];
    const reach =
      (Math.abs((s[s.length - 2] as number) - (s[0] as number)) + Math.abs((s[s.length - 1] as number) - (s[1] as number))) * SCALE;
    return Math.abs(t1 - t0) * reach < 200 * slack;
  }
}

const follows = (index: SegmentIndex, a: Cover, b: Cover): boolean =>
  a.span === b.span && a.direction === b.direction && index.isContinuation(a.span, a.t1, b.t0, 0.75);

function makeEdges(ring: readonly { x: number; y: number }[], index: SegmentIndex): Edge[] {
  const edges: Edge[] = [];
  const n = ring.length;
  for (let k = 0; k < n; k++) {
    const p = ring[k] as { x: number; y: number };
    const q = ring[(k + 1) % n] as { x: number; y: number };
    if (p.x === q.x && p.y === q.y) continue;
    edges.push({ px: p.x, py: p.y, qx: q.x, qy: q.y, length: Math.hypot(q.x - p.x, q.y - p.y), covers: index.covers(p.x, p.y, q.x, q.y) });
  }
  return edges;
}

/** An edge at which a run must begin, so that no run is cut by the ring's arbitrary start. */
function breakPoint(edges: readonly Edge[], index: SegmentIndex): number {
  const n = edges.length;
  for (let k = 0; k < n; k++) {
    const before = (edges[(k + n - 1) % n] as Edge).covers;
    const here = (edges[k] as Edge).covers;
    if (!before.some((a) => here.some((b) => follows(index, a, b)))) return k;
  }
  return 0;
}

interface Thread {
  first: Cover;
  last: Cover;
}

/**
 * The output ring as runs on source spans: greedily the longest one from each place.
 * @param ring corners on the clipping grid, closed
 * @param index where the source spans' chords lie
 * @returns runs in the ring's order; a stretch that lies on no source span is a run of its own without one
 */
export function findRuns(ring: readonly { x: number; y: number }[], index: SegmentIndex): Run[] {
  const edges = makeEdges(ring, index);
  const n = edges.length;
  const start = n > 0 ? breakPoint(edges, index) : 0;
  const runs: Run[] = [];
  for (let k = 0; k < n;) {
    const first = edges[(start + k) % n] as Edge;
    let threads: Thread[] = first.covers.map((cover) => ({ first: cover, last: cover }));
    let length = first.length;
    let j = k + 1;
    for (; threads.length > 0 && j < n; j++) {
      const edge = edges[(start + j) % n] as Edge;
      const longer: Thread[] = [];
      for (const thread of threads) {
        const next = edge.covers.find((cover) => follows(index, thread.last, cover));
        if (next) longer.push({ first: thread.first, last: next });
      }
      if (longer.length === 0) break;
      threads = longer;
      length += edge.length;
    }
    const last = edges[(start + j - 1) % n] as Edge;
    const best = threads[0];
    const place = { px: first.px, py: first.py, qx: last.qx, qy: last.qy, length };
    if (best) runs.push({ span: best.first.span, direction: best.first.direction, t0: best.first.t0, t1: best.last.t1, ...place });
    else runs.push({ span: -1, direction: 1, t0: 0, t1: 1, ...place });
    k = j;
  }
  return runs;
}
