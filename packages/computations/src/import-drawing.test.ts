/** Files as items: words in fonts that are not there, and the order in which things are seen. */
import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { bounds, mapOutline, parsePath } from '@lorvek/core/geometry';
import { joinFonts, loadFont, setLettering, type Font } from '@lorvek/core/lettering';
import type { FontEntry, LetteringItem } from '@lorvek/model';
import { chooseFont } from './font-choice.ts';
import { importDrawing, type FontFor, type Imported } from './import-drawing.ts';
import { stackParts } from './stack-parts.ts';

const fonts = JSON.parse(readFileSync('assets/fonts/fonts.json', 'utf8')) as FontEntry[];
const loaded = (id: string): Font =>
  joinFonts(
    (fonts.find((font) => font.id === id) as FontEntry).files.map((file) =>
      loadFont(new Uint8Array(readFileSync(`assets/fonts/${file}`))),
    ) as [Font, ...Font[]],
  );
const fontFor: FontFor = async (wanted) => {
  const chosen = chooseFont(wanted, fonts);
  return chosen && { chosen, font: loaded(chosen.id) };
};
const svg = (inner: string, unit = 'mm'): Promise<Imported> =>
  importDrawing(
    {
      bytes: new TextEncoder().encode(
        `<svg xmlns="http://www.w3.org/2000/svg" width="200${unit}" height="100${unit}" viewBox="0 0 200 100">${inner}</svg>`,
      ),
      kind: 'svg',
      page: 1,
      box: 'shown',
      withHidden: false,
    },
    fontFor,
    () => undefined,
  );

describe('words in fonts that the shop does not have', () => {
  test('come in as lettering in the nearest font, their ink where it would be, named and told', async () => {
    const { parts, report } = await svg('<text x="20" y="60" font-size="30" font-family="Quellwerk Sans">Harbour</text>');
    expect(parts).toHaveLength(1);
    const [part] = parts;
    const item = part!.item as LetteringItem;
    expect(item).toMatchObject({ kind: 'lettering', text: 'Harbour', fontId: 'montserrat', name: 'Harbour, wanted Quellwerk Sans' });
    const set = setLettering({ text: item.text, font: loaded(item.fontId), capHeightMm: item.capHeightMm });
    const [own, shown] = [bounds(mapOutline(item.matrix, set.outline)), bounds(parsePath(part!.path!))];
    for (const side of ['minX', 'minY', 'maxX', 'maxY'] as const) expect(own[side]).toBeCloseTo(shown[side], 2);
    expect(item.capHeightMm).toBeCloseTo(30 * loaded('montserrat').capHeightEm, 3);
    expect(shown.minY).toBeCloseTo(40, 0);
    expect(report).toContainEqual(expect.objectContaining({ text: expect.stringContaining('Quellwerk Sans') }));
  });

  test('a fallback that the shop has is taken; a font of the shop itself makes outlines', async () => {
    const fallback = await svg('<text x="20" y="60" font-size="30" font-family="Quellwerk, \'Bebas Neue\', serif">PIER</text>');
    expect(fallback.parts[0]!.item).toMatchObject({ kind: 'lettering', fontId: 'bebas-neue' });
    const own = await svg('<text x="20" y="60" font-size="30" font-family="Anton">PIER</text>');
    expect(own.parts[0]!.item.kind).toBe('shape');
  });

  test('turned and stretched words keep their place too', async () => {
    const { parts } = await svg(
      '<g transform="rotate(30 100 50) scale(1.5 1)"><text x="20" y="60" font-size="9" font-family="Serif Unknown">Ferry</text></g>',
    );
    const item = parts[0]!.item as LetteringItem;
    const set = setLettering({ text: item.text, font: loaded(item.fontId), capHeightMm: item.capHeightMm });
    const [own, shown] = [bounds(mapOutline(item.matrix, set.outline)), bounds(parsePath(parts[0]!.path!))];
    for (const side of ['minX', 'minY', 'maxX', 'maxY'] as const) expect(own[side]).toBeCloseTo(shown[side], 2);
  });

  test.each([
    ['Rounded Something', 'normal', false, 'fredoka'],
    ['Nowhere Serif', 'bold', false, 'abril-fatface'],
    ['Handmade Script', 'normal', false, 'great-vibes'],
    ['Some Condensed', '700', false, 'oswald'],
    ['Unheard', '800', false, 'archivo-black'],
    ['', 'normal', false, 'barlow-condensed'],
  ])('%s %s is set in %s', (family, weight, italic, id) => {
    void id;
    expect(chooseFont({ family, weight, italic: Boolean(italic) }, fonts)?.id).toBe(id);
  });

  test('a shop without fonts has none', () => {
    expect(chooseFont({ family: 'Any', weight: '400', italic: false }, [])).toBeUndefined();
  });
});

