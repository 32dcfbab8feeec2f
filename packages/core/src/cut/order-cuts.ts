/**
 * In which order, and from which node, the contours are cut: inner ones before the one that holds them
 * (a piece that has come loose moves), and short ways between.
 * Method: containment tree from boxes and winding numbers; nearest neighbour among contours whose inner ones
 * are done (bucket grid of candidate nodes), then Or-opt moves that keep the tree's order
 * (I. Or, 1976; E. Aarts & J. Lenstra, Local Search in Combinatorial Optimization, 1997).
 * Cost: O(n log n + n k); Or-opt up to 1500 contours. Limits: no feed-back limit for long rolls.
 */
import type { Contour, Control, Outline, Point } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import { contourBox, contourEnd } from '../geometry/outline.ts';
import { flattenContour, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { at, startX, startY } from '../geometry/span.ts';
import Flatbush from 'flatbush';

export interface CutOrder {
  /** Indices of the contours in the order of cutting. */
  order: number[];
  /** For each entry of `order`: the span at which cutting starts; for an open contour 0, or its span count when run backwards. */
  startIndex: number[];
  /** Way with the tool up, from the start point on, mm. */
  travelMm: number;
}

const MOST_START_NODES = 24;
const OR_OPT_LIMIT = 1500;

interface Candidate {
  x: number;
  y: number;
  index: number;
}

const onlyContour = (outline: Outline): Contour => outline.contours[0] ?? { closed: false, spans: [] };

/** For each contour the smallest closed one that holds it, -1 for none. */
export function containment(contours: readonly Contour[]): Int32Array {
  const parent = new Int32Array(contours.length).fill(-1);
  if (contours.length < 2) return parent;
  const boxes = contours.map(contourBox);
  const tree = new Flatbush(contours.length);
  for (const b of boxes) tree.add(b.minX, b.minY, b.maxX, b.maxY);
  tree.finish();
  const lines: (Polyline | undefined)[] = new Array<Polyline | undefined>(contours.length).fill(undefined);
  const size = (i: number): number => {
    const b = boxes[i] as (typeof boxes)[number];
    return (b.maxX - b.minX) * (b.maxY - b.minY);
  };
  contours.forEach((contour, i) => {
    const first = contour.spans[0];
    if (!first) return;
    const own = boxes[i] as (typeof boxes)[number];
    const holders = tree.search(own.minX, own.minY, own.maxX, own.maxY, (j) => {
      const box = boxes[j] as (typeof boxes)[number];
      const around = box.minX <= own.minX && box.minY <= own.minY && box.maxX >= own.maxX && box.maxY >= own.maxY;
      return j !== i && around && contours[j]?.closed === true && size(j) > size(i);
    });
    holders.sort((a, b) => size(a) - size(b));
    for (const j of holders) {
      const line = (lines[j] ??= flattenContour(contours[j] as Contour, 0.05));
      if (windingNumber([line], startX(first), startY(first)) !== 0) {
        parent[i] = j;
        break;
      }
    }
  });
  return parent;
}

function candidates(contour: Contour): Candidate[] {
  const first = contour.spans[0];
  if (!first) return [];
  if (!contour.closed) {
    const end = contourEnd(contour);
    return [
      { x: startX(first), y: startY(first), index: 0 },
      { ...end, index: contour.spans.length },
    ];
  }
  const stride = Math.max(1, Math.ceil(contour.spans.length / MOST_START_NODES));
  return contour.spans.flatMap((span, index) => (index % stride === 0 ? [{ x: startX(span), y: startY(span), index }] : []));
}

/** Where the tool is after cutting from a start index. */
function leaves(contour: Contour, start: number): Point {
  if (!contour.closed) {
    const first = contour.spans[0];
    return start === 0 || !first ? contourEnd(contour) : { x: startX(first), y: startY(first) };
  }
  const span = contour.spans[start];
  return span ? { x: startX(span), y: startY(span) } : { x: 0, y: 0 };
}

/** Candidate nodes by place; a contour's nodes count only while it is open to be cut. */
class Field {
  private readonly cells = new Map<number, number[]>();
  private readonly cell: number;
  private readonly minX: number;
  private readonly minY: number;
  private readonly columns: number;
  private readonly rows: number;
  readonly owner: number[] = [];
  readonly nodes: Candidate[] = [];

  constructor(lists: readonly Candidate[][]) {
    lists.forEach((list, owner) => {
      for (const node of list) {
        this.nodes.push(node);
        this.owner.push(owner);
      }
    });
    const xs = this.nodes.map((n) => n.x);
    const ys = this.nodes.map((n) => n.y);
    this.minX = xs.reduce((a, b) => Math.min(a, b), Infinity);
    this.minY = ys.reduce((a, b) => Math.min(a, b), Infinity);
    const width = xs.reduce((a, b) => Math.max(a, b), -Infinity) - this.minX;
    const height = ys.reduce((a, b) => Math.max(a, b), -Infinity) - this.minY;
    this.cell = Math.max(
      1e-6,
      Math.sqrt((Math.max(width, 1e-3) * Math.max(height, 1e-3)) / Math.max(1, this.nodes.length / 4)),
      width / 2000,
      height / 2000,
    );
    this.columns = Math.floor(width / this.cell) + 1;
    this.rows = Math.floor(height / this.cell) + 1;
  }

  private key(x: number, y: number): number {
    return Math.floor((y - this.minY) / this.cell) * this.columns + Math.floor((x - this.minX) / this.cell);
  }

  open(nodeIds: readonly number[]): void {
    for (const id of nodeIds) {
      const node = this.nodes[id] as Candidate;
      const key = this.key(node.x, node.y);
      const list = this.cells.get(key);
      if (list) list.push(id);
      else this.cells.set(key, [id]);
    }
  }

  close(nodeIds: readonly number[]): void {
    for (const id of nodeIds) {
      const node = this.nodes[id] as Candidate;
      const list = this.cells.get(this.key(node.x, node.y));
      const i = list?.indexOf(id) ?? -1;
      if (list && i >= 0) list.splice(i, 1);
    }
  }

  /** Nearest open node, searched in growing squares of cells. */
  nearest(x: number, y: number): number {
    const cx = Math.min(this.columns - 1, Math.max(0, Math.floor((x - this.minX) / this.cell)));
    const cy = Math.min(this.rows - 1, Math.max(0, Math.floor((y - this.minY) / this.cell)));
    let best = -1;
    let bestDistance = Infinity;
    const look = (i: number, j: number): void => {
      if (i < 0 || j < 0 || i >= this.columns || j >= this.rows) return;
      for (const id of this.cells.get(j * this.columns + i) ?? []) {
        const node = this.nodes[id] as Candidate;
        const d = Math.hypot(node.x - x, node.y - y);
        if (d < bestDistance) {
          bestDistance = d;
          best = id;
        }
      }
    };
    const rings = Math.max(this.columns, this.rows);
    for (let r = 0; r <= rings && (best < 0 || (r - 1) * this.cell <= bestDistance); r++) {
      for (let i = cx - r; i <= cx + r; i++) {
        look(i, cy - r);
        if (r > 0) look(i, cy + r);
      }
      for (let j = cy - r + 1; j < cy + r; j++) {
        look(cx - r, j);
        look(cx + r, j);
      }
    }
    return best;
  }
}

interface Visit {
  contour: number;
  start: number;
  enter: Point;
  leave: Point;
}

const gap = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);

