/**
 * From a drawing to what machines get: the work of each layer laid on its material, checked, and ready to be ordered into
 * a cut file or written as a print page. Page and server call this with the same inputs and get the same sheets.
 */
import {
  area,
  EMPTY_BOX,
  joinBoxes,
  bounds,
  mapOutline,
  pathLength,
  strokeToShape,
  type Box,
  type Outline,
  type Point,
} from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import { weedLines, type PlacedMark, type SheetFrame } from '@lorvek/core/sheet';
import type { CutKind, Perforation } from '@lorvek/core/cut';
import { withoutInks, type PrintForm, type PrintPage } from '@lorvek/core/print';
import type { Drawing } from '../records/document.ts';
import type { LayUp, Marks } from '../records/lay-up.ts';
import type { Layer } from '../records/layers.ts';
import type { CutLine } from '../records/items.ts';
import { laidSeries } from '../queries/series-rows.ts';
import { isLeftOut, isPrint, layersOf, leavesInScope } from '../queries/queries.ts';
import type { BuiltJob } from './build-plan.ts';
import type { Piece } from '../queries/derive.ts';
import type { KnownOf } from '../queries/known-pieces.ts';
import type { Filled } from './lay-fill.ts';
import { boxOfPlaced, type Ground, type LayPart, type Placement } from './lay-places.ts';
import { findSpots } from './spot-inks.ts';
import { findPasses, printPasses, type PassPlan } from './print-passes.ts';
import { findWhite, whiteOf } from './white-ink.ts';
import { findEdges } from './edge-findings.ts';
import type { LayerWork } from './lay-parts.ts';
import { fillSeries, type FilledSeries } from './series-parts.ts';
import type { Material, RollChoice } from './material.ts';
import type { LeafItem } from '../queries/plain-outline.ts';
import { markSheet, type Marked } from './sheet-marks.ts';
import { codeOf } from './sheet-code.ts';
import { checkLaid, findGrain, findMissing, findOverlaps, findRoll, findShort, onSheetAt, type Laid } from './sheet-findings.ts';
import type { StockFilm } from '../api/shop.ts';
import { builtFor, layLayer, sheetLaid, type LaidLayer } from './laid-layer.ts';

export { PLACE_MARKS } from './lay-parts.ts';
export type { LayPart, Placement, SheetSource } from './lay-places.ts';

/** What is cut of a leaf, in its own space. */
export type PiecesOf = (item: LeafItem) => readonly Piece[];

/** A line that is cut, on its sheet, and what kind it is. */
export interface SheetLine {
  readonly kind: CutKind;
  readonly outline: Outline;
  readonly perforation?: Perforation;
}

/** The code that a machine reads off a sheet, with its figures. */
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
  /** What it is laid onto. */
  readonly ground: Ground;
  readonly material: Material;
  readonly roll: RollChoice;
  readonly usedLengthMm: number;
  /** Its place among the sheets of its lay-up, from 0, and how many there are. */
  readonly number: number;
  readonly of: number;
  /** What moves as one, of the whole lay-up. */
  readonly parts: readonly LayPart[];
  /** Where each copy of each part lies on this sheet. */
  readonly placements: readonly Placement[];
  readonly frame: SheetFrame;
  /** What the fill says of itself, of the whole lay-up. */
  readonly filled: Omit<Filled, 'placements'>;
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

/** How the writing beside a panel is printed. */
const LABEL_STROKE = { width: 0.5, cap: 'round', join: 'round' } as const;

const perforationOf = ({ cutMm, bridgeMm, leastBridges }: Extract<CutLine, { kind: 'perforated' }>): Perforation => ({
  cutMm,
  bridgeMm,
  ...(leastBridges === undefined ? {} : { leastBridges }),
});

/** Lines of one kind together, so that a tool cuts them in one go. */
function ownLinesOf({ parts, placements }: Laid): SheetLine[] {
  const byKind = new Map<string, { line: Omit<SheetLine, 'outline'>; contours: Outline['contours'][number][] }>();
  for (const { part, map } of placements)
    for (const { line, outline } of parts.get(part)?.sources ?? []) {
      if (!line) continue;
      const perforation: Perforation | undefined = line.kind === 'perforated' ? perforationOf(line) : undefined;
      const key = perforation ? `${line.kind} ${Object.values(perforation).join(' ')}` : line.kind;
      const group = byKind.get(key) ?? { line: { kind: line.kind, ...(perforation ? { perforation } : {}) }, contours: [] };
      group.contours.push(...mapOutline(map, outline).contours);
      byKind.set(key, group);
    }
  return [...byKind.values()].map(({ line, contours }): SheetLine => ({ ...line, outline: { contours } }));
}

