/**
 * Makes stretches that two different curves share run through the same integer vertices, so that the
 * clipper sees one line there instead of a hundred slivers: a vertex within `SNAP_MM` of another true
 * curve becomes a vertex of that curve's polyline as well; vertices that near one another become one.
 * Cost: vertices of near pairs only. Without it results stay right, but coincident curves explode in nodes.
 */
import Flatbush from 'flatbush';
import type { Span } from '../../types/index.ts';
import { at, evaluate, projectNear } from '../span.ts';
import { SCALE, type CurveTable, type Vertices } from './curve-table.ts';

/** Curves nearer than this are the same line, mm. */
export const SNAP_MM = 0.001;

interface Insertion {
  /** The new vertex comes after this one. */
  after: number;
  t: number;
  /** It takes the place of this vertex of the other curve. */
  vertex: number;
}

class Snapper {
  private readonly parent: Int32Array;
  readonly insertions: Insertion[] = [];
  private readonly previousOf: Int32Array;
  private readonly nextOf: Int32Array;
  readonly table: CurveTable;
  readonly vertices: Vertices;

  constructor(table: CurveTable, vertices: Vertices) {
    this.table = table;
    this.vertices = vertices;
    const n = vertices.x.length;
    this.parent = Int32Array.from({ length: n }, (_, i) => i);
    this.nextOf = Int32Array.from({ length: n }, (_, i) => i + 1);
    for (let r = 0; r + 1 < vertices.start.length; r++) this.nextOf[at(vertices.start, r + 1) - 1] = at(vertices.start, r);
    this.previousOf = new Int32Array(n);
    for (let v = 0; v < n; v++) this.previousOf[at(this.nextOf, v)] = v;
  }

  root(v: number): number {
    let r = v;
    while (at(this.parent, r) !== r) r = at(this.parent, r);
    while (at(this.parent, v) !== r) {
      const up = at(this.parent, v);
      this.parent[v] = r;
      v = up;
    }
    return r;
  }

  private unite(a: number, b: number): void {
    const ra = this.root(a);
    const rb = this.root(b);
    if (ra < rb) this.parent[rb] = ra;
    else this.parent[ra] = rb;
  }

  /** Looks for other curves at every vertex; spans that come near nothing have none to look at. */
  snapAll(): void {
    const { vertices, table } = this;
    const n = vertices.x.length;
    if (n === 0) return;
    const tree = new Flatbush(n);
    for (let v = 0; v < n; v++) {
      const e = at(this.nextOf, v);
      const [ax, ay, bx, by] = [at(vertices.x, v), at(vertices.y, v), at(vertices.x, e), at(vertices.y, e)];
      tree.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
    }
    tree.finish();
    const isNear = new Uint8Array(table.spans.length);
    for (const id of table.nearPairs) isNear[id] = 1;
    const reach = 5 * SNAP_MM * SCALE;
    for (let v = 0; v < n; v++) {
      const own = at(vertices.span, v);
      const before = at(vertices.span, at(this.previousOf, v));
      if (!isNear[own] && !isNear[before]) continue;
      const x = at(vertices.x, v);
      const y = at(vertices.y, v);
      tree.search(x - reach, y - reach, x + reach, y + reach, (segment) => {
        const other = at(vertices.span, segment);
        if (other !== own && isNear[other]) this.snapTo(v, segment);
        return false;
      });
    }
  }

  /** One vertex against one segment of another curve. */
  private snapTo(v: number, segment: number): void {
    const { vertices, table } = this;
    const end = at(this.nextOf, segment);
    if (segment === v || end === v) return;
    const from = table.spans[at(vertices.span, v)] as Span;
    const x = evaluate(from, at(vertices.t, v), 0);
    const y = evaluate(from, at(vertices.t, v), 1);
    const ix = (x - table.originX) * SCALE;
    const iy = (y - table.originY) * SCALE;
    const x0 = at(vertices.x, segment);
    const y0 = at(vertices.y, segment);
    const dx = at(vertices.x, end) - x0;
    const dy = at(vertices.y, end) - y0;
    const length2 = dx * dx + dy * dy;
    const u = length2 === 0 ? 0 : ((ix - x0) * dx + (iy - y0) * dy) / length2;
    const along = Math.min(1, Math.max(0, u));
    if (Math.hypot(ix - x0 - along * dx, iy - y0 - along * dy) > 5 * SNAP_MM * SCALE) return;
    const id = at(vertices.span, segment);
    const curve = table.spans[id] as Span;
    const t0 = at(vertices.t, segment);
    const t1 = at(vertices.span, end) === id && at(vertices.t, end) > t0 ? at(vertices.t, end) : 1;
    const t = projectNear(curve, t0 + along * (t1 - t0), x, y);
    if (Math.hypot(evaluate(curve, t, 0) - x, evaluate(curve, t, 1) - y) > SNAP_MM) return;
    const near = 1.4 * SNAP_MM * SCALE;
    const toStart = Math.hypot(x0 - ix, y0 - iy);
    const toEnd = Math.hypot(at(vertices.x, end) - ix, at(vertices.y, end) - iy);
    if (Math.min(toStart, toEnd) <= near) this.unite(v, toStart <= toEnd ? segment : end);
    else if (t > t0 && t < t1) this.insertions.push({ after: segment, t, vertex: v });
  }
}

/** @returns new polylines with shared vertices on shared stretches; the same ones when nothing is near. */
export function preSnap(table: CurveTable, vertices: Vertices): Vertices {
  if (table.nearPairs.length === 0) return vertices;
  const snapper = new Snapper(table, vertices);
  snapper.snapAll();
  const { insertions } = snapper;
  insertions.sort((p, q) => p.after - q.after || p.t - q.t);
  return rebuildVertices(vertices, snapper, insertions);
}

function rebuildVertices(old: Vertices, snapper: Snapper, insertions: readonly Insertion[]): Vertices {
  const x: number[] = [];
  const y: number[] = [];
  const t: number[] = [];
  const span: number[] = [];
  const start = new Int32Array(old.start.length);
  let next = 0;
  let ring = 0;
  const put = (vertex: number, onSpan: number, param: number): void => {
    const root = snapper.root(vertex);
    x.push(at(old.x, root));
    y.push(at(old.y, root));
    t.push(param);
    span.push(onSpan);
  };
  for (let v = 0; v < old.x.length; v++) {
    while (at(old.start, ring) === v && ring < old.start.length - 1) start[ring++] = x.length;
    put(v, at(old.span, v), at(old.t, v));
    for (; next < insertions.length && insertions[next]?.after === v; next++) {
      const ins = insertions[next] as Insertion;
      const root = snapper.root(ins.vertex);
      const repeats = x.at(-1) === at(old.x, root) && y.at(-1) === at(old.y, root);
      if (ins.t > (t.at(-1) as number) && !repeats) put(ins.vertex, at(old.span, v), ins.t);
    }
  }
  start[old.start.length - 1] = x.length;
  return { x: Float64Array.from(x), y: Float64Array.from(y), t: Float64Array.from(t), span: Int32Array.from(span), start };
}
