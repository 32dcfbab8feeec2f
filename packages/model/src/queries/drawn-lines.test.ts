/** What follows a drawn line lies on it after any change of either; a line that is gone leaves it as it was. */
import { describe, expect, test } from '@jest/globals';
import { bounds, compose, deviation, mapOutline, parsePath, rotation, translation } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  emptyDrawing,
  isAid,
  itemOf,
  lineFor,
  newTreatment,
  removeItems,
  setItemFields,
  setTreatments,
  transformItems,
  type BoxItem,
  type Drawing,
  type ShapeItem,
} from '../index.ts';
import { film, run } from '../drawing.support.ts';

const line: ShapeItem = {
  type: 'item',
  kind: 'shape',
  id: 'item-line',
  name: 'Line',
  layer: 'film-a',
  matrix: [1, 0, 0, 1, 10, 20],
  path: 'M0 0C20 40 60 -40 80 0',
};
const plate: BoxItem = {
  ...line,
  kind: 'box',
  id: 'item-plate',
  name: 'Plate',
  matrix: [1, 0, 0, 1, 5, 5],
  widthMm: 90,
  heightMm: 40,
  cornerMm: 0,
};

function followed(): Drawing {
  let drawing = run(emptyDrawing(), addFilm, { film: film('film-a') });
  const { path: _path, ...box } = plate as BoxItem & { path?: string };
  drawing = run(drawing, addItems, { items: [line, box], roots: [line.id, box.id] });
  const tone = newTreatment('two-tone', 'treatment-t', 10, 'film-a');
  const path = lineFor(line, plate.matrix)!;
  return run(drawing, setTreatments, { id: plate.id, treatments: [{ ...tone, edge: 'drawn', path, lineItem: line.id } as typeof tone] });
}

/** How far the edge lies from the line, on the drawing. */
function off(drawing: Drawing): number {
  const item = itemOf(drawing, plate.id) as BoxItem;
  const source = itemOf(drawing, line.id) as ShapeItem;
  const [tone] = item.treatments ?? [];
  if (tone?.kind !== 'two-tone') throw new Error('no edge');
  return deviation(mapOutline(item.matrix, parsePath(tone.path)), mapOutline(source.matrix, parsePath(source.path)));
}

describe('drawn lines', () => {
  test('an edge lies on its line after the line, the item or both were moved, turned, or drawn anew', () => {
    const drawing = followed();
    expect(off(drawing)).toBeLessThan(1e-3);
    const turn = compose(translation(30, -4), rotation(35));
    for (const ids of [[line.id], [plate.id], [line.id, plate.id]])
      expect(off(run(drawing, transformItems, { ids, map: turn }))).toBeLessThan(1e-3);
    const redrawn = run(drawing, setItemFields, { id: line.id, fields: { path: 'M0 0L50 30L80 -10' } });
    expect(off(redrawn)).toBeLessThan(1e-3);
    const item = itemOf(redrawn, plate.id) as BoxItem;
    expect(bounds(parsePath((item.treatments![0] as { path: string }).path)).maxY).toBeCloseTo(45, 3);
  });

  test('what has nothing to do with the line keeps its very record; a line that is gone leaves the edge', () => {
    const drawing = followed();
    const renamed = run(drawing, setItemFields, { id: plate.id, fields: { name: 'Board' } });
    expect((itemOf(renamed, plate.id) as BoxItem).treatments).toEqual((itemOf(drawing, plate.id) as BoxItem).treatments);
    const without = run(drawing, removeItems, { ids: [line.id] });
    expect((itemOf(without, plate.id) as BoxItem).treatments).toEqual((itemOf(drawing, plate.id) as BoxItem).treatments);
  });

  test('a helper line is looked at only: neither cut nor checked', () => {
    const drawing = run(followed(), setItemFields, { id: line.id, fields: { helper: true } });
    expect(isAid(itemOf(drawing, line.id)!)).toBe(true);
    expect(isAid(itemOf(run(drawing, setItemFields, { id: line.id, fields: { helper: false } }), line.id)!)).toBe(false);
  });
});
