/** Colours of a file and the films they are cut from: like colours together, the nearest film to each, by CIEDE2000. */
import { colourDifference, rgbOf } from '@lorvek/core/colour';

export interface FilmColour {
  readonly id: string;
  readonly hex: string;
}

/** Within this, ΔE, a film is taken for a colour; a farther one is proposed. */
export const TAKEN_WITHIN = 6;

export interface Match {
  /** The nearest; null when there are no films. */
  readonly film: string | null;
  readonly difference: number;
}

export function nearestFilm(hex: string, films: readonly FilmColour[]): Match {
  let best: Match = { film: null, difference: Infinity };
  for (const film of films) {
    const difference = colourDifference(hex, film.hex);
    if (difference < best.difference) best = { film: film.id, difference };
  }
  return best;
}

/** The nearest film when it is the colour that was meant. */
export function filmLike(hex: string, films: readonly FilmColour[]): string | null {
  const { film, difference } = nearestFilm(hex, films);
  return difference <= TAKEN_WITHIN ? film : null;
}

/** No two colours are farther apart, ΔE. */
const MOST_APART = 130;

/** The reach, ΔE, within which so many groups of colours remain at most. */
export function reachFor(counts: ReadonlyMap<string, number>, groups: number): number {
  let [low, high] = [0, MOST_APART];
  if (groupColours(counts, low).length <= groups) return low;
  for (let round = 0; round < 12; round++) {
    const middle = (low + high) / 2;
    if (groupColours(counts, middle).length > groups) low = middle;
    else high = middle;
  }
  // to what the field shows; a wider reach seldom makes more groups, and then the next is tried
  let reach = Math.ceil(high * 10) / 10;
  while (reach < MOST_APART && groupColours(counts, reach).length > groups) reach += 0.1;
  return reach;
}

export interface ColourGroup {
  /** The most used colour of the group. */
  readonly hex: string;
  readonly hexes: readonly string[];
  readonly count: number;
}

/** So many colours are told apart one by one; drawings with more are shaded pictures. */
const MOST_TOLD = 512;
const COARSE_STEPS = [8, 16, 32] as const;

interface Group {
  hex: string;
  hexes: string[];
  count: number;
}

/** Colours one by one, the most used first; of too many, those in one cell of the colour cube go together. */
function toldApart(counts: ReadonlyMap<string, number>): Group[] {
  const single = [...counts].sort((a, b) => b[1] - a[1]).map(([hex, count]): Group => ({ hex, hexes: [hex], count }));
  let told = single;
  for (const step of COARSE_STEPS) {
    if (told.length <= MOST_TOLD) break;
    const cells = new Map<number, Group>();
    for (const { hex, count } of single) {
      const [r, g, b] = rgbOf(hex);
      const cell = (Math.floor(r / step) << 16) | (Math.floor(g / step) << 8) | Math.floor(b / step);
      const home = cells.get(cell);
      if (home) {
        home.hexes.push(hex);
        home.count += count;
      } else cells.set(cell, { hex, hexes: [hex], count });
    }
    told = [...cells.values()].sort((a, b) => b.count - a.count);
  }
  return told;
}

/** Colours within a difference of a more used one join it. @complexity bounded: at most 512 are compared with one another */
export function groupColours(counts: ReadonlyMap<string, number>, within: number): ColourGroup[] {
  const groups: Group[] = [];
  for (const one of toldApart(counts)) {
    const home = within > 0 ? groups.find((group) => colourDifference(group.hex, one.hex) <= within) : undefined;
    if (home) {
      for (const hex of one.hexes) home.hexes.push(hex);
      home.count += one.count;
    } else groups.push(one);
  }
  return groups;
}
