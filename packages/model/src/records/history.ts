/**
 * Steps back and forward, from the log of changes. The log is the truth, so the history survives a reload
 * and a restart: done changes pile up, a step back moves the top one over, a new change clears the way forward.
 * Changes with one group are one step.
 */
import { applyPatch, composePatches, invertPatch, isEmptyPatch, type Patch } from './patch.ts';
import { unpackBack } from './packed.ts';
import type { Drawing } from './document.ts';
import type { ChangeKind, LoggedChange } from '../api/jobs.ts';

/** A step that can be taken back. */
export interface Step {
  readonly patch: Patch;
  readonly origin: string;
  readonly group: string;
}

/** Steps back and forward. */
export interface History {
  readonly back: readonly Step[];
  readonly forward: readonly Step[];
}

/** Nothing to take back. */
export const EMPTY_HISTORY: History = { back: [], forward: [] };
const MOST_STEPS = 200;

/**
 * The history after one more change.
 * @param change of kind `undo` or `redo` moves along the steps; any other cuts off what could be done again
 * @returns at most 200 steps back; changes of one group in a row are one step
 */
export function remember(history: History, change: Step & { readonly kind: ChangeKind }): History {
  const { kind, ...step } = change;
  if (kind === 'undo')
    return { back: history.back.slice(0, -1), forward: [...history.forward, { ...step, patch: invertPatch(step.patch) }] };
  if (kind === 'redo') return { back: [...history.back, step], forward: history.forward.slice(0, -1) };
  const last = history.back.at(-1);
  if (last && step.group !== '' && last.group === step.group) {
    const patch = composePatches(last.patch, step.patch);
    return { back: isEmptyPatch(patch) ? history.back.slice(0, -1) : [...history.back.slice(0, -1), { ...last, patch }], forward: [] };
  }
  return { back: [...history.back, step].slice(-MOST_STEPS), forward: [] };
}

/**
 * The history of a log, oldest change first.
 * @complexity the changes
 */
export const historyOf = (log: readonly (Step & { readonly kind: ChangeKind })[]): History => log.reduce(remember, EMPTY_HISTORY);

/** A step as the log has it. */
export interface LoggedStep extends Step {
  readonly changeId: string;
  readonly kind: ChangeKind;
}

/**
 * The steps of a log that leads to this drawing, oldest first, unpacked from the newest backwards. What cannot be
 * followed ends the way back.
 * @param texts long texts that the changes name
 */
export function stepsOf(drawing: Drawing, changes: readonly LoggedChange[], texts: Readonly<Record<string, string>>): LoggedStep[] {
  const steps: LoggedStep[] = [];
  let after = drawing;
  for (const { changeId, patch: packed, origin, group, kind } of [...changes].reverse()) {
    let patch: Patch;
    try {
      patch = unpackBack(after, packed, (name) => texts[name]);
      after = applyPatch(after, invertPatch(patch));
    } catch {
      return steps;
    }
    steps.unshift({ changeId, patch, origin, group, kind });
  }
  return steps;
}
