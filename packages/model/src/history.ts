/**
 * Steps back and forward, from the log of changes. The log is the truth, so the history survives a reload
 * and a restart: done changes pile up, a step back moves the top one over, a new change clears the way forward.
 * Changes with one group are one step.
 */
import { composePatches, invertPatch, isEmptyPatch, type Patch } from './patch.ts';
import type { ChangeKind } from './api/jobs.ts';

export interface Step {
  readonly patch: Patch;
  readonly origin: string;
  readonly group: string;
}

export interface History {
  readonly back: readonly Step[];
  readonly forward: readonly Step[];
}

export const EMPTY_HISTORY: History = { back: [], forward: [] };
const MOST_STEPS = 200;

/** The history after one more change. */
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

/** The history of a log, oldest change first. */
export const historyOf = (log: readonly (Step & { readonly kind: ChangeKind })[]): History => log.reduce(remember, EMPTY_HISTORY);
