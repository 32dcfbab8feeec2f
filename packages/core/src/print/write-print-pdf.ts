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
import type { Control, Outline } from '../types/index.ts';
import { rgbOf } from '../colour/index.ts';
import { CancelledError, InputError, LimitError } from '../errors/index.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { unrolled, type Gradient, type GradientStop } from '../colour/gradient.ts';
import { stopBetween } from './course.ts';
import { LINE_INKS } from './line-inks.ts';
import { PdfFile, type ByteSink } from './pdf-file.ts';
import {
  pagesOfPasses,
  type PictureSource,
  type PrintColour,
  type PrintForm,
  type PrintItem,
  type PrintLineKind,
  type PrintPage,
  type PrintPicture,
} from './page.ts';
import type { ProcessColours } from './process-colours.ts';
import { WHITE_INK, whiteOutline, whiteShares } from './white.ts';

const POINTS_PER_MM = 72 / 25.4;
/** The longest side that readers take without a user unit, points. */
const LONGEST = 14_400;
const LINE_WIDTH_MM = 0.1;
/** Pixels that are converted at once. */
const BATCH_PX = 1 << 20;
/** Stops of a course between two given ones, so that it runs through process inks as it does through RGB. */
const COURSE_STEPS = 8;

const number = (n: number): string => {
  if (!Number.isFinite(n)) throw new InputError('number', 'The page holds a number that is none.');
  const text = (Math.round(n * 1e5) / 1e5 + 0).toFixed(5);
  return text.replace(/\.?0+$/, '');
};
const numbers = (list: Iterable<number>): string => Array.from(list, number).join(' ');
/** A name as the language writes it (7.3.5). */
const nameOf = (text: string): string =>
  `/${Array.from(strToU8(text), (b) => (/[A-Za-z0-9_.-]/.test(String.fromCharCode(b)) ? String.fromCharCode(b) : `#${b.toString(16).padStart(2, '0')}`)).join('')}`;
const textOf = (text: string): string =>
  `<feff${Array.from({ length: text.length }, (_, i) => text.charCodeAt(i).toString(16).padStart(4, '0')).join('')}>`;

function pathOf({ contours }: Outline): string {
  return contours
    .flatMap(({ closed, spans }) => {
      const [first] = spans;
      if (!first) return [];
      const parts = spans.map((span, i) =>
        closed && i === spans.length - 1 && span.length === 4 ? '' : `${numbers(span.slice(2))} ${span.length === 4 ? 'l' : 'c'}`,
      );
      return [`${number(first[0] as number)} ${number(first[1] as number)} m`, ...parts.filter(Boolean), ...(closed ? ['h'] : [])];
    })
    .join('\n');
}

type PictureItem = Extract<PrintItem, { kind: 'picture' }>;

/** A picture as the file's resources call it: of one that is in a single ink there may be several. */
const pictureKey = ({ picture, ink }: PictureItem): string =>
  ink ? `${picture}-${[ink.hex.slice(1), ink.spot === undefined ? '' : 's', ...(ink.cmyk ?? [])].join('-')}` : picture;

/** What forms name and the page's resources hold: inks, courses, pictures. */
class Resources {
  readonly spaces = new Map<string, number>();
  readonly courses: string[] = [];
  readonly pictures = new Map<string, number>();
  /** Masks of pictures that are plates of a spot. */
  readonly masks = new Map<string, number>();
  private readonly inks: ProcessColours | undefined;

  constructor(inks: ProcessColours | undefined) {
    this.inks = inks;
  }

  get space(): string {
    return this.inks ? '/DeviceCMYK' : '/DeviceRGB';
  }

  values(colour: PrintColour): number[] {
    const rgb = rgbOf(colour.hex);
    if (!this.inks) return rgb.map((v) => v / 255);
    return colour.cmyk ? [...colour.cmyk] : Array.from(this.inks.toInks(Uint8Array.from(rgb)), (v) => v / 255);
  }

