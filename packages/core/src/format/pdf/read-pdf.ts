/**
 * PDF to artwork at true size (ISO 32000): one page's paths, fills, strokes, clips, pictures and letters as outlines,
 * by layers, in mm with y up; the page's user unit and turn are followed. Parsing by pdf.js; the walk is ours.
 *
 * Method: the parser's list of operations is walked with a stack of graphics states. Clips are applied with the weld
 * family, but for parts that lie wholly within a box. Shadings become one flat colour and transparency is taken as
 * solid, both with a remark. Letters whose font is not in the file are taken from the shop's fonts when it has them.
 * Limits: 200 MB, 200 000 parts, forms 50 deep. Nothing is fetched or run.
 */
import type { Box, Contour, Matrix, Outline, Span } from '../../types/index.ts';
import { CancelledError, InputError, LimitError } from '../../errors/index.ts';
import { compose, determinant, IDENTITY, invert, mapOutline, mapPoint, rotation, scaling, translation } from '../../geometry/transform.ts';
import { bounds } from '../../geometry/outline.ts';
import { at } from '../../geometry/span.ts';
import { boxShape } from '../../geometry/shapes.ts';
import { strokeToShape } from '../../geometry/offset/stroke-to-shape.ts';
import { keepOverlap } from '../../geometry/weld/weld.ts';
import { Remarks, type ArtworkItem, type ArtworkPicture, type ImportedArtwork, type ReadOptions } from '../artwork.ts';
import { filled, isSimilar } from '../filled.ts';
import { writePng } from '../write-png.ts';
import { spotsOf, type PageSpots, type PaintedSpots } from './spots.ts';
import {
  loadEngine,
  objectOf,
  type OperatorList,
  type PdfDocument,
  type PdfFont,
  type PdfGlyph,
  type PdfLayers,
  type PdfPage,
  type PdfPicture,
} from './engine.ts';

export interface ReadPdfOptions extends ReadOptions {
  /** Counted from 1. */
  readonly page?: number;
}

const MM_PER_POINT = 25.4 / 72;
const MOST_BYTES = 200 * 1024 * 1024;
const MOST_ITEMS = 200_000;
const MOST_PIXELS = 100_000_000;
const DEEPEST = 50;
/** Marked content that only wraps, with nothing to say of layers. */
const NO_LAYER = Symbol('no layer');

interface Clip {
  readonly outline: Outline;
  /** Set when the clip is an upright box. */
  readonly box: Box | undefined;
}

interface Graphics {
  readonly matrix: Matrix;
  readonly clip: Clip | undefined;
  readonly fill: string | undefined;
  readonly stroke: string | undefined;
  readonly fillAlpha: number;
  readonly strokeAlpha: number;
  readonly width: number;
  readonly cap: 'butt' | 'round' | 'square';
  readonly join: 'mitre' | 'round' | 'bevel';
  readonly mitreLimit: number;
  readonly dash: readonly number[];
  readonly dashOffset: number;
  readonly font: PdfFont | undefined;
  readonly size: number;
  readonly charSpace: number;
  readonly wordSpace: number;
  readonly widen: number;
  readonly leading: number;
  readonly rise: number;
  readonly mode: number;
}

const INITIAL: Omit<Graphics, 'matrix'> = {
  clip: undefined,
  fill: '#000000',
  stroke: '#000000',
  fillAlpha: 1,
  strokeAlpha: 1,
  width: 1,
  cap: 'butt',
  join: 'mitre',
  mitreLimit: 10,
  dash: [],
  dashOffset: 0,
  font: undefined,
  size: 1,
  charSpace: 0,
  wordSpace: 0,
  widen: 1,
  leading: 0,
  rise: 0,
  mode: 0,
};

const CAPS = ['butt', 'round', 'square'] as const;
const JOINS = ['mitre', 'round', 'bevel'] as const;

