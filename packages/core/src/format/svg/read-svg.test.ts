import { describe, expect, test } from '@jest/globals';
import { strToU8 } from 'fflate';
import fc from 'fast-check';
import { AppError } from '../../index.ts';
import { area, bounds, parsePath, strokeToShape, type Outline } from '../../geometry/index.ts';
import { readSvg, writeSvg, type ArtworkItem, type ImportedArtwork } from '../index.ts';

const read = (body: string, head = 'width="100mm" height="50mm" viewBox="0 0 100 50"'): Promise<ImportedArtwork> =>
  readSvg(strToU8(`<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" ${head}>${body}</svg>`));

const shapeOf = ({ outline, stroke }: ArtworkItem): Outline =>
  stroke
    ? strokeToShape(outline, {
        width: stroke.widthMm,
        cap: stroke.cap ?? 'butt',
        join: stroke.join ?? 'mitre',
        ...(stroke.dashMm ? { dash: [...stroke.dashMm], dashOffset: stroke.dashOffsetMm ?? 0 } : {}),
      })
    : outline;
const areas = (art: ImportedArtwork): number[] => art.items.map((item) => Math.round(area(shapeOf(item)) * 1000) / 1000);
const box = (art: ImportedArtwork, i = 0): number[] => {
  const b = bounds(shapeOf(art.items[i] as ArtworkItem));
  return [b.minX, b.minY, b.maxX, b.maxY].map((n) => Math.round(n * 1000) / 1000);
};

describe('size', () => {
  test.each([
    ['width="4in" height="2in" viewBox="-10 -10 40 20"', 101.6, 50.8],
    ['width="96" height="48"', 25.4, 12.7],
    ['width="40q" height="5pc"', 10, 21.167],
    ['width="50mm" viewBox="0 0 10 5"', 50, 25],
    ['viewBox="0 0 960 480"', 254, 127],
  ])('%s', async (head, width, height) => {
    const art = await read('', head);
    expect([art.widthMm, art.heightMm].map((n) => Math.round(n * 1000) / 1000)).toEqual([width, height]);
  });

  test('a file without a size says so', async () => {
    const art = await read('<rect width="9" height="9"/>', '');
    expect(art.hasSize).toBe(false);
    expect(art.report.map((r) => r.code)).toContain('size');
  });
});

