/** A thread of the compute pool: the core's computations with the shop's fonts. */
import { once } from 'node:events';
import { createWriteStream, readFileSync } from 'node:fs';
import { open, readFile, writeFile } from 'node:fs/promises';
import { deflateSync } from 'node:zlib';
import wawoff2 from 'wawoff2';
import { errorToWire, InputError, LimitError } from '@lorvek/core';
import { describeFont, joinFonts, loadFont, type Font } from '@lorvek/core/lettering';
import type { Derived } from '@lorvek/model/derive';
import { checkJob, stopsOf } from '@lorvek/model/check-job';
import { cutFile, sheetToPicture, sheetToSvg, type Cutting } from '@lorvek/model/cut-file';
import { knownIn } from '@lorvek/model/know';
import { planSheets, type SheetPlan } from '@lorvek/model/plan-sheet';
import { linesOfCut, sheetCut } from '@lorvek/model/sheet-cut';
import { writePng } from '@lorvek/core/format';
import {
  makePlates,
  pagesOfPasses,
  softView,
  WHITE_INK,
  type Plate,
  openProfile,
  tilePages,
  writePrintPdf,
  writeTiledPdf,
  type PaperSize,
  type PrintPage,
  type PrintPicture,
} from '@lorvek/core/print';
import { drawThumbnail } from '@lorvek/model/thumbnail';
import type { Drawing, KnownOf, SheetPlate, SheetPlates, SoftLook } from '@lorvek/model';
import { LRUCache } from 'lru-cache';
import type {
  CorrectRequest,
  FontAnswer,
  OpAnswers,
  PlanAnswer,
  PlannedSheet,
  PlanRequest,
  PlatesRequest,
  PoolTask,
  PrintRequest,
  SoftRequest,
  RawPicture,
  WorkerAnswer,
} from './compute-ops.ts';

const shelf = new Map<string, Font>();
/** A help for the next question; never what an answer stands on. */
const results = new LRUCache<string, Derived>({ max: 5000 });

type FontFiles = PoolTask['fonts'];

function fontById(id: string, files: FontFiles): Font | undefined {
  const known = shelf.get(id);
  const paths = files[id] ?? [];
  if (known || paths.length === 0) return known;
  const font = joinFonts(paths.map((path) => loadFont(readFileSync(path))) as [Font, ...Font[]]);
  shelf.set(id, font);
  return font;
}

const knowing = (drawing: Drawing, fonts: FontFiles): KnownOf => knownIn(drawing, (id) => fontById(id, fonts), results);

function plan({ drawing, layers, stock, cutting, jobId, jobName, fonts }: PlanRequest & { fonts: FontFiles }): PlanAnswer {
  const checked = checkJob(drawing, stock, knowing(drawing, fonts), jobId, { layers, jobName });
  const stops = stopsOf(checked);
  return {
    stops,
    findings: [...checked.sheets.flatMap((sheet) => sheet.findings), ...checked.whole],
    // what must not go out is not worked out
    sheets: stops.length > 0 ? [] : checked.sheets.map((sheet) => plannedSheet(sheet, cutting)),
  };
}

function plannedSheet(sheet: SheetPlan, cutting: Cutting | null): PlannedSheet {
  const cut = cutting && sheet.lines.length > 0 ? cutFile(sheet.lines, cutting) : null;
  return {
    id: sheet.id,
    number: sheet.number,
    of: sheet.of,
    layer: sheet.layer,
    rollId: sheet.roll.roll?.id ?? null,
    copies: sheet.parts.length === 1 ? Math.max(1, sheet.placements.length) : 1,
    code: sheet.code?.text ?? null,
    cut: cut && cutting && { hpgl: cut.hpgl, plan: sheetCut(sheet, cutting), cutMm: cut.estimate.cutMm, seconds: cut.estimate.seconds },
    isPrinted: sheet.print !== undefined,
    markKind: sheet.markSettings?.marks.kind ?? null,
    svg: sheetToSvg(sheet),
    picture: sheetToPicture(sheet),
    lengthMm: sheet.usedLengthMm,
    widthMm: sheet.material.widthMm,
  };
}

/** Bytes that were read of pictures. */
type OnRead = (bytes: number) => void;

