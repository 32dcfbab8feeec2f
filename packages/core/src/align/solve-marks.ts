/**
 * Registration: from marks that were printed at known places and found at others, the map that brings the cut onto the
 * print. Models from stiff to yielding, each fitted by least squares:
 *   similarity  shift, turn, one scale (4 numbers)
 *   affine      also two scales and skew (6)
 *   bow         affine, and a parabola along the length: paper that drifts sideways as it is fed (8)
 *   projective  a camera or a frame that is not level (8; direct linear transform, Hartley & Zisserman 2003, section 4.1)
 *   segments    affine, and a natural cubic spline along the length through the rows of marks: uneven feed (6 + 2 a row
 *               beyond two)
 * Which one: the least of what is left over noise squared, plus a price a number (after Akaike 1974, with a higher
 * price, for a model too many costs between the marks what it wins on them). A mark may be left out at the price of
 * its two numbers: then it was misread. With four marks nobody can tell a misread from perspective; `doubtful` says so.
 * Units mm. Nominal and measured places in any two frames. Not handled: marks that were exchanged for one another.
 */
import type { Point } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { leastSquares } from './least-squares.ts';

/** How a print may differ from its drawing. */
export type CorrectionModel = 'similarity' | 'affine' | 'bow' | 'projective' | 'segments';

/** Where nominal places are counted from: their middle, and a length that brings them near one. */
interface Frame {
  readonly x: number;
  readonly y: number;
  readonly size: number;
  /** The length runs along y. */
  readonly upright: boolean;
  /** First and last place along the length, and the rows of marks between, from 0 to 1. */
  readonly from: number;
  readonly to: number;
  readonly rows: readonly number[];
}

/** The map from the drawing to the print, and how well it explains the marks. */
export interface Correction {
  readonly model: CorrectionModel;
  readonly frame: Frame;
  /** Coefficients of both coordinates; of the projective model the eight of its matrix and none. */
  readonly x: readonly number[];
  readonly y: readonly number[];
  /** Distance of each mark from where the correction puts it, mm. */
  readonly residualsMm: readonly number[];
  /** Index of the mark with the greatest residual. */
  readonly worst: number;
  /** Index of a mark that was misread, and is left out. */
  readonly outlier?: number;
  /** What is left is more than noise, or too few marks tell why it was: look before cutting. */
  readonly doubtful: boolean;
}

/** Which model is taken, and how exactly marks are found. */
export interface SolveOptions {
  readonly model?: 'auto' | CorrectionModel;
  /** How exactly a mark is found, mm (standard deviation). */
  readonly noiseMm?: number;
}

const NOISE_MM = 0.05;
/** Price of a number of a model, in squares of the noise. */
const PRICE = 6;
/** A misread mark costs more than its two numbers: that one was misread is the rarer story. */
const MISREAD_PRICE = 4 * PRICE;
/** Residuals beyond so many times the noise are no noise. */
const DOUBTFUL = 4;
/** Marks nearer along the length than this share of it stand in one row. */
const ONE_ROW = 0.02;

function frameOf(points: readonly Point[]): Frame {
  const xs = points.map((p) => p.x);
  const ys = points.map((p) => p.y);
  const [minX, maxX, minY, maxY] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const upright = maxY - minY > maxX - minX;
  const [from, to] = upright ? [minY, maxY] : [minX, maxX];
  const along = (upright ? ys : xs).map((v) => (v - from) / (to - from || 1)).sort((a, b) => a - b);
  const rows = along.reduce<number[]>((list, u) => (list.length > 0 && u - (list.at(-1) ?? 0) < ONE_ROW ? list : [...list, u]), []);
  return { x: (minX + maxX) / 2, y: (minY + maxY) / 2, size: Math.max(maxX - minX, maxY - minY) / 2 || 1, upright, from, to, rows };
}

/** Second derivatives of the natural cubic spline through values at knots (Press et al., Numerical Recipes, section 3.3). */
function splineBends(knots: readonly number[], values: readonly number[]): number[] {
  const n = knots.length;
  const bends = new Array<number>(n).fill(0);
  const u = new Array<number>(n).fill(0);
  const at = (list: readonly number[], i: number): number => list[i] ?? 0;
  for (let i = 1; i < n - 1; i++) {
    const [before, after] = [at(knots, i) - at(knots, i - 1), at(knots, i + 1) - at(knots, i)];
    const sig = before / (before + after);
    const p = sig * at(bends, i - 1) + 2;
    bends[i] = (sig - 1) / p;
    const slope = (at(values, i + 1) - at(values, i)) / after - (at(values, i) - at(values, i - 1)) / before;
    u[i] = ((6 * slope) / (before + after) - sig * at(u, i - 1)) / p;
  }
  bends[n - 1] = 0;
  for (let i = n - 2; i >= 0; i--) bends[i] = at(bends, i) * at(bends, i + 1) + at(u, i);
  bends[0] = 0;
  return bends;
}

