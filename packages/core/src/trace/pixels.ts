/** Pictures as plain pixels, and what is measured of them before anything is traced. */
import { leastSquares } from './least-squares.ts';

/** A picture: four bytes a pixel, red, green, blue, opacity, row by row from the top. */
export interface Pixels {
  readonly width: number;
  readonly height: number;
  /** RGBA, straight alpha, top row first. */
  readonly data: Uint8ClampedArray;
}

/** Three bytes a pixel, for pictures are large; `alpha` only where something is transparent. */
export interface Plane {
  readonly width: number;
  readonly height: number;
  readonly rgb: Uint8ClampedArray;
  readonly alpha: Uint8ClampedArray | undefined;
  /** The pixels as they came, a word each, to tell quickly which are alike; none where they were changed since. */
  readonly words?: Uint32Array | undefined;
}

/**
 * Light of a colour, 0 to 255 (ITU-R BT.601).
 * @param r,g,b levels of sRGB
 */
export const lightAt = (r: number, g: number, b: number): number => 0.299 * r + 0.587 * g + 0.114 * b;

/**
 * The picture as it is worked on. Cost: its pixels.
 * @returns alpha only when some pixel is less than nearly solid
 */
export function planeOf({ width, height, data }: Pixels): Plane {
  const n = width * height;
  const rgb = new Uint8ClampedArray(n * 3);
  let alpha: Uint8ClampedArray | undefined;
  for (let i = 0; i < n; i++) if ((data[4 * i + 3] as number) < 250) alpha ??= new Uint8ClampedArray(n);
  for (let i = 0; i < n; i++) {
    rgb[3 * i] = data[4 * i] as number;
    rgb[3 * i + 1] = data[4 * i + 1] as number;
    rgb[3 * i + 2] = data[4 * i + 2] as number;
    if (alpha) alpha[i] = data[4 * i + 3] as number;
  }
  const words = data.byteOffset % 4 === 0 ? new Uint32Array(data.buffer, data.byteOffset, n) : undefined;
  return { width, height, rgb, alpha, words };
}

/** What needs wide surroundings is worked out strip by strip, of about so many pixels, so that large pictures take no more memory. */
export const STRIP_PIXELS = 1_000_000;

/**
 * Rows of a plane from one to before another; they are the plane's own numbers.
 * @param from,to rows from the top
 */
export function rowsOf({ width, rgb, alpha, words }: Plane, from: number, to: number): Plane {
  return {
    width,
    height: to - from,
    rgb: rgb.subarray(3 * from * width, 3 * to * width),
    alpha: alpha?.subarray(from * width, to * width),
    words: words?.subarray(from * width, to * width),
  };
}

/**
 * A plane as pixels again.
 * @returns RGBA; solid where the plane has no alpha
 */
export function pixelsOf({ width, height, rgb, alpha }: Plane): Pixels {
  const data = new Uint8ClampedArray(width * height * 4).fill(255);
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) data[4 * i + c] = rgb[3 * i + c] as number;
    if (alpha) data[4 * i + 3] = alpha[i] as number;
  }
  return { width, height, data };
}

/**
 * Noise of flat areas, standard deviation in levels: that of small blocks about their own slope, of which the lower
 * third hold no edge.
 */
export function noiseOf({ width, height, rgb }: Plane): number {
  const SIDE = 7;
  const found: number[] = [];
  const step = Math.max(SIDE, Math.floor(Math.sqrt((width * height) / 6000)));
  for (let y = 0; y + SIDE <= height; y += step)
    for (let x = 0; x + SIDE <= width; x += step) {
      let [sum, sumU, sumV, sumSq, n, suu] = [0, 0, 0, 0, 0, 0];
      for (let v = -3; v <= 3; v++)
        for (let u = -3; u <= 3; u++) {
          const value = rgb[3 * ((y + 3 + v) * width + x + 3 + u) + 1] as number;
          sum += value;
          sumU += u * value;
          sumV += v * value;
          sumSq += value * value;
          suu += u * u;
          n++;
        }
      found.push(Math.sqrt(Math.max(0, sumSq - (sum * sum) / n - (sumU * sumU + sumV * sumV) / suu) / n));
    }
  found.sort((a, b) => a - b);
  return found[Math.floor(found.length * 0.3)] ?? 0;
}

/** Hears how much of a stage is done, 0 to 1. */
export type OnShare = (share: number) => void;
/** Progress is told after so many rows. */
export const ROWS_A_SHARE = 128;

/**
 * Smooths flat areas and keeps edges: each pixel becomes the mean of those around it that are like it
 * (J.-S. Lee, Digital Image Smoothing and the Sigma Filter, 1983).
 * @param out where the result goes; the plane's own numbers are allowed
 */
