/**
 * PDF (ISO 32000) of pages at true size: outlines as filled or stroked paths, on layers, pictures, and text in one of
 * the fonts that every reader has; fills with a gradient as shadings within their outline. Coordinates in mm; each page is scaled by 72/25.4, with a user unit above 5.08 m.
 * Assembly by pdf-lib; the content streams are written here with four decimals and no exponents.
 */
import {
  PDFDocument,
  PDFHexString,
  PDFName,
  PDFNumber,
  StandardFonts,
  type PDFFont,
  type PDFImage,
  type PDFPage,
  type PDFRef,
} from '@cantoo/pdf-lib';
import type { Matrix, Outline } from '../types/index.ts';
import { LimitError } from '../errors/index.ts';
import { bounds } from '../geometry/outline.ts';
import { picturesUnder, type Artwork, type ArtworkItem, type ArtworkStroke } from './artwork.ts';
import { unrolled, type Gradient, type GradientStop } from '../colour/gradient.ts';

const POINTS_PER_MM = 72 / 25.4;
/** The longest side that readers take without a user unit, points. */
const LONGEST = 14_400;

/** A line of text on a page, points. */
export interface PdfText {
  readonly text: string;
  readonly x: number;
  readonly y: number;
  /** Height of the font's em, mm. */
  readonly sizeMm: number;
  readonly bold?: boolean;
  readonly hex?: string;
  readonly align?: 'left' | 'right' | 'centre';
  /** Degrees counter-clockwise. */
  readonly turnDeg?: number;
}

/** A picture on a page. */
export interface PdfPicture {
  /** PNG or JPEG. */
  readonly bytes: Uint8Array;
  /** From the unit square, y up, to the page, mm. */
  readonly matrix: Matrix;
  /** Shown only within, even-odd, mm on the page. */
  readonly clip?: Outline;
  /** It lies under the item of this number, from 0; absent: under all. */
  readonly before?: number | undefined;
}

/** What a page shows, from below. */
export interface PdfPageContent {
  readonly widthMm: number;
  readonly heightMm: number;
  /** Painted first, under the pictures. */
  readonly ground?: readonly ArtworkItem[];
  readonly items: readonly ArtworkItem[];
  readonly texts?: readonly PdfText[];
  readonly pictures?: readonly PdfPicture[];
}

const number = (n: number): string => {
  const text = (Math.round(n * 1e4) / 1e4 + 0).toFixed(4);
  return text.replace(/\.?0+$/, '');
};

const sharesOf = (hex: string): number[] => [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16) / 255);

const colour = (hex: string, operator: string): string => `${sharesOf(hex).map(number).join(' ')} ${operator}`;

function pathOf(outline: Outline): string {
  const parts: string[] = [];
  for (const { closed, spans } of outline.contours) {
    const [first] = spans;
    if (!first) continue;
    parts.push(`${number(first[0] as number)} ${number(first[1] as number)} m`);
    spans.forEach((span, i) => {
      // the way back to the start is the closing itself
      if (closed && i === spans.length - 1 && span.length === 4) return;
      parts.push(`${span.slice(2).map(number).join(' ')} ${span.length === 4 ? 'l' : 'c'}`);
    });
    if (closed) parts.push('h');
  }
  return parts.join('\n');
}

const CAPS = { butt: 0, round: 1, square: 2 };
const JOINS = { mitre: 0, round: 1, bevel: 2 };

function strokeState(stroke: ArtworkStroke): string {
  const dash = stroke.dashMm ? `[${stroke.dashMm.map(number).join(' ')}] ${number(stroke.dashOffsetMm ?? 0)} d` : '[] 0 d';
  return `${colour(stroke.hex, 'RG')} ${number(stroke.widthMm)} w ${CAPS[stroke.cap ?? 'butt']} J ${JOINS[stroke.join ?? 'mitre']} j ${number(Math.max(1, stroke.mitreLimit ?? 10))} M ${dash}`;
}

/** Matrices of gradients need more places than coordinates: they turn and scale a unit. */
const exact = (n: number): string => (Math.round(n * 1e8) / 1e8 + 0).toFixed(8).replace(/\.?0+$/, '');

function itemContent(item: ArtworkItem, nameOf: (gradient: Gradient) => string): string {
  const path = pathOf(item.outline);
  if (path === '') return '';
  if (item.gradient && item.fill) {
    const course = unrolled(item.gradient, bounds(item.outline));
    const filled = `q\n${path}\nW n ${course.matrix.map(exact).join(' ')} cm /${nameOf(course)} sh Q`;
    return item.stroke ? `${filled}\n${strokeState(item.stroke)}\n${path}\nS` : filled;
  }
  const paint = item.fill && item.stroke ? 'B' : item.fill ? 'f' : 'S';
  const state = [item.fill ? colour(item.fill, 'rg') : '', item.stroke ? strokeState(item.stroke) : ''].filter(Boolean).join(' ');
  return `${state}\n${path}\n${paint}`;
}

