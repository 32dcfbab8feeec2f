/**
 * Nesting by real outline: parts, turned in allowed steps, packed onto a strip so that its used length is short.
 *
 * Method: each part in each allowed turn is a cover on a grid (see `raster.ts`), once bare and once grown by the gap; a
 * place is free where the grown cover meets nothing that lies there. Parts go one after another to the first free place
 * from the strip's beginning, then from its lower edge, in the turn that ends first (bottom-left fill on a raster:
 * J. Oliveira, J. Ferreira, Algorithms for nesting problems, 1993; E. Burke et al., A new bottom-left-fill heuristic,
 * Oper. Res. 54, 2006). A place that collides is skipped to the end of what it collides with. Then the order is changed
 * at random, and changes that do not lengthen the strip are kept (hill climbing, seeded). Large parts that make the strip long
 * are laid alone before that (`nest-large.ts`). When everything has found room that ends soon; then parts are laid along one another by their sides (`nest-touching.ts`), and the rest of the time goes to making
 * the layout shorter by the real outlines (`nest-shorter.ts`); else it goes on until the budget ends, and orders that are
 * shorter are laid once more on a finer grid. Boxes on shelves come first, and
 * are kept when nothing shorter is found. Guaranteed: parts lie inside the strip and, to some micrometres, at
 * least the gap from one another; at no gap they may touch. Units mm; x along the strip, y across; degrees counter-clockwise.
 */
import type { Control, Outline } from '../types/index.ts';
import { randomFrom } from '../search/random.ts';
import { CancelledError } from '../errors/index.ts';
import { flatten } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { isLine } from '../geometry/span.ts';
import { compose, translation } from '../geometry/transform.ts';
import {
  asBefore,
  checkProblem,
  entriesOf,
  FINENESS,
  isTurn,
  triedTurns,
  turnsOf,
  type NestedPart,
  type NestProblem,
  type NestResult,
} from './nest-problem.ts';
import { largeFirst } from './nest-large.ts';
import { onShelves } from './nest-shelves.ts';
import { makeShorter, SolidTurns, usedIfFree, type ShorterProblem } from './nest-shorter.ts';
import { solidsOf, type Solids } from './nest-solid.ts';
import { layTouching } from './nest-touching.ts';
import { Grid, lay, type Attempt, type Entry, type Shape } from './nest-grid.ts';

/** Of finer steps every part tries so many at a time, others in each order. */
const TURNS_A_TRY = 16;
/** Rows of the grid while orders are tried, and by how much the last one is finer; fewer of both when many parts have many turns. */
const ROWS = 400;
const FEWEST_ROWS = 120;
/** Parts times turns that are laid on the full grid. */
const FULL_GRID = 500;
/** The first layout is given up after this when the budget is over: boxes on shelves are there. */
const FIRST_MS = 1500;
const FINER = 3;
/** So many times longer than the first go on the coarse grid, about. */
const FINER_TAKES = 4;
const USUAL_BUDGET_MS = 3000;
/** When everything has found room, orders are tried for this share of the time, and no longer than this: what follows gains more. */
const ORDERS_SHARE = 0.08;
const ORDERS_MS = 500;
/** For this share of it parts are laid along one another. */
const TOUCHING_SHARE = 0.12;
/** And for this one, at most this long, large parts are laid alone. */
const LARGE_SHARE = 0.2;
const LARGE_MS = 3000;
/** Without a shorter strip for so many orders in a row the search goes on from another order. */
const PATIENCE = 400;

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

/** Less is rounding, mm. */
const HAIR_MM = 0.01;
/** Of the chords that solids are made of: finer than those on the grid, where what lies within a cell is kept clear. */
const SOLID_CHORD_MM = 0.02;

interface NestControl extends Control {
  readonly onBetter?: (result: NestResult) => void;
  readonly now?: () => number;
}

