/**
 * Names of spot colours, which the drawing operations do not tell: the page's content is read once more for its colour
 * spaces only, and every painting of a path or a text is noted in order with the spot its fill and its line are made
 * of. Method: the content streams' own syntax (ISO 32000, 7.8 and 8.6), forms followed, nothing else understood.
 */
import {
  decodePDFRawStream,
  PDFArray,
  PDFBool,
  PDFDict,
  PDFDocument,
  PDFName,
  PDFRawStream,
  type PDFContext,
  type PDFObject,
  type PDFPage,
} from '@cantoo/pdf-lib';

import { namedInks, platesOf, type PictureInPlates } from './plates.ts';

/** Named inks of a fill and of a stroke. */
export interface PaintedSpots {
  readonly fill: string | undefined;
  readonly stroke: string | undefined;
}

/** A picture that the page paints. */
export interface PaintedPicture {
  /** Inks of their own names that it is made of. */
  readonly inks: readonly string[];
  /** It taken apart; undefined: it has no such ink, or cannot be read so. */
  plates(): PictureInPlates | undefined;
}

/** Named inks of what a page paints, in order. */
export interface PageSpots {
  /** In order; stencils are not among them. */
  readonly pictures: readonly PaintedPicture[];
  readonly paths: readonly PaintedSpots[];
  readonly texts: readonly PaintedSpots[];
}

const DEEPEST = 20;
const MOST_PAINTS = 400_000;
/** A page that unfolds to more operations is not read. */
export const MOST_OPERATIONS = 1_500_000;
const PATH = new Set(['m', 'l', 'c', 'v', 'y', 're', 'h']);
const PAINTS = new Set(['f', 'F', 'f*', 'B', 'B*', 'b', 'b*', 'S', 's']);
const SHOWS = new Set(['Tj', 'TJ', "'", '"']);
const WHITE = new Set([0, 9, 10, 12, 13, 32]);
const DELIMITERS = new Set(Array.from('()<>[]{}/%', (c) => c.charCodeAt(0)));

/** Operators of a content stream with the names among their operands; strings, numbers and inline pictures are skipped. */
function* operations(bytes: Uint8Array): Generator<{ operator: string; names: string[] }> {
  let [i, names]: [number, string[]] = [0, []];
  const word = (from: number): number => {
    let end = from;
    while (end < bytes.length && !WHITE.has(bytes[end] as number) && !DELIMITERS.has(bytes[end] as number)) end++;
    return end;
  };
  const string = (from: number): number => {
    let [end, depth] = [from + 1, 1];
    for (; end < bytes.length && depth > 0; end++) {
      const c = bytes[end];
      if (c === 0x5c) end++;
      else if (c === 0x28) depth++;
      else if (c === 0x29) depth--;
    }
    return end;
  };
  const inlineEnd = (from: number): number => {
    for (let k = from; k + 2 < bytes.length; k++)
      if (WHITE.has(bytes[k] as number) && bytes[k + 1] === 0x45 && bytes[k + 2] === 0x49 && WHITE.has(bytes[k + 3] ?? 32)) return k + 3;
    return bytes.length;
  };
  while (i < bytes.length) {
    const c = bytes[i] as number;
    if (WHITE.has(c)) i++;
    else if (c === 0x25) while (i < bytes.length && bytes[i] !== 10 && bytes[i] !== 13) i++;
    else if (c === 0x28) i = string(i);
    else if (c === 0x2f) {
      const end = word(i + 1);
      names.push(String.fromCharCode(...bytes.subarray(i + 1, Math.min(end, i + 200))));
      i = end;
    } else if (DELIMITERS.has(c)) i++;
    else {
      const end = word(i);
      const text = String.fromCharCode(...bytes.subarray(i, Math.min(end, i + 20)));
      i = Math.max(end, i + 1);
      if (/^[+-]?[\d.]/.test(text)) continue;
      if (text === 'ID') i = inlineEnd(i);
      yield { operator: text, names };
      names = [];
    }
  }
}