/** A picture's pixels from the file that holds them unpacked. */
function pictureIn({ path, offset, widthPx, heightPx, hasAlpha }: RawPicture, onRead?: OnRead): PrintPicture {
  return {
    widthPx,
    heightPx,
    hasAlpha,
    rows: async (from, count) => {
      const file = await open(path, 'r');
      try {
        const bytes = new Uint8Array(4 * widthPx * count);
        await file.read(bytes, 0, bytes.length, offset + 4 * widthPx * from);
        onRead?.(bytes.length);
        return bytes;
      } finally {
        await file.close();
      }
    },
  };
}

/** @throws InputError `input.picture` for one that was not unpacked */
const picturesIn =
  (pictures: Readonly<Record<string, RawPicture>>, onRead?: OnRead) =>
  (asset: string): PrintPicture => {
    const raw = pictures[asset];
    if (!raw) throw new InputError('picture', 'A picture of this print is no longer there.');
    return pictureIn(raw, onRead);
  };

/** Tells the share of all pictures' bytes that were read: colours once, what lets through once more. */
function tellReading(pictures: Readonly<Record<string, RawPicture>>, port: PoolTask['port']): OnRead {
  const all = Object.values(pictures).reduce((sum, one) => sum + 4 * one.widthPx * one.heightPx * (one.hasAlpha ? 2 : 1), 0);
  let read = 0;
  let told = 0;
  return (bytes) => {
    read += bytes;
    const share = Math.min(1, read / Math.max(1, all));
    if (share - told < 0.005) return;
    told = share;
    port?.postMessage(share);
  };
}

async function print({
  drawing,
  layer,
  number,
  stock,
  jobId,
  jobName,
  fonts,
  pictures,
  profile,
  rendering,
  to,
  paper,
  port,
}: PrintRequest & Pick<PoolTask, 'fonts' | 'port'>): Promise<{ bytes: number }> {
  const sheet = planSheets(drawing, layer, stock, knowing(drawing, fonts), jobId, { jobName })[number];
  if (!sheet) throw new InputError('sheet', 'There is no such sheet any more.');
  if (!sheet.print) throw new InputError('layer', `Nothing is printed with “${sheet.layer.name}”.`);
  const inks = await openProfile(readFileSync(profile), rendering);
  const file = createWriteStream(to);
  let bytes = 0;
  try {
    const put = async (chunk: Uint8Array): Promise<void> => {
      bytes += chunk.length;
      if (!file.write(chunk)) await once(file, 'drain');
    };
    // the same sheet makes the same bytes: its file bears no time of the day
    // what a desk printer cannot lay down, cut lines and white, is no part of its page
    const page = paper ? { ...sheet.print, lines: [], white: undefined, passes: undefined } : sheet.print;
    await writePrintPdf(page, picturesIn(pictures, tellReading(pictures, port)), put, { inks, madeAt: '2000-01-01T00:00:00Z' });
  } finally {
    await new Promise<void>((resolve, reject) => file.end((error?: Error | null) => (error ? reject(error) : resolve())));
  }
  return paper ? { bytes: await tile(to, bytes, sheet.print, paper, jobName) } : { bytes };
}

/** Neighbours on paper share so much, for cutting and gluing. */
const TILE_OVERLAP_MM = 8;
const MOST_TILED_BYTES = 300 * 2 ** 20;

/** Puts a page that was written onto papers. @returns size of the file */
async function tile(path: string, bytes: number, { widthMm, heightMm }: PrintPage, paper: PaperSize, title: string): Promise<number> {
  if (bytes > MOST_TILED_BYTES)
    throw new LimitError('size', 'These pictures are too large for a desk printer. Print them on a wide printer.');
  const tiling = tilePages(widthMm, heightMm, paper, TILE_OVERLAP_MM);
  const pdf = await writeTiledPdf(await readFile(path), tiling, title, TILE_OVERLAP_MM);
  await writeFile(path, pdf);
  return pdf.length;
}

const PLATES_DPI = 72;

