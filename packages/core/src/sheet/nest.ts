/**
 * Nesting by real outline: parts, turned in allowed steps, packed onto a strip so that its used length is short.
 *
 * Method: each part in each allowed turn is a cover on a grid (see `cover.ts`), once bare and once grown by the gap; a
 * place is free where the grown cover meets nothing that lies there. Parts go one after another to the first free place
 * from the strip's beginning, then from its lower edge, in the turn that ends first (bottom-left fill on a raster:
 * J. Oliveira, J. Ferreira, Algorithms for nesting problems, 1993; E. Burke et al., A new bottom-left-fill heuristic,
 * Oper. Res. 54, 2006). A place that collides is skipped to the end of what it collides with. Then the order is changed
 * at random, and changes that do not lengthen the strip are kept (hill climbing, seeded), until the budget ends; orders that are
 * shorter are laid once more on a finer grid.
 * Guaranteed: parts lie inside the strip and at least the gap from one another. They may lie farther apart by up to some
 * two cells, and no better place is looked for once a part lies. Units mm; x along the strip, y across; degrees
 * counter-clockwise.
 */
import type { Control, Matrix, Outline } from '../types/index.ts';
import { CancelledError, InputError, LimitError } from '../errors/index.ts';
import { flatten } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { compose, translation } from '../geometry/transform.ts';
import { coveredArea } from './raster.ts';
import { Grid, lay, withoutHoles, type Attempt, type Entry, type Shape } from './nest-grid.ts';

export interface NestPart {
  readonly id: string;
  /** All of it stays together. Open lines take room like others. */
  readonly outline: Outline;
  readonly copies?: number;
}

export interface NestProblem {
  readonly parts: readonly NestPart[];
  /** Clear width and length of the material, margins off, mm. */
  readonly widthMm: number;
  readonly lengthMm?: number;
  readonly gapMm: number;
  /** Allowed turns are its multiples; 0 for none. */
  readonly turnStepDeg: number;
  /** May parts lie in the holes of others? */
  readonly intoHoles: boolean;
}

export interface NestedPart {
  readonly id: string;
  readonly copy: number;
  readonly turnDeg: number;
  /** From the part's own place onto the strip. */
  readonly map: Matrix;
}

export interface NestResult {
  readonly placed: readonly NestedPart[];
  /** What found no room, one entry a copy. */
  readonly leftOut: readonly { readonly id: string; readonly copy: number }[];
  /** From the strip's beginning to the end of the work, mm. */
  readonly usedLengthMm: number;
  /** Area that the parts cover, mm², to some thousandth; what lies twice in a part counts once. */
  readonly partsAreaMm2: number;
  /** Orders tried. */
  readonly tries: number;
}

const MOST_PARTS = 2000;
const MOST_TURNS = 72;
/** Rows of the grid while orders are tried, and by how much the last one is finer. */
const ROWS = 400;
const FINER = 3;
/** Chords of a part are within its longer side by this, so that its area is right to a thousandth. */
const FINENESS = 1000;
const USUAL_BUDGET_MS = 3000;
/** Without a shorter strip for so many orders in a row the search ends. */
const PATIENCE = 400;

function check({ parts, widthMm, lengthMm, gapMm, turnStepDeg }: NestProblem): void {
  if (!(widthMm > 0) || !Number.isFinite(widthMm)) throw new InputError('width', `The width must be above zero, not ${widthMm}.`);
  if (lengthMm !== undefined && !(lengthMm > 0)) throw new InputError('length', `The length must be above zero, not ${lengthMm}.`);
  if (!(gapMm >= 0) || !Number.isFinite(gapMm)) throw new InputError('gap', `The gap must not be below zero, not ${gapMm}.`);
  if (turnStepDeg !== 0 && !(turnStepDeg >= 360 / MOST_TURNS && turnStepDeg <= 360))
    throw new InputError('turn', `The step of turns must be 0 or from ${360 / MOST_TURNS} to 360 degrees, not ${turnStepDeg}.`);
  let count = 0;
  for (const { copies = 1 } of parts) {
    if (!Number.isInteger(copies) || copies < 1) throw new InputError('copies', `The number of copies must be 1 or more, not ${copies}.`);
    count += copies;
  }
  if (count > MOST_PARTS) throw new LimitError('parts', `At most ${MOST_PARTS} parts are nested at once, not ${count}.`);
}

function turnsOf(stepDeg: number): number[] {
  if (stepDeg === 0) return [0];
  return Array.from({ length: Math.max(1, Math.round(360 / stepDeg)) }, (_, i) => i * stepDeg).filter((deg) => deg < 360);
}

