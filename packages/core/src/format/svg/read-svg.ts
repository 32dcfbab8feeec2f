/**
 * SVG to artwork at true size (SVG 1.1 and 2, W3C): viewBox and units, transforms, use and symbol, style sheets,
 * strokes, clips, plain masks, markers, nested documents. 1 px is 1/96 inch. Gradients become a flat colour and are kept
 * beside it, patterns become grey, both with a remark; text becomes outlines when the caller knows its fonts. Nothing is fetched or run.
 *
 * Method: one walk over the tree with the map to the page, the inherited style and the clip that applies; clips are
 * applied to outlines with the weld family. Even-odd fills become outlines for the non-zero rule. Result in mm, y up.
 * Limits: 200 MB, a million elements, 200 000 items after all uses; filters and blending are not known.
 */
import type { Matrix, Outline, Point } from '../../types/index.ts';
import { CancelledError, InputError, LimitError } from '../../errors/index.ts';
import { compose, determinant, IDENTITY, mapOutline, rotation, scaling, translation } from '../../geometry/transform.ts';
import { boxShape } from '../../geometry/shapes.ts';
import { endTangent, endX, endY, startX, startY } from '../../geometry/span.ts';
import { strokeToShape } from '../../geometry/offset/stroke-to-shape.ts';
import { keepOverlap } from '../../geometry/weld/weld.ts';
import {
  Remarks,
  replacedText,
  type ArtworkItem,
  type ArtworkPicture,
  type ArtworkText,
  type ImportedArtwork,
  type ReadOptions,
  type Remark,
} from '../artwork.ts';
import { cascade, styleSheet, type StyleSheet } from './css.ts';
import { shapeOutline } from './shapes.ts';
import { dashesOf, inherit, INITIAL, paintOf, type Style } from './style.ts';
import { fitViewBox, length, transform, viewBox, type LengthContext } from './values.ts';
import { Clips, within } from './clips.ts';
import { Paints, type FlatPaint } from './paints.ts';
import { angleOf, markerTurn, pageSize, pictureSize, SHAPES, type MarkerPlace, type State } from './support.ts';
import { filled, isSimilar, sound } from '../filled.ts';
import { penAt, placedRuns, placesOf } from './letters.ts';
import { PASSED_OVER, refuseEndlessUses, repeatsTooOften } from './unfold.ts';
import { Tiles } from './tiles.ts';
import { parseXml, textContent, type XmlElement } from './xml.ts';

/** What an SVG file is read with. */
export type ReadSvgOptions = ReadOptions;

const MM_PER_PX = 25.4 / 96;
const MOST_ITEMS = 200_000;
const MOST_VISITS = 2_000_000;

/** The clip within a window that hides what lies over its edge, unless it says otherwise. */
function windowClip(clip: Outline | undefined, values: ReadonlyMap<string, string>, window: Outline): Outline | undefined {
  const overflow = values.get('overflow')?.trim();
  if (overflow === 'visible' || overflow === 'auto') return clip;
  return clip ? keepOverlap([clip, window]) : window;
}

const kept = ({ gradient }: FlatPaint): Pick<ArtworkItem, 'gradient'> => (gradient ? { gradient } : {});

class Walker {
  readonly items: ArtworkItem[] = [];
  readonly pictures: ArtworkPicture[] = [];
  private readonly remarks = new Remarks();
  private readonly byId = new Map<string, XmlElement>();
  private readonly values = new WeakMap<XmlElement, Map<string, string>>();
  private readonly sheet: StyleSheet;
  private readonly options: ReadSvgOptions;
  private readonly clips = new Clips(this);
  private readonly tiles = new Tiles(this);
  private readonly paints = new Paints(this);
  private visits = 0;
  private elements = 0;
  toMm: Matrix = IDENTITY;

  constructor(root: XmlElement, options: ReadSvgOptions) {
    this.options = options;
    const sheets: string[] = [];
    const visit = (element: XmlElement): void => {
      this.elements++;
      const { id } = element.attributes;
      if (id !== undefined && !this.byId.has(id)) this.byId.set(id, element);
      if (element.name === 'style' && element.isSvg) sheets.push(textContent(element));
      element.children.forEach(visit);
    };
    visit(root);
    this.sheet = styleSheet(sheets);
    refuseEndlessUses(root, this.elements, (reference) => this.find(reference));
  }

