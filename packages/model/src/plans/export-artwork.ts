/** A drawing, or a part of it, as artwork to be written to a file: a layer for each film, in strip order. */
import { InputError } from '@lorvek/core';
import {
  bounds,
  EMPTY_BOX,
  flatten,
  isEmptyBox,
  joinBoxes,
  mapBox,
  mapOutline,
  translation,
  type Box,
  type Outline,
  type Point,
} from '@lorvek/core/geometry';
import {
  mapItem,
  writeDxf,
  writeHpgl,
  writePdfPages,
  writeSvg,
  type Artwork,
  type ArtworkItem,
  type ArtworkPicture,
} from '@lorvek/core/format';
import type { Drawing } from '../records/document.ts';
import { mapGradient } from '@lorvek/core/colour';
import type { Piece } from '../queries/derive.ts';
import { gradientOf, isAid, isCutLine, type LeafItem } from '../queries/plain-outline.ts';
import type { PiecesOf } from './plan-sheet.ts';
import { isPrint, layersOf, leavesOf, pageOf } from '../queries/queries.ts';
import { LINE_INKS, type PrintItem } from '@lorvek/core/print';
import type { PictureItem } from '../records/items.ts';
import type { PrintLayer } from '../records/layers.ts';
import type { Bleed } from './bleeds.ts';
import { picturesIn, type FileFormat, type WrittenScope } from '../queries/written.ts';
import { artOf } from './print-art.ts';

/** Width of lines that are no outlines, as they are written. */
const LINE_MM = 0.25;

function itemsOf(outline: Outline, hex: string, layer: string, name: string): ArtworkItem[] {
  const closed = outline.contours.filter((c) => c.closed);
  const open = outline.contours.filter((c) => !c.closed);
  return [
    ...(closed.length > 0 ? [{ outline: { contours: closed }, closed: true, fill: hex, layer, name }] : []),
    ...(open.length > 0 ? [{ outline: { contours: open }, closed: false, stroke: { hex, widthMm: LINE_MM }, layer, name }] : []),
  ];
}

/** The face of a shape that is printed has its gradient; what treatments add is cut. */
function withCourse(item: ArtworkItem, leaf: LeafItem, piece: Piece): ArtworkItem {
  const gradient = item.fill === undefined || piece.treatment !== undefined ? undefined : gradientOf(leaf);
  return gradient ? { ...item, gradient: mapGradient(leaf.matrix, gradient) } : item;
}

/** A picture of the drawing, or what an edge cut carries outward of one, under the item of a number. */
export type OrderedPicture = { readonly before: number } & (
  { readonly item: PictureItem; readonly carried?: undefined } | { readonly carried: CarriedPicture; readonly item?: undefined }
);
type CarriedPicture = Extract<PrintItem, { kind: 'picture' }>;

/** Items and the pictures among them, the lowest first. */
export interface OrderedArtwork {
  readonly items: readonly ArtworkItem[];
  readonly pictures: readonly OrderedPicture[];
}

/**
 * Everything in scope by films, lowest first, in drawing coordinates; parts without a film come last, in black. Pictures
 * without a film are ground, and lie under all.
 * @param bleeds put under the art of their layers
 */
