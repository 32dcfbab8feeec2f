/**
 * PDF to artwork at true size (ISO 32000): one page's paths, fills, strokes, clips, pictures and letters as outlines,
 * by layers, in mm with y up; the page's user unit and turn are followed. Parsing by pdf.js; the walk is ours.
 *
 * Method: the parser's list of operations is walked with a stack of graphics states. Clips are applied with the weld
 * family, but for parts that lie wholly within a box. Shadings become one flat colour and transparency is taken as
 * solid, both with a remark. Letters whose font is not in the file are taken from the shop's fonts when it has them.
 * Limits: 200 MB, 200 000 parts, forms 50 deep. Nothing is fetched or run.
 */
import type { Matrix } from '../../types/index.ts';
import { AppError, InputError, LimitError } from '../../errors/index.ts';
import { compose, invert, mapPoint, rotation, scaling, translation } from '../../geometry/transform.ts';
import { at } from '../../geometry/span.ts';
import type { ImportedArtwork, PageBox, PageBoxName, ReadOptions } from '../artwork.ts';
import { loadEngine, type PdfDocument, type PdfPage } from './engine.ts';
import { PageWalker } from './page-walker.ts';
import { inksOf, MOST_OPERATIONS, type BoxView, type PageFacts } from './inks.ts';

/** What a PDF file is read with. */
export interface ReadPdfOptions extends ReadOptions {
  /** Counted from 1. */
  readonly page?: number;
  /** The box that is taken as the page; what is shown of it when absent. */
  readonly box?: PageBoxName;
}

const MM_PER_POINT = 25.4 / 72;
const MOST_BYTES = 200 * 1024 * 1024;
const MOST_PIXELS = 100_000_000;

/** From the page's own units to mm, its shown part's lower left corner at the origin, turned as it is shown. */
function pageMap({ userUnit, rotate }: PdfPage, view: BoxView): { toMm: Matrix; widthMm: number; heightMm: number } {
  const k = MM_PER_POINT * (userUnit || 1);
  const [w, h] = [(view[2] - view[0]) * k, (view[3] - view[1]) * k];
  const turn = (((Math.round(rotate / 90) * 90) % 360) + 360) % 360;
  const upright = compose(scaling(k, k), translation(-view[0], -view[1]));
  const shift = { 0: [0, 0], 90: [0, w], 180: [w, h], 270: [h, 0] }[turn] ?? [0, 0];
  const toMm = compose(compose(translation(at(shift, 0), at(shift, 1)), rotation(-turn)), upright);
  return turn % 180 === 0 ? { toMm, widthMm: w, heightMm: h } : { toMm, widthMm: h, heightMm: w };
}

/** Boxes less alike than this are told apart, in the page's units. */
const BOX_DIFFERS = 0.5;

/** What is shown, and the boxes that differ from it and from one another. */
function pageBoxes(page: PdfPage, facts: PageFacts | undefined): Map<PageBoxName, BoxView> {
  const out = new Map<PageBoxName, BoxView>([['shown', page.view]]);
  for (const name of ['trim', 'bleed', 'paper'] as const) {
    const box = facts?.boxes[name];
    if (!box?.every(Number.isFinite) || !(box[2] > box[0] && box[3] > box[1])) continue;
    const isNew = [...out.values()].every((known) => known.some((v, i) => Math.abs(v - at(box, i)) > BOX_DIFFERS));
    if (isNew) out.set(name, box);
  }
  return out;
}

function boxList(page: PdfPage, views: ReadonlyMap<PageBoxName, BoxView>, taken: PageBoxName): PageBox[] {
  const list = [...views].map(([name, view]): PageBox => {
    const { widthMm, heightMm } = pageMap(page, view);
    return { name, widthMm, heightMm };
  });
  return list.sort((a, b) => Number(b.name === taken) - Number(a.name === taken));
}

const isLocked = (error: unknown): boolean => error instanceof Error && error.name === 'PasswordException';

