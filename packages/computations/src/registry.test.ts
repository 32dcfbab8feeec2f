/** Questions and answers of computations: what a table answers, how failures come back, fonts that come and go. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AppError } from '@lorvek/core';
import { boxShape, parsePath } from '@lorvek/core/geometry';
import { causeKey, leavesOf, type LeafItem } from '@lorvek/model';
import { deriveItem } from '@lorvek/model/derive';
import { joinFonts, loadFont, type Font } from '@lorvek/core/lettering';
import { randomDrawing, stockOf, words } from '../../model/src/drawing.support.ts';
import { fileHost, pictureHost, shippedFiles, shippedFonts, SHIPPED } from './host.support.ts';
import { answerTo, COMPUTATIONS, FontsAtHand, handedOver, type FontSource, type OutputOf } from './index.ts';
import { READING } from './reading.ts';
import { WITH_FILES } from './with-files.ts';
import { WITH_PICTURES } from './with-pictures.ts';

const host = pictureHost({});
const pause = () => Promise.resolve();
const none = () => undefined;
type Common = typeof COMPUTATIONS;

/** The answer itself. @throws Error for a failure */
async function asked<K extends keyof Common>(
  op: K,
  input: Parameters<Common[K]>[0],
  tell: (share: number) => void = none,
): Promise<OutputOf<Common, K>> {
  const answer = await answerTo(COMPUTATIONS, { op, input } as never, host, tell);
  if (!answer.ok) throw AppError.fromWire(answer.error);
  return answer.output as OutputOf<Common, K>;
}

const codeOf = async (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'went well',
    (error: unknown) => (error instanceof AppError ? error.code : `no code: ${String(error)}`),
  );

const anton = joinFonts(shippedFiles('anton')!.map(loadFont) as [Font, ...Font[]]);

describe('questions by name', () => {
  test('no operation has two homes, and every one is asked by its own name', () => {
    const names = [COMPUTATIONS, READING, WITH_PICTURES, WITH_FILES].flatMap((table) => Object.keys(table));
    expect(new Set(names).size).toBe(names.length);
    expect(names.every((name) => /^[a-z]+(-[a-z]+)*$/.test(name))).toBe(true);
  });

  test.each(['', 'constructor', 'toString', '__proto__', 'plates'])('“%s” is no operation of every place', async (op) => {
    const answer = await answerTo(COMPUTATIONS, { op, input: {} } as never, host, none);
    expect(answer).toMatchObject({ ok: false, error: { code: 'input.operation' } });
  });

  test('what a computation fails with comes back with its code, what breaks it as such', async () => {
    expect(await codeOf(asked('weld', { kind: 'keep', operands: [] }))).toBe('input.selection');
    expect(
      await codeOf(asked('clean', { shapes: [{ id: 'a', path: 'no path', matrix: [1, 0, 0, 1, 0, 0], film: null }] } as never)),
    ).not.toBe('went well');
    expect(await codeOf(asked('plan', null as never))).toBe('internal');
  });

  test('the outlines of an item are the model’s, however often they are asked for', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(), async (seed) => {
        for (const leaf of leavesOf(randomDrawing(seed, 5))) {
          const own = deriveItem(leaf, (id) => (id === 'anton' ? anton : undefined), 0.05);
          const first = await asked('derive', { item: leaf, sliverMm: 0.05 });
          expect(first).toEqual(own);
          // what was worked out is kept by its cause, not by its object
          expect(await asked('derive', { item: { ...leaf, id: 'item-other' } as LeafItem, sliverMm: 0.05 })).toBe(first);
          expect(causeKey(leaf, 0.05)).toBe(causeKey({ ...leaf, id: 'item-other' } as LeafItem, 0.05));
        }
      }),
      { numRuns: 12, seed: 9 },
    );
  });

  test('the share of sheets rises to the end and never falls', async () => {
    const told: number[] = [];
    const drawing = randomDrawing(4, 8);
    const stock = ['film-a', 'film-b', 'film-c'].map((id) => stockOf(id));
    await asked('sheets', { drawing, stock, jobId: 'job-1', jobName: 'Job' }, (share) => void told.push(share));
    expect(told.length).toBeGreaterThan(1);
    expect(told.every((share, i) => share >= (told[i - 1] ?? 0) && share <= 1)).toBe(true);
    // the same sheets go out as were shown
    const shown = await asked('sheets', { drawing, stock, jobId: 'job-1', jobName: 'Job' });
    const layers = shown.sheets.map((sheet) => sheet.layer.id);
    const out = await asked('plan', { drawing, stock, jobId: 'job-1', jobName: 'Job', layers, cutting: null });
    expect(out.findings.map(({ code }) => code)).toEqual(
      [...shown.sheets.flatMap((sheet) => sheet.findings), ...shown.whole].map(({ code }) => code),
    );
    expect(out.sheets.every(({ cut }) => cut === null)).toBe(true);
  });

  test('lines are thinned out, put in order and grown as the core does', async () => {
    const square = boxShape(10, 10);
    const { order, startIndex } = await asked('order', { contours: [...square.contours, ...boxShape(3, 3).contours] });
    expect([...order].sort()).toEqual([0, 1]);
    expect(startIndex).toHaveLength(2);
    const thin = await asked('thin', { outline: parsePath('M0 0L1 0L2 0L3 0L3 3L0 3Z'), tolMm: 0.1 });
    expect(thin.outline.contours[0]!.spans).toHaveLength(4);
  });
});

