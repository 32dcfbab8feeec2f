/**
 * The order of the large parts when they are what makes the strip long: frames and plates among stickers.
 *
 * Small parts find room in, between and behind them, but large ones hardly ever change places once small ones lie about them. So
 * they are laid alone first, by the bottom-left rule on a coarse grid (`nest-grid.ts`), in very many orders: one of seven
 * parts takes a third of a millisecond. Hill climbing with new starts; the method of `nest.ts` on a smaller problem. It is left
 * alone where the large parts by themselves lie much shorter than everything does: then they hinder nothing. Units mm, degrees.
 */
import { shuffled } from '../search/random.ts';
import { boxOfLines, Grid, lay, type Entry, type Shape } from './nest-grid.ts';
import type { NestProblem } from './nest-problem.ts';

/** Rows of the grid that large parts are laid on. */
const ROWS = 100;
/** Parts are large from this share of the largest one's size on, when they are no more than so many, and the lesser part of all. */
const LARGE_SHARE = 0.6;
const MOST_LARGE = 24;
const LESSER_PART = 0.5;
/** Alone on less than this share of what all take they hinder nothing. */
const HINDERING = 0.93;
/** By so much a length may be rounded up on the coarse grid. */
const ROUNDED = 1.03;
/** Turns that are tried of finer steps. */
const TURNS = 8;
/** Orders in a row that are no shorter, after which the search begins from another; so often for each part without a better one. */
const PATIENCE = 150;
const STARTS_A_PART = 4;

/** What large parts are laid by. */
export interface LargeProblem {
  /** On which everything is laid. */
  readonly grid: Grid;
  /** The largest first. */
  readonly order: readonly Entry[];
  readonly strip: Pick<NestProblem, 'widthMm' | 'lengthMm' | 'gapMm' | 'fixed'>;
  readonly turns: readonly number[];
  /** Of a layout of everything. */
  readonly usedMm: number;
  /** Of chords. */
  readonly tolerance: number;
  readonly random: () => number;
  readonly isOver: () => boolean;
}

/** A part and the turn that it is laid in. */
export interface Turned {
  readonly entry: Entry;
  readonly turnDeg: number;
}

/** Those that are large; none when they are nearly all or too many. */
function largeOf({ grid: { things }, order }: LargeProblem): readonly Entry[] {
  const sizes = order.map(({ thing }) => sizeOf(things[thing] as Shape));
  const most = Math.max(0, ...sizes);
  const large = order.filter((_, i) => (sizes[i] as number) >= LARGE_SHARE * most);
  return large.length < 2 || large.length > Math.min(MOST_LARGE, LESSER_PART * order.length) ? [] : large;
}

function sizeOf({ lines }: Shape): number {
  const { minX, minY, maxX, maxY } = boxOfLines(lines);
  return Math.max(maxX - minX, maxY - minY);
}

/** How long a sequence lies on a grid; Infinity when it is longer than the limit, or leaves something out. */
type LengthOn = (on: Grid, sequence: readonly Turned[], limitMm: number) => number;

const lengthUntil =
  (isOver: () => boolean): LengthOn =>
  (on, sequence, limitMm) => {
    const turnOf = new Map(sequence.map(({ entry, turnDeg }) => [entry, [turnDeg]]));
    const found = lay(
      on,
      sequence.map(({ entry }) => entry),
      (entry) => turnOf.get(entry) ?? [],
      (mm) => mm > limitMm || isOver(),
    );
    return found && found.leftOut.length === 0 ? found.usedLengthMm : Infinity;
  };

/**
 * The large parts in an order and in turns in which they lie on a short strip.
 * @returns undefined when there are none, or when they hinder nothing
 * @complexity one lay of the large parts an order, until it is over
 */
export function largeFirst(problem: LargeProblem): readonly Turned[] | undefined {
  const large = largeOf(problem);
  if (large.length === 0) return undefined;
  const { grid, strip, turns, usedMm, tolerance, isOver } = problem;
  const coarse = new Grid(grid.things, strip, ROWS, tolerance);
  // what stays where it is may reach as far as everything does
  if (coarse.obstacles().some(({ endMm }) => endMm >= usedMm)) return undefined;
  const some = turns.length <= TURNS ? turns : turns.filter((_, i) => i % Math.ceil(turns.length / TURNS) === 0);
  const lengthOn = lengthUntil(isOver);
  const usual = large.map((entry) => ({ entry, turnDeg: some[0] ?? 0 }));
  if (lengthOn(coarse, usual, Infinity) < HINDERING * usedMm) return undefined;
  return climbed(problem, { large, coarse, some, lengthOn });
}

interface Climb {
  readonly large: readonly Entry[];
  readonly coarse: Grid;
  /** Turns that are tried. */
  readonly some: readonly number[];
  readonly lengthOn: LengthOn;
}

/** Orders that grow shorter on the coarse grid, from one start after another; the best of them on the fine one. */
function climbed({ grid, usedMm, random, isOver }: LargeProblem, { large, coarse, some, lengthOn }: Climb): readonly Turned[] | undefined {
  const anyTurn = (): number => some[Math.floor(random() * some.length)] ?? 0;
  const anew = (): Turned[] => shuffled(large, random).map((entry) => ({ entry, turnDeg: anyTurn() }));
  let best: readonly Turned[] | undefined;
  let bestMm = usedMm;
  let [current, currentMm] = [anew(), Infinity];
  let [idle, starts] = [0, 0];
  while (!isOver() && bestMm > HINDERING * usedMm && starts < STARTS_A_PART * large.length) {
    const isNew = ++idle > PATIENCE;
    if (isNew) starts++;
    const next = isNew ? anew() : changed(current, random, anyTurn);
    const mm = lengthOn(coarse, next, isNew ? Infinity : currentMm);
    if (!isNew && mm > currentMm) continue;
    if (isNew || mm < currentMm - 1e-6) idle = 0;
    [current, currentMm] = [next, mm];
    // the coarse grid rounds up: what lies longer on it may lie shorter on the fine one
    if (idle > 0 || mm > ROUNDED * bestMm) continue;
    const fineMm = lengthOn(grid, next, bestMm);
    if (fineMm < bestMm - 1e-6) [best, bestMm, starts] = [next, fineMm, 0];
  }
  return best;
}

/** The order with a part taken somewhere else, two unlike ones changed over, or one turned. */
function changed(sequence: readonly Turned[], random: () => number, anyTurn: () => number): Turned[] {
  const next = [...sequence];
  const pick = (): number => Math.floor(random() * next.length);
  const isSame = (a: Turned, b: Turned): boolean => a.entry.thing === b.entry.thing && a.turnDeg === b.turnDeg;
  for (let tries = 0; tries < 8; tries++) {
    const [i, j] = [pick(), pick()];
    const [a, b] = [next[i] as Turned, next[j] as Turned];
    const way = random();
    if (way < 0.7 && isSame(a, b)) continue;
    if (way < 0.35) [next[i], next[j]] = [b, a];
    else if (way < 0.7) next.splice(j, 0, ...next.splice(i, 1));
    else next[i] = { ...a, turnDeg: anyTurn() };
    return next;
  }
  return next;
}
