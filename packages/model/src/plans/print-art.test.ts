/** Treatments of what is printed: each in its own colour, painted so that all of them are seen. */
import { describe, expect, test } from '@jest/globals';
import { isInside } from '@lorvek/core/geometry';
import { drawThumbnail } from '../papers/thumbnail.ts';
import { film, printLayer, run } from '../drawing.support.ts';
import {
  addFilm,
  addItems,
  emptyDrawing,
  setTreatments,
  spotInksOf,
  treatmentFor,
  type BoxItem,
  type Drawing,
  type LeafItem,
  type TreatmentKind,
  type TreatmentRecord,
} from '../index.ts';
import { deriveItem, piecesOf } from '../queries/derive.ts';
import { itemOf } from '../queries/queries.ts';
import { artOf, treatmentPaint } from './print-art.ts';

const box: BoxItem = {
  type: 'item',
  kind: 'box',
  id: 'item-b',
  name: 'Box',
  layer: 'print-p',
  matrix: [1, 0, 0, 1, 50, 50],
  widthMm: 40,
  heightMm: 30,
  cornerMm: 0,
  paint: { fill: { hex: '#102030' } },
};
const medium = printLayer('print-p', { hex: '#fefefe' });
const ring = (id: string, distanceMm: number, hex: string | undefined): TreatmentRecord => ({
  kind: 'ring',
  id: `treatment-${id}`,
  on: true,
  layer: 'print-p',
  distanceMm,
  corner: 'mitre',
  fill: 'backing',
  ...(hex ? { ink: { hex } } : {}),
});
const shade = (id: string, hex: string): TreatmentRecord => ({
  kind: 'shade',
  id: `treatment-${id}`,
  on: true,
  layer: 'print-p',
  ink: { hex },
  shade: 'drop',
  angleDeg: 0,
  depthMm: 20,
  pointXMm: 0,
  pointYMm: 0,
  reachPct: 0,
  leanDeg: 0,
  meeting: 'full',
  meetingMm: 0,
});
const tone = (id: string, hex: string): TreatmentRecord => ({
  kind: 'two-tone',
  id: `treatment-${id}`,
  on: true,
  layer: 'print-p',
  ink: { hex },
  edge: 'straight',
  angleDeg: 0,
  shiftMm: 0,
  amplitudeMm: 0,
  waveMm: 10,
  phasePct: 0,
  path: '',
});
const none = () => undefined;
const pieces = (treatments: readonly TreatmentRecord[]) => {
  const item = { ...box, treatments: [...treatments] };
  return { item, own: piecesOf(item, deriveItem(item, none, 0)) };
};
/** The colour at a place of the item, as it is printed. */
const seenAt = (treatments: readonly TreatmentRecord[], x: number, y: number): string | undefined => {
  const { item, own } = pieces(treatments);
  const art = artOf(item, own, medium.hex);
  const seen = art.findLast((one) => one.kind === 'shape' && isInside(one.outline, 50 + x, 50 + y));
  return seen?.kind === 'shape' ? seen.fill?.hex : undefined;
};

