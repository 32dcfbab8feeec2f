import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  applyPatch,
  composePatches,
  diff,
  invertPatch,
  isSame,
  LONG_TEXT,
  pack,
  packedForLog,
  PAGE_ID,
  pageOf,
  rebasePatch,
  stepsOf,
  textName,
  textsIn,
  textsNamed,
  unpack,
  unpackBack,
  unpackLoosely,
  validateDrawing,
  type Drawing,
  type Item,
  type Packed,
  type Patch,
  type TextOf,
} from '../index.ts';
import { randomDrawing, randomEdit } from '../drawing.support.ts';

const edits = fc.tuple(fc.nat(), fc.array(fc.nat(), { minLength: 1, maxLength: 8 }));

/** A drawing, and the drawings that edits make of it one after the other. */
const walk = (seed: number, steps: readonly number[]): Drawing[] =>
  steps.reduce<Drawing[]>((all, step) => [...all, randomEdit(all.at(-1) as Drawing, step)], [randomDrawing(seed)]);

const overTheWire = (packed: Packed): Packed => JSON.parse(JSON.stringify(packed)) as Packed;

/** As the log keeps it: long texts by name, beside them. */
function logged(packed: Packed): { packed: Packed; textOf: TextOf } {
  const texts = new Map<string, string>();
  return { packed: packedForLog(packed, (name, text) => texts.set(name, text)), textOf: (name) => texts.get(name) };
}

describe('a packed change', () => {
  test('is the patch again on the drawing before it, as it is sent and as it is logged', () => {
    fc.assert(
      fc.property(edits, ([seed, steps]) => {
        const states = walk(seed, steps);
        const [before, after] = [states[0] as Drawing, states.at(-1) as Drawing];
        const patch = diff(before, after);
        const wire = overTheWire(pack(patch));
        expect(isSame(applyPatch(before, unpack(before, wire)), after)).toBe(true);
        const log = logged(wire);
        expect(isSame(unpack(before, overTheWire(log.packed), log.textOf), patch)).toBe(true);
      }),
      { numRuns: 150, seed: 61 },
    );
  });

  test('is the patch again from the drawing after it, with the texts that the log names', () => {
    fc.assert(
      fc.property(edits, ([seed, steps]) => {
        const states = walk(seed, steps);
        const [before, after] = [states[0] as Drawing, states.at(-1) as Drawing];
        const patch = diff(before, after);
        const texts = new Map<string, string>();
        for (const state of states) for (const record of Object.values(state)) collect(record, texts);
        const back = unpackBack(after, overTheWire(logged(pack(patch)).packed), (name) => texts.get(name));
        expect(isSame(applyPatch(after, invertPatch(back)), before)).toBe(true);
      }),
      { numRuns: 150, seed: 61 },
    );
  });

  test('of a log gives all its steps back', () => {
    fc.assert(
      fc.property(edits, ([seed, steps]) => {
        const states = walk(seed, steps);
        const texts = new Map<string, string>();
        for (const state of states) for (const record of Object.values(state)) collect(record, texts);
        const changes = states.slice(1).map((after, i) => ({
          revision: i + 1,
          changeId: `change-${i}`,
          kind: 'do' as const,
          origin: 'x.y',
          group: '',
          patch: overTheWire(pack(diff(states[i] as Drawing, after))),
        }));
        const back = stepsOf(states.at(-1) as Drawing, changes, Object.fromEntries(texts));
        expect(back.map(({ patch }) => patch)).toEqual(states.slice(1).map((after, i) => diff(states[i] as Drawing, after)));
      }),
      { numRuns: 60, seed: 61 },
    );
  });

  test('made on another drawing is refused, never applied half', () => {
    const before = randomDrawing(3);
    const wire = pack(diff(before, randomEdit(before, 0)));
    const other = randomEdit(randomEdit(before, 0), 7);
    if (!isSame(before, other)) expect(() => unpack(other, wire)).toThrow(expect.objectContaining({ code: 'stale' }) as unknown as Error);
  });

  test('of moving five thousand items is under 300 kB, and of twelve shapes of ten thousand curves under 2 kB', () => {
    const items = Array.from({ length: 5000 }, (_, i): Item => boxAt(`item-0123456789-${i}`, 0.1234 * i, 3.7 * i));
    const move = (item: Item): Item => ({ ...item, matrix: [1, 0, 0, 1, round(item.matrix[4] + 17.35), round(item.matrix[5] - 4.0021)] });
    const [before, after] = [items, items.map(move)].map((list) => Object.fromEntries(list.map((item) => [item.id, item])) as Drawing);
    const wire = pack(diff(before as Drawing, after as Drawing));
    expect(JSON.stringify(wire).length).toBeLessThan(300_000);
    expect(isSame(applyPatch(before as Drawing, unpack(before as Drawing, overTheWire(wire))), after)).toBe(true);
    const path = `M 0 0 ${'C 1.25 2.5 3.75 5 7.5 10 '.repeat(10_000)}Z`;
    const shapes = items.slice(0, 12).map((item): Item => ({ ...item, kind: 'shape', path }) as unknown as Item);
    const shapeMoves = Object.fromEntries(shapes.map((item) => [item.id, { before: item, after: move(item) }])) as Patch;
    expect(JSON.stringify(pack(shapeMoves)).length).toBeLessThan(2000);
  });

  test('tells a long text that was there by its name alone', () => {
    const long = 'M 0 0 L 1 1 '.repeat(400);
    const shape = { ...boxAt('item-a', 0, 0), kind: 'shape', path: long } as unknown as Item;
    const gone = pack({ 'item-a': { before: shape, after: null } });
    expect(JSON.stringify(gone).length).toBeLessThan(600);
    expect(textsNamed(gone)).toEqual([textName(long)]);
    expect(textsIn(gone, () => long).records['item-a']).toEqual({ before: shape, after: null });
    expect(() => textsIn(gone, () => undefined)).toThrow(expect.objectContaining({ code: 'input.text' }) as unknown as Error);
    expect(long.length).toBeGreaterThan(LONG_TEXT);
  });
});