/** One search: the best order so far, and the best layout that was told. */
class Search {
  private readonly ids: readonly string[];
  private readonly turns: readonly number[];
  private readonly grid: Grid;
  /** The same order and turns on a finer grid lie closer, by how much differs: so it is asked of every order that is shorter. */
  private readonly fine: Grid;
  private readonly random: () => number;
  private readonly order: readonly Entry[];
  private readonly budgetMs: number;
  private readonly now: () => number;
  private readonly started: number;
  /** Of chords. */
  private readonly tolerance: number;
  private tries = 0;
  private readonly solidsByGap = new Map<number, Solids[]>();

  constructor(
    private readonly problem: NestProblem,
    private readonly control: NestControl,
  ) {
    // eslint-disable-next-line no-restricted-syntax -- a budget in ms needs a clock; callers may hand in theirs
    this.now = control.now ?? Date.now;
    this.started = this.now();
    this.budgetMs = control.budgetMs ?? USUAL_BUDGET_MS;
    const tolerance = Math.min(problem.widthMm / ROWS / 4, 0.1);
    this.tolerance = tolerance;
    const { ids, things, order } = entriesOf(problem, tolerance);
    [this.ids, this.order] = [ids, order];
    const turns = turnsOf(problem.turnStepDeg);
    const used = (problem.before ?? []).flatMap(({ map }) => (map && turns.find((deg) => isTurn(map, deg))) ?? []);
    this.turns = triedTurns(turns, things.length, used);
    this.random = randomFrom(control.seed ?? 1);
    const laid = order.length * Math.min(this.turns.length, 2 * TURNS_A_TRY, Math.max(2, (2 * FULL_GRID) / order.length));
    const rows = Math.max(FEWEST_ROWS, Math.round(ROWS * Math.sqrt(Math.min(1, FULL_GRID / laid))));
    this.grid = new Grid(things, problem, rows, tolerance);
    this.fine = new Grid(things, problem, rows * FINER, tolerance);
  }

  /** All turns, or of many some that are spread evenly, each time others. */
  private turnsFor(): readonly number[] {
    const { turns } = this;
    const most = Math.max(2, Math.floor((2 * FULL_GRID) / this.order.length));
    const count = Math.min(most, turns.length <= 2 * TURNS_A_TRY ? turns.length : TURNS_A_TRY);
    if (count === turns.length) return turns;
    const from = Math.floor(this.random() * turns.length);
    return Array.from({ length: count }, (_, i) => turns[(from + Math.round((i * turns.length) / count)) % turns.length] as number);
  }

  private isStopped(): boolean {
    return this.control.signal?.aborted === true;
  }

  private isOver(): boolean {
    return this.now() - this.started >= this.budgetMs || this.isStopped();
  }

  private attempt(sequence: readonly Entry[], isLost: (usedLengthMm: number, leftOut: number) => boolean): Attempt | undefined {
    this.tries++;
    return lay(this.grid, sequence, () => this.turnsFor(), isLost);
  }

  /** The best of the usual order and of one that was found before; undefined when it was stopped. */
  private first(): { order: readonly Entry[]; found: Attempt } | undefined {
    const stopped = (): boolean => this.isStopped() || (this.isOver() && this.now() - this.started > FIRST_MS);
    const found = this.attempt(this.order, stopped);
    if (!found) return undefined;
    const { before } = this.problem;
    if (!before) return { order: this.order, found };
    const order = asBefore(this.order, this.ids, before);
    const again = this.attempt(order, stopped);
    return again && isBetter(again, found) ? { order, found: again } : { order: this.order, found };
  }

