/** Core computations against plain references. Run: npm run bench */
import { Clipper, ClipType, EndType, FillRule, JoinType } from 'clipper2-ts';
import * as hb from 'harfbuzzjs';
import { readFileSync } from 'node:fs';
import { buildFilms, flattenParts, type BuildLayer } from '@lorvek/core/build';
import {
  bounds,
  boxShape,
  flatten,
  mapOutline,
  ovalShape,
  parsePath,
  polygonShape,
  thinOut,
  translation,
  weld,
  type Outline,
} from '@lorvek/core/geometry';
import { loadFont, setLettering } from '@lorvek/core/lettering';
import { evaluateTreatments, type ShadeTreatment, type Treatment } from '@lorvek/core/treatment';
import { edgeCut, orderCuts, planCut } from '@lorvek/core/cut';
import { nest } from '@lorvek/core/sheet';
import { traceImage, type Pixels } from '@lorvek/core/trace';
import { checkFilm } from '@lorvek/core/check';
import { readSvg, writeHpgl } from '@lorvek/core/format';
import ImageTracer from 'imagetracerjs';
import { SaxesParser } from 'saxes';
import { compare, leastCpuMs, leastCpuMsLater, report, type Measured } from './measure.ts';

const SCALE = 1e5;
const PROSE = 'The quick ferry leaves the inner harbour at seven and comes home with the tide. ';
const text = (length: number): string => PROSE.repeat(Math.ceil(length / PROSE.length)).slice(0, length);

const SHADE: ShadeTreatment = {
  kind: 'shade',
  shade: 'block',
  angleDeg: -45,
  depthMm: 9,
  pointXMm: 0,
  pointYMm: -200,
  reachPct: 30,
  meeting: 'full',
  meetingMm: 1,
};
const script = loadFont(readFileSync('assets/fonts/pacifico-latin-400-normal.woff'));
const block = loadFont(readFileSync('assets/fonts/anton-latin-400-normal.woff'));

/** Lettering against the shaper alone on the same text. */
function lettering(): Measured {
  const words = text(2000).replace(/(.{60}\S*) /g, '$1\n');
  const shape = (): void => {
    for (const line of words.split('\n')) {
      const buffer = new hb.Buffer();
      buffer.addText(line);
      buffer.guessSegmentProperties();
      const shaper = block.files[0]?.shaper;
      if (shaper) hb.shape(shaper, buffer);
      buffer.getGlyphInfosAndPositions();
    }
  };
  return compare(
    'Lettering of 2 000 glyphs, outlines and welds',
    () => setLettering({ text: words, font: block, capHeightMm: 40 }),
    'shaping alone',
    shape,
  );
}

/** The weld of a script line against a plain polygon union of the same flattened input by the same clipper. */
function welding(): Measured {
  const letters: Outline[] = setLettering({ text: text(200), font: script, capHeightMm: 40 })
    .letters.map((letter) => letter.outline)
    .filter((o) => o.contours.length > 0);
  const polygons = letters.flatMap((outline) =>
    flatten(outline, 0.002).map(({ xy }) =>
      Array.from({ length: xy.length / 2 }, (_, i) => ({
        x: Math.round((xy[2 * i] ?? 0) * SCALE),
        y: Math.round((xy[2 * i + 1] ?? 0) * SCALE),
      })),
    ),
  );
  return compare(
    'Weld of a 200-glyph script line, true curves',
    () => weld(letters),
    'polygon union of the same, flattened at 0.002 mm',
    () => Clipper.booleanOp(ClipType.Union, polygons, [], FillRule.NonZero),
    3,
  );
}

/** A word of twelve letters with an arch, a ring and two shades against the weld of its letters alone. */
function treating(): Measured {
  const word = (): Outline => setLettering({ text: 'Harbourfront', font: script, capHeightMm: 60 }).outline;
  const outline = word();
  const stack: Treatment[] = [
    { kind: 'ring', distanceMm: 4, corner: 'round', fill: 'backing' },
    { ...SHADE, meeting: 'full' },
    { ...SHADE, shade: 'drop', angleDeg: -60, meeting: 'flush' },
  ];
  return compare(
    'A word of twelve letters with three treatments',
    () => evaluateTreatments(outline, stack, 0.3),
    'setting and welding the word',
    word,
    5,
  );
}

