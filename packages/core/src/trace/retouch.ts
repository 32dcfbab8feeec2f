/**
 * What a picture may need by hand before it is traced, in this order: straightened, cropped, enlarged, calmed, light
 * evened, levels, ground lifted, a colour made clear. Places are shares of the picture (0 to 1, y down), so that the
 * same settings do for a small preview. Sources: perspective by the map of four points (P. Heckbert, 1989); enlarging
 * along edges by directional cubic convolution (D. Zhou et al., Image Zooming Using Directional Cubic Convolution
 * Interpolation, IET 2012); calming by the sigma filter of `pixels.ts`. Cost: some passes over the result's pixels.
 */
import { LimitError } from '../errors/index.ts';
import { labDifference, labOf, rgbOf, type Lab } from '../colour/index.ts';
import { enlargeTwice } from './enlarge.ts';
import { evenGround, noiseOf, pixelsOf, planeOf, sigmaFilter, type Pixels } from './pixels.ts';

/** A place on the picture, shares of its width and height, y down. */
export interface Spot {
  readonly x: number;
  readonly y: number;
}

/** A stroke of the brush: what it goes over is kept, or goes. */
export interface Stroke {
  readonly keeps: boolean;
  /** Share of the picture's longer side. */
  readonly radius: number;
  readonly points: readonly Spot[];
}

/** What is done to a picture before it is traced. */
export interface Retouch {
  /** Upper left, upper right, lower right, lower left of what becomes the whole picture. */
  readonly corners?: readonly Spot[] | undefined;
  /** Degrees clockwise that the picture hangs over by. */
  readonly turnDeg?: number | undefined;
  readonly crop?: { readonly x0: number; readonly y0: number; readonly x1: number; readonly y1: number } | undefined;
  readonly enlarge?: 1 | 2 | 4 | 8 | undefined;
  /** 0 to 1. */
  readonly calm?: number | undefined;
  /** Only waves beside edges, as JPEG leaves them, 0 to 1. */
  readonly ringing?: number | undefined;
  readonly evenLight?: boolean | undefined;
  /** Levels 0 to 255 that become black and white, and the bend between them. */
  readonly levels?: { readonly black: number; readonly white: number; readonly gamma: number } | undefined;
  /** Ground made clear: from the border inward and from places that were clicked, as far as the reach (ΔE) goes. */
  readonly lift?:
    | {
        readonly border: boolean;
        readonly spots: readonly Spot[];
        readonly reach: number;
        readonly softPx: number;
        readonly strokes: readonly Stroke[];
      }
    | undefined;
  /** This colour is made clear wherever it is. */
  readonly clear?: { readonly hex: string; readonly reach: number } | undefined;
}

/** The picture after that, and where it lies on the picture as it came. */
export interface Retouched {
  readonly pixels: Pixels;
  /** Where the result's upper left corner lies on the picture, its own pixels. */
  readonly originX: number;
  readonly originY: number;
  /** Pixels of the result to one of the picture's. */
  readonly scale: number;
}

const MOST_PIXELS = 50_000_000;
type Homography = readonly number[];

/** The map of the unit square to four corners, as [a, b, c, d, e, f, g, h] of (a u + b v + c) / (g u + h v + 1). */
function squareTo([p0, p1, p2, p3]: readonly Spot[]): Homography {
  const [a, b, c, d] = [p0, p1, p2, p3] as [Spot, Spot, Spot, Spot];
  const [dx1, dx2, dx3] = [b.x - c.x, d.x - c.x, a.x - b.x + c.x - d.x];
  const [dy1, dy2, dy3] = [b.y - c.y, d.y - c.y, a.y - b.y + c.y - d.y];
  const det = dx1 * dy2 - dx2 * dy1;
  const g = det === 0 ? 0 : (dx3 * dy2 - dx2 * dy3) / det;
  const h = det === 0 ? 0 : (dx1 * dy3 - dx3 * dy1) / det;
  return [b.x - a.x + g * b.x, d.x - a.x + h * d.x, a.x, b.y - a.y + g * b.y, d.y - a.y + h * d.y, a.y, g, h];
}