describe('fonts at hand', () => {
  const lettering = words('item-w', null);

  test('one that cannot be read now is asked for again; what was not worked out is no lettering without a font', async () => {
    let isAway = true;
    let reads = 0;
    const source: FontSource = {
      list: shippedFonts.list,
      files: (id) => {
        reads++;
        return isAway ? Promise.reject(new AppError('offline', 'The server is away.')) : shippedFonts.files(id);
      },
    };
    const fonts = new FontsAtHand(source, 10);
    expect(await codeOf(fonts.derive(lettering, 0))).toBe('offline');
    const drawing = { ...randomDrawing(1, 0), [lettering.id]: lettering };
    const page = Object.values(drawing).find((record) => record.type === 'page')!;
    const withWords = { ...drawing, [page.id]: { ...page, root: [lettering.id] } } as typeof drawing;
    const away = (await fonts.knowing(withWords, pause))(lettering);
    expect(away).toMatchObject({ why: expect.stringContaining('away') });
    isAway = false;
    const back = (await fonts.knowing(withWords, pause))(lettering);
    expect('pieces' in back && back.pieces.length).toBeGreaterThan(0);
    const before = reads;
    await fonts.derive(lettering, 0);
    expect(reads).toBe(before);
  });

  test('one that the shop has not is asked for again when it may have been brought', async () => {
    const brought = new Set<string>();
    const fonts = new FontsAtHand(
      { list: shippedFonts.list, files: (id) => (brought.has(id) ? shippedFonts.files(id) : Promise.resolve(undefined)) },
      10,
    );
    expect(await fonts.font('anton')).toBeUndefined();
    brought.add('anton');
    expect(await fonts.font('anton')).toBeDefined();
  });

  test('fonts that have every character are named; one that cannot be read is none of them', async () => {
    const broken = SHIPPED[0]!.id;
    const fonts = new FontsAtHand(
      {
        list: shippedFonts.list,
        files: (id) => (id === broken ? Promise.reject(new AppError('offline', 'away')) : shippedFonts.files(id)),
      },
      10,
    );
    const all = await fonts.covering('Hafen');
    expect(all).not.toContain(broken);
    expect(all.length).toBeGreaterThan(SHIPPED.length / 2);
    expect(await fonts.covering('\u{10ffff}')).toEqual([]);
    const chosen = await fonts.fontFor({ family: 'Quellwerk Sans', weight: '400', italic: false }, 'Hafen');
    expect(chosen!.chosen.instead).toBeDefined();
  });
});

describe('bytes that are handed over', () => {
  test('are files made for the answer, each buffer once, never a part of a larger one', () => {
    const bytes = new Uint8Array(8);
    expect(handedOver('write-out', bytes)).toEqual([bytes.buffer]);
    expect(handedOver('write-out', new Uint8Array(bytes.buffer, 2, 4))).toEqual([]);
    expect(handedOver('tiff', { png: bytes, plates: [{ png: bytes }, { png: new Uint8Array(3) }] })).toHaveLength(2);
    for (const op of ['trace', 'sheets', 'derive', 'constructor']) expect(handedOver(op, { bytes, data: bytes })).toEqual([]);
  });
});

test('a place with files answers what every place does, too', async () => {
  const answer = await answerTo({ ...COMPUTATIONS, ...WITH_FILES }, { op: 'covering', input: { text: 'a' } }, fileHost(new Map()), none);
  expect(answer.ok && (answer.output as string[]).length).toBeGreaterThan(3);
});
