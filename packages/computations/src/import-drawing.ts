/**
 * Files of other programs to shapes. Strokes get their real outline; lines without width stay
 * the lines to cut, those that close round one another become shapes with holes.
 */
import {
  bounds,
  boxShape,
  compose,
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
  type ArtworkText,
  type ImportedArtwork,
  type PageBox,
  type PageBoxName,
  type ReadOptions,
  type Remark,
} from '@lorvek/core/format';
import { setLettering, type Font } from '@lorvek/core/lettering';
import type { Gradient } from '@lorvek/core/colour';
import type { Control } from '@lorvek/core';
import { gradientAt, type LetteringItem, type ShapeItem } from '@lorvek/model';
import type { FontChosen, FontWanted } from './font-choice.ts';

/** Kinds of drawings that are read. */
export type DrawingFile = 'svg' | 'pdf' | 'dxf' | 'hpgl';

/** A part of a file as an item, still without a film. */
export interface ImportedPart {
  readonly item: Omit<ShapeItem, 'id'> | Omit<LetteringItem, 'id'>;
  /** The file's colour. */
  readonly hex: string;
  /** Name of the spot colour that it is made of. */
  readonly spot: string | undefined;
  /** Its values in process inks, where the file has them. */
  readonly cmyk?: ArtworkItem['cmyk'];
  /** Of lettering: its outline as it came, on the page. */
  readonly path?: string;
  /** Name of the file's layer that it is on. */
  readonly layer?: string;
}

