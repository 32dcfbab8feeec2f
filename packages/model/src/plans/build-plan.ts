/**
 * How a drawing's films are built on one another: what each is cut to, where films keep their place, and in which order
 * and how they are laid, in words. Page and server call this with the same inputs and get the same.
 */
import { buildFilms, placeMarksFor, smallOnFill, type BuildLayer, type BuildPart } from '@lorvek/core/build';
import { colourDifference } from '@lorvek/core/colour';
import type { Finding } from '@lorvek/core/check';
import { bounds, EMPTY_BOX, isEmptyBox, joinBoxes, mapOutline, type Box, type Outline } from '@lorvek/core/geometry';
import type { Drawing } from '../records/document.ts';
import type { Film } from '../records/layers.ts';
import type { Piece } from '../queries/derive.ts';
import { isUnknown, type KnownOf } from '../queries/known-pieces.ts';
import { activeTreatments, isAid, isCutLine, type LeafItem } from '../queries/plain-outline.ts';
import { buildOf, filmsOf, isLeftOut, leavesOf, pageOf, sliverOf } from '../queries/queries.ts';
import type { StockFilm } from '../api/shop.ts';

/** A film as it is cut, and what came of building it. */
export interface BuiltLayer {
  readonly film: Film;
  /** All that is cut of it, on the drawing; parts that meet are one. */
  readonly outline: Outline;
  /** As it is drawn, before it is built. */
  readonly drawn: readonly Outline[];
  /** What is left of the pieces of an item, in their order. */
  readonly byItem: ReadonlyMap<string, readonly Outline[]>;
  readonly findings: readonly Finding[];
  /** Items that would hold better let in. */
  readonly small: readonly string[];
}

/** All films as they are built on one another, bottom first. */
export interface BuiltJob {
  /** Bottom first; films that are left out too. */
  readonly layers: readonly BuiltLayer[];
  /** What place marks stand round: all that is cut. */
  readonly box: Box;
  /** Place marks, on the drawing; none when no film has them. */
  readonly marks: Outline;
  /** Items that could not be worked out: what is built lacks them. */
  readonly unknown: readonly string[];
}

/** Does the piece meet the item's other pieces as the item says? */
function meetsOf(leaf: LeafItem, piece: Piece): string | undefined {
  const treatments = activeTreatments(leaf);
  if (treatments.length === 0) return undefined;
  const own = treatments.find(({ id }) => id === piece.treatment);
  if (own?.kind === 'ring' && own.fill === 'backing') return undefined;
  if (own?.kind === 'shade' && own.meeting === 'full') return undefined;
  return leaf.id;
}

/** What lies on each film, by film, in painting order. */
function partsOf(drawing: Drawing, knownOf: KnownOf): { parts: Map<string, BuildPart[]>; unknown: string[] } {
  const films = new Map(filmsOf(drawing).map((film) => [film.id, film]));
  const inlaid = new Map([...films].map(([id, film]) => [id, new Set(film.inlaid)]));
  const parts = new Map<string, BuildPart[]>();
  const unknown: string[] = [];
  for (const leaf of leavesOf(drawing)) {
    if (isAid(leaf) || isCutLine(leaf)) continue;
    const known = knownOf(leaf);
    if (isUnknown(known)) {
      unknown.push(leaf.id);
      continue;
    }
    for (const piece of known.pieces) {
      if (piece.layer === null || !films.has(piece.layer) || piece.outline.contours.length === 0) continue;
      const outline = mapOutline(leaf.matrix, piece.outline);
      const part = { id: leaf.id, name: leaf.name, outline, meets: meetsOf(leaf, piece), inlaid: inlaid.get(piece.layer)?.has(leaf.id) };
      const list = parts.get(piece.layer);
      if (list) list.push(part);
      else parts.set(piece.layer, [part]);
    }
  }
  return { parts, unknown };
}

/** Does anything have to be worked out, or does every film lie whole on those below? */
export const isPlainBuild = (drawing: Drawing): boolean =>
  filmsOf(drawing).every(({ build, leftOut, inlaid }) => build !== 'inlay' && !leftOut && (inlaid?.length ?? 0) === 0);

/** Colours nearer than this are one colour to the eye, ΔE 2000. */
export const SAME_COLOUR = 2;

/** Films that the surface has the colour of: they need not be cut. */
export const likeSurface = (drawing: Drawing): Film[] =>
  filmsOf(drawing).filter(({ hex, leftOut }) => !leftOut && colourDifference(hex, pageOf(drawing).surface.hex) < SAME_COLOUR);

const sameColour = (film: Film, films: readonly Film[]): Finding[] => {
  const other = films.slice(0, films.indexOf(film)).find(({ hex }) => colourDifference(hex, film.hex) < SAME_COLOUR);
  if (!other) return [];
  return [
    {
      code: 'same-colour',
      level: 'warning',
      text: `${film.series} ${film.name} and ${other.series} ${other.name} have the same colour: where they meet no edge is seen. One film would do.`,
      parts: [],
    },
  ];
};

