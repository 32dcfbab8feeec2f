/**
 * Lettering: words, font and the height of the capitals to outlines in mm.
 * Size is the height of a flat capital as cut, not a font size. Lines are aligned by their ink; the origin
 * lies on the first baseline, at the left edge, centre or right edge of the ink according to `align`.
 * Letters whose boxes meet are welded within their line, so that no line of a script word crosses another.
 * Cost: shaping O(characters), weld only where boxes meet. Not handled: vertical setting, hyphenation.
 */
import type { Box, Matrix, Outline } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { bounds, boxesMeet, EMPTY_BOX, EMPTY_OUTLINE, isEmptyBox, joinBoxes, joinOutlines } from '../geometry/outline.ts';
import { compose, mapOutline, mapPoint, rotation, scaling, translation } from '../geometry/transform.ts';
import { weld } from '../geometry/weld/weld.ts';
import { openings, widen, type LetterTweak } from './adjust-line.ts';
import { bendLine, type Bend, type BentLine } from './bend.ts';
import { glyphOutline, missingCharacters, type Font } from './font.ts';
import { shapeLine, type PlacedGlyph } from './shape-line.ts';

/** Justified lines are as wide as the widest; the last line of a paragraph stays as it is. */
export type Align = 'left' | 'centre' | 'right' | 'justify';

/** What is set and how: words, size, spacing, alignment. mm, percent. */
export interface LetteringSpec {
  readonly text: string;
  readonly font: Font;
  /** Height of a flat capital as cut, mm, 0.5 to 20 000. */
  readonly capHeightMm: number;
  /** Added between letters, mm; may be negative. */
  readonly letterSpaceMm?: number;
  /** Baseline to baseline as a multiple of the capitals' height. */
  readonly lineSpace?: number;
  readonly align?: Align;
  /** Width against the font's own, percent, 10 to 1000. */
  readonly widthPct?: number;
  /** Lean to the right against the font's own, degrees, -60 to 60. */
  readonly slantDeg?: number;
  /** By index of the letter's first character in the text. */
  readonly tweaks?: Readonly<Record<number, LetterTweak>>;
  readonly bend?: Bend | undefined;
}

/** A glyph where it stands. */
export interface Letter {
  /** The characters this letter stands for: several for a ligature. */
  readonly char: string;
  /** Index of the first of them in the text (UTF-16). */
  readonly index: number;
  /** Its own outline at its place, before the weld. */
  readonly outline: Outline;
  readonly x: number;
  readonly y: number;
}

/** A line of letters. */
export interface LetteringLine {
  readonly start: number;
  readonly end: number;
  readonly baselineY: number;
  /** Pen position along the line before each character and after the last, mm: end - start + 1 of them. */
  readonly carets: readonly number[];
  /** Of a bent line: where an upright letter at each pen position stands. */
  readonly places?: readonly Matrix[];
}

/** Everything that was set, with what could not be. */
export interface SetLettering {
  readonly outline: Outline;
  readonly letters: readonly Letter[];
  readonly lines: readonly LetteringLine[];
  /** Size of the ink, mm. */
  readonly widthMm: number;
  readonly heightMm: number;
  /** Characters that the font lacks, each once; they leave a gap. */
  readonly missing: readonly string[];
}

const MOST_CHARACTERS = 20_000;

function checkRange(name: string, value: number, low: number, high: number): void {
  if (!(value >= low && value <= high)) {
    throw new InputError('lettering', `${name} is ${value}; it must lie between ${low} and ${high}.`, { field: name });
  }
}

function check(spec: LetteringSpec): void {
  if (spec.text.length > MOST_CHARACTERS) {
    throw new LimitError('lettering', `The text has ${spec.text.length} characters; one lettering takes ${MOST_CHARACTERS}. Split it.`);
  }
  checkRange('capHeightMm', spec.capHeightMm, 0.5, 20_000);
  checkRange('letterSpaceMm', spec.letterSpaceMm ?? 0, -10_000, 10_000);
  checkRange('lineSpace', spec.lineSpace ?? 1.6, 0, 20);
  checkRange('widthPct', spec.widthPct ?? 100, 10, 1000);
  checkRange('slantDeg', spec.slantDeg ?? 0, -60, 60);
}

