/**
 * A picture to flat coloured outlines: colours found, each pixel taken apart into shares of two of them, regions as a
 * graph of shared edges, edges fitted once. The parts and their sources are told in their own files and in
 * docs/tracing.md. Units: pixels until the end, then mm with y up.
 */
import type { Control, Outline } from '../types/index.ts';
import { CancelledError, InputError, LimitError } from '../errors/index.ts';
import { contourArea, reverseContour } from '../geometry/outline.ts';
import { weld } from '../geometry/weld/weld.ts';
import { crossingPairs } from '../check/cut-check.ts';
import { mapOutline } from '../geometry/transform.ts';
import { colourOf } from './palette.ts';
import { enlarged, followEnlarged, followingOf, paletteFor, prepare } from './prepare.ts';
import type { Pixels } from './pixels.ts';
import { absorbSpecks, buildGraph, OUTSIDE } from './graph.ts';
import { layersOf } from './layers.ts';
import { unmix, type Shares } from './unmix.ts';

export interface TraceOptions {
  /** Only `colours` is known in this version; the others are refused. */
  readonly mode: 'colours' | 'single' | 'centre';
  /** How many colours at most, or which; found by itself when absent. */
  readonly colours?: number | readonly string[];
  /** Colours that are not wanted, `#rrggbb`. */
  readonly leaveOut?: readonly string[];
  readonly stacking: 'inlaid' | 'overlaid';
  /** 0 keeps every bend, 1 smooths most. */
  readonly smoothness?: number;
  readonly cornerDeg?: number;
  readonly smallestPx?: number;
  readonly pixelMm?: number;
  readonly clean?: 'auto' | 'none';
}

export interface TracedLayer {
  readonly hex: string;
  readonly outline: Outline;
}

export interface Traced {
  readonly layers: readonly TracedLayer[];
  readonly widthMm: number;
  readonly heightMm: number;
  /** The ground's colour when it reaches round the picture and is left out. */
  readonly ground?: string;
}

const MOST_PIXELS = 50_000_000;

/** The label that most of the frame has, when it has most of it. */
function groundOf(labels: Uint8Array, width: number, height: number): number | undefined {
  const votes = new Map<number, number>();
  let all = 0;
  const vote = (i: number): void => {
    votes.set(labels[i] as number, (votes.get(labels[i] as number) ?? 0) + 1);
    all++;
  };
  for (let x = 0; x < width; x++) {
    vote(x);
    vote((height - 1) * width + x);
  }
  for (let y = 0; y < height; y++) {
    vote(y * width);
    vote(y * width + width - 1);
  }
  const [label, count] = [...votes].sort((a, b) => b[1] - a[1])[0] ?? [0, 0];
  return count > 0.6 * all ? label : undefined;
}

/** Lines thinner than a pixel are followed down to this share of it. */
const FAINTEST = 0.27;

/** The colour that each pixel is mostly of; along the crest of a thin line, the line's. */
function labelsOf({ width, height, first, second, share }: Shares): Uint8Array {
  const out = first.slice();
  for (let i = 0; i < out.length; i++) if ((share[i] as number) < 0.5) out[i] = second[i] as number;
  const of = (i: number, label: number): number => {
    if (first[i] === label) return first[i] === second[i] ? 1 : (share[i] as number);
    return second[i] === label ? 1 - (share[i] as number) : 0;
  };
  const kept = out.slice();
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      if (first[i] === second[i]) continue;
      const minor = out[i] === first[i] ? (second[i] as number) : (first[i] as number);
      const own = of(i, minor);
      if (own < FAINTEST) continue;
      for (const d of [1, width, width + 1, width - 1]) {
        const [a, b] = [of(i - d, minor), of(i + d, minor)];
        if (own > a && own >= b && a < 0.45 && b < 0.45 && out[i - d] !== minor && out[i + d] !== minor && own > 0.6 * (a + b)) {
          kept[i] = minor;
          break;
        }
      }
    }
  return kept;
}

function check({ width, height, data }: Pixels): void {
  if (!(width > 0 && height > 0) || data.length < width * height * 4) throw new InputError('picture', 'The picture has no pixels.');
  if (width * height > MOST_PIXELS)
    throw new LimitError('picture', `The picture has ${width} by ${height} pixels; 50 million are the most.`);
}

/** From pixels with y down to mm with y up, outer contours counter-clockwise. */
function upright(outline: Outline, mm: number, height: number): Outline {
  const { contours } = mapOutline([mm, 0, 0, -mm, 0, height * mm], outline);
  return { contours: contours.map(reverseContour) };
}

