/**
 * What a printer makes of a PDF: it reads page, forms, pictures and inks by itself (the file's structure by pdf-lib) and
 * gives a list of what is painted, in mm on the sheet. Knows paths, flat inks, separations, axial and radial shadings,
 * pictures in DeviceCMYK or DeviceRGB with a soft mask; anything else is left out and counted.
 */
import {
  decodePDFRawStream,
  PDFArray,
  PDFDict,
  PDFDocument,
  PDFName,
  PDFNumber,
  PDFRawStream,
  PDFStream,
  type PDFContext,
  type PDFPage,
  type PDFObject,
} from '@cantoo/pdf-lib';
import { inflateSync } from 'node:zlib';
import { compose, mapOutline, type Contour, type Matrix, type Outline, type Span } from '@lorvek/core/geometry';

/** Shares of cyan, magenta, yellow and black, 0 to 1. */
export type Inks = readonly [number, number, number, number];

export interface ReadPicture {
  readonly width: number;
  readonly height: number;
  /** Four bytes a pixel, inks. */
  readonly inks: Uint8Array;
  readonly alpha: Uint8Array | undefined;
}

/** How much of what is painted comes through, from the unit square to the sheet; 0 none, 255 all, top row first. */
export interface SoftMask {
  readonly matrix: Matrix;
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

export type Painted =
  | {
      readonly kind: 'fill';
      readonly outline: Outline;
      readonly inks: Inks;
      readonly spot?: string | undefined;
      readonly mask?: SoftMask | undefined;
    }
  | {
      readonly kind: 'stroke';
      readonly outline: Outline;
      readonly widthMm: number;
      readonly inks: Inks;
      readonly spot?: string | undefined;
    }
  | {
      readonly kind: 'course';
      readonly outline: Outline;
      readonly matrix: Matrix;
      readonly coords: readonly number[];
      readonly stops: readonly { readonly at: number; readonly inks: Inks }[];
    }
  | { readonly kind: 'picture'; readonly matrix: Matrix; readonly clip: Outline | undefined; readonly picture: ReadPicture };

export interface ReadPage {
  readonly title: string;
  readonly lengthMm: number;
  readonly widthMm: number;
  readonly painted: readonly Painted[];
  /** The same, page by page: each is laid down over those before. */
  readonly passes: readonly (readonly Painted[])[];
  readonly unknown: number;
}

const MM = 25.4 / 72;
const TOKEN = /\[[^\]]*\]|<[^>]*>|\/[^\s/[\]<>()]+|[^\s/[\]<>()]+/g;
const DEEPEST = 12;
/** Of larger pictures every nth pixel of every nth row is kept. */
const MOST_PX = 4_000_000;
const COURSE_STEPS = 32;

interface State {
  ctm: Matrix;
  fill: Inks;
  stroke: Inks;
  fillSpot: string | undefined;
  strokeSpot: string | undefined;
  width: number;
  clip: Outline | undefined;
  mask?: SoftMask | undefined;
}

const fromRgb = (r: number, g: number, b: number): Inks => {
  const k = 1 - Math.max(r, g, b);
  return k >= 1 ? [0, 0, 0, 1] : [(1 - r - k) / (1 - k), (1 - g - k) / (1 - k), (1 - b - k) / (1 - k), k];
};
const nameText = (name: PDFName): string => name.decodeText();

/** Operators that change nothing here. */
const IDLE = new Set(['scn', 'SCN', 'J', 'j', 'M', 'd', 'BDC', 'EMC']);

/** Builds paths and keeps the graphics state. */
class Pen {
  state: State;
  private readonly stack: State[] = [];
  private contours: Contour[] = [];
  private spans: Span[] = [];
  private at: [number, number] = [0, 0];
  private from: [number, number] = [0, 0];
  private clips = false;

  constructor(start: State) {
    this.state = start;
  }

  private close(closed: boolean): void {
    if (this.spans.length > 0) this.contours.push({ closed, spans: this.spans });
    this.spans = [];
  }

  /** What has been drawn, on the sheet. @param closed filled: open ends are closed */
  path(closed: boolean): Outline {
    this.close(closed);
    return mapOutline(this.state.ctm, { contours: this.contours });
  }