/** Drawing commands of the parser: 0 to, 1 line, 2 cubic, 3 quadratic, 4 close. */
function outlineFrom(data: ArrayLike<number> | null | undefined): Outline {
  const contours: Contour[] = [];
  let [spans, x, y, sx, sy]: [Span[], number, number, number, number] = [[], 0, 0, 0, 0];
  const end = (closed: boolean): void => {
    if (spans.length > 0) contours.push({ closed, spans });
    spans = [];
  };
  const n = (i: number): number => data?.[i] ?? 0;
  for (let i = 0; i < (data?.length ?? 0);) {
    switch (n(i)) {
      case 0:
        end(false);
        [sx, sy] = [x, y] = [n(i + 1), n(i + 2)];
        i += 3;
        break;
      case 1:
        if (n(i + 1) !== x || n(i + 2) !== y) spans.push([x, y, n(i + 1), n(i + 2)]);
        [x, y] = [n(i + 1), n(i + 2)];
        i += 3;
        break;
      case 2:
        spans.push([x, y, n(i + 1), n(i + 2), n(i + 3), n(i + 4), n(i + 5), n(i + 6)]);
        [x, y] = [n(i + 5), n(i + 6)];
        i += 7;
        break;
      case 3: {
        const [qx, qy, ex, ey] = [n(i + 1), n(i + 2), n(i + 3), n(i + 4)];
        spans.push([x, y, x + (2 / 3) * (qx - x), y + (2 / 3) * (qy - y), ex + (2 / 3) * (qx - ex), ey + (2 / 3) * (qy - ey), ex, ey]);
        [x, y] = [ex, ey];
        i += 5;
        break;
      }
      default:
        if (x !== sx || y !== sy) spans.push([x, y, sx, sy]);
        [x, y] = [sx, sy];
        end(true);
        i += 1;
    }
  }
  end(false);
  return { contours };
}

const within = (inner: Box, outer: Box): boolean =>
  inner.minX >= outer.minX - 1e-6 && inner.maxX <= outer.maxX + 1e-6 && inner.minY >= outer.minY - 1e-6 && inner.maxY <= outer.maxY + 1e-6;

const apart = (a: Box, b: Box): boolean => a.minX >= b.maxX || a.maxX <= b.minX || a.minY >= b.maxY || a.maxY <= b.minY;

/** The box of an outline that is an upright box itself. */
function asBox(outline: Outline): Box | undefined {
  const [only] = outline.contours;
  if (outline.contours.length !== 1 || !only || only.spans.length > 4 || only.spans.length < 3) return undefined;
  const upright = only.spans.every((s) => s.length === 4 && (Math.abs(at(s, 0) - at(s, 2)) < 1e-6 || Math.abs(at(s, 1) - at(s, 3)) < 1e-6));
  return upright ? bounds(outline) : undefined;
}

const boxOutline = (b: Box): Outline => mapOutline(translation(b.minX, b.minY), boxShape(b.maxX - b.minX, b.maxY - b.minY));

function meet(clip: Clip | undefined, more: Outline): Clip {
  const box = asBox(more);
  if (!clip) return { outline: more, box };
  if (clip.box && box) {
    const both: Box = {
      minX: Math.max(clip.box.minX, box.minX),
      minY: Math.max(clip.box.minY, box.minY),
      maxX: Math.min(clip.box.maxX, box.maxX),
      maxY: Math.min(clip.box.maxY, box.maxY),
    };
    const empty = both.minX >= both.maxX || both.minY >= both.maxY;
    return { outline: empty ? { contours: [] } : boxOutline(both), box: empty ? undefined : both };
  }
  return { outline: clipped(more, clip), box: undefined };
}

function clipped(outline: Outline, clip: Clip | undefined): Outline {
  if (!clip || outline.contours.length === 0) return outline;
  if (clip.outline.contours.length === 0) return clip.outline;
  const own = bounds(outline);
  if (clip.box && within(own, clip.box)) return outline;
  if (apart(own, bounds(clip.outline))) return { contours: [] };
  return keepOverlap([outline, clip.outline]);
}

