/**
 * What a workbook shows in a cell: the stored value in the cell's number format (ECMA-376 part 1, 18.8.30). Formulas are
 * never computed; the value that was stored with them counts. Formats by numfmt. Two choices of ours: whole numbers
 * without a format keep all their digits, and the built-in short date, which looks different in every country, is
 * written year first.
 */
import { format, isDateFormat } from 'numfmt';

/** Built-in formats by their number; what is not here is general. */
const BUILT_IN: Readonly<Record<number, string>> = {
  1: '0',
  2: '0.00',
  3: '#,##0',
  4: '#,##0.00',
  9: '0%',
  10: '0.00%',
  11: '0.00E+00',
  12: '# ?/?',
  13: '# ??/??',
  14: 'yyyy-mm-dd',
  15: 'd-mmm-yy',
  16: 'd-mmm',
  17: 'mmm-yy',
  18: 'h:mm AM/PM',
  19: 'h:mm:ss AM/PM',
  20: 'h:mm',
  21: 'h:mm:ss',
  22: 'yyyy-mm-dd h:mm',
  37: '#,##0;-#,##0',
  38: '#,##0;-#,##0',
  39: '#,##0.00;-#,##0.00',
  40: '#,##0.00;-#,##0.00',
  45: 'mm:ss',
  46: '[h]:mm:ss',
  47: 'mm:ss.0',
  48: '##0.0E+0',
  49: '@',
};
/** Days from 1900 to 1904, where some workbooks count from. */
const DAYS_TO_1904 = 1462;

/**
 * The format that a workbook names by number alone; `General` for one that is not known.
 * @source ECMA-376, part 1, 18.8.30
 */
export const builtInFormat = (id: number): string => BUILT_IN[id] ?? 'General';

function generalNumber(value: number): string {
  return Number.isSafeInteger(value) ? String(value) : format('General', value).trim();
}

/** @param stored the number as the file writes it */
export function shownNumber(stored: string, pattern: string, from1904: boolean): string {
  const value = Number(stored);
  if (stored.trim() === '' || !Number.isFinite(value)) return stored;
  if (/^general$/i.test(pattern) || pattern === '@') return generalNumber(value);
  try {
    return format(pattern, from1904 && isDateFormat(pattern) ? value + DAYS_TO_1904 : value).trim();
  } catch {
    return generalNumber(value); // a format that nobody understands
  }
}

/**
 * Text in a format that adds to it, such as `"Pier "@`.
 * @param pattern one without `@`, or that nobody understands, leaves the text as it is
 */
export function shownText(text: string, pattern: string): string {
  if (!pattern.includes('@') || pattern === '@') return text;
  try {
    return format(pattern, text);
  } catch {
    return text;
  }
}
