/** Files made to hold a reader up: each ends, soon, with a result or a refusal that has a code. Work is counted, not timed. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { joinLooseEnds, nestContours } from '../geometry/index.ts';
import type { AppError } from '../errors/index.ts';
import { readHpgl, readPdf, readSvg, readTiff } from './index.ts';
import { unpackLzw } from './tiff-lzw.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const svg = (body: string): Uint8Array =>
  bytes(`<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">${body}</svg>`);
const times = (n: number, make: (i: number) => string): string => Array.from({ length: n }, (_, i) => make(i)).join('');
const codeOf = async (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'read',
    (error: unknown) => (error as AppError).code,
  );

describe('an SVG', () => {
  test('whose uses double thirty times is refused before anything is unfolded', async () => {
    const doubled = times(30, (i) => `<g id="u${i + 1}"><use href="#u${i}"/><use href="#u${i}" x="1"/></g>`);
    const file = svg(`<defs><g id="u0"><rect width="1" height="1"/></g>${doubled}</defs><use href="#u30"/>`);
    expect(await codeOf(readSvg(file))).toBe('limit.svg');
  });

  test('whose uses hold one another in a circle is read without them', async () => {
    const art = await readSvg(svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/><rect width="5" height="5"/></g>'));
    expect(art.items.length).toBeGreaterThan(0);
  });

  const circles = (n: number): string => times(n, (k) => `<circle cx="${(k * 7) % 100}" cy="${(k * 13) % 100}" r="${5 + (k % 9)}"/>`);

  test('with one clip of two hundred circles round fifty parts works the clip out once', async () => {
    const parts = times(50, (k) => `<rect clip-path="url(#c)" x="${k}" y="${k}" width="40" height="40"/>`);
    const art = await readSvg(svg(`<defs><clipPath id="c">${circles(200)}</clipPath></defs>${parts}`));
    expect(art.items).toHaveLength(50);
  });

  test('with three hundred clips of fifty circles each is refused', async () => {
    const clips = times(300, (i) => `<clipPath id="c${i}">${circles(50)}</clipPath>`);
    const parts = times(300, (i) => `<rect clip-path="url(#c${i})" width="90" height="90"/>`);
    expect(await codeOf(readSvg(svg(`<defs>${clips}</defs>${parts}`)))).toBe('limit.svg');
  });

  test('with three thousand rules for five thousand parts: by classes it is read, where each could fit each it is refused', async () => {
    const parts = times(5000, (i) => `<g><rect class="b${i}" width="1" height="1"/></g>`);
    const rule = (i: number, selector: string): string => `${selector} { fill: #${(i % 4096).toString(16).padStart(3, '0')} }`;
    const byClass = await readSvg(svg(`<style>${times(3000, (i) => rule(i, `g > .b${i}`))}</style>${parts}`));
    expect(byClass.items[17]?.fill).toBe('#001111');
    const open = svg(`<style>${times(3000, (i) => rule(i, `svg g rect:not(.q${i})`))}</style>${parts}`);
    expect(await codeOf(readSvg(open))).toBe('limit.svg');
  });
});

test('a PDF whose forms call one another a thousandfold is refused before it is unfolded; one that calls itself too', async () => {
  const stream = (text: string, extra = ''): string => `<<${extra}/Length ${text.length}>>\nstream\n${text}\nendstream`;
  const form = (name: string): string => `/Type/XObject/Subtype/Form/BBox[0 0 300 300]/Resources<</XObject<<${name}>>>>`;
  const file = (second: string): Uint8Array => {
    const objects = [
      '<</Type/Catalog/Pages 2 0 R>>',
      '<</Type/Pages/Kids[3 0 R]/Count 1>>',
      '<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 300]/Resources<</XObject<</F 5 0 R>>>>/Contents 4 0 R>>',
      stream(times(1000, () => '/F Do ')),
      stream(
        times(1000, () => '/G Do '),
        form('/G 6 0 R'),
      ),
      stream(second, form('/G 6 0 R')),
    ];
    let text = '%PDF-1.4\n';
    const at = objects.map((object, i) => {
      const place = text.length;
      text += `${i + 1} 0 obj\n${object}\nendobj\n`;
      return place;
    });
    const table = at.map((place) => `${String(place).padStart(10, '0')} 00000 n \n`).join('');
    return bytes(`${text}xref\n0 7\n0000000000 65535 f \n${table}trailer\n<</Size 7/Root 1 0 R>>\nstartxref\n${text.length}\n%%EOF`);
  };
  expect(await codeOf(readPdf(file(times(20, () => '0 0 1 rg 1 1 5 5 re f '))))).toBe('limit.pdf');
  expect(await codeOf(readPdf(file('/G Do')))).toBe('limit.pdf');
});

describe('a plotter file of heaps of lines', () => {
  const contoursOf = async (make: (i: number) => string, n: number) =>
    (await readHpgl(bytes(`IN;PA;SP1;${times(n, make)}`))).items.flatMap(({ outline }) => outline.contours);

  test('that all begin in one place, or go on from one another, are joined', async () => {
    const star = await contoursOf((i) => `PU100,100;PD${100 + i},${200 + 2 * i};`, 20_000);
    expect(joinLooseEnds({ contours: star }, 0.05).outline.contours.length).toBeLessThanOrEqual(10_001);
    const chain = await contoursOf((i) => `PU${i * 4},${(i % 2) * 40};PD${i * 4 + 4},${((i + 1) % 2) * 40};`, 30_000);
    expect(joinLooseEnds({ contours: chain }, 0.05).outline.contours).toHaveLength(1);
  });

  test('that lie in one another ten thousandfold are refused, some hundred are told apart', async () => {
    const rings = await contoursOf((i) => `PU40000,40000;CI${10 + i};`, 20_000);
    expect(() => nestContours(rings)).toThrow(expect.objectContaining({ code: 'limit.nesting' }) as unknown as Error);
    expect(nestContours(rings.slice(0, 301))).toHaveLength(151);
  });
});

/** A fax of 160 by 90 in the coding of ITU-T T.4: a disc, a bar and a word. */
const FAX = Buffer.from(
  'SUkqAJgCAAAAE1DIBqABNQyAagATUMgGoAE1DIBqABNQyAagATUMgGoAE1DIBqABNQyAagATUMgGoAE1DIBqABNQ00AeCkACag0jAPBWABNQzQgHgqAAmoZQEB4NoAJqBgaA8GwAE1BQKAeGsACag3FgPDVABNQ2FAHhqAAmoaCoDw0wATUM5YB4aQAJqBAIDG/EABNQYCgX34gAJqC6kGN+IACahhUB9+IACahhUB9+IACag5ICb8QAE1BFgPvxAATUEWA+/EABNQRYD78QAE1DrQXfiAAmodaC78QAE1CpQTfiAAmoVKCb8QAE1CpQTfiAAmoVKCb8QAE1CGQm/EABNQhkJvxAATUIZCb8QAE1CGQm/EABNQhkJvxAATUIZCb8QAE1CGQm/EABNQhkJvxAATUIZCb8QAE1CGQm/EABNQhkJvxAATUKlBN+IACahUoJvxAATUKlBN+IACahUoJvxAATUOtBd+IACah1oLvxAATUEWA+/EABNQRYD78QAE1BFgPvxAATUHJATfiAAmoYVAffiAAmoYVAffiAAmoLqQY34gAJqDAUC+/EABNQIBAY34gAJqGcsA8NIAE1DQVAeGmACahsKAPDUABNQbiwHhqgAmoKBQDw1gATUDA0B4NgAJqGUBAeDaACahmhAPBUABNQaRgHgrAAmoaaAPBSABNQyAagATUMgGoAE1DIBqABNQyAagATUMgGoAE1DawDwZQATUEhQnVqNydOB4MoAJqHdOnT8b7iOB4MoAJqHdOnT46HrEcDwUgATUO6dOnWThHA8FIAE1DunTp06ecRwPBTABNQSKFCfsVwPBTABNQw4ZAYABNQyAagATUMgGoAE1DIBqABNQyAagATUMgGoAE1DIBqAAwAAAEDAAEAAACgAAAAAQEDAAEAAABaAAAAAgEDAAEAAAABAAAAAwEDAAEAAAADAAAABgEDAAEAAAABAAAAEQEEAAEAAAAIAAAAFgEDAAEAAABaAAAAFwEEAAEAAACPAgAAGgEFAAEAAAAuAwAAGwEFAAEAAAA2AwAAHAEDAAEAAAABAAAAKAEDAAEAAAACAAAAAAAAAMwAAAABAAAAxAAAAAEAAAA=',
  'base64',
);

