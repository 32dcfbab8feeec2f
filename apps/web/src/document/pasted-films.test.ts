import { describe, expect, test } from '@jest/globals';
import type { Layer } from '@lorvek/model';
import { pastedFilms } from './pasted-films.ts';

const film = (id: string, stockId: string): Layer => ({
  type: 'film',
  id,
  stockId,
  name: id,
  series: 'S',
  hex: '#c4281f',
  transfer: false,
  visible: false,
  locked: true,
});
const [red, white, red2] = [film('a', 'red'), film('b', 'white'), film('c', 'red')];
const pasted = (own: Layer[], came: Layer[]): [[string, string][], string[]] => {
  let count = 0;
  const { of, fresh } = pastedFilms(own, came, () => `new-${++count}`);
  return [[...of], fresh.map(({ id }) => id)];
};

describe('layers of pasted work', () => {
  test('within the job each is itself, also the second layer of a film alone', () => {
    expect(pasted([red, white, red2], [red2])).toEqual([[['c', 'c']], []]);
    expect(pasted([red, white, red2], [red, white, red2])[1]).toEqual([]);
  });
  test('in another job two layers of one film stay two: the first is the first there, what is missing comes along', () => {
    const own = [film('x', 'red')];
    expect(pasted(own, [red, white, red2])).toEqual([
      [
        ['a', 'x'],
        ['b', 'new-1'],
        ['c', 'new-2'],
      ],
      ['new-1', 'new-2'],
    ]);
    const { fresh } = pastedFilms(own, [white], () => 'n');
    expect(fresh[0]).toMatchObject({ visible: true, locked: false, stockId: 'white' });
  });
});
