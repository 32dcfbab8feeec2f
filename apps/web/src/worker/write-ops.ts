/** Drawings to files, for the worker: vector formats, pictures at a resolution, proof and work ticket. */
import { AppError, InputError } from '@lorvek/core';
import { mapGradient } from '@lorvek/core/colour';
import { bounds, formatPath, mapBox, mapOutline, type Matrix, type Point } from '@lorvek/core/geometry';
import { textMeasure, withResolution, writePdfPages, type PdfPicture } from '@lorvek/core/format';
import { bleedsOf, type Bleed } from '@lorvek/model/bleeds';
import { artworkOf, writeArtwork, type FileFormat, type Scope, type WrittenPicture } from '@lorvek/model/export-artwork';
import { fittingPages } from '@lorvek/model/fitting-plan';
import { proofPages, ticketPages, type MeasuredLine } from '@lorvek/model/proof-and-ticket';
import { fillGradient } from '../drawing/gradients.ts';
import {
  isUnknown,
  leavesOf,
  pageOf,
  type Drawing,
  type Job,
  type KnownOf,
  type PictureItem,
  type ShopSettings,
  type StockFilm,
} from '@lorvek/model';
import { builtJob, layingSteps } from '@lorvek/model/build-plan';
import { jobCost } from '@lorvek/model/job-cost';
import { sheetsOf, type PiecesOf } from '@lorvek/model/plan-sheet';

export type WrittenKind = FileFormat | 'png' | 'proof' | 'ticket' | 'fitting-plan';

export interface WriteAsked {
  readonly kind: WrittenKind;
  readonly drawing: Drawing;
  readonly scope: Scope;
  readonly job: Pick<Job, 'id' | 'name' | 'customer' | 'dueOn' | 'revision'>;
  readonly settings: ShopSettings;
  readonly stock: readonly StockFilm[];
  readonly dimensions: readonly MeasuredLine[];
  readonly dpi: number;
  readonly today: string;
}

const MOST_PIXELS = 100_000_000;

const picturesOf = (drawing: Drawing): PictureItem[] => leavesOf(drawing).filter((leaf): leaf is PictureItem => leaf.kind === 'picture');

const assetOf = async (item: PictureItem): Promise<Blob> => (await fetch(`/api/assets/${encodeURIComponent(item.asset)}`)).blob();

/** The picture as it is shown: only within its clipping outline, when it has one. */
async function bitmapOf(item: PictureItem): Promise<ImageBitmap> {
  const bitmap = await createImageBitmap(await assetOf(item));
  if (!item.clip) return bitmap;
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = canvas.getContext('2d');
  if (!context) throw new AppError('picture', 'This browser cannot clip so large a picture.');
  const within = new Path2D();
  within.addPath(new Path2D(item.clip), new DOMMatrix([1, 0, 0, -1, 0, bitmap.height]));
  context.clip(within, 'evenodd');
  context.drawImage(bitmap, 0, 0);
  return canvas.transferToImageBitmap();
}

/** From the unit square to the drawing. */
function unitMap({ matrix, widthPx, heightPx, mmPerPx }: PictureItem): Matrix {
  const [a, b, c, d, e, f] = matrix;
  const [w, h] = [widthPx * mmPerPx, heightPx * mmPerPx];
  return [a * w, b * w, c * h, d * h, e, f];
}

/** A picture as PNG, no larger than a proof needs. */
async function proofBytes(bitmap: ImageBitmap, strength: number): Promise<Uint8Array> {
  const k = Math.min(1, 1600 / Math.max(bitmap.width, bitmap.height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(bitmap.width * k)), Math.max(1, Math.round(bitmap.height * k)));
  const context = canvas.getContext('2d');
  if (context) context.globalAlpha = strength;
  context?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  return new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer());
}

/** Pictures of the proof, what is carried outward of them lowest. */
async function proofPictures(drawing: Drawing, bleeds: readonly Bleed[]): Promise<PdfPicture[]> {
  const items = picturesOf(drawing);
  const carried = bleeds.flatMap(({ art }) => art.flatMap((item) => (item.kind === 'picture' ? [item] : [])));
  const pixels = new Map<string, Uint8Array>();
  for (const item of items)
    if (carried.some(({ picture }) => picture === item.asset) && !pixels.has(item.asset))
      pixels.set(item.asset, await proofBytes(await createImageBitmap(await assetOf(item)), 1));
  const own = await Promise.all(
    items.map(async (item) => ({ bytes: await proofBytes(await bitmapOf(item), item.strengthPct / 100), matrix: unitMap(item) })),
  );
  const under = carried.flatMap(({ picture, matrix, clip }): PdfPicture[] => {
    const bytes = pixels.get(picture);
    return bytes ? [{ bytes, matrix, ...(clip ? { clip } : {}) }] : [];
  });
  return [...under, ...own];
}

