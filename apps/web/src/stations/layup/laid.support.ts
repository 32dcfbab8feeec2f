/** A drawing to be laid up in tests: boxes on one film, each a part of its own, nested. */
import { boxShape } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  defaultLayUp,
  emptyDrawing,
  setLayUp,
  type Drawing,
  type Fill,
  type Known,
  type PlainItem,
} from '@lorvek/model';
import { sheetsOf, type SheetPlan } from '@lorvek/model/plan-sheet';
import { film, run, shapeOf, stockOf } from '../../../../../packages/model/src/drawing.support.ts';
import { plainOutline } from '../../../../../packages/model/src/queries/plain-outline.ts';

export const NEST: Fill = { kind: 'nest', gapMm: 5, turnStepDeg: 90, intoHoles: false };

export const knownOf = (item: { kind: string }): Known => {
  const outline = plainOutline(item as PlainItem);
  return { derived: { outline, lines: [], missing: [] }, pieces: [{ layer: (item as PlainItem).layer, outline }] };
};

export function boxesOf(sizes: readonly (readonly [number, number])[]): Drawing {
  const items = sizes.map(([w, h], i) => ({
    ...shapeOf(`item-${i}`, 'film-a', boxShape(w, h)),
    matrix: [1, 0, 0, 1, 130 * i, 0] as [number, number, number, number, number, number],
  }));
  const withFilm = run(emptyDrawing(), addFilm, { film: film('film-a') });
  const drawn = run(withFilm, addItems, { items, roots: items.map(({ id }) => id) });
  return run(drawn, setLayUp, { film: 'film-a', fields: { ...defaultLayUp('film-a'), fill: NEST } });
}

/** As the worker would work them out. */
export const laidSheets = (drawing: Drawing): SheetPlan[] =>
  sheetsOf(drawing, [stockOf('film-a', { widthMm: 600 })], knownOf as never, 'job-1', { withChecks: false } as never);
