/**
 * From causes to results: an item's outline in its own space, from its words and font or its sizes, and the pieces
 * its treatments make of it. Pure; the caller keeps results by `causeKey`. Brings the shaping engine along: for
 * workers and the server.
 */
import type { LayerId } from '../records/fields.ts';
import { invert, mapOutline, parsePath, weld, type Outline } from '@lorvek/core/geometry';
import { joinFonts, setLettering, varyFont, type Bend, type Font, type LetteringLine } from '@lorvek/core/lettering';
import { evaluateTreatments, type Treatment } from '@lorvek/core/treatment';
import { InputError } from '@lorvek/core';
import type { LetteringItem } from '../records/items.ts';
import { activeTreatments, bendOf, ownScale, plainOutline, type LeafItem } from './plain-outline.ts';
import type { BendTreatment, TreatmentRecord } from '../records/treatments.ts';

/** What is cut from one film. */
export interface Piece {
  readonly layer: LayerId | null;
  readonly outline: Outline;
  /** The treatment it comes from; absent: the item's face. */
  readonly treatment?: string;
}

/** Outlines of an item by layer, or why there are none. */
export interface Derived {
  /** The item itself, before its treatments: what is measured and sized. */
  readonly outline: Outline;
  /** What is cut, treatments in order and the face last, or printed, the lowest first; absent: the outline, from the item's film. */
  readonly pieces?: readonly Piece[];
  /** Of lettering: its lines with pen positions, for editing. */
  readonly lines: readonly LetteringLine[];
  readonly missing: readonly string[];
  /** A font that is not there: its id. */
  readonly missingFont?: string;
  /** Treatments that leave nothing or cannot be, and why; by id. */
  readonly notes?: Readonly<Record<string, string>>;
}

/** Fonts by id; undefined when the shop does not have it. */
export type FontShelf = (fontId: string) => Font | undefined;

function toBend(t: BendTreatment): Bend | undefined {
  switch (t.line) {
    case 'circle':
      return {
        kind: 'circle',
        radiusMm: t.radiusMm,
        lowerRadiusMm: t.lowerRadiusMm ?? undefined,
        lines: t.sides,
        middleDeg: t.middleDeg,
        stand: t.stand,
        sameSide: t.sameSide,
        spreadDeg: t.spreadDeg ?? undefined,
      };
    case 'arch':
      return { kind: 'arch', riseMm: t.riseMm };
    case 'path':
      return t.path === '' ? undefined : { kind: 'path', path: parsePath(t.path), startMm: t.startMm, stand: t.stand, reverse: t.reverse };
  }
}

function deriveLettering(item: LetteringItem, shelf: FontShelf): Derived {
  const first = shelf(item.fontId);
  const others = item.substitutes.flatMap((id) => shelf(id) ?? []);
  const [main, ...rest] = first ? [first, ...others] : others;
  if (!main) throw new InputError('font', `The font “${item.fontId}” is not in this shop. Choose another one.`, { fontId: item.fontId });
  const bend = bendOf(item);
  const set = setLettering({
    text: item.text,
    font: joinFonts([item.axes ? varyFont(main, item.axes) : main, ...rest]),
    capHeightMm: item.capHeightMm,
    letterSpaceMm: item.letterSpaceMm,
    lineSpace: item.lineSpace,
    align: item.align,
    widthPct: item.widthPct,
    slantDeg: item.slantDeg,
    ...(item.tweaks ? { tweaks: item.tweaks } : {}),
    ...(bend ? { bend: toBend(bend) } : {}),
  });
  return { outline: set.outline, lines: set.lines, missing: set.missing, ...(first ? {} : { missingFont: item.fontId }) };
}

function toTreatment(t: Exclude<TreatmentRecord, BendTreatment>): Treatment {
  if (t.kind === 'shade') return { ...t, angleDeg: t.shade === 'cast' ? t.leanDeg : t.angleDeg };
  if (t.kind === 'two-tone') return { ...t, path: t.path === '' ? undefined : parsePath(t.path) };
  return t;
}

const isWithoutLine = (t: TreatmentRecord): boolean => t.kind === 'two-tone' && t.edge === 'drawn' && t.path === '';

function treat(item: LeafItem, plain: Derived, sliverMm: number): Derived {
  const all = activeTreatments(item);
  if (all.length === 0) return plain;
  // an edge that is to be drawn does nothing until there is a line
  const treatments = all.filter((t) => !isWithoutLine(t));
  const waiting = Object.fromEntries(
    all.filter(isWithoutLine).map((t) => [t.id, 'Take the line of the edge; until then the letters are whole.']),
  );
  if (treatments.length === 0) return { ...plain, notes: waiting };
  const scale = ownScale(item.matrix);
  const back = scale && invert(scale);
  const { pieces, notes } = evaluateTreatments(
    scale ? mapOutline(scale, plain.outline) : plain.outline,
    treatments.map(toTreatment),
    sliverMm,
  );
  return {
    ...plain,
    notes: { ...waiting, ...Object.fromEntries(notes.map(({ index, text }) => [treatments[index]?.id ?? '', text])) },
    pieces: oneAFilm(
      inPaintingOrder(
        treatments,
        pieces.map(({ index, outline }): Piece => {
          const t = treatments[index];
          const own = back ? mapOutline(back, outline) : outline;
          return t ? { layer: t.layer, outline: own, treatment: t.id } : { layer: item.layer, outline: own };
        }),
      ),
    ),
  };
}

const isPrintedOn = ({ layer }: Piece): boolean => layer?.startsWith('print-') === true;

/**
 * What is printed is painted piece on piece: what widens the letters under them, the last of it lowest; then the letters; then
 * what lies within them. Films lie as they are stacked.
 */
function inPaintingOrder(treatments: readonly TreatmentRecord[], pieces: readonly Piece[]): readonly Piece[] {
  if (!pieces.some(isPrintedOn)) return pieces;
  const widens = ({ treatment }: Piece): boolean => {
    const t = treatments.find(({ id }) => id === treatment);
    return t?.kind === 'shade' || (t?.kind === 'ring' && t.distanceMm >= 0);
  };
  const within = pieces.filter((piece) => piece.treatment !== undefined && !widens(piece));
  return [...pieces.filter(widens).reverse(), ...pieces.filter(({ treatment }) => treatment === undefined), ...within];
}

/** Pieces of one film are one piece, so that nothing is cut twice; those without a film, and those that are printed, stay apart. */
function oneAFilm(pieces: readonly Piece[]): Piece[] {
  const out: Piece[] = [];
  for (const piece of pieces) {
    const index = piece.layer === null || isPrintedOn(piece) ? -1 : out.findIndex((other) => other.layer === piece.layer);
    const other = out[index];
    if (other) out[index] = { ...other, outline: weld([other.outline, piece.outline]) };
    else out.push(piece);
  }
  return out;
}

/**
 * @throws InputError when a size is impossible or no font is there
 * @param shelf the fonts that are at hand
 * @complexity that of the item's treatments, one after another
 */
export function deriveItem(item: LeafItem, shelf: FontShelf, sliverMm: number): Derived {
  if (item.kind === 'edge-cut') throw new InputError('edge-cut', 'An edge cut is worked out with the drawing that it is on.');
  const plain = item.kind === 'lettering' ? deriveLettering(item, shelf) : { outline: plainOutline(item), lines: [], missing: [] };
  return treat(item, plain, sliverMm);
}

/** What is cut of an item, in its own space. */
export const piecesOf = (item: LeafItem, derived: Derived): readonly Piece[] =>
  derived.pieces ?? [{ layer: item.layer, outline: derived.outline }];
