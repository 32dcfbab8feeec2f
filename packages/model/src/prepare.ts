/**
 * From a drawing to what a cutter gets, film by film: the work taken, laid on its roll, checked, ordered, written.
 * The page shows with the same code what the server sends.
 */
import { InputError, type Control } from '@lorvek/core';
import { area, formatPath, mapOutline, pathLength, type Outline } from '@lorvek/core/geometry';
import { checkFilm, checkSheet, type FilmLimits, type Finding } from '@lorvek/core/check';
import { layUp, type LaidUp, type LayUpProblem } from '@lorvek/core/sheet';
import { estimateCut, planCut, type CutEstimate, type ToolPath } from '@lorvek/core/cut';
import { writeHpgl, writeSvg, type ToolChoice } from '@lorvek/core/format';
import type { Drawing, Film } from './document.ts';
import { inkOn } from './ink.ts';
import { filmOf, filmsOf, leavesInScope, mirrorOf, sheetOf } from './read.ts';
import { findUnknown } from './check-drawing.ts';
import type { Piece } from './derive.ts';
import { isUnknown, type KnownOf } from './known-pieces.ts';
import { ANY_ROLL, chooseRoll, materialOf, type Material, type RollChoice } from './material.ts';
import type { LeafItem } from './outline.ts';
import type { StockFilm, ToolSetup } from './api/shop.ts';

/** What is cut of a leaf, in its own space. */
export type PiecesOf = (item: LeafItem) => readonly Piece[];

export interface PreparedSheet {
  readonly film: Film;
  readonly material: Material;
  readonly roll: RollChoice;
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

/** Does the work lie within the clear width and the length that is left? */
export const fitsOn = (laid: LaidUp, marginMm: number): boolean => laid.overWidthMm <= marginMm && laid.overLengthMm <= marginMm;

interface FilmWork {
  readonly film: Film;
  readonly parts: readonly { readonly id: string; readonly name: string; readonly outline: Outline }[];
  readonly unknown: readonly Finding[];
  readonly itemIds: readonly string[];
}

function workOf(drawing: Drawing, filmId: string, knownOf: KnownOf): FilmWork {
  const film = filmOf(drawing, filmId);
  if (!film) throw new InputError('film', 'This film is not in the job.');
  const leaves = leavesInScope(drawing).get(filmId) ?? [];
  const unknown: Finding[] = [];
  const parts = leaves.flatMap((leaf) => {
    const known = knownOf(leaf);
    if (isUnknown(known)) {
      unknown.push(findUnknown(leaf, known));
      return [];
    }
    return known.pieces
      .filter((piece) => piece.film === filmId && piece.outline.contours.length > 0)
      .map((piece) => ({ id: leaf.id, name: leaf.name, outline: mapOutline(leaf.matrix, piece.outline) }));
  });
  return { film, parts, unknown, itemIds: leaves.map((leaf) => leaf.id) };
}

function layProblem(drawing: Drawing, { film, parts }: FilmWork, material: Material): LayUpProblem {
  const sheet = sheetOf(drawing, film.id);
  return {
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
  };
}

/** Would the film's work lie on such a material? */
export function fitsMaterial(drawing: Drawing, filmId: string, material: Material, knownOf: KnownOf): boolean {
  return fitsOn(layUp(layProblem(drawing, workOf(drawing, filmId, knownOf), material)), sheetOf(drawing, filmId).marginMm);
}

const NO_ROLL: Record<Exclude<RollChoice['how'], 'named' | 'only'>, (film: string) => string> = {
  open: (film) => `No roll is chosen for ${film}, and more than one would do.`,
  gone: (film) => `The roll that was chosen for ${film} is no longer in Stock.`,
  none: (film) => `There is no roll of ${film} in Stock.`,
};

function findRoll(film: Film, { how }: RollChoice, ids: readonly string[]): Finding[] {
  if (how === 'named' || how === 'only') return [];
  return [{ code: 'no-roll', level: 'stop', text: NO_ROLL[how](`${film.series} ${film.name}`), parts: ids.slice(0, 50) }];
}

/**
 * Lays one film's work on its roll and checks it against the film's limits. What is not known of an item, and a roll
 * that nobody chose, are findings that stop.
 * @throws InputError for an unknown film
 */
export function prepareSheet(drawing: Drawing, filmId: string, stock: readonly StockFilm[], knownOf: KnownOf): PreparedSheet {
  const work = workOf(drawing, filmId, knownOf);
  const { film, parts } = work;
  const { marginMm } = sheetOf(drawing, filmId);
  const lay = (on: Material): LaidUp => layUp(layProblem(drawing, work, on));
  const choice = chooseRoll(sheetOf(drawing, filmId), film, stock, (on) => fitsOn(lay(on), marginMm));
  const material = choice.roll ? materialOf(choice.roll) : ANY_ROLL;
  const laid = lay(material);
  const cut: Outline = { contours: laid.parts.flatMap((part) => part.outline.contours) };
  const weed: Outline = { contours: laid.weedBoxes.flatMap((box) => box.contours) };
  const names = new Map(parts.map((part) => [part.id, part.name]));
  const named = (id: string): string => names.get(id) ?? id;
  const placed = laid.parts.map((part) => ({ id: part.id, name: named(part.id), outline: part.outline }));
  const frames = laid.weedBoxes.map((outline, i) => ({ id: `weed-${i}`, name: 'Weed box', outline }));
  return {
    film,
    material,
    roll: choice,
    laid,
    cut,
    weed,
    findings: [
      ...work.unknown,
      ...findRoll(film, choice, work.itemIds),
      ...checkFilm(
        placed.filter((_, i) => laid.parts[i]?.copy === 0),
        limitsOf(film, stock),
      ),
      ...checkSheet([...placed, ...frames], material.lengthMm, material.widthMm),
    ],
    areaMm2: laid.parts.reduce((sum, part) => sum + Math.abs(area(part.outline)), 0),
    cutMm: pathLength(cut) + pathLength(weed),
    itemIds: work.itemIds,
  };
}

/** What can be weeded from a film, as Stock says. */
function limitsOf({ stockId }: Film, stock: readonly StockFilm[]): FilmLimits | undefined {
  const film = stock.find(({ id }) => id === stockId);
  return film && { smallestPartMm: film.smallestPartMm, thinnestMm: film.thinnestMm };
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
