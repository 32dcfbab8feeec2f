/**
 * Nesting for Lay up: parts onto one long strip or onto as many sheets as they need, round what is locked in place. Sheets
 * are filled one after another: what finds no room on one goes to the next, and each has its share of the time.
 */
import { AppError } from '@lorvek/core';
import { area, bounds, boxShape, type Matrix, type Outline } from '@lorvek/core/geometry';
import { nest, type NestProblem, type NestResult } from '@lorvek/core/sheet';
import type { Tell } from './host.ts';

/** Parts, the clear ground, and what is wanted of the nest. */
export interface NestAsked {
  /** Outlines begin at 0, 0; copies that are locked are not among them. To fill a sheet, numbers of copies enough. */
  readonly parts: readonly { readonly id: string; readonly outline: Outline; readonly copies: readonly number[] }[];
  /** What is locked on each sheet, in its clear ground. */
  readonly fixed: readonly (readonly Outline[])[];
  /** Clear ground of a sheet, mm. */
  readonly widthMm: number;
  readonly lengthMm: number;
  /** Several sheets when one is full; else what has no room is left out. */
  readonly sheets: boolean;
  /** As many copies as one sheet takes. */
  readonly fill: boolean;
  readonly gapMm: number;
  readonly turnStepDeg: number;
  readonly intoHoles: boolean;
  /** Copies in the order in which they lay before, and where when they lay on one sheet. */
  readonly before: readonly { readonly id: string; readonly copy: number; readonly map?: Matrix }[];
  readonly budgetMs: number;
  readonly seed: number;
}

/** Where a copy lies. */
export interface NestPlace {
  readonly id: string;
  readonly copy: number;
  readonly sheet: number;
  /** From where the part's box begins to the clear ground of its sheet. */
  readonly map: Matrix;
}

/** A layout, and what found no room in it. */
export interface NestAnswer {
  readonly placed: readonly NestPlace[];
  readonly leftOut: readonly { readonly id: string; readonly copies: number }[];
  /** Of all sheets together, mm. */
  readonly usedLengthMm: number;
  readonly partsAreaMm2: number;
  readonly elapsedMs: number;
}

const MOST_PARTS = 2000;
const MOST_SHEETS = 200;

type Waiting = ReadonlyMap<string, readonly number[]>;

/** As many copies as could lie on one sheet by their area. */
function filling({ parts, widthMm, lengthMm }: NestAsked): Waiting {
  const each = parts.reduce((sum, { outline }) => sum + Math.abs(area(outline)), 0);
  const copies = Math.max(
    1,
    Math.min(Math.floor(MOST_PARTS / Math.max(1, parts.length)), Math.ceil((widthMm * lengthMm) / Math.max(1, each))),
  );
  return new Map(parts.map((part) => [part.id, part.copies.slice(0, copies)]));
}

interface OneSheet {
  readonly waiting: Waiting;
  readonly sheet: number;
  readonly budgetMs: number;
}

class Nesting {
  private readonly started: number;
  private readonly done: NestAnswer[] = [];

  constructor(
    private readonly asked: NestAsked,
    private readonly onShare: Tell<NestAnswer>,
    private readonly now: () => number,
  ) {
    this.started = now();
  }

  private problem({ waiting, sheet }: OneSheet): NestProblem {
    const { parts, fixed, widthMm, lengthMm, gapMm, turnStepDeg, intoHoles, before } = this.asked;
    return {
      parts: parts.flatMap(({ id, outline }) => {
        const copies = waiting.get(id)?.length ?? 0;
        return copies > 0 ? [{ id, outline, copies }] : [];
      }),
      widthMm,
      lengthMm,
      gapMm,
      turnStepDeg,
      intoHoles,
      fixed: fixed[sheet] ?? [],
      before,
    };
  }

  private answerOf({ placed, leftOut, usedLengthMm, partsAreaMm2 }: NestResult, { waiting, sheet }: OneSheet): NestAnswer {
    const left = new Map<string, number>();
    for (const { id } of leftOut) left.set(id, (left.get(id) ?? 0) + 1);
    // copies are named by those that wait, in the order in which they found a place
    const taken = new Map<string, number>();
    const own = placed.map(({ id, map }): NestPlace => {
      const k = taken.get(id) ?? 0;
      taken.set(id, k + 1);
      return { id, copy: waiting.get(id)?.[k] ?? k, sheet, map };
    });
    return {
      placed: [...this.done.flatMap((one) => one.placed), ...own],
      leftOut: [...left].map(([id, copies]) => ({ id, copies })),
      usedLengthMm: this.done.reduce((sum, one) => sum + one.usedLengthMm, 0) + usedLengthMm,
      partsAreaMm2: this.done.reduce((sum, one) => sum + one.partsAreaMm2, 0) + partsAreaMm2,
      elapsedMs: this.now() - this.started,
    };
  }

