/**
 * A short way through many pieces of work, each entered at one end and left at the other.
 *
 * Method: 2-opt and Or-opt moves among near neighbours, from a queue of what may still be improved (J. Bentley, Fast
 * algorithms for geometric traveling salesman problems, 1992), all made of reversals, so that they can be taken back; then
 * kicks: two neighbouring stretches of the way change places, what is about them is improved again, and what is longer is
 * taken back. A piece that comes back to where it was begun, and may be begun at several places, is begun at the best of them
 * whenever what is about it has changed, as a move among the others (O. Martin, S. Otto, E. Felten, Large-step Markov chains for the TSP, 1991; kicks within a stretch: D. Applegate,
 * W. Cook, A. Rohe, Chained Lin-Kernighan for large problems, 2003). The way is open: from a given place or any, to a given one or any.
 * Seeded; for a given number of kicks the same every time.
 */
import type { Box, Point } from '../types/index.ts';
import { randomFrom } from '../search/random.ts';
import Flatbush from 'flatbush';

/** Where a piece is entered and left; the other way round when it is run backwards. */
export interface Stop {
  readonly enter: Point;
  readonly leave: Point;
  /** Other places at which it may be entered and left again, x0, y0, x1, y1 …; absent: none. */
  readonly places?: Float64Array;
}

/** Stops that are looked at about each. */
export const NEIGHBOURS = 8;
const SEGMENT = 3;
const KICK = 30;
/** Longer ways are not reversed in stretches of more than so many. */
const LONG = 12_000;
const MOST_REVERSED = 1000;
const LEAST_GAIN = 1e-9;

const pointBox = (x: number, y: number): Box => ({ minX: x, minY: y, maxX: x, maxY: y });

function boxOf(places: Float64Array): Box {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let p = 0; p < places.length; p += 2) {
    [minX, maxX] = [Math.min(minX, places[p] as number), Math.max(maxX, places[p] as number)];
    [minY, maxY] = [Math.min(minY, places[p + 1] as number), Math.max(maxY, places[p + 1] as number)];
  }
  return { minX, minY, maxX, maxY };
}

const distanceTo = (from: Point | undefined, x: number, y: number): number => {
  if (!from) return 0;
  const dx = x - from.x;
  const dy = y - from.y;
  return Math.sqrt(dx * dx + dy * dy);
};

/** A way through stops that is made shorter. The order that it is given is where it begins. */
export class Tour {
  private readonly n: number;
  /** x, y of both ends of each stop. */
  private readonly ends: Float64Array;
  /** The same as they came. */
  private readonly came: Float64Array;
  private readonly order: Int32Array;
  private readonly position: Int32Array;
  private readonly flipped: Uint8Array;
  /** Stops near each, so many a stop, -1 for none. */
  readonly near: Int32Array;
  private readonly queued: Uint8Array;
  private queue: number[] = [];
  /** What was done: a stretch that was reversed, or (below zero) a stop that was begun elsewhere and where it was before. */
  private log: [number, number][] = [];
  private readonly places: readonly (Float64Array | undefined)[];
  /** Which of its places a stop is begun at; -1: as it came. */
  private readonly begun: Int32Array;
  private readonly most: number;
  private readonly random: () => number;

  /** @param from where the way begins @param to where it ends; undefined: anywhere @param near of a tour of the same stops, as `near` of it */
  constructor(
    stops: readonly Stop[],
    private readonly from: Point | undefined,
    private readonly to: Point | undefined,
    seed = 1,
    near?: Int32Array,
  ) {
    this.n = stops.length;
    this.ends = new Float64Array(4 * this.n);
    stops.forEach(({ enter, leave }, i) => this.ends.set([enter.x, enter.y, leave.x, leave.y], 4 * i));
    this.order = Int32Array.from(stops, (_, i) => i);
    this.position = Int32Array.from(this.order);
    this.flipped = new Uint8Array(this.n);
    this.queued = new Uint8Array(this.n);
    this.places = stops.map(({ places }) => places);
    this.begun = new Int32Array(this.n).fill(-1);
    this.came = this.ends.slice();
    this.near = near ?? this.neighbours();
    this.most = this.n > LONG ? MOST_REVERSED : this.n;
    this.random = randomFrom(seed);
  }

