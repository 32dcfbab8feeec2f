/** White ink of a print layer: what its rule says of a sheet, and what is found where there is none, or none comes of it. */
import { isEmptyBox, outlineOfBox, weld, type Box, type Outline } from '@lorvek/core/geometry';
import type { Finding } from '@lorvek/core/check';
import type { PrintItem, WhiteCoverage } from '@lorvek/core/print';
import { isPrint } from '../queries/queries.ts';
import type { Layer, PrintLayer } from '../records/layers.ts';
import type { SheetLine } from './plan-sheet.ts';

/** Where white lies and under what. */
export type WhiteRule = NonNullable<PrintLayer['white']>;

/** White as it begins on a clear medium. */
export const USUAL_WHITE: WhiteRule = { where: 'behind', coverage: 'where-printed', spots: [], bend: 1, strengthPct: 100, spreadMm: -0.2 };

/** What is left when the sheet is trimmed: within its cut lines, or the boxes of what lies on it. */
function trimOf(lines: readonly SheetLine[], boxesOf: () => readonly Box[]): Outline {
  const closed = lines
    .filter(({ kind }) => kind !== 'film' && kind !== 'weed' && kind !== 'score')
    .flatMap(({ outline }) => outline.contours.filter((contour) => contour.closed));
  if (closed.length > 0) return weld(closed.map((contour) => ({ contours: [contour] })));
  return weld(
    boxesOf()
      .filter((box) => !isEmptyBox(box))
      .map((box) => outlineOfBox(box)),
  );
}

/** @param boxesOf of what lies on the sheet; asked only where white goes to the trim, for that is dear to work out */
export function whiteOf(layer: Layer, lines: readonly SheetLine[], boxesOf: () => readonly Box[]): WhiteCoverage | undefined {
  if (!isPrint(layer) || !layer.white) return undefined;
  const { where: _where, ...rule } = layer.white;
  return { ...rule, trim: rule.coverage === 'whole-sheet' ? trimOf(lines, boxesOf) : { contours: [] } };
}

/** Darker than this a medium swallows the colours that are printed on it. */
const DARK = 0.55;

const isDark = (hex: string): boolean => {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16) / 255);
  return 0.3 * r + 0.59 * g + 0.11 * b < DARK;
};

/** Spots that the art has. */
export const spotsOf = (art: readonly PrintItem[]): string[] => [
  ...new Set(
    art.flatMap((item) =>
      (item.kind === 'shape' ? [item.fill?.spot, item.stroke?.spot] : [item.ink?.spot]).filter(
        (spot): spot is string => spot !== undefined,
      ),
    ),
  ),
];

/** What white would spoil, or is missing under. */
export function findWhite(layer: Layer, art: readonly PrintItem[], ids: readonly string[]): Finding[] {
  if (!isPrint(layer) || art.length === 0) return [];
  const say = (text: string): Finding[] => [{ code: 'no-white', level: 'warning', text, parts: ids.slice(0, 50) }];
  if (!layer.white) {
    if (layer.medium === 'clear')
      return say(`“${layer.name}” is clear and no white is printed: the colours will be seen through. Add white on Lay up.`);
    return isDark(layer.hex)
      ? say(`“${layer.name}” is dark and no white is printed: the colours will hardly be seen. Add white on Lay up.`)
      : [];
  }
  const { coverage, spots, strengthPct } = layer.white;
  if (strengthPct === 0) return say(`The white of “${layer.name}” has no strength: none is printed.`);
  const there = spotsOf(art);
  if (coverage === 'named-spot' && !spots.some((spot) => there.includes(spot)))
    return say(
      `No item of “${layer.name}” has an ink that stands for white${there.length > 0 ? ` (its inks are ${there.join(', ')})` : ''}: no white is printed.`,
    );
  return [];
}
