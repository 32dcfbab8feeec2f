/** Ids know of what they are where the compiler looks; at run time they are text. */
import { expect, test } from '@jest/globals';
import { itemOf, layerOf, layUpOf, leavesOf, removeItems, type Command, type Drawing, type Film, type ShapeItem } from '../index.ts';
import { film, shapeOf } from '../drawing.support.ts';
import { itemId, layerId } from './fields.ts';

type Asked<C> = C extends Command<infer Args> ? Args : never;

/** Each line that the compiler must refuse is marked so: one that it took would be an error. */
const mixedUp = (drawing: Drawing, item: ShapeItem, layer: Film): unknown[] => [
  // @ts-expect-error -- an item's id names no layer
  layerOf(drawing, item.id),
  // @ts-expect-error -- nor the lay-up of one
  layUpOf(drawing, item.id),
  // @ts-expect-error -- a layer's id names no item
  itemOf(drawing, layer.id),
  // @ts-expect-error -- in a list neither
  leavesOf(drawing, [layer.id]),
  // @ts-expect-error -- nor as what a command is given
  { ids: [layer.id] } satisfies Asked<typeof removeItems>,
  layerOf(drawing, item.layer),
  itemOf(drawing, 'item-of-plain-text'),
];

test('an id is text of its own shape, whatever the compiler knows of it', () => {
  const shape = shapeOf('item-x1', 'film-a', { contours: [] });
  expect(mixedUp({ 'film-a': film('film-a'), [shape.id]: shape }, shape, film('film-a')).at(-2)).toEqual(film('film-a'));
  for (const schema of [itemId, layerId]) {
    expect(schema.parse('item-x1')).toBe('item-x1');
    for (const bad of ['x1', '', 'item-', 'item x', 7, null]) expect(schema.safeParse(bad).success).toBe(false);
  }
});