const bytesToBase64 = (bytes: Uint8Array): string => {
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
  const parts: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const [a, b, c] = [bytes[i] as number, bytes[i + 1] ?? 0, bytes[i + 2] ?? 0];
    const pad = bytes.length - i;
    parts.push(
      `${letters[a >> 2]}${letters[((a & 3) << 4) | (b >> 4)]}${pad > 1 ? letters[((b & 15) << 2) | (c >> 6)] : '='}${pad > 2 ? letters[c & 63] : '='}`,
    );
  }
  return parts.join('');
};

/** Pixels of a picture as the parser hands them out. */
function pixelsOf({ width, height, kind, data }: PdfPicture): Uint8Array | undefined {
  if (!data) return undefined;
  if (kind !== 1) return data instanceof Uint8Array ? data : new Uint8Array(data.buffer);
  const out = new Uint8Array(width * height * 3);
  const row = (width + 7) >> 3;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const on = ((data[y * row + (x >> 3)] ?? 0) >> (7 - (x & 7))) & 1;
      out.fill(on * 255, (y * width + x) * 3, (y * width + x) * 3 + 3);
    }
  return out;
}

class PageWalker {
  readonly remarks = new Remarks();
  readonly items: ArtworkItem[] = [];
  readonly pictures: ArtworkPicture[] = [];
  private readonly page: PdfPage;
  private readonly layers: PdfLayers;
  private readonly names: ReadonlyMap<number, string>;
  private readonly options: ReadPdfOptions;
  private g: Graphics;
  private readonly stack: Graphics[] = [];
  /** Layers that are open, inmost last. */
  private readonly marked: (typeof NO_LAYER | { name: string | undefined; hidden: boolean })[] = [];
  private pendingClip: 'nonzero' | 'evenodd' | undefined;
  private line: Matrix = IDENTITY;
  private pen = 0;
  private depth = 0;
  private steps = 0;
  /** Spots of the paths and texts in the order of painting, and how many were passed. */
  private spots: PageSpots | undefined;
  private paintedPaths = 0;
  private paintedTexts = 0;
  private spot: PaintedSpots | undefined;

  constructor(page: PdfPage, layers: PdfLayers, operators: Readonly<Record<string, number>>, options: ReadPdfOptions, toMm: Matrix) {
    this.page = page;
    this.layers = layers;
    this.names = new Map(Object.entries(operators).map(([name, code]) => [code, name]));
    this.options = options;
    this.g = { ...INITIAL, matrix: toMm };
  }

  /** The spots are only believed when there are as many paintings as were counted for them. */
  nameSpots(list: OperatorList, spots: PageSpots | undefined): void {
    const isPaint = (args: readonly unknown[] | null): boolean => {
      const [operator, data] = args as [number, readonly unknown[]];
      return this.names.get(operator) !== 'endPath' && data[0] !== null && data[0] !== undefined;
    };
    const name = (i: number): string => this.names.get(list.fnArray[i] as number) ?? '';
    const paths = list.fnArray.filter((_, i) => name(i) === 'constructPath' && isPaint(list.argsArray[i] ?? null)).length;
    const texts = list.fnArray.filter((_, i) => name(i) === 'showText').length;
    if (spots && [...spots.paths, ...spots.texts].every(({ fill, stroke }) => fill === undefined && stroke === undefined)) return;
    if (spots && spots.paths.length === paths && spots.texts.length === texts) this.spots = spots;
    else if (spots) this.remarks.add('spots', 'The names of spot colours could not be told for sure and were left out.');
  }

  private set(fields: Partial<Graphics>): void {
    this.g = { ...this.g, ...fields };
  }

  private save(): void {
    this.stack.push(this.g);
  }

  private restore(): void {
    this.g = this.stack.pop() ?? this.g;
  }

  async walk({ fnArray, argsArray }: OperatorList): Promise<void> {
    if (++this.depth > DEEPEST) throw new LimitError('pdf', 'The file holds forms in forms without end.');
    const depth = this.stack.length;
    for (let i = 0; i < fnArray.length; i++) {
      if (++this.steps % 256 === 0 && this.options.control?.signal?.aborted) throw new CancelledError();
      if (this.steps % 4096 === 0) this.options.control?.onProgress?.(i, fnArray.length, 'reading');
      await this.operation(this.names.get(fnArray[i] as number) ?? '', argsArray[i] ?? []);
    }
    while (this.stack.length > depth) this.restore();
    this.depth--;
  }

