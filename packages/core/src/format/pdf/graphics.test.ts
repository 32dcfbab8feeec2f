/** What a page draws, against a small reader of its own: places, colours, widths and clips through any nesting of states. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { area, bounds, compose, IDENTITY, mapBox, mapPoint, type Box, type Matrix, type Point } from '../../geometry/index.ts';
import { readPdf } from './read-pdf.ts';

const PT = 25.4 / 72;
const [WIDTH, HEIGHT] = [600, 400];

/** A file of one page that draws this. */
function page(content: string): Uint8Array {
  const parts = [
    '1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj',
    '2 0 obj<</Type/Pages/Count 1/Kids[3 0 R]>>endobj',
    `3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 ${WIDTH} ${HEIGHT}]/Contents 4 0 R/Resources<<>>>>endobj`,
    `4 0 obj<</Length ${content.length}>>stream\n${content}\nendstream endobj`,
  ];
  return Buffer.from(`%PDF-1.6\n${parts.join('\n')}\ntrailer<</Root 1 0 R/Size 5>>\n%%EOF`, 'latin1');
}

type Step =
  | { readonly op: 'save'; readonly body: readonly Step[] }
  | { readonly op: 'map'; readonly map: Matrix }
  | { readonly op: 'fill' | 'stroke'; readonly rgb: readonly [number, number, number] }
  | { readonly op: 'width'; readonly pt: number }
  | { readonly op: 'path'; readonly points: readonly Point[]; readonly paint: 'f' | 'S' | 's' };

const n = (v: number): string => String(Number(v.toFixed(5)));
const contentOf = (steps: readonly Step[]): string =>
  steps
    .map((step): string => {
      switch (step.op) {
        case 'save':
          return `q\n${contentOf(step.body)}\nQ`;
        case 'map':
          return `${step.map.map(n).join(' ')} cm`;
        case 'fill':
          return `${step.rgb.map((v) => n(v / 255)).join(' ')} rg`;
        case 'stroke':
          return `${step.rgb.map((v) => n(v / 255)).join(' ')} RG`;
        case 'width':
          return `${n(step.pt)} w`;
        case 'path':
          return `${step.points.map(({ x, y }, i) => `${n(x)} ${n(y)} ${i === 0 ? 'm' : 'l'}`).join(' ')} ${step.paint}`;
      }
    })
    .join('\n');

interface Drawn {
  readonly box: Box;
  readonly areaPt2: number;
  readonly fill?: string;
  readonly stroke?: { readonly hex: string; readonly widthPt: number };
}
interface State {
  map: Matrix;
  fill: string;
  stroke: string;
  width: number;
}
const hexOf = (rgb: readonly number[]): string => `#${rgb.map((v) => v.toString(16).padStart(2, '0')).join('')}`;

/** What should come of it, in points. */
function drawnBy(steps: readonly Step[], state: State, out: Drawn[] = []): Drawn[] {
  for (const step of steps) {
    if (step.op === 'save') drawnBy(step.body, { ...state }, out);
    else if (step.op === 'map') state.map = compose(state.map, step.map);
    else if (step.op === 'width') state.width = step.pt;
    else if (step.op !== 'path') state[step.op] = hexOf(step.rgb);
    else {
      const points = step.points.map((p) => mapPoint(state.map, p));
      const [xs, ys] = [points.map(({ x }) => x), points.map(({ y }) => y)];
      const twice = points.reduce(
        (sum, p, i) => sum + p.x * points[(i + 1) % points.length]!.y - points[(i + 1) % points.length]!.x * p.y,
        0,
      );
      out.push({
        box: { minX: Math.min(...xs), minY: Math.min(...ys), maxX: Math.max(...xs), maxY: Math.max(...ys) },
        areaPt2: Math.abs(twice / 2),
        ...(step.paint === 'f'
          ? { fill: state.fill }
          : { stroke: { hex: state.stroke, widthPt: state.width * Math.hypot(state.map[0], state.map[1]) } }),
      });
    }
  }
  return out;
}

const anyRgb = fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255));
/** Turned, sized and moved, alike along and across. */
const anyMap = fc
  .record({
    turn: fc.double({ min: 0, max: 6.3, noNaN: true }),
    size: fc.double({ min: 0.5, max: 1.6, noNaN: true }),
    x: fc.integer({ min: -40, max: 80 }),
    y: fc.integer({ min: -40, max: 80 }),
  })
  .map(({ turn, size, x, y }): Matrix => {
    const [c, s] = [Number((size * Math.cos(turn)).toFixed(5)), Number((size * Math.sin(turn)).toFixed(5))];
    return [c, s, -s, c, x, y];
  });
