/**
 * Reading distance: how far off a sign reads, from the height of its capitals and the angle they take up in the eye.
 * Reads well: 20 minutes of arc, the lower end of what ISO 9241-303:2011 recommends for reading at ease (20 to 22).
 * Just made out: 5 minutes of arc, the letter that normal sight (visual acuity 1.0) resolves, ISO 8596:2017.
 * Bad light, thin strokes, script letters, weak contrast and a slanting view shorten both.
 */
export interface ReadingDistance {
  readonly wellMm: number;
  readonly atMostMm: number;
}

const MINUTE = Math.PI / (180 * 60);

/** @param capHeightMm height of the capitals, mm */
export const readingDistance = (capHeightMm: number): ReadingDistance => ({
  wellMm: capHeightMm / Math.tan(20 * MINUTE),
  atMostMm: capHeightMm / Math.tan(5 * MINUTE),
});
