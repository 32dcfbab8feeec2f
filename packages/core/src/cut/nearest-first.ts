/**
 * The nearest contour first, of those whose inner ones are done: where the search for short ways begins.
 * Method: a grid of buckets of the nodes at which contours may be begun, searched in growing squares (J. Bentley, Fast
 * algorithms for geometric traveling salesman problems, 1992). Cost: O(n) where nodes lie evenly. mm.
 */
import type { Contour, Control, Point } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import { at } from '../geometry/span.ts';
import { candidates, leaves, type Candidate, type Visit } from './visits.ts';

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

/** @throws CancelledError */
export function nearestFirst(contours: readonly Contour[], parent: Int32Array, from: Point, control?: Control): Visit[] {
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