interface Setting {
  emMm: number;
  stretch: number;
  lean: number;
}

/** Map from a glyph's ems to the line's mm. */
const glyphMap = (s: Setting, g: PlacedGlyph): Matrix => {
  const x = s.emMm * s.stretch;
  return [x, 0, s.emMm * s.lean, s.emMm, g.x * x + g.y * s.emMm * s.lean, g.y * s.emMm];
};

function lettersOf(glyphs: readonly PlacedGlyph[], line: string, s: Setting): Letter[] {
  const starts = [...new Set(glyphs.map((g) => g.cluster))].sort((a, b) => a - b);
  const endOf = new Map(starts.map((start, k) => [start, starts[k + 1] ?? line.length]));
  const byCluster = new Map<number, PlacedGlyph[]>();
  for (const glyph of glyphs) byCluster.set(glyph.cluster, [...(byCluster.get(glyph.cluster) ?? []), glyph]);
  return [...byCluster].flatMap(([cluster, group]) => {
    const shown = group.flatMap((g) => (g.file ? [{ ...g, file: g.file }] : []));
    if (shown.length === 0) return [];
    const end = endOf.get(cluster) ?? line.length;
    const outlines = shown.map((g) => mapOutline(glyphMap(s, g), glyphOutline(g.file, g.glyph)));
    const first = group[0] as PlacedGlyph;
    return {
      char: line.slice(cluster, end),
      index: cluster,
      outline: joinOutlines(outlines),
      x: first.x * s.emMm * s.stretch,
      y: first.y * s.emMm,
    };
  });
}

/** Pen positions by character; inside a ligature they are spread evenly. */
function caretsOf(glyphs: readonly PlacedGlyph[], length: number, s: Setting): number[] {
  const before = new Array<number>(length).fill(Number.NaN);
  const after = new Array<number>(length).fill(Number.NaN);
  const scale = s.emMm * s.stretch;
  const spans = new Map<number, { left: number; right: number; rtl: boolean }>();
  let pen = 0;
  for (const g of glyphs) {
    const known = spans.get(g.cluster);
    spans.set(g.cluster, { left: known?.left ?? pen, right: pen + g.advance, rtl: g.rightToLeft });
    pen += g.advance;
  }
  const starts = [...spans.keys()].sort((a, b) => a - b);
  starts.forEach((start, k) => {
    const end = starts[k + 1] ?? length;
    const { left, right, rtl } = spans.get(start) as { left: number; right: number; rtl: boolean };
    for (let i = start; i < end; i++) {
      const a = (i - start) / (end - start);
      const b = (i + 1 - start) / (end - start);
      before[i] = (rtl ? right - (right - left) * a : left + (right - left) * a) * scale;
      after[i] = (rtl ? right - (right - left) * b : left + (right - left) * b) * scale;
    }
  });
  let last = 0;
  const carets = before.map((x, i) => {
    const caret = Number.isNaN(x) ? last : x;
    last = Number.isNaN(x) ? last : (after[i] as number);
    return caret;
  });
  return [...carets, last];
}

/** Letters of a one-stroke font are open lines: nothing to weld. */
const isOpen = (outline: Outline): boolean => outline.contours.some((contour) => !contour.closed);

/** Groups of outlines whose boxes meet, welded; lone ones untouched. */
function weldTouching(outlines: readonly Outline[]): Outline {
  const groups: { box: Box; members: Outline[] }[] = [];
  for (const outline of outlines) {
    if (outline.contours.length === 0) continue;
    const merged = { box: bounds(outline), members: [outline] };
    for (let i = groups.length - 1; i >= 0; i--) {
      const group = groups[i] as { box: Box; members: Outline[] };
      if (!boxesMeet(group.box, merged.box)) continue;
      merged.box = joinBoxes(group.box, merged.box);
      merged.members = [...group.members, ...merged.members];
      groups.splice(i, 1);
    }
    groups.push(merged);
  }
  return joinOutlines(groups.map(({ members }) => (members.length === 1 || members.some(isOpen) ? joinOutlines(members) : weld(members))));
}

