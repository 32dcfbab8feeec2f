/**
 * Inks of what a page paints, which the drawing operations do not tell: its content is read once more for its colours
 * only, and every painting of a path or a text is noted in order with the spot that its fill and its line are made of, or
 * with their values in process inks. Method: the content streams' own syntax (ISO 32000, 7.8 and 8.6), forms followed, nothing
 * else understood. Grey is black ink (10.4.2); four values of another profile are taken as they are.
 */
import {
  decodePDFRawStream,
  PDFArray,
  PDFBool,
  PDFDict,
  PDFDocument,
  PDFName,
  PDFNumber,
  PDFRawStream,
  type PDFContext,
  type PDFObject,
  type PDFPage,
} from '@cantoo/pdf-lib';

import { namedInks, platesOf, type PictureInPlates } from './plates.ts';

/** Cyan, magenta, yellow, black, 0 to 1. */
export type ProcessValues = readonly [number, number, number, number];

/** What a fill or a stroke is laid down in; neither: a colour of a screen. */
export interface PaintedInk {
  /** An ink of its own name. */
  readonly spot?: string | undefined;
  readonly process?: ProcessValues | undefined;
}

/** Inks of a fill and of a stroke. */
export interface PaintedInks {
  readonly fill: PaintedInk;
  readonly stroke: PaintedInk;
}

/** A picture that the page paints. */
export interface PaintedPicture {
  /** Inks of their own names that it is made of. */
  readonly inks: readonly string[];
  /** It taken apart; undefined: it has no such ink, or cannot be read so. */
  plates(): PictureInPlates | undefined;
}

/** Inks of what a page paints, in order. */
export interface PageInks {
  /** In order; stencils are not among them. */
  readonly pictures: readonly PaintedPicture[];
  readonly paths: readonly PaintedInks[];
  readonly texts: readonly PaintedInks[];
}

export const IN_PLAIN_COLOURS = 'Pictures in inks of their own names came in as plain colours.';

const DEEPEST = 20;
const MOST_PAINTS = 400_000;
/** A page that unfolds to more operations is not read. */
export const MOST_OPERATIONS = 1_500_000;
const PATH = new Set(['m', 'l', 'c', 'v', 'y', 're', 'h']);
const PAINTS = new Set(['f', 'F', 'f*', 'B', 'B*', 'b', 'b*', 'S', 's']);
const SHOWS = new Set(['Tj', 'TJ', "'", '"']);
const WHITE = new Set([0, 9, 10, 12, 13, 32]);
const DELIMITERS = new Set(Array.from('()<>[]{}/%', (c) => c.charCodeAt(0)));

/** An operator with the names and the last numbers among its operands. */
interface Operation {
  readonly operator: string;
  readonly names: readonly string[];
  readonly numbers: readonly number[];
}

/** More numbers no colour has. */
const MOST_NUMBERS = 4;

/** Operations of a content stream; strings and inline pictures are skipped. */
function* operations(bytes: Uint8Array): Generator<Operation> {
  let [i, names, numbers]: [number, string[], number[]] = [0, [], []];
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
      if (/^[+-]?[\d.]/.test(text)) {
        numbers.push(Number.parseFloat(text));
        if (numbers.length > MOST_NUMBERS) numbers.shift();
        continue;
      }
      if (text === 'ID') i = inlineEnd(i);
      yield { operator: text, names, numbers };
      [names, numbers] = [[], []];
    }
  }
}

