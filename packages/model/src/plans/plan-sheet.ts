/**
 * From a drawing to what machines get: the work of each layer laid on its material, checked, and ready to be ordered into
 * a cut file or written as a print page. Page and server call this with the same inputs and get the same sheets.
 */
import { InputError } from '@lorvek/core';
import {
  area,
  boxShape,
  EMPTY_BOX,
  isEmptyBox,
  joinBoxes,
  bounds,
  mapBox,
  mapOutline,
  mapPoint,
  pathLength,
  translation,
  weld,
  type Box,
  type Matrix,
  type Outline,
  type Point,
} from '@lorvek/core/geometry';
import { checkFilm, checkSheet, type FilmLimits, type Finding } from '@lorvek/core/check';
import { jobCode, layUp, marksBandMm, placeMarks, plainFigures, type LaidUp, type LayUpProblem, type PlacedMark } from '@lorvek/core/sheet';
import type { CutKind } from '@lorvek/core/cut';
import type { PrintItem, PrintPage } from '@lorvek/core/print';
import type { Drawing } from '../records/document.ts';
import type { CutLine } from '../records/items.ts';
import { USUAL_MARKS, type LayUp, type Marks } from '../records/lay-up.ts';
import type { Film, Layer } from '../records/layers.ts';
import { buildOf, isLeftOut, isPrint, itemOf, layerOf, layersOf, layUpOf, leavesInScope, mirrorOf } from '../queries/queries.ts';
import { builtJob, frameOf, isPlainBuild, type BuiltJob } from './build-plan.ts';
import { findUnknown } from './check-drawing.ts';
import type { Piece } from '../queries/derive.ts';
import { isUnknown, type KnownOf } from '../queries/known-pieces.ts';
import { ANY_ROLL, chooseRoll, materialOf, type Material, type RollChoice } from './material.ts';
import { isCutLine, type LeafItem } from '../queries/plain-outline.ts';
import { artOf } from './print-art.ts';
import { codeOf } from './sheet-code.ts';
import type { StockFilm } from '../api/shop.ts';

/** What is cut of a leaf, in its own space. */
export type PiecesOf = (item: LeafItem) => readonly Piece[];

/** Something that is laid up, on the drawing. */
export interface SheetSource {
  readonly id: string;
  readonly name: string;
  readonly outline: Outline;
  /** What is done along its outline; undefined: it is art, and printed. */
  readonly line: CutLine | { readonly kind: 'film' } | undefined;
}

export interface SheetLine {
  readonly kind: CutKind;
  readonly outline: Outline;
  readonly perforation?: { readonly cutMm: number; readonly bridgeMm: number };
}

export interface SheetCode {
  readonly text: string;
  readonly at: Point;
  readonly outline: Outline;
}

/** One run's worth of work on one material. x along it, y across, mm. */
export interface SheetPlan {
  /** Of the lay-up and the number of the sheet: stays while nothing before it changes. */
  readonly id: string;
  readonly layer: Layer;
  readonly layUp: LayUp;
  readonly material: Material;
  readonly roll: RollChoice;
  readonly usedLengthMm: number;
  readonly sources: readonly SheetSource[];
  /** Where each copy of each source lies: from the drawing to the sheet. */
  readonly placements: readonly { readonly source: string; readonly copy: number; readonly map: Matrix }[];
  readonly laid: LaidUp;
  readonly lines: readonly SheetLine[];
  readonly marks: readonly PlacedMark[];
  /** How they are set, and the width of material that they take on each side; null: none. */
  readonly markSettings: { readonly marks: Marks; readonly bandMm: number } | null;
  /** What the camera reads, its middle, and its printed shape with the figures under it. */
  readonly code?: SheetCode;
  readonly print?: PrintPage;
  readonly findings: readonly Finding[];
  readonly areaMm2: number;
  readonly cutMm: number;
  readonly itemIds: readonly string[];
}

/** Outlines of one kind on a sheet, all together. */
export const linesOfKind = ({ lines }: Pick<SheetPlan, 'lines'>, ...kinds: readonly CutKind[]): Outline => ({
  contours: lines.filter(({ kind }) => kinds.includes(kind)).flatMap(({ outline }) => outline.contours),
});

/** Layers that the drawing's scope takes, in strip order. */
export function layersInScope(drawing: Drawing): Layer[] {
  const leaves = leavesInScope(drawing);
  return layersOf(drawing).filter((layer) => leaves.has(layer.id) && !isLeftOut(layer));
}

