/** TIFF files built here, in each kind of pixels and each way up, against the picture that they were built from. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readTiff } from './index.ts';

type Tag = readonly [id: number, kind: 'short' | 'long' | 'rational' | 'ascii', values: readonly number[]];
const ascii = (text: string): readonly number[] => Array.from(text, (c) => c.charCodeAt(0));

/** A file of one strip (TIFF 6.0), little-endian. */
function tiff(tags: readonly Tag[], strip: Uint8Array): Uint8Array {
  const all = [...tags, [273, 'long', [8]] as Tag, [279, 'long', [strip.length]] as Tag].sort((a, b) => a[0] - b[0]);
  const even = strip.length + (strip.length % 2);
  const directory = 8 + even;
  const bytesOf = { short: 2, long: 4, rational: 8, ascii: 1 };
  let free = directory + 2 + 12 * all.length + 4;
  const out = new DataView(new ArrayBuffer(free + 256));
  const bytes = new Uint8Array(out.buffer);
  bytes.set([0x49, 0x49, 42, 0]);
  out.setUint32(4, directory, true);
  bytes.set(strip, 8);
  out.setUint16(directory, all.length, true);
  all.forEach(([id, kind, values], k) => {
    const at = directory + 2 + 12 * k;
    out.setUint16(at, id, true);
    out.setUint16(at + 2, { short: 3, long: 4, rational: 5, ascii: 2 }[kind], true);
    out.setUint32(at + 4, values.length, true);
    const isInline = values.length * bytesOf[kind] <= 4;
    let place = isInline ? at + 8 : free;
    if (!isInline) out.setUint32(at + 8, free, true);
    for (const value of values) {
      if (kind === 'ascii') out.setUint8(place, value);
      else if (kind === 'short') out.setUint16(place, value, true);
      else out.setUint32(place, Math.round(kind === 'rational' ? value * 1000 : value), true);
      if (kind === 'rational') out.setUint32(place + 4, 1000, true);
      place += bytesOf[kind];
    }
    if (!isInline) free = place;
  });
  return bytes.subarray(0, free);
}

interface Kind {
  readonly photometric: number;
  readonly samples: number;
  readonly bits: 8 | 16;
  readonly more?: readonly Tag[];
  /** Samples of a pixel in 0 to 1. */
  of(rgb: readonly [number, number, number], alpha: number): readonly number[];
}

const grey = ([r, g, b]: readonly [number, number, number]): number => (r + g + b) / 3;
const KINDS: Record<string, Kind> = {
  grey: { photometric: 1, samples: 1, bits: 8, of: (rgb) => [grey(rgb)] },
  'grey, white first': { photometric: 0, samples: 1, bits: 8, of: (rgb) => [1 - grey(rgb)] },
  'grey of sixteen bits': { photometric: 1, samples: 1, bits: 16, of: (rgb) => [grey(rgb)] },
  'grey with alpha': { photometric: 1, samples: 2, bits: 8, more: [[338, 'short', [2]]], of: (rgb, a) => [grey(rgb), a] },
  colours: { photometric: 2, samples: 3, bits: 8, of: (rgb) => rgb },
  'colours of sixteen bits': { photometric: 2, samples: 3, bits: 16, of: (rgb) => rgb },
  'colours with alpha': { photometric: 2, samples: 4, bits: 8, more: [[338, 'short', [2]]], of: (rgb, a) => [...rgb, a] },
  'four inks': {
    photometric: 5,
    samples: 4,
    bits: 8,
    of: (rgb) => {
      const most = Math.max(...rgb, 1e-9);
      return [...rgb.map((v) => 1 - v / most), 1 - Math.max(...rgb)];
    },
  },
};

const level = fc.integer({ min: 0, max: 255 }).map((v) => v / 255);
const picture = fc.integer({ min: 1, max: 9 }).chain((width) =>
  fc.integer({ min: 1, max: 7 }).chain((height) =>
    fc.record({
      width: fc.constant(width),
      height: fc.constant(height),
      pixels: fc.array(fc.tuple(fc.tuple(level, level, level), level), { minLength: width * height, maxLength: width * height }),
    }),
  ),
);

function built(
  { width, height, pixels }: { width: number; height: number; pixels: readonly [readonly [number, number, number], number][] },
  kind: Kind,
  more: readonly Tag[] = [],
): Uint8Array {
  const samples = pixels.flatMap(([rgb, alpha]) => kind.of(rgb, alpha));
  const strip =
    kind.bits === 8
      ? Uint8Array.from(samples, (v) => Math.round(v * 255))
      : new Uint8Array(Uint16Array.from(samples, (v) => Math.round(v * 65_535)).buffer);
  return tiff(
    [
      [256, 'long', [width]],
      [257, 'long', [height]],
      [258, 'short', Array.from({ length: kind.samples }, () => kind.bits)],
      [259, 'short', [1]],
      [262, 'short', [kind.photometric]],
      [277, 'short', [kind.samples]],
      [278, 'long', [height]],
      ...(kind.more ?? []),
      ...more,
    ],
    strip,
  );
}