const anyPoint = fc.record({ x: fc.integer({ min: 0, max: 200 }), y: fc.integer({ min: 0, max: 200 }) });
/** Three corners that span something. */
const anyTriangle = fc
  .tuple(anyPoint, fc.integer({ min: 15, max: 90 }), fc.integer({ min: 15, max: 90 }))
  .map(([{ x, y }, w, h]): Point[] => [
    { x, y },
    { x: x + w, y: y + h / 3 },
    { x: x + w / 4, y: y + h },
  ]);
const { steps: anySteps } = fc.letrec<{ steps: Step[] }>((tie) => ({
  steps: fc.array(
    fc.oneof(
      { depthSize: 'small', maxDepth: 3 },
      fc.record({
        op: fc.constant('path' as const),
        points: anyTriangle,
        paint: fc.constantFrom('f' as const, 'S' as const, 's' as const),
      }),
      fc.record({ op: fc.constant('map' as const), map: anyMap }),
      fc.record({ op: fc.constantFrom('fill' as const, 'stroke' as const), rgb: anyRgb }),
      fc.record({ op: fc.constant('width' as const), pt: fc.integer({ min: 1, max: 12 }) }),
      tie('steps').map((body): Step => ({ op: 'save', body })),
    ),
    { maxLength: 7 },
  ),
}));

describe('a page of a PDF', () => {
  test('shows what it draws where, in the colour and width of the state it is drawn in', async () => {
    await fc.assert(
      fc.asyncProperty(anySteps, async (steps) => {
        const wanted = drawnBy(steps, { map: IDENTITY, fill: '#000000', stroke: '#000000', width: 1 });
        const { items, widthMm, heightMm } = await readPdf(page(contentOf(steps)));
        expect([widthMm, heightMm]).toEqual([expect.closeTo(WIDTH * PT, 3), expect.closeTo(HEIGHT * PT, 3)]);
        expect(items).toHaveLength(wanted.length);
        for (const [i, { box, areaPt2, fill, stroke }] of wanted.entries()) {
          const item = items[i]!;
          const found = bounds(item.outline);
          for (const side of ['minX', 'minY', 'maxX', 'maxY'] as const) expect(Math.abs(found[side] - box[side] * PT)).toBeLessThan(0.02);
          expect(item.fill).toBe(fill);
          if (fill !== undefined) expect(Math.abs(Math.abs(area(item.outline)) - areaPt2 * PT * PT)).toBeLessThan(0.01 * areaPt2 + 0.1);
          expect(item.stroke?.hex).toBe(stroke?.hex);
          if (stroke) expect(Math.abs(item.stroke!.widthMm - stroke.widthPt * PT)).toBeLessThan(0.01);
        }
      }),
      { numRuns: 60 },
    );
  });

  test('clips on clips leave what lies in all of them, and end with the state they were set in', async () => {
    const anyBox = fc.record({
      x: fc.integer({ min: 0, max: 150 }),
      y: fc.integer({ min: 0, max: 150 }),
      w: fc.integer({ min: 20, max: 150 }),
      h: fc.integer({ min: 20, max: 150 }),
    });
    const quarter = fc.constantFrom<Matrix>([1, 0, 0, 1, 30, 20], [0, 1, -1, 0, 200, 10], [1, 0, 0, 1, 0, 0]);
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(quarter, anyBox), { minLength: 1, maxLength: 3 }), anyBox, async (clips, filled) => {
        const rect = ({ x, y, w, h }: typeof filled): string => `${x} ${y} ${w} ${h} re`;
        const boxOf = ({ x, y, w, h }: typeof filled): Box => ({ minX: x, minY: y, maxX: x + w, maxY: y + h });
        const content = `q ${clips.map(([map, box]) => `${map.join(' ')} cm ${rect(box)} W n`).join(' ')} ${rect(filled)} f Q 500 300 50 50 re f`;
        let [map, left]: [Matrix, Box] = [IDENTITY, { minX: -1e6, minY: -1e6, maxX: 1e6, maxY: 1e6 }];
        const within = (a: Box, b: Box): Box => ({
          minX: Math.max(a.minX, b.minX),
          minY: Math.max(a.minY, b.minY),
          maxX: Math.min(a.maxX, b.maxX),
          maxY: Math.min(a.maxY, b.maxY),
        });
        for (const [own, box] of clips) {
          map = compose(map, own);
          left = within(left, mapBox(map, boxOf(box)));
        }
        // what lies beyond the page is no clip: the page shows what is drawn
        const shown = within(left, mapBox(map, boxOf(filled)));
        const wanted = Math.max(0, shown.maxX - shown.minX) * Math.max(0, shown.maxY - shown.minY) * PT * PT;
        const { items } = await readPdf(page(content));
        const areas = items.map(({ outline }) => Math.abs(area(outline)));
        expect(areas.at(-1)).toBeCloseTo(50 * 50 * PT * PT, 1);
        const found = areas.slice(0, -1).reduce((sum, one) => sum + one, 0);
        expect(Math.abs(found - wanted)).toBeLessThan(0.05 + 0.001 * wanted);
      }),
      { numRuns: 60 },
    );
  });
});
