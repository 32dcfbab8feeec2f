/**
 * Where the parts of a lay-up lie: as drawn, in a grid, or as a nest found it; copies that were moved by hand where they
 * were put. Places of one part are kept from where its own box begins, so that moving it on the drawing changes no sheet.
 */
import {
  bounds,
  outlineOfBox,
  compose,
  EMPTY_BOX,
  growBox,
  isEmptyBox,
  joinBoxes,
  joinOutlines,
  mapBox,
  mapOutline,
  nodeCount,
  rotation,
  translation,
  type Box,
  type Matrix,
  type Outline,
  mappedBounds,
} from '@lorvek/core/geometry';
import { gridFill, layUp, type GridResult, type LayUpProblem } from '@lorvek/core/sheet';
import type { Fill, Placed } from '../records/lay-up.ts';
import {
  clearOf,
  copiesOfPart,
  homeOf,
  mirrored,
  outlineOfPart,
  type Ground,
  type LayPart,
  type Placement,
  type LaidPanels,
  type SeriesGrid,
} from './lay-places.ts';
import { hashOf } from './sheet-code.ts';

/** Where parts lie on the material, and what their way of filling says of itself. */
export interface Filled {
  readonly placements: readonly Placement[];
  /** What a grid says of itself. */
  readonly grid?: GridResult;
  /** Copies side by side, of what lies as drawn. */
  readonly across?: number;
  /** Of a nest: what it would be found for now, and whether that is what it was found for. */
  readonly nest?: { readonly key: string; readonly isOld: boolean; readonly isFound: boolean };
  /** Of panels. */
  readonly panels?: LaidPanels;
  /** Of a series in a grid. */
  readonly series?: SeriesGrid;
  /** Copies that have no place. */
  readonly missing: readonly { readonly part: string; readonly copies: number }[];
}

/** Places kept by part, as full maps of copies. */
const keptPlaces = (placed: readonly Placed[] | undefined): Map<string, Placed> =>
  new Map((placed ?? []).map((one) => [`${one.copy} ${one.id}`, one]));

function withMoved(
  placements: readonly Placement[],
  moved: readonly Placed[] | undefined,
  homes: ReadonlyMap<string, Matrix>,
): Placement[] {
  const kept = keptPlaces(moved);
  return placements.map((placement) => {
    const own = kept.get(`${placement.copy} ${placement.part}`);
    const home = homes.get(placement.part);
    if (!own || !home) return placement;
    return { ...placement, sheet: own.sheet ?? 0, map: compose(own.map, home), locked: own.locked === true, moved: true };
  });
}

const lies = (part: string, copy: number, sheet: number, map: Matrix): Placement => ({
  part,
  copy,
  sheet,
  map,
  locked: false,
  moved: false,
});

/** The problem of laying copies of the whole as it is drawn. */
function problemOf(whole: LayPart, ground: Ground, fill: Extract<Fill, { kind: 'as-drawn' }>, copies: number): LayUpProblem {
  const { material, record, mirror, bandMm, leadMm, weedBoxMm = 0, weedsCopies, frame } = ground;
  return {
    outlines: [...whole.sources.map(({ outline }) => outline), ...frame],
    materialWidthMm: material.widthMm,
    materialLengthMm: material.lengthMm,
    // a box round everything needs its room at the edges alone
    marginMm: record.marginMm + (weedsCopies ? 0 : weedBoxMm),
    turnDeg: record.turnDeg,
    mirror,
    copies,
    gapMm: fill.gapMm,
    weedBoxMm: weedsCopies ? ground.weedBoxMm : undefined,
    alongMm: fill.alongMm,
    acrossMm: fill.acrossMm,
    bandMm,
    leadMm,
  };
}

/** As many copies as a sheet of a length of its own takes, one at least. */
function copiesASheet(whole: LayPart, ground: Ground, fill: Extract<Fill, { kind: 'as-drawn' }>): number {
  if (!ground.record.sheetLengthMm) return fill.copies;
  let [low, high] = [1, fill.copies];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    const { overLengthMm } = layUp(problemOf(whole, ground, fill, middle));
    if (overLengthMm <= ground.record.marginMm) low = middle;
    else high = middle - 1;
  }
  return low;
}

function asDrawn(whole: LayPart, ground: Ground, fill: Extract<Fill, { kind: 'as-drawn' }>): Filled {
  const perSheet = copiesASheet(whole, ground, fill);
  const placements: Placement[] = [];
  let across = 0;
  for (let sheet = 0; placements.length < fill.copies; sheet++) {
    const laid = layUp(problemOf(whole, ground, fill, Math.min(perSheet, fill.copies - placements.length)));
    if (laid.placements.length === 0) break;
    across ||= laid.across;
    placements.push(...laid.placements.map((map, i) => lies(whole.id, sheet * perSheet + i, sheet, map)));
  }
  const homes = new Map([[whole.id, homeOf(outlineOfPart(whole), ground.mirror)]]);
  return { placements: withMoved(placements, fill.moved, homes), across, missing: [] };
}

