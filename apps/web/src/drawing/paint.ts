/**
 * Painting a drawing: the surface as ground, films in strip order, items of one film in tree order.
 * Paths are made once an outline and kept with it. What lies outside of the window is not painted.
 */
import type { Box, Contour, Matrix, Outline } from '@lorvek/core/geometry';
import { boxesMeet, compose, EMPTY_OUTLINE, endX, endY, isLine, startX, startY } from '@lorvek/core/geometry';
import type { Gradient } from '@lorvek/core/colour';
import {
  BELOW_ALL,
  gradientOf,
  fillOf,
  inkOfTreatment,
  isAid,
  isHelper,
  isCutLine,
  isPrint,
  layerOf,
  layersOf,
  leavesOf,
  pageOf,
  printedGradient,
  type CutLine,
  type Drawing,
  type LeafItem,
  type PictureItem,
} from '@lorvek/model';
import { localBoxOf, outlineOf, piecesOf, placedBoxOf } from '../worker/derived.ts';
import { ranksIn } from '../document/painting-order.ts';
import { fillGradient } from './gradients.ts';
import { paintPicture, paintPictures } from './pictures.ts';
import { toDrawing, type Size, type View } from './view.ts';

const paths = new WeakMap<Outline, Path2D>();

function addContour(path: Path2D, contour: Contour): void {
  const first = contour.spans[0];
  if (!first) return;
  path.moveTo(startX(first), startY(first));
  for (const s of contour.spans) {
    if (isLine(s)) path.lineTo(endX(s), endY(s));
    else path.bezierCurveTo(s[2] as number, s[3] as number, s[4] as number, s[5] as number, s[6] as number, s[7] as number);
  }
  if (contour.closed) path.closePath();
}

/** The outline as a canvas path, in its own mm. */
export function pathOf(outline: Outline): Path2D {
  let path = paths.get(outline);
  if (!path) {
    path = new Path2D();
    for (const contour of outline.contours) addContour(path, contour);
    paths.set(outline, path);
  }
  return path;
}

const openPaths = new WeakMap<Outline, Path2D | null>();

/** The open lines of an outline, which are cut or drawn but not filled; null when there are none. */
function openPathOf(outline: Outline): Path2D | null {
  let path = openPaths.get(outline);
  if (path === undefined) {
    const open = outline.contours.filter((contour) => !contour.closed);
    path = open.length > 0 ? new Path2D() : null;
    for (const contour of open) addContour(path as Path2D, contour);
    openPaths.set(outline, path);
  }
  return path;
}

const closedPaths = new WeakMap<Outline, Path2D>();

/** Without its open lines, which have no inside. */
export function closedPathOf(outline: Outline): Path2D {
  let path = closedPaths.get(outline);
  if (!path) {
    path = new Path2D();
    for (const contour of outline.contours) if (contour.closed) addContour(path, contour);
    closedPaths.set(outline, path);
  }
  return path;
}

const hasClosed = (outline: Outline): boolean => outline.contours.some((contour) => contour.closed);

/** mm, y up, to px, y down. */
export const viewMatrix = (view: View): Matrix => [view.scale, 0, 0, -view.scale, view.x, view.y];

export function windowBox(view: View, size: Size): Box {
  const a = toDrawing(view, { x: 0, y: size.height });
  const b = toDrawing(view, { x: size.width, y: 0 });
  return { minX: a.x, minY: a.y, maxX: b.x, maxY: b.y };
}

/** Runs `work` with the context in the item's own mm. */
export function inItem(context: CanvasRenderingContext2D, matrix: Matrix, work: () => void): void {
  context.save();
  context.transform(...(matrix as [number, number, number, number, number, number]));
  work();
  context.restore();
}

export interface PaintOptions {
  readonly blade: boolean;
  /** Items that a drag under way moves, and how. */
  readonly moved: ReadonlySet<string>;
  readonly preview: Matrix | undefined;
  /** Painted under all that is of a layer, in drawing mm. */
  readonly under?: ((context: CanvasRenderingContext2D, layer: string) => void) | undefined;
}

