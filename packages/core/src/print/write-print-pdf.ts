/**
 * Print files: a page as PDF at true size (ISO 32000-2), written as a stream so that large pictures never lie in memory.
 * Art is in process inks when a profile is given (then the file names it as its output intent, ISO 15930-7), else in RGB.
 * Painting order: art, marks, then the cut lines last, as Separations with overprint (OP, op, OPM 1) on optional content
 * with the keys of ISO 19593-1: the process plates are the same with them and without.
 * What is printed in passes has a page for each, in their order, the same size, white passes with their Separation alone.
 * Forms are written once and placed many times. UserUnit only beyond 5.08 m, where readers without it show a smaller page.
 * Not written: fonts (all lettering is outlines), JavaScript, encryption.
 */
import { strToU8 } from 'fflate';
import type { Control } from '../types/index.ts';
import { LimitError } from '../errors/index.ts';
import { itemContent, nameOf, number, numbers, OVER, pathOf, pictureKey, Resources, separation, textOf } from './pdf-content.ts';
import { PdfFile, type ByteSink } from './pdf-file.ts';
import { NO_WHITE, writeLines, writeWhite } from './pdf-lines.ts';
import { writeMask, writePicture } from './pdf-pictures.ts';
import { pagesOfPasses, type PictureSource, type PrintColour, type PrintForm, type PrintLineKind, type PrintPage } from './page.ts';
import type { ProcessColours } from './process-colours.ts';

const POINTS_PER_MM = 72 / 25.4;
/** The longest side that readers take without a user unit, points. */
const LONGEST = 14_400;

const usedSpots = (forms: readonly PrintForm[]): Map<string, PrintColour> => {
  const out = new Map<string, PrintColour>();
  for (const { items } of forms)
    for (const item of items)
      for (const colour of item.kind === 'shape' ? [item.fill, item.stroke] : [item.ink])
        if (colour?.spot !== undefined) out.set(colour.spot, colour);
  return out;
};

interface PageParts {
  readonly content: string;
  readonly resources: string;
  readonly layers: readonly number[];
}

/** What the parts of a page are written with. */
interface PartsSetup {
  readonly pictures: PictureSource;
  readonly inks: ProcessColours | undefined;
  /** Does it show the art, or only lines and white? */
  readonly paintsArt: boolean;
  /** Numbers of the pictures that the file has already. */
  readonly written: Map<string, number>;
}

/** The page's pictures, and masks of those that are plates. */
async function writePictures(
  file: PdfFile,
  page: PrintPage,
  resources: Resources,
  { pictures, inks, written }: PartsSetup,
  control: Control,
): Promise<void> {
  const items = page.forms.flatMap((form) => form.items.flatMap((item) => (item.kind === 'picture' ? [item] : [])));
  // a picture of several passes is stored once
  for (const [key, { picture, ink }] of new Map(items.map((item) => [pictureKey(item), item]))) {
    const isPlate = ink?.spot !== undefined;
    const write = (): Promise<number> =>
      isPlate
        ? writeMask(file, pictures(picture), control)
        : writePicture(file, pictures(picture), inks, control, ink && resources.values(ink));
    const number = written.get(key) ?? (await write());
    written.set(key, number);
    (isPlate ? resources.masks : resources.pictures).set(key, number);
  }
}

/** Pictures, forms and lines, and what the page says of them. */
async function writeParts(file: PdfFile, page: PrintPage, setup: PartsSetup, control: Control): Promise<PageParts> {
  const { pictures, inks, paintsArt } = setup;
  const resources = new Resources(inks);
  if (paintsArt) await writePictures(file, page, resources, setup, control);
  const contents = (paintsArt ? page.forms : []).map(({ id, items, clip }) => ({
    id,
    clip,
    text: items
      .map((item) => itemContent(item, resources))
      .filter(Boolean)
      .join('\n'),
  }));
  const spots = [...usedSpots(paintsArt ? page.forms : [])].map(
    ([name, colour]) => `${nameOf(name)} ${separation(name, resources.values({ hex: colour.hex, cmyk: colour.cmyk }), resources.space)}`,
  );
  const xobjects = [...resources.pictures].map(([name, n]) => `/P${name} ${n} 0 R`).join(' ');
  const states = [
    ...(resources.masks.size > 0 ? [OVER] : []),
    ...[...resources.masks].map(([key, n]) => `/M${key} << /SMask << /Type /Mask /S /Luminosity /G ${n} 0 R >> >>`),
  ].join(' ');
  const shared = await file.object(
    `<< /XObject << ${xobjects} >> /ExtGState << ${states} >> /ColorSpace << ${spots.join(' ')} >> /Shading << ${resources.courses.join(' ')} >> >>`,
  );
  const formNumbers = new Map<string, number>();
  const half = 1e5;
  for (const { id, text, clip = { minX: -half, minY: -half, maxX: half, maxY: half } } of contents)
    formNumbers.set(
      id,
      await file.stream(
        `/Type /XObject /Subtype /Form /BBox [${numbers([clip.minX, clip.minY, clip.maxX, clip.maxY])}] /Resources ${shared} 0 R`,
        [strToU8(text)],
      ),
    );
  const lines = await writeLines(file, page);
  const white = page.white ? await writeWhite(file, page, page.white, pictures, control) : NO_WHITE;
  const placed = (paintsArt ? page.placements : [])
    .map(({ form, map }) => `q ${map.map((n) => n.toFixed(8)).join(' ')} cm /F${form} Do Q`)
    .join('\n');
  const black = inks ? '0 0 0 1 k' : '0 0 0 rg';
  const marks = page.marks.contours.length > 0 ? `q ${black}\n${pathOf(page.marks)}\nf\nQ\n` : '';
  return {
    content: `${placed}\n${marks}${white.content}${lines.content}`,
    resources: `<< /XObject << ${[...formNumbers].map(([id, n]) => `/F${id} ${n} 0 R`).join(' ')} >> /ExtGState << ${OVER} ${white.states} >> /ColorSpace << ${white.spaces}${lines.spaces} >> /Properties << ${white.properties}${lines.properties} >> >>`,
    layers: [...white.layers, ...lines.layers],
  };
}

