/** Commands on how items are printed: their colours, gradients that they came with, cut lines round them. */
import type { ItemId } from '../records/fields.ts';
import type { Colour } from '../records/colour.ts';
import { itemSchema, type EdgeCutItem, type Paint, type ShapeItem } from '../records/items.ts';
import { DARK_INK } from '../queries/ink.ts';
import { isCutLine, isShaped } from '../queries/plain-outline.ts';
import { isPrinted, itemOf, leavesOf } from '../queries/queries.ts';
import { addItems, edit } from './items.ts';
import { planOf, planOfItems, refuse, type Command } from './plan.ts';

/** Values in process inks are of one look: they go with it. */
function withoutOldValues<T extends Colour>(colour: T, before: Colour | null | undefined): T {
  if (!colour.cmyk || !before?.cmyk || colour.hex === before.hex) return colour;
  if (colour.cmyk.some((v, i) => v !== before.cmyk?.[i])) return colour;
  const { cmyk: _cmyk, ...rest } = colour;
  return rest as T;
}

/** The colours that items are printed in. A colour that is set takes the place of a gradient, and of the values of another colour. */
export const setPaint: Command<{ ids: readonly ItemId[]; fields: Partial<Paint> }> = (state, { ids, fields }) => {
  const leaves = leavesOf(state.drawing, ids).filter(isShaped);
  if (leaves.length === 0) return refuse('Select something that is printed in a colour of its own first.');
  // what is chosen for many is chosen by the look of the first
  const [first] = leaves;
  const painted = leaves.map((leaf) => {
    const asked = { fill: { hex: DARK_INK }, ...leaf.paint, ...fields };
    const fill = asked.fill && withoutOldValues(asked.fill, first?.paint?.fill);
    const stroke = asked.stroke && withoutOldValues(asked.stroke, first?.paint?.stroke);
    const item = { ...leaf, paint: { fill, ...(stroke ? { stroke } : {}) } };
    return item.kind === 'shape' && item.gradient && fields.fill !== undefined ? { ...item, printed: false } : item;
  });
  const bad = painted.find((item) => !itemSchema.safeParse(item).success);
  if (bad) return refuse(`“${bad.name}” cannot have this colour or line.`);
  return planOfItems(state, painted);
};

/** Puts a live cut line round items. */
export const addEdgeCut: Command<{ id: ItemId; of: readonly ItemId[]; fields?: Partial<EdgeCutItem> }> = (state, { id, of, fields }) => {
  const round = of.filter((one) => leavesOf(state.drawing, [one]).some((leaf) => !isCutLine(leaf) && leaf.kind !== 'dimension'));
  const leaves = leavesOf(state.drawing, round);
  if (leaves.length === 0) return refuse('Select what the blade is to go round first.');
  if (!leaves.some((leaf) => isPrinted(state.drawing, leaf)))
    return refuse('An edge cut goes round what is printed. Put the selection on a print layer first.');
  const cut: EdgeCutItem = {
    type: 'item',
    kind: 'edge-cut',
    id,
    name: `Edge cut of ${(itemOf(state.drawing, round[0] as string)?.name ?? 'the print').slice(0, 150)}`,
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    shape: 'follow',
    distanceMm: 2,
    smoothMm: 0,
    cornerMm: 5,
    holes: false,
    joinWithinMm: 0,
    line: { kind: 'kiss' },
    ...fields,
    of: round,
  };
  return addItems(state, { items: [cut], roots: [id] });
};

/** Whether shapes that came with gradients are shown and written with them, or in their film's one colour. */
export const setPrinted: Command<{ ids: readonly ItemId[]; printed: boolean }> = (state, { ids, printed }) => {
  const shapes = leavesOf(state.drawing, ids).filter((leaf): leaf is ShapeItem => leaf.kind === 'shape' && leaf.gradient !== undefined);
  if (shapes.length === 0) return refuse('None of these came with a gradient.');
  return planOf(state, () =>
    edit(state.drawing, (records) => {
      for (const shape of shapes) records[shape.id] = { ...shape, printed };
    }),
  );
};
