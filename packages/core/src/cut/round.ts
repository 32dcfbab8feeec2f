/**
 * A round through stops, as a list that stretches are reversed in: what a tour (see `tour.ts`) is made of.
 *
 * Method: order, position and direction of each stop in arrays (J. Bentley, Fast algorithms for geometric traveling salesman
 * problems, 1992): next and last are read off, a stretch is reversed in the time of its length, or of the rest of the round
 * when that is shorter. Everything that is done is logged, so that it can be taken back. The last stop is none: it is
 * entered where the way ends and left where the way begins, which makes a round of an open way.
 * Ends of stops are told by numbers: twice the stop, and one more for its second end. Positions count round.
 */
import type { Point } from '../types/index.ts';

/** Where a piece is entered and left; the other way round when it is run backwards. */
export interface Stop {
  readonly enter: Point;
  readonly leave: Point;
  /** Other places at which it may be entered and left again, x0, y0, x1, y1 …; absent: none. */
  readonly places?: Float64Array;
}

export interface RoundOptions {
  /** Where the way begins, and where it ends; absent: anywhere. */
  readonly from?: Point | undefined;
  readonly to?: Point | undefined;
  /** For each stop one that has to come after it, -1 for none; the order given keeps to that. */
  readonly holders?: Int32Array | undefined;
}

/** A stop as it comes in the way: whether it is run backwards, and which of its places it is begun at, -1: as it came. */
export interface VisitedStop {
  readonly stop: number;
  readonly backwards: boolean;
  readonly place: number;
}

/** Longer ways are not reversed in stretches of more than so many. */
const LONG = 12_000;
const MOST_REVERSED = 1000;

/** The round; the order that the stops are given in is where it begins. */
export class Round {
  /** The stop that makes a round of the way; as many come before it. */
  readonly closing: number;
  readonly count: number;
  readonly places: readonly (Float64Array | undefined)[];
  /** x, y of both ends of each stop, NaN for a place that may be any. */
  private readonly ends: Float64Array;
  /** The same as they came. */
  private readonly came: Float64Array;
  private readonly order: Int32Array;
  private readonly position: Int32Array;
  private readonly flipped: Uint8Array;
  /** Which of its places a stop is begun at; -1: as it came. */
  private readonly begun: Int32Array;
  /** What was done, in pairs: a stretch that was reversed, or (below zero) a stop that was begun elsewhere and where it was before. */
  private log: number[] = [];
  private readonly holders: Int32Array | undefined;
  private readonly most: number;

  constructor(stops: readonly Stop[], { from, to, holders }: RoundOptions) {
    this.closing = stops.length;
    this.count = stops.length + 1;
    this.holders = holders;
    this.places = stops.map(({ places }) => places);
    this.ends = new Float64Array(4 * this.count).fill(NaN);
    stops.forEach(({ enter, leave }, i) => this.ends.set([enter.x, enter.y, leave.x, leave.y], 4 * i));
    if (to) this.ends.set([to.x, to.y], 4 * this.closing);
    if (from) this.ends.set([from.x, from.y], 4 * this.closing + 2);
    this.came = this.ends.slice();
    this.order = Int32Array.from({ length: this.count }, (_, i) => i);
    this.position = Int32Array.from(this.order);
    this.flipped = new Uint8Array(this.count);
    this.begun = new Int32Array(this.count).fill(-1);
    this.most = this.closing > LONG ? MOST_REVERSED : this.count;
  }

  positionOf(stop: number): number {
    return this.position[stop] as number;
  }

  /** A position some places on. */
  on(k: number, by: number): number {
    const sum = k + by;
    return sum >= this.count ? sum - this.count : sum < 0 ? sum + this.count : sum;
  }

  /** The end at which the stop at a position is entered; positions one beyond either end of the list are those of the other. */
  head(k: number): number {
    const stop = this.order[k < 0 ? k + this.count : k >= this.count ? k - this.count : k] as number;
    return 2 * stop + (this.flipped[stop] as number);
  }

  /** The end at which it is left. */
  tail(k: number): number {
    return this.head(k) ^ 1;
  }

  isHead(end: number): boolean {
    return (end & 1) === this.flipped[end >> 1];
  }

  /** The end that the way joins to one. */
  mate(end: number): number {
    const k = this.position[end >> 1] as number;
    return this.isHead(end) ? this.tail(k - 1) : this.head(k + 1);
  }

  /** The way between two ends, mm; none to a place that may be any. */
  gap(a: number, b: number): number {
    return this.gapTo(a, this.ends[2 * b] as number, this.ends[2 * b + 1] as number);
  }