/** What a print file is written with. */
export interface PrintPdfOptions {
  /** Process inks of the printing condition; absent: the art stays in RGB. */
  readonly inks?: ProcessColours | undefined;
  /** Name of the printing condition. */
  readonly condition?: string;
  /** Time of making, ISO 8601; a fixed one makes the same bytes of the same page. */
  readonly madeAt?: string;
}

/** A number of 32 hexadecimal digits for the file, from what it says of itself (FNV-1a, 4 × 32 bit). */
function fileId(text: string): string {
  return [0, 1, 2, 3]
    .map((salt) => {
      let hash = 0x811c9dc5 ^ salt;
      for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193) >>> 0;
      return hash.toString(16).padStart(8, '0');
    })
    .join('');
}

/**
 * Writes a page.
 * @param sink takes the bytes in order
 * @throws LimitError `limit.pdf` for a side beyond 100 m; CancelledError; InputError for a damaged picture
 */
export async function writePrintPdf(
  page: PrintPage,
  pictures: PictureSource,
  sink: ByteSink,
  options: PrintPdfOptions = {},
  control: Control = {},
): Promise<void> {
  const longest = Math.max(page.widthMm, page.heightMm) * POINTS_PER_MM;
  if (!(longest < 20 * LONGEST)) throw new LimitError('pdf', 'A page of a PDF is at most 100 m long.');
  const unit = Math.max(1, Math.ceil(longest / LONGEST));
  const scale = POINTS_PER_MM / unit;
  const { inks, condition = inks?.name ?? 'Process inks', madeAt = new Date().toISOString() } = options;
  const file = new PdfFile(sink);
  await file.begin();
  const pages = pagesOfPasses(page);
  const box = `[0 0 ${number(page.widthMm * scale)} ${number(page.heightMm * scale)}]`;
  const tree = file.number();
  const written = new Map<string, number>();
  const leaves: number[] = [];
  const layers: number[] = [];
  let length = 0;
  for (const one of pages) {
    const parts = await writeParts(file, one.page, { pictures, inks, paintsArt: one.paintsArt, written }, control);
    const content = await file.stream('', [strToU8(`q ${scale.toFixed(9)} 0 0 ${scale.toFixed(9)} 0 0 cm\n${parts.content}Q`)]);
    leaves.push(
      await file.object(
        `<< /Type /Page /Parent ${tree} 0 R /MediaBox ${box} /TrimBox ${box} ${unit > 1 ? `/UserUnit ${unit} ` : ''}/Resources ${parts.resources} /Contents ${content} 0 R >>`,
      ),
    );
    layers.push(...parts.layers);
    length += parts.content.length;
  }
  await file.object(`<< /Type /Pages /Kids [${leaves.map((n) => `${n} 0 R`).join(' ')}] /Count ${leaves.length} >>`, tree);
  let intent = '';
  if (inks) {
    const profile = await file.stream('/N 4', [inks.profile]);
    intent = `/OutputIntents [<< /Type /OutputIntent /S /GTS_PDFX /OutputConditionIdentifier ${textOf(condition)} /Info ${textOf(condition)} /DestOutputProfile ${profile} 0 R >>] `;
  }
  const list = layers.map((n) => `${n} 0 R`).join(' ');
  const labels =
    pages.length > 1 ? `/PageLabels << /Nums [${pages.map(({ name }, i) => `${i} << /P ${textOf(name)} >>`).join(' ')}] >> ` : '';
  const optional = layers.length > 0 ? `/OCProperties << /OCGs [${list}] /D << /Order [${list}] /ON [${list}] >> >> ` : '';
  const catalogue = await file.object(`<< /Type /Catalog /Pages ${tree} 0 R ${intent}${labels}${optional}>>`);
  const date = `(D:${madeAt.replace(/[^0-9]/g, '').slice(0, 14)}Z)`;
  const info = await file.object(
    `<< /Title ${textOf(page.title)} /Producer (Lorvek) /Creator (Lorvek) /CreationDate ${date} /ModDate ${date} /Trapped /False >>`,
  );
  await file.end(catalogue, info, fileId(`${page.title} ${madeAt} ${length}`));
}

/** Kinds of lines that a page has, for names and legends. */
export const linesOf = (page: PrintPage): PrintLineKind[] => [...new Set(page.lines.map(({ kind }) => kind))];