  private async operation(name: string, args: readonly unknown[]): Promise<void> {
    const n = (i: number): number => Number(args[i] ?? 0);
    switch (name) {
      case 'save':
      case 'beginGroup':
        this.save();
        if (name === 'beginGroup' && args[0]) this.remarkOnGroup(args[0] as Record<string, unknown>);
        return;
      case 'restore':
      case 'endGroup':
      case 'paintFormXObjectEnd':
        return this.restore();
      case 'transform':
        return this.set({ matrix: compose(this.g.matrix, args as unknown as Matrix) });
      case 'paintFormXObjectBegin':
        return this.form(args[0] as Matrix | null, args[1] as readonly number[] | null);
      case 'constructPath':
        return this.path(n(0), args[1] as readonly unknown[]);
      case 'clip':
      case 'eoClip':
        this.pendingClip = name === 'clip' ? 'nonzero' : 'evenodd';
        return;
      case 'shadingFill':
        this.remarks.add('gradient', 'Gradients were taken as one flat colour.');
        return;
      case 'beginMarkedContentProps':
      case 'beginMarkedContent':
        return this.beginMarked(args);
      case 'endMarkedContent':
        this.marked.pop();
        return;
      default:
        return this.state(name, args) || this.textState(name, args) ? undefined : this.painting(name, args);
    }
  }

  private remarkOnGroup(group: Record<string, unknown>): void {
    if (group.smask) this.remarks.add('mask', 'Soft masks were left out; what lies under them is whole.');
  }

  private form(matrix: Matrix | null, box: readonly number[] | null): void {
    this.save();
    if (matrix) this.set({ matrix: compose(this.g.matrix, matrix) });
    if (!box) return;
    const [x0, y0, x1, y1] = box as [number, number, number, number];
    if (x1 <= x0 || y1 <= y0) return;
    this.set({ clip: meet(this.g.clip, mapOutline(this.g.matrix, boxOutline({ minX: x0, minY: y0, maxX: x1, maxY: y1 }))) });
  }

  private beginMarked(args: readonly unknown[]): void {
    const properties = args[1] as { id?: string } | undefined;
    if (args[0] !== 'OC' || !properties) {
      this.marked.push(NO_LAYER);
      return;
    }
    const name = properties.id === undefined ? undefined : this.layers.getGroup(properties.id)?.name;
    this.marked.push({ name: name ?? undefined, hidden: !this.layers.isVisible(properties) });
  }

  /** Graphics state. @returns false for other operations */
  private state(name: string, args: readonly unknown[]): boolean {
    const n = (i: number): number => Number(args[i] ?? 0);
    switch (name) {
      case 'setLineWidth':
        this.set({ width: n(0) });
        return true;
      case 'setLineCap':
        this.set({ cap: CAPS[n(0)] ?? 'butt' });
        return true;
      case 'setLineJoin':
        this.set({ join: JOINS[n(0)] ?? 'mitre' });
        return true;
      case 'setMiterLimit':
        this.set({ mitreLimit: n(0) });
        return true;
      case 'setDash':
        this.set({ dash: [...(args[0] as ArrayLike<number> as number[])], dashOffset: n(1) });
        return true;
      case 'setGState':
        for (const [key, value] of args[0] as [string, unknown][]) this.extended(key, value);
        return true;
      case 'setFillRGBColor':
        this.set({ fill: String(args[0]) });
        return true;
      case 'setStrokeRGBColor':
        this.set({ stroke: String(args[0]) });
        return true;
      case 'setFillTransparent':
        this.set({ fill: undefined });
        return true;
      case 'setStrokeTransparent':
        this.set({ stroke: undefined });
        return true;
      case 'setFillColorN':
      case 'setStrokeColorN': {
        const isPattern = args[0] === 'TilingPattern';
        this.remarks.add(
          isPattern ? 'pattern' : 'gradient',
          isPattern ? 'Patterns were taken as one flat colour.' : 'Gradients were taken as one flat colour.',
        );
        this.set(name === 'setFillColorN' ? { fill: '#808080' } : { stroke: '#808080' });
        return true;
      }
      default:
        return false;
    }
  }

