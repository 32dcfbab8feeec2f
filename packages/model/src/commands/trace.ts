/** What becomes of a picture that was traced: shapes over it, or the outline that it is shown within. */
import type { GroupItem, LetteringItem, ShapeItem, TraceSettings } from '../records/items.ts';
import type { ItemId } from '../records/fields.ts';
import { itemOf } from '../queries/queries.ts';
import { addItems, removeItems, setItemFields } from './items.ts';
import { inTurn, refuse, type Command } from './plan.ts';

/** What was found in a picture, to be laid over it. */
export interface LaidTrace {
  readonly picture: ItemId;
  readonly settings: TraceSettings;
  readonly shapes: readonly (ShapeItem | LetteringItem)[];
  /** Of the whole. */
  readonly id: ItemId;
}

/**
 * Lays a trace over its picture as one group; the picture is hidden under it and keeps how it was traced. One that was laid
 * before gives way. Refused without shapes, or when the picture is gone.
 */
export const layTrace: Command<LaidTrace> = (state, { picture: pictureId, settings, shapes, id }) => {
  const picture = itemOf(state.drawing, pictureId);
  if (picture?.kind !== 'picture') return refuse('The picture is no longer there.');
  if (shapes.length === 0) return refuse('Nothing was found that could be traced.');
  const earlier = settings.result;
  const group: GroupItem = {
    type: 'item',
    kind: 'group',
    id,
    name: `Trace of ${picture.name}`.slice(0, 120),
    layer: null,
    matrix: [1, 0, 0, 1, 0, 0],
    children: shapes.map((shape) => shape.id),
  };
  return inTurn(state, [
    ...(earlier && itemOf(state.drawing, earlier) ? [(now: typeof state) => removeItems(now, { ids: [earlier] })] : []),
    (now) => addItems(now, { items: [...shapes, group], roots: [id] }),
    (now) => setItemFields(now, { id: pictureId, fields: { hidden: true, trace: { ...settings, result: id } } }),
  ]);
};

/** Shows a picture within an outline only, and makes that outline a shape of its own over it. */
export const showWithin: Command<{ picture: ItemId; edge: ShapeItem }> = (state, { picture, edge }) => {
  if (itemOf(state.drawing, picture)?.kind !== 'picture') return refuse('The picture is no longer there.');
  return inTurn(state, [
    (now) => addItems(now, { items: [edge], roots: [edge.id] }),
    (now) => setItemFields(now, { id: picture, fields: { clip: edge.path } }),
  ]);
};
