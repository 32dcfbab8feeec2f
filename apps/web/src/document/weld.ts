/** The weld family on items: what would become of them, as new shapes. Curves that nothing meets stay as they are. */
import { AppError } from '@lorvek/core';
import {
  bounds,
  dropOverlap,
  formatPath,
  keepOverlap,
  knockOut,
  mapOutline,
  split,
  translation,
  weld,
  type Outline,
} from '@lorvek/core/geometry';
import { leavesOf, topOf, type Drawing, type ShapeItem } from '@lorvek/model';
import { outlineOf } from '../worker/derived.ts';

export type WeldKind = 'weld' | 'knock-back' | 'knock-front' | 'keep' | 'drop' | 'split';

interface Operand {
  name: string;
  film: string | null;
  outline: Outline;
}

/** One operand a selected item; a group counts as what its leaves cover together. In painting order. */
function operandsOf(drawing: Drawing, ids: readonly string[]): Operand[] {
  const leaves = leavesOf(drawing).filter((leaf) =>
    ids.some((id) => id === leaf.id || topOf(drawing, leaf.id) === id || leavesOf(drawing, [id]).includes(leaf)),
  );
  const groups = new Map<string, Operand[]>();
  for (const leaf of leaves) {
    const own = outlineOf(leaf);
    if (!own) throw new AppError('input.outline', `“${leaf.name}” has no outline yet.`);
    const key = ids.includes(leaf.id) ? leaf.id : topOf(drawing, leaf.id);
    groups.set(key, [...(groups.get(key) ?? []), { name: leaf.name, film: leaf.film, outline: mapOutline(leaf.matrix, own) }]);
  }
  return [...groups.values()].map((members) => {
    const [first] = members as [Operand, ...Operand[]];
    return members.length === 1 ? first : { name: first.name, film: first.film, outline: weld(members.map((member) => member.outline)) };
  });
}

const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;

/** An outline on the drawing as a shape in its own space. */
function shapeOf(outline: Outline, name: string, film: string | null): Omit<ShapeItem, 'id'> {
  const { minX, minY } = bounds(outline);
  const [x, y] = [tidy(minX), tidy(minY)];
  return {
    type: 'item',
    kind: 'shape',
    name,
    film,
    matrix: [1, 0, 0, 1, x, y],
    path: formatPath(mapOutline(translation(-x, -y), outline), 5),
  };
}

function results(kind: WeldKind, operands: readonly Operand[]): Omit<ShapeItem, 'id'>[] {
  const [back, ...front] = operands as [Operand, ...Operand[]];
  const top = operands.at(-1) as Operand;
  const outlines = operands.map((operand) => operand.outline);
  switch (kind) {
    case 'weld':
      return [shapeOf(weld(outlines), operands.length === 1 ? back.name : `Weld of ${operands.length}`, top.film)];
    case 'knock-back':
      return [
        shapeOf(
          knockOut(
            back.outline,
            front.map((o) => o.outline),
          ),
          back.name,
          back.film,
        ),
      ];
    case 'knock-front':
      return [shapeOf(knockOut(top.outline, outlines.slice(0, -1)), top.name, top.film)];
    case 'keep':
      return [shapeOf(keepOverlap(outlines), `Overlap of ${operands.length}`, top.film)];
    case 'drop':
      return [shapeOf(dropOverlap(outlines), `${operands.length} without overlap`, top.film)];
    case 'split':
      return split(outlines).map((piece, i) => shapeOf(piece, `Piece ${i + 1}`, top.film));
  }
}

/**
 * What the operation makes of the items.
 * @throws AppError when an outline is not known, fewer than two items are given, or nothing would be left
 */
export function weldFamily(kind: WeldKind, drawing: Drawing, ids: readonly string[]): Omit<ShapeItem, 'id'>[] {
  const operands = operandsOf(drawing, ids);
  if (operands.length === 0 || (operands.length < 2 && kind !== 'weld'))
    throw new AppError('input.selection', 'Select two or more items that overlap.');
  const made = results(kind, operands).filter((shape) => shape.path !== '');
  if (made.length === 0) throw new AppError('geometry.empty', 'Nothing would be left: the items do not overlap in that way.');
  return made;
}
