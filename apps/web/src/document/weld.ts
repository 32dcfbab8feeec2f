/** Several items as the one shape that covers what they cover. */
import { AppError } from '@lorvek/core';
import { bounds, formatPath, mapOutline, translation, weld } from '@lorvek/core/geometry';
import { leavesOf, type Drawing, type ShapeItem } from '@lorvek/model';
import { outlineOf } from '../worker/derived.ts';

/** @throws AppError when an outline is not known or nothing is left */
export function weldItems(drawing: Drawing, ids: readonly string[]): Omit<ShapeItem, 'id'> {
  const leaves = leavesOf(drawing, ids);
  const outlines = leaves.map((leaf) => {
    const outline = outlineOf(leaf);
    if (!outline) throw new AppError('input.outline', `“${leaf.name}” has no outline to weld.`);
    return mapOutline(leaf.matrix, outline);
  });
  const welded = weld(outlines);
  if (welded.contours.length === 0) throw new AppError('geometry.empty', 'Nothing would be left.');
  const { minX, minY } = bounds(welded);
  return {
    type: 'item',
    kind: 'shape',
    name: leaves.length === 1 ? (leaves[0]?.name ?? 'Shape') : `Weld of ${leaves.length}`,
    film: leaves.at(-1)?.film ?? null,
    matrix: [1, 0, 0, 1, Math.round(minX * 1e4) / 1e4, Math.round(minY * 1e4) / 1e4],
    path: formatPath(mapOutline(translation(-Math.round(minX * 1e4) / 1e4, -Math.round(minY * 1e4) / 1e4), welded), 5),
  };
}
