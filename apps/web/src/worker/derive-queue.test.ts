import { describe, expect, test } from '@jest/globals';
import type { LeafItem } from '@lorvek/model';
import type { Derived } from '@lorvek/model/derive';
import { DeriveQueue } from './derive-queue.ts';

const item = (id: string): LeafItem => ({ id }) as LeafItem;
const OUTLINE = { outline: { contours: [] }, lines: [], missing: [] } as unknown as Derived;

/** A worker that takes one after another and answers when it is told to. */
function setUp() {
  const begun: string[] = [];
  const settled: string[] = [];
  let now = 0;
  let stops = 0;
  const wanted = new Map<string, string>();
  let line: { resolve(result: Derived): void; reject(error: Error): void }[] = [];
  const queue = new DeriveQueue({
    derive: ({ id }) => {
      begun.push(id);
      return new Promise<Derived>((resolve, reject) => line.push({ resolve, reject }));
    },
    stop: () => {
      stops++;
      for (const { reject } of line) reject(new Error('stopped'));
      line = [];
    },
    isWanted: ({ id }, key) => wanted.get(id) === key,
    settled: (key, result) => settled.push('error' in result ? `${key} failed` : key),
    now: () => now,
  });
  const tick = async (): Promise<void> => {
    for (let i = 0; i < 6; i++) await Promise.resolve();
  };
  return {
    queue,
    begun,
    settled,
    tick,
    stops: () => stops,
    pass: (ms: number) => (now += ms),
    ask: (id: string, key: string) => {
      wanted.set(id, key);
      queue.add(item(id), key);
    },
    forget: (id: string) => wanted.delete(id),
    finish: async (count = 1) => {
      for (let i = 0; i < count; i++) {
        line.shift()?.resolve(OUTLINE);
        await tick();
      }
    },
  };
}

/** Fills the worker's hands. */
const many = (ask: (id: string, key: string) => void): void => {
  for (let i = 0; i < 16; i++) ask(`m${i}`, `m${i}`);
};

describe('working items out one after another', () => {
  test('of states that come faster than they are worked out only the newest is', async () => {
    const { ask, begun, settled, finish, queue } = setUp();
    many(ask);
    ask('a', 'a1');
    ask('a', 'a2');
    ask('a', 'a3');
    expect([queue.has('a3'), queue.has('a2'), queue.has('a1')]).toEqual([true, false, false]);
    await finish(17);
    expect(begun.slice(16)).toEqual(['a']);
    expect(settled.at(-1)).toBe('a3');
    expect(queue.has('a3')).toBe(false);
  });

  test('some are handed to the worker ahead, no more than it can be stopped at', () => {
    const { ask, begun } = setUp();
    for (let i = 0; i < 100; i++) ask(`i${i}`, `k${i}`);
    expect(begun).toHaveLength(16);
  });

  test('what was deleted is not begun', async () => {
    const { ask, begun, forget, finish, queue } = setUp();
    many(ask);
    ask('b', 'b1');
    ask('c', 'c1');
    forget('b');
    await finish(17);
    expect(begun.slice(16)).toEqual(['c']);
    expect(queue.has('b1')).toBe(false);
  });

  test('a long one that nobody wants any more is stopped; what was handed over behind it is asked for again, its end says nothing', async () => {
    const { ask, begun, settled, forget, pass, stops, finish, tick } = setUp();
    ask('a', 'a1');
    ask('b', 'b1');
    forget('a');
    pass(100);
    ask('c', 'c1');
    expect(stops()).toBe(0);
    pass(1000);
    ask('c', 'c2');
    await tick();
    expect(stops()).toBe(1);
    // the newest state of c, not the one that was handed over
    expect(begun).toEqual(['a', 'b', 'c', 'c', 'b']);
    await finish(2);
    expect(settled).toEqual(['c2', 'b1']);
  });

  test('a long one that is wanted goes on', async () => {
    const { ask, stops, settled, pass, finish } = setUp();
    ask('a', 'a1');
    pass(5000);
    ask('b', 'b1');
    expect(stops()).toBe(0);
    await finish(2);
    expect(settled).toEqual(['a1', 'b1']);
  });
});
