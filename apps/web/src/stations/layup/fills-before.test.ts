/** Ways of lying that are looked at in turn: each is found again as it was left. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Fill } from '@lorvek/model';
import { FillsBefore } from './fills-before.ts';

const kinds: Fill['kind'][] = ['as-drawn', 'grid', 'nest', 'panels'];

test('law: whatever is looked at in between, a way is as it was left, of each film for itself; the gap goes to one that is new', () => {
  const step = fc.record({ film: fc.constantFrom('a', 'b'), kind: fc.constantFrom(...kinds), gapMm: fc.nat(50) });
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
      const before = new FillsBefore();
      const first: Fill = { kind: 'as-drawn', copies: 7, gapMm: 3, alongMm: 1, acrossMm: 2 };
      const now = new Map<string, Fill>([
        ['a', first],
        ['b', first],
      ]);
      const left = new Map<string, Fill>();
      for (const { film, kind, gapMm } of steps) {
        const was = now.get(film)!;
        left.set(`${film} ${was.kind}`, was);
        const next = before.changed(film, was, kind, false);
        expect(next.kind).toBe(kind);
        const known = left.get(`${film} ${kind}`);
        if (known) expect(next).toEqual(known);
        else if ('gapMm' in next && 'gapMm' in was) expect(next.gapMm).toBe(was.gapMm);
        // the user sets something there
        now.set(film, 'gapMm' in next ? { ...next, gapMm } : next);
      }
    }),
  );
});

test('a grid fills a sheet to its end; on a roll, that would be all of it, the copies stay as many as they were', () => {
  const eight: Fill = { kind: 'as-drawn', copies: 8, gapMm: 3, alongMm: 0, acrossMm: 0 };
  expect(new FillsBefore().changed('a', eight, 'grid', true)).toMatchObject({ kind: 'grid', copies: null });
  expect(new FillsBefore().changed('a', eight, 'grid', false)).toMatchObject({ kind: 'grid', copies: 8 });
});
