/** The sheets of a job with what is found on them: for the screen, and as they go to machines. */
import type { Finding } from '@lorvek/core/check';
import { laidSeries, type Drawing, type Layer, type MarkKind, type StockFilm } from '@lorvek/model';
import { bleedsOf, type Bleed } from '@lorvek/model/bleeds';
import { checkJob, stopsOf, twiceOn, type CheckedJob } from '@lorvek/model/check-job';
import { cutFile, sheetToPicture, sheetToSvg, type Cutting } from '@lorvek/model/cut-file';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { linesOfCut, sheetCut, type SheetCut } from '@lorvek/model/sheet-cut';
import type { Correction } from '@lorvek/core/align';
import type { Host, Tell } from './host.ts';

/** A job as it is asked about. */
export interface SheetsAsked {
  readonly drawing: Drawing;
  readonly stock: readonly StockFilm[];
  readonly jobId: string;
  readonly jobName: string;
}

/** All sheets and the findings of the drawing itself. */
export type SheetsAnswer = CheckedJob & {
  /** Ground that films cover more than once, mm². */
  readonly twiceMm2: Readonly<Record<string, number>>;
  /** What edge cuts carry outward on the drawing. */
  readonly bleeds: readonly Bleed[];
};

/** Told at each hundredth alone: every message is read by who waits. */
function inSteps(onShare: (share: number) => void): (share: number) => void {
  let told = 0;
  return (share) => {
    if (share - told < 0.01) return;
    told = share;
    onShare(share);
  };
}

/** The sheets as they are shown, with everything that is found on them. */
export async function sheetsOfJob({ drawing, stock, jobId, jobName }: SheetsAsked, host: Host, tell: Tell): Promise<SheetsAnswer> {
  // of a series the rows take longest, else what is drawn
  const known = laidSeries(drawing) ? 0.1 : 0.6;
  const knownOf = await host.fonts.knowing(drawing, host.pause, (share) => tell(known * share));
  return {
    ...checkJob(drawing, stock, knownOf, jobId, { jobName, onShare: inSteps((share) => tell(known + (1 - known) * share)) }),
    twiceMm2: twiceOn(drawing, knownOf),
    bleeds: bleedsOf(drawing, knownOf),
  };
}

/** Which of its layers go out, and how they are cut. */
export interface PlanAsked extends SheetsAsked {
  readonly layers: readonly string[];
  /** null: nothing is cut. */
  readonly cutting: Cutting | null;
}

/** A sheet as it goes to its machines. */
export interface PlannedSheet {
  readonly id: string;
  /** Its place among the sheets of its layer, from 0, and how many there are. */
  readonly number: number;
  readonly of: number;
  readonly layer: Layer;
  readonly rollId: string | null;
  readonly copies: number;
  readonly code: string | null;
  /** null: nothing of it is cut, or no cutter was asked for. */
  readonly cut: { readonly hpgl: Uint8Array; readonly plan: SheetCut; readonly cutMm: number; readonly seconds: number } | null;
  readonly isPrinted: boolean;
  /** Of its registration marks; null: it has none. */
  readonly markKind: MarkKind | null;
  readonly svg: Uint8Array;
  /** The sheet to look at, SVG text. */
  readonly picture: string;
  readonly lengthMm: number;
  readonly widthMm: number;
}

export interface PlanAnswer {
  /** In strip order. */
  readonly sheets: readonly PlannedSheet[];
  /** Everything that was found, and of it what forbids sending. */
  readonly findings: readonly Finding[];
  readonly stops: readonly Finding[];
}

/** The sheets of some layers as they go out. */
export async function planJob({ drawing, layers, stock, cutting, jobId, jobName }: PlanAsked, host: Host): Promise<PlanAnswer> {
  const checked = checkJob(drawing, stock, await host.fonts.knowing(drawing, host.pause), jobId, { layers, jobName });
  const stops = stopsOf(checked);
  return {
    stops,
    findings: [...checked.sheets.flatMap((sheet) => sheet.findings), ...checked.whole],
    // what must not go out is not worked out
    sheets: stops.length > 0 ? [] : checked.sheets.map((sheet) => plannedSheet(sheet, cutting)),
  };
}

function plannedSheet(sheet: SheetPlan, cutting: Cutting | null): PlannedSheet {
  const cut = cutting && sheet.lines.length > 0 ? cutFile(sheet.lines, cutting) : null;
  return {
    id: sheet.id,
    number: sheet.number,
    of: sheet.of,
    layer: sheet.layer,
    rollId: sheet.roll.roll?.id ?? null,
    copies: sheet.parts.length === 1 ? Math.max(1, sheet.placements.length) : 1,
    code: sheet.code?.text ?? null,
    cut: cut && cutting && { hpgl: cut.hpgl, plan: sheetCut(sheet, cutting), cutMm: cut.estimate.cutMm, seconds: cut.estimate.seconds },
    isPrinted: sheet.print !== undefined,
    markKind: sheet.markSettings?.marks.kind ?? null,
    svg: sheetToSvg(sheet),
    picture: sheetToPicture(sheet),
    lengthMm: sheet.usedLengthMm,
    widthMm: sheet.material.widthMm,
  };
}

/** A cut once more: where marks say that the sheet lies, or for another machine. */
export function correctCut({ plan, correction }: { readonly plan: SheetCut; readonly correction: Correction | null }): {
  readonly hpgl: Uint8Array;
  readonly cutMm: number;
} {
  const { hpgl, estimate } = cutFile(linesOfCut(plan), plan.cutting, correction ?? undefined);
  return { hpgl, cutMm: estimate.cutMm };
}
