/** Clips and masks of the SVG reader, as outlines on the page in px. Source: SVG 2 and CSS Masking 1 (W3C). */
import type { Box, Matrix, Outline } from '../../types/index.ts';
import { LimitError } from '../../errors/index.ts';
import { bounds, boxesMeet, EMPTY_OUTLINE, isEmptyBox, nodeCount } from '../../geometry/outline.ts';
import { endX, endY, startX, startY } from '../../geometry/span.ts';
import { compose, IDENTITY, mapOutline, translation } from '../../geometry/transform.ts';
import { boxShape } from '../../geometry/shapes.ts';
import { keepOverlap, knockOut, weld } from '../../geometry/weld/weld.ts';
import { shapeOutline } from './shapes.ts';
import { inherit, INITIAL, paintOf } from './style.ts';
import { SHAPES, type State } from './support.ts';
import { filled } from '../filled.ts';
import { length, luminance, transform, unitBox } from './values.ts';
import type { XmlElement } from './xml.ts';

/** What the reader lends to its clips. */
export interface Source {
  valuesOf(element: XmlElement): ReadonlyMap<string, string>;
  find(reference: string | undefined): XmlElement | undefined;
  remark(code: string, text: string): void;
  tick(): void;
}

/** Nodes times shapes that are welded for clips, in all: some seconds. */
const MOST_EFFORT = 250_000;

/** Clips of elements, each worked out once where it lies. */
export class Clips {
  private readonly source: Source;
  /** Clips as they came out, by where they lie. */
  private readonly known = new Map<XmlElement, Map<string, Outline>>();
  private effort = 0;

  constructor(source: Source) {
    this.source = source;
  }

  /** Counts what welding shapes takes, which grows with each of them lying over the others. @throws LimitError */
  private work(shapes: readonly Outline[]): void {
    if (shapes.length < 2) return;
    this.effort += shapes.length * shapes.reduce((sum, shape) => sum + nodeCount(shape), 0);
    if (this.effort > MOST_EFFORT)
      throw new LimitError(
        'svg',
        'The clips of the file are made of so many shapes that they cannot all be worked out. Have it saved with its clips applied.',
      );
  }

  /** Everything that an element paints, as outlines on the page in px; for clips and masks. */
  private silhouette(element: XmlElement, state: State): { outline: Outline; bright: boolean }[] {
    this.source.tick();
    const values = this.source.valuesOf(element);
    if (!element.isSvg || values.get('display') === 'none') return [];
    const style = inherit(state.style, values, state.context);
    const own: State = { ...state, style, matrix: compose(state.matrix, transform(values.get('transform'), state.context)) };
    if (element.name === 'use') {
      const target = this.source.find(values.get('href'));
      if (!target || state.uses.length > 50) return [];
      const shift = translation(length(values.get('x'), state.context, 'x') ?? 0, length(values.get('y'), state.context, 'y') ?? 0);
      return this.silhouette(target, { ...own, matrix: compose(own.matrix, shift), uses: [...state.uses, 'x'] });
    }
    if (element.name === 'g') return element.children.flatMap((child) => this.silhouette(child, own));
    if (!SHAPES.has(element.name) || !style.visible) return [];
    const { outline } = shapeOutline(element.name, values, state.context);
    const paint = paintOf(style.fill);
    const clip = this.clipOf(element, values, { ...own, clip: undefined });
    const shape = mapOutline(own.matrix, outline);
    const area = (rule: string): Outline => (clip ? keepOverlap([filled(shape, rule), clip]) : filled(shape, rule));
    const alpha = (paint.kind === 'colour' ? paint.alpha : 1) * style.fillAlpha * Number(values.get('opacity') ?? 1);
    const bright = paint.kind === 'colour' ? luminance(paint.hex) * alpha > 0.5 : paint.kind === 'server';
    return [{ outline: area(state.inMarker ? style.clipRule : style.fillRule), bright }];
  }

  private boxOf(element: XmlElement, state: State): Box {
    const flat: State = { ...state, matrix: IDENTITY, clip: undefined };
    const visit = (one: XmlElement, matrix: Matrix): Outline[] => {
      const values = this.source.valuesOf(one);
      if (SHAPES.has(one.name)) return [mapOutline(matrix, shapeOutline(one.name, values, flat.context).outline)];
      return one.children.flatMap((child) =>
        visit(child, compose(matrix, transform(this.source.valuesOf(child).get('transform'), flat.context))),
      );
    };
    return bounds({ contours: visit(element, IDENTITY).flatMap((outline) => outline.contours) });
  }

