/** Changes as they cross the line: their size, and the time to pack and unpack them against whole records as JSON. Run: npm run bench -- changes */
import { gzipSync } from 'node:zlib';
import { applyPatch, diff, pack, unpack, type Drawing, type Item, type Patch } from '@lorvek/model';
import { compare, report, type Measured } from './measure.ts';

const round = (n: number): number => Math.round(n * 1e4) / 1e4;

const boxes = (count: number): Drawing =>
  Object.fromEntries(
    Array.from({ length: count }, (_, i): [string, Item] => {
      const id = `item-${String(i).padStart(5, '0')}x${((i * 7919) % 46656).toString(36)}`;
      const matrix: Item['matrix'] = [1, 0, 0, 1, round(12.0371 * (i % 100)), round(9.0033 * i)];
      return [id, { type: 'item', kind: 'box', id, name: 'Box', layer: null, matrix, widthMm: 10, heightMm: 5, cornerMm: 0 }];
    }),
  );

const moved = (drawing: Drawing, by: (m: Item['matrix']) => Item['matrix']): Drawing =>
  Object.fromEntries(Object.entries(drawing).map(([id, record]) => [id, { ...record, matrix: by((record as Item).matrix) } as Item]));

function measure(name: string, before: Drawing, patch: Patch): Measured {
  const wire = JSON.stringify(pack(patch));
  const whole = JSON.stringify(patch);
  const size = `${Math.round(wire.length / 1000)} kB, ${Math.round(gzipSync(wire).length / 1000)} kB on the line; whole records ${Math.round(whole.length / 1000)} kB`;
  return compare(
    `${name} (${size})`,
    () => applyPatch(before, unpack(before, JSON.parse(JSON.stringify(pack(patch))) as ReturnType<typeof pack>)),
    'whole records as JSON and back',
    () => applyPatch(before, JSON.parse(JSON.stringify(patch)) as Patch),
  );
}

const many = boxes(5000);
const outline = `M0 0${'C1.25 2.5 3.75 5 7.5 10'.repeat(10_000)}Z`;
const shapes = Object.fromEntries(
  Object.entries(boxes(12)).map(([id, item]) => [id, { ...item, kind: 'shape', path: outline } as unknown as Item]),
) as Drawing;
const alike = (d: Drawing): Patch =>
  diff(
    d,
    moved(d, ([a, b, c, e, x, y]) => [a, b, c, e, round(x + 17.35), round(y - 4.0021)]),
  );
const turned = (d: Drawing): Patch =>
  diff(
    d,
    moved(d, ([, , , , x, y]) => [0.8, 0.6, -0.6, 0.8, round(0.8 * x - 0.6 * y), round(0.6 * x + 0.8 * y)]),
  );

report([
  measure('5 000 items moved', many, alike(many)),
  measure('5 000 items turned about one place', many, turned(many)),
  measure('12 shapes of 10 000 curves moved', shapes, alike(shapes)),
]);
