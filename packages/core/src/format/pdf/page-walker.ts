/** The walk over a page's list of operations: graphics state, paths, text, pictures, layers. */
import type { Contour, Matrix, Outline } from '../../types/index.ts';
import { CancelledError, LimitError } from '../../errors/index.ts';
import { compose, IDENTITY, mapOutline, scaling, translation } from '../../geometry/transform.ts';
import { at } from '../../geometry/span.ts';
import { boxShape } from '../../geometry/shapes.ts';
import { replacedText, type ReadOptions } from '../artwork.ts';
import { filled } from '../filled.ts';
import { objectOf, type OperatorList, type PdfFont, type PdfGlyph, type PdfLayers, type PdfPage, type PdfPicture } from './engine.ts';
import { boxOutline, CAPS, closedSpans, JOINS, meet, outlineFrom } from './graphics.ts';
import { meanColour } from '../../colour/gradient.ts';
import { gradientFrom } from './shadings.ts';
import { NO_LAYER, Painter } from './painter.ts';
import { pngsOf } from './pictures.ts';
import { believedInks, IN_PLAIN_COLOURS, type PageInks, type PaintedPicture } from './inks.ts';

const DEEPEST = 50;
const KEPT_GRADIENT = 'Gradients were reduced to their mean colour for cutting; they are kept for print.';
const FLAT_SHADING = 'A shading of another kind than along a line or between circles was taken in grey.';

/** Goes through what a page does and paints it. */
export class PageWalker extends Painter {
  private readonly page: PdfPage;
  private readonly whole: Matrix;
  private readonly layers: PdfLayers;
  private readonly names: ReadonlyMap<number, string>;
  private readonly options: ReadOptions;
  private pendingClip: 'nonzero' | 'evenodd' | undefined;
  private line: Matrix = IDENTITY;
  private pen = 0;
  private depth = 0;
  private steps = 0;
  /** Inks of the paths and texts in the order of painting, and how many were passed. */
  private ofPage: PageInks | undefined;
  /** Pictures in the order of painting, when they could be told, and how many were passed. */
  private inPlates: readonly PaintedPicture[] = [];
  private pictureAt = 0;
  private paintedPaths = 0;
  private paintedTexts = 0;

  constructor(page: PdfPage, layers: PdfLayers, operators: Readonly<Record<string, number>>, options: ReadOptions, toMm: Matrix) {
    super(toMm);
    this.page = page;
    this.whole = toMm;
    this.layers = layers;
    this.names = new Map(Object.entries(operators).map(([name, code]) => [code, name]));
    this.options = options;
  }

  /** Inks are only believed when there are as many paintings as were counted for them. */
  nameInks(list: OperatorList, inks: PageInks | undefined): void {
    const isPaint = (args: readonly unknown[] | null): boolean => {
      const [operator, data] = args as [number, readonly unknown[]];
      return this.names.get(operator) !== 'endPath' && data[0] !== null && data[0] !== undefined;
    };
    const name = (i: number): string => this.names.get(list.fnArray[i] as number) ?? '';
    const paths = list.fnArray.filter((_, i) => name(i) === 'constructPath' && isPaint(list.argsArray[i] ?? null)).length;
    const texts = list.fnArray.filter((_, i) => name(i) === 'showText').length;
    const pictures = list.fnArray.filter((_, i) => name(i) === 'paintImageXObject').length;
    const believed = believedInks(inks, { paths, texts, pictures });
    this.ofPage = believed.inks;
    this.inPlates = believed.pictures;
    for (const [code, text] of believed.remarks) this.remarks.add(code, text);
  }

