/** Pictures as a browser's worker reads and paints them, for computations. */
import { AppError } from '@lorvek/core';
import { picturesUnder } from '@lorvek/core/format';
import { bounds, formatPath } from '@lorvek/core/geometry';
import type { OpenPicture, Painting, PictureHost } from '@lorvek/computations';
import type { PictureItem } from '@lorvek/model';
import { fillGradient } from '../drawing/gradients.ts';

async function assetOf(asset: string): Promise<Blob> {
  const response = await fetch(`/api/assets/${encodeURIComponent(asset)}`).catch(() => undefined);
  if (!response?.ok) throw new AppError('offline', 'A picture could not be fetched from the server. Try again when it is back.');
  return response.blob();
}

/** @throws AppError `limit.picture` */
function canvasOf(width: number, height: number): { canvas: OffscreenCanvas; context: OffscreenCanvasRenderingContext2D } {
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new AppError('limit.picture', 'The picture is too large for this browser.');
  return { canvas, context };
}

const png = async (canvas: OffscreenCanvas): Promise<Uint8Array> =>
  new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer());

async function open(asset: string): Promise<OpenPicture> {
  const bitmap = await createImageBitmap(await assetOf(asset));
  return {
    width: bitmap.width,
    height: bitmap.height,
    pixels: (width, height) => {
      const { context } = canvasOf(width, height);
      context.imageSmoothingQuality = 'high';
      context.drawImage(bitmap, 0, 0, width, height);
      return { width, height, data: context.getImageData(0, 0, width, height).data };
    },
    close: () => bitmap.close(),
  };
}

/** The picture as it is shown: only within its clipping outline, when it has one. */
async function bitmapOf(item: PictureItem): Promise<ImageBitmap> {
  const bitmap = await createImageBitmap(await assetOf(item.asset));
  if (!item.clip) return bitmap;
  const { canvas, context } = canvasOf(bitmap.width, bitmap.height);
  const within = new Path2D();
  within.addPath(new Path2D(item.clip), new DOMMatrix([1, 0, 0, -1, 0, bitmap.height]));
  context.clip(within, 'evenodd');
  context.drawImage(bitmap, 0, 0);
  return canvas.transferToImageBitmap();
}

/** PNG and JPEG as they are kept, others and clipped ones as PNG. */
async function file(item: PictureItem): Promise<{ bytes: Uint8Array; type: string }> {
  const kept = await assetOf(item.asset);
  if (!item.clip && /^image\/(png|jpeg)$/.test(kept.type)) return { bytes: new Uint8Array(await kept.arrayBuffer()), type: kept.type };
  const bitmap = await bitmapOf(item);
  const { canvas, context } = canvasOf(bitmap.width, bitmap.height);
  context.drawImage(bitmap, 0, 0);
  return { bytes: await png(canvas), type: 'image/png' };
}

/** A proof needs no more along the longest side, pixels. */
const SMALL_PX = 1600;

async function small(item: PictureItem | string, strength: number): Promise<Uint8Array> {
  const bitmap = typeof item === 'string' ? await createImageBitmap(await assetOf(item)) : await bitmapOf(item);
  const k = Math.min(1, SMALL_PX / Math.max(bitmap.width, bitmap.height));
  const { canvas, context } = canvasOf(Math.max(1, Math.round(bitmap.width * k)), Math.max(1, Math.round(bitmap.height * k)));
  context.globalAlpha = strength;
  context.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  return png(canvas);
}

async function painted({ widthPx, heightPx, ground, pictures, shapes }: Painting): Promise<Uint8Array> {
  const { canvas, context } = canvasOf(widthPx, heightPx);
  if (ground !== undefined) {
    context.fillStyle = ground;
    context.fillRect(0, 0, widthPx, heightPx);
  }
  const paint = async (some: Painting['pictures']): Promise<void> => {
    for (const { item, matrix, strength } of some) {
      context.save();
      context.globalAlpha = strength;
      context.setTransform(...(matrix as [number, number, number, number, number, number]));
      context.transform(1, 0, 0, -1, 0, 1);
      context.drawImage(await bitmapOf(item), 0, 0, 1, 1);
      context.restore();
    }
  };
  for (const [i, { outline, fill, gradient, line }] of shapes.entries()) {
    await paint(picturesUnder(pictures, i, false));
    const path = new Path2D(formatPath(outline, 3));
    if (fill !== undefined) {
      context.fillStyle = fill;
      context.fill(path);
      if (gradient) fillGradient(context, path, gradient, bounds(outline));
    }
    if (line) {
      context.strokeStyle = line.hex;
      context.lineWidth = line.widthPx;
      context.stroke(path);
    }
  }
  await paint(picturesUnder(pictures, shapes.length, true));
  return png(canvas);
}

export const PAGE_PICTURES: PictureHost['pictures'] = { open, file, small, painted };
