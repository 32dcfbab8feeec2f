/**
 * From a layout to shorter ones, again and again: each is freed of collisions on a strip that is a little shorter (see
 * `nest-separate.ts`). Long steps first, short ones towards the end of the time. After a step that is too long the search goes on
 * from the least colliding layout with half of the step: it is nearer to a shorter one than the layout before. When a short step is
 * too long two large parts change places, and then the steps grow shorter.
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

/** @param onShorter told of every layout that is shorter: where each part lies, in their order, and the used length */
export function makeShorter(problem: ShorterProblem, onShorter: (lying: readonly LyingPart[], usedMm: number) => void): void {
  const { lying, acrossMm, random, isOver, gone } = problem;
  const { turnsOf, parts, start } = laidOut(problem);
  const search = new Separation(parts, start, { acrossMm, random, isOver });
  let best = search.layout();
  let usedMm = search.usedMm();
  const told = (): LyingPart[] =>
    lying.map((one, i): LyingPart => {
      const { turn, x, y } = best[i] as Lie;
      const { turnDeg, map } = (turnsOf[one.solid] as Turns).at(turn);
      return { solid: one.solid, turnDeg, map: compose(translation(x, y), map) };
    });
  let step = LONGEST_STEP;
  let disturbed = 0;
  /** The strip was cut off too far: from what came of it the search goes on with half of that, and with the weights that were found. */
  let goesOn = false;
  while (!isOver() && usedMm > problem.leastMm * (1 + SHORTEST_STEP)) {
    if (disturbed > 0) search.disturb();
    else if (!goesOn) search.restore(best);
    if (!search.shorten(usedMm * (1 - step), goesOn)) {
      if (step <= SHORTEST_STEP) return;
      [step, goesOn] = [Math.max(SHORTEST_STEP, step / 2), false];
      continue;
    }
    if (search.separate()) {
      best = search.layout();
      usedMm = search.usedMm();
      onShorter(told(), usedMm);
      [step, disturbed, goesOn] = [Math.min(LONGEST_STEP, step * 1.5), 0, false];
    } else if (step > SHORT_STEP) [step, goesOn] = [step / 2, true];
    else if (gone() > SETTLING || disturbed >= DISTURBED) [step, disturbed, goesOn] = [Math.max(SHORTEST_STEP, step / 2), 0, false];
    else [step, disturbed, goesOn] = [LONGEST_STEP / 2, disturbed + 1, false];
  }
}
