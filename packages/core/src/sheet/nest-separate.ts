/**
 * Making a layout shorter: a little is cut out of the strip somewhere, what lies beyond moves up, and the parts that collide are
 * moved until none do. Cut out anywhere, not off the end: the collisions lie where there may be room, each time elsewhere.
 *
 * Method: guided local search over overlapping layouts (J. Egeblad, B. Nielsen, A. Odgaard, Fast neighborhood search for two-
 * and three-dimensional nesting problems, EJOR 183, 2007; the weights after C. Voudouris, E. Tsang, Guided local search,
 * EJOR 113, 1999): each part that collides is tried at places all over the strip and near its own, the best of them are bettered
 * by steps along and across, and it goes where its weighted collisions are least. Pairs that go on colliding weigh more and
 * more. Where that does not end, two large parts change places – where all are alike, one goes elsewhere – and it begins again.
 * Every layout that is handed out is free of collisions. Units mm. Cost: a place costs about the sides of its neighbours.
 */
import { shuffled } from '../search/random.ts';
import { Contacts } from './nest-contact.ts';
import { OverlappingLayout } from './nest-overlapping.ts';
import { Pairs } from './nest-pairs.ts';
import type { TurnedSolid } from './nest-solid.ts';

/** A solid in its allowed turns, made when they are asked for. */
export interface Turns {
  readonly length: number;
  at(turn: number): TurnedSolid;
}

/** A copy of a part. */
export interface Movable {
  readonly turns: Turns;
  readonly isFixed: boolean;
}

/** Where a copy lies: which of its turns, and where its box begins, mm. */
export interface Lie {
  turn: number;
  x: number;
  y: number;
}

/** The strip, and the lot and the clock that the search is given. */
export interface Ground {
  readonly acrossMm: number;
  readonly random: () => number;
  readonly isOver: () => boolean;
}

/** Places that are tried: all over the strip, and near where the part lies. */
const ALL_OVER = 14;
const NEAR = 24;
/** Others beside which it is tried, where their sides lie along its own. */
const BESIDE = 6;
/** Their contacts are at least this share of the smaller one's size; so many of a pair are tried. */
const CONTACT_SHARE = 0.1;
const CONTACTS = 6;
/** A place so little beyond the edge of the strip is on it, mm. */
const EDGE_MM = 0.05;
/** So many of them are bettered. */
const BETTERED = 2;
/** First steps, and the coarse ones that candidates are bettered to, as shares of a part's size; the best goes on to the finest. */
const FIRST_SHARE = 0.06;
const COARSE_SHARE = 0.006;
const FINEST_MM = 0.002;
/** More turns than so many are gone through one by one. */
const FINE_TURNS = 16;
/** Less collision is worth going on for from this share on. */
const WORTH = 0.98;
/** As wide as the strip is not wider. */
const EQUAL_MM = 1e-6;
/** Rounds without a better layout after which a search begins anew, and how often it does. */
const PATIENCE = 30;
const STRIKES = 1;
/** Parts of the largest quarter change places, if they are not all alike. */
const LARGE_SHARE = 0.25;

interface Place {
  turn: number;
  x: number;
  y: number;
  cost: number;
}

/** The layout that is worked on. */
export class Separation {
  private readonly turn: Int32Array;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly solids: TurnedSolid[];
  private readonly overlapping: OverlappingLayout;
  private readonly pairs: Pairs;
  private readonly n: number;
  private readonly contacts = new Contacts(CONTACT_SHARE, CONTACTS);
  private lengthMm = 0;

  constructor(
    private readonly parts: readonly Movable[],
    start: readonly Lie[],
    private readonly ground: Ground,
  ) {
    this.n = parts.length;
    this.overlapping = new OverlappingLayout(this.n);
    this.turn = new Int32Array(this.n);
    this.x = new Float64Array(this.n);
    this.y = new Float64Array(this.n);
    this.solids = parts.map(({ turns }) => turns.at(0));
    this.pairs = new Pairs(this.overlapping);
    this.restore(start);
  }

  /** Where everything lies now. */
  layout(): Lie[] {
    return this.solids.map((_, i) => ({ turn: this.turn[i] as number, x: this.x[i] as number, y: this.y[i] as number }));
  }

  restore(lies: readonly Lie[]): void {
    lies.forEach(({ turn, x, y }, i) => this.put(i, turn, x, y));
  }

  private put(i: number, turn: number, x: number, y: number): void {
    this.turn[i] = turn;
    this.x[i] = x;
    this.y[i] = y;
    const solid = (this.parts[i] as Movable).turns.at(turn);
    this.solids[i] = solid;
    this.overlapping.put(i, solid, x, y);
  }