/** The lines of the work, and last those that only help: weed boxes and lines, numbers beside panels of film. */
function linesOf(laid: Laid): SheetLine[] {
  const { parts, placements, frame, record, layer } = laid;
  const lines = ownLinesOf(laid);
  const weed = frame.weedBoxes.flatMap(({ contours }) => contours);
  if (layer.type === 'film') {
    for (const { part, map } of placements) weed.push(...mapOutline(map, parts.get(part)?.label ?? { contours: [] }).contours);
    if (record.weedLines && lines.length > 0)
      weed.push(...weedLines({ ...record.weedLines, parts: lines.map(({ outline }) => outline), box: frame.box }).contours);
  }
  return weed.length > 0 ? [...lines, { kind: 'weed', outline: { contours: weed } }] : lines;
}

function checkPrint({ layer }: LayerWork, { art, sources }: LayPart): Finding[] {
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

function pageOfSheet(
  { layer, parts, placements, frame, material }: Laid,
  marked: Marked,
  lines: readonly SheetLine[],
  code: string,
  passes: readonly PassPlan[],
): PrintPage {
  const labels = placements.flatMap(({ part, map }) => {
    const label = parts.get(part)?.label;
    return label ? [mapOutline(map, strokeToShape(label, LABEL_STROKE))] : [];
  });
  const printed = [...marked.marks.map(({ outline }) => outline), ...(marked.code ? [marked.code.outline] : []), ...labels];
  const used = [...new Set(placements.map(({ part }) => part))];
  const white = whiteOf(layer, lines, () =>
    placements.flatMap(({ part, map }) => {
      const own = parts.get(part);
      return own ? [boxOfPlaced(own, map)] : [];
    }),
  );
  const forms = used.map((id): PrintForm => {
    const { art = [], clip } = parts.get(id) ?? {};
    return { id, items: art, ...(clip ? { clip } : {}) };
  });
  const standing = white?.coverage === 'named-spot' ? white.spots : [];
  const painted = (all: readonly PrintForm[]): readonly PrintForm[] =>
    standing.length > 0 ? all.map((form) => ({ ...form, items: withoutInks(form.items, standing) })) : all;
  const placed = placements.map(({ part, map }) => ({ form: part, map }));
  const inPasses = printPasses(passes, { forms, placements: placed }).map((pass) =>
    pass.kind === 'colour' ? { ...pass, forms: painted(pass.forms) } : pass,
  );
  return {
    title: `${layer.series} ${layer.name} ${code}`.trim(),
    widthMm: Math.max(1, frame.usedLengthMm),
    heightMm: material.widthMm,
    forms: painted(forms),
    placements: placed,
    ...(passes.length > 0 ? { passes: inPasses } : {}),
    lines: lines.flatMap((line) => (line.kind === 'film' || line.kind === 'weed' ? [] : [{ kind: line.kind, outline: line.outline }])),
    marks: { contours: printed.flatMap(({ contours }) => contours) },
    ...(white ? { white: { ...white, ...(standing.length > 0 ? { under: forms } : {}) } } : {}),
  };
}

/**
 * Lays a layer's work on its material and checks it. What is not known of an item, and a roll that nobody chose, are
 * findings that stop.
 * @param of `jobId` whose sheets they are, named in the code that is printed on them; how the films are built, when that is
 * known already; `withChecks` false: only to be measured
 * @returns one sheet at least, empty when there is no work
 * @throws InputError for an unknown layer
 */
export function planSheets(
  drawing: Drawing,
  layerId: string,
  stock: readonly StockFilm[],
  knownOf: KnownOf,
  {
    jobId,
    built = builtFor(drawing, stock, knownOf),
    series = seriesFilled(drawing, knownOf),
    withChecks = true,
    jobName = '',
    onShare,
  }: {
    readonly jobId: string;
    readonly built?: BuiltJob | undefined;
    readonly series?: FilledSeries | undefined;
    readonly withChecks?: boolean;
    readonly jobName?: string;
    readonly onShare?: ((share: number) => void) | undefined;
  },
): SheetPlan[] {
  const onRow = onShare && ((share: number) => onShare(share / 2));
  const laid = layLayer(drawing, layerId, { stock, knownOf, built, series, jobName, withChecks, onRow });
  const { work, whole, filled, choice } = laid;
  const of = 1 + Math.max(0, ...filled.placements.map(({ sheet }) => sheet));
  const { placements: _all, ...told } = filled;
  const sheets = Array.from({ length: of }, (_, number) => {
    onShare?.((1 + number / of) / 2);
    return planOne(laid, { number, of, jobId, told, withChecks, stock });
  });
  const [first, ...others] = sheets;
  if (!first) return [];
  const onFirst = (finding: Finding): Finding => onSheetAt(first.placements[0]?.map, finding);
  const ofAll = [
    ...(withChecks && !laid.edges ? findEdges(drawing, work).map(onFirst) : []),
    ...findRoll(work.layer, choice, work.itemIds),
    ...checkPrint(work, whole),
    ...findWhite(work.layer, whole.art, work.itemIds),
    ...findSpots(work.layer, work.itemIds),
    ...findPasses(work.layer, work.passes, whole.art, work.itemIds),
    ...findMissing(laid.parts, filled),
    ...findShort(sheets, choice, work.itemIds),
  ];
  return [{ ...first, findings: [...ofAll, ...first.findings] }, ...others];
}

interface One {
  readonly number: number;
  readonly of: number;
  readonly jobId: string;
  readonly told: SheetPlan['filled'];
  readonly withChecks: boolean;
  readonly stock: readonly StockFilm[];
}

function planOne(layer: LaidLayer, { number, of, jobId, told, withChecks, stock }: One): SheetPlan {
  const { work, ground, settings, choice } = layer;
  const { record, material } = ground;
  const laid = sheetLaid(layer, number);
  const { frame, placements, parts } = laid;
  const lines = linesOf(laid);
  // worked out from all lines: only where it is printed
  const code = settings?.code ? codeOf([jobId, record.id, frame.usedLengthMm], lines, number + 1) : '';
  const marked = markSheet(settings, laid, code);
  const isPrinted = isPrint(work.layer);
  const mapOf = (ids: readonly string[]) =>
    placements.find(({ part }) => parts.get(part)?.sources.some(({ id }) => ids.includes(id)))?.map ?? placements[0]?.map;
  const used = new Set(placements.flatMap(({ part }) => parts.get(part)?.sources.map(({ id }) => id) ?? []));
  return {
    id: `${record.id}/${number + 1}`,
    layer: work.layer,
    layUp: record,
    ground,
    material,
    roll: choice,
    usedLengthMm: frame.usedLengthMm,
    number,
    of,
    parts: layer.parts,
    placements,
    frame,
    filled: told,
    lines,
    marks: marked.marks,
    markSettings: settings && { marks: settings, bandMm: ground.bandMm },
    ...(marked.code ? { code: marked.code } : {}),
    // a sheet that everything was moved off is not printed
    ...(isPrinted && (placements.length > 0 || of === 1) ? { print: pageOfSheet(laid, marked, lines, code, work.passes) } : {}),
    findings: [
      ...(number === 0 ? work.findings.map((finding) => onSheetAt(mapOf(finding.parts), finding)) : []),
      ...(layer.edges ?? []).flatMap(({ part, finding }) => {
        const placed = placements.find((one) => one.part === part);
        return placed ? [onSheetAt(placed.map, finding)] : [];
      }),
      ...marked.findings,
      ...(withChecks ? [...checkLaid(laid, stock), ...findOverlaps(laid), ...findGrain(laid)] : []),
    ],
    areaMm2: placements.reduce((sum, { part }) => sum + areaOfPart(parts.get(part), isPrinted), 0),
    cutMm:
      pathLength(linesOfKind({ lines }, 'film', 'kiss', 'score', 'perforated', 'through')) + pathLength(linesOfKind({ lines }, 'weed')),
    // a panel shows whatever of the whole lies within it
    itemIds: of === 1 || told.panels ? work.itemIds : work.itemIds.filter((id) => used.has(id)),
  };
}

const areaOfPart = (part: LayPart | undefined, isPrinted: boolean): number =>
  (part?.sources ?? []).reduce((sum, { outline, line }) => sum + (line || isPrinted ? Math.abs(area(outline)) : 0), 0);

/** The rows of the job's series; undefined when there is none, or it is not laid up. */
export function seriesFilled(drawing: Drawing, knownOf: KnownOf, onShare?: (share: number) => void): FilledSeries | undefined {
  const series = laidSeries(drawing);
  return series && fillSeries(drawing, series, knownOf, onShare);
}

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
    series = seriesFilled(drawing, knownOf),
    jobName = '',
    onShare,
  }: {
    readonly jobName?: string;
    readonly onShare?: ((share: number) => void) | undefined;
    readonly layers?: readonly string[] | undefined;
    readonly withChecks?: boolean;
    readonly built?: BuiltJob | undefined;
    readonly series?: FilledSeries | undefined;
  } = {},
): SheetPlan[] {
  return layersInScope(drawing)
    .filter(({ id }) => layers?.includes(id) ?? true)
    .flatMap(({ id }, i, all) => {
      const onLayer = onShare && ((share: number) => onShare((i + share) / all.length));
      return planSheets(drawing, id, stock, knownOf, { jobId, built, series, withChecks, jobName, onShare: onLayer });
    });
}

/** Box of all that lies on a sheet. */
export const boxOfSheet = ({ lines }: Pick<SheetPlan, 'lines'>): Box =>
  lines.reduce((box, { outline }) => joinBoxes(box, bounds(outline)), EMPTY_BOX);
