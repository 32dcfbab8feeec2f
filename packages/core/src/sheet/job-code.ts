/**
 * What a camera and a person read on a sheet: a Data Matrix (ISO/IEC 16022, ECC 200) or QR code (ISO/IEC 18004), made by
 * bwip-js, and plain letters of one stroke.
 * Both as outlines to be printed, mm, the lower left corner at the origin.
 */
import bwipjs from 'bwip-js/generic';
import { LRUCache } from 'lru-cache';
import type { Outline, Span } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { strokeToShape } from '../geometry/offset/stroke-to-shape.ts';
import { joinOutlines, polygon } from '../geometry/outline.ts';
import { mapOutline, translation } from '../geometry/transform.ts';
import { ringsRound } from './raster.ts';

interface Modules {
  readonly pixs: readonly number[];
  readonly pixx: number;
  readonly pixy: number;
}

/**
 * @param text up to 60 letters and figures
 * @param moduleMm side of one dark square
 * @returns the dark squares as one outline
 * @throws InputError `input.code`
 */
export function jobCode(text: string, moduleMm: number, kind: 'data-matrix' | 'qr' = 'data-matrix'): { outline: Outline; sizeMm: number } {
  if (!/^[\x20-\x7e]{1,60}$/.test(text)) throw new InputError('code', 'A job code holds 1 to 60 plain letters and figures.');
  const [modules] = bwipjs.raw({ bcid: kind === 'qr' ? 'qrcode' : 'datamatrix', text }) as unknown as Modules[];
  if (!modules) throw new InputError('code', 'The job code could not be made.');
  const { pixs, pixx, pixy } = modules;
  // rows of the code come from above
  const cells = Uint8Array.from({ length: pixx * pixy }, (_, i) => pixs[(pixy - 1 - (i % pixy)) * pixx + Math.floor(i / pixy)] ?? 0);
  const rings = ringsRound({ column: 0, row: 0, columns: pixx, rows: pixy, cells }, moduleMm);
  return { outline: { contours: rings.map(({ xy }) => polygon(xy)) }, sizeMm: pixx * moduleMm };
}

/** Figures and letters drawn with one stroke on a field of 4 by 6, from the lower left. */
const FIGURES: Readonly<Record<string, readonly (readonly number[])[]>> = {
  '0': [[0, 1, 1, 0, 3, 0, 4, 1, 4, 5, 3, 6, 1, 6, 0, 5, 0, 1]],
  '1': [[1, 5, 2, 6, 2, 0]],
  '2': [[0, 5, 1, 6, 3, 6, 4, 5, 4, 4, 0, 0, 4, 0]],
  '3': [[0, 6, 4, 6, 2, 3.5, 3, 3.5, 4, 2.5, 4, 1, 3, 0, 1, 0, 0, 1]],
  '4': [[3, 0, 3, 6, 0, 2, 4, 2]],
  '5': [[4, 6, 0, 6, 0, 3.5, 3, 3.5, 4, 2.5, 4, 1, 3, 0, 0, 0]],
  '6': [[3, 6, 1, 6, 0, 4, 0, 1, 1, 0, 3, 0, 4, 1, 4, 2.5, 3, 3.5, 0, 3.5]],
  '7': [[0, 6, 4, 6, 1, 0]],
  '8': [[1, 3.2, 0, 4.2, 0, 5, 1, 6, 3, 6, 4, 5, 4, 4.2, 3, 3.2, 1, 3.2, 0, 2.2, 0, 1, 1, 0, 3, 0, 4, 1, 4, 2.2, 3, 3.2]],
  '9': [[4, 2.5, 1, 2.5, 0, 3.5, 0, 5, 1, 6, 3, 6, 4, 5, 4, 2, 3, 0, 1, 0]],
  '-': [[1, 3, 3, 3]],
  A: [
    [0, 0, 2, 6, 4, 0],
    [0.7, 2, 3.3, 2],
  ],
  B: [
    [0, 0, 0, 6, 3, 6, 4, 5, 4, 4, 3, 3.2, 0, 3.2],
    [3, 3.2, 4, 2.4, 4, 1, 3, 0, 0, 0],
  ],
  C: [[4, 5, 3, 6, 1, 6, 0, 5, 0, 1, 1, 0, 3, 0, 4, 1]],
  D: [[0, 0, 0, 6, 2.5, 6, 4, 4.5, 4, 1.5, 2.5, 0, 0, 0]],
  E: [
    [4, 6, 0, 6, 0, 0, 4, 0],
    [0, 3.2, 3, 3.2],
  ],
  F: [
    [4, 6, 0, 6, 0, 0],
    [0, 3.2, 3, 3.2],
  ],
  G: [[4, 5, 3, 6, 1, 6, 0, 5, 0, 1, 1, 0, 3, 0, 4, 1, 4, 3, 2.4, 3]],
  H: [
    [0, 0, 0, 6],
    [4, 0, 4, 6],
    [0, 3.2, 4, 3.2],
  ],
  I: [[2, 0, 2, 6]],
  J: [[0, 1, 1, 0, 2, 0, 3, 1, 3, 6]],
  K: [
    [0, 0, 0, 6],
    [4, 6, 0, 2.6],
    [1.4, 3.8, 4, 0],
  ],
  L: [[0, 6, 0, 0, 4, 0]],
  M: [[0, 0, 0, 6, 2, 3, 4, 6, 4, 0]],
  N: [[0, 0, 0, 6, 4, 0, 4, 6]],
  O: [[1, 0, 0, 1, 0, 5, 1, 6, 3, 6, 4, 5, 4, 1, 3, 0, 1, 0]],
  P: [[0, 0, 0, 6, 3, 6, 4, 5, 4, 4, 3, 3, 0, 3]],
  Q: [
    [1, 0, 0, 1, 0, 5, 1, 6, 3, 6, 4, 5, 4, 1, 3, 0, 1, 0],
    [2.4, 1.6, 4, 0],
  ],
  R: [
    [0, 0, 0, 6, 3, 6, 4, 5, 4, 4, 3, 3, 0, 3],
    [2, 3, 4, 0],
  ],
  S: [[4, 5, 3, 6, 1, 6, 0, 5, 0, 4, 1, 3.2, 3, 2.8, 4, 2, 4, 1, 3, 0, 1, 0, 0, 1]],
  T: [
    [0, 6, 4, 6],
    [2, 6, 2, 0],
  ],
  U: [[0, 6, 0, 1, 1, 0, 3, 0, 4, 1, 4, 6]],
  V: [[0, 6, 2, 0, 4, 6]],
  W: [[0, 6, 1, 0, 2, 4, 3, 0, 4, 6]],
  X: [
    [0, 0, 4, 6],
    [0, 6, 4, 0],
  ],
  Y: [
    [0, 6, 2, 3, 4, 6],
    [2, 3, 2, 0],
  ],
  Z: [[0, 6, 4, 6, 0, 0, 4, 0]],
  '/': [[0, 0, 4, 6]],
  '.': [[2, 0, 2, 0.4]],
  '↑': [
    [2, 0, 2, 6],
    [0.4, 4.2, 2, 6, 3.6, 4.2],
  ],
};