describe('the order of films', () => {
  const keyed = ({ parts }: Imported) =>
    parts.map(({ item, hex }) => ({ path: item.kind === 'shape' ? item.path : '', matrix: item.matrix, key: hex, hasFilm: true, hex }));

  test('dots on a plate stay on it, though there are more of them', async () => {
    const dots = Array.from({ length: 40 }, (_, i) => `<circle cx="${10 + 4 * i}" cy="50" r="1.5" fill="#ffffff"/>`).join('');
    const answer = stackParts({ parts: keyed(await svg(`<rect width="200" height="100" fill="#c4281f"/>${dots}`)), fixed: [] });
    expect(answer).toMatchObject({ order: ['#c4281f', '#ffffff'], knots: [], paths: {}, differs: 0 });
  });

  test('a colour under and over another is cut out of it, and looks as it did', async () => {
    const inner =
      '<rect width="100" height="100" fill="#c4281f"/><circle cx="50" cy="50" r="30" fill="#ffffff"/><rect x="40" y="40" width="20" height="20" fill="#c4281f"/>';
    const answer = stackParts({ parts: keyed(await svg(inner)), fixed: [] });
    expect(answer.knots).toEqual([['#c4281f', '#ffffff']]);
    expect(answer.differs).toBe(0);
    expect(Object.keys(answer.paths)).toEqual(['0', '1']);
  });

  test('films that are in use keep their order: what comes in against it is cut out of one another', async () => {
    const inner = '<rect width="100" height="100" fill="#c4281f"/><rect x="20" y="20" width="60" height="60" fill="#ffffff"/>';
    const answer = stackParts({ parts: keyed(await svg(inner)), fixed: [['#ffffff', '#c4281f']] });
    expect(answer.order).toEqual(['#ffffff', '#c4281f']);
    expect(answer.differs).toBe(0);
    expect(answer.paths[0]).toBeDefined();
  });
});

test('parts of a PDF come with their values in process inks, those of a screen without', async () => {
  const content = '0 0.9 0.8 0.1 k 0 0 50 50 re f 1 0 0 rg 60 0 20 20 re f';
  const bytes = new TextEncoder().encode(
    [
      '%PDF-1.4',
      '1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj',
      '2 0 obj<</Type/Pages/Count 1/Kids[3 0 R]>>endobj',
      '3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 100]/Contents 4 0 R/Resources<<>>>>endobj',
      `4 0 obj<</Length ${content.length}>>stream\n${content}\nendstream endobj`,
      'trailer<</Root 1 0 R/Size 5>>\n%%EOF',
    ].join('\n'),
  );
  const { parts } = await importDrawing({ bytes, kind: 'pdf', page: 1, box: 'shown', withHidden: false }, fontFor, () => undefined);
  expect(parts.map(({ cmyk }) => cmyk)).toEqual([[0, 0.9, 0.8, 0.1], undefined]);
  expect(parts[1]?.hex).toBe('#ff0000');
});
