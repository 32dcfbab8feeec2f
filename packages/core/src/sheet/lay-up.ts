/**
 * Laying one film's work on a roll: mirror, quarter turns, copies on a regular grid, a weed box round each copy.
 * Axes: x along the roll from its cut edge, y across it. Copies fill the width first, then the length.
 * Order of the steps: mirror (left to right, as seen on the wall), then turn, then place.
 */
import type { Box, Matrix, Outline } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { boxShape } from '../geometry/shapes.ts';
import { bounds, EMPTY_BOX, growBox, isEmptyBox, joinBoxes } from '../geometry/outline.ts';
import { compose, mapBox, mapOutline, rotation, scaling, translation } from '../geometry/transform.ts';

export interface LayUpPart {
  readonly id: string;
  readonly outline: Outline;
}

export interface LayUpProblem {
  readonly parts: readonly LayUpPart[];
  /** Width across the roll and length that is left on it, mm. */
  readonly materialWidthMm: number;
  readonly materialLengthMm: number;
  readonly marginMm: number;
  readonly turnDeg: 0 | 90 | 180 | 270;
  readonly mirror: boolean;
  readonly copies: number;
  readonly gapMm: number;
  /** Distance of the weed box from the work, mm; undefined for none. */
  readonly weedBoxMm?: number | undefined;
  /** Where the work sits, from the corner of the margin, mm. */
  readonly offsetXMm?: number;
  readonly offsetYMm?: number;
}

export interface PlacedPart extends LayUpPart {
  readonly copy: number;
}

export interface LaidUp {
  readonly parts: readonly PlacedPart[];
  readonly weedBoxes: readonly Outline[];
  /** Box of everything that is cut, weed boxes included. */
  readonly box: Box;
  /** Length of roll that is taken off: from its edge to the end of the work and the margin, mm. */
  readonly usedLengthMm: number;
  /** By how much the work is too wide and too long for the material, mm; 0 when it fits. */
  readonly overWidthMm: number;
  readonly overLengthMm: number;
  /** Copies side by side across the roll. */
  readonly across: number;
  /** From the drawing to the first copy's place on the roll. */
  readonly placing: Matrix;
}

const MOST_COPIES = 2000;

function check(problem: LayUpProblem): void {
  if (!Number.isInteger(problem.copies) || problem.copies < 1)
    throw new InputError('copies', `The number of copies must be 1 or more, not ${problem.copies}.`);
  if (problem.copies > MOST_COPIES) throw new LimitError('copies', `One sheet takes at most ${MOST_COPIES} copies.`);
  if (!(problem.gapMm >= 0 && problem.marginMm >= 0)) throw new InputError('gap', 'Gap and margin must not be below zero.');
}

/** @returns no parts and zero length when there is nothing to lay up. @throws InputError, LimitError */
export function layUp(problem: LayUpProblem): LaidUp {
  check(problem);
  const around = compose(rotation(problem.turnDeg), problem.mirror ? scaling(-1, 1) : scaling(1, 1));
  const turned = problem.parts.map((part) => ({ id: part.id, outline: mapOutline(around, part.outline) }));
  const ink = turned.reduce<Box>((box, part) => joinBoxes(box, bounds(part.outline)), EMPTY_BOX);
  if (isEmptyBox(ink)) {
    return { parts: [], weedBoxes: [], box: EMPTY_BOX, usedLengthMm: 0, overWidthMm: 0, overLengthMm: 0, across: 0, placing: around };
  }
  const frame = growBox(ink, problem.weedBoxMm ?? 0);
  const width = frame.maxX - frame.minX;
  const height = frame.maxY - frame.minY;
  const offsetY = problem.offsetYMm ?? 0;
  const room = problem.materialWidthMm - 2 * problem.marginMm - offsetY;
  const across = Math.max(1, Math.min(problem.copies, Math.floor((room + problem.gapMm + 1e-9) / (height + problem.gapMm))));
  const originX = problem.marginMm + (problem.offsetXMm ?? 0) - frame.minX;
  const originY = problem.marginMm + offsetY - frame.minY;
  const parts: PlacedPart[] = [];
  const weedBoxes: Outline[] = [];
  let box = EMPTY_BOX;
  for (let copy = 0; copy < problem.copies; copy++) {
    const shift = translation(
      originX + Math.floor(copy / across) * (width + problem.gapMm),
      originY + (copy % across) * (height + problem.gapMm),
    );
    for (const part of turned) parts.push({ id: part.id, copy, outline: mapOutline(shift, part.outline) });
    const placedFrame = mapBox(shift, frame);
    box = joinBoxes(box, placedFrame);
    if (problem.weedBoxMm !== undefined)
      weedBoxes.push(mapOutline(translation(placedFrame.minX, placedFrame.minY), boxShape(width, height)));
  }
  return {
    parts,
    weedBoxes,
    box,
    usedLengthMm: box.maxX + problem.marginMm,
    overWidthMm: Math.max(0, box.maxY - (problem.materialWidthMm - problem.marginMm), -box.minY),
    overLengthMm: Math.max(0, box.maxX - (problem.materialLengthMm - problem.marginMm), -box.minX),
    across,
    placing: compose(translation(originX, originY), around),
  };
}
