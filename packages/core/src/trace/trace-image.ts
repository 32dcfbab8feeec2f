/**
 * A picture to flat coloured outlines: colours found, each pixel taken apart into shares of two of them, regions as a
 * graph of shared edges, edges fitted once. The parts and their sources are told in their own files and in
 * docs/tracing.md. Units: pixels until the end, then mm with y up.
 */
import type { Control, Outline } from '../types/index.ts';
import { CancelledError, InputError, LimitError } from '../errors/index.ts';
import { contourArea, reverseContour } from '../geometry/outline.ts';
import { mapOutline, translation } from '../geometry/transform.ts';
import { colourOf, indexOfColour, type FlatColour } from './palette.ts';
import { enlarged, followEnlarged, followingOf, isTaken, prepare, type Following, type Prepared } from './prepare.ts';
import { lightAt, pixelsOf, planeOf, softened, type Pixels, type Plane } from './pixels.ts';
import type { FitSettings } from './corners.ts';
import { buildGraph, OUTSIDE } from './graph.ts';
import { Evidence } from './evidence.ts';
import { TraceMemory } from './memory.ts';
import { isSharp, takenApart, type TakenApart } from './take-apart.ts';
import { paletteFor } from './find-colours.ts';
import { layersOf, type Layer } from './layers.ts';
import { madeSolid } from './half-clear.ts';
import { atOwnSize, type OwnSize } from './own-size.ts';
import { withoutThirds } from './subpixel.ts';
import { retouch, type Retouch } from './retouch.ts';
import type { Shares } from './shares.ts';
import { spread, twoToned, type Threshold } from './single.ts';
import { centreLines } from './centre-line.ts';
import { withoutCrossings } from './crossings.ts';
import { silhouettePlane } from './silhouette.ts';

/** What the user asks of a trace; what is absent is found from the picture. */
export interface TraceOptions {
  /** By its colours; what is dark as one colour; the middle of dark lines, as open outlines. */
  readonly mode: 'colours' | 'single' | 'centre';
  /** Of `single` and `centre`: what is dark. Found from the picture when absent. */
  readonly threshold?: Threshold;
  /** Colours that are to be one: each pair's first goes into its second, `#rrggbb` of the palette. */
  readonly merge?: readonly (readonly [string, string])[];
  /** How many colours at most, or which; found by itself when absent. */
  readonly colours?: number | readonly string[];
  /** How far colours of the palette reach, ΔE (CIEDE2000): pixels within are wholly theirs. */
  readonly reaches?: readonly (readonly [string, number])[];
  /** Colours that are not wanted, `#rrggbb`. */
  readonly leaveOut?: readonly string[];
  readonly stacking: 'inlaid' | 'overlaid';
  /** 0 keeps every bend, 1 smooths most. */
  readonly smoothness?: number;
  readonly cornerDeg?: number;
  readonly smallestPx?: number;
  readonly pixelMm?: number;
  /** Overlaid: how far a colour runs on under one above that it only meets, mm; none when absent. */
  readonly trapMm?: number;
  /** Of `single`: false fills the holes. */
  readonly holes?: boolean;
  /** As the picture needs, not at all, or first the steps that are given and then as it needs. */
  readonly clean?: Retouch | 'auto' | 'none';
  /** Also give the picture as it was traced. */
  readonly withCleaned?: boolean;
  /** For a first look: fine pictures are not enlarged, which takes a fraction of the time. */
  readonly quick?: boolean;
}

/** The outline of all parts of one colour. */
export interface TracedLayer {
  readonly hex: string;
  readonly outline: Outline;
}

/** A traced picture, mm. */
export interface Traced {
  readonly layers: readonly TracedLayer[];
  readonly widthMm: number;
  readonly heightMm: number;
  readonly cleaned?: Pixels;
  /** The ground's colour when it reaches round the picture and is left out. */
  readonly ground?: string;
}

const MOST_PIXELS = 50_000_000;

/** A lighter colour with so much of the frame says that a darker one that has most of it is no ground but runs out of the picture. */
const LIGHTER_SHARE = 0.1;