  /** The way from an end to a place, mm. */
  gapTo(end: number, x: number, y: number): number {
    const dx = (this.ends[2 * end] as number) - x;
    const dy = (this.ends[2 * end + 1] as number) - y;
    // not Math.hypot, which is many times slower: this is asked most of all
    const way = Math.sqrt(dx * dx + dy * dy);
    return way === way ? way : 0;
  }

  /** Begins a stop at one of its places, or as it came. */
  begin(stop: number, place: number): void {
    this.log.push(-1 - stop, this.begun[stop] as number);
    this.beginAt(stop, place);
  }

  private beginAt(stop: number, place: number): void {
    const { ends, came, begun } = this;
    const from = place < 0 ? came : (this.places[stop] as Float64Array);
    const [enter, leave] = place < 0 ? [4 * stop, 4 * stop + 2] : [2 * place, 2 * place];
    ends[4 * stop] = from[enter] as number;
    ends[4 * stop + 1] = from[enter + 1] as number;
    ends[4 * stop + 2] = from[leave] as number;
    ends[4 * stop + 3] = from[leave + 1] as number;
    begun[stop] = place;
  }

  /** Forgets what was done: it stays. */
  keep(): void {
    this.log = [];
  }

  /** Takes back all that was done since it was last kept. */
  takeBack(): void {
    for (let k = this.log.length - 2; k >= 0; k -= 2) {
      const [what, was] = [this.log[k] as number, this.log[k + 1] as number];
      if (what < 0) this.beginAt(-1 - what, was);
      else this.turn(what, was);
    }
    this.log = [];
  }

  /** Reverses what lies from position i to j, over the end of the list when j comes before i. */
  private reverse(i: number, j: number): void {
    this.log.push(i, j);
    this.turn(i, j);
  }

  private turn(i: number, j: number): void {
    const { order, position, flipped, count } = this;
    for (let left = this.spanned(i, j) + 1; left > 0; left -= 2) {
      const [a, b] = [order[i] as number, order[j] as number];
      order[i] = b;
      order[j] = a;
      position[b] = i;
      position[a] = j;
      flipped[a] = 1 - (flipped[a] as number);
      if (a !== b) flipped[b] = 1 - (flipped[b] as number);
      if (++i === count) i = 0;
      if (--j < 0) j = count - 1;
    }
  }

  /** How many positions one lies behind another. */
  private spanned(i: number, j: number): number {
    return j < i ? j - i + this.count : j - i;
  }

  /** Runs the stop at a position the other way. @returns whether that may be */
  flip(k: number): boolean {
    // to turn the stop that makes a round is to turn all the rest
    if (this.holders && this.order[k] === this.closing) return false;
    this.reverse(k, k);
    return true;
  }

  private lies(k: number, i: number, j: number): boolean {
    return i <= j ? k >= i && k <= j : k >= i || k <= j;
  }

  /** May a stretch be run the other way: does none of it have to come after another of it? What makes a round is not in it. */
  private mayTurn(i: number, j: number): boolean {
    return !this.holders || !this.holdsAny(i, j, i, j);
  }

  /** May two stretches, one behind the other, change places? */
  private mayPass(i: number, j: number, k: number): boolean {
    if (!this.holders) return true;
    const next = this.on(j, 1);
    return this.flipped[this.closing] === 0 ? !this.holdsAny(i, j, next, k) : !this.holdsAny(next, k, i, j);
  }

  /** Has a stop of the stretch i to j to come before one of another stretch? */
  private holdsAny(i: number, j: number, from: number, to: number): boolean {
    const { order, position, holders } = this;
    for (let k = i; ; k = this.on(k, 1)) {
      const holder = holders?.[order[k] as number] ?? -1;
      if (holder >= 0 && this.lies(position[holder] as number, from, to)) return true;
      if (k === j) return false;
    }
  }

  /** Reverses a stretch, or all that is not in it, which is the same round. @returns whether that may be and is not too long */
  reverseShorter(i: number, j: number): boolean {
    const inside = this.spanned(i, j) + 1;
    if (Math.min(inside, this.count - inside) > this.most) return false;
    const [after, before] = [this.on(j, 1), this.on(i, -1)];
    const isRoundInside = this.holders !== undefined && this.lies(this.position[this.closing] as number, i, j);
    if (!(isRoundInside ? this.mayTurn(after, before) : this.mayTurn(i, j))) return false;
    if (2 * inside <= this.count) this.reverse(i, j);
    else this.reverse(after, before);
    return true;
  }

