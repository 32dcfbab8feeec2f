/**
 * Tiles of a pattern as plain shapes: where each tile of a filled shape lies, when the pattern holds nothing but shapes
 * and there are few enough. Source: SVG 2, 14.3 (W3C 2018). Units px, as the shape has them.
 */
import type { Box, Matrix, Outline } from '../../types/index.ts';
import { bounds, nodeCount } from '../../geometry/outline.ts';
import { boxShape } from '../../geometry/shapes.ts';
import { compose, determinant, IDENTITY, invert, mapBox, mapOutline, scaling, translation } from '../../geometry/transform.ts';
import { filled } from '../filled.ts';
import { within } from './clips.ts';
import { INITIAL, paintOf } from './style.ts';
import { SHAPES, type State } from './support.ts';
import { fitViewBox, length, transform, unitBox, viewBox, type LengthContext } from './values.ts';
import type { XmlElement } from './xml.ts';

/** So many shapes come of one filled shape at most; more are a shade, not a design. */
const MOST_SHAPES = 3000;
/** Shapes of tiles and nodes of what they are cut at, in one file: some seconds. */
const MOST_IN_FILE = 40_000;
const DEEPEST = 20;

/** What the reader lends. */
interface Source {
  valuesOf(element: XmlElement): ReadonlyMap<string, string>;
  find(reference: string | undefined): XmlElement | undefined;
}

interface Tile {
  /** From the pattern's content to the shape's space. */
  readonly content: Matrix;
  /** From the shape's space, where the tile is a box, to the shape's space. */
  readonly placed: Matrix;
}

interface Tiling {
  readonly children: readonly XmlElement[];
  /** Shapes in a tile. */
  readonly each: number;
  /** Of one tile, where `placed` begins. */
  readonly width: number;
  readonly height: number;
  readonly tiles: readonly Tile[];
}

/** The number of shapes in elements; undefined when there is anything else among them. */
function shapesIn(elements: readonly XmlElement[], source: Source): number | undefined {
  let count = 0;
  for (const element of elements) {
    if (!element.isSvg || element.name === 'title' || element.name === 'desc' || element.name === 'metadata') continue;
    const values = source.valuesOf(element);
    if (['clip-path', 'mask', 'filter'].some((name) => (values.get(name) ?? 'none') !== 'none')) return undefined;
    if (/url\(/.test(`${values.get('fill') ?? ''}${values.get('stroke') ?? ''}`)) return undefined;
    if (SHAPES.has(element.name)) count++;
    else if (element.name !== 'g') return undefined;
    else {
      const inner = shapesIn(element.children, source);
      if (inner === undefined) return undefined;
      count += inner;
    }
  }
  return count;
}

/** Values of a pattern and of those that it takes after, and the first of them that has content. */
function gathered(pattern: XmlElement, source: Source): { values: Map<string, string>; children: readonly XmlElement[] } {
  const values = new Map<string, string>();
  let children: readonly XmlElement[] = [];
  let next: XmlElement | undefined = pattern;
  for (let depth = 0; next && depth < DEEPEST; depth++) {
    for (const [name, value] of source.valuesOf(next)) if (!values.has(name)) values.set(name, value);
    if (children.length === 0) children = next.children;
    next = source.find(next.attributes.href);
  }
  return { values, children };
}

const PER_PART: LengthContext = { width: 1, height: 1, fontSize: 16 };

/**
 * The tiles of a pattern that lie on a box.
 * @returns undefined when the pattern is no plain tiling, or would make too many shapes
 */
function tilingOf(pattern: XmlElement, box: Box, context: LengthContext, source: Source): Tiling | undefined {
  const { values, children } = gathered(pattern, source);
  const each = shapesIn(children, source);
  if (!each) return undefined;
  const byBox = values.get('patternUnits') !== 'userSpaceOnUse';
  const within = byBox ? PER_PART : context;
  const of = (name: string, axis: 'x' | 'y'): number => length(values.get(name) ?? '0', within, axis) ?? 0;
  const unit = byBox ? unitBox(box) : IDENTITY;
  const [sx, sy] = [unit[0], unit[3]];
  const [width, height] = [of('width', 'x') * sx, of('height', 'y') * sy];
  if (!(width > 0 && height > 0)) return undefined;
  const corner = translation(of('x', 'x') * sx + unit[4], of('y', 'y') * sy + unit[5]);
  const turn = transform(values.get('patternTransform'), context);
  const back = invert(turn);
  if (!back || Math.abs(determinant(turn)) < 1e-12) return undefined;
  const view = viewBox(values.get('viewBox'));
  const byShape = values.get('patternContentUnits') === 'objectBoundingBox';
  const inner = view ? fitViewBox(view, width, height, values.get('preserveAspectRatio')) : undefined;
  // without a viewBox the content keeps the pattern's own origin
  const shift = translation(-corner[4], -corner[5]);
  const content =
    inner ??
    compose(shift, byShape ? compose(translation(box.minX, box.minY), scaling(box.maxX - box.minX, box.maxY - box.minY)) : IDENTITY);
  const seen = mapBox(compose(invert(corner) ?? IDENTITY, back), box);
  const [left, right] = [Math.floor(seen.minX / width), Math.ceil(seen.maxX / width)];
  const [low, high] = [Math.floor(seen.minY / height), Math.ceil(seen.maxY / height)];
  if (!((right - left) * (high - low) * each <= MOST_SHAPES)) return undefined;
  const tiles: Tile[] = [];
  for (let row = low; row < high; row++)
    for (let column = left; column < right; column++) {
      const placed = compose(turn, compose(corner, translation(column * width, row * height)));
      tiles.push({ placed, content: compose(placed, content) });
    }
  return { children, each, width, height, tiles };
}

/** What the reader lends besides. */
interface Reader extends Source {
  walk(element: XmlElement, state: State): void;
  remark(code: string, text: string): void;
}

/** Fills of tiles in one file: each as its shapes, as long as they are few enough in all. */
export class Tiles {
  private readonly reader: Reader;
  private left = MOST_IN_FILE;

  constructor(reader: Reader) {
    this.reader = reader;
  }

  /** A shape that is filled with tiles of plain shapes as these shapes. @returns false when it is filled otherwise */
  fill(outline: Outline, state: State): boolean {
    const { style, matrix, clip, context } = state;
    const asked = paintOf(style.fill);
    const pattern = asked.kind === 'server' ? this.reader.find(`#${asked.id}`) : undefined;
    const name = pattern?.attributes.id ?? '';
    if (pattern?.name !== 'pattern' || style.fillAlpha === 0 || state.uses.includes(name)) return false;
    const tiling = tilingOf(pattern, bounds(outline), context, this.reader);
    // each tile is cut at the edge of what it fills
    const effort = tiling ? tiling.tiles.length * (tiling.each + nodeCount(outline)) : 0;
    if (!tiling || effort > this.left) return false;
    this.left -= effort;
    const region = filled(mapOutline(matrix, outline), style.fillRule);
    const shown = clip ? within(region, clip) : region;
    for (const { placed, content } of tiling.tiles) {
      const window = within(mapOutline(compose(matrix, placed), boxShape(tiling.width, tiling.height)), shown);
      if (window.contours.length === 0) continue;
      const inner: State = { ...state, style: INITIAL, matrix: compose(matrix, content), clip: window, uses: [...state.uses, name] };
      tiling.children.forEach((child) => this.reader.walk(child, inner));
    }
    this.reader.remark('tiles', 'Patterns came in as the shapes of their tiles.');
    return true;
  }
}