async function open(
  bytes: Uint8Array,
): Promise<{ document: PdfDocument; operators: Readonly<Record<string, number>>; close(): Promise<void> }> {
  const { getDocument, OPS } = await loadEngine();
  // the parser takes the bytes over, so it gets its own
  const task = getDocument({
    data: new Uint8Array(bytes),
    disableFontFace: true,
    fontExtraProperties: true,
    isEvalSupported: false,
    useSystemFonts: false,
    useWorkerFetch: false,
    isOffscreenCanvasSupported: false,
    isImageDecoderSupported: false,
    useWasm: false,
    enableXfa: false,
    stopAtErrors: false,
    maxImageSize: MOST_PIXELS,
    verbosity: 0,
  });
  try {
    return { document: await task.promise, operators: OPS, close: () => task.destroy() };
  } catch (error) {
    await task.destroy();
    if (isLocked(error)) throw new InputError('pdf', 'The file is locked by a password. Ask for one without.');
    throw new InputError('pdf', 'This is not a PDF file, or it is damaged beyond reading.');
  }
}

/** @throws LimitError `limit.pdf` for a page whose parts repeat one another without measure */
function checkedFacts<T extends { readonly operations: number } | undefined>(facts: T): T {
  if (facts && facts.operations > MOST_OPERATIONS)
    throw new LimitError(
      'pdf',
      'The page repeats its parts so often that they cannot all be read. Have it saved flattened, or as a picture.',
    );
  return facts;
}

/** @throws InputError `input.pdf` for a page that has no size, or one that is none */
function checkedMap(map: ReturnType<typeof pageMap>): ReturnType<typeof pageMap> {
  const { toMm, widthMm, heightMm } = map;
  if (![widthMm, heightMm].every((n) => n > 0 && n < 1e6) || !invert(toMm) || !Number.isFinite(mapPoint(toMm, { x: 1, y: 1 }).x))
    throw new InputError('pdf', 'The page has no size.');
  return map;
}

/**
 * Reads a page of a PDF.
 * @returns artwork in mm, y up; `pages` says how many there are
 * @throws InputError `input.pdf` when it is none, is locked or lacks the page; LimitError `limit.pdf`; CancelledError
 */
export async function readPdf(bytes: Uint8Array, options: ReadPdfOptions = {}): Promise<ImportedArtwork> {
  if (bytes.length > MOST_BYTES) throw new LimitError('pdf', 'The file is larger than 200 MB.');
  const { document, operators, close } = await open(bytes);
  try {
    const number = options.page ?? 1;
    if (!(number >= 1 && number <= document.numPages))
      throw new InputError('pdf', `The file has ${document.numPages} pages.`, { field: 'page' });
    const page = await document.getPage(number);
    const facts = checkedFacts(await inksOf(bytes, number));
    const views = pageBoxes(page, facts);
    const taken = options.box !== undefined && views.has(options.box) ? options.box : 'shown';
    const { toMm, widthMm, heightMm } = checkedMap(pageMap(page, views.get(taken) ?? page.view));
    const walker = new PageWalker(page, await document.getOptionalContentConfig(), operators, options, toMm);
    const list = await page.getOperatorList({ intent: 'display', annotationMode: 0 });
    walker.nameInks(list, facts);
    await walker.walk(list);
    const hidden = walker.items.filter((item) => item.hidden).length;
    if (hidden > 0) walker.remarks.add('hidden', 'Parts lie on layers that are switched off.', hidden);
    return {
      widthMm,
      heightMm,
      items: walker.items,
      pictures: walker.pictures,
      report: walker.remarks.list,
      hasSize: true,
      pages: document.numPages,
      ...(views.size > 1 ? { boxes: boxList(page, views, taken) } : {}),
    };
  } catch (error) {
    throw error instanceof AppError ? error : new InputError('pdf', 'The page is damaged beyond reading.');
  } finally {
    await close();
  }
}
