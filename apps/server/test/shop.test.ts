/** Pictures, own fonts and styles: what the shop brings itself, and what is refused. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import wawoff2 from 'wawoff2';
import {
  newTreatment,
  PAGE_ID,
  emptyDrawing,
  USUAL_SETTINGS,
  type FontEntry,
  type OvalItem,
  type LetteringItem,
  type Page,
  type Style,
} from '@lorvek/model';
import { writePng } from '../../../demo/hull-picture.ts';
import { readHead } from '../src/assets/assets.module.ts';
import { change, film, startServer, type TestServer } from './support.ts';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

const picture = writePng(40, 30, (x, y) => [6 * x, 8 * y, 120]);
/** The same with a pHYs chunk of 300 dots an inch, spliced in after the head. */
function withDpi(png: Buffer): Buffer {
  const data = Buffer.alloc(9);
  data.writeUInt32BE(11811, 0);
  data.writeUInt32BE(11811, 4);
  data[8] = 1;
  const chunk = Buffer.concat([Buffer.from([0, 0, 0, 9]), Buffer.from('pHYs', 'latin1'), data, Buffer.alloc(4)]);
  return Buffer.concat([png.subarray(0, 33), chunk, png.subarray(33)]);
}

describe('how the shop reckons', () => {
  test('is as usual until it is set, then as it was set; what cannot be is refused and changes nothing', async () => {
    const { body: usual } = await server.http.get('/api/settings').expect(200);
    expect(usual).toEqual(USUAL_SETTINGS);
    const mine = { ...USUAL_SETTINGS, currency: 'kr', decimals: 0, hourlyRate: 520, weeding: { ...USUAL_SETTINGS.weeding, fineTimes: 3 } };
    await server.http.put('/api/settings').send(mine).expect(200);
    for (const wrong of [{ ...mine, hourlyRate: -1 }, { ...mine, currency: ' ' }, { ...mine, weeding: undefined }, []])
      await server.http.put('/api/settings').send(wrong).expect(400);
    expect((await server.http.get('/api/settings').expect(200)).body).toEqual(mine);
  });
});

describe('pictures', () => {
  test('are kept by content, with their size and resolution, and given back', async () => {
    const { body } = await server.http.post('/api/assets').attach('file', picture, 'quay.png').expect(201);
    expect(body).toMatchObject({ widthPx: 40, heightPx: 30 });
    expect((body as { dpi?: number }).dpi).toBeUndefined();
    const again = await server.http.post('/api/assets').attach('file', picture, '../../etc/passwd').expect(201);
    expect((again.body as { asset: string }).asset).toBe((body as { asset: string }).asset);
    const back = await server.http
      .get(`/api/assets/${(body as { asset: string }).asset}`)
      .expect(200)
      .expect('content-type', 'image/png');
    expect(Buffer.compare(back.body as Buffer, picture)).toBe(0);
    const fine = await server.http.post('/api/assets').attach('file', withDpi(picture), 'a.png').expect(201);
    expect((fine.body as { dpi: number }).dpi).toBeCloseTo(300, 1);
    expect((fine.body as { pixelAspect?: number }).pixelAspect).toBeUndefined();
  });

  test('pixels that are not square are told, of PNG, JPEG and BMP', async () => {
    const png = withDpi(picture);
    png.writeUInt32BE(11811 / 2, png.indexOf('pHYs') + 8);
    const bmp = Buffer.alloc(54 + 4 * 4 * 4);
    bmp.write('BM', 'latin1');
    bmp.writeUInt32LE(bmp.length, 2);
    bmp.writeUInt32LE(54, 10);
    bmp.writeUInt32LE(40, 14);
    bmp.writeInt32LE(4, 18);
    bmp.writeInt32LE(4, 22);
    bmp.writeUInt16LE(1, 26);
    bmp.writeUInt16LE(32, 28);
    bmp.writeInt32LE(8031, 38);
    bmp.writeInt32LE(7717, 42);
    const plain = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#205080' } })
      .jpeg()
      .toBuffer();
    const jfif = Buffer.from([0xff, 0xe0, 0, 16, 0x4a, 0x46, 0x49, 0x46, 0, 1, 1, 1, 0, 204, 0, 98, 0, 0]);
    const jpeg = Buffer.concat([plain.subarray(0, 2), jfif, plain.subarray(2)]);
    for (const [name, bytes, dpi, aspect] of [
      ['half.png', png, 300, 2],
      ['fax.bmp', bmp, 204, 8031 / 7717],
      ['fax.jpg', jpeg, 204, 204 / 98],
    ] as const) {
      const { body } = await server.http.post('/api/assets').attach('file', bytes, name).expect(201);
      expect((body as { dpi: number }).dpi).toBeCloseTo(dpi, 0);
      expect((body as { pixelAspect: number }).pixelAspect).toBeCloseTo(aspect, 3);
    }
  });

  test.each([
    ['text that calls itself PNG', Buffer.from('not a picture at all'), 400],
    [
      'an SVG, which could carry a script',
      Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script>1</script></svg>'),
      400,
    ],
    ['nothing', Buffer.alloc(0), 400],
    ['half a head', picture.subarray(0, 20), 400],
  ])('refuses %s', async (_, bytes, status) => {
    const { body } = await server.http.post('/api/assets').attach('file', bytes, 'x.png').expect(status);
    expect((body as { type: string }).type).toBe('input.picture');
  });

  test('half a head is refused whatever lies behind it in memory', () => {
    expect(() => readHead(picture.subarray(0, 20))).toThrow('not a picture');
    expect(readHead(picture)).toEqual({ type: 'png', widthPx: 40, heightPx: 30, onSide: false });
  });

  test('refuses a picture whose head tells of two thousand million pixels', async () => {
    const lying = Buffer.from(picture);
    lying.writeUInt32BE(50_000, 16);
    lying.writeUInt32BE(50_000, 20);
    await server.http.post('/api/assets').attach('file', lying, 'x.png').expect(413);
    await server.http.get('/api/assets/..%2f..%2florvek.sqlite').expect(404);
  });
});

