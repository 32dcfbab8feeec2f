/**
 * From causes to results: an item's outline in its own space, from its words and font or its sizes.
 * Pure; the caller keeps results by `causeKey`. Brings the shaping engine along: for workers and the server.
 */
import type { Outline } from '@lorvek/core/geometry';
import { joinFonts, setLettering, type Font, type LetteringLine } from '@lorvek/core/lettering';
import { InputError } from '@lorvek/core';
import type { LetteringItem } from './document.ts';
import { plainOutline, type LeafItem } from './outline.ts';

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

function deriveLettering(item: LetteringItem, shelf: FontShelf): Derived {
  const first = shelf(item.fontId);
  const others = item.substitutes.flatMap((id) => shelf(id) ?? []);
  const [main, ...rest] = first ? [first, ...others] : others;
  if (!main) throw new InputError('font', `The font “${item.fontId}” is not in this shop. Choose another one.`, { fontId: item.fontId });
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
export const deriveItem = (item: LeafItem, shelf: FontShelf): Derived =>
  item.kind === 'lettering' ? deriveLettering(item, shelf) : { outline: plainOutline(item), lines: [], missing: [] };