const plain = (name: string): string =>
  name.replace(/#([0-9A-Fa-f]{2})/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)));

interface Inks {
  fill: string | undefined;
  stroke: string | undefined;
}

class Reader {
  readonly paths: PaintedSpots[] = [];
  readonly texts: PaintedSpots[] = [];
  readonly pictures: PaintedPicture[] = [];
  private readonly context: PDFContext;
  private readonly weights = new Map<PDFRawStream, number>();
  private readonly contents = new Map<PDFRawStream, Uint8Array>();

  constructor(context: PDFContext) {
    this.context = context;
  }

  private dict(of: PDFDict | undefined, name: string): PDFDict | undefined {
    const found = of?.get(PDFName.of(name));
    const value = found && this.context.lookup(found);
    return value instanceof PDFDict ? value : undefined;
  }

  /** Name of the spot that a colour space is, if it is one. */
  private spotOf(name: string, resources: PDFDict | undefined): string | undefined {
    const space = this.dict(resources, 'ColorSpace')?.get(PDFName.of(plain(name)));
    const value: PDFObject | undefined = space && this.context.lookup(space);
    if (!(value instanceof PDFArray) || value.size() < 2) return undefined;
    const kind = this.context.lookup(value.get(0));
    if (!(kind instanceof PDFName) || (kind.decodeText() !== 'Separation' && kind.decodeText() !== 'DeviceN')) return undefined;
    const named = this.context.lookup(value.get(1));
    const one = named instanceof PDFArray && named.size() > 0 ? this.context.lookup(named.get(0)) : named;
    return one instanceof PDFName ? one.decodeText() : undefined;
  }

  /**
   * How many operations a stream unfolds to with the forms it calls, each form counted once and remembered. A form that
   * calls itself counts as endless.
   */
  weightOf(bytes: Uint8Array, resources: PDFDict | undefined): number {
    let sum = 0;
    for (const { operator, names } of operations(bytes)) {
      sum++;
      if (operator !== 'Do') continue;
      const form = this.formCalled(names[0] ?? '', resources);
      if (form) sum += this.formWeight(form, resources);
      if (sum > MOST_OPERATIONS) return sum;
    }
    return sum;
  }

  private formWeight(form: PDFRawStream, resources: PDFDict | undefined): number {
    const known = this.weights.get(form);
    if (known !== undefined) return known;
    this.weights.set(form, Infinity);
    const weight = this.weightOf(this.decoded(form), this.dict(form.dict, 'Resources') ?? resources);
    this.weights.set(form, weight);
    return weight;
  }

  private decoded(form: PDFRawStream): Uint8Array {
    let bytes = this.contents.get(form);
    if (!bytes) this.contents.set(form, (bytes = decodePDFRawStream(form).decode()));
    return bytes;
  }

  walk(bytes: Uint8Array, resources: PDFDict | undefined, depth: number, from: Inks): void {
    const inks: Inks = { ...from };
    const stack: Inks[] = [];
    const setInks = (operator: string, name: string): void => {
      if (operator === 'cs') inks.fill = this.spotOf(name, resources);
      else if (operator === 'CS') inks.stroke = this.spotOf(name, resources);
      else if (/^(g|rg|k)$/.test(operator)) inks.fill = undefined;
      else if (/^(G|RG|K)$/.test(operator)) inks.stroke = undefined;
    };
    let hasPath = false;
    for (const { operator, names } of operations(bytes)) {
      if (this.paths.length + this.texts.length > MOST_PAINTS) return;
      if (PATH.has(operator)) hasPath = true;
      else if (PAINTS.has(operator)) {
        if (hasPath) this.paths.push({ ...inks });
        hasPath = false;
      } else if (operator === 'n') hasPath = false;
      else if (SHOWS.has(operator)) this.texts.push({ ...inks });
      else if (operator === 'q') stack.push({ ...inks });
      else if (operator === 'Q') Object.assign(inks, stack.pop() ?? inks);
      else if (operator === 'Do') this.form(names[0] ?? '', resources, depth, inks);
      else setInks(operator, names[0] ?? '');
    }
  }

  private form(name: string, resources: PDFDict | undefined, depth: number, inks: Inks): void {
    const form = this.formCalled(name, resources);
    if (!form) this.picture(this.streamCalled(name, resources));
    if (form && depth < DEEPEST) this.walk(this.decoded(form), this.dict(form.dict, 'Resources') ?? resources, depth + 1, inks);
  }

  private picture(stream: PDFRawStream | undefined): void {
    const kind = stream?.dict.get(PDFName.of('Subtype'));
    const isMask = stream?.dict.get(PDFName.of('ImageMask')) === PDFBool.True;
    if (!stream || isMask || !(kind instanceof PDFName) || kind.decodeText() !== 'Image') return;
    const space = stream.dict.get(PDFName.of('ColorSpace'));
    this.pictures.push({
      inks: namedInks(space && this.context.lookup(space), this.context),
      plates: () => platesOf(stream, this.context),
    });
  }

  private streamCalled(name: string, resources: PDFDict | undefined): PDFRawStream | undefined {
    const reference = this.dict(resources, 'XObject')?.get(PDFName.of(plain(name)));
    const stream = reference && this.context.lookup(reference);
    return stream instanceof PDFRawStream ? stream : undefined;
  }

  private formCalled(name: string, resources: PDFDict | undefined): PDFRawStream | undefined {
    const form = this.streamCalled(name, resources);
    if (!form) return undefined;
    const kind = form.dict.get(PDFName.of('Subtype'));
    return kind instanceof PDFName && kind.decodeText() === 'Form' ? form : undefined;
  }
}

function contentOf(page: PDFPage, context: PDFContext): Uint8Array {
  const contents = page.node.Contents();
  const streams = contents instanceof PDFArray ? contents.asArray().map((one) => context.lookup(one)) : [contents];
  const parts = streams.flatMap((stream) => (stream instanceof PDFRawStream ? [decodePDFRawStream(stream).decode()] : []));
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length + 1, 0)).fill(10);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length + 1;
  }
  return out;
}

