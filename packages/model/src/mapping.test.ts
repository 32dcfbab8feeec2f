/** Items under maps: whatever takes up the size, what is cut lies where the map puts it. And commands on films and sets of items. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  bounds,
  boxShape,
  compose,
  formatPath,
  mapOutline,
  rotation,
  scaling,
  translation,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import {
  addEdgeCut,
  addFilm,
  addItems,
  applyPatch,
  causeKey,
  copyItems,
  describeIssue,
  emptyDrawing,
  filmOf,
  groupItems,
  isPlain,
  itemOf,
  itemSchema,
  layerOfCutLine,
  mapItem,
  moveEach,
  pageOf,
  plainOutline,
  removeFilm,
  removeItems,
  selectableOf,
  setFilmFields,
  setFilmOfItems,
  setItemFields,
  setPaint,
  setPaths,
  setPrinted,
  setScope,
  setLayUp,
  setSurface,
  layUpOf,
  transformItems,
  type Command,
  type Drawing,
  type LeafItem,
  type EdgeCutItem,
  type KnownOf,
  type PrintLayer,
  type Item,
  defaultLayUp,
  type LayUp,
} from './index.ts';
import { checkDrawing } from './plans/check-drawing.ts';
import { knownEdgeCut } from './queries/edge-cuts.ts';
import { film } from './drawing.support.ts';

const base = { type: 'item', name: 'part', layer: 'film-a', matrix: [1, 0, 0, 1, 0, 0] } as const;
const size = fc.integer({ min: 10, max: 4000 }).map((v) => v / 10);

type Plain = Parameters<typeof plainOutline>[0];
const anItem: fc.Arbitrary<Plain> = fc
  .oneof(
    fc.record({ kind: fc.constant('box'), widthMm: size, heightMm: size, cornerMm: fc.constant(0) }),
    fc.record({ kind: fc.constant('oval'), widthMm: size, heightMm: size }),
    fc.record({ kind: fc.constant('polygon'), sides: fc.integer({ min: 3, max: 9 }), radiusMm: size, innerPct: fc.constantFrom(null, 40) }),
    fc.record({
      kind: fc.constant('arc'),
      radiusMm: size,
      fromDeg: fc.integer({ min: -180, max: 180 }),
      sweepDeg: fc.integer({ min: 20, max: 340 }),
      ends: fc.constantFrom('open', 'chord', 'sector'),
    }),
    fc.record({ kind: fc.constant('shape'), path: size.map((v) => formatPath(boxShape(v, 20, 3), 4)) }),
    fc.record({
      kind: fc.constant('picture'),
      layer: fc.constant(null),
      asset: fc.constant('0'.repeat(64)),
      widthPx: fc.integer({ min: 4, max: 900 }),
      heightPx: fc.integer({ min: 4, max: 900 }),
      mmPerPx: fc.constantFrom(0.1, 0.5),
      strengthPct: fc.constant(100),
      locked: fc.constant(false),
      clip: fc.constantFrom(undefined, 'M0 0L3 0L3 4Z'),
    }),
  )
  .map((fields) => JSON.parse(JSON.stringify({ ...base, id: 'item-1', ...fields })) as Plain);

const factor = fc.integer({ min: 2, max: 30 }).map((v) => v / 10);
/** How far the places of two outlines of the same parts are apart at most. */
function apart(one: Outline, other: Outline): number {
  const places = ({ contours }: Outline): number[] => contours.flatMap(({ spans }) => spans.flatMap((span) => [...span]));
  const [a, b] = [places(one), places(other)];
  return a.length === b.length ? Math.max(0, ...a.map((v, i) => Math.abs(v - (b[i] as number)))) : Infinity;
}

/** Turns, sizes, mirrors and moves, and skews as well. */
const aMap: fc.Arbitrary<Matrix> = fc
  .tuple(
    fc.integer({ min: -180, max: 180 }),
    factor,
    factor,
    fc.boolean(),
    fc.integer({ min: -300, max: 300 }),
    fc.integer({ min: -180, max: 180 }),
  )
  .map(([turn, kx, ky, isMirrored, move, before]) =>
    compose(translation(move, -move / 2), compose(rotation(turn), compose(scaling(isMirrored ? -kx : kx, ky), rotation(before)))),
  );