/** Pixels looked up at places of another picture, bilinear on premultiplied colour; beyond the edge clear. */
function sampled(from: Pixels, width: number, height: number, at: (x: number, y: number) => readonly [number, number]): Pixels {
  const data = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [sx, sy] = at(x + 0.5, y + 0.5);
      const [fx, fy] = [sx - 0.5, sy - 0.5];
      const [ix, iy] = [Math.floor(fx), Math.floor(fy)];
      let [r, g, b, a] = [0, 0, 0, 0];
      for (let k = 0; k < 4; k++) {
        const [u, v] = [ix + (k & 1), iy + (k >> 1)];
        if (u < 0 || v < 0 || u >= from.width || v >= from.height) continue;
        const w = (k & 1 ? fx - ix : 1 - fx + ix) * (k >> 1 ? fy - iy : 1 - fy + iy);
        const i = 4 * (v * from.width + u);
        const alpha = w * (from.data[i + 3] as number);
        r += alpha * (from.data[i] as number);
        g += alpha * (from.data[i + 1] as number);
        b += alpha * (from.data[i + 2] as number);
        a += alpha;
      }
      if (a > 0) data.set([r / a, g / a, b / a, a], 4 * (y * width + x));
    }
  return { width, height, data };
}

/** Turned back about its middle; what comes in at the corners is clear. */
function turned(pixels: Pixels, degrees: number): Pixels {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const [mx, my] = [pixels.width / 2, pixels.height / 2];
  return sampled(pixels, pixels.width, pixels.height, (x, y) => [mx + c * (x - mx) - s * (y - my), my + s * (x - mx) + c * (y - my)]);
}

function fromCorners(pixels: Pixels, corners: readonly Spot[]): Pixels {
  const map = squareTo(corners.map(({ x, y }) => ({ x: x * pixels.width, y: y * pixels.height })));
  const [a, b, c, d, e, f, g, h] = map as [number, number, number, number, number, number, number, number];
  const side = (p: number, q: number): number => {
    const [one, two] = [corners[p] as Spot, corners[q] as Spot];
    return Math.hypot((one.x - two.x) * pixels.width, (one.y - two.y) * pixels.height);
  };
  const width = Math.max(1, Math.round((side(0, 1) + side(3, 2)) / 2));
  const height = Math.max(1, Math.round((side(0, 3) + side(1, 2)) / 2));
  return sampled(pixels, width, height, (x, y) => {
    const [u, v] = [x / width, y / height];
    const w = g * u + h * v + 1;
    return [(a * u + b * v + c) / w, (d * u + e * v + f) / w];
  });
}

function cropped(pixels: Pixels, x0: number, y0: number, width: number, height: number): Pixels {
  const data = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++) {
    const from = 4 * ((y0 + y) * pixels.width + x0);
    data.set(pixels.data.subarray(from, from + 4 * width), 4 * y * width);
  }
  return { width, height, data };
}

function levelled(pixels: Pixels, { black, white, gamma }: NonNullable<Retouch['levels']>): Pixels {
  const range = Math.max(1, white - black);
  const table = Uint8ClampedArray.from(
    { length: 256 },
    (_, v) => 255 * Math.min(1, Math.max(0, (v - black) / range)) ** (1 / Math.max(0.05, gamma)),
  );
  const data = new Uint8ClampedArray(pixels.data);
  for (let i = 0; i < data.length; i++) if (i % 4 !== 3) data[i] = table[data[i] as number] as number;
  return { ...pixels, data };
}

/** CIELAB of every pixel, asked for often with few colours. */
class Labs {
  private readonly known = new Map<number, Lab>();
  private readonly data: Uint8ClampedArray;

  constructor(pixels: Pixels) {
    this.data = pixels.data;
  }

  at(i: number): Lab {
    const [r, g, b] = [this.data[4 * i] as number, this.data[4 * i + 1] as number, this.data[4 * i + 2] as number];
    const key = (r << 16) | (g << 8) | b;
    let lab = this.known.get(key);
    if (!lab) this.known.set(key, (lab = labOf([r, g, b])));
    return lab;
  }
}

/** Marks what is connected with a start and within the reach of the start's colour. */
function flood(pixels: Pixels, labs: Labs, starts: readonly number[], reach: number, lifted: Uint8Array): void {
  const { width, height } = pixels;
  for (const start of starts) {
    if (lifted[start]) continue;
    const ground = labs.at(start);
    const like = new Map<Lab, boolean>();
    const isLike = (i: number): boolean => {
      const lab = labs.at(i);
      let answer = like.get(lab);
      if (answer === undefined) like.set(lab, (answer = labDifference(lab, ground) <= reach));
      return answer;
    };
    const stack = [start];
    lifted[start] = 1;
    const visit = (i: number): void => {
      if (!lifted[i] && isLike(i)) {
        lifted[i] = 1;
        stack.push(i);
      }
    };
    for (let i = stack.pop(); i !== undefined; i = stack.pop()) {
      const x = i % width;
      if (x > 0) visit(i - 1);
      if (x + 1 < width) visit(i + 1);
      if (i >= width) visit(i - width);
      if (i + width < width * height) visit(i + width);
    }
  }
}

