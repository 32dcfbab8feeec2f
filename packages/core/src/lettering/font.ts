/**
 * Fonts: loading, coverage, clean glyph outlines and the height of the capitals.
 * A `Font` is one file or several that complete one another (a family is often split by script);
 * characters are looked up in the order of the files.
 * Shaping and outlines by HarfBuzz (WebAssembly); glyph outlines are cleaned once (weld) and kept.
 */
import * as hb from 'harfbuzzjs';
import type { Outline, Span } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { bounds, EMPTY_OUTLINE, isEmptyBox } from '../geometry/outline.ts';
import { mapOutline, scaling } from '../geometry/transform.ts';
import { quadraticSpan } from '../geometry/span.ts';
import { weld } from '../geometry/weld/weld.ts';
import { readStrokeFont } from './stroke-font.ts';
import { toSfnt } from './woff.ts';

/** One font file in HarfBuzz's hands, or a one-stroke font, whose letters are open lines and need no shaping. */
export interface FontFile {
  readonly shaper: hb.Font | undefined;
  readonly face: hb.Face | undefined;
  /** Of a one-stroke font, whose glyph numbers are its characters: advances in ems. */
  readonly advances?: ReadonlyMap<number, number>;
  readonly unitsPerEm: number;
  readonly unicodes: ReadonlySet<number>;
  /** Clean outlines by glyph number, in ems. */
  readonly glyphs: Map<number, Outline>;
}

/** One or more files that complete one another. */
export interface Font {
  readonly files: readonly FontFile[];
  /** Family name as the font itself states it. */
  readonly name: string;
  /** Height of the ink of a capital H as a rule laid on the cut letter reads it, in ems. */
  readonly capHeightEm: number;
}

/** Flat-topped capitals and figures of other scripts' fonts, in order of trust. */
const CAPITALS = ['H', 'I', 'E', 'T', 'X', 'Z', 'א', 'ا', 'क', '1'];
const FALLBACK_CAP_EM = 0.7;

class OutlineDrawer {
  contours: { closed: boolean; spans: Span[] }[] = [];
  private spans: Span[] = [];
  private x = 0;
  private y = 0;
  private fromX = 0;
  private fromY = 0;
  readonly funcs = new hb.DrawFuncs();

  constructor() {
    this.funcs.setMoveToFunc((x, y) => {
      this.close();
      this.x = this.fromX = x;
      this.y = this.fromY = y;
    });
    this.funcs.setLineToFunc((x, y) => {
      if (x !== this.x || y !== this.y) this.spans.push([this.x, this.y, x, y]);
      this.to(x, y);
    });
    this.funcs.setQuadraticToFunc((cx, cy, x, y) => {
      this.spans.push(quadraticSpan(this.x, this.y, cx, cy, x, y));
      this.to(x, y);
    });
    this.funcs.setCubicToFunc((ax, ay, bx, by, x, y) => {
      this.spans.push([this.x, this.y, ax, ay, bx, by, x, y]);
      this.to(x, y);
    });
    this.funcs.setClosePathFunc(() => this.close());
  }

  private to(x: number, y: number): void {
    this.x = x;
    this.y = y;
  }

  private close(): void {
    if (this.x !== this.fromX || this.y !== this.fromY) this.spans.push([this.x, this.y, this.fromX, this.fromY]);
    if (this.spans.length > 0) this.contours.push({ closed: true, spans: this.spans });
    this.spans = [];
    this.to(this.fromX, this.fromY);
  }

  draw(font: hb.Font, glyph: number): Outline {
    this.contours = [];
    font.drawGlyph(glyph, this.funcs);
    this.close();
    return { contours: this.contours };
  }
}

/**
 * A clean glyph outline in ems, y up, outer contours counter-clockwise. Kept with the file.
 * Cleaning happens at 1 em = 100 mm, so that its micrometre limits are far below a font unit.
 * @param glyph its number in the font file
 * @returns empty for a space
 */
export function glyphOutline(file: FontFile, glyph: number): Outline {
  const known = file.glyphs.get(glyph);
  if (known) return known;
  if (!file.shaper) return EMPTY_OUTLINE;
  const raw = new OutlineDrawer().draw(file.shaper, glyph);
  const scale = 100 / file.unitsPerEm;
  const clean = raw.contours.length === 0 ? EMPTY_OUTLINE : mapOutline(scaling(0.01, 0.01), weld([mapOutline(scaling(scale, scale), raw)]));
  file.glyphs.set(glyph, clean);
  return clean;
}

