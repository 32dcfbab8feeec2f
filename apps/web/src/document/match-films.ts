/** Colours of a file and the films they are cut from: like colours together, the nearest film to each, by CIEDE2000. */
import { colourDifference } from '@lorvek/core/colour';

export interface FilmColour {
  readonly id: string;
  readonly hex: string;
}

/** Beyond this a film is not the colour that was meant. */
export const FARTHEST = 20;

export interface Match {
  readonly film: string | null;
  readonly difference: number;
}

export function nearestFilm(hex: string, films: readonly FilmColour[]): Match {
  let best: Match = { film: null, difference: Infinity };
  for (const film of films) {
    const difference = colourDifference(hex, film.hex);
    if (difference < best.difference) best = { film: film.id, difference };
  }
  return best.difference <= FARTHEST ? best : { film: null, difference: best.difference };
}

export interface ColourGroup {
  /** The most used colour of the group. */
  readonly hex: string;
  readonly hexes: readonly string[];
  readonly count: number;
}

/** Colours within a difference of a more used one join it. */
export function groupColours(counts: ReadonlyMap<string, number>, within: number): ColourGroup[] {
  const groups: { hex: string; hexes: string[]; count: number }[] = [];
  for (const [hex, count] of [...counts].sort((a, b) => b[1] - a[1])) {
    const home = within > 0 ? groups.find((group) => colourDifference(group.hex, hex) <= within) : undefined;
    if (home) {
      home.hexes.push(hex);
      home.count += count;
    } else groups.push({ hex, hexes: [hex], count });
  }
  return groups;
}
