/** The shape of a command: asked whether it applies, and if so for the change it makes. Nothing happens here. */
import { followLines, someFollowLines } from '../queries/drawn-lines.ts';
import { leavesOf } from '../queries/queries.ts';
import type { Drawing } from '../records/document.ts';
import type { ItemId } from '../records/fields.ts';
import type { Item } from '../records/items.ts';
import { applyPatch, composePatches, diff, isSame, type Patch, type RecordChange } from '../records/patch.ts';

/** What a command is given besides its arguments. */
export interface EditorState {
  readonly drawing: Drawing;
  readonly selection: readonly ItemId[];
}

/** What a command does, and what is selected after it. */
export interface Change {
  readonly patch: Patch;
  readonly selection: readonly ItemId[];
}

/** Whether a command applies, with the reason, and if so what it does. */
export type Plan = { readonly enabled: false; readonly why: string } | { readonly enabled: true; run(): Change };

/** `Command(state, args)`: enablement and action are one function. */
export type Command<Args> = (state: EditorState, args: Args) => Plan;

/** A command that does not apply, and why. */
export const refuse = (why: string): Plan => ({ enabled: false, why });

/** A plan from a function that makes the new drawing; what follows drawn lines follows them. */
export const planOf = (state: EditorState, make: () => Drawing, selection: readonly ItemId[] = state.selection): Plan => ({
  enabled: true,
  run: () => ({ patch: diff(state.drawing, followLines(state.drawing, make())), selection }),
});

/**
 * A plan that puts items in the place of those with their ids: as `planOf` would, but what it costs is the items, not the
 * drawing, unless something follows drawn lines.
 */
export const planOfItems = (state: EditorState, items: readonly Item[]): Plan => {
  const { drawing, selection } = state;
  if (someFollowLines(leavesOf(drawing)) || someFollowLines(items))
    return planOf(state, () => ({ ...drawing, ...Object.fromEntries(items.map((item) => [item.id, item])) }));
  const run = (): Change => {
    const patch: Record<string, RecordChange> = {};
    for (const item of items) {
      const before = drawing[item.id] ?? null;
      if (!isSame(before, item)) patch[item.id] = { before, after: item };
    }
    return { patch, selection };
  };
  return { enabled: true, run };
};

/**
 * Commands one after another as one: each is asked on what those before it left; refused as a whole where one is.
 * @returns one change: it is taken back in one step
 */
export function inTurn(state: EditorState, steps: readonly ((state: EditorState) => Plan)[]): Plan {
  let now = state;
  let patch: Patch = {};
  for (const step of steps) {
    const plan = step(now);
    if (!plan.enabled) return plan;
    const change = plan.run();
    patch = composePatches(patch, change.patch);
    now = { drawing: applyPatch(now.drawing, change.patch), selection: change.selection };
  }
  const { selection } = now;
  return { enabled: true, run: () => ({ patch, selection }) };
}