/** The colours between two stops, and all of them stitched together (ISO 32000-2, 7.10.3 and 7.10.4). */
function courseFunction(document: PDFDocument, given: readonly GradientStop[]): PDFRef {
  const stops = given.map(({ offset, hex }) => ({ offset: Math.round(offset * 1e6) / 1e6, hex }));
  const { context } = document;
  const piece = (a: GradientStop, b: GradientStop): PDFRef =>
    context.register(context.obj({ FunctionType: 2, Domain: [0, 1], C0: sharesOf(a.hex), C1: sharesOf(b.hex), N: 1 }));
  const [first, last] = [stops[0] as GradientStop, stops.at(-1) as GradientStop];
  const all = [...(first.offset > 0 ? [{ ...first, offset: 0 }] : []), ...stops, ...(last.offset < 1 ? [{ ...last, offset: 1 }] : [])];
  // stops at one place are a step; a piece of no length says nothing
  const pairs = all.slice(1).flatMap((b, i) => ((all[i] as GradientStop).offset < b.offset ? [[all[i] as GradientStop, b] as const] : []));
  return context.register(
    context.obj({
      FunctionType: 3,
      Domain: [0, 1],
      Functions: pairs.map(([a, b]) => piece(a, b)),
      Bounds: pairs.slice(1).map(([a]) => a.offset),
      Encode: pairs.flatMap(() => [0, 1]),
    }),
  );
}

function shadingOf(document: PDFDocument, { kind, stops, inner }: Gradient): PDFRef {
  const coords = kind === 'linear' ? [0, 0, 1, 0] : [inner?.x ?? 0, inner?.y ?? 0, inner?.r ?? 0, 0, 0, 1];
  return document.context.register(
    document.context.obj({
      ShadingType: kind === 'linear' ? 2 : 3,
      ColorSpace: 'DeviceRGB',
      Coords: coords.map((n) => Math.round(n * 1e6) / 1e6),
      Extend: [true, true],
      Function: courseFunction(document, stops),
    }),
  );
}

interface Resources {
  /** Only there when something is written. */
  readonly fonts: { readonly plain: PDFFont; readonly bold: PDFFont } | undefined;
  readonly layers: Map<string, PDFRef>;
}

/** Characters that the standard fonts lack become question marks. */
function encodable(text: string): string {
  const extra = '€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ';
  return Array.from(text, (c) =>
    (c >= ' ' && c <= '~') || (c >= '\u00a0' && c <= '\u00ff') || extra.includes(c) ? c : c === '′' ? "'" : '?',
  ).join('');
}

function textContent(text: PdfText, { fonts }: Resources): string {
  if (!fonts) return '';
  const font = text.bold ? fonts.bold : fonts.plain;
  const words = encodable(text.text);
  const width = font.widthOfTextAtSize(words, text.sizeMm);
  const shift = text.align === 'right' ? -width : text.align === 'centre' ? -width / 2 : 0;
  const turn = ((text.turnDeg ?? 0) * Math.PI) / 180;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const map = [c, s, -s, c, text.x + shift * c, text.y + shift * s].map(number).join(' ');
  return `${colour(text.hex ?? '#000000', 'rg')} BT /${text.bold ? 'FB' : 'FP'} ${number(text.sizeMm)} Tf ${map} Tm ${font.encodeText(words).toString()} Tj ET`;
}

/** Width of a text in mm in the fonts of these pages. */
export type MeasureText = (text: string, sizeMm: number, bold?: boolean) => number;

function layerOf(document: PDFDocument, resources: Resources, name: string): PDFRef {
  let reference = resources.layers.get(name);
  if (!reference) {
    reference = document.context.register(document.context.obj({ Type: 'OCG', Name: PDFHexString.fromText(name) }));
    resources.layers.set(name, reference);
  }
  return reference;
}

/** What ends one layer and begins another. */
function switched(from: string | undefined, to: string | undefined, keyOf: (layer: string) => string): string[] {
  if (from === to) return [];
  return [...(from === undefined ? [] : ['EMC']), ...(to === undefined ? [] : [`/OC /${keyOf(to)} BDC`])];
}

