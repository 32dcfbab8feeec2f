/** Tracing of a kept picture: at screen size while settings change, in full when it is placed. */
import { AppError } from '@lorvek/core';
import { bounds, formatPath, mapOutline, nodeCount, translation } from '@lorvek/core/geometry';
import {
  ownSizeOf,
  retouch,
  silhouette,
  traceImage,
  TraceMemory,
  type Pixels,
  type Retouched,
  type TraceOptions,
} from '@lorvek/core/trace';
import type { TraceSettings } from '@lorvek/model';
import type { PictureHost, Tell } from './host.ts';

/** A picture, and how it is to be traced. */
export interface TraceAsked {
  readonly asset: string;
  readonly settings: TraceSettings;
  /** Size of one of the picture's pixels on the drawing. */
  readonly mmPerPx: number;
  /** Longest side that is traced, pixels. */
  readonly mostPx: number;
  /** Also give the cleaned picture. */
  readonly withCleaned: boolean;
  /** A first look, as fast as it can be had. */
  readonly quick?: boolean;
}

export type SilhouetteAsked = Omit<TraceAsked, 'withCleaned' | 'mmPerPx'>;

/** What was found, in the picture's own pixels, y up. */
export interface TraceAnswer {
  readonly layers: readonly { readonly hex: string; readonly parts: readonly TracedPart[] }[];
  /** Size of the frame that the paths lie in, y up: the picture's own pixels. */
  readonly widthPx: number;
  readonly heightPx: number;
  /** Where that frame's lower left corner lies on the picture. */
  readonly originX: number;
  readonly originY: number;
  readonly ground: string | undefined;
  readonly nodes: number;
  /** Share of the picture as it came that is not wholly solid. */
  readonly clearShare: number;
  /** The outlines are lines to follow, not shapes. */
  readonly lines: boolean;
  readonly cleaned: Pixels | undefined;
}

/** An outline of one colour, and where its box begins. */
export interface TracedPart {
  readonly path: string;
  readonly x: number;
  readonly y: number;
}

/** Pixels that are traced at most; larger pictures are made smaller first. */
const MOST_TRACED = 45_000_000;

interface Sized {
  readonly pixels: Pixels;
  readonly scale: number;
  readonly width: number;
  readonly height: number;
}

/** In pictures of more pixels it is not looked for what they were enlarged from when they are only looked at. */
const MOST_ASKED = 8_000_000;
/** What a picture was enlarged from is looked at as it is when it is no larger than this, times what was asked. */
const SOMEWHAT_LARGER = 1.6;

/** @param plain as the picture is; else one that was enlarged is not made smaller by less than it was enlarged by */
async function pixelsOf(asset: string, { pictures }: PictureHost, mostPx: number, plain: boolean): Promise<Sized> {
  const picture = await pictures.open(asset);
  try {
    const { width, height } = picture;
    const scale = Math.min(1, mostPx / Math.max(width, height), Math.sqrt(MOST_TRACED / (width * height)));
    if (scale < 1 && !plain && width * height <= MOST_ASKED) {
      const { pixels, times } = ownSizeOf(picture.pixels(width, height));
      if (times > 1 && Math.max(pixels.width, pixels.height) <= SOMEWHAT_LARGER * mostPx)
        return { pixels, scale: 1 / times, width, height };
    }
    const [w, h] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))];
    return { pixels: picture.pixels(w, h), scale: w / width, width, height };
  } finally {
    picture.close();
  }
}

/** Pictures of screen size are kept with what was worked out of them, so that the next change of settings comes soon. */
const KEPT_PX = 1000;
const MOST_KEPT = 4;

/** The last few of what was made, by their keys; what failed is made again. */
class Shelf<T> {
  private readonly kept = new Map<string, T>();

  of(key: string, make: () => T): T {
    const value = this.kept.get(key) ?? make();
    this.kept.delete(key);
    this.kept.set(key, value);
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= MOST_KEPT) break;
      this.kept.delete(oldest);
    }
    return value;
  }

  drop(key: string): void {
    this.kept.delete(key);
  }
}

const sizedPictures = new Shelf<Promise<Sized>>();
const memories = new Shelf<TraceMemory>();

function keptPixelsOf(asset: string, host: PictureHost, mostPx: number, plain: boolean): Promise<Sized> {
  if (mostPx > KEPT_PX) return pixelsOf(asset, host, mostPx, true);
  const key = `${asset} ${mostPx} ${plain}`;
  const sized = sizedPictures.of(key, () => pixelsOf(asset, host, mostPx, plain));
  sized.catch(() => sizedPictures.drop(key));
  return sized;
}

/** What was worked out before of the same picture, at screen size only. */
const memoryOf = ({ asset, settings, mostPx }: Pick<TraceAsked, 'asset' | 'settings' | 'mostPx'>): TraceMemory | undefined =>
  mostPx > KEPT_PX ? undefined : memories.of(JSON.stringify([asset, mostPx, settings.clean, settings.retouch]), () => new TraceMemory());

