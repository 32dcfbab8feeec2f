/**
 * The white plate: how much white ink lies where, from the art that is printed with it. w is 0 to 1:
 *   whole-sheet       1 within the trim
 *   where-printed     the art's cover a
 *   named-spot        1 where the art has one of the named inks
 *   more-under-dark   a (1 - L/100)^bend, L the lightness (CIELAB, of sRGB) of the colour that is seen
 *   more-under-light  a (L/100)^bend
 * times the strength; then spread or choked by true distance. What has hard edges is kept as outlines, exact at any size; what
 * is soft (pictures that let the medium through, the two by lightness) is a raster. Distances on rasters are exact Euclidean
 * (P. F. Felzenszwalb and D. P. Huttenlocher, Distance Transforms of Sampled Functions, 2012). Process inks stay as they are.
 */
import type { Control, Matrix, Outline } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import { labOf, rgbOf } from '../colour/index.ts';
import { boxShape, outlineOfBox } from '../geometry/shapes.ts';
import { compose, invert, mapOutline, mapPoint } from '../geometry/transform.ts';
import { offset } from '../geometry/offset/offset.ts';
import { strokeToShape } from '../geometry/offset/stroke-to-shape.ts';
import { keepOverlap, weld } from '../geometry/weld/weld.ts';
import { courseAt } from './course.ts';
import { coverOf, type Cover } from './coverage.ts';
import type { PictureSource, PrintColour, PrintForm, PrintItem, PrintPage, WhiteCoverage } from './page.ts';
import { SmallPictures, type SmallPicture } from './shrink-picture.ts';

/** The name of the plate of white. */
export const WHITE_INK = 'White';

/** What of an item has one of some inks; undefined: nothing. */
function withInks(item: PrintItem, wanted: ReadonlySet<string>): PrintItem | undefined {
  const has = (spot: string | undefined): boolean => spot !== undefined && wanted.has(spot);
  if (item.kind === 'picture') return has(item.ink?.spot) ? item : undefined;
  const { gradient: _gradient, stroke, fill, ...rest } = item;
  const own = { ...rest, fill: fill && has(fill.spot) ? fill : null, ...(stroke && has(stroke.spot) ? { stroke } : {}) };
  return own.fill || own.stroke ? own : undefined;
}

/**
 * Art without what is in some inks: what stands for white is laid down as white alone, and takes no colour under it away.
 * @param names of the inks
 */
export function withoutInks(items: readonly PrintItem[], names: readonly string[]): PrintItem[] {
  const goes = (colour: PrintColour | null | undefined): boolean => colour?.spot !== undefined && names.includes(colour.spot);
  return items.flatMap((item): PrintItem[] => {
    if (item.kind === 'picture') return goes(item.ink) ? [] : [item];
    if (!goes(item.fill) && !goes(item.stroke)) return [item];
    const { stroke, ...rest } = item;
    const left: PrintItem = {
      ...rest,
      fill: goes(item.fill) ? null : item.fill,
      ...(stroke && !goes(stroke) ? { stroke } : {}),
    };
    return left.fill || left.stroke || left.gradient ? [left] : [];
  });
}

/** Of a picture what is shown: its frame, clipped. */
function shownOf({ matrix, clip }: Extract<PrintItem, { kind: 'picture' }>): Outline {
  const frame = mapOutline(matrix, boxShape(1, 1));
  return clip ? keepOverlap([clip, frame]) : frame;
}

/** What an item covers: its fill and its line, or its picture's frame. @param wanted only what has one of these inks */
function outlinesOf(item: PrintItem, wanted: ReadonlySet<string> | undefined): Outline[] {
  if (item.kind === 'picture') return wanted && !wanted.has(item.ink?.spot ?? '') ? [] : [shownOf(item)];
  const has = (spot: string | undefined): boolean => !wanted || (spot !== undefined && wanted.has(spot));
  const line =
    item.stroke && has(item.stroke.spot) ? [strokeToShape(item.outline, { width: item.stroke.widthMm, cap: 'butt', join: 'mitre' })] : [];
  const isFilled = (item.fill !== null && has(item.fill.spot)) || (item.gradient !== undefined && !wanted);
  return [...(isFilled ? [{ contours: item.outline.contours.filter(({ closed }) => closed) }] : []), ...line];
}