  /** The layout that comes of laying the large parts as they lie best alone, when it is the better one. */
  private withLargeFirst(first: { order: readonly Entry[]; found: Attempt }): { order: readonly Entry[]; found: Attempt } {
    if (first.found.leftOut.length > 0) return first;
    const began = this.now();
    const large = largeFirst({
      grid: this.grid,
      order: this.order,
      strip: this.problem,
      turns: this.turns,
      usedMm: first.found.usedLengthMm,
      tolerance: this.tolerance,
      random: this.random,
      isOver: () => this.isOver() || this.now() - began > Math.min(LARGE_MS, LARGE_SHARE * this.budgetMs),
    });
    if (!large) return first;
    const turnOf = new Map(large.map(({ entry, turnDeg }) => [entry, [turnDeg]]));
    const order = [...large.map(({ entry }) => entry), ...this.order.filter((entry) => !turnOf.has(entry))];
    this.tries++;
    const found = lay(
      this.grid,
      order,
      (entry) => turnOf.get(entry) ?? this.turnsFor(),
      (usedMm) => usedMm >= first.found.usedLengthMm || this.isOver(),
    );
    return found && isBetter(found, first.found) ? { order, found } : first;
  }

  private kicked(order: readonly Entry[]): readonly Entry[] {
    let next = order;
    for (let k = 0; k < 2 + order.length / 8; k++) next = changed(next, this.random);
    return next;
  }

  /** Boxes on shelves: there at once, and never undercut. */
  private shelved(): NestResult {
    const { things } = this.grid;
    const copies = things.map((_, i) => this.order.filter(({ thing }) => thing === i).length);
    // coarse turns are enough for boxes
    const turns = this.turns.filter((deg) => deg % 90 === 0);
    const { placed, leftOut, usedLengthMm } = onShelves(
      things.map(({ outline }, i) => ({ outline, copies: copies[i] ?? 0 })),
      this.problem,
      turns,
    );
    const named = ({ part, copy }: { part: number; copy: number }) => ({ id: this.ids[part] as string, copy });
    return {
      placed: placed.map(({ turnDeg, map, ...one }) => ({ ...named(one), turnDeg, map })),
      leftOut: leftOut.map(named),
      usedLengthMm,
      partsAreaMm2: placed.reduce((sum, { part }) => sum + (things[part] as Shape).areaMm2, 0),
      tries: 0,
    };
  }

  run(): NestResult {
    const shelves = this.shelved();
    const before = this.layoutBefore();
    const start = before && (shelves.leftOut.length > 0 || before.usedLengthMm < shelves.usedLengthMm) ? before : shelves;
    this.control.onBetter?.(start);
    const found = this.search(start);
    const isLonger =
      found.leftOut.length > start.leftOut.length ||
      (found.leftOut.length === start.leftOut.length && found.usedLengthMm > start.usedLengthMm + 1e-6);
    return this.shortened(this.touching(isLonger ? { ...start, tries: found.tries } : found));
  }

  /** A layout in which parts lie along one another, when that is shorter. */
  private touching(found: NestResult): NestResult {
    const { gapMm, widthMm, fixed = [] } = this.problem;
    if (found.leftOut.length > 0 || fixed.length > 0 || this.order.length < 2 || this.isOver()) return found;
    const solids = this.solids(gapMm);
    if (!solids) return found;
    const began = this.now();
    const copiesOf = new Map<number, number>();
    for (const { thing } of this.order) copiesOf.set(thing, (copiesOf.get(thing) ?? 0) + 1);
    const kinds = solids.all.flatMap(({ exact }, i) =>
      exact
        ? [{ turns: new SolidTurns(exact.whole, this.turns), bare: new SolidTurns(exact.bare, this.turns), copies: copiesOf.get(i) ?? 0 }]
        : [],
    );
    if (kinds.length < solids.all.length) return found;
    const laid = layTouching({
      kinds,
      acrossMm: widthMm,
      limitMm: found.usedLengthMm,
      leastMm: found.partsAreaMm2 / widthMm,
      random: this.random,
      gone: () => (this.now() - began) / (TOUCHING_SHARE * this.budgetMs),
      isStopped: () => this.isOver(),
    });
    if (!laid) return found;
    const copies = kinds.map(() => 0);
    const placed = laid.lying.map(({ kind, turn, x, y }) => {
      const { turnDeg, map } = (kinds[kind] as (typeof kinds)[number]).turns.at(turn);
      const copy = copies[kind] ?? 0;
      copies[kind] = copy + 1;
      return { id: this.ids[kind] as string, copy, turnDeg, map: compose(translation(x, y), map) };
    });
    const better = { ...found, placed, usedLengthMm: laid.usedMm };
    this.control.onBetter?.(better);
    return better;
  }

