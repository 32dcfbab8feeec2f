/** Drawings to files: what is asked of pictures, and what is said when something cannot be written. */
import { describe, expect, test } from '@jest/globals';
import { PDFDocument } from '@cantoo/pdf-lib';
import { AppError } from '@lorvek/core';
import { boxShape } from '@lorvek/core/geometry';
import {
  addFilm,
  addItems,
  emptyDrawing,
  leftOutOf,
  newTreatment,
  setFilmFields,
  USUAL_SETTINGS,
  type Drawing,
  type PictureItem,
} from '@lorvek/model';
import { film, printLayer, run, shapeOf, stockOf, words } from '../../model/src/drawing.support.ts';
import { pictureHost } from './host.support.ts';
import { writeOut, type WriteAsked } from './write-out.ts';

const ASSET = 'cd'.repeat(32);
const picture = (fields: Partial<PictureItem> = {}): PictureItem => ({
  type: 'item',
  kind: 'picture',
  id: 'item-p',
  name: 'Photo',
  layer: null,
  matrix: [1, 0, 0, 1, 100, 40],
  asset: ASSET,
  widthPx: 40,
  heightPx: 30,
  mmPerPx: 2,
  strengthPct: 50,
  locked: false,
  ...fields,
});

function drawn(...items: (PictureItem | ReturnType<typeof shapeOf> | ReturnType<typeof words>)[]): Drawing {
  const bare = run(emptyDrawing(), addFilm, { film: film('film-a') });
  return run(bare, addItems, { items, roots: items.map(({ id }) => id) });
}
const asked = (kind: WriteAsked['kind'], drawing: Drawing, fields: Partial<WriteAsked> = {}): WriteAsked => ({
  kind,
  drawing,
  scope: {},
  job: { id: 'job-1', name: 'Quay sign', customer: 'Harbour Bakery', dueOn: null, revision: 3 },
  settings: USUAL_SETTINGS,
  stock: [stockOf('film-a')],
  dimensions: [],
  dpi: 50.8,
  today: '2026-01-01',
  ...fields,
});
const codeOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'went well',
    (error: unknown) => (error instanceof AppError ? error.code : String(error)),
  );
const text = (bytes: Uint8Array): string => new TextDecoder('latin1').decode(bytes);
const box = shapeOf('item-s', 'film-a', boxShape(30, 20));
const loose = { ...shapeOf('item-t', 'film-a', boxShape(5, 5)), layer: null };

describe('files', () => {
  test('as SVG and PDF pictures lie in the file as they are kept, those hidden or not in scope left out', async () => {
    const drawing = drawn(box, picture(), picture({ id: 'item-q', name: 'Hidden', hidden: true }));
    const host = pictureHost({});
    const svg = text(await writeOut(asked('svg', drawing), host));
    expect(svg.match(/<image /g)).toHaveLength(1);
    expect(svg).toContain(Buffer.from(ASSET).toString('base64'));
    expect(text(await writeOut(asked('svg', drawing, { scope: { ids: ['item-s'] } }), host))).not.toContain('<image ');
    expect(text(await writeOut(asked('svg', drawing, { scope: { film: 'film-a' } }), host))).not.toContain('<image ');
  });

  test('an item that could not be worked out would be missing: nothing is written', async () => {
    const drawing = drawn(box, words('item-w', 'film-a', [1, 0, 0, 1, 0, 0], 20, 'no-such-font'));
    for (const kind of ['svg', 'pdf', 'png', 'proof', 'ticket'] as const)
      expect([kind, await codeOf(writeOut(asked(kind, drawing), pictureHost({})))]).toEqual([kind, 'input.unknown']);
  });

  test('nothing in scope, no panels, too many pixels: each says so', async () => {
    const host = pictureHost({});
    expect(await codeOf(writeOut(asked('svg', drawn(box), { scope: { ids: [] } }), host))).toBe('input.nothing');
    expect(await codeOf(writeOut(asked('fitting-plan', drawn(box)), host))).toBe('input.panels');
    expect(await codeOf(writeOut(asked('png', drawn(box), { dpi: 25_000 }), host))).toBe('limit.picture');
    expect(host.asked.painted).toEqual([]);
  });
});

