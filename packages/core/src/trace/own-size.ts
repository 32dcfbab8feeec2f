/**
 * Pictures larger than what is in them: enlarged by repeating pixels, or smoothly, so that every edge is a slope many
 * pixels wide. They hold no more than the smaller picture they were made from, and that one is traced better: its edges
 * are antialiased, and no steps of the enlarging are followed. Repeated pixels are told by all changes lying on a grid;
 * smooth ones by the narrowest edges, a tenth of all, from a tenth to nine tenths of their height. Units pixels.
 */
import { lightAt, type Pixels } from './pixels.ts';

/** A picture at the size that it had before its pixels were repeated. */
export interface OwnSize {
  readonly pixels: Pixels;
  /** Pixels of the picture as it came for one of these. */
  readonly times: number;
}

const MOST_REPEATED = 64;
/** Changes on so many different columns and rows tell a grid. */
const TELLING = 8;

/** How many times each pixel is repeated along and down; 1 for pictures that are none such. */
function repeated({ width, height, data }: Pixels): number {
  if (data.byteOffset % 4 !== 0) return 1;
  const words = new Uint32Array(data.buffer, data.byteOffset, width * height);
  const across = new Uint8Array(width);
  const down = new Uint8Array(height);
  // from pixels beside one another no grid is left
  for (let y = 0; y < height; y++)
    for (let x = 0, i = y * width; x < width; x++, i++) {
      if (x > 0 && words[i] !== words[i - 1]) {
        across[x] = 1;
        if (across[x - 1] === 1) return 1;
      }
      if (y > 0 && words[i] !== words[i - width]) {
        down[y] = 1;
        if (down[y - 1] === 1) return 1;
      }
    }
  const places = [across, down].map((changes) => changes.reduce<number[]>((list, is, k) => (is ? [...list, k] : list), []));
  if (places.some((list) => list.length < TELLING)) return 1;
  let common = gcd(width, height);
  for (const place of places.flat()) common = gcd(common, place);
  return common <= MOST_REPEATED ? common : 1;
}

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b);
}

/** Edges are looked for along so many rows and columns, */
const LINES = 100;
/** those of at least so many levels, */
const HEIGHT = 60;
/** and so many are needed. */
const FEWEST = 40;
const NARROWEST = 0.1;

/** Width of the narrowest edges along rows and columns; undefined when there are too few. */
function edgeWidth({ width, height, data }: Pixels): number | undefined {
  const widths: number[] = [];
  for (const [count, step, lines, next] of [
    [width, 1, height, width],
    [height, width, width, 1],
  ] as const) {
    const light = new Float32Array(count);
    const each = Math.max(1, Math.floor(lines / LINES));
    for (let line = 0; line < lines; line += each) {
      for (let k = 0; k < count; k++) {
        const i = 4 * (line * next + k * step);
        const a = (data[i + 3] as number) / 255;
        light[k] = 255 * (1 - a) + a * lightAt(data[i] as number, data[i + 1] as number, data[i + 2] as number);
      }
      widthsAlong(light, widths);
    }
  }
  if (widths.length < FEWEST) return undefined;
  widths.sort((a, b) => a - b);
  return widths[Math.floor(NARROWEST * widths.length)];
}

/** Widths of the rises and falls along a line. */
function widthsAlong(light: Float32Array, widths: number[]): void {
  for (let k = 1; k < light.length;) {
    const sign = Math.sign((light[k] as number) - (light[k - 1] as number));
    let end = k;
    while (sign !== 0 && end + 1 < light.length && Math.sign((light[end + 1] as number) - (light[end] as number)) === sign) end++;
    const start = light[k - 1] as number;
    const rise = Math.abs((light[end] as number) - start);
    if (sign !== 0 && rise >= HEIGHT) {
      const placeOf = (level: number): number => {
        for (let m = k; m <= end; m++) {
          const [low, high] = [Math.abs((light[m - 1] as number) - start), Math.abs((light[m] as number) - start)];
          if (high >= level) return m - 1 + (level - low) / (high - low);
        }
        return end;
      };
      widths.push(placeOf(0.9 * rise) - placeOf(0.1 * rise));
    }
    k = end + 1;
  }
}

