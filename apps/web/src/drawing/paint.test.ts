/** What is painted, in which order and how: told by a canvas that writes down what it is asked. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addFilm,
  addItems,
  applyPatch,
  emptyDrawing,
  groupItems,
  layersOf,
  leavesOf,
  restackFilms,
  setFilmFields,
  type Drawing,
  type Item,
} from '@lorvek/model';
import { film, printLayer, randomDrawing, run } from '../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../browser.support.ts';
import type * as Module from './paint.ts';

class Path {
  moveTo = (): void => undefined;
  lineTo = (): void => undefined;
  bezierCurveTo = (): void => undefined;
  closePath = (): void => undefined;
  addPath = (): void => undefined;
}
standInForBrowser({
  Path2D: Path,
  document: undefined,
  // what has to be worked out stays unknown here
  Worker: class {
    postMessage = (): void => undefined;
    terminate = (): void => undefined;
  },
});
let paint: typeof Module;
beforeAll(async () => {
  paint = await import('./paint.ts');
  // not before: what the page loads would write its looks into it
  Object.assign(globalThis, { document: { createElement: () => ({ getContext: () => recorder().context }) } });
});

const NOTHING_MOVED = { moved: new Set<string>(), preview: undefined };
const box = (id: string, layer: string | null, x: number): Item => ({
  type: 'item',
  kind: 'box',
  id,
  name: id,
  layer,
  matrix: [1, 0, 0, 1, x, 0],
  widthMm: 40,
  heightMm: 30,
  cornerMm: 0,
});
const colours = { red: '#c4281f', blue: '#1f5ec4' };
function twoFilms(): Drawing {
  let drawing = emptyDrawing();
  for (const [id, hex] of Object.entries(colours)) drawing = run(drawing, addFilm, { film: { ...film(`film-${id}`), hex } });
  const items = [box('item-a', 'film-red', 0), box('item-b', 'film-blue', 10), box('item-c', 'film-red', 20)];
  return run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
}

/** A canvas that writes down fills and strokes with their colours. */
function recorder() {
  const told: string[] = [];
  const state: Record<string, unknown> = {};
  const context = new Proxy(state, {
    get: (own, key: string) => {
      if (key === 'fill') return () => told.push(`fill ${String(own['fillStyle'])}`);
      if (key === 'stroke') return () => told.push(`stroke ${String(own['strokeStyle'])}`);
      if (key === 'createPattern') return () => ({ setTransform: () => undefined });
      if (key === 'getTransform') return () => ({ inverse: () => undefined });
      return key in own ? own[key] : () => undefined;
    },
    set: (own, key: string, value) => {
      own[key] = value;
      return true;
    },
  });
  return { told, context: context as unknown as CanvasRenderingContext2D };
}
const VIEW = { scale: 1, x: 0, y: 400 };
const SIZE = { width: 800, height: 600 };
function painted(drawing: Drawing, options: Partial<Module.PaintOptions> = {}): string[] {
  const { told, context } = recorder();
  paint.paintDrawing(context, drawing, VIEW, SIZE, { blade: false, ...NOTHING_MOVED, ...options });
  return told;
}

describe('the order', () => {
  test('is that of the strip: films from the bottom, within a film the order of the drawing', () => {
    const fills = painted(twoFilms()).filter((one) => one.startsWith('fill'));
    expect(fills).toEqual([`fill ${colours.red}`, `fill ${colours.red}`, `fill ${colours.blue}`]);
    const turned = run(twoFilms(), restackFilms, { films: ['film-blue', 'film-red'] });
    expect(painted(turned).filter((one) => one.startsWith('fill'))).toEqual([
      `fill ${colours.blue}`,
      `fill ${colours.red}`,
      `fill ${colours.red}`,
    ]);
  });

  test('holds every item once, in the film that it is cut from, whatever the drawing', () => {
    fc.assert(
      fc.property(fc.nat(1e6), fc.integer({ min: 1, max: 10 }), (seed, count) => {
        const drawing = randomDrawing(seed, count);
        const lists = paint.paintedOf(drawing, NOTHING_MOVED);
        // outlines that nobody has worked out yet are no pieces
        for (const { layer, painted: own } of lists)
          for (const { item } of own)
            if (layer !== undefined) expect(item.layer === layer || (item.treatments ?? []).length > 0).toBe(true);
        const boxes = leavesOf(drawing).filter(
          ({ kind, treatments }) => (kind === 'box' || kind === 'oval') && (treatments ?? []).length === 0,
        );
        const times = (id: string): number => lists.flatMap(({ painted: own }) => own).filter(({ item }) => item.id === id).length;
        expect(boxes.map(({ id }) => [id, times(id)])).toEqual(boxes.map(({ id }) => [id, 1]));
        expect(lists.flatMap(({ layer }) => layer ?? [])).toEqual(layersOf(drawing).map(({ id }) => id));
      }),
    );
  });

  test('has what is in groups where its film is', () => {
    const grouped = run(twoFilms(), groupItems, { ids: ['item-a', 'item-b'], groupId: 'item-g' });
    expect(
      painted(grouped)
        .filter((one) => one.startsWith('fill'))
        .at(-1),
    ).toBe(`fill ${colours.blue}`);
  });
});

