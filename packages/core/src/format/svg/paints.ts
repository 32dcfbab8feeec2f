/**
 * Paints: the flat colour that a film can be, and the gradient that a print shows. A gradient's flat colour is its mean,
 * a pattern's grey, with a remark. Source: SVG 2, 14.2 (W3C 2018); `href` lends what a gradient does not say itself.
 */
import type { Matrix, Outline, Point } from '../../types/index.ts';
import { bounds, isEmptyBox } from '../../geometry/outline.ts';
import { compose, determinant, IDENTITY } from '../../geometry/transform.ts';
import { lineMatrix, meanColour, type Gradient, type GradientStop } from '../../colour/gradient.ts';
import type { Source } from './clips.ts';
import type { Paint } from './style.ts';
import { colour, length, transform, unitBox, type LengthContext } from './values.ts';
import type { XmlElement } from './xml.ts';

const DEEPEST = 16;
/** The middle of a radial course stays within its circle. */
const FARTHEST_FOCUS = 0.999;
const PER_PART: LengthContext = { width: 1, height: 1, fontSize: 1 };

/** A gradient with all that it says and borrows. */
interface Server {
  readonly isRadial: boolean;
  readonly values: ReadonlyMap<string, string>;
  readonly stops: readonly GradientStop[];
}

/** A colour, or a gradient with a colour that stands for it. */
export interface FlatPaint {
  readonly hex: string;
  readonly gradient?: Gradient;
}

/** Where a paint is used: the shape, its map to the page, and its lengths. */
export interface Painted {
  readonly outline: Outline;
  readonly page: Matrix;
  readonly context: LengthContext;
}

export class Paints {
  private readonly source: Source;

  constructor(source: Source) {
    this.source = source;
  }

  /** What a paint comes to, with remarks on what was reduced; undefined for none. */
  of(paint: Paint, alpha: number, painted: Painted): FlatPaint | undefined {
    if (paint.kind === 'none' || alpha === 0) return undefined;
    if (paint.kind === 'colour') {
      if (paint.alpha * alpha < 1) this.seeThrough();
      return { hex: paint.hex };
    }
    const element = this.source.find(`#${paint.id}`);
    if (!element) {
      const hex = colour(paint.fallback)?.hex;
      return hex === undefined ? undefined : { hex };
    }
    if (element.name === 'pattern') {
      this.source.remark('pattern', 'A pattern cannot be cut; its shape was taken in grey.');
      return { hex: '#808080' };
    }
    const server = this.serverOf(element);
    const last = server.stops.at(-1);
    if (!last) return undefined;
    const gradient = server.stops.length > 1 ? this.gradientOf(server, painted) : undefined;
    // without a length or radius, and with one stop, the last colour is all there is
    if (!gradient) return { hex: last.hex };
    this.source.remark('gradient', 'A gradient was reduced to its mean colour for cutting; it is kept for print.');
    return { hex: meanColour(gradient), gradient };
  }

  private seeThrough(): void {
    this.source.remark('transparency', 'Half transparent parts were taken as solid.');
  }

  private serverOf(element: XmlElement): Server {
    const values = new Map<string, string>();
    let stops: readonly GradientStop[] = [];
    let next: XmlElement | undefined = element;
    for (let depth = 0; next && depth < DEEPEST; depth++) {
      for (const [name, value] of this.source.valuesOf(next)) if (!values.has(name)) values.set(name, value);
      if (stops.length === 0) stops = this.stopsOf(next);
      next = this.source.find(next.attributes.href);
    }
    return { isRadial: element.name === 'radialGradient', values, stops };
  }

  private stopsOf(element: XmlElement): GradientStop[] {
    let least = 0;
    return element.children
      .filter((child) => child.name === 'stop')
      .map((stop) => {
        const values = this.source.valuesOf(stop);
        const text = values.get('stop-color') ?? 'black';
        const found = colour(/^currentcolor$/i.test(text) ? (values.get('color') ?? 'black') : text);
        const alpha = (found?.alpha ?? 1) * Number(values.get('stop-opacity') ?? 1);
        if (alpha < 1) this.seeThrough();
        least = Math.min(1, Math.max(least, length(values.get('offset'), PER_PART, 'x') ?? 0));
        return { offset: least, hex: found?.hex ?? '#000000' };
      });
  }

  private gradientOf({ isRadial, values, stops }: Server, { outline, page, context }: Painted): Gradient | undefined {
    const byBox = values.get('gradientUnits') !== 'userSpaceOnUse';
    const box = bounds(outline);
    if (byBox && (isEmptyBox(box) || box.maxX === box.minX || box.maxY === box.minY)) return undefined;
    const within = byBox ? PER_PART : context;
    const map = compose(compose(page, byBox ? unitBox(box) : IDENTITY), transform(values.get('gradientTransform'), within));
    const of = (name: string, usual: string, axis: 'x' | 'y' | 'diagonal'): number => length(values.get(name) ?? usual, within, axis) ?? 0;
    const asked = values.get('spreadMethod');
    const spread = asked === 'reflect' || asked === 'repeat' ? asked : 'pad';
    const gradient: Gradient = isRadial
      ? { kind: 'radial', spread, stops, ...circles(of, values, map) }
      : {
          kind: 'linear',
          spread,
          stops,
          matrix: lineMatrix(map, { x: of('x1', '0%', 'x'), y: of('y1', '0%', 'y') }, { x: of('x2', '100%', 'x'), y: of('y2', '0%', 'y') }),
        };
    const size = determinant(gradient.matrix);
    return Number.isFinite(size) && Math.abs(size) > 1e-12 ? gradient : undefined;
  }
}

function circles(
  of: (name: string, usual: string, axis: 'x' | 'y' | 'diagonal') => number,
  values: ReadonlyMap<string, string>,
  map: Matrix,
): Pick<Gradient, 'matrix' | 'inner'> {
  const [middle, r]: [Point, number] = [{ x: of('cx', '50%', 'x'), y: of('cy', '50%', 'y') }, of('r', '50%', 'diagonal')];
  const matrix = compose(map, [r, 0, 0, r, middle.x, middle.y]);
  if (!(r > 0) || !['fx', 'fy', 'fr'].some((name) => values.has(name))) return { matrix };
  const [x, y] = [
    ((values.has('fx') ? of('fx', '0', 'x') : middle.x) - middle.x) / r,
    ((values.has('fy') ? of('fy', '0', 'y') : middle.y) - middle.y) / r,
  ];
  const inner = Math.min(FARTHEST_FOCUS, Math.max(0, of('fr', '0%', 'diagonal') / r));
  const far = Math.hypot(x, y);
  const k = far + inner > FARTHEST_FOCUS ? (FARTHEST_FOCUS - inner) / far : 1;
  return { matrix, inner: { x: x * k, y: y * k, r: inner } };
}
