/** Node work on the chosen shape: what the node tool, the keys and the ticket share. */
import { deleteNodes, formatPath, invert, mapPoint, moveNodes, type NodeAddress, type Outline } from '@lorvek/core/geometry';
import { itemOf, setItemFields, type Drawing, type ShapeItem } from '@lorvek/model';
import { dispatch, useDocument } from '../document/store.ts';
import { outlineOf } from '../worker/derived.ts';
import { remove } from './remove.ts';
import { useView } from './view.ts';

/** The shape whose nodes are worked on: the only one selected. */
export function shapeAtWork(drawing: Drawing, selection: readonly string[]): ShapeItem | undefined {
  const item = selection.length === 1 ? itemOf(drawing, selection[0] ?? '') : undefined;
  return item?.kind === 'shape' ? item : undefined;
}

/** Chosen nodes of a shape; none when they are another item's. */
export function chosenOf(id: string): readonly NodeAddress[] {
  const { nodes } = useView.getState();
  return nodes?.item === id ? nodes.chosen : [];
}

export const choose = (item: string, chosen: readonly NodeAddress[]): void => useView.setState({ nodes: { item, chosen } });

/** Puts a changed outline into the shape; a shape without anything left is taken away. */
export function putOutline(item: ShapeItem, outline: Outline, origin: string, group = ''): boolean {
  const path = formatPath(outline, 5);
  if (path === '') return remove([item.id], { origin, group });
  return dispatch(setItemFields, { id: item.id, fields: { path } }, { origin, group });
}

const current = (): ShapeItem | undefined => {
  const { drawing, selection } = useDocument.getState();
  return shapeAtWork(drawing, selection);
};

/** Moves the chosen nodes by a way on the drawing. @returns whether there were any */
export function moveChosen(dx: number, dy: number, group: string): boolean {
  const item = current();
  const chosen = item ? chosenOf(item.id) : [];
  const outline = item && outlineOf(item);
  const back = item && invert(item.matrix);
  if (!item || !outline || !back || chosen.length === 0) return false;
  const [zero, way] = [mapPoint(back, { x: 0, y: 0 }), mapPoint(back, { x: dx, y: dy })];
  return putOutline(item, moveNodes(outline, chosen, way.x - zero.x, way.y - zero.y), 'node.move', group);
}

/** @returns whether there were chosen nodes to take away */
export function deleteChosen(): boolean {
  const item = current();
  const chosen = item ? chosenOf(item.id) : [];
  const outline = item && outlineOf(item);
  if (!item || !outline || chosen.length === 0) return false;
  choose(item.id, []);
  return putOutline(item, deleteNodes(outline, chosen), 'node.delete');
}