const ownOf = (item: LeafItem): NonNullable<Painted['own']> => {
  const stroke = item.paint?.stroke;
  return {
    fill: fillOf(item)?.hex ?? null,
    ...(stroke ? { stroke } : {}),
    ...(item.kind === 'picture' ? { picture: item } : {}),
  };
};

/** Cut lines on the screen: a colour and dashes of its own for each kind, px. */
export const LINE_LOOKS: Readonly<Record<CutLine['kind'], { readonly hex: string; readonly dash: readonly number[] }>> = {
  kiss: { hex: '#0b6e6b', dash: [] },
  score: { hex: '#a86a12', dash: [10, 3] },
  perforated: { hex: '#6b3fa0', dash: [5, 3] },
  through: { hex: '#9c2f1d', dash: [14, 3, 3, 3] },
};

export interface Painted {
  readonly item: LeafItem;
  readonly outline: Outline;
  readonly matrix: Matrix;
  /** Painted over the film's colour. */
  readonly course?: Gradient;
  /** On a print: its own colours, or the picture that it is. */
  readonly own?: {
    readonly fill: string | null;
    readonly stroke?: { readonly hex: string; readonly widthMm: number };
    readonly picture?: PictureItem;
  };
  /** A cut line of a print: in the line's own style, above everything. */
  readonly line?: CutLine['kind'];
  /** A line that others follow: never cut. */
  readonly helper?: boolean;
}

function push<K>(lists: Map<K, Painted[]>, key: K, one: Painted): void {
  const list = lists.get(key);
  if (list) list.push(one);
  else lists.set(key, [one]);
}

/** A piece of an item; of a print with its own colours, of a film with the course of its colour. */
function paintedPiece(
  drawing: Drawing,
  item: LeafItem,
  { layer, outline, treatment }: ReturnType<typeof piecesOf>[number],
  matrix: Matrix,
): Painted {
  const own = layerOf(drawing, layer);
  const print = isPrint(own);
  if (treatment !== undefined)
    return { item, outline, matrix, ...(print ? { own: { fill: inkOfTreatment(item, treatment, own.hex).hex } } : {}) };
  const course = print ? printedGradient(item) : gradientOf(item);
  return { item, outline, matrix, ...(course ? { course } : {}), ...(print ? { own: ownOf(item) } : {}) };
}

/** The pieces by their film, and the lines that lie above everything. */
function sortedOut(drawing: Drawing, { moved, preview }: Pick<PaintOptions, 'moved' | 'preview'>) {
  const byFilm = new Map<string | null, Painted[]>();
  const cutLines: Painted[] = [];
  for (const item of leavesOf(drawing)) {
    if (isAid(item) && !isHelper(item)) continue;
    const matrix = preview && moved.has(item.id) ? compose(preview, item.matrix) : item.matrix;
    if (isHelper(item)) {
      cutLines.push({ item, outline: outlineOf(item) ?? EMPTY_OUTLINE, matrix, helper: true });
      continue;
    }
    if (isCutLine(item)) {
      for (const { outline } of piecesOf(item)) cutLines.push({ item, outline, matrix, line: item.line?.kind ?? 'kiss' });
      continue;
    }
    for (const piece of piecesOf(item)) push(byFilm, piece.layer, paintedPiece(drawing, item, piece, matrix));
  }
  return { byFilm, cutLines };
}

/** What is painted, bottom first; hidden films left out. */
export function paintedOf(
  drawing: Drawing,
  options: Pick<PaintOptions, 'moved' | 'preview'>,
): { hex: string | undefined; layer?: string; painted: Painted[] }[] {
  const { byFilm, cutLines } = sortedOut(drawing, options);
  const films = layersOf(drawing);
  const ranks = ranksIn(drawing);
  const loose = new Map<number, Painted[]>();
  for (const one of byFilm.get(null) ?? []) push(loose, ranks.get(one.item.id) ?? films.length - 1, one);
  return [
    { hex: undefined, painted: loose.get(BELOW_ALL) ?? [] },
    ...films.flatMap((film, i) => [
      { hex: film.hex as string | undefined, layer: film.id, painted: film.visible ? (byFilm.get(film.id) ?? []) : [] },
      { hex: undefined, painted: loose.get(i) ?? [] },
    ]),
    { hex: undefined, painted: cutLines },
  ];
}

