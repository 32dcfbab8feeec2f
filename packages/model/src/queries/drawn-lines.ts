/**
 * Drawn lines and edges stay with the line that they come from: when that line or the item on it changes, the path that
 * the item's treatment holds is made anew, so that on the drawing it lies where the line lies. A line that is gone leaves
 * the path as it was last.
 */
import { compose, formatPath, invert, mapOutline, type Matrix } from '@lorvek/core/geometry';
import type { Drawing } from '../records/document.ts';
import type { Item } from '../records/items.ts';
import type { TreatmentRecord } from '../records/treatments.ts';
import { plainOutline, type LeafItem, type PlainItem } from './plain-outline.ts';
import { itemOf, leavesOf } from './queries.ts';

/** Can the item be a line that others follow? Its outline has to come from its record alone. */
export const isLineSource = (item: Item): item is PlainItem =>
  item.kind !== 'group' && item.kind !== 'lettering' && item.kind !== 'edge-cut' && item.kind !== 'picture' && item.kind !== 'dimension';

/** The first contour of a line, in the space of an item with the matrix; undefined when there is none. */
export function lineFor(line: Item, matrix: Matrix): string | undefined {
  const back = invert(matrix);
  if (!back || !isLineSource(line)) return undefined;
  const contours = plainOutline(line).contours.slice(0, 1);
  return contours.length === 0 ? undefined : formatPath(mapOutline(compose(back, line.matrix), { contours }), 4);
}

const lineOf = (t: TreatmentRecord): string | undefined => (t.kind === 'bend' || t.kind === 'two-tone' ? t.lineItem : undefined);

const followsLine = ({ treatments }: Item): boolean => treatments?.some((t) => lineOf(t) !== undefined) ?? false;

/** Is there anything that follows a drawn line? */
export const someFollowLines = (items: readonly Item[]): boolean => items.some(followsLine);

/** The drawing after a change, with what follows lines where they lie now. */
export function followLines(before: Drawing, after: Drawing): Drawing {
  const changed: Record<string, LeafItem> = {};
  for (const leaf of leavesOf(after)) {
    if (!followsLine(leaf)) continue;
    const was = before[leaf.id];
    const treatments = (leaf.treatments ?? []).map((t): TreatmentRecord => {
      const id = lineOf(t);
      const line = id === undefined ? undefined : itemOf(after, id);
      const isSame = line !== undefined && before[line.id] === line && was?.type === 'item' && isAlike(was, leaf);
      const path = line && !isSame ? lineFor(line, leaf.matrix) : undefined;
      return path === undefined || !('path' in t) || t.path === path ? t : { ...t, path };
    });
    if (treatments.some((t, i) => t !== leaf.treatments?.[i])) changed[leaf.id] = { ...leaf, treatments };
  }
  return Object.keys(changed).length === 0 ? after : { ...after, ...changed };
}

/** Nothing of the item that a line depends on has changed. */
const isAlike = (was: Item, is: LeafItem): boolean => was.kind !== 'group' && was.matrix === is.matrix && was.treatments === is.treatments;