/** Thinning 20 000 short lines against flattening the curves they came from. */
function thinning(): Measured {
  const outline = setLettering({ text: text(60), font: script, capHeightMm: 60 }).outline;
  const many: Outline = {
    contours: flatten(outline, 0.001).map(({ xy }) => ({
      closed: true,
      spans: Array.from({ length: xy.length / 2 }, (_, i) => {
        const j = (2 * i + 2) % xy.length;
        return [xy[2 * i] ?? 0, xy[2 * i + 1] ?? 0, xy[j] ?? 0, xy[j + 1] ?? 0];
      }),
    })),
  };
  const { nodesBefore, nodesAfter } = thinOut(many, 0.05);
  return compare(
    `Thin out of ${nodesBefore} nodes to ${nodesAfter}, 0.05 mm`,
    () => thinOut(many, 0.05),
    'flattening the curves',
    () => flatten(outline, 0.001),
    3,
  );
}

/** The cut file of 100 000 points against joining the same numbers as text. */
function cutFile(): Measured {
  const contours = Array.from({ length: 500 }, (_, k) => ({
    closed: true,
    spans: Array.from({ length: 200 }, (__, i) => {
      const p = (j: number): [number, number] => [
        30 * (k % 25) + 12 * Math.cos((j * Math.PI) / 100),
        30 * Math.floor(k / 25) + 12 * Math.sin((j * Math.PI) / 100),
      ];
      return [...p(i), ...p((i + 1) % 200)];
    }),
  }));
  const setup = { bladeOffsetMm: 0.25, overcutMm: 0, cornerDeg: 15, compensate: false };
  const write = (): Uint8Array =>
    writeHpgl(planCut([{ kind: 'film', outline: { contours }, setup }]).paths, {
      sends: 'values',
      tool: 1,
      speedMmPerS: 400,
      forceGrams: 80,
      passes: 1,
    });
  const join = (): number =>
    contours.map((c) => c.spans.map((s) => `${Math.round((s[0] ?? 0) * 40)},${Math.round((s[1] ?? 0) * 40)}`).join(',')).join(';').length;
  return compare('Cut file of 100 000 points, ordered', write, 'joining the numbers as text', join);
}

