import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { AppError } from '../errors/index.ts';
import { counterText, readList, SEPARATORS, type List } from './index.ts';

const utf8 = (text: string): Uint8Array => strToU8(text);
const utf16 = (text: string, littleEndian: boolean): Uint8Array => {
  const bytes = new Uint8Array(text.length * 2);
  for (let i = 0; i < text.length; i++) new DataView(bytes.buffer).setUint16(2 * i, text.charCodeAt(i), littleEndian);
  return bytes;
};
const codeOf = async (bytes: Uint8Array, name = 'list.csv'): Promise<string> => {
  try {
    return JSON.stringify(await readList(bytes, name));
  } catch (error) {
    if (error instanceof AppError) return error.code;
    throw error;
  }
};

describe('text lists', () => {
  const cell = fc.oneof(
    fc.string({ unit: fc.constantFrom(...'ab7 ,;|\t"\'\r\nßé漢-='.split('')), maxLength: 9 }),
    fc.constantFrom('007', '=1+1', '1,50', '👩‍✈️', 'مرساة'),
  );
  const seen = fc.array(cell, { minLength: 2, maxLength: 5 }).map((row) => ['x', ...row]);
  const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;

  test('whatever is written as it should be comes back letter by letter, with any separator, end of line and Unicode', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(seen, { minLength: 1, maxLength: 8 }),
        fc.constantFrom(...SEPARATORS),
        fc.constantFrom('\r', '\n', '\r\n'),
        fc.constantFrom('utf-8', 'utf-8 marked', 'utf-16le', 'utf-16be'),
        async (rows, separator, end, encoding) => {
          const text = rows.map((row) => row.map(quoted).join(separator)).join(end);
          const bytes =
            encoding === 'utf-8'
              ? utf8(text)
              : encoding === 'utf-8 marked'
                ? utf8(`\ufeff${text}`)
                : utf16(`\ufeff${text}`, encoding === 'utf-16le');
          const list = await readList(bytes, 'a.csv', { separator, header: false });
          expect(list.rows).toEqual(rows);
        },
      ),
    );
  });

  test('the separator is found by its steadiness: decimal commas, commas in names and prices do not count', async () => {
    const of = async (text: string): Promise<string | undefined> => (await readList(utf8(text), 'a.txt')).separator;
    expect(await of('12;3,5\n13;4,5\n14;9,0\n')).toBe(';');
    expect(await of('a|1,50 €\nb|2,00 €\nc|3,10 €\n')).toBe('|');
    expect(await of('Reef, the older\nDolphin\nTarn\nSkerry, small\nHolm\n')).toBe('');
    expect(await of('7\tx;y\n8\tz\n9\tw;v;u\n')).toBe('\t');
    expect(await of('1,5\n2,5\n3,5\n')).toBe(',');
  });

  test('a quote that is never closed is a letter; the lines after it stay', async () => {
    const { rows } = await readList(utf8('Tern\n"Lighter\nCurlew\nthe "Two"\nWren 12"\n'), 'names.txt', { header: false });
    expect(rows).toEqual([['Tern'], ['"Lighter'], ['Curlew'], ['the "Two"'], ['Wren 12"']]);
  });

  test('the header is told from the rows by its digits, and can be overruled', async () => {
    const of = async (text: string, header?: boolean): Promise<List> =>
      readList(utf8(text), 'a.csv', header === undefined ? {} : { header });
    expect((await of('No;Boat\n1;Tern\n2;Knot\n')).header).toEqual(['No', 'Boat']);
    expect((await of('1;Tern\n2;Knot\n3;Wren\n')).header).toBeNull();
    expect((await of('Boat;Badge\nTern;tern.png\nKnot;KNOT\nDunlin;dunlin.JPG\n')).header).toEqual(['Boat', 'Badge']);
    expect((await of('Tern;tern.png\nKnot;knot.png\nDunlin;dunlin.png\n')).header).toBeNull();
    expect((await of('Berth;2031\nA1;5,5\nA2;17,5\n')).header).toEqual(['Berth', '2031']);
    expect(await of('No;Boat\n1;Tern\n', false)).toMatchObject({
      header: null,
      rows: [
        ['No', 'Boat'],
        ['1', 'Tern'],
      ],
    });
    expect(await of('1;Tern\n2;Knot\n', true)).toMatchObject({ header: ['1', 'Tern'], rows: [['2', 'Knot']] });
  });

  test('rows that are longer than the first keep their cells and are told; rows of nothing are dropped', async () => {
    const list = await readList(utf8('No;Boat\n1;Tern;x\n;\n  \n2;Knot\n'), 'a.csv');
    expect(list.rows).toEqual([
      ['1', 'Tern', 'x'],
      ['2', 'Knot'],
    ]);
    expect(list.warnings).toEqual([expect.stringMatching(/^ragged: .*row/)]);
  });
});

