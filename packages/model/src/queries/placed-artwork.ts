/**
 * Artwork that was laid from a file, and what became of it since: a newer saving takes its place as it lies now, its colours
 * cut from the films they are cut from now.
 */
import { bounds, compose, IDENTITY, invert, mapBox, parsePath, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import type { Drawing } from '../records/document.ts';
import type { Item, ShapeItem } from '../records/items.ts';
import type { LeafItem } from './plain-outline.ts';
import { itemOf, leavesOf } from './queries.ts';

/** An item and where it was laid. */
export interface Witness {
  readonly id: string;
  readonly matrix: Matrix;
}

/** So many items tell how the whole was moved since. */
const MOST_WITNESSES = 12;

/** Some items and where they were laid, to tell later how the whole was moved; of lettering the size is no matter of its map. */
export function witnessesOf(items: readonly LeafItem[]): Witness[] {
  const firm = items.filter(({ kind }) => kind !== 'lettering');
  const told = firm.length > 0 ? firm : items;
  return told.filter((_, i) => i % Math.ceil(told.length / MOST_WITNESSES) === 0).map(({ id, matrix }) => ({ id, matrix }));
}

/** How the whole was moved, turned, mirrored and sized since it was laid; undefined when nothing of it can tell. */
export function movedSince(drawing: Drawing, witnesses: readonly Witness[]): Matrix | undefined {
  for (const { id, matrix } of witnesses) {
    const now = itemOf(drawing, id);
    const back = invert(matrix);
    if (now && now.kind !== 'group' && back) return compose(now.matrix, back);
  }
  return undefined;
}

const boxesOf = (items: readonly Item[]) =>
  items.flatMap((item) => (item.kind === 'shape' ? [mapBox(item.matrix, bounds(parsePath(item.path)))] : []));

/**
 * The way to where the whole lies now, when none of its parts is left to tell how it was moved: its lower left corner alone
 * is kept. No way when neither has shapes.
 * @param fresh the newer saving's shapes, as the file has them
 */
export function wayToPlaceOf(drawing: Drawing, root: string, fresh: readonly Pick<ShapeItem, 'kind' | 'path' | 'matrix'>[]): Matrix {
  const [now, then] = [boxesOf(leavesOf(drawing, [root])), boxesOf(fresh as readonly ShapeItem[])];
  if (now.length === 0 || then.length === 0) return IDENTITY;
  const corner = (boxes: typeof now): Point => ({
    x: Math.min(...boxes.map(({ minX }) => minX)),
    y: Math.min(...boxes.map(({ minY }) => minY)),
  });
  const [to, from] = [corner(now), corner(then)];
  return translation(to.x - from.x, to.y - from.y);
}

/** The layers that a file's colours are cut from now; a colour of which nothing is left has none. @param byColour items of each */
export function layersByColour(drawing: Drawing, byColour: Readonly<Record<string, readonly string[]>>): Map<string, string | null> {
  const layers = new Map<string, string | null>();
  for (const [hex, ids] of Object.entries(byColour)) {
    const present = ids.map((id) => itemOf(drawing, id)).find((item) => item !== undefined && item.kind !== 'group');
    if (present) layers.set(hex, present.layer);
  }
  return layers;
}
