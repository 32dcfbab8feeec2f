/**
 * The rolls of a job as lanes below one another, several sheets of one beside one another: where each lies on the Lay up
 * drawing, and painting them.
 */
import { compose, translation, type Box, type Point } from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { inItem, pathOf, viewMatrix } from '../../drawing/paint.ts';
import { contrast, paintWork } from '../../drawing/paint-sheet.ts';
import { boxOfPiece, keyOf, piecesOn, type Drag, type Piece } from './pieces.ts';
import { toScreen, type Size, type View } from '../../drawing/view.ts';

const BETWEEN_MM = 90;
/** Several sheets of one film or print fill about such a share of width to height: that of the drawing. */
const WIDE = 1.4;

export interface Lane {
  readonly sheet: SheetPlan;
  /** Where the roll begins on the Lay up drawing, and its lower edge, mm. */
  readonly x: number;
  readonly y: number;
  /** How much of the roll is shown, mm. */
  readonly lengthMm: number;
}

const isAmong = ({ sheet }: Lane): boolean => sheet.of > 1;

export const laneAt = (lanes: readonly Lane[], { x, y }: Point): Lane | undefined =>
  lanes.find((lane) => {
    const near = BETWEEN_MM / 3;
    const isBeside = isAmong(lane) && (x < lane.x - near || x > lane.x + lane.lengthMm + near);
    return !isBeside && y >= lane.y - near && y <= lane.y + lane.sheet.material.widthMm + near;
  });

/** Sheets of one film or print that come after one another. */
function banksOf(sheets: readonly SheetPlan[]): SheetPlan[][] {
  const banks: SheetPlan[][] = [];
  for (const sheet of sheets) {
    const bank = banks.at(-1);
    if (bank && bank[0]?.layer.id === sheet.layer.id) bank.push(sheet);
    else banks.push([sheet]);
  }
  return banks;
}

/**
 * The top film's roll on top; every lane shows its work and some roll beyond, a cut sheet all of itself. Several sheets of one
 * film lie beside one another in rows, the first on top.
 */
export function lanesOf(sheets: readonly SheetPlan[]): Lane[] {
  const longest = Math.max(600, ...sheets.map((sheet) => sheet.usedLengthMm));
  const lengthOf = ({ layUp, material }: SheetPlan): number =>
    layUp.sheetLengthMm ? material.lengthMm : Math.min(material.lengthMm, longest * 1.25);
  let y = 0;
  return banksOf(sheets).flatMap((bank) => {
    const stepX = Math.max(...bank.map(lengthOf)) + BETWEEN_MM;
    const stepY = Math.max(...bank.map(({ material }) => material.widthMm)) + BETWEEN_MM;
    const columns = Math.min(bank.length, Math.max(1, Math.round(Math.sqrt((bank.length * stepY * WIDE) / stepX))));
    const rows = Math.ceil(bank.length / columns);
    const below = y;
    y += rows * stepY;
    return bank.map((sheet, i) => ({
      sheet,
      x: (i % columns) * stepX,
      y: below + (rows - 1 - Math.floor(i / columns)) * stepY,
      lengthMm: lengthOf(sheet),
    }));
  });
}

export function boxOfLanes(lanes: readonly Lane[]): Box {
  if (lanes.length === 0) return { minX: 0, minY: 0, maxX: 800, maxY: 610 };
  return {
    minX: 0,
    minY: 0,
    maxX: Math.max(...lanes.map((lane) => lane.x + lane.lengthMm)),
    maxY: Math.max(...lanes.map((lane) => lane.y + lane.sheet.material.widthMm)),
  };
}

/** What a roll is called over it: of several sheets, all of them at once. */
export const describeLane = ({ layer, material, usedLengthMm, of }: SheetPlan, isMirrored: boolean, unit: LengthUnit): string =>
  [
    `${layer.series} ${layer.name}`,
    ...(of > 1 ? [`${of} sheets`] : []),
    `${describeLength(material.widthMm, unit)} wide`,
    ...(of > 1 ? [] : [`${describeLength(Math.round(10 * usedLengthMm) / 10, unit)} used`]),
    ...(isMirrored ? ['mirrored'] : []),
  ].join('  ·  ');

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
  /** Of what was fetched: pictures come later than the work. */
  readonly version: number;
  readonly marginOf: (film: string) => number;
  /** Of a sheet, or of all those of its film when they are several. */
  readonly describe: (sheet: SheetPlan) => string;
}

/** What is drawn beyond a lane: its label, the line where its work ends, px. */
const AROUND_PX = 40;

function isInView({ x, y, lengthMm, sheet }: Lane, view: View, { width, height }: Size): boolean {
  const [from, to] = [toScreen(view, { x, y: y + sheet.material.widthMm }), toScreen(view, { x: x + lengthMm, y })];
  return from.x < width + AROUND_PX && to.x > -AROUND_PX && from.y < height + AROUND_PX && to.y > -AROUND_PX;
}

/** The work of a sheet as pixels, as it was at some scale. */
interface Kept {
  readonly canvas: HTMLCanvasElement;
  readonly scale: number;
  readonly selection: ReadonlySet<string>;
  readonly version: number;
}
const kept = new WeakMap<SheetPlan, Kept>();
/** Of more than so many sheets those that are no longer than this on the screen are kept as pixels: all are seen at once. */
const MANY_SHEETS = 24;
const MOST_KEPT_PX = 300;