  private solid(i: number): TurnedSolid {
    return this.solids[i] as TurnedSolid;
  }

  /** End of the work on the strip. */
  usedMm(): number {
    let most = 0;
    for (let i = 0; i < this.n; i++) most = Math.max(most, num(this.x, i) + this.solid(i).lengthMm);
    return most;
  }

  /** What lies beyond a place of the strip moves along it. */
  private moveBeyond(placeMm: number, byMm: number): void {
    for (let i = 0; i < this.n; i++) {
      const isBeyond = num(this.x, i) + this.solid(i).lengthMm / 2 >= placeMm;
      if (isBeyond && !(this.parts[i] as Movable).isFixed)
        this.put(i, this.turn[i] as number, Math.max(0, num(this.x, i) + byMm), num(this.y, i));
    }
  }

  /** Cuts the strip. @param goesOn with the weights that were found @returns false when something cannot lie on it in any turn */
  shorten(lengthMm: number, goesOn = false): boolean {
    this.lengthMm = lengthMm;
    if (!goesOn) this.pairs.forget();
    const { acrossMm, random } = this.ground;
    const usedMm = this.usedMm();
    if (usedMm > lengthMm) this.moveBeyond(random() * usedMm, lengthMm - usedMm);
    for (let i = 0; i < this.n; i++) {
      if (num(this.x, i) + this.solid(i).lengthMm <= lengthMm) continue;
      const part = this.parts[i] as Movable;
      const turn = this.solid(i).lengthMm <= lengthMm ? (this.turn[i] as number) : this.turnWithin(part, lengthMm);
      if (part.isFixed || turn === undefined) return false;
      const solid = part.turns.at(turn);
      this.put(i, turn, clamp(num(this.x, i), lengthMm - solid.lengthMm), clamp(num(this.y, i), acrossMm - solid.acrossMm));
    }
    return true;
  }

  private turnWithin({ turns }: Movable, lengthMm: number): number | undefined {
    for (let turn = 0; turn < turns.length; turn++) if (this.fits(turns.at(turn), lengthMm)) return turn;
    return undefined;
  }

  private fits(solid: TurnedSolid, lengthMm = this.lengthMm): boolean {
    return solid.lengthMm <= lengthMm && solid.acrossMm <= this.ground.acrossMm + EQUAL_MM;
  }

  private lookAround(i: number, solid: TurnedSolid, { x, y }: Place): void {
    this.overlapping.lookAround(i, this.overlapping.addressOf(solid), x, y);
  }

  /** Weighted collisions of a part in a place; anything above `limit` is too much. */
  private costAt(i: number, solid: TurnedSolid, x: number, y: number, limit: number): number {
    return this.overlapping.costAt(i, this.overlapping.addressOf(solid), x, y, limit);
  }

  private anyTurn(count: number, now: number): number {
    const { random } = this.ground;
    if (count === 1) return 0;
    // of fine turns those beside the one it lies in are as likely as all others
    if (count > FINE_TURNS && random() < 0.5) return (now + count + Math.round((random() - 0.5) * 8)) % count;
    return Math.floor(random() * count);
  }

  /** A part goes where it collides least. */
  private move(i: number): void {
    const { random, acrossMm } = this.ground;
    const { turns } = this.parts[i] as Movable;
    const own: Place = { turn: this.turn[i] as number, x: num(this.x, i), y: num(this.y, i), cost: 0 };
    this.lookAround(i, this.solid(i), own);
    own.cost = this.costAt(i, this.solid(i), own.x, own.y, Infinity);
    if (own.cost === 0) return;
    const best: Place[] = [];
    for (let k = 0; k < NEAR + ALL_OVER && best[0]?.cost !== 0; k++) {
      const turn = this.anyTurn(turns.length, own.turn);
      const solid = turns.at(turn);
      if (!this.fits(solid)) continue;
      const reach = solid.sizeMm;
      const [x, y] =
        k < NEAR
          ? [own.x + (random() - 0.5) * reach, own.y + (random() - 0.5) * reach]
          : [random() * (this.lengthMm - solid.lengthMm), random() * (acrossMm - solid.acrossMm)];
      this.offer(best, i, solid, { turn, x: clamp(x, this.lengthMm - solid.lengthMm), y: clamp(y, acrossMm - solid.acrossMm), cost: 0 });
    }
    if (turns.length <= FINE_TURNS) this.offerBeside(best, i, own.turn);
    const coarse = COARSE_SHARE * this.solid(i).sizeMm;
    let target = this.bettered(i, own, coarse);
    for (const place of best) {
      if (target.cost === 0) break;
      const found = this.bettered(i, place, coarse);
      if (found.cost < target.cost) target = found;
    }
    if (target.cost > 0) target = this.bettered(i, target, FINEST_MM);
    if (target.cost < own.cost) this.put(i, target.turn, target.x, target.y);
  }

