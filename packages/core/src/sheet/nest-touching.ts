/**
 * A layout in which parts lie along one another: each next one goes where most of its outline is met by what lies there
 * already, or by the edges of the strip. What was cut out of one sheet, or was drawn to go together, is so put together again.
 *
 * Method: greedy by contact (as picture puzzles are put together: H. Freeman, L. Garder, Apictorial jigsaw puzzles, IEEE
 * Trans. EC 13, 1964), the places from `nest-contact.ts`; what is met by nothing goes to free places found by lot. Again with
 * other weights by lot while there is time. Units mm. Cost: kinds times turns for each part that is laid.
 */
import { Contacts } from './nest-contact.ts';
import { doCollide } from './nest-collision.ts';
import type { TurnedSolid } from './nest-solid.ts';
import type { Lie, Turns } from './nest-separate.ts';

/** Contacts are at least this share of the smaller part's size; of a pair so many count. */
const LEAST_SHARE = 0.05;
const MOST = 12;
/** Places so near are one, sides so near the edge of the strip lie on it, and lengths that differ by less are the same, mm. */
const SAME_MM = 0.05;
/** By how much weights differ from go to go. */
const LOT = 0.8;
/** From go to go large parts count for more than small ones: shares of the largest one's area, to this power. */
const LARGE_FIRST = [0.25, 0, 0.5, 1];
/** By how much a place at the end of the strip is worse than one at its beginning, as a share of the outline. */
const FAR = 0.05;
/** Places by lot for what is met by nothing. */
const TRIED = 300;
/**
 * Share of the outlines that is met: with less after some parts a go is given up; with less after a go of each kind there are no
 * more; with so much parts do belong together, and that is worth several times the time.
 */
const HOPELESS = { met: 0.1, parts: 6 };
const WORTH_ON = 0.25;
const PROMISING = { met: 0.4, times: 3 };

/** A kind of part. */
export interface TouchingKind {
  /** As it is with half the gap, for contacts, and by a hair less, for collisions. */
  readonly turns: Turns;
  readonly bare: Turns;
  readonly copies: number;
}

/** What is laid along one another, and how long that may take. */
export interface TouchingProblem {
  readonly kinds: readonly TouchingKind[];
  readonly acrossMm: number;
  /** What is not shorter is of no use; no layout is shorter than the least. */
  readonly limitMm: number;
  readonly leastMm: number;
  readonly random: () => number;
  /** How much of the time is gone: 1 when it is over; when it promises much it may go on. */
  readonly gone: () => number;
  readonly isStopped: () => boolean;
}

/** A layout in which everything has found a place. */
export interface Touching {
  readonly lying: readonly (Lie & { readonly kind: number })[];
  readonly usedMm: number;
}

/** A place of a kind in a turn, and how much of its outline is met there. */
interface Offer {
  readonly x: number;
  readonly y: number;
  metMm: number;
}

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;

/** How long an outline is, and how much of it would lie on the edges of the strip. */
function outlineOf({ sides, minX, minY, maxY }: TurnedSolid): { allMm: number; start: number; low: number; high: number } {
  const of = { allMm: 0, start: 0, low: 0, high: 0 };
  for (let s = 0; s < sides.length; s += 4) {
    const [x0, y0, x1, y1] = [num(sides, s), num(sides, s + 1), num(sides, s + 2), num(sides, s + 3)];
    const lengthMm = Math.hypot(x1 - x0, y1 - y0);
    of.allMm += lengthMm;
    if (Math.max(x0, x1) - minX < SAME_MM) of.start += lengthMm;
    if (Math.max(y0, y1) - minY < SAME_MM) of.low += lengthMm;
    if (maxY - Math.min(y0, y1) < SAME_MM) of.high += lengthMm;
  }
  return of;
}

/** A kind in one of its turns, with the places that it is offered. */
class Candidate {
  private readonly offers = new Map<number, Offer>();
  private readonly outline: ReturnType<typeof outlineOf>;
  readonly outlineMm: number;
  best: Offer | undefined;

  constructor(
    readonly kind: number,
    readonly turn: number,
    readonly solid: TurnedSolid,
    readonly bare: TurnedSolid,
    private readonly strip: { readonly acrossMm: number; readonly limitMm: number; readonly weight: number },
  ) {
    this.outline = outlineOf(solid);
    this.outlineMm = this.outline.allMm;
    this.offer(0, 0, 0);
    this.offer(0, strip.acrossMm - solid.acrossMm, 0);
  }

  score({ x, metMm }: Offer): number {
    const { weight, limitMm } = this.strip;
    return (weight * metMm) / this.outlineMm - (FAR * (x + this.solid.lengthMm)) / limitMm;
  }

  offer(x: number, y: number, metMm: number): void {
    const room = this.strip.acrossMm - this.solid.acrossMm;
    if (x < -SAME_MM || y < -SAME_MM || y > room + SAME_MM || x + this.solid.lengthMm > this.strip.limitMm) return;
    const [onX, onY] = [Math.max(0, x), Math.min(room, Math.max(0, y))];
    const key = Math.round(onX / SAME_MM) * 2 ** 24 + Math.round(onY / SAME_MM);
    let known = this.offers.get(key);
    if (known) known.metMm += metMm;
    else {
      const { start, low, high } = this.outline;
      const edgeMm = (onX < SAME_MM ? start : 0) + (onY < SAME_MM ? low : 0) + (room - onY < SAME_MM ? high : 0);
      this.offers.set(key, (known = { x: onX, y: onY, metMm: metMm + edgeMm }));
    }
    if (!this.best || this.score(known) > this.score(this.best)) this.best = known;
  }