const SOLID = 250;

/** Share of pixels that something shows through. */
function clearShareOf({ data }: Pixels): number {
  let clear = 0;
  for (let i = 3; i < data.length; i += 4) if ((data[i] ?? 0) < SOLID) clear++;
  return clear / Math.max(1, data.length / 4);
}

/** All pixels of a picture. @throws AppError `limit.picture` for one that is too large for tracing */
export async function fullPixelsOf(asset: string, host: PictureHost): Promise<Pixels> {
  const { pixels, scale } = await pixelsOf(asset, host, Infinity, true);
  if (scale < 1) throw new AppError('limit.picture', 'The picture is too large for this. Make it smaller first.');
  return pixels;
}

/** The picture at a size, with what is done to it by hand. */
async function workedOn(
  { asset, settings, mostPx }: Pick<TraceAsked, 'asset' | 'settings' | 'mostPx'>,
  host: PictureHost,
): Promise<Retouched & { readonly perSource: number; readonly sourceHeight: number; readonly clearShare: number }> {
  const { pixels, scale, height } = await keptPixelsOf(asset, host, mostPx, settings.clean === 'none');
  const clearShare = clearShareOf(pixels);
  const done = retouch(pixels, settings.retouch ?? {});
  return { ...done, perSource: scale * done.scale, sourceHeight: height, clearShare };
}

/** The frame of a worked-on picture on the picture it was made from, its own pixels, y up. */
function frameOf({ pixels, originX, originY, perSource, scale, sourceHeight }: Awaited<ReturnType<typeof workedOn>>): {
  widthPx: number;
  heightPx: number;
  originX: number;
  originY: number;
} {
  const [widthPx, heightPx] = [pixels.width / perSource, pixels.height / perSource];
  const down = (originY * scale) / perSource;
  return { widthPx, heightPx, originX: (originX * scale) / perSource, originY: sourceHeight - down - heightPx };
}

/** Settings as the tracer takes them: in the pixels that are traced. */
export function optionsOf(settings: TraceSettings, perSource: number, mmPerPx: number): TraceOptions {
  const { named = [], merged = [], reaches = [], mode = 'colours', threshold, trapMm } = settings;
  return {
    mode,
    ...(threshold === undefined ? {} : { threshold }),
    ...(named.length > 0 ? { colours: named } : settings.colours === null ? {} : { colours: settings.colours }),
    merge: merged,
    reaches,
    leaveOut: settings.leaveOut,
    stacking: settings.stacking,
    smoothness: settings.smoothness,
    cornerDeg: settings.cornerDeg,
    ...(settings.smallestPx === null ? {} : { smallestPx: settings.smallestPx * perSource * perSource }),
    // outlines come in the picture's own pixels here
    ...(trapMm === undefined ? {} : { trapMm: trapMm / mmPerPx }),
    ...(settings.holes === false ? { holes: false } : {}),
    clean: settings.clean,
    pixelMm: 1 / perSource,
  };
}

/** @throws AppError of the tracer */
export async function traceAsset(
  { asset, settings, mmPerPx, mostPx, withCleaned, quick = false }: TraceAsked,
  host: PictureHost,
  tell: Tell,
): Promise<TraceAnswer> {
  const worked = await workedOn({ asset, settings, mostPx }, host);
  const traced = await traceImage(
    worked.pixels,
    { ...optionsOf(settings, worked.perSource, mmPerPx), withCleaned, quick },
    {
      onProgress: (done, total) => tell(done / total),
    },
    memoryOf({ asset, settings, mostPx }),
  );
  let nodes = 0;
  const layers = traced.layers.map(({ hex, outline }) => {
    const { minX, minY } = bounds(outline);
    nodes += nodeCount(outline);
    return { hex, parts: [{ path: formatPath(mapOutline(translation(-minX, -minY), outline), 4), x: minX, y: minY }] };
  });
  return {
    layers,
    ...frameOf(worked),
    ground: traced.ground,
    nodes,
    clearShare: worked.clearShare,
    lines: settings.mode === 'centre',
    cleaned: traced.cleaned,
  };
}

/** Of a ground that nothing is said of, ΔE. */
const USUAL_REACH = 12;

/** The outline of what stands on a picture's ground, its own pixels, y up; empty when there is none. */
export async function silhouetteOf(asked: SilhouetteAsked, host: PictureHost): Promise<string> {
  const { settings } = asked;
  const worked = await workedOn(asked, host);
  const { originX, originY } = frameOf(worked);
  const reach = settings.retouch?.lift?.reach ?? USUAL_REACH;
  const outline = silhouette(worked.pixels, { reach, pixelMm: 1 / worked.perSource, holes: false });
  return formatPath(mapOutline(translation(originX, originY), outline), 3);
}