async function pageContent(
  document: PDFDocument,
  page: PDFPage,
  content: PdfPageContent,
  resources: Resources,
  scale: number,
): Promise<string> {
  const out = [`q ${scale.toFixed(9)} 0 0 ${scale.toFixed(9)} 0 0 cm`];
  const properties = new Map<string, PDFRef>();
  const images: [string, PDFImage][] = [];
  const shadings: [string, PDFRef][] = [];
  const nameOf = (gradient: Gradient): string => {
    const name = `C${shadings.length}`;
    shadings.push([name, shadingOf(document, gradient)]);
    return name;
  };
  for (const item of content.ground ?? []) out.push(itemContent(item, nameOf));
  const embedded = new Map<Uint8Array, string>();
  const paint = async (pictures: readonly PdfPicture[]): Promise<void> => {
    for (const { bytes, matrix, clip } of pictures) {
      let name = embedded.get(bytes);
      if (name === undefined) {
        embedded.set(bytes, (name = `P${embedded.size}`));
        images.push([name, bytes[0] === 0x89 ? await document.embedPng(bytes) : await document.embedJpg(bytes)]);
      }
      out.push(`q ${clip ? `${pathOf(clip)} W* n ` : ''}${matrix.map(number).join(' ')} cm /${name} Do Q`);
    }
  };
  const keyOf = (layer: string): string => {
    const reference = layerOf(document, resources, layer);
    const key = [...properties.keys()].find((known) => properties.get(known) === reference) ?? `L${properties.size}`;
    properties.set(key, reference);
    return key;
  };
  let layer: string | undefined;
  const pictures = content.pictures ?? [];
  for (const [i, item] of content.items.entries()) {
    const under = picturesUnder(pictures, i, false);
    if (under.length > 0) {
      out.push(...switched(layer, undefined, keyOf));
      layer = undefined;
      await paint(under);
    }
    out.push(...switched(layer, item.layer, keyOf), itemContent(item, nameOf));
    layer = item.layer;
  }
  out.push(...switched(layer, undefined, keyOf));
  await paint(picturesUnder(pictures, content.items.length, true));
  for (const text of content.texts ?? []) out.push(textContent(text, resources));
  out.push('Q');
  setResources(page, {
    Font: resources.fonts ? { FP: resources.fonts.plain.ref, FB: resources.fonts.bold.ref } : {},
    XObject: Object.fromEntries(images.map(([name, image]) => [name, image.ref])),
    Shading: Object.fromEntries(shadings),
    Properties: Object.fromEntries(properties),
  });
  return out.filter(Boolean).join('\n');
}

/** What the content of a page names. */
const setResources = (page: PDFPage, named: Readonly<Record<string, Readonly<Record<string, PDFRef>>>>): void =>
  page.node.set(PDFName.of('Resources'), page.doc.context.obj(named));

/** The fonts' measures, for laying out text before it is written. */
export async function textMeasure(): Promise<MeasureText> {
  const document = await PDFDocument.create();
  const plain = await document.embedFont(StandardFonts.Helvetica);
  const bold = await document.embedFont(StandardFonts.HelveticaBold);
  return (text, sizeMm, isBold) => (isBold ? bold : plain).widthOfTextAtSize(encodable(text), sizeMm);
}

/**
 * Writes pages.
 * @throws LimitError `limit.pdf` when a side is longer than 100 m
 * @param title of the document
 * @returns larger pages than the format allows are written in larger user units
 */
export async function writePdfPages(pages: readonly PdfPageContent[], title: string): Promise<Uint8Array> {
  const document = await PDFDocument.create();
  document.setTitle(title);
  document.setProducer('Lorvek');
  document.setCreator('Lorvek');
  const writes = pages.some((page) => (page.texts?.length ?? 0) > 0);
  const fonts = writes
    ? { plain: await document.embedFont(StandardFonts.Helvetica), bold: await document.embedFont(StandardFonts.HelveticaBold) }
    : undefined;
  const resources: Resources = { fonts, layers: new Map() };
  for (const content of pages) {
    const longest = Math.max(content.widthMm, content.heightMm) * POINTS_PER_MM;
    if (!(longest < 20 * LONGEST)) throw new LimitError('pdf', 'A page of a PDF is at most 100 m long.');
    const unit = Math.max(1, Math.ceil(longest / LONGEST));
    const scale = POINTS_PER_MM / unit;
    const page = document.addPage([content.widthMm * scale, content.heightMm * scale]);
    page.setTrimBox(0, 0, content.widthMm * scale, content.heightMm * scale);
    if (unit > 1) page.node.set(PDFName.of('UserUnit'), PDFNumber.of(unit));
    const stream = document.context.flateStream(await pageContent(document, page, content, resources, scale));
    page.node.set(PDFName.of('Contents'), document.context.register(stream));
  }
  if (resources.layers.size > 0) {
    const layers = [...resources.layers.values()];
    document.catalog.set(PDFName.of('OCProperties'), document.context.obj({ OCGs: layers, D: { Order: layers, ON: layers } }));
  }
  return document.save({ useObjectStreams: false });
}

/**
 * Writes artwork on one page of its own size.
 * @throws LimitError `limit.pdf` when a side is longer than 100 m
 */
export const writePdf = (artwork: Artwork, title = 'Drawing'): Promise<Uint8Array> => writePdfPages([artwork], title);