function randomFrom(seed: number): () => number {
  let state = seed >>> 0 || 1;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

/** The order with one entry taken somewhere else, or two changed over. */
function changed(order: readonly Entry[], random: () => number): Entry[] {
  const next = [...order];
  const pick = (): number => Math.floor(random() * next.length);
  const [i, j] = [pick(), pick()];
  const [a, b] = [next[i] as Entry, next[j] as Entry];
  if (random() < 0.5) [next[i], next[j]] = [b, a];
  else next.splice(j, 0, ...next.splice(i, 1));
  return next;
}

const isBetter = (a: Attempt, b: Attempt): boolean =>
  a.leftOut.length !== b.leftOut.length
    ? a.leftOut.length < b.leftOut.length
    : Math.abs(a.usedLengthMm - b.usedLengthMm) > 1e-6
      ? a.usedLengthMm < b.usedLengthMm
      : a.weight < b.weight;

interface Laid {
  readonly found: Attempt;
  readonly grid: Grid;
}

function resultOf({ found, grid }: Laid, ids: readonly string[], tries: number): NestResult {
  return {
    placed: found.placed.map(({ entry, laying, column, row }) => ({
      id: ids[entry.thing] as string,
      copy: entry.copy,
      turnDeg: laying.turnDeg,
      map: compose(translation(column * grid.cell, row * grid.cell), laying.map),
    })),
    leftOut: found.leftOut.map(({ thing, copy }) => ({ id: ids[thing] as string, copy })),
    usedLengthMm: found.usedLengthMm,
    partsAreaMm2: found.placed.reduce((sum, { entry }) => sum + (grid.things[entry.thing] as Shape).areaMm2, 0),
    tries,
  };
}

/** Worth telling: not only lying farther towards the beginning. */
const isShorter = (a: Attempt, b: Attempt): boolean => a.usedLengthMm < b.usedLengthMm - 1e-6 || a.leftOut.length < b.leftOut.length;

/** The things of a problem, and a copy of each to lay, the largest first. */
function entriesOf({ parts, intoHoles }: NestProblem, tolerance: number): { ids: string[]; things: Shape[]; order: Entry[] } {
  const kinds = parts.flatMap(({ id, outline, copies = 1 }) => {
    const box = bounds(outline);
    if (isEmptyBox(box)) return [];
    const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
    const lines = flatten(outline, Math.min(tolerance, Math.max(width, height) / FINENESS));
    const thing = { outline, lines: intoHoles ? lines : withoutHoles(lines), areaMm2: coveredArea(lines, box) };
    // a long thin part is placed as early as one of its length squared over three: later it finds no room
    return [{ id, copies, thing, size: Math.max(width * height, Math.max(width, height) ** 2 / 3) }];
  });
  kinds.sort((a, b) => b.size - a.size);
  return {
    ids: kinds.map(({ id }) => id),
    things: kinds.map(({ thing }) => thing),
    order: kinds.flatMap(({ copies }, thing) => Array.from({ length: copies }, (_, copy) => ({ thing, copy }))),
  };
}

/**
 * Packs parts onto a strip. Empty parts are passed over.
 * @param control `onBetter` is told every better result. `now` is the clock of the budget, ms.
 *   A stop ends the search: the best so far is handed back
 * @throws InputError, LimitError for a problem that is none; CancelledError when it was stopped before the first result
 */
export async function nest(
  problem: NestProblem,
  control: Control & { onBetter?: (result: NestResult) => void; now?: () => number } = {},
): Promise<NestResult> {
  check(problem);
  await Promise.resolve();
  if (control.signal?.aborted) throw new CancelledError();
  // eslint-disable-next-line no-restricted-syntax -- a budget in ms needs a clock; callers may hand in theirs
  const { now = Date.now } = control;
  const started = now();
  const budgetMs = control.budgetMs ?? USUAL_BUDGET_MS;
  const tolerance = Math.min(problem.widthMm / ROWS / 4, 0.1);
  const { ids, things, order } = entriesOf(problem, tolerance);
  const turns = turnsOf(problem.turnStepDeg);
  const grid = new Grid(things, problem, ROWS, tolerance);
  let tries = 0;
  const isStopped = (): boolean => control.signal?.aborted === true;
  const attempt = (sequence: readonly Entry[], isLost: (usedLengthMm: number, leftOut: number) => boolean): Attempt | undefined => {
    tries++;
    return lay(grid, sequence, () => turns, isLost);
  };
  const first = attempt(order, isStopped);
  if (!first) throw new CancelledError();
  let best = { order, found: first };
  let shown: Laid = { found: first, grid };
  const show = (laid: Laid): void => {
    if (laid !== shown && !isShorter(laid.found, shown.found)) return;
    shown = laid;
    control.onBetter?.(resultOf(shown, ids, tries));
  };
  show(shown);
  // the same order and turns on a finer grid lie closer, by how much differs: so it is asked of every order that is shorter
  const fine = new Grid(things, problem, ROWS * FINER, tolerance);
  const showCloser = (): void => {
    const turnOf = new Map(best.found.placed.map(({ entry, laying }) => [entry, [laying.turnDeg]]));
    const close = lay(fine, best.order, (entry) => turnOf.get(entry) ?? turns, isStopped);
    if (close) show({ found: close, grid: fine });
  };
  showCloser();
  const random = randomFrom(control.seed ?? 1);
  const isOver = (): boolean => now() - started >= budgetMs || isStopped();
  /** Longer already than the best, with as many left out: no better can come of it. */
  const isLost = (usedLengthMm: number, leftOut: number): boolean =>
    isOver() || (usedLengthMm > best.found.usedLengthMm + 1e-6 && leftOut >= best.found.leftOut.length);
  for (let idle = 0; idle < PATIENCE && order.length > 1 && !isOver(); idle++) {
    const next = changed(best.order, random);
    const found = attempt(next, isLost);
    control.onProgress?.(Math.min(budgetMs, now() - started), budgetMs, 'nesting');
    if (!found || isBetter(best.found, found)) continue;
    const shorter = isShorter(found, best.found);
    best = { order: next, found };
    if (!shorter) continue;
    idle = 0;
    show({ found, grid });
    showCloser();
  }
  return resultOf(shown, ids, tries);
}