/** Does the work lie within the clear width and the length that is left? */
export const fitsOn = (laid: LaidUp, marginMm: number): boolean => laid.overWidthMm <= marginMm && laid.overLengthMm <= marginMm;

interface LayerWork {
  readonly layer: Layer;
  readonly sources: readonly SheetSource[];
  readonly art: readonly PrintItem[];
  /** Places on the drawing. */
  readonly findings: readonly Finding[];
  readonly itemIds: readonly string[];
}

/** A finding of the drawing where the work lies on its sheet. */
function onSheetAt(map: Matrix | undefined, finding: Finding): Finding {
  if (!map) return finding;
  const { place, box } = finding;
  return { ...finding, place: place && mapPoint(map, place), box: box && mapBox(map, box) };
}

/** What is left of an item's pieces when the films are built on one another. */
const builtSources = (leaf: LeafItem, layer: Layer, { layers }: BuiltJob): SheetSource[] =>
  (layers.find(({ film }) => film.id === layer.id)?.byItem.get(leaf.id) ?? [])
    .filter(({ contours }) => contours.length > 0)
    .map((outline) => ({ id: leaf.id, name: leaf.name, outline, line: { kind: 'film' as const } }));

function sourcesOf(leaf: LeafItem, layer: Layer, pieces: readonly Piece[], built: BuiltJob | undefined): SheetSource[] {
  if (built && layer.type === 'film' && !isCutLine(leaf)) return builtSources(leaf, layer, built);
  const own = isCutLine(leaf) ? pieces : pieces.filter((piece) => piece.layer === layer.id);
  const line = isCutLine(leaf) ? leaf.line : layer.type === 'film' ? ({ kind: 'film' } as const) : undefined;
  return own
    .filter(({ outline }) => outline.contours.length > 0)
    .map(({ outline }) => ({ id: leaf.id, name: leaf.name, outline: mapOutline(leaf.matrix, outline), line }));
}

/** A cut line of which nothing is left, or that goes round nothing. */
const emptyLine = (leaf: LeafItem): Finding => ({
  code: 'edge-cut-empty',
  level: 'stop',
  text: `“${leaf.name}” leaves no line: it runs farther inward than what it goes round is thick. Bring it nearer to the edge.`,
  parts: [leaf.id],
});

/** Place marks of a film, and what of others' work was not worked out, so that it may have to be cut out of this film. */
function besides(drawing: Drawing, layer: Layer, knownOf: KnownOf, built: BuiltJob | undefined): Pick<LayerWork, 'sources' | 'findings'> {
  if (!built || layer.type !== 'film') return { sources: [], findings: [] };
  const findings = built.unknown.flatMap((id) => {
    const leaf = itemOf(drawing, id);
    const known = leaf && leaf.kind !== 'group' ? knownOf(leaf) : undefined;
    return leaf && leaf.kind !== 'group' && known && isUnknown(known) && leaf.layer !== layer.id ? [findUnknown(leaf, known)] : [];
  });
  const own = built.layers.find(({ film }) => film.id === layer.id)?.findings ?? [];
  const isMarked = layer.placeMarks === true && built.marks.contours.length > 0;
  return {
    sources: isMarked ? [{ id: PLACE_MARKS, name: 'Place marks', outline: built.marks, line: { kind: 'film' } }] : [],
    findings: [...findings, ...own],
  };
}

/** The source that place marks are on a sheet. */
export const PLACE_MARKS = 'place-marks';

function workOf(drawing: Drawing, layerId: string, knownOf: KnownOf, built: BuiltJob | undefined): LayerWork {
  const layer = layerOf(drawing, layerId);
  if (!layer) throw new InputError('film', 'This layer is not in the job.');
  const leaves = leavesInScope(drawing).get(layerId) ?? [];
  const findings: Finding[] = [];
  const sources: SheetSource[] = [];
  const art: PrintItem[] = [];
  for (const leaf of leaves) {
    const known = knownOf(leaf);
    if (isUnknown(known)) {
      findings.push(findUnknown(leaf, known));
      continue;
    }
    const own = sourcesOf(leaf, layer, known.pieces, built);
    if (isCutLine(leaf) && own.length === 0) findings.push(emptyLine(leaf));
    sources.push(...own);
    if (isPrint(layer) && !isCutLine(leaf))
      art.push(
        ...artOf(
          leaf,
          known.pieces.filter((piece) => piece.layer === layerId),
          layer.hex,
        ),
      );
  }
  const more = sources.length > 0 ? besides(drawing, layer, knownOf, built) : { sources: [], findings: [] };
  return {
    layer,
    sources: [...sources, ...more.sources],
    art,
    findings: [...findings, ...more.findings],
    itemIds: leaves.map((leaf) => leaf.id),
  };
}

