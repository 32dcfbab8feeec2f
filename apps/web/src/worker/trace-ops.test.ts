/** Settings of a trace as the tracer takes them: its outlines come in the picture's own pixels. */
import { expect, test } from '@jest/globals';
import { traceImage } from '@lorvek/core/trace';
import { area } from '@lorvek/core/geometry';
import type { TraceSettings } from '@lorvek/model';
import { optionsOf } from './trace-ops.ts';

const settings: TraceSettings = {
  clean: 'auto',
  colours: null,
  leaveOut: [],
  stacking: 'overlaid',
  smoothness: 0.5,
  cornerDeg: 30,
  smallestPx: null,
  result: null,
};

/** Red beside blue on white, 120 pixels square, each half 40 by 80. */
function halves() {
  const data = new Uint8ClampedArray(120 * 120 * 4).fill(255);
  for (let y = 20; y < 100; y++) for (let x = 20; x < 100; x++) data.set(x < 60 ? [192, 48, 48] : [48, 48, 192], 4 * (y * 120 + x));
  return { width: 120, height: 120, data };
}

test('a trap in mm of the drawing is as many pixels as the picture’s scale says', async () => {
  const areas = async (trapMm: number, mmPerPx: number): Promise<number[]> =>
    (await traceImage(halves(), optionsOf({ ...settings, trapMm }, 1, mmPerPx))).layers.map(({ outline }) => area(outline));
  const [plain = 0] = await areas(0, 5);
  const [trapped = 0] = await areas(20, 5);
  expect(plain).toBeCloseTo(3200, -2);
  // 20 mm are 4 pixels along an edge of 80
  expect(trapped - plain).toBeCloseTo(320, -1);
});

test('colours named by hand go before their number; specks shrink with a smaller picture', () => {
  const named = optionsOf({ ...settings, colours: 3, named: ['#ff0000'], smallestPx: 100 }, 0.5, 1);
  expect(named).toMatchObject({ colours: ['#ff0000'], smallestPx: 25, pixelMm: 2, mode: 'colours' });
  expect(optionsOf({ ...settings, colours: 3, named: [] }, 1, 1).colours).toBe(3);
  expect('colours' in optionsOf(settings, 1, 1)).toBe(false);
});