  /** The clip that applies to an element: what came from above, its clip-path and its mask. Page px. */
  clipOf(element: XmlElement, values: ReadonlyMap<string, string>, state: State): Outline | undefined {
    let clip = state.clip;
    const reference = values.get('clip-path');
    if (reference && reference !== 'none') {
      const found = this.source.find(reference);
      if (found?.name === 'clipPath') {
        const own = this.clipPath(found, element, state, 0);
        clip = clip ? keepOverlap([clip, own]) : own;
      }
    }
    const mask = this.source.find(values.get('mask'));
    if (mask?.name === 'mask') {
      const own = this.mask(mask, element, state);
      clip = clip ? keepOverlap([clip, own]) : own;
    }
    return clip;
  }

  private unitsOf(element: XmlElement, state: State): Matrix | undefined {
    const box = this.boxOf(element, state);
    return isEmptyBox(box) || box.maxX === box.minX || box.maxY === box.minY ? undefined : unitBox(box);
  }

  private clipPath(clipPath: XmlElement, element: XmlElement, state: State, depth: number): Outline {
    const values = this.source.valuesOf(clipPath);
    const units = values.get('clipPathUnits') === 'objectBoundingBox' ? this.unitsOf(element, state) : IDENTITY;
    if (!units || depth > 8) return EMPTY_OUTLINE;
    const matrix = compose(compose(state.matrix, transform(values.get('transform'), state.context)), units);
    const inner: State = { ...state, matrix, clip: undefined, style: inherit(INITIAL, values, state.context), inMarker: true };
    const key = `${matrix.join()} ${depth}`;
    const known = this.known.get(clipPath)?.get(key);
    if (known) return known;
    const shapes = clipPath.children.flatMap((child) => this.silhouette(child, inner)).map(({ outline }) => outline);
    this.work(shapes);
    let out = shapes.length > 0 ? weld(shapes) : EMPTY_OUTLINE;
    const again = this.source.find(values.get('clip-path'));
    if (again?.name === 'clipPath') out = keepOverlap([out, this.clipPath(again, element, state, depth + 1)]);
    this.known.set(clipPath, (this.known.get(clipPath) ?? new Map<string, Outline>()).set(key, out));
    return out;
  }

  private mask(mask: XmlElement, element: XmlElement, state: State): Outline {
    const values = this.source.valuesOf(mask);
    const box = this.boxOf(element, state);
    const byBox = values.get('maskUnits') !== 'userSpaceOnUse';
    const context = byBox ? { ...state.context, width: 1, height: 1 } : state.context;
    const of = (name: string, axis: 'x' | 'y', usual: string): number => length(values.get(name) ?? usual, context, axis) ?? 0;
    const frame = boxShape(Math.max(1e-9, of('width', 'x', '120%')), Math.max(1e-9, of('height', 'y', '120%')));
    const region = mapOutline(compose(byBox ? unitBox(box) : IDENTITY, translation(of('x', 'x', '-10%'), of('y', 'y', '-10%'))), frame);
    const units = values.get('maskContentUnits') === 'objectBoundingBox' ? unitBox(box) : IDENTITY;
    const inner: State = {
      ...state,
      matrix: compose(state.matrix, units),
      clip: undefined,
      style: inherit(INITIAL, values, state.context),
      inMarker: false,
    };
    const usesAlpha = values.get('mask-type') === 'alpha' || values.get('mask-mode') === 'alpha';
    let shown: Outline = EMPTY_OUTLINE;
    for (const { outline, bright } of mask.children.flatMap((child) => this.silhouette(child, inner)))
      shown = bright || usesAlpha ? weld([shown, outline]) : knockOut(shown, [outline]);
    this.source.remark('mask', 'A mask was taken as a plain outline: bright parts show, dark ones do not.');
    return keepOverlap([shown, mapOutline(state.matrix, region)]);
  }
}

/** What of a shape lies within a clip; the usual clip, a level box round all of it, takes no cutting. */
export function within(shape: Outline, clip: Outline): Outline {
  const [own, frame] = [bounds(shape), bounds(clip)];
  if (!boxesMeet(own, frame)) return EMPTY_OUTLINE;
  const isInside = own.minX >= frame.minX && own.maxX <= frame.maxX && own.minY >= frame.minY && own.maxY <= frame.maxY;
  return isInside && isLevelBox(clip) ? shape : keepOverlap([shape, clip]);
}

/** Is it one contour of four straight sides along the axes? */
function isLevelBox({ contours }: Outline): boolean {
  const [only] = contours;
  return (
    contours.length === 1 &&
    only !== undefined &&
    only.closed &&
    only.spans.length === 4 &&
    only.spans.every((span) => span.length === 4 && (startX(span) === endX(span) || startY(span) === endY(span)))
  );
}
