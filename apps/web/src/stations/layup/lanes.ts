/** The rolls of a job as lanes below one another: where each lies on the Lay up drawing, and painting them. */
import { compose, translation, type Box, type Point } from '@lorvek/core/geometry';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { inItem, pathOf, viewMatrix } from '../../drawing/paint.ts';
import { contrast, paintWork } from '../../drawing/paint-sheet.ts';
import { boxOfPiece, keyOf, piecesOn, type Drag, type Piece } from './pieces.ts';
import { toScreen, type Size, type View } from '../../drawing/view.ts';

const BETWEEN_MM = 90;

export interface Lane {
  readonly sheet: SheetPlan;
  /** Lower edge of the roll on the Lay up drawing, mm. */
  readonly y: number;
  /** How much of the roll is shown, mm. */
  readonly lengthMm: number;
}

export const laneAt = (lanes: readonly Lane[], { y }: Point): Lane | undefined =>
  lanes.find((lane) => y >= lane.y - BETWEEN_MM / 3 && y <= lane.y + lane.sheet.material.widthMm + BETWEEN_MM / 3);

/** The top film's roll on top; every lane shows its work and some roll beyond, a cut sheet all of itself. */
export function lanesOf(sheets: readonly SheetPlan[]): Lane[] {
  const longest = Math.max(600, ...sheets.map((sheet) => sheet.usedLengthMm));
  let y = 0;
  return sheets.map((sheet) => {
    const lane = {
      sheet,
      y,
      lengthMm: sheet.layUp.sheetLengthMm ? sheet.material.lengthMm : Math.min(sheet.material.lengthMm, longest * 1.25),
    };
    y += sheet.material.widthMm + BETWEEN_MM;
    return lane;
  });
}

export function boxOfLanes(lanes: readonly Lane[]): Box {
  const last = lanes.at(-1);
  if (!last) return { minX: 0, minY: 0, maxX: 800, maxY: 610 };
  return { minX: 0, minY: 0, maxX: Math.max(...lanes.map((lane) => lane.lengthMm)), maxY: last.y + last.sheet.material.widthMm };
}

/** Liner paper under the film's own colour where there is no work. */
function paintRoll(context: CanvasRenderingContext2D, lane: Lane, view: View, marginMm: number, isActive: boolean): void {
  const { material, usedLengthMm, layer: film } = lane.sheet;
  const px = 1 / view.scale;
  context.fillStyle = film.hex;
  context.fillRect(0, 0, lane.lengthMm, material.widthMm);
  context.fillStyle = '#fdfbf6b0';
  context.fillRect(usedLengthMm, 0, Math.max(0, lane.lengthMm - usedLengthMm), material.widthMm);
  context.lineWidth = (isActive ? 2 : 1) * px;
  context.strokeStyle = isActive ? '#0d5c5f' : '#9b9382';
  context.strokeRect(0, 0, lane.lengthMm, material.widthMm);
  context.setLineDash([6 * px, 4 * px]);
  context.lineWidth = px;
  context.strokeStyle = contrast(film.hex, 0.55);
  context.strokeRect(marginMm, marginMm, Math.max(0, lane.lengthMm - 2 * marginMm), Math.max(0, material.widthMm - 2 * marginMm));
  context.setLineDash([]);
  if (usedLengthMm > 0) {
    context.beginPath();
    context.moveTo(usedLengthMm, -18 * px);
    context.lineTo(usedLengthMm, material.widthMm + 6 * px);
    context.strokeStyle = '#0d5c5f';
    context.lineWidth = 1.5 * px;
    context.stroke();
  }
}

export interface LanesPicture {
  readonly lanes: readonly Lane[];
  readonly active: string | undefined;
  readonly selection: ReadonlySet<string>;
  /** Keys of chosen pieces. */
  readonly chosen: ReadonlySet<string>;
  /** Pieces under way, and which of them lie on others or off the material. */
  readonly drag: (Drag & { readonly pieces: readonly Piece[]; readonly lit: readonly Box[] }) | undefined;
  readonly marginOf: (film: string) => number;
  readonly describe: (sheet: SheetPlan) => string;
}

