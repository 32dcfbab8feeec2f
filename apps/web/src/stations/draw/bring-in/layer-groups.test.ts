import { describe, expect, test } from '@jest/globals';
import { layerGroups } from './layer-groups.ts';

const named = (text: string): [string[], (id: string) => string | undefined] => {
  const layers = text.split(' ');
  return [layers.map((_, i) => `item-${i}`), (id) => (layers[Number(id.slice(5))] === '-' ? undefined : layers[Number(id.slice(5))])];
};
const groups = (text: string): [string, number][] =>
  layerGroups(...named(text), () => `g${Math.random()}`).map(({ name, children }) => [name, children.length]);

describe('layers of a file', () => {
  test('come in as groups, in their order; what is on no layer stays beside them', () => {
    expect(groups('- colour colour white varnish varnish')).toEqual([
      ['colour', 2],
      ['white', 1],
      ['varnish', 2],
    ]);
  });
  test('a file of one layer, of too many, or with layers that lie through one another keeps its order and has no groups', () => {
    expect(groups('colour colour colour')).toEqual([]);
    expect(groups('- - -')).toEqual([]);
    expect(groups('colour white colour')).toEqual([]);
    expect(groups(Array.from({ length: 13 }, (_, i) => `l${i}`).join(' '))).toEqual([]);
  });
});