  private neighbours(): Int32Array {
    const { n, ends } = this;
    const near = new Int32Array(n * NEIGHBOURS).fill(-1);
    if (n < 2) return near;
    // what may be begun at several places is near by all of them
    const boxes = this.places.map((places) => places && boxOf(places));
    const tree = new Flatbush(2 * n);
    for (let i = 0; i < n; i++)
      for (const side of [0, 2]) {
        const { minX, minY, maxX, maxY } = boxes[i] ?? pointBox(ends[4 * i + side] as number, ends[4 * i + side + 1] as number);
        tree.add(minX, minY, maxX, maxY);
      }
    tree.finish();
    for (let i = 0; i < n; i++) {
      const found = new Set<number>();
      const box = boxes[i];
      for (const side of [0, 2]) {
        const x = box ? (box.minX + box.maxX) / 2 : (ends[4 * i + side] as number);
        const y = box ? (box.minY + box.maxY) / 2 : (ends[4 * i + side + 1] as number);
        for (const hit of tree.neighbors(x, y, 2 * NEIGHBOURS + 2)) {
          const j = hit >> 1;
          if (j !== i && found.size < (side === 0 && !box ? NEIGHBOURS / 2 : NEIGHBOURS)) found.add(j);
        }
      }
      [...found].slice(0, NEIGHBOURS).forEach((j, k) => (near[i * NEIGHBOURS + k] = j));
    }
    return near;
  }

  /** Index of the x of the entering (0) or leaving (1) end at a position. */
  private end(k: number, side: 0 | 1): number {
    const stop = this.order[k] as number;
    return 4 * stop + 2 * (side ^ (this.flipped[stop] as number));
  }

  private gap(a: number, b: number): number {
    const { ends } = this;
    const dx = (ends[a] as number) - (ends[b] as number);
    const dy = (ends[a + 1] as number) - (ends[b + 1] as number);
    // not Math.hypot, which is many times slower: this is asked most of all
    return Math.sqrt(dx * dx + dy * dy);
  }

  /** Least distance between the ends of two stops. */
  private apart(a: number, b: number): number {
    return Math.min(this.gap(4 * a, 4 * b), this.gap(4 * a, 4 * b + 2), this.gap(4 * a + 2, 4 * b), this.gap(4 * a + 2, 4 * b + 2));
  }

  /** Way from an end to a place; nothing when there is no such place. */
  private away(end: number, place: Point | undefined): number {
    return place ? Math.hypot(place.x - (this.ends[end] as number), place.y - (this.ends[end + 1] as number)) : 0;
  }

  /** Way from before a position to an end; nothing before the first unless the way begins somewhere. */
  private into(k: number, to: number): number {
    return k > 0 ? this.gap(this.end(k - 1, 1), to) : this.away(to, this.from);
  }

  /** Way from an end to what comes after a position; nothing after the last unless the way ends somewhere. */
  private outOf(k: number, end: number): number {
    return k + 1 < this.n ? this.gap(end, this.end(k + 1, 0)) : this.away(end, this.to);
  }

  /** Way from one position to a later one when nothing lies between; -1 and n stand for where the way begins and ends. */
  private between(k: number, next: number): number {
    if (next < this.n) return this.into(k + 1, this.end(next, 0));
    if (k >= 0) return this.away(this.end(k, 1), this.to);
    return this.from && this.to ? Math.hypot(this.from.x - this.to.x, this.from.y - this.to.y) : 0;
  }

  private reverse(i: number, j: number): void {
    this.log.push([i, j]);
    this.turn(i, j);
  }

  private turn(i: number, j: number): void {
    const { order, position, flipped } = this;
    for (; i <= j; i++, j--) {
      const [a, b] = [order[i] as number, order[j] as number];
      order[i] = b;
      order[j] = a;
      position[b] = i;
      position[a] = j;
      flipped[a] = 1 - (flipped[a] as number);
      if (a !== b) flipped[b] = 1 - (flipped[b] as number);
    }
  }

  private touch(k: number): void {
    if (k < 0 || k >= this.n) return;
    const stop = this.order[k] as number;
    if (this.queued[stop] === 1) return;
    this.queued[stop] = 1;
    this.queue.push(stop);
  }

