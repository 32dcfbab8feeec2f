/** What edge cuts carry outward of the art they go round, as it lies on the drawing: for the drawing's own picture and the proof. */
import type { PrintItem } from '@lorvek/core/print';
import type { KnownOf } from '../queries/known-pieces.ts';
import { roundedBy } from '../queries/edge-cuts.ts';
import { isCutLine } from '../queries/plain-outline.ts';
import { isPrint, layerOfCutLine, layersOf, leavesOf, pageOf } from '../queries/queries.ts';
import type { Drawing } from '../records/document.ts';
import { workOf } from './lay-parts.ts';

/** What an edge cut carries outward, and of which items. */
export interface Bleed {
  readonly cut: string;
  readonly layer: string;
  /** The edge cut and all that it goes round: when one of them is another, the bleed is another. */
  readonly of: readonly string[];
  /** Painted under all art of the layer, the lowest first. */
  readonly art: readonly PrintItem[];
}

/** All bleed of a drawing, by print layers from the lowest, whatever is cut of it; what is not worked out has none yet. */
export function bleedsOf(drawing: Drawing, knownOf: KnownOf): Bleed[] {
  const cuts = leavesOf(drawing).filter((leaf) => leaf.kind === 'edge-cut' && leaf.bleedMm !== undefined);
  const carrying = new Set(cuts.map((leaf) => (isCutLine(leaf) ? layerOfCutLine(drawing, leaf) : null)));
  const all: Drawing = { ...drawing, page: { ...pageOf(drawing), scope: { kind: 'everything' } } };
  return layersOf(drawing)
    .filter((layer) => isPrint(layer) && carrying.has(layer.id))
    .flatMap(({ id }) =>
      workOf(all, id, knownOf, undefined).leaves.flatMap(({ leaf, under }): Bleed[] =>
        leaf.kind === 'edge-cut' && under.length > 0
          ? [{ cut: leaf.id, layer: id, of: [leaf.id, ...roundedBy(drawing, leaf).map((one) => one.id)], art: under }]
          : [],
      ),
    );
}
