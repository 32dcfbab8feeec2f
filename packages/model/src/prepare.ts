/**
 * From a drawing to what a cutter gets, film by film: the work taken, laid on its roll, checked, ordered, written.
 * The page shows with the same code what the server sends.
 */
import { InputError, type Control } from '@lorvek/core';
import { area, formatPath, mapOutline, pathLength, type Outline } from '@lorvek/core/geometry';
import { checkFilm, checkSheet, type FilmLimits, type Finding } from '@lorvek/core/check';
import { layUp, type LaidUp } from '@lorvek/core/sheet';
import { estimateCut, planCut, type CutEstimate, type ToolPath } from '@lorvek/core/cut';
import { writeHpgl, writeSvg, type ToolChoice } from '@lorvek/core/format';
import type { Drawing, Film } from './document.ts';
import { inkOn } from './ink.ts';
import { filmOf, filmsOf, leavesInScope, mirrorOf, sheetOf } from './read.ts';
import type { Material } from './material.ts';
import type { Piece } from './derive.ts';
import type { LeafItem } from './outline.ts';
import type { ToolSetup } from './api/shop.ts';

/** What is cut of a leaf, in its own space; undefined while it is not known. */
export type PiecesOf = (item: LeafItem) => readonly Piece[] | undefined;

export interface PreparedSheet {
  readonly film: Film;
  readonly material: Material;
  readonly laid: LaidUp;
  readonly cut: Outline;
  readonly weed: Outline;
  readonly findings: readonly Finding[];
  readonly areaMm2: number;
  readonly cutMm: number;
  readonly itemIds: readonly string[];
}

/** Films that the drawing's scope takes, in strip order. */
export function filmsInScope(drawing: Drawing): Film[] {
  const leaves = leavesInScope(drawing);
  return filmsOf(drawing).filter((film) => leaves.has(film.id));
}

/**
 * Lays one film's work on its material and checks it, against the film's own limits when they are given.
 * @throws InputError for an unknown film
 */
export function prepareSheet(drawing: Drawing, filmId: string, material: Material, piecesOf: PiecesOf, limits?: FilmLimits): PreparedSheet {
  const film = filmOf(drawing, filmId);
  if (!film) throw new InputError('film', 'This film is not in the job.');
  const sheet = sheetOf(drawing, filmId);
  const leaves = leavesInScope(drawing).get(filmId) ?? [];
  const parts = leaves.flatMap((leaf) =>
    (piecesOf(leaf) ?? [])
      .filter((piece) => piece.film === filmId && piece.outline.contours.length > 0)
      .map((piece) => ({ id: leaf.id, name: leaf.name, outline: mapOutline(leaf.matrix, piece.outline) })),
  );
  const laid = layUp({
    parts,
    materialWidthMm: material.widthMm,
    materialLengthMm: material.lengthMm,
    marginMm: sheet.marginMm,
    turnDeg: sheet.turnDeg,
    mirror: mirrorOf(sheet, film).mirror,
    copies: sheet.copies,
    gapMm: sheet.gapMm,
    weedBoxMm: sheet.weedBoxMm ?? undefined,
    offsetXMm: sheet.offsetXMm,
    offsetYMm: sheet.offsetYMm,
  });
  const cut: Outline = { contours: laid.parts.flatMap((part) => part.outline.contours) };
  const weed: Outline = { contours: laid.weedBoxes.flatMap((box) => box.contours) };
  const names = new Map(parts.map((part) => [part.id, part.name]));
  const named = (id: string): string => names.get(id) ?? id;
  const placed = laid.parts.map((part) => ({ id: part.id, name: named(part.id), outline: part.outline }));
  const frames = laid.weedBoxes.map((outline, i) => ({ id: `weed-${i}`, name: 'Weed box', outline }));
  return {
    film,
    material,
    laid,
    cut,
    weed,
    findings: [
      ...checkFilm(
        placed.filter((_, i) => laid.parts[i]?.copy === 0),
        limits,
      ),
      ...checkSheet([...placed, ...frames], material.lengthMm, material.widthMm),
    ],
    areaMm2: laid.parts.reduce((sum, part) => sum + Math.abs(area(part.outline)), 0),
    cutMm: pathLength(cut) + pathLength(weed),
    itemIds: leaves.map((leaf) => leaf.id),
  };
}

export interface PlannedCut {
  readonly paths: readonly ToolPath[];
  readonly estimate: CutEstimate;
  readonly hpgl: Uint8Array;
  readonly svg: Uint8Array;
}

const toolChoice = (setup: ToolSetup): ToolChoice =>
  setup.sends === 'stored'
    ? { sends: 'stored', tool: setup.tool, passes: setup.passes }
    : { sends: 'values', tool: setup.tool, speedMmPerS: setup.speedMmPerS, forceGrams: setup.forceGrams, passes: setup.passes };

/** The sheet as SVG: cut lines as hairlines on a page of the used length and the roll's width. */
export function sheetToSvg(sheet: PreparedSheet): Uint8Array {
  const line = { hex: '#0b5c5a', widthMm: 0.1 };
  return writeSvg({
    widthMm: Math.max(1, sheet.laid.usedLengthMm),
    heightMm: sheet.material.widthMm,
    items: [
      { outline: sheet.cut, closed: true, stroke: line, layer: `${sheet.film.series} ${sheet.film.name}` },
      ...(sheet.weed.contours.length > 0
        ? [{ outline: sheet.weed, closed: true, stroke: { hex: '#7c7f86', widthMm: 0.1 }, layer: 'Weed lines' }]
        : []),
    ],
  });
}

/** The sheet to look at: the film in its colour, lines that keep their width at any size. For screens, not for machines. */
export function sheetToPicture({ laid, material, film, cut, weed }: PreparedSheet): string {
  const [length, width] = [Math.max(60, laid.usedLengthMm).toFixed(2), material.widthMm.toFixed(2)];
  const flip = (outline: Outline): string => formatPath(mapOutline([1, 0, 0, -1, 0, material.widthMm], outline), 2);
  const ink = inkOn(film.hex);
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${length} ${width}"><style>path{vector-effect:non-scaling-stroke}</style><rect width="${length}" height="${width}" fill="${film.hex}"/><path d="${flip(cut)}" fill="${ink}" fill-opacity="0.15" stroke="${ink}"/><path d="${flip(weed)}" fill="none" stroke="${ink}" stroke-opacity="0.5"/></svg>`;
}

/** Turns sharper than this are corners for the blade, degrees. */
const CORNER_DEG = 15;

/** Orders the cut and says how long it takes. @throws CancelledError */
export function orderSheet(sheet: PreparedSheet, setup: ToolSetup, control?: Control): Pick<PlannedCut, 'paths' | 'estimate'> {
  const blade = {
    bladeOffsetMm: setup.bladeOffsetMm,
    overcutMm: setup.overcutMm,
    cornerDeg: CORNER_DEG,
    compensate: setup.corners === 'file',
  };
  const { paths } = planCut(sheet.cut, sheet.weed, blade, control);
  return { paths, estimate: estimateCut(paths, { speedMmPerS: setup.speedMmPerS, passes: setup.passes }) };
}

/** Orders the cut and writes the files. @throws CancelledError, LimitError */
export function planSheet(sheet: PreparedSheet, setup: ToolSetup, control?: Control): PlannedCut {
  const { paths, estimate } = orderSheet(sheet, setup, control);
  return {
    paths,
    estimate,
    hpgl: writeHpgl(paths, toolChoice(setup)),
    svg: sheetToSvg(sheet),
  };
}
