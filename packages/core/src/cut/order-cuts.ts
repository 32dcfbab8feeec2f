/**
 * In which order, and from which node, the contours are cut: inner ones before the one that holds them
 * (a piece that has come loose moves), and short ways between.
 * Method: containment tree from boxes and winding numbers; nearest neighbour among contours whose inner ones are done; then
 * what lies in one contour, with what that holds, is ordered as one by a tour (see `tour.ts`), which also says where those
 * that hold nothing are begun, and the nodes of all are chosen anew, several times in turn. Where contours lie within others
 * a last tour takes all as one way that keeps inner before outer only: what lies in one is no longer cut together.
 * Cost: O(n log n + n k) and the search. Limits: no feed-back limit for long rolls.
 */
import type { Contour, Control, Outline, Point } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import { contourBox } from '../geometry/outline.ts';
import { flattenContour, type Polyline } from '../geometry/flatten.ts';
import { windingNumber } from '../geometry/hit.ts';
import { startX, startY } from '../geometry/span.ts';
import { randomFrom } from '../search/random.ts';
import { nearestFirst } from './nearest-first.ts';
import { begunElsewhere, candidates, chooseStarts, wayOf, type Candidate, type Visit } from './visits.ts';
import { NEIGHBOURS, Tour, type Stop, type VisitedStop } from './tour.ts';
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

  /** @param all contours @param share of the time that is for the rounds */
  constructor(
    private readonly control: (Control & { now?: () => number }) | undefined,
    private readonly all: number,
    private readonly share: number,
  ) {
    // eslint-disable-next-line no-restricted-syntax -- a budget in ms needs a clock; callers may hand in theirs
    this.now = control?.now ?? Date.now;
    this.started = this.now();
    this.rounds = Math.max(LEAST_ROUNDS, Math.min(MOST_ROUNDS, Math.round(ROUNDS_OF / Math.max(1, all))));
  }

  /** Is the time over? Without a budget in ms it never is: steps are counted. */
  isOver(share = this.share): boolean {
    if (this.control?.signal?.aborted) throw new CancelledError();
    const ms = this.control?.budgetMs;
    return ms !== undefined && this.now() - this.started >= share * ms;
  }

  /** Without a budget in ms a number of kicks is the measure: the same contours are ordered alike wherever that is done. */
  part(count: number, round: number): (kicks: number) => boolean {
    const ms = this.control?.budgetMs;
    if (ms === undefined) {
      const most = Math.min(KICKS_EACH * count, (MOST_KICKS * count) / this.all) / this.rounds;
      return (kicks) => kicks >= most;
    }
    const began = this.now();
    const spent = (this.started + (this.share * ms * (round + 1)) / this.rounds - began) * Math.min(1, count / Math.max(1, this.all));
    return (kicks) => (kicks & 15) === 0 && this.now() - began >= spent;
  }

  /** The same for what comes after the rounds. */
  rest(): (kicks: number) => boolean {
    const most = Math.min(KICKS_EACH * this.all, MOST_KICKS);
    return this.control?.budgetMs === undefined ? (kicks) => kicks >= most : (kicks) => (kicks & 15) === 0 && this.isOver(SHARE_OF_TIME);
  }
}