describe('shapes', () => {
  test('transforms, use, symbol and nested documents end up where they belong', async () => {
    const art = await read(`
      <g transform="translate(10 5) rotate(90) scale(2)"><rect width="5" height="3"/></g>
      <defs><rect id="r" width="4" height="4"/><symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol></defs>
      <use href="#r" x="20" y="10"/><use xlink:href="#s" x="40" y="10" width="5" height="5"/>
      <svg x="60" y="0" width="20" height="10" viewBox="0 0 10 10"><rect x="-50" width="100" height="10"/></svg>`);
    expect(areas(art)).toEqual([60, 16, 25, 200]);
    expect(box(art, 0)).toEqual([4, 35, 10, 45]);
    expect(box(art, 1)).toEqual([20, 36, 24, 40]);
    expect(box(art, 3)).toEqual([60, 40, 80, 50]);
  });

  test('all path commands, packed numbers and flags; read up to a mistake', async () => {
    const art = await read(`
      <path d="M10 10h10v10h-10zm20 0l10 0 0 10-10 0z"/><path d="M50 20a5 5 0 1110 0 5 5 0 01-10 0z"/>
      <path d="M0 0L10 0L10 10L0 10 oops"/><path d="M10 40q5-10 10 0t10 0z" /><path d="M1.5.5.5.5"/>`);
    expect(areas(art)[0]).toBe(200);
    expect(areas(art)[1]).toBeCloseTo(Math.PI * 25, 0);
    expect(areas(art)[2]).toBe(100);
    expect(art.report.map((r) => r.code)).toEqual(['path']);
  });

  test('even-odd and non-zero fills give outlines that fill the same by the non-zero rule', async () => {
    const d = 'M0 0H20V20H0zM5 5H15V15H5z';
    const art = await read(`<path d="${d}" fill-rule="evenodd"/><path d="${d}"/><path d="M0 0H20V20H0zM5 5V15H15V5z"/>`);
    expect(areas(art)).toEqual([300, 400, 300]);
  });

  test('strokes keep their width, caps, dashes; uneven scale gives their real outline', async () => {
    const art = await read(`
      <g fill="none" stroke="#123456"><path d="M10 10H30" stroke-width="4" stroke-linecap="square"/>
      <path d="M10 20H30" stroke-width="2" stroke-dasharray="4 1"/>
      <g transform="scale(4 1)"><rect x="5" y="30" width="10" height="10" stroke-width="2"/></g></g>`);
    expect(areas(art)).toEqual([96, 32, 320 + 0]);
    expect(art.items.map((item) => item.stroke?.hex ?? item.fill)).toEqual(['#123456', '#123456', '#123456']);
  });

  test('clips by shape and by box, clips on clips, and plain masks', async () => {
    const art = await read(`
      <clipPath id="a"><rect x="0" y="0" width="10" height="10"/></clipPath>
      <clipPath id="b" clipPathUnits="objectBoundingBox" clip-path="url(#c)"><rect width=".5" height="1"/></clipPath>
      <clipPath id="c"><rect x="0" y="0" width="100" height="25"/></clipPath>
      <mask id="m"><rect width="100" height="50" fill="white"/><rect x="70" y="10" width="5" height="5" fill="black"/></mask>
      <rect x="5" y="5" width="20" height="20" clip-path="url(#a)"/><rect x="30" y="20" width="20" height="20" clip-path="url(#b)"/>
      <rect x="70" y="10" width="10" height="10" mask="url(#m)"/>`);
    expect(areas(art)).toEqual([25, 50, 75]);
  });

  test('markers stand at nodes, turned with the line', async () => {
    const art = await read(`
      <marker id="k" markerWidth="4" markerHeight="4" refX="2" refY="2" orient="auto"><rect width="4" height="2"/></marker>
      <path d="M20 20H60V40" fill="none" stroke="#000" marker-end="url(#k)"/>`);
    expect(areas(art)[1]).toBe(8);
    expect(box(art, 1)).toEqual([60, 8, 62, 12]);
  });
});

