/** The keys by which results are kept: what an outline and its pieces depend on, and nothing else. */
import { activeTreatments, bendOf, ownScale, type LeafItem } from './plain-outline.ts';

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
    case 'edge-cut':
      return ['e', item.id];
  }
}

function keyOf(item: LeafItem, sliverMm: number): string {
  const treatments = activeTreatments(item);
  if (treatments.length === 0) return item.kind === 'shape' ? `p ${item.path}` : JSON.stringify(shapeKey(item));
  return JSON.stringify([...shapeKey(item), item.layer, treatments, ownScale(item.matrix)?.map((n) => Math.round(n * 1e9)), sliverMm]);
}

/** By record, which never changes: the limit that the key was made for, and the key. */
const kept = new WeakMap<LeafItem, { readonly sliverMm: number; readonly key: string }>();

/**
 * The same key, the same result: it names everything the outline and its pieces depend on but the item's place.
 * @param sliverMm below which width parts of treatments are taken off, mm
 */
export function causeKey(item: LeafItem, sliverMm: number): string {
  const known = kept.get(item);
  if (known?.sliverMm === sliverMm) return known.key;
  const key = keyOf(item, sliverMm);
  kept.set(item, { sliverMm, key });
  return key;
}
