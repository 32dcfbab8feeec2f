/** A small picture of a drawing: films in strip order on the surface's colour, as SVG of the visible work's box. */
import { bounds, formatPath, growBox, isEmptyBox, joinBoxes, mapOutline, EMPTY_BOX, type Box, type Outline } from '@lorvek/core/geometry';
import type { Drawing } from './document.ts';
import { filmsOf, leavesOf, pageOf } from './read.ts';
import type { Piece } from './derive.ts';
import { isUnknown, type KnownOf } from './known-pieces.ts';
import { isAid, type LeafItem } from './outline.ts';

/** @returns SVG text; the bare surface when nothing is drawn */
export function drawThumbnail(drawing: Drawing, knownOf: KnownOf): string {
  let incomplete = false;
  const piecesOf = (leaf: LeafItem): readonly Piece[] => {
    const known = knownOf(leaf);
    incomplete ||= isUnknown(known);
    return isUnknown(known) ? [] : known.pieces;
  };
  const { surface } = pageOf(drawing);
  const parts: { outline: Outline; film: string | null }[] = leavesOf(drawing).flatMap((leaf) =>
    isAid(leaf) ? [] : piecesOf(leaf).map((piece) => ({ outline: mapOutline(leaf.matrix, piece.outline), film: piece.film })),
  );
  const ink = parts.reduce<Box>((box, part) => joinBoxes(box, bounds(part.outline)), EMPTY_BOX);
  const whole: Box = isEmptyBox(ink)
    ? { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm }
    : growBox(ink, 0.08 * Math.max(ink.maxX - ink.minX, ink.maxY - ink.minY));
  const [width, height] = [whole.maxX - whole.minX, whole.maxY - whole.minY];
  const path = (outline: Outline): string => formatPath(mapOutline([1, 0, 0, -1, -whole.minX, whole.maxY], outline), 2);
  const layers = filmsOf(drawing).map((film) => {
    const d = parts
      .filter((part) => part.film === film.id)
      .map((part) => path(part.outline))
      .join('');
    return d && film.visible ? `<path d="${d}" fill="${film.hex}"/>` : '';
  });
  const loose = parts
    .filter((part) => part.film === null)
    .map((part) => path(part.outline))
    .join('');
  const outline = loose
    ? `<path d="${loose}" fill="none" stroke="#4a5568" stroke-width="${(Math.max(width, height) / 300).toFixed(3)}"/>`
    : '';
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width.toFixed(2)} ${height.toFixed(2)}" preserveAspectRatio="xMidYMid meet"><rect x="${(-2 * width).toFixed(2)}" y="${(-2 * height).toFixed(2)}" width="${(5 * width).toFixed(2)}" height="${(5 * height).toFixed(2)}" fill="${surface.hex}"/>${layers.join('')}${outline}${incomplete ? missingMark(width, height) : ''}</svg>`;
}

/** Something could not be worked out and is missing from the picture: a mark of warning in its corner. */
function missingMark(width: number, height: number): string {
  const k = 0.16 * Math.min(width, height);
  return `<g transform="translate(${(0.4 * k).toFixed(2)} ${(0.4 * k).toFixed(2)}) scale(${(k / 10).toFixed(4)})"><title>Something is missing from this picture</title><path d="M5 0L10 9H0Z" fill="#b26a00"/><path d="M4.6 3H5.4L5.2 6.2H4.8ZM4.6 7H5.4V7.8H4.6Z" fill="#fff"/></g>`;
}
