/**
 * A layer's work laid on its material: its parts (of the drawing, of each row of a series, of each panel), the roll that is
 * chosen, where everything lies on how many sheets. mm.
 */
import type { LayerId } from '../records/fields.ts';
import { outlineOfBox, EMPTY_BOX, isEmptyBox, joinBoxes, type Box, type Outline, mappedBounds } from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import { frameSheet, type SheetFrame } from '@lorvek/core/sheet';
import type { Drawing } from '../records/document.ts';
import type { LayUp, Marks } from '../records/lay-up.ts';
import { buildOf, layUpOf, mirrorOf } from '../queries/queries.ts';
import { builtJob, frameOf, isPlainBuild, type BuiltJob } from './build-plan.ts';
import type { KnownOf } from '../queries/known-pieces.ts';
import { boxOfFrame, fillSheets, type Filled } from './lay-fill.ts';
import { boxOfPlaced, type Ground, type LayPart, type Placement } from './lay-places.ts';
import { edgesByRow, findEdges, type EdgesOfRow } from './edge-findings.ts';
import { noPanelsOfSeries, panelsOf } from './panel-parts.ts';
import { partsOf, wholeOf, workOf, type LayerWork } from './lay-parts.ts';
import { partsOfRow, rowPartId, type FilledSeries } from './series-parts.ts';
import { chooseRoll, sheetMaterial, type Material, type RollChoice } from './material.ts';
import { bandOf, leadOf, marksOf } from './sheet-marks.ts';
import type { Laid } from './sheet-findings.ts';
import type { StockFilm } from '../api/shop.ts';

/** Does the work lie within the clear width and the length that is left? */
export const fitsOn = (frame: SheetFrame, marginMm: number): boolean => frame.overWidthMm <= marginMm && frame.overLengthMm <= marginMm;

/** The box that every film keeps its place in, as an outline. */
function keptFrame(drawing: Drawing, work: LayerWork, built: BuiltJob | undefined): Outline[] {
  const isEmpty = work.leaves.every(({ sources }) => sources.length === 0);
  if (!built || buildOf(drawing).place !== 'keep' || work.layer.type !== 'film' || isEmpty) return [];
  const frame = frameOf(built);
  if (isEmptyBox(frame)) return [];
  return [outlineOfBox(frame)];
}

/** Boxes that weed boxes go round on one sheet. */
function weededBoxes(
  record: LayUp,
  parts: ReadonlyMap<string, LayPart>,
  placements: readonly Placement[],
  frame: readonly Outline[],
): Box[] {
  const boxes = placements.flatMap(({ part, map }): Box[] => {
    const own = parts.get(part);
    if (!own) return [];
    if (record.weedPer !== 'part') return [joinBoxes(boxOfPlaced(own, map), boxOfFrame(frame, map))];
    const byItem = new Map<string, Box>();
    for (const { id, outline } of own.sources) byItem.set(id, joinBoxes(byItem.get(id) ?? EMPTY_BOX, mappedBounds(map, outline)));
    return [...byItem.values()];
  });
  return record.weedPer === 'whole' ? [boxes.reduce(joinBoxes, EMPTY_BOX)] : boxes;
}

/** The parts of a layer, how they are laid, and on what. */
export interface LaidLayer {
  readonly work: LayerWork;
  readonly whole: LayPart;
  readonly parts: readonly LayPart[];
  /** The parts and the whole by their names. */
  readonly byId: ReadonlyMap<string, LayPart>;
  readonly ground: Ground;
  readonly choice: RollChoice;
  readonly filled: Filled;
  readonly settings: Marks | null;
  /** Of a series: what is wrong with its cut lines, by row. */
  readonly edges: LaidRows['edges'] | undefined;
}

/**
 * What one sheet of a layer holds.
 * @param number from 0
 */
export function sheetLaid({ work, byId, ground, filled }: LaidLayer, number: number): Laid {
  const { record, material, bandMm, leadMm, weedBoxMm, frame } = ground;
  const placements = filled.placements.filter(({ sheet }) => sheet === number);
  return {
    layer: work.layer,
    parts: byId,
    placements,
    material,
    record,
    frame: frameSheet({
      boxes: weededBoxes(record, byId, placements, frame),
      weedBoxMm,
      materialWidthMm: material.widthMm,
      materialLengthMm: material.lengthMm,
      marginMm: record.marginMm,
      bandMm,
      leadMm,
    }),
  };
}

/** What is known when a layer is laid: stock, pieces, how far to check. */
export interface With {
  readonly jobName: string;
  readonly stock: readonly StockFilm[];
  readonly knownOf: KnownOf;
  readonly built: BuiltJob | undefined;
  readonly series: FilledSeries | undefined;
  readonly withChecks: boolean;
  /** Told of the rows of a series how many are laid, 0 to 1. */
  readonly onRow?: ((share: number) => void) | undefined;
}

