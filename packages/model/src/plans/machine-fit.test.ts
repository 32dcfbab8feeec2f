import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Machine } from '../api/shop.ts';
import { MARK_KINDS } from '../records/lay-up.ts';
import { misfitsOf, nearestMark } from './machine-fit.ts';

const machine = (fields: Partial<Machine> = {}): Machine => ({
  id: 'm',
  kind: 'camera-cutter',
  name: 'Cutter',
  host: 'h',
  port: 1,
  reportPort: null,
  widthMm: 610,
  setups: [],
  ...fields,
});
const sheet = { title: 'Film', widthMm: 610, lengthMm: 900, marks: null };

describe('a sheet and a machine', () => {
  test('fit when nothing is in the way', () => {
    expect(misfitsOf(sheet, machine())).toEqual([]);
    expect(misfitsOf({ ...sheet, marks: 'dots' }, machine())).toEqual([]);
    expect(misfitsOf({ ...sheet, widthMm: 1600 }, machine({ kind: 'desk-printer', widthMm: 210 }))).toEqual([]);
    // a printer does not look for marks
    expect(misfitsOf({ ...sheet, marks: 'dots' }, machine({ kind: 'printer', readsMarks: ['crosses'] }))).toEqual([]);
  });

  test('too wide is a warning, too long and marks that are not found stop, with what to do', () => {
    expect(misfitsOf({ ...sheet, widthMm: 1220 }, machine())).toEqual([
      { level: 'warning', text: 'Film is 1220 mm wide; Cutter takes 610 mm.' },
    ]);
    expect(misfitsOf(sheet, machine({ lengthMm: 800 }))[0]).toMatchObject({
      level: 'stop',
      text: expect.stringMatching(/800 mm.*shorter sheets/),
    });
    expect(misfitsOf({ ...sheet, marks: 'dots' }, machine({ kind: 'cutter' }))[0]).toMatchObject({
      level: 'stop',
      text: expect.stringMatching(/no camera/),
    });
    expect(misfitsOf({ ...sheet, marks: 'corners-in' }, machine({ readsMarks: ['dots', 'corners-out'] }))[0]).toMatchObject({
      level: 'stop',
      marks: 'corners-out',
    });
  });

  test('the nearest mark is one that the machine finds, and the same one when it finds it', () => {
    fc.assert(
      fc.property(fc.constantFrom(...MARK_KINDS), fc.subarray([...MARK_KINDS], { minLength: 1 }), (kind, readsMarks) => {
        const nearest = nearestMark(kind, { readsMarks });
        expect(readsMarks).toContain(nearest);
        if (readsMarks.includes(kind)) expect(nearest).toBe(kind);
      }),
    );
  });
});