export function sigmaFilter(
  plane: Plane,
  radius: number,
  levels: number,
  onShare: OnShare = () => undefined,
  out: Uint8ClampedArray = new Uint8ClampedArray(plane.rgb.length),
): Plane {
  const { width, height, rgb } = plane;
  const limit = Math.floor(levels * levels);
  const length = 3 * width;
  // rows that are written over are looked at as they were
  const before = Array.from({ length: radius + 1 }, () => new Uint8ClampedArray(length));
  const rows: Uint8ClampedArray[] = [];
  for (let y = 0; y < height; y++) {
    if (y % ROWS_A_SHARE === 0) onShare(y / height);
    (before[y % (radius + 1)] as Uint8ClampedArray).set(rgb.subarray(y * length, (y + 1) * length));
    rows.length = 0;
    for (let v = Math.max(0, y - radius); v <= Math.min(height - 1, y + radius); v++)
      rows.push(v <= y ? (before[v % (radius + 1)] as Uint8ClampedArray) : rgb.subarray(v * length, (v + 1) * length));
    const own = before[y % (radius + 1)] as Uint8ClampedArray;
    for (let x = 0; x < width; x++) {
      const r = own[3 * x] as number;
      const g = own[3 * x + 1] as number;
      const b = own[3 * x + 2] as number;
      let sr = 0;
      let sg = 0;
      let sb = 0;
      let n = 0;
      const first = 3 * Math.max(0, x - radius);
      const last = 3 * Math.min(width - 1, x + radius);
      for (let k = 0; k < rows.length; k++) {
        const row = rows[k] as Uint8ClampedArray;
        for (let j = first; j <= last; j += 3) {
          const qr = row[j] as number;
          const qg = row[j + 1] as number;
          const qb = row[j + 2] as number;
          // all bits where it is near, none where not: noise makes branches that cannot be foretold
          const near = ~((limit - (qr - r) * (qr - r) - (qg - g) * (qg - g) - (qb - b) * (qb - b)) >> 31);
          sr += qr & near;
          sg += qg & near;
          sb += qb & near;
          n -= near;
        }
      }
      const i = y * length + 3 * x;
      out[i] = sr / n;
      out[i + 1] = sg / n;
      out[i + 2] = sb / n;
    }
  }
  return { ...plane, rgb: out, words: undefined };
}

const TILES = 24;

interface Tile {
  readonly u: number;
  readonly v: number;
  readonly rgb: readonly number[];
  readonly isEdge: boolean;
}

const basis = (u: number, v: number): number[] => [1, u, v, u * u, u * v, v * v, u * u * u, u * u * v, u * v * v, v * v * v];

/** The light colour of each tile of the picture: the mean of its brightest fifth. */
function tilesOf({ width, height, rgb }: Plane): Tile[] {
  const out: Tile[] = [];
  const step = Math.max(1, Math.floor(Math.min(width, height) / TILES / 8));
  for (let ty = 0; ty < TILES; ty++)
    for (let tx = 0; tx < TILES; tx++) {
      const [x0, x1] = [Math.floor((tx * width) / TILES), Math.floor(((tx + 1) * width) / TILES)];
      const [y0, y1] = [Math.floor((ty * height) / TILES), Math.floor(((ty + 1) * height) / TILES)];
      const pixels: { l: number; i: number }[] = [];
      for (let y = y0; y < y1; y += step)
        for (let x = x0; x < x1; x += step) {
          const i = 3 * (y * width + x);
          pixels.push({ l: lightAt(rgb[i] as number, rgb[i + 1] as number, rgb[i + 2] as number), i });
        }
      if (pixels.length === 0) continue;
      pixels.sort((a, b) => b.l - a.l);
      // the very brightest are noise
      const chosen = pixels.slice(Math.floor(pixels.length * 0.15), Math.max(1, Math.ceil(pixels.length * 0.45)));
      const mean = [0, 1, 2].map((c) => chosen.reduce((sum, { i }) => sum + (rgb[i + c] as number), 0) / chosen.length);
      const isEdge = tx < 2 || ty < 2 || tx >= TILES - 2 || ty >= TILES - 2;
      out.push({ u: ((tx + 0.5) * 2) / TILES - 1, v: ((ty + 0.5) * 2) / TILES - 1, rgb: mean, isEdge });
    }
  return out;
}

/** Tiles along the frame may be off by so much of the ground fitted to them, less from round to round. */
const FRAME_OFF = [0.25, 0.16, 0.1];
/** Tiles that join from there inwards may be off by so much: a pale colour that covers a large part is none of the ground. */
const JOINS_OFF = 0.045;
/** Fewest tiles that tell the ground, and the share of the frame's tiles that must agree on it. */
const LEAST_TILES = 40;
const LEAST_OF_FRAME = 0.5;

type Surface = readonly (readonly number[])[];