describe('treatments on a print', () => {
  test('rings and shades lie under the letters, the last of them lowest, each in its own colour', () => {
    const all = [ring('a', 2, '#ffffff'), ring('b', 3, '#c00000'), shade('c', '#808080')];
    expect(pieces(all).own.map(({ treatment }) => treatment)).toEqual(['treatment-c', 'treatment-b', 'treatment-a', undefined]);
    expect([20, 41, 44, 55, 70].map((x) => seenAt(all, x, 15))).toEqual(['#102030', '#ffffff', '#c00000', '#808080', undefined]);
  });

  test('a second tone and a ring inward lie over the letters', () => {
    expect([4, 26].map((y) => seenAt([tone('t', '#00a040')], 20, y)).sort()).toEqual(['#00a040', '#102030']);
    const inward = [ring('i', -5, '#ffe000'), ring('o', 2, '#ffffff')];
    expect([20, 2, -1].map((x) => seenAt(inward, x, 15))).toEqual(['#ffe000', '#102030', '#ffffff']);
  });

  test('without a colour of its own a piece has the medium’s; set into shapes and in small pictures it has the same', () => {
    expect(seenAt([ring('a', 2, undefined)], 41, 15)).toBe('#fefefe');
    const { item } = pieces([ring('a', 2, '#c00000')]);
    expect(treatmentPaint(item, 'treatment-a', medium)).toEqual({ fill: { hex: '#c00000' } });
    expect(treatmentPaint(item, 'treatment-a', film('film-a'))).toBeUndefined();
    let drawing = run(run(emptyDrawing(), addFilm, { film: medium }), addItems, { items: [box], roots: [box.id] });
    drawing = run(drawing, setTreatments, { id: box.id, treatments: [ring('a', 2, '#c00000')] });
    const svg = drawThumbnail(drawing, (leaf) => {
      const derived = deriveItem(leaf as LeafItem, none, 0);
      return { derived, pieces: piecesOf(leaf as LeafItem, derived) };
    });
    expect(svg.indexOf('#c00000')).toBeGreaterThan(0);
    expect(svg.indexOf('#102030')).toBeGreaterThan(svg.indexOf('#c00000'));
  });

  test('its ink may have a name of its own: it is among the inks of the print it lies on, not of another, and goes to its plate', () => {
    const gold = { hex: '#c08a2e', spot: 'Old gold' };
    const treatments = [{ ...ring('a', 2, undefined), ink: gold }, ring('b', 3, '#c00000')] as TreatmentRecord[];
    const other = printLayer('print-q');
    let drawing = [medium, other].reduce((d, one) => run(d, addFilm, { film: one }), emptyDrawing());
    const inked = { ...box, paint: { fill: { hex: '#102030', spot: 'Night' } } };
    drawing = run(drawing, addItems, { items: [inked], roots: [box.id] });
    drawing = run(drawing, setTreatments, { id: box.id, treatments });
    expect(spotInksOf(drawing, medium.id).map(({ name }) => name)).toEqual(['Night', 'Old gold']);
    // the ring goes to another print than its box
    drawing = run(drawing, setTreatments, { id: box.id, treatments: [{ ...treatments[0]!, layer: other.id } as TreatmentRecord] });
    expect([medium, other].map(({ id }) => spotInksOf(drawing, id).map(({ name }) => name))).toEqual([['Night'], ['Old gold']]);
    const { item, own: ofItem } = pieces(treatments);
    expect(artOf(item, ofItem, medium.hex).map((one) => one.kind === 'shape' && one.fill)).toContainEqual(gold);
  });

  test('on films pieces stay in the order of their treatments, and those of one film are one', () => {
    const onFilm = (t: TreatmentRecord): TreatmentRecord => ({ ...t, layer: 'film-a' }) as TreatmentRecord;
    const item = { ...box, layer: 'film-b' as const, treatments: [ring('a', 2, '#ffffff'), ring('b', 3, '#c00000')].map(onFilm) };
    expect(piecesOf(item, deriveItem(item, none, 0)).map(({ layer }) => layer)).toEqual(['film-a', 'film-b']);
  });
});

describe('a treatment as it begins', () => {
  const drawn = (layer: 'film-a' | 'film-b' | 'print-p', fields: Partial<BoxItem> = {}): { drawing: Drawing; item: LeafItem } => {
    let drawing = [film('film-a'), film('film-b'), medium].reduce((d, one) => run(d, addFilm, { film: one }), emptyDrawing());
    drawing = run(drawing, addItems, { items: [{ ...box, ...fields, layer }], roots: [box.id] });
    return { drawing, item: itemOf(drawing, box.id) as LeafItem };
  };
  const begun = ({ drawing, item }: ReturnType<typeof drawn>, kind: TreatmentKind) =>
    treatmentFor(drawing, item, kind, 'treatment-n', 30) as Extract<TreatmentRecord, { layer: unknown }>;

  test('is on the film below its item’s, or on its item’s own print in a colour that is seen beside the letters', () => {
    expect(begun(drawn('film-b'), 'ring')).toMatchObject({ layer: 'film-a' });
    expect(begun(drawn('film-b'), 'ring').ink).toBeUndefined();
    expect(begun(drawn('film-a'), 'ring').layer).toBeNull();
    expect(begun(drawn('film-a'), 'two-tone').layer).toBe('film-b');
    expect(begun(drawn('print-p'), 'ring')).toMatchObject({ layer: 'print-p', ink: { hex: '#ffffff' } });
    expect(begun(drawn('print-p', { paint: { fill: { hex: '#ffffff' } } }), 'ring').ink?.hex).toBe('#17181a');
    expect(begun(drawn('print-p', { treatments: [ring('a', 2, '#ffffff')] }), 'ring').ink?.hex).toBe('#17181a');
    for (const kind of ['shade', 'two-tone'] as const) expect(begun(drawn('print-p'), kind).ink?.hex).not.toBe(medium.hex);
    expect(treatmentFor(drawn('print-p').drawing, drawn('print-p').item, 'bend', 'treatment-n', 30)).not.toHaveProperty('layer');
  });
});