  private extended(key: string, value: unknown): void {
    if (key === 'LW') this.set({ width: Number(value) });
    else if (key === 'LC') this.set({ cap: CAPS[Number(value)] ?? 'butt' });
    else if (key === 'LJ') this.set({ join: JOINS[Number(value)] ?? 'mitre' });
    else if (key === 'ML') this.set({ mitreLimit: Number(value) });
    else if (key === 'D')
      this.set({ dash: [...((value as [number[], number])[0] ?? [])], dashOffset: (value as [number[], number])[1] ?? 0 });
    else if (key === 'ca') this.set({ fillAlpha: Number(value) });
    else if (key === 'CA') this.set({ strokeAlpha: Number(value) });
    else if (key === 'Font') {
      const [font, size] = value as [string, number];
      this.useFont(font, size);
    } else if (key === 'SMask' && value) this.remarks.add('mask', 'Soft masks were left out; what lies under them is whole.');
  }

  private path(operator: number, data: readonly unknown[]): void {
    const outline = outlineFrom(data?.[0] as ArrayLike<number> | null);
    const name = this.names.get(operator) ?? '';
    const isPaint = name !== 'endPath' && data?.[0] !== null && data?.[0] !== undefined;
    this.spot = isPaint && this.depth === 1 ? this.spots?.paths[this.paintedPaths++] : undefined;
    if (outline.contours.length > 0) {
      if (/^(eoFill|fill|closeFill|closeEOFill)/i.test(name) || name.endsWith('FillStroke'))
        this.fill(outline, /eo/i.test(name) ? 'evenodd' : 'nonzero', undefined);
      if (/stroke/i.test(name)) this.stroke(outline, undefined);
    }
    if (!this.pendingClip) return;
    const shape = mapOutline(this.g.matrix, outline);
    this.set({ clip: meet(this.g.clip, filled(shape, this.pendingClip)) });
    this.pendingClip = undefined;
  }

  private get common(): Pick<ArtworkItem, 'layer' | 'hidden'> {
    const open = this.marked.filter((one): one is Exclude<typeof one, typeof NO_LAYER> => one !== NO_LAYER);
    const layer = open.findLast((one) => one.name !== undefined)?.name;
    return { ...(layer === undefined ? {} : { layer }), ...(open.some((one) => one.hidden) ? { hidden: true } : {}) };
  }

  private emit(item: ArtworkItem): void {
    if (item.outline.contours.length === 0) return;
    if (this.items.length >= MOST_ITEMS) throw new LimitError('pdf', `The page has more than ${MOST_ITEMS} parts.`);
    this.items.push(item);
  }

  private fill(outline: Outline, rule: string, name: string | undefined, matrix = this.g.matrix): void {
    const { fill, fillAlpha, clip } = this.g;
    if (fill === undefined || fillAlpha === 0) return;
    if (fillAlpha < 1) this.remarks.add('transparency', 'Half transparent parts were taken as solid.');
    const shape = clipped(filled(mapOutline(matrix, outline), rule), clip);
    const spot = this.spot?.fill;
    this.emit({
      outline: shape,
      closed: true,
      fill,
      ...(spot === undefined ? {} : { spot }),
      ...this.common,
      ...(name === undefined ? {} : { name }),
    });
  }

