/**
 * In which order, and from which node, the contours are cut: inner ones before the one that holds them
 * (a piece that has come loose moves), and short ways between.
 * Method: containment tree from boxes and winding numbers; nearest neighbour among contours whose inner ones
 * are done (bucket grid of candidate nodes); then what lies in one contour, with what that holds, is ordered as one by a
 * tour (see `tour.ts`), which also says where those that hold nothing are begun, and the nodes of all are chosen anew by dynamic programming, several times in turn.
 * Cost: O(n log n + n k) and the search. Limits: no feed-back limit for long rolls.
 */
import type { Contour, Control, Outline, Point } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import { contourBox, contourEnd } from '../geometry/outline.ts';
import { flattenContour, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { at, startX, startY } from '../geometry/span.ts';
import { randomFrom } from '../search/random.ts';
import { NEIGHBOURS, Tour, type Stop } from './tour.ts';
import Flatbush from 'flatbush';

/** The order of contours, and where each is begun. */
export interface CutOrder {
  /** Indices of the contours in the order of cutting. */
  order: number[];
  /** For each entry of `order`: the span at which cutting starts; for an open contour 0, or its span count when run backwards. */
  startIndex: number[];
  /** Way with the tool up, from the start point on, mm. */
  travelMm: number;
}

const MOST_START_NODES = 24;

interface Candidate {
  x: number;
  y: number;
  index: number;
}

const onlyContour = (outline: Outline): Contour => outline.contours[0] ?? { closed: false, spans: [] };

/**
 * For each contour the smallest closed one that holds it, -1 for none.
 * @returns an index a contour
 * @complexity boxes by an index, then the winding of one point a pair
 */
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

/** Contours by the one that holds them; -1: none does. */
function childrenOf(parent: Int32Array): Map<number, number[]> {
  const children = new Map<number, number[]>();
  parent.forEach((holder, i) => {
    const list = children.get(holder);
    if (list) list.push(i);
    else children.set(holder, [i]);
  });
  return children;
}

/** How long a search may go on. */
class Budget {
  private readonly started: number;
  private readonly now: () => number;
  readonly rounds: number;

  constructor(
    private readonly control: (Control & { now?: () => number }) | undefined,
    private readonly all: number,
  ) {
    // eslint-disable-next-line no-restricted-syntax -- a budget in ms needs a clock; callers may hand in theirs
    this.now = control?.now ?? Date.now;
    this.started = this.now();
    this.rounds = Math.max(LEAST_ROUNDS, Math.min(MOST_ROUNDS, Math.round(ROUNDS_OF / Math.max(1, all))));
  }

  /** Is the time over? Without a budget in ms it never is: steps are counted. */
  isOver(): boolean {
    if (this.control?.signal?.aborted) throw new CancelledError();
    const ms = this.control?.budgetMs;
    return ms !== undefined && this.now() - this.started >= SHARE_OF_TIME * ms;
  }

  /** Without a budget in ms a number of kicks is the measure: the same contours are ordered alike wherever that is done. */
  part(count: number, round: number): (kicks: number) => boolean {
    const ms = this.control?.budgetMs;
    if (ms === undefined) {
      const most = Math.min(KICKS_EACH * count, (MOST_KICKS * count) / this.all) / this.rounds;
      return (kicks) => kicks >= most;
    }
    const began = this.now();
    const spent = (this.started + (SHARE_OF_TIME * ms * (round + 1)) / this.rounds - began) * Math.min(1, count / Math.max(1, this.all));
    return (kicks) => (kicks & 15) === 0 && this.now() - began >= spent;
  }
}

const LEAST_ROUNDS = 5;
const MOST_ROUNDS = 60;
/** Contours times rounds, about. */
const ROUNDS_OF = 8000;
const KICKS_EACH = 4;
const MOST_KICKS = 3000;
const SHARE_OF_TIME = 0.8;
/** Share of contours that are begun elsewhere when a round has not helped. */
const ELSEWHERE = 0.15;

/** What is inside a contour, in its order, and then the contour itself: cut as one. */
type Block = readonly Visit[];

interface Level {
  readonly children: ReadonlyMap<number, readonly number[]>;
  readonly visitOf: ReadonlyMap<number, Visit>;
  readonly rank: Int32Array;
  readonly contours: readonly Contour[];
  /** Nodes at which each contour may be begun. */
  readonly lists: readonly (readonly Candidate[])[];
  /** By the contour that holds them: contours near each. */
  readonly nearOf: Map<number, ReadonlyMap<number, readonly number[]>>;
  readonly budget: Budget;
  readonly round: number;
}

/** All that lies within a contour, in the order it has so far. */
function heldBy(contour: number, level: Level): Visit[] {
  const { children, visitOf, rank } = level;
  const own = [...(children.get(contour) ?? [])].sort((a, b) => (rank[a] ?? 0) - (rank[b] ?? 0));
  return own.flatMap((inner) => {
    const visit = visitOf.get(inner);
    return visit ? [...heldBy(inner, level), visit] : [];
  });
}

/** A block as the tour takes it: one that holds nothing may be begun at any of its nodes. */
function stopOf(block: Block, { contours, lists }: Level): Stop {
  const [first, last] = [block[0] as Visit, block.at(-1) as Visit];
  const isAlone = block.length === 1 && contours[last.contour]?.closed === true;
  const places = isAlone ? Float64Array.from((lists[last.contour] ?? []).flatMap(({ x, y }) => [x, y])) : undefined;
  return { enter: first.enter, leave: last.leave, ...(places && places.length > 2 ? { places } : {}) };
}

const outerOf = (block: Block): number => (block.at(-1) as Visit).contour;

/** Which contours lie near one another within a holder is looked for once: finding out takes as long as a tour. */
function keepNear(holder: number, blocks: readonly Block[], near: Int32Array, { nearOf }: Level): void {
  if (nearOf.has(holder)) return;
  const contours = blocks.map(outerOf);
  nearOf.set(
    holder,
    new Map(
      contours.map((contour, i) => [contour, Array.from(near.subarray(i * NEIGHBOURS, (i + 1) * NEIGHBOURS), (j) => contours[j] ?? -1)]),
    ),
  );
}

function nearAsBefore(holder: number, blocks: readonly Block[], { nearOf }: Level): Int32Array | undefined {
  const known = nearOf.get(holder);
  if (!known) return undefined;
  const places = new Map(blocks.map((block, i) => [outerOf(block), i]));
  return Int32Array.from(blocks.flatMap((block) => (known.get(outerOf(block)) ?? []).map((contour) => places.get(contour) ?? -1)));
}

/**
 * The contours within one, each after all that it holds, by short ways: first the blocks as they are, then what lies within
 * each between where the tool comes from and where its holder is begun.
 * @param from where the tool is @param to where it goes then; undefined: anywhere
 */
function orderWithin(holder: number, from: Point | undefined, to: Point | undefined, level: Level): Visit[] {
  const { children, visitOf, rank, contours, lists, budget, round } = level;
  const own = [...(children.get(holder) ?? [])].sort((a, b) => (rank[a] ?? 0) - (rank[b] ?? 0));
  const blocks = own.flatMap((contour): Block[] => {
    const visit = visitOf.get(contour);
    return visit ? [[...heldBy(contour, level), visit]] : [];
  });
  let ordered: Visit[][] = blocks.map((block) => [...block]);
  if (blocks.length > 1) {
    const stops = blocks.map((block) => stopOf(block, level));
    const tour = new Tour(stops, from, to, round + 1, nearAsBefore(holder, blocks, level));
    keepNear(holder, blocks, tour.near, level);
    tour.descend(() => budget.isOver());
    tour.search(budget.part(blocks.length, round));
    ordered = tour.result().map(({ stop, backwards, place }) => {
      const block = blocks[stop] as Block;
      const only = block.length === 1 ? block[0] : undefined;
      const node = place >= 0 && only ? lists[only.contour]?.[place] : undefined;
      if (node && only) return [{ contour: only.contour, start: node.index, enter: node, leave: node }];
      if (!backwards || !only || contours[only.contour]?.closed !== false) return [...block];
      const start = only.start === 0 ? (contours[only.contour]?.spans.length ?? 0) : 0;
      return [{ contour: only.contour, start, enter: only.leave, leave: only.enter }];
    });
  }
  let here = from;
  return ordered.flatMap((block) => {
    const outer = block.at(-1) as Visit;
    const inner = block.length > 2 && !budget.isOver() ? orderWithin(outer.contour, here, outer.enter, level) : block.slice(0, -1);
    here = outer.leave;
    return [...inner, outer];
  });
}

/** The nodes at which each contour is begun so that the whole way is shortest in this order: dynamic programming over them. */
function chooseStarts(visits: readonly Visit[], lists: readonly Candidate[][], contours: readonly Contour[], from: Point): Visit[] {
  const before: Int32Array[] = [];
  let ends: { at: Point; cost: number }[] = [{ at: from, cost: 0 }];
  for (const { contour } of visits) {
    const nodes = lists[contour] ?? [];
    const back = new Int32Array(nodes.length);
    const next = nodes.map((node, k) => {
      let best = Infinity;
      ends.forEach(({ at: end, cost }, e) => {
        const sum = cost + Math.hypot(end.x - node.x, end.y - node.y);
        if (sum < best) {
          best = sum;
          back[k] = e;
        }
      });
      return { at: leaves(contours[contour] as Contour, node.index), cost: best };
    });
    before.push(back);
    ends = next;
  }
  let at0 = ends.reduce((best, { cost }, k) => (cost < (ends[best]?.cost ?? Infinity) ? k : best), 0);
  const chosen: Visit[] = [];
  for (let k = visits.length - 1; k >= 0; k--) {
    const { contour } = visits[k] as Visit;
    const node = lists[contour]?.[at0] as Candidate;
    chosen.push({ contour, start: node.index, enter: { x: node.x, y: node.y }, leave: leaves(contours[contour] as Contour, node.index) });
    at0 = before[k]?.[at0] ?? 0;
  }
  return chosen.reverse();
}

/** The same order with some contours begun at other nodes, so that the next tour looks elsewhere. */
const begunElsewhere = (
  visits: readonly Visit[],
  lists: readonly Candidate[][],
  contours: readonly Contour[],
  random: () => number,
): Visit[] =>
  visits.map((visit) => {
    const nodes = lists[visit.contour] ?? [];
    const node = random() < ELSEWHERE ? nodes[Math.floor(random() * nodes.length)] : undefined;
    return node
      ? { contour: visit.contour, start: node.index, enter: node, leave: leaves(contours[visit.contour] as Contour, node.index) }
      : visit;
  });

const wayOf = (visits: readonly Visit[], from: Point): number =>
  visits.reduce((sum, visit, k) => sum + gap(k === 0 ? from : (visits[k - 1] as Visit).leave, visit.enter), 0);

/**
 * Orders contours for cutting.
 * @param contours one contour each
 * @param opts.start where the tool stands, the lower left corner when not given
 * @param control `budgetMs` for a longer search; without it a number of steps is the measure
 * Law: every contour comes once, and after all those it holds; the same contours are ordered alike.
 * @throws CancelledError
 */
export function orderCuts(contours: Outline[], opts: { start?: Point } = {}, control?: Control & { now?: () => number }): CutOrder {
  const list = contours.map(onlyContour);
  const from = opts.start ?? { x: 0, y: 0 };
  const parent = containment(list);
  let best = greedy(list, parent, from, control);
  const budget = new Budget(control, best.length);
  const children = childrenOf(parent);
  const lists = list.map(candidates);
  const nearOf: Level['nearOf'] = new Map();
  best = chooseStarts(best, lists, list, from);
  let bestMm = wayOf(best, from);
  const random = randomFrom(control?.seed ?? 1);
  for (let round = 0, current = best; round < budget.rounds && best.length > 2 && !budget.isOver(); round++) {
    const rank = new Int32Array(list.length);
    current.forEach(({ contour }, k) => (rank[contour] = k));
    const visitOf = new Map(current.map((visit) => [visit.contour, visit]));
    const next = orderWithin(-1, from, undefined, { children, visitOf, rank, contours: list, lists, nearOf, budget, round });
    current = chooseStarts(next, lists, list, from);
    const lengthMm = wayOf(current, from);
    if (lengthMm < bestMm - 1e-9) [best, bestMm] = [current, lengthMm];
    else current = begunElsewhere(best, lists, list, random);
    control?.onProgress?.(round + 1, budget.rounds, 'ordering');
  }
  return { order: best.map((v) => v.contour), startIndex: best.map((v) => v.start), travelMm: bestMm };
}