const plain = (name: string): string =>
  name.replace(/#([0-9A-Fa-f]{2})/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)));

/** What the values of a colour space stand for: an ink of its own name, four process inks, black ink, or a screen. */
type Space = { readonly spot: string } | 'process' | 'grey' | 'screen';

/** A colour of the graphics state. */
interface Held {
  readonly space: Space;
  readonly process?: ProcessValues | undefined;
}

interface Inks {
  fill: Held;
  stroke: Held;
}

const share = (v: number): number => Math.min(1, Math.max(0, Number.isFinite(v) ? v : 0));

/** A colour of a space, by its values; those of a pattern are none. */
function heldIn(space: Space, values: readonly number[]): Held {
  const [c, m, y, k] = values.map(share);
  if (space === 'grey' && c !== undefined) return { space, process: [0, 0, 0, share(1 - (values.at(-1) ?? 0))] };
  if (space !== 'process' || c === undefined || m === undefined || y === undefined || k === undefined) return { space };
  return { space, process: [c, m, y, k] };
}

/** Black, which every space begins with. */
const first = (space: Space): Held => (space === 'grey' ? heldIn(space, [0]) : heldIn(space, [0, 0, 0, 1]));

const inkOf = ({ space, process }: Held): PaintedInk => (typeof space === 'object' ? { spot: space.spot } : process ? { process } : {});

/** Operators that set a colour with its space, written small. */
const PLAIN_COLOURS: Readonly<Record<string, Space | undefined>> = { g: 'grey', rg: 'screen', k: 'process' };

/** Spaces by the names that they have everywhere. */
const DEVICE_SPACES: Readonly<Record<string, Space | undefined>> = { DeviceCMYK: 'process', DeviceGray: 'grey' };

class Reader {
  readonly paths: PaintedInks[] = [];
  readonly texts: PaintedInks[] = [];
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

  /** What a colour space stands for. */
  private spaceOf(name: string, resources: PDFDict | undefined): Space {
    const device = DEVICE_SPACES[plain(name)];
    const space = this.dict(resources, 'ColorSpace')?.get(PDFName.of(plain(name)));
    const value: PDFObject | undefined = space && this.context.lookup(space);
    if (device) return device;
    if (value instanceof PDFName) return DEVICE_SPACES[value.decodeText()] ?? 'screen';
    return value instanceof PDFArray && value.size() > 0 ? this.spaceOfFamily(value) : 'screen';
  }

  private spaceOfFamily(value: PDFArray): Space {
    const family = this.context.lookup(value.get(0));
    const called = family instanceof PDFName ? family.decodeText() : '';
    const about = value.size() > 1 ? this.context.lookup(value.get(1)) : undefined;
    if (called === 'ICCBased' && about instanceof PDFRawStream) {
      const count = this.context.lookup(about.dict.get(PDFName.of('N')));
      return count instanceof PDFNumber && count.asNumber() === 4 ? 'process' : 'screen';
    }
    if (called !== 'Separation' && called !== 'DeviceN') return DEVICE_SPACES[called] ?? 'screen';
    const one = about instanceof PDFArray && about.size() > 0 ? this.context.lookup(about.get(0)) : about;
    return one instanceof PDFName ? { spot: one.decodeText() } : 'screen';
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

  /** The colour that an operation sets. */
  private setInk({ operator, names, numbers }: Operation, inks: Inks, resources: PDFDict | undefined): void {
    const small = operator.toLowerCase();
    // one of mixed capitals is none of them
    if (small !== operator && small.toUpperCase() !== operator) return;
    const of: keyof Inks = small === operator ? 'fill' : 'stroke';
    const space = PLAIN_COLOURS[small];
    if (space) inks[of] = heldIn(space, numbers);
    else if (small === 'cs') inks[of] = first(this.spaceOf(names[0] ?? '', resources));
    else if (small === 'sc' || small === 'scn') inks[of] = heldIn(inks[of].space, numbers);
  }

  walk(bytes: Uint8Array, resources: PDFDict | undefined, depth: number, from: Inks): void {
    const inks: Inks = { ...from };
    const stack: Inks[] = [];
    const painted = (): PaintedInks => ({ fill: inkOf(inks.fill), stroke: inkOf(inks.stroke) });
    let hasPath = false;
    for (const operation of operations(bytes)) {
      const { operator, names } = operation;
      if (this.paths.length + this.texts.length > MOST_PAINTS) return;
      if (PATH.has(operator)) hasPath = true;
      else if (PAINTS.has(operator)) {
        if (hasPath) this.paths.push(painted());
        hasPath = false;
      } else if (operator === 'n') hasPath = false;
      else if (SHOWS.has(operator)) this.texts.push(painted());
      else if (operator === 'q') stack.push({ ...inks });
      else if (operator === 'Q') Object.assign(inks, stack.pop() ?? inks);
      else if (operator === 'Do') this.form(names[0] ?? '', resources, depth, inks);
      else this.setInk(operation, inks, resources);
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
export interface PageFacts extends PageInks {
  /** Left, lower, right, upper in the page's units. */
  readonly boxes: Readonly<Record<'paper' | 'trim' | 'bleed', BoxView>>;
  /** Operations that the page unfolds to, forms and all; counted no further than the most that are read. */
  readonly operations: number;
}

function boxesOf(page: PDFPage): PageFacts['boxes'] {
  const view = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }): BoxView => [x, y, x + width, y + height];
  return { paper: view(page.getMediaBox()), trim: view(page.getTrimBox()), bleed: view(page.getBleedBox()) };
}

/** @returns undefined when the file cannot be read this way: its colours are then known by their look alone */
export async function inksOf(bytes: Uint8Array, pageNumber: number): Promise<PageFacts | undefined> {
  try {
    const document = await PDFDocument.load(bytes, { ignoreEncryption: true, updateMetadata: false, throwOnInvalidObject: false });
    if (document.isEncrypted) return undefined;
    const page = document.getPage(pageNumber - 1);
    const reader = new Reader(document.context);
    const content = contentOf(page, document.context);
    const weight = reader.weightOf(content, page.node.Resources());
    if (weight <= MOST_OPERATIONS) reader.walk(content, page.node.Resources(), 0, { fill: first('grey'), stroke: first('grey') });
    return { paths: reader.paths, texts: reader.texts, pictures: reader.pictures, boxes: boxesOf(page), operations: weight };
  } catch {
    return undefined;
  }
}

/** How many paintings of each kind the drawing operations of a page have. */
type Counted = Readonly<Record<'paths' | 'texts' | 'pictures', number>>;

/** What of a page's inks is believed: only where there are as many paintings as operations; what is not is said. */
export function believedInks(
  inks: PageInks | undefined,
  counted: Counted,
): {
  readonly inks: PageInks | undefined;
  readonly pictures: readonly PaintedPicture[];
  readonly remarks: readonly (readonly [string, string])[];
} {
  if (!inks) return { inks, pictures: [], remarks: [] };
  const remarks: [string, string][] = [];
  const inPlates = inks.pictures.some((picture) => picture.inks.length > 0);
  const hasPictures = inks.pictures.length === counted.pictures;
  if (inPlates && !hasPictures) remarks.push(['picture-inks', IN_PLAIN_COLOURS]);
  const hasParts = inks.paths.length === counted.paths && inks.texts.length === counted.texts;
  const painted = [...inks.paths, ...inks.texts].flatMap(({ fill, stroke }) => [fill, stroke]);
  if (!hasParts && painted.some(({ spot }) => spot !== undefined))
    remarks.push(['spots', 'The names of spot colours could not be told for sure and were left out.']);
  // black is what every page begins with
  if (!hasParts && painted.some(({ process }) => process?.some((value, i) => i < 3 && value > 0)))
    remarks.push(['process-values', 'Values in process inks could not be told for sure: print goes by the look.']);
  return { inks: hasParts ? inks : undefined, pictures: inPlates && hasPictures ? inks.pictures : [], remarks };
}