/** Marks of a lay-up: as set, else the usual ones for a print with cut lines. */
function marksOf(layUpRecord: LayUp, work: { readonly sources: readonly SheetSource[]; readonly layer: Layer }): Marks | null {
  if (layUpRecord.marks !== undefined) return layUpRecord.marks;
  return isPrint(work.layer) && work.sources.some(({ line }) => line !== undefined) ? USUAL_MARKS : null;
}

const CODE_MODULE_MM = 0.8;
const CODE_SIZE_MM = 12 * CODE_MODULE_MM;
const FIGURES_MM = 2;
/** Half the width of the stroke that figures are drawn with. */
const FIGURES_STROKE_MM = 0.08 * FIGURES_MM;
/** Length of the figures of a short name, eight of them, with their strokes. */
const FIGURES_LENGTH_MM = (8 * 5.5 * FIGURES_MM) / 6 + 2 * FIGURES_STROKE_MM;
/** Between the code and the first mark's clear zone. */
const CODE_GAP_MM = 1;
const CLEAR_MM = 3;

/** The box that every film keeps its place in, as an outline. */
function keptFrame(drawing: Drawing, work: LayerWork, built: BuiltJob | undefined): Outline[] {
  if (!built || buildOf(drawing).place !== 'keep' || work.layer.type !== 'film' || work.sources.length === 0) return [];
  const frame = frameOf(built);
  if (isEmptyBox(frame)) return [];
  return [mapOutline(translation(frame.minX, frame.minY), boxShape(frame.maxX - frame.minX, frame.maxY - frame.minY))];
}

function problemOf(drawing: Drawing, work: LayerWork, material: Material, built: BuiltJob | undefined): LayUpProblem {
  const record = layUpOf(drawing, work.layer.id);
  const marks = marksOf(record, work);
  const fill = record.fill.kind === 'as-drawn' ? record.fill : { copies: 1, gapMm: 5, alongMm: 0, acrossMm: 0 };
  const lead = marks?.code ? FIGURES_LENGTH_MM + CODE_GAP_MM + CLEAR_MM : 0;
  return {
    outlines: [...work.sources.map(({ outline }) => outline), ...keptFrame(drawing, work, built)],
    materialWidthMm: material.widthMm,
    materialLengthMm: material.lengthMm,
    marginMm: record.marginMm,
    turnDeg: record.turnDeg,
    mirror: mirrorOf(record, work.layer).mirror,
    copies: fill.copies,
    gapMm: fill.gapMm,
    weedBoxMm: work.layer.type === 'film' ? (record.weedBoxMm ?? undefined) : undefined,
    alongMm: fill.alongMm,
    acrossMm: fill.acrossMm,
    ...(marks ? { bandMm: marksBandMm(marks), leadMm: lead } : {}),
  };
}

const NO_ROLL: Record<Exclude<RollChoice['how'], 'named' | 'only'>, (film: string) => string> = {
  open: (film) => `No roll is chosen for ${film}, and more than one would do.`,
  gone: (film) => `The roll that was chosen for ${film} is no longer in Stock.`,
  none: (film) => `There is no roll of ${film} in Stock.`,
};

function findRoll(layer: Layer, { how }: RollChoice, ids: readonly string[]): Finding[] {
  if (how === 'named' || how === 'only') return [];
  return [{ code: 'no-roll', level: 'stop', text: NO_ROLL[how](`${layer.series} ${layer.name}`), parts: ids.slice(0, 50) }];
}

interface Marked {
  readonly marks: readonly PlacedMark[];
  readonly code?: SheetCode;
  readonly findings: readonly Finding[];
}