/** Pixels along the border, once round. */
const borderOf = ({ width, height }: Pixels): number[] => [
  ...Array.from({ length: width }, (_, x) => x),
  ...Array.from({ length: height - 1 }, (_, y) => (y + 2) * width - 1),
  ...Array.from({ length: width - 1 }, (_, x) => height * width - 2 - x),
  ...Array.from({ length: Math.max(0, height - 2) }, (_, y) => (height - 2 - y) * width),
];

/** So many pixels along the border tell how the ground's colour drifts there. */
const DRIFT_PX = 8;

/**
 * Where the ground lies along the border: pixels like its commonest colour, and what they pass into gradually, as under
 * uneven light. What is drawn as far as the border has a sharp edge to the ground and is none of it.
 */
function groundAlong(border: readonly number[], labs: Labs, reach: number): number[] {
  const own = border.map((i) => labs.at(i));
  const common = commonest(own);
  const isGround = own.map((lab) => labDifference(lab, common) <= reach);
  for (const step of [1, -1]) {
    const mean = [...common] as [number, number, number];
    // twice round, so that the drift goes on over where counting begins
    for (let k = 0; k < 2 * own.length; k++) {
      const i = (((step * k) % own.length) + own.length) % own.length;
      const lab = own[i] as Lab;
      const before = isGround[(((i - step) % own.length) + own.length) % own.length];
      if (!isGround[i] && !(before && labDifference(lab, mean) <= reach)) continue;
      isGround[i] = true;
      const weight = before ? 1 / DRIFT_PX : 1;
      mean.forEach((value, c) => (mean[c] = value + weight * ((lab[c] as number) - value)));
    }
  }
  return border.filter((_, k) => isGround[k]);
}

/** The colour that most of some colours are near, from counts in cells of ten ΔE. */
function commonest(labs: readonly Lab[]): Lab {
  const counts = new Map<string, { n: number; sum: [number, number, number] }>();
  for (const lab of labs) {
    const key = lab.map((value) => Math.round(value / 10)).join();
    const cell = counts.get(key) ?? { n: 0, sum: [0, 0, 0] };
    counts.set(key, { n: cell.n + 1, sum: [cell.sum[0] + lab[0], cell.sum[1] + lab[1], cell.sum[2] + lab[2]] });
  }
  const [most] = [...counts.values()].sort((a, b) => b.n - a.n);
  return most ? [most.sum[0] / most.n, most.sum[1] / most.n, most.sum[2] / most.n] : [0, 0, 0];
}

function paintStroke({ width, height }: Pixels, stroke: Stroke, lifted: Uint8Array): void {
  const radius = stroke.radius * Math.max(width, height);
  for (const { x, y } of stroke.points) {
    const [cx, cy] = [x * width, y * height];
    for (let v = Math.max(0, Math.floor(cy - radius)); v <= Math.min(height - 1, cy + radius); v++)
      for (let u = Math.max(0, Math.floor(cx - radius)); u <= Math.min(width - 1, cx + radius); u++)
        if (Math.hypot(u + 0.5 - cx, v + 0.5 - cy) <= radius) lifted[v * width + u] = stroke.keeps ? 0 : 1;
  }
}

/** Means of a mask over a square, by running sums. */
function blurred(mask: Uint8Array, width: number, height: number, radius: number): Float32Array {
  let from: ArrayLike<number> = mask;
  let out = new Float32Array(mask.length);
  for (const [count, step, lines, next] of [
    [width, 1, height, width],
    [height, width, width, 1],
  ] as const) {
    out = new Float32Array(mask.length);
    for (let line = 0; line < lines; line++)
      for (let k = 0, sum = 0, n = 0; k < count + radius; k++) {
        if (k < count) sum += from[line * next + k * step] as number;
        if (k < count) n++;
        const gone = k - 2 * radius - 1;
        if (gone >= 0) sum -= from[line * next + gone * step] as number;
        if (gone >= 0) n--;
        if (k >= radius) out[line * next + (k - radius) * step] = sum / n;
      }
    from = out;
  }
  return out;
}

/** Grain of more levels than this would leave specks of the ground. */
const GRAIN = 1.5;

/** What is told of the ground is told of calmed pixels, so that grain is lifted with it. */
function calmedForLifting(pixels: Pixels): Pixels {
  const plane = planeOf(pixels);
  const noise = noiseOf(plane);
  if (noise <= GRAIN) return pixels;
  return pixelsOf(sigmaFilter(sigmaFilter(plane, 1, Math.max(16, 8 * noise)), 1, Math.max(16, 6 * noise)));
}