export function artworkInOrder(drawing: Drawing, scope: WrittenScope, piecesOf: PiecesOf, bleeds: readonly Bleed[] = []): OrderedArtwork {
  const chosen = scope.ids && new Set(leavesOf(drawing, scope.ids).map((leaf) => leaf.id));
  const leaves = leavesOf(drawing).filter((leaf) => !isAid(leaf) && (!chosen || chosen.has(leaf.id)));
  const layers = layersOf(drawing).filter((layer) => (scope.film === undefined ? layer.visible : layer.id === scope.film));
  const of = (film: string | null, hex: string, layer: string): ArtworkItem[] =>
    leaves.flatMap((leaf) =>
      (isCutLine(leaf) || leaf.kind === 'picture' ? [] : piecesOf(leaf))
        .filter((piece) => piece.layer === film && piece.outline.contours.length > 0)
        .flatMap((piece) =>
          itemsOf(mapOutline(leaf.matrix, piece.outline), hex, layer, leaf.name).map((item) => withCourse(item, leaf, piece)),
        ),
    );
  const seen = picturesIn(drawing, scope);
  const items: ArtworkItem[] = [];
  // one by one: so many at once are too many arguments for a call
  const add = (more: readonly ArtworkItem[]): void => more.forEach((item) => items.push(item));
  const pictures: OrderedPicture[] = seen.flatMap((item) => (item.layer === null ? [{ before: 0, item }] : []));
  for (const layer of layers) {
    if (!isPrint(layer)) {
      add(of(layer.id, layer.hex, `${layer.series} ${layer.name}`));
      continue;
    }
    for (const art of bleeds.filter((bleed) => bleed.layer === layer.id).flatMap((bleed) => bleed.art)) {
      if (art.kind === 'picture') pictures.push({ before: items.length, carried: art });
      add(printedItem(art, layer, 'Bleed'));
    }
    for (const leaf of leaves) {
      if (leaf.kind !== 'picture') add(printedItems(leaf, layer, piecesOf));
      else if (leaf.layer === layer.id && seen.includes(leaf)) pictures.push({ before: items.length, item: leaf });
    }
  }
  if (scope.film === undefined) {
    add(of(null, '#000000', 'No film'));
    add(leaves.flatMap((leaf) => (isCutLine(leaf) ? cutLineItems(leaf, piecesOf(leaf)) : [])));
  }
  return { items, pictures };
}

/** The items of it alone. */
export const artworkItemsOf = (drawing: Drawing, scope: WrittenScope, piecesOf: PiecesOf): readonly ArtworkItem[] =>
  artworkInOrder(drawing, scope, piecesOf).items;

/** What is printed of an item, in its own colours; pictures are written apart. */
function printedItems(leaf: LeafItem, layer: PrintLayer, piecesOf: PiecesOf): ArtworkItem[] {
  if (isCutLine(leaf)) return [];
  const own = piecesOf(leaf).filter((piece) => piece.layer === layer.id && piece.outline.contours.length > 0);
  return artOf(leaf, own, layer.hex).flatMap((item) => printedItem(item, layer, leaf.name));
}

const printedItem = (item: PrintItem, layer: PrintLayer, name: string): ArtworkItem[] =>
  item.kind === 'picture'
    ? []
    : [
        {
          outline: item.outline,
          closed: item.outline.contours.every(({ closed }) => closed),
          ...(item.fill ? { fill: item.fill.hex, ...(item.fill.spot ? { spot: item.fill.spot } : {}) } : {}),
          ...(item.gradient ? { gradient: item.gradient, fill: item.fill?.hex ?? '#000000' } : {}),
          ...(item.stroke ? { stroke: { hex: item.stroke.hex, widthMm: item.stroke.widthMm } } : {}),
          layer: `${layer.series} ${layer.name}`,
          name,
        },
      ];

/** A cut line of a print as a thin line in the colour of its kind, on a layer that is called after it. */
function cutLineItems(leaf: LeafItem, pieces: readonly Piece[]): ArtworkItem[] {
  if (!isCutLine(leaf) || !leaf.line) return [];
  const { name, hex } = LINE_INKS[leaf.line.kind];
  return pieces.map(({ outline }) => ({
    outline: mapOutline(leaf.matrix, outline),
    closed: outline.contours.every(({ closed }) => closed),
    stroke: { hex, widthMm: 0.1 },
    layer: name,
    name: leaf.name,
  }));
}

const boxOfPicture = ({ matrix, widthPx, heightPx, mmPerPx }: PictureItem): Box =>
  mapBox(matrix, { minX: 0, minY: 0, maxX: widthPx * mmPerPx, maxY: heightPx * mmPerPx });

