/** Plates laid over one another, as laws of ink on a medium. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { standInForBrowser } from '../../browser.support.ts';
import type { Looked, Plates, PlateShown } from './plates.ts';
import type * as Module from './plates.ts';

const [WIDTH, HEIGHT] = [4, 2];
let composed: typeof Module.composed;

class Pixels {
  readonly data: Uint8ClampedArray;
  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.data = new Uint8ClampedArray(4 * width * height);
  }
}
standInForBrowser({ ImageData: Pixels });
beforeAll(async () => {
  ({ composed } = await import('./plates.ts'));
});

/** A plate with so much ink a pixel, 0 to 255. */
function plate(name: string, pass: string, ink: readonly number[]): PlateShown {
  const pixels = new ImageData(WIDTH, HEIGHT);
  ink.forEach((value, i) => pixels.data.set([value, value, value, 255], 4 * i));
  return { key: `${pass}/${name}`, name, pass, cover: 0, pixels };
}
const platesOf = (...passes: readonly (readonly PlateShown[])[]): Plates => ({
  widthMm: 40,
  heightMm: 20,
  passes: passes.map((list, i) => ({ name: `${i + 1}`, kind: list.some(({ name }) => name === 'White') ? 'white' : 'colour', list })),
});
const looked = (shown: readonly PlateShown[], fields: Partial<Looked> = {}): Looked => ({
  shown: new Set(shown.map(({ key }) => key)),
  mediumHex: '#ffffff',
  looks: {},
  side: 'front',
  whiteFirst: true,
  ...fields,
});
const ink = fc.array(fc.nat({ max: 255 }), { minLength: WIDTH * HEIGHT, maxLength: WIDTH * HEIGHT });
const FULL = Array.from({ length: WIDTH * HEIGHT }, () => 255);
const NONE = FULL.map(() => 0);
const rgb = (image: ImageData | undefined): number[] => [...(image?.data ?? [])].filter((_, i) => i % 4 !== 3);

describe('plates over one another', () => {
  test('nothing shown is nothing; no ink is the medium', () => {
    const cyan = plate('Cyan', '1', NONE);
    const black = plate('Black', '1', NONE);
    expect(composed(platesOf([cyan]), looked([]))).toBeUndefined();
    const bare = rgb(composed(platesOf([cyan, black]), looked([cyan, black], { mediumHex: '#204060' })));
    expect(bare.slice(0, 3)).toEqual([0x20, 0x40, 0x60]);
  });

  test('one alone is shown in black on white, whatever ink it is: more ink is darker', () => {
    fc.assert(
      fc.property(fc.constantFrom('Cyan', 'White', 'Old gold'), ink, (name, amounts) => {
        const one = plate(name, '1', amounts);
        const shades = rgb(composed(platesOf([one]), looked([one], { mediumHex: '#102030' })));
        amounts.forEach((amount, i) => {
          const [r, g, b] = shades.slice(3 * i, 3 * i + 3) as [number, number, number];
          expect([g, b]).toEqual([r, r]);
          expect(r).toBe(Math.round(255 * (1 - amount / 255) + 20 * (amount / 255)));
        });
      }),
    );
  });

  test('process inks make darker, in whatever order they are laid down', () => {
    fc.assert(
      fc.property(ink, ink, ink, (c, m, k) => {
        const plates = [plate('Cyan', '1', c), plate('Magenta', '1', m), plate('Black', '1', k)];
        const all = rgb(composed(platesOf(plates), looked(plates)));
        const turned = rgb(composed(platesOf([...plates].reverse()), looked(plates)));
        const fewer = rgb(composed(platesOf(plates), looked(plates.slice(0, 2))));
        all.forEach((value, i) => {
          expect(Math.abs(value - (turned[i] as number))).toBeLessThanOrEqual(1);
          expect(value).toBeLessThanOrEqual(fewer[i] as number);
        });
      }),
    );
  });

  test('full white covers what lies under it and nothing of what lies over it', () => {
    fc.assert(
      fc.property(ink, (amounts) => {
        const white = plate('White', '1', FULL);
        const cyan = plate('Cyan', '1', amounts);
        const plates = platesOf([white, cyan]);
        const onPaper = rgb(composed(platesOf([cyan, plate('Black', '1', NONE)]), looked([cyan, plate('Black', '1', NONE)])));
        // white first: colours stand on it as on paper, whatever the medium
        expect(rgb(composed(plates, looked([white, cyan], { mediumHex: '#000000' })))).toEqual(onPaper);
        // white last: nothing else is seen from the front, and from the back the colours are
        const last = looked([white, cyan], { mediumHex: '#ffffff', whiteFirst: false });
        expect(rgb(composed(plates, last)).every((value) => value === 255)).toBe(true);
      }),
    );
  });

  test('from the back it is mirrored', () => {
    fc.assert(
      fc.property(ink, ink, (c, m) => {
        const plates = [plate('Cyan', '1', c), plate('Magenta', '1', m)];
        const front = rgb(composed(platesOf(plates), looked(plates)));
        const back = rgb(composed(platesOf(plates), looked(plates, { side: 'back' })));
        for (let y = 0; y < HEIGHT; y++)
          for (let x = 0; x < WIDTH; x++) {
            const [i, j] = [3 * (y * WIDTH + x), 3 * (y * WIDTH + WIDTH - 1 - x)];
            expect(back.slice(j, j + 3)).toEqual(front.slice(i, i + 3));
          }
      }),
    );
  });

  test('an ink of its own name looks as it is said to', () => {
    const gold = plate('Old gold', '1', FULL);
    const none = plate('Black', '1', NONE);
    const shown = rgb(composed(platesOf([gold, none]), looked([gold, none], { looks: { 'Old gold': '#b58a2a' } })));
    expect(shown.slice(0, 3)).toEqual([0xb5, 0x8a, 0x2a]);
  });
});
