/** Settings of a trace as the tracer takes them: its outlines come in the picture's own pixels. */
import { describe, expect, test } from '@jest/globals';
import { traceImage } from '@lorvek/core/trace';
import { area, parsePath } from '@lorvek/core/geometry';
import { traceSettings as settings } from '../../model/src/drawing.support.ts';
import { pictureHost, plainPixels } from './host.support.ts';
import { liftGround, silhouetteOfClear, silhouetteOfGround } from './picture-outlines.ts';
import { optionsOf, traceAsset } from './trace-asset.ts';

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

describe('pictures that are traced', () => {
  const asked = (fields: Partial<Parameters<typeof traceAsset>[0]> = {}): Parameters<typeof traceAsset>[0] => ({
    asset: 'a',
    settings,
    mmPerPx: 1,
    mostPx: 100,
    withCleaned: false,
    ...fields,
  });

  test('are opened once while settings change, no larger than a screen needs; in full when they are placed', async () => {
    const host = pictureHost({ 'kept-once': halves() });
    const look = (mostPx: number, smoothness: number) =>
      traceAsset(asked({ asset: 'kept-once', mostPx, settings: { ...settings, clean: 'none', smoothness } }), host, () => undefined);
    const first = await look(60, 0.5);
    await look(60, 0.7);
    expect(host.asked).toMatchObject({ opened: ['kept-once'], sizes: [[60, 60]], closed: 1 });
    await look(5000, 0.5);
    expect(host.asked.opened).toHaveLength(2);
    expect(host.asked.sizes.at(-1)).toEqual([120, 120]);
    // the frame is the picture's own, however small it was looked at
    expect(first.widthPx).toBeCloseTo(120, 6);
    expect(first.layers.map(({ parts }) => parts.length)).not.toContain(0);
  });

  test('that cannot be fetched are asked for again', async () => {
    const pictures: Record<string, ReturnType<typeof halves>> = {};
    const host = pictureHost(pictures);
    await expect(traceAsset(asked({ asset: 'late' }), host, () => undefined)).rejects.toMatchObject({ code: 'offline' });
    pictures.late = halves();
    expect((await traceAsset(asked({ asset: 'late' }), host, () => undefined)).layers.length).toBeGreaterThan(0);
  });

  test('give the outline of what stands on their ground, or is not clear; none when all is solid or nothing is left', async () => {
    const clear = halves();
    for (let i = 0; i < clear.data.length; i += 4) if (clear.data[i] === 255) clear.data[i + 3] = 0;
    const host = pictureHost({ ground: halves(), clear, plain: plainPixels(50, 40) });
    const size = (path: string) => (path === '' ? 0 : Math.abs(area(parsePath(path))));
    expect(size(await silhouetteOfGround({ asset: 'ground' }, host))).toBeCloseTo(6400, -3);
    expect(await silhouetteOfClear({ asset: 'ground' }, host)).toBe('');
    expect(size(await silhouetteOfClear({ asset: 'clear' }, host))).toBeCloseTo(6400, -3);
    const lifted = await liftGround({ asset: 'ground' }, host);
    expect(size(lifted.path)).toBeCloseTo(6400, -3);
    expect([...lifted.bytes.subarray(1, 4)]).toEqual([...new TextEncoder().encode('PNG')]);
    // every picture that was opened was closed
    expect(host.asked.closed).toBe(host.asked.opened.length);
  });
});