describe('a damaged TIFF', () => {
  const withByte = (at: number, value: number): Uint8Array => {
    const out = new Uint8Array(FAX);
    out[at] = value;
    return out;
  };

  test('of a fax: whole it shows what it is, with a strip that lies elsewhere it is refused, damaged rows end', async () => {
    const { width, height, data } = await readTiff(new Uint8Array(FAX));
    const dark = Array.from({ length: width * height }, (_, i) => data[4 * i]! < 128).filter(Boolean).length;
    expect([width, height]).toEqual([160, 90]);
    expect(dark).toBeGreaterThan(2900 + 2800);
    expect(dark).toBeLessThan(6500);
    // place, count and length of the strip, in the head behind the rows
    for (const at of [730, 731, 737, 754, 755]) expect(await codeOf(readTiff(withByte(at, 0xff)))).toBe('input.picture');
    for (let at = 8; at < 663; at += 21) expect(['read', 'input.picture']).toContain(await codeOf(readTiff(withByte(at, 0xa5))));
  });

  /** Packs as TIFF 6.0 says, in the plainest way. */
  function packLzw(data: Uint8Array): Uint8Array {
    const bits: number[] = [];
    let width = 9;
    const put = (code: number): void => {
      for (let k = width - 1; k >= 0; k--) bits.push((code >> k) & 1);
    };
    let table = new Map<string, number>();
    let next = 258;
    put(256);
    let word = '';
    const codeOfWord = (text: string): number => (text.length === 1 ? text.charCodeAt(0) : table.get(text)!);
    for (const byte of data) {
      const char = String.fromCharCode(byte);
      if (word === '' || table.has(word + char)) {
        word += char;
        continue;
      }
      put(codeOfWord(word));
      table.set(word + char, next++);
      if (next === 511 || next === 1023 || next === 2047) width++;
      if (next === 4094) {
        put(256);
        table = new Map();
        next = 258;
        width = 9;
      }
      word = char;
    }
    if (word !== '') put(codeOfWord(word));
    put(257);
    return Uint8Array.from({ length: Math.ceil(bits.length / 8) }, (_, i) =>
      bits.slice(8 * i, 8 * i + 8).reduce((sum, bit, k) => sum | (bit << (7 - k)), 0),
    );
  }

  test('of LZW: what was packed comes out, and damage ends within the block', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 9000 }), fc.nat({ max: 5 }), fc.uint8Array({ maxLength: 600 }), (noise, spread, wild) => {
        const data = noise.map((byte) => byte >> spread);
        expect(Buffer.compare(Buffer.from(unpackLzw(packLzw(data), data.length)), Buffer.from(data))).toBe(0);
        expect(unpackLzw(wild, 3000)).toHaveLength(3000);
      }),
      { numRuns: 30, seed: 91 },
    );
  });
});
