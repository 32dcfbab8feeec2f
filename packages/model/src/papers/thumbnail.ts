/** A small picture of a drawing: layers in strip order on the surface's colour, as SVG of the visible work's box. */
import {
  bounds,
  formatPath,
  growBox,
  isEmptyBox,
  joinBoxes,
  mapOutline,
  EMPTY_BOX,
  type Box,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import type { Drawing } from '../records/document.ts';
import type { Layer } from '../records/layers.ts';
import { isPrint, layersOf, leavesOf, pageOf } from '../queries/queries.ts';
import { BELOW_ALL, looseRanks } from '../queries/painting-order.ts';
import type { Piece } from '../queries/derive.ts';
import { isUnknown, type KnownOf } from '../queries/known-pieces.ts';
import { isAid, isCutLine, type LeafItem } from '../queries/plain-outline.ts';
import { fillOf, inkOfTreatment, pictureMatrix } from '../plans/print-art.ts';

interface Part {
  readonly leaf: LeafItem;
  readonly piece: Piece;
  readonly outline: Outline;
}

const fixed = (n: number): string => n.toFixed(2);

/** What of a part is shown on its layer. */
function shown(
  { leaf, piece, outline }: Part,
  layer: Layer,
  path: (outline: Outline) => string,
  map: Matrix,
  pictures: ReadonlyMap<string, string>,
): string {
  if (!isPrint(layer)) return `<path d="${path(outline)}" fill="${layer.hex}"/>`;
  if (leaf.kind === 'picture') {
    const url = pictures.get(leaf.asset);
    if (!url) return `<path d="${path(outline)}" fill="#c9c4b6"/>`;
    const [a, b, c, d, e, f] = pictureMatrix(leaf);
    // the unit square, y up, into the SVG's own, y down
    const m = [map[0] * a, map[3] * b, -map[0] * c, -map[3] * d, map[0] * (e + c) + map[4], map[3] * (f + d) + map[5]];
    return `<image href="${url}" width="1" height="1" preserveAspectRatio="none" transform="matrix(${m.map((n) => n.toFixed(5)).join(' ')})"/>`;
  }
  const fill = piece.treatment === undefined ? fillOf(leaf) : inkOfTreatment(leaf, piece.treatment, layer.hex);
  const stroke = piece.treatment === undefined ? leaf.paint?.stroke : undefined;
  const line = stroke ? ` stroke="${stroke.hex}" stroke-width="${fixed(stroke.widthMm)}"` : '';
  return `<path d="${path(outline)}" fill="${fill?.hex ?? 'none'}"${line}/>`;
}

/**
 * @param pictures small copies of printed pictures by their asset, as data URLs; a grey field stands for one that is not there
 * @returns SVG text; the bare surface when nothing is drawn
 */
export function drawThumbnail(drawing: Drawing, knownOf: KnownOf, pictures: ReadonlyMap<string, string> = new Map()): string {
  let incomplete = false;
  const piecesOf = (leaf: LeafItem): readonly Piece[] => {
    const known = knownOf(leaf);
    incomplete ||= isUnknown(known);
    return isUnknown(known) ? [] : known.pieces;
  };
  const { surface } = pageOf(drawing);
  const parts: Part[] = leavesOf(drawing).flatMap((leaf) =>
    isAid(leaf) || isCutLine(leaf) ? [] : piecesOf(leaf).map((piece) => ({ leaf, piece, outline: mapOutline(leaf.matrix, piece.outline) })),
  );
  const boxes = new Map<string, Box>();
  for (const { leaf, outline } of parts) boxes.set(leaf.id, joinBoxes(boxes.get(leaf.id) ?? EMPTY_BOX, bounds(outline)));
  const ink = [...boxes.values()].reduce<Box>(joinBoxes, EMPTY_BOX);
  const whole: Box = isEmptyBox(ink)
    ? { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm }
    : growBox(ink, 0.08 * Math.max(ink.maxX - ink.minX, ink.maxY - ink.minY));
  const [width, height] = [whole.maxX - whole.minX, whole.maxY - whole.minY];
  const map: Matrix = [1, 0, 0, -1, -whole.minX, whole.maxY];
  const path = (outline: Outline): string => formatPath(mapOutline(map, outline), 2);
  const layers = layersOf(drawing).map((layer) => {
    const own = parts.filter(({ piece }) => piece.layer === layer.id);
    if (!layer.visible || own.length === 0) return '';
    return isPrint(layer)
      ? own.map((part) => shown(part, layer, path, map, pictures)).join('')
      : `<path d="${own.map(({ outline }) => path(outline)).join('')}" fill="${layer.hex}"/>`;
  });
  const ranks = looseRanks(drawing, (leaf) => boxes.get(leaf.id));
  const looseAt = (rank: number): string =>
    parts
      .filter(({ leaf, piece }) => piece.layer === null && (ranks.get(leaf.id) ?? layers.length - 1) === rank)
      .map(({ leaf, outline }) => `<path d="${path(outline)}" fill="${leaf.paint?.fill?.hex ?? 'none'}" ${edge}/>`)
      .join('');
  const edge = `stroke="#4a5568" stroke-width="${(Math.max(width, height) / 300).toFixed(3)}"`;
  const shownLayers = [looseAt(BELOW_ALL), ...layers.map((layer, i) => layer + looseAt(i))];
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${fixed(width)} ${fixed(height)}" preserveAspectRatio="xMidYMid meet"><rect x="${fixed(-2 * width)}" y="${fixed(-2 * height)}" width="${fixed(5 * width)}" height="${fixed(5 * height)}" fill="${surface.hex}"/>${shownLayers.join('')}${incomplete ? missingMark(width, height) : ''}</svg>`;
}

/** Something could not be worked out and is missing from the picture: a mark of warning in its corner. */
function missingMark(width: number, height: number): string {
  const k = 0.16 * Math.min(width, height);
  return `<g transform="translate(${fixed(0.4 * k)} ${fixed(0.4 * k)}) scale(${(k / 10).toFixed(4)})"><title>Something is missing from this picture</title><path d="M5 0L10 9H0Z" fill="#b26a00"/><path d="M4.6 3H5.4L5.2 6.2H4.8ZM4.6 7H5.4V7.8H4.6Z" fill="#fff"/></g>`;
}
