/** A label for a roll or an offcut: what it is, how much is left, a code that names it. 90 × 45 mm, y up. */
import { bounds, mapOutline, parsePath, translation, compose } from '@lorvek/core/geometry';
import type { MeasureText, PdfPageContent } from '@lorvek/core/format';
import { jobCode } from '@lorvek/core/sheet';
import type { Roll, StockFilm } from '../api/shop.ts';
import { box, fitted, INK, SOFT } from './paper.ts';

const [WIDTH, HEIGHT, EDGE] = [90, 45, 4];
const MODULE_MM = 0.7;
const SHAPE_MM = 22;

/**
 * A label for a roll or an offcut, one page.
 * @param measure of the fonts that pages are written in
 * @param today as the shop writes dates
 */
export function rollLabel(film: StockFilm, roll: Roll, measure: MeasureText, today: string): PdfPageContent {
  const code = jobCode(roll.id, MODULE_MM);
  const room = WIDTH - 2 * EDGE - code.sizeMm - 4;
  const size = `${Math.round(roll.widthMm)} mm × ${(roll.lengthLeftMm / 1000).toFixed(2)} m`;
  const shape = roll.outline ? parsePath(roll.outline) : undefined;
  const of = shape && bounds(shape);
  const scale = of ? Math.min(SHAPE_MM / Math.max(1, of.maxX), 10 / Math.max(1, of.maxY)) : 1;
  const at = (text: string, y: number, sizeMm: number, bold = false, hex = INK) => ({
    text: fitted(text, room, sizeMm, measure, bold),
    x: EDGE,
    y,
    sizeMm,
    bold,
    hex,
  });
  return {
    widthMm: WIDTH,
    heightMm: HEIGHT,
    items: [
      box(EDGE, HEIGHT - EDGE - 9, 14, 9, film.hex),
      {
        outline: mapOutline(translation(WIDTH - EDGE - code.sizeMm, HEIGHT - EDGE - code.sizeMm), code.outline),
        closed: true,
        fill: '#000000',
      },
      ...(shape && of
        ? [
            {
              outline: mapOutline(compose(translation(WIDTH - EDGE - SHAPE_MM, EDGE), [scale, 0, 0, scale, 0, 0]), shape),
              closed: true,
              stroke: { hex: INK, widthMm: 0.3 },
            },
          ]
        : []),
    ],
    texts: [
      at(film.name, HEIGHT - EDGE - 16, 6, true),
      at(film.series, HEIGHT - EDGE - 21.5, 3.6, false, SOFT),
      at(size, EDGE + 9, 5, true),
      at(`${roll.isOffcut ? 'Offcut' : 'Roll'} ${roll.id.replace(/^roll-/, '')}   ${today}`, EDGE + 3, 3, false, SOFT),
    ],
  };
}
