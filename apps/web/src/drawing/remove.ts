/** Taking items away: what measured them stays where it stands. */
import { removeItems, type ItemId } from '@lorvek/model';
import { dispatch, useDocument, type ChangeMeta } from '../document/store.ts';
import { dimensionsOf, endPlace } from './dimensions.ts';

/** @returns whether anything could be taken away */
export function remove(ids: readonly ItemId[], manner: ChangeMeta): boolean {
  const { drawing } = useDocument.getState();
  const places = new Map(
    dimensionsOf(drawing)
      .filter(({ from, to }) => from.item !== undefined || to.item !== undefined)
      .map(({ id, from, to }) => [id, { from: endPlace(drawing, from), to: endPlace(drawing, to) }]),
  );
  return dispatch(removeItems, { ids, places }, manner);
}