/** A drawing of 50 000 paths, about 10 MB. */
function bigSvg(): Uint8Array {
  const paths = Array.from({ length: 50_000 }, (_, i) => {
    const [x, y] = [(i % 250) * 4, Math.floor(i / 250) * 4];
    const curve = (dx: number, dy: number): string => `${(x + dx).toFixed(4)} ${(y + dy).toFixed(4)}`;
    return `<path fill="#${((i * 7919) & 0xffffff).toString(16).padStart(6, '0')}" d="M${curve(0, 1)}C${curve(0, 0.45)} ${curve(0.45, 0)} ${curve(1, 0)}S${curve(3, 0.9)} ${curve(3, 1.5)}S${curve(2.2, 3.1)} ${curve(1.4, 3.1)}S${curve(0, 2)} ${curve(0, 1)}Z"/>`;
  });
  return Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="1000mm" height="800mm" viewBox="0 0 1000 800">${paths.join('\n')}</svg>`,
  );
}

/** Reading it against the XML parser alone over the same bytes. */
async function reading(): Promise<Measured> {
  const bytes = bigSvg();
  const ms = await leastCpuMsLater(() => readSvg(bytes), 3);
  const text = bytes.toString();
  const referenceMs = await leastCpuMsLater(() => {
    const parser = new SaxesParser({ xmlns: true });
    parser.write(text).close();
  }, 3);
  return { name: 'SVG of 50 000 paths read', ms, reference: 'parsing it as XML alone', referenceMs, ratio: ms / referenceMs };
}

/** Cut check of 100 000 nodes against flattening the same outlines. */
function checking(): Measured {
  const parts = Array.from({ length: 1000 }, (_, i) => {
    const spans = Array.from({ length: 100 }, (_u, k) => {
      const p = (n: number): [number, number] => [
        (i % 40) * 60 + 20 * Math.cos((n * Math.PI) / 50) * (1 + 0.1 * Math.sin((n * Math.PI) / 5)),
        Math.floor(i / 40) * 60 + 20 * Math.sin((n * Math.PI) / 50),
      ];
      return [...p(k), ...p((k + 1) % 100)];
    });
    return { id: `p${i}`, name: `Part ${i}`, outline: { contours: [{ closed: true, spans }] } };
  });
  return compare(
    'Cut check of 100 000 nodes, with the film’s limits',
    () => checkFilm(parts, { smallestPartMm: 2, thinnestMm: 0.8 }),
    'flattening them',
    () => parts.map(({ outline }) => flatten(outline, 0.01)),
    3,
  );
}

/** Some colours on a square of pixels: discs in rows over stripes, with soft edges, noise over all. */
function discs(side: number, { colours, noise = 0 }: { colours: number; noise?: number }): Pixels {
  const palette = Array.from({ length: colours }, (_, k) => [(k * 83) % 256, (k * 149 + 40) % 256, (k * 61 + 90) % 256] as const);
  const grounds = Math.max(1, Math.floor(colours / 4));
  const data = new Uint8ClampedArray(side * side * 4).fill(255);
  const cell = side / 8;
  let seed = 1;
  const random = (): number => (seed = (seed * 1664525 + 1013904223) % 2 ** 32) / 2 ** 32 - 0.5;
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const [u, v] = [Math.floor(x / cell), Math.floor(y / cell)];
      const ground = palette[Math.floor(y / (side / 4)) % grounds] ?? [255, 255, 255];
      const top = palette[grounds + ((u + 3 * v) % (colours - grounds))] ?? [0, 0, 0];
      const inside = cell * 0.38 - Math.hypot(x + 0.5 - (u + 0.5) * cell, y + 0.5 - (v + 0.5) * cell);
      const share = Math.min(1, Math.max(0, inside + 0.5));
      for (let c = 0; c < 3; c++)
        data[4 * (y * side + x) + c] = (ground[c] ?? 0) * (1 - share) + (top[c] ?? 0) * share + noise * (random() + random());
    }
  return { width: side, height: side, data };
}

const TRACED = { mode: 'colours', stacking: 'inlaid' } as const;

/** Most bytes a pixel and colour that tracing holds besides the picture, rubbish included, asked whenever it tells its progress. */
async function traceMemory(name: string, side: number, { colours, noise }: { colours: number; noise?: number }): Promise<Measured> {
  const picture = discs(side, { colours, ...(noise === undefined ? {} : { noise }) });
  const held = (): number => process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
  // what others left is not counted
  globalThis.gc?.();
  const before = held();
  let most = 0;
  const { layers, ground } = await traceImage(picture, TRACED, { onProgress: () => (most = Math.max(most, held() - before)) });
  const found = layers.length + (ground === undefined ? 0 : 1);
  if (found !== colours) throw new Error(`${name}: ${found} colours were found.`);
  const ms = most / (side * side * colours);
  return { name, ms, reference: 'what is allowed', unit: 'bytes a pixel and colour', referenceMs: 12, ratio: ms / 12 };
}

/** Tracing four megapixels against a general tracing library on the same picture, and what it takes of memory. */
async function tracing(): Promise<Measured[]> {
  const picture = discs(2000, { colours: 12 });
  const ms = await leastCpuMsLater(() => traceImage(picture, TRACED), 1);
  const referenceMs = await leastCpuMsLater(
    () => ImageTracer.imagedataToTracedata(picture, { numberofcolors: 12, colorsampling: 2, colorquantcycles: 3 }),
    1,
  );
  return [
    {
      name: 'Tracing of 4 megapixels in 12 colours',
      ms,
      reference: 'a general tracing library, told the number',
      referenceMs,
      ratio: ms / referenceMs,
    },
    await traceMemory('Its memory', 2000, { colours: 12 }),
    await traceMemory('Memory of 4 megapixels in 2 colours', 2000, { colours: 2 }),
    await traceMemory('Memory of 4 noisy megapixels in 2 colours', 2000, { colours: 2, noise: 14 }),
    await traceMemory('Memory of 40 noisy megapixels in 2 colours', 6330, { colours: 2, noise: 14 }),
  ];
}

/** So many different parts of 60 nodes. */
const wavyParts = (count: number): { id: string; outline: Outline }[] =>
  Array.from({ length: count }, (_, i) => {
    const points = Array.from({ length: 60 }, (_point, k) => {
      const reach = (20 + (i % 7) * 4) * (k % 2 === 0 ? 1 : 0.7 + 0.05 * (i % 5));
      return `${(reach * Math.cos((k * Math.PI) / 30)).toFixed(3)} ${(reach * Math.sin((k * Math.PI) / 30)).toFixed(3)}`;
    });
    return { id: String(i), outline: parsePath(`M${points.join('L')}Z`) };
  });

const boxesOf = (parts: readonly { readonly id: string; readonly outline: Outline }[]) =>
  parts.map(({ id, outline }) => {
    const { minX, minY, maxX, maxY } = bounds(outline);
    return { id, outline: boxShape(maxX - minX, maxY - minY) };
  });

/** The first layout of 300 parts of 60 nodes, against their boxes. */
async function firstLayout(): Promise<Measured> {
  const parts = wavyParts(300);
  const boxes = boxesOf(parts);
  const problem = { widthMm: 1200, gapMm: 3, turnStepDeg: 90, intoHoles: false };
  const ms = await leastCpuMsLater(() => nest({ ...problem, parts }, { budgetMs: 0 }), 2);
  const referenceMs = await leastCpuMsLater(() => nest({ ...problem, parts: boxes }, { budgetMs: 0 }), 2);
  return { name: 'First layout of 300 parts of 60 nodes', ms, reference: 'nesting their boxes', referenceMs, ratio: ms / referenceMs };
}

/** Most MB that nesting 2 000 parts of 60 nodes holds, rubbish included, asked whenever it tells its progress. */
async function nestMemory(): Promise<Measured> {
  const parts = wavyParts(2000);
  const held = (): number => process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers;
  globalThis.gc?.();
  const before = held();
  let most = 0;
  const look = (): void => void (most = Math.max(most, held() - before));
  await nest({ parts, widthMm: 1200, gapMm: 3, turnStepDeg: 90, intoHoles: false }, { budgetMs: 20_000, onBetter: look, onProgress: look });
  look();
  const ms = most / 1e6;
  return {
    name: 'Memory of nesting 2 000 parts of 60 nodes',
    ms,
    reference: 'what is allowed',
    unit: 'MB',
    referenceMs: 500,
    ratio: ms / 500,
  };
}

/** Ordering 500 contours, against ordering by the next nearest alone, which is what no steps of the search leave. */
function ordering(): Measured {
  const shapes = Array.from({ length: 500 }, (_, i) =>
    mapOutline(translation(((i * 7919) % 1009) * 1.2, ((i * 104_729) % 613) * 1.1), boxShape(8, 8)),
  );
  const ms = leastCpuMs(() => orderCuts(shapes), 3);
  const referenceMs = leastCpuMs(() => orderCuts(shapes, {}, { budgetMs: 0 }), 3);
  return { name: 'Cutting order of 500 contours', ms, reference: 'the nearest next, starts chosen', referenceMs, ratio: ms / referenceMs };
}

/** One go at nesting sixty corners in quarter turns, against their boxes. */
async function nesting(): Promise<Measured> {
  const corner = parsePath('M0 0L100 0L100 20L20 20L20 100L0 100Z');
  const problem = { widthMm: 600, gapMm: 3, turnStepDeg: 90, intoHoles: false };
  const once = { budgetMs: 0 };
  const [real, boxes] = [
    { id: 'corner', outline: corner, copies: 60 },
    { id: 'box', outline: boxShape(100, 100), copies: 60 },
  ];
  const ms = await leastCpuMsLater(() => nest({ ...problem, parts: [real] }, once), 3);
  const referenceMs = await leastCpuMsLater(() => nest({ ...problem, parts: [boxes] }, once), 3);
  return { name: 'Nesting of 60 corners, one order', ms, reference: 'nesting their boxes', referenceMs, ratio: ms / referenceMs };
}

/** Three hundred parts in twelve films, every other let in, against the plain union of the same outlines by the same clipper. */
function building(): Measured {
  let seed = 7;
  const lot = (): number => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647;
  const shape = (): Outline => (lot() < 0.5 ? ovalShape(20 + 80 * lot(), 20 + 80 * lot()) : boxShape(20 + 80 * lot(), 20 + 80 * lot()));
  const layersOf = (shift: number): BuildLayer[] =>
    Array.from({ length: 12 }, (_, k) => ({
      film: `film-${k}`,
      name: '',
      build: k % 2 === 1 ? 'inlay' : 'overlay',
      trapMm: 0,
      leftOut: false,
      parts: Array.from({ length: 25 }, (_part, i) => ({
        id: `${i}`,
        name: '',
        outline: mapOutline(translation(shift + 800 * lot(), 400 * lot()), shape()),
      })),
    }));
  // other drawings each time: what was built before does not help
  const drawings = Array.from({ length: 12 }, (_, i) => layersOf(i));
  let next = 0;
  return compare(
    'Building 300 parts in 12 films',
    () => buildFilms(drawings[next++ % drawings.length] ?? []),
    'the union of the parts',
    () => weld((drawings[next++ % drawings.length] ?? []).flatMap(({ parts }) => parts.map(({ outline }) => outline))),
  );
}

/** A closed curve through points round a middle, as many as there are lots for. */
function blob(nodes: number, sizeMm: number, lot: () => number): Outline {
  const points = Array.from({ length: nodes }, (_, i): [number, number] => {
    const [angle, reach] = [(2 * Math.PI * i) / nodes, sizeMm * (0.6 + 0.4 * lot())];
    return [reach * Math.cos(angle), reach * Math.sin(angle)];
  });
  const at = (i: number): [number, number] => points[(i + nodes) % nodes] ?? [0, 0];
  const spans = points.map((_, i) => {
    const [[ax, ay], [bx, by], [cx, cy], [dx, dy]] = [at(i - 1), at(i), at(i + 1), at(i + 2)];
    return [bx, by, bx + (cx - ax) / 6, by + (cy - ay) / 6, cx - (dx - bx) / 6, cy - (dy - by) / 6, cx, cy];
  });
  return { contours: [{ closed: true, spans }] };
}

const lots = (seed: number) => (): number => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647;

/** A thousand parts in twelve colours, five deep, flattened, against the plain union of them. */
function flattening(): Measured {
  const lot = lots(11);
  const parts = Array.from({ length: 1000 }, () => ({
    key: `c${Math.floor(12 * lot())}`,
    outline: mapOutline(
      translation(400 * lot(), 240 * lot()),
      lot() < 0.5 ? blob(12, 8 + 14 * lot(), lot) : boxShape(10 + 30 * lot(), 10 + 30 * lot()),
    ),
  }));
  return compare(
    'Flattening 1 000 parts in 12 colours, five deep',
    () => flattenParts(parts),
    'the union of the parts',
    () => weld(parts.map(({ outline }) => outline)),
    2,
  );
}

/** Edge cuts round two hundred outlines of twenty-four straight sides, against growing polygons by the clipper. */
function edgeCuts(): Measured {
  const lot = lots(5);
  const outlines = Array.from({ length: 200 }, () => polygonShape(12, 20 + 5 * lot(), 12 + 5 * lot()));
  const options = { shape: 'follow', distanceMm: 2 } as const;
  return compare(
    'Edge cuts round 200 outlines of 24 sides',
    () => outlines.map((one) => edgeCut([one], options)),
    'growing them as polygons',
    () =>
      outlines.map((one) =>
        Clipper.inflatePaths(
          flatten(one, 0.002).map(({ xy }) =>
            Array.from({ length: xy.length / 2 }, (_, i) => ({
              x: Math.round((xy[2 * i] ?? 0) * SCALE),
              y: Math.round((xy[2 * i + 1] ?? 0) * SCALE),
            })),
          ),
          2 * SCALE,
          JoinType.Round,
          EndType.Polygon,
          2,
          0.002 * SCALE,
        ),
      ),
    2,
  );
}

// first, while there is no other work's rubbish in memory
const traced = await tracing();
report([
  lettering(),
  welding(),
  building(),
  flattening(),
  edgeCuts(),
  treating(),
  thinning(),
  checking(),
  cutFile(),
  ordering(),
  await reading(),
  await nesting(),
  await firstLayout(),
  await nestMemory(),
  ...traced,
]);