/** The label that most of the frame has, when it has most of it, and nothing lighter is seen there. */
function groundOf(labels: Uint8Array, width: number, height: number, palette: readonly FlatColour[]): number | undefined {
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
  const light = (k: number): number => palette[k]?.lab[0] ?? 0;
  const isDarker = [...votes].some(([other, share]) => share > LIGHTER_SHARE * all && light(other) > light(label));
  return count > 0.6 * all && !isDarker ? label : undefined;
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

/** Dark on light. */
const SINGLE = [colourOf('#000000'), colourOf('#ffffff')];
const SINGLE_GROUND = 1;

function prepareTwoToned(pixels: Pixels, { clean, threshold }: TraceOptions): Prepared {
  const prepared = prepare(pixels, clean === 'none' ? 'none' : 'auto');
  const [one, other] = prepared.two ?? [];
  if (one && other) {
    const [dark = one, light = other] = [one, other].sort((a, b) => a.lab[0] - b.lab[0]);
    // steps stay known as steps; any level between the two tells them apart
    const isBetween = typeof threshold !== 'number' || (threshold > lightness(dark) && threshold <= lightness(light));
    const raw = isBetween ? spread(prepared.raw, lightness(dark), lightness(light)) : undefined;
    if (raw) return { ...prepared, plane: softened(raw), raw };
  }
  const plane = twoToned(prepared.plane, threshold ?? 'auto');
  return { ...prepared, plane, raw: plane, two: undefined };
}

const lightness = ({ rgb: [r, g, b] }: FlatColour): number => lightAt(r, g, b);

const SHORTEST_LINE_PX = 4;

function traceCentre(plane: Plane, times: number, options: TraceOptions): Traced {
  const { width, height } = plane;
  const mm = (options.pixelMm ?? 1) / times;
  const lines = centreLines(plane, {
    tolPx: times * 0.8 * (0.5 + (options.smoothness ?? 0.5)),
    cornerDeg: options.cornerDeg ?? 40,
    shortestPx: times * Math.max(SHORTEST_LINE_PX, Math.sqrt(options.smallestPx ?? 0)),
  });
  const outline = mapOutline([mm, 0, 0, -mm, 0, height * mm], lines);
  return {
    layers: outline.contours.length > 0 ? [{ hex: '#000000', outline }] : [],
    widthMm: width * mm,
    heightMm: height * mm,
    ground: '#ffffff',
  };
}

/** What the outline of what is seen in a picture is asked with. */
export interface SilhouetteOptions {
  /** How far the ground's colour reaches, ΔE. */
  readonly reach: number;
  /** The ground, wherever it is; when absent what is clear, or else what lies round the picture from its border inwards. */
  readonly ground?: string;
  readonly pixelMm?: number;
  /** False fills the holes. */
  readonly holes?: boolean;
}

/**
 * The outline of what stands on a picture's ground.
 * @returns mm, y up; empty when nothing is ground, or everything
 * @throws InputError `input.picture`, LimitError `limit.picture`
 */
export function silhouette(pixels: Pixels, { reach, ground, pixelMm = 1, holes = true }: SilhouetteOptions): Outline {
  check(pixels);
  const plane = silhouettePlane(planeOf(withoutGround(pixels, reach, ground)));
  if (!plane) return { contours: [] };
  const { layers } = traceNow(pixelsOf(plane), { mode: 'single', threshold: 127.5, stacking: 'inlaid', clean: 'auto', pixelMm }, {});
  const contours = layers.flatMap(({ outline }) => outline.contours);
  return { contours: holes ? contours : contours.filter((contour) => contourArea(contour) > 0) };
}

function withoutGround(pixels: Pixels, reach: number, ground: string | undefined): Pixels {
  if (ground !== undefined) return retouch(pixels, { clear: { hex: ground, reach } }).pixels;
  if (planeOf(pixels).alpha) return pixels;
  return retouch(pixels, { lift: { border: true, spots: [], reach, softPx: 0, strokes: [] } }).pixels;
}

/**
 * @param memory of this picture alone: what it kept of the last tracing is not worked out again where settings allow
 * @returns layers in painting order, lowest first
 * @throws InputError `input.picture`, `input.threshold`, LimitError `limit.picture`, CancelledError
 */
export async function traceImage(pixels: Pixels, options: TraceOptions, control: Control = {}, memory?: TraceMemory): Promise<Traced> {
  // a refusal is the promise's, and a stop asked for at once comes through
  await Promise.resolve();
  return traceNow(pixels, options, control, memory);
}

type Step = (done: number, phase: string) => void;

/** A picture with its colours, each pixel taken apart: all that comes before edges are followed. */
interface Seen {
  readonly prepared: Prepared;
  readonly plane: Plane;
  /** Pixels of `plane` are so many times smaller than the picture's. */
  readonly times: number;
  readonly following: Following;
  readonly palette: readonly FlatColour[];
  readonly apart: TakenApart;
  /** At the picture's own size, to ask it what edges explain. */
  readonly own: Shares;
}

function prepareFor(pixels: Pixels, options: TraceOptions, step: Step): { prepared: Prepared; plane: Plane; times: number } {
  const prepared =
    options.mode === 'colours'
      ? prepare(pixels, options.clean === 'none' ? 'none' : 'auto', (share) => step(share, 'cleaning'))
      : prepareTwoToned(pixels, options);
  const { plane, times } = options.clean === 'none' || options.quick ? { plane: prepared.plane, times: 1 } : enlarged(prepared);
  return { prepared, plane, times };
}

function lookAt(pixels: Pixels, options: TraceOptions, step: Step, memory: TraceMemory): Seen {
  const { mode, clean, threshold, quick, colours, merge, reaches, smallestPx } = options;
  const ofPicture = [mode, clean, threshold, quick];
  const { prepared, plane, times } = memory.recall('prepared', ofPicture, () => prepareFor(pixels, options, step));
  step(1, 'finding the colours');
  const palette = mode === 'colours' ? memory.recall('palette', [ofPicture, colours], () => paletteFor(prepared, colours)) : SINGLE;
  step(2, 'taking pixels apart');
  const following = followEnlarged(followingOf(prepared), times);
  return memory.recall('apart', [ofPicture, colours, merge, reaches, smallestPx], () => {
    const apart = takenApart({ plane, palette, following, times }, { ...options, stepped: prepared.stepped }, (share) =>
      step(2 + share, 'taking pixels apart'),
    );
    const asItIs = { plane: prepared.plane, palette, following: followingOf(prepared), times: 1 };
    const own = times === 1 ? apart.shares : takenApart(asItIs, options).shares;
    return { prepared, plane, times, following, palette, apart, own };
  });
}

function traceNow(pixels: Pixels, options: TraceOptions, control: Control, memory = new TraceMemory()): Traced {
  check(pixels);
  if (typeof options.clean === 'object') {
    const { pixels: retouched, scale } = retouch(pixels, options.clean);
    return traceNow(retouched, { ...options, clean: 'auto', pixelMm: (options.pixelMm ?? 1) / scale }, control);
  }
  if (options.clean !== 'none') {
    const own = memory.recall('own size', [options.mode], () => {
      const plain = options.mode === 'colours' ? madeSolid(withoutThirds(pixels)) : pixels;
      return atOwnSize(plain, isTakenPicture);
    });
    if (own.times > 1 || own.pixels !== pixels)
      return fromOwnSize(pixels, own, options, traceAsItIs(own.pixels, ofOwnSize(own, options), control, memory));
  }
  return traceAsItIs(pixels, options, control, memory);
}

/** At the size that it has. */
function traceAsItIs(pixels: Pixels, options: TraceOptions, control: Control, memory: TraceMemory): Traced {
  const step: Step = (done, phase) => {
    if (control.signal?.aborted) throw new CancelledError();
    control.onProgress?.(done, 5, phase);
  };
  step(0, 'cleaning');
  if (options.mode === 'centre') {
    const { prepared, plane, times } = prepareFor(pixels, options, step);
    return { ...traceCentre(plane, times, options), ...cleanedOf(prepared, options) };
  }
  const { prepared, plane, times, following, palette, apart, own } = lookAt(pixels, options, step, memory);
  const { shares, labels, clear } = apart;
  const ground = options.mode === 'colours' ? (clear ?? groundOf(labels, plane.width, plane.height, palette)) : SINGLE_GROUND;
  const outside = ground ?? OUTSIDE;
  step(3, 'following the edges');
  const graph = buildGraph(shares, labels, outside, isSharp(following, times), (share) => step(3 + share / 2, 'following the edges'));
  const evidence = new Evidence(graph, own, outside, times, followingOf(prepared).calm > 0);
  step(4, 'fitting lines and curves');
  const mm = (options.pixelMm ?? 1) / times;
  const layers = layersOf(
    graph,
    Array.from({ length: palette.length + (clear === undefined ? 0 : 1) }, (_, k) => k),
    {
      stacking: options.stacking,
      fit: fitOf(following, options, palette),
      without: unwanted(palette, options.leaveOut ?? [], ground),
      evidence,
      trapPx: (options.trapMm ?? 0) / mm,
      onShare: (share) => step(4 + share, 'fitting lines and curves'),
      labelAt: (x, y) => labels[Math.floor(y) * plane.width + Math.floor(x)] ?? OUTSIDE,
    },
  );
  step(5, 'done');
  // what is clear has no colour
  const groundColour = palette[ground ?? -1]?.hex;
  return {
    ...inMm(layers, palette, plane, mm, options),
    ...cleanedOf(prepared, options),
    ...(groundColour === undefined ? {} : { ground: groundColour }),
  };
}

/** A picture without what enlarging added to it, for looks at less than its full size; itself when nothing did. */
export const ownSizeOf = (pixels: Pixels): OwnSize => atOwnSize(pixels, isTakenPicture);

const isTakenPicture = (pixels: Pixels): boolean => isTaken(planeOf(pixels));

const ofOwnSize = ({ times }: OwnSize, options: TraceOptions): TraceOptions => ({
  ...options,
  pixelMm: (options.pixelMm ?? 1) * times,
  ...(options.smallestPx === undefined ? {} : { smallestPx: options.smallestPx / times ** 2 }),
});

/** Outlines of a picture at its own size where they lie on the picture as it came: its last row may reach beyond. */
function fromOwnSize(whole: Pixels, { pixels, times }: OwnSize, { pixelMm = 1 }: TraceOptions, traced: Traced): Traced {
  const up = (whole.height - pixels.height * times) * pixelMm;
  return {
    ...traced,
    layers: traced.layers.map(({ hex, outline }) => ({ hex, outline: mapOutline(translation(0, up), outline) })),
    widthMm: whole.width * pixelMm,
    heightMm: whole.height * pixelMm,
  };
}

const cleanedOf = (prepared: Prepared, { withCleaned }: TraceOptions): Pick<Traced, 'cleaned'> =>
  withCleaned ? { cleaned: pixelsOf(prepared.plane) } : {};

/** Edges between colours less apart than this waver, levels (Euclidean); so many times as much at most. */
const WAVERS_BELOW = 120;
const MOST_WAVERS = 2.4;

const fitOf = (
  following: Following,
  { smoothness = 0.5, cornerDeg = following.cornerDeg }: TraceOptions,
  palette: readonly FlatColour[],
): FitSettings => ({
  ...following,
  tol: following.tol * (0.5 + smoothness),
  cornerDeg,
  wavers: (left, right) => {
    const [a, b] = [palette[left]?.rgb, palette[right]?.rgb];
    if (!a || !b) return 1;
    return Math.min(MOST_WAVERS, WAVERS_BELOW / Math.max(1, Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])));
  },
});

