/**
 * From a layout to shorter ones, again and again: each is freed of collisions on a strip that is a little shorter (see
 * `nest-separate.ts`). Long steps first, short ones towards the end of the time. After a step that is too long the search goes on
 * from the least colliding layout with half of the step: it is nearer to a shorter one than the layout before. When a short step is
 * too long two large parts change places, and then the steps grow shorter.
 *
 * After many steps in vain the search is stuck. Then it goes on from another layout: two large parts change places where the
 * strip is opened a little, they are freed of collisions there, and that is made shorter as before, from a layout that is a
 * little longer than the best if need be (iterated local search: H. Lourenço, O. Martin, T. Stützle, Handbook of
 * Metaheuristics, 2003). In the end it goes back to the best.
 */
import { rotation, compose, translation, mappedBounds } from '../geometry/transform.ts';
import { bounds } from '../geometry/outline.ts';
import type { Matrix, Outline } from '../types/index.ts';
import { Separation, type Lie, type Movable, type Turns } from './nest-separate.ts';
import { turnedSolid, type Solid, type TurnedSolid } from './nest-solid.ts';

const LONGEST_STEP = 0.01;
const SHORTEST_STEP = 0.0005;
/** From this share of the time on, large parts no longer change places: steps only grow shorter. */
const SETTLING = 0.75;
/** When steps of this length are too long, large parts change places, so many times before the layout before is taken again. */
const SHORT_STEP = 0.002;
const DISTURBED = 3;
/** Steps in vain after which the search is stuck, the first time and later. */
const STUCK = 15;
const STUCK_AGAIN = 6;
/** By so much of its length the strip is opened then. */
const OPENED_SHARE = 0.02;
/** A layout that is longer than the best by more than this is not gone on from. */
const LONGER_SHARE = 0.003;
/** From this share of the time on only the best is gone on from. */
const ENDING = 0.9;

/** A copy of a part in a layout: its turn and its map onto the strip. */
export interface LyingPart {
  /** Of the solids. */
  readonly solid: number;
  readonly turnDeg: number;
  readonly map: Matrix;
}

/** A layout to be made shorter, and how long that may take. */
export interface ShorterProblem {
  readonly solids: readonly Solid[];
  readonly turns: readonly number[];
  readonly lying: readonly LyingPart[];
  /** What stays where it is. */
  readonly fixed: readonly Solid[];
  readonly acrossMm: number;
  /** No layout can be shorter. */
  readonly leastMm: number;
  readonly random: () => number;
  readonly isOver: () => boolean;
  /** How much of the time is gone, 0 to 1. */
  readonly gone: () => number;
}

/** The turns of a solid, each made when it is first asked for. */
export class SolidTurns implements Turns {
  private readonly made: (TurnedSolid | undefined)[] = [];

  constructor(
    private readonly solid: Solid,
    private readonly degrees: readonly number[],
  ) {}

  get length(): number {
    return this.degrees.length;
  }

  at(turn: number): TurnedSolid {
    return (this.made[turn] ??= turnedSolid(this.solid, this.degrees[turn] ?? 0));
  }
}

/** Where the box of a part begins, in one of its turns. */
function lieOf({ turnDeg, map }: LyingPart, outline: Outline, turns: readonly number[]): Lie {
  const turned = mappedBounds(rotation(turnDeg), outline);
  return { turn: Math.max(0, turns.indexOf(turnDeg)), x: map[4] + turned.minX, y: map[5] + turned.minY };
}

type Layout = Pick<ShorterProblem, 'solids' | 'turns' | 'lying' | 'fixed' | 'acrossMm'>;

/** The parts and what is fixed, and where they lie. */
function laidOut({ solids, turns, lying, fixed }: Layout): { turnsOf: Turns[]; parts: Movable[]; start: Lie[] } {
  const turnsOf = solids.map((solid) => new SolidTurns(solid, turns));
  const parts: Movable[] = lying.map(({ solid }) => ({ turns: turnsOf[solid] as Turns, isFixed: false }));
  const start = lying.map((one) => lieOf(one, (solids[one.solid] as Solid).outline, turns));
  for (const solid of fixed) {
    const { minX, minY } = bounds(solid.outline);
    parts.push({ turns: new SolidTurns(solid, [0]), isFixed: true });
    start.push({ turn: 0, x: minX, y: minY });
  }
  return { turnsOf, parts, start };
}

/** By so much a part may lie over the edge of the strip, mm: places are kept rounded. */
const OVER_MM = 0.01;

/**
 * The used length of a layout in which nothing collides and everything lies on the strip; undefined of any other.
 * @returns mm from the strip's beginning
 * @complexity pairs of parts whose boxes meet
 */