const surfaceOf = (tiles: readonly Tile[]): Surface => {
  const rows = tiles.map(({ u, v }) => basis(u, v));
  return [0, 1, 2].map((c) =>
    leastSquares(
      rows,
      tiles.map((tile) => tile.rgb[c] as number),
    ),
  );
};

const isOn = (surface: Surface, { u, v, rgb }: Tile, off: number): boolean => {
  const b = basis(u, v);
  return surface.every((field, c) => {
    const ground = field.reduce((sum, k, n) => sum + k * (b[n] as number), 0);
    return Math.abs((rgb[c] as number) / Math.max(20, ground) - 1) < off;
  });
};

/** The ground's colour as a surface over the picture, one polynomial a channel; undefined when the frame is no even ground. */
function groundSurface(plane: Plane): Surface | undefined {
  const tiles = tilesOf(plane);
  const frame = tiles.filter(({ isEdge }) => isEdge);
  let chosen = frame;
  let surface: Surface = [];
  for (const off of FRAME_OFF) {
    if (chosen.length < LEAST_TILES) return undefined;
    const now = surfaceOf(chosen);
    surface = now;
    chosen = frame.filter((tile) => isOn(now, tile, off));
  }
  if (chosen.length < Math.max(LEAST_TILES, LEAST_OF_FRAME * frame.length)) return undefined;
  // from the frame inwards, tile by tile
  const side = 2 / TILES;
  const isBeside = (one: Tile, other: Tile): boolean => Math.max(Math.abs(one.u - other.u), Math.abs(one.v - other.v)) < 1.5 * side;
  for (let round = 0; round < TILES; round++) {
    const now = surfaceOf(chosen);
    surface = now;
    const joined = tiles.filter(
      (tile) => !chosen.includes(tile) && isOn(now, tile, JOINS_OFF) && chosen.some((other) => isBeside(tile, other)),
    );
    if (joined.length === 0) break;
    chosen = [...chosen, ...joined];
  }
  return surface;
}

/** A ground is paper when its channels are as even as this, yellowed and under coloured light, */
const PAPER_EVEN = 0.6;
/** and hardly anything is brighter than it: more of a channel by this, in no more than this share of the pixels. */
const BRIGHTER = 1.25;
const BRIGHTER_SHARE = 0.004;

/** One channel of the ground along a row, as a polynomial in u. */
function groundAlong(field: readonly number[], v: number): (u: number) => number {
  const [p, pu, pv, puu, puv, pvv, puuu, puuv, puvv, pvvv] = field as Cubic;
  const k0 = p + v * (pv + v * (pvv + v * pvvv));
  const k1 = pu + v * (puv + v * puvv);
  const k2 = puu + v * puuv;
  return (u) => Math.max(20, k0 + u * (k1 + u * (k2 + u * puuu)));
}

/** What the ground is to become, levels: white where it is paper, its own mean colour where it is a colour of the work. */
function groundTarget({ width, height, rgb }: Plane, fields: Surface): readonly number[] {
  const step = Math.max(1, Math.round(Math.sqrt((width * height) / 40_000)));
  const sums = [0, 0, 0];
  let [count, brighter] = [0, 0];
  for (let y = 0; y < height; y += step) {
    const along = fields.map((field) => groundAlong(field, (2 * (y + 0.5)) / height - 1));
    for (let x = 0; x < width; x += step) {
      const ground = along.map((at) => at((2 * (x + 0.5)) / width - 1));
      ground.forEach((value, c) => (sums[c] = (sums[c] as number) + value));
      const i = 3 * (y * width + x);
      if (ground.some((value, c) => (rgb[i + c] as number) > BRIGHTER * value)) brighter++;
      count++;
    }
  }
  const mean = sums.map((sum) => sum / count);
  const isPaper = Math.min(...mean) >= PAPER_EVEN * Math.max(...mean) && brighter <= BRIGHTER_SHARE * count;
  return isPaper ? [255, 255, 255] : mean;
}

/**
 * Takes uneven light off, and the paper's own colour: the ground's colour along the frame is fitted by a surface of
 * third degree, tiles beside that agree with it join from the frame inwards, and the picture's numbers are divided by it
 * in place. A ground that is no paper keeps its colour. Pictures stay as they are when the frame is no even ground.
 * @param plane its numbers are changed in place
 * @returns the same plane when the frame is no even ground
 */
export function evenGround(plane: Plane): Plane {
  const { width, height, rgb } = plane;
  const fields = groundSurface(plane);
  if (!fields) return plane;
  const target = groundTarget(plane, fields);
  for (let y = 0; y < height; y++) {
    const v = (2 * (y + 0.5)) / height - 1;
    fields.forEach((field, c) => {
      const ground = groundAlong(field, v);
      const own = target[c] as number;
      for (let x = 0; x < width; x++) {
        const i = 3 * (y * width + x) + c;
        rgb[i] = ((rgb[i] as number) * own) / ground((2 * (x + 0.5)) / width - 1);
      }
    });
  }
  return { ...plane, words: undefined };
}

