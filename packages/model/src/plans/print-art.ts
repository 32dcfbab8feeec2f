/** What of a drawing is printed, as art of a print page: items in tree order with their own colours, gradients, pixels. */
import { compose, mapOutline, scaling, type Matrix, type Outline } from '@lorvek/core/geometry';
import { mapGradient } from '@lorvek/core/colour';
import type { PrintColour, PrintItem } from '@lorvek/core/print';
import type { Piece } from '../queries/derive.ts';
import { DARK_INK } from '../queries/ink.ts';
import type { LeafItem } from '../queries/plain-outline.ts';
import type { Colour } from '../records/colour.ts';
import type { Paint } from '../records/items.ts';
import type { Layer } from '../records/layers.ts';

const colourOf = ({ hex, spot, cmyk }: Colour): PrintColour => ({
  hex,
  ...(spot === undefined ? {} : { spot }),
  ...(cmyk ? { cmyk } : {}),
});

/** The fill of an item on a print: its own, or the ink of one that was never given a colour. */
export const fillOf = (leaf: LeafItem): Colour | null => (leaf.paint === undefined ? { hex: DARK_INK } : leaf.paint.fill);

/** The colour of a treatment's piece on a print: its own, else the medium's. */
export function inkOfTreatment({ treatments = [] }: LeafItem, treatment: string, mediumHex: string): Colour {
  const own = treatments.find(({ id }) => id === treatment);
  return (own?.kind === 'bend' ? undefined : own?.ink) ?? { hex: mediumHex };
}

/** The colours of a treatment's piece as those of an item; undefined on a film. */
export const treatmentPaint = (leaf: LeafItem, treatment: string, layer: Layer | undefined): Paint | undefined =>
  layer?.type === 'print' ? { fill: inkOfTreatment(leaf, treatment, layer.hex) } : undefined;

/** The gradient an item is printed with: it came with one, and no flat colour was set since. */
export const printedGradient = (leaf: LeafItem) => (leaf.kind === 'shape' && leaf.printed !== false ? leaf.gradient : undefined);

/** From the unit square, y up, to where a picture lies. */
export const pictureMatrix = (leaf: Extract<LeafItem, { kind: 'picture' }>): Matrix =>
  compose(leaf.matrix, scaling(leaf.widthPx * leaf.mmPerPx, leaf.heightPx * leaf.mmPerPx));

/**
 * The art of one item on the drawing.
 * @param pieces of it that belong to the print
 * @param mediumHex colour of a treatment's piece that has none of its own
 */
export function artOf(leaf: LeafItem, pieces: readonly Piece[], mediumHex: string): PrintItem[] {
  if (leaf.kind === 'picture') {
    const clip: Outline | undefined = leaf.clip === undefined ? undefined : pieces[0] && mapOutline(leaf.matrix, pieces[0].outline);
    const ink = leaf.ink && colourOf(leaf.ink);
    return [{ kind: 'picture', picture: leaf.asset, matrix: pictureMatrix(leaf), ...(ink ? { ink } : {}), ...(clip ? { clip } : {}) }];
  }
  return pieces.map((piece): PrintItem => {
    const outline = mapOutline(leaf.matrix, piece.outline);
    if (piece.treatment !== undefined) return { kind: 'shape', outline, fill: colourOf(inkOfTreatment(leaf, piece.treatment, mediumHex)) };
    const gradient = printedGradient(leaf);
    const fill = fillOf(leaf);
    const stroke = leaf.paint?.stroke;
    return {
      kind: 'shape',
      outline,
      fill: fill && colourOf(fill),
      ...(gradient ? { gradient: mapGradient(leaf.matrix, gradient) } : {}),
      ...(stroke ? { stroke: { ...colourOf(stroke), widthMm: stroke.widthMm } } : {}),
    };
  });
}
