/** Workbooks put together part by part: what stands in their cells is what is read, however they write it. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { AppError } from '../errors/index.ts';
import { LONGEST_CELL } from './separated.ts';
import { readWorkbookRows } from './workbook.ts';

const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/package/2006/relationships';
const KINDS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
const columnName = (k: number): string => (k < 26 ? '' : String.fromCharCode(64 + Math.floor(k / 26))) + String.fromCharCode(65 + (k % 26));
const relations = (list: readonly (readonly [id: string, kind: string, target: string])[]): string =>
  `<Relationships xmlns="${RELATIONS}">${list.map(([id, kind, target]) => `<Relationship Id="${id}" Type="${KINDS}/${kind}" Target="${target}"/>`).join('')}</Relationships>`;

interface Sheet {
  readonly name: string;
  readonly xml: string;
  readonly state?: string;
}

/** A workbook of some sheets; other parts take the place of these. */
function workbook(sheets: readonly Sheet[], others: Readonly<Record<string, string>> = {}, about = ''): Uint8Array {
  const own = [
    ...sheets.map((_, i) => [`r${i}`, 'worksheet', `worksheets/s${i}.xml`] as const),
    ['rs', 'sharedStrings', 'sharedStrings.xml'] as const,
    ['rf', 'styles', '/xl/styles.xml'] as const,
  ];
  const parts: Record<string, string> = {
    '[Content_Types].xml': '<Types/>',
    '_rels/.rels': relations([['r1', 'officeDocument', 'xl/workbook.xml']]),
    'xl/workbook.xml': `<workbook xmlns="${MAIN}" xmlns:r="${KINDS}">${about}<sheets>${sheets
      .map(({ name, state }, i) => `<sheet name="${name}" r:id="r${i}"${state === undefined ? '' : ` state="${state}"`}/>`)
      .join('')}</sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': relations(own),
    ...Object.fromEntries(sheets.map(({ xml }, i) => [`xl/worksheets/s${i}.xml`, xml])),
    ...others,
  };
  return zipSync(Object.fromEntries(Object.entries(parts).map(([name, xml]) => [name, strToU8(xml)])));
}

const sheetOf = (rows: string, before = ''): string => `<worksheet xmlns="${MAIN}">${before}<sheetData>${rows}</sheetData></worksheet>`;
const oneSheet = (rows: string, before = '', others: Readonly<Record<string, string>> = {}): Uint8Array =>
  workbook([{ name: 'List', xml: sheetOf(rows, before) }], others);
const inline = (text: string): string => `<is><t>${escaped(text)}</t></is>`;
const codeOf = (bytes: Uint8Array, sheet?: string): string => {
  try {
    return JSON.stringify(readWorkbookRows(bytes, sheet).rows);
  } catch (error) {
    if (error instanceof AppError) return error.code;
    throw error;
  }
};

/** Texts that XML can hold and that are seen. */
const anyText = fc
  .string({ unit: fc.constantFrom(...'ab7 &<>"é漢-=_x;'.split('')), minLength: 1, maxLength: 12 })
  .filter((s) => s.trim() !== '');
const anyCell = fc.record({ text: anyText, how: fc.constantFrom('shared', 'inline', 'formula', 'runs'), hasAddress: fc.boolean() });

describe('cells of a workbook', () => {
  test('shared, inline, in runs, or of a formula: every text comes back letter by letter, with and without addresses', () => {
    fc.assert(
      fc.property(fc.array(fc.array(anyCell, { minLength: 1, maxLength: 5 }), { minLength: 1, maxLength: 6 }), (table) => {
        const strings: string[] = [];
        const xmlOf = ({ text, how, hasAddress }: (typeof table)[number][number], row: number, column: number): string => {
          const address = hasAddress ? ` r="${columnName(column)}${row + 1}"` : '';
          switch (how) {
            case 'inline':
              return `<c${address} t="inlineStr">${inline(text)}</c>`;
            case 'formula':
              return `<c${address} t="str"><f>CONCATENATE(1)</f><v>${escaped(text)}</v></c>`;
            case 'runs': {
              const middle = Math.ceil(text.length / 2);
              strings.push(
                `<si><r><t xml:space="preserve">${escaped(text.slice(0, middle))}</t></r><r><t xml:space="preserve">${escaped(text.slice(middle))}</t></r><rPh><t>aid</t></rPh></si>`,
              );
              return `<c${address} t="s"><v>${strings.length - 1}</v></c>`;
            }
            case 'shared':
              strings.push(`<si><t xml:space="preserve">${escaped(text)}</t></si>`);
              return `<c${address} t="s"><v>${strings.length - 1}</v></c>`;
          }
        };
        const rows = table.map(
          (cells, row) => `<row r="${row + 1}">${cells.map((cell, column) => xmlOf(cell, row, column)).join('')}</row>`,
        );
        const book = oneSheet(rows.join(''), '', { 'xl/sharedStrings.xml': `<sst xmlns="${MAIN}">${strings.join('')}</sst>` });
        expect(readWorkbookRows(book).rows).toEqual(table.map((cells) => cells.map(({ text }) => text)));
      }),
      { numRuns: 60 },
    );
  });

  test('cells that are skipped are empty, rows with nothing to be seen are dropped, and the end of a row is its last text', () => {
    const book = oneSheet(
      `<row r="1"><c r="B1" t="inlineStr">${inline('Gull')}</c><c r="AB1" t="inlineStr">${inline('far')}</c></row>` +
        `<row r="2"><c r="A2" t="inlineStr">${inline('  ')}</c></row><row r="3"/>` +
        `<row r="9"><c t="inlineStr">${inline('Tern')}</c><c><v></v></c></row>`,
    );
    const { rows } = readWorkbookRows(book);
    expect(rows).toHaveLength(2);
    expect(rows[0]).toHaveLength(28);
    expect(rows[0]!.flatMap((cell, k) => (cell === '' ? [] : [[k, cell]]))).toEqual([
      [1, 'Gull'],
      [27, 'far'],
    ]);
    expect(rows[1]).toEqual(['Tern']);
  });

  test('numbers, dates, truths and errors are shown as the workbook shows them', () => {
    const styles = `<styleSheet xmlns="${MAIN}"><numFmts><numFmt numFmtId="164" formatCode="&quot;Pier &quot;@"/><numFmt numFmtId="165" formatCode="0000"/></numFmts><cellStyleXfs><xf numFmtId="9"/></cellStyleXfs><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/><xf numFmtId="9"/><xf numFmtId="164"/><xf numFmtId="165"/><xf numFmtId="2"/></cellXfs></styleSheet>`;
    const cells: readonly (readonly [xml: string, shown: string])[] = [
      ['<c><v>12345678901</v></c>', '12345678901'],
      ['<c s="1"><v>45000</v></c>', '2023-03-15'],
      ['<c s="2"><v>0.25</v></c>', '25%'],
      [`<c s="3" t="inlineStr">${inline('7')}</c>`, 'Pier 7'],
      ['<c s="4"><v>7</v></c>', '0007'],
      ['<c s="5"><v>1.5</v></c>', '1.50'],
      ['<c t="b"><v>1</v></c>', 'TRUE'],
      ['<c t="b"><v>0</v></c>', 'FALSE'],
      ['<c t="e"><v>#N/A</v></c>', '#N/A'],
      ['<c s="99"><v>3</v></c>', '3'],
      ['<c t="str"><v>a_x000A_b</v></c>', 'a\nb'],
    ];
    const row = `<row>${cells.map(([xml]) => xml).join('')}</row>`;
    const book = oneSheet(row, '', { 'xl/styles.xml': styles });
    expect(readWorkbookRows(book).rows).toEqual([cells.map(([, shown]) => shown)]);
    // the same day is another number where days are counted from 1904
    const from1904 = workbook(
      [{ name: 'List', xml: sheetOf('<row><c s="1"><v>43538</v></c></row>') }],
      { 'xl/styles.xml': styles },
      '<workbookPr date1904="1"/>',
    );
    expect(readWorkbookRows(from1904).rows).toEqual([['2023-03-15']]);
  });

  test('any prefix will do, and none', () => {
    const plain = oneSheet(`<row><c t="inlineStr">${inline('Skua')}</c></row>`);
    const prefixed = workbook([
      {
        name: 'List',
        xml: `<x:worksheet xmlns:x="${MAIN}"><x:sheetData><x:row><x:c t="inlineStr"><x:is><x:t>Skua</x:t></x:is></x:c></x:row></x:sheetData></x:worksheet>`,
      },
    ]);
    expect(readWorkbookRows(prefixed)).toEqual(readWorkbookRows(plain));
  });
});

describe('what is hidden, and which sheet', () => {
  const shown = (text: string): string => sheetOf(`<row><c t="inlineStr">${inline(text)}</c></row>`);

  test('hidden rows and columns are left out, and how many is said', () => {
    const cell = (text: string): string => `<c t="inlineStr">${inline(text)}</c>`;
    const book = oneSheet(
      `<row>${cell('a')}${cell('secret')}${cell('b')}</row><row hidden="1">${cell('x')}</row><row ht="0">${cell('y')}</row>`,
      '<cols><col min="2" max="2" hidden="true"/></cols>',
    );
    const { rows, warnings } = readWorkbookRows(book);
    expect(rows).toEqual([['a', 'b']]);
    expect(warnings).toEqual(['hidden: 2 rows and 1 columns are hidden and left out']);
  });

  test('the first sheet that is shown is taken and that is said; one by its name is taken even when hidden', () => {
    const book = workbook([
      { name: 'Old', xml: shown('old'), state: 'hidden' },
      { name: 'Boats', xml: shown('Gull') },
      { name: 'Crew', xml: shown('Ida') },
    ]);
    const { rows, sheets, warnings } = readWorkbookRows(book);
    expect([rows, sheets]).toEqual([[['Gull']], ['Boats', 'Crew']]);
    expect(warnings).toEqual(['sheets: taken from Boats, the first of 2']);
    expect(readWorkbookRows(book, 'Crew')).toMatchObject({ rows: [['Ida']], warnings: [] });
    expect(readWorkbookRows(book, 'Old').rows).toEqual([['old']]);
    expect(codeOf(book, 'Nobody')).toBe('input.sheet');
    const onlyHidden = workbook([{ name: 'Old', xml: shown('old'), state: 'veryHidden' }]);
    expect(readWorkbookRows(onlyHidden).warnings).toEqual(['hidden: the only sheet is hidden']);
  });
});

describe('what is no workbook, or a broken one', () => {
  test('each is refused in words, by a code of its own', () => {
    const cell = `<row><c t="s"><v>4</v></c></row>`;
    expect(codeOf(oneSheet(cell, '', { 'xl/sharedStrings.xml': `<sst xmlns="${MAIN}"><si><t>a</t></si></sst>` }))).toBe('input.damaged');
    expect(codeOf(workbook([]))).toBe('input.damaged');
    expect(codeOf(oneSheet('<row><c>'))).toBe('input.damaged');
    expect(codeOf(workbook([{ name: 'L', xml: '<!DOCTYPE w [<!ENTITY a "b">]><worksheet/>' }]))).toBe('input.damaged');
    expect(codeOf(zipSync({ 'word/document.xml': strToU8('<w/>'), '[Content_Types].xml': strToU8('<Types/>') }))).toBe('input.wrong-kind');
    expect(codeOf(zipSync({ 'picture.txt': strToU8('no') }))).toBe('input.wrong-kind');
    expect(codeOf(zipSync({ '[Content_Types].xml': strToU8('<Types/>') }))).toBe('input.damaged');
    expect(codeOf(strToU8('PK but nothing more'))).toBe('input.damaged');
    expect(codeOf(oneSheet(`<row><c t="inlineStr">${inline('x'.repeat(LONGEST_CELL + 1))}</c></row>`))).toBe('limit.too-long');
    const outside = oneSheet(`<row><c r="ZZZ1" t="inlineStr">${inline('far out')}</c></row>`);
    expect(codeOf(outside)).toBe('input.damaged');
  });

  test('relations that lead out of the file, or nowhere, are not followed', () => {
    const book = workbook([{ name: 'L', xml: sheetOf('') }], {
      'xl/_rels/workbook.xml.rels': `<Relationships xmlns="${RELATIONS}"><Relationship Id="r0" TargetMode="External" Type="${KINDS}/worksheet" Target="http://else.where/s.xml"/></Relationships>`,
    });
    expect(codeOf(book)).toBe('input.damaged');
    const climbing = workbook([{ name: 'L', xml: sheetOf(`<row><c t="inlineStr">${inline('in')}</c></row>`) }], {
      'xl/_rels/workbook.xml.rels': relations([['r0', 'worksheet', '../../../xl/./worksheets/s0.xml']]),
    });
    expect(codeOf(climbing)).toBe('[["in"]]');
  });

  test('cut off or with any byte changed it is read, or refused, and nothing else', () => {
    const whole = oneSheet(`<row><c t="inlineStr">${inline('Gull')}</c><c><v>12</v></c></row>`.repeat(20));
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.integer({ min: 0, max: 255 }), fc.boolean(), (at, value, isCut) => {
        const broken = isCut ? whole.slice(0, at) : Uint8Array.from(whole, (b, i) => (i === at ? value : b));
        expect(typeof codeOf(broken)).toBe('string');
      }),
      { numRuns: 300 },
    );
  });
});