export function paintLanes(context: CanvasRenderingContext2D, view: View, size: Size, picture: LanesPicture): void {
  context.fillStyle = '#e9e3d5';
  context.fillRect(0, 0, size.width, size.height);
  for (const lane of picture.lanes) {
    context.save();
    context.transform(...(viewMatrix(view) as [number, number, number, number, number, number]));
    inItem(context, translation(0, lane.y), () => {
      paintRoll(context, lane, view, picture.marginOf(lane.sheet.layer.id), lane.sheet.id === picture.active);
      paintWork(context, lane.sheet, view, picture.selection);
      paintChosen(context, lane.sheet, picture, 1 / view.scale);
      paintFound(context, lane.sheet, 1 / view.scale);
      if (picture.drag?.to.id === lane.sheet.id) paintDrag(context, picture.drag, 1 / view.scale);
    });
    context.restore();
  }
  paintLabels(context, view, picture);
}

const boxPath = (context: CanvasRenderingContext2D, { minX, minY, maxX, maxY }: Box): void =>
  context.strokeRect(minX, minY, maxX - minX, maxY - minY);

/** Chosen pieces framed; locked ones with a small square in their corner. */
function paintChosen(context: CanvasRenderingContext2D, sheet: SheetPlan, { chosen }: LanesPicture, px: number): void {
  for (const piece of piecesOn(sheet)) {
    const isChosen = chosen.has(keyOf(sheet, piece.placement));
    if (!isChosen && !piece.placement.locked) continue;
    const box = boxOfPiece(piece);
    context.strokeStyle = '#0d5c5f';
    context.fillStyle = '#0d5c5f';
    context.lineWidth = 2 * px;
    if (isChosen) boxPath(context, box);
    if (piece.placement.locked) context.fillRect(box.minX, box.maxY - 9 * px, 9 * px, 9 * px);
  }
}

const LIT = new Set(['lies-on-another', 'off-material']);

/** What lies on another piece or off the material. */
function paintFound(context: CanvasRenderingContext2D, { findings }: SheetPlan, px: number): void {
  context.strokeStyle = '#9c2f1d';
  context.fillStyle = '#9c2f1d30';
  context.lineWidth = 2 * px;
  for (const { code, box } of findings) {
    if (!box || !LIT.has(code)) continue;
    context.fillRect(box.minX, box.minY, box.maxX - box.minX, box.maxY - box.minY);
    boxPath(context, box);
  }
}

function paintDrag(context: CanvasRenderingContext2D, { dx, dy, pieces, lit }: NonNullable<LanesPicture['drag']>, px: number): void {
  context.lineWidth = 1.5 * px;
  for (const { part, placement } of pieces)
    inItem(context, compose(translation(dx, dy), placement.map), () => {
      context.strokeStyle = '#0d5c5f';
      context.fillStyle = '#0d5c5f22';
      for (const { outline } of part.sources) {
        const path = pathOf(outline);
        context.fill(path, 'nonzero');
        context.stroke(path);
      }
    });
  context.strokeStyle = '#9c2f1d';
  context.lineWidth = 2 * px;
  for (const box of lit) boxPath(context, box);
}

/** Names over the rolls, or beside them when the rolls lie too close together for that. */
function paintLabels(context: CanvasRenderingContext2D, view: View, picture: LanesPicture): void {
  const isTight = BETWEEN_MM * view.scale < 22;
  context.font = '600 12px Archivo, sans-serif';
  context.fillStyle = '#16202e';
  for (const lane of picture.lanes) {
    const { widthMm } = lane.sheet.material;
    const corner = toScreen(view, { x: isTight ? lane.lengthMm : 0, y: lane.y + (isTight ? widthMm / 2 : widthMm) });
    context.fillText(picture.describe(lane.sheet), Math.max(28, corner.x + (isTight ? 10 : 0)), corner.y + (isTight ? 4 : -8));
  }
}
