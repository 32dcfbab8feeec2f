/** Painting of a page's paths: fills and strokes as items, with the clip, the layer and the inks that apply. */
import type { Matrix, Outline } from '../../types/index.ts';
import { LimitError } from '../../errors/index.ts';
import { determinant, mapOutline, mappedBounds } from '../../geometry/transform.ts';
import {} from '../../geometry/outline.ts';
import { strokeToShape } from '../../geometry/offset/stroke-to-shape.ts';
import { Remarks, type ArtworkItem, type ArtworkPicture, type ArtworkText } from '../artwork.ts';
import { filled, isSimilar, sound } from '../filled.ts';
import { clipped, INITIAL, within, type Graphics } from './graphics.ts';
import type { PaintedInk, PaintedInks } from './inks.ts';

const MOST_ITEMS = 200_000;
/** Marked content that only wraps, with nothing to say of layers. */
export const NO_LAYER = Symbol('no layer');

/** An item's own inks. */
const inked = ({ spot, process }: PaintedInk = {}): Pick<ArtworkItem, 'spot' | 'cmyk'> => ({
  ...(spot === undefined ? {} : { spot }),
  ...(process ? { cmyk: process } : {}),
});

/** Gathers what a page paints as shapes, from below. */
export class Painter {
  readonly remarks = new Remarks();
  readonly items: ArtworkItem[] = [];
  readonly pictures: ArtworkPicture[] = [];
  /** Layers that are open, inmost last. */
  protected readonly marked: (typeof NO_LAYER | { name: string | undefined; hidden: boolean })[] = [];
  /** What the path or text at hand is made of. */
  protected inks: PaintedInks | undefined;
  protected g: Graphics;
  private readonly stack: Graphics[] = [];

  constructor(toMm: Matrix) {
    this.g = { ...INITIAL, matrix: toMm, base: toMm };
  }

  protected set(fields: Partial<Graphics>): void {
    this.g = { ...this.g, ...fields };
  }

  protected get depthOfStates(): number {
    return this.stack.length;
  }

  protected save(): void {
    this.stack.push(this.g);
  }

  protected restore(): void {
    this.g = this.stack.pop() ?? this.g;
  }

  private get common(): Pick<ArtworkItem, 'layer' | 'hidden'> {
    const open = this.marked.filter((one): one is Exclude<typeof one, typeof NO_LAYER> => one !== NO_LAYER);
    const layer = open.findLast((one) => one.name !== undefined)?.name;
    return { ...(layer === undefined ? {} : { layer }), ...(open.some((one) => one.hidden) ? { hidden: true } : {}) };
  }

  private emit(item: ArtworkItem): void {
    const outline = sound(item.outline);
    if (outline.contours.length === 0) return;
    if (this.items.length >= MOST_ITEMS) throw new LimitError('pdf', `The page has more than ${MOST_ITEMS} parts.`);
    this.items.push(outline === item.outline ? item : { ...item, outline });
  }

  protected fill(outline: Outline, rule: string, name: string | undefined, matrix = this.g.matrix, text?: ArtworkText): void {
    const { fill, fillAlpha, clip, fillGradient } = this.g;
    if (fill === undefined || fillAlpha === 0) return;
    if (fillAlpha < 1) this.remarks.add('transparency', 'Half transparent parts were taken as solid.');
    const shape = clipped(filled(mapOutline(matrix, outline), rule), clip);
    this.emit({
      outline: shape,
      closed: true,
      fill,
      ...(fillGradient ? { gradient: fillGradient } : {}),
      ...inked(this.inks?.fill),
      ...this.common,
      ...(name === undefined ? {} : { name }),
      ...(text ? { text } : {}),
    });
  }

  protected stroke(outline: Outline, name: string | undefined, matrix = this.g.matrix): void {
    const { stroke: hex, strokeAlpha, clip, width, cap, join, mitreLimit, dash, dashOffset, strokeGradient } = this.g;
    if (hex === undefined || strokeAlpha === 0) return;
    const scale = Math.sqrt(Math.abs(determinant(matrix)));
    const isClipped = clip !== undefined && !(clip.box && within(mappedBounds(matrix, outline), clip.box));
    const extra = {
      ...(strokeGradient ? { gradient: strokeGradient } : {}),
      ...inked(this.inks?.stroke),
      ...this.common,
      ...(name === undefined ? {} : { name }),
    };
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
}