  /** The parts as solids, once for each gap. @returns undefined when it was over meanwhile */
  private solids(
    gapMm: number,
  ): (Pick<ShorterProblem, 'solids' | 'fixed' | 'turns' | 'acrossMm'> & { all: readonly Solids[] }) | undefined {
    const { intoHoles, widthMm, fixed = [] } = this.problem;
    const all = this.solidsByGap.get(gapMm) ?? [];
    this.solidsByGap.set(gapMm, all);
    const solidsOfOutline = (outline: Outline): Solids => {
      const { minX, minY, maxX, maxY } = bounds(outline);
      const chordMm = Math.min(SOLID_CHORD_MM, Math.max(maxX - minX, maxY - minY) / FINENESS);
      const isCurved = outline.contours.some(({ spans }) => spans.some((span) => !isLine(span)));
      return solidsOf(outline, flatten(outline, chordMm), { gapMm, holes: intoHoles, chordMm: isCurved ? chordMm : 0 });
    };
    for (const { outline } of this.grid.things.slice(all.length)) {
      if (this.isStopped() || (this.isOver() && this.now() - this.started > FIRST_MS)) return undefined;
      all.push(solidsOfOutline(outline));
    }
    return {
      all,
      solids: all.map(({ quick }) => quick),
      fixed: fixed.filter((outline) => !isEmptyBox(bounds(outline))).map((outline) => solidsOfOutline(outline).quick),
      turns: this.turns,
      acrossMm: widthMm,
    };
  }

  /** Where everything lay before; undefined when something did not lie there, or that is no layout of this problem any more. */
  private layoutBefore(): NestResult | undefined {
    const { before = [], lengthMm = Infinity, gapMm } = this.problem;
    const mapOf = new Map(before.flatMap(({ id, copy, map }) => (map ? [[`${copy} ${id}`, map] as const] : [])));
    const lay = this.order.map(({ thing, copy }) => {
      const map = mapOf.get(`${copy} ${this.ids[thing] ?? ''}`);
      const turnDeg = map && this.turns.find((deg) => isTurn(map, deg));
      return map && turnDeg !== undefined ? { thing, copy, map, turnDeg } : undefined;
    });
    const lying = lay.flatMap((one) => one ?? []);
    if (mapOf.size === 0 || lying.length < this.order.length) return undefined;
    // places are kept rounded: what touched may lie by a hair nearer
    const solids = this.solids(Math.max(0, gapMm - HAIR_MM));
    const usedLengthMm =
      solids && usedIfFree({ ...solids, lying: lying.map(({ thing, map, turnDeg }) => ({ solid: thing, map, turnDeg })) });
    if (usedLengthMm === undefined || usedLengthMm > lengthMm + HAIR_MM) return undefined;
    return {
      placed: lying.map(({ thing, copy, map, turnDeg }) => ({ id: this.ids[thing] as string, copy, turnDeg, map })),
      leftOut: [],
      usedLengthMm,
      partsAreaMm2: lying.reduce((sum, { thing }) => sum + (this.grid.things[thing] as Shape).areaMm2, 0),
      tries: 0,
    };
  }