  async walk({ fnArray, argsArray }: OperatorList): Promise<void> {
    if (++this.depth > DEEPEST) throw new LimitError('pdf', 'The file holds forms in forms without end.');
    const depth = this.depthOfStates;
    for (let i = 0; i < fnArray.length; i++) {
      if (++this.steps % 256 === 0 && this.options.control?.signal?.aborted) throw new CancelledError();
      if (this.steps % 4096 === 0) this.options.control?.onProgress?.(i, fnArray.length, 'reading');
      await this.operation(this.names.get(fnArray[i] as number) ?? '', argsArray[i] ?? []);
    }
    while (this.depthOfStates > depth) this.restore();
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

  /** A colour that is a pattern: a gradient, or tiles, which are taken in grey. */
  private async pattern(of: 'fill' | 'stroke', args: readonly unknown[]): Promise<void> {
    const map = compose(this.g.base, (args[2] as Matrix | null | undefined) ?? IDENTITY);
    const gradient = args[0] === 'Shading' ? gradientFrom(await this.object(String(args[1])), map) : undefined;
    if (!gradient && args[0] === 'TilingPattern') this.remarks.add('pattern', 'Patterns were taken as one flat colour.');
    else if (gradient) this.remarks.add('gradient', KEPT_GRADIENT);
    else this.remarks.add('shading', FLAT_SHADING);
    const hex = gradient ? meanColour(gradient) : '#808080';
    this.set(of === 'fill' ? { fill: hex, fillGradient: gradient } : { stroke: hex, strokeGradient: gradient });
  }

  /** A gradient over everything that the clip lets through. */
  private async shading(id: string): Promise<void> {
    const gradient = gradientFrom(await this.object(id), this.g.matrix);
    const [x0, y0, x1, y1] = this.page.view;
    const area = this.g.clip?.outline ?? mapOutline(this.whole, boxOutline({ minX: x0, minY: y0, maxX: x1, maxY: y1 }));
    if (!gradient) return this.remarks.add('shading-out', 'A shading of another kind than along a line or between circles was left out.');
    this.remarks.add('gradient', KEPT_GRADIENT);
    const { fill, fillGradient } = this.g;
    this.set({ fill: meanColour(gradient), fillGradient: gradient });
    this.inks = undefined;
    this.fill(area, 'nonzero', undefined, IDENTITY);
    this.set({ fill, fillGradient });
  }

  private remarkOnGroup(group: Record<string, unknown>): void {
    if (group.smask) this.remarks.add('mask', 'Soft masks were left out; what lies under them is whole.');
  }

  private form(matrix: Matrix | null, box: readonly number[] | null): void {
    this.save();
    if (matrix) this.set({ matrix: compose(this.g.matrix, matrix) });
    this.set({ base: this.g.matrix });
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
        this.set({ fill: String(args[0]), fillGradient: undefined });
        return true;
      case 'setStrokeRGBColor':
        this.set({ stroke: String(args[0]), strokeGradient: undefined });
        return true;
      case 'setFillTransparent':
        this.set({ fill: undefined });
        return true;
      case 'setStrokeTransparent':
        this.set({ stroke: undefined });
        return true;
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
    else if (key === 'Font') this.useFont(...(value as [string, number]));
    else if (key === 'SMask' && value) this.remarks.add('mask', 'Soft masks were left out; what lies under them is whole.');
  }

  private path(operator: number, data: readonly unknown[]): void {
    const outline = outlineFrom(data?.[0] as ArrayLike<number> | null);
    const name = this.names.get(operator) ?? '';
    const isPaint = name !== 'endPath' && data?.[0] !== null && data?.[0] !== undefined;
    this.inks = isPaint && this.depth === 1 ? this.ofPage?.paths[this.paintedPaths++] : undefined;
    if (outline.contours.length > 0) this.paintPath(name, outline);
    if (!this.pendingClip) return;
    const shape = mapOutline(this.g.matrix, outline);
    this.set({ clip: meet(this.g.clip, filled(shape, this.pendingClip)) });
    this.pendingClip = undefined;
  }

  private paintPath(name: string, outline: Outline): void {
    if (/^(eoFill|fill|closeFill|closeEOFill)/i.test(name) || name.endsWith('FillStroke'))
      this.fill(outline, /eo/i.test(name) ? 'evenodd' : 'nonzero', undefined);
    if (/stroke/i.test(name)) this.stroke(outline, undefined);
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
    this.inks = this.depth === 1 ? this.ofPage?.texts[this.paintedTexts++] : undefined;
    if (!font) return this.remarks.add('text', 'Text whose font could not be read was left out.');
    if (font.isType3Font) return this.showDrawn(glyphs, font);
    const contours: Contour[] = [];
    let text = '';
    for (const glyph of glyphs) {
      if (typeof glyph === 'number') this.pen -= (glyph * size) / 1000;
      else {
        text += glyph.unicode;
        contours.push(...this.glyph(glyph, font));
      }
    }
    if (font.missingFile && mode !== 3 && text.trim() !== '') return this.foreign(text, font, glyphs);
    if (contours.length === 0) return;
    const outline = { contours };
    const name = text.trim().slice(0, 80);
    if (mode % 4 === 0 || mode % 4 === 2) this.fill(outline, 'nonzero', name);
    if (mode % 4 === 1 || mode % 4 === 2) this.stroke(outline, name);
    this.remarks.add('text-outlines', 'Text was turned into outlines.');
  }

  /** One letter at the pen, which moves on. */
  private glyph(glyph: PdfGlyph, font: PdfFont): readonly Contour[] {
    const { size, mode, charSpace, wordSpace } = this.g;
    const em = (font.fontMatrix?.[0] ?? 0.001) * size;
    const metrics = font.vertical ? (glyph.vmetric ?? font.defaultVMetrics) : undefined;
    const [dx, dy] = metrics ? [-at(metrics, 1) * em, at(metrics, 2) * em] : [0, 0];
    const isShown = mode !== 3 && mode !== 7 && glyph.isInFont && !font.missingFile;
    const { accent } = glyph;
    const contours = isShown
      ? [
          ...this.glyphAt(font, glyph.fontChar, dx, dy),
          ...(accent ? this.glyphAt(font, accent.fontChar, dx + size * accent.offset.x, dy + size * accent.offset.y) : []),
        ]
      : [];
    const space = charSpace + (glyph.isSpace ? wordSpace : 0);
    this.pen += metrics ? at(metrics, 0) * em - space : glyph.width * em + space;
    return contours;
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
    const stands = compose(this.standing, scaling(fit, 1));
    this.pen += advance;
    const { instead } = found;
    const words = instead && { text, wanted: family, set: instead, matrix: compose(this.g.matrix, stands) };
    this.fill(mapOutline(stands, found.outline), 'nonzero', text.trim().slice(0, 80), this.g.matrix, words);
    if (instead) this.remarks.add(`font-replaced ${family}`, replacedText(family, instead));
    else this.remarks.add('font-replaced', `The font ${family} is not in the file; the shop’s own was taken in its width.`);
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
    if (name === 'shadingFill') return this.shading(String(args[0]));
    if (name === 'setFillColorN' || name === 'setStrokeColorN') return this.pattern(name === 'setFillColorN' ? 'fill' : 'stroke', args);
    if (name === 'paintImageXObject') return this.picture(await this.object(String(args[0])), [IDENTITY], this.inPlates[this.pictureAt++]);
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

  private picture(found: unknown, maps: readonly Matrix[], painted?: PaintedPicture): void {
    const { pngs, isPlain, isShort } = pngsOf(found as PdfPicture | null, painted);
    if (isPlain) this.remarks.add('picture-inks', IN_PLAIN_COLOURS);
    if (isShort) this.remarks.add('picture-inks-short', 'Pictures with more than eight inks of their own: the inks beyond were left out.');
    if (pngs.length === 0) return this.remarks.add('picture', 'A picture that could not be read was left out.');
    if (this.g.clip && !this.g.clip.box) this.remarks.add('picture-clip', 'The clip of a picture was left out; the picture is whole.');
    for (const png of pngs) for (const map of maps) this.pictures.push({ ...png, type: 'image/png', matrix: compose(this.g.matrix, map) });
  }
}
