/** From a sheet to its cut file: sections by kind, each with its tool setup, in the order of cutting. */
import type { Control } from '@lorvek/core';
import { correctOutline, type Correction } from '@lorvek/core/align';
import {
  estimateCut,
  perforate,
  planCut,
  type CutEstimate,
  type CutKind,
  type CutPlan,
  type CutSection,
  type CutWay,
} from '@lorvek/core/cut';
import { writeHpglSections, writeSvg, type ToolChoice } from '@lorvek/core/format';
import { formatPath, mapOutline, type Outline } from '@lorvek/core/geometry';
import { LINE_INKS } from '@lorvek/core/print';
import { inkOn } from '../queries/ink.ts';
import { linesOfKind, type SheetLine, type SheetPlan } from './plan-sheet.ts';
import type { CuttingChoice, ToolSetup } from '../api/shop.ts';

/** How a sheet is cut: the setup of each kind of line, and in which order. Plain JSON. */
export interface Cutting extends CutWay {
  /** Of kinds that have none of their own. */
  readonly setup: ToolSetup;
  readonly kinds: Readonly<Partial<Record<CutKind, ToolSetup>>>;
}

/** @param choice what is chosen of the machine's setups; those that it does not have are passed over */
export const cuttingOf = (setups: readonly ToolSetup[], setup: ToolSetup, choice: CuttingChoice | null | undefined): Cutting => ({
  setup,
  kinds: Object.fromEntries(
    Object.entries(choice?.kinds ?? {}).flatMap(([kind, id]) => {
      const own = setups.find((one) => one.id === id);
      return own ? [[kind, own]] : [];
    }),
  ),
  ...(choice?.order ? { order: choice.order } : {}),
  ...(choice?.windowMm ? { windowMm: choice.windowMm } : {}),
  ...(choice?.smallFirstMm ? { smallFirstMm: choice.smallFirstMm } : {}),
});

/**
 * All of it with one setup, in the usual order.
 * @returns what a machine with one tool does
 */
export const cuttingWith = (setup: ToolSetup): Cutting => ({ setup, kinds: {} });
/**
 * The setup that a kind of lines is cut by.
 * @returns the usual setup for a kind that has none of its own
 */
export const setupFor = ({ setup, kinds }: Cutting, kind: CutKind): ToolSetup => kinds[kind] ?? setup;

/** Turns sharper than this are corners for the blade, degrees. */
const CORNER_DEG = 15;

/** What is said of a setup to the machine. */
export const toolChoice = (setup: ToolSetup): ToolChoice =>
  setup.sends === 'stored'
    ? { sends: 'stored', tool: setup.tool, passes: setup.passes }
    : { sends: 'values', tool: setup.tool, speedMmPerS: setup.speedMmPerS, forceGrams: setup.forceGrams, passes: setup.passes };

function sectionOf({ kind, outline, perforation }: SheetLine, setup: ToolSetup, correction: Correction | undefined): CutSection {
  // corrected before the blade is planned: a corrected corner stays a corner
  const lies = correction ? correctOutline(correction, outline) : outline;
  return {
    kind,
    outline: perforation ? perforate(lies, perforation) : lies,
    setup: {
      bladeOffsetMm: setup.bladeOffsetMm,
      overcutMm: setup.overcutMm,
      cornerDeg: CORNER_DEG,
      compensate: setup.corners === 'file',
      entry: setup.entry ?? 'node',
    },
  };
}

/** Lines in the order they are cut, with how long that takes. */
export interface OrderedCut {
  readonly plan: CutPlan;
  readonly estimate: CutEstimate;
}

/**
 * Orders the cut and says how long it takes. @throws CancelledError
 * @param correction of what the machine found, when there are marks
 * @param control asks it to end, and is told how far it is
 */
