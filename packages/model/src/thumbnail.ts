/** A small picture of a drawing: films in strip order on the surface's colour, as SVG of the visible work's box. */
import { bounds, formatPath, growBox, isEmptyBox, joinBoxes, mapOutline, EMPTY_BOX, type Box, type Outline } from '@lorvek/core/geometry';
import type { Drawing } from './document.ts';
import { filmsOf, leavesOf, pageOf } from './read.ts';
import { isAid } from './outline.ts';
import type { PiecesOf } from './prepare.ts';

/** @returns SVG text; the bare surface when nothing is drawn */
export function drawThumbnail(drawing: Drawing, piecesOf: PiecesOf): string {
  const { surface } = pageOf(drawing);
  const parts: { outline: Outline; film: string | null }[] = leavesOf(drawing).flatMap((leaf) =>
    isAid(leaf) ? [] : (piecesOf(leaf) ?? []).map((piece) => ({ outline: mapOutline(leaf.matrix, piece.outline), film: piece.film })),
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
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width.toFixed(2)} ${height.toFixed(2)}" preserveAspectRatio="xMidYMid meet"><rect x="${(-2 * width).toFixed(2)}" y="${(-2 * height).toFixed(2)}" width="${(5 * width).toFixed(2)}" height="${(5 * height).toFixed(2)}" fill="${surface.hex}"/>${layers.join('')}${outline}</svg>`;
}