  remark(code: string, text: string): void {
    this.remarks.add(code, text);
  }

  get report(): Remark[] {
    return this.remarks.list;
  }

  valuesOf(element: XmlElement): Map<string, string> {
    let values = this.values.get(element);
    if (!values) this.values.set(element, (values = cascade(this.sheet, element)));
    return values;
  }

  find(reference: string | undefined): XmlElement | undefined {
    const id = /^(?:url\(\s*["']?)?#([^"')\s]+)["']?\)?/.exec(reference?.trim() ?? '')?.[1];
    return id === undefined ? undefined : this.byId.get(id);
  }

  tick(): void {
    if (++this.visits > MOST_VISITS) throw repeatsTooOften();
    if (this.visits % 256 !== 0) return;
    if (this.options.control?.signal?.aborted) throw new CancelledError();
    this.options.control?.onProgress?.(Math.min(this.visits, this.elements), this.elements, 'reading');
  }

  walk(element: XmlElement, state: State): void {
    this.tick();
    if (!element.isSvg) return;
    const { name } = element;
    if (name === 'script') return this.remark('script', 'A script in the file was left out; nothing of it was run.');
    if (name === 'foreignObject') return this.remark('foreign', 'Parts of another format inside the file were left out.');
    if (PASSED_OVER.has(name)) return;
    const values = this.valuesOf(element);
    if (values.get('display')?.trim() === 'none') return;
    const style = inherit(state.style, values, state.context);
    const context = { ...state.context, fontSize: style.fontSize };
    const own: State = {
      ...state,
      style,
      context,
      matrix: compose(state.matrix, transform(values.get('transform'), context)),
      layer: this.layerOf(element) ?? state.layer,
    };
    if (Math.abs(determinant(own.matrix)) < 1e-15 || this.isUnseen(values)) return;
    const clip = this.clips.clipOf(element, values, own);
    if (clip && clip.contours.length === 0) return;
    this.content(element, values, { ...own, clip });
  }

  /** Is nothing to be seen of an element? Effects that are not kept are remarked on. */
  private isUnseen(values: Map<string, string>): boolean {
    const opacity = Number(values.get('opacity') ?? 1);
    if (opacity === 0) return true;
    if (opacity < 1) this.remark('transparency', 'Half transparent parts were taken as solid.');
    if (values.has('filter') && values.get('filter') !== 'none') this.remark('filter', 'Effects such as blur and shadow were left out.');
    return false;
  }

  private layerOf({ name, attributes, children }: XmlElement): string | undefined {
    if (name !== 'g') return undefined;
    const title = children.find((child) => child.name === 'title' && child.isSvg);
    return attributes.label ?? (title ? textContent(title).trim() : undefined) ?? attributes.id;
  }

  private content(element: XmlElement, values: Map<string, string>, state: State): void {
    const { name } = element;
    if (SHAPES.has(name)) return this.shape(element, values, state);
    switch (name) {
      case 'g':
      case 'a':
        return element.children.forEach((child) => this.walk(child, state));
      case 'svg':
        return this.viewport(element, values, state, undefined);
      case 'switch':
        return this.choice(element, state);
      case 'use':
        return this.use(values, state);
      case 'image':
        return this.image(values, state);
      case 'text':
        return this.text(element, values, state);
      default:
        return this.remark('unknown', `“${name}” is not known and was left out.`);
    }
  }

  private choice(element: XmlElement, state: State): void {
    const fits = ({ isSvg, name, attributes }: XmlElement): boolean =>
      isSvg &&
      name !== 'foreignObject' &&
      (attributes.requiredExtensions ?? '') === '' &&
      (attributes.systemLanguage === undefined || /(^|,)\s*en\b/i.test(attributes.systemLanguage));
    const chosen = element.children.find(fits);
    if (chosen) this.walk(chosen, state);
  }

  /** A nested document or symbol: its own viewBox, clipped to its own window. */
  viewport(
    element: XmlElement,
    values: Map<string, string>,
    state: State,
    size: { width: number | undefined; height: number | undefined } | undefined,
  ): void {
    const { context } = state;
    const isSymbol = element.name === 'symbol';
    const corner = (name: 'x' | 'y'): number => (isSymbol ? 0 : (length(values.get(name), context, name) ?? 0));
    const [x, y] = [corner('x'), corner('y')];
    const width = size?.width ?? length(values.get('width'), context, 'x') ?? context.width;
    const height = size?.height ?? length(values.get('height'), context, 'y') ?? context.height;
    if (!(width > 0 && height > 0)) return;
    const box = viewBox(values.get('viewBox'));
    const placed = compose(state.matrix, translation(x, y));
    const matrix = box ? compose(placed, fitViewBox(box, width, height, values.get('preserveAspectRatio'))) : placed;
    const clip = windowClip(state.clip, values, mapOutline(placed, boxShape(width, height)));
    const inner = { ...context, width: box?.width ?? width, height: box?.height ?? height };
    element.children.forEach((child) => this.walk(child, { ...state, matrix, clip, context: inner }));
  }

  private use(values: Map<string, string>, state: State): void {
    const reference = values.get('href');
    const target = this.find(reference);
    if (!target) return this.remark('reference', 'A part refers to something that is not in the file.');
    const key = reference ?? '';
    if (state.uses.includes(key) || state.uses.length > 200) return this.remark('circle', 'A part that refers to itself was left out.');
    const { context } = state;
    const shift = translation(length(values.get('x'), context, 'x') ?? 0, length(values.get('y'), context, 'y') ?? 0);
    const inner: State = { ...state, matrix: compose(state.matrix, shift), uses: [...state.uses, key] };
    if (target.name !== 'symbol' && target.name !== 'svg') return this.walk(target, inner);
    this.tick();
    const own = this.valuesOf(target);
    const size = { width: length(values.get('width'), context, 'x'), height: length(values.get('height'), context, 'y') };
    const style = inherit(inner.style, own, context);
    if (own.get('display') === 'none' && target.name === 'svg') return;
    this.viewport(target, own, { ...inner, style }, size);
  }

  private shape(element: XmlElement, values: Map<string, string>, state: State): void {
    const { outline, isBroken } = shapeOutline(element.name, values, state.context);
    if (isBroken) this.remark('path', 'A path breaks off in a mistake; it was read up to there.');
    if (outline.contours.length === 0) return;
    if (state.style.visible) this.paint(outline, state, element.attributes.id);
    if (state.style.visible && element.name !== 'rect' && element.name !== 'circle' && element.name !== 'ellipse')
      this.markers(outline, state);
  }

  private emit(asked: ArtworkItem): void {
    const outline = sound(asked.outline);
    if (outline.contours.length === 0) return;
    const item = outline === asked.outline ? asked : { ...asked, outline };
    if (this.items.length >= MOST_ITEMS) throw new LimitError('svg', `The file has more than ${MOST_ITEMS} parts.`);
    this.items.push(item);
  }

  private paint(outline: Outline, state: State, name: string | undefined, text?: ArtworkText): void {
    const { style, matrix, clip } = state;
    const common = { ...(state.layer === undefined ? {} : { layer: state.layer }), ...(name === undefined ? {} : { name }) };
    const page = compose(this.toMm, matrix);
    const painted = { outline, page, context: state.context };
    const fill = this.tiles.fill(outline, state) ? undefined : this.paints.of(paintOf(style.fill), style.fillAlpha, painted);
    const cut = (shape: Outline): Outline => (clip ? within(shape, mapOutline(this.toMm, clip)) : shape);
    if (fill)
      this.emit({
        outline: cut(filled(mapOutline(page, outline), style.fillRule)),
        closed: true,
        fill: fill.hex,
        ...kept(fill),
        ...common,
        ...(text ? { text } : {}),
      });
    const line = this.paints.of(paintOf(style.stroke), style.strokeAlpha, painted);
    const width = length(style.strokeWidth, state.context, 'diagonal') ?? 1;
    if (!line || !(width > 0)) return;
    const dash = dashesOf(style, state.context);
    const dashOffset = length(style.dashOffset, state.context, 'diagonal') ?? 0;
    const pen = { cap: style.cap, join: style.join, mitreLimit: style.mitreLimit };
    if (isSimilar(page) && !clip) {
      const k = Math.sqrt(Math.abs(determinant(page)));
      const dashes = dash ? { dashMm: dash.map((n) => n * k), dashOffsetMm: dashOffset * k } : {};
      const closedOnly = outline.contours.every((contour) => contour.closed);
      return this.emit({
        outline: mapOutline(page, outline),
        closed: closedOnly,
        stroke: { hex: line.hex, widthMm: width * k, ...pen, ...dashes },
        ...kept(line),
        ...common,
      });
    }
    const shape = strokeToShape(outline, {
      width,
      ...pen,
      ...(dash ? { dash, dashOffset } : {}),
      tol: 0.004 / Math.max(1e-6, Math.sqrt(Math.abs(determinant(page)))),
    });
    this.remark('stroke', 'Strokes that are clipped or unevenly scaled were given their real outline.');
    this.emit({ outline: cut(mapOutline(page, shape)), closed: true, fill: line.hex, ...kept(line), ...common });
  }

  private markers(outline: Outline, state: State): void {
    const ids = state.style.markers;
    if (state.inMarker || ids.every((id) => id === 'none')) return;
    const [start, mid, end] = ids.map((id) => this.find(id));
    const width = length(state.style.strokeWidth, state.context, 'diagonal') ?? 1;
    outline.contours.forEach((contour, c) => {
      contour.spans.forEach((span, i) => {
        const before = contour.spans[i - 1];
        const first = c === 0 && i === 0;
        const marker = first ? start : mid;
        if (marker)
          this.marker(
            marker,
            {
              x: startX(span),
              y: startY(span),
              angleDeg: angleOf(before && endTangent(before, 1), endTangent(span, 0)),
              isStart: first,
            },
            width,
            state,
          );
      });
      const last = contour.spans.at(-1);
      if (last && end && c === outline.contours.length - 1)
        this.marker(end, { x: endX(last), y: endY(last), angleDeg: angleOf(endTangent(last, 1), undefined), isStart: false }, width, state);
    });
  }

  private marker(marker: XmlElement, at: MarkerPlace, strokeWidth: number, state: State): void {
    const values = this.valuesOf(marker);
    const { context } = state;
    const [w, h] = [length(values.get('markerWidth'), context, 'x') ?? 3, length(values.get('markerHeight'), context, 'y') ?? 3];
    if (!(w > 0 && h > 0)) return;
    const turn = markerTurn(values.get('orient') ?? '0', at);
    const scale = values.get('markerUnits') === 'userSpaceOnUse' ? 1 : strokeWidth;
    const box = viewBox(values.get('viewBox'));
    const fit = box ? fitViewBox(box, w, h, values.get('preserveAspectRatio')) : IDENTITY;
    const [rx, ry] = [length(values.get('refX'), context, 'x') ?? 0, length(values.get('refY'), context, 'y') ?? 0];
    const reference = { x: fit[0] * rx + fit[4], y: fit[3] * ry + fit[5] };
    const placed = compose(state.matrix, compose(translation(at.x, at.y), compose(rotation(turn), scaling(scale, scale))));
    const window = compose(placed, translation(-reference.x, -reference.y));
    const clip = windowClip(state.clip, values, mapOutline(window, boxShape(w, h)));
    const style = inherit(INITIAL, values, context);
    const matrix = compose(window, fit);
    marker.children.forEach((child) => this.walk(child, { ...state, matrix, clip, style, inMarker: true }));
  }

  private image(values: Map<string, string>, state: State): void {
    const href = values.get('href')?.trim() ?? '';
    const data = /^data:image\/(png|jpeg|jpg|gif|webp|bmp);base64,([A-Za-z0-9+/=\s]+)$/i.exec(href);
    if (!data) return this.remark('picture', 'A picture that does not lie in the file itself was left out; nothing was fetched.');
    const { context } = state;
    const [x, y] = [length(values.get('x'), context, 'x') ?? 0, length(values.get('y'), context, 'y') ?? 0];
    const [w, h] = [length(values.get('width'), context, 'x') ?? 0, length(values.get('height'), context, 'y') ?? 0];
    if (!(w > 0 && h > 0)) return;
    const bytesBase64 = (data[2] ?? '').replace(/\s/g, '');
    const size = pictureSize(bytesBase64);
    const fit = size ? fitViewBox({ x: 0, y: 0, ...size }, w, h, values.get('preserveAspectRatio')) : IDENTITY;
    const local: Matrix = size ? compose(fit, [size.width, 0, 0, -size.height, 0, size.height]) : [w, 0, 0, -h, 0, h];
    const matrix = compose(this.toMm, compose(state.matrix, compose(translation(x, y), local)));
    this.pictures.push({ bytesBase64, type: `image/${(data[1] ?? 'png').toLowerCase()}`, matrix });
  }

  private text(element: XmlElement, values: Map<string, string>, state: State): void {
    const { context } = state;
    const visit = (one: XmlElement, style: Style, pen: Point): Point => {
      const places = placesOf(this.valuesOf(one), { ...context, fontSize: style.fontSize });
      let at = penAt(pen, places, 0);
      let done = 0;
      let child = 0;
      for (const piece of one.texts) {
        const next = piece === null ? one.children[child++] : undefined;
        if (next && (next.name === 'tspan' || next.name === 'a')) at = visit(next, inherit(style, this.valuesOf(next), context), at);
        else if (piece !== null) {
          const words = piece.replace(/\s+/g, ' ');
          const shown = done === 0 ? words.trimStart() : words;
          for (const { text, from } of placedRuns(shown, done, places)) {
            if (from > 0) at = penAt(at, places, from);
            at = this.run(text, style, at, state, places.turn[Math.min(from, places.turn.length - 1)] ?? 0);
          }
          done += Array.from(shown).length;
        }
      }
      return at;
    };
    visit(element, state.style, { x: length(values.get('x'), context, 'x') ?? 0, y: length(values.get('y'), context, 'y') ?? 0 });
  }

  private run(text: string, style: Style, at: Point, state: State, turnDeg: number): Point {
    if (text.trim() === '') return at;
    const { fontFamily: family, fontWeight: weight, italic, fontSize: sizePx } = style;
    const found = this.options.textOutline?.({ text, family, weight, italic, sizePx });
    if (!found) {
      this.remark('text', `The text “${text.trim().slice(0, 40)}” was left out: its font (${family || 'not named'}) is not in the shop.`);
      return at;
    }
    const shift = style.anchor === 'middle' ? -found.advancePx / 2 : style.anchor === 'end' ? -found.advancePx : 0;
    const upright: Matrix = compose(compose(translation(at.x, at.y), rotation(turnDeg)), [1, 0, 0, -1, shift, 0]);
    const matrix = compose(state.matrix, upright);
    const { instead } = found;
    const words = instead && { text, wanted: family, set: instead, matrix: compose(this.toMm, matrix) };
    if (style.visible) this.paint(found.outline, { ...state, style, matrix }, text.trim().slice(0, 80), words);
    if (instead) this.remark(`font-replaced ${family}`, replacedText(family, instead));
    else this.remark('text-outlines', 'Text was turned into outlines.');
    return { x: at.x + found.advancePx, y: at.y };
  }
}

/**
 * Reads an SVG.
 * @returns artwork in mm, y up, with a report on everything that could not be kept as it was
 * @throws InputError `input.svg` for anything else; LimitError `limit.svg`; CancelledError
 */
export function readSvg(bytes: Uint8Array, options: ReadSvgOptions = {}): Promise<ImportedArtwork> {
  return Promise.resolve().then(() => {
    const { root, broken } = parseXml(bytes);
    if (root.name !== 'svg' || !root.isSvg)
      throw new InputError('svg', `This is not an SVG file: it begins with “${root.name.slice(0, 40)}”.`);
    const { width, height, stated } = pageSize(root);
    const walker = new Walker(root, options);
    walker.toMm = [MM_PER_PX, 0, 0, -MM_PER_PX, 0, height * MM_PER_PX];
    if (broken) walker.remark('broken', 'The file breaks off or has a mistake; it was read up to there.');
    if (!stated) walker.remark('size', 'The file does not say how large it is; 96 px were taken as an inch.');
    const values = walker.valuesOf(root);
    const context: LengthContext = { width, height, fontSize: 16 };
    const style = inherit(INITIAL, values, context);
    const state: State = { matrix: IDENTITY, style, clip: undefined, context, layer: undefined, uses: [], inMarker: false };
    const window = new Map(values);
    window.set('overflow', 'visible');
    for (const name of ['x', 'y']) window.delete(name);
    if (values.get('display')?.trim() !== 'none') walker.viewport(root, window, state, { width, height });
    return {
      widthMm: width * MM_PER_PX,
      heightMm: height * MM_PER_PX,
      items: walker.items,
      pictures: walker.pictures,
      report: walker.report,
      hasSize: stated,
    };
  });
}