describe('letters of one byte', () => {
  const table = (label: string): Map<string, number> => {
    const decoder = new TextDecoder(label);
    return new Map(Array.from({ length: 256 }, (_, b) => [decoder.decode(Uint8Array.of(b), { stream: true }), b]));
  };
  const encode = (text: string, label: string): Uint8Array => {
    const map = table(label);
    return Uint8Array.from([...text].map((c) => map.get(c) ?? 63));
  };
  test.each([
    ['windows-1252', 'Überfähre;Größe\nJörg’s Boot;„Möwe“ – 5 €\nFjærå;Ålesund\nŒuvre;Señor Núñez\n'],
    ['windows-1252', 'Café crème\nPâté à l’ail\nGarçon\nForêt 12 °C\n'],
    ['windows-1250', 'Łódź;Świętość\nŻółw;Gęś\nŹrebię;Mątwa\nKąpiel;Łosoś\n'],
    ['iso-8859-2', 'Łódź;Świętość\nŻółw;Gęś\nŹrebię;Mątwa\nKąpiel;Łosoś\n'],
    ['iso-8859-2', 'Šťastný žralok\nPotápěč\nPříšera\nŽluťoučký kůň\n'],
    ['windows-1250', 'Šťastný žralok\nPotápěč\nPříšera\nŽluťoučký kůň\n'],
  ])('%s is found by its words, and said to be a guess', async (label, text) => {
    const list = await readList(encode(text, label), 'a.csv', { header: false });
    expect(list.rows.map((row) => row.join(';')).join('\n')).toBe(text.trim());
    expect(list.warnings[0]).toMatch(/^encoding-guessed/);
    expect((await readList(encode(text, label), 'a.csv', { header: false, encoding: list.encoding as 'windows-1252' })).warnings).toEqual(
      [],
    );
  });
});

