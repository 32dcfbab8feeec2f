/** Core computations against plain references. Run: npm run bench */
import { Clipper, ClipType, FillRule } from 'clipper2-ts';
import * as hb from 'harfbuzzjs';
import { readFileSync } from 'node:fs';
import { flatten, thinOut, weld, type Outline } from '@lorvek/core/geometry';
import { loadFont, setLettering } from '@lorvek/core/lettering';
import { evaluateTreatments, type ShadeTreatment, type Treatment } from '@lorvek/core/treatment';
import { planCut } from '@lorvek/core/cut';
import { writeHpgl } from '@lorvek/core/format';
import { compare, report, type Measured } from './measure.ts';

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
    writeHpgl(planCut({ contours }, { contours: [] }, setup).paths, {
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

report([lettering(), welding(), treating(), thinning(), cutFile()]);
