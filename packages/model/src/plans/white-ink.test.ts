/** When white is wanted and lacking, and where it reaches to. */
import { describe, expect, test } from '@jest/globals';
import { area, boxShape, mapOutline, translation } from '@lorvek/core/geometry';
import { film, printLayer } from '../drawing.support.ts';
import { findWhite, spotsOf, USUAL_WHITE, whiteOf } from './white-ink.ts';

const shape = (fill: object | undefined, stroke?: object) =>
  ({ kind: 'shape', ...(fill ? { fill } : {}), ...(stroke ? { stroke } : {}) }) as never;
const ART = [shape({ hex: '#aa0000' })];
const white = (fields: object = {}) => ({ white: { ...USUAL_WHITE, ...fields } });
const said = (layer: Parameters<typeof findWhite>[0], art = ART): string =>
  findWhite(layer, art, ['item-a'])
    .map(({ text }) => text)
    .join();

describe('white is missed', () => {
  test('on what is clear or dark, not on what is light, nor where nothing is printed', () => {
    expect(said(printLayer('print', { medium: 'clear' }))).toMatch(/clear and no white/);
    expect(said(printLayer('print', { hex: '#1f2a38' }))).toMatch(/dark and no white/);
    expect(said(printLayer('print', { hex: '#f4efe2' }))).toBe('');
    expect(said(printLayer('print', { medium: 'clear' }), [])).toBe('');
    expect(said(film('red'))).toBe('');
  });

  test('where its rule prints none: no strength, no item with the ink that stands for it', () => {
    expect(said(printLayer('print', white({ strengthPct: 0 })))).toMatch(/no strength/);
    const named = printLayer('print', white({ coverage: 'named-spot', spots: ['Underlay'] }));
    expect(said(named)).toMatch(/no white is printed/i);
    expect(said(named, [shape({ hex: '#ffffff', spot: 'Varnish' })])).toMatch(/its inks are Varnish/);
    expect(said(named, [shape(undefined, { hex: '#ffffff', spot: 'Underlay' })])).toBe('');
    expect(said(named, [{ kind: 'picture', ink: { hex: '#ffffff', spot: 'Underlay' } } as never])).toBe('');
    expect(said(printLayer('print', { medium: 'clear', ...white() }))).toBe('');
  });
});

test('the inks of the art are told once each, of fills, of strokes and of pictures that are plates', () => {
  const pictures = [{ kind: 'picture' }, { kind: 'picture', ink: { spot: 'C' } }] as never[];
  const art = [shape({ spot: 'A' }, { spot: 'B' }), shape({ spot: 'A' }), shape({ hex: '#000000' }), ...pictures];
  expect(spotsOf(art)).toEqual(['A', 'B', 'C']);
});

describe('over the whole sheet', () => {
  const line = (kind: string, x: number, size = 10) => ({ kind, outline: mapOutline(translation(x, 0), boxShape(size, size)) }) as never;
  const whole = printLayer('print', white({ coverage: 'whole-sheet' }));
  const never = () => {
    throw new Error('boxes are dear to work out, and not wanted here');
  };

  test('it reaches to the cut lines, one over another counted once; lines that do not cut through do not bound it', () => {
    const trim = whiteOf(
      whole,
      [line('kiss', 0), line('through', 5), line('score', 100), line('weed', 200), line('film', 300)],
      never,
    )?.trim;
    expect(area(trim ?? { contours: [] })).toBeCloseTo(150, 6);
  });

  test('without cut lines it reaches to the boxes of what lies there; empty ones are none', () => {
    const boxes = [
      { minX: 0, minY: 0, maxX: 20, maxY: 10 },
      { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity },
    ];
    expect(area(whiteOf(whole, [line('weed', 0)], () => boxes)?.trim ?? { contours: [] })).toBeCloseTo(200, 6);
  });

  test('otherwise nothing is asked for, and a film has no white', () => {
    expect(whiteOf(printLayer('print', white()), [line('kiss', 0)], never)?.trim.contours).toEqual([]);
    expect(whiteOf(film('red'), [], never)).toBeUndefined();
    expect(whiteOf(printLayer('print'), [], never)).toBeUndefined();
  });
});
