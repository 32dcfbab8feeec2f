/** What is asked of a nest and what it answers; the parts as they are laid. The method is told in `nest.ts`. Units mm, degrees. */
import type { Matrix, Outline } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { flatten } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { coveredArea } from './raster.ts';
import { withoutHoles, type Entry, type Shape } from './nest-grid.ts';

/** A part of which copies are nested. */
export interface NestPart {
  readonly id: string;
  /** All of it stays together. Open lines take room like others. */
  readonly outline: Outline;
  readonly copies?: number;
}

/** What is packed onto what, and by which rules. mm, degrees. */
export interface NestProblem {
  readonly parts: readonly NestPart[];
  /** Clear width and length of the material, margins off, mm. */
  readonly widthMm: number;
  readonly lengthMm?: number;
  readonly gapMm: number;
  /** Allowed turns are its multiples; 0 for none. */
  readonly turnStepDeg: number;
  /** May parts lie in the holes of others? */
  readonly intoHoles: boolean;
  /** What lies on the strip already and stays: nothing comes nearer to it than the gap. */
  readonly fixed?: readonly Outline[];
  /**
   * Copies in the order in which they lay before, to go on from there; others come after them. With the places of all of
   * them (from a part's own place onto the strip) nothing longer comes of it, while that layout still holds.
   */
  readonly before?: readonly { readonly id: string; readonly copy: number; readonly map?: Matrix }[];
}

/** A copy and where it lies. */
export interface NestedPart {
  readonly id: string;
  readonly copy: number;
  readonly turnDeg: number;
  /** From the part's own place onto the strip. */
  readonly map: Matrix;
}

/** A layout; what is in it neither overlaps nor lies nearer than the gap. */
export interface NestResult {
  readonly placed: readonly NestedPart[];
  /** What found no room, one entry a copy. */
  readonly leftOut: readonly { readonly id: string; readonly copy: number }[];
  /** From the strip's beginning to the end of the work, mm. */
  readonly usedLengthMm: number;
  /** Area that the parts cover, mm², to some thousandth; what lies twice in a part counts once. */
  readonly partsAreaMm2: number;
  /** Orders tried. */
  readonly tries: number;
}

const MOST_PARTS = 2000;
const MOST_TURNS = 360;
/** Chords of a part are within its longer side by this, so that its area is right to a thousandth. */
export const FINENESS = 1000;
/** @throws InputError, LimitError for a problem that is none */
export function checkProblem({ parts, widthMm, lengthMm, gapMm, turnStepDeg }: NestProblem): void {
  if (!(widthMm > 0) || !Number.isFinite(widthMm)) throw new InputError('width', `The width must be above zero, not ${widthMm}.`);
  if (lengthMm !== undefined && !(lengthMm > 0)) throw new InputError('length', `The length must be above zero, not ${lengthMm}.`);
  if (!(gapMm >= 0) || !Number.isFinite(gapMm)) throw new InputError('gap', `The gap must not be below zero, not ${gapMm}.`);
  if (turnStepDeg !== 0 && !(turnStepDeg >= 360 / MOST_TURNS && turnStepDeg <= 360))
    throw new InputError('turn', `The step of turns must be 0 or from ${360 / MOST_TURNS} to 360 degrees, not ${turnStepDeg}.`);
  let count = 0;
  for (const { copies = 1 } of parts) {
    if (!Number.isInteger(copies) || copies < 1) throw new InputError('copies', `The number of copies must be 1 or more, not ${copies}.`);
    count += copies;
  }
  if (count > MOST_PARTS) throw new LimitError('parts', `At most ${MOST_PARTS} parts are nested at once, not ${count}.`);
}

/**
 * The turns that parts may have.
 * @param stepDeg 0: as it lies only
 * @returns degrees from 0 up, below 360
 */
export function turnsOf(stepDeg: number): number[] {
  if (stepDeg === 0) return [0];
  return Array.from({ length: Math.max(1, Math.round(360 / stepDeg)) }, (_, i) => i * stepDeg).filter((deg) => deg < 360);
}

/** A part in a turn takes some kilobytes, on the grid and as a solid, and is kept: so many, about. */
const MOST_TURNED = 12_000;

const everyTurn = (turns: number, kinds: number): number => Math.max(1, Math.ceil((turns * kinds) / MOST_TURNED));

/** The step that so many different parts are turned in, degrees: the one that is asked for, or a multiple of it. */
export const triedStep = (stepDeg: number, kinds: number): number => stepDeg * everyTurn(turnsOf(stepDeg).length, kinds);

/**
 * The turns that parts are tried in: all, or of many parts in many turns some that are spread evenly, the
 * quarter turns that are among them, which boxes need, and those that are used.
 * @param turns degrees @param kinds how many different parts @param used turns of a layout before, degrees
 */
export function triedTurns(turns: readonly number[], kinds: number, used: Iterable<number>): number[] {
  const every = everyTurn(turns.length, kinds);
  const keep = new Set(used);
  return turns.filter((deg, i) => i % every === 0 || deg % 90 === 0 || keep.has(deg));
}

/**
 * The things of a problem, and a copy of each to lay, the largest first.
 * @param tolerance of the chords, mm; a thousandth of a part's size when that is finer
 * @returns ids and things by the same numbers; parts without an outline are in none of them
 */
export function entriesOf({ parts, intoHoles }: NestProblem, tolerance: number): { ids: string[]; things: Shape[]; order: Entry[] } {
  const kinds = parts.flatMap(({ id, outline, copies = 1 }) => {
    const box = bounds(outline);
    if (isEmptyBox(box)) return [];
    const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
    const lines = flatten(outline, Math.min(tolerance, Math.max(width, height) / FINENESS));
    const thing = { outline, lines: intoHoles ? lines : withoutHoles(lines), areaMm2: coveredArea(lines, box) };
    // a long thin part is placed as early as one of its length squared over three: later it finds no room
    return [{ id, copies, thing, size: Math.max(width * height, Math.max(width, height) ** 2 / 3) }];
  });
  kinds.sort((a, b) => b.size - a.size);
  return {
    ids: kinds.map(({ id }) => id),
    things: kinds.map(({ thing }) => thing),
    order: kinds.flatMap(({ copies }, thing) => Array.from({ length: copies }, (_, copy) => ({ thing, copy }))),
  };
}

/**
 * The order of a layout before, what was not in it last.
 * @param before in the order in which they lay
 */
export function asBefore(order: readonly Entry[], ids: readonly string[], before: readonly { id: string; copy: number }[]): Entry[] {
  const rank = new Map(before.map(({ id, copy }, i) => [`${copy} ${id}`, i]));
  const rankOf = ({ thing, copy }: Entry): number => rank.get(`${copy} ${ids[thing] ?? ''}`) ?? Infinity;
  return order
    .map((entry, i) => ({ entry, i }))
    .sort((a, b) => rankOf(a.entry) - rankOf(b.entry) || a.i - b.i)
    .map(({ entry }) => entry);
}

/**
 * Does a map turn by so much, and nothing else?
 * @returns to about a millionth; false for a map that mirrors or scales
 */
export function isTurn([a, b, c, d]: Matrix, deg: number): boolean {
  const angle = (deg * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return Math.abs(a - cos) + Math.abs(b - sin) + Math.abs(c + sin) + Math.abs(d - cos) < 1e-6;
}