const SHEET = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
interface BookParts {
  readonly rows: string;
  readonly sheets?: string;
  readonly before?: string;
  readonly strings?: string;
  readonly styles?: string;
  readonly properties?: string;
}
const sheetPart = (rows: string, before = ''): string => `<worksheet xmlns="${SHEET}">${before}<sheetData>${rows}</sheetData></worksheet>`;
const book = ({ rows, sheets, before, strings, styles, properties }: BookParts): Uint8Array => {
  const relation = (id: string, kind: string, target: string): string =>
    `<Relationship Id="${id}" Type="${RELATIONS}/${kind}" Target="${target}"/>`;
  const parts: Record<string, string> = {
    '[Content_Types].xml': '<Types/>',
    '_rels/.rels': `<Relationships>${relation('a', 'officeDocument', '/xl/workbook.xml')}</Relationships>`,
    'xl/workbook.xml': `<workbook xmlns="${SHEET}" xmlns:q="${RELATIONS}">${properties ?? ''}<sheets>${
      sheets ?? '<sheet name="One" sheetId="4" q:id="s1"/>'
    }</sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': `<Relationships>${relation('s1', 'worksheet', 'worksheets/first.xml')}${relation('s2', 'worksheet', 'worksheets/other.xml')}${relation('t', 'sharedStrings', 'texts.xml')}${relation('f', 'styles', 'looks.xml')}</Relationships>`,
    'xl/worksheets/first.xml': sheetPart(rows, before),
    'xl/worksheets/other.xml': sheetPart('<row><c t="inlineStr"><is><t>of the other</t></is></c></row>'),
  };
  if (strings !== undefined) parts['xl/texts.xml'] = `<sst xmlns="${SHEET}">${strings}</sst>`;
  if (styles !== undefined) parts['xl/looks.xml'] = `<styleSheet xmlns="${SHEET}">${styles}</styleSheet>`;
  return zipSync(Object.fromEntries(Object.entries(parts).map(([name, text]) => [name, strToU8(text)])));
};
const rowsOf = async (parts: BookParts): Promise<string[][]> => (await readList(book(parts), 'a.xlsx', { header: false })).rows;

describe('workbooks', () => {
  test('numbers are shown as their format shows them; formulas by the value that was stored', async () => {
    const formats = ['000', '"Slip "0', '0.0%', 'dd/mm/yyyy', '@" B"', '#,##0.00'];
    const styles = `<numFmts>${formats.map((f, i) => `<numFmt numFmtId="${170 + i}" formatCode="${f.replaceAll('"', '&quot;')}"/>`).join('')}</numFmts><cellStyleXfs><xf numFmtId="171"/></cellStyleXfs><cellXfs><xf numFmtId="0"/>${formats.map((_, i) => `<xf numFmtId="${170 + i}"/>`).join('')}<xf numFmtId="14"/></cellXfs>`;
    const cells = [
      '<c s="1"><v>7</v></c>',
      '<c s="2"><v>12</v></c>',
      '<c s="3"><v>0.055</v></c>',
      '<c s="4"><v>48000</v></c>',
      '<c s="5" t="str"><f>A1</f><v>Knot</v></c>',
      '<c s="6"><f>1+1</f><v>1234.5</v></c>',
      '<c s="7"><v>48000</v></c>',
      '<c><v>4917612345678</v></c>',
      '<c><v>0.30000000000000004</v></c>',
      '<c t="b"><v>0</v></c>',
    ];
    expect(await rowsOf({ rows: `<row>${cells.join('')}</row>`, styles })).toEqual([
      ['007', 'Slip 12', '5.5%', '01/06/2031', 'Knot B', '1,234.50', '2031-06-01', '4917612345678', '0.3', 'FALSE'],
    ]);
    const from1904 = { rows: `<row>${cells[3]}</row>`, styles, properties: '<workbookPr date1904="1"/>' };
    expect(await rowsOf(from1904)).toEqual([['02/06/2035']]);
  });

  test('texts are joined from their runs, without reading aids, with what XML cannot hold', async () => {
    const strings =
      '<si><r><t>Old </t></r><r><t>Tern</t></r></si><si><t>東</t><rPh sb="0" eb="1"><t>ヒガシ</t></rPh></si><si><t>a_x0041_&amp;&#65;</t></si>';
    const rows = '<row r="3"><c r="B3" t="s"><v>0</v></c><c t="s"><v>1</v></c></row><row r="9"><c t="s"><v>2</v></c></row>';
    expect(await rowsOf({ rows, strings })).toEqual([['', 'Old Tern', '東'], ['aA&A']]);
  });

  test('the first sheet that is shown counts; hidden rows and columns are left out and said; another sheet is had by its name', async () => {
    const text = (t: string): string => `<c t="inlineStr"><is><t>${t}</t></is></c>`;
    const parts = {
      rows: `<row>${text('a')}${text('b')}${text('c')}</row><row hidden="1">${text('d')}</row><row>${text('e')}</row>`,
      before: '<cols><col min="2" max="2" hidden="true"/></cols>',
    };
    const list = await readList(book(parts), 'a.xlsx', { header: false });
    expect(list.rows).toEqual([['a', 'c'], ['e']]);
    expect(list.warnings).toEqual([expect.stringMatching(/^hidden: 1 rows and 1 columns/)]);
    const two = book({ ...parts, sheets: '<sheet name="Old" state="veryHidden" q:id="s1"/><sheet name="New" q:id="s2"/>' });
    expect((await readList(two, 'a.xlsx')).rows).toEqual([['of the other']]);
    expect((await readList(two, 'a.xlsx', { sheet: 'Old', header: false })).rows).toEqual([['a', 'c'], ['e']]);
    await expect(readList(two, 'a.xlsx', { sheet: 'None' })).rejects.toMatchObject({ code: 'input.sheet' });
  });

  test('one that breaks off or has changed anywhere is refused or read whole, never read in part', async () => {
    const text = Array.from({ length: 40 }, (_, i) => `<row><c t="inlineStr"><is><t>Boat ${i} of ${i * 7919}</t></is></c></row>`).join('');
    const whole = book({ rows: text });
    const right = await codeOf(whole, 'a.xlsx');
    expect(right).toContain('Boat 39');
    for (let end = 4; end < whole.length; end += 13) expect(await codeOf(whole.subarray(0, end), 'a.xlsx')).toBe('input.damaged');
    for (let at = 4; at < whole.length; at += 3) {
      const changed = whole.slice();
      changed[at] = (changed[at] as number) ^ 0x5a;
      const answer = await codeOf(changed, 'a.xlsx');
      expect([right, 'input.damaged', 'input.wrong-kind', 'limit.too-large']).toContain(answer);
    }
  });

  test('one that swells is refused by what it says of itself, and by what comes out when that is a lie', async () => {
    const says = (bytes: Uint8Array, size: number): Uint8Array => {
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
      for (let at = 0; at + 46 < bytes.length; at++) if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 24, size, true);
      return bytes;
    };
    const cell = (letters: number): string => `<row><c t="inlineStr"><is><t>${'x'.repeat(letters)}</t></is></c></row>`;
    expect(await codeOf(says(book({ rows: cell(9) }), 3e8), 'a.xlsx')).toBe('limit.too-large');
    expect(await codeOf(says(book({ rows: cell(300_000) }), 1000), 'a.xlsx')).toBe('input.damaged');
    expect(await codeOf(book({ rows: cell(4_000_001) }), 'a.xlsx')).toBe('limit.too-long');
  });

  test('document types, entities, foreign archives and far cells do no harm', async () => {
    const dtd = zipSync({ 'xl/workbook.xml': strToU8('<!DOCTYPE w [<!ENTITY a "aaaa">]><workbook>&a;</workbook>') });
    expect(await codeOf(dtd, 'a.xlsx')).toBe('input.damaged');
    expect(await codeOf(zipSync({ 'photo.txt': strToU8('x') }), 'a.xlsx')).toBe('input.wrong-kind');
    expect(await codeOf(book({ rows: '<row><c r="ZZZ1"><v>1</v></c></row>' }), 'a.xlsx')).toBe('input.damaged');
    expect(await codeOf(book({ rows: '<row><c t="s"><v>8</v></c></row>' }), 'a.xlsx')).toBe('input.damaged');
    const far = `<row><c r="XFD1"><v>1</v></c></row>`.repeat(700);
    expect(await codeOf(book({ rows: far }), 'a.xlsx')).toBe('limit.too-large');
  });
});

describe('what is no list', () => {
  test.each<[string, Uint8Array, string]>([
    ['nothing', new Uint8Array(0), 'input.empty'],
    ['blanks only', utf8(' \n\t\n'), 'input.empty'],
    ['a picture', Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 0, 16), 'input.picture'],
    ['a PDF', utf8('%PDF-1.7\n'), 'input.wrong-kind'],
    ['bytes of anything', Uint8Array.from({ length: 4000 }, (_, i) => (i * 7919 * (i + 3)) >> 3), 'input.binary'],
    ['too many columns', utf8(`${'a;'.repeat(20_000)}\n${'b;'.repeat(20_000)}`), 'limit.too-wide'],
  ])('%s is refused by its code', async (_, bytes, code) => {
    expect(await codeOf(bytes)).toBe(code);
  });

  test('no bytes lead to anything but rows of text or a refusal', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uint8Array({ maxLength: 400 }),
        fc.constantFrom('', 'PK\x03\x04', '\xff\xfe', '\xef\xbb\xbf'),
        async (bytes, start) => {
          const head = Uint8Array.from([...start].map((c) => c.charCodeAt(0)));
          const answer = await codeOf(Uint8Array.from([...head, ...bytes]));
          expect(answer).toMatch(/^(\{|input\.|limit\.)/);
        },
      ),
    );
  });
});

describe('counters', () => {
  const first = (count: number, opts: Parameters<typeof counterText>[1]): string[] =>
    Array.from({ length: count }, (_, n) => counterText(n, opts));

  test('count by their step, up and down, filled up with zeros, and run over their padding', () => {
    expect(first(4, { start: 98, step: 1, padding: 2, prefix: 'B-', suffix: '!' })).toEqual(['B-98!', 'B-99!', 'B-100!', 'B-101!']);
    expect(first(4, { start: 1, step: 1, reverse: true, padding: 2 })).toEqual(['01', '00', '-01', '-02']);
    expect(first(4, { start: 0.1, step: 0.1 })).toEqual(['0.1', '0.2', '0.3', '0.4']);
  });

  test('letters go on from Z to AA; skipped ones take no place', () => {
    expect(first(4, { start: 'Y', step: 1, letters: true })).toEqual(['Y', 'Z', 'AA', 'AB']);
    expect(first(5, { start: 8, step: 1, letters: 'lower', skip: ['I', 'L'] })).toEqual(['h', 'j', 'k', 'm', 'n']);
    expect(first(4, { start: 11, step: 1, padding: 3, skip: [13, '012'] })).toEqual(['011', '014', '015', '016']);
  });

  test('all texts of letters differ, each the one after the one before', () => {
    const all = first(20_000, { start: 1, step: 1, letters: true });
    expect(new Set(all).size).toBe(all.length);
    expect(all.every((text, i) => i === 0 || text.length > (all[i - 1] as string).length || text > (all[i - 1] as string))).toBe(true);
  });

  test.each<[string, Parameters<typeof counterText>[1]]>([
    ['no number', { start: 'x', step: 1 }],
    ['no step', { start: 1, step: Number.NaN }],
    ['a letter before A', { start: 'A', step: 1, letters: true, reverse: true }],
    ['standing still on what is left out', { start: 5, step: 0, skip: [5] }],
  ])('%s is refused', (_, opts) => {
    expect(() => counterText(1, opts)).toThrow(expect.objectContaining({ code: 'input.counter' }) as unknown as Error);
  });
});
