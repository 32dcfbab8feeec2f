/**
 * Plates of a page: for each ink, how much of it lies where, without a renderer. Shapes cover pixels exactly
 * (`coverage.ts`); pictures are averaged over each pixel with their alpha. Paint is opaque: what lies on top takes the
 * inks under it away by its cover; a spot colour takes the process inks under it away, as its file says.
 * Cut lines are on no plate. Values 0 none, 255 full; rows from the top. Units mm, resolution in dots an inch.
 */
import type { Control, Matrix, Outline } from '../types/index.ts';
import { rgbOf } from '../colour/index.ts';
import { CancelledError, InputError, LimitError } from '../errors/index.ts';
import { compose, invert, mapOutline } from '../geometry/transform.ts';
import { boxShape, outlineOfBox } from '../geometry/shapes.ts';
import { keepOverlap } from '../geometry/weld/weld.ts';
import { strokeToShape } from '../geometry/offset/stroke-to-shape.ts';
import { courseAt } from './course.ts';
import { coverOf, type Cover } from './coverage.ts';
import type { PictureSource, PrintColour, PrintItem, PrintPage } from './page.ts';
import { SmallPictures, type SmallPicture } from './shrink-picture.ts';
import { WHITE_INK, whiteShares } from './white.ts';
import { openProfile, type ProcessColours } from './process-colours.ts';

/** What one ink prints: a picture of how much of it where. */
export interface Plate {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  /** 0 none, 255 full; top row first. */
  readonly data: Uint8Array;
  /** Share of the page that is covered, 0 to 1. */
  readonly cover: number;
}

/** Names of the process inks. */
export const PROCESS_INKS = ['Cyan', 'Magenta', 'Yellow', 'Black'] as const;
const MOST_PIXELS = 64e6;

class Plates {
  readonly layers = new Map<string, Float32Array>();
  readonly width: number;
  readonly height: number;
  readonly inks: Pick<ProcessColours, 'toInks'>;
  private readonly known = new Map<string, readonly number[]>();
  /** The layers again, process inks first, and where each lies among them: what is asked of every pixel is a number. */
  private readonly inOrder: Float32Array[] = [];
  private readonly places = new Map<string, number>();

  constructor(width: number, height: number, inks: Pick<ProcessColours, 'toInks'>) {
    this.width = width;
    this.height = height;
    this.inks = inks;
    for (const ink of PROCESS_INKS) this.layer(ink);
  }

  layer(name: string): Float32Array {
    let layer = this.layers.get(name);
    if (!layer) {
      layer = new Float32Array(this.width * this.height);
      this.layers.set(name, layer);
      this.inOrder.push(layer);
      this.places.set(name, this.inOrder.length - 1);
    }
    return layer;
  }

  process(hex: string): readonly number[] {
    let values = this.known.get(hex);
    if (!values) this.known.set(hex, (values = Array.from(this.inks.toInks(Uint8Array.from(rgbOf(hex))), (v) => v / 255)));
    return values;
  }

  /** Puts one ink besides what is there. */
  add(name: string, cover: Cover, amountAt: (x: number, y: number) => number): void {
    const layer = this.layer(name);
    for (let row = 0; row < cover.height; row++) {
      const y = cover.y + row;
      const line = (this.height - 1 - y) * this.width + cover.x;
      for (let column = 0; column < cover.width; column++) {
        const amount = (cover.share[row * cover.width + column] as number) * amountAt(cover.x + column, y);
        layer[line + column] = (layer[line + column] as number) * (1 - amount) + amount;
      }
    }
  }