const LEAST_ROUNDS = 5;
const MOST_ROUNDS = 60;
/** Contours times rounds, about. */
const ROUNDS_OF = 8000;
const KICKS_EACH = 4;
const MOST_KICKS = 3000;
const SHARE_OF_TIME = 0.9;
/** The same for the rounds where contours lie within others: what lies in one is no longer cut together after them. */
const SHARE_OF_ROUNDS = 0.2;

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
  readonly seed: number;
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
function stopOf(block: Block, { contours, lists }: Pick<Level, 'contours' | 'lists'>): Stop {
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

/** A visit as a tour tells it: begun at another node, or run backwards. */
function visitAs(visit: Visit, { backwards, place }: VisitedStop, { contours, lists }: Pick<Level, 'contours' | 'lists'>): Visit {
  const node = place >= 0 ? lists[visit.contour]?.[place] : undefined;
  if (node) return { contour: visit.contour, start: node.index, enter: node, leave: node };
  if (!backwards || contours[visit.contour]?.closed !== false) return visit;
  const start = visit.start === 0 ? (contours[visit.contour]?.spans.length ?? 0) : 0;
  return { contour: visit.contour, start, enter: visit.leave, leave: visit.enter };
}

/** All contours as one way, each but after what it holds: what lies in one contour need no longer be cut together. */
function orderFlat(
  visits: readonly Visit[],
  parent: Int32Array,
  from: Point,
  level: Pick<Level, 'contours' | 'lists' | 'budget' | 'seed'>,
): Visit[] {
  const placeOf = new Map(visits.map(({ contour }, k) => [contour, k]));
  const holders = Int32Array.from(visits, ({ contour }) => placeOf.get(parent[contour] ?? -1) ?? -1);
  const stops = visits.map((visit) => stopOf([visit], level));
  const tour = new Tour(stops, { from, holders, seed: level.seed });
  tour.descend(() => level.budget.isOver(SHARE_OF_TIME));
  tour.search(level.budget.rest());
  return tour.result().map((told) => visitAs(visits[told.stop] as Visit, told, level));
}

/**
 * The contours within one, each after all that it holds, by short ways: first the blocks as they are, then what lies within
 * each between where the tool comes from and where its holder is begun.
 * @param from where the tool is @param to where it goes then; undefined: anywhere
 */
function orderWithin(holder: number, from: Point | undefined, to: Point | undefined, level: Level): Visit[] {
  const { children, visitOf, rank, budget, round } = level;
  const own = [...(children.get(holder) ?? [])].sort((a, b) => (rank[a] ?? 0) - (rank[b] ?? 0));
  const blocks = own.flatMap((contour): Block[] => {
    const visit = visitOf.get(contour);
    return visit ? [[...heldBy(contour, level), visit]] : [];
  });
  let ordered: Visit[][] = blocks.map((block) => [...block]);
  if (blocks.length > 1) {
    const stops = blocks.map((block) => stopOf(block, level));
    const tour = new Tour(stops, { from, to, seed: level.seed + round, near: nearAsBefore(holder, blocks, level) });
    keepNear(holder, blocks, tour.near, level);
    tour.descend(() => budget.isOver());
    tour.search(budget.part(blocks.length, round));
    ordered = tour.result().map((told) => {
      const block = blocks[told.stop] as Block;
      const only = block.length === 1 ? block[0] : undefined;
      return only ? [visitAs(only, told, level)] : [...block];
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
  const isNested = parent.some((holder) => holder >= 0);
  const budget = new Budget(control, list.length, isNested ? SHARE_OF_ROUNDS : SHARE_OF_TIME);
  let best = nearestFirst(list, parent, from, control);
  const children = childrenOf(parent);
  const lists = list.map(candidates);
  const nearOf: Level['nearOf'] = new Map();
  best = chooseStarts(best, lists, list, from);
  let bestMm = wayOf(best, from);
  const seed = control?.seed ?? 1;
  const random = randomFrom(seed);
  for (let round = 0, current = best; round < budget.rounds && best.length > 2 && !budget.isOver(); round++) {
    const rank = new Int32Array(list.length);
    current.forEach(({ contour }, k) => (rank[contour] = k));
    const visitOf = new Map(current.map((visit) => [visit.contour, visit]));
    const next = orderWithin(-1, from, undefined, { children, visitOf, rank, contours: list, lists, nearOf, budget, round, seed });
    current = chooseStarts(next, lists, list, from);
    const lengthMm = wayOf(current, from);
    if (lengthMm < bestMm - 1e-9) [best, bestMm] = [current, lengthMm];
    else current = begunElsewhere(best, lists, list, random);
    control?.onProgress?.(round + 1, budget.rounds, 'ordering');
  }
  if (isNested) {
    const flat = chooseStarts(orderFlat(best, parent, from, { contours: list, lists, budget, seed }), lists, list, from);
    const lengthMm = wayOf(flat, from);
    if (lengthMm < bestMm) [best, bestMm] = [flat, lengthMm];
  }
  return { order: best.map((v) => v.contour), startIndex: best.map((v) => v.start), travelMm: bestMm };
}
