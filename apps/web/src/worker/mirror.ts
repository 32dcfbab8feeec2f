/**
 * The worker's copy of the drawing, kept true by what changed. Records never change once made: two states of a drawing
 * differ where a record is another object. So handing over a drawing costs the records that are new, and the worker
 * keeps its own objects for the others – what it worked out for them by object still holds.
 *
 * Law: `drawingOf(mirror, newsOf(before, after))` equals `after` wherever `mirror` equals `before`.
 */
import type { Drawing } from '@lorvek/model';

/** What makes one state of a drawing of another. */
export interface DrawingNews {
  /** New and changed records, by id. */
  readonly set: Drawing;
  /** Ids of records that are gone. */
  readonly gone: readonly string[];
}

/** @param before what the worker has; undefined: nothing yet. Records are compared as objects, one look each */
export function newsOf(before: Drawing | undefined, after: Drawing): DrawingNews {
  if (before === undefined) return { set: after, gone: [] };
  if (before === after) return { set: {}, gone: [] };
  const set: Record<string, Drawing[string]> = {};
  for (const id in after) if (after[id] !== before[id]) set[id] = after[id] as Drawing[string];
  const gone: string[] = [];
  for (const id in before) if (after[id] === undefined) gone.push(id);
  return { set, gone };
}

/** The new state; of `mirror` itself nothing is changed, for answers may still be worked out from it. */
export function drawingOf(mirror: Drawing | undefined, { set, gone }: DrawingNews): Drawing {
  if (mirror === undefined) return set;
  if (gone.length === 0 && Object.keys(set).length === 0) return mirror;
  const drawing = { ...mirror, ...set } as Record<string, Drawing[string]>;
  for (const id of gone) delete drawing[id];
  return drawing;
}
