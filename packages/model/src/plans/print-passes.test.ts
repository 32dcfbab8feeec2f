import { describe, expect, test } from '@jest/globals';
import { boxShape, mapOutline, translation } from '@lorvek/core/geometry';
import { pagesOfPasses, type PrintItem, type PrintPage } from '@lorvek/core/print';
import type { PrintLayer } from '../records/layers.ts';
import { boxOfArt, findPasses, passesOf, printPasses, usualPasses, type PassPlan } from './print-passes.ts';

const layer: PrintLayer = {
  type: 'print',
  id: 'print-g',
  stockId: 's',
  name: 'Glass',
  series: 'S',
  hex: '#ffffff',
  medium: 'clear',
  visible: true,
  locked: false,
  white: { where: 'between', coverage: 'where-printed', spots: [], bend: 1, strengthPct: 100, spreadMm: 0 },
};
const shape = (of: string, x: number, w = 40, h = 20): PrintItem => ({
  kind: 'shape',
  of,
  outline: mapOutline(translation(x, 5), boxShape(w, h)),
  fill: { hex: '#aa2211' },
});
const pass = (kind: PassPlan['kind'], leaves: string[] | null, mirror = false): PassPlan => ({
  kind,
  name: `a ${kind}`,
  mirror,
  leaves: leaves && new Set(leaves),
});
const page = (items: PrintItem[]): PrintPage => ({
  title: 't',
  widthMm: 300,
  heightMm: 200,
  forms: [{ id: 'f', items }],
  placements: [
    { form: 'f', map: [1, 0, 0, 1, 10, 10] },
    { form: 'f', map: [0, 1, -1, 0, 200, 20] },
  ],
  lines: [{ kind: 'kiss', outline: boxShape(10, 10) }],
  marks: boxShape(5, 5),
  white: { coverage: 'where-printed', spots: [], bend: 1, strengthPct: 100, spreadMm: 0, trim: { contours: [] } },
});

describe('passes', () => {
  test('come from where white lies when nobody set them; at once when it is behind or in front', () => {
    expect(passesOf({}, layer).map(({ kind, mirror }) => [kind, mirror])).toEqual([
      ['colour', true],
      ['white', false],
      ['colour', false],
    ]);
    expect(passesOf({}, { ...layer, white: { ...layer.white!, where: 'behind' } })).toEqual([]);
    expect(usualPasses({ white: { ...layer.white!, where: 'in-front' } }).map(({ kind }) => kind)).toEqual(['colour', 'white']);
    expect(passesOf({}, { ...layer, passes: [{ kind: 'white', items: ['gone'], mirror: false }] })[0]?.leaves?.size).toBe(0);
  });

  test('each has just its art; turned over, the art stays in its own box at every place', () => {
    const art = [shape('a', 0), shape('b', 60, 40, 20), shape('a', 20, 10, 5)];
    const [first, second] = printPasses([pass('colour', ['a'], true), pass('white', null)], page(art));
    expect(first!.forms[0]!.items.map(({ of }) => of)).toEqual(['a', 'a']);
    expect(second!.forms[0]!.items).toHaveLength(3);
    const whole = boxOfArt(art);
    const [over] = printPasses([pass('colour', null, true)], page(art));
    const turned = over!.forms[0]!.items;
    expect(boxOfArt(turned)).toEqual(whole);
    // what was at the left is at the right
    expect(boxOfArt([turned[1]!])).toEqual(boxOfArt([shape('b', 0)]));
    expect(over!.placements).toEqual(page(art).placements);
    // a panel shows the other end of the whole through the same window
    const clip = { minX: 0, minY: 0, maxX: 50, maxY: 30 };
    const panel = { ...page(art), forms: [{ id: 'f', items: art, clip }] };
    expect(printPasses([pass('colour', null, true)], panel)[0]!.forms[0]).toEqual({ id: 'f', clip, items: turned });
    expect(whole.maxX).toBe(100);
  });

  test('pages: marks on the first, cut lines on the last, white without art and art without white', () => {
    const art = [shape('a', 0)];
    const passes = printPasses([pass('colour', null), pass('white', null), pass('colour', null)], page(art));
    const pages = pagesOfPasses({ ...page(art), passes });
    expect(pages.map(({ paintsArt }) => paintsArt)).toEqual([true, false, true]);
    expect(pages.map((one) => one.page.marks.contours.length)).toEqual([1, 0, 0]);
    expect(pages.map((one) => one.page.lines.length)).toEqual([0, 0, 1]);
    expect(pages.map((one) => one.page.white !== undefined)).toEqual([false, true, false]);
    expect(pagesOfPasses(page(art))).toHaveLength(1);
  });

  test('other sizes are refused with both; what is in no pass, and a pass without art, is said', () => {
    const art = [shape('front', 0, 600, 400), shape('back', 0, 598, 400)];
    const found = findPasses(layer, [pass('colour', ['front']), pass('white', null), pass('colour', ['back'])], art, ['front']);
    expect(found.map(({ level }) => level)).toEqual(['stop']);
    expect(found[0]?.text).toContain('600.0 mm × 400.0 mm');
    expect(found[0]?.text).toContain('598.0 mm × 400.0 mm');
    // within a tenth of a millimetre it is the same
    expect(findPasses(layer, [pass('colour', ['a']), pass('colour', ['b'])], [shape('a', 0, 50), shape('b', 9, 50.09)], [])).toEqual([]);
    const lost = findPasses(layer, [pass('colour', ['a']), pass('white', ['nobody'])], [shape('a', 0), shape('c', 0)], []);
    expect(lost.map(({ text }) => text)).toEqual([
      'Pass “a white” of “Glass” has no art: nothing is laid down in it.',
      'Some art of “Glass” is in no pass: it is not printed.',
    ]);
    expect(findPasses({ ...layer, white: undefined } as unknown as PrintLayer, [pass('white', null)], [shape('a', 0)], [])[0]?.level).toBe(
      'stop',
    );
  });

  test('parts of one drawing lie in register whatever their sizes; of two drawings both sizes are said', () => {
    const art = [shape('a', 0), shape('b', 10, 12, 8)];
    const within = (name: string, leaf: string): PassPlan => ({ ...pass('colour', [leaf]), within: name });
    expect(findPasses(layer, [within('one', 'a'), within('one', 'b')], art, [])).toEqual([]);
    const [found] = findPasses(layer, [within('one', 'a'), within('other', 'b')], art, []);
    expect(found).toMatchObject({ code: 'passes', level: 'stop' });
    expect(found!.text).toMatch(/40\.0 mm × 20\.0 mm.*12\.0 mm × 8\.0 mm/);
    const group = { type: 'item', kind: 'group', id: 'g', name: 'Badge', layer: null, matrix: [1, 0, 0, 1, 0, 0], children: ['i', 'j'] };
    const leaf = (id: string) => ({ ...group, kind: 'box', id, layer: 'print-g', widthMm: 5, heightMm: 5, cornerMm: 0 });
    const drawing = { g: group, i: leaf('i'), j: leaf('j') } as unknown as Parameters<typeof passesOf>[0];
    const rules = { ...layer, passes: ['i', 'j'].map((id) => ({ kind: 'colour' as const, items: [id], mirror: false })) };
    expect(passesOf(drawing, rules).map((one) => one.within)).toEqual(['g', 'g']);
    expect(passesOf(drawing, { ...layer, passes: [{ kind: 'colour', items: ['g'], mirror: false }] })[0]).not.toHaveProperty('within');
  });
});
