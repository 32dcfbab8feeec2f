/** What of a sheet is kept with its run, so that it can be cut where marks say that it lies: plain JSON. */
import type { CutKind } from '@lorvek/core/cut';
import { formatPath, parsePath, type Box, type Point } from '@lorvek/core/geometry';
import { bounds } from '@lorvek/core/geometry';
import type { MarkKind, Marks } from '../records/lay-up.ts';
import type { ToolSetup } from '../api/shop.ts';
import { cuttingWith, type Cutting } from './cut-file.ts';
import { boxOfSheet, type SheetLine, type SheetPlan } from './plan-sheet.ts';

/** A mark as a camera looks for it; an angle's arms run towards (towardsX, towardsY). */
export interface MarkPlan extends Point {
  readonly kind: 'angle' | 'dot' | 'cross';
  readonly armMm: number;
  readonly thicknessMm: number;
  readonly towardsX: number;
  readonly towardsY: number;
}

/** All that is needed to cut a sheet once more: its lines, marks and how it was cut. */
export interface SheetCut {
  readonly lines: readonly (Omit<SheetLine, 'outline'> & { readonly kind: CutKind; readonly path: string })[];
  /** The first one first. */
  readonly marks: readonly MarkPlan[];
  /** Of the marks; absent: it has none, or it was kept before this was. */
  readonly markKind?: MarkKind;
  /** Middle of the printed code. */
  readonly codeAt: Point | null;
  readonly cutting: Cutting;
  readonly box: Box;
}

const KINDS = { 'corners-in': 'angle', 'corners-out': 'angle', dots: 'dot', crosses: 'cross' } as const;

/** Which way an angle's arms run, from where its ink lies about its centre. */
function markPlan(mark: SheetPlan['marks'][number], { kind, armMm, thicknessMm }: Marks): MarkPlan {
  const ink = bounds(mark.outline);
  return {
    ...mark.centre,
    kind: KINDS[kind],
    armMm,
    thicknessMm,
    towardsX: Math.sign((ink.minX + ink.maxX) / 2 - mark.centre.x) || 1,
    towardsY: Math.sign((ink.minY + ink.maxY) / 2 - mark.centre.y) || 1,
  };
}

/** What is kept of a sheet for that. */
export function sheetCut(sheet: SheetPlan, cutting: Cutting): SheetCut {
  const { markSettings } = sheet;
  return {
    lines: sheet.lines.map(({ outline, ...line }) => ({ ...line, path: formatPath(outline, 4) })),
    marks: markSettings ? sheet.marks.map((mark) => markPlan(mark, markSettings.marks)) : [],
    ...(markSettings ? { markKind: markSettings.marks.kind } : {}),
    codeAt: sheet.code?.at ?? null,
    cutting,
    box: boxOfSheet(sheet),
  };
}

/** The lines of a kept cut. */
export const linesOfCut = ({ lines }: Pick<SheetCut, 'lines'>): SheetLine[] =>
  lines.map(({ path, ...line }) => ({ ...line, outline: parsePath(path) }));

/** Of a plan that was kept before kinds had setups of their own, too. */
export const cuttingOfPlan = ({
  cutting,
  setup,
}: Partial<Pick<SheetCut, 'cutting'>> & { readonly setup?: ToolSetup }): Cutting | undefined => cutting ?? (setup && cuttingWith(setup));