function anchorX(box: Box, endX: number, align: Align): number {
  const left = isEmptyBox(box) ? 0 : box.minX;
  const right = isEmptyBox(box) ? endX : box.maxX;
  if (align === 'left' || align === 'justify') return left;
  return align === 'right' ? right : (left + right) / 2;
}

interface ShapedLine {
  glyphs: PlacedGlyph[];
  text: string;
  start: number;
  letterSpaceEm: number;
}

/** Kerning by hand, at the letters that have some. */
function kern(glyphs: PlacedGlyph[], start: number, tweaks: LetteringSpec['tweaks'], scale: number): PlacedGlyph[] {
  if (!tweaks || Object.keys(tweaks).length === 0) return glyphs;
  return widen(glyphs, (cluster) => (tweaks[start + cluster]?.kernMm ?? 0) / scale);
}

/** Width of the ink of shaped glyphs, mm, and its box along the line. */
function inkOf(letters: readonly Letter[]): Box {
  return letters.reduce<Box>((sum, letter) => joinBoxes(sum, bounds(letter.outline)), EMPTY_BOX);
}

/** Spreads a line to a width of its ink. */
function spreadTo(line: ShapedLine, widthMm: number, wordsOnly: boolean, s: Setting): PlacedGlyph[] {
  const box = inkOf(lettersOf(line.glyphs, line.text, s));
  const open = openings(line.glyphs, line.text, wordsOnly);
  if (isEmptyBox(box) || open.size === 0) return line.glyphs;
  const each = (widthMm - (box.maxX - box.minX)) / open.size / (s.emMm * s.stretch);
  return widen(line.glyphs, (cluster) => (open.has(cluster) ? each : 0));
}

interface LineResult {
  outline: Outline;
  letters: Letter[];
  line: LetteringLine;
}

/** The letter's own size, turn and shift, about the middle of its advance on the baseline. */
function tweakMap(tweak: LetterTweak | undefined, middle: number): Matrix | undefined {
  if (!tweak) return undefined;
  const size = (tweak.sizePct ?? 100) / 100;
  const map = compose(rotation(tweak.turnDeg ?? 0), scaling(size, size));
  return compose(translation(middle + (tweak.shiftXMm ?? 0), tweak.shiftYMm ?? 0), compose(map, translation(-middle, 0)));
}

function placeLine(spec: LetteringSpec, shaped: ShapedLine, baselineY: number, bent: BentLine | undefined, s: Setting): LineResult {
  const { glyphs, text, start } = shaped;
  const letters = lettersOf(glyphs, text, s);
  const scale = s.emMm * s.stretch;
  const last = glyphs.at(-1);
  const endX = last ? (last.x + last.advance) * scale : 0;
  const shiftX = -anchorX(inkOf(letters), endX, spec.align ?? 'left');
  const advances = new Map<number, number>();
  for (const glyph of glyphs) advances.set(glyph.cluster, (advances.get(glyph.cluster) ?? -shaped.letterSpaceEm) + glyph.advance);
  const placed = letters.map((letter): Letter => {
    const middle = letter.x + ((advances.get(letter.index) ?? 0) * scale) / 2;
    const tweak = tweakMap(spec.tweaks?.[start + letter.index], middle);
    const along = middle + shiftX;
    const stand = bent ? compose(bent.place(along), translation(-middle, 0)) : translation(shiftX, baselineY);
    const map = tweak ? compose(stand, tweak) : stand;
    const foot = mapPoint(stand, { x: letter.x, y: letter.y });
    return { ...letter, index: letter.index + start, outline: mapOutline(map, letter.outline), x: foot.x, y: foot.y };
  });
  const carets = caretsOf(glyphs, text.length, s).map((x) => x + shiftX);
  return {
    outline: weldTouching(placed.map((letter) => letter.outline)),
    letters: placed,
    line: { start, end: start + text.length, baselineY, carets, ...(bent ? { places: carets.map((x) => bent.place(x)) } : {}) },
  };
}

