/** Pictures among shapes: whoever reads a file sees them in the order that they were given in. */
import { PDFDocument, PDFRawStream, decodePDFRawStream } from '@cantoo/pdf-lib';
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape } from '../geometry/index.ts';
import type { Matrix } from '../types/index.ts';
import { writePdfPages, writePng, writeSvg, type ArtworkItem } from './index.ts';

const PNG = writePng({ width: 1, height: 1, data: new Uint8Array(4).fill(255) });
const BASE64 = Buffer.from(PNG).toString('base64');

interface Case {
  readonly items: readonly ArtworkItem[];
  readonly places: readonly (number | undefined)[];
}
const anyCase: fc.Arbitrary<Case> = fc.record({
  items: fc.array(fc.constantFrom(undefined, 'A', 'B'), { maxLength: 6 }).map((layers) =>
    layers.map((layer, i): ArtworkItem => ({
      outline: boxShape(10, 10),
      closed: true,
      fill: `#0000${(i + 1).toString(16).padStart(2, '0')}`,
      ...(layer ? { layer } : {}),
    })),
  ),
  places: fc.array(fc.option(fc.nat(8), { nil: undefined }), { maxLength: 5 }),
});
/** Pictures are told by where they lie: 1, 2, 3 … mm to the right. */
const matrixOf = (picture: number): Matrix => [5, 0, 0, 5, picture + 1, 0];

/** s0, s1 … for shapes and p0, p1 … for pictures, the lowest first. */
function expected({ items, places }: Case): string[] {
  const under = (i: number): string[] =>
    places.flatMap((place = 0, picture) => (Math.min(place, items.length) === i ? [`p${picture}`] : []));
  return [...items.flatMap((_, i) => [...under(i), `s${i}`]), ...under(items.length)];
}

test('in SVG', () => {
  fc.assert(
    fc.property(anyCase, (one) => {
      const pictures = one.places.map((before, i) => ({ bytesBase64: BASE64, type: 'image/png', matrix: matrixOf(i), before }));
      const svg = new TextDecoder().decode(writeSvg({ widthMm: 20, heightMm: 20, items: one.items }, pictures));
      const seen = [...svg.matchAll(/fill="#0000(..)"|<image [^>]*matrix\(\S+ \S+ \S+ \S+ (\d+)/g)];
      expect(seen.map(([, shape, picture]) => (shape ? `s${Number.parseInt(shape, 16) - 1}` : `p${Number(picture) - 1}`))).toEqual(
        expected(one),
      );
      expect(svg.match(/<g /g)?.length ?? 0).toBe(svg.match(/<\/g>/g)?.length ?? 0);
    }),
  );
});

test('in PDF, where layers end before a picture and begin again behind it', async () => {
  await fc.assert(
    fc.asyncProperty(anyCase, async (one) => {
      const pictures = one.places.map((before, i) => ({ bytes: PNG, matrix: matrixOf(i), before }));
      const document = await PDFDocument.load(await writePdfPages([{ widthMm: 20, heightMm: 20, items: one.items, pictures }], 'x'));
      const stream = document.context.lookup(document.getPage(0).node.get(document.context.obj('Contents') as never)) as PDFRawStream;
      const text = new TextDecoder('latin1').decode(decodePDFRawStream(stream).decode());
      const seen = [...text.matchAll(/^0 0 (\S+) rg|(\d+) 0 cm \/P\d+ Do|(BDC)|(EMC)/gm)];
      const order = seen.flatMap(([, shape, picture]) =>
        shape ? [`s${Math.round(255 * Number(shape)) - 1}`] : picture ? [`p${Number(picture) - 1}`] : [],
      );
      expect(order).toEqual(expected(one));
      let depth = 0;
      for (const [, , picture, begin, end] of seen) {
        depth += begin ? 1 : end ? -1 : 0;
        if (picture) expect(depth).toBe(0);
        expect(depth === 0 || depth === 1).toBe(true);
      }
      expect(depth).toBe(0);
    }),
    { numRuns: 40 },
  );
});