/** Straight rows keep the weed boxes of their copies apart; pushed together, boxes that meet become one. */
const isBoxed = ({ weedsCopies }: Ground, rows: string): boolean => weedsCopies && rows === 'straight';

/** The outline that grids are made of: turned and mirrored, with its weed box where rows are straight. */
function gridOutline(whole: LayPart, ground: Ground, rows: string): { outline: Outline; around: Matrix } {
  const around = compose(rotation(ground.record.turnDeg), mirrored(ground.mirror));
  const outline = mapOutline(around, joinOutlines([outlineOfPart(whole), ...ground.frame]));
  const box = bounds(outline);
  if (!isBoxed(ground, rows) || isEmptyBox(box)) return { outline, around };
  const grown = growBox(box, ground.weedBoxMm ?? 0);
  return { outline: outlineOfBox(grown), around };
}

function inGrid(whole: LayPart, ground: Ground, fill: Extract<Fill, { kind: 'grid' }>): Filled {
  const { outline, around } = gridOutline(whole, ground, fill.rows);
  // the outline of straight rows holds its weed box already
  const clear = clearOf(isBoxed(ground, fill.rows) ? { ...ground, weedBoxMm: undefined } : ground);
  if (!(clear.widthMm > 0 && clear.lengthMm > 0)) return { placements: [], missing: [{ part: whole.id, copies: fill.copies ?? 1 }] };
  const grid = gridFill({ outline, ...clear, gapMm: fill.gapMm, copies: fill.copies, rows: fill.rows });
  const placements = grid.placed.map(({ copy, sheet, map }) =>
    lies(whole.id, copy, sheet, compose(compose(translation(clear.x, clear.y), map), around)),
  );
  const missing = grid.perSheet === 0 ? [{ part: whole.id, copies: fill.copies ?? 1 }] : [];
  const homes = new Map([[whole.id, homeOf(outlineOfPart(whole), ground.mirror)]]);
  return { placements: withMoved(placements, fill.moved, homes), grid, missing };
}

/** Coordinates are told apart by hundredths of a mm; what is drawn in round numbers must not lie where rounding turns. */
const ASIDE = 0.31416;

/** The nodes and handles of parts as seen from where their boxes begin, in short (FNV-1a): a part that is moved stays the same. */
function shapesInShort(parts: readonly LayPart[]): string {
  let hash = 0x811c9dc5;
  for (const part of parts) {
    const outline = outlineOfPart(part);
    const { minX, minY } = bounds(outline);
    for (const { spans } of outline.contours)
      for (const span of spans)
        for (let i = 0; i < span.length; i++) {
          const mm = (span[i] as number) - (i % 2 === 0 ? minX : minY);
          hash = Math.imul(hash ^ Math.round(100 * mm + ASIDE), 0x01000193);
        }
  }
  return (hash >>> 0).toString(36);
}

type NestFill = Extract<Fill, { kind: 'nest' }>;

/** The material and the rules of a nest. */
function rulesOf(ground: Ground, fill: NestFill): (string | number | boolean)[] {
  const { widthMm } = clearOf(ground);
  const { sheetLengthMm, grain } = ground.record;
  return [widthMm, sheetLengthMm ?? '', fill.gapMm, fill.turnStepDeg, fill.intoHoles, fill.fillSheet ?? false, ground.mirror, grain ?? ''];
}

const inShort = (list: readonly unknown[]): string => hashOf(list.join('|')).toString(36);

/**
 * What a nest is found for, in short: the shapes of its parts, how many, the material and the rules.
 * @returns another one as soon as the nest would have to be found again
 * @complexity nodes of the parts
 */
function nestKey(parts: readonly LayPart[], ground: Ground, fill: NestFill): string {
  const counts = parts.map(({ id }) => `${id} ${copiesOfPart(fill, id)}`);
  return `${inShort([...counts, ...rulesOf(ground, fill)])}.${shapesInShort(parts)}`;
}

/** The same as it was told by the first version, whose keys have no point: by the sizes of the parts, not by their shapes. */
function formerNestKey(parts: readonly LayPart[], ground: Ground, fill: NestFill): string {
  const sizes = parts.map((part) => {
    const outline = outlineOfPart(part);
    const { minX, minY, maxX, maxY } = bounds(outline);
    return `${part.id} ${(maxX - minX).toFixed(2)} ${(maxY - minY).toFixed(2)} ${nodeCount(outline)} ${copiesOfPart(fill, part.id)}`;
  });
  return inShort([...sizes, ...rulesOf(ground, fill)]);
}