  /** Paints over what is there: everything gives way by the cover, the colour's own inks come in its place. */
  paint(cover: Cover, inksAt: (x: number, y: number) => PixelInks): void {
    const { inOrder, width, height } = this;
    for (let row = 0; row < cover.height; row++) {
      const y = cover.y + row;
      const line = (height - 1 - y) * width + cover.x;
      for (let column = 0; column < cover.width; column++) {
        const share = cover.share[row * cover.width + column] as number;
        if (share === 0) continue;
        const { process, spot, alpha } = inksAt(cover.x + column, y);
        const amount = alpha === undefined ? share : share * alpha;
        if (amount === 0) continue;
        if (spot !== undefined) this.layer(spot);
        const own = spot === undefined ? -1 : (this.places.get(spot) as number);
        const at = line + column;
        for (let k = 0; k < inOrder.length; k++) {
          const layer = inOrder[k] as Float32Array;
          const ink = own >= 0 ? (k === own ? 1 : 0) : k < 4 ? (process[k] as number) : 0;
          layer[at] = amount === 1 ? ink : (layer[at] as number) * (1 - amount) + ink * amount;
        }
      }
    }
  }
}

/** What is laid down at a pixel: shares of the process inks, or one spot. */
interface PixelInks {
  readonly process: readonly number[];
  readonly spot?: string | undefined;
  readonly alpha?: number;
}

const within = (outline: Outline, clip: Outline | undefined): Outline => (clip ? keepOverlap([outline, clip]) : outline);

function paintShape(plates: Plates, item: Extract<PrintItem, { kind: 'shape' }>, map: Matrix, clip: Outline | undefined): void {
  const { outline, gradient, fill, stroke } = item;
  const flat = (colour: PrintColour) => {
    const inks = { process: colour.cmyk ?? plates.process(colour.hex), spot: colour.spot };
    return () => inks;
  };
  if (gradient || fill) {
    const cover = coverOf(within(outline, clip), map, plates.width, plates.height);
    const back = gradient ? invert(compose(map, gradient.matrix)) : undefined;
    if (cover && gradient && back) plates.paint(cover, (x, y) => ({ process: plates.process(courseAt(gradient, back, x + 0.5, y + 0.5)) }));
    else if (cover && fill) plates.paint(cover, flat(fill));
  }
  if (stroke) {
    const line = strokeToShape(outline, { width: stroke.widthMm, cap: 'butt', join: 'mitre' });
    const cover = coverOf(within(line, clip), map, plates.width, plates.height);
    if (cover) plates.paint(cover, flat(stroke));
  }
}

/** A picture as the plates need it, in inks. */
interface Shrunk extends SmallPicture {
  readonly inks: Uint8Array;
}

function paintPicture(
  plates: Plates,
  item: Extract<PrintItem, { kind: 'picture' }>,
  map: Matrix,
  shrunk: Shrunk,
  clip: Outline | undefined,
): void {
  const frame = mapOutline(item.matrix, boxShape(1, 1));
  const cover = coverOf(within(item.clip ? keepOverlap([item.clip, frame]) : frame, clip), map, plates.width, plates.height);
  const back = invert(compose(map, item.matrix));
  if (!cover || !back) return;
  // one answer for all pixels, filled anew each time
  const process = [0, 0, 0, 0];
  const pixel = { process, alpha: 0 };
  const { width, height, inks, alpha } = shrunk;
  const [m0, m1, m2, m3, m4, m5] = back;
  const indexAt = (x: number, y: number): number => {
    const u = Math.min(width - 1, Math.max(0, Math.floor((m0 * (x + 0.5) + m2 * (y + 0.5) + m4) * width)));
    const v = Math.min(height - 1, Math.max(0, Math.floor((1 - (m1 * (x + 0.5) + m3 * (y + 0.5) + m5)) * height)));
    return v * width + u;
  };
  if (item.ink?.spot !== undefined) return plates.add(item.ink.spot, cover, (x, y) => (alpha[indexAt(x, y)] as number) / 255);
  const own = item.ink && (item.ink.cmyk ?? plates.process(item.ink.hex));
  plates.paint(cover, (x, y) => {
    const i = indexAt(x, y);
    for (let k = 0; k < 4; k++) process[k] = own ? (own[k] as number) : (inks[4 * i + k] as number) / 255;
    pixel.alpha = (alpha[i] as number) / 255;
    return pixel;
  });
}