  /** The path is over; it bounds what follows when a clip was asked for. */
  end(): void {
    this.close(false);
    if (this.clips) this.state.clip = mapOutline(this.state.ctm, { contours: this.contours });
    this.clips = false;
    this.contours = [];
  }

  /** Operators of paths, of the map and of the stack of states. */
  draws(token: string, n: readonly number[]): boolean {
    const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0] = n;
    switch (token) {
      case 'q':
        this.stack.push({ ...this.state });
        return true;
      case 'Q':
        this.state = this.stack.pop() ?? this.state;
        return true;
      case 'cm':
        this.state.ctm = compose(this.state.ctm, [a, b, c, d, e, f]);
        return true;
      case 'm':
        this.close(false);
        this.at = this.from = [a, b];
        return true;
      case 'l':
        this.spans.push([...this.at, a, b]);
        this.at = [a, b];
        return true;
      case 'c':
        this.spans.push([...this.at, a, b, c, d, e, f]);
        this.at = [e, f];
        return true;
      case 're':
        this.close(false);
        this.contours.push({
          closed: true,
          spans: [
            [a, b, a + c, b],
            [a + c, b, a + c, b + d],
            [a + c, b + d, a, b + d],
            [a, b + d, a, b],
          ],
        });
        return true;
      case 'h':
        if (this.at[0] !== this.from[0] || this.at[1] !== this.from[1]) this.spans.push([...this.at, ...this.from]);
        this.close(true);
        this.at = this.from;
        return true;
      case 'W':
      case 'W*':
        this.clips = true;
        return true;
      default:
        return false;
    }
  }
}

/** Deflated streams by Node's own means, which are many times as fast. */
const unpacked = (stream: PDFRawStream): Uint8Array =>
  stream.dict.get(PDFName.of('Filter')) === PDFName.of('FlateDecode') ? inflateSync(stream.contents) : decodePDFRawStream(stream).decode();

/** Every nth pixel of every nth row. */
function thinned(samples: Uint8Array, width: number, height: number, step: number): Uint8Array {
  const channels = Math.round(samples.length / (width * height));
  if (step === 1) return samples;
  const [w, h] = [Math.ceil(width / step), Math.ceil(height / step)];
  const out = new Uint8Array(channels * w * h);
  for (let y = 0, to = 0; y < h; y++)
    for (let x = 0; x < w; x++, to += channels) {
      const from = channels * (y * step * width + x * step);
      for (let c = 0; c < channels; c++) out[to + c] = samples[from + c] as number;
    }
  return out;
}

class PageReader {
  readonly painted: Painted[] = [];
  unknown = 0;
  private readonly pictures = new Map<PDFObject, ReadPicture>();

  constructor(private readonly context: PDFContext) {}

  private look<T extends PDFObject>(dict: PDFDict | undefined, key: string): T | undefined {
    const value = dict?.get(PDFName.of(key));
    return value === undefined ? undefined : (this.context.lookup(value) as T | undefined);
  }