const spread = (outline: Outline, mm: number): Outline =>
  mm === 0 || outline.contours.length === 0 ? outline : offset(outline, mm, { join: 'round' });

function outlineOfForm({ items, clip }: PrintForm, wanted: ReadonlySet<string> | undefined, mm: number): Outline {
  const all = weld(items.flatMap((item) => outlinesOf(item, wanted)));
  const own = clip && all.contours.length > 0 ? keepOverlap([all, outlineOfBox(clip)]) : all;
  return spread(own, mm);
}

/**
 * White with hard edges, on the page.
 * @param letsThrough does a picture let the medium through?
 * @returns undefined when it is soft somewhere
 */
export function whiteOutline(page: PrintPage, white: WhiteCoverage, letsThrough: (picture: string) => boolean): Outline | undefined {
  const { coverage, spots, spreadMm, trim } = white;
  if (coverage === 'whole-sheet') return spread(weld([trim]), spreadMm);
  if (coverage === 'more-under-dark' || coverage === 'more-under-light') return undefined;
  const wanted = coverage === 'named-spot' ? new Set(spots) : undefined;
  const isAsked = (item: PrintItem): boolean => !wanted || withInks(item, wanted) !== undefined;
  const art = white.under ?? page.forms;
  const isSoft = art.some(({ items }) => items.some((item) => item.kind === 'picture' && isAsked(item) && letsThrough(item.picture)));
  if (isSoft) return undefined;
  const forms = new Map(art.map((form) => [form.id, outlineOfForm(form, wanted, spreadMm)]));
  return { contours: page.placements.flatMap(({ form, map }) => mapOutline(map, forms.get(form) ?? { contours: [] }).contours) };
}

/** Size of the plate in pixels, and where pictures come from. */
export interface WhiteRaster {
  readonly width: number;
  readonly height: number;
  readonly pictures: PictureSource;
}

/** Cover and lightness of the art, pixel by pixel, rows from the bottom. */
class Seen {
  readonly cover: Float32Array;
  readonly light: Float32Array;
  private readonly known = new Map<string, number>();

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.cover = new Float32Array(width * height);
    this.light = new Float32Array(width * height);
  }

  lightness(hex: string): number {
    let value = this.known.get(hex);
    if (value === undefined) this.known.set(hex, (value = labOf(rgbOf(hex))[0] / 100));
    return value;
  }

  paint(cover: Cover, at: (x: number, y: number) => readonly [light: number, alpha: number]): void {
    for (let row = 0; row < cover.height; row++)
      for (let column = 0; column < cover.width; column++) {
        const share = cover.share[row * cover.width + column] as number;
        if (share === 0) continue;
        const [x, y] = [cover.x + column, cover.y + row];
        const [light, alpha] = at(x, y);
        const amount = share * alpha;
        const i = y * this.width + x;
        // lightness of what covers: weighed with its cover
        this.light[i] = (this.light[i] as number) * (1 - amount) + light * amount;
        this.cover[i] = (this.cover[i] as number) * (1 - amount) + amount;
      }
  }
}

/** Which pixels an outline covers where it is placed, as far as it is shown. */
type CoverOn = (outline: Outline) => Cover | undefined;

function paintShape(
  seen: Seen,
  { outline, gradient, fill, stroke }: Extract<PrintItem, { kind: 'shape' }>,
  map: Matrix,
  on: CoverOn,
): void {
  const cover = gradient || fill ? on(outline) : undefined;
  const back = gradient && invert(compose(map, gradient.matrix));
  if (cover && gradient && back) seen.paint(cover, (x, y) => [seen.lightness(courseAt(gradient, back, x + 0.5, y + 0.5)), 1]);
  else if (cover && fill) seen.paint(cover, () => [seen.lightness(fill.hex), 1]);
  if (!stroke) return;
  const { hex: lineHex, widthMm } = stroke;
  const line = on(strokeToShape(outline, { width: widthMm, cap: 'butt', join: 'mitre' }));
  if (line) seen.paint(line, () => [seen.lightness(lineHex), 1]);
}

