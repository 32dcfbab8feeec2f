/** The sizes that boxes, ovals, polygons and arcs have as fields. */
import type { ItemId } from '../records/fields.ts';
import { bounds, compose, translation, type Point } from '@lorvek/core/geometry';
import { itemSchema, type Item } from '../records/items.ts';
import { describeIssue } from '../records/plain-issue.ts';
import { plainOutline, type PlainItem } from '../queries/plain-outline.ts';
import { itemOf } from '../queries/queries.ts';
import { tidyMatrix } from './items.ts';
import { planOf, refuse, type Command } from './plan.ts';

/** Sizes that a shape has as fields. */
export type ShapeSize = { readonly widthMm: number } | { readonly heightMm: number } | { readonly radiusMm: number };

/**
 * A shape at another size: its ratio kept when asked for, a point of its own box staying where it is on the drawing.
 * `anchor` is that point, 0 to 1 each way from the lower left.
 */
export const setShapeSize: Command<{ id: ItemId; size: ShapeSize; keepRatio: boolean; anchor: Point }> = (
  state,
  { id, size, keepRatio, anchor },
) => {
  const item = itemOf(state.drawing, id);
  if (!item || (item.kind !== 'box' && item.kind !== 'oval' && item.kind !== 'polygon' && item.kind !== 'arc'))
    return refuse('This has no sizes of its own to set.');
  const fields: Record<string, number> = { ...size };
  if (keepRatio && 'widthMm' in item) {
    if ('widthMm' in size) fields['heightMm'] = (item.heightMm * size.widthMm) / item.widthMm;
    else if ('heightMm' in size) fields['widthMm'] = (item.widthMm * size.heightMm) / item.heightMm;
  }
  const parsed = itemSchema.safeParse({ ...item, ...fields });
  if (!parsed.success) return refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
  const anchorOf = (one: PlainItem): Point => {
    const { minX, minY, maxX, maxY } = bounds(plainOutline(one));
    return { x: minX + anchor.x * (maxX - minX), y: minY + anchor.y * (maxY - minY) };
  };
  const [was, is] = [anchorOf(item), anchorOf(parsed.data as PlainItem)];
  const matrix = tidyMatrix(compose(item.matrix, translation(was.x - is.x, was.y - is.y)));
  return planOf(state, () => ({ ...state.drawing, [id]: { ...parsed.data, matrix } as Item }));
};
