/** What of a drawing goes into a file, and what does not. */
import type { Drawing } from '../records/document.ts';
import type { PictureItem } from '../records/items.ts';
import { isAid, isCutLine, isShaped, type LeafItem } from './plain-outline.ts';
import { layersOf, leavesOf } from './queries.ts';

/** Which part of a drawing is written; nothing said is all of it. */
export interface WrittenScope {
  /** Items, with all that they hold; absent: everything. */
  readonly ids?: readonly string[];
  /** Only what is cut from this film. */
  readonly film?: string;
}

/** Formats that outlines are written in. */
export type FileFormat = 'svg' | 'pdf' | 'dxf' | 'hpgl';

/** Pictures in scope that are seen: not one that its trace stands for, nor what lies on a hidden layer. */
export function picturesIn(drawing: Drawing, scope: WrittenScope): PictureItem[] {
  const chosen = scope.ids && new Set(leavesOf(drawing, scope.ids).map((leaf) => leaf.id));
  const hidden = new Set(layersOf(drawing).flatMap(({ id, visible }) => (visible ? [] : [id])));
  return leavesOf(drawing).filter(
    (leaf): leaf is PictureItem =>
      leaf.kind === 'picture' &&
      !leaf.hidden &&
      (!chosen || chosen.has(leaf.id)) &&
      (scope.film === undefined ? leaf.layer === null || !hidden.has(leaf.layer) : leaf.layer === scope.film),
  );
}

/** What a file will lack of what is in scope. */
export interface LeftOut {
  /** Items that lie on hidden films and prints, with some of their treatments at least. */
  readonly hidden: number;
  /** Pictures, of formats that know lines alone. */
  readonly pictures: number;
}

/** Where an item and what its treatments add lie. */
const layersOfLeaf = (leaf: LeafItem): string[] => {
  const added = isShaped(leaf) ? (leaf.treatments ?? []).map((one) => (one.kind === 'bend' || !one.on ? null : one.layer)) : [];
  return [leaf.layer, ...added].filter((layer) => layer !== null);
};

/** @param kind of the file; pictures go into those that can hold them */
export function leftOutOf(drawing: Drawing, scope: WrittenScope, kind: FileFormat | 'png'): LeftOut {
  const unseen = new Set(layersOf(drawing).flatMap(({ id, visible }) => (visible || id === scope.film ? [] : [id])));
  // cut lines are written whatever is seen
  const inScope = leavesOf(drawing, scope.ids).filter((leaf) => scope.film === undefined && !isAid(leaf) && !isCutLine(leaf));
  return {
    hidden: inScope.filter((leaf) => layersOfLeaf(leaf).some((layer) => unseen.has(layer))).length,
    pictures: kind === 'dxf' || kind === 'hpgl' ? picturesIn(drawing, scope).length : 0,
  };
}
