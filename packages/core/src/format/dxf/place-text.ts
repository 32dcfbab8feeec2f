/**
 * Text of a DXF as it stands: its lines without their codes, where the first one begins, and how the others follow (Autodesk, DXF
 * Reference: TEXT, MTEXT). Units of the drawing, degrees; heights are those of capitals.
 */
import { plainText, type DxfRecord } from './pairs.ts';

/** Lines of text, and where they stand. */
export interface StandingText {
  readonly lines: readonly string[];
  readonly x: number;
  readonly y: number;
  readonly turn: number;
  /** Of a line's own width, by which it begins before its place: 0 at its left, 1 at its right end. */
  readonly share: number;
  /** From its place up to the first line's foot, and from line to line. */
  readonly lift: number;
  readonly pitch: number;
  /** By how much the letters are widened. */
  readonly wide: number;
}

/** From line to line, in heights of capitals. */
const PITCH = 5 / 3;
/** Shares of a line before its place, by its alignment: left, middle, right, and three that are stretched between two places. */
const SHARES = [0, 0.5, 1, 0, 0.5, 0];

const controlCodes = (text: string): string =>
  plainText(text)
    .replace(/%%[dD]/g, '°')
    .replace(/%%[pP]/g, '±')
    .replace(/%%[cC]/g, 'Ø')
    .replace(/%%[uUoO]/g, '');

/** Marks braces that are letters, not codes (a private character). */
const KEPT = '\ue000';

/** Lines of a paragraph text without its codes of font, height and colour. */
function paragraphs(text: string): string[] {
  return controlCodes(text)
    .replace(/\\P/g, '\n')
    .replace(/\\~/g, ' ')
    .replace(/\\[ACcFfHQTWp][^;\\]*;/g, '')
    .replace(/\\S([^;]*);/g, (_, stacked: string) => stacked.replace(/[\^#]/g, '/'))
    .replace(/\\[LlOoKk]/g, '')
    .replace(/\\([\\{}])/g, `${KEPT}$1`)
    .replace(new RegExp(`(?<!${KEPT})[{}]`, 'g'), '')
    .replaceAll(KEPT, '')
    .split('\n');
}

const shown = (lines: readonly string[]): string[] => lines.filter((line) => line.trim() !== '');

/**
 * A paragraph, by the corner, side or middle of its block that is at its place.
 * @param height of its capitals, above zero
 */
export function paragraphOf(record: DxfRecord, height: number): StandingText {
  const lines = shown(paragraphs(record.longText()));
  const attach = record.number(71, 1) - 1;
  const block = height + PITCH * height * (lines.length - 1);
  return {
    lines,
    x: record.number(10),
    y: record.number(20),
    turn: record.has(11) ? (Math.atan2(record.number(21), record.number(11)) * 180) / Math.PI : record.number(50),
    share: (attach % 3) / 2,
    lift: [-height, block / 2 - height, block - height][Math.floor(attach / 3)] ?? -height,
    pitch: PITCH * height,
    wide: 1,
  };
}

/**
 * A single line, at its own place or, when it is aligned, at the second one.
 * @param height of its capitals, above zero
 */
export function lineOf(record: DxfRecord, height: number): StandingText {
  const isAligned = (record.number(72) !== 0 || record.number(73) !== 0) && record.has(11);
  return {
    lines: shown([controlCodes(record.text(1))]),
    x: record.number(isAligned ? 11 : 10),
    y: record.number(isAligned ? 21 : 20),
    turn: record.number(50),
    share: isAligned ? (SHARES[record.number(72)] ?? 0) : 0,
    lift: [0, 0, -height / 2, -height][record.number(73)] ?? 0,
    pitch: PITCH * height,
    wide: record.number(41, 1) || 1,
  };
}
