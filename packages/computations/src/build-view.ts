/** How the films of a drawing are built, what of them cannot be weeded, and what that costs. */
import { checkFilm, type Finding } from '@lorvek/core/check';
import type { Box, Outline } from '@lorvek/core/geometry';
import { itemOf, type Build, type Drawing, type KnownOf, type ShopSettings, type StockFilm } from '@lorvek/model';
import { builtJob, layingSteps, likeSurface, type BuiltLayer, type LayingStep } from '@lorvek/model/build-plan';
import { bothWays, describePlaces, type JobCost } from '@lorvek/model/job-cost';

/** A job as Build asks about it. */
export interface BuildAsked {
  readonly drawing: Drawing;
  readonly stock: readonly StockFilm[];
  readonly jobId: string;
  readonly settings: ShopSettings;
}

/** A film as it is built. */
export interface BuiltView {
  readonly film: string;
  /** As it is cut, on the drawing. */
  readonly outline: Outline;
  /** As it is drawn. */
  readonly drawn: Outline;
  /** What came of building it, and what of it cannot be weeded. */
  readonly findings: readonly Finding[];
  /** Items that would hold better let in. */
  readonly small: readonly string[];
}

/** How the films are built, what of them cannot be weeded, and what that costs. */
export interface BuildAnswer {
  /** Bottom first. */
  readonly layers: readonly BuiltView[];
  readonly box: Box;
  readonly marks: Outline;
  readonly steps: readonly LayingStep[];
  readonly costs: Record<Build['place'], JobCost>;
  /** What moves and what does not, in words. */
  readonly places: string;
  /** Films that the surface has the colour of. */
  readonly like: readonly string[];
  /** Items that could not be worked out. */
  readonly unknown: readonly string[];
}

const WEEDING: ReadonlySet<string> = new Set(['tiny-part', 'thin-part', 'island']);

function weeding({ film, byItem }: BuiltLayer, drawing: Drawing, stock: readonly StockFilm[]): Finding[] {
  const entry = stock.find(({ id }) => id === film.stockId);
  if (!entry) return [];
  const parts = [...byItem].map(([id, outlines]) => ({
    id,
    name: itemOf(drawing, id)?.name ?? '',
    outline: { contours: outlines.flatMap(({ contours }) => contours) },
  }));
  return checkFilm(parts, { smallestPartMm: entry.smallestPartMm, thinnestMm: entry.thinnestMm }).filter(({ code }) => WEEDING.has(code));
}

/** Everything that Build shows. */
export function buildView({ drawing, stock, jobId, settings }: BuildAsked, knownOf: KnownOf): BuildAnswer {
  const built = builtJob(drawing, stock, knownOf);
  const costs = bothWays(drawing, stock, knownOf, { jobId, settings, built });
  return {
    layers: built.layers.map((layer) => ({
      film: layer.film.id,
      outline: layer.outline,
      drawn: { contours: layer.drawn.flatMap(({ contours }) => contours) },
      findings: [...layer.findings, ...weeding(layer, drawing, stock)],
      small: layer.small,
    })),
    box: built.box,
    marks: built.marks,
    steps: layingSteps(drawing, built),
    costs,
    places: describePlaces(drawing, costs),
    like: likeSurface(drawing).map(({ id }) => id),
    unknown: built.unknown,
  };
}
