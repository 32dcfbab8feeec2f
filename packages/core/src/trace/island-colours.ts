/**
 * Colours of small parts in pictures squeezed by JPEG, told anew. What lies as an island in one other colour has its
 * brightness spoiled by waves and its hue smeared; pixel by pixel it may look like another colour of the palette that
 * is not far off. Over all of the island both follow by least squares, since what the ground makes of each pixel is
 * known: seen = cover · own + (1 - cover) · ground, with the cover spread as hue is (see hue.ts). The colour of the
 * palette that is clearly nearer to that is the island's. Units levels and pixels.
 */
import { bellOf, blur } from './blur.ts';
import type { FlatColour } from './palette.ts';
import { lightAt, type Plane } from './pixels.ts';
import { partsOf, regionsOf, type Regions } from './regions.ts';
import type { Shares } from './shares.ts';

/** Halving and doubling spread hue over about so many pixels (standard deviation). */
const SPREAD_PX = 1;
/** How far around an island its hue is looked for, pixels. */
const AROUND_PX = 3;
/** Islands have so many pixels at least and at most, at the picture's own size. */
const LEAST_PIXELS = 8;
const MOST_PIXELS = 900;
/** So much of an island's edge must be with its ground. */
const ALONE = 0.85;
/** Pixels with less of it tell nothing of its hue, with less nothing of its brightness. */
const TELLS_HUE = 0.05;
const TELLS_BRIGHTNESS = 0.5;
/** Another colour must be within so many levels, and so many times nearer than the own one. */
const NEAR = 32;
const CLEARLY = 1.6;

interface Island {
  readonly label: number;
  readonly ground: number;
  readonly pixels: readonly number[];
}

/** A picture whose pixels have labels and shares. */
export interface Labelled {
  readonly plane: Plane;
  readonly shares: Shares;
  /** Of each pixel. */
  readonly labels: Uint8Array;
  /** The plane's pixels are so many times smaller than the picture's. */
  readonly times: number;
}

/**
 * Gives small parts that lie in one other colour the colour that they have as a whole.
 * @param picture its labels are changed as its shares are
 * @param sure colours that stay
 */
export function recolourIslands(picture: Labelled, palette: readonly FlatColour[], sure: ReadonlySet<number>): void {
  const { plane, shares, labels, times } = picture;
  const islands = islandsOf(regionsOf(labels, plane.width, plane.height), times * times);
  // colours that were merged into others are of no pixel
  const found = new Set(labels);
  for (const island of islands) {
    if (sure.has(island.label) || !palette[island.label] || !palette[island.ground]) continue;
    const tone = toneOfIsland(picture, toneOf((palette[island.ground] as FlatColour).rgb), island);
    const better = tone ? colourOfIsland(tone, palette, found, island) : island.label;
    if (better !== island.label) relabel(shares, labels, island, better);
  }
}

/** Parts whose edge is with one other label nearly all round. */
function islandsOf(regions: Regions, area: number): Island[] {
  return partsOf(regions, LEAST_PIXELS * area, MOST_PIXELS * area).flatMap(({ label, beside, pixels }) => {
    const [most] = [...beside].sort((a, b) => b[1] - a[1]);
    const all = [...beside.values()].reduce((sum, shared) => sum + shared, 0);
    return most && most[1] >= ALONE * all ? [{ label, ground: most[0], pixels }] : [];
  });
}

/** Brightness, and how far blue and red are from it. */
type Tone = readonly [number, number, number];

const toneOf = ([r, g, b]: readonly [number, number, number]): Tone => {
  const y = lightAt(r, g, b);
  return [y, b - y, r - y];
};

/** The colour, of those that are found, that is clearly nearer to a tone than the island's own. */
function colourOfIsland(tone: Tone, palette: readonly FlatColour[], found: ReadonlySet<number>, { label, ground }: Island): number {
  const off = (k: number): number => {
    const [y, b, r] = toneOf((palette[k] as FlatColour).rgb);
    return Math.hypot(tone[0] - y, tone[1] - b, tone[2] - r);
  };
  let best = label;
  palette.forEach((_, k) => {
    if (k !== ground && found.has(k) && off(k) < off(best)) best = k;
  });
  return off(best) < NEAR && off(best) * CLEARLY < off(label) ? best : label;
}

function toneOfIsland({ plane, shares, labels, times }: Labelled, ground: Tone, island: Island): Tone | undefined {
  const { width, height, rgb } = plane;
  const own = new Set(island.pixels);
  let [x0, y0, x1, y1] = [width, height, 0, 0];
  for (const i of island.pixels) {
    const [x, y] = [i % width, Math.floor(i / width)];
    [x0, x1, y0, y1] = [Math.min(x0, x), Math.max(x1, x), Math.min(y0, y), Math.max(y1, y)];
  }
  const pad = AROUND_PX * times;
  [x0, y0, x1, y1] = [Math.max(0, x0 - pad), Math.max(0, y0 - pad), Math.min(width - 1, x1 + pad), Math.min(height - 1, y1 + pad)];
  const stride = x1 - x0 + 3;
  const cover = new Float32Array(stride * (y1 - y0 + 1));
  const isBeside = (i: number): boolean => labels[i] === island.ground && [1, -1, width, -width].some((d) => own.has(i + d));
  const each = (visit: (i: number, k: number) => void): void => {
    for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++) visit(y * width + x, (y - y0) * stride + x - x0);
  };
  each((i, k) => (cover[k] = own.has(i) || isBeside(i) ? shares.of(i, island.label) : 0));
  const spread = cover.slice();
  blur(spread, stride, y1 - y0 + 1, bellOf(SPREAD_PX * times) as Float64Array);
  const [sums, weights] = [
    [0, 0, 0],
    [0, 0],
  ] as [[number, number, number], [number, number]];
  each((i, k) => {
    if (labels[i] !== island.ground && !own.has(i)) return;
    const seen = toneOf([rgb[3 * i] as number, rgb[3 * i + 1] as number, rgb[3 * i + 2] as number]);
    const [sharp, wide] = [cover[k] as number, spread[k] as number];
    if (sharp > TELLS_BRIGHTNESS) {
      sums[0] += sharp * (seen[0] - (1 - sharp) * ground[0]);
      weights[0] += sharp * sharp;
    }
    if (wide <= TELLS_HUE) return;
    sums[1] += wide * (seen[1] - (1 - wide) * ground[1]);
    sums[2] += wide * (seen[2] - (1 - wide) * ground[2]);
    weights[1] += wide * wide;
  });
  return weights[0] > 0 && weights[1] > 0 ? [sums[0] / weights[0], sums[1] / weights[1], sums[2] / weights[1]] : undefined;
}

/** An island, and what is mixed of it around it, becomes of another label. */
function relabel(shares: Shares, labels: Uint8Array, { label, ground, pixels }: Island, better: number): void {
  const { width } = shares;
  const change = (i: number): void => {
    const [a, b] = [shares.first[i] as number, shares.second[i] as number];
    if (a !== label && b !== label) return;
    const [p, q] = [a === label ? better : a, b === label ? better : b];
    shares.mix(i, p, q, p === q ? 1 : shares.shareAt(i));
  };
  for (const i of pixels) {
    labels[i] = better;
    change(i);
    for (const d of [1, -1, width, -width]) if (labels[i + d] === ground) change(i + d);
  }
}