describe('items under maps', () => {
  // Law: wherever its size goes, into the item's own fields or its matrix, the outline is mapped
  test('the outline of a mapped item is the mapped outline', () => {
    fc.assert(
      fc.property(anItem, aMap, (item, map) => {
        const mapped = mapItem(item, map);
        expect(itemSchema.safeParse(mapped).success).toBe(true);
        const [wanted, got] = [mapOutline(compose(map, item.matrix), plainOutline(item)), mapOutline(mapped.matrix, plainOutline(mapped))];
        expect(apart(wanted, got)).toBeLessThan(0.02);
      }),
      { numRuns: 80 },
    );
  });

  // Law: a map and then another are both at once
  test('maps follow one another', () => {
    fc.assert(
      fc.property(anItem, aMap, aMap, (item, one, other) => {
        const [stepwise, atOnce] = [mapItem(mapItem(item, one), other), mapItem(item, compose(other, one))];
        const outline = (it: Plain): ReturnType<typeof mapOutline> => mapOutline(it.matrix, plainOutline(it));
        expect(apart(outline(stepwise), outline(atOnce))).toBeLessThan(0.05);
      }),
      { numRuns: 80 },
    );
  });

  test('sizes stay true under turns and sizes: a box of 40 by 20 twice as wide is one of 80 by 20, however it is turned', () => {
    const item = { ...base, id: 'item-1', kind: 'box', widthMm: 40, heightMm: 20, cornerMm: 2 } as unknown as Item;
    expect(mapItem(item, compose(rotation(30), scaling(2, 1)))).toMatchObject({ widthMm: 80, heightMm: 20, cornerMm: 2 });
    expect(mapItem(item, scaling(3, 3))).toMatchObject({ widthMm: 120, heightMm: 60, cornerMm: 6, matrix: [1, 0, 0, 1, 0, 0] });
  });

  test('the same cause has the same key, another one another', () => {
    fc.assert(
      fc.property(anItem, anItem, (one, other) => {
        expect(isPlain(one)).toBe(true);
        expect(causeKey({ ...one, id: 'item-9', name: 'else' }, 0)).toBe(causeKey(one, 0));
        // where it lies is no cause; what it looks like is
        expect(causeKey({ ...one, matrix: [...compose(translation(5, 5), one.matrix)] } as Plain, 0)).toBe(causeKey(one, 0));
        if (apart(plainOutline(one), plainOutline(other)) > 0.01) expect(causeKey(one, 0)).not.toBe(causeKey(other, 0));
      }),
      { numRuns: 60 },
    );
  });
});

function run<A>(drawing: Drawing, command: Command<A>, args: A): Drawing {
  const plan = command({ drawing, selection: [] }, args);
  if (!plan.enabled) throw new Error(plan.why);
  return applyPatch(drawing, plan.run().patch);
}
const why = <A>(drawing: Drawing, command: Command<A>, args: A): string | undefined => {
  const plan = command({ drawing, selection: [] }, args);
  return plan.enabled ? undefined : plan.why;
};

const shape = (id: string, more: object = {}): Item =>
  ({ ...base, id, kind: 'shape', path: 'M0 0L10 0L10 10Z', ...more }) as unknown as Item;
const picture = {
  ...base,
  id: 'item-p',
  kind: 'picture',
  layer: null,
  asset: '0'.repeat(64),
  widthPx: 10,
  heightPx: 10,
  mmPerPx: 1,
  strengthPct: 100,
  locked: false,
} as unknown as Item;
const start = (): Drawing => {
  const films = ['film-a', 'film-b'].reduce((d, id) => run(d, addFilm, { film: film(id) }), emptyDrawing());
  return run(films, addItems, { items: [shape('item-1'), shape('item-2'), picture], roots: ['item-1', 'item-2', 'item-p'] });
};