/** Marks round the laid work and the code beside the first one. */
function markSheet(marks: Marks | null, laid: LaidUp, material: Material, code: string): Marked {
  if (!marks || isEmptyBox(laid.box)) return { marks: [], findings: [] };
  const frame: Box = { minX: 0, minY: 0, maxX: material.lengthMm, maxY: material.widthMm };
  try {
    const placed = placeMarks({ ...marks, work: laid.box, frame });
    const first = placed[0] as PlacedMark;
    if (!marks.code) return { marks: placed, findings: [] };
    const left = first.clear.minX - CODE_GAP_MM - FIGURES_LENGTH_MM;
    const figures = mapOutline(translation(left + FIGURES_STROKE_MM, first.centre.y + FIGURES_STROKE_MM), plainFigures(code, FIGURES_MM));
    const low = first.centre.y + FIGURES_MM + 2;
    const squares = mapOutline(translation(left, low), jobCode(code, CODE_MODULE_MM).outline);
    const at = { x: left + CODE_SIZE_MM / 2, y: low + CODE_SIZE_MM / 2 };
    return { marks: placed, code: { text: code, at, outline: weld([figures, squares]) }, findings: [] };
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return { marks: [], findings: [{ code: 'marks', level: 'stop', text: error.message, parts: [] }] };
  }
}

/** Lines of one kind together, so that a tool cuts them in one go. */
function linesOf(sources: readonly SheetSource[], laid: LaidUp): SheetLine[] {
  const byKind = new Map<string, { line: Omit<SheetLine, 'outline'>; contours: Outline['contours'][number][] }>();
  for (const map of laid.placements)
    for (const { line, outline } of sources) {
      if (!line) continue;
      const perforation = line.kind === 'perforated' ? { cutMm: line.cutMm, bridgeMm: line.bridgeMm } : undefined;
      const key = perforation ? `${line.kind} ${perforation.cutMm} ${perforation.bridgeMm}` : line.kind;
      const group = byKind.get(key) ?? { line: { kind: line.kind, ...(perforation ? { perforation } : {}) }, contours: [] };
      group.contours.push(...mapOutline(map, outline).contours);
      byKind.set(key, group);
    }
  const weed = laid.weedBoxes.flatMap(({ contours }) => contours);
  return [
    ...[...byKind.values()].map(({ line, contours }): SheetLine => ({ ...line, outline: { contours } })),
    ...(weed.length > 0 ? [{ kind: 'weed' as const, outline: { contours: weed } }] : []),
  ];
}

function checkPrint({ layer, art, sources }: LayerWork): Finding[] {
  if (!isPrint(layer)) return [];
  if (art.length === 0)
    return [
      { code: 'nothing-printed', level: 'stop', text: `Nothing is on the print “${layer.name}”: put items or pictures on it.`, parts: [] },
    ];
  if (sources.some(({ line }) => line !== undefined)) return [];
  return [
    {
      code: 'no-cut-line',
      level: 'warning',
      text: `“${layer.name}” is printed and not cut: there is no edge cut round anything on it.`,
      parts: [],
    },
  ];
}

/** What is wrong with the work on its sheet: parts too fine for the film, over the edge, overlapping. */
function checkLaid(work: LayerWork, laid: LaidUp, material: Material, stock: readonly StockFilm[]): Finding[] {
  const cut = work.sources.filter(({ line }) => line !== undefined);
  const first = laid.placements[0];
  const limits = work.layer.type === 'film' ? limitsOf(work.layer, stock) : undefined;
  const onSheet = (map: Matrix, list: readonly SheetSource[]) =>
    list.map(({ id, name, outline }) => ({ id, name, outline: mapOutline(map, outline) }));
  const frames = laid.weedBoxes.map((outline, i) => ({ id: `weed-${i}`, name: 'Weed box', outline }));
  const all = laid.placements.flatMap((map) => onSheet(map, isPrint(work.layer) ? work.sources : cut));
  return [
    ...(work.layer.type === 'film' ? checkFilm(first ? onSheet(first, cut) : [], limits) : []),
    ...checkSheet([...all, ...frames], material.lengthMm, material.widthMm),
  ];
}

/** What can be weeded from a film, as Stock says. */
function limitsOf({ stockId }: Film, stock: readonly StockFilm[]): FilmLimits | undefined {
  const film = stock.find(({ id }) => id === stockId);
  return film && { smallestPartMm: film.smallestPartMm, thinnestMm: film.thinnestMm };
}

function pageOfSheet(
  work: LayerWork,
  laid: LaidUp,
  marked: Marked,
  lines: readonly SheetLine[],
  sheet: { material: Material; code: string },
): PrintPage {
  const printed = [...marked.marks.map(({ outline }) => outline), ...(marked.code ? [marked.code.outline] : [])];
  return {
    title: `${work.layer.series} ${work.layer.name} ${sheet.code}`.trim(),
    widthMm: Math.max(1, laid.usedLengthMm),
    heightMm: sheet.material.widthMm,
    forms: [{ id: 'art', items: work.art }],
    placements: laid.placements.map((map) => ({ form: 'art', map })),
    lines: lines.flatMap((line) => (line.kind === 'film' || line.kind === 'weed' ? [] : [{ kind: line.kind, outline: line.outline }])),
    marks: { contours: printed.flatMap(({ contours }) => contours) },
  };
}