export function paintDrawing(context: CanvasRenderingContext2D, drawing: Drawing, view: View, size: Size, options: PaintOptions): void {
  const { surface } = pageOf(drawing);
  context.fillStyle = '#e9e3d5';
  context.fillRect(0, 0, size.width, size.height);
  const seen = windowBox(view, size);
  context.save();
  context.transform(...(viewMatrix(view) as [number, number, number, number, number, number]));
  context.fillStyle = options.blade ? '#fdfbf6' : surface.hex;
  context.fillRect(0, 0, surface.widthMm, surface.heightMm);
  context.lineWidth = 1 / view.scale;
  context.strokeStyle = '#9b9382';
  context.strokeRect(0, 0, surface.widthMm, surface.heightMm);
  paintPictures(context, drawing, options.moved, options.preview);
  paintGuides(context, drawing, view, seen);
  for (const { hex, layer, painted } of paintedOf(drawing, options)) {
    if (layer !== undefined && !options.blade && painted.length > 0) options.under?.(context, layer);
    for (const one of painted) {
      const { outline, matrix } = one;
      if (!boxesMeet(placedBoxOf(outline, matrix), seen)) continue;
      inItem(context, matrix, () => paintOne(context, one, hex, { blade: options.blade, scale: view.scale }));
    }
  }
  context.restore();
}

/** How a drawing is looked at: as the blade goes, or in its colours. */
interface Looking {
  readonly blade: boolean;
  /** Pixels a millimetre. */
  readonly scale: number;
}

function paintOne(context: CanvasRenderingContext2D, one: Painted, hex: string | undefined, looking: Looking): void {
  const { outline, matrix, own, line } = one;
  const px = hairline(looking.scale, matrix);
  if (one.helper) paintHelper(context, outline, px);
  else if (line) paintCutLine(context, outline, line, px);
  else if (own?.picture) {
    if (!looking.blade) paintPicture(context, own.picture);
  } else if (looking.blade) paintBlade(context, outline, hex, px);
  else paintColoured(context, one, hex, px);
}

/** In the colours that it is cut or printed in. */
function paintColoured(context: CanvasRenderingContext2D, one: Painted, hex: string | undefined, px: number): void {
  const { outline, matrix, course, own } = one;
  if (own) {
    if (own.fill !== null && !course) paintFilled(context, outline, own.fill, px);
  } else if (hex === undefined) paintLoose(context, outline, one.item.paint?.fill?.hex, px);
  else paintFilled(context, outline, hex, px);
  if (course) fillGradient(context, closedPathOf(outline), course, localBoxOf(outline));
  if (!own?.stroke) return;
  context.lineWidth = own.stroke.widthMm / Math.sqrt(Math.abs(matrix[0] * matrix[3] - matrix[1] * matrix[2]));
  context.strokeStyle = own.stroke.hex;
  context.stroke(pathOf(outline));
}

/** A helper line: thin, teal, dash-dot, like the guides. */
function paintHelper(context: CanvasRenderingContext2D, outline: Outline, px: number): void {
  context.lineWidth = px;
  context.strokeStyle = '#0d5c5f';
  context.setLineDash([10 * px, 3 * px, 2 * px, 3 * px]);
  context.stroke(pathOf(outline));
  context.setLineDash([]);
}

let hatch: CanvasPattern | null = null;

