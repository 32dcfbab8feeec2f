/**
 * Live edge cuts: the line round other items, in the drawing's own space. Its cause is what it goes round, as that is
 * known, and its own settings; so page and server work out the same line from the same drawing.
 */
import { edgeCut } from '@lorvek/core/cut';
import { mapOutline, parsePath, scaling, type Outline } from '@lorvek/core/geometry';
import type { Drawing } from '../records/document.ts';
import type { EdgeCutItem, PictureItem } from '../records/items.ts';
import { textName } from '../records/packed.ts';
import type { Derived } from './derive.ts';
import { isUnknown, type Kept, type Known, type KnownOf } from './known-pieces.ts';
import { isCutLine, type LeafItem } from './plain-outline.ts';
import { leavesOf } from './queries.ts';

/** What a cut line goes round: everything it names but aids and other cut lines. */
export const roundedBy = (drawing: Drawing, item: EdgeCutItem): LeafItem[] =>
  leavesOf(drawing, item.of).filter((leaf) => !isCutLine(leaf) && leaf.kind !== 'dimension');

/** The part of a picture that is shown, in its own space; undefined: all of it. */
function shownOf(leaf: LeafItem): Outline | undefined {
  if (leaf.kind !== 'picture') return undefined;
  const path = leaf.clip ?? leaf.silhouette;
  return path === undefined ? undefined : mapOutline(scaling(leaf.mmPerPx, leaf.mmPerPx), parsePath(path));
}

/** Outlines on the drawing of a leaf that a cut line goes round. */
export function outlinesRound(leaf: LeafItem, pieces: readonly { readonly outline: Outline }[]): Outline[] {
  const shown = shownOf(leaf);
  return shown ? [mapOutline(leaf.matrix, shown)] : pieces.map(({ outline }) => mapOutline(leaf.matrix, outline));
}

const NOTHING_KEPT: Kept = { get: () => undefined, set: () => undefined };

/**
 * The line itself. The screen and the sheets ask for the same one: it is kept by the outlines and the settings.
 * @throws InputError when its settings are impossible
 */
export function lineRound(item: EdgeCutItem, outlines: readonly Outline[], kept: Kept = NOTHING_KEPT): Derived {
  const { shape, distanceMm, smoothMm: smooth, cornerMm, holes, joinWithinMm } = item;
  const settings = { shape, distanceMm, smooth, cornerMm, holes, joinWithinMm };
  // outlines may be megabytes: they are named, not kept
  const key = kept === NOTHING_KEPT ? '' : `l ${textName(JSON.stringify([settings, outlines]))}`;
  const known = kept.get(key);
  if (known) return known;
  const derived: Derived = { outline: edgeCut(outlines, settings), lines: [], missing: [] };
  kept.set(key, derived);
  return derived;
}

/** What is known of a cut line; unknown when anything that it goes round is. @param kept lines that were worked out before */
export function knownEdgeCut(drawing: Drawing, item: EdgeCutItem, knownOf: KnownOf, kept?: Kept): Known {
  const outlines: Outline[] = [];
  for (const leaf of roundedBy(drawing, item)) {
    const known = knownOf(leaf);
    if (isUnknown(known)) return { why: `“${leaf.name}”, which it goes round, could not be worked out: ${known.why}` };
    outlines.push(...outlinesRound(leaf, known.pieces));
  }
  const derived = lineRound(item, outlines, kept);
  return { derived, pieces: [{ layer: null, outline: derived.outline }] };
}

/** A picture of which everything is shown: nothing was cut out of it, and no pixel lets the medium through. */
export const isOpaque = (leaf: LeafItem): boolean => leaf.kind === 'picture' && leaf.clip === undefined && leaf.silhouette === undefined;

/** Pictures whose ground makes a following cut line a plain rectangle. */
export const asksForGround = (drawing: Drawing, item: EdgeCutItem): PictureItem[] =>
  roundedBy(drawing, item).filter((leaf): leaf is PictureItem => isOpaque(leaf));

/**
 * What a piece has to measure across so that the blade does not drag it along: one that is cut out whole slips away, one that
 * stays on the liner holds better.
 * @returns mm
 */
export const leastHeldMm = (kind: string): number => (kind === 'through' || kind === 'perforated' ? 12 : 4);
