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

/**
 * Numbers of the layers that things without one lie on, by item; `BELOW_ALL` for those that lie on none.
 * @param boxOf an item's box on the drawing; undefined: not known yet
 */
export function looseRanks(drawing: Drawing, boxOf: (leaf: LeafItem) => Box | undefined): ReadonlyMap<string, number> {
  const leaves = leavesOf(drawing).filter((leaf) => !isAid(leaf) && !isCutLine(leaf));
  const ranks = new Map<string, number>();
  if (!leaves.some(({ layer }) => layer === null)) return ranks;
  const rankOf = new Map(layersOf(drawing).map(({ id }, i) => [id, i]));
  const boxes = leaves.map(boxOf);
  const index = new Flatbush(leaves.length);
  boxes.forEach((box) => (box ? index.add(box.minX, box.minY, box.maxX, box.maxY) : index.add(Infinity, Infinity, -Infinity, -Infinity)));
  index.finish();
  leaves.forEach((leaf, i) => {
    if (leaf.layer !== null) return;
    const box = boxes[i];
    let rank = BELOW_ALL;
    if (box)
      index.search(box.minX, box.minY, box.maxX, box.maxY, (k) => {
        const under = leaves[k];
        if (k < i && under)
          rank = Math.max(rank, ranks.get(under.id) ?? BELOW_ALL, ...layersOfItem(under).map((layer) => rankOf.get(layer) ?? BELOW_ALL));
        return false;
      });
    ranks.set(leaf.id, rank);
  });
  return ranks;
}
