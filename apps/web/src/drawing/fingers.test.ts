import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Fingers, type FingerEvent } from './fingers.ts';

const event = (pointerId: number, clientX: number, clientY: number): FingerEvent => ({ pointerId, clientX, clientY });

function setUp() {
  const said: string[] = [];
  let view = { scale: 2, x: 100, y: 300 };
  const fingers = new Fingers<FingerEvent>({
    down: () => said.push('down'),
    move: () => said.push('move'),
    up: () => said.push('up'),
    cancel: () => said.push('cancel'),
    view: () => view,
    setView: (next) => (view = next),
    corner: () => ({ x: 10, y: 20 }),
  });
  return { fingers, said, view: () => view };
}

describe('fingers on a drawing', () => {
  test('a tap and a drag of one finger do what a mouse does', () => {
    const { fingers, said } = setUp();
    fingers.down(event(1, 50, 50));
    fingers.up(event(1, 50, 50));
    expect(said).toEqual(['down', 'up']);
    fingers.down(event(1, 50, 50));
    fingers.move(event(1, 53, 50));
    expect(said).toEqual(['down', 'up']);
    fingers.move(event(1, 70, 50));
    fingers.up(event(1, 70, 50));
    expect(said.slice(2)).toEqual(['down', 'move', 'up']);
  });

  test('two fingers do nothing to what lies under them, whichever moves first', () => {
    const { fingers, said } = setUp();
    fingers.down(event(1, 50, 50));
    fingers.down(event(2, 150, 50));
    fingers.move(event(1, 20, 50));
    fingers.move(event(2, 180, 50));
    fingers.up(event(1, 20, 50));
    fingers.move(event(2, 300, 90));
    fingers.up(event(2, 300, 90));
    expect(said).toEqual([]);
  });

  test('a drag that a second finger joins is taken back', () => {
    const { fingers, said } = setUp();
    fingers.down(event(1, 50, 50));
    fingers.move(event(1, 90, 50));
    fingers.down(event(2, 150, 50));
    fingers.move(event(2, 190, 50));
    fingers.up(event(2, 190, 50));
    fingers.up(event(1, 90, 50));
    expect(said).toEqual(['down', 'move', 'cancel']);
  });

  test('law: what lay between the fingers lies between them still, its size by their spread', () => {
    const px = fc.integer({ min: 0, max: 600 });
    fc.assert(
      fc.property(px, px, px, px, px, px, px, px, (ax, ay, bx, by, cx, cy, dx, dy) => {
        fc.pre(Math.hypot(ax - bx, ay - by) > 5 && Math.hypot(cx - dx, cy - dy) > 5);
        const { fingers, view } = setUp();
        const was = view();
        fingers.down(event(1, ax, ay));
        fingers.down(event(2, bx, by));
        fingers.move(event(1, cx, cy));
        fingers.move(event(2, dx, dy));
        const now = view();
        const place = (v: typeof now, x: number, y: number) => [(x - 10 - v.x) / v.scale, (v.y - (y - 20)) / v.scale];
        const before = place(was, (ax + bx) / 2, (ay + by) / 2);
        const after = place(now, (cx + dx) / 2, (cy + dy) / 2);
        expect(after[0]).toBeCloseTo(before[0]!, 5);
        expect(after[1]).toBeCloseTo(before[1]!, 5);
        expect(now.scale / was.scale).toBeCloseTo(Math.hypot(cx - dx, cy - dy) / Math.hypot(ax - bx, ay - by), 6);
      }),
    );
  });
});