function measureCapitals(files: readonly FontFile[]): number {
  for (const letter of CAPITALS) {
    for (const file of files) {
      const code = letter.codePointAt(0) as number;
      const glyph = file.shaper ? file.shaper.nominalGlyph(code) : code;
      if (!glyph || !file.unicodes.has(code)) continue;
      const box = bounds(glyphOutline(file, glyph));
      if (!isEmptyBox(box) && box.maxY > 0.1) return box.maxY - box.minY;
    }
  }
  return FALLBACK_CAP_EM;
}

function familyName(face: hb.Face): string {
  const entry = face.listNames().find((name) => name.nameId === 16) ?? face.listNames().find((name) => name.nameId === 1);
  return entry ? face.getName(entry.nameId, entry.language) : '';
}

const REQUIRED: readonly (readonly string[])[] = [['cmap'], ['head'], ['hmtx'], ['glyf', 'CFF ', 'CFF2']];

/**
 * Reads a font file.
 * @param bytes TTF, OTF, WOFF, or a one-stroke font (`stroke-font.ts`)
 * @throws InputError `input.font` for anything else, LimitError `limit.font` above 64 MB
 */
export function loadFont(bytes: Uint8Array): Font {
  if (bytes[0] === 0x7b) {
    const { name, ...strokes } = readStrokeFont(bytes);
    const file: FontFile = { shaper: undefined, face: undefined, unitsPerEm: 1, ...strokes };
    return { files: [file], name, capHeightEm: measureCapitals([file]) };
  }
  const face = new hb.Face(new hb.Blob(toSfnt(bytes)));
  for (const tables of REQUIRED) {
    if (!tables.some((tag) => (face.referenceTable(tag)?.length ?? 0) > 0)) {
      throw new InputError('font', `This file is not a font that can be read: it has no ${tables.join(' or ').trim()} table.`);
    }
  }
  const unicodes = new Set(face.collectUnicodes());
  if (unicodes.size === 0) throw new InputError('font', 'This font has no characters.');
  const file: FontFile = { shaper: new hb.Font(face), face, unitsPerEm: face.upem, unicodes, glyphs: new Map() };
  return { files: [file], name: familyName(face), capHeightEm: measureCapitals([file]) };
}

/**
 * One font of several that complete one another; the first that has a character gives it, and the capitals' height.
 * @returns a font under the first one's name
 */
export function joinFonts(fonts: readonly [Font, ...Font[]]): Font {
  const files = fonts.flatMap((font) => font.files);
  return { files, name: fonts[0].name, capHeightEm: measureCapitals(files) };
}

/** An axis of a variable font, in the units of the font. */
export interface FontAxis {
  readonly tag: string;
  readonly name: string;
  readonly min: number;
  readonly normal: number;
  readonly max: number;
}

/**
 * The axes along which a variable font can be set; none for other fonts.
 * @returns least, usual and greatest value of each
 */
export function axesOf(font: Font): FontAxis[] {
  const face = font.files[0]?.face;
  if (!face) return [];
  return Object.values(face.getAxisInfos())
    .filter((axis) => (axis.flags & hb.AxisFlags.HIDDEN) === 0)
    .map((axis) => ({
      tag: axis.tag,
      name: face.getName(axis.nameId, 'en') || axis.tag,
      min: axis.min,
      normal: axis.default,
      max: axis.max,
    }));
}

/**
 * The font set along its axes; tags that it does not have are passed over.
 * @returns a font of its own, its capitals measured anew; the same one when nothing is asked
 */
export function varyFont(font: Font, axes: Readonly<Record<string, number>>): Font {
  const wanted = Object.entries(axes);
  if (wanted.length === 0) return font;
  const files = font.files.map((file): FontFile => {
    if (!file.face) return file;
    const shaper = new hb.Font(file.face);
    shaper.setVariations(wanted.map(([tag, value]) => new hb.Variation(tag, value)));
    return { ...file, shaper, glyphs: new Map() };
  });
  return { ...font, files, capHeightEm: measureCapitals(files) };
}

/**
 * Are its letters open lines, for a pen or an engraver?
 * @returns true as soon as one of its files has such letters
 */
export const isStrokeFont = (font: Font): boolean => font.files.some((file) => file.advances !== undefined);

/** Characters that need no glyph of their own. */
const SILENT = /\s|\p{Default_Ignorable_Code_Point}|\p{Cc}/u;

/**
 * Characters of the text that no file of the font has, each once.
 * @returns in the order of the text; blanks and line ends are never missing
 */
export function missingCharacters(font: Font, text: string): string[] {
  const out = new Set<string>();
  for (const char of text) {
    const code = char.codePointAt(0) as number;
    if (!SILENT.test(char) && !font.files.some((file) => file.unicodes.has(code))) out.add(char);
  }
  return [...out];
}
