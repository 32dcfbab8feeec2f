/**
 * The colours of a picture as it needs: flat places tell most of them, what no mixture explains the small ones, and in
 * pictures squeezed by JPEG the brightness of parts those that hue alone would hide.
 */
import { missingShades, withoutSmears, withTrueHues } from './hue.ts';
import { colourOf, colourOfUnexplained, findPalette, isNew, labApart, samplesOf, type FlatColour } from './palette.ts';
import { followingOf, type Prepared } from './prepare.ts';
import { HUE_OF_COLOURS, HUE_OF_SHARES } from './squeezed.ts';
import { takenApart } from './take-apart.ts';
import { unexplained } from './unmix.ts';

/** Colours of a palette at most. */
export const MOST_COLOURS = 64;

/**
 * The colours that were asked for, or those that are found.
 * @param colours a number of them at most, or the ones to be used; undefined: as many as are found
 */
export function paletteFor(prepared: Prepared, colours: number | readonly string[] | undefined): FlatColour[] {
  if (typeof colours === 'object') return colours.slice(0, MOST_COLOURS).map(colourOf);
  const max = colours === undefined ? MOST_COLOURS : Math.max(1, Math.min(MOST_COLOURS, colours));
  const exact = prepared.two ?? prepared.stepped?.colours;
  const found = exact ? exact.slice(0, max) : flatColours(prepared, max);
  return found.length > 0 ? found : findPalette(samplesOf(prepared.plane), { levels: 120, apart: 20, leastShare: 0.01, max });
}

/** Of the pixels that no mixture explains, the share that is asked for the colour that is missing. */
const TELLING = 0.3;
/** Pixels of one colour differ by no more levels where nothing is blurred. */
const ALIKE = 3;

/** Colours of rough pictures may be as near as this when both cover large parts, ΔE 1976. */
const ALIKE_APART = 7;
const LARGE_SHARE = 0.03;

/** Noise and blocks give a colour small shades; what is as near but covers a large part is a colour of its own. */
const withoutShades = (found: readonly FlatColour[], apart: number): FlatColour[] =>
  found.filter((one, k) => one.share >= LARGE_SHARE || found.slice(0, k).every(({ lab }) => labApart(lab, one.lab) >= apart));

/** Where nothing is spoiled, large parts of exactly one colour may be as near as this, ΔE 1976. */
const EXACT_APART = 2.2;

/** What is exactly flat and large is sure; of the rest what is no shade of it. */
const withExactOnes = (exact: readonly FlatColour[], found: readonly FlatColour[], apart: number): FlatColour[] => [
  ...exact,
  ...found.filter(({ lab }) => exact.every((one) => labApart(one.lab, lab) >= apart)),
];

/** Parts so thin that their hue is lost are looked for in pictures of no more pixels. */
const MOST_THIN = 2_000_000;
/** Waves beside edges go beyond the colours on both sides by this share of what these differ by. */
const OVERSHOOT = 0.12;

function flatColours(prepared: Prepared, max: number): FlatColour[] {
  const { plane, noise, isSoft, isSqueezed } = prepared;
  const apart = isSoft ? 11 : 6;
  const hue = isSqueezed ? HUE_OF_COLOURS : 1;
  const samples = samplesOf(plane);
  // strictly flat places tell colours best; small parts have none, and are looked for with less strictness
  const strict = isSoft
    ? withoutShades(findPalette(samples, { levels: 7 + 2 * noise, apart: ALIKE_APART, leastShare: 0.0015, max }), apart)
    : withExactOnes(
        findPalette(samples, { levels: 0, apart: EXACT_APART, leastShare: LARGE_SHARE, max }),
        findPalette(samples, { levels: 4, apart, leastShare: 0.0003, max }),
        apart,
      ).slice(0, max);
  const found = [...strict];
  for (const levels of isSoft ? [18, 32, 48] : [12, 24, 44]) {
    const more = findPalette(samples, { levels: levels + 2 * noise, apart, leastShare: isSoft ? 0.002 : 0.0006, max });
    for (const colour of more) if (found.length < max && isNew(plane, colour, found, isSoft ? 16 : 12, hue)) found.push(colour);
  }
  addMissing(prepared, found, max);
  return isSqueezed && found.length > 0 && plane.width * plane.height <= MOST_THIN ? withThinOnes(prepared, found, max) : found;
}

/** Levels that pixels at edges may be off every mixture in a picture that was brought down to few colours. */
const FEW_LIMIT = 40;

/** Adds colours of parts that are flat nowhere, as long as pixels are left that no mixture explains. */
function addMissing(prepared: Prepared, found: FlatColour[], max: number): void {
  const { plane, isSoft, isSqueezed, isOfFew } = prepared;
  const following = followingOf(prepared);
  // where edges are blurred, colours from farther off mix in as well, and waves overshoot
  const asking = isSoft
    ? { reach: 0, limit: 34, beyond: OVERSHOOT }
    : { reach: following.reach, limit: isOfFew ? FEW_LIMIT : 24, beyond: 0 };
  const hue = isSqueezed ? HUE_OF_COLOURS : 1;
  for (let round = 0; round < 8 && found.length > 0 && found.length < max; round++) {
    const asked = unexplained(plane, found, { ...following, ...asking, clear: undefined, hue });
    const missing = colourOfUnexplained(asked.found, asked.looked, TELLING, isSoft ? undefined : ALIKE);
    if (!missing || !isNew(plane, missing, found, isSoft ? 14 : 12, isSqueezed ? HUE_OF_SHARES : 1)) break;
    found.push(missing);
  }
}

/** Colours of squeezed pictures with those that only the brightness of parts tells, and the hue that thin ones had. */
function withThinOnes(prepared: Prepared, found: readonly FlatColour[], max: number): FlatColour[] {
  const { plane, raw } = prepared;
  const following = followingOf(prepared);
  const missing = missingShades(plane, found, takenApart({ plane, palette: found, following, times: 1 }).labels);
  const all = [...found, ...missing.slice(0, max - found.length)];
  const { labels } = takenApart({ plane, palette: all, following, times: 1 });
  const kept = withoutSmears(plane, all, labels);
  return withTrueHues(raw, kept, kept.length === all.length ? labels : takenApart({ plane, palette: kept, following, times: 1 }).labels);
}