/** Every `times`-th pixel of repeated ones. */
function sampled({ width, height, data }: Pixels, times: number): Pixels {
  const [w, h] = [width / times, height / times];
  const words = new Uint32Array(data.buffer, data.byteOffset, width * height);
  const out = new Uint32Array(w * h);
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) out[y * w + x] = words[y * times * width + x * times] as number;
  return { width: w, height: h, data: new Uint8ClampedArray(out.buffer) };
}

/** The mean of the pixels under each larger one (premultiplied by alpha); the last of a row may reach beyond the picture. */
function averaged({ width, height, data }: Pixels, times: number): Pixels {
  const [w, h] = [Math.ceil(width / times - 1e-6), Math.ceil(height / times - 1e-6)];
  const rows = new Float32Array(w * height * 4);
  const parts = (k: number, most: number, visit: (index: number, share: number) => void): void => {
    const [from, to] = [k * times, Math.min(most, (k + 1) * times)];
    for (let i = Math.floor(from); i < to; i++) visit(i, (Math.min(to, i + 1) - Math.max(from, i)) / (to - from));
  };
  for (let x = 0; x < w; x++)
    parts(x, width, (u, share) => {
      for (let y = 0; y < height; y++) {
        const [i, o] = [4 * (y * width + u), 4 * (y * w + x)];
        const a = (share * (data[i + 3] as number)) / 255;
        for (let c = 0; c < 3; c++) rows[o + c] = (rows[o + c] as number) + a * (data[i + c] as number);
        rows[o + 3] = (rows[o + 3] as number) + a;
      }
    });
  const out = new Uint8ClampedArray(w * h * 4);
  const sums = new Float32Array(w * 4);
  for (let y = 0; y < h; y++) {
    sums.fill(0);
    parts(y, height, (v, share) => {
      for (let i = 0; i < sums.length; i++) sums[i] = (sums[i] as number) + share * (rows[4 * v * w + i] as number);
    });
    for (let x = 0; x < w; x++) {
      const a = sums[4 * x + 3] as number;
      for (let c = 0; c < 3; c++) out[4 * (y * w + x) + c] = a > 0 ? (sums[4 * x + c] as number) / a : 0;
      out[4 * (y * w + x) + 3] = 255 * a;
    }
  }
  return { width: w, height: h, data: out };
}

/** Narrowest edges as wide as this or wider tell a picture that was enlarged: one as calm as drawn, and a scan or photograph. */
const WIDE = 1.9;
const WIDE_TAKEN = 3.6;
/** They are made as wide as this. */
const USUAL = 1.15;
/** Smaller pictures are never made of it, longer side. */
const SMALLEST = 48;

/** The picture without what enlarging added to it. @param isTaken tells a scan or photograph, asked only where that matters */
export function atOwnSize(pixels: Pixels, isTaken: (pixels: Pixels) => boolean): OwnSize {
  const block = repeated(pixels);
  if (block > 1) {
    const own = atOwnSize(sampled(pixels, block), isTaken);
    return { pixels: own.pixels, times: own.times * block };
  }
  const wide = edgeWidth(pixels) ?? 0;
  if (wide < WIDE || (wide < WIDE_TAKEN && isTaken(pixels))) return { pixels, times: 1 };
  const longer = Math.max(pixels.width, pixels.height);
  const least = Math.min(wide / USUAL, longer / SMALLEST);
  if (least < 1.5) return { pixels, times: 1 };
  // a whole number of pixels along
  const times = pixels.width / Math.round(pixels.width / least);
  return { pixels: averaged(pixels, times), times };
}