/** Thin slanting lines, 7 px apart: what they lie on has no film yet. */
function hatchOf(context: CanvasRenderingContext2D): CanvasPattern | null {
  if (hatch) return hatch;
  const tile = document.createElement('canvas');
  tile.width = tile.height = 7;
  const pen = tile.getContext('2d');
  if (!pen) return null;
  for (const [style, shift] of [
    ['rgb(253 251 246 / 0.75)', 1],
    ['rgb(22 32 46 / 0.7)', 0],
  ] as const) {
    pen.strokeStyle = style;
    pen.beginPath();
    for (const x of [-7, 0, 7]) {
      pen.moveTo(x + shift, 7);
      pen.lineTo(x + shift + 7, 0);
    }
    pen.stroke();
  }
  return (hatch = context.createPattern(tile, 'repeat'));
}

/** What has no film yet: in its own colour where it has one, hatched, with its outline. */
function paintLoose(context: CanvasRenderingContext2D, outline: Outline, hex: string | undefined, px: number): void {
  const closed = closedPathOf(outline);
  if (hex !== undefined) paintFilled(context, outline, hex, px);
  const pattern = hatchOf(context);
  if (pattern && hasClosed(outline)) {
    // the lines keep their width on the screen
    pattern.setTransform(context.getTransform().inverse());
    context.fillStyle = pattern;
    context.fill(closed, 'nonzero');
  }
  strokeLine(context, outline, '#4a5565', px);
}

function paintCutLine(context: CanvasRenderingContext2D, outline: Outline, kind: CutLine['kind'], px: number): void {
  const { hex, dash } = LINE_LOOKS[kind];
  context.lineWidth = 1.6 * px;
  context.strokeStyle = hex;
  context.setLineDash(dash.map((n) => n * px));
  context.stroke(pathOf(outline));
  context.setLineDash([]);
}

/** Guides under the work: thin teal dash-dot lines across the whole window. */
function paintGuides(context: CanvasRenderingContext2D, drawing: Drawing, view: View, seen: Box): void {
  context.save();
  context.strokeStyle = '#1d8a86';
  context.lineWidth = 1 / view.scale;
  context.setLineDash([9, 3, 2, 3].map((n) => n / view.scale));
  for (const { axis, mm } of pageOf(drawing).guides ?? []) {
    context.beginPath();
    context.moveTo(axis === 'x' ? mm : seen.minX, axis === 'x' ? seen.minY : mm);
    context.lineTo(axis === 'x' ? mm : seen.maxX, axis === 'x' ? seen.maxY : mm);
    context.stroke();
  }
  context.restore();
}

/** Stroke width that stays one pixel under the item's own scale. */
const hairline = (scale: number, m: Matrix): number => 1 / (scale * Math.sqrt(Math.abs(m[0] * m[3] - m[1] * m[2])));

/** Closed contours filled, open ones as lines of the same colour. */
function paintFilled(context: CanvasRenderingContext2D, outline: Outline, hex: string, px: number): void {
  const open = openPathOf(outline);
  if (hasClosed(outline)) {
    context.fillStyle = hex;
    context.fill(open ? closedPathOf(outline) : pathOf(outline), 'nonzero');
  }
  if (!open) return;
  context.lineWidth = 1.5 * px;
  context.strokeStyle = hex;
  context.stroke(open);
}

function strokeLine(context: CanvasRenderingContext2D, outline: Outline, style: string, px: number): void {
  context.lineWidth = px;
  context.strokeStyle = style;
  context.stroke(pathOf(outline));
}

/** The line that the blade goes, in its film's colour; grey of what has none. */
function paintBlade(context: CanvasRenderingContext2D, outline: Outline, hex: string | undefined, px: number): void {
  strokeLine(context, outline, hex === undefined ? '#4a5565' : darken(hex), 1.1 * px);
}

/** A film's colour dark enough to be seen as a line on paper. */
export function darken(hex: string): string {
  const n = Number.parseInt(hex.slice(1), 16);
  const [r, g, b] = [(n >> 16) & 255, (n >> 8) & 255, n & 255];
  const light = (0.299 * r + 0.587 * g + 0.114 * b) / 255;
  const k = light > 0.55 ? 0.55 / light : 1;
  return `rgb(${Math.round(r * k)} ${Math.round(g * k)} ${Math.round(b * k)})`;
}
