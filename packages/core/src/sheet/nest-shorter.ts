/**
 * From a layout to shorter ones, again and again: each is freed of collisions on a strip that is a little shorter (see
 * `nest-separate.ts`). Long steps first, short ones towards the end of the time; after a step that is too long two large parts
 * change places, and then the steps grow shorter.
 */
import { rotation, mapOutline, compose, translation } from '../geometry/transform.ts';
import { bounds } from '../geometry/outline.ts';
import type { Matrix, Outline } from '../types/index.ts';
import { Separation, type Lie, type Movable, type Turns } from './nest-separate.ts';
import { turnedSolid, type Solid, type TurnedSolid } from './nest-solid.ts';

const LONGEST_STEP = 0.01;
const SHORTEST_STEP = 0.0005;
/** Steps by the share of the time that is gone: they are halved from here on. */
const SETTLING = 0.75;
/** When steps of this length are too long, large parts change places, so many times before the layout before is taken again. */
const SHORT_STEP = 0.002;
const DISTURBED = 3;

export interface LyingPart {
  /** Of the solids. */
  readonly solid: number;
  readonly turnDeg: number;
  readonly map: Matrix;
}

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

class SolidTurns implements Turns {
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
  const turned = bounds(mapOutline(rotation(turnDeg), outline));
  const there = compose(map, translation(0, 0));
  return { turn: Math.max(0, turns.indexOf(turnDeg)), x: there[4] + turned.minX, y: there[5] + turned.minY };
}

/** @param onShorter told of every layout that is shorter: where each part lies, in their order, and the used length */
export function makeShorter(problem: ShorterProblem, onShorter: (lying: readonly LyingPart[], usedMm: number) => void): void {
  const { solids, turns, lying, fixed, acrossMm, random, isOver, gone } = problem;
  const turnsOf = solids.map((solid) => new SolidTurns(solid, turns));
  const parts: Movable[] = lying.map(({ solid }) => ({ turns: turnsOf[solid] as Turns, isFixed: false }));
  const start = lying.map((one) => lieOf(one, (solids[one.solid] as Solid).outline, turns));
  for (const solid of fixed) {
    const { minX, minY } = bounds(solid.outline);
    parts.push({ turns: new SolidTurns(solid, [0]), isFixed: true });
    start.push({ turn: 0, x: minX, y: minY });
  }
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
  while (!isOver() && usedMm > problem.leastMm * (1 + SHORTEST_STEP)) {
    if (disturbed === 0) search.restore(best);
    else search.disturb();
    if (!search.shorten(usedMm * (1 - step))) {
      if (step <= SHORTEST_STEP) return;
      step = Math.max(SHORTEST_STEP, step / 2);
      continue;
    }
    if (search.separate()) {
      best = search.layout();
      usedMm = search.usedMm();
      onShorter(told(), usedMm);
      disturbed = 0;
      step = Math.min(LONGEST_STEP, step * 1.5);
    } else if (step > SHORT_STEP) step /= 2;
    else if (gone() > SETTLING || disturbed >= DISTURBED) [step, disturbed] = [Math.max(SHORTEST_STEP, step / 2), 0];
    else [step, disturbed] = [LONGEST_STEP / 2, disturbed + 1];
  }
}