/** A picture as the white plate needs it: how light each pixel is. */
interface Lit extends SmallPicture {
  readonly light: Float32Array;
}

function litOf(small: SmallPicture): Lit {
  const { width, height, rgb } = small;
  const light = Float32Array.from({ length: width * height }, (_, i) => {
    const [r, g, b] = [rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number];
    return labOf([r, g, b])[0] / 100;
  });
  return { ...small, light };
}

async function paintItem(seen: Seen, item: PrintItem, map: Matrix, clip: Outline | undefined, pictures: SmallPictures<Lit>): Promise<void> {
  const on: CoverOn = (outline) => coverOf(clip ? keepOverlap([outline, clip]) : outline, map, seen.width, seen.height);
  if (item.kind === 'shape') return paintShape(seen, item, map, on);
  const cover = on(shownOf(item));
  const back = invert(compose(map, item.matrix));
  if (!cover || !back) return;
  const wide = Math.hypot(map[0], map[1]) * Math.hypot(item.matrix[0], item.matrix[1]);
  const small = await pictures.of(item.picture, wide);
  seen.paint(cover, (x, y) => {
    const p = mapPoint(back, { x: x + 0.5, y: y + 0.5 });
    const u = Math.min(small.width - 1, Math.max(0, Math.floor(p.x * small.width)));
    const v = Math.min(small.height - 1, Math.max(0, Math.floor((1 - p.y) * small.height)));
    return [small.light[v * small.width + u] as number, (small.alpha[v * small.width + u] as number) / 255];
  });
}

/** Squared distances along one row to the nearest place of a set, and which it is (Felzenszwalb and Huttenlocher). */
function nearestInRow(cost: Float64Array, from: Int32Array, n: number, place: (k: number) => number): void {
  const hull = new Int32Array(n);
  const edges = new Float64Array(n + 1);
  const own = cost.slice();
  const was = from.slice();
  let k = -1;
  for (let q = 0; q < n; q++) {
    if (own[q] === Infinity) continue;
    let meet = -Infinity;
    while (k >= 0) {
      const p = hull[k] as number;
      meet = ((own[q] as number) + q * q - ((own[p] as number) + p * p)) / (2 * q - 2 * p);
      if (meet > (edges[k] as number)) break;
      k--;
      meet = -Infinity;
    }
    hull[++k] = q;
    edges[k] = meet;
    edges[k + 1] = Infinity;
  }
  if (k < 0) return;
  for (let q = 0, at = 0; q < n; q++) {
    while ((edges[at + 1] as number) < q) at++;
    const p = hull[at] as number;
    cost[q] = (q - p) ** 2 + (own[p] as number);
    from[q] = was[p] ?? place(p);
  }
}

/** For each pixel the nearest one of a set: how far, and which. */
function nearestOf(inSet: (i: number) => boolean, width: number, height: number): { squared: Float64Array; from: Int32Array } {
  const squared = new Float64Array(width * height);
  const from = new Int32Array(width * height);
  for (let i = 0; i < squared.length; i++) [squared[i], from[i]] = [inSet(i) ? 0 : Infinity, i];
  const run = (start: number, step: number, n: number): void => {
    const [cost, own] = [new Float64Array(n), new Int32Array(n)];
    for (let k = 0; k < n; k++) [cost[k], own[k]] = [squared[start + k * step] as number, from[start + k * step] as number];
    nearestInRow(cost, own, n, (k) => start + k * step);
    for (let k = 0; k < n; k++) [squared[start + k * step], from[start + k * step]] = [cost[k] as number, own[k] as number];
  };
  for (let y = 0; y < height; y++) run(y * width, 1, width);
  for (let x = 0; x < width; x++) run(x, width, height);
  return { squared, from };
}

