/**
 * What is done to a shaped line by hand or by rule: kerning of single pairs, justifying and spreading.
 * Ems of the line; glyphs stay in the order they are seen. Letters of joining scripts are never torn apart.
 */
import type { PlacedGlyph } from './shape-line.ts';

/** One letter's own treatment by its index in the text (UTF-16). */
export interface LetterTweak {
  /** Added before the letter; it and all that follow move, mm. */
  readonly kernMm?: number | undefined;
  readonly shiftXMm?: number | undefined;
  readonly shiftYMm?: number | undefined;
  readonly sizePct?: number | undefined;
  /** About the middle of the letter's advance on the baseline, degrees counter-clockwise. */
  readonly turnDeg?: number | undefined;
}

/**
 * Widens (or narrows) the way before each glyph that begins a letter. `extra` in ems by the letter's cluster; before the first
 * letter there is no way: a line begins where it begins.
 * @param extra is asked once a letter, in the order of the glyphs; below zero it narrows
 */
export function widen(glyphs: readonly PlacedGlyph[], extra: (cluster: number, position: number) => number): PlacedGlyph[] {
  let sum = 0;
  let last: number | undefined;
  let position = 0;
  const out: PlacedGlyph[] = [];
  for (const glyph of glyphs) {
    if (glyph.cluster !== last) {
      const more = extra(glyph.cluster, position);
      const before = out.at(-1);
      if (more !== 0 && before) {
        out[out.length - 1] = { ...before, advance: before.advance + more };
        sum += more;
      }
      position++;
      last = glyph.cluster;
    }
    out.push({ ...glyph, x: glyph.x + sum });
  }
  return out;
}

/**
 * Where a line can be widened: before which letters. After word spaces where there are some, else between letters.
 * @param wordsOnly between words only, where there are some
 * @returns clusters: positions in the line's text
 */
export function openings(glyphs: readonly PlacedGlyph[], line: string, wordsOnly: boolean): Set<number> {
  const letters = new Set<number>();
  const words = new Set<number>();
  for (let i = 1; i < glyphs.length; i++) {
    const [before, glyph] = [glyphs[i - 1] as PlacedGlyph, glyphs[i] as PlacedGlyph];
    if (glyph.cluster === before.cluster) continue;
    if (!glyph.joining || line[before.cluster] === ' ') letters.add(glyph.cluster);
    if (line[before.cluster] === ' ' && line[glyph.cluster] !== ' ') words.add(glyph.cluster);
  }
  return wordsOnly && words.size > 0 ? words : letters;
}