  private touchAll(...positions: number[]): void {
    for (const k of positions) this.touch(k);
  }

  /** What reversing the stretch from i to j gains. */
  private gainOf(i: number, j: number): number {
    if (i >= j && i !== j) return 0;
    const [first, last] = [this.end(i, 0), this.end(j, 1)];
    return this.into(i, first) + this.outOf(j, last) - this.into(i, last) - this.outOf(j, first);
  }

  private tryReverse(i: number, j: number): number {
    if (i < 0 || j >= this.n || i > j || j - i >= this.most) return 0;
    const gain = this.gainOf(i, j);
    if (gain <= LEAST_GAIN) return 0;
    this.reverse(i, j);
    this.touchAll(i - 1, i, j, j + 1);
    return gain;
  }

  /** Moves the stretch from i to j between k and k + 1 (k outside of it), as it is or turned, when that is shorter. */
  private tryMove(i: number, j: number, k: number): number {
    if (k >= i - 1 && k <= j) return 0;
    if (k < -1 || k >= this.n || Math.abs(k - i) >= this.most) return 0;
    const [first, last] = [this.end(i, 0), this.end(j, 1)];
    const freed = this.into(i, first) + this.outOf(j, last) - this.between(i - 1, j + 1);
    if (freed <= LEAST_GAIN) return 0;
    const joined = this.between(k, k + 1);
    const straight = this.into(k + 1, first) + this.outOf(k, last);
    const turned = this.into(k + 1, last) + this.outOf(k, first);
    const gain = freed + joined - Math.min(straight, turned);
    if (gain <= LEAST_GAIN) return 0;
    const length = j - i + 1;
    // the stretch and what it passes are reversed together, then each by itself
    const [low, high] = k > j ? [i, k] : [k + 1, j];
    this.reverse(low, high);
    const [own, passed] =
      k > j
        ? [
            [high - length + 1, high],
            [low, high - length],
          ]
        : [
            [low, low + length - 1],
            [low + length, high],
          ];
    this.reverse(passed[0] as number, passed[1] as number);
    if (straight <= turned) this.reverse(own[0] as number, own[1] as number);
    this.touchAll(low - 1, low, high, high + 1, own[0] as number, own[1] as number, (own[0] as number) - 1, (own[1] as number) + 1);
    return gain;
  }

  private pointAt(end: number): Point {
    return { x: this.ends[end] as number, y: this.ends[end + 1] as number };
  }

  private begin(stop: number, place: number): void {
    const { ends, came, begun } = this;
    const from = place < 0 ? came : (this.places[stop] as Float64Array);
    const [enter, leave] = place < 0 ? [4 * stop, 4 * stop + 2] : [2 * place, 2 * place];
    ends[4 * stop] = from[enter] as number;
    ends[4 * stop + 1] = from[enter + 1] as number;
    ends[4 * stop + 2] = from[leave] as number;
    ends[4 * stop + 3] = from[leave + 1] as number;
    begun[stop] = place;
  }

  /** Begins a stop at the place that lies best between what comes before and after it. */
  private tryBegin(stop: number): number {
    const places = this.places[stop];
    if (!places) return 0;
    const k = this.position[stop] as number;
    const before = k > 0 ? this.pointAt(this.end(k - 1, 1)) : this.from;
    const after = k + 1 < this.n ? this.pointAt(this.end(k + 1, 0)) : this.to;
    const now = this.into(k, this.end(k, 0)) + this.outOf(k, this.end(k, 1));
    let [best, least] = [-1, now - LEAST_GAIN];
    for (let p = 0; p < places.length; p += 2) {
      const x = places[p] as number;
      const y = places[p + 1] as number;
      const way = distanceTo(before, x, y) + distanceTo(after, x, y);
      if (way < least) [least, best] = [way, p / 2];
    }
    if (best < 0) return 0;
    this.log.push([-1 - stop, this.begun[stop] as number]);
    this.begin(stop, best);
    this.touchAll(k - 1, k, k + 1);
    return now - least;
  }