/** Labels that make no layer: colours that are left out, and the ground. */
function unwanted(palette: readonly FlatColour[], leaveOut: readonly string[], ground: number | undefined): Set<number> {
  const out = new Set(leaveOut.map((hex) => indexOfColour(palette, hex)));
  if (ground !== undefined) out.add(ground);
  return out;
}

function inMm(
  layers: readonly Layer[],
  palette: readonly FlatColour[],
  { width, height }: Plane,
  mm: number,
  { mode, holes = true }: TraceOptions,
): Traced {
  const outlineOf = (layer: Layer): Outline => {
    const { contours } = withoutCrossings(upright(layer.outline, mm, height), mm);
    return { contours: holes || mode !== 'single' ? contours : contours.filter((contour) => contourArea(contour) > 0) };
  };
  return {
    layers: layers
      .filter(({ outline }) => outline.contours.length > 0)
      .map((layer) => ({ hex: palette[layer.label]?.hex ?? '#000000', outline: outlineOf(layer) })),
    widthMm: width * mm,
    heightMm: height * mm,
  };
}

/**
 * The picture as it is traced: the steps that are given, uneven light taken off, flat areas calmed.
 * @throws InputError `input.picture`, LimitError `limit.picture`, CancelledError
 */
export async function cleanPicture(pixels: Pixels, steps: Retouch | 'auto' | 'none' = 'auto', control: Control = {}): Promise<Pixels> {
  await Promise.resolve();
  check(pixels);
  if (control.signal?.aborted) throw new CancelledError();
  const isSteps = typeof steps === 'object';
  return pixelsOf(prepare(isSteps ? retouch(pixels, steps).pixels : pixels, isSteps ? 'auto' : steps).plane);
}

/**
 * Colours that a picture is proposed to be traced in, most used first.
 * @param options at most so many colours
 */
export function proposeColours(pixels: Pixels, options: { max?: number } = {}): { hex: string; share: number }[] {
  check(pixels);
  const prepared = prepare(pixels, 'auto');
  return paletteFor(prepared, options.max).map(({ hex, share }) => ({ hex, share }));
}