/** Curves of thin parts may come to cross one another; those contours are welded, so that no blade meets a crossing. */
function withoutCrossings(outline: Outline, mm: number): Outline {
  const large = mapOutline([10 / mm, 0, 0, 10 / mm, 0, 0], outline);
  const pairs = crossingPairs(large);
  if (pairs.length === 0) return outline;
  const back = (contours: Outline['contours']): Outline['contours'] => mapOutline([mm / 10, 0, 0, mm / 10, 0, 0], { contours }).contours;
  const whole: Outline['contours'][number][] = [];
  for (const group of groupsOf(pairs)) {
    const own = large.contours.filter((_, i) => group.has(i));
    const [widest] = own.map(contourArea).sort((a, b) => Math.abs(b) - Math.abs(a));
    // holes that cross without what they are holes of can only be told with all the rest
    if ((widest ?? 0) < 0) return { contours: back(weld([large]).contours) };
    whole.push(...weld([{ contours: own }]).contours);
  }
  const crossing = new Set(pairs.flat());
  return { contours: [...outline.contours.filter((_, i) => !crossing.has(i)), ...back(whole)] };
}

/** What is paired with one another, directly or by others. */
function groupsOf(pairs: readonly (readonly [number, number])[]): Set<number>[] {
  let groups: Set<number>[] = [];
  for (const [a, b] of pairs) {
    const meets = groups.filter((group) => group.has(a) || group.has(b));
    groups = [...groups.filter((group) => !meets.includes(group)), new Set([a, b, ...meets.flatMap((group) => [...group])])];
  }
  return groups;
}

/**
 * @returns layers in painting order, lowest first
 * @throws InputError `input.picture`, `input.mode`, LimitError `limit.picture`, CancelledError
 */
export async function traceImage(pixels: Pixels, options: TraceOptions, control: Control = {}): Promise<Traced> {
  check(pixels);
  if (options.mode !== 'colours')
    throw new InputError('mode', 'Pictures are traced by their colours only in this version.', { field: 'mode' });
  const step = async (done: number, phase: string): Promise<void> => {
    control.onProgress?.(done, 5, phase);
    // lets a stop that was asked for come through
    await Promise.resolve();
    if (control.signal?.aborted) throw new CancelledError();
  };
  await step(0, 'cleaning');
  const prepared = prepare(pixels, options.clean ?? 'auto');
  const { plane, times } = options.clean === 'none' ? { plane: prepared.plane, times: 1 } : enlarged(prepared);
  const { width, height } = plane;
  const following = followEnlarged(followingOf(prepared), times);
  await step(1, 'finding the colours');
  const palette = paletteFor(prepared, options.colours);
  const clear = plane.alpha ? palette.length : undefined;
  await step(2, 'taking pixels apart');
  const all = clear === undefined ? palette : [...palette, { ...colourOf('#ffffff'), rgb: [1e4, 1e4, 1e4] as const }];
  const shares = unmix(plane, all, { ...following, clear });
  const labels = labelsOf(shares);
  absorbSpecks(shares, labels, options.smallestPx === undefined ? following.smallestPx : options.smallestPx * times * times);
  const ground = clear ?? groundOf(labels, width, height);
  await step(3, 'following the edges');
  const graph = buildGraph(shares, labels, ground ?? OUTSIDE);
  await step(4, 'fitting lines and curves');
  const leaveOut = new Set((options.leaveOut ?? []).map((hex) => hex.toLowerCase()));
  const without = new Set(palette.flatMap((colour, k) => (leaveOut.has(colour.hex) ? [k] : [])));
  if (ground !== undefined) without.add(ground);
  const layers = layersOf(
    graph,
    all.map((_, k) => k),
    {
      stacking: options.stacking,
      fit: { ...following, tol: following.tol * (0.5 + (options.smoothness ?? 0.5)), cornerDeg: options.cornerDeg ?? following.cornerDeg },
      without,
    },
  );
  const mm = (options.pixelMm ?? 1) / times;
  await step(5, 'done');
  const groundColour = ground === undefined || ground === clear ? undefined : palette[ground]?.hex;
  return {
    layers: layers
      .filter(({ outline }) => outline.contours.length > 0)
      .map(({ label, outline }) => ({
        hex: palette[label]?.hex ?? '#000000',
        outline: withoutCrossings(upright(outline, mm, height), mm),
      })),
    widthMm: width * mm,
    heightMm: height * mm,
    ...(groundColour === undefined ? {} : { ground: groundColour }),
  };
}

/** The picture as it is traced: uneven light taken off, flat areas calmed. */
export function cleanPicture(pixels: Pixels, clean: 'auto' | 'none' = 'auto'): Pixels {
  check(pixels);
  const { plane } = prepare(pixels, clean);
  const data = new Uint8ClampedArray(pixels.data);
  for (let i = 0; i < plane.width * plane.height; i++) for (let c = 0; c < 3; c++) data[4 * i + c] = plane.rgb[3 * i + c] as number;
  return { width: plane.width, height: plane.height, data };
}

/** Colours that a picture is proposed to be traced in, most used first. */
export function proposeColours(pixels: Pixels, options: { max?: number } = {}): { hex: string; share: number }[] {
  check(pixels);
  const prepared = prepare(pixels, 'auto');
  return paletteFor(prepared, options.max).map(({ hex, share }) => ({ hex, share }));
}
