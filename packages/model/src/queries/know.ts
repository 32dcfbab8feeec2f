/**
 * What is known of the items of a drawing, from the drawing and the shop's fonts: one way for page and server. Fonts have
 * to be there already. Results are kept by cause, so that a drawing which differs in one item costs that item alone.
 */
import { errorToWire } from '@lorvek/core';
import type { Drawing } from '../records/document.ts';
import type { EdgeCutItem } from '../records/items.ts';
import { causeKey } from './cause-key.ts';
import { deriveItem, piecesOf, type FontShelf } from './derive.ts';
import { knownEdgeCut, roundedBy } from './edge-cuts.ts';
import { textName } from '../records/packed.ts';
import { isUnknown, type Kept, type Known, type KnownOf } from './known-pieces.ts';
import type { LeafItem } from './plain-outline.ts';
import { sliverOf } from './queries.ts';

/** A failure as a reason that is shown. */
export function whyOf(error: unknown): Extract<Known, { why: string }> {
  const { message, details } = errorToWire(error);
  const fontId = details?.['fontId'];
  return { why: message, ...(typeof fontId === 'string' ? { missingFont: fontId } : {}) };
}

const rounded = (matrix: readonly number[]): string => matrix.map((n) => Math.round(n * 1e9)).join();

class Knowledge {
  private readonly known = new Map<string, Known>();
  private readonly sliverMm: number;

  constructor(
    private readonly drawing: Drawing,
    private readonly shelf: FontShelf,
    private readonly kept: Kept,
  ) {
    this.sliverMm = sliverOf(drawing);
  }

  /** Cut lines depend on what they go round, as it lies. */
  private edgeCut(item: EdgeCutItem): Known {
    const round = roundedBy(this.drawing, item).map((leaf) => {
      const clip = leaf.kind === 'picture' ? (leaf.clip ?? leaf.silhouette ?? '') : '';
      return `${causeKey(leaf, this.sliverMm)} ${rounded(leaf.matrix)} ${clip}`;
    });
    const { shape, distanceMm, smoothMm, cornerMm, holes, joinWithinMm } = item;
    // outlines of what it goes round may be megabytes: they are named, not kept
    const key = `e ${JSON.stringify([shape, distanceMm, smoothMm, cornerMm, holes, joinWithinMm])} ${textName(round.join(' '))}`;
    const derived = this.kept.get(key);
    if (derived) return { derived, pieces: [{ layer: null, outline: derived.outline }] };
    const known = knownEdgeCut(this.drawing, item, this.of, this.kept);
    if (!isUnknown(known)) this.kept.set(key, known.derived);
    return known;
  }

  private know(item: LeafItem): Known {
    try {
      if (item.kind === 'edge-cut') return this.edgeCut(item);
      const key = causeKey(item, this.sliverMm);
      const derived = this.kept.get(key) ?? deriveItem(item, this.shelf, this.sliverMm);
      this.kept.set(key, derived);
      return { derived, pieces: piecesOf(item, derived) };
    } catch (error) {
      return whyOf(error);
    }
  }

  readonly of = (item: LeafItem): Known => {
    const own = this.known.get(item.id) ?? this.know(item);
    this.known.set(item.id, own);
    return own;
  };
}

/** @param shelf fonts that are there; others make an item unknown */
export function knownIn(drawing: Drawing, shelf: FontShelf, kept: Kept): KnownOf {
  const { of } = new Knowledge(drawing, shelf, kept);
  return Object.assign(of, { on: (other: Drawing) => knownIn(other, shelf, kept) });
}
