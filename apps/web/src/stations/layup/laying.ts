/** Pieces on the material: which are chosen, moving and turning them, locking them, putting them back. Nothing moves on the drawing. */
import {
  boxesMeet,
  compose,
  isEmptyBox,
  mapOutline,
  rotation,
  translation,
  type Box,
  type Matrix,
  type Point,
} from '@lorvek/core/geometry';
import { lyingTogether } from '@lorvek/core/sheet';
import { layUpOf, mirrorOf, setLayUp } from '@lorvek/model';
import { boxOfPlaced, outlineOfPart, withPlaces, type LayPart, type Placement } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { create } from 'zustand';
import { useSheets } from '../../document/sheets.ts';
import { asOne, dispatch, newId, useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';

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

interface Laying {
  /** Keys of chosen pieces. */
  chosen: ReadonlySet<string>;
  drag: Drag | undefined;
}

export const useLaying = create<Laying>(() => ({ chosen: new Set(), drag: undefined }));

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

/** Changes the places of pieces, as one step for all their layers. @param back they go where the fill puts them */
function change(pieces: readonly Piece[], to: (piece: Piece) => Placement, { group = newId('lay'), back = false } = {}): boolean {
  const { sheets } = useSheets.getState();
  const { drawing } = useDocument.getState();
  const layers = [...new Set(pieces.map(({ sheet }) => sheet.layer.id))];
  const manner = { origin: back ? 'sheet.put-back' : 'sheet.place', group };
  return asOne(manner, () => {
    for (const film of layers) {
      const own = sheets.filter(({ layer }) => layer.id === film);
      const [first] = own;
      if (!first) continue;
      const record = layUpOf(drawing, film);
      const changed = pieces.filter(({ sheet }) => sheet.layer.id === film).map(to);
      const fill = withPlaces(record.fill, own, mirrorOf(record, first.layer).mirror, changed, back);
      dispatch(setLayUp, { film, fields: { fill } }, manner);
    }
  });
}

const free = (pieces: readonly Piece[]): Piece[] => pieces.filter(({ placement }) => !placement.locked);

const moved = (placement: Placement, map: Matrix, sheet = placement.sheet): Placement => ({
  ...placement,
  sheet,
  map: compose(map, placement.map),
});

export function movePieces(pieces: readonly Piece[], dx: number, dy: number, to?: SheetPlan, group?: string): boolean {
  const own = free(pieces).filter(({ sheet }) => !to || sheet.layer.id === to.layer.id);
  if (own.length === 0) return false;
  return change(own, ({ placement }) => moved(placement, translation(dx, dy), to?.number), group ? { group } : {});
}

/** Turns pieces about the middle of them all. */
export function turnPieces(pieces: readonly Piece[], deg: number): boolean {
  const own = free(pieces);
  const box = boxOfPieces(own);
  if (!box) return false;
  const [x, y] = [(box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2];
  const about = compose(translation(x, y), compose(rotation(deg), translation(-x, -y)));
  return change(own, ({ placement }) => moved(placement, about));
}

export const lockPieces = (pieces: readonly Piece[], locked: boolean): boolean =>
  change(pieces, ({ placement }) => ({ ...placement, locked }));

export const putBack = (pieces: readonly Piece[]): boolean => change(pieces, ({ placement }) => placement, { back: true });

/** Moves all pieces to the origin of the clear ground, or into the middle across it. */
export function alignPieces(pieces: readonly Piece[], to: 'origin' | 'centre', clear: { x: number; y: number; widthMm: number }): boolean {
  const box = boxOfPieces(free(pieces));
  if (!box) return false;
  if (to === 'origin') return movePieces(pieces, clear.x - box.minX, clear.y - box.minY);
  return movePieces(pieces, 0, clear.y + clear.widthMm / 2 - (box.minY + box.maxY) / 2);
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

const ARROWS: Record<string, Point | undefined> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: 1 },
  ArrowDown: { x: 0, y: -1 },
};

class Nudges {
  private group = '';
  private at = 0;

  /** Presses that follow one another are one step of the history. */
  next(time: number): string {
    if (time - this.at > 800) this.group = newId('nudge');
    this.at = time;
    return this.group;
  }
}
const nudges = new Nudges();

/** Keys of the station: arrows move what is chosen, T turns it by a quarter, K locks it, Delete puts it back. @returns whether it was one */
export function onLayUpKey(event: KeyboardEvent): boolean {
  const { sheets } = useSheets.getState();
  const { chosen } = useLaying.getState();
  const arrow = ARROWS[event.key];
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'a') {
    useLaying.setState({ chosen: new Set(sheets.flatMap((sheet) => sheet.placements.map((placement) => keyOf(sheet, placement)))) });
    return true;
  }
  if (event.ctrlKey || event.metaKey || chosen.size === 0) return false;
  const pieces = chosenPieces(sheets, chosen);
  if (arrow) {
    const step = useView.getState().stepMm * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
    movePieces(pieces, arrow.x * step, arrow.y * step, undefined, nudges.next(event.timeStamp));
    return true;
  }
  const actions: Record<string, () => void> = {
    escape: () => useLaying.setState({ chosen: new Set() }),
    t: () => turnPieces(pieces, event.shiftKey ? -90 : 90),
    k: () =>
      lockPieces(
        pieces,
        pieces.some(({ placement }) => !placement.locked),
      ),
    delete: () => putBack(pieces),
    backspace: () => putBack(pieces),
  };
  const action = actions[event.key.toLowerCase()];
  action?.();
  return action !== undefined;
}