describe('fonts of the shop', () => {
  const woff = readFileSync('assets/fonts/lobster-latin-400-normal.woff');

  test('come in as WOFF, are listed with their licence, used by a drawing, and survive a restart', async () => {
    const font = (await server.http.post('/api/fonts').attach('file', woff, 'mine.woff').expect(201)).body as FontEntry;
    expect(font).toMatchObject({ name: 'Lobster', own: true, kind: 'own' });
    const twice = (await server.http.post('/api/fonts').attach('file', woff, 'again.woff').expect(201)).body as FontEntry;
    expect(twice.id).toBe(font.id);
    expect((await server.http.get(`/api/fonts/${font.id}/licence`).expect(200)).text).toMatch(/scripts.sil.org\/OFL/);

    const job = (await server.http.post('/api/jobs').send({ name: 'Own font' }).expect(201)).body as { id: string };
    const words: LetteringItem = {
      type: 'item',
      kind: 'lettering',
      id: 'item-own',
      name: 'Quay',
      layer: 'film-a',
      matrix: [1, 0, 0, 1, 0, 0],
      text: 'Quay',
      fontId: font.id,
      substitutes: [],
      capHeightMm: 40,
      widthPct: 100,
      slantDeg: 0,
      letterSpaceMm: 0,
      lineSpace: 1.6,
      align: 'left',
      treatments: [newTreatment('ring', 'treatment-1', 40, 'film-b')],
    };
    const page = emptyDrawing()[PAGE_ID] as Page;
    const patch = {
      [PAGE_ID]: { before: page, after: { ...page, layers: ['film-b', 'film-a'], root: ['item-own'] } },
      'film-a': { before: null, after: film },
      'film-b': { before: null, after: { ...film, id: 'film-b', hex: '#aa3311' } },
      'item-own': { before: null, after: words },
    };
    await server.http.post(`/api/jobs/${job.id}/changes`).send(change(patch, 0)).expect(200);
    server = await server.restart();
    const list = (await server.http.get('/api/fonts').expect(200)).body as FontEntry[];
    expect(list.map((entry) => entry.id)).toContain(font.id);
    const { body } = await server.http.get(`/api/jobs/${job.id}/thumbnail.svg`).expect(200);
    const svg = String(body);
    expect(svg).toContain('fill="#0f5e66"');
    expect(svg).toContain('fill="#aa3311"');
    expect(svg.indexOf('#aa3311')).toBeLessThan(svg.indexOf('#0f5e66'));
  });

  test('a treatment cut from a film that the job does not have is refused', async () => {
    const job = (await server.http.post('/api/jobs').send({ name: 'No film' }).expect(201)).body as { id: string };
    const page = emptyDrawing()[PAGE_ID] as Page;
    const item: OvalItem = {
      type: 'item',
      kind: 'oval',
      id: 'item-o',
      name: 'o',
      layer: null,
      matrix: [1, 0, 0, 1, 0, 0],
      widthMm: 5,
      heightMm: 5,
      treatments: [newTreatment('ring', 'treatment-1', 40, 'film-gone')],
    };
    const patch = { [PAGE_ID]: { before: page, after: { ...page, root: ['item-o'] } }, 'item-o': { before: null, after: item } };
    await server.http.post(`/api/jobs/${job.id}/changes`).send(change(patch, 0)).expect(400);
  });

  test.each([
    ['text', Buffer.from('a font, honestly')],
    ['a font broken off in the middle', woff.subarray(0, 900)],
    ['a WOFF2 head with nothing behind it', Buffer.concat([Buffer.from('wOF2'), Buffer.alloc(200)])],
  ])('refuses %s and goes on', async (_, bytes) => {
    const { body } = await server.http.post('/api/fonts').attach('file', bytes, 'x.woff').expect(400);
    expect((body as { type: string }).type).toBe('input.font');
    await server.http.get('/api/health').expect(200);
  });

  test('WOFF2 is unpacked', async () => {
    const { toSfnt } = await import('../../../packages/core/src/lettering/woff.ts');
    const packed = await (wawoff2 as unknown as { compress(b: Uint8Array): Promise<Uint8Array> }).compress(
      toSfnt(readFileSync('assets/fonts/anton-latin-400-normal.woff')),
    );
    const font = (await server.http.post('/api/fonts').attach('file', Buffer.from(packed), 'anton.woff2').expect(201)).body as FontEntry;
    expect(font.name).toBe('Anton');
  });
});

test('styles are kept under a name, replaced under the same name, and taken away', async () => {
  const treatments = [newTreatment('shade', 'treatment-1', 60, null)];
  await server.http.post('/api/styles').send({ name: 'Harbour shade', treatments }).expect(201);
  await server.http.post('/api/styles').send({ name: 'Harbour shade', treatments }).expect(201);
  const list = (await server.http.get('/api/styles').expect(200)).body as Style[];
  expect(list.map((style) => style.name)).toEqual(['Harbour shade']);
  await server.http.post('/api/styles').send({ name: '', treatments }).expect(400);
  await server.http
    .post('/api/styles')
    .send({ name: 'Bad', treatments: [{ kind: 'glow' }] })
    .expect(400);
  await server.http.delete(`/api/styles/${list[0]?.id}`).expect(200);
  expect((await server.http.get('/api/styles').expect(200)).body).toEqual([]);
});