  /** @returns what the first move about a stop that helps gains */
  private improve(stop: number): number {
    const { near, position } = this;
    const begun = this.tryBegin(stop);
    if (begun > 0) return begun;
    const k = position[stop] as number;
    const turned = this.tryReverse(k, k);
    if (turned > 0) return turned;
    // a move can only help when what it joins is nearer than what it cuts
    const longest = Math.max(this.into(k, this.end(k, 0)), this.outOf(k, this.end(k, 1)));
    for (let m = 0; m < NEIGHBOURS; m++) {
      const other = near[stop * NEIGHBOURS + m] as number;
      if (other < 0) break;
      if (this.apart(stop, other) >= longest - LEAST_GAIN) continue;
      const [i, j] = [position[stop] as number, position[other] as number];
      const [low, high] = i < j ? [i, j] : [j, i];
      const gain = this.tryReverse(low + 1, high) || this.tryReverse(low, high - 1) || this.tryReverse(low, high) || this.tryMoves(i, j);
      if (gain > 0) return gain;
    }
    return 0;
  }

  /** Moves stretches that begin or end at place `i` to before or behind place `j`. @returns what the first that helps gains */
  private tryMoves(i: number, j: number): number {
    for (let length = 1; length <= SEGMENT; length++)
      for (const start of [i, i - length + 1]) {
        const last = start + length - 1;
        if (start < 0 || last >= this.n || (j >= start && j <= last)) continue;
        const moved = this.tryMove(start, last, j) || this.tryMove(start, last, j - 1);
        if (moved > 0) return moved;
      }
    return 0;
  }

  private settle(isOver: () => boolean = () => false): number {
    let gain = 0;
    for (let k = 0; k < this.queue.length; k++) {
      if ((k & 63) === 63 && isOver()) {
        for (const stop of this.queue) this.queued[stop] = 0;
        break;
      }
      const stop = this.queue[k] as number;
      this.queued[stop] = 0;
      for (let found = this.improve(stop); found > 0; found = this.improve(stop)) gain += found;
      if (k > 4096) {
        this.queue = this.queue.slice(k + 1);
        k = -1;
      }
    }
    this.queue = [];
    return gain;
  }

  private length(low: number, high: number): number {
    let sum = 0;
    for (let k = Math.max(0, low); k <= high && k < this.n; k++) sum += this.into(k, this.end(k, 0));
    return high < this.n ? sum : sum + this.outOf(this.n - 1, this.end(this.n - 1, 1));
  }

  /** Two neighbouring stretches change places; what is no shorter then is taken back. */
  private kick(): void {
    const reach = Math.min(KICK, Math.floor((this.n - 1) / 2));
    const [a, b] = [1 + Math.floor(this.random() * reach), 1 + Math.floor(this.random() * reach)];
    const low = Math.floor(this.random() * (this.n - a - b + 1));
    const high = low + a + b - 1;
    this.log = [];
    const before = this.length(low, high + 1);
    this.reverse(low, high);
    this.reverse(low, low + b - 1);
    this.reverse(low + b, high);
    let gain = before - this.length(low, high + 1);
    this.touchAll(low - 1, low, low + b - 1, low + b, high, high + 1);
    gain += this.settle();
    if (gain >= -1e-12) return;
    for (let k = this.log.length - 1; k >= 0; k--) {
      const [what, was] = this.log[k] as [number, number];
      if (what < 0) this.begin(-1 - what, was);
      else this.turn(what, was);
    }
  }

  /** Improves the way as it stands. @param isOver asked now and then: what is found by then stays */
  descend(isOver?: () => boolean): void {
    for (let k = 0; k < this.n; k++) this.touch(k);
    this.settle(isOver);
    this.log = [];
  }

  /** Kicks until it is enough. @param isOver asked before each some of them */
  search(isOver: (kicks: number) => boolean): void {
    if (this.n < 3) return;
    for (let kicks = 0; !isOver(kicks); kicks++) this.kick();
  }

  /** Stops in the order of the way, which of them are run backwards, and at which of its places each is begun (-1: as it came). */
  result(): { readonly stop: number; readonly backwards: boolean; readonly place: number }[] {
    return Array.from(this.order, (stop) => ({ stop, backwards: this.flipped[stop] === 1, place: this.begun[stop] as number }));
  }
}
