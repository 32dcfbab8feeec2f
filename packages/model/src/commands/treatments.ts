/** Commands on an item's treatments and on its words. */
import type { ItemId } from '../records/fields.ts';
import type { Drawing } from '../records/document.ts';
import { itemSchema, type Item, type LetteringItem } from '../records/items.ts';
import { isShaped, type LeafItem } from '../queries/plain-outline.ts';
import { isOutOfReach, itemOf, layerOf, leavesOf } from '../queries/queries.ts';
import type { TreatmentRecord } from '../records/treatments.ts';
import { describeIssue } from '../records/plain-issue.ts';
import { planOf, planOfItems, refuse, type Command } from './plan.ts';

const withItem = (drawing: Drawing, item: Item): Drawing => ({ ...drawing, [item.id]: item });

function checked(item: Item): Item | string {
  const parsed = itemSchema.safeParse(item);
  return parsed.success ? parsed.data : `That cannot be: ${describeIssue(parsed.error.issues[0])}.`;
}

/** The whole list at once: adding, changing, reordering, switching and removing are lists. An empty one is left out. */
export const setTreatments: Command<{ id: ItemId; treatments: readonly TreatmentRecord[] }> = (state, { id, treatments }) => {
  const item = itemOf(state.drawing, id);
  if (!item || item.kind === 'group' || !isShaped(item)) return refuse('Treatments belong to lettering and shapes.');
  if (isOutOfReach(state.drawing, id)) return refuse(`“${item.name}” is on a locked or hidden film.`);
  const { treatments: _old, ...rest } = item;
  const next = checked((treatments.length > 0 ? { ...rest, treatments: [...treatments] } : rest) as Item);
  return typeof next === 'string' ? refuse(next) : planOf(state, () => withItem(state.drawing, next));
};

/** Gives several items the same treatments; layers that the job does not have are left open, bends go to lettering only. */
export const giveTreatments: Command<{
  ids: readonly string[];
  treatments: readonly TreatmentRecord[];
  newId: () => string;
}> = (state, { ids, treatments, newId }) => {
  const leaves = leavesOf(state.drawing, ids).filter((leaf) => isShaped(leaf) && !isOutOfReach(state.drawing, leaf.id));
  if (leaves.length === 0) return refuse('Select lettering or shapes first.');
  const known = treatments.map((t) => (t.kind !== 'bend' && !layerOf(state.drawing, t.layer) ? { ...t, layer: null } : t));
  const given = leaves.map((leaf): LeafItem => ({
    ...leaf,
    treatments: known.filter((t) => t.kind !== 'bend' || leaf.kind === 'lettering').map((t) => ({ ...t, id: newId() })),
  }));
  return planOfItems(state, given);
};

/** The words, with what was done to single letters kept on the letters that stay. */
export function withText(item: LetteringItem, text: string): LetteringItem {
  if (!item.tweaks) return { ...item, text };
  const most = Math.min(item.text.length, text.length);
  let head = 0;
  while (head < most && item.text[head] === text[head]) head++;
  let tail = 0;
  while (tail < most - head && item.text[item.text.length - 1 - tail] === text[text.length - 1 - tail]) tail++;
  const shift = text.length - item.text.length;
  const tweaks = Object.fromEntries(
    Object.entries(item.tweaks).flatMap(([key, tweak]) => {
      const index = Number(key);
      if (index < head) return [[key, tweak]];
      return index >= item.text.length - tail ? [[String(index + shift), tweak]] : [];
    }),
  );
  const { tweaks: _old, ...rest } = item;
  return Object.keys(tweaks).length > 0 ? { ...rest, text, tweaks } : { ...rest, text };
}

/** Writes words. The item is named after them. */
export const writeText: Command<{ id: ItemId; text: string }> = (state, { id, text }) => {
  const item = itemOf(state.drawing, id);
  if (item?.kind !== 'lettering') return refuse('This lettering is no longer there.');
  if (isOutOfReach(state.drawing, id)) return refuse(`“${item.name}” is on a locked or hidden film.`);
  const name = text.replace(/\s+/g, ' ').trim().slice(0, 80) || 'Lettering';
  const next = checked({ ...withText(item, text), name });
  return typeof next === 'string' ? refuse(next) : planOf(state, () => withItem(state.drawing, next));
};

/** One letter's own size, shift, turn or kerning; what is as usual is left out. */
export const tweakLetter: Command<{ id: ItemId; index: number; fields: NonNullable<LetteringItem['tweaks']>[string] }> = (
  state,
  { id, index, fields },
) => {
  const item = itemOf(state.drawing, id);
  if (item?.kind !== 'lettering') return refuse('This lettering is no longer there.');
  if (isOutOfReach(state.drawing, id)) return refuse(`“${item.name}” is on a locked or hidden film.`);
  const merged = Object.entries({ ...item.tweaks?.[index], ...fields }).filter(
    ([key, value]) => value !== undefined && value !== (key === 'sizePct' ? 100 : 0),
  );
  const { [index]: _old, ...others } = (item.tweaks ?? {}) as Record<string, object>;
  const tweaks = { ...others, ...(merged.length > 0 ? { [index]: Object.fromEntries(merged) } : {}) };
  const { tweaks: _all, ...rest } = item;
  const next = checked((Object.keys(tweaks).length > 0 ? { ...rest, tweaks } : rest) as Item);
  return typeof next === 'string' ? refuse(next) : planOf(state, () => withItem(state.drawing, next));
};