describe('style', () => {
  test('rules by weight, !important, own style, inheritance, currentColor', async () => {
    const art = await read(`
      <style>rect{fill:red} .a{fill:#0f0} #b{fill:blue} g > .c{fill:magenta!important} [data-x="1"]{fill:cyan}</style>
      <rect width="1" height="1"/><rect class="a" width="1" height="1"/><rect id="b" class="a" width="1" height="1"/>
      <g><rect class="c" style="fill:black" width="1" height="1"/></g><rect data-x="1" width="1" height="1"/>
      <g color="#abcdef" fill="currentColor"><path d="M0 0h1v1z"/></g><path d="M0 0h1v1z" fill="url(#gone) #778899"/>
      <rect style="fill:nonsense" width="1" height="1"/><rect display="none" width="1" height="1"/>
      <g visibility="hidden"><rect width="1" height="1"/><rect visibility="visible" width="1" height="1"/></g>`);
    expect(art.items.map((item) => item.fill)).toEqual([
      '#ff0000',
      '#00ff00',
      '#0000ff',
      '#ff00ff',
      '#00ffff',
      '#abcdef',
      '#778899',
      '#ff0000',
      '#ff0000',
    ]);
  });

  test('a line that is not told to have no fill is its stroke alone', async () => {
    for (const d of ['M5 5V35', 'M1.3 2.7L8.9 11.1L16.5 19.5', 'M2 2C3.1 4.3 5.2 8.7 7.9 14.1'])
      expect(
        (await read(`<path d="${d}" stroke="#123456"/>`)).items.filter((item) => item.fill && item.outline.contours.length > 0),
      ).toHaveLength(d.includes('C') ? 1 : 0);
  });

  test('gradients become their mean colour, patterns grey, both said', async () => {
    const art = await read(`
      <linearGradient id="g"><stop stop-color="#000000"/><stop offset="1" stop-color="#ff8000"/></linearGradient>
      <linearGradient id="h" href="#g"/><pattern id="p"/>
      <rect width="9" height="9" fill="url(#h)"/><rect width="9" height="9" fill="url(#p)"/>`);
    expect(art.items.map((item) => item.fill)).toEqual(['#804000', '#808080']);
    expect(art.report.map((r) => r.code)).toEqual(['gradient', 'pattern']);
  });

  test('a pattern of plain shapes becomes the shapes of its tiles, cut at the edge of what they fill', async () => {
    const art = await read(`
      <pattern id="p" width="10" height="10" patternUnits="userSpaceOnUse"><circle cx="5" cy="5" r="3" fill="#c4281f"/></pattern>
      <rect width="35" height="20" fill="url(#p)"/>`);
    expect(art.report.map((r) => r.code)).toEqual(['tiles']);
    expect(art.items.every((item) => item.fill === '#c4281f')).toBe(true);
    // three whole columns and half of the fourth, in two rows
    expect(art.items).toHaveLength(8);
    const total = art.items.reduce((sum, item) => sum + Math.abs(area(item.outline)), 0);
    expect(total).toBeCloseTo(7 * Math.PI * 9, 0);
  });

  test('tiles follow the pattern’s turn, its own view and the box of what they fill; what it takes after lends what it lacks', async () => {
    const art = await read(`
      <pattern id="base" width="0.5" height="0.25" viewBox="0 0 2 1"><rect width="1" height="1" fill="#16325c"/></pattern>
      <pattern id="p" href="#base" patternTransform="translate(4 0)"/>
      <rect x="0" y="0" width="40" height="40" fill="url(#p)"/>`);
    const total = art.items.reduce((sum, item) => sum + Math.abs(area(item.outline)), 0);
    expect(total).toBeCloseTo(800, 3);
  });

  test('a pattern of a picture, of a thousand shapes or of itself stays grey, and is said', async () => {
    for (const inner of ['<image width="2" height="2"/>', '<text>a</text>', '<rect width="1" height="1" fill="url(#p)"/>'])
      expect(
        (
          await read(
            `<pattern id="p" width="4" height="4" patternUnits="userSpaceOnUse">${inner}</pattern><rect width="40" height="40" fill="url(#p)"/>`,
          )
        ).report.map((r) => r.code),
      ).toEqual(['pattern']);
    const fine = await read(
      '<pattern id="p" width="0.1" height="0.1" patternUnits="userSpaceOnUse"><rect width="0.05" height="0.05"/></pattern><rect width="40" height="40" fill="url(#p)"/>',
    );
    expect(fine.items.map((item) => item.fill)).toEqual(['#808080']);
  });

  test('text that is no SVG is refused in a sentence of our own', async () => {
    await expect(readSvg(strToU8('Dear sir, & so on < 5'))).rejects.toThrow('what it holds is not written as SVG is');
  });

  test('text is outlined by the caller, or named as left out', async () => {
    const bytes = strToU8(
      '<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="20mm"><text x="10" y="20" font-family="Quay" text-anchor="end">Pier</text></svg>',
    );
    const none = await readSvg(bytes);
    expect(none.report[0]?.text).toContain('Pier');
    const some = await readSvg(bytes, {
      textOutline: ({ family, sizePx }) =>
        family === 'Quay'
          ? {
              outline: {
                contours: [
                  {
                    closed: true,
                    spans: [
                      [0, 0, sizePx, 0],
                      [sizePx, 0, sizePx, 8],
                      [sizePx, 8, 0, 0],
                    ],
                  },
                ],
              },
              advancePx: sizePx,
            }
          : undefined,
    });
    expect(box(some)[2]).toBeCloseTo((10 * 25.4) / 96, 3);
  });

  test('letters with places and turns of their own stand where they are said to', async () => {
    const seen: string[] = [];
    const art = await readSvg(
      strToU8(
        '<svg xmlns="http://www.w3.org/2000/svg" width="96" height="96" viewBox="0 0 96 96"><text x="10 30 50" y="20" dy="0 0 4" font-family="Quay">ABCD</text><text x="10" y="60" rotate="90" font-family="Quay">E</text></svg>',
      ),
      {
        textOutline: ({ text }) => {
          seen.push(text);
          return { outline: parsePath('M0 0L4 0L4 8Z'), advancePx: 5 * text.length };
        },
      },
    );
    expect(seen).toEqual(['A', 'B', 'CD', 'E']);
    const px = 25.4 / 96;
    expect(art.items.map((item) => Math.round(bounds(item.outline).minX / px))).toEqual([10, 30, 50, 10 - 0]);
    expect(art.items.map((item) => Math.round(96 - bounds(item.outline).minY / px))).toEqual([20, 20, 24, 64]);
  });
});

