/** Registration marks round what lies on a sheet, and the code beside the first one. */
import { InputError } from '@lorvek/core';
import { bounds, growBox, isEmptyBox, joinOutlines, mapBox, mapOutline, translation, type Box, type Outline } from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import { jobCode, marksBandMm, placeMarks, plainLetters, type PlacedMark } from '@lorvek/core/sheet';
import { isPrint } from '../queries/queries.ts';
import { USUAL_MARKS, type LayUp, type Marks } from '../records/lay-up.ts';
import type { LayerWork } from './lay-parts.ts';
import { outlineOfPart, type LayPart } from './lay-places.ts';
import type { SheetCode } from './plan-sheet.ts';
import type { Laid } from './sheet-findings.ts';

/** Length of the code and its figures along the material. */
const codeLengthMm = ({ codeKind = 'data-matrix' }: Marks): number => Math.max(FIGURES_LENGTH_MM, CODE_MODULES[codeKind] * CODE_MODULE_MM);

/** Room before the first mark for the code, mm. */
export const leadOf = (marks: Marks | null): number => (marks?.code ? codeLengthMm(marks) + CODE_GAP_MM + CLEAR_MM : 0);

/** The marks of a lay-up; a print that is cut has the usual ones until somebody says otherwise, null: none. */
export function marksOf(record: LayUp, { layer }: LayerWork, { sources }: LayPart): Marks | null {
  if (record.marks !== undefined) return record.marks;
  return isPrint(layer) && sources.some(({ line }) => line !== undefined) ? USUAL_MARKS : null;
}

const CODE_MODULE_MM = 0.8;
/** Modules along a side of a code of a short name: Data Matrix 12, QR version 1. */
const CODE_MODULES = { 'data-matrix': 12, qr: 21 } as const;
const FIGURES_MM = 2;
/** Half the width of the stroke that figures are drawn with. */
const FIGURES_STROKE_MM = 0.08 * FIGURES_MM;
/** Length of the figures of a short name, eight of them, with their strokes. */
const FIGURES_LENGTH_MM = (8 * 5.5 * FIGURES_MM) / 6 + 2 * FIGURES_STROKE_MM;
/** Between the code and the first mark's clear zone. */
const CODE_GAP_MM = 1;
const CLEAR_MM = 3;

/** Room that marks take on each side of the work; those on a rectangle only where it reaches beyond the work. */
export function bandOf(marks: Marks, whole: LayPart): number {
  const { rectangle, round, distanceMm } = marks;
  if (round !== 'rectangle' || !rectangle) return marksBandMm(withoutNull(marks));
  const work = bounds(outlineOfPart(whole));
  const beyond = Math.max(work.minX - rectangle.minX, work.minY - rectangle.minY, rectangle.maxX - work.maxX, rectangle.maxY - work.maxY);
  return Math.max(0, beyond + marksBandMm(withoutNull(marks)) - distanceMm);
}

/** Settings as the core takes them. */
const withoutNull = ({ midSpacingMm, ...marks }: Marks) => ({ ...marks, ...(midSpacingMm ? { midSpacingMm } : {}) });

/** Registration marks of a sheet, and the ground that they keep clear. */
export interface Marked {
  readonly marks: readonly PlacedMark[];
  readonly code?: SheetCode;
  readonly findings: readonly Finding[];
}

/** Under the figures: which mark is the first, and which way the sheet goes in, is told by the paper itself. */
const ARROW_BELOW_MM = 1.6;
const [ARROW_HEAD_MM, ARROW_HALF_MM, ARROW_LINE_MM] = [2, 0.8, 0.4];

/** An arrow to the right, so long, about the x axis. */
function arrowTo(length: number): Outline {
  const neck = Math.max(0, length - ARROW_HEAD_MM);
  const half = ARROW_LINE_MM / 2;
  const points: [number, number][] = [
    [0, -half],
    [neck, -half],
    [neck, -ARROW_HALF_MM],
    [length, 0],
    [neck, ARROW_HALF_MM],
    [neck, half],
    [0, half],
  ];
  return {
    contours: [
      { closed: true, spans: points.map((point, i) => [...point, ...(points[(i + 1) % points.length] as [number, number])] as const) },
    ],
  };
}

/** Marks round the laid work, the code beside the first one, and an arrow to it. */
export function markSheet(marks: Marks | null, { frame: laid, material, record, placements }: Laid, code: string): Marked {
  if (!marks || isEmptyBox(laid.box)) return { marks: [], findings: [] };
  const frame: Box = { minX: 0, minY: 0, maxX: material.lengthMm, maxY: material.widthMm };
  const { midSpacingMm, rectangle, round, ...settings } = marks;
  const mid = midSpacingMm ? { midSpacingMm } : {};
  try {
    const [first] = placements;
    const band = marksBandMm(withoutNull(marks)) - marks.distanceMm;
    // on the sheet's corners the marks lie within its margins; a rectangle's corners are the middles of the marks
    const work =
      round === 'sheet'
        ? growBox(
            { ...frame, maxX: record.sheetLengthMm ? material.lengthMm : laid.usedLengthMm },
            -(record.marginMm + band + marks.distanceMm),
          )
        : round === 'rectangle' && rectangle && first
          ? mapBox(first.map, rectangle)
          : laid.box;
    const placed = placeMarks({ ...settings, ...mid, work, frame, onCorners: round === 'rectangle' && rectangle !== undefined });
    const one = placed[0] as PlacedMark;
    if (!marks.code) return { marks: placed, findings: [] };
    const left = one.clear.minX - CODE_GAP_MM - codeLengthMm(marks);
    // figures, squares and arrow lie apart
    const figures = mapOutline(translation(left + FIGURES_STROKE_MM, one.centre.y + FIGURES_STROKE_MM), plainLetters(code, FIGURES_MM));
    const low = one.centre.y + FIGURES_MM + 2;
    const made = jobCode(code, CODE_MODULE_MM, marks.codeKind);
    const squares = mapOutline(translation(left, low), made.outline);
    const at = { x: left + made.sizeMm / 2, y: low + made.sizeMm / 2 };
    const arrow = mapOutline(translation(left, one.centre.y - ARROW_BELOW_MM), arrowTo(one.clear.minX - CODE_GAP_MM - left));
    return { marks: placed, code: { text: code, at, outline: joinOutlines([figures, squares, arrow]) }, findings: [] };
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return { marks: [], findings: [{ code: 'marks', level: 'stop', text: error.message, parts: [] }] };
  }
}