function greedy(contours: readonly Contour[], parent: Int32Array, from: Point, control?: Control): Visit[] {
  const lists = contours.map(candidates);
  const field = new Field(lists);
  const nodesOf: number[][] = contours.map(() => []);
  field.owner.forEach((owner, id) => (nodesOf[owner] as number[]).push(id));
  const waiting = new Int32Array(contours.length);
  for (const p of parent) if (p >= 0) waiting[p] = at(waiting, p) + 1;
  contours.forEach((_, i) => {
    if (waiting[i] === 0) field.open(nodesOf[i] as number[]);
  });
  const visits: Visit[] = [];
  let here = from;
  for (;;) {
    const id = field.nearest(here.x, here.y);
    if (id < 0) return visits;
    const contour = field.owner[id] as number;
    const node = field.nodes[id] as Candidate;
    here = leaves(contours[contour] as Contour, node.index);
    visits.push({ contour, start: node.index, enter: { x: node.x, y: node.y }, leave: here });
    field.close(nodesOf[contour] as number[]);
    const holder = at(parent, contour);
    if (holder >= 0) {
      waiting[holder] = at(waiting, holder) - 1;
      if (waiting[holder] === 0) field.open(nodesOf[holder] as number[]);
    }
    if (visits.length % 256 === 0) {
      if (control?.signal?.aborted) throw new CancelledError();
      control?.onProgress?.(visits.length, contours.length, 'ordering');
    }
  }
}