function splineAt(knots: readonly number[], values: readonly number[], bends: readonly number[], t: number): number {
  const at = (list: readonly number[], i: number): number => list[i] ?? 0;
  let i = 0;
  while (i < knots.length - 2 && t > at(knots, i + 1)) i++;
  const h = at(knots, i + 1) - at(knots, i);
  const a = (at(knots, i + 1) - t) / h;
  const b = 1 - a;
  // beyond the ends it runs on straight
  if (t < at(knots, 0) || t > at(knots, knots.length - 1)) {
    const slope =
      (at(values, i + 1) - at(values, i)) / h +
      (t < at(knots, 0) ? -(h / 6) * (2 * at(bends, i) + at(bends, i + 1)) : (h / 6) * (at(bends, i) + 2 * at(bends, i + 1)));
    const [from, value] = t < at(knots, 0) ? [at(knots, i), at(values, i)] : [at(knots, i + 1), at(values, i + 1)];
    return value + slope * (t - from);
  }
  return a * at(values, i) + b * at(values, i + 1) + (((a * a * a - a) * at(bends, i) + (b * b * b - b) * at(bends, i + 1)) * h * h) / 6;
}

/** Factors of the linear models at a place. */
function factors(model: CorrectionModel, frame: Frame, p: Point): number[] {
  const [x, y] = [(p.x - frame.x) / frame.size, (p.y - frame.y) / frame.size];
  const u = ((frame.upright ? p.y : p.x) - frame.from) / (frame.to - frame.from || 1);
  if (model === 'bow') return [1, x, y, 4 * u * (1 - u)];
  if (model !== 'segments') return [1, x, y];
  const { rows } = frame;
  const inner = rows.slice(1, -1).map((_, k) => {
    const values = rows.map((__, i) => (i === k + 1 ? 1 : 0));
    return splineAt(rows, values, splineBends(rows, values), u);
  });
  return [1, x, y, ...inner];
}

type Fit = Pick<Correction, 'model' | 'frame' | 'x' | 'y'>;

function fitProjective(frame: Frame, nominal: readonly Point[], measured: readonly Point[]): Fit | undefined {
  // measured places are brought near one too, about their own middle
  const middle = { x: mean(measured.map((p) => p.x)), y: mean(measured.map((p) => p.y)) };
  const rows: number[][] = [];
  const values: number[] = [];
  nominal.forEach((p, i) => {
    const [, x, y] = factors('affine', frame, p) as [number, number, number];
    const m = measured[i] ?? p;
    const [u, v] = [(m.x - middle.x) / frame.size, (m.y - middle.y) / frame.size];
    rows.push([x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]);
    values.push(u, v);
  });
  const h = leastSquares(rows, values);
  return h && { model: 'projective', frame, x: [...h, middle.x, middle.y], y: [] };
}

const mean = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length);

function fitSimilarity(frame: Frame, nominal: readonly Point[], measured: readonly Point[]): Fit | undefined {
  const rows: number[][] = [];
  const values: number[] = [];
  nominal.forEach((p, i) => {
    const [, x, y] = factors('affine', frame, p) as [number, number, number];
    const m = measured[i] ?? p;
    rows.push([1, 0, x, -y], [0, 1, y, x]);
    values.push(m.x, m.y);
  });
  const found = leastSquares(rows, values);
  if (!found) return undefined;
  const [tx = 0, ty = 0, c = 1, s = 0] = found;
  return { model: 'similarity', frame, x: [tx, c, -s], y: [ty, s, c] };
}

function fit(model: CorrectionModel, frame: Frame, nominal: readonly Point[], measured: readonly Point[]): Fit | undefined {
  if (model === 'projective') return fitProjective(frame, nominal, measured);
  if (model === 'similarity') return fitSimilarity(frame, nominal, measured);
  const rows = nominal.map((p) => factors(model, frame, p));
  const x = leastSquares(
    rows,
    measured.map((p) => p.x),
  );
  const y = leastSquares(
    rows,
    measured.map((p) => p.y),
  );
  return x && y && { model, frame, x, y };
}

const sum = (a: readonly number[], b: readonly number[]): number => a.reduce((total, value, i) => total + value * (b[i] ?? 0), 0);

/**
 * Where a nominal place lies on the machine.
 * @param p as it was laid up, mm
 * @returns mm on the machine's plane
 */
