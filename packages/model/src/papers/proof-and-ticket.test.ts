import { describe, expect, test } from '@jest/globals';
import { boxShape, mapOutline, translation, type Outline } from '@lorvek/core/geometry';
import { film, printLayer, run, shapeOf, stockOf } from '../drawing.support.ts';
import {
  addEdgeCut,
  addFilm,
  addItems,
  emptyDrawing,
  setFilmOfItems,
  setLayUp,
  USUAL_SETTINGS,
  type Drawing,
  type LetteringItem,
  type PictureItem,
  type PrintLayer,
} from '../index.ts';
import { isUnknown } from '../queries/known-pieces.ts';
import { knownIn } from '../queries/know.ts';
import { jobCost } from '../plans/job-cost.ts';
import { artworkItemsOf } from '../plans/export-artwork.ts';
import { sheetsOf } from '../plans/plan-sheet.ts';
import { ticketPages } from './proof-and-ticket.ts';

const at = (x: number, y: number, outline: Outline): Outline => mapOutline(translation(x, y), outline);
const stock = [stockOf('film-a'), stockOf('print-p')];

function draw(medium: PrintLayer['medium'] = 'white'): Drawing {
  let drawing = emptyDrawing({ name: 'Wall', hex: '#ffffff', widthMm: 900, heightMm: 500 });
  drawing = run(drawing, addFilm, { film: film('film-a') });
  drawing = run(drawing, addFilm, { film: { ...printLayer('print-p', { medium }), name: 'Gloss' } });
  const items = [shapeOf('item-1', 'film-a', at(10, 10, boxShape(60, 30))), shapeOf('item-2', 'print-p', at(120, 10, boxShape(80, 50)))];
  return run(drawing, addItems, { items, roots: items.map(({ id }) => id) });
}

function linesOf(drawing: Drawing): string[] {
  const knownOf = knownIn(drawing, () => undefined, new Map());
  const pages = ticketPages({
    drawing,
    job: { name: 'Plates', customer: '', dueOn: null, revision: 1 },
    piecesOf: (item) => {
      const known = knownOf(item);
      return isUnknown(known) ? [] : known.pieces;
    },
    dimensions: [],
    pictures: [],
    bleeds: [],
    stock,
    steps: [],
    cost: jobCost(sheetsOf(drawing, stock, knownOf, 'job-x'), stock, USUAL_SETTINGS),
    settings: USUAL_SETTINGS,
    measure: () => 10,
    today: '2026-03-02',
  });
  return pages.flatMap(({ texts = [] }) => texts.map(({ text }) => text));
}

describe('the work ticket', () => {
  test('names prints as well as films, with what is done with them', () => {
    const lines = linesOf(draw());
    expect(lines.filter((text) => text.endsWith('Gloss'))).toHaveLength(1);
    expect(lines).toContain('Printed on white medium, 1 item');
    expect(lines.filter((text) => /^1\. (Cut|Print)/.test(text))).toHaveLength(2);
    expect(lines.filter((text) => text.includes('Ink is not reckoned'))).toHaveLength(1);
    expect(lines.join('\n')).not.toMatch(/Laminate|Cut by its marks/);
  });

  test('a print with an edge cut and a laminate is laminated before it is cut', () => {
    let drawing = run(draw(), addEdgeCut, { id: 'item-cut', of: ['item-2'], fields: { distanceMm: 3 } });
    drawing = run(drawing, setLayUp, { film: 'print-p', fields: { laminate: { id: 'supply-1', name: 'Matt 1370' } } });
    const steps = linesOf(drawing).filter((text) => /^\d\. /.test(text));
    const print = steps.slice(steps.findIndex((text) => text.includes('Print')));
    expect(print.map((text) => text.slice(3))).toEqual([
      'Print, let the ink dry',
      'Laminate with Matt 1370',
      'Cut by its marks',
      'Weed',
      'Apply to the surface',
    ]);
    expect(linesOf(drawing).filter((text) => text.includes('Matt 1370 on it is not reckoned'))).toHaveLength(1);
  });

  test('transfer print says how it is pressed', () => {
    expect(linesOf(draw('transfer')).some((text) => text.startsWith('2. Press'))).toBe(true);
  });

  test('what is mirrored on its lay-up is said to be, whatever it is made of', () => {
    const cutSteps = (drawing: Drawing): string[] => linesOf(drawing).filter((text) => /^1\. (Cut|Print)/.test(text));
    expect(cutSteps(draw())).toEqual(['1. Cut', '1. Print, let the ink dry']);
    const glass = ['film-a', 'print-p'].reduce((d, layer) => run(d, setLayUp, { film: layer, fields: { mirror: true } }), draw());
    expect(cutSteps(glass)).toEqual(['1. Cut mirrored', '1. Print mirrored, let the ink dry']);
    const transfer = run(draw(), addFilm, { film: { ...film('film-t'), transfer: true } });
    const worn = run(transfer, setFilmOfItems, { ids: ['item-1'], film: 'film-t' });
    expect(cutSteps(worn)[0]).toBe('1. Cut mirrored, liner side down');
    expect(cutSteps(run(worn, setLayUp, { film: 'film-t', fields: { mirror: false } }))[0]).toBe('1. Cut, liner side down');
  });

  test('more letterings than are named: how many more is said', () => {
    const words = Array.from({ length: 64 }, (_, i): LetteringItem => ({
      type: 'item',
      kind: 'lettering',
      id: `item-w${i}`,
      name: `Berth ${i}`,
      layer: 'film-a',
      matrix: [1, 0, 0, 1, 0, 0],
      text: `Berth ${i}`,
      fontId: 'anton',
      substitutes: [],
      capHeightMm: 20,
      widthPct: 100,
      slantDeg: 0,
      letterSpaceMm: 0,
      lineSpace: 1.6,
      align: 'left',
    }));
    const lines = linesOf(run(draw(), addItems, { items: words, roots: words.map(({ id }) => id) }));
    expect(lines.filter((text) => /^“Berth \d+”/.test(text))).toHaveLength(60);
    expect(lines).toContain('and 4 more');
  });

  test('of so many pieces that no call could take them all at once', () => {
    const piece = { layer: 'film-a', outline: boxShape(1, 1) };
    const many = Array.from({ length: 200_000 }, () => piece);
    expect(artworkItemsOf(draw(), {}, (item) => (item.id === 'item-1' ? many : []))).toHaveLength(many.length);
  });

  test('says how large the work is with the pictures that are printed, without the photograph that it lies on', () => {
    const photo = (id: string, layer: string | null, x: number): PictureItem => ({
      type: 'item',
      kind: 'picture',
      id,
      name: id,
      layer,
      matrix: [1, 0, 0, 1, x, 10],
      asset: 'ab'.repeat(32),
      widthPx: 80,
      heightPx: 60,
      mmPerPx: 1,
      strengthPct: 100,
      locked: false,
    });
    const whole = (drawing: Drawing): string | undefined => linesOf(drawing).find((text) => text.startsWith('Work as a whole'));
    expect(whole(draw())).toBe('Work as a whole: 190 mm × 50 mm');
    const added = (...items: PictureItem[]): Drawing => run(draw(), addItems, { items, roots: items.map(({ id }) => id) });
    expect(whole(added(photo('item-3', 'print-p', 300)))).toBe('Work as a whole: 370 mm × 60 mm');
    expect(whole(added(photo('item-3', null, 300)))).toBe('Work as a whole: 190 mm × 50 mm');
  });
});
