/** Pieces on the material as the Lay up station looks at them: where they lie, which is under the pointer, what a drag meets. Pure. */
import { boxesMeet, compose, isEmptyBox, mapOutline, translation, type Box, type Point } from '@lorvek/core/geometry';
import { lyingTogether } from '@lorvek/core/sheet';
import { boxOfPlaced, outlineOfPart, type LayPart, type Placement } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';

/** One copy of a part on a layer's material. */
export interface Piece {
  readonly sheet: SheetPlan;
  readonly placement: Placement;
  readonly part: LayPart;
}

export interface Drag {
  readonly dx: number;
  readonly dy: number;
  /** Sheet that the pieces would go to; they are drawn there. */
  readonly to: SheetPlan;
}

export const keyOf = (sheet: SheetPlan, { part, copy }: Placement): string => `${sheet.layer.id} ${copy} ${part}`;

export function piecesOn(sheet: SheetPlan): Piece[] {
  const parts = new Map(sheet.parts.map((part) => [part.id, part]));
  return sheet.placements.flatMap((placement) => {
    const part = parts.get(placement.part);
    return part ? [{ sheet, placement, part }] : [];
  });
}

/** Boxes of pieces, kept as long as the sheets are. */
const boxes = new WeakMap<Placement, Box>();
export function boxOfPiece({ part, placement }: Pick<Piece, 'part' | 'placement'>): Box {
  const known = boxes.get(placement);
  if (known) return known;
  const box = boxOfPlaced(part, placement.map);
  boxes.set(placement, box);
  return box;
}

export const chosenPieces = (sheets: readonly SheetPlan[], chosen: ReadonlySet<string>): Piece[] =>
  sheets.flatMap((sheet) => piecesOn(sheet).filter(({ placement }) => chosen.has(keyOf(sheet, placement))));

export function boxOfPieces(pieces: readonly Piece[]): Box | undefined {
  const all = pieces.map(boxOfPiece).filter((box) => !isEmptyBox(box));
  if (all.length === 0) return undefined;
  return {
    minX: Math.min(...all.map(({ minX }) => minX)),
    minY: Math.min(...all.map(({ minY }) => minY)),
    maxX: Math.max(...all.map(({ maxX }) => maxX)),
    maxY: Math.max(...all.map(({ maxY }) => maxY)),
  };
}

/** The piece under a place of its sheet: the smallest box that holds it. */
export function pieceAt(sheet: SheetPlan, { x, y }: Point, reach: number): Piece | undefined {
  const hit = piecesOn(sheet).filter((piece) => {
    const box = boxOfPiece(piece);
    return x >= box.minX - reach && x <= box.maxX + reach && y >= box.minY - reach && y <= box.maxY + reach;
  });
  const area = (piece: Piece): number => {
    const box = boxOfPiece(piece);
    return (box.maxX - box.minX) * (box.maxY - box.minY);
  };
  return hit.sort((a, b) => area(a) - area(b))[0];
}

const SNAP_PX = 7;

/** A way by which edges and middles of moved pieces meet the clear ground or other pieces. */
export function snapped(box: Box, by: Point, others: readonly Box[], clear: Box, scale: number): Point {
  const reach = SNAP_PX / scale;
  const nearest = (own: readonly number[], lines: readonly number[], way: number): number => {
    let [best, off] = [way, reach];
    for (const edge of own)
      for (const line of lines) {
        const distance = Math.abs(line - edge - way);
        if (distance < off) [best, off] = [line - edge, distance];
      }
    return best;
  };
  const near = others.filter((other) =>
    boxesMeet(
      { ...other, minX: other.minX - 200, maxX: other.maxX + 200, minY: other.minY - 200, maxY: other.maxY + 200 },
      shifted(box, by),
    ),
  );
  const xs = [clear.minX, clear.maxX, ...near.flatMap(({ minX, maxX }) => [minX, maxX])];
  const ys = [clear.minY, clear.maxY, (clear.minY + clear.maxY) / 2, ...near.flatMap(({ minY, maxY }) => [minY, maxY])];
  return {
    x: nearest([box.minX, box.maxX], xs, by.x),
    y: nearest([box.minY, box.maxY, (box.minY + box.maxY) / 2], ys, by.y),
  };
}

export const shifted = (box: Box, { x, y }: Point): Box => ({
  minX: box.minX + x,
  minY: box.minY + y,
  maxX: box.maxX + x,
  maxY: box.maxY + y,
});

const MOST_LIT = 30;

/** Of moved pieces and the others on a sheet, those that lie on one another; and moved ones that leave the material. */
export function litWhile(pieces: readonly Piece[], drag: Drag): Box[] {
  const keys = new Set(pieces.map(({ sheet, placement }) => keyOf(sheet, placement)));
  const others = piecesOn(drag.to).filter(({ sheet, placement }) => !keys.has(keyOf(sheet, placement)));
  const by = { x: drag.dx, y: drag.dy };
  const lit: Box[] = [];
  for (const piece of pieces.slice(0, MOST_LIT)) {
    const box = shifted(boxOfPiece(piece), by);
    const { widthMm, lengthMm } = drag.to.material;
    let isLit = box.minX < -0.01 || box.minY < -0.01 || box.maxY > widthMm + 0.01 || box.maxX > lengthMm + 0.01;
    const near = others.filter((other) => boxesMeet(boxOfPiece(other), box));
    if (!isLit && near.length > 0) {
      const own = mapOutline(compose(translation(by.x, by.y), piece.placement.map), outlineOfPart(piece.part));
      isLit = near.some((other) => lyingTogether([own, mapOutline(other.placement.map, outlineOfPart(other.part))]).length === 1);
    }
    if (isLit) lit.push(box);
  }
  return lit;
}