/**
 * Lays a layer's work on its material and checks it. What is not known of an item, and a roll that nobody chose, are
 * findings that stop.
 * @param jobId whose sheets they are; named in the code that is printed on them
 * @param with how the films are built, when that is known already; `withChecks` false: only to be measured
 * @throws InputError for an unknown layer
 */
export function planSheet(
  drawing: Drawing,
  layerId: string,
  stock: readonly StockFilm[],
  knownOf: KnownOf,
  jobId: string,
  { built = builtFor(drawing, stock, knownOf), withChecks = true }: { built?: BuiltJob | undefined; withChecks?: boolean } = {},
): SheetPlan {
  const work = workOf(drawing, layerId, knownOf, built);
  const { layer, sources } = work;
  const record = layUpOf(drawing, layerId);
  const lay = (on: Material): LaidUp => layUp(problemOf(drawing, work, on, built));
  const choice = chooseRoll(record, layer, stock, (on) => fitsOn(lay(on), record.marginMm));
  const material = choice.roll ? materialOf(choice.roll) : ANY_ROLL;
  const laid = lay(material);
  const lines = linesOf(sources, laid);
  const settings = marksOf(record, work);
  // worked out from all lines: only where it is printed
  const code = settings?.code ? codeOf([jobId, record.id, laid.usedLengthMm], lines, 1) : '';
  const marked = markSheet(settings, laid, material, code);
  const cutAll = linesOfKind({ lines }, 'film', 'kiss', 'score', 'perforated', 'through');
  return {
    id: `${record.id}/1`,
    layer,
    layUp: record,
    material,
    roll: choice,
    usedLengthMm: laid.usedLengthMm,
    sources,
    placements: laid.placements.flatMap((map, copy) => sources.map(({ id }) => ({ source: id, copy, map }))),
    laid,
    lines,
    marks: marked.marks,
    markSettings: settings && { marks: settings, bandMm: marksBandMm(settings) },
    ...(marked.code ? { code: marked.code } : {}),
    ...(isPrint(layer) ? { print: pageOfSheet(work, laid, marked, lines, { material, code }) } : {}),
    findings: [
      ...work.findings.map((finding) => onSheetAt(laid.placements[0], finding)),
      ...findRoll(layer, choice, work.itemIds),
      ...checkPrint(work),
      ...marked.findings,
      ...(withChecks ? checkLaid(work, laid, material, stock) : []),
    ],
    areaMm2:
      laid.placements.length * sources.reduce((sum, { outline, line }) => sum + (line || isPrint(layer) ? Math.abs(area(outline)) : 0), 0),
    cutMm: pathLength(cutAll) + pathLength(linesOfKind({ lines }, 'weed')),
    itemIds: work.itemIds,
  };
}

/** How the films are built; undefined when all lie whole on one another, each on its own. */
const builtFor = (drawing: Drawing, stock: readonly StockFilm[], knownOf: KnownOf): BuiltJob | undefined =>
  isPlainBuild(drawing) && buildOf(drawing).place === 'pack' ? undefined : builtJob(drawing, stock, knownOf, false);

/** All sheets of the drawing's scope, in strip order. @param layers only these; absent: all. @param withChecks false: only to be measured */
export function sheetsOf(
  drawing: Drawing,
  stock: readonly StockFilm[],
  knownOf: KnownOf,
  jobId: string,
  {
    layers,
    withChecks = true,
    built = builtFor(drawing, stock, knownOf),
  }: { readonly layers?: readonly string[] | undefined; readonly withChecks?: boolean; readonly built?: BuiltJob | undefined } = {},
): SheetPlan[] {
  return layersInScope(drawing)
    .filter(({ id }) => layers?.includes(id) ?? true)
    .map(({ id }) => planSheet(drawing, id, stock, knownOf, jobId, { built, withChecks }));
}

/** Box of all that lies on a sheet. */
export const boxOfSheet = ({ lines }: Pick<SheetPlan, 'lines'>): Box =>
  lines.reduce((box, { outline }) => joinBoxes(box, bounds(outline)), EMPTY_BOX);
