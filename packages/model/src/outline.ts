/** Results that need no fonts, and the keys by which all results are kept. */
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
import type { GroupItem, Item, LetteringItem, ShapeItem } from './document.ts';
import type { BendTreatment, TreatmentRecord } from './treatments.ts';

/** Everything that is no group. */
export type LeafItem = Exclude<Item, GroupItem>;

/** Treatments that are switched on, in order; bend is not among them. */
export const activeTreatments = (item: LeafItem): Exclude<TreatmentRecord, BendTreatment>[] =>
  (item.treatments ?? []).flatMap((t) => (t.on && t.kind !== 'bend' ? [t] : []));

/** The bend of a lettering: the first that is switched on. */
export const bendOf = (item: LetteringItem): BendTreatment | undefined =>
  item.treatments?.find((t): t is BendTreatment => t.kind === 'bend' && t.on);

/** Films of all pieces of an item, each once. */
export const filmsOfItem = (item: LeafItem): string[] => [
  ...new Set([item.film, ...activeTreatments(item).map((t) => t.film)].filter((film): film is string => film !== null)),
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

function shapeKey(item: LeafItem): unknown[] {
  switch (item.kind) {
    case 'lettering':
      return [
        'l',
        item.text,
        item.fontId,
        item.substitutes,
        item.capHeightMm,
        item.widthPct,
        item.slantDeg,
        item.letterSpaceMm,
        item.lineSpace,
        item.align,
        item.tweaks,
        item.axes,
        bendOf(item),
      ];
    case 'box':
      return ['b', item.widthMm, item.heightMm, item.cornerMm, item.corner];
    case 'oval':
      return ['o', item.widthMm, item.heightMm];
    case 'polygon':
      return ['y', item.sides, item.radiusMm, item.innerPct];
    case 'arc':
      return ['a', item.radiusMm, item.fromDeg, item.sweepDeg, item.ends];
    case 'shape':
      return ['p', item.path];
    case 'picture':
      return ['i', item.widthPx, item.heightPx, item.mmPerPx, item.clip];
    case 'dimension':
      return ['d'];
  }
}

/** The same key, the same result: it names everything the outline and its pieces depend on but the item's place. */
export function causeKey(item: LeafItem, sliverMm: number): string {
  const treatments = activeTreatments(item);
  if (treatments.length === 0) return item.kind === 'shape' ? `p ${item.path}` : JSON.stringify(shapeKey(item));
  return JSON.stringify([...shapeKey(item), item.film, treatments, ownScale(item.matrix)?.map((n) => Math.round(n * 1e9)), sliverMm]);
}

/** Fonts that an item needs. */
export const fontsOf = (item: LeafItem): string[] => (item.kind === 'lettering' ? [item.fontId, ...item.substitutes] : []);

/** Does the item's result come without a font and without treatments, so that it is there at once? */
export const isPlain = (item: LeafItem): item is Exclude<LeafItem, LetteringItem> =>
  item.kind !== 'lettering' && activeTreatments(item).length === 0;

/** The gradient that an item is shown and written with; undefined for its film's one colour. */
export const courseOf = (item: LeafItem): ShapeItem['gradient'] =>
  item.kind === 'shape' && item.printed === true ? item.gradient : undefined;

/** A gradient where a map takes it, as a record. */
export function courseAt(map: Matrix, gradient: Gradient): NonNullable<ShapeItem['gradient']> {
  const { kind, spread, stops, inner, matrix } = mapGradient(map, gradient);
  return { kind, spread, matrix: [...matrix], stops: stops.map((stop) => ({ ...stop })), ...(inner ? { inner } : {}) };
}

/** Things that are looked at and never cut. */
export const isAid = (item: Item): boolean => item.kind === 'picture' || item.kind === 'dimension';

/** The outline of an item that is no lettering, in its own space; a picture's is what is shown of it. @throws InputError when its size or path is impossible */
export function plainOutline(item: Exclude<LeafItem, LetteringItem>): Outline {
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
