/**
 * Changes as values: a patch says for each record what it was and what it is (null = not there).
 * Patches apply, invert and compose; they are what is undone, and packed (`packed.ts`) what is sent and logged.
 *
 * Law: apply(apply(d, p), invert(p)) equals d. Law: apply(d, compose(p, q)) equals apply(apply(d, p), q).
 */
import { StaleError } from '@lorvek/core';
import type { DocRecord, Drawing } from './document.ts';

/** A record before and after; null: it is not there. */
export interface RecordChange {
  readonly before: DocRecord | null;
  readonly after: DocRecord | null;
}

/** Changes by record. Law: `applyPatch(applyPatch(d, p), invertPatch(p))` equals `d`. */
export type Patch = Readonly<Record<string, RecordChange>>;

/**
 * Equality of plain JSON values.
 * @complexity the smaller of the two; at once for the same object
 */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const keysA = Object.keys(a);
  const keysB = Object.keys(b);
  if (keysA.length !== keysB.length) return false;
  return keysA.every((key) => Object.hasOwn(b, key) && isSame((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]));
}

/**
 * What turns one drawing into the other. Cost: records, by reference first.
 * @returns an empty patch for the same drawing
 */
export function diff(from: Drawing, to: Drawing): Patch {
  const patch: Record<string, RecordChange> = {};
  for (const id of new Set([...Object.keys(from), ...Object.keys(to)])) {
    const before = from[id] ?? null;
    const after = to[id] ?? null;
    if (!isSame(before, after)) patch[id] = { before, after };
  }
  return patch;
}

/**
 * @throws StaleError when a record is not what the patch was made on
 * @returns a new drawing; records that the patch does not name are the same objects
 */
export function applyPatch(drawing: Drawing, patch: Patch): Drawing {
  const out: Record<string, DocRecord> = { ...drawing };
  for (const [id, change] of Object.entries(patch)) {
    if (!isSame(drawing[id] ?? null, change.before)) throw new StaleError(`The record ${id} has changed since.`, { id });
    if (change.after) out[id] = change.after;
    else delete out[id];
  }
  return out;
}

/**
 * What takes a patch back.
 * @returns Law: applied after the patch it gives the drawing before it
 */
export const invertPatch = (patch: Patch): Patch =>
  Object.fromEntries(Object.entries(patch).map(([id, { before, after }]) => [id, { before: after, after: before }]));

/**
 * Both patches as one; records that end as they began are left out.
 * @param second made on what the first one made
 * @throws never: whether they fit is told when they are applied
 */
export function composePatches(first: Patch, second: Patch): Patch {
  const out: Record<string, RecordChange> = { ...first };
  for (const [id, change] of Object.entries(second)) {
    const before = out[id] ? out[id].before : change.before;
    if (isSame(before, change.after)) delete out[id];
    else out[id] = { before, after: change.after };
  }
  return out;
}

/** Does it change nothing? */
export const isEmptyPatch = (patch: Patch): boolean => Object.keys(patch).length === 0;