  private stroke(outline: Outline, name: string | undefined, matrix = this.g.matrix): void {
    const { stroke: hex, strokeAlpha, clip, width, cap, join, mitreLimit, dash, dashOffset } = this.g;
    if (hex === undefined || strokeAlpha === 0) return;
    const scale = Math.sqrt(Math.abs(determinant(matrix)));
    const isClipped = clip !== undefined && !(clip.box && within(bounds(mapOutline(matrix, outline)), clip.box));
    const spot = this.spot?.stroke;
    const extra = { ...(spot === undefined ? {} : { spot }), ...this.common, ...(name === undefined ? {} : { name }) };
    const isDashed = dash.some((d) => d > 0);
    if (width <= 0 || (isSimilar(matrix) && !isClipped)) {
      const dashes = isDashed ? { dashMm: dash.map((d) => d * scale), dashOffsetMm: dashOffset * scale } : {};
      return this.emit({
        outline: mapOutline(matrix, outline),
        closed: outline.contours.every((contour) => contour.closed),
        stroke: { hex, widthMm: Math.max(0, width * scale), cap, join, mitreLimit, ...dashes },
        ...extra,
      });
    }
    this.remarks.add('stroke', 'Strokes that are clipped or unevenly scaled were given their real outline.');
    const shape = strokeToShape(outline, {
      width,
      cap,
      join,
      mitreLimit,
      ...(isDashed ? { dash: [...dash], dashOffset } : {}),
      tol: 0.004 / Math.max(1e-6, scale),
    });
    this.emit({ outline: clipped(mapOutline(matrix, shape), clip), closed: true, fill: hex, ...extra });
  }

  private useFont(name: string, size: number): void {
    const font = this.page.commonObjs.has(name) ? (this.page.commonObjs.get(name) as PdfFont) : undefined;
    this.set({ font, size });
  }

  /** Text state and showing. @returns false for other operations */
  private textState(name: string, args: readonly unknown[]): Promise<void> | boolean {
    const n = (i: number): number => Number(args[i] ?? 0);
    switch (name) {
      case 'beginText':
        this.line = IDENTITY;
        this.g = { ...this.g };
        this.place(IDENTITY);
        return true;
      case 'endText':
        return true;
      case 'setFont':
        this.useFont(String(args[0]), n(1));
        return true;
      case 'setCharSpacing':
        this.set({ charSpace: n(0) });
        return true;
      case 'setWordSpacing':
        this.set({ wordSpace: n(0) });
        return true;
      case 'setHScale':
        this.set({ widen: n(0) / 100 });
        return true;
      case 'setLeading':
        this.set({ leading: -n(0) });
        return true;
      case 'setTextRise':
        this.set({ rise: n(0) });
        return true;
      case 'setTextRenderingMode':
        this.set({ mode: n(0) });
        return true;
      case 'setTextMatrix':
        this.place([...(args[0] as ArrayLike<number> as number[])] as unknown as Matrix);
        return true;
      case 'moveText':
      case 'setLeadingMoveText':
        if (name === 'setLeadingMoveText') this.set({ leading: n(1) });
        this.place(compose(this.line, translation(n(0), n(1))));
        return true;
      case 'nextLine':
        this.place(compose(this.line, translation(0, this.g.leading)));
        return true;
      case 'showText':
      case 'showSpacedText':
        return this.show(args[0] as readonly (PdfGlyph | number)[]).then(() => undefined);
      case 'nextLineShowText':
        this.place(compose(this.line, translation(0, this.g.leading)));
        return this.show(args[0] as readonly (PdfGlyph | number)[]).then(() => undefined);
      default:
        return false;
    }
  }

  private place(matrix: Matrix): void {
    this.line = matrix;
    this.pen = 0;
  }