  /** The operator that sets a colour, for filling or for lines. */
  setting(colour: PrintColour, isStroke: boolean): string {
    if (colour.spot !== undefined) return `${nameOf(colour.spot)} ${isStroke ? 'CS 1 SCN' : 'cs 1 scn'}`;
    const operator = this.inks ? (isStroke ? 'K' : 'k') : isStroke ? 'RG' : 'rg';
    return `${numbers(this.values(colour))} ${operator}`;
  }

  course(gradient: Gradient): string {
    const { kind, stops, inner } = gradient;
    const coords = kind === 'linear' ? [0, 0, 1, 0] : [inner?.x ?? 0, inner?.y ?? 0, inner?.r ?? 0, 0, 0, 1];
    const name = `/C${this.courses.length}`;
    this.courses.push(
      `${name} << /ShadingType ${kind === 'linear' ? 2 : 3} /ColorSpace ${this.space} /Coords [${numbers(coords)}] /Extend [true true] /Function ${this.courseFunction(stops)} >>`,
    );
    return name;
  }

  /** Pieces between stops, stitched together (7.10.3, 7.10.4). */
  private courseFunction(given: readonly GradientStop[]): string {
    const [first, last] = [given[0] as GradientStop, given.at(-1) as GradientStop];
    const stops = [...(first.offset > 0 ? [{ ...first, offset: 0 }] : []), ...given, ...(last.offset < 1 ? [{ ...last, offset: 1 }] : [])];
    const pieces: { from: GradientStop; to: GradientStop }[] = [];
    for (let i = 1; i < stops.length; i++) {
      const [a, b] = [stops[i - 1] as GradientStop, stops[i] as GradientStop];
      if (b.offset - a.offset < 1e-6) continue;
      const steps = this.inks ? COURSE_STEPS : 1;
      for (let k = 0; k < steps; k++) pieces.push({ from: stopBetween(a, b, k / steps), to: stopBetween(a, b, (k + 1) / steps) });
    }
    const piece = ({ from, to }: { from: GradientStop; to: GradientStop }): string =>
      `<< /FunctionType 2 /Domain [0 1] /C0 [${numbers(this.values(from))}] /C1 [${numbers(this.values(to))}] /N 1 >>`;
    const joints = pieces.slice(1).map(({ from }) => from.offset);
    return `<< /FunctionType 3 /Domain [0 1] /Functions [${pieces.map(piece).join(' ')}] /Bounds [${numbers(joints)}] /Encode [${pieces.map(() => '0 1').join(' ')}] >>`;
  }
}

function itemContent(item: PrintItem, resources: Resources): string {
  if (item.kind === 'picture') {
    const clip = item.clip ? `${pathOf(item.clip)}\nW n\n` : '';
    // the ink everywhere under a mask, over what is there: the form that leaves the other plates as they are
    if (item.ink?.spot !== undefined)
      return `q\n${clip}${numbers(item.matrix)} cm /Over gs ${resources.setting(item.ink, false)} /M${pictureKey(item)} gs\n0 0 1 1 re\nf\nQ`;
    return `q\n${clip}${numbers(item.matrix)} cm /P${pictureKey(item)} Do\nQ`;
  }
  const path = pathOf(item.outline);
  if (path === '') return '';
  const box = bounds(item.outline);
  const parts: string[] = [];
  if (item.gradient && !isEmptyBox(box)) {
    const course = unrolled(item.gradient, box);
    parts.push(`q\n${path}\nW n ${course.matrix.map((n) => n.toFixed(8)).join(' ')} cm ${resources.course(course)} sh\nQ`);
  } else if (item.fill) parts.push(`${resources.setting(item.fill, false)}\n${path}\nf`);
  if (item.stroke) parts.push(`${resources.setting(item.stroke, true)} ${number(item.stroke.widthMm)} w 0 J 0 j 10 M\n${path}\nS`);
  return parts.join('\n');
}