export function applyCorrection(correction: Fit, p: Point): Point {
  const { model, frame, x, y } = correction;
  if (model !== 'projective') {
    const f = factors(model === 'similarity' ? 'affine' : model, frame, p);
    return { x: sum(x, f), y: sum(y, f) };
  }
  const [, u, v] = factors('affine', frame, p) as [number, number, number];
  const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0, h = 0, mx = 0, my = 0] = x;
  const w = 1 + g * u + h * v;
  return { x: (frame.size * (a * u + b * v + c)) / w + mx, y: (frame.size * (d * u + e * v + f)) / w + my };
}

const numbersOf = (model: CorrectionModel, frame: Frame): number =>
  ({ similarity: 4, affine: 6, bow: 8, projective: 8, segments: 6 + 2 * Math.max(0, frame.rows.length - 2) })[model];

/** Models that so many marks in so many rows can settle. */
function candidates(frame: Frame, marks: number): CorrectionModel[] {
  const list: CorrectionModel[] = ['similarity'];
  if (marks >= 3) list.push('affine');
  if (marks >= 4) list.push('projective');
  if (marks >= 6 && frame.rows.length >= 3) list.push('bow');
  if (marks >= 10 && frame.rows.length >= 4) list.push('segments');
  return list;
}

interface Story {
  readonly fit: Fit;
  readonly dropped: number | undefined;
  readonly cost: number;
}

/** The marks as they were printed and found, in their frame, and how far off they are read (one standard deviation, mm). */
interface Readings {
  readonly frame: Frame;
  readonly nominal: readonly Point[];
  readonly measured: readonly Point[];
  readonly noise: number;
}

/** A model fitted to all marks but the one that is dropped. @returns undefined when they are too few, or do not settle it */
function storyOf(model: CorrectionModel, { frame, nominal, measured, noise }: Readings, dropped: number | undefined): Story | undefined {
  const keep = <T>(list: readonly T[]): T[] => list.filter((_, i) => i !== dropped);
  const [n, m] = [keep(nominal), keep(measured)];
  if (2 * n.length < numbersOf(model, frame)) return undefined;
  const found = fit(model, frame, n, m);
  if (!found) return undefined;
  const left = n.reduce((total, p, i) => {
    const at = applyCorrection(found, p);
    return total + (at.x - (m[i]?.x ?? 0)) ** 2 + (at.y - (m[i]?.y ?? 0)) ** 2;
  }, 0);
  const price = PRICE * numbersOf(model, frame) + (dropped === undefined ? 0 : MISREAD_PRICE);
  return { fit: found, dropped, cost: left / (noise * noise) + price };
}

/** A mark can be told to be misread when the others settle the model with something to spare. */
const mayDrop = (model: CorrectionModel, frame: Frame, marks: number): boolean =>
  marks >= 6 && 2 * (marks - 1) >= numbersOf(model, frame) + 4;

/**
 * @param nominal where the marks were printed, mm
 * @param measured where the machine found them, in the same order, mm
 * @throws InputError `input.marks` for fewer than two, unequal lists, places that are no numbers or all one
 */
export function solveMarks(nominal: readonly Point[], measured: readonly Point[], opts: SolveOptions = {}): Correction {
  const noise = opts.noiseMm ?? NOISE_MM;
  if (nominal.length !== measured.length || nominal.length < 2)
    throw new InputError(
      'marks',
      `Two marks or more are needed, each printed and found; there are ${nominal.length} and ${measured.length}.`,
    );
  if (![...nominal, ...measured].every((p) => Number.isFinite(p.x) && Number.isFinite(p.y)))
    throw new InputError('marks', 'The place of a mark is not a number.');
  const frame = frameOf(nominal);
  const models = opts.model === undefined || opts.model === 'auto' ? candidates(frame, nominal.length) : [opts.model];
  const stories = models.flatMap((model) => {
    const drops = mayDrop(model, frame, nominal.length) ? nominal.map((_, i) => i) : [];
    return [undefined, ...drops].flatMap((dropped) => storyOf(model, { frame, nominal, measured, noise }, dropped) ?? []);
  });
  const best = stories.reduce<Story | undefined>((a, b) => (a && a.cost <= b.cost ? a : b), undefined);
  if (!best) throw new InputError('marks', 'The marks do not settle where the sheet lies: too few, or all in one place or line.');
  const residualsMm = nominal.map((p, i) => {
    const at = applyCorrection(best.fit, p);
    return Math.hypot(at.x - (measured[i]?.x ?? 0), at.y - (measured[i]?.y ?? 0));
  });
  const worst = residualsMm.reduce((k, r, i) => (r > (residualsMm[k] ?? 0) ? i : k), 0);
  const kept = residualsMm.filter((_, i) => i !== best.dropped);
  const unsure = best.fit.model === 'projective' && nominal.length === 4;
  return {
    ...best.fit,
    residualsMm,
    worst,
    ...(best.dropped === undefined ? {} : { outlier: best.dropped }),
    doubtful: unsure || Math.max(...kept) > DOUBTFUL * noise,
  };
}
