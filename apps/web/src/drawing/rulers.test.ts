/** What a ruler says is where it says it: labels stand at the tick of their value, in any unit, at any size of the view. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { unitMm, type LengthUnit } from '@lorvek/core/units';
import { paintRuler, RULER_PX } from './rulers.ts';

interface Said {
  readonly text: string;
  /** Along the ruler, px. */
  readonly at: number;
  readonly upright: boolean;
}

/** A canvas that notes labels and ticks. */
function noted(): { context: CanvasRenderingContext2D; labels: Said[]; ticks: { x: number; y: number }[] } {
  const labels: Said[] = [];
  const ticks: { x: number; y: number }[] = [];
  let turnedAt: { x: number; y: number } | undefined;
  const nothing = (): void => undefined;
  const context = {
    save: nothing,
    restore: () => (turnedAt = undefined),
    fillRect: nothing,
    beginPath: nothing,
    stroke: nothing,
    rotate: nothing,
    moveTo: (x: number, y: number) => ticks.push({ x, y }),
    lineTo: nothing,
    translate: (x: number, y: number) => (turnedAt = { x, y }),
    fillText: (text: string, x: number) =>
      labels.push(turnedAt ? { text, at: turnedAt.y + 3, upright: true } : { text, at: x - 3, upright: false }),
  };
  return { context: context as unknown as CanvasRenderingContext2D, labels, ticks };
}

/** The number that a label says: −1 3/8 is -1.375. */
function valueOf(text: string): number {
  const sign = text.startsWith('−') ? -1 : 1;
  const parts = text.replace('−', '').split(' ');
  const sum = parts.reduce((total, part) => {
    const [top = '', bottom] = part.split('/');
    return total + (bottom ? Number(top) / Number(bottom) : Number(top));
  }, 0);
  return sign * sum;
}

const unit = fc.constantFrom<LengthUnit>('mm', 'cm', 'in', 'in-fraction');
const view = fc.record({
  scale: fc.double({ min: -2.5, max: 2, noNaN: true }).map((power) => 10 ** power),
  x: fc.double({ min: -3000, max: 3000, noNaN: true }),
  y: fc.double({ min: -3000, max: 3000, noNaN: true }),
});
const size = fc.record({ width: fc.integer({ min: 200, max: 2000 }), height: fc.integer({ min: 200, max: 1400 }) });

describe('rulers', () => {
  test('labels stand where their value lies, to a pixel, within the ruler', () => {
    fc.assert(
      fc.property(view, size, unit, (at, px, named) => {
        const { context, labels } = noted();
        paintRuler(context, at, px, named);
        for (const { text, at: place, upright } of labels) {
          const mm = valueOf(text) * unitMm(named);
          // a label is rounded to the decimals that it shows, far finer than a pixel
          const wanted = upright ? at.y - mm * at.scale : at.x + mm * at.scale;
          expect(Math.abs(place - wanted)).toBeLessThan(1.01);
          expect(place).toBeGreaterThanOrEqual(RULER_PX);
          expect(place).toBeLessThanOrEqual((upright ? px.height : px.width) + 200);
        }
      }),
      { numRuns: 300 },
    );
  });

  test('labels are far enough apart to be read, even steps, and enough of them', () => {
    fc.assert(
      fc.property(view, size, unit, (at, px, named) => {
        const { context, labels } = noted();
        paintRuler(context, at, px, named);
        for (const upright of [false, true]) {
          const own = labels.filter((label) => label.upright === upright).sort((a, b) => a.at - b.at);
          const steps = own.slice(1).map(({ at: place }, i) => place - own[i]!.at);
          for (const step of steps) {
            expect(step).toBeGreaterThan(named === 'in-fraction' ? 30 : 60);
            expect(Math.abs(step - steps[0]!)).toBeLessThan(2.1);
          }
          // no more than some ten times the least distance between two
          expect(own.length).toBeGreaterThanOrEqual(Math.floor(((upright ? px.height : px.width) - RULER_PX) / 700));
          expect(new Set(own.map(({ text }) => text)).size).toBe(own.length);
        }
      }),
      { numRuns: 300 },
    );
  });

  test('inches below one are said as fractions in their lowest terms', () => {
    const { context, labels } = noted();
    paintRuler(context, { scale: 20, x: 300, y: 300 }, { width: 900, height: 600 }, 'in-fraction');
    const said = labels.filter(({ upright }) => !upright).map(({ text }) => text);
    expect(said).toContain('1/4');
    expect(said).toContain('−1/4');
    expect(said).toContain('0');
    expect(said.join(' ')).not.toMatch(/2\/4|4\/8|\d\.\d/);
  });

  test('where ticks would cover it, it has none, rather than some of them', () => {
    const { context, labels, ticks } = noted();
    paintRuler(context, { scale: 1e-9, x: 0, y: 0 }, { width: 2000, height: 1400 }, 'mm');
    // two lines are its own edges
    expect(ticks.length === 2).toBe(labels.length === 0);
  });
});