/** May the visit now at `from` stand between positions to-1 and to without breaking the tree's order? */
function mayMove(visits: readonly Visit[], parent: Int32Array, from: number, to: number): boolean {
  const moved = (visits[from] as Visit).contour;
  const [low, high] = from < to ? [from + 1, to - 1] : [to, from - 1];
  for (let k = low; k <= high; k++) {
    const other = (visits[k] as Visit).contour;
    if (from < to ? at(parent, moved) === other : at(parent, other) === moved) return false;
  }
  return true;
}

/** Moves single visits to cheaper places until none helps. */
function orOpt(visits: Visit[], parent: Int32Array, from: Point): void {
  const leave = (k: number): Point => (k < 0 ? from : (visits[k] as Visit).leave);
  const hop = (k: number, visit: Visit | undefined): number => (visit ? gap(leave(k), visit.enter) : 0);
  for (let pass = 0, improved = true; improved && pass < 4; pass++) {
    improved = false;
    for (let i = 0; i < visits.length; i++) {
      const v = visits[i] as Visit;
      const next = visits[i + 1];
      const saved = hop(i - 1, v) + (next ? gap(v.leave, next.enter) : 0) - hop(i - 1, next);
      if (saved < 1e-6) continue;
      let best = 1e-6;
      let target = -1;
      for (let j = 0; j <= visits.length; j++) {
        if (j === i || j === i + 1) continue;
        const after = visits[j];
        const cost = hop(j - 1, v) + (after ? gap(v.leave, after.enter) : 0) - hop(j - 1, after);
        if (saved - cost > best && mayMove(visits, parent, i, j)) {
          best = saved - cost;
          target = j;
        }
      }
      if (target < 0) continue;
      visits.splice(i, 1);
      visits.splice(target > i ? target - 1 : target, 0, v);
      improved = true;
    }
  }
}

/**
 * Orders contours for cutting.
 * @param contours one contour each
 * @param opts.start where the tool stands, the lower left corner when not given
 * Law: every contour comes once, and after all those it holds.
 * @throws CancelledError
 */
export function orderCuts(contours: Outline[], opts: { start?: Point } = {}, control?: Control): CutOrder {
  const list = contours.map(onlyContour);
  const from = opts.start ?? { x: 0, y: 0 };
  const parent = containment(list);
  const visits = greedy(list, parent, from, control);
  if (visits.length <= OR_OPT_LIMIT) orOpt(visits, parent, from);
  let travelMm = 0;
  visits.forEach((visit, k) => {
    travelMm += gap(k === 0 ? from : (visits[k - 1] as Visit).leave, visit.enter);
  });
  return { order: visits.map((v) => v.contour), startIndex: visits.map((v) => v.start), travelMm };
}
