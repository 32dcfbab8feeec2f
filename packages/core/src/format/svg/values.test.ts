/** Lengths, colours, transforms and viewBoxes against what CSS and SVG say of them. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mapPoint } from '../../geometry/transform.ts';
import { colour, fitViewBox, length, luminance, numbers, transform, viewBox } from './values.ts';

const CONTEXT = { width: 200, height: 100, fontSize: 20 };
const px = (text: string, of: 'x' | 'y' | 'diagonal' = 'x'): number | undefined => length(text, CONTEXT, of);
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });

describe('lengths', () => {
  test('of one inch in every unit are 96 px', () => {
    for (const text of ['96', '96px', '1in', '25.4mm', '2.54cm', '72pt', '6pc', '101.6q', '1IN'])
      expect([text, px(text)?.toFixed(6)]).toEqual([text, '96.000000']);
  });

  test('in shares are of the width, the height, or the diagonal over the root of two', () => {
    expect([px('50%'), px('50%', 'y'), px('50%', 'diagonal')?.toFixed(3)]).toEqual([100, 50, '79.057']);
    expect([px('2em'), px('1rem'), px('2ex')]).toEqual([40, 16, 20]);
  });

  test('that are none are none', () => {
    for (const text of ['', 'auto', '5 mm mm', '1e', '1px2', '12furlong', '--3']) expect([text, px(text)]).toEqual([text, undefined]);
    expect(length(undefined, CONTEXT, 'x')).toBeUndefined();
  });
});

describe('colours', () => {
  test('are the same however they are written', () => {
    const channel = fc.integer({ min: 0, max: 255 });
    fc.assert(
      fc.property(channel, channel, channel, (r, g, b) => {
        const hex = `#${[r, g, b].map((v) => v.toString(16).padStart(2, '0')).join('')}`;
        for (const text of [
          hex,
          hex.toUpperCase(),
          `rgb(${r}, ${g}, ${b})`,
          `rgb(${r} ${g} ${b} / 1)`,
          ` rgba(${r},${g},${b},100%) `,
          `${hex}ff`,
        ])
          expect(colour(text)).toEqual({ hex, alpha: 1 });
      }),
    );
    expect(colour('#1af')).toEqual({ hex: '#11aaff', alpha: 1 });
    expect(colour('#1af8')?.alpha).toBeCloseTo(0x88 / 255, 9);
    expect(colour('transparent')?.alpha).toBe(0);
  });

  test('by hue go round the wheel, and by shares as far as they say', () => {
    const hexes = [0, 60, 120, 180, 240, 300, 360, -60].map((h) => colour(`hsl(${h}, 100%, 50%)`)?.hex);
    expect(hexes).toEqual(['#ff0000', '#ffff00', '#00ff00', '#00ffff', '#0000ff', '#ff00ff', '#ff0000', '#ff00ff']);
    expect(colour('hsl(0.5turn 0% 50%)')?.hex).toBe('#808080');
    expect(colour('rgb(100%, 0%, 50%)')?.hex).toBe('#ff0080');
    expect(colour('rgb(300, -20, 0)')?.hex).toBe('#ff0000');
  });

  test('that are none are none: paint servers, mistakes', () => {
    for (const text of ['none', 'url(#a)', '#12', '#12345', 'rgb(1,2)', 'rgb(a,b,c)', 'currentcolor', 'hsl()', ''])
      expect([text, colour(text)]).toEqual([text, undefined]);
  });

  test('are as light as the eye takes them for: white one, black none, green more than red more than blue', () => {
    expect(luminance('#ffffff')).toBeCloseTo(1, 9);
    expect(luminance('#000000')).toBe(0);
    expect(luminance('#00ff00')).toBeGreaterThan(luminance('#ff0000'));
    expect(luminance('#ff0000')).toBeGreaterThan(luminance('#0000ff'));
  });
});

describe('transforms', () => {
  test('of a list are done from the last to the first', () => {
    fc.assert(
      fc.property(number(-50, 50), number(-50, 50), number(-180, 180), number(0.2, 4), (x, y, turn, k) => {
        const p = mapPoint(transform(`translate(${x} ${y}) rotate(${turn}) scale(${k})`, CONTEXT), { x: 3, y: 4 });
        const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
        expect(p.x).toBeCloseTo(x + k * (3 * c - 4 * s), 6);
        expect(p.y).toBeCloseTo(y + k * (3 * s + 4 * c), 6);
      }),
    );
  });

  test('turn round the place that is named, in every unit of angles', () => {
    for (const turn of ['90', '90deg', '100grad', '0.25turn', '1.5707963267948966rad'])
      expect(mapPoint(transform(`rotate(${turn}, 10, 20)`, CONTEXT), { x: 15, y: 20 })).toEqual({
        x: expect.closeTo(10, 6),
        y: expect.closeTo(25, 6),
      });
  });

  test('with a mistake in them are none at all', () => {
    for (const text of ['translate(5) wobble(3)', 'matrix(1,0,0,1,5)', 'scale(a)', 'none', ''])
      expect([text, [...transform(text, CONTEXT)]]).toEqual([text, [1, 0, 0, 1, 0, 0]]);
  });
});

describe('a viewBox', () => {
  const size = number(1, 500);
  test('lies within its viewport as preserveAspectRatio says: whole, or covering it, or drawn out', () => {
    const align = fc.constantFrom('xMinYMin', 'xMidYMid', 'xMaxYMax', 'xMinYMax', 'none');
    fc.assert(
      fc.property(
        number(-90, 90),
        number(-90, 90),
        size,
        size,
        size,
        size,
        align,
        fc.constantFrom('meet', 'slice'),
        (x, y, w, h, width, height, how, meet) => {
          const map = fitViewBox({ x, y, width: w, height: h }, width, height, `${how} ${meet}`);
          const [low, high] = [mapPoint(map, { x, y }), mapPoint(map, { x: x + w, y: y + h })];
          const [gx, gy] = [width - (high.x - low.x), height - (high.y - low.y)];
          if (how === 'none') expect([gx, gy].map((v) => Math.abs(v) < 1e-6)).toEqual([true, true]);
          else {
            expect(map[0]).toBe(map[3]);
            // one side fits, the other leaves room or goes beyond
            expect(Math.min(Math.abs(gx), Math.abs(gy))).toBeLessThan(1e-6);
            expect(meet === 'meet' ? Math.min(gx, gy) : -Math.max(gx, gy)).toBeGreaterThan(-1e-6);
          }
          const share = how.startsWith('xMin') ? 0 : how.startsWith('xMax') ? 1 : 0.5;
          expect(low.x).toBeCloseTo(how === 'none' ? 0 : share * gx, 5);
        },
      ),
    );
  });

  test('needs four numbers and a size', () => {
    expect(viewBox('0 -5, 10 20')).toEqual({ x: 0, y: -5, width: 10, height: 20 });
    for (const text of [undefined, '', '0 0 10', '0 0 0 5', '0 0 5 -5', 'a b c d'])
      expect([text, viewBox(text)]).toEqual([text, undefined]);
    expect(numbers('1,-2 .5.5e1')).toEqual([1, -2, 0.5, 5]);
  });
});
