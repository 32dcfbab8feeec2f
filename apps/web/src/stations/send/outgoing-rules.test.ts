/** The button of Send says what it will do, and why it cannot. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Machine } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { film, printLayer } from '../../../../../packages/model/src/drawing.support.ts';
import { standInForBrowser } from '../../browser.support.ts';
import type * as Module from './outgoing-rules.ts';

standInForBrowser();
let rules: typeof Module;
beforeAll(async () => {
  rules = await import('./outgoing-rules.ts');
});

const machine = (fields: object = {}): Machine =>
  ({ id: 'm', name: 'Bench cutter', kind: 'cutter', widthMm: 610, lengthMm: null, setups: [], ...fields }) as never;
const cutter = machine();
const printer = machine({ id: 'p', name: 'Wide printer', kind: 'printer', widthMm: 1600 });
const sheet = (kind: 'film' | 'print' | 'print-cut', fields: object = {}): SheetPlan =>
  ({
    layer: kind === 'film' ? film('red') : printLayer('glossy'),
    material: { widthMm: 500, lengthMm: 9000 },
    usedLengthMm: 300,
    marks: [],
    lines: kind === 'print' ? [] : [{ kind: 'kiss', outline: { contours: [] } }],
    ...(kind === 'film' ? {} : { print: {} }),
    ...fields,
  }) as never;

describe('what the button says', () => {
  const say = (sheets: readonly SheetPlan[], what: 'both' | 'print' | 'cut' = 'both'): string =>
    rules.describeOrder(sheets, what, printer, cutter);

  test('is what it does: print, hold the cut for its print, cut films at once', () => {
    expect(say([sheet('film')])).toBe('Cut 1 sheet on Bench cutter');
    expect(say([sheet('print-cut')])).toBe('Print 1 sheet on Wide printer, hold 1 cut run for it');
    expect(say([sheet('print-cut'), sheet('print-cut'), sheet('film')])).toBe(
      'Print 2 sheets on Wide printer, hold 2 cut runs for them, cut 1 sheet on Bench cutter',
    );
    expect(say([sheet('print-cut')], 'cut')).toBe('Cut 1 sheet on Bench cutter');
    expect(say([sheet('print-cut'), sheet('film')], 'print')).toBe('Print 1 sheet on Wide printer');
    expect(say([])).toBe('Nothing to send');
    expect(say([sheet('film')], 'print')).toBe('Nothing to send');
  });

  test('counts every sheet that goes out, and none twice', () => {
    const kinds = fc.array(fc.constantFrom('film' as const, 'print' as const, 'print-cut' as const), { maxLength: 12 });
    fc.assert(
      fc.property(kinds, fc.constantFrom('both' as const, 'print' as const, 'cut' as const), (list, what) => {
        const said = say(
          list.map((kind) => sheet(kind)),
          what,
        );
        const of = (pattern: RegExp): number => Number(pattern.exec(said)?.[1] ?? 0);
        const prints = list.filter((kind) => kind !== 'film').length;
        const cuts = list.filter((kind) => kind !== 'print').length;
        expect(of(/Print (\d+)/)).toBe(what === 'cut' ? 0 : prints);
        expect(of(/hold (\d+)/) + of(/[Cc]ut (\d+) sheet/)).toBe(what === 'print' ? 0 : cuts);
      }),
    );
  });
});

describe('why it cannot', () => {
  const means = (fields: object) => ({ cuts: true, prints: false, machine: cutter, printer, sheets: [sheet('film')], ...fields }) as never;

  test('a machine that is lacking is told before anything else', () => {
    expect(rules.whyNot(means({}))).toBeUndefined();
    expect(rules.whyNot(means({ machine: undefined }))).toBe('No cutter is set up.');
    expect(rules.whyNot(means({ machine: undefined, cuts: false }))).toBeUndefined();
    expect(rules.whyNot(means({ prints: true, printer: undefined }))).toMatch(/No printer/);
  });

  test('a sheet that is longer than its machine stops, one that is wider is warned of; for all like it once', () => {
    const short = machine({ lengthMm: 200 });
    expect(rules.whyNot(means({ machine: short }))).toMatch(/300 mm long/);
    const wide = sheet('film', { material: { widthMm: 1370, lengthMm: 9000 } });
    expect(rules.whyNot(means({ sheets: [wide] }))).toBeUndefined();
    expect(rules.misfitsWith(means({ sheets: [wide, wide, wide] })).map(({ level }) => level)).toEqual(['warning']);
    // not looked at where it is not cut
    expect(rules.misfitsWith(means({ sheets: [wide], cuts: false }))).toEqual([]);
  });

  test('the drawing itself: the gravest first, and nothing once all is saved', () => {
    const ready = { error: undefined, isUnknown: false, share: 0, sheets: [sheet('film')], stops: 0, save: 'saved' };
    expect(rules.whyNotYet(ready)).toBeUndefined();
    const all = { ...ready, error: 'broke', isUnknown: true, stops: 3, save: 'read-only', sheets: [] };
    const said = [all, { ...all, save: 'saving' }, { ...all, save: 'saving', error: undefined }].map((one) => rules.whyNotYet(one));
    expect(said[0]).toMatch(/newer version/);
    expect(said[1]).toMatch(/could not be done/);
    expect(said[2]).not.toMatch(/nothing to send/i);
    expect(rules.whyNotYet({ ...ready, sheets: [] })).toBe('There is nothing to send.');
    expect(rules.whyNotYet({ ...ready, stops: 1 })).toMatch(/put right first/);
    expect(rules.whyNotYet({ ...ready, save: 'saving' })).toMatch(/still being saved/);
  });
});

describe('the machine that is taken by itself', () => {
  const wide = machine({ id: 'w', name: 'Wide cutter', widthMm: 1400 });
  const camera = machine({ id: 'c', name: 'Camera cutter', kind: 'camera-cutter', widthMm: 1400, readsMarks: ['dots'] });
  const all = [cutter, wide, camera];
  const taken = (sheets: readonly SheetPlan[], id?: string, isHere = false): string | undefined =>
    rules.machineFor(all, sheets, { id, isHere })?.id;
  const broad = sheet('film', { material: { widthMm: 1220, lengthMm: 9000 } });
  const marked = sheet('print-cut', { marks: [{}], markSettings: { marks: { kind: 'dots' } } });

  test('is the one chosen last while the sheets go onto it, else the first that they go onto', () => {
    expect(taken([sheet('film')])).toBe('m');
    expect(taken([sheet('film')], 'w')).toBe('w');
    expect(taken([broad])).toBe('w');
    expect(taken([sheet('film'), broad], 'm')).toBe('w');
    expect(taken([marked], 'w')).toBe('c');
    expect(taken([sheet('print')], 'w')).toBe('w');
    expect(taken([], 'gone')).toBe('m');
    expect(rules.machineFor([], [broad], { id: 'm', isHere: false })).toBeUndefined();
  });

  test('is what is chosen here, fitting or not; where none fits one that warns only', () => {
    expect(taken([broad], 'm', true)).toBe('m');
    expect(taken([marked], 'm', true)).toBe('m');
    // marks that a camera does not find are changed by a click; no click gives a cutter a camera
    expect(taken([sheet('print-cut', { marks: [{}], markSettings: { marks: { kind: 'corners-in' } } })], 'w')).toBe('c');
    const broader = sheet('film', { material: { widthMm: 2000, lengthMm: 9000 } });
    expect(rules.machineFor([machine({ id: 's', lengthMm: 200 }), wide], [broader], { id: 's', isHere: false })?.id).toBe('w');
  });

  test('never stops what another would not', () => {
    const anyMachine = fc.record({
      widthMm: fc.integer({ min: 300, max: 1600 }),
      lengthMm: fc.option(fc.integer({ min: 100, max: 500 }), { nil: null }),
      kind: fc.constantFrom('cutter', 'camera-cutter'),
      readsMarks: fc.constantFrom(['dots'], ['crosses'], []),
    });
    fc.assert(
      fc.property(
        fc.array(anyMachine, { minLength: 1, maxLength: 5 }),
        fc.array(fc.constantFrom(sheet('film'), broad, marked)),
        (some, sheets) => {
          const machines = some.map((fields, i) => machine({ ...fields, id: `m${i}` }));
          const stops = (one: Machine): boolean =>
            rules.whyNot({ cuts: true, prints: false, machine: one, printer: undefined, sheets }) !== undefined;
          const found = rules.machineFor(machines, sheets, { id: 'm0', isHere: false })!;
          if (stops(found)) expect(machines.every(stops)).toBe(true);
        },
      ),
    );
  });
});

test('times are at least a second and never 60 of them', () => {
  expect(rules.timeText(59.7)).toBe('1 min 0 s');
  expect(rules.timeText(119.6)).toBe('2 min 0 s');
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 20_000 }), (seconds) => {
      const [, minutes = '0', rest] = /^(?:(\d+) min )?(\d+) s$/.exec(rules.timeText(seconds)) ?? [];
      expect(60 * Number(minutes) + Number(rest)).toBe(Math.max(1, seconds));
      expect(Number(rest)).toBeLessThan(60);
    }),
  );
});