/** Rows of a series as they were laid, with what was found of each. */
export interface LaidRows {
  readonly parts: readonly LayPart[];
  readonly findings: readonly Finding[];
  /** Of the cut lines of each row, places as drawn; for the sheet that the row's first piece lies on. */
  readonly edges: readonly { readonly part: string; readonly finding: Finding }[];
}

/** A part for each row of a series, and what is not known of them; one finding a fault, however many rows have it. */
function partsOfRows(layerId: string, { rows }: FilledSeries, { stock, withChecks, onRow }: With): LaidRows {
  const findings = new Map<string, Finding>();
  const edges: Omit<EdgesOfRow, 'part'>[] = [];
  const parts = rows.flatMap((row, i) => {
    onRow?.(i / rows.length);
    const work = workOf(row.drawing, layerId, row.knownOf, builtFor(row.drawing, stock, row.knownOf));
    for (const finding of work.findings) findings.set(`${finding.code} ${finding.parts.join()}`, finding);
    if (withChecks) edges.push({ row: row.row.index, findings: findEdges(row.drawing, work) });
    return partsOfRow(row, wholeOf(work));
  });
  const byRow = edgesByRow(edges).map(({ row, finding }) => ({ part: rowPartId(row, 0), finding }));
  return { parts, findings: [...findings.values()], edges: byRow };
}

/** A layer's work on its material: parts, where they lie, what was found. */
export function layLayer(drawing: Drawing, layerId: LayerId, with_: With): LaidLayer {
  const { stock, knownOf, built, series, jobName } = with_;
  const plain = workOf(drawing, layerId, knownOf, built);
  const { layer } = plain;
  const record = layUpOf(drawing, layerId);
  const { fill } = record;
  const whole = wholeOf(plain);
  const frame = keptFrame(drawing, plain, built);
  const ofRows = series && series.rows.length > 0 ? partsOfRows(layerId, series, with_) : undefined;
  const work = ofRows ? { ...plain, findings: ofRows.findings } : plain;
  const parts = ofRows
    ? ofRows.parts
    : fill.kind === 'nest' && frame.length === 0
      ? partsOf(work, { drawing, knownOf, together: fill.together ?? 'group', isApart: (id) => fill.parts?.[id]?.apart === true })
      : [whole];
  const settings = marksOf(record, work, whole);
  const groundOn = (material: Material): Ground => ({
    material,
    record,
    mirror: mirrorOf(record, layer).mirror,
    bandMm: settings ? bandOf(settings, whole) : 0,
    leadMm: leadOf(settings),
    weedBoxMm: layer.type === 'film' ? (record.weedBoxMm ?? undefined) : undefined,
    weedsCopies: layer.type === 'film' && record.weedBoxMm !== null && (record.weedPer ?? 'copy') === 'copy',
    frame,
  });
  const lay = (ground: Ground): LaidLayer => {
    const base = { work, whole, ground, choice, settings, edges: ofRows?.edges };
    const named = (all: readonly LayPart[]) => ({ parts: all, byId: new Map([whole, ...all].map((part) => [part.id, part])) });
    if (fill.kind !== 'panels') return { ...base, ...named(parts), filled: fillSheets(parts, whole, ground, ofRows !== undefined) };
    const panels = ofRows ? noPanelsOfSeries(whole) : panelsOf(whole, ground, fill, jobName);
    const filled = { placements: panels.placements, missing: [], ...(panels.laid ? { panels: panels.laid } : {}) };
    return { ...base, work: { ...work, findings: [...work.findings, ...panels.findings] }, ...named(panels.parts), filled };
  };
  const fits = (on: Material): boolean => {
    const laid = lay(groundOn({ ...on, lengthMm: Math.min(on.lengthMm, record.sheetLengthMm ?? Infinity) }));
    const isDivided = fill.kind !== 'panels' || laid.filled.panels !== undefined;
    return isDivided && laid.filled.missing.length === 0 && fitsOn(sheetLaid(laid, 0).frame, record.marginMm);
  };
  let choice: RollChoice = { roll: null, how: 'none' };
  choice = chooseRoll(record, layer, stock, fits);
  return lay(groundOn(sheetMaterial(record, choice)));
}

/**
 * How the films are built; undefined when all lie whole on one another, each on its own.
 * @complexity that of building, when there is anything to build
 */
export const builtFor = (drawing: Drawing, stock: readonly StockFilm[], knownOf: KnownOf): BuiltJob | undefined =>
  isPlainBuild(drawing) && buildOf(drawing).place === 'pack' ? undefined : builtJob(drawing, stock, knownOf, false);
