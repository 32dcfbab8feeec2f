/** What work is laid on. */

export interface Material {
  /** Across the roll, mm. */
  readonly widthMm: number;
  /** What is left along it, mm. */
  readonly lengthMm: number;
}

/** A roll that nobody has chosen: a usual width, and length enough. */
export const ANY_ROLL: Material = { widthMm: 610, lengthMm: 1_000_000 };