describe('how', () => {
  test('a hidden film is not painted', () => {
    const hidden = run(twoFilms(), setFilmFields, { id: 'film-red', fields: { visible: false } });
    expect(painted(hidden)).not.toContain(`fill ${colours.red}`);
    expect(painted(hidden)).toContain(`fill ${colours.blue}`);
  });

  test('as the blade goes nothing is filled, and lines have their film’s colour', () => {
    const told = painted(twoFilms(), { blade: true });
    expect(told.some((one) => one.startsWith('fill'))).toBe(false);
    expect(told.filter((one) => one === `stroke ${paint.darken(colours.blue)}`)).toHaveLength(1);
    expect(told.filter((one) => one === `stroke ${paint.darken(colours.red)}`)).toHaveLength(2);
  });

  test('what is on no film is hatched, and has a line', () => {
    const loose = run(twoFilms(), addItems, { items: [box('item-d', null, 5)], roots: ['item-d'] });
    const told = painted(loose);
    expect(told).toContain('fill [object Object]');
    expect(told).toContain('stroke #4a5565');
  });

  test('on a print an item has its own colours', () => {
    const print = run(twoFilms(), addFilm, { film: printLayer('print-a') });
    const item = { ...box('item-p', 'print-a', 60), paint: { fill: { hex: '#00aa55' }, stroke: { hex: '#550000', widthMm: 2 } } } as Item;
    const told = painted(run(print, addItems, { items: [item], roots: [item.id] }));
    expect(told).toContain('fill #00aa55');
    expect(told).toContain('stroke #550000');
    expect(told).not.toContain('fill #ffffff');
  });

  test('what a drag moves is painted where it is dragged to, the rest where it is', () => {
    const lists = paint.paintedOf(twoFilms(), { moved: new Set(['item-b']), preview: [1, 0, 0, 1, 7, 3] });
    const at = (id: string) =>
      lists
        .flatMap(({ painted: own }) => own)
        .find(({ item }) => item.id === id)
        ?.matrix.slice(4);
    expect([at('item-a'), at('item-b')]).toEqual([
      [0, 0],
      [17, 3],
    ]);
  });

  test('what lies outside of the window is not painted', () => {
    const far = applyPatch(twoFilms(), {});
    const { told, context } = recorder();
    paint.paintDrawing(context, far, { scale: 1, x: -5000, y: 400 }, SIZE, { blade: false, ...NOTHING_MOVED });
    expect(told.filter((one) => one.startsWith('fill'))).toEqual([]);
  });
});

test('a colour is dark enough to be seen as a line, and keeps its kind', () => {
  const channel = fc.integer({ min: 0, max: 255 });
  fc.assert(
    fc.property(channel, channel, channel, (r, g, b) => {
      const hex = `#${[r, g, b].map((v) => v.toString(16).padStart(2, '0')).join('')}`;
      const [x = 0, y = 0, z = 0] = (paint.darken(hex).match(/\d+/g) ?? []).map(Number);
      expect((0.299 * x + 0.587 * y + 0.114 * z) / 255).toBeLessThan(0.56);
      // what is more of one channel than of another stays so, to a step of rounding
      if (r > g) expect(x).toBeGreaterThanOrEqual(y - 1);
      if (b > r) expect(z).toBeGreaterThanOrEqual(x - 1);
    }),
  );
});