/** Rows of a picture as samples in the file's colours, or of its alpha. @param wanted values that all pixels have, where they do */
async function* samplesOf(
  picture: PrintPicture,
  inks: ProcessColours | undefined,
  wanted: 'colour' | 'alpha' | readonly number[],
  control: Control,
): AsyncGenerator<Uint8Array> {
  const batch = Math.max(1, Math.floor(BATCH_PX / picture.widthPx));
  for (let y = 0; y < picture.heightPx; y += batch) {
    if (control.signal?.aborted) throw new CancelledError();
    const count = Math.min(batch, picture.heightPx - y);
    if (typeof wanted === 'object') {
      const flat = Uint8Array.from(wanted, (v) => Math.round(255 * v));
      const out = new Uint8Array(flat.length * picture.widthPx * count);
      for (let i = 0; i < out.length; i += flat.length) out.set(flat, i);
      yield out;
      continue;
    }
    const rgba = await picture.rows(y, count);
    const pixels = picture.widthPx * count;
    if (rgba.length < 4 * pixels) throw new InputError('picture', 'A picture is shorter than it says.');
    const out = new Uint8Array(wanted === 'alpha' ? pixels : 3 * pixels);
    for (let i = 0; i < pixels; i++) {
      if (wanted === 'alpha') out[i] = rgba[4 * i + 3] as number;
      else for (let c = 0; c < 3; c++) out[3 * i + c] = rgba[4 * i + c] as number;
    }
    yield wanted === 'alpha' || !inks ? out : inks.toInks(out);
    control.onProgress?.(y + count, picture.heightPx, 'picture');
  }
}

const sizeOf = ({ widthPx, heightPx }: PrintPicture): string =>
  `/Type /XObject /Subtype /Image /Width ${widthPx} /Height ${heightPx} /BitsPerComponent 8`;

/** The alpha of a picture as a mask over the unit square. */
async function writeMask(file: PdfFile, picture: PrintPicture, control: Control): Promise<number> {
  const image = await file.stream(`${sizeOf(picture)} /ColorSpace /DeviceGray`, samplesOf(picture, undefined, 'alpha', control));
  return file.stream(
    `/Type /XObject /Subtype /Form /BBox [0 0 1 1] /Group << /S /Transparency /CS /DeviceGray >> /Resources << /XObject << /M ${image} 0 R >> >>`,
    [strToU8('q 1 0 0 1 0 0 cm /M Do Q')],
  );
}

/** @param flat values that all pixels have: only the alpha is the picture's */
async function writePicture(
  file: PdfFile,
  picture: PrintPicture,
  inks: ProcessColours | undefined,
  control: Control,
  flat?: readonly number[],
): Promise<number> {
  const size = sizeOf(picture);
  const mask = picture.hasAlpha
    ? await file.stream(`${size} /ColorSpace /DeviceGray`, samplesOf(picture, inks, 'alpha', control))
    : undefined;
  const space = inks ? '/DeviceCMYK' : '/DeviceRGB';
  return file.stream(
    `${size} /ColorSpace ${space}${mask === undefined ? '' : ` /SMask ${mask} 0 R`}`,
    samplesOf(picture, inks, flat ?? 'colour', control),
  );
}

const usedSpots = (forms: readonly PrintForm[]): Map<string, PrintColour> => {
  const out = new Map<string, PrintColour>();
  for (const { items } of forms)
    for (const item of items)
      for (const colour of item.kind === 'shape' ? [item.fill, item.stroke] : [item.ink])
        if (colour?.spot !== undefined) out.set(colour.spot, colour);
  return out;
};

/** Paints over what is there without taking its inks away. */
const OVER = '/Over << /OP true /op true /OPM 1 >>';

const separation = (name: string, look: readonly number[], space: string): string =>
  `[/Separation ${nameOf(name)} ${space} << /FunctionType 2 /Domain [0 1] /C0 [${look.map((_, i) => (space === '/DeviceRGB' ? 1 : 0) * Number(i >= 0)).join(' ')}] /C1 [${numbers(look)}] /N 1 >>]`;

interface PageParts {
  readonly content: string;
  readonly resources: string;
  readonly layers: readonly number[];
}

