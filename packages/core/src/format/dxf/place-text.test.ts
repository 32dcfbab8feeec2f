/** Where text of a DXF stands: by its alignment, on its lines, without its codes. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { DxfRecord, parseDxf } from './pairs.ts';
import { lineOf, paragraphOf } from './place-text.ts';

const record = (type: string, pairs: readonly (readonly [number, string | number])[]): DxfRecord => {
  const made = new DxfRecord(type);
  for (const [code, value] of pairs) made.pairs.push({ code, value: String(value) });
  return made;
};
const height = fc.double({ min: 0.5, max: 400, noNaN: true });

describe('a single line', () => {
  test('stands at its own place from its left, or at its second one as it is aligned', () => {
    const plain = lineOf(
      record('TEXT', [
        [10, 3],
        [20, 4],
        [11, 90],
        [21, 80],
        [1, 'QUAY'],
      ]),
      5,
    );
    expect([plain.x, plain.y, plain.share, plain.lift, plain.wide]).toEqual([3, 4, 0, 0, 1]);
    const middle = lineOf(
      record('TEXT', [
        [10, 3],
        [20, 4],
        [11, 90],
        [21, 80],
        [72, 1],
        [73, 2],
        [1, 'QUAY'],
      ]),
      5,
    );
    expect([middle.x, middle.y, middle.share, middle.lift]).toEqual([90, 80, 0.5, -2.5]);
    // aligned without a second place: there is none to go by
    expect(
      lineOf(
        record('TEXT', [
          [10, 3],
          [20, 4],
          [72, 2],
          [1, 'QUAY'],
        ]),
        5,
      ).x,
    ).toBe(3);
  });

  test('has no control codes left, and nothing when it is blank', () => {
    expect(lineOf(record('TEXT', [[1, '45%%d %%pPIER%%u']]), 5).lines).toEqual(['45° ±PIER']);
    expect(lineOf(record('TEXT', [[1, '   ']]), 5).lines).toEqual([]);
    expect(
      lineOf(
        record('TEXT', [
          [1, 'WIDE'],
          [41, 1.5],
          [50, 30],
        ]),
        5,
      ),
    ).toMatchObject({ wide: 1.5, turn: 30 });
  });
});

describe('a paragraph', () => {
  test('hangs below its place by its upper corners, stands on it by its lower ones, whatever its lines', () => {
    fc.assert(
      fc.property(height, fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 9 }), (size, count, attach) => {
        const text = Array.from({ length: count }, (_, i) => `Line ${i + 1}`).join('\\P');
        const { lines, lift, share, pitch } = paragraphOf(
          record('MTEXT', [
            [1, text],
            [71, attach],
            [10, 7],
            [20, 8],
          ]),
          size,
        );
        expect(lines).toHaveLength(count);
        expect(share).toBe(((attach - 1) % 3) / 2);
        // from the first line's top to the last one's foot
        const [top, foot] = [lift + size, lift - pitch * (count - 1)];
        const row = Math.floor((attach - 1) / 3);
        if (row === 0) expect(top).toBeCloseTo(0, 9);
        if (row === 1) expect(top + foot).toBeCloseTo(0, 6 - Math.ceil(Math.log10(size)));
        if (row === 2) expect(foot).toBeCloseTo(0, 6 - Math.ceil(Math.log10(size)));
      }),
    );
  });

  test('is turned by its direction, and free of codes of font, height, colour and stacked figures', () => {
    const own = record('MTEXT', [
      [1, '{\\fArial|b1;\\H2.5x;BERTH}\\P\\C1;\\S3^4; m\\~wide\\P\\{kept\\}'],
      [11, 0],
      [21, 1],
    ]);
    const { lines, turn } = paragraphOf(own, 5);
    expect(turn).toBeCloseTo(90, 9);
    expect(lines).toEqual(['BERTH', '3/4 m wide', '{kept}']);
  });
});

describe('the sections of a file', () => {
  const file = (...lines: (string | number)[]): Uint8Array => new TextEncoder().encode(lines.join('\n'));
  const HEAD = [0, 'SECTION', 2, 'HEADER', 9, '$INSUNITS', 70, 4, 9, '$EXTMIN', 10, '1.5', 20, '2.5', 0, 'ENDSEC'];
  const LINE = [0, 'LINE', 8, 'Cut', 10, 0, 20, 0, 11, 5, 21, 5];

  test('are read whole: variables with their first value, layers, blocks, what is drawn', () => {
    const parsed = parseDxf(
      file(
        ...HEAD,
        ...[0, 'SECTION', 2, 'TABLES', 0, 'LAYER', 2, 'Cut', 62, 1, 0, 'ENDSEC'],
        ...[0, 'SECTION', 2, 'BLOCKS', 0, 'BLOCK', 2, 'Gull', ...LINE, 0, 'ENDBLK', 0, 'ENDSEC'],
        ...[0, 'SECTION', 2, 'ENTITIES', ...LINE, ...LINE, 0, 'ENDSEC', 0, 'EOF'],
      ),
    );
    expect(parsed.isTorn).toBe(false);
    expect([...parsed.header]).toEqual([
      ['$INSUNITS', '4'],
      ['$EXTMIN', '1.5'],
    ]);
    expect(parsed.layers.map((layer) => layer.text(2))).toEqual(['Cut']);
    expect(parsed.blocks.get('gull')?.map(({ type }) => type)).toEqual(['BLOCK', 'LINE']);
    expect(parsed.entities.map((one) => [one.type, one.number(11)])).toEqual([
      ['LINE', 5],
      ['LINE', 5],
    ]);
  });

  test('that break off keep what was drawn up to there, and say so', () => {
    const whole = [...HEAD, 0, 'SECTION', 2, 'ENTITIES', ...LINE, ...LINE];
    const torn = parseDxf(file(...whole));
    expect([torn.isTorn, torn.entities.length]).toEqual([true, 2]);
    // torn off within the head nothing is drawn; without any section it is no such file
    expect(parseDxf(file(...HEAD.slice(0, 8))).entities).toEqual([]);
    expect(() => parseDxf(file(0, 'NOTHING', 1, 'x'))).toThrow(expect.objectContaining({ code: 'input.dxf' }));
  });
});
