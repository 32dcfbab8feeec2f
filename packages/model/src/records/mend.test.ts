/** What two people's changes left broken comes out whole; what is whole is let be. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { randomDrawing, randomEdit } from '../drawing.support.ts';
import { leavesOf, PAGE_ID, pageOf, validateChange, type DocRecord, type Drawing } from '../index.ts';
import { mendDrawing } from './mend.ts';

const drawing = fc.tuple(fc.nat(1e6), fc.integer({ min: 1, max: 12 })).map(([seed, count]) => randomDrawing(seed, count));
const pick = <T>(list: readonly T[], n: number): T | undefined => list[n % Math.max(1, list.length)];

/** Ways in which a merge breaks a drawing. */
type Break = (drawing: Record<string, DocRecord>, n: number) => void;
const ids = (of: Drawing, type: DocRecord['type']): string[] => Object.values(of).flatMap((r) => (r.type === type ? [r.id] : []));
const setPage = (of: Record<string, DocRecord>, fields: object): void => {
  of[PAGE_ID] = { ...pageOf(of), ...fields };
};
const BREAKS: Record<string, Break> = {
  'an item is gone and its list still names it': (of, n) => {
    const id = pick(ids(of, 'item'), n);
    if (id) delete of[id];
  },
  'a film is gone and items are still on it': (of, n) => {
    const id = pick(ids(of, 'film'), n);
    if (id) delete of[id];
  },
  'a film is in no strip': (of) => setPage(of, { layers: pageOf(of).layers.slice(1) }),
  'a film stands in the strip twice': (of) => setPage(of, { layers: [...pageOf(of).layers, ...pageOf(of).layers] }),
  'an item stands twice': (of, n) => setPage(of, { root: [...pageOf(of).root, pick(ids(of, 'item'), n) ?? 'item-none'] }),
  'an item stands nowhere': (of, n) => {
    const lost = pick(pageOf(of).root, n);
    setPage(of, { root: pageOf(of).root.filter((id) => id !== lost) });
  },
  'a group is empty': (of) => {
    const group = Object.values(of).find((r) => r.type === 'item' && r.kind === 'group');
    if (group) of[group.id] = { ...group, children: [] } as DocRecord;
  },
  'a group holds itself': (of) => {
    const group = Object.values(of).find((r) => r.type === 'item' && r.kind === 'group');
    if (group) of[group.id] = { ...group, children: [group.id] } as DocRecord;
  },
  'the page is gone': (of) => void delete of[PAGE_ID],
};

test('whatever was broken, what comes out can be kept, and mending it again changes nothing', () => {
  const breaks = fc.array(fc.tuple(fc.constantFrom(...Object.keys(BREAKS)), fc.nat(99)), { minLength: 1, maxLength: 4 });
  fc.assert(
    fc.property(drawing, breaks, (before, list) => {
      const broken: Record<string, DocRecord> = { ...before };
      for (const [name, n] of list) if (broken[PAGE_ID]) BREAKS[name]?.(broken, n);
      const mended = mendDrawing(broken, before);
      expect(() => validateChange(mended.drawing, {})).not.toThrow();
      expect(mendDrawing(mended.drawing, before).drawing).toBe(mended.drawing);
    }),
    { numRuns: 300 },
  );
});

test('a whole drawing comes out as it is, with nothing lost', () => {
  fc.assert(
    fc.property(drawing, fc.nat(1e9), (before, n) => {
      const after = randomEdit(before, n);
      expect(mendDrawing(after, before)).toEqual({ drawing: after, lost: [] });
      expect(mendDrawing(after, before).drawing).toBe(after);
    }),
  );
});

test('no item is lost that is still there: it stands once, wherever it stood', () => {
  fc.assert(
    fc.property(drawing, fc.nat(99), (before, n) => {
      const broken: Record<string, DocRecord> = { ...before };
      BREAKS['an item stands nowhere']?.(broken, n);
      BREAKS['an item stands twice']?.(broken, n + 1);
      const { drawing: mended } = mendDrawing(broken, before);
      const kept = leavesOf(mended).map(({ id }) => id);
      expect(new Set(kept).size).toBe(kept.length);
      expect([...kept].sort()).toEqual(
        leavesOf(before)
          .map(({ id }) => id)
          .sort(),
      );
    }),
  );
});

test('an item whose film is gone is on no film, and that is told', () => {
  const before = randomDrawing(7, 8);
  const [filmId] = ids(before, 'film');
  const broken: Record<string, DocRecord> = { ...before };
  delete broken[filmId ?? ''];
  const { drawing: mended, lost } = mendDrawing(broken, before);
  const touched = Object.values(before).flatMap((r) => (r.type === 'item' && r.layer === filmId ? [r.id] : []));
  expect(touched.length).toBeGreaterThan(0);
  for (const id of touched) {
    const item = mended[id];
    expect(item?.type === 'item' ? item.layer : 'gone').toBeNull();
    expect(lost).toContain(id);
  }
});