/** Scanners and cameras lift what is dark: when the darkest is between these levels it is taken down to the first. */
const DARK = 24;
const LIFTED = 64;
/** The share of pixels that are as dark as the darkest colour. */
const DARK_SHARE = 0.005;

/**
 * Stretches a picture in place so that its darkest colour is as dark as inks and films are; not when nothing in it is nearly dark.
 * @param rgb is changed
 */
export function deepen({ rgb }: Plane): void {
  const counts = new Float64Array(256);
  for (let i = 0; i < rgb.length; i += 3) {
    const least = Math.min(rgb[i] as number, rgb[i + 1] as number, rgb[i + 2] as number);
    counts[least] = (counts[least] as number) + 1;
  }
  let darkest = 0;
  for (let sum = 0; darkest < 255; darkest++) {
    sum += counts[darkest] as number;
    if (sum >= (DARK_SHARE * rgb.length) / 3) break;
  }
  if (darkest <= DARK || darkest > LIFTED) return;
  const times = (255 - DARK) / (255 - darkest);
  for (let i = 0; i < rgb.length; i++) rgb[i] = 255 - (255 - (rgb[i] as number)) * times;
}

/** Coefficients in the order of `basis`. */
type Cubic = readonly [number, number, number, number, number, number, number, number, number, number];

/** How a picture is spoiled: shares of its pixels in whose surroundings little changes, nothing changes, all changes. */
export interface Roughness {
  /** Of the pixels without an edge, those that are not exactly like their neighbours. */
  readonly dirt: number;
  /** The colours as 24-bit numbers when there are two only, with nothing between them. */
  readonly two: readonly [number, number] | undefined;
}

/** How often neighbours are alike, exactly or nearly, and of how many colours they are. */
export function roughnessOf({ width, height, rgb, words }: Plane): Roughness {
  let exact = 0;
  let near = 0;
  const colours = new Set<number>();
  for (let y = 0; y + 1 < height; y++)
    for (let x = 0; x + 1 < width; x++) {
      const k = y * width + x;
      if (words && words[k] === words[k + 1] && words[k] === words[k + width] && colours.size > 0) {
        exact++;
        continue;
      }
      const i = 3 * k;
      const down = i + 3 * width;
      let most = 0;
      for (let c = 0; c < 3; c++) {
        const v = rgb[i + c] as number;
        const right = Math.abs(v - (rgb[i + 3 + c] as number));
        const below = Math.abs(v - (rgb[down + c] as number));
        if (right > most) most = right;
        if (below > most) most = below;
      }
      if (most === 0) exact++;
      else if (most <= 14) near++;
      if (colours.size < 4) colours.add(((rgb[i] as number) << 16) | ((rgb[i + 1] as number) << 8) | (rgb[i + 2] as number));
    }
  return { dirt: near / Math.max(1, exact + near), two: colours.size === 2 ? ([...colours] as [number, number]) : undefined };
}

/**
 * Blurs by a box of three pixels each way, so that steps become slopes.
 * @returns a new plane of the same size
 */
export function softened(plane: Plane): Plane {
  const { width, height } = plane;
  let rgb = plane.rgb;
  for (let pass = 0; pass < 2; pass++) {
    const out = new Uint8ClampedArray(rgb.length);
    const along = pass % 2 === 0;
    const shift = along ? 3 : 3 * width;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = 3 * (y * width + x);
        const before = (along ? x : y) > 0 ? shift : 0;
        const after = (along ? x < width - 1 : y < height - 1) ? shift : 0;
        for (let c = i; c < i + 3; c++) out[c] = ((rgb[c - before] as number) + (rgb[c] as number) + (rgb[c + after] as number)) / 3;
      }
    rgb = out;
  }
  return { ...plane, rgb, words: undefined };
}

/**
 * Is a colour seen around a pixel, within so many pixels and levels (Euclidean)?
 * @complexity the square of the reach
 */
export function isSeenAround(
  { width, height, rgb }: Plane,
  x: number,
  y: number,
  [r, g, b]: readonly [number, number, number],
  reach: number,
  levels: number,
): boolean {
  const most = levels * levels;
  for (let v = Math.max(0, y - reach); v <= Math.min(height - 1, y + reach); v++)
    for (let u = Math.max(0, x - reach); u <= Math.min(width - 1, x + reach); u++) {
      const j = 3 * (v * width + u);
      const [dr, dg, db] = [(rgb[j] as number) - r, (rgb[j + 1] as number) - g, (rgb[j + 2] as number) - b];
      if (dr * dr + dg * dg + db * db < most) return true;
    }
  return false;
}