  /** Places where its sides lie along those of others. */
  private offerBeside(best: Place[], i: number, now: number): void {
    const { random, acrossMm } = this.ground;
    const { turns } = this.parts[i] as Movable;
    for (let k = 0; k < BESIDE && best[0]?.cost !== 0; k++) {
      const j = Math.floor(random() * this.n);
      if (j === i) continue;
      const turn = this.anyTurn(turns.length, now);
      const solid = turns.at(turn);
      if (!this.fits(solid)) continue;
      for (const { dx, dy } of this.contacts.of(this.solid(j), solid)) {
        const [x, y] = [num(this.x, j) + dx, num(this.y, j) + dy];
        const [onX, onY] = [clamp(x, this.lengthMm - solid.lengthMm), clamp(y, acrossMm - solid.acrossMm)];
        // beyond the edge of the strip there is no place
        if (Math.abs(onX - x) > EDGE_MM || Math.abs(onY - y) > EDGE_MM) continue;
        this.offer(best, i, solid, { turn, x: onX, y: onY, cost: 0 });
      }
    }
  }

  /** Keeps a place when it is among the best. */
  private offer(best: Place[], i: number, solid: TurnedSolid, place: Place): void {
    const worst = best.length < BETTERED ? Infinity : (best.at(-1) as Place).cost;
    place.cost = this.costAt(i, solid, place.x, place.y, worst);
    if (place.cost >= worst) return;
    best.push(place);
    best.sort((a, b) => a.cost - b.cost);
    if (best.length > BETTERED) best.pop();
  }

  /** Steps along, across and aslant, and turns to the next one, while they better a place. */
  private bettered(i: number, from: Place, finestMm: number): Place {
    const { random } = this.ground;
    const { turns } = this.parts[i] as Movable;
    const place = { ...from };
    let solid = turns.at(place.turn);
    this.lookAround(i, solid, place);
    let step = finestMm > FINEST_MM ? FIRST_SHARE * solid.sizeMm : COARSE_SHARE * solid.sizeMm;
    let across = step;
    while (place.cost > 0 && (step > finestMm || across > finestMm)) {
      const way = random();
      const dx = way < 0.35 || way > 0.7 ? step : 0;
      const dy = way < 0.35 ? 0 : way > 0.85 ? -across : across;
      const factor = this.stepped(i, place, solid, dx, dy) || this.stepped(i, place, solid, -dx, -dy) ? 1.1 : 0.5;
      if (dx > 0) step = Math.max(finestMm / 2, step * factor);
      if (dy !== 0) across = Math.max(finestMm / 2, across * factor);
      if (turns.length > FINE_TURNS && random() < 0.1) solid = this.turnedOn(i, place, solid);
    }
    return place;
  }

  /** A step, when it betters the place. */
  private stepped(i: number, place: Place, solid: TurnedSolid, dx: number, dy: number): boolean {
    const x = clamp(place.x + dx, this.lengthMm - solid.lengthMm);
    const y = clamp(place.y + dy, this.ground.acrossMm - solid.acrossMm);
    if (x === place.x && y === place.y) return false;
    const cost = this.costAt(i, solid, x, y, place.cost);
    if (cost >= place.cost) return false;
    [place.x, place.y, place.cost] = [x, y, cost];
    return true;
  }

  /** The turn beside it, about its middle, when that is better. */
  private turnedOn(i: number, place: Place, solid: TurnedSolid): TurnedSolid {
    const { turns } = this.parts[i] as Movable;
    const turn = (place.turn + turns.length + (this.ground.random() < 0.5 ? 1 : -1)) % turns.length;
    const next = turns.at(turn);
    if (!this.fits(next)) return solid;
    const x = clamp(place.x + (solid.lengthMm - next.lengthMm) / 2, this.lengthMm - next.lengthMm);
    const y = clamp(place.y + (solid.acrossMm - next.acrossMm) / 2, this.ground.acrossMm - next.acrossMm);
    const cost = this.costAt(i, next, x, y, place.cost);
    if (cost >= place.cost) return solid;
    [place.turn, place.x, place.y, place.cost] = [turn, x, y, cost];
    return next;
  }

  /** Does nothing collide? Between what is fixed it is no matter. */
  isFree(): boolean {
    this.measureAll();
    for (let i = 0; i < this.n; i++) if (!(this.parts[i] as Movable).isFixed && this.pairs.collides(i)) return false;
    return true;
  }

