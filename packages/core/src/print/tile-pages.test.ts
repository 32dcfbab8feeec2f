import { describe, expect, test } from '@jest/globals';
import { PDFDocument } from '@cantoo/pdf-lib';
import fc from 'fast-check';
import { boxShape, mapOutline, translation } from '../geometry/index.ts';
import { tilePages, writePrintPdf, writeTiledPdf, type PrintPage } from './index.ts';
import { openProfile } from './process-colours.ts';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const A4 = { widthMm: 210, heightMm: 297, marginMm: 5 };

describe('tiles', () => {
  test('cover the page, overlap as wide as was asked, and fit the paper', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 10, max: 2000, noNaN: true }),
        fc.double({ min: 10, max: 1500, noNaN: true }),
        fc.constantFrom(A4, { widthMm: 297, heightMm: 420, marginMm: 3 }, { widthMm: 100, heightMm: 148, marginMm: 6 }),
        fc.integer({ min: 0, max: 20 }),
        (width, height, paper, overlap) => {
          let tiling;
          try {
            tiling = tilePages(width, height, paper, overlap);
          } catch (error) {
            expect((error as { code: string }).code).toBe('input.paper');
            return;
          }
          const { tiles, columns, rows } = tiling;
          expect(tiles).toHaveLength(columns * rows);
          for (const tile of tiles) {
            expect(tile.widthMm).toBeLessThanOrEqual(tiling.paper.widthMm - 2 * paper.marginMm + 1e-6);
            expect(tile.heightMm).toBeLessThanOrEqual(tiling.paper.heightMm - 2 * paper.marginMm + 1e-6);
            expect(tile.widthMm).toBeGreaterThan(0);
            expect(tile.heightMm).toBeGreaterThan(0);
            const right = tiles.find(({ column, row }) => row === tile.row && column === tile.column + 1);
            const below = tiles.find(({ column, row }) => row === tile.row + 1 && column === tile.column);
            if (right) expect(tile.x + tile.widthMm - right.x).toBeCloseTo(overlap, 6);
            else expect(tile.x + tile.widthMm).toBeCloseTo(width, 6);
            if (below) expect(below.y + below.heightMm - tile.y).toBeCloseTo(overlap, 6);
            else expect(tile.y).toBeCloseTo(0, 6);
          }
        },
      ),
      { numRuns: 200, seed: 9 },
    );
  });

  test('a page that fits lies on one paper, turned when only that fits; impossible papers are refused', () => {
    expect(tilePages(200, 287, A4, 8).tiles).toHaveLength(1);
    const turned = tilePages(280, 190, A4, 8);
    expect(turned.tiles).toHaveLength(1);
    expect(turned.paper.widthMm).toBe(297);
    expect(() => tilePages(500, 500, { widthMm: 30, heightMm: 30, marginMm: 5 }, 8)).toThrow(/no room/);
    expect(() => tilePages(20_000, 20_000, A4, 8)).toThrow(/sheets/);
  });

  test('the file has a paper a tile, and an independent renderer finds the art where it belongs on each', async () => {
    const page: PrintPage = {
      title: 'Tiles',
      widthMm: 300,
      heightMm: 150,
      forms: [
        { id: 'f', items: [{ kind: 'shape', outline: mapOutline(translation(230, 110), boxShape(40, 20)), fill: { hex: '#000000' } }] },
      ],
      placements: [{ form: 'f', map: [1, 0, 0, 1, 0, 0] }],
      lines: [],
      marks: { contours: [] },
    };
    const chunks: Uint8Array[] = [];
    const inks = await openProfile(readFileSync('assets/profiles/coated-fogra39.icc'));
    await writePrintPdf(
      page,
      () => undefined as never,
      (bytes) => void chunks.push(bytes),
      { inks, madeAt: '2000-01-01T00:00:00Z' },
    );
    const tiling = tilePages(300, 150, { widthMm: 148, heightMm: 105, marginMm: 5 }, 8);
    const pdf = await writeTiledPdf(Buffer.concat(chunks), tiling, 'Tiles', 8);
    const read = await PDFDocument.load(pdf);
    expect(read.getPageCount()).toBe(tiling.tiles.length);
    const { width, height } = read.getPage(0).getSize();
    expect([(width * 25.4) / 72, (height * 25.4) / 72].map((v) => Math.round(v * 10) / 10)).toEqual([
      tiling.paper.widthMm,
      tiling.paper.heightMm,
    ]);
    const dir = mkdtempSync(join(tmpdir(), 'lorvek-tiles-'));
    try {
      writeFileSync(join(dir, 't.pdf'), pdf);
      execFileSync('gs', [
        '-q',
        '-dNOPAUSE',
        '-dBATCH',
        '-sDEVICE=pgmraw',
        '-r72',
        `-sOutputFile=${join(dir, '%d.pgm')}`,
        join(dir, 't.pdf'),
      ]);
      const dark = tiling.tiles.map((tile, i) => {
        const bytes = readFileSync(join(dir, `${i + 1}.pgm`));
        const [, w, h] = /^P5\s+(?:#[^\n]*\n)?(\d+)\s+(\d+)\s+255\s/.exec(bytes.toString('latin1'))!.map(Number) as [
          number,
          number,
          number,
        ];
        const pixels = bytes.subarray(bytes.length - w * h);
        // the box within this tile, from its place on the paper
        const [left, right] = [Math.max(230, tile.x), Math.min(270, tile.x + tile.widthMm)];
        const [low, high] = [Math.max(110, tile.y), Math.min(130, tile.y + tile.heightMm)];
        if (right - left < 4 || high - low < 4) return null;
        const x = tiling.paper.marginMm + (left + right) / 2 - tile.x;
        const y = tiling.paper.heightMm - tiling.paper.marginMm - tile.heightMm + (low + high) / 2 - tile.y;
        return pixels[
          Math.round((h * (tiling.paper.heightMm - y)) / tiling.paper.heightMm) * w + Math.round((w * x) / tiling.paper.widthMm)
        ]!;
      });
      const seen = dark.filter((one) => one !== null);
      expect(seen.length).toBeGreaterThan(0);
      expect(Math.max(...seen)).toBeLessThan(90);
    } finally {
      rmSync(dir, { recursive: true, force: true });
    }
  });
});
