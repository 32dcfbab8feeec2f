/** What a picture needs before it is traced, told from the picture: cleaning, its colours, and how strictly to follow it. */
import { colourOf, flatnessOf, type FlatColour } from './palette.ts';
import { enlargePlane } from './enlarge.ts';
import { hasBlocks } from './squeezed.ts';
import { fewColours, steppedOf, type Stepped } from './stepped.ts';
import {
  deepen,
  evenGround,
  noiseOf,
  planeOf,
  roughnessOf,
  sigmaFilter,
  softened,
  type OnShare,
  type Pixels,
  type Plane,
} from './pixels.ts';

/** What was told of a picture before tracing: how rough it is decides all else. */
export interface Prepared {
  readonly plane: Plane;
  /** As it came where that is asked once more, in steps or squeezed; else as it was cleaned. */
  readonly raw: Plane;
  readonly noise: number;
  /** Edges are spread over several pixels and flat areas are not quite flat. */
  readonly isSoft: boolean;
  /** Scanned or photographed: nothing is quite flat. */
  readonly isTaken: boolean;
  /** Squeezed by JPEG: hue is smeared over edges. */
  readonly isSqueezed: boolean;
  /** Two colours with steps for edges: which. */
  readonly two: readonly FlatColour[] | undefined;
  /** Several colours with steps for edges: which, and each pixel's. */
  readonly stepped?: Stepped | undefined;
  /** Brought down to few exact colours: mixtures at edges are as near as these came. */
  readonly isOfFew?: boolean;
}

/** Hue smears over few pixels: in larger pictures what it hides is not worth the memory. */
const MOST_SQUEEZED = 16_000_000;
/** Around edges of squeezed pictures waves of so many levels are calmed, and pure pixels may be off by so many. */
const SQUEEZED_LEVELS = 24;
const SQUEEZED_PURE = 24;

const TAKEN_DIRT = 0.9;

/** Was a picture scanned or photographed? */
export const isTaken = (plane: Plane): boolean => roughnessOf(plane).dirt > TAKEN_DIRT;

/** @param onShare hears how much of it is done, 0 to 1, while large pictures are calmed */
export function prepare(pixels: Pixels, clean: 'auto' | 'none', onShare: OnShare = () => undefined): Prepared {
  const plane = planeOf(pixels);
  const noise = noiseOf(plane);
  const { dirt, two } = roughnessOf(plane);
  if (clean === 'none') return { raw: plane, plane, noise, isSoft: false, isTaken: false, isSqueezed: false, two: undefined };
  if (two && !plane.alpha) {
    const colours = two.map((rgb) => colourOf(`#${rgb.toString(16).padStart(6, '0')}`));
    return { raw: plane, plane: softened(plane), noise: 0, isSoft: false, isTaken: false, isSqueezed: false, two: colours };
  }
  if (dirt < 0.06) {
    const few = fewColours(plane);
    const stepped = few && steppedOf(plane, few);
    const isOfFew = few !== undefined;
    return { raw: plane, plane, noise, isSoft: false, isTaken: false, isSqueezed: false, two: undefined, stepped, isOfFew };
  }
  const levels = Math.max(16, Math.min(60, 8 * noise));
  // where nothing is quite flat, light and paper are uneven too
  if (dirt > TAKEN_DIRT) {
    const taken = takenPlane(plane, levels, onShare);
    return { raw: taken, plane: taken, noise, isSoft: true, isTaken: true, isSqueezed: false, two: undefined };
  }
  const isSqueezed = plane.width * plane.height <= MOST_SQUEEZED && hasBlocks(plane);
  // only of squeezed pictures is what came asked once more
  const out = isSqueezed ? undefined : plane.rgb;
  const smooth = sigmaFilter(plane, 1, isSqueezed ? Math.max(SQUEEZED_LEVELS, levels) : levels, onShare, out);
  return { raw: isSqueezed ? plane : smooth, plane: smooth, noise, isSoft: true, isTaken: false, isSqueezed, two: undefined };
}

/** A scan or photograph evened, calmed and deepened, all in place: such pictures are large. */
function takenPlane(plane: Plane, levels: number, onShare: OnShare): Plane {
  const even = evenGround(plane);
  const half = sigmaFilter(even, 2, levels, (share) => onShare(share / 2), even.rgb);
  const smooth = sigmaFilter(half, 2, levels * 0.7, (share) => onShare((1 + share) / 2), half.rgb);
  deepen(smooth);
  return smooth;
}

/** How strictly a picture is followed. */
export interface Following {
  /** How far pure pixels are looked for round a mixed one, pixels. */
  readonly reach: number;
  readonly pureLevels: number;
  readonly pureShare?: number;
  readonly smallestPx: number;
  readonly tol: number;
  readonly cornerDeg: number;
  readonly window: number;
  readonly rounded: number;
  readonly steps: number;
  readonly smoothPx?: number;
  readonly calm: number;
  /** Pixels are so rough that labels are settled before edges are followed. */
  readonly isRough: boolean;
  /** Scanned or photographed. */
  readonly isTaken: boolean;
  /** Hue weighs less than brightness. */
  readonly isSqueezed: boolean;
}

