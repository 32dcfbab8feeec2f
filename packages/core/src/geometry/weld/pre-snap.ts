/**
 * Makes stretches that two different curves share run through the same integer vertices, so that the
 * clipper sees one line there instead of a hundred slivers: a vertex within `SNAP_MM` of another true
 * curve becomes a vertex of that curve's polyline as well; vertices that near one another become one.
 * Cost: vertices of near pairs only. Without it results stay right, but coincident curves explode in nodes.
 */
import Flatbush from 'flatbush';
import type { Span } from '../../types/index.ts';
import { evaluate, projectNear } from '../span.ts';
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
    for (let r = 0; r + 1 < vertices.start.length; r++) this.nextOf[(vertices.start[r + 1] as number) - 1] = vertices.start[r] as number;
    this.previousOf = new Int32Array(n);
    for (let v = 0; v < n; v++) this.previousOf[this.nextOf[v] as number] = v;
  }

  root(v: number): number {
    let r = v;
    while ((this.parent[r] as number) !== r) r = this.parent[r] as number;
    while ((this.parent[v] as number) !== r) {
      const up = this.parent[v] as number;
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

  /** Looks for other curves at the vertices that lie where curves come near one another. */
  snapAll(): void {
    const { vertices, table } = this;
    const { x, y, span } = vertices;
    const n = x.length;
    const isNear = (id: number): boolean => (table.meets[4 * id] as number) <= (table.meets[4 * id + 2] as number);
    const segments: number[] = [];
    for (let v = 0; v < n; v++) if (isNear(span[v] as number)) segments.push(v);
    if (segments.length === 0) return;
    const tree = new Flatbush(segments.length);
    for (const v of segments) {
      const e = this.nextOf[v] as number;
      const ax = x[v] as number;
      const ay = y[v] as number;
      const bx = x[e] as number;
      const by = y[e] as number;
      tree.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
    }
    tree.finish();
    const reach = 5 * SNAP_MM * SCALE;
    for (let v = 0; v < n; v++) {
      const own = span[v] as number;
      const vx = x[v] as number;
      const vy = y[v] as number;
      if (!this.meetsAt(own, vx, vy) && !this.meetsAt(span[this.previousOf[v] as number] as number, vx, vy)) continue;
      tree.search(vx - reach, vy - reach, vx + reach, vy + reach, (i) => {
        const segment = segments[i] as number;
        if (span[segment] !== own) this.snapTo(v, segment);
        return false;
      });
    }
  }

  /** Does a span come near another one about a place? */
  private meetsAt(id: number, x: number, y: number): boolean {
    const { meets, originX, originY } = this.table;
    const mmX = x / SCALE + originX;
    const mmY = y / SCALE + originY;
    const i = 4 * id;
    return (
      mmX >= (meets[i] as number) && mmY >= (meets[i + 1] as number) && mmX <= (meets[i + 2] as number) && mmY <= (meets[i + 3] as number)
    );
  }

  /** One vertex against one segment of another curve. */
  private snapTo(v: number, segment: number): void {
    const { vertices, table } = this;
    const end = this.nextOf[segment] as number;
    if (segment === v || end === v) return;
    const from = table.spans[vertices.span[v] as number] as Span;
    const x = evaluate(from, vertices.t[v] as number, 0);
    const y = evaluate(from, vertices.t[v] as number, 1);
    const ix = (x - table.originX) * SCALE;
    const iy = (y - table.originY) * SCALE;
    const x0 = vertices.x[segment] as number;
    const y0 = vertices.y[segment] as number;
    const dx = (vertices.x[end] as number) - x0;
    const dy = (vertices.y[end] as number) - y0;
    const length2 = dx * dx + dy * dy;
    const u = length2 === 0 ? 0 : ((ix - x0) * dx + (iy - y0) * dy) / length2;
    const along = Math.min(1, Math.max(0, u));
    if (Math.hypot(ix - x0 - along * dx, iy - y0 - along * dy) > 5 * SNAP_MM * SCALE) return;
    const id = vertices.span[segment] as number;
    const curve = table.spans[id] as Span;
    const t0 = vertices.t[segment] as number;
    const t1 = (vertices.span[end] as number) === id && (vertices.t[end] as number) > t0 ? (vertices.t[end] as number) : 1;
    const t = projectNear(curve, t0 + along * (t1 - t0), x, y);
    if (Math.hypot(evaluate(curve, t, 0) - x, evaluate(curve, t, 1) - y) > SNAP_MM) return;
    const near = 1.4 * SNAP_MM * SCALE;
    const toStart = Math.hypot(x0 - ix, y0 - iy);
    const toEnd = Math.hypot((vertices.x[end] as number) - ix, (vertices.y[end] as number) - iy);
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
    x.push(old.x[root] as number);
    y.push(old.y[root] as number);
    t.push(param);
    span.push(onSpan);
  };
  for (let v = 0; v < old.x.length; v++) {
    while ((old.start[ring] as number) === v && ring < old.start.length - 1) start[ring++] = x.length;
    put(v, old.span[v] as number, old.t[v] as number);
    for (; next < insertions.length && insertions[next]?.after === v; next++) {
      const ins = insertions[next] as Insertion;
      const root = snapper.root(ins.vertex);
      const repeats = x.at(-1) === (old.x[root] as number) && y.at(-1) === (old.y[root] as number);
      if (ins.t > (t.at(-1) as number) && !repeats) put(ins.vertex, old.span[v] as number, ins.t);
    }
  }
  start[old.start.length - 1] = x.length;
  return { x: Float64Array.from(x), y: Float64Array.from(y), t: Float64Array.from(t), span: Int32Array.from(span), start };
}