function nested(parts: readonly LayPart[], whole: LayPart, ground: Ground, fill: NestFill): Filled {
  const key = nestKey(parts, ground, fill);
  const homes = new Map(parts.map((part) => [part.id, homeOf(outlineOfPart(part), ground.mirror)]));
  const { found } = fill;
  if (!found) {
    // nothing was found yet: it lies as it is drawn
    const { placements } = asDrawn(whole, ground, { kind: 'as-drawn', copies: 1, gapMm: fill.gapMm, alongMm: 0, acrossMm: 0 });
    const map = placements[0]?.map;
    const more = parts.flatMap(({ id }) => (copiesOfPart(fill, id) > 1 ? [{ part: id, copies: copiesOfPart(fill, id) - 1 }] : []));
    return {
      placements: map ? parts.flatMap(({ id }) => (copiesOfPart(fill, id) > 0 ? [lies(id, 0, 0, map)] : [])) : [],
      nest: { key, isOld: false, isFound: false },
      missing: more,
    };
  }
  const placements = found.placed.flatMap((one): Placement[] => {
    const home = homes.get(one.id);
    const isWanted = fill.fillSheet === true ? copiesOfPart(fill, one.id) > 0 : one.copy < copiesOfPart(fill, one.id);
    if (!home || !isWanted) return [];
    return [{ part: one.id, copy: one.copy, sheet: one.sheet ?? 0, map: compose(one.map, home), locked: one.locked === true, moved: true }];
  });
  const count = new Map<string, number>();
  for (const { part } of placements) count.set(part, (count.get(part) ?? 0) + 1);
  const missing = parts.flatMap(({ id }) => {
    const copies = (fill.fillSheet ? Math.min(1, copiesOfPart(fill, id)) : copiesOfPart(fill, id)) - (count.get(id) ?? 0);
    return copies > 0 ? [{ part: id, copies }] : [];
  });
  const isOld = found.key !== (found.key.includes('.') ? key : formerNestKey(parts, ground, fill));
  return { placements, nest: { key, isOld, isFound: true }, missing };
}

/** Pieces of a series in cells that hold the largest of them; each lies in its cell as it lies on the drawing. */
function rowsInGrid(parts: readonly LayPart[], ground: Ground, fill: Exclude<Fill, { kind: 'nest' | 'panels' }>): Filled {
  const around = compose(rotation(ground.record.turnDeg), mirrored(ground.mirror));
  const boxes = parts.map((part) => mappedBounds(around, joinOutlines([outlineOfPart(part), ...ground.frame])));
  const most = boxes.filter((box) => !isEmptyBox(box)).reduce(joinBoxes, EMPTY_BOX);
  const clear = clearOf(ground.weedsCopies ? { ...ground, weedBoxMm: undefined } : ground);
  const none = (): Filled => ({ placements: [], missing: parts.map(({ id }) => ({ part: id, copies: 1 })) });
  if (isEmptyBox(most) || !(clear.widthMm > 0 && clear.lengthMm > 0)) return none();
  const cell = ground.weedsCopies ? growBox(most, ground.weedBoxMm ?? 0) : most;
  const [width, height] = [cell.maxX - cell.minX, cell.maxY - cell.minY];
  const outline = outlineOfBox(cell);
  const rows = fill.kind === 'grid' && fill.rows === 'half' ? 'half' : 'straight';
  const grid = gridFill({ outline, ...clear, gapMm: fill.gapMm, copies: parts.length, rows });
  if (grid.perSheet === 0) return none();
  const placements = grid.placed.flatMap(({ copy, sheet, map }): Placement[] => {
    const part = parts[copy];
    return part ? [lies(part.id, 0, sheet, compose(compose(translation(clear.x, clear.y), map), around))] : [];
  });
  const homes = new Map(parts.map((part) => [part.id, homeOf(outlineOfPart(part), ground.mirror)]));
  const edgesMm = ground.material.lengthMm - clear.lengthMm;
  return {
    placements: withMoved(placements, fill.moved, homes),
    grid,
    series: {
      perSheet: grid.perSheet,
      perRow: Math.max(1, Math.floor((clear.widthMm + fill.gapMm + 1e-6) / (height + fill.gapMm))),
      pitchMm: width + fill.gapMm,
      gapMm: fill.gapMm,
      edgesMm,
    },
    missing: parts.slice(grid.placed.length).map(({ id }) => ({ part: id, copies: 1 })),
  };
}

/** Lays the parts of a layer's work. @param parts what moves as one when nested @param whole all of it as one @param isSeries a part a row */
export function fillSheets(parts: readonly LayPart[], whole: LayPart, ground: Ground, isSeries = false): Filled {
  const { fill } = ground.record;
  if (isSeries && (fill.kind === 'as-drawn' || fill.kind === 'grid')) return rowsInGrid(parts, ground, fill);
  switch (fill.kind) {
    case 'as-drawn':
      return asDrawn(whole, ground, fill);
    case 'grid':
      return inGrid(whole, ground, fill);
    case 'nest':
      return nested(parts, whole, ground, fill);
    case 'panels':
      // divided before, each a part with its place
      return { placements: [], missing: [] };
  }
}

/** Box of a frame under a map. */
export const boxOfFrame = (frame: readonly Outline[], map: Matrix): Box =>
  frame.reduce((box, outline) => joinBoxes(box, mapBox(map, bounds(outline))), EMPTY_BOX);
