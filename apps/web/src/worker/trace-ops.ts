/** Tracing of a kept picture, for the worker: at screen size while settings change, in full when it is placed. */
import { AppError } from '@lorvek/core';
import { bounds, formatPath, mapOutline, translation } from '@lorvek/core/geometry';
import { cleanPicture, traceImage, type Pixels } from '@lorvek/core/trace';
import type { TraceSettings } from '@lorvek/model';

export interface TraceAsked {
  readonly asset: string;
  readonly settings: TraceSettings;
  /** Longest side that is traced, pixels. */
  readonly mostPx: number;
  /** Also give the cleaned picture. */
  readonly withCleaned: boolean;
}

export interface TraceAnswer {
  readonly layers: readonly { readonly hex: string; readonly parts: readonly TracedPart[] }[];
  /** Size of the frame that the paths lie in, y up: the picture's own pixels. */
  readonly widthPx: number;
  readonly heightPx: number;
  readonly ground: string | undefined;
  readonly nodes: number;
  readonly cleaned: Pixels | undefined;
}

export interface TracedPart {
  readonly path: string;
  readonly x: number;
  readonly y: number;
}

const images = new Map<string, Promise<ImageBitmap>>();

function bitmapOf(asset: string): Promise<ImageBitmap> {
  let bitmap = images.get(asset);
  if (!bitmap) {
    bitmap = fetch(`/api/assets/${encodeURIComponent(asset)}`)
      .then((response) => response.blob())
      .then((blob) => createImageBitmap(blob));
    bitmap.catch(() => images.delete(asset));
    images.set(asset, bitmap);
  }
  return bitmap;
}

async function pixelsOf(asset: string, mostPx: number): Promise<{ pixels: Pixels; scale: number; width: number; height: number }> {
  const bitmap = await bitmapOf(asset);
  const scale = Math.min(1, mostPx / Math.max(bitmap.width, bitmap.height));
  const [w, h] = [Math.max(1, Math.round(bitmap.width * scale)), Math.max(1, Math.round(bitmap.height * scale))];
  const context = new OffscreenCanvas(w, h).getContext('2d', { willReadFrequently: true });
  if (!context) throw new AppError('limit.picture', 'The picture is too large for this browser.');
  context.imageSmoothingQuality = 'high';
  context.drawImage(bitmap, 0, 0, w, h);
  const { data } = context.getImageData(0, 0, w, h);
  return { pixels: { width: w, height: h, data }, scale: w / bitmap.width, width: bitmap.width, height: bitmap.height };
}

/** @throws AppError of the tracer */
export async function traceAsset({ asset, settings, mostPx, withCleaned }: TraceAsked): Promise<TraceAnswer> {
  const { pixels, scale, width, height } = await pixelsOf(asset, mostPx);
  const traced = await traceImage(pixels, {
    mode: 'colours',
    ...(settings.colours === null ? {} : { colours: settings.colours }),
    leaveOut: settings.leaveOut,
    stacking: settings.stacking,
    smoothness: settings.smoothness,
    cornerDeg: settings.cornerDeg,
    ...(settings.smallestPx === null ? {} : { smallestPx: settings.smallestPx * scale * scale }),
    clean: settings.clean,
    pixelMm: 1 / scale,
  });
  let nodes = 0;
  const layers = traced.layers.map(({ hex, outline }) => {
    const { minX, minY } = bounds(outline);
    nodes += outline.contours.reduce((sum, c) => sum + c.spans.length, 0);
    return { hex, parts: [{ path: formatPath(mapOutline(translation(-minX, -minY), outline), 4), x: minX, y: minY }] };
  });
  return {
    layers,
    widthPx: width,
    heightPx: height,
    ground: traced.ground,
    nodes,
    cleaned: withCleaned ? cleanPicture(pixels, settings.clean) : undefined,
  };
}