/** Pictures whose longer side is shorter than this are enlarged along their edges before they are taken apart. */
const SMALL_PX = 520;

/** Pixels whose neighbours differ by more levels than this lie on an edge. */
const EDGE_LEVELS = 24;
/** A picture is fine when more than this share of its edges is, */
const FINE_SHARE = 0.05;
/** that is, when flat pixels of one colour only are seen this far around: the other side is too thin to have any. */
const FINE_REACH = 3;

function isFine(plane: Plane): boolean {
  const { width, height } = plane;
  const flatness = flatnessOf(plane);
  let edges = 0;
  let fine = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if ((flatness[y * width + x] as number) <= EDGE_LEVELS) continue;
      edges++;
      if (!hasTwoSides(plane, flatness, x, y)) fine++;
    }
  return fine > FINE_SHARE * edges;
}

/** Are flat pixels of two colours seen around a pixel? */
function hasTwoSides({ width, height, rgb }: Plane, flatness: Uint16Array, x: number, y: number): boolean {
  let first = -1;
  for (let v = Math.max(0, y - FINE_REACH); v <= Math.min(height - 1, y + FINE_REACH); v++)
    for (let u = Math.max(0, x - FINE_REACH); u <= Math.min(width - 1, x + FINE_REACH); u++) {
      const j = v * width + u;
      if ((flatness[j] as number) > EDGE_LEVELS) continue;
      if (first < 0) first = j;
      const far = [0, 1, 2].reduce((sum, c) => sum + Math.abs((rgb[3 * j + c] as number) - (rgb[3 * first + c] as number)), 0);
      if (far > 1.5 * EDGE_LEVELS) return true;
    }
  return false;
}

/** Small pictures of fine parts twice as large: two edges closer than two pixels can then be told apart. */
export function enlarged({ plane, isSoft, two, stepped, raw }: Prepared): { plane: Plane; times: 1 | 2 } {
  if (stepped || Math.max(plane.width, plane.height) > SMALL_PX || !isFine(two ? raw : plane)) return { plane, times: 1 };
  if (two) return { plane: softened(enlargePlane(raw)), times: 2 };
  const large = enlargePlane(plane);
  return { plane: isSoft ? sigmaFilter(large, 2, LARGE_LEVELS) : large, times: 2 };
}

/** Noise bends the edges of spoiled pictures by so much; where they were steps, a gentle bend's long ones lie this far off its curve. */
const SOFT_SMOOTH_PX = 0.15;
const STEPPED_SMOOTH_PX = 0.2;

/** Enlarged rough pictures are followed a little less closely. */
const ROUGH_TOL = 1.3;
const ROUGH_WINDOW = 1.2;
const LARGE_LEVELS = 24;
/** Specks, at the picture's own size: steps and the waves of squeezed pictures leave larger ones, else they can be told the better. */
const ROUGH_SMALLEST = 2;
const LARGE_SMALLEST = 0.75;

/**
 * The same strictness on a picture that was enlarged.
 * @param times 1: the same
 */
export function followEnlarged(following: Following, times: number): Following {
  if (times === 1) return following;
  const rough = following.calm > 0;
  return {
    ...following,
    smallestPx: following.smallestPx * (following.isSqueezed || following.steps >= 1 ? ROUGH_SMALLEST : LARGE_SMALLEST),
    steps: following.steps * times,
    tol: following.tol * (rough ? ROUGH_TOL : 1),
    window: following.window * (rough ? ROUGH_WINDOW : 1),
  };
}

/** Where nothing is spoiled, a pixel so near to a colour against the next one is wholly of it. */
const PURE_SHARE = 0.1;

/** How closely borders are followed in a picture of this kind. */
export function followingOf({ noise, isSoft, isTaken, isSqueezed, two, stepped }: Prepared): Following {
  if (isSoft)
    return {
      reach: 4,
      pureLevels: (isSqueezed ? SQUEEZED_PURE : 16) + 2 * noise,
      smallestPx: 9,
      tol: 0.42,
      cornerDeg: 34,
      window: 6,
      rounded: 1.1,
      steps: noise > 2 || isTaken ? 0.8 : 0.4,
      smoothPx: SOFT_SMOOTH_PX,
      calm: noise > 2 || isTaken ? 5 : 2,
      isRough: isTaken || isSqueezed,
      isTaken,
      isSqueezed,
    };
  if (two ?? stepped)
    return {
      reach: 4,
      pureLevels: 6,
      smallestPx: 5,
      tol: 0.5,
      cornerDeg: 34,
      window: 5.5,
      rounded: 1.1,
      steps: 1,
      smoothPx: STEPPED_SMOOTH_PX,
      calm: 2,
      isRough: false,
      isTaken,
      isSqueezed,
    };
  return {
    reach: 2,
    pureLevels: 6,
    pureShare: PURE_SHARE,
    smallestPx: 3,
    tol: 0.2,
    cornerDeg: 28,
    window: 4,
    rounded: 1.1,
    steps: 0,
    calm: 0,
    isRough: false,
    isTaken,
    isSqueezed,
  };
}