  private async show(glyphs: readonly (PdfGlyph | number)[]): Promise<void> {
    const { font, size, mode } = this.g;
    this.spot = this.depth === 1 ? this.spots?.texts[this.paintedTexts++] : undefined;
    if (!font) return this.remarks.add('text', 'Text whose font could not be read was left out.');
    if (font.isType3Font) return this.showDrawn(glyphs, font);
    const em = font.fontMatrix?.[0] ?? 0.001;
    const contours: Contour[] = [];
    let text = '';
    for (const glyph of glyphs) {
      if (typeof glyph === 'number') {
        this.pen -= (glyph * size) / 1000;
        continue;
      }
      text += glyph.unicode;
      const metrics = font.vertical ? (glyph.vmetric ?? font.defaultVMetrics) : undefined;
      const [dx, dy] = metrics ? [-at(metrics, 1) * size * em, at(metrics, 2) * size * em] : [0, 0];
      const shown = mode !== 3 && mode !== 7;
      if (shown && glyph.isInFont && !font.missingFile) {
        contours.push(...this.glyphAt(font, glyph.fontChar, dx, dy));
        if (glyph.accent)
          contours.push(...this.glyphAt(font, glyph.accent.fontChar, dx + size * glyph.accent.offset.x, dy + size * glyph.accent.offset.y));
      }
      const space = this.g.charSpace + (glyph.isSpace ? this.g.wordSpace : 0);
      this.pen += metrics ? at(metrics, 0) * size * em - space : glyph.width * size * em + space;
    }
    if (font.missingFile && mode !== 3 && text.trim() !== '') return this.foreign(text, font, glyphs);
    if (contours.length === 0) return;
    const outline = { contours };
    const name = text.trim().slice(0, 80);
    if (mode % 4 === 0 || mode % 4 === 2) this.fill(outline, 'nonzero', name);
    if (mode % 4 === 1 || mode % 4 === 2) this.stroke(outline, name);
    this.remarks.add('text-outlines', 'Text was turned into outlines.');
  }

  /** From a place at the pen to user space. */
  private get standing(): Matrix {
    const { widen, rise, font } = this.g;
    const along = font?.vertical ? translation(0, this.pen + rise) : translation(this.pen * widen, rise);
    return compose(this.line, compose(along, scaling(widen, 1)));
  }

  private glyphAt(font: PdfFont, char: string, dx: number, dy: number): readonly Contour[] {
    const id = `${font.loadedName}_path_${char}`;
    if (!this.page.commonObjs.has(id)) return [];
    const { path } = this.page.commonObjs.get(id) as { path?: ArrayLike<number> };
    const size = this.g.size;
    const closed = outlineFrom(path).contours.map((c): Contour => ({ closed: true, spans: closedSpans(c) }));
    return mapOutline(compose(this.standing, compose(translation(dx, dy), scaling(size, size))), { contours: closed }).contours;
  }

  /** Text in a font that is not in the file. */
  private foreign(text: string, font: PdfFont, glyphs: readonly (PdfGlyph | number)[]): void {
    const family = (font.name ?? '').replace(/^[A-Z]{6}\+/, '');
    const found = this.options.textOutline?.({
      text,
      family: family.replace(/[-,].*$/, '').replace(/([a-z])([A-Z])/g, '$1 $2'),
      weight: /bold/i.test(family) ? 'bold' : 'normal',
      italic: /italic|oblique/i.test(family),
      sizePx: this.g.size,
    });
    if (!found)
      return this.remarks.add(
        'text',
        `The text “${text.trim().slice(0, 40)}” was left out: its font (${family || 'not named'}) is not in the file.`,
      );
    const em = font.fontMatrix?.[0] ?? 0.001;
    const advance = glyphs.reduce<number>((sum, g) => sum + (typeof g === 'number' ? -g / 1000 : g.width * em), 0) * this.g.size;
    this.pen -= advance;
    const fit = found.advancePx > 0 && advance > 0 ? advance / found.advancePx : 1;
    const outline = mapOutline(compose(this.standing, scaling(fit, 1)), found.outline);
    this.pen += advance;
    this.fill(outline, 'nonzero', text.trim().slice(0, 80));
    this.remarks.add('font-replaced', `The font ${family} is not in the file; the shop’s own was taken in its width.`);
  }

  /** Letters that are small drawings themselves. */
  private async showDrawn(glyphs: readonly (PdfGlyph | number)[], font: PdfFont): Promise<void> {
    const { size } = this.g;
    const matrix = font.fontMatrix ?? [0.001, 0, 0, 0.001, 0, 0];
    for (const glyph of glyphs) {
      if (typeof glyph === 'number') {
        this.pen -= (glyph * size) / 1000;
        continue;
      }
      const drawn = font.charProcOperatorList?.[glyph.operatorListId ?? ''];
      if (drawn && this.g.mode !== 3) {
        const [line, pen] = [this.line, this.pen];
        this.save();
        this.set({ matrix: compose(this.g.matrix, compose(this.standing, compose(scaling(size, size), matrix))) });
        await this.walk(drawn);
        this.restore();
        [this.line, this.pen] = [line, pen];
      }
      this.pen += glyph.width * matrix[0] * size + this.g.charSpace + (glyph.isSpace ? this.g.wordSpace : 0);
    }
  }