function groundLifted(pixels: Pixels, lift: NonNullable<Retouch['lift']>): Pixels {
  const { width, height } = pixels;
  const lifted = new Uint8Array(width * height);
  const spots = lift.spots.map(
    ({ x, y }) => Math.min(height - 1, Math.floor(y * height)) * width + Math.min(width - 1, Math.floor(x * width)),
  );
  const labs = new Labs(calmedForLifting(pixels));
  flood(pixels, labs, [...(lift.border ? groundAlong(borderOf(pixels), labs, lift.reach) : []), ...spots], lift.reach, lifted);
  for (const stroke of lift.strokes) paintStroke(pixels, stroke, lifted);
  const radius = Math.round(Math.max(0, lift.softPx));
  const gone: ArrayLike<number> = radius > 0 ? blurred(lifted, width, height, radius) : lifted;
  const data = new Uint8ClampedArray(pixels.data);
  for (let i = 0; i < lifted.length; i++) data[4 * i + 3] = (data[4 * i + 3] as number) * (1 - (gone[i] as number));
  return { ...pixels, data };
}

function colourCleared(pixels: Pixels, hex: string, reach: number): Pixels {
  const ground = labOf(rgbOf(hex));
  const labs = new Labs(pixels);
  const known = new Map<Lab, boolean>();
  const data = new Uint8ClampedArray(pixels.data);
  for (let i = 0; i < pixels.width * pixels.height; i++) {
    const lab = labs.at(i);
    let isGone = known.get(lab);
    if (isGone === undefined) known.set(lab, (isGone = labDifference(lab, ground) <= reach));
    if (isGone) data[4 * i + 3] = 0;
  }
  return { ...pixels, data };
}

const CALM_LEVELS = 70;
const RINGING_LEVELS = 36;

function calmed(pixels: Pixels, { calm = 0, ringing = 0, evenLight }: Retouch): Pixels {
  if (calm <= 0 && ringing <= 0 && !evenLight) return pixels;
  let plane = planeOf(pixels);
  if (evenLight) plane = evenGround(plane);
  if (ringing > 0) for (let pass = 0; pass < 2; pass++) plane = sigmaFilter(plane, 2, RINGING_LEVELS * ringing);
  if (calm > 0) for (let pass = 0; pass < 2; pass++) plane = sigmaFilter(plane, 2, CALM_LEVELS * calm);
  return pixelsOf(plane);
}

/** How much a picture is proposed to be enlarged: so that its shorter side comes to some 600 pixels. */
export function enlargementFor({ width, height }: Pick<Pixels, 'width' | 'height'>): 1 | 2 | 4 | 8 {
  const wanted = 600 / Math.max(1, Math.min(width, height));
  return wanted >= 6 ? 8 : wanted >= 3 ? 4 : wanted >= 1.5 ? 2 : 1;
}

/** @throws LimitError `limit.picture` when the result would have more than 50 million pixels */
export function retouch(pixels: Pixels, steps: Retouch): Retouched {
  let out = pixels;
  let [originX, originY] = [0, 0];
  if (steps.turnDeg) out = turned(out, steps.turnDeg);
  if (steps.corners?.length === 4) out = fromCorners(out, steps.corners);
  if (steps.crop) {
    const { x0, y0, x1, y1 } = steps.crop;
    const [left, top] = [Math.floor(x0 * out.width), Math.floor(y0 * out.height)];
    const [width, height] = [Math.max(1, Math.round((x1 - x0) * out.width)), Math.max(1, Math.round((y1 - y0) * out.height))];
    [originX, originY] = [Math.min(left, out.width - 1), Math.min(top, out.height - 1)];
    out = cropped(out, originX, originY, Math.min(width, out.width - originX), Math.min(height, out.height - originY));
  }
  const scale = steps.enlarge ?? 1;
  if (out.width * out.height * scale * scale > MOST_PIXELS)
    throw new LimitError('picture', `Enlarged ${scale} times it would have more than 50 million pixels. Enlarge it less.`);
  out = calmed(out, { ...steps, calm: 0 });
  for (let k = 1; k < scale; k *= 2) out = enlargeTwice(out);
  out = calmed(out, { calm: steps.calm ?? 0 });
  if (steps.levels) out = levelled(out, steps.levels);
  if (steps.lift) out = groundLifted(out, steps.lift);
  if (steps.clear) out = colourCleared(out, steps.clear.hex, steps.clear.reach);
  return { pixels: out, originX, originY, scale };
}
