/**
 * Changes as values: a patch says for each record what it was and what it is (null = not there).
 * Patches apply, invert, compose and rebase; they are what is sent, logged and undone.
 *
 * Law: apply(apply(d, p), invert(p)) equals d. Law: apply(d, compose(p, q)) equals apply(apply(d, p), q).
 */
import { StaleError } from '@lorvek/core';
import type { DocRecord, Drawing } from './document.ts';

export interface RecordChange {
  readonly before: DocRecord | null;
  readonly after: DocRecord | null;
}

export type Patch = Readonly<Record<string, RecordChange>>;

/** Equality of plain JSON values. */
export function isSame(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const keysA = Object.keys(a);
  const keysB = Object.keys(b);
  if (keysA.length !== keysB.length) return false;
  return keysA.every((key) => Object.hasOwn(b, key) && isSame((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]));
}

/** What turns one drawing into the other. Cost: records, by reference first. */
export function diff(from: Drawing, to: Drawing): Patch {
  const patch: Record<string, RecordChange> = {};
  for (const id of new Set([...Object.keys(from), ...Object.keys(to)])) {
    const before = from[id] ?? null;
    const after = to[id] ?? null;
    if (!isSame(before, after)) patch[id] = { before, after };
  }
  return patch;
}

/** @throws StaleError when a record is not what the patch was made on */
export function applyPatch(drawing: Drawing, patch: Patch): Drawing {
  const out: Record<string, DocRecord> = { ...drawing };
  for (const [id, change] of Object.entries(patch)) {
    if (!isSame(drawing[id] ?? null, change.before)) throw new StaleError(`The record ${id} has changed since.`, { id });
    if (change.after) out[id] = change.after;
    else delete out[id];
  }
  return out;
}

export const invertPatch = (patch: Patch): Patch =>
  Object.fromEntries(Object.entries(patch).map(([id, { before, after }]) => [id, { before: after, after: before }]));

/** Both patches as one; records that end as they began are left out. */
export function composePatches(first: Patch, second: Patch): Patch {
  const out: Record<string, RecordChange> = { ...first };
  for (const [id, change] of Object.entries(second)) {
    const before = out[id] ? out[id].before : change.before;
    if (isSame(before, change.after)) delete out[id];
    else out[id] = { before, after: change.after };
  }
  return out;
}

export const isEmptyPatch = (patch: Patch): boolean => Object.keys(patch).length === 0;

type Fields = Record<string, unknown>;

/** One record changed on both sides: fields that only I touched are mine, the rest is as it stands now. */
function rebaseRecord(now: DocRecord, change: { before: DocRecord; after: DocRecord }): { record: DocRecord; lost: boolean } {
  const [current, before, after] = [now as unknown as Fields, change.before as unknown as Fields, change.after as unknown as Fields];
  const merged: Fields = { ...current };
  let lost = false;
  for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
    if (isSame(before[key], after[key])) continue;
    if (isSame(current[key], before[key])) merged[key] = after[key];
    else if (Array.isArray(before[key]) && Array.isArray(after[key]) && Array.isArray(current[key]))
      merged[key] = rebaseList(before[key], after[key], current[key]);
    else if (!isSame(current[key], after[key])) lost = true;
  }
  return { record: merged as unknown as DocRecord, lost };
}

/** My additions and removals on a list that has changed meanwhile; order as it stands, my new entries at the end. */
function rebaseList(before: unknown[], after: unknown[], now: unknown[]): unknown[] {
  const removed = new Set(before.filter((entry) => !after.includes(entry)));
  const added = after.filter((entry) => !before.includes(entry) && !now.includes(entry));
  return [...now.filter((entry) => !removed.has(entry)), ...added];
}

export interface Rebased {
  readonly patch: Patch;
  /** Records whose change could not be kept in full: someone else changed the same thing. */
  readonly lost: readonly string[];
}

/** A patch made on an older drawing, brought onto the one that stands now. */
export function rebasePatch(drawing: Drawing, patch: Patch): Rebased {
  const out: Record<string, RecordChange> = {};
  const lost: string[] = [];
  for (const [id, { before, after }] of Object.entries(patch)) {
    const now = drawing[id] ?? null;
    if (isSame(now, after)) continue;
    if (isSame(now, before)) out[id] = { before, after };
    else if (now && before && after) {
      const merged = rebaseRecord(now, { before, after });
      if (!isSame(now, merged.record)) out[id] = { before: now, after: merged.record };
      if (merged.lost) lost.push(id);
    } else if (now === null && before && after) lost.push(id);
    else if (now && after === null) lost.push(id);
    else if (now === null && after) out[id] = { before: null, after };
  }
  return { patch: out, lost };
}
