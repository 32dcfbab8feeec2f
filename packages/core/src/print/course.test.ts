import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Gradient } from '../colour/index.ts';
import { rgbOf } from '../colour/index.ts';
import { IDENTITY } from '../geometry/index.ts';
import { courseAt } from './course.ts';

const STOPS = [
  { offset: 0.2, hex: '#000000' },
  { offset: 0.6, hex: '#c80064' },
  { offset: 0.6, hex: '#0064c8' },
  { offset: 1, hex: '#ffffff' },
];
const course = (fields: Partial<Gradient> = {}): Gradient => ({
  kind: 'linear',
  matrix: IDENTITY,
  stops: STOPS,
  spread: 'pad',
  ...fields,
});
const at = (gradient: Gradient, x: number, y = 0): string => courseAt(gradient, IDENTITY, x, y);
const place = fc.double({ min: -3, max: 3, noNaN: true });

describe('the colour of a course', () => {
  test('is that of its stops, mixed between them, and jumps where two lie on one another', () => {
    expect([0, 0.2, 0.4, 0.6, 0.8, 1].map((x) => at(course(), x))).toEqual([
      '#000000',
      '#000000',
      '#640032',
      '#c80064',
      '#80b2e4',
      '#ffffff',
    ]);
    expect(at(course(), 0.600001)).toBe('#0064c8');
  });

  test('beyond its ends it stays, runs back or begins anew', () => {
    fc.assert(
      fc.property(place, (x) => {
        const inside = (t: number): string => at(course(), t);
        const part = x - Math.floor(x);
        expect(at(course(), x)).toBe(inside(Math.min(1, Math.max(0, x))));
        expect(at(course({ spread: 'repeat' }), x)).toBe(inside(part));
        expect(at(course({ spread: 'reflect' }), x)).toBe(inside(Math.floor(x) % 2 === 0 ? part : 1 - part));
      }),
    );
  });

  test('law: of two circles, every point of the circle that stands for t has the colour of t', () => {
    const inner = fc.record({
      x: fc.double({ min: -0.5, max: 0.5, noNaN: true }),
      y: fc.double({ min: -0.5, max: 0.5, noNaN: true }),
      r: fc.double({ min: 0, max: 0.25, noNaN: true }),
    });
    const smooth = [
      { offset: 0, hex: '#000000' },
      { offset: 1, hex: '#ff8040' },
    ];
    fc.assert(
      fc.property(inner, fc.double({ min: 0.02, max: 1, noNaN: true }), fc.double({ min: 0, max: 7, noNaN: true }), (circle, t, angle) => {
        const r = circle.r + t * (1 - circle.r);
        const [x, y] = [(1 - t) * circle.x + r * Math.cos(angle), (1 - t) * circle.y + r * Math.sin(angle)];
        const seen = rgbOf(at(course({ kind: 'radial', inner: circle, stops: smooth }), x, y));
        const wanted = [255, 128, 64].map((v) => v * t);
        seen.forEach((v, i) => expect(Math.abs(v - (wanted[i] ?? 0))).toBeLessThanOrEqual(1));
      }),
    );
  });
});
