/** Sheets that are printed: their print files, their plates and how they will look. Pictures lie unpacked in files. */
import { InputError, LimitError } from '@lorvek/core';
import { writePng } from '@lorvek/core/format';
import {
  makePlates,
  openProfile,
  pagesOfPasses,
  softView,
  tilePages,
  WHITE_INK,
  writePrintPdf,
  writeTiledPdf,
  type PaperSize,
  type Plate,
  type PrintPage,
  type PrintPicture,
  type Rendering,
} from '@lorvek/core/print';
import type { Drawing, SheetPlate, SheetPlates, SoftLook, StockFilm } from '@lorvek/model';
import { planSheets, type SheetPlan } from '@lorvek/model/plan-sheet';
import type { FileHost, Tell } from './host.ts';

/** RGBA, row after row, in a file. */
export interface RawPicture {
  readonly path: string;
  /** Where the pixels begin, bytes. */
  readonly offset: number;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly hasAlpha: boolean;
}

/** One sheet, and what it is printed with. */
export interface PrintedSheetAsked {
  readonly jobId: string;
  readonly jobName: string;
  readonly drawing: Drawing;
  readonly layer: string;
  /** Which of the layer's sheets, from 0. */
  readonly number: number;
  readonly stock: readonly StockFilm[];
  /** Pixels of the pictures, unpacked, by asset. */
  readonly pictures: Readonly<Record<string, RawPicture>>;
  /** File of the profile, and how colours go through it. */
  readonly profile: string;
  readonly rendering: Rendering;
}

/** Where the print file goes. */
export interface PrintAsked extends PrintedSheetAsked {
  readonly to: string;
  /** For a desk printer: the art and its marks alone, on papers of this size. */
  readonly paper?: PaperSize;
}

/** How finely plates are looked at. */
export interface PlatesAsked extends PrintedSheetAsked {
  /** At most so many pixels a plate. */
  readonly mostPixels: number;
}

/** Bytes that were read of pictures. */
type OnRead = (bytes: number) => void;

/** A picture's pixels from the file that holds them unpacked. */
const pictureIn = ({ path, offset, widthPx, heightPx, hasAlpha }: RawPicture, { files }: FileHost, onRead?: OnRead): PrintPicture => ({
  widthPx,
  heightPx,
  hasAlpha,
  rows: async (from, count) => {
    const bytes = await files.readPart(path, offset + 4 * widthPx * from, 4 * widthPx * count);
    onRead?.(bytes.length);
    return bytes;
  },
});

/** @throws InputError `input.picture` for one that was not unpacked */
const picturesIn =
  (pictures: Readonly<Record<string, RawPicture>>, host: FileHost, onRead?: OnRead) =>
  (asset: string): PrintPicture => {
    const raw = pictures[asset];
    if (!raw) throw new InputError('picture', 'A picture of this print is no longer there.');
    return pictureIn(raw, host, onRead);
  };

/** Tells the share of all pictures' bytes that were read: colours once, what lets through once more. */
function tellReading(pictures: Readonly<Record<string, RawPicture>>, tell: Tell): OnRead {
  const all = Object.values(pictures).reduce((sum, one) => sum + 4 * one.widthPx * one.heightPx * (one.hasAlpha ? 2 : 1), 0);
  let read = 0;
  let told = 0;
  return (bytes) => {
    read += bytes;
    const share = Math.min(1, read / Math.max(1, all));
    if (share - told < 0.005) return;
    told = share;
    tell(share);
  };
}

async function sheetOf(asked: PrintedSheetAsked, host: FileHost, withChecks: boolean): Promise<SheetPlan | undefined> {
  const { drawing, layer, number, stock, jobId, jobName } = asked;
  const knownOf = await host.fonts.knowing(drawing, host.pause);
  return planSheets(drawing, layer, stock, knownOf, { jobId, jobName, withChecks })[number];
}

const inksOf = async ({ profile, rendering }: PrintedSheetAsked, { files }: FileHost): ReturnType<typeof openProfile> =>
  openProfile(await files.read(profile), rendering);