/** A box as PDF writes it: left, lower, right, upper. */
export type BoxView = readonly [number, number, number, number];

/** What is known of a page before it is painted. */
export interface PageFacts extends PageSpots {
  /** Left, lower, right, upper in the page's units. */
  readonly boxes: Readonly<Record<'paper' | 'trim' | 'bleed', BoxView>>;
  /** Operations that the page unfolds to, forms and all; counted no further than the most that are read. */
  readonly operations: number;
}

function boxesOf(page: PDFPage): PageFacts['boxes'] {
  const view = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }): BoxView => [x, y, x + width, y + height];
  return { paper: view(page.getMediaBox()), trim: view(page.getTrimBox()), bleed: view(page.getBleedBox()) };
}

/** @returns undefined when the file cannot be read this way (the spots then stay without names) */
export async function spotsOf(bytes: Uint8Array, pageNumber: number): Promise<PageFacts | undefined> {
  try {
    const document = await PDFDocument.load(bytes, { ignoreEncryption: true, updateMetadata: false, throwOnInvalidObject: false });
    if (document.isEncrypted) return undefined;
    const page = document.getPage(pageNumber - 1);
    const reader = new Reader(document.context);
    const content = contentOf(page, document.context);
    const weight = reader.weightOf(content, page.node.Resources());
    if (weight <= MOST_OPERATIONS) reader.walk(content, page.node.Resources(), 0, { fill: undefined, stroke: undefined });
    return { paths: reader.paths, texts: reader.texts, pictures: reader.pictures, boxes: boxesOf(page), operations: weight };
  } catch {
    return undefined;
  }
}
