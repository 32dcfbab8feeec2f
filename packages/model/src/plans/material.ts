/** What work is laid on: the roll of Stock that a sheet names, or the only one that will do. */
import type { Roll, StockFilm } from '../api/shop.ts';
import type { Layer } from '../records/layers.ts';
import type { LayUp } from '../records/lay-up.ts';

/** A roll, sheet or offcut as work lies on it. */
export interface Material {
  /** Across the roll, mm. */
  readonly widthMm: number;
  /** What is left along it, mm. */
  readonly lengthMm: number;
}

/** Shown while no roll is chosen: a usual width, and length enough. Never cut from. */
export const ANY_ROLL: Material = { widthMm: 610, lengthMm: 1_000_000 };

/** A roll as material. */
export const materialOf = (roll: Roll): Material => ({ widthMm: roll.widthMm, lengthMm: roll.lengthLeftMm });

/** The roll a layer is cut from, and how it came to be chosen. */
export interface RollChoice {
  /** null: none, and so nothing can be cut. */
  readonly roll: Roll | null;
  /**
   * Named on the sheet, the only one that will do, none of several named, named and gone, no roll of this film at all, or
   * what lies in a machine by its own word.
   */
  readonly how: 'named' | 'only' | 'open' | 'gone' | 'none' | 'reported';
}

/**
 * The roll that a film's work goes on.
 * @param fits does the work lie within the roll's clear width and length? Asked only when there is a choice.
 */
export function chooseRoll(sheet: LayUp, layer: Layer, stock: readonly StockFilm[], fits: (material: Material) => boolean): RollChoice {
  if (sheet.reported) return { roll: null, how: 'reported' };
  const rolls = stock.find(({ id }) => id === layer.stockId)?.rolls ?? [];
  if (sheet.rollId !== null) {
    const roll = rolls.find(({ id }) => id === sheet.rollId);
    return roll ? { roll, how: 'named' } : { roll: null, how: 'gone' };
  }
  const left = rolls.filter(({ lengthLeftMm }) => lengthLeftMm > 0);
  const [first] = left;
  if (!first) return { roll: null, how: 'none' };
  if (left.length === 1) return { roll: first, how: 'only' };
  const fitting = left.filter((roll) => fits(materialOf(roll)));
  return fitting.length === 1 && fitting[0] ? { roll: fitting[0], how: 'only' } : { roll: null, how: 'open' };
}

/** What one sheet is laid on. */
export function sheetMaterial(sheet: LayUp, { roll }: RollChoice): Material {
  const whole = sheet.reported ?? (roll ? materialOf(roll) : ANY_ROLL);
  return { widthMm: whole.widthMm, lengthMm: Math.min(whole.lengthMm, sheet.sheetLengthMm ?? Infinity) };
}

/** The narrowest roll of those that hold the work, an offcut before a whole one. */
export function narrowestThatFits(layer: Layer, stock: readonly StockFilm[], fits: (material: Material) => boolean): Roll | undefined {
  const rolls = stock.find(({ id }) => id === layer.stockId)?.rolls ?? [];
  return [...rolls]
    .filter((roll) => roll.lengthLeftMm > 0 && fits(materialOf(roll)))
    .sort((a, b) => a.widthMm - b.widthMm || Number(b.isOffcut) - Number(a.isOffcut) || a.lengthLeftMm - b.lengthLeftMm)[0];
}
