/** Drawings to files: vector formats, pictures at a resolution, proof and work ticket. */
import { AppError, InputError } from '@lorvek/core';
import { mapGradient } from '@lorvek/core/colour';
import { compose, mapOutline, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { textMeasure, withResolution, writePdfPages, type PdfPicture } from '@lorvek/core/format';
import { bleedsOf, type Bleed } from '@lorvek/model/bleeds';
import { artworkOf, writeArtwork, type WrittenPicture } from '@lorvek/model/export-artwork';
import { fittingPages } from '@lorvek/model/fitting-plan';
import { proofPages, ticketPages, type MeasuredLine } from '@lorvek/model/proof-and-ticket';
import {
  isUnknown,
  picturesIn,
  pageOf,
  type Drawing,
  type FileFormat,
  type WrittenScope,
  type Job,
  type KnownOf,
  type PictureItem,
  type ShopSettings,
  type StockFilm,
} from '@lorvek/model';
import { builtJob, layingSteps } from '@lorvek/model/build-plan';
import { jobCost } from '@lorvek/model/job-cost';
import { sheetsOf, type PiecesOf } from '@lorvek/model/plan-sheet';
import type { PictureHost } from './host.ts';

/** What a drawing is written as. */
export type WrittenKind = FileFormat | 'png' | 'proof' | 'ticket' | 'fitting-plan';

/** What is written, of which part, for which job. */
export interface WriteAsked {
  readonly kind: WrittenKind;
  readonly drawing: Drawing;
  readonly scope: WrittenScope;
  readonly job: Pick<Job, 'id' | 'name' | 'customer' | 'dueOn' | 'revision'>;
  readonly settings: ShopSettings;
  readonly stock: readonly StockFilm[];
  readonly dimensions: readonly MeasuredLine[];
  readonly dpi: number;
  readonly today: string;
}

const MOST_PIXELS = 100_000_000;
const MOST_SIDE_PX = 30_000;

/** From the unit square to the drawing. */
function unitMap({ matrix, widthPx, heightPx, mmPerPx }: PictureItem): Matrix {
  const [a, b, c, d, e, f] = matrix;
  const [w, h] = [widthPx * mmPerPx, heightPx * mmPerPx];
  return [a * w, b * w, c * h, d * h, e, f];
}

/** Pictures of the proof, what is carried outward of them lowest. */
async function proofPictures(drawing: Drawing, bleeds: readonly Bleed[], { pictures }: PictureHost): Promise<PdfPicture[]> {
  const items = picturesIn(drawing, {});
  const carried = bleeds.flatMap(({ art }) => art.flatMap((item) => (item.kind === 'picture' ? [item] : [])));
  const pixels = new Map<string, Uint8Array>();
  for (const { asset } of items)
    if (carried.some(({ picture }) => picture === asset) && !pixels.has(asset)) pixels.set(asset, await pictures.small(asset, 1));
  const own = await Promise.all(
    items.map(async (item) => ({ bytes: await pictures.small(item, item.strengthPct / 100), matrix: unitMap(item) })),
  );
  const under = carried.flatMap(({ picture, matrix, clip }): PdfPicture[] => {
    const bytes = pixels.get(picture);
    return bytes ? [{ bytes, matrix, ...(clip ? { clip } : {}) }] : [];
  });
  return [...under, ...own];
}

/** Pictures as they will lie in a file. */
const filePictures = (items: readonly PictureItem[], origin: Point, host: PictureHost): Promise<WrittenPicture[]> =>
  Promise.all(
    items.map(async (item) => {
      const { bytes, type } = await host.pictures.file(item);
      const [a, b, c, d, e, f] = unitMap(item);
      return { bytes, bytesBase64: host.toBase64(bytes), type, matrix: [a, b, c, d, e - origin.x, f - origin.y] };
    }),
  );

async function png({ drawing, scope, dpi }: WriteAsked, piecesOf: PiecesOf, { pictures }: PictureHost): Promise<Uint8Array> {
  const inScope = picturesIn(drawing, scope);
  const art = artworkOf(drawing, scope, piecesOf, inScope);
  const k = dpi / 25.4;
  const [widthPx, heightPx] = [Math.max(1, Math.round(art.widthMm * k)), Math.max(1, Math.round(art.heightMm * k))];
  if (widthPx * heightPx > MOST_PIXELS || Math.max(widthPx, heightPx) > MOST_SIDE_PX)
    throw new AppError('limit.picture', `That is ${widthPx} by ${heightPx} pixels; 100 million are the most. Choose fewer dots an inch.`);
  const isWhole = scope.ids === undefined && scope.film === undefined;
  const toPx: Matrix = [k, 0, 0, -k, 0, heightPx];
  const painted = await pictures.painted({
    widthPx,
    heightPx,
    ground: isWhole ? pageOf(drawing).surface.hex : undefined,
    pictures: inScope.map((item) => ({
      item,
      matrix: compose(compose(toPx, translation(-art.origin.x, -art.origin.y)), unitMap(item)),
      strength: item.strengthPct / 100,
    })),
    shapes: art.items.map(({ outline, fill, gradient, stroke }) => ({
      outline: mapOutline(toPx, outline),
      fill,
      gradient: gradient && mapGradient(toPx, gradient),
      line: stroke && { hex: stroke.hex, widthPx: Math.max(1, stroke.widthMm * k) },
    })),
  });
  return withResolution(painted, k);
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
export async function writeOut(asked: WriteAsked, host: PictureHost): Promise<Uint8Array> {
  const knownOf = await host.fonts.knowing(asked.drawing, host.pause);
  const piecesOf = piecesForWriting(knownOf);
  const { kind, drawing, scope, job } = asked;
  if (kind === 'png') return png(asked, piecesOf, host);
  if (kind === 'fitting-plan') {
    const pages = fittingPages({
      drawing,
      job,
      piecesOf,
      pictures: await proofPictures(drawing, [], host),
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
      pictures: kind === 'proof' ? await proofPictures(drawing, bleeds, host) : [],
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
  const items = kind === 'svg' || kind === 'pdf' ? picturesIn(drawing, scope) : [];
  const art = artworkOf(drawing, scope, piecesOf, items);
  return writeArtwork(art, kind, job.name, await filePictures(items, art.origin, host));
}