/** Plates as pictures, as fine as is looked at on a screen. */
async function plates({
  drawing,
  layer,
  number,
  stock,
  jobId,
  jobName,
  fonts,
  pictures,
  profile,
  rendering,
  mostPixels,
}: PlatesRequest & { fonts: FontFiles }): Promise<SheetPlates> {
  const sheet = planSheets(drawing, layer, stock, knowing(drawing, fonts), jobId, { jobName, withChecks: false })[number];
  if (!sheet?.print) throw new InputError('sheet', 'Nothing is printed on this sheet.');
  const { widthMm, heightMm } = sheet.print;
  const dpi = Math.min(PLATES_DPI, Math.sqrt(mostPixels / (widthMm * heightMm)) * 25.4);
  const inks = await openProfile(readFileSync(profile), rendering);
  const passes: SheetPlates['passes'][number][] = [];
  for (const { page, paintsArt, name } of pagesOfPasses(sheet.print)) {
    const own = await makePlates(page, { dpi, profile: inks, pictures: picturesIn(pictures) });
    passes.push({
      name,
      kind: paintsArt ? 'colour' : 'white',
      plates: own.filter((plate) => paintsArt || plate.name === WHITE_INK).map(plateOf),
    });
  }
  return { widthMm, heightMm, passes };
}

/** How a sheet will look when it is printed: of passes the last one that is colour. */
async function soft(request: SoftRequest & { fonts: FontFiles }): Promise<SoftLook> {
  const { drawing, layer, number, stock, jobId, jobName, fonts, pictures, profile, rendering, mostPixels } = request;
  const sheet = planSheets(drawing, layer, stock, knowing(drawing, fonts), jobId, { jobName, withChecks: false })[number];
  const page = sheet?.print && pagesOfPasses(sheet.print).findLast(({ paintsArt }) => paintsArt)?.page;
  if (!page) throw new InputError('sheet', 'Nothing is printed on this sheet.');
  const { widthMm, heightMm } = page;
  const dpi = Math.min(PLATES_DPI, Math.sqrt(mostPixels / (widthMm * heightMm)) * 25.4);
  const inks = await openProfile(readFileSync(profile), rendering);
  const { width, height, rgb, beyond, beyondShare } = await softView(page, { dpi, profile: inks, pictures: picturesIn(pictures) });
  const mask = new Uint8Array(4 * width * height);
  for (let i = 0; i < beyond.length; i++) if (beyond[i]) mask.set([230, 0, 170, 255], 4 * i);
  return { widthMm, heightMm, profile: inks.name, picture: pngOf(width, height, rgb), beyond: pngOf(width, height, mask), beyondShare };
}

/** Looked at once and thrown away: made quickly rather than small. */
const pngOf = (width: number, height: number, data: Uint8Array): string =>
  `data:image/png;base64,${Buffer.from(writePng({ width, height, data, pack: (rows) => deflateSync(rows, { level: 1 }) })).toString('base64')}`;

const plateOf = ({ name, width, height, data, cover }: Plate): SheetPlate => ({ name, cover, picture: pngOf(width, height, data) });

function correct({ plan: cut, correction }: CorrectRequest): OpAnswers['correct'] {
  const { hpgl, estimate } = cutFile(linesOfCut(cut), cut.cutting, correction ?? undefined);
  return { hpgl, cutMm: estimate.cutMm };
}

const WOFF2 = 0x774f4632;

async function readFont(bytes: Uint8Array): Promise<FontAnswer> {
  const isWoff2 = bytes.length > 4 && new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0) === WOFF2;
  let sfnt = bytes;
  if (isWoff2) {
    try {
      sfnt = await wawoff2.decompress(bytes);
    } catch {
      throw new InputError('font', 'This WOFF2 font is damaged and cannot be unpacked.');
    }
  }
  return { description: describeFont(sfnt), sfnt };
}

function answer(task: PoolTask): OpAnswers[keyof OpAnswers] | Promise<OpAnswers[keyof OpAnswers]> {
  switch (task.op) {
    case 'plan':
      return plan(task);
    case 'thumbnail':
      return drawThumbnail(task.drawing, knowing(task.drawing, task.fonts), new Map(Object.entries(task.pictures)));
    case 'print':
      return print(task);
    case 'soft':
      return soft(task);
    case 'profile':
      return openProfile(task.bytes).then(({ name }) => ({ name }));
    case 'plates':
      return plates(task);
    case 'correct':
      return correct(task);
    case 'font':
      return readFont(task.bytes);
  }
}

export default async function run(task: PoolTask): Promise<WorkerAnswer<keyof OpAnswers>> {
  try {
    return { ok: true, output: await answer(task) };
  } catch (error) {
    return { ok: false, error: errorToWire(error) };
  } finally {
    task.port?.close();
  }
}
