/** Handles of a selection: each is found where it is shown, also on turned, mirrored and tiny frames. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { compose, rotation, scaling, translation } from '@lorvek/core/geometry';
import { standInForBrowser } from '../browser.support.ts';
import type * as Hit from './hit.ts';

standInForBrowser({ navigator: {} });
let hit: typeof Hit;
beforeAll(async () => {
  hit = await import('./hit.ts');
});

const frame = fc
  .record({
    width: fc.integer({ min: 60, max: 900 }),
    height: fc.integer({ min: 60, max: 900 }),
    deg: fc.integer({ min: 0, max: 359 }),
    mirror: fc.boolean(),
    x: fc.integer({ min: -300, max: 300 }),
    y: fc.integer({ min: -300, max: 300 }),
  })
  .map(({ width, height, deg, mirror, x, y }) => ({
    box: { minX: 0, minY: 0, maxX: width, maxY: height },
    matrix: compose(translation(x, y), compose(rotation(deg), scaling(mirror ? -1 : 1, 1))),
  }));
const view = fc.record({
  scale: fc.double({ min: 1, max: 4, noNaN: true }),
  x: fc.integer({ min: -500, max: 500 }),
  y: fc.integer({ min: -500, max: 500 }),
});

describe('handles', () => {
  test('are found where they are shown, and nowhere far from all of them', () => {
    fc.assert(
      fc.property(frame, view, (of, at) => {
        for (const anchor of hit.SIZE_HANDLES)
          expect(hit.handleAt(of as AnyFrame, at, hit.handlePlace(of as AnyFrame, at, anchor))).toEqual({ kind: 'size', anchor });
        expect(hit.handleAt(of as AnyFrame, at, hit.turnHandlePlace(of as AnyFrame, at))).toEqual({ kind: 'turn' });
        const middle = hit.handlePlace(of as AnyFrame, at, { x: 0.5, y: 0.5 });
        expect(hit.handleAt(of as AnyFrame, at, middle)).toBeUndefined();
      }),
    );
  });

  test('that turns stands off the upper edge, away from the frame, however it is turned and mirrored', () => {
    fc.assert(
      fc.property(frame, view, (of, at) => {
        const [turn, top, foot] = [
          hit.turnHandlePlace(of as AnyFrame, at),
          hit.handlePlace(of as AnyFrame, at, { x: 0.5, y: 1 }),
          hit.handlePlace(of as AnyFrame, at, { x: 0.5, y: 0 }),
        ];
        const off = Math.hypot(turn.x - top.x, turn.y - top.y);
        expect(off).toBeCloseTo(26, 6);
        expect(Math.hypot(turn.x - foot.x, turn.y - foot.y)).toBeCloseTo(off + Math.hypot(top.x - foot.x, top.y - foot.y), 5);
      }),
    );
  });

  test('of a frame without height still stand apart: its turn handle is above it', () => {
    const flat = { box: { minX: 0, minY: 5, maxX: 80, maxY: 5 }, matrix: [1, 0, 0, 1, 0, 0] } as unknown as AnyFrame;
    const at = { scale: 2, x: 0, y: 300 };
    const turn = hit.turnHandlePlace(flat, at);
    expect(turn.y).toBeLessThan(hit.handlePlace(flat, at, { x: 0.5, y: 1 }).y);
    expect(hit.handleAt(flat, at, turn)).toEqual({ kind: 'turn' });
  });
});

type AnyFrame = Parameters<typeof Hit.handleAt>[0];
