/**
 * Pieces on the material put right: brought onto it, off one another, back along the grain, and those without a place given
 * one. All of it moves pieces as little as it can, keeps locked ones, and says only which places change: the lay-up keeps them
 * (`lay-places.ts`). What is put elsewhere goes behind the work. Units mm, degrees.
 */
import {
  compose,
  EMPTY_BOX,
  isEmptyBox,
  joinBoxes,
  mapOutline,
  rotation,
  translation,
  type Box,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import { boxOfPlaced, clearOf, homeOf, outlineOfPart, turnOf, type Ground, type LayPart, type Placement } from './lay-places.ts';
import { pairsThatMeet, sharedBy } from './lying-on.ts';

/** A sheet as far as pieces on it are put right. */
export interface RightedSheet {
  readonly number: number;
  readonly parts: readonly LayPart[];
  readonly placements: readonly Placement[];
  readonly ground: Ground;
}

/** Less is rounding, mm. */
const HAIR_MM = 0.005;

const boxes = ({ parts, placements }: RightedSheet): Box[] => {
  const own = new Map(parts.map((part) => [part.id, part]));
  return placements.map(({ part, map }) => {
    const found = own.get(part);
    return found ? boxOfPlaced(found, map) : EMPTY_BOX;
  });
};

const shifted = (placement: Placement, dx: number, dy: number): Placement => ({
  ...placement,
  map: compose(translation(dx, dy), placement.map),
  moved: true,
});

/** The shift by which a stretch lies within another; undefined when it is longer. */
function into(min: number, max: number, from: number, length: number): number | undefined {
  if (max - min > length + HAIR_MM) return undefined;
  if (min < from - HAIR_MM) return from - min;
  return max > from + length + HAIR_MM ? from + length - max : 0;
}

function shiftInto({ minX, minY, maxX, maxY }: Box, ground: Ground): readonly [number, number] | undefined {
  const { x, y, widthMm, lengthMm } = clearOf(ground);
  const [dx, dy] = [into(minX, maxX, x, lengthMm), into(minY, maxY, y, widthMm)];
  return dx === undefined || dy === undefined ? undefined : [dx, dy];
}

/** The way of each piece into the clear ground; undefined: it is locked, or too large. */
const waysInto = (sheet: RightedSheet, lie: readonly Box[]): (readonly [number, number] | undefined)[] =>
  sheet.placements.map(({ locked }, i) => (locked ? undefined : shiftInto(lie[i] as Box, sheet.ground)));

/** Pieces that reach out of the clear ground, locked ones aside. */
export function offGround(sheet: RightedSheet): Placement[] {
  const ways = waysInto(sheet, boxes(sheet));
  return sheet.placements.filter(({ locked }, i) => !locked && (ways[i]?.some((mm) => mm !== 0) ?? true));
}

/**
 * Pieces brought into the clear ground: those that are off it, where they do not come to lie on others there; else all together
 * as they lie, where the whole is small enough; else each by itself.
 * @param oneByOne may they lie on others, to be taken apart then?
 * @returns those that change; none when nothing is off it, or nothing can be done
 */
export function broughtOn(sheet: RightedSheet, oneByOne: boolean): Placement[] {
  const lie = boxes(sheet);
  const off = new Set(offGround(sheet));
  if (off.size === 0) return [];
  const ways = waysInto(sheet, lie);
  const singly = sheet.placements.flatMap((placement, i) => {
    const way = ways[i];
    return way && off.has(placement) ? [shifted(placement, ...way)] : [];
  });
  if (singly.length === off.size && !liesOnOthers(sheet, singly)) return singly;
  const whole = lie.filter((box) => !isEmptyBox(box)).reduce(joinBoxes, EMPTY_BOX);
  const isFree = sheet.placements.every(({ locked }) => !locked);
  const together = isFree ? shiftInto(whole, sheet.ground) : undefined;
  if (together) return sheet.placements.map((placement) => shifted(placement, ...together));
  return oneByOne ? singly : [];
}

/** Outlines where pieces lie. */
function lyingOf(parts: readonly LayPart[], placements: readonly Placement[]): Outline[] {
  const own = new Map(parts.map((part) => [part.id, part]));
  return placements.map(({ part, map }) => {
    const found = own.get(part);
    return found ? mapOutline(map, outlineOfPart(found)) : { contours: [] };
  });
}

const keyOf = ({ part, copy }: Placement): string => `${copy} ${part}`;

/** Would any of these lie on another piece where it is taken? */
function liesOnOthers({ parts, placements }: RightedSheet, changed: readonly Placement[]): boolean {
  const going = new Set(changed.map(keyOf));
  const after = [...changed, ...placements.filter((placement) => !going.has(keyOf(placement)))];
  const lie = lyingOf(parts, after);
  return pairsThatMeet(lie).some(
    ([i, j]) => Math.min(i, j) < changed.length && sharedBy(lie[i] as Outline, lie[j] as Outline) !== undefined,
  );
}

/** Behind everything that lies on a sheet, piece after piece. */
class Behind {
  private at: number;
  private readonly y: number;

  constructor(
    sheet: RightedSheet,
    private readonly gapMm: number,
  ) {
    const { x, y } = clearOf(sheet.ground);
    this.y = y;
    const ends = boxes(sheet).flatMap((box) => (isEmptyBox(box) ? [] : [box.maxX + gapMm]));
    this.at = Math.max(x, ...ends);
  }

  /** The shift of a box to there. */
  shiftOf({ minX, minY, maxX }: Box): readonly [number, number] {
    const by = [this.at - minX, this.y - minY] as const;
    this.at += maxX - minX + this.gapMm;
    return by;
  }
}

/**
 * Pieces that lie on others, taken behind the work: of two the one that is not locked, else the later one.
 * @returns those that change
 */
export function takenApart(sheet: RightedSheet, gapMm: number): Placement[] {
  const { parts, placements } = sheet;
  const lie = lyingOf(parts, placements);
  const going = new Set<number>();
  for (const [i, j] of pairsThatMeet(lie)) {
    if (going.has(i) || going.has(j) || !sharedBy(lie[i] as Outline, lie[j] as Outline)) continue;
    const [first, second] = [placements[i], placements[j]];
    if (second?.locked !== true) going.add(j);
    else if (first?.locked !== true) going.add(i);
  }
  const behind = new Behind(sheet, gapMm);
  const all = boxes(sheet);
  return [...going]
    .sort((a, b) => a - b)
    .flatMap((i) => {
      const placement = placements[i];
      return placement ? [shifted(placement, ...behind.shiftOf(all[i] as Box))] : [];
    });
}

/**
 * Pieces that are turned against the grain, turned back about their middles.
 * @param isAllowed a turn, degrees from 0 up to 360
 */
export function turnedBack(sheet: RightedSheet, isAllowed: (deg: number) => boolean): Placement[] {
  const all = boxes(sheet);
  return sheet.placements.flatMap((placement, i) => {
    const deg = turnOf(placement.map);
    const { minX, minY, maxX, maxY } = all[i] as Box;
    if (placement.locked || isAllowed(deg) || !(maxX >= minX)) return [];
    const [x, y] = [(minX + maxX) / 2, (minY + maxY) / 2];
    const back: Matrix = compose(translation(x, y), compose(rotation(-deg), translation(-x, -y)));
    return [{ ...placement, map: compose(back, placement.map), moved: true }];
  });
}

/**
 * Places behind the work of the last sheet for copies that have none.
 * @param missing how many copies of which parts
 * @returns their places; what is longer or wider than what is left has none
 */
export function placesFor(
  sheets: readonly RightedSheet[],
  missing: readonly { readonly part: string; readonly copies: number }[],
  gapMm: number,
): Placement[] {
  const sheet = sheets.at(-1);
  if (!sheet) return [];
  const { ground, parts } = sheet;
  const clear = clearOf(ground);
  const taken = new Set(sheets.flatMap(({ placements }) => placements.map(keyOf)));
  const behind = new Behind(sheet, gapMm);
  return missing.flatMap(({ part, copies }): Placement[] => {
    const own = parts.find(({ id }) => id === part);
    if (!own) return [];
    const home = homeOf(outlineOfPart(own), ground.mirror);
    const box = boxOfPlaced(own, home);
    const fits = box.maxY - box.minY <= clear.widthMm + HAIR_MM;
    const out: Placement[] = [];
    for (let copy = 0; fits && out.length < copies; copy++) {
      if (taken.has(`${copy} ${part}`)) continue;
      const [dx, dy] = behind.shiftOf(box);
      if (box.maxX + dx > clear.x + clear.lengthMm + HAIR_MM) break;
      out.push({ part, copy, sheet: sheet.number, map: compose(translation(dx, dy), home), locked: false, moved: true });
    }
    return out;
  });
}