describe('taken up by a page that has not the drawing it was made on', () => {
  test('comes out as it was on that drawing, and whole with losses told on any other', () => {
    fc.assert(
      fc.property(edits, fc.nat(), ([seed, steps], mine) => {
        const states = walk(seed, steps);
        const base = states[0] as Drawing;
        const patch = diff(base, randomEdit(base, mine));
        const wire = overTheWire(pack(patch));
        expect(isSame(rebasePatch(base, unpackLoosely(base, wire)).patch, patch)).toBe(true);
        const now = states.at(-1) as Drawing;
        const rebased = rebasePatch(now, unpackLoosely(now, wire));
        validateDrawing(applyPatch(now, rebased.patch));
      }),
      { numRuns: 100, seed: 61 },
    );
  });
});

describe('rebasing on what others did', () => {
  test('gives a whole drawing with no value that nobody set, and names what it could not keep', () => {
    fc.assert(
      fc.property(edits, edits, ([seed, theirs], [, mine]) => {
        const base = randomDrawing(seed);
        const now = theirs.reduce(randomEdit, base);
        const own = mine.reduce((drawing, step) => randomEdit(drawing, step + 1_000_003), base);
        const { patch, lost } = rebasePatch(now, diff(base, own));
        const merged = validateDrawing(applyPatch(now, patch));
        for (const [id, record] of Object.entries(merged)) {
          const sources = [base[id], now[id], own[id]].filter((one) => one !== undefined) as unknown as Record<string, unknown>[];
          for (const [key, value] of Object.entries(record)) {
            if (['root', 'layers', 'children', 'treatments', 'guides', 'layer'].includes(key)) continue;
            expect(sources.some((source) => isSame(source[key], value))).toBe(true);
          }
        }
        const { root } = pageOf(merged);
        expect(new Set(root).size).toBe(root.length);
        // what I changed and is not there is of a record that is named
        for (const [id, { before, after }] of Object.entries(diff(base, own))) {
          if (before && after && isSame(now[id], before) && id !== PAGE_ID && !lost.includes(id)) expect(merged[id]).toEqual(after);
        }
      }),
      { numRuns: 100, seed: 61 },
    );
  });

  test('two moves of one item: the second is told as lost, the item lies where somebody put it', () => {
    const item = boxAt('item-a', -132, 90);
    const plain = randomDrawing(0);
    const base: Drawing = { ...plain, 'item-a': item, [PAGE_ID]: { ...pageOf(plain), root: [...pageOf(plain).root, 'item-a'] } };
    const mine: Patch = { 'item-a': { before: item, after: { ...item, matrix: [1, 0, 0, 1, 300, 90] } } };
    const now: Drawing = { ...base, 'item-a': { ...item, matrix: [1, 0, 0, 1, -132, 250] } };
    expect(rebasePatch(now, mine)).toEqual({ patch: {}, lost: ['item-a'] });
  });

  test('composing and packing agree', () => {
    fc.assert(
      fc.property(fc.nat(), fc.nat(), fc.nat(), (seed, a, b) => {
        const [d0] = [randomDrawing(seed)];
        const d1 = randomEdit(d0, a);
        const d2 = randomEdit(d1, b);
        const both = composePatches(diff(d0, d1), diff(d1, d2));
        expect(isSame(unpack(d0, overTheWire(pack(both))), both)).toBe(true);
      }),
      { numRuns: 100, seed: 61 },
    );
  });
});

const round = (n: number): number => Math.round(n * 1e4) / 1e4;
const boxAt = (id: string, x: number, y: number): Item => ({
  type: 'item',
  kind: 'box',
  id,
  name: id,
  layer: null,
  matrix: [1, 0, 0, 1, round(x), round(y)],
  widthMm: 10,
  heightMm: 5,
  cornerMm: 0,
});

function collect(value: unknown, texts: Map<string, string>): void {
  if (typeof value === 'string' && value.length > LONG_TEXT) texts.set(textName(value), value);
  else if (typeof value === 'object' && value !== null) for (const entry of Object.values(value)) collect(entry, texts);
}