/** Pictures in scope as they will lie in a file: PNG and JPEG as they are kept, others and clipped ones as PNG. */
async function filePictures(drawing: Drawing, scope: Scope, origin: Point): Promise<WrittenPicture[]> {
  if (scope.film !== undefined) return [];
  const chosen = scope.ids && new Set(leavesOf(drawing, scope.ids).map((leaf) => leaf.id));
  const items = picturesOf(drawing).filter((item) => !item.hidden && (!chosen || chosen.has(item.id)));
  return Promise.all(
    items.map(async (item) => {
      const kept = await assetOf(item);
      const blob = !item.clip && /^image\/(png|jpeg)$/.test(kept.type) ? kept : await asPng(await bitmapOf(item));
      const [a, b, c, d, e, f] = unitMap(item);
      const bytes = new Uint8Array(await blob.arrayBuffer());
      return {
        bytes,
        bytesBase64: toBase64(bytes),
        type: blob.type,
        matrix: [a, b, c, d, e - origin.x, f - origin.y],
      };
    }),
  );
}

function asPng(bitmap: ImageBitmap): Promise<Blob> {
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  canvas.getContext('2d')?.drawImage(bitmap, 0, 0);
  return canvas.convertToBlob({ type: 'image/png' });
}

function toBase64(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

async function png({ drawing, scope, dpi }: WriteAsked, piecesOf: PiecesOf): Promise<Uint8Array> {
  const art = artworkOf(drawing, scope, piecesOf);
  const k = dpi / 25.4;
  const [width, height] = [Math.max(1, Math.round(art.widthMm * k)), Math.max(1, Math.round(art.heightMm * k))];
  if (width * height > MOST_PIXELS || Math.max(width, height) > 30_000)
    throw new AppError('limit.picture', `That is ${width} by ${height} pixels; 100 million are the most. Choose fewer dots an inch.`);
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d');
  if (!context) throw new AppError('picture', 'This browser cannot paint so large a picture.');
  const isWhole = scope.ids === undefined && scope.film === undefined;
  if (isWhole) {
    context.fillStyle = pageOf(drawing).surface.hex;
    context.fillRect(0, 0, width, height);
    for (const item of picturesOf(drawing)) {
      const [a, b, c, d, e, f] = unitMap(item);
      context.save();
      context.globalAlpha = item.strengthPct / 100;
      context.setTransform(a * k, -b * k, c * k, -d * k, e * k, height - f * k);
      context.transform(1, 0, 0, -1, 0, 1);
      context.drawImage(await bitmapOf(item), 0, 0, 1, 1);
      context.restore();
    }
  }
  const toPx: Matrix = [k, 0, 0, -k, 0, height];
  for (const item of art.items) {
    const path = new Path2D(formatPath(mapOutline(toPx, item.outline), 3));
    if (item.fill) {
      context.fillStyle = item.fill;
      context.fill(path);
      if (item.gradient) fillGradient(context, path, mapGradient(toPx, item.gradient), mapBox(toPx, bounds(item.outline)));
    }
    if (item.stroke) {
      context.strokeStyle = item.stroke.hex;
      context.lineWidth = Math.max(1, item.stroke.widthMm * k);
      context.stroke(path);
    }
  }
  return withResolution(new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer()), k);
}

/** Pieces for what is written to a file. @throws InputError `input.unknown` at an item that could not be worked out */
function piecesForWriting(knownOf: KnownOf): PiecesOf {
  return (item) => {
    const known = knownOf(item);
    if (isUnknown(known)) throw new InputError('unknown', `“${item.name}” would be missing from the file: ${known.why}`);
    return known.pieces;
  };
}

/** @throws AppError when nothing is in scope, or it is too large for the format */
export async function writeOut(asked: WriteAsked, knownOf: KnownOf): Promise<Uint8Array> {
  const piecesOf = piecesForWriting(knownOf);
  const { kind, drawing, scope, job } = asked;
  if (kind === 'png') return png(asked, piecesOf);
  if (kind === 'fitting-plan') {
    const pages = fittingPages({
      drawing,
      job,
      piecesOf,
      pictures: await proofPictures(drawing, []),
      sheets: sheetsOf(drawing, asked.stock, knownOf, job.id, { withChecks: false, jobName: job.name }),
      measure: await textMeasure(),
      today: asked.today,
    });
    if (pages.length === 0) throw new InputError('panels', 'Nothing of this job is laid up in panels. Choose Panels on Lay up first.');
    return writePdfPages(pages, `Fitting plan: ${job.name}`);
  }
  if (kind === 'proof' || kind === 'ticket') {
    const bleeds = kind === 'proof' ? bleedsOf(drawing, knownOf) : [];
    const input = {
      drawing,
      job,
      piecesOf,
      dimensions: asked.dimensions,
      pictures: kind === 'proof' ? await proofPictures(drawing, bleeds) : [],
      bleeds,
      stock: asked.stock,
      steps: layingSteps(drawing, builtJob(drawing, asked.stock, knownOf, false)),
      cost: jobCost(sheetsOf(drawing, asked.stock, knownOf, job.id, { withChecks: false }), asked.stock, asked.settings),
      settings: asked.settings,
      measure: await textMeasure(),
      today: asked.today,
    };
    return kind === 'proof'
      ? writePdfPages(proofPages(input), `Proof: ${job.name}`)
      : writePdfPages(ticketPages(input), `Work ticket: ${job.name}`);
  }
  const art = artworkOf(drawing, scope, piecesOf);
  const pictures = kind === 'svg' || kind === 'pdf' ? await filePictures(drawing, scope, art.origin) : [];
  return writeArtwork(art, kind, job.name, pictures);
}