describe('a picture of the drawing', () => {
  test('is painted at its resolution, y down: ground, pictures with their strength, shapes over them', async () => {
    const host = pictureHost({});
    await writeOut(asked('png', drawn(box, picture())), host);
    const [painting] = host.asked.painted;
    // 50.8 dots an inch are 2 a mm
    expect(painting!.ground).toBeDefined();
    const [own] = painting!.pictures;
    expect(own!.strength).toBe(0.5);
    const [a, b, c, d, e, f] = own!.matrix;
    expect([a, b, c, d]).toEqual([160, 0, 0, -120]);
    expect([e, f]).toEqual([200, painting!.heightPx - 80]);
    expect(painting!.shapes).toHaveLength(1);
    expect(painting!.shapes[0]!.fill).toBeDefined();
  });

  test('of a selection has no ground and is no larger than what is selected', async () => {
    const host = pictureHost({});
    await writeOut(asked('png', drawn(box, picture()), { scope: { ids: ['item-s'] } }), host);
    expect(host.asked.painted[0]).toMatchObject({ ground: undefined, pictures: [], widthPx: 60, heightPx: 40 });
  });
});

describe('pictures of a part, beyond the surface, hidden', () => {
  test('a selection with a picture holds it, where it lies, and the file is as large as both', async () => {
    const host = pictureHost({});
    // the shape is 30 by 20 mm at the origin, the picture 80 by 60 mm at 100, 40
    await writeOut(asked('png', drawn(box, picture()), { scope: { ids: ['item-s', 'item-p'] } }), host);
    const [painting] = host.asked.painted;
    expect(painting).toMatchObject({ ground: undefined, widthPx: 360, heightPx: 200 });
    expect(painting!.pictures.map(({ matrix }) => matrix)).toEqual([[160, 0, 0, -120, 200, 120]]);
    await writeOut(asked('png', drawn(box, picture()), { scope: { ids: ['item-p'] } }), host);
    expect(host.asked.painted[1]).toMatchObject({ widthPx: 160, heightPx: 120, shapes: [] });
    expect(host.asked.painted[1]!.pictures.map(({ matrix }) => matrix)).toEqual([[160, 0, 0, -120, 0, 120]]);
    expect(text(await writeOut(asked('svg', drawn(picture()), { scope: { ids: ['item-p'] } }), host))).toMatch(/<image /);
  });

  test('where the work reaches beyond the surface pictures move along with it', async () => {
    const host = pictureHost({});
    const left = { ...box, matrix: [1, 0, 0, 1, -50, -10] } as typeof box;
    await writeOut(asked('png', drawn(left, picture())), host);
    const [painting] = host.asked.painted;
    const [, , , , e, f] = painting!.pictures[0]!.matrix;
    expect([e, painting!.heightPx - f!]).toEqual([2 * (100 + 50), 2 * (40 + 10)]);
  });

  test('a picture on a print is as it will be printed, however weak it is shown; one that is only looked at is weak', async () => {
    const host = pictureHost({});
    const bare = run(emptyDrawing(), addFilm, { film: printLayer('print-p') });
    const items = [picture({ layer: 'print-p' }), picture({ id: 'item-photo' })];
    const drawing = run(bare, addItems, { items, roots: items.map(({ id }) => id) });
    await writeOut(asked('png', drawing), host);
    const strengths = host.asked.painted[0]!.pictures.map(({ item, strength }) => [item.id, strength]);
    expect(new Map(strengths as [string, number][])).toEqual(
      new Map([
        ['item-p', 1],
        ['item-photo', 0.5],
      ]),
    );
    await writeOut(asked('proof', drawing), host);
    expect(new Map(host.asked.small as [string, number][])).toEqual(
      new Map([
        ['item-p', 1],
        ['item-photo', 0.5],
      ]),
    );
  });

  test('a printed picture lies over what is below it in its print and in films below, under what comes after it', async () => {
    const host = pictureHost({});
    const printed = (id: string) => shapeOf(id, 'print-p', boxShape(10, 10));
    const bare = run(run(emptyDrawing(), addFilm, { film: film('film-a') }), addFilm, { film: printLayer('print-p') });
    const photo = picture({ id: 'item-photo' });
    const items = [printed('item-1'), picture({ layer: 'print-p' }), printed('item-2'), box, photo];
    const drawing = run(bare, addItems, { items, roots: items.map(({ id }) => id) });
    await writeOut(asked('png', drawing), host);
    const [painting] = host.asked.painted;
    // the film's box, then both of the print
    expect(painting!.shapes).toHaveLength(3);
    expect(painting!.pictures.map(({ item, before }) => [item.id, before])).toEqual([
      ['item-photo', 0],
      ['item-p', 2],
    ]);
    const svg = text(await writeOut(asked('svg', drawing), host));
    const order = [...svg.matchAll(/<(path|image) /g)].map(([, kind]) => kind);
    expect(order).toEqual(['image', 'path', 'path', 'image', 'path']);
    const unseen = run(drawing, setFilmFields, { id: 'print-p', fields: { visible: false } });
    await writeOut(asked('png', unseen), host);
    expect(host.asked.painted[1]!.pictures.map(({ item }) => item.id)).toEqual(['item-photo']);
  });

  test('what is hidden is not painted nor on the proof', async () => {
    const host = pictureHost({});
    const drawing = drawn(box, picture({ hidden: true }));
    await writeOut(asked('png', drawing), host);
    await writeOut(asked('proof', drawing), host);
    expect(host.asked.painted[0]!.pictures).toEqual([]);
    expect(host.asked.small).toEqual([]);
  });
});