export function usedIfFree(layout: Layout): number | undefined {
  const { parts, start } = laidOut(layout);
  const isOn = start.every(({ turn, x, y }, i) => {
    const { isFixed, turns } = parts[i] as Movable;
    return isFixed || (x > -OVER_MM && y > -OVER_MM && y + turns.at(turn).acrossMm < layout.acrossMm + OVER_MM);
  });
  if (!isOn) return undefined;
  const search = new Separation(parts, start, { acrossMm: layout.acrossMm, random: () => 0, isOver: () => true });
  return search.isFree() ? search.usedMm() : undefined;
}

/** One search: the best layout, and the one that it goes on from. */
class Shortening {
  best: readonly Lie[];
  usedMm: number;
  private at: readonly Lie[];
  private atMm: number;
  private step = LONGEST_STEP;
  private disturbed = 0;
  /** The strip was cut too far: from what came of it the search goes on with half of that, and with the weights that were found. */
  private goesOn = false;
  private failed = 0;
  private hasStirred = false;

  constructor(
    private readonly search: Separation,
    private readonly problem: ShorterProblem,
    private readonly onShorter: () => void,
  ) {
    this.best = this.at = search.layout();
    this.usedMm = this.atMm = search.usedMm();
  }

  run(): void {
    const { leastMm, isOver, gone } = this.problem;
    while (!isOver() && this.usedMm > leastMm * (1 + SHORTEST_STEP)) {
      const isEnding = gone() > ENDING;
      if (isEnding && this.atMm > this.usedMm) this.goFrom(this.best, this.usedMm, SHORT_STEP);
      if (!isEnding && this.failed >= (this.hasStirred ? STUCK_AGAIN : STUCK)) this.stir();
      else if (!this.shorten() && !this.isShorterStep()) {
        if (this.atMm <= this.usedMm) return;
        this.goFrom(this.best, this.usedMm, SHORT_STEP);
      }
    }
  }

  private goFrom(lies: readonly Lie[], usedMm: number, step: number): void {
    [this.at, this.atMm, this.step] = [lies, usedMm, step];
    [this.failed, this.disturbed, this.goesOn] = [0, 0, false];
  }

  /** A step that no part can take in any turn. @returns whether there is a shorter one */
  private isShorterStep(): boolean {
    if (this.step <= SHORTEST_STEP) return false;
    [this.step, this.goesOn] = [Math.max(SHORTEST_STEP, this.step / 2), false];
    return true;
  }

  /** Goes on from another layout, of about the same length. */
  private stir(): void {
    const { search } = this;
    if (this.atMm > this.usedMm * (1 + LONGER_SHARE)) [this.at, this.atMm] = [this.best, this.usedMm];
    const openMm = this.atMm * OPENED_SHARE;
    search.restore(this.at);
    search.shorten(this.atMm + openMm);
    search.disturb(openMm);
    if (!search.separate()) return;
    this.hasStirred = true;
    this.goFrom(search.layout(), search.usedMm(), LONGEST_STEP / 2);
  }

  /** A step. @returns false when something cannot lie on the shorter strip in any turn */
  private shorten(): boolean {
    const { search, step } = this;
    if (this.disturbed > 0) search.disturb();
    else if (!this.goesOn) search.restore(this.at);
    if (!search.shorten(this.atMm * (1 - step), this.goesOn)) return false;
    if (!search.separate()) {
      this.fail();
      return true;
    }
    this.goFrom(search.layout(), search.usedMm(), Math.min(LONGEST_STEP, step * 1.5));
    if (this.atMm >= this.usedMm) return true;
    [this.best, this.usedMm] = [this.at, this.atMm];
    this.onShorter();
    return true;
  }

  /** The step was too long. */
  private fail(): void {
    const { step } = this;
    this.failed++;
    if (step > SHORT_STEP) [this.step, this.goesOn] = [step / 2, true];
    else if (this.problem.gone() > SETTLING || this.hasStirred || this.disturbed >= DISTURBED)
      [this.step, this.disturbed, this.goesOn] = [Math.max(SHORTEST_STEP, step / 2), 0, false];
    else [this.step, this.disturbed, this.goesOn] = [LONGEST_STEP / 2, this.disturbed + 1, false];
  }
}

/** @param onShorter told of every layout that is shorter: where each part lies, in their order, and the used length */
export function makeShorter(problem: ShorterProblem, onShorter: (lying: readonly LyingPart[], usedMm: number) => void): void {
  const { lying, acrossMm, random, isOver } = problem;
  const { turnsOf, parts, start } = laidOut(problem);
  const search = new Separation(parts, start, { acrossMm, random, isOver });
  const shortening = new Shortening(search, problem, () => {
    const laid = lying.map((one, i): LyingPart => {
      const { turn, x, y } = shortening.best[i] as Lie;
      const { turnDeg, map } = (turnsOf[one.solid] as Turns).at(turn);
      return { solid: one.solid, turnDeg, map: compose(translation(x, y), map) };
    });
    onShorter(laid, shortening.usedMm);
  });
  shortening.run();
}
