/** Results that need no fonts, and the keys by which all results are kept. */
import { boxShape, ovalShape, parsePath, type Outline } from '@lorvek/core/geometry';
import type { GroupItem, Item } from './document.ts';

/** Everything that is no group. */
export type LeafItem = Exclude<Item, GroupItem>;

/** The same key, the same outline: it names everything the outline depends on but the item's place. */
export function causeKey(item: LeafItem): string {
  switch (item.kind) {
    case 'lettering':
      return JSON.stringify([
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
      ]);
    case 'box':
      return `b ${item.widthMm} ${item.heightMm} ${item.cornerMm}`;
    case 'oval':
      return `o ${item.widthMm} ${item.heightMm}`;
    case 'shape':
      return `p ${item.path}`;
  }
}

/** Fonts that an item needs. */
export const fontsOf = (item: LeafItem): string[] => (item.kind === 'lettering' ? [item.fontId, ...item.substitutes] : []);

/** The outline of an item that is no lettering, in its own space. @throws InputError when its size or path is impossible */
export function plainOutline(item: Exclude<LeafItem, { kind: 'lettering' }>): Outline {
  switch (item.kind) {
    case 'box':
      return boxShape(item.widthMm, item.heightMm, item.cornerMm);
    case 'oval':
      return ovalShape(item.widthMm, item.heightMm);
    case 'shape':
      return parsePath(item.path);
  }
}