/** How plates are made. */
export interface PlatesOptions {
  readonly dpi: number;
  /** Of the printing condition; absent: inks by plain arithmetic, black taking what the three colours share. */
  readonly profile?: ProcessColours | Uint8Array | undefined;
  /** Pixels of the page's pictures; a page without pictures needs none. */
  readonly pictures?: PictureSource | undefined;
}

/** Inks without a profile: what the three colours share is black. */
const PLAIN: Pick<ProcessColours, 'toInks'> = {
  toInks: (rgb) => {
    const out = new Uint8Array((rgb.length / 3) * 4);
    for (let i = 0; i < rgb.length / 3; i++) {
      const [c, m, y] = [0, 1, 2].map((k) => 255 - (rgb[3 * i + k] as number)) as [number, number, number];
      const black = Math.min(c, m, y);
      const scale = black < 255 ? 255 / (255 - black) : 0;
      out.set([(c - black) * scale, (m - black) * scale, (y - black) * scale, black].map(Math.round), 4 * i);
    }
    return out;
  },
};

const NO_PICTURES: PictureSource = () => {
  throw new InputError('picture', 'The page names a picture whose pixels were not given.');
};

/**
 * @returns the four process plates, then spots as they first appear
 * @throws LimitError `limit.plates` beyond 64 million pixels; InputError `input.profile`, `input.picture`; CancelledError
 * @complexity pixels covered × inks
 */
export async function makePlates(
  page: PrintPage,
  { dpi, profile, pictures = NO_PICTURES }: PlatesOptions,
  control: Control = {},
): Promise<Plate[]> {
  const inks = profile === undefined ? PLAIN : profile instanceof Uint8Array ? await openProfile(profile) : profile;
  const k = dpi / 25.4;
  const [width, height] = [Math.max(1, Math.round(page.widthMm * k)), Math.max(1, Math.round(page.heightMm * k))];
  if (width * height > MOST_PIXELS)
    throw new LimitError('plates', 'These plates would hold more than 64 million pixels. Make them coarser.');
  const plates = new Plates(width, height, inks);
  const toPixels: Matrix = [width / page.widthMm, 0, 0, height / page.heightMm, 0, 0];
  await paintForms(plates, page, toPixels, pictures, control);
  const marks = coverOf(page.marks, toPixels, width, height);
  if (marks) plates.paint(marks, () => ({ process: [0, 0, 0, 1] }));
  // white is printed besides, and takes nothing of the others away
  if (page.white) plates.layer(WHITE_INK).set(await whiteShares(page, page.white, { width, height, pictures }, control));
  return [...plates.layers].map(([name, layer]): Plate => ({ name, width, height, ...inBytes(layer) }));
}

/** Every item of every form where it is placed. */
async function paintForms(plates: Plates, page: PrintPage, toPixels: Matrix, pictures: PictureSource, control: Control): Promise<void> {
  const forms = new Map(page.forms.map((form) => [form.id, form]));
  const shrunk = new SmallPictures(pictures, (small): Shrunk => ({ ...small, inks: plates.inks.toInks(small.rgb) }), control);
  for (const [i, placement] of page.placements.entries()) {
    const map = compose(toPixels, placement.map);
    const form = forms.get(placement.form);
    const clip = form?.clip && outlineOfBox(form.clip);
    for (const item of form?.items ?? []) {
      if (control.signal?.aborted) throw new CancelledError();
      if (item.kind === 'shape') paintShape(plates, item, map, clip);
      else {
        const wide = Math.hypot(map[0], map[1]) * Math.hypot(item.matrix[0], item.matrix[1]);
        paintPicture(plates, item, map, await shrunk.of(item.picture, wide), clip);
      }
    }
    control.onProgress?.(i + 1, page.placements.length, 'plates');
  }
}

/** Shares as bytes, and their mean. */
function inBytes(layer: Float32Array): { data: Uint8Array; cover: number } {
  const data = new Uint8Array(layer.length);
  let sum = 0;
  for (let i = 0; i < layer.length; i++) {
    const v = layer[i] as number;
    sum += v;
    data[i] = Math.round(255 * v);
  }
  return { data, cover: sum / Math.max(1, layer.length) };
}
