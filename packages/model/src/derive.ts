/**
 * From causes to results: an item's outline in its own space, from its words and font or its sizes.
 * Pure; the caller keeps results by `causeKey`, which names everything the outline depends on but its place.
 */
import { boxShape, ovalShape, parsePath, type Outline } from '@lorvek/core/geometry';
import { joinFonts, setLettering, type Font, type LetteringLine } from '@lorvek/core/lettering';
import { InputError } from '@lorvek/core';
import type { GroupItem, Item, LetteringItem } from './document.ts';

/** Everything that is no group. */
export type LeafItem = Exclude<Item, GroupItem>;

export interface Derived {
  readonly outline: Outline;
  /** Of lettering: its lines with pen positions, for editing. */
  readonly lines: readonly LetteringLine[];
  readonly missing: readonly string[];
  /** A font that is not there: its id. */
  readonly missingFont?: string;
}

/** Fonts by id; undefined when the shop does not have it. */
export type FontShelf = (fontId: string) => Font | undefined;

/** The same key, the same outline. */
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

function deriveLettering(item: LetteringItem, shelf: FontShelf): Derived {
  const first = shelf(item.fontId);
  const others = item.substitutes.flatMap((id) => shelf(id) ?? []);
  const fonts = first ? [first, ...others] : others;
  const [main, ...rest] = fonts;
  if (!main) throw new InputError('font', `The font “${item.fontId}” is not in this shop.`, { fontId: item.fontId });
  const set = setLettering({
    text: item.text,
    font: joinFonts([main, ...rest]),
    capHeightMm: item.capHeightMm,
    letterSpaceMm: item.letterSpaceMm,
    lineSpace: item.lineSpace,
    align: item.align,
    widthPct: item.widthPct,
    slantDeg: item.slantDeg,
  });
  return { outline: set.outline, lines: set.lines, missing: set.missing, ...(first ? {} : { missingFont: item.fontId }) };
}

/** @throws InputError when a size is impossible or no font is there */
export function deriveItem(item: LeafItem, shelf: FontShelf): Derived {
  switch (item.kind) {
    case 'lettering':
      return deriveLettering(item, shelf);
    case 'box':
      return { outline: boxShape(item.widthMm, item.heightMm, item.cornerMm), lines: [], missing: [] };
    case 'oval':
      return { outline: ovalShape(item.widthMm, item.heightMm), lines: [], missing: [] };
    case 'shape':
      return { outline: parsePath(item.path), lines: [], missing: [] };
  }
}