  /** Something lies at the best place: the next one. */
  refuse(): void {
    const taken = this.best;
    this.best = undefined;
    for (const [key, offer] of this.offers)
      if (offer === taken) this.offers.delete(key);
      else if (!this.best || this.score(offer) > this.score(this.best)) this.best = offer;
  }
}

type Lying = Lie & { readonly kind: number; readonly bare: TurnedSolid };

/** One go at it. */
class Assembly {
  readonly lying: Lying[] = [];
  usedMm = 0;
  private metMm = 0;
  private outlinesMm = 0;
  private readonly left: number[];
  private candidates: Candidate[];

  constructor(
    private readonly problem: TouchingProblem,
    private readonly contacts: Contacts,
    go: number,
    private readonly isOver: (met: number) => boolean,
  ) {
    const { kinds, acrossMm, limitMm, random } = problem;
    const sizeOf = ({ turns }: TouchingKind): number => turns.at(0).penaltyMm ** 4;
    const largest = Math.max(...kinds.map(sizeOf));
    const power = num(LARGE_FIRST, go % LARGE_FIRST.length);
    this.left = kinds.map(({ copies }) => copies);
    this.candidates = kinds.flatMap((of, kind) => {
      const { turns, bare } = of;
      // thousands of turns take longer than there is time for
      if (problem.gone() > 1 || problem.isStopped()) return [];
      const lot = go === 0 ? 0 : LOT * (random() - 0.5);
      const strip = { acrossMm, limitMm, weight: (1 + lot) * (sizeOf(of) / largest) ** power };
      return Array.from({ length: turns.length }, (_, turn) => turn).flatMap((turn) => {
        const solid = turns.at(turn);
        const isTooLarge = solid.acrossMm > acrossMm + SAME_MM || solid.lengthMm > limitMm;
        return isTooLarge ? [] : [new Candidate(kind, turn, solid, bare.at(turn), strip)];
      });
    });
  }

  private isFree(bare: TurnedSolid, x: number, y: number): boolean {
    return !this.lying.some((one) => doCollide(one.bare, bare, x - one.x, y - one.y));
  }

  /** How much of the outlines is met. */
  get met(): number {
    return this.outlinesMm > 0 ? this.metMm / this.outlinesMm : 0;
  }

  private lay({ kind, turn, solid, bare, outlineMm }: Candidate, x: number, y: number, metMm: number): void {
    this.metMm += metMm;
    this.outlinesMm += outlineMm;
    this.lying.push({ kind, turn, x, y, bare });
    this.usedMm = Math.max(this.usedMm, x + solid.lengthMm);
    const left = num(this.left, kind) - 1;
    this.left[kind] = left;
    if (left === 0) this.candidates = this.candidates.filter((one) => one.kind !== kind);
    for (const one of this.candidates) {
      // many kinds in many turns: a stop is answered in between
      if (this.isOver(this.met)) return;
      for (const { dx, dy, lengthMm } of this.contacts.of(solid, one.solid)) one.offer(x + dx, y + dy, lengthMm);
    }
  }

  /** The candidate whose best place is the best of all. */
  private next(): Candidate | undefined {
    let next: Candidate | undefined;
    let most = -Infinity;
    for (const one of this.candidates) {
      const score = one.best ? one.score(one.best) : -Infinity;
      if (score > most) [next, most] = [one, score];
    }
    return next;
  }

  /** What is met by nothing: where it ends first, of some places by lot. @returns was there one? */
  private layByLot(): boolean {
    const { acrossMm, limitMm, random } = this.problem;
    let found: { one: Candidate; x: number; y: number } | undefined;
    for (let k = 0; k < TRIED; k++) {
      const one = this.candidates[Math.floor(random() * this.candidates.length)];
      if (!one) return false;
      const { solid, bare } = one;
      const most = Math.min(found ? found.x + found.one.solid.lengthMm : this.usedMm + solid.lengthMm, limitMm) - solid.lengthMm;
      if (most < 0) continue;
      const [x, y] = [random() * most, random() * (acrossMm - solid.acrossMm)];
      if (this.isFree(bare, x, y)) found = { one, x, y };
    }
    if (found) this.lay(found.one, found.x, found.y, 0);
    return found !== undefined;
  }

  private isHopeless(): boolean {
    return this.lying.length >= HOPELESS.parts && this.met < HOPELESS.met;
  }

  /** @returns has everything found a place? */
  run(): boolean {
    while (this.candidates.length > 0) {
      if (this.isOver(this.met) || this.isHopeless()) return false;
      const next = this.next();
      if (!next?.best) {
        if (!this.layByLot()) return false;
      } else if (this.isFree(next.bare, next.best.x, next.best.y)) this.lay(next, next.best.x, next.best.y, next.best.metMm);
      else next.refuse();
    }
    return this.left.every((count) => count === 0);
  }
}

/**
 * The shortest layout of some goes that is shorter than the limit; undefined when there is none.
 * @param problem asks it to end by `isStopped`, and tells by `gone` how much of its time is over
 */
export function layTouching(problem: TouchingProblem): Touching | undefined {
  const contacts = new Contacts(LEAST_SHARE, MOST);
  let best: Touching | undefined;
  let mostMet = 0;
  const isOver = (met: number): boolean =>
    problem.isStopped() || problem.gone() >= (Math.max(met, mostMet) > PROMISING.met ? PROMISING.times : 1);
  for (let go = 0; !isOver(0) && (go < LARGE_FIRST.length || mostMet > WORTH_ON); go++) {
    const limitMm = best ? best.usedMm - SAME_MM : problem.limitMm;
    // as short as can be
    if (limitMm < problem.leastMm) break;
    const assembly = new Assembly({ ...problem, limitMm }, contacts, go, isOver);
    if (assembly.run()) best = assembly;
    mostMet = Math.max(mostMet, assembly.met);
  }
  return best;
}
