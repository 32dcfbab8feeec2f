/**
 * One line of text to placed glyphs, left to right as seen.
 * Order of directions by the Unicode bidirectional algorithm (UAX 9, library bidi-js); the line is cut
 * into pieces of one direction, one script and one font file, each shaped by HarfBuzz (kerning, ligatures,
 * joining). No kerning across pieces. Units: ems.
 */
import bidiFactory from 'bidi-js';
import * as hb from 'harfbuzzjs';
import type { Font, FontFile } from './font.ts';

/** A glyph and where it stands on its line, ems. */
export interface PlacedGlyph {
  /** Undefined for the gap left by a character that no file has. */
  readonly file: FontFile | undefined;
  readonly glyph: number;
  /** Index of the first character of the text this glyph stands for (UTF-16, within the line). */
  readonly cluster: number;
  readonly x: number;
  readonly y: number;
  readonly advance: number;
  readonly rightToLeft: boolean;
  /** Letters of this script join; space between them would tear them apart. */
  readonly joining: boolean;
}

interface ShapedGlyph extends Omit<PlacedGlyph, 'x' | 'y'> {
  readonly offsetX: number;
  readonly offsetY: number;
}

interface Piece {
  start: number;
  end: number;
  level: number;
  file: FontFile | undefined;
  script: string;
}

const bidi = bidiFactory();
const SCRIPTS: readonly (readonly [string, RegExp])[] = [
  ['Arab', /\p{Script=Arabic}/u],
  ['Hebr', /\p{Script=Hebrew}/u],
  ['Deva', /\p{Script=Devanagari}/u],
  ['Latn', /\p{Script=Latin}/u],
  ['Grek', /\p{Script=Greek}/u],
  ['Cyrl', /\p{Script=Cyrillic}/u],
  ['', /\p{Script=Common}|\p{Script=Inherited}/u],
];
const JOINING = new Set(['Arab', 'Deva']);
/** Width of the gap left for a character that no file has, ems. */
const MISSING_ADVANCE_EM = 0.5;

const scriptOf = (char: string): string => SCRIPTS.find(([, pattern]) => pattern.test(char))?.[0] ?? 'Zyyy';

function pickFile(font: Font, char: string, current: FontFile | undefined): FontFile | undefined {
  const code = char.codePointAt(0) as number;
  if (current?.unicodes.has(code)) return current;
  return font.files.find((file) => file.unicodes.has(code)) ?? (/\s/u.test(char) ? current : undefined);
}

function cutIntoPieces(font: Font, line: string): Piece[] {
  const levels = bidi.getEmbeddingLevels(line).levels;
  const pieces: Piece[] = [];
  let i = 0;
  for (const char of line) {
    const last = pieces.at(-1);
    const level = levels[i] ?? 0;
    const script = scriptOf(char);
    const file = pickFile(font, char, last?.file);
    const sameScript = script === '' || last?.script === '' || last?.script === script;
    if (last && last.level === level && last.file === file && sameScript) {
      last.end = i + char.length;
      if (last.script === '') last.script = script;
    } else pieces.push({ start: i, end: i + char.length, level, file, script });
    i += char.length;
  }
  return pieces;
}

/** Pieces in the order in which they are seen (UAX 9, rule L2). */
function visualOrder(pieces: readonly Piece[]): Piece[] {
  const out = [...pieces];
  const highest = Math.max(0, ...out.map((piece) => piece.level));
  for (let level = highest; level > 0; level--) {
    for (let i = 0; i < out.length; i++) {
      if ((out[i] as Piece).level < level) continue;
      let j = i;
      while (j < out.length && (out[j] as Piece).level >= level) j++;
      out.splice(i, j - i, ...out.slice(i, j).reverse());
      i = j;
    }
  }
  return out;
}

/** Characters of a piece in the order in which they are seen: where each begins, and whether it runs from the right. */
function charactersOf(line: string, { start, end, level }: Piece): [offset: number, rightToLeft: boolean][] {
  const isBackwards = level % 2 === 1;
  const offsets: number[] = [];
  let offset = start;
  for (const char of line.slice(start, end)) {
    offsets.push(offset);
    offset += char.length;
  }
  return (isBackwards ? offsets.reverse() : offsets).map((own) => [own, isBackwards]);
}

function strokePiece(piece: Piece, file: FontFile, line: string): ShapedGlyph[] {
  return charactersOf(line, piece).map(([cluster, rightToLeft]) => {
    const glyph = line.codePointAt(cluster) as number;
    return {
      file,
      glyph,
      cluster,
      advance: file.advances?.get(glyph) ?? MISSING_ADVANCE_EM,
      offsetX: 0,
      offsetY: 0,
      rightToLeft,
      joining: false,
    };
  });
}

function shapePiece(piece: Piece, file: FontFile, line: string, ligatures: boolean): ShapedGlyph[] {
  if (!file.shaper) return strokePiece(piece, file, line);
  const buffer = new hb.Buffer();
  buffer.addText(line, piece.start, piece.end - piece.start);
  buffer.setDirection(piece.level % 2 === 1 ? hb.Direction.RTL : hb.Direction.LTR);
  if (piece.script !== '' && piece.script !== 'Zyyy') buffer.setScript(piece.script);
  buffer.guessSegmentProperties();
  hb.shape(file.shaper, buffer, ligatures ? [] : [new hb.Feature('liga', 0), new hb.Feature('clig', 0)]);
  const scale = 1 / file.unitsPerEm;
  return buffer.getGlyphInfosAndPositions().map((info) => ({
    file,
    glyph: info.codepoint,
    cluster: info.cluster,
    offsetX: (info.xOffset ?? 0) * scale,
    offsetY: (info.yOffset ?? 0) * scale,
    advance: (info.xAdvance ?? 0) * scale,
    rightToLeft: piece.level % 2 === 1,
    joining: JOINING.has(piece.script),
  }));
}

/**
 * @param letterSpaceEm added after every glyph that advances, but in joining scripts
 * @returns glyphs with their places, and the pen's end (ems)
 */
export function shapeLine(font: Font, line: string, letterSpaceEm: number): { glyphs: PlacedGlyph[]; endX: number } {
  const glyphs: PlacedGlyph[] = [];
  let x = 0;
  for (const piece of visualOrder(cutIntoPieces(font, line))) {
    if (!piece.file) {
      for (const [offset, rightToLeft] of charactersOf(line, piece)) {
        glyphs.push({ file: undefined, glyph: 0, cluster: offset, x, y: 0, advance: MISSING_ADVANCE_EM, rightToLeft, joining: false });
        x += MISSING_ADVANCE_EM;
      }
      continue;
    }
    for (const shaped of shapePiece(piece, piece.file, line, letterSpaceEm === 0)) {
      const space = shaped.advance > 0 && !shaped.joining ? letterSpaceEm : 0;
      const { offsetX, offsetY, ...glyph } = shaped;
      glyphs.push({ ...glyph, x: x + offsetX, y: offsetY, advance: shaped.advance + space });
      x += shaped.advance + space;
    }
  }
  return { glyphs, endX: x };
}
