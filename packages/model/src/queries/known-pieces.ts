/** What is known of the items of a drawing: their pieces, or why there are none. Unknown is never nothing. */
import type { Derived, Piece } from './derive.ts';
import type { Drawing } from '../records/document.ts';
import type { LeafItem } from './plain-outline.ts';

/** Pieces of an item, or why they are not known: never nothing for unknown. */
export type Known =
  | { readonly derived: Derived; readonly pieces: readonly Piece[] }
  /** Why it could not be worked out, a sentence. */
  | { readonly why: string; readonly missingFont?: string };

/** Outlines by what they were worked out from: a help for the next question; never what an answer stands on. */
export interface Kept {
  get(key: string): Derived | undefined;
  set(key: string, derived: Derived): unknown;
}

/** What is known of an item; asked for every item, and answered for every one. */
export interface KnownOf {
  (item: LeafItem): Known;
  /** The same of a drawing that differs in some items, as each row of a series does. */
  readonly on?: (drawing: Drawing) => KnownOf;
}

/** Are its pieces not known? */
export const isUnknown = (known: Known): known is Extract<Known, { why: string }> => 'why' in known;