/** What a file holds, still without films. */
export interface Imported {
  /** In the order they are seen, bottom first. */
  readonly parts: readonly ImportedPart[];
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

/** A file, and which part of it. */
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

/** The font of the shop for one that a file names; undefined when there is none at all. */
export type FontFor = (wanted: FontWanted, text: string) => Promise<{ readonly font: Font; readonly chosen: FontChosen } | undefined>;

/** Lettering has a least size; smaller text is set large and scaled. */
const LEAST_CAPITALS = 10;

/** Reads the file; when it has text, once more with the fonts for it. */
async function readWithFonts(read: (options: ReadOptions) => Promise<ImportedArtwork>, fontFor: FontFor): Promise<ImportedArtwork> {
  const keyOf = ({ family, weight, italic }: FontWanted): string => JSON.stringify([family, weight, italic]);
  const texts = new Map<string, { wanted: FontWanted; text: string }>();
  const plain = await read({
    textOutline: ({ family, weight, italic, text }) => {
      const wanted = { family, weight, italic };
      texts.set(keyOf(wanted), { wanted, text: (texts.get(keyOf(wanted))?.text ?? '') + text });
      return undefined;
    },
  });
  const fonts = new Map<string, { font: Font; chosen: FontChosen }>();
  for (const [key, { wanted, text }] of texts) {
    const found = await fontFor(wanted, text);
    if (found) fonts.set(key, found);
  }
  if (fonts.size === 0) return plain;
  return read({
    textOutline: (run) => {
      const found = fonts.get(keyOf(run));
      if (!found) return undefined;
      const { font, chosen } = found;
      const capHeight = run.capHeight ?? run.sizePx * font.capHeightEm;
      const scale = Math.min(1, capHeight / LEAST_CAPITALS);
      const set = setLettering({ text: run.text, font, capHeightMm: capHeight / scale });
      const [line] = set.lines;
      // the ink begins at zero there; in the file the pen does
      const pen = (line?.carets[0] ?? 0) * scale;
      return {
        outline: mapOutline([scale, 0, 0, scale, -pen, 0], set.outline),
        advancePx: (line?.carets.at(-1) ?? 0) * scale - pen,
        instead: chosen.instead === undefined ? undefined : { fontId: chosen.id, fontName: chosen.instead, capHeight, inkX: -pen },
      };
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
  readonly spot?: string | undefined;
  readonly cmyk?: ArtworkItem['cmyk'];
  readonly name: string | undefined;
  readonly gradient?: Gradient | undefined;
  readonly text?: ArtworkText | undefined;
  readonly layer?: string | undefined;
}

/** Words as lettering whose ink lies where the file has it. */
function letteringOf({ text, wanted, set: { fontId, capHeight, inkX }, matrix }: ArtworkText): Omit<LetteringItem, 'id'> {
  const ink = compose(matrix, translation(inkX, 0));
  // the size goes into the height of the capitals, so that it reads as what is cut
  const size = Math.hypot(ink[2], ink[3]);
  const capHeightMm = Math.min(20_000, Math.max(0.5, capHeight * size));
  const k = capHeight / capHeightMm;
  const [a, b, c, d, e, f] = compose(ink, [k, 0, 0, k, 0, 0]);
  const name = `${text.trim()}${wanted ? `, wanted ${wanted}` : ''}`;
  return {
    type: 'item',
    kind: 'lettering',
    name: name.slice(0, 120),
    layer: null,
    matrix: [a, b, c, d, e, f],
    text,
    fontId,
    substitutes: [],
    capHeightMm,
    widthPct: 100,
    slantDeg: 0,
    letterSpaceMm: 0,
    lineSpace: 1.6,
    align: 'left',
  };
}

function partOf({ outline, name, gradient, text, hex, spot, cmyk }: Part, i: number): ImportedPart {
  const colour = { hex, spot, ...(cmyk ? { cmyk } : {}) };
  if (text) return { item: letteringOf(text), ...colour, path: formatPath(outline, 5) };
  const { minX, minY } = bounds(outline);
  const [x, y] = [tidy(minX), tidy(minY)];
  return {
    item: {
      type: 'item',
      kind: 'shape',
      name: (name ?? `Part ${i + 1}`).slice(0, 120),
      layer: null,
      matrix: [1, 0, 0, 1, x, y],
      path: formatPath(mapOutline(translation(-x, -y), outline), 5),
      ...(gradient ? { gradient: gradientAt(translation(-x, -y), gradient) } : {}),
    },
    ...colour,
  };
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
      ...nestContours(contours.filter((c) => c.closed)).map((outline) => ({ outline, hex, name, layer: name })),
      ...contours.filter((c) => !c.closed).map((contour) => ({ outline: { contours: [contour] }, hex, name, layer: name })),
    ];
  });
}

/** Of the whole work. */
const READING_SHARE = 0.7;

/** @throws AppError `input.svg` and the like for the other kinds, `limit.*` */
export async function importDrawing(asked: ImportAsked, fontFor: FontFor, onShare: (share: number) => void): Promise<Imported> {
  // reading is the greater part, outlines of strokes and their boxes the smaller
  const control: Control = { onProgress: (done, total) => onShare(total > 0 ? (READING_SHARE * done) / total : 0) };
  const art = await readWithFonts((options) => readArtwork(asked, { ...options, control }), fontFor);
  const shown = art.items.filter((item) => asked.withHidden || !item.hidden);
  const solid = shown.filter((item) => !isHairline(item));
  const thin = shown.filter(isHairline);
  const parts: Part[] = [
    ...solid.map((item): Part => ({
      outline: outlineOf(item),
      hex: item.fill ?? item.stroke?.hex ?? '#000000',
      spot: item.spot,
      ...(item.cmyk ? { cmyk: item.cmyk } : {}),
      name: item.name ?? item.spot ?? item.layer,
      gradient: item.gradient,
      text: item.text,
      layer: item.layer,
    })),
    ...cutLines(thin),
  ].filter(({ outline }) => outline.contours.length > 0);
  const strokes = solid.filter((item) => item.stroke).length;
  const remarks: Remark[] = [];
  if (strokes > 0) remarks.push({ code: 'strokes', text: 'Strokes were turned into shapes that a blade can follow.', count: strokes });
  if (thin.length > 0 && (asked.kind === 'svg' || asked.kind === 'pdf'))
    remarks.push({ code: 'hairlines', text: `Lines thinner than ${HAIRLINE_MM} mm were taken as the lines to cut.`, count: thin.length });
  return {
    parts: parts.map((part, i) => {
      if (i % 256 === 0) onShare(READING_SHARE + ((1 - READING_SHARE) * i) / parts.length);
      const { layer } = part;
      return layer === undefined ? partOf(part, i) : { ...partOf(part, i), layer };
    }),
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

/** What a page of a file looks like, small: its own size, its shapes in their colours, and where pictures lie. */
export interface PageLook {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly shapes: readonly { readonly path: string; readonly hex: string; readonly lineMm?: number }[];
}

/** A small picture needs no more. */
const MOST_LOOKED = 1500;

/** @throws AppError `input.pdf`, `limit.pdf` */
export async function pageLook({ bytes, page }: { readonly bytes: Uint8Array; readonly page: number }): Promise<PageLook> {
  const { widthMm, heightMm, items, pictures } = await readPdf(bytes, { page });
  return {
    widthMm,
    heightMm,
    shapes: [
      ...pictures.map(({ matrix }) => ({ path: formatPath(mapOutline(matrix, boxShape(1, 1)), 1), hex: '#c9c4b6' })),
      ...items
        .filter(({ hidden }) => !hidden)
        .slice(0, MOST_LOOKED)
        .map(({ outline, fill, stroke }) => ({
          path: formatPath(outline, 1),
          hex: fill ?? stroke?.hex ?? '#000000',
          ...(fill === undefined && stroke ? { lineMm: stroke.widthMm } : {}),
        })),
    ],
  };
}

/** A picture as a PNG, its resolution kept, and each ink of its own name as one. */
export interface ReadPicture {
  readonly png: Uint8Array;
  readonly plates: readonly { readonly name: string; readonly hex: string; readonly png: Uint8Array }[];
  /** Names of inks beyond those that become plates. */
  readonly leftOut: readonly string[];
}

/** @throws AppError `input.picture`, `limit.picture` */
export async function tiffToPng(bytes: Uint8Array): Promise<ReadPicture> {
  const { plates = [], inksLeftOut = [], ...picture } = await readTiff(bytes);
  return {
    png: writePng(picture),
    plates: plates.map(({ name, hex, data }) => ({ name, hex, png: writePng({ ...picture, data }) })),
    leftOut: inksLeftOut,
  };
}