describe('pixels', () => {
  // Law: whatever is in the picture, each kind of pixels gives it back within two levels
  test.each(Object.entries(KINDS))('%s', async (name, kind) => {
    await fc.assert(
      fc.asyncProperty(picture, async (seen) => {
        const { width, height, data } = await readTiff(built(seen, kind));
        expect([width, height]).toEqual([seen.width, seen.height]);
        seen.pixels.forEach(([rgb, alpha], i) => {
          const wanted = name.startsWith('grey') ? rgb.map(() => grey(rgb)) : rgb;
          wanted.forEach((v, c) => expect(Math.abs((data[4 * i + c] ?? 0) - 255 * v)).toBeLessThan(2));
          expect(Math.abs((data[4 * i + 3] ?? 0) - (name.includes('alpha') ? 255 * alpha : 255))).toBeLessThan(2);
        });
      }),
      { numRuns: 15 },
    );
  });

  test('the resolution that is stated, in inches and in centimetres; none that cannot be', async () => {
    const seen = { width: 2, height: 1, pixels: [[[1, 0, 0], 1] as const, [[0, 1, 0], 1] as const] } as unknown as Parameters<
      typeof built
    >[0];
    const stated = async (perUnit: number, unit: number): Promise<number | undefined> => {
      const more: Tag[] = [
        [282, 'rational', [perUnit]],
        [283, 'rational', [perUnit]],
        [296, 'short', [unit]],
      ];
      return (await readTiff(built(seen, KINDS['colours'] as Kind, more))).pixelsPerMm;
    };
    expect(await stated(300, 2)).toBeCloseTo(300 / 25.4, 6);
    expect(await stated(120, 3)).toBeCloseTo(12, 6);
    expect(await stated(300, 1)).toBeUndefined();
    expect(await stated(0, 2)).toBeUndefined();
    const fax = await readTiff(
      built(seen, KINDS['colours'] as Kind, [
        [282, 'rational', [204]],
        [283, 'rational', [98]],
        [296, 'short', [2]],
      ]),
    );
    expect(fax.pixelsPerMm).toBeCloseTo(204 / 25.4, 6);
    expect(fax.pixelAspect).toBeCloseTo(204 / 98, 6);
  });
});

describe('inks of their own names', () => {
  /** Samples in 0 to 255, as many a pixel as there are inks. */
  const separated = (width: number, pixels: readonly (readonly number[])[], more: readonly Tag[]): Uint8Array => {
    const samples = pixels[0]!.length;
    const strip = Uint8Array.from(pixels.flat());
    const height = pixels.length / width;
    const tags: Tag[] = [
      [256, 'long', [width]],
      [257, 'long', [height]],
      [258, 'short', Array.from({ length: samples }, () => 8)],
      [259, 'short', [1]],
      [262, 'short', [5]],
      [277, 'short', [samples]],
      [278, 'long', [height]],
      ...more,
    ];
    return tiff(tags, strip);
  };
  const alphaOf = (data: Uint8ClampedArray): number[] => Array.from({ length: data.length / 4 }, (_, i) => data[4 * i + 3]!);

  test('law: each plate has just its samples, the picture just its process inks', async () => {
    const sample = fc.integer({ min: 0, max: 255 });
    const pixels = fc.array(fc.tuple(sample, sample, sample, sample, sample, sample), { minLength: 2, maxLength: 12 });
    await fc.assert(
      fc.asyncProperty(pixels, async (all) => {
        const file = separated(1, all, [
          [338, 'short', [0, 0]],
          [333, 'ascii', ascii('Old gold\0Varnish\0')],
        ]);
        const { data, plates = [] } = await readTiff(file);
        expect(plates.map(({ name }) => name)).toEqual(['Old gold', 'Varnish']);
        expect(plates.map((plate) => alphaOf(plate.data))).toEqual([all.map((p) => p[4]), all.map((p) => p[5])]);
        expect(new Set(plates.flatMap((plate) => plate.data.slice(0, 3).join()))).toHaveProperty('size', 2);
        const plain = await readTiff(
          separated(
            1,
            all.map((p) => p.slice(0, 4)),
            [],
          ),
        );
        expect(data).toEqual(plain.data);
        expect(plain.plates).toBeUndefined();
      }),
      { numRuns: 40 },
    );
  });

  test.each<[string, readonly number[], readonly Tag[], string[], number[]]>([
    [
      'all named, in an order of their own',
      [10, 200, 30, 40, 50],
      [
        [332, 'short', [2]],
        [333, 'ascii', ascii('Frost\0Black\0Cyan\0Yellow\0Magenta\0')],
      ],
      ['Frost'],
      [10],
    ],
    ['no names', [0, 0, 0, 0, 77], [[338, 'short', [0]]], ['Ink 5'], [77]],
    ['an alpha is no ink', [0, 0, 0, 0, 77, 120], [[338, 'short', [0, 2]]], ['Ink 5'], [77]],
    [
      'one ink alone',
      [90],
      [
        [332, 'short', [2]],
        [333, 'ascii', ascii('White\0')],
      ],
      ['White'],
      [90],
    ],
    [
      'two of one name',
      [0, 0, 0, 0, 7, 8],
      [
        [338, 'short', [0, 0]],
        [333, 'ascii', ascii('Gold\0Gold\0')],
      ],
      ['Gold', 'Gold 6'],
      [7, 8],
    ],
    [
      'a name of nothing but signs',
      [0, 0, 0, 0, 7],
      [
        [338, 'short', [0]],
        [333, 'ascii', [7, 27, 0]],
      ],
      ['Ink 5'],
      [7],
    ],
  ])('%s', async (_, pixel, tags, names, amounts) => {
    const { data, plates = [] } = await readTiff(separated(1, [pixel], tags));
    expect(plates.map(({ name }) => name)).toEqual(names);
    expect(plates.map((plate) => plate.data[3])).toEqual(amounts);
    if (pixel.length === 1) expect(data[3]).toBe(0);
    if (pixel.length === 6 && names.length === 1) expect(data[3]).toBe(120);
  });
});