describe('what a file will lack', () => {
  test('items on hidden films and prints, and pictures of formats that know lines alone', () => {
    const drawing = drawn(box, loose, picture(), picture({ id: 'item-q', hidden: true }));
    expect(leftOutOf(drawing, {}, 'svg')).toEqual({ hidden: 0, pictures: 0 });
    expect(leftOutOf(drawing, {}, 'dxf')).toEqual({ hidden: 0, pictures: 1 });
    expect(leftOutOf(drawing, { ids: ['item-s'] }, 'hpgl')).toEqual({ hidden: 0, pictures: 0 });
    const unseen = run(drawing, setFilmFields, { id: 'film-a', fields: { visible: false } });
    expect(leftOutOf(unseen, {}, 'png')).toEqual({ hidden: 1, pictures: 0 });
    expect(leftOutOf(unseen, { ids: ['item-t'] }, 'png').hidden).toBe(0);
    // the film itself asked for is written, seen or not
    expect(leftOutOf(unseen, { film: 'film-a' }, 'dxf')).toEqual({ hidden: 0, pictures: 0 });
  });

  test('a ring on a hidden film counts, a cut line that is written all the same does not', () => {
    const ring = newTreatment('ring', 'treatment-r', 10, 'film-b');
    const cutLine = { ...shapeOf('item-k', 'print-p', boxShape(9, 9)), line: { kind: 'kiss' } as const };
    const films = [film('film-a'), film('film-b'), printLayer('print-p')];
    const bare = films.reduce((drawing, one) => run(drawing, addFilm, { film: one }), emptyDrawing());
    const items = [{ ...box, treatments: [ring] }, cutLine] as never as (typeof box)[];
    const drawing = run(bare, addItems, { items, roots: items.map(({ id }) => id) });
    const hide = (id: string): Drawing => run(drawing, setFilmFields, { id, fields: { visible: false } });
    expect(leftOutOf(hide('film-b'), {}, 'svg').hidden).toBe(1);
    expect(leftOutOf(hide('print-p'), {}, 'svg').hidden).toBe(0);
  });

  test('is just what the file lacks', async () => {
    const host = pictureHost({});
    const drawing = drawn(box, loose, picture());
    const unseen = run(drawing, setFilmFields, { id: 'film-a', fields: { visible: false } });
    const shapes = async (of: Drawing): Promise<number> => {
      await writeOut(asked('png', of), host);
      return host.asked.painted.at(-1)!.shapes.length;
    };
    expect((await shapes(drawing)) - (await shapes(unseen))).toBe(leftOutOf(unseen, {}, 'png').hidden);
  });
});

describe('papers', () => {
  test('the proof shows pictures small and with their strength, the work ticket none', async () => {
    const host = pictureHost({});
    const drawing = drawn(box, picture());
    const proof = await writeOut(asked('proof', drawing), host);
    expect(host.asked.small).toEqual([['item-p', 0.5]]);
    expect((await PDFDocument.load(proof)).getTitle()).toBe('Proof: Quay sign');
    await writeOut(asked('ticket', drawing), host);
    expect(host.asked.small).toHaveLength(1);
  });
});
