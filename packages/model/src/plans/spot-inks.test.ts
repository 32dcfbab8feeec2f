import { describe, expect, test } from '@jest/globals';
import { boxShape } from '@lorvek/core/geometry';
import type { PrintItem } from '@lorvek/core/print';
import type { PrintLayer } from '../records/layers.ts';
import { findSpots, inkedBy } from './spot-inks.ts';

const layer = (fields: Partial<PrintLayer>): PrintLayer => ({
  type: 'print',
  id: 'print-p',
  stockId: 's',
  name: 'White',
  series: 'S',
  hex: '#ffffff',
  medium: 'white',
  visible: true,
  locked: false,
  ...fields,
});
const gold = { hex: '#c08a2e', spot: 'Gold' };
const item: PrintItem = { kind: 'shape', of: 'a', outline: boxShape(10, 10), fill: gold, stroke: { ...gold, widthMm: 2 } };

describe('inks of their own names', () => {
  test('keep their plate, with the values that stand for them, or go into process inks, fills and lines alike', () => {
    expect(inkedBy(undefined, item)).toBe(item);
    expect(inkedBy({ Other: { as: 'process', cmyk: null } }, item)).toEqual(item);
    expect(inkedBy({ Gold: { as: 'plate', cmyk: [0, 0.3, 0.8, 0.2] } }, item)).toMatchObject({
      fill: { ...gold, cmyk: [0, 0.3, 0.8, 0.2] },
      stroke: { spot: 'Gold', widthMm: 2, cmyk: [0, 0.3, 0.8, 0.2] },
    });
    const process = inkedBy({ Gold: { as: 'process', cmyk: null } }, item);
    expect(process).toMatchObject({ of: 'a', fill: { hex: gold.hex }, stroke: { hex: gold.hex, widthMm: 2 } });
    expect(process.kind === 'shape' && [process.fill?.spot, process.stroke?.spot]).toEqual([undefined, undefined]);
  });

  test('one that stands for white and goes into colours too is refused by name', () => {
    const white = {
      where: 'behind' as const,
      coverage: 'named-spot' as const,
      spots: ['Gold', 'Silver'],
      bend: 1,
      strengthPct: 100,
      spreadMm: 0,
    };
    expect(findSpots(layer({ white, spots: { Gold: { as: 'plate', cmyk: null } } }), [])).toEqual([]);
    const [found, ...others] = findSpots(layer({ white, spots: { Gold: { as: 'process', cmyk: null } } }), ['a']);
    expect(found).toMatchObject({ level: 'stop', text: expect.stringContaining('“Gold”') });
    expect(others).toEqual([]);
  });
});
