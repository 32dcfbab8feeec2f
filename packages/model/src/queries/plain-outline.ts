/** Results that need no fonts: outlines from the record alone, and what is asked of items on the way. */
import {
  arcShape,
  boxShape,
  EMPTY_OUTLINE,
  mapOutline,
  ovalShape,
  parsePath,
  polygonShape,
  scaling,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import { mapGradient, type Gradient } from '@lorvek/core/colour';
import type { GroupItem, Item, LetteringItem, ShapeItem, EdgeCutItem } from '../records/items.ts';
import type { BendTreatment, TreatmentRecord } from '../records/treatments.ts';

/** Everything that is no group. */
export type LeafItem = Exclude<Item, GroupItem>;

/** Treatments that are switched on, in order; bend is not among them. */
export const activeTreatments = (item: LeafItem): Exclude<TreatmentRecord, BendTreatment>[] =>
  (item.treatments ?? []).flatMap((t) => (t.on && t.kind !== 'bend' ? [t] : []));

/** The bend of a lettering: the first that is switched on. */
export const bendOf = (item: LetteringItem): BendTreatment | undefined =>
  item.treatments?.find((t): t is BendTreatment => t.kind === 'bend' && t.on);

/** Layers of all pieces of an item, each once. */
export const layersOfItem = (item: LeafItem): string[] => [
  ...new Set([item.layer, ...activeTreatments(item).map((t) => t.layer)].filter((film): film is string => film !== null)),
];

const IS_ONE = 1e-9;

/**
 * Scale and skew that a map holds beyond a turn and a mirroring: treatments are computed at true size under it, so
 * that a ring of 5 mm is 5 mm on the drawing. Undefined when there is none.
 */
export function ownScale([a, b, c, d]: Matrix): Matrix | undefined {
  const scaleX = Math.hypot(a, b);
  const skew = (a * c + b * d) / scaleX;
  const scaleY = Math.abs(a * d - b * c) / scaleX;
  if (Math.abs(scaleX - 1) < IS_ONE && Math.abs(scaleY - 1) < IS_ONE && Math.abs(skew) < IS_ONE) return undefined;
  return [scaleX, 0, skew, scaleY, 0, 0];
}

/** Fonts that an item needs. */
export const fontsOf = (item: LeafItem): string[] => (item.kind === 'lettering' ? [item.fontId, ...item.substitutes] : []);

/** Items whose outline comes from their record alone. */
export type PlainItem = Exclude<LeafItem, LetteringItem | EdgeCutItem>;

/** Does the item's result come without a font, other items and treatments, so that it is there at once? */
export const isPlain = (item: LeafItem): item is PlainItem =>
  item.kind !== 'lettering' && item.kind !== 'edge-cut' && activeTreatments(item).length === 0;

/** The gradient that an item is shown and written with; undefined for its film's one colour. */
export const gradientOf = (item: LeafItem): ShapeItem['gradient'] =>
  item.kind === 'shape' && item.printed === true ? item.gradient : undefined;

/**
 * A gradient where a map takes it, as a record.
 * @param map done after the gradient's own
 */
export function gradientAt(map: Matrix, gradient: Gradient): NonNullable<ShapeItem['gradient']> {
  const { kind, spread, stops, inner, matrix } = mapGradient(map, gradient);
  return { kind, spread, matrix: [...matrix], stops: stops.map((stop) => ({ ...stop })), ...(inner ? { inner } : {}) };
}

/** A line that others follow, and that is not cut itself. */
export const isHelper = (item: Item): boolean => item.kind !== 'group' && item.helper === true;

/** Things that are only looked at: dimension lines, pictures that belong to no print, helper lines. */
export const isAid = (item: Item): boolean =>
  item.kind === 'dimension' || (item.kind === 'picture' && item.layer === null) || isHelper(item);

/** Lines that the blade follows on a print: live edge cuts and those that were set free. Never art, never of a film. */
export const isCutLine = (item: Item): item is EdgeCutItem | ShapeItem =>
  item.kind === 'edge-cut' || (item.kind === 'shape' && item.line !== undefined);

/** Things with an outline of their own that is worked on: welded, cleaned, treated. */
export const isShaped = (item: Item): item is Exclude<Item, { kind: 'picture' | 'dimension' | 'edge-cut' }> =>
  item.kind !== 'picture' && item.kind !== 'dimension' && item.kind !== 'edge-cut';

/** The outline of an item that needs nothing else, in its own space; a picture's is what is shown of it. @throws InputError when its size or path is impossible */
export function plainOutline(item: PlainItem): Outline {
  switch (item.kind) {
    case 'box':
      return boxShape(item.widthMm, item.heightMm, item.cornerMm, item.corner);
    case 'oval':
      return ovalShape(item.widthMm, item.heightMm);
    case 'polygon':
      return polygonShape(item.sides, item.radiusMm, item.innerPct === null ? undefined : item.innerPct / 100);
    case 'arc':
      return arcShape(item.radiusMm, item.fromDeg, item.sweepDeg, item.ends);
    case 'shape':
      return parsePath(item.path);
    case 'picture':
      return item.clip === undefined
        ? boxShape(item.widthPx * item.mmPerPx, item.heightPx * item.mmPerPx)
        : mapOutline(scaling(item.mmPerPx, item.mmPerPx), parsePath(item.clip));
    case 'dimension':
      return EMPTY_OUTLINE;
  }
}