export function orderLines(lines: readonly SheetLine[], cutting: Cutting, correction?: Correction, control?: Control): OrderedCut {
  const plan = planCut(
    lines.map((line) => sectionOf(line, setupFor(cutting, line.kind), correction)),
    cutting,
    control,
  );
  const parts = plan.sections.map(({ kind, paths }) => {
    const { speedMmPerS, passes } = setupFor(cutting, kind);
    return estimateCut(paths, { speedMmPerS, passes });
  });
  const sum = (of: (part: CutEstimate) => number): number => parts.reduce((total, part) => total + of(part), 0);
  return { plan, estimate: { seconds: sum((p) => p.seconds), cutMm: sum((p) => p.cutMm), travelMm: plan.travelMm } };
}

/** What goes to the cutter, with how long it takes. */
export interface CutFile extends OrderedCut {
  readonly hpgl: Uint8Array;
}

/**
 * @throws CancelledError, LimitError
 * @returns the bytes for the machine, and what it takes
 */
export function cutFile(lines: readonly SheetLine[], cutting: Cutting, correction?: Correction, control?: Control): CutFile {
  const ordered = orderLines(lines, cutting, correction, control);
  const sections = ordered.plan.sections.map(({ kind, paths }) => ({ paths, setup: toolChoice(setupFor(cutting, kind)) }));
  return { ...ordered, hpgl: writeHpglSections(sections) };
}

const lineHex = (kind: CutKind): string => (kind === 'film' ? '#0b5c5a' : kind === 'weed' ? '#7c7f86' : LINE_INKS[kind].hex);
const lineName = (sheet: SheetPlan, kind: CutKind): string =>
  kind === 'film' ? `${sheet.layer.series} ${sheet.layer.name}` : kind === 'weed' ? 'Weed lines' : LINE_INKS[kind].name;

/** The sheet as SVG: cut lines as hairlines on a page of the used length and the roll's width. */
export function sheetToSvg(sheet: SheetPlan): Uint8Array {
  return writeSvg({
    widthMm: Math.max(1, sheet.usedLengthMm),
    heightMm: sheet.material.widthMm,
    items: sheet.lines.map(({ kind, outline }) => ({
      outline,
      closed: true,
      stroke: { hex: lineHex(kind), widthMm: 0.1 },
      layer: lineName(sheet, kind),
    })),
  });
}

/** The sheet to look at: the layer in its colour, lines that keep their width at any size. For screens, not for machines. */
export function sheetToPicture(sheet: SheetPlan): string {
  const { layer, material, marks, code, print } = sheet;
  const [length, width] = [Math.max(60, sheet.usedLengthMm).toFixed(2), material.widthMm.toFixed(2)];
  const flip = (outline: Outline): string => formatPath(mapOutline([1, 0, 0, -1, 0, material.widthMm], outline), 2);
  const ink = inkOn(layer.hex);
  const art = print
    ? sheet.placements
        .flatMap(({ part, map }) =>
          (sheet.parts.find(({ id }) => id === part)?.sources ?? [])
            .filter(({ line }) => line === undefined)
            .map(({ outline }) => `<path d="${flip(mapOutline(map, outline))}" fill="${ink}" fill-opacity="0.12"/>`),
        )
        .join('')
    : '';
  const black = [...marks.map(({ outline }) => outline), ...(code ? [code.outline] : [])].map(flip).join('');
  const kinds = (['kiss', 'score', 'perforated', 'through'] as const).map((kind) => {
    const d = flip(linesOfKind(sheet, kind));
    return d ? `<path d="${d}" fill="none" stroke="${LINE_INKS[kind].hex}"/>` : '';
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${length} ${width}"><style>path{vector-effect:non-scaling-stroke}</style><rect width="${length}" height="${width}" fill="${layer.hex}"/>${art}<path d="${flip(linesOfKind(sheet, 'film'))}" fill="${ink}" fill-opacity="0.15" stroke="${ink}"/><path d="${flip(linesOfKind(sheet, 'weed'))}" fill="none" stroke="${ink}" stroke-opacity="0.5"/><path d="${black}" fill="#000"/>${kinds.join('')}</svg>`;
}
