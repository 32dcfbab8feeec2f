/** What a job costs, film by film, when each film keeps its place and when each is packed; by the shop's own rule. */
import { joinOutlines } from '@lorvek/core/geometry';
import { costOf, quoteOf, type Cost, type Quote } from '@lorvek/core/build';
import type { Build, Drawing } from '../records/document.ts';
import { PAGE_ID } from '../records/document.ts';
import type { Layer } from '../records/layers.ts';
import type { KnownOf } from '../queries/known-pieces.ts';
import { buildOf, pageOf } from '../queries/queries.ts';
import type { ShopSettings, StockFilm } from '../api/shop.ts';
import { withMarks, type BuiltJob } from './build-plan.ts';
import { linesOfKind, sheetsOf, type SheetPlan } from './plan-sheet.ts';
import { rowOfPart } from './series-parts.ts';

/** What a layer uses and wastes, and what it costs. */
export interface LayerCost {
  readonly layer: Layer;
  readonly cost: Cost;
  /** How often the press is closed on it. */
  readonly pressings: number;
  /** Why a figure stands on less than is known: no roll, no price. */
  readonly lacks: readonly string[];
}

/** What a job costs, and what is not known of it. */
export interface JobCost {
  readonly layers: readonly LayerCost[];
  readonly quote: Quote;
  readonly usedLengthMm: number;
  /** What the quote lacks or stands on by guess, with the layer's name; empty when it is whole. */
  readonly lacks: readonly string[];
}

const isPressedOn = ({ layer }: SheetPlan): boolean => (layer.type === 'film' ? layer.transfer : layer.medium === 'transfer');

/** One for each piece of work: its copies, or the rows of a series. Parts of one design that were nested are pressed together. */
function pressingsOf(sheets: readonly SheetPlan[]): number {
  const copies = new Map<string, number>();
  for (const { placements } of sheets) for (const { part } of placements) copies.set(part, (copies.get(part) ?? 0) + 1);
  const isSeries = [...copies.keys()].some((part) => rowOfPart(part) !== undefined);
  return [...copies.values()].reduce((all, own) => (isSeries ? all + own : Math.max(all, own)), 0);
}

/** What of a layer's cost is not known, or stands on a guess. */
function lacksOf(sheet: SheetPlan, entry: StockFilm | undefined): string[] {
  const isPrint = sheet.layer.type === 'print';
  return [
    ...(entry ? [] : ['It is not in Stock: no price is known.']),
    ...(sheet.roll.roll || sheet.roll.how === 'reported' ? [] : ['No roll is chosen: a usual width is reckoned with.']),
    ...(isPressedOn(sheet) && entry && !entry.press ? ['No press recipe is in Stock: the time to press it is not reckoned.'] : []),
    ...(isPrint ? ['Ink is not reckoned.'] : []),
    ...(isPrint && sheet.layUp.laminate ? [`${sheet.layUp.laminate.name} on it is not reckoned.`] : []),
  ];
}

/** All sheets of one layer together. */
function layerCost(sheets: readonly [SheetPlan, ...SheetPlan[]], stock: readonly StockFilm[], { weeding }: ShopSettings): LayerCost {
  const [sheet] = sheets;
  const sum = (of: (one: SheetPlan) => number): number => sheets.reduce((total, one) => total + of(one), 0);
  const entry = stock.find(({ id }) => id === sheet.layer.stockId);
  const pressings = isPressedOn(sheet) ? pressingsOf(sheets) : 0;
  const cost = costOf({
    outline: joinOutlines(sheets.map((one) => linesOfKind(one, 'film', 'kiss', 'through', 'perforated'))),
    areaMm2: sum(({ areaMm2 }) => areaMm2),
    cutMm: sum(({ cutMm }) => cutMm),
    usedLengthMm: sum(({ usedLengthMm }) => usedLengthMm),
    materialWidthMm: sheet.material.widthMm,
    pricePerMetre: entry?.pricePerMetre ?? 0,
    pressSeconds: pressings * (entry?.press?.seconds ?? 0),
    rule: weeding,
  });
  return { layer: sheet.layer, cost, pressings, lacks: lacksOf(sheet, entry) };
}

/** @param sheets as they are laid up */
export function jobCost(sheets: readonly SheetPlan[], stock: readonly StockFilm[], settings: ShopSettings): JobCost {
  const ofLayer = new Map<string, [SheetPlan, ...SheetPlan[]]>();
  for (const sheet of sheets) ofLayer.set(sheet.layer.id, [...(ofLayer.get(sheet.layer.id) ?? []), sheet] as [SheetPlan, ...SheetPlan[]]);
  const layers = [...ofLayer.values()].map((own) => layerCost(own, stock, settings));
  return {
    layers,
    quote: quoteOf(
      layers.map(({ cost }) => cost),
      settings,
    ),
    lacks: layers.flatMap(({ layer, lacks }) => lacks.map((text) => `${layer.name}: ${text}`)),
    usedLengthMm: layers.reduce((sum, { cost }) => sum + cost.usedLengthMm, 0),
  };
}

/** The job as it would cost the one way and the other. @param built the same films either way */
export function bothWays(
  drawing: Drawing,
  stock: readonly StockFilm[],
  knownOf: KnownOf,
  { jobId, settings, built }: { readonly jobId: string; readonly settings: ShopSettings; readonly built: BuiltJob },
): Record<Build['place'], JobCost> {
  const way = (place: Build['place']): JobCost => {
    const so = { ...drawing, [PAGE_ID]: { ...pageOf(drawing), build: { ...buildOf(drawing), place } } };
    return jobCost(sheetsOf(so, stock, knownOf, jobId, { withChecks: false, built: withMarks(so, built) }), stock, settings);
  };
  return { keep: way('keep'), pack: way('pack') };
}

/** Who moves when films are packed, in words. */
export function describePlaces(drawing: Drawing, { keep, pack }: Record<Build['place'], JobCost>): string {
  const isKept = buildOf(drawing).place === 'keep';
  const moved = pack.layers.filter(
    ({ layer, cost }) => cost.usedLengthMm < (keep.layers.find((one) => one.layer.id === layer.id)?.cost.usedLengthMm ?? 0) - 0.5,
  );
  const names = moved.map(({ layer }) => layer.name).join(', ');
  if (isKept)
    return moved.length === 0
      ? 'Every film lies on its roll as it does in the whole. Packing would move none of them.'
      : `Every film lies on its roll as it does in the whole, in one frame: nothing moves. Packed, ${names} would take less.`;
  return moved.length === 0
    ? 'Each film lies at the start of its roll; none takes less than it would in its place.'
    : `Each film is moved to the start of its roll, as one: the design has not changed, only where ${names} lies on the roll. The films are put together by eye.`;
}
