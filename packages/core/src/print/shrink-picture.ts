/** Pictures made as small as they are needed, averaged with their alpha, so that a large one never lies in memory. */
import type { Control } from '../types/index.ts';
import { CancelledError } from '../errors/index.ts';
import type { PictureSource, PrintPicture } from './page.ts';

/** A picture with fewer pixels. */
export interface SmallPicture {
  readonly width: number;
  readonly height: number;
  readonly rgb: Uint8Array;
  readonly alpha: Uint8Array;
}

/** How many pixels each way become one. */
const stepFor = ({ widthPx }: PrintPicture, wantedWidth: number): number =>
  Math.max(1, Math.floor(widthPx / Math.max(1, Math.ceil(wantedWidth * 2))));

/** Small copies of the pictures of a page: one for each size that they are needed in, however often they lie there. */
export class SmallPictures<T> {
  private readonly known = new Map<string, Promise<T>>();

  /** @param made what is made of a copy, once */
  constructor(
    private readonly pictures: PictureSource,
    private readonly made: (small: SmallPicture) => T,
    private readonly control: Control,
  ) {}

  /** @param wantedWidth pixels that it takes on the page @throws as `shrinkPicture`, and what the source does */
  of(name: string, wantedWidth: number): Promise<T> {
    const picture = this.pictures(name);
    const key = `${stepFor(picture, wantedWidth)} ${name}`;
    let copy = this.known.get(key);
    if (!copy) this.known.set(key, (copy = shrinkPicture(picture, wantedWidth, this.control).then(this.made)));
    return copy;
  }
}

/** @param wantedWidth pixels that it takes on the page; the copy is at most twice as fine @throws CancelledError */
export async function shrinkPicture(picture: PrintPicture, wantedWidth: number, control: Control): Promise<SmallPicture> {
  const step = stepFor(picture, wantedWidth);
  const [width, height] = [Math.ceil(picture.widthPx / step), Math.ceil(picture.heightPx / step)];
  const rgb = new Uint8Array(3 * width * height);
  const alpha = new Uint8Array(width * height);
  // as many rows at once as are quickly read, whole rows of the small picture
  const atOnce = step * Math.max(1, Math.floor(BATCH_PX / (picture.widthPx * step)));
  for (let from = 0; from < picture.heightPx; from += atOnce) {
    if (control.signal?.aborted) throw new CancelledError();
    const count = Math.min(atOnce, picture.heightPx - from);
    const rows = await picture.rows(from, count);
    if (step === 1) {
      split(rows, width * count, rgb.subarray(3 * from * width), alpha.subarray(from * width));
      continue;
    }
    for (let top = 0; top < count; top += step) {
      const start = ((from + top) / step) * width;
      const band = rows.subarray(4 * top * picture.widthPx, 4 * Math.min(count, top + step) * picture.widthPx);
      averageRow(band, picture.widthPx, step, (x, r, g, b, a) => {
        rgb[3 * (start + x)] = r;
        rgb[3 * (start + x) + 1] = g;
        rgb[3 * (start + x) + 2] = b;
        alpha[start + x] = a;
      });
    }
  }
  return { width, height, rgb, alpha };
}

/** Colours and alpha of pixels apart; white where nothing is. */
function split(rgba: Uint8Array, pixels: number, rgb: Uint8Array, alpha: Uint8Array): void {
  for (let i = 0; i < pixels; i++) {
    const own = rgba[4 * i + 3] as number;
    alpha[i] = own;
    for (let c = 0; c < 3; c++) rgb[3 * i + c] = own > 0 ? (rgba[4 * i + c] as number) : 255;
  }
}

/** Pixels that are read at once. */
const BATCH_PX = 1 << 20;

type Put = (x: number, r: number, g: number, b: number, a: number) => void;

/** Means of pieces of so many columns of some rows, weighed with their alpha; white where nothing is. */
function averageRow(rows: Uint8Array, widthPx: number, step: number, put: Put): void {
  const count = rows.length / (4 * widthPx);
  for (let left = 0, x = 0; left < widthPx; left += step, x++) {
    const right = Math.min(widthPx, left + step);
    let r = 0;
    let g = 0;
    let b = 0;
    let a = 0;
    for (let v = 0; v < count; v++)
      for (let i = 4 * (v * widthPx + left), end = 4 * (v * widthPx + right); i < end; i += 4) {
        const own = rows[i + 3] as number;
        r += own * (rows[i] as number);
        g += own * (rows[i + 1] as number);
        b += own * (rows[i + 2] as number);
        a += own;
      }
    const pixels = (right - left) * count;
    if (a > 0) put(x, Math.round(r / a), Math.round(g / a), Math.round(b / a), Math.round(a / pixels));
    else put(x, 255, 255, 255, 0);
  }
}