describe('sets of items', () => {
  test('each by its own way is the same as one after the other', () => {
    const d = start();
    expect(run(d, moveEach, { moves: [{ id: 'item-2', dx: 7, dy: 0 }] })).toEqual(
      run(d, transformItems, { ids: ['item-2'], map: translation(7, 0) }),
    );
    expect(why(d, moveEach, { moves: [{ id: 'item-2', dx: 0, dy: 0 }] })).toContain('already');
    expect(why(d, transformItems, { ids: ['item-1'], map: [0, 0, 0, 0, 5, 5] })).toContain('no size');
    expect(why(d, moveEach, { moves: [{ id: 'item-1', dx: 1e12, dy: 0 }] })).toContain('out of reach');
  });

  test('what lies on a locked film is not moved, and is told', () => {
    const locked = run(start(), setFilmFields, { id: 'film-a', fields: { locked: true } });
    expect(why(locked, transformItems, { ids: ['item-1'], map: translation(1, 0) })).toBeDefined();
    expect(why(locked, setPaths, { paths: { 'item-1': 'M0 0L5 0L5 5Z' } })).toBeDefined();
    expect(why(locked, transformItems, { ids: ['item-p'], map: translation(1, 0) })).toBeUndefined();
  });

  test('new paths all at once; one that is left empty goes, with the group that it was the last of', () => {
    const grouped = run(start(), groupItems, { ids: ['item-1', 'item-2'], groupId: 'item-g' });
    expect(selectableOf(grouped, 'item-1', undefined)).toBe('item-g');
    expect(selectableOf(grouped, 'item-1', 'item-g')).toBe('item-1');
    const changed = run(grouped, setPaths, { paths: { 'item-1': 'M0 0L5 0L5 5Z', 'item-2': '' } });
    expect(itemOf(changed, 'item-1')).toMatchObject({ path: 'M0 0L5 0L5 5Z' });
    expect(itemOf(changed, 'item-2')).toBeUndefined();
    const gone = run(changed, setPaths, { paths: { 'item-1': '' } });
    expect(itemOf(gone, 'item-g')).toBeUndefined();
    expect(pageOf(gone).root).toEqual(['item-p']);
  });
});

describe('films', () => {
  test('items change films, pictures do not; a film in use stays', () => {
    const d = run(start(), setFilmOfItems, { ids: ['item-1', 'item-p'], film: 'film-b' });
    expect([itemOf(d, 'item-1')?.layer, itemOf(d, 'item-2')?.layer, itemOf(d, 'item-p')?.layer]).toEqual(['film-b', 'film-a', null]);
    expect(why(d, setFilmOfItems, { ids: ['item-p'], film: 'film-b' })).toBeDefined();
    expect(why(d, removeFilm, { id: 'film-b' })).toContain('1 item is cut');
    const free = run(d, setFilmOfItems, { ids: ['item-1'], film: 'film-a' });
    const scoped = run(free, setScope, { scope: { kind: 'layer', layer: 'film-b' } });
    const without = run(scoped, removeFilm, { id: 'film-b' });
    expect(filmOf(without, 'film-b')).toBeUndefined();
    expect(pageOf(without)).toMatchObject({ layers: ['film-a'], scope: { kind: 'everything' } });
    expect(why(without, removeFilm, { id: 'film-b' })).toContain('no longer');
  });

  test('what the surface and a sheet cannot be is refused with the field, the rest stays', () => {
    const d = start();
    expect(why(d, setSurface, { fields: { widthMm: -4 } })).toBeDefined();
    const wide = run(d, setSurface, { fields: { widthMm: 1234 } });
    expect(pageOf(wide).surface).toMatchObject({ widthMm: 1234, heightMm: pageOf(d).surface.heightMm });
    expect(why(d, setLayUp, { film: 'film-none', fields: {} })).toContain('no longer');
    expect(
      why(d, setLayUp, { film: 'film-a', fields: { fill: { ...defaultLayUp('film-a').fill, copies: 0 } as LayUp['fill'] } }),
    ).toContain('copies');
    const laid = run(d, setLayUp, { film: 'film-a', fields: { marginMm: 3, turnDeg: 90 } });
    expect(layUpOf(laid, 'film-a')).toEqual({ ...layUpOf(d, 'film-a'), marginMm: 3, turnDeg: 90 });
    expect(layUpOf(laid, 'film-b')).toEqual(layUpOf(d, 'film-b'));
  });

  test('only shapes that came with a gradient are printed in it', () => {
    const gradient = {
      kind: 'linear',
      spread: 'pad',
      matrix: [1, 0, 0, 1, 0, 0],
      stops: [
        { offset: 0, hex: '#112233' },
        { offset: 1, hex: '#ffffff' },
      ],
    };
    expect(why(start(), setPrinted, { ids: ['item-1'], printed: true })).toBeDefined();
    const withOne = run(start(), addItems, { items: [shape('item-q', { gradient })], roots: ['item-q'] });
    expect(itemOf(run(withOne, setPrinted, { ids: ['item-1', 'item-q'], printed: true }), 'item-q')).toMatchObject({ printed: true });
  });
});

