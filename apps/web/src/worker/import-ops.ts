/**
 * Files of other programs to shapes: pure, for the worker. Strokes get their real outline; lines without width stay
 * the lines to cut, those that close round one another become shapes with holes.
 */
import {
  bounds,
  formatPath,
  joinLooseEnds,
  mapOutline,
  nestContours,
  strokeToShape,
  translation,
  type Contour,
  type Outline,
} from '@lorvek/core/geometry';
import {
  readDxf,
  readHpgl,
  readPdf,
  readSvg,
  readTiff,
  writePng,
  type ArtworkItem,
  type ImportedArtwork,
  type PageBox,
  type PageBoxName,
  type ReadOptions,
  type Remark,
} from '@lorvek/core/format';
import { setLettering, type Font } from '@lorvek/core/lettering';
import type { Gradient } from '@lorvek/core/colour';
import type { Control } from '@lorvek/core';
import { gradientAt, type ShapeItem } from '@lorvek/model';

export type DrawingFile = 'svg' | 'pdf' | 'dxf' | 'hpgl';

export interface Imported {
  readonly shapes: readonly Omit<ShapeItem, 'id'>[];
  /** The file's colour of each shape, in the same order. */
  readonly hexes: readonly string[];
  readonly pictures: ImportedArtwork['pictures'];
  readonly widthMm: number;
  readonly heightMm: number;
  readonly hasSize: boolean;
  readonly report: readonly Remark[];
  readonly pages: number;
  /** Boxes of the page to choose from, the taken one first; none when there is no choice. */
  readonly boxes: readonly PageBox[];
  /** Parts on layers that are switched off; they are not among the shapes unless asked for. */
  readonly hidden: number;
}

export interface ImportAsked {
  readonly bytes: Uint8Array;
  readonly kind: DrawingFile;
  readonly page: number;
  readonly box: PageBoxName;
  readonly withHidden: boolean;
}

/** Strokes thinner than this are lines to cut, not shapes: no blade cuts round them. */
const HAIRLINE_MM = 0.3;
/** Ends nearer than this are the same place in every file. */
const JOIN_MM = 0.05;

const isHairline = ({ stroke }: ArtworkItem): boolean => stroke !== undefined && stroke.widthMm < HAIRLINE_MM;

function outlineOf({ outline, stroke }: ArtworkItem): Outline {
  if (!stroke) return outline;
  return strokeToShape(outline, {
    width: stroke.widthMm,
    cap: stroke.cap ?? 'butt',
    join: stroke.join ?? 'mitre',
    mitreLimit: stroke.mitreLimit ?? 4,
    ...(stroke.dashMm ? { dash: [...stroke.dashMm], dashOffset: stroke.dashOffsetMm ?? 0 } : {}),
  });
}

const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;

/** Fonts of the shop by what a file calls them; undefined when the shop has none of that name. */
export type FontByFamily = (family: string) => Promise<Font | undefined>;