/** Grown or shrunk by pixels, to within one; what is grown takes the amount of the nearest. */
function spreadRaster(data: Float32Array, cover: Float32Array, width: number, height: number, px: number): void {
  if (Math.abs(px) < 0.25) return;
  const isIn = (i: number): boolean => (cover[i] as number) > 0.5;
  if (px > 0) {
    const { squared, from } = nearestOf(isIn, width, height);
    const was = data.slice();
    for (let i = 0; i < data.length; i++)
      if (!isIn(i)) data[i] = (was[from[i] as number] as number) * Math.min(1, Math.max(0, px + 0.5 - Math.sqrt(squared[i] as number)));
  } else {
    const { squared } = nearestOf((i) => !isIn(i), width, height);
    for (let i = 0; i < data.length; i++)
      data[i] = (data[i] as number) * Math.min(1, Math.max(0, Math.sqrt(squared[i] as number) - 0.5 + px));
  }
}

/** White of each pixel by cover and lightness, before strength and spread. */
function amountOf(cover: Float32Array, light: Float32Array, { coverage, bend }: WhiteCoverage): Float32Array {
  const amount = new Float32Array(cover.length);
  for (let i = 0; i < amount.length; i++) {
    const a = cover[i] as number;
    if (a <= 0) continue;
    const l = Math.min(1, Math.max(0, (light[i] as number) / a));
    const share = coverage === 'more-under-dark' ? 1 - l : coverage === 'more-under-light' ? l : 1;
    amount[i] = a * (bend === 1 ? share : share ** bend);
  }
  return amount;
}

/**
 * The white of a page as pixels, 0 to 1, top row first.
 * @throws CancelledError; InputError of the pictures
 */
export async function whiteShares(
  page: PrintPage,
  white: WhiteCoverage,
  { width, height, pictures }: WhiteRaster,
  control: Control = {},
): Promise<Float32Array> {
  const toPixels: Matrix = [width / page.widthMm, 0, 0, height / page.heightMm, 0, 0];
  const strength = white.strengthPct / 100;
  const hard = whiteOutline(page, white, (name) => pictures(name).hasAlpha);
  if (hard) return sharesOf(coverOf(hard, toPixels, width, height), { width, height, strength });
  const seen = await seenArt(page, white, { width, height, pictures }, control);
  const { cover, light } = seen;
  const amount = amountOf(cover, light, white);
  spreadRaster(amount, cover, width, height, (white.spreadMm * width) / page.widthMm);
  return sharesOf({ x: 0, y: 0, width, height, share: amount }, { width, height, strength });
}

/** Shares of pixels from the bottom as a whole plate from the top, weakened. */
function sharesOf(
  cover: Cover | undefined,
  { width, height, strength }: { width: number; height: number; strength: number },
): Float32Array {
  const out = new Float32Array(width * height);
  for (let row = 0; cover && row < cover.height; row++)
    for (let column = 0; column < cover.width; column++)
      out[(height - 1 - cover.y - row) * width + cover.x + column] = (cover.share[row * cover.width + column] as number) * strength;
  return out;
}

/** What of the art white is asked under. */
async function seenArt(page: PrintPage, white: WhiteCoverage, { width, height, pictures }: WhiteRaster, control: Control): Promise<Seen> {
  const toPixels: Matrix = [width / page.widthMm, 0, 0, height / page.heightMm, 0, 0];
  const seen = new Seen(width, height);
  const wanted = white.coverage === 'named-spot' ? new Set(white.spots) : undefined;
  const forms = new Map((white.under ?? page.forms).map((form) => [form.id, form]));
  const lit = new SmallPictures(pictures, litOf, control);
  for (const [i, { form, map }] of page.placements.entries()) {
    const { items = [], clip } = forms.get(form) ?? {};
    const within = clip && outlineOfBox(clip);
    for (const one of items) {
      if (control.signal?.aborted) throw new CancelledError();
      const item = wanted ? withInks(one, wanted) : one;
      if (item) await paintItem(seen, item, compose(toPixels, map), within, lit);
    }
    control.onProgress?.(i + 1, page.placements.length, 'white');
  }
  return seen;
}
