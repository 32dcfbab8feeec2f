/**
 * A printed sheet in a cutter: it never lies as it was printed. Each time it is put in, its shift, turn, scale and skew
 * are drawn by lot, and where it really lies is known here alone: the camera finds out, and afterwards it is measured how
 * far the cut is from where it should be.
 */
import Flatbush from 'flatbush';
import { compose, invert, mapPoint, rotation, segmentDistance, translation, type Matrix } from '@lorvek/core/geometry';
import { segmentsOf, type PrintedSheet } from './printed-sheet.ts';

export interface Hidden {
  /** Greatest shift each way, mm; turn, degrees; scale and skew, shares. */
  readonly shiftMm: number;
  readonly turnDeg: number;
  readonly scale: number;
  readonly skew: number;
}
export const USUAL_HIDDEN: Hidden = { shiftMm: 4, turnDeg: 0.8, scale: 0.003, skew: 0.0015 };

export class LoadedSheet {
  readonly sheet: PrintedSheet;
  /** From the sheet to the machine. */
  readonly lies: Matrix;

  constructor(sheet: PrintedSheet, hidden: Hidden, isTurned: boolean, random: () => number = Math.random) {
    this.sheet = sheet;
    const either = (most: number): number => (2 * random() - 1) * most;
    const stretch: Matrix = [1 + either(hidden.scale), 0, either(hidden.skew), 1 + either(hidden.scale), 0, 0];
    const shift = translation(Math.abs(either(hidden.shiftMm)), Math.abs(either(hidden.shiftMm)));
    const half: Matrix = isTurned ? [-1, 0, 0, -1, sheet.lengthMm, sheet.widthMm] : [1, 0, 0, 1, 0, 0];
    this.lies = compose(shift, compose(rotation(either(hidden.turnDeg)), compose(stretch, half)));
  }

  /** Greatest distance of places of the blade, mm of the machine, from the lines that the print speaks of; null without any. */
  offMm(places: Iterable<readonly [number, number]>): number | null {
    const segments = segmentsOf(this.sheet.lines);
    const back = invert(this.lies);
    if (segments.length === 0 || !back) return null;
    const tree = new Flatbush(segments.length);
    for (const [ax = 0, ay = 0, bx = 0, by = 0] of segments)
      tree.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
    tree.finish();
    let worst = 0;
    for (const [x, y] of places) {
      const p = mapPoint(back, { x, y });
      let best = Infinity;
      for (const i of tree.neighbors(p.x, p.y, 8))
        best = Math.min(best, segmentDistance(p.x, p.y, ...(segments[i] as [number, number, number, number])));
      worst = Math.max(worst, best);
    }
    return worst;
  }
}