/** Width of a letter with its space, and of its stroke, in heights: a letter is two thirds of a height wide. */
const LETTER_WIDTH = 5.5 / 6;
const STROKE = 0.16;

/**
 * Length of a text in plain letters, mm.
 * @param heightMm of capitals
 */
export const lettersLength = (text: string, heightMm: number): number => Array.from(text).length * LETTER_WIDTH * heightMm;

/**
 * Figures, capitals and a few signs as open lines; accents are left off, anything else leaves a space.
 * @param heightMm of capitals
 * @returns from the origin to the right, y up, to be drawn by a pen
 */
export function plainStrokes(text: string, heightMm: number): Outline {
  const k = heightMm / 6;
  const plain = text.normalize('NFD').replace(/\p{M}/gu, '').toUpperCase();
  const contours = Array.from(plain).flatMap((c, i) =>
    (FIGURES[c] ?? []).map((points) => {
      const spans: Span[] = [];
      const at = (n: number, shift: number): number => ((points[n] as number) + shift) * k;
      for (let n = 2; n < points.length; n += 2) spans.push([at(n - 2, i * 5.5), at(n - 1, 0), at(n, i * 5.5), at(n + 1, 0)]);
      return { closed: false, spans };
    }),
  );
  return { contours };
}

/** Letters that were drawn, by sign and height: every sheet of a job bears some. */
const drawn = new LRUCache<string, Outline>({ max: 500 });

function letterShape(sign: string, heightMm: number): Outline {
  const key = `${sign} ${heightMm}`;
  let shape = drawn.get(key);
  if (!shape) {
    const lines = plainStrokes(sign, heightMm);
    shape = lines.contours.length === 0 ? lines : strokeToShape(lines, { width: STROKE * heightMm, cap: 'round', join: 'round' });
    drawn.set(key, shape);
  }
  return shape;
}

/**
 * The same as shapes, to be printed; letters do not touch one another.
 * @param heightMm of capitals
 */
export function plainLetters(text: string, heightMm: number): Outline {
  return joinOutlines(
    Array.from(text).map((sign, i) => mapOutline(translation(i * LETTER_WIDTH * heightMm, 0), letterShape(sign, heightMm))),
  );
}