/** The print file of one sheet, written to a path. The same sheet makes the same bytes: its file bears no time of the day. */
export async function printSheet(asked: PrintAsked, host: FileHost, tell: Tell): Promise<{ readonly bytes: number }> {
  const { jobName, pictures, to, paper } = asked;
  const sheet = await sheetOf(asked, host, true);
  if (!sheet) throw new InputError('sheet', 'There is no such sheet any more.');
  const { print } = sheet;
  if (!print) throw new InputError('layer', `Nothing is printed with “${sheet.layer.name}”.`);
  const inks = await inksOf(asked, host);
  // what a desk printer cannot lay down, cut lines and white, is no part of its page
  const page = paper ? { ...print, lines: [], white: undefined, passes: undefined } : print;
  let bytes = 0;
  await host.files.writeInPieces(to, async (put) => {
    const counted = (piece: Uint8Array): Promise<void> => {
      bytes += piece.length;
      return put(piece);
    };
    await writePrintPdf(page, picturesIn(pictures, host, tellReading(pictures, tell)), counted, { inks, madeAt: '2000-01-01T00:00:00Z' });
  });
  return paper ? { bytes: await tile({ path: to, bytes, page: print, paper, title: jobName }, host) } : { bytes };
}

/** Neighbours on paper share so much, for cutting and gluing. */
const TILE_OVERLAP_MM = 8;
const MOST_TILED_BYTES = 300 * 2 ** 20;

interface Tiled {
  readonly path: string;
  readonly bytes: number;
  readonly page: PrintPage;
  readonly paper: PaperSize;
  readonly title: string;
}

/** Puts a page that was written onto papers. @returns size of the file */
async function tile({ path, bytes, page, paper, title }: Tiled, { files }: FileHost): Promise<number> {
  if (bytes > MOST_TILED_BYTES)
    throw new LimitError('size', 'These pictures are too large for a desk printer. Print them on a wide printer.');
  const tiling = tilePages(page.widthMm, page.heightMm, paper, TILE_OVERLAP_MM);
  const pdf = await writeTiledPdf(await files.read(path), tiling, title, TILE_OVERLAP_MM);
  await files.write(path, pdf);
  return pdf.length;
}

const PLATES_DPI = 72;
const dpiOf = ({ widthMm, heightMm }: PrintPage, mostPixels: number): number =>
  Math.min(PLATES_DPI, Math.sqrt(mostPixels / (widthMm * heightMm)) * 25.4);

/** Looked at once and thrown away: made quickly rather than small. */
const pngOf = (width: number, height: number, data: Uint8Array, { packRows, toBase64 }: FileHost): string =>
  `data:image/png;base64,${toBase64(writePng({ width, height, data, pack: packRows }))}`;

/** Plates as pictures, as fine as is looked at on a screen. */
export async function platesOfSheet(asked: PlatesAsked, host: FileHost): Promise<SheetPlates> {
  const print = (await sheetOf(asked, host, false))?.print;
  if (!print) throw new InputError('sheet', 'Nothing is printed on this sheet.');
  const inks = await inksOf(asked, host);
  const plateOf = ({ name, width, height, data, cover }: Plate): SheetPlate => ({
    name,
    cover,
    picture: pngOf(width, height, data, host),
  });
  const passes: SheetPlates['passes'][number][] = [];
  for (const { page, paintsArt, name } of pagesOfPasses(print)) {
    const own = await makePlates(page, {
      dpi: dpiOf(print, asked.mostPixels),
      profile: inks,
      pictures: picturesIn(asked.pictures, host),
    });
    passes.push({
      name,
      kind: paintsArt ? 'colour' : 'white',
      plates: own.filter((plate) => paintsArt || plate.name === WHITE_INK).map(plateOf),
    });
  }
  return { widthMm: print.widthMm, heightMm: print.heightMm, passes };
}

/** What the printer cannot print is shown in this. */
const BEYOND = [230, 0, 170, 255];

/** How a sheet will look when it is printed: of passes the last one that is colour. */
export async function softLook(asked: PlatesAsked, host: FileHost): Promise<SoftLook> {
  const print = (await sheetOf(asked, host, false))?.print;
  const page = print && pagesOfPasses(print).findLast(({ paintsArt }) => paintsArt)?.page;
  if (!page) throw new InputError('sheet', 'Nothing is printed on this sheet.');
  const { widthMm, heightMm } = page;
  const inks = await inksOf(asked, host);
  const { width, height, rgb, beyond, beyondShare } = await softView(page, {
    dpi: dpiOf(page, asked.mostPixels),
    profile: inks,
    pictures: picturesIn(asked.pictures, host),
  });
  const mask = new Uint8Array(4 * width * height);
  for (let i = 0; i < beyond.length; i++) if (beyond[i]) mask.set(BEYOND, 4 * i);
  return {
    widthMm,
    heightMm,
    profile: inks.name,
    picture: pngOf(width, height, rgb, host),
    beyond: pngOf(width, height, mask, host),
    beyondShare,
  };
}