/** What ends a line (Unicode, 5.8): cells of lists are broken as their program does. */
const LINE_END = /\r\n|[\n\r\u2028\u2029]/g;

/** The lines of a text without their ends, and where each begins. */
function linesOf(text: string): { text: string; start: number }[] {
  const lines: { text: string; start: number }[] = [];
  let start = 0;
  for (const { index, 0: end } of text.matchAll(LINE_END)) {
    lines.push({ text: text.slice(start, index), start });
    start = index + end.length;
  }
  return [...lines, { text: text.slice(start), start }];
}

function shapeLines(spec: LetteringSpec, s: Setting): ShapedLine[] {
  const scale = s.emMm * s.stretch;
  const letterSpaceEm = (spec.letterSpaceMm ?? 0) / scale;
  return linesOf(spec.text).map(({ text, start }) => {
    const glyphs = kern(shapeLine(spec.font, text, letterSpaceEm).glyphs, start, spec.tweaks, scale);
    return { glyphs, text, start, letterSpaceEm };
  });
}

const inkWidth = (line: ShapedLine, s: Setting): number => {
  const box = inkOf(lettersOf(line.glyphs, line.text, s));
  return isEmptyBox(box) ? 0 : box.maxX - box.minX;
};

/** All lines but the last of each paragraph take the width of the widest. */
function justify(lines: ShapedLine[], s: Setting): ShapedLine[] {
  const widest = Math.max(0, ...lines.map((line) => inkWidth(line, s)));
  return lines.map((line, i) => {
    const endsParagraph = lines.length > 1 && (i === lines.length - 1 || lines[i + 1]?.text.trim() === '');
    return endsParagraph ? line : { ...line, glyphs: spreadTo(line, widest, true, s) };
  });
}

/** Each line where it stands, bent when that is asked for. */
function placeLines(spec: LetteringSpec, lines: readonly ShapedLine[], setting: Setting): ReturnType<typeof placeLine>[] {
  const { bend, capHeightMm } = spec;
  const pitchMm = (spec.lineSpace ?? 1.6) * capHeightMm;
  const longestMm = bend?.kind === 'arch' ? Math.max(0, ...lines.map((line) => inkWidth(line, setting))) : 0;
  const align = spec.align === 'centre' || spec.align === 'right' ? spec.align : 'left';
  return lines.map((line, index) => {
    const bent = bend && bendLine(bend, { index, count: lines.length, capHeightMm, pitchMm, longestMm, align });
    const spread = bent?.spreadMm === undefined ? line : { ...line, glyphs: spreadTo(line, bent.spreadMm, false, setting) };
    return placeLine(spec, spread, -pitchMm * index, bent, setting);
  });
}

/**
 * Sets lettering at true size.
 * @returns an empty outline for text without ink
 * @throws InputError `input.lettering` for sizes out of range, `input.bend` for a bend that cannot be; LimitError
 * `limit.lettering` above 20 000 characters
 */
export function setLettering(asked: LetteringSpec): SetLettering {
  check(asked);
  // on a circle every line stands with its middle on the middle that was asked for, whatever its alignment
  const spec: LetteringSpec = asked.bend?.kind === 'circle' && asked.align !== 'justify' ? { ...asked, align: 'centre' } : asked;
  const setting: Setting = {
    emMm: spec.capHeightMm / spec.font.capHeightEm,
    stretch: (spec.widthPct ?? 100) / 100,
    lean: Math.tan(((spec.slantDeg ?? 0) * Math.PI) / 180),
  };
  const shaped = shapeLines(spec, setting);
  const results = placeLines(spec, spec.align === 'justify' ? justify(shaped, setting) : shaped, setting);
  const outline = results.length === 1 ? (results[0]?.outline ?? EMPTY_OUTLINE) : weldTouching(results.map((r) => r.outline));
  const box = bounds(outline);
  return {
    outline,
    letters: results.flatMap((r) => r.letters),
    lines: results.map((r) => r.line),
    widthMm: isEmptyBox(box) ? 0 : box.maxX - box.minX,
    heightMm: isEmptyBox(box) ? 0 : box.maxY - box.minY,
    missing: missingCharacters(spec.font, spec.text),
  };
}
