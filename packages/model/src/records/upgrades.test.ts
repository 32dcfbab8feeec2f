/** Jobs that the first version saved: they open, look the same and are cut the same. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { joinFonts, loadFont, type Font } from '@lorvek/core/lettering';
import { deriveItem, piecesOf } from '../queries/derive.ts';
import { drawThumbnail } from '../papers/thumbnail.ts';
import { cutFile, cuttingWith } from '../plans/cut-file.ts';
import { sheetsOf } from '../plans/plan-sheet.ts';
import {
  DOCUMENT_VERSION,
  layUpOf,
  PAGE_ID,
  pageOf,
  readNewer,
  sliverOf,
  upgradeDrawing,
  validateDrawing,
  type DocRecord,
  type KnownOf,
  type LooseDrawing,
  type StockFilm,
  type ToolSetup,
} from '../index.ts';

interface Fixture {
  name: string;
  /** Of the thumbnail's text, SHA-256, as the first version made it. */
  thumbnail: string;
  /** By film: how many strokes the cut file had, and the SHA-256 of them, each from its lower end, sorted. */
  cut: Record<string, { strokes: number; sha256: string }>;
  drawing: LooseDrawing;
}

/** Jobs with the stock and the tool setup that their cut files were made with. */
const {
  jobs: fixtures,
  stock,
  setup,
} = JSON.parse(readFileSync('packages/model/fixtures/version-1.json', 'utf8')) as {
  jobs: Fixture[];
  stock: StockFilm[];
  setup: ToolSetup;
};
const catalogue = JSON.parse(readFileSync('assets/fonts/fonts.json', 'utf8')) as { id: string; files: string[] }[];
const fonts = new Map<string, Font | undefined>();
const fontById = (id: string): Font | undefined => {
  const entry = catalogue.find((font) => font.id === id);
  if (entry && !fonts.has(id))
    fonts.set(id, joinFonts(entry.files.map((file) => loadFont(readFileSync(`assets/fonts/${file}`))) as [Font, ...Font[]]));
  return fonts.get(id);
};

const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');

function strokesOf(hpgl: Uint8Array): { strokes: number; sha256: string } {
  const strokes: string[] = [];
  let at = '';
  for (const command of new TextDecoder()
    .decode(hpgl)
    .split(';')
    .map((c) => c.trim())) {
    const numbers = command.slice(2).split(',').filter(Boolean);
    if (command.startsWith('PU') && numbers.length === 2) at = numbers.join();
    if (command.startsWith('PD'))
      for (let i = 0; i < numbers.length; i += 2) {
        const to = `${numbers[i]},${numbers[i + 1]}`;
        strokes.push([at, to].sort().join(' '));
        at = to;
      }
  }
  return { strokes: strokes.length, sha256: sha256(strokes.sort().join('\n')) };
}

describe.each(fixtures)('$name', ({ drawing: old, thumbnail, cut }) => {
  const drawing = upgradeDrawing(old, 1);
  const knownOf: KnownOf = (item) => {
    const derived = deriveItem(item, fontById, sliverOf(drawing));
    return { derived, pieces: piecesOf(item, derived) };
  };

  test('opens as a drawing of this version', () => {
    expect(pageOf(drawing).version).toBe(DOCUMENT_VERSION);
    expect(pageOf(drawing).layers).toEqual(old['page']!['films']);
    for (const record of Object.values(old))
      if (record['type'] === 'sheet')
        expect(layUpOf(drawing, record['film'] as string)).toMatchObject({
          rollId: record['rollId'],
          turnDeg: record['turnDeg'],
          fill: { copies: record['copies'] },
        });
  });

  test('looks the same and is cut the same', () => {
    expect(sha256(drawThumbnail(drawing, knownOf))).toBe(thumbnail);
    const sheets = sheetsOf(drawing, stock, knownOf, 'job-any');
    expect(Object.fromEntries(sheets.map((sheet) => [sheet.layer.id, strokesOf(cutFile(sheet.lines, cuttingWith(setup)).hpgl)]))).toEqual(
      cut,
    );
  });
});

describe('a drawing of a newer version, to be looked at', () => {
  const drawings = fixtures.map(({ drawing }) => upgradeDrawing(drawing, 1));

  test('is shown whole where it holds nothing new', () => {
    for (const drawing of drawings)
      expect(readNewer({ ...drawing, page: { ...drawing['page'], version: DOCUMENT_VERSION + 1 } } as unknown as LooseDrawing, 9)).toEqual({
        drawing,
        leftOut: 0,
      });
  });

  test('is shown without what is of unknown kinds, whichever records those are, and names nothing that is not shown', () => {
    fc.assert(
      fc.property(fc.constantFrom(...drawings), fc.infiniteStream(fc.boolean()), (drawing, unknown) => {
        const loose = Object.fromEntries(
          Object.entries(drawing).map(([id, record]) =>
            id === PAGE_ID || unknown.next().value === false
              ? [id, { ...record, ...(record.type === 'item' ? { treatments: record.treatments ?? [] } : {}) }]
              : [id, { ...record, [record.type === 'item' ? 'kind' : 'type']: 'of-tomorrow' }],
          ),
        );
        const { drawing: seen, leftOut } = readNewer(loose as unknown as LooseDrawing, DOCUMENT_VERSION + 1);
        expect(validateDrawing(seen)).toEqual(seen);
        expect(Object.keys(seen).length + leftOut).toBe(Object.keys(drawing).length);
        for (const id of Object.keys(seen)) expect(JSON.stringify(loose[id])).not.toContain('of-tomorrow');
      }),
      { numRuns: 60 },
    );
  });

  test('is refused when its page cannot be read', () => {
    const { page: _, ...rest } = drawings[0] as Record<string, DocRecord>;
    expect(() => readNewer(rest as unknown as LooseDrawing, 9)).toThrow(expect.objectContaining({ code: 'input.newer' }));
  });
});

test('a drawing of a newer version is refused by name, and one that is damaged too', () => {
  const [first] = fixtures;
  expect(() => upgradeDrawing(first!.drawing, DOCUMENT_VERSION + 1)).toThrow(expect.objectContaining({ code: 'input.newer' }));
  expect(() => upgradeDrawing({ ...first!.drawing, 'item-x': { type: 'item', kind: 'box' } }, 1)).toThrow(
    expect.objectContaining({ code: 'input.document' }),
  );
});
