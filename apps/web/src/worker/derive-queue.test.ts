import { describe, expect, test } from '@jest/globals';
import type { LeafItem } from '@lorvek/model';
import type { Derived } from '@lorvek/model/derive';
import { DeriveQueue } from './derive-queue.ts';

const item = (id: string): LeafItem => ({ id }) as LeafItem;

/** A worker that answers when it is told to. */
function setUp() {
  const begun: string[] = [];
  const settled: string[] = [];
  let now = 0;
  let stops = 0;
  const wanted = new Map<string, string>();
  let finish: { resolve(): void; reject(): void } | undefined;
  const queue = new DeriveQueue({
    derive: ({ id }) => {
      begun.push(id);
      return new Promise<Derived>((resolve, reject) => {
        finish = { resolve: () => resolve({ outline: { contours: [] } } as never), reject: () => reject(new Error('stopped')) };
      });
    },
    stop: () => {
      stops++;
      finish?.reject();
    },
    isWanted: ({ id }, key) => wanted.get(id) === key,
    settled: (key, result) => settled.push('error' in result ? `${key} failed` : key),
    now: () => now,
  });
  return {
    queue,
    begun,
    settled,
    stops: () => stops,
    pass: (ms: number) => (now += ms),
    ask: (id: string, key: string) => {
      wanted.set(id, key);
      queue.add(item(id), key);
    },
    forget: (id: string) => wanted.delete(id),
    finish: async () => {
      finish?.resolve();
      await Promise.resolve();
      await Promise.resolve();
      await Promise.resolve();
    },
  };
}
const tick = async (): Promise<void> => {
  for (let i = 0; i < 5; i++) await Promise.resolve();
};

describe('working items out one after another', () => {
  test('of states that come faster than they are worked out only the newest is', async () => {
    const { ask, begun, settled, finish, queue } = setUp();
    ask('a', 'a1');
    ask('a', 'a2');
    ask('a', 'a3');
    expect(queue.has('a3')).toBe(true);
    expect(queue.has('a2')).toBe(false);
    await finish();
    await finish();
    expect(begun).toEqual(['a', 'a']);
    expect(settled).toEqual(['a1', 'a3']);
  });

  test('what was deleted is not begun', async () => {
    const { ask, begun, forget, finish } = setUp();
    ask('a', 'a1');
    ask('b', 'b1');
    ask('c', 'c1');
    forget('b');
    await finish();
    expect(begun).toEqual(['a', 'c']);
  });

  test('a long one that nobody wants any more is stopped for the next; its end says nothing', async () => {
    const { ask, begun, settled, forget, pass, stops, finish } = setUp();
    ask('a', 'a1');
    forget('a');
    pass(100);
    ask('b', 'b1');
    expect(stops()).toBe(0);
    pass(1000);
    ask('c', 'c1');
    await tick();
    expect(stops()).toBe(1);
    expect(begun).toEqual(['a', 'b']);
    await finish();
    await finish();
    expect(settled).toEqual(['b1', 'c1']);
  });

  test('a long one that is wanted goes on', async () => {
    const { ask, stops, settled, pass, finish } = setUp();
    ask('a', 'a1');
    pass(5000);
    ask('b', 'b1');
    expect(stops()).toBe(0);
    await finish();
    await finish();
    expect(settled).toEqual(['a1', 'b1']);
  });
});
