/** The weld family on operands. Curves that nothing meets stay as they are. */
import { AppError } from '@lorvek/core';
import {
  area,
  bounds,
  contourArea,
  dropOverlap,
  flatten,
  formatPath,
  joinOutlines,
  keepOverlap,
  knockOut,
  mapOutline,
  split,
  startX,
  startY,
  translation,
  weld,
  windingNumber,
  type Contour,
  type Outline,
} from '@lorvek/core/geometry';
import { flattenParts } from '@lorvek/core/build';
import type { Gradient } from '@lorvek/core/colour';
import { gradientAt, type Paint, type ShapeItem } from '@lorvek/model';

/** The family of welds. */
export type WeldKind = 'weld' | 'knock-back' | 'knock-front' | 'keep' | 'drop' | 'split' | 'flatten' | 'parts' | 'compound';

/** An item as a weld takes it: its outline on the drawing. */
export interface Operand {
  readonly name: string;
  readonly film: string | null;
  readonly outline: Outline;
  /** What else a group holds: it counts as what all of it covers together. */
  readonly others?: readonly Outline[];
  /** On the drawing, like the outline. */
  readonly gradient?: Gradient | undefined;
  readonly printed?: boolean | undefined;
  /** Its own colours. */
  readonly paint?: Paint | undefined;
  /** It is printed: what is of one layer may be of several colours. */
  readonly onPrint?: boolean;
}

/** A shape that came of it, without an id yet. */
export type Made = Omit<ShapeItem, 'id'>;

const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;

/** An outline on the drawing as a shape in its own space, cut and printed as the operand is that it takes after. */
function shapeOf(outline: Outline, { film, gradient, printed, paint, name: own }: Operand, name = own): Made {
  const { minX, minY } = bounds(outline);
  const [x, y] = [tidy(minX), tidy(minY)];
  return {
    type: 'item',
    kind: 'shape',
    name,
    layer: film,
    matrix: [1, 0, 0, 1, x, y],
    path: formatPath(mapOutline(translation(-x, -y), outline), 5),
    ...(gradient ? { gradient: gradientAt(translation(-x, -y), gradient) } : {}),
    ...(gradient && printed !== undefined ? { printed } : {}),
    ...(paint ? { paint } : {}),
  };
}

/** Every colour keeps only what is visible of it, in one piece where it touches. */
function flattened(operands: readonly Operand[], onShare: (share: number) => void): Made[] {
  const parts = operands.map(({ film, gradient, outline, paint, onPrint }, i) => ({
    // a course of colour goes on over its own part only
    key: gradient ? `course ${i}` : `${film ?? `none ${i}`}${onPrint ? JSON.stringify(paint) : ''}`,
    outline,
  }));
  return flattenParts(parts, onShare).map(({ of, outline }) => shapeOf(outline, operands[of[0] as number] as Operand));
}

/** Each outer contour with the holes in it, and each open line, on its own. */
export function partsOf(outline: Outline): Outline[] {
  const closed = outline.contours.filter((contour) => contour.closed);
  const outers = closed.filter((contour) => contourArea(contour) >= 0);
  const parts = outers.map((outer) => ({
    outer,
    holes: [] as Contour[],
    lines: flatten({ contours: [outer] }, 0.05),
    size: contourArea(outer),
  }));
  for (const hole of closed.filter((contour) => contourArea(contour) < 0)) {
    const first = hole.spans[0];
    const home = first
      ? parts.filter((part) => windingNumber(part.lines, startX(first), startY(first)) !== 0).sort((a, b) => a.size - b.size)[0]
      : undefined;
    home?.holes.push(hole);
  }
  const open = outline.contours.filter((contour) => !contour.closed).map((contour): Outline => ({ contours: [contour] }));
  return [...parts.map(({ outer, holes }): Outline => ({ contours: [outer, ...holes] })), ...open];
}

/** Open lines have no inside to weld: they stay as they are. */
const withOpen = (welded: Outline, operands: readonly Outline[]): Outline => ({
  contours: [...welded.contours, ...operands.flatMap(({ contours }) => contours.filter(({ closed }) => !closed))],
});

/** The topmost operand that a piece of a split is of: its film and its name go on. */
function coveringOf(piece: Outline, operands: readonly Operand[]): Operand {
  const own = Math.abs(area(piece));
  const covers = (operand: Operand): boolean => Math.abs(area(keepOverlap([operand.outline, piece]))) > 0.5 * own;
  return operands.findLast(covers) ?? (operands.at(-1) as Operand);
}

function results(kind: WeldKind, operands: readonly Operand[], onShare: (share: number) => void): Made[] {
  const [back, ...front] = operands as [Operand, ...Operand[]];
  const top = operands.at(-1) as Operand;
  const outlines = operands.map((operand) => operand.outline);
  switch (kind) {
    case 'weld':
      return [shapeOf(withOpen(weld(outlines), outlines), top, operands.length === 1 ? top.name : `Weld of ${operands.length}`)];
    case 'knock-back': {
      const cutters = front.map((operand) => operand.outline);
      return [shapeOf(knockOut(back.outline, cutters), back)];
    }
    case 'knock-front':
      return [shapeOf(knockOut(top.outline, outlines.slice(0, -1)), top)];
    case 'keep':
      return [shapeOf(keepOverlap(outlines), top, `Overlap of ${operands.length}`)];
    case 'drop':
      return [shapeOf(dropOverlap(outlines), top, `${operands.length} without overlap`)];
    case 'split':
      return split(outlines).map((piece, i) => shapeOf(piece, coveringOf(piece, operands), `Piece ${i + 1}`));
    case 'flatten':
      return flattened(operands, onShare);
    case 'parts':
      return operands.flatMap((operand) => partsOf(operand.outline).map((part, i) => shapeOf(part, operand, `${operand.name} · ${i + 1}`)));
    case 'compound':
      return [shapeOf(joinOutlines(outlines), top, `Compound of ${operands.length}`)];
  }
}

const asOne = (operand: Operand): Operand =>
  operand.others ? { ...operand, outline: weld([operand.outline, ...operand.others]) } : operand;

/** @throws AppError when too few items are given or nothing would be left */
export function weldOperands(kind: WeldKind, given: readonly Operand[], onShare: (share: number) => void = () => undefined): Made[] {
  const operands = given.map(asOne);
  if (operands.length === 0 || (operands.length < 2 && kind !== 'weld' && kind !== 'parts'))
    throw new AppError('input.selection', 'Select two or more items that overlap.');
  const made = results(kind, operands, onShare).filter((shape) => shape.path !== '');
  if (made.length === 0) throw new AppError('geometry.empty', 'Nothing would be left: the items do not overlap in that way.');
  if (made.length > 5000) throw new AppError('limit.parts', `It would fall into ${made.length} parts; 5000 is the most.`);
  return made;
}