/** The box of the work: what is cut, and pictures that are printed. */
export function workBoxOf(drawing: Drawing, piecesOf: PiecesOf): Box {
  const printed = picturesIn(drawing, {}).filter(({ layer }) => layer !== null);
  return printed.map(boxOfPicture).reduce(joinBoxes, boxOf(artworkItemsOf(drawing, {}, piecesOf)));
}

/** The box of all that is written. */
export const boxOf = (items: readonly ArtworkItem[]): Box =>
  items.reduce<Box>((sum, { outline }) => joinBoxes(sum, bounds(outline)), EMPTY_BOX);

/**
 * The whole drawing on its surface, or a part in its own box, whose lower left corner lies at `origin` of the drawing.
 * @param withPictures are they written as well? Of the whole drawing those without a film are ground, and may reach beyond it
 * @throws InputError `input.nothing` when nothing is in scope
 */
export function artworkOf(
  drawing: Drawing,
  scope: WrittenScope,
  piecesOf: PiecesOf,
  withPictures: boolean,
): Artwork & { readonly origin: Point; readonly pictures: readonly { readonly item: PictureItem; readonly before: number }[] } {
  const { items, pictures: all } = artworkInOrder(drawing, scope, piecesOf);
  const pictures = withPictures ? all.flatMap(({ item, before }) => (item ? [{ item, before }] : [])) : [];
  const isWhole = scope.ids === undefined && scope.film === undefined;
  const counted = pictures.flatMap(({ item }) => (!isWhole || item.layer !== null || items.length === 0 ? [item] : []));
  const box = counted.map(boxOfPicture).reduce(joinBoxes, boxOf(items));
  if (isEmptyBox(box)) throw new InputError('nothing', 'There is nothing to write: no part is in what was chosen.');
  const { surface } = pageOf(drawing);
  const surfaceBox: Box = { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm };
  const page = isWhole ? joinBoxes(box, surfaceBox) : box;
  const shift = translation(-page.minX, -page.minY);
  return {
    widthMm: page.maxX - page.minX,
    heightMm: page.maxY - page.minY,
    origin: { x: page.minX, y: page.minY },
    items: items.map((item) => mapItem(shift, item)),
    pictures,
  };
}

const CHORD_MM = 0.01;

/** A plotter file of the outlines as they are, each film with a pen of its own number up to eight. */
function plotterFile(artwork: Artwork): Uint8Array {
  const layers = [...new Set(artwork.items.map((item) => item.layer))];
  const parts = layers.map((layer, i) => {
    const paths = artwork.items
      .filter((item) => item.layer === layer)
      .flatMap((item) => flatten(item.outline, CHORD_MM))
      .map(({ closed, xy }) => ({ closed, xy: Float64Array.from(closed ? [...xy, xy[0] as number, xy[1] as number] : xy) }));
    return writeHpgl(paths, { sends: 'stored', tool: (i % 8) + 1, passes: 1 });
  });
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** A picture to be written, PNG or JPEG, also as text for formats that are text. */
export interface WrittenPicture extends ArtworkPicture {
  readonly bytes: Uint8Array;
}

/** Pictures go into SVG and PDF; the other formats know lines only. @throws AppError of the writers, for sizes that a format cannot say */
export async function writeArtwork(
  artwork: Artwork,
  format: FileFormat,
  title: string,
  pictures: readonly WrittenPicture[] = [],
): Promise<Uint8Array> {
  switch (format) {
    case 'svg':
      return writeSvg(artwork, pictures);
    case 'dxf':
      return writeDxf(artwork);
    case 'hpgl':
      return plotterFile(artwork);
    case 'pdf':
      return writePdfPages([{ ...artwork, pictures: pictures.map(({ bytes, matrix, before }) => ({ bytes, matrix, before })) }], title);
  }
}
