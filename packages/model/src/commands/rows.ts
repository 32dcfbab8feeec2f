/**
 * Rows: pieces that stay at even distances along an axis until that is set. A row is a group that says how its children are
 * spaced; where they come to lie is told by whoever knows their outlines.
 */
import type { ItemId } from '../records/fields.ts';
import type { Draft } from 'immer';
import { itemSchema, rowSchema, type GroupItem, type Item, type Row } from '../records/items.ts';
import { isOutOfReach, itemOf, leavesOf } from '../queries/queries.ts';
import { describeIssue } from '../records/plain-issue.ts';
import { edit, mapItem, removeItems, ungroupItems } from './items.ts';
import { planOf, refuse, type Command } from './plan.ts';

/** Fewer are no row. */
export const FEWEST_IN_ROW = 2;

const rowOf = (item: Item | undefined): GroupItem | undefined => (item?.kind === 'group' && item.row ? item : undefined);

/** How a group's pieces are spaced, and where that moves them; what is no row yet becomes one. */
export const setRow: Command<{
  id: string;
  row: Row;
  moves: readonly { readonly id: string; readonly dx: number; readonly dy: number }[];
}> = (state, { id, row, moves }) => {
  const group = itemOf(state.drawing, id);
  if (group?.kind !== 'group') return refuse('This row is no longer there.');
  if (isOutOfReach(state.drawing, id)) return refuse('The row is on a locked or hidden film.');
  if (group.children.length < FEWEST_IN_ROW) return refuse('A row has two pieces or more.');
  const parsed = rowSchema.safeParse(row);
  if (!parsed.success) return refuse(`That cannot be: ${describeIssue(parsed.error.issues[0])}.`);
  const moved = moves.flatMap((one) => leavesOf(state.drawing, [one.id]).map((leaf) => mapItem(leaf, [1, 0, 0, 1, one.dx, one.dy])));
  if (!moved.every((item) => itemSchema.safeParse(item).success)) return refuse('That would move a piece out of reach.');
  return planOf(state, () => ({
    ...state.drawing,
    [id]: { ...group, row: parsed.data },
    ...Object.fromEntries(moved.map((item) => [item.id, item])),
  }));
};

/** Further pieces at the end of a row. */
export const addToRow: Command<{ id: ItemId; items: readonly Item[]; roots: readonly ItemId[] }> = (state, { id, items, roots }) => {
  const group = rowOf(itemOf(state.drawing, id));
  if (!group) return refuse('This row is no longer there.');
  const bad = items.find((item) => !itemSchema.safeParse(item).success);
  if (bad) return refuse(`“${bad.name}” cannot be added.`);
  const next = { ...group, children: [...group.children, ...roots] };
  if (!itemSchema.safeParse(next).success) return refuse('So many pieces are more than a row holds.');
  return planOf(state, () =>
    edit(state.drawing, (records) => {
      for (const item of items) records[item.id] = item as Draft<Item>;
      records[id] = next as Draft<GroupItem>;
    }),
  );
};

/** The last pieces of a row are taken away; two stay at least. */
export const shortenRow: Command<{ id: ItemId; count: number }> = (state, { id, count }) => {
  const group = rowOf(itemOf(state.drawing, id));
  if (!group) return refuse('This row is no longer there.');
  const ids = group.children.slice(Math.max(FEWEST_IN_ROW, count));
  if (ids.length === 0) return refuse('A row has two pieces or more.');
  const plan = removeItems(state, { ids });
  // the row stays selected
  return plan.enabled ? { ...plan, run: () => ({ ...plan.run(), selection: state.selection }) } : plan;
};

/** Its pieces stay where they are, and are pieces like any other. */
export const endRow: Command<{ id: ItemId }> = (state, { id }) =>
  rowOf(itemOf(state.drawing, id)) ? ungroupItems(state, { ids: [id] }) : refuse('This row is no longer there.');