  private measureAll(): number {
    for (let i = 0; i < this.n; i++) this.overlapping.measure(i);
    return this.pairs.sum();
  }

  /** Moves what collides once, in any order. @returns false when the time was over */
  private round(): boolean {
    for (const i of shuffled(this.parts.keys(), this.ground.random)) {
      if ((this.parts[i] as Movable).isFixed || !this.pairs.collides(i)) continue;
      if (this.ground.isOver()) return false;
      this.move(i);
      this.overlapping.measure(i);
    }
    return true;
  }

  /** Moves what collides until nothing does. @returns whether that was reached; else the least colliding layout stays */
  separate(): boolean {
    let least = this.measureAll();
    let kept = this.layout();
    for (let strike = 0; strike < STRIKES && least > 0; strike++) {
      const before = least;
      for (let idle = 0; idle < PATIENCE; idle++) {
        if (!this.round()) {
          this.restore(kept);
          return false;
        }
        const now = this.pairs.sum();
        if (now === 0) return true;
        if (now < least) {
          if (now < WORTH * least) idle = 0;
          least = now;
          kept = this.layout();
        }
        this.pairs.reweigh();
      }
      this.restore(kept);
      this.measureAll();
      if (least < WORTH * before) strike = -1;
    }
    return least === 0;
  }

  /** The largest quarter; where that is of one shape, those of the next smaller shape besides. */
  private largeParts(): number[] {
    const shapeOf = (i: number | undefined): Turns | undefined => (i === undefined ? undefined : this.parts[i]?.turns);
    const movable = this.parts.flatMap(({ isFixed }, i) => (isFixed ? [] : [i]));
    const bySize = movable.sort((a, b) => this.solid(b).sizeMm - this.solid(a).sizeMm);
    let count = Math.max(2, Math.ceil(LARGE_SHARE * bySize.length));
    if (bySize.slice(0, count).some((i) => shapeOf(i) !== shapeOf(bySize[0]))) return bySize.slice(0, count);
    while (count < bySize.length && shapeOf(bySize[count]) === shapeOf(bySize[0])) count++;
    const next = shapeOf(bySize[count]);
    while (count < bySize.length && shapeOf(bySize[count]) === next) count++;
    return bySize.slice(0, count);
  }

  /** One of them goes to any place of the strip. */
  private throwOne(of: readonly number[]): void {
    const { random, acrossMm } = this.ground;
    const i = of[Math.floor(random() * of.length)] as number;
    const { turns } = this.parts[i] as Movable;
    const turn = Math.floor(random() * turns.length);
    const { lengthMm, acrossMm: own } = turns.at(turn);
    if (lengthMm > this.lengthMm || own > acrossMm) return;
    this.put(i, turn, random() * (this.lengthMm - lengthMm), random() * (acrossMm - own));
  }

  /**
   * Two large parts of different shape change places; where all are alike, one of them goes elsewhere, in any turn.
   * @param openMm the strip is opened by so much where the smaller of the two was
   */
  disturb(openMm = 0): void {
    const { random, acrossMm } = this.ground;
    const large = this.largeParts();
    const [first] = large;
    if (first === undefined) return;
    if (large.every((i) => (this.parts[i] as Movable).turns === (this.parts[first] as Movable).turns)) return this.throwOne(large);
    const pick = (): number => large[Math.floor(random() * large.length)] as number;
    const change = (i: number, x: number, y: number, other: TurnedSolid): void => {
      const solid = this.solid(i);
      const [cx, cy] = [x + (other.lengthMm - solid.lengthMm) / 2, y + (other.acrossMm - solid.acrossMm) / 2];
      this.put(i, this.turn[i] as number, clamp(cx, this.lengthMm - solid.lengthMm), clamp(cy, acrossMm - solid.acrossMm));
    };
    for (let tries = 0; tries < 12; tries++) {
      const [i, j] = [pick(), pick()];
      if (i === j || (this.parts[i] as Movable).turns === (this.parts[j] as Movable).turns) continue;
      if (openMm > 0) {
        const small = this.solid(i).sizeMm < this.solid(j).sizeMm ? i : j;
        const at = num(this.x, small);
        this.moveBeyond(at + this.solid(small).lengthMm / 2, openMm);
        this.put(small, this.turn[small] as number, at + openMm / 2, num(this.y, small));
      }
      const [x, y, solid] = [num(this.x, i), num(this.y, i), this.solid(i)];
      change(i, num(this.x, j), num(this.y, j), this.solid(j));
      change(j, x, y, solid);
      return;
    }
  }
}

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;

const clamp = (v: number, most: number): number => (v < 0 || most <= 0 ? 0 : v > most ? most : v);