  /** The rest of the time goes to making a layout shorter in which everything has found room. */
  private shortened(found: NestResult): NestResult {
    if (found.leftOut.length > 0 || found.placed.length === 0 || this.isOver()) return found;
    const { gapMm, widthMm } = this.problem;
    const indexOf = new Map(this.ids.map((id, i) => [id, i]));
    const solids = this.solids(gapMm);
    if (!solids) return found;
    let best = found;
    makeShorter(
      {
        ...solids,
        lying: found.placed.map(({ id, turnDeg, map }) => ({ solid: indexOf.get(id) ?? 0, turnDeg, map })),
        leastMm: found.partsAreaMm2 / widthMm,
        random: this.random,
        isOver: () => this.isOver(),
        gone: () => (this.now() - this.started) / this.budgetMs,
      },
      (lying, usedLengthMm) => {
        if (usedLengthMm > best.usedLengthMm - 1e-6) return;
        const placed = lying.map(({ turnDeg, map }, i) => ({ ...(found.placed[i] as NestedPart), turnDeg, map }));
        best = { ...best, placed, usedLengthMm };
        this.control.onBetter?.(best);
        this.control.onProgress?.(Math.min(this.budgetMs, this.now() - this.started), this.budgetMs, 'nesting');
      },
    );
    return best;
  }

  /** @param told what is known already: only what is shorter is told */
  private search(told: NestResult): NestResult {
    const first = this.first();
    if (!first) return told;
    let best = this.withLargeFirst(first);
    let shown: Laid = { found: best.found, grid: this.grid };
    const show = (laid: Laid): void => {
      if (laid !== shown && !isShorter(laid.found, shown.found)) return;
      shown = laid;
      const { usedLengthMm, leftOut } = laid.found;
      if (leftOut.length < told.leftOut.length || (leftOut.length === told.leftOut.length && usedLengthMm < told.usedLengthMm - 1e-6))
        this.control.onBetter?.(resultOf(shown, this.ids, this.tries));
    };
    show(shown);
    // laying on the finer grid is begun only when it is likely to end within the time
    let closeMs = FINER_TAKES * (this.now() - this.started);
    const showCloser = (): void => {
      const began = this.now();
      // what has found room is made shorter in another way
      if (best.found.leftOut.length === 0 || began - this.started + closeMs > this.budgetMs) return;
      const turnOf = new Map(best.found.placed.map(({ entry, laying }) => [entry, [laying.turnDeg]]));
      const close = lay(
        this.fine,
        best.order,
        (entry) => turnOf.get(entry) ?? this.turns,
        () => this.isOver(),
      );
      closeMs = Math.max(this.now() - began, closeMs / 4);
      if (close) show({ found: close, grid: this.fine });
    };
    showCloser();
    /** Longer already than the best, with as many left out: no better can come of it. */
    const isLost = (usedLengthMm: number, leftOut: number): boolean =>
      this.isOver() || (usedLengthMm > best.found.usedLengthMm + 1e-6 && leftOut >= best.found.leftOut.length);
    let current = best.order;
    const began = this.now();
    const isEnough = (): boolean =>
      best.found.leftOut.length === 0 && this.now() - began > Math.min(ORDERS_MS, ORDERS_SHARE * this.budgetMs);
    for (let idle = 0; this.order.length > 1 && !this.isOver() && !isEnough(); idle++) {
      if (idle > 0 && idle % PATIENCE === 0) current = this.kicked(best.order);
      const next = changed(current, this.random);
      const found = this.attempt(next, isLost);
      this.control.onProgress?.(Math.min(this.budgetMs, this.now() - this.started), this.budgetMs, 'nesting');
      if (!found || isBetter(best.found, found)) continue;
      const shorter = isShorter(found, best.found);
      best = { order: next, found };
      current = next;
      if (!shorter) continue;
      idle = 0;
      show({ found, grid: this.grid });
      showCloser();
    }
    return resultOf(shown, this.ids, this.tries);
  }
}

/**
 * Packs parts onto a strip. Empty parts are passed over.
 * @param control `onBetter` is told every better result. `now` is the clock of the budget, ms.
 *   A stop ends the search: the best so far is handed back
 * @throws InputError, LimitError for a problem that is none; CancelledError when it was stopped before the first result
 */
export async function nest(problem: NestProblem, control: NestControl = {}): Promise<NestResult> {
  checkProblem(problem);
  await Promise.resolve();
  if (control.signal?.aborted) throw new CancelledError();
  return new Search(problem, control).run();
}
