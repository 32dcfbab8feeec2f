/**
 * Laying one film's work on a roll: mirror, turn, copies on a regular grid, boxes that it is weeded by.
 * Axes: x along the roll from its cut edge, y across it. Copies fill the width first, then the length.
 * Order of the steps: mirror (left to right, as seen on the wall), then turn, then place.
 */
import type { Box, Matrix, Outline } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { outlineOfBox } from '../geometry/shapes.ts';
import { EMPTY_BOX, growBox, isEmptyBox, joinBoxes } from '../geometry/outline.ts';
import { weld } from '../geometry/weld/weld.ts';
import { lyingTogether } from './lying-together.ts';
import { compose, mapBox, rotation, scaling, translation, mappedBounds } from '../geometry/transform.ts';

/** What is laid on which material, and how. mm, degrees. */
export interface LayUpProblem {
  /** Outlines of what is laid up, on the drawing: cut lines and art. Only their boxes matter here. */
  readonly outlines: readonly Outline[];
  /** Width across the roll and length that is left on it, mm. */
  readonly materialWidthMm: number;
  readonly materialLengthMm: number;
  readonly marginMm: number;
  readonly turnDeg: number;
  readonly mirror: boolean;
  readonly copies: number;
  readonly gapMm: number;
  /** Distance of the weed box from the work, mm; undefined for none. */
  readonly weedBoxMm?: number | undefined;
  /** Where the work sits, from the corner of the margin, mm. */
  readonly alongMm?: number;
  readonly acrossMm?: number;
  /** Room kept free round all copies for registration marks, and before them along the roll for a code, mm. */
  readonly bandMm?: number;
  readonly leadMm?: number;
}

/** A sheet with the place of each copy. */
export interface LaidUp extends SheetFrame {
  /** From the drawing to the place of each copy on the roll. */
  readonly placements: readonly Matrix[];
  /** Copies side by side across the roll. */
  readonly across: number;
}

const MOST_COPIES = 2000;

function check(problem: LayUpProblem): void {
  if (!Number.isInteger(problem.copies) || problem.copies < 1)
    throw new InputError('copies', `The number of copies must be 1 or more, not ${problem.copies}.`);
  if (problem.copies > MOST_COPIES) throw new LimitError('copies', `One sheet takes at most ${MOST_COPIES} copies.`);
  if (!(problem.gapMm >= 0 && problem.marginMm >= 0)) throw new InputError('gap', 'Gap and margin must not be below zero.');
}

/** What lies on one sheet: its box, the boxes that it is weeded by, and what of the material it takes. */
export interface SheetFrame {
  readonly weedBoxes: readonly Outline[];
  /** Box of the work, weed boxes included. */
  readonly box: Box;
  readonly usedLengthMm: number;
  readonly overWidthMm: number;
  readonly overLengthMm: number;
}

/** What the frame of a sheet depends on. */
export interface FrameProblem extends Pick<LayUpProblem, 'materialWidthMm' | 'materialLengthMm' | 'marginMm' | 'bandMm' | 'leadMm'> {
  /** Boxes of what is weeded in one piece each, as they lie on the sheet. */
  readonly boxes: readonly Box[];
  readonly weedBoxMm?: number | undefined;
}

/** Boxes as outlines; those that meet become one, so that none runs through what another holds. */
function weedBoxesOf(boxes: readonly Box[]): Outline[] {
  const outlines = boxes.map(outlineOfBox);
  return lyingTogether(outlines).map((cluster) => {
    const own = cluster.map((i) => outlines[i] as Outline);
    return own.length === 1 ? (own[0] as Outline) : weld(own);
  });
}

/** @returns zero length when nothing lies there */
export function frameSheet(problem: FrameProblem): SheetFrame {
  const { materialWidthMm, materialLengthMm, marginMm, bandMm = 0, leadMm = 0, weedBoxMm } = problem;
  const boxes = problem.boxes.filter((box) => !isEmptyBox(box)).map((box) => growBox(box, weedBoxMm ?? 0));
  const box = boxes.reduce(joinBoxes, EMPTY_BOX);
  if (isEmptyBox(box)) return { weedBoxes: [], box, usedLengthMm: 0, overWidthMm: 0, overLengthMm: 0 };
  return {
    weedBoxes: weedBoxMm === undefined ? [] : weedBoxesOf(boxes),
    box,
    usedLengthMm: box.maxX + bandMm + marginMm,
    overWidthMm: Math.max(0, box.maxY + bandMm - (materialWidthMm - marginMm), bandMm - box.minY),
    overLengthMm: Math.max(0, box.maxX + bandMm - (materialLengthMm - marginMm), bandMm + leadMm - box.minX),
  };
}

/** @returns no placements and zero length when there is nothing to lay up. @throws InputError, LimitError */
export function layUp(problem: LayUpProblem): LaidUp {
  check(problem);
  const around = compose(rotation(problem.turnDeg), problem.mirror ? scaling(-1, 1) : scaling(1, 1));
  const ink = problem.outlines.reduce<Box>((box, outline) => joinBoxes(box, mappedBounds(around, outline)), EMPTY_BOX);
  if (isEmptyBox(ink)) return { ...frameSheet({ ...problem, boxes: [] }), placements: [], across: 0 };
  const { marginMm, gapMm, materialWidthMm, bandMm = 0, leadMm = 0, alongMm = 0, acrossMm = 0 } = problem;
  const frame = growBox(ink, problem.weedBoxMm ?? 0);
  const width = frame.maxX - frame.minX;
  const height = frame.maxY - frame.minY;
  const room = materialWidthMm - 2 * (marginMm + bandMm) - acrossMm;
  const across = Math.max(1, Math.min(problem.copies, Math.floor((room + gapMm + 1e-9) / (height + gapMm))));
  const originX = marginMm + bandMm + leadMm + alongMm - frame.minX;
  const originY = marginMm + bandMm + acrossMm - frame.minY;
  const placements = Array.from({ length: problem.copies }, (_, copy) =>
    compose(translation(originX + Math.floor(copy / across) * (width + gapMm), originY + (copy % across) * (height + gapMm)), around),
  );
  // the ink, which is turned already, under the shift alone
  const boxes = placements.map((map) => mapBox(translation(map[4] - around[4], map[5] - around[5]), ink));
  return { ...frameSheet({ ...problem, boxes }), placements, across };
}
