/**
 * The fitting plan: how panels go up. For each layer that is divided a page with the whole to scale, the panels on it with
 * numbers, sizes and overlaps, and the order of putting up in words. A4 lying, millimetres, y up.
 */
import { mapPoint, type Matrix } from '@lorvek/core/geometry';
import { mapItem, type ArtworkItem, type PdfPageContent, type PdfPicture, type PdfText } from '@lorvek/core/format';
import type { LengthUnit } from '@lorvek/core/units';
import { artworkItemsOf } from '../plans/export-artwork.ts';
import type { LaidPanels } from '../plans/lay-places.ts';
import type { PiecesOf, SheetPlan } from '../plans/plan-sheet.ts';
import { pageOf } from '../queries/queries.ts';
import type { Drawing } from '../records/document.ts';
import { box, fitted, head, INK, line, LONG, MARGIN, say, scaleFor, SHORT, SOFT, type HeadInput } from './paper.ts';

/** What a fitting plan is made of. */
export interface FittingInput extends HeadInput {
  readonly drawing: Drawing;
  readonly piecesOf: PiecesOf;
  readonly pictures: readonly PdfPicture[];
  readonly sheets: readonly SheetPlan[];
}

/** Words stand in so many lines beside the drawing, panels in so many columns. */
const LINES = 26;

/** What is to be known of each panel, in the order of putting up. */
function linesOf({ panels }: LaidPanels, first: SheetPlan, unit: LengthUnit): string[] {
  const { fill } = first.layUp;
  if (fill.kind !== 'panels') return [];
  const side = fill.order === 'from-left' ? 'left' : 'right';
  const rows = new Set(panels.map(({ box: b }) => Math.round(b.minY))).size;
  const rules = [
    `Put up from the ${side}${rows > 1 ? ', the lower row first' : ''}.`,
    ...(fill.overlapMm > 0 ? [`Each laps ${say(fill.overlapMm, unit)} over the one beside it.`] : ['Panels meet edge to edge.']),
    ...(rows > 1 && fill.overlapUpMm > 0 ? [`The upper row laps ${say(fill.overlapUpMm, unit)} over the lower.`] : []),
    ...(fill.bleedMm > 0 ? [`${say(fill.bleedMm, unit)} more at the outer edges, to be trimmed.`] : []),
  ];
  const each = panels.map(
    ({ number, box: b }) =>
      `${number}   ${say(b.maxX - b.minX, unit)} × ${say(b.maxY - b.minY, unit)}   from ${say(b.minX, unit)}, ${say(b.minY, unit)}`,
  );
  return [...rules, '', ...each];
}

function page(input: FittingInput, first: SheetPlan, laid: LaidPanels): PdfPageContent {
  const { unit } = pageOf(input.drawing);
  const side = 82;
  const room = { x: MARGIN + 6, y: MARGIN + 16, width: LONG - 2 * MARGIN - side - 12, height: SHORT - 2 * MARGIN - 40 };
  const [w, h] = [laid.box.maxX - laid.box.minX, laid.box.maxY - laid.box.minY];
  const scale = scaleFor(Math.min(room.width / w, room.height / h));
  const [x, y] = [
    room.x + (room.width - w * scale) / 2 - laid.box.minX * scale,
    room.y + (room.height - h * scale) / 2 - laid.box.minY * scale,
  ];
  const map: Matrix = [scale, 0, 0, scale, x, y];
  const top = head(input, 'Fitting plan', LONG, SHORT - MARGIN);
  const work = artworkItemsOf(input.drawing, {}, input.piecesOf).map(({ layer: _layer, ...item }) => mapItem(map, item));
  const items: ArtworkItem[] = [...work, ...top.items];
  const texts: PdfText[] = [...top.texts];
  for (const { number, box: b } of laid.panels) {
    const [low, high] = [mapPoint(map, { x: b.minX, y: b.minY }), mapPoint(map, { x: b.maxX, y: b.maxY })];
    items.push(...frame(low.x, low.y, high.x - low.x, high.y - low.y));
    const [cx, cy] = [(low.x + high.x) / 2, (low.y + high.y) / 2];
    const sizeMm = Math.max(2.4, Math.min(10, 0.25 * Math.min(high.x - low.x, high.y - low.y)));
    items.push(box(cx - sizeMm * 0.8, cy - sizeMm * 0.75, sizeMm * 1.6, sizeMm * 1.5, '#ffffff'));
    texts.push({ text: String(number), x: cx, y: cy - sizeMm * 0.35, sizeMm, bold: true, hex: INK, align: 'centre' });
    const size = fitted(`${say(b.maxX - b.minX, unit)} × ${say(b.maxY - b.minY, unit)}`, high.x - low.x - 1, 2.6, input.measure);
    texts.push({ text: size, x: cx, y: low.y - 4, sizeMm: 2.6, hex: SOFT, align: 'centre' });
  }
  const left = LONG - MARGIN - side;
  items.push(line(left - 4, MARGIN + 4, left - 4, SHORT - MARGIN - 18));
  texts.push({
    text: fitted(`${first.layer.series} ${first.layer.name}`, side, 4, input.measure, true),
    x: left,
    y: SHORT - MARGIN - 24,
    sizeMm: 4,
    bold: true,
    hex: INK,
  });
  const lines = linesOf(laid, first, unit);
  const shown = lines.length > LINES ? [...lines.slice(0, LINES - 1), `and ${lines.length - LINES + 1} more, see the sheets`] : lines;
  shown.forEach((text, i) =>
    texts.push({ text: fitted(text, side, 3.1, input.measure), x: left, y: SHORT - MARGIN - 32 - i * 5, sizeMm: 3.1, hex: INK }),
  );
  const ratio = scale === 1 ? 'true size' : `1 : ${Math.round((1 / scale) * 10) / 10}`;
  texts.push({
    text: `The whole ${say(w, unit)} × ${say(h, unit)}, shown ${ratio}, seen from the front`,
    x: MARGIN,
    y: MARGIN + 1,
    sizeMm: 3.2,
    hex: SOFT,
  });
  const pictures = input.pictures.map((picture): PdfPicture => {
    const [a, b, c, d, e, f] = picture.matrix;
    return {
      bytes: picture.bytes,
      matrix: [a * scale, b * scale, c * scale, d * scale, x + scale * e, y + scale * f],
      before: picture.before,
    };
  });
  return { widthMm: LONG, heightMm: SHORT, ground: [], items, texts, pictures };
}

const frame = (x: number, y: number, width: number, height: number): ArtworkItem[] => [
  line(x, y, x + width, y, INK, 0.4),
  line(x + width, y, x + width, y + height, INK, 0.4),
  line(x + width, y + height, x, y + height, INK, 0.4),
  line(x, y + height, x, y, INK, 0.4),
];

/**
 * A page for each layer that is laid up in panels; empty when none is.
 * @param input lay-ups are those of the job as it is
 */
export function fittingPages(input: FittingInput): PdfPageContent[] {
  return input.sheets.flatMap((sheet) => (sheet.number === 0 && sheet.filled.panels ? [page(input, sheet, sheet.filled.panels)] : []));
}
