/**
 * Where things without a layer are seen among the layers: above everything that came before them in the tree and lies
 * under them, below the layers of what came later. Layers themselves are seen in strip order.
 */
import Flatbush from 'flatbush';
import type { Box } from '@lorvek/core/geometry';
import type { Drawing } from '../records/document.ts';
import { layersOf, leavesOf } from './queries.ts';
import { isAid, isCutLine, layersOfItem, type LeafItem } from './plain-outline.ts';

/** Below every layer. */
export const BELOW_ALL = -1;

/** Something that is painted: where it lies, and the numbers of the layers it is on; on none when there are none. */
export interface PaintedThing {
  /** undefined: not known yet. */
  readonly box: Box | undefined;
  readonly layers: readonly number[];
}

/** The layers that things on none are painted just above, by the number of the thing; `BELOW_ALL` for none. */
export function ranksAbove(things: readonly PaintedThing[]): ReadonlyMap<number, number> {
  const ranks = new Map<number, number>();
  if (!things.some(({ layers }) => layers.length === 0)) return ranks;
  const index = new Flatbush(things.length);
  for (const { box } of things) {
    if (box) index.add(box.minX, box.minY, box.maxX, box.maxY);
    else index.add(Infinity, Infinity, -Infinity, -Infinity);
  }
  index.finish();
  things.forEach(({ box, layers }, i) => {
    if (layers.length > 0) return;
    let rank = BELOW_ALL;
    if (box)
      index.search(box.minX, box.minY, box.maxX, box.maxY, (k) => {
        if (k < i) rank = Math.max(rank, ranks.get(k) ?? BELOW_ALL, ...(things[k]?.layers ?? []));
        return false;
      });
    ranks.set(i, rank);
  });
  return ranks;
}

/**
 * Numbers of the layers that items without one lie on, by item.
 * @param boxOf an item's box on the drawing; undefined: not known yet
 */
export function looseRanks(drawing: Drawing, boxOf: (leaf: LeafItem) => Box | undefined): ReadonlyMap<string, number> {
  const leaves = leavesOf(drawing).filter((leaf) => !isAid(leaf) && !isCutLine(leaf));
  // asked at every change, and most drawings have nothing loose
  if (leaves.every(({ layer }) => layer !== null)) return new Map();
  const rankOf = new Map(layersOf(drawing).map(({ id }, i) => [id, i]));
  const things = leaves.map((leaf) => ({
    box: boxOf(leaf),
    layers: leaf.layer === null ? [] : layersOfItem(leaf).map((layer) => rankOf.get(layer) ?? BELOW_ALL),
  }));
  return new Map([...ranksAbove(things)].map(([i, rank]) => [(leaves[i] as LeafItem).id, rank]));
}