/** At the next power of two: what is kept serves all scales up to there. */
function keptWork(lane: Lane, scale: number, { selection, version }: LanesPicture): Kept {
  const { sheet } = lane;
  const next = 2 ** Math.ceil(Math.log2(scale * (globalThis.devicePixelRatio || 1)));
  const known = kept.get(sheet);
  if (known?.scale === next && known.selection === selection && known.version === version) return known;
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.ceil(lane.lengthMm * next));
  canvas.height = Math.max(1, Math.ceil(sheet.material.widthMm * next));
  const context = canvas.getContext('2d');
  if (context) {
    context.setTransform(next, 0, 0, -next, 0, sheet.material.widthMm * next);
    paintWork(context, sheet, { scale: next }, selection);
  }
  const now = { canvas, scale: next, selection, version };
  kept.set(sheet, now);
  return now;
}

function paintWorkOf(context: CanvasRenderingContext2D, lane: Lane, view: View, picture: LanesPicture): void {
  const { widthMm } = lane.sheet.material;
  if (lane.sheet.of <= MANY_SHEETS || Math.max(lane.lengthMm, widthMm) * view.scale > MOST_KEPT_PX)
    return paintWork(context, lane.sheet, view, picture.selection);
  const { canvas, scale } = keptWork(lane, view.scale, picture);
  context.save();
  context.transform(1, 0, 0, -1, 0, widthMm);
  context.drawImage(canvas, 0, 0, canvas.width / scale, canvas.height / scale);
  context.restore();
}

export function paintLanes(context: CanvasRenderingContext2D, view: View, size: Size, picture: LanesPicture): void {
  context.fillStyle = '#e9e3d5';
  context.fillRect(0, 0, size.width, size.height);
  for (const lane of picture.lanes.filter((one) => isInView(one, view, size))) {
    context.save();
    context.transform(...(viewMatrix(view) as [number, number, number, number, number, number]));
    inItem(context, translation(lane.x, lane.y), () => {
      paintRoll(context, lane, view, picture.marginOf(lane.sheet.layer.id), lane.sheet.id === picture.active);
      paintWorkOf(context, lane, view, picture);
      paintChosen(context, lane.sheet, picture, 1 / view.scale);
      paintFound(context, lane.sheet, 1 / view.scale);
      if (picture.drag?.to.id === lane.sheet.id) paintDrag(context, picture.drag, 1 / view.scale);
    });
    context.restore();
  }
  paintLabels(context, view, size, picture);
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

const INK = '#16202e';
/** Room that a label takes, px. */
const LABEL_PX = { high: 16, narrow: 18 };

/** Beside the ruler, px. */
const LEFTMOST_PX = 28;

interface LabelGround {
  readonly view: View;
  readonly size: Size;
  /** Do the rolls lie too close together for names between them? */
  readonly isTight: boolean;
}

/** Words that are read on whatever lies below them. */
function paintWords(context: CanvasRenderingContext2D, text: string, x: number, y: number): void {
  context.fillStyle = '#f6f1e8d8';
  context.fillRect(x - 3, y - 12, context.measureText(text).width + 6, LABEL_PX.high);
  context.fillStyle = INK;
  context.fillText(text, x, y);
}

/**
 * Where the name of a roll stands: over it; beside it when the rolls lie too close together for that; on it when that would be
 * out of sight.
 * @param widthPx of the name
 */
export function labelAt(lane: Lane, { view, size, isTight }: LabelGround, widthPx: number): Point & { readonly isOnWork: boolean } {
  const { x, y, lengthMm, sheet } = lane;
  const top = toScreen(view, { x, y: y + sheet.material.widthMm });
  if (!isTight) return { x: Math.max(LEFTMOST_PX, top.x), y: top.y - 8, isOnWork: false };
  const end = toScreen(view, { x: x + lengthMm, y: y + sheet.material.widthMm / 2 });
  const beside = Math.max(LEFTMOST_PX, end.x + 10);
  const isOnWork = beside + widthPx > size.width;
  return { x: isOnWork ? Math.max(LEFTMOST_PX, top.x + 5) : beside, y: end.y + 4, isOnWork };
}

/** Names of the rolls; of several sheets one name and their numbers. */
function paintLabels(context: CanvasRenderingContext2D, view: View, size: Size, picture: LanesPicture): void {
  const isTight = picture.lanes.length > 1 && BETWEEN_MM * view.scale < 22;
  context.font = '600 12px Archivo, sans-serif';
  for (const lane of picture.lanes) {
    const { material, number } = lane.sheet;
    const name = picture.describe(lane.sheet);
    if (isAmong(lane)) {
      const top = toScreen(view, { x: lane.x, y: lane.y + material.widthMm });
      if (number === 0) paintWords(context, name, Math.max(LEFTMOST_PX, top.x), top.y - 8);
      const [wide, high] = [lane.lengthMm * view.scale, material.widthMm * view.scale];
      if (wide > LABEL_PX.narrow && high > LABEL_PX.high && isInView(lane, view, size))
        paintWords(context, `${number + 1}`, top.x + 5, top.y + 14);
      continue;
    }
    const { x, y, isOnWork } = labelAt(lane, { view, size, isTight }, context.measureText(name).width);
    context.fillStyle = INK;
    if (isOnWork) paintWords(context, name, x, y);
    else context.fillText(name, x, y);
  }
}