/** First name of a CSS font list, without quotes. */
const familyName = (list: string): string => (list.split(',')[0] ?? '').trim().replace(/^["']|["']$/g, '');

/** Files without font names are set in this one. */
const PLAIN_FAMILY = 'Barlow Condensed';

/** Reads the file; when it has text, once more with the fonts that it names. */
async function readWithFonts(read: (options: ReadOptions) => Promise<ImportedArtwork>, fontOf: FontByFamily): Promise<ImportedArtwork> {
  const families = new Set<string>();
  const nameOf = (family: string): string => familyName(family) || PLAIN_FAMILY;
  const plain = await read({
    textOutline: ({ family }) => {
      families.add(nameOf(family));
      return undefined;
    },
  });
  const fonts = new Map<string, Font>();
  for (const family of families) {
    const font = await fontOf(family);
    if (font) fonts.set(family, font);
  }
  if (fonts.size === 0) return plain;
  return read({
    textOutline: ({ family, text, sizePx, capHeight }) => {
      const font = fonts.get(nameOf(family));
      if (!font) return undefined;
      const wanted = capHeight ?? sizePx * font.capHeightEm;
      // lettering has a least size; smaller text is set large and scaled
      const scale = Math.min(1, wanted / 10);
      const set = setLettering({ text, font, capHeightMm: wanted / scale });
      const [line] = set.lines;
      // the ink begins at zero there; in the file the pen does
      const pen = line?.carets[0] ?? 0;
      const outline = mapOutline([scale, 0, 0, scale, -pen * scale, 0], set.outline);
      return { outline, advancePx: ((line?.carets.at(-1) ?? 0) - pen) * scale };
    },
  });
}

function readArtwork({ bytes, kind, page, box }: ImportAsked, options: ReadOptions): Promise<ImportedArtwork> {
  if (kind === 'pdf') return readPdf(bytes, { ...options, page, box });
  if (kind === 'dxf') return readDxf(bytes, options);
  return kind === 'hpgl' ? readHpgl(bytes, options) : readSvg(bytes, options);
}

interface Part {
  readonly outline: Outline;
  readonly hex: string;
  readonly name: string | undefined;
  readonly gradient?: Gradient | undefined;
}

/** Lines to cut of one layer and colour: closed ones by how they lie in one another, open ones on their own. */
function cutLines(items: readonly ArtworkItem[]): Part[] {
  const groups = new Map<string, { hex: string; name: string | undefined; contours: Contour[] }>();
  for (const item of items) {
    const hex = item.stroke?.hex ?? '#000000';
    const key = `${item.layer ?? ''} ${hex}`;
    const group = groups.get(key) ?? { hex, name: item.layer, contours: [] };
    for (const contour of item.outline.contours) group.contours.push(contour);
    groups.set(key, group);
  }
  return [...groups.values()].flatMap(({ hex, name, contours: loose }) => {
    const { contours } = joinLooseEnds({ contours: loose }, JOIN_MM).outline;
    return [
      ...nestContours(contours.filter((c) => c.closed)).map((outline) => ({ outline, hex, name })),
      ...contours.filter((c) => !c.closed).map((contour) => ({ outline: { contours: [contour] }, hex, name })),
    ];
  });
}

/** Of the whole work. */
const READING_SHARE = 0.7;

/** @throws AppError `input.svg` and the like for the other kinds, `limit.*` */
export async function importDrawing(asked: ImportAsked, fontOf: FontByFamily, onShare: (share: number) => void): Promise<Imported> {
  // reading is the greater part, outlines of strokes and their boxes the smaller
  const control: Control = { onProgress: (done, total) => onShare(total > 0 ? (READING_SHARE * done) / total : 0) };
  const art = await readWithFonts((options) => readArtwork(asked, { ...options, control }), fontOf);
  const shown = art.items.filter((item) => asked.withHidden || !item.hidden);
  const solid = shown.filter((item) => !isHairline(item));
  const thin = shown.filter(isHairline);
  const parts: Part[] = [
    ...solid.map((item): Part => ({
      outline: outlineOf(item),
      hex: item.fill ?? item.stroke?.hex ?? '#000000',
      name: item.name ?? item.spot ?? item.layer,
      gradient: item.gradient,
    })),
    ...cutLines(thin),
  ].filter(({ outline }) => outline.contours.length > 0);
  const strokes = solid.filter((item) => item.stroke).length;
  const remarks: Remark[] = [];
  if (strokes > 0) remarks.push({ code: 'strokes', text: 'Strokes were turned into shapes that a blade can follow.', count: strokes });
  if (thin.length > 0 && (asked.kind === 'svg' || asked.kind === 'pdf'))
    remarks.push({ code: 'hairlines', text: `Lines thinner than ${HAIRLINE_MM} mm were taken as the lines to cut.`, count: thin.length });
  return {
    shapes: parts.map(({ outline, name, gradient }, i) => {
      if (i % 256 === 0) onShare(READING_SHARE + ((1 - READING_SHARE) * i) / parts.length);
      const { minX, minY } = bounds(outline);
      const [x, y] = [tidy(minX), tidy(minY)];
      return {
        type: 'item',
        kind: 'shape',
        name: (name ?? `Part ${i + 1}`).slice(0, 120),
        layer: null,
        matrix: [1, 0, 0, 1, x, y],
        path: formatPath(mapOutline(translation(-x, -y), outline), 5),
        ...(gradient ? { gradient: gradientAt(translation(-x, -y), gradient) } : {}),
      };
    }),
    hexes: parts.map(({ hex }) => hex),
    pictures: art.pictures,
    widthMm: art.widthMm,
    heightMm: art.heightMm,
    hasSize: art.hasSize,
    report: [...remarks, ...art.report],
    pages: art.pages ?? 1,
    boxes: art.boxes ?? [],
    hidden: art.items.filter((item) => item.hidden).length,
  };
}

/** A TIFF as a PNG, its resolution kept. @throws AppError `input.picture`, `limit.picture` */
export async function tiffToPng(bytes: Uint8Array): Promise<Uint8Array> {
  return writePng(await readTiff(bytes));
}
