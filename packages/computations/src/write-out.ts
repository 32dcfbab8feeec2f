/** Drawings to files: vector formats, pictures at a resolution, proof and work ticket. */
import { AppError, InputError } from '@lorvek/core';
import { mapGradient } from '@lorvek/core/colour';
import { compose, mapOutline, translation, type Matrix, type Point } from '@lorvek/core/geometry';
import { textMeasure, withResolution, writePdfPages, type PdfPicture } from '@lorvek/core/format';
import { bleedsOf, type Bleed } from '@lorvek/model/bleeds';
import { artworkInOrder, artworkOf, writeArtwork, type WrittenPicture } from '@lorvek/model/export-artwork';
import { fittingPages } from '@lorvek/model/fitting-plan';
import { proofPages, ticketPages, type MeasuredLine } from '@lorvek/model/proof-and-ticket';
import {
  isPrinted,
  isUnknown,
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

/** A picture on a print is printed in full, however weak it is shown while one draws; one that is only looked at is as it is shown. */
const strengthOf = (drawing: Drawing, item: PictureItem): number => (isPrinted(drawing, item) ? 1 : item.strengthPct / 100);

/** Pictures of the proof, and what is carried outward of them, each where it lies among the items. */
async function proofPictures(
  drawing: Drawing,
  piecesOf: PiecesOf,
  bleeds: readonly Bleed[],
  { pictures }: PictureHost,
): Promise<PdfPicture[]> {
  const ordered = artworkInOrder(drawing, {}, piecesOf, bleeds).pictures;
  const pixels = new Map<string, Promise<Uint8Array>>();
  const small = (asset: string): Promise<Uint8Array> => {
    const known = pixels.get(asset) ?? pictures.small(asset, 1);
    pixels.set(asset, known);
    return known;
  };
  return Promise.all(
    ordered.map(async ({ item, carried, before }): Promise<PdfPicture> => {
      if (item) return { bytes: await pictures.small(item, strengthOf(drawing, item)), matrix: unitMap(item), before };
      const { picture, matrix, clip } = carried;
      return { bytes: await small(picture), matrix, ...(clip ? { clip } : {}), before };
    }),
  );
}

/** Pictures as they will lie in a file. */
const filePictures = (
  items: readonly { readonly item: PictureItem; readonly before: number }[],
  origin: Point,
  host: PictureHost,
): Promise<WrittenPicture[]> =>
  Promise.all(
    items.map(async ({ item, before }) => {
      const { bytes, type } = await host.pictures.file(item);
      const [a, b, c, d, e, f] = unitMap(item);
      return { bytes, bytesBase64: host.toBase64(bytes), type, matrix: [a, b, c, d, e - origin.x, f - origin.y], before };
    }),
  );

async function png({ drawing, scope, dpi }: WriteAsked, piecesOf: PiecesOf, { pictures }: PictureHost): Promise<Uint8Array> {
  const art = artworkOf(drawing, scope, piecesOf, true);
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
    pictures: art.pictures.map(({ item, before }) => ({
      item,
      before,
      matrix: compose(compose(toPx, translation(-art.origin.x, -art.origin.y)), unitMap(item)),
      strength: strengthOf(drawing, item),
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
      pictures: await proofPictures(drawing, piecesOf, [], host),
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
      pictures: kind === 'proof' ? await proofPictures(drawing, piecesOf, bleeds, host) : [],
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
  const art = artworkOf(drawing, scope, piecesOf, kind === 'svg' || kind === 'pdf');
  return writeArtwork(art, kind, job.name, await filePictures(art.pictures, art.origin, host));
}
