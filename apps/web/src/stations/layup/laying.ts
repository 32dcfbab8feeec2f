/** What is done to pieces on the material: which are chosen, moving and turning them, locking them, putting them back. Nothing moves on the drawing. */
import { compose, rotation, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { layUpOf, mirrorOf, setLayUp } from '@lorvek/model';
import { withPlaces, type Placement } from '@lorvek/model/lay-places';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { create } from 'zustand';
import { useSheets } from '../../document/sheets.ts';
import { asOne, dispatch, newId, useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { boxOfPieces, chosenPieces, keyOf, piecesOn, type Drag, type Piece } from './pieces.ts';

interface Laying {
  /** Keys of chosen pieces. */
  chosen: ReadonlySet<string>;
  drag: Drag | undefined;
}

export const useLaying = create<Laying>(() => ({ chosen: new Set(), drag: undefined }));

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

/** Is the material what has the keys? */
const isOnMaterial = (): boolean => {
  const { activeElement } = document;
  return activeElement instanceof HTMLElement && activeElement.dataset['drawing'] === 'layup';
};

/** The next piece, sheet after sheet; past the last one the key goes on to the next control. @returns whether there was one */
function nextPiece(backwards: boolean): boolean {
  const all = useSheets.getState().sheets.flatMap(piecesOn);
  const { chosen } = useLaying.getState();
  const at = all.findIndex(({ sheet, placement }) => chosen.has(keyOf(sheet, placement)));
  const next = all[at < 0 ? (backwards ? all.length - 1 : 0) : at + (backwards ? -1 : 1)];
  if (!next) return false;
  useView.setState({ film: next.sheet.layer.id });
  useLaying.setState({ chosen: new Set([keyOf(next.sheet, next.placement)]) });
  return true;
}

/** Each piece goes to the sheet before or after its own, where it lies on it; those of which there is none stay. */
export function toNextSheet(pieces: readonly Piece[], by: 1 | -1): boolean {
  const { sheets } = useSheets.getState();
  const has = ({ sheet, placement }: Piece): boolean =>
    sheets.some(({ layer, number }) => layer.id === sheet.layer.id && number === placement.sheet + by);
  const own = free(pieces).filter(has);
  if (own.length === 0) return false;
  return change(own, ({ placement }) => ({ ...placement, sheet: placement.sheet + by }));
}

/**
 * Keys of the station: Tab chooses the next piece, arrows move what is chosen, Page Down takes it to the next sheet, T turns it by
 * a quarter, K locks it, Delete puts it back. @returns whether it was one
 */
export function onLayUpKey(event: KeyboardEvent): boolean {
  const { sheets } = useSheets.getState();
  const { chosen } = useLaying.getState();
  const arrow = ARROWS[event.key];
  if (event.key === 'Tab') return isOnMaterial() && nextPiece(event.shiftKey);
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
    pagedown: () => toNextSheet(pieces, 1),
    pageup: () => toNextSheet(pieces, -1),
    delete: () => putBack(pieces),
    backspace: () => putBack(pieces),
  };
  const action = actions[event.key.toLowerCase()];
  action?.();
  return action !== undefined;
}
