/** Where things without a film are seen among the films of the open drawing. */
import { looseRanks, type Drawing } from '@lorvek/model';
import { outlineOf, placedBoxOf, useDerivedVersion } from '../worker/derived.ts';

const knownRanks = new WeakMap<Drawing, { version: number; ranks: ReadonlyMap<string, number> }>();

/** By item, the number of the film it lies on; worked out anew when the drawing or an outline is. */
export function ranksIn(drawing: Drawing): ReadonlyMap<string, number> {
  const { version } = useDerivedVersion.getState();
  const known = knownRanks.get(drawing);
  if (known?.version === version) return known.ranks;
  const ranks = looseRanks(drawing, (leaf) => {
    const outline = outlineOf(leaf);
    return outline && placedBoxOf(outline, leaf.matrix);
  });
  knownRanks.set(drawing, { version, ranks });
  return ranks;
}