  run(content: Uint8Array, resources: PDFDict | undefined, start: State, depth = 0): void {
    if (depth > DEEPEST) return;
    const pen = new Pen(start);
    let operands: string[] = [];
    for (const token of new TextDecoder('latin1').decode(content).match(TOKEN) ?? []) {
      if (/^[-+.\d/[<]/.test(token)) {
        operands.push(token);
        continue;
      }
      const n = operands.map(Number);
      if (!pen.draws(token, n) && !this.paints(token, pen) && !this.sets(token, n, operands[0], pen.state, resources)) {
        if (token === 'sh') this.course(resources, operands[0], pen.state);
        else if (token === 'Do') this.place(resources, operands[0], pen.state, depth);
        else if (!IDLE.has(token)) this.unknown++;
      }
      operands = [];
    }
  }

  /** Operators that end a path. */
  private paints(token: string, pen: Pen): boolean {
    const { state } = pen;
    if (token === 'f' || token === 'f*')
      this.painted.push({ kind: 'fill', outline: pen.path(true), inks: state.fill, spot: state.fillSpot, mask: state.mask });
    else if (token === 'S')
      this.painted.push({
        kind: 'stroke',
        outline: pen.path(false),
        widthMm: state.width * Math.hypot(state.ctm[0], state.ctm[1]),
        inks: state.stroke,
        spot: state.strokeSpot,
      });
    else if (token !== 'n') return false;
    pen.end();
    return true;
  }

  /** Operators that set colours and widths. */
  private sets(token: string, n: readonly number[], name: string | undefined, state: State, resources: PDFDict | undefined): boolean {
    if (token === 'k' || token === 'rg' || token === 'g') Object.assign(state, { fill: inksOf(token, n), fillSpot: undefined });
    else if (token === 'K' || token === 'RG' || token === 'G')
      Object.assign(state, { stroke: inksOf(token.toLowerCase(), n), strokeSpot: undefined });
    else if (token === 'cs') state.fillSpot = this.spotOf(resources, name);
    else if (token === 'CS') state.strokeSpot = this.spotOf(resources, name);
    else if (token === 'w') state.width = n[0] ?? 0;
    else if (token === 'gs') state.mask = this.maskOf(resources, name, state.ctm) ?? state.mask;
    else return false;
    return true;
  }

  private named(resources: PDFDict | undefined, kind: string, name: string | undefined): PDFObject | undefined {
    if (name === undefined) return undefined;
    const list = this.look<PDFDict>(resources, kind);
    const key = list?.keys().find((one) => nameText(one) === nameText(PDFName.of(name.slice(1))));
    return key && this.context.lookup(list?.get(key) as PDFObject);
  }

  private spotOf(resources: PDFDict | undefined, name: string | undefined): string | undefined {
    const space = this.named(resources, 'ColorSpace', name);
    return space instanceof PDFArray ? nameText(this.context.lookup(space.get(1)) as PDFName) : undefined;
  }

  /** A mask by luminosity that holds one picture over all of its form. */
  private maskOf(resources: PDFDict | undefined, name: string | undefined, ctm: Matrix): SoftMask | undefined {
    const states = this.named(resources, 'ExtGState', name);
    const mask = states instanceof PDFDict ? this.look<PDFDict>(states, 'SMask') : undefined;
    const form = mask instanceof PDFDict ? this.look<PDFStream>(mask, 'G') : undefined;
    if (!(form instanceof PDFRawStream)) return undefined;
    const list = this.look<PDFDict>(this.look<PDFDict>(form.dict, 'Resources'), 'XObject');
    const [key] = list?.keys() ?? [];
    const image = key && this.context.lookup(list?.get(key) as PDFObject);
    if (!(image instanceof PDFRawStream)) return undefined;
    const [, , w = 0, h = 0] = this.numbers(this.look(form.dict, 'BBox'));
    const size = (of: string): number => this.look<PDFNumber>(image.dict, of)?.asNumber() ?? 0;
    return {
      matrix: compose(ctm, [w, 0, 0, h, 0, 0]),
      width: size('Width'),
      height: size('Height'),
      data: unpacked(image),
    };
  }

  private numbers(array: PDFObject | undefined): number[] {
    return array instanceof PDFArray ? array.asArray().map((one) => (this.context.lookup(one) as PDFNumber).asNumber()) : [];
  }

  /** A function of one variable at a place: exponential of N 1, or such stitched together. */
  private at(fn: PDFDict, t: number): number[] {
    if (this.look<PDFNumber>(fn, 'FunctionType')?.asNumber() === 3) {
      const joints = this.numbers(this.look(fn, 'Bounds'));
      const functions = this.look<PDFArray>(fn, 'Functions')?.asArray() ?? [];
      const i = joints.filter((joint) => joint <= t).length;
      const [low, high] = [joints[i - 1] ?? 0, joints[i] ?? 1];
      const one = this.context.lookup(functions[Math.min(i, functions.length - 1)] as PDFObject) as PDFDict;
      return this.at(one, high > low ? (t - low) / (high - low) : 0);
    }
    const [a, b] = [this.numbers(this.look(fn, 'C0')), this.numbers(this.look(fn, 'C1'))];
    return a.map((v, k) => v + ((b[k] ?? v) - v) * t);
  }

  private course(resources: PDFDict | undefined, name: string | undefined, { clip, ctm }: State): void {
    const shading = this.named(resources, 'Shading', name);
    const fn = shading instanceof PDFDict ? this.look<PDFDict>(shading, 'Function') : undefined;
    if (!clip || !(shading instanceof PDFDict) || !fn) return void this.unknown++;
    const stops = Array.from({ length: COURSE_STEPS + 1 }, (_, k) => {
      const values = this.at(fn, k / COURSE_STEPS);
      return { at: k / COURSE_STEPS, inks: inksOf(values.length === 4 ? 'k' : 'rg', values) };
    });
    this.painted.push({ kind: 'course', outline: clip, matrix: ctm, coords: this.numbers(this.look(shading, 'Coords')), stops });
  }

  private place(resources: PDFDict | undefined, name: string | undefined, state: State, depth: number): void {
    const object = this.named(resources, 'XObject', name);
    if (!(object instanceof PDFRawStream)) return void this.unknown++;
    const kind = this.look<PDFName>(object.dict, 'Subtype');
    if (kind === PDFName.of('Form')) this.run(unpacked(object), this.look<PDFDict>(object.dict, 'Resources'), { ...state }, depth + 1);
    else this.painted.push({ kind: 'picture', matrix: state.ctm, clip: state.clip, picture: this.picture(object) });
  }

  private picture(stream: PDFRawStream): ReadPicture {
    const known = this.pictures.get(stream);
    if (known) return known;
    const size = (key: string): number => this.look<PDFNumber>(stream.dict, key)?.asNumber() ?? 0;
    const [full, high] = [size('Width'), size('Height')];
    const step = Math.max(1, Math.ceil(Math.sqrt((full * high) / MOST_PX)));
    const [width, height] = [Math.ceil(full / step), Math.ceil(high / step)];
    const samples = thinned(unpacked(stream), full, high, step);
    let inks = samples;
    if (this.look(stream.dict, 'ColorSpace') === PDFName.of('DeviceRGB')) {
      inks = new Uint8Array(4 * width * height);
      for (let i = 0; i < width * height; i++)
        inks.set(
          fromRgb((samples[3 * i] ?? 0) / 255, (samples[3 * i + 1] ?? 0) / 255, (samples[3 * i + 2] ?? 0) / 255).map((v) =>
            Math.round(255 * v),
          ),
          4 * i,
        );
    }
    const mask = this.look<PDFStream>(stream.dict, 'SMask');
    const alpha = mask instanceof PDFRawStream ? thinned(unpacked(mask), full, high, step) : undefined;
    const picture = { width, height, inks, alpha };
    this.pictures.set(stream, picture);
    return picture;
  }
}

function inksOf(operator: string, n: readonly number[]): Inks {
  const [a = 0, b = 0, c = 0, d = 0] = n;
  if (operator === 'k') return [a, b, c, d];
  return operator === 'g' ? [0, 0, 0, 1 - a] : fromRgb(a, b, c);
}

/** @throws Error for what is no PDF. Pages are passes: they are painted over one another. */
export async function readPrint(bytes: Uint8Array): Promise<ReadPage> {
  const document = await PDFDocument.load(bytes, { updateMetadata: false });
  const [first] = document.getPages();
  if (!first) throw new Error('a PDF without a page');
  const unitOf = (page: PDFPage): number => (page.node.lookup(PDFName.of('UserUnit')) as PDFNumber | undefined)?.asNumber() ?? 1;
  const { width, height } = first.getSize();
  const passes: Painted[][] = [];
  let unknown = 0;
  for (const page of document.getPages()) {
    const { width: own, height: high } = page.getSize();
    if (Math.abs(own - width) > 0.3 || Math.abs(high - height) > 0.3)
      throw new Error('pages of different sizes are no passes of one print');
    const reader = new PageReader(document.context);
    const contents = page.node.Contents();
    const streams = contents instanceof PDFArray ? contents.asArray().map((ref) => document.context.lookup(ref)) : [contents];
    const scale = MM * unitOf(page);
    const ink: Inks = [0, 0, 0, 1];
    const state: State = {
      ctm: [scale, 0, 0, scale, 0, 0],
      fill: ink,
      stroke: ink,
      fillSpot: undefined,
      strokeSpot: undefined,
      width: 1,
      clip: undefined,
    };
    for (const stream of streams) if (stream instanceof PDFRawStream) reader.run(unpacked(stream), page.node.Resources(), state);
    passes.push([...reader.painted]);
    unknown += reader.unknown;
  }
  const unit = unitOf(first);
  return {
    title: document.getTitle() ?? 'Print',
    lengthMm: width * MM * unit,
    widthMm: height * MM * unit,
    painted: passes.flat(),
    passes,
    unknown,
  };
}