  private async painting(name: string, args: readonly unknown[]): Promise<void> {
    if (name === 'paintImageXObject') return this.picture(await this.object(String(args[0])), [IDENTITY]);
    if (name === 'paintInlineImageXObject') return this.picture(args[0], [IDENTITY]);
    if (name === 'paintImageXObjectRepeat') {
      const [id, sx, sy, positions] = args as [string, number, number, ArrayLike<number>];
      const maps = Array.from({ length: positions.length / 2 }, (_, i): Matrix => [
        sx,
        0,
        0,
        sy,
        positions[2 * i] ?? 0,
        positions[2 * i + 1] ?? 0,
      ]);
      return this.picture(await this.object(id), maps);
    }
    if (name === 'paintSolidColorImageMask') return this.fill(boxShape(1, 1), 'nonzero', undefined);
    if (name.startsWith('paintImageMask') || name.startsWith('paintInlineImage'))
      this.remarks.add('picture-mask', 'Pictures of one colour used as a stencil were left out.');
  }

  private object(id: string): Promise<unknown> {
    return objectOf(id.startsWith('g_') ? this.page.commonObjs : this.page.objs, id);
  }

  private picture(found: unknown, maps: readonly Matrix[]): void {
    const picture = found as PdfPicture | null;
    const isSound = picture && picture.width > 0 && picture.height > 0 && picture.width * picture.height <= MOST_PIXELS;
    const data = isSound ? pixelsOf(picture) : undefined;
    if (!isSound || !data) return this.remarks.add('picture', 'A picture that could not be read was left out.');
    if (this.g.clip && !this.g.clip.box) this.remarks.add('picture-clip', 'The clip of a picture was left out; the picture is whole.');
    const bytesBase64 = bytesToBase64(writePng({ width: picture.width, height: picture.height, data }));
    for (const map of maps) this.pictures.push({ bytesBase64, type: 'image/png', matrix: compose(this.g.matrix, map) });
  }
}

/** Spans of a letter's contour, the way back to the start included. */
function closedSpans({ spans }: Contour): readonly Span[] {
  const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
  const [x, y] = [at(last, last.length - 2), at(last, last.length - 1)];
  return x === at(first, 0) && y === at(first, 1) ? spans : [...spans, [x, y, at(first, 0), at(first, 1)]];
}

/** From the page's own units to mm, its shown part's lower left corner at the origin, turned as it is shown. */
function pageMap({ view, userUnit, rotate }: PdfPage): { toMm: Matrix; widthMm: number; heightMm: number } {
  const k = MM_PER_POINT * (userUnit || 1);
  const [w, h] = [(view[2] - view[0]) * k, (view[3] - view[1]) * k];
  const turn = (((Math.round(rotate / 90) * 90) % 360) + 360) % 360;
  const upright = compose(scaling(k, k), translation(-view[0], -view[1]));
  const shift = { 0: [0, 0], 90: [0, w], 180: [w, h], 270: [h, 0] }[turn] ?? [0, 0];
  const toMm = compose(compose(translation(at(shift, 0), at(shift, 1)), rotation(-turn)), upright);
  return turn % 180 === 0 ? { toMm, widthMm: w, heightMm: h } : { toMm, widthMm: h, heightMm: w };
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
    const { toMm, widthMm, heightMm } = pageMap(page);
    if (![widthMm, heightMm].every((n) => n > 0 && n < 1e6) || !invert(toMm) || !Number.isFinite(mapPoint(toMm, { x: 1, y: 1 }).x))
      throw new InputError('pdf', 'The page has no size.');
    const walker = new PageWalker(page, await document.getOptionalContentConfig(), operators, options, toMm);
    const list = await page.getOperatorList({ intent: 'display', annotationMode: 0 });
    walker.nameSpots(list, await spotsOf(bytes, number));
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
    };
  } finally {
    await close();
  }
}