  /** Two stretches change places: from position `low` so many, and so many behind them. @returns whether that may be */
  swap(low: number, first: number, second: number): boolean {
    const [middle, high] = [this.on(low, first - 1), this.on(low, first + second - 1)];
    if (this.holders && this.lies(this.position[this.closing] as number, low, high)) return false;
    if (!this.mayPass(low, middle, high)) return false;
    this.reverse(low, high);
    this.reverse(low, this.on(low, second - 1));
    this.reverse(this.on(low, second), high);
    return true;
  }

  /** The position behind which the way at an end lies. */
  private wayAt(end: number): number {
    const k = this.position[end >> 1] as number;
    return this.isHead(end) ? this.on(k, -1) : k;
  }

  /**
   * Cuts three ways and joins their ends anew.
   * @param t six ends: the ways 0–1, 2–3 and 4–5 are cut, 1 is joined to 2, 3 to 4 and 5 to 0
   * @returns whether that is one round, may be, and is not too long; else nothing is done
   */
  joinThree(t: Int32Array): boolean {
    const { count } = this;
    const [w1, w2, w3] = [this.wayAt(t[0] as number), this.wayAt(t[2] as number), this.wayAt(t[4] as number)];
    let p = Math.min(w1, w2, w3);
    let r = Math.max(w1, w2, w3);
    let q = w1 + w2 + w3 - p - r;
    // the longest of the three stretches stays as it is, or that which makes a round: the one from r on to p
    const [a, b, c] = [q - p, r - q, count - (r - p)];
    const closing = this.position[this.closing] as number;
    const isFirst = this.holders ? closing > p && closing <= q : a > b && a > c;
    const isSecond = this.holders ? closing > q && closing <= r : b > c;
    if (isFirst) [p, q, r] = [q, r, p];
    else if (isSecond) [p, q, r] = [r, p, q];
    if (this.spanned(p, q) + this.spanned(q, r) > this.most) return false;
    return joinedTo(this.tail(p), t) === this.tail(q) ? this.turnBoth(p, q, r, t) : this.passOver(p, q, r, t);
  }

  /** Each of two stretches is turned where it lies. */
  private turnBoth(p: number, q: number, r: number, t: Int32Array): boolean {
    const [low, next] = [this.on(p, 1), this.on(q, 1)];
    if (joinedTo(this.head(low), t) !== this.tail(r) || !this.mayTurn(low, q) || !this.mayTurn(next, r)) return false;
    this.reverse(low, q);
    this.reverse(next, r);
    return true;
  }

  /** Two stretches change places, as they are or one of them turned. */
  private passOver(p: number, q: number, r: number, t: Int32Array): boolean {
    const [low, next] = [this.on(p, 1), this.on(q, 1)];
    const [from, head, tail] = [joinedTo(this.tail(p), t), this.head(next), this.tail(r)];
    if (from !== head && from !== tail) return false;
    const [isSecondTurned, to] = [from === tail, joinedTo(from === head ? tail : head, t)];
    const isFirstTurned = !isSecondTurned && to === this.tail(q);
    if (to !== this.head(low) && !isFirstTurned) return false;
    if (!this.mayPass(low, q, r) || (isFirstTurned && !this.mayTurn(low, q)) || (isSecondTurned && !this.mayTurn(next, r))) return false;
    const middle = this.on(p, this.spanned(q, r));
    this.reverse(low, r);
    // now the second comes first, and both are turned
    if (!isSecondTurned) this.reverse(low, middle);
    if (!isFirstTurned) this.reverse(this.on(middle, 1), r);
    return true;
  }

  /** The stops in the order of the way. */
  visited(): VisitedStop[] {
    const { closing, count, order, flipped, begun } = this;
    const isTurned = flipped[closing] === 1;
    // the way leaves the stop that makes a round by its second end
    return Array.from({ length: closing }, (_, k) => {
      const stop = order[(this.positionOf(closing) + (k + 1) * (isTurned ? count - 1 : 1)) % count] as number;
      return { stop, backwards: (flipped[stop] === 1) !== isTurned, place: begun[stop] as number };
    });
  }
}

/** The end that one of six is to be joined to. */
function joinedTo(end: number, t: Int32Array): number {
  if (end === t[0]) return t[5] as number;
  if (end === t[1]) return t[2] as number;
  if (end === t[2]) return t[1] as number;
  if (end === t[3]) return t[4] as number;
  return (end === t[4] ? t[3] : t[0]) as number;
}