describe('the way up', () => {
  /** Where a pixel of the file lies in the picture, by its orientation (TIFF 6.0, Orientation). */
  const placed = (orientation: number, x: number, y: number, w: number, h: number): readonly [number, number] =>
    (
      ({
        1: [x, y],
        2: [w - 1 - x, y],
        3: [w - 1 - x, h - 1 - y],
        4: [x, h - 1 - y],
        5: [y, x],
        6: [h - 1 - y, x],
        7: [h - 1 - y, w - 1 - x],
        8: [y, w - 1 - x],
      }) as Record<number, readonly [number, number]>
    )[orientation] as readonly [number, number];

  // Law: every pixel comes to where its orientation says
  test('every orientation is turned upright', async () => {
    await fc.assert(
      fc.asyncProperty(picture, fc.integer({ min: 1, max: 8 }), async (seen, orientation) => {
        const { width, data } = await readTiff(built(seen, KINDS['colours'] as Kind, [[274, 'short', [orientation]]]));
        seen.pixels.forEach(([rgb], i) => {
          const [x, y] = placed(orientation, i % seen.width, Math.floor(i / seen.width), seen.width, seen.height);
          expect([0, 1, 2].map((c) => data[4 * (y * width + x) + c])).toEqual(rgb.map((v) => Math.round(v * 255)));
        });
      }),
      { numRuns: 60 },
    );
  });
});

describe('damage', () => {
  const whole = built(
    { width: 4, height: 3, pixels: Array.from({ length: 12 }, (_, i) => [[i / 12, 0.5, 1], 1]) },
    KINDS['colours'] as Kind,
  );

  // Law: whichever byte is another one, the answer is a picture or a plain refusal
  test('a changed byte gives a picture or a plain answer', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(whole.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const changed = whole.slice();
        changed[at] = value;
        const got = await readTiff(changed).then(
          ({ width, height, data }) => (data.length === 4 * width * height ? 'picture' : 'short'),
          (error: { code?: string }) => error.code,
        );
        expect(['picture', 'input.picture', 'limit.picture']).toContain(got);
      }),
      { numRuns: 200 },
    );
  });

  test('one that claims rows for which it tells no place is refused at once, however few its bytes', async () => {
    const lying = whole.slice();
    const view = new DataView(lying.buffer);
    const directory = view.getUint32(4, true);
    for (let k = 0; k < view.getUint16(directory, true); k++) {
      const at = directory + 2 + 12 * k;
      if (view.getUint16(at, true) === 257) view.setUint32(at + 8, 458_755, true);
    }
    await expect(readTiff(lying)).rejects.toMatchObject({ code: 'input.picture' });
  });

  test('one that claims more pixels than it may have is refused at once', async () => {
    const lying = built(
      { width: 4, height: 3, pixels: Array.from({ length: 12 }, () => [[0, 0, 0], 1]) },
      KINDS['grey'] as Kind,
      [],
    ).slice();
    const view = new DataView(lying.buffer);
    const directory = view.getUint32(4, true);
    for (let k = 0; k < view.getUint16(directory, true); k++) {
      const at = directory + 2 + 12 * k;
      if ([256, 257].includes(view.getUint16(at, true))) view.setUint32(at + 8, 60_000, true);
    }
    await expect(readTiff(lying)).rejects.toMatchObject({ code: 'limit.picture' });
  });
});
