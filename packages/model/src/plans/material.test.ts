/** Which roll work lies on: one that was named, the only one that will do, or none – never an invented one. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Roll } from '../index.ts';
import { film, sheetOn, stockOf } from '../drawing.support.ts';
import { ANY_ROLL, chooseRoll, materialOf, narrowestThatFits, sheetMaterial, type Material } from './material.ts';

const rolls = fc
  .array(
    fc.record({ widthMm: fc.integer({ min: 50, max: 1600 }), lengthLeftMm: fc.integer({ min: 0, max: 30_000 }), isOffcut: fc.boolean() }),
    {
      maxLength: 6,
    },
  )
  .map((list) => list.map((roll, i): Roll => ({ id: `roll-${i}`, filmId: 'red', ...roll })));
const need = fc.record({ widthMm: fc.integer({ min: 10, max: 1700 }), lengthMm: fc.integer({ min: 1, max: 30_000 }) });
const red = film('red');
const stockWith = (list: readonly Roll[]) => [stockOf('blue'), { ...stockOf('red'), rolls: [...list] }];
const holds =
  (work: Material) =>
  ({ widthMm, lengthMm }: Material): boolean =>
    widthMm >= work.widthMm && lengthMm >= work.lengthMm;

test('a named roll is taken as it is, also when the work does not fit; one that is gone is none', () => {
  fc.assert(
    fc.property(rolls, fc.nat(7), need, (list, nth, work) => {
      const choice = chooseRoll(sheetOn('red', `roll-${nth}`), red, stockWith(list), holds(work));
      expect(choice).toEqual(list[nth] ? { roll: list[nth], how: 'named' } : { roll: null, how: 'gone' });
    }),
  );
});

test('without a name a roll is taken only where there is no choice', () => {
  fc.assert(
    fc.property(rolls, need, (list, work) => {
      const open = { ...sheetOn('red', ''), rollId: null };
      const left = list.filter(({ lengthLeftMm }) => lengthLeftMm > 0);
      const fitting = left.filter((roll) => holds(work)(materialOf(roll)));
      const { roll, how } = chooseRoll(open, red, stockWith(list), holds(work));
      if (left.length === 0) expect([roll, how]).toEqual([null, 'none']);
      else if (left.length === 1) expect([roll, how]).toEqual([left[0], 'only']);
      else if (fitting.length === 1) expect([roll, how]).toEqual([fitting[0], 'only']);
      else expect([roll, how]).toEqual([null, 'open']);
    }),
  );
});

test('a film that Stock does not have has no roll; what a machine says stands before what was named', () => {
  const open = { ...sheetOn('red', ''), rollId: null };
  expect(chooseRoll(open, red, [stockOf('blue')], () => true)).toEqual({ roll: null, how: 'none' });
  const reported = { machine: 'Bench', widthMm: 500, lengthMm: 900 };
  const sheet = { ...sheetOn('red', 'roll-red'), reported };
  const choice = chooseRoll(sheet, red, [stockOf('red')], () => true);
  expect(choice).toEqual({ roll: null, how: 'reported' });
  expect(sheetMaterial(sheet, choice)).toEqual({ widthMm: 500, lengthMm: 900 });
});

test('a sheet is as wide as its roll and no longer than it, or than is asked for', () => {
  fc.assert(
    fc.property(rolls, fc.option(fc.integer({ min: 10, max: 40_000 })), (list, sheetLengthMm) => {
      const sheet = { ...sheetOn('red', 'roll-0'), ...(sheetLengthMm === null ? {} : { sheetLengthMm }) };
      const choice = chooseRoll(sheet, red, stockWith(list), () => true);
      const { widthMm, lengthMm } = sheetMaterial(sheet, choice);
      const whole = choice.roll ? materialOf(choice.roll) : ANY_ROLL;
      expect(widthMm).toBe(whole.widthMm);
      expect(lengthMm).toBe(Math.min(whole.lengthMm, sheetLengthMm ?? Infinity));
    }),
  );
});

test('the narrowest roll that holds the work is offered; of as wide ones an offcut, then the shorter', () => {
  fc.assert(
    fc.property(rolls, need, (list, work) => {
      const found = narrowestThatFits(red, stockWith(list), holds(work));
      const fitting = list.filter((roll) => roll.lengthLeftMm > 0 && holds(work)(materialOf(roll)));
      expect(found !== undefined).toBe(fitting.length > 0);
      if (!found) return;
      expect(fitting).toContain(found);
      for (const other of fitting) {
        expect(found.widthMm).toBeLessThanOrEqual(other.widthMm);
        if (other.widthMm !== found.widthMm) continue;
        if (other.isOffcut && !found.isOffcut) throw new Error('an offcut as wide was passed over');
        if (other.isOffcut === found.isOffcut) expect(found.lengthLeftMm).toBeLessThanOrEqual(other.lengthLeftMm);
      }
    }),
  );
});
