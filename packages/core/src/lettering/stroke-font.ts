/**
 * One-stroke fonts: letters as open lines, for pens and engravers. Our own small JSON form, made from open
 * single-line fonts: `{ name, unitsPerEm, glyphs: { "A": [advance, [[x,y,x,y,…], …]] } }`, y up.
 */
import { strFromU8 } from 'fflate';
import type { Contour, Outline, Span } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { at } from '../geometry/span.ts';

/** Letters as single lines. */
export interface StrokeFont {
  readonly name: string;
  readonly unicodes: ReadonlySet<number>;
  /** By character code, in ems. */
  readonly advances: ReadonlyMap<number, number>;
  readonly glyphs: Map<number, Outline>;
}

const MOST_GLYPHS = 5000;
const bad = (why: string): InputError => new InputError('font', `This one-stroke font cannot be read: ${why}.`);

function lineOf(points: unknown, scale: number): Contour {
  if (!Array.isArray(points) || points.length < 4 || points.length % 2 === 1 || !points.every(Number.isFinite))
    throw bad('a line of a letter is damaged');
  const xy = points as number[];
  const spans: Span[] = [];
  for (let i = 2; i < xy.length; i += 2)
    spans.push([at(xy, i - 2) * scale, at(xy, i - 1) * scale, at(xy, i) * scale, at(xy, i + 1) * scale]);
  return { closed: false, spans };
}

/** @throws InputError `input.font` */
export function readStrokeFont(bytes: Uint8Array): StrokeFont {
  let data: { name?: unknown; unitsPerEm?: unknown; glyphs?: unknown };
  try {
    data = JSON.parse(strFromU8(bytes)) as typeof data;
  } catch {
    throw bad('it is no JSON');
  }
  const { name, unitsPerEm, glyphs } = data;
  if (typeof name !== 'string' || !(Number(unitsPerEm) > 0) || typeof glyphs !== 'object' || glyphs === null)
    throw bad('its head is damaged');
  const entries = Object.entries(glyphs as Record<string, unknown>);
  if (entries.length === 0 || entries.length > MOST_GLYPHS) throw bad('it has no letters or too many');
  const advances = new Map<number, number>();
  const outlines = new Map<number, Outline>();
  for (const [char, glyph] of entries) {
    const code = char.codePointAt(0);
    const [advance, lines] = Array.isArray(glyph) ? (glyph as unknown[]) : [];
    if (code === undefined || !Number.isFinite(advance) || !Array.isArray(lines)) throw bad(`the letter ${char} is damaged`);
    advances.set(code, Number(advance) / Number(unitsPerEm));
    outlines.set(code, { contours: lines.map((line) => lineOf(line, 1 / Number(unitsPerEm))) });
  }
  return { name, unicodes: new Set(advances.keys()), advances, glyphs: outlines };
}