/** Cut lines, each kind on its layer. */
async function writeLines(
  file: PdfFile,
  page: PrintPage,
): Promise<{ content: string; properties: string; spaces: string; layers: number[] }> {
  const kinds = [...new Set(page.lines.map(({ kind }) => kind))];
  const layers: number[] = [];
  const parts = { content: '', properties: '', spaces: '' };
  for (const kind of kinds) {
    const ink = LINE_INKS[kind];
    const layer = await file.object(
      `<< /Type /OCG /Name ${textOf(ink.name)} /GTS_Metadata << /GTS_ProcStepsGroup ${nameOf(ink.group)} /GTS_ProcStepsType ${nameOf(ink.type)} >> >>`,
    );
    layers.push(layer);
    parts.properties += `/L${kind} ${layer} 0 R `;
    parts.spaces += `${nameOf(ink.name)} ${separation(ink.name, ink.look, '/DeviceCMYK')} `;
    const path = page.lines.filter((line) => line.kind === kind).map(({ outline }) => pathOf(outline));
    parts.content += `/OC /L${kind} BDC\nq /Over gs ${nameOf(ink.name)} CS 1 SCN ${LINE_WIDTH_MM} w\n${path.map((d) => `${d}\nS`).join('\n')}\nQ\nEMC\n`;
  }
  return { ...parts, layers };
}

interface WrittenWhite {
  readonly content: string;
  readonly states: string;
  readonly spaces: string;
  readonly properties: string;
  readonly layers: readonly number[];
}
const NO_WHITE: WrittenWhite = { content: '', states: '', spaces: '', properties: '', layers: [] };

/** Soft white is as fine as this, unless the page is so large that it would not be held. */
const WHITE_DPI = 200;
const MOST_WHITE_PX = 16e6;

/**
 * White after all art, printed over and besides it: a filled path, or all of the page under a mask. Both renderers that were
 * asked keep the process plates as they are in these two forms alone.
 */
async function writeWhite(
  file: PdfFile,
  page: PrintPage,
  white: NonNullable<PrintPage['white']>,
  pictures: PictureSource,
  control: Control,
): Promise<WrittenWhite> {
  const layer = await file.object(
    `<< /Type /OCG /Name ${textOf(WHITE_INK)} /GTS_Metadata << /GTS_ProcStepsGroup /White /GTS_ProcStepsType /White >> >>`,
  );
  const space = separation(WHITE_INK, [0, 0, 0, 0], '/DeviceCMYK');
  const shared = { spaces: `${nameOf(WHITE_INK)} ${space} `, properties: `/Lwhite ${layer} 0 R `, layers: [layer] };
  const begin = `/OC /Lwhite BDC\nq /Over gs ${nameOf(WHITE_INK)} cs`;
  const hard = whiteOutline(page, white, (name) => pictures(name).hasAlpha);
  if (hard) return { ...shared, states: '', content: `${begin} ${number(white.strengthPct / 100)} scn\n${pathOf(hard)}\nf\nQ\nEMC\n` };
  const dpi = Math.min(WHITE_DPI, Math.sqrt(MOST_WHITE_PX / (page.widthMm * page.heightMm)) * 25.4);
  const [width, height] = [page.widthMm, page.heightMm].map((mm) => Math.max(1, Math.round((mm * dpi) / 25.4))) as [number, number];
  const shares = await whiteShares(page, white, { width, height, pictures }, control);
  const image = await file.stream(
    `/Type /XObject /Subtype /Image /Width ${width} /Height ${height} /BitsPerComponent 8 /ColorSpace /DeviceGray`,
    [Uint8Array.from(shares, (v) => Math.round(255 * v))],
  );
  const [w, h] = [number(page.widthMm), number(page.heightMm)];
  const mask = await file.stream(
    `/Type /XObject /Subtype /Form /BBox [0 0 ${w} ${h}] /Group << /S /Transparency /CS /DeviceGray >> /Resources << /XObject << /M ${image} 0 R >> >>`,
    [strToU8(`q ${w} 0 0 ${h} 0 0 cm /M Do Q`)],
  );
  const states = `/Soft << /SMask << /Type /Mask /S /Luminosity /G ${mask} 0 R >> >>`;
  return { ...shared, states, content: `${begin} 1 scn /Soft gs\n0 0 ${w} ${h} re\nf\nQ\nEMC\n` };
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
