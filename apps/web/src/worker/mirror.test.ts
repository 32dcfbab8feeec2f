import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Drawing } from '@lorvek/model';
import { drawingOf, newsOf } from './mirror.ts';

/** A drawing by its records alone: what they say does not matter to the mirror. */
const drawings = fc
  .uniqueArray(fc.tuple(fc.stringMatching(/^[a-f]{1,2}$/), fc.nat(5)), { selector: ([id]) => id, maxLength: 12 })
  .map((entries) => entries.map(([id, n]) => [id, { type: 'item', id, n }] as const));

/** States one after the other; what does not change stays the same object, as commands leave it. */
const histories = fc.array(drawings, { minLength: 1, maxLength: 6 }).map((states) => {
  const made: Drawing[] = [];
  for (const state of states) {
    const before = made.at(-1) ?? {};
    made.push(
      Object.fromEntries(
        state.map(([id, record]) => {
          const old = before[id] as unknown as { n: number } | undefined;
          return [id, old?.n === record.n ? before[id] : record];
        }),
      ) as Drawing,
    );
  }
  return made;
});

/** As a message does. */
const handedOver = <T>(value: T): T => structuredClone(value);

test('a mirror that is fed by news is the drawing, whatever changed', () => {
  fc.assert(
    fc.property(histories, (states) => {
      let sent: Drawing | undefined;
      let mirror: Drawing | undefined;
      for (const state of states) {
        mirror = drawingOf(mirror, handedOver(newsOf(sent, state)));
        sent = state;
        expect(mirror).toEqual(state);
      }
    }),
  );
});

test('only what changed is handed over, and the rest stays the object it was', () => {
  fc.assert(
    fc.property(histories, (states) => {
      let mirror: Drawing | undefined;
      states.forEach((state, i) => {
        const before = states[i - 1];
        const news = newsOf(before, state);
        const next = drawingOf(mirror, handedOver(news));
        for (const id of Object.keys(state)) {
          const isSame = before !== undefined && before[id] === state[id];
          expect(id in news.set).toBe(!isSame);
          if (isSame) expect(next[id]).toBe(mirror?.[id]);
        }
        mirror = next;
      });
    }),
  );
});

test('a state that is still being worked on is left as it was', () => {
  const before = { a: { type: 'item', id: 'a' }, b: { type: 'item', id: 'b' } } as unknown as Drawing;
  const { a } = before;
  const mirror = drawingOf(undefined, handedOver(newsOf(undefined, before)));
  const copy = structuredClone(mirror);
  drawingOf(mirror, newsOf(before, { a } as Drawing));
  expect(mirror).toEqual(copy);
});