describe('prints and cut lines', () => {
  const print: PrintLayer = {
    type: 'print',
    id: 'print-p',
    stockId: 's-p',
    name: 'Gloss white',
    series: 's',
    hex: '#fcfcfa',
    medium: 'white',
    visible: true,
    locked: false,
  };
  const start = (): Drawing => {
    const d = ['film-a'].reduce((sum, id) => run(sum, addFilm, { film: film(id) }), run(emptyDrawing(), addFilm, { film: print }));
    const box = {
      ...base,
      kind: 'box' as const,
      id: 'item-b',
      widthMm: 40,
      heightMm: 20,
      cornerMm: 0,
      matrix: [1, 0, 0, 1, 10, 10] as [number, number, number, number, number, number],
    };
    return run(d, addItems, { items: [box], roots: ['item-b'] });
  };

  test('what goes from a film onto a print and back keeps its colours and its film’s', () => {
    const printed = run(start(), setFilmOfItems, { ids: ['item-b'], film: 'print-p' });
    expect(itemOf(printed, 'item-b')).toMatchObject({ layer: 'print-p', paint: { fill: { hex: film('film-a').hex } } });
    const red = run(printed, setPaint, { ids: ['item-b'], fields: { fill: { hex: '#ff0000' }, stroke: { hex: '#000000', widthMm: 0.5 } } });
    const back = run(red, setFilmOfItems, { ids: ['item-b'], film: 'film-a' });
    expect(itemOf(back, 'item-b')).toMatchObject({ layer: 'film-a', paint: { fill: { hex: '#ff0000' } } });
    expect(itemOf(run(back, setFilmOfItems, { ids: ['item-b'], film: 'print-p' }), 'item-b')).toEqual(itemOf(red, 'item-b'));
    expect(why(red, setPaint, { ids: ['item-b'], fields: { stroke: { hex: '#000000', widthMm: 0 } } })).toBeDefined();
  });

  test('values in process inks stay with the look that they are of', () => {
    const printed = run(start(), setFilmOfItems, { ids: ['item-b'], film: 'print-p' });
    const red = { hex: '#d02020', cmyk: [0, 0.9, 0.8, 0] as [number, number, number, number] };
    const fillOf = (drawing: Drawing) => (itemOf(drawing, 'item-b') as LeafItem).paint?.fill;
    const came = run(printed, setPaint, { ids: ['item-b'], fields: { fill: red } });
    expect(fillOf(came)).toEqual(red);
    // a name for the ink, a line beside it: the same colour
    expect(fillOf(run(came, setPaint, { ids: ['item-b'], fields: { fill: { ...red, spot: 'Signal' } } }))).toEqual({
      ...red,
      spot: 'Signal',
    });
    expect(fillOf(run(came, setPaint, { ids: ['item-b'], fields: { stroke: { hex: '#000000', widthMm: 1 } } }))).toEqual(red);
    expect(fillOf(run(came, setPaint, { ids: ['item-b'], fields: { fill: { ...red, hex: '#2020d0' } } }))).toEqual({ hex: '#2020d0' });
    // values that are given with the look are taken
    const blue = { hex: '#2020d0', cmyk: [0.9, 0.8, 0, 0] as [number, number, number, number] };
    expect(fillOf(run(came, setPaint, { ids: ['item-b'], fields: { fill: blue } }))).toEqual(blue);
  });

  test('a cut line goes round what is printed, follows it, is copied with it and goes when it goes', () => {
    expect(why(start(), addEdgeCut, { id: 'item-c', of: ['item-b'] })).toContain('print');
    const printed = run(start(), setFilmOfItems, { ids: ['item-b'], film: 'print-p' });
    const cut = run(printed, addEdgeCut, { id: 'item-c', of: ['item-b'] });
    const line = (d: Drawing) => {
      const item = itemOf(d, 'item-c') as EdgeCutItem;
      return bounds(
        (
          knownEdgeCut(d, item, (leaf) => ({
            derived: { outline: plainOutline(leaf as never), lines: [], missing: [] },
            pieces: [{ layer: leaf.layer, outline: plainOutline(leaf as never) }],
          })) as unknown as { pieces: { outline: Outline }[] }
        ).pieces[0]!.outline,
      );
    };
    expect(line(cut)).toMatchObject({ minX: 8, maxX: 52 });
    const moved = run(cut, transformItems, { ids: ['item-b', 'item-c'], map: [1, 0, 0, 1, 5, 0] });
    expect(line(moved)).toMatchObject({ minX: 13, maxX: 57 });
    const { items, roots } = copyItems(
      cut,
      ['item-b', 'item-c'],
      (() => {
        let n = 0;
        return () => `item-n${n++}`;
      })(),
    );
    const twice = run(cut, addItems, { items, roots });
    const copy = items.find((item): item is EdgeCutItem => item.kind === 'edge-cut')!;
    expect(copy.of).toEqual([items.find(({ kind }) => kind === 'box')!.id]);
    expect(itemOf(run(twice, removeItems, { ids: copy.of }), copy.id)).toBeUndefined();
    expect(layerOfCutLine(cut, itemOf(cut, 'item-c') as EdgeCutItem)).toBe('print-p');
  });

  test('a picture goes onto prints only; complaints are in words', () => {
    const d = start();
    expect(
      describeIssue({ code: 'too_big', maximum: 20000, message: 'Too big: expected number to be <=20000', path: ['capHeightMm'] }),
    ).toBe('cap height (mm) must be at most 20000');
    expect(why(d, setItemFields, { id: 'item-b', fields: { widthMm: 1e9 } })).not.toMatch(/Too|expected/);
  });

  test('a part within another of its film is told; beside it, or of another film, it is not', () => {
    const box = (id: string, x: number, layer = 'film-a') => ({
      ...base,
      kind: 'box' as const,
      id,
      layer,
      widthMm: 10,
      heightMm: 10,
      cornerMm: 0,
      matrix: [1, 0, 0, 1, x, 12] as [number, number, number, number, number, number],
    });
    const known: KnownOf = (leaf) => {
      const outline = plainOutline(leaf as Parameters<typeof plainOutline>[0]);
      return { derived: { outline, lines: [], missing: [] }, pieces: [{ layer: leaf.layer, outline }] };
    };
    const codes = (item: ReturnType<typeof box>) =>
      checkDrawing(run(run(start(), addFilm, { film: film('film-b') }), addItems, { items: [item], roots: [item.id] }), known).map(
        ({ code }) => code,
      );
    expect(codes(box('item-in', 20))).toContain('inside-same-film');
    expect(codes(box('item-out', 200))).not.toContain('inside-same-film');
    expect(codes(box('item-on', 20, 'film-b'))).not.toContain('inside-same-film');
  });
});
