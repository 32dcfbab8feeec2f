/**
 * One colour: a picture by light and dark. The threshold is found from the picture (N. Otsu, A Threshold Selection
 * Method from Gray-Level Histograms, 1979), given, or follows the surroundings (J. Sauvola & M. Pietikäinen, Adaptive
 * Document Image Binarization, 2000). What comes out is not black and white but how dark each pixel is against its
 * threshold, so that edges keep their place between the pixels.
 */
import { InputError } from '../errors/index.ts';
import { lightAt, type Plane } from './pixels.ts';

/** Found from the whole picture, from the surroundings, or a level from 0 to 255. */
export type Threshold = 'auto' | 'local' | number;

/**
 * A picture in black and white with what lies between, so that one light becomes black and another white.
 * @param black,white lights of 0 to 255
 */
export function spread(plane: Plane, black: number, white: number): Plane {
  const rgb = new Uint8ClampedArray(plane.rgb.length);
  lightOf(plane).forEach((light, i) => rgb.fill(Math.min(255, Math.max(0, ((light - black) * 255) / (white - black))), 3 * i, 3 * i + 3));
  return { ...plane, rgb, alpha: undefined, words: undefined };
}

/** Light of each pixel, on white where it is clear. */
function lightOf({ width, height, rgb, alpha }: Plane): Float32Array {
  const out = new Float32Array(width * height);
  for (let i = 0; i < out.length; i++) {
    const light = lightAt(rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number);
    const a = alpha ? (alpha[i] as number) / 255 : 1;
    out[i] = light * a + 255 * (1 - a);
  }
  return out;
}

interface Halves {
  readonly threshold: number;
  /** Mean light of what lies below and above. */
  readonly dark: number;
  readonly light: number;
}

/** The means on both sides of a level. */
function halvesAt(histogram: Float64Array, threshold: number): Halves {
  let [n0, s0, n1, s1] = [0, 0, 0, 0];
  histogram.forEach((count, v) => {
    if (v < threshold) [n0, s0] = [n0 + count, s0 + count * v];
    else [n1, s1] = [n1 + count, s1 + count * v];
  });
  return { threshold, dark: n0 > 0 ? s0 / n0 : 0, light: n1 > 0 ? s1 / n1 : 255 };
}

function otsu(histogram: Float64Array): Halves {
  const total = histogram.reduce((a, b) => a + b, 0);
  let all = 0;
  histogram.forEach((count, v) => (all += count * v));
  let [n0, s0, best, first, last] = [0, 0, -1, 127, 127];
  for (let v = 0; v < 255; v++) {
    n0 += histogram[v] as number;
    s0 += v * (histogram[v] as number);
    if (n0 === 0 || n0 === total) continue;
    const between = n0 * (total - n0) * (s0 / n0 - (all - s0) / (total - n0)) ** 2;
    if (between > best * (1 + 1e-12)) [best, first, last] = [between, v + 1, v + 1];
    else if (between >= best * (1 - 1e-12)) last = v + 1;
  }
  const { dark, light } = halvesAt(histogram, (first + last) / 2);
  return { threshold: (dark + light) / 2, dark, light };
}

const SAUVOLA_K = 0.2;
const SAUVOLA_RANGE = 128;
/** Side of the surroundings as a share of the picture's shorter side. */
const SURROUNDINGS = 1 / 4;

/** Running sums of values and squares, one row and column larger than the picture. */
function sumsOf(light: Float32Array, width: number, height: number): { sum: Float64Array; squares: Float64Array } {
  const w = width + 1;
  const sum = new Float64Array(w * (height + 1));
  const squares = new Float64Array(w * (height + 1));
  for (let y = 0; y < height; y++) {
    let [row, rowSquares] = [0, 0];
    for (let x = 0; x < width; x++) {
      const v = light[y * width + x] as number;
      row += v;
      rowSquares += v * v;
      const i = (y + 1) * w + x + 1;
      sum[i] = (sum[i - w] as number) + row;
      squares[i] = (squares[i - w] as number) + rowSquares;
    }
  }
  return { sum, squares };
}

/** Mean and spread of the light round each pixel. */
function surroundings(light: Float32Array, width: number, height: number, visit: (i: number, mean: number, spread: number) => void): void {
  const { sum, squares } = sumsOf(light, width, height);
  const w = width + 1;
  const radius = Math.max(7, Math.round((Math.min(width, height) * SURROUNDINGS) / 2));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [x0, x1] = [Math.max(0, x - radius), Math.min(width, x + radius + 1)];
      const [y0, y1] = [Math.max(0, y - radius), Math.min(height, y + radius + 1)];
      const n = (x1 - x0) * (y1 - y0);
      const box = (s: Float64Array): number =>
        (s[y1 * w + x1] as number) - (s[y0 * w + x1] as number) - (s[y1 * w + x0] as number) + (s[y0 * w + x0] as number);
      const mean = box(sum) / n;
      visit(y * width + x, mean, Math.sqrt(Math.max(0, box(squares) / n - mean * mean)));
    }
}

/** How light against its threshold, 0 to 255, 127.5 at the threshold itself. */
function placed(v: number, { threshold, dark, light }: Halves): number {
  const off = v < threshold ? (v - threshold) / Math.max(1, threshold - dark) : (v - threshold) / Math.max(1, light - threshold);
  return 127.5 * (1 + Math.max(-1, Math.min(1, off)));
}

/**
 * @returns a plane without transparency that is black, white, or between them along edges
 * @throws InputError `input.threshold` for a level beyond 0 to 255
 */
export function twoToned(plane: Plane, threshold: Threshold): Plane {
  if (typeof threshold === 'number' && !(threshold >= 0 && threshold <= 255))
    throw new InputError('threshold', `The threshold is ${threshold}; it must lie between 0 and 255.`, { field: 'threshold' });
  const { width, height } = plane;
  const light = lightOf(plane);
  const histogram = new Float64Array(256);
  for (const v of light) {
    const bin = Math.min(255, Math.round(v));
    histogram[bin] = (histogram[bin] as number) + 1;
  }
  const whole = typeof threshold === 'number' ? halvesAt(histogram, threshold) : otsu(histogram);
  const rgb = new Uint8ClampedArray(light.length * 3);
  if (threshold === 'local')
    surroundings(light, width, height, (i, mean, spread) => {
      const level = mean * (1 + SAUVOLA_K * (spread / SAUVOLA_RANGE - 1));
      const reach = Math.max(12, spread);
      rgb.fill(placed(light[i] as number, { threshold: level, dark: level - reach, light: level + reach }), 3 * i, 3 * i + 3);
    });
  else for (let i = 0; i < light.length; i++) rgb.fill(placed(light[i] as number, whole), 3 * i, 3 * i + 3);
  return { width, height, rgb, alpha: undefined };
}
