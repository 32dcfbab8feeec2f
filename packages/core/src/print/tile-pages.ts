/**
 * A page that is larger than the paper, on several sheets of paper that overlap: what of the page comes onto which, and
 * the file. Units: mm, y up. Marks stand in the overlap where neighbours are cut and meet. The file is put together by
 * pdf-lib, whole in memory: pages of desk printers are small.
 */
import { PDFDocument, StandardFonts, clip, endPath, popGraphicsState, pushGraphicsState, rectangle, rgb } from '@cantoo/pdf-lib';
import { InputError } from '../errors/index.ts';

/** A sheet of paper, mm. */
export interface PaperSize {
  readonly widthMm: number;
  readonly heightMm: number;
  /** Not printed at any edge. */
  readonly marginMm: number;
}

/** A piece of the page on one paper. */
export interface Tile {
  readonly column: number;
  readonly row: number;
  /** Of the page. */
  readonly x: number;
  readonly y: number;
  readonly widthMm: number;
  readonly heightMm: number;
}

/** A picture divided among sheets of paper. */
export interface Tiling {
  readonly columns: number;
  readonly rows: number;
  /** The paper as it lies: turned for a page that fits better so. */
  readonly paper: PaperSize;
  /** Rows from the top, each from the left. */
  readonly tiles: readonly Tile[];
}

const MOST_TILES = 400;
const MM = 72 / 25.4;
const TICK_MM = 4;

function tiled(widthMm: number, heightMm: number, paper: PaperSize, overlapMm: number): Tiling {
  const [w, h] = [paper.widthMm - 2 * paper.marginMm, paper.heightMm - 2 * paper.marginMm];
  const count = (whole: number, one: number): number =>
    whole <= one + 1e-6 ? 1 : Math.ceil((whole - overlapMm) / (one - overlapMm) - 1e-9);
  const [columns, rows] = [count(widthMm, w), count(heightMm, h)];
  const tiles: Tile[] = [];
  for (let row = 0; row < Math.min(rows, MOST_TILES); row++)
    for (let column = 0; column < Math.min(columns, MOST_TILES); column++) {
      const x = column * (w - overlapMm);
      const top = heightMm - row * (h - overlapMm);
      const y = Math.max(0, top - h);
      tiles.push({ column, row, x, y, widthMm: Math.min(w, widthMm - x), heightMm: top - y });
    }
  return { columns, rows, paper, tiles };
}

/**
 * The papers that a page needs, upright or turned, whichever are fewer.
 * @throws InputError `input.paper` for paper that leaves no room between its margins and overlaps, or for too many
 * @param overlapMm how far neighbouring papers show the same, mm
 */
export function tilePages(widthMm: number, heightMm: number, paper: PaperSize, overlapMm: number): Tiling {
  const least = Math.min(paper.widthMm, paper.heightMm) - 2 * paper.marginMm;
  if (!(least > 2 * overlapMm + 5)) throw new InputError('paper', 'This paper leaves no room between its margins and the overlap.');
  const turned: PaperSize = { widthMm: paper.heightMm, heightMm: paper.widthMm, marginMm: paper.marginMm };
  const [a, b] = [tiled(widthMm, heightMm, paper, overlapMm), tiled(widthMm, heightMm, turned, overlapMm)];
  const best = b.columns * b.rows < a.columns * a.rows ? b : a;
  if (best.columns * best.rows > MOST_TILES)
    throw new InputError('paper', `On this paper it would be ${best.columns * best.rows} sheets. Take larger paper or a wide printer.`);
  return best;
}

/** What Helvetica of a PDF has letters for; others are left out of the note in the margin. */
const plainLetters = (text: string): string => text.replace(/[^\x20-\x7e\u00a1-\u00ff]/g, '').slice(0, 90);

/**
 * A file with one paper a tile, true size.
 * @param pdf a file of one page of the tiling's size
 * @throws InputError `input.paper` for a file that is none
 */
export async function writeTiledPdf(pdf: Uint8Array, tiling: Tiling, title: string, overlapMm: number): Promise<Uint8Array> {
  const out = await PDFDocument.create({ updateMetadata: false });
  const [page] = await out.embedPdf(pdf, [0]);
  if (!page) throw new InputError('paper', 'There is nothing to print.');
  const font = await out.embedFont(StandardFonts.Helvetica);
  const { paper, tiles, columns, rows } = tiling;
  const m = paper.marginMm;
  for (const [i, tile] of tiles.entries()) {
    const sheet = out.addPage([paper.widthMm * MM, paper.heightMm * MM]);
    // from the upper left corner of what the paper can take
    const low = paper.heightMm - m - tile.heightMm;
    sheet.pushOperators(pushGraphicsState(), rectangle(m * MM, low * MM, tile.widthMm * MM, tile.heightMm * MM), clip(), endPath());
    sheet.drawPage(page, { x: (m - tile.x) * MM, y: (low - tile.y) * MM });
    sheet.pushOperators(popGraphicsState());
    if (tiles.length === 1) continue;
    const tick = (x0: number, y0: number, x1: number, y1: number): void =>
      sheet.drawLine({ start: { x: x0 * MM, y: y0 * MM }, end: { x: x1 * MM, y: y1 * MM }, thickness: 0.4, color: rgb(0, 0, 0) });
    const half = overlapMm / 2;
    const lefts = [...(tile.column > 0 ? [m + half] : []), ...(tile.column < columns - 1 ? [m + tile.widthMm - half] : [])];
    const levels = [...(tile.row > 0 ? [low + tile.heightMm - half] : []), ...(tile.row < rows - 1 ? [low + half] : [])];
    for (const x of lefts) {
      tick(x, low, x, low + TICK_MM);
      tick(x, low + tile.heightMm - TICK_MM, x, low + tile.heightMm);
    }
    for (const y of levels) {
      tick(m, y, m + TICK_MM, y);
      tick(m + tile.widthMm - TICK_MM, y, m + tile.widthMm, y);
    }
    sheet.drawText(plainLetters(`${title} - row ${tile.row + 1}, column ${tile.column + 1} - ${i + 1} of ${tiles.length}`), {
      x: (m + 6) * MM,
      y: Math.max(1.2, m - 3) * MM,
      size: 6,
      font,
    });
  }
  // the same page makes the same bytes
  out.setCreationDate(new Date('2000-01-01T00:00:00Z'));
  out.setModificationDate(new Date('2000-01-01T00:00:00Z'));
  return out.save();
}