/** @param small false: parts that would hold better let in are not looked for */
export function builtJob(drawing: Drawing, stock: readonly StockFilm[], knownOf: KnownOf, small = true): BuiltJob {
  const films = filmsOf(drawing);
  const build = buildOf(drawing);
  const { parts, unknown } = partsOf(drawing, knownOf);
  const layers = films.map((film): BuildLayer => ({
    film: film.id,
    name: film.name,
    build: film.build ?? 'overlay',
    trapMm: film.trapMm ?? 0,
    leftOut: isLeftOut(film),
    sliverMm: stock.find(({ id }) => id === film.stockId)?.thinnestMm,
    parts: parts.get(film.id) ?? [],
  }));
  const smallest = (film: string): number =>
    stock.find(({ id }) => id === films.find((one) => one.id === film)?.stockId)?.smallestPartMm ?? 0;
  const onFill = small ? smallOnFill(layers, smallest) : new Map<string, number[]>();
  const built = buildFilms(layers, { seenFromBothSides: build.seenFromBothSides, sliverMm: sliverOf(drawing) });
  const used = films.filter(({ id }) => (parts.get(id)?.length ?? 0) > 0);
  const done = built.map(({ outline, from, findings }, i): BuiltLayer => {
    const film = films[i] as Film;
    const own = parts.get(film.id) ?? [];
    const byItem = new Map<string, Outline[]>();
    for (const { part, outline: left } of from) {
      const { id } = own[part] as BuildPart;
      byItem.set(id, [...(byItem.get(id) ?? []), left]);
    }
    const drawn = own.map((part) => part.outline);
    const same = used.includes(film) ? sameColour(film, used) : [];
    const names = [...new Set((onFill.get(film.id) ?? []).map((n) => (own[n] as BuildPart).id))];
    return { film, outline, drawn, byItem, findings: [...findings, ...same], small: names };
  });
  const box = done.reduce((sum, { outline }) => joinBoxes(sum, bounds(outline)), EMPTY_BOX);
  return withMarks(drawing, { layers: done, box, unknown });
}

/**
 * The same films with the marks that the drawing asks for now: they depend on whether films keep their place.
 * @returns the same films; only marks and box differ
 */
export function withMarks(drawing: Drawing, built: Omit<BuiltJob, 'marks'>): BuiltJob {
  const { place, marks } = buildOf(drawing);
  const isMarked = place === 'keep' && built.layers.some(({ film, outline }) => film.placeMarks && outline.contours.length > 0);
  return { ...built, marks: isMarked && !isEmptyBox(built.box) ? placeMarksFor(built.box, marks) : { contours: [] } };
}

/** What all films keep their place in, marks included. */
export const frameOf = ({ box, marks }: Pick<BuiltJob, 'box' | 'marks'>): Box => joinBoxes(box, bounds(marks));

/** A step of putting the films together: "2. White letters on it". */
export interface LayingStep {
  readonly film: string;
  readonly text: string;
  /** What holds it in place meanwhile; null: it is not laid. */
  readonly heldBy: string | null;
}

const most = (names: readonly string[]): string => {
  const [first = '', second, ...rest] = names;
  if (second === undefined) return `“${first}”`;
  return rest.length === 0 ? `“${first}” and “${second}”` : `“${first}”, “${second}” and ${rest.length} more`;
};

/** The order of laying, in words; films that are left out are named with the reason. */
export function layingSteps(drawing: Drawing, { layers }: Pick<BuiltJob, 'layers'>): LayingStep[] {
  const { surface } = pageOf(drawing);
  const keeps = buildOf(drawing).place === 'keep';
  const itemName = new Map(leavesOf(drawing).map(({ id, name }) => [id, name]));
  const steps: LayingStep[] = [];
  for (const { film, byItem, outline } of layers) {
    if (isLeftOut(film)) {
      steps.push({ film: film.id, text: `${film.name} is not cut: the surface, ${surface.name}, has its colour.`, heldBy: null });
      continue;
    }
    if (outline.contours.length === 0) continue;
    const names = [...byItem.keys()].map((id) => itemName.get(id) ?? '');
    const under = steps.length === 0 ? `on ${surface.name}` : film.build === 'inlay' ? 'let into what lies there' : 'on it';
    const heldBy = film.transfer
      ? 'its own carrier, pressed'
      : keeps && film.placeMarks
        ? 'application tape, laid by its place marks'
        : keeps
          ? 'application tape, laid by the corner of the whole'
          : 'application tape, laid by eye';
    steps.push({ film: film.id, text: `${film.name}: ${most(names)} ${under}.`, heldBy });
  }
  return steps;
}