  private async one(of: OneSheet): Promise<NestResult> {
    const { budgetMs } = this.asked;
    return nest(this.problem(of), {
      budgetMs: of.budgetMs,
      seed: this.asked.seed,
      now: this.now,
      onProgress: () => this.onShare(Math.min(1, (this.now() - this.started) / Math.max(1, budgetMs))),
      onBetter: (better) => this.onShare(Math.min(1, (this.now() - this.started) / Math.max(1, budgetMs)), this.answerOf(better, of)),
    });
  }

  async run(): Promise<NestAnswer> {
    const { asked } = this;
    let waiting: Waiting = asked.fill ? filling(asked) : new Map(asked.parts.map(({ id, copies }) => [id, copies]));
    let answer: NestAnswer | undefined;
    const isMany = asked.sheets && !asked.fill;
    let budgetMs = isMany ? asked.budgetMs / (await this.sheetsFor(waiting)) : asked.budgetMs;
    budgetMs = Math.max(200, budgetMs);
    for (let sheet = 0; sheet < (isMany ? MOST_SHEETS : 1); sheet++) {
      const of = { waiting, sheet, budgetMs };
      const result = await this.one(of);
      answer = this.answerOf(result, of);
      if (result.leftOut.length === 0 || result.placed.length === 0) break;
      const own = answer.placed.filter((place) => place.sheet === sheet);
      this.done.push({ ...answer, placed: own, usedLengthMm: result.usedLengthMm, partsAreaMm2: result.partsAreaMm2 });
      const gone = new Set(own.map(({ id, copy }) => `${copy} ${id}`));
      waiting = new Map([...waiting].map(([id, copies]) => [id, copies.filter((copy) => !gone.has(`${copy} ${id}`))]));
    }
    if (!answer) throw new AppError('input.selection', 'Nothing that takes room is on the list.');
    return asked.fill ? { ...answer, leftOut: [] } : answer;
  }

  /** How many sheets are likely, by area. */
  private async sheetsFor(waiting: Waiting): Promise<number> {
    await Promise.resolve();
    const { parts, widthMm, lengthMm } = this.asked;
    const all = parts.reduce((sum, { id, outline }) => {
      const { minX, maxX, minY, maxY } = bounds(outline);
      return sum + (waiting.get(id)?.length ?? 0) * 0.8 * (maxX - minX) * (maxY - minY);
    }, 0);
    return Math.max(1, Math.ceil(all / (widthMm * lengthMm)));
  }
}

/** @throws AppError when there is nothing to nest */
export async function nestParts(asked: NestAsked, now: () => number, onShare: Tell<NestAnswer> = () => undefined): Promise<NestAnswer> {
  if (asked.parts.length === 0) throw new AppError('input.selection', 'Nothing that takes room is on the list.');
  if (!(asked.widthMm > 0 && asked.lengthMm > 0))
    throw new AppError('input.width', 'The sheet is narrower than its margins. Make the margins smaller, or take a wider one.');
  return new Nesting(asked, onShare, now).run();
}

/** What a look at the clock of the boxes takes, ms: some ten thousand steps of the search, about a second. */
const LOOK_MS = 0.02;

/** A clock that goes on by as much whenever it is looked at: what is found by it is the same on a busy computer. */
export function countingClock(): () => number {
  let ms = 0;
  return () => (ms += LOOK_MS);
}

/** How much is used when every part is taken for its box and nothing is turned. */
export interface BoxesLength {
  /** Of all sheets together, mm. */
  readonly usedLengthMm: number;
  readonly sheets: number;
}

/** What the real outlines save is told against it. The same for the same parts, however busy the computer is. */
export async function boxesLength(asked: NestAsked): Promise<BoxesLength> {
  const parts = asked.parts.map(({ outline, ...part }) => {
    const { minX, maxX, minY, maxY } = bounds(outline);
    return { ...part, outline: boxShape(maxX - minX, maxY - minY) };
  });
  const boxes = { ...asked, parts, turnStepDeg: 0, budgetMs: 0, intoHoles: false };
  const { usedLengthMm, placed } = await nestParts(boxes, countingClock());
  return { usedLengthMm, sheets: new Set(placed.map(({ sheet }) => sheet)).size };
}