describe('hostile files', () => {
  test.each([
    ['nothing', ''],
    ['no XML', 'this is no picture'],
    ['another document', '<html><body/></html>'],
    [
      'an entity bomb',
      `<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa">${Array.from({ length: 9 }, (_, i) => `<!ENTITY ${'bcdefghij'[i]} "&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};&${'abcdefghi'[i]};">`).join('')}]><svg xmlns="http://www.w3.org/2000/svg"><text>&j;</text></svg>`,
    ],
    ['groups without end', `<svg xmlns="http://www.w3.org/2000/svg">${'<g>'.repeat(30_000)}`],
  ])('%s is refused', async (_, text) => {
    const error: unknown = await readSvg(strToU8(text)).catch((e: unknown) => e);
    expect(error).toBeInstanceOf(AppError);
    expect((error as AppError).code).toMatch(/^(input|limit)\.svg$/);
  });

  test('uses that unfold without end stop at a limit; circles are passed over', async () => {
    const levels = Array.from({ length: 9 }, (_, i) => `<g id="l${i + 1}">${`<use href="#l${i}"/>`.repeat(10)}</g>`).join('');
    const bomb = `<defs><rect id="l0" width="1" height="1"/>${levels}</defs><use href="#l9"/>`;
    await expect(read(bomb)).rejects.toMatchObject({ code: 'limit.svg' });
    const circle = await read('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/><rect width="1" height="1"/></g>');
    expect(circle.report.map((r) => r.code)).toContain('circle');
  });

  test('scripts, outside pictures and unknown parts are left out and said; what is whole is read', async () => {
    const art = await read(
      '<script>alert(1)</script><image href="http://quay.invalid/a.png" width="5" height="5"/><rect onclick="x()" width="10" height="10"/><blink/>',
    );
    expect(areas(art)).toEqual([100]);
    expect(art.pictures).toEqual([]);
    expect(art.report.map((r) => r.code).sort()).toEqual(['picture', 'script', 'unknown']);
    const torn = await readSvg(
      strToU8('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="3" height="3"/><g><rect wid'),
    );
    expect(torn.items).toHaveLength(1);
    expect(torn.report.map((r) => r.code)).toContain('broken');
  });

  test('any mutation of a good file is read or refused with a code', async () => {
    const good = `<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="50mm" viewBox="0 0 90 50"><style>.a{fill:#123}</style><clipPath id="c"><circle cx="9" cy="9" r="8"/></clipPath><g transform="rotate(12,4,5) scale(2)" clip-path="url(#c)"><path class="a" d="M1 2C3 4 5 6 7 8S9 1 2 3A4 5 6 0 1 7 8Z" stroke="red" stroke-dasharray="1 2"/></g></svg>`;
    const characters = fc.constantFrom('<', '>', '"', '-', '9', 'e', '.', ' ', '&', '#', 'NaN', '1e999', '/', '(', '\u0000');
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), characters, fc.nat(3)), { minLength: 1, maxLength: 6 }),
        async (edits) => {
          const text = edits.reduce((sum, [at, put, drop]) => sum.slice(0, at) + put + sum.slice(at + drop), good);
          const answer: unknown = await readSvg(strToU8(text)).catch((e: unknown) => e);
          if (answer instanceof Error) expect(answer).toBeInstanceOf(AppError);
          else
            expect(
              (answer as ImportedArtwork).items.every((item) =>
                item.outline.contours.every((c) => c.spans.every((s) => s.every(Number.isFinite))),
              ),
            ).toBe(true);
        },
      ),
      { numRuns: 140 },
    );
  });
});

test('what is written is read back equal', async () => {
  const art = await read('<path d="M10 10C20 0 40 30 50 10L30 40Z" fill="#0f5e66"/><circle cx="70" cy="20" r="10" fill="#aa3311"/>');
  const again = await readSvg(writeSvg(art));
  expect(again.items.map((item) => item.fill)).toEqual(['#0f5e66', '#aa3311']);
  areas(art).forEach((a, i) => expect(areas(again)[i]).toBeCloseTo(a, 1));
  expect([again.widthMm, again.heightMm]).toEqual([100, 50]);
});
