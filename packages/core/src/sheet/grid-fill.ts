/**
 * Filling sheets with copies of one piece of work, in rows across the material.
 *
 * Rows are straight (boxes side by side), shifted by half a pitch, or every other one is turned head to tail; the last two
 * are pushed together along the material as far as the real outlines allow. Pushing compares profiles: for each of many
 * narrow bands across the material, how far the row before reaches (grown by the gap), and where the row behind begins; the
 * greatest difference is the pitch. Each band takes the worst of what crosses it, so rows never come nearer than the gap.
 * Rows are taken as endless, every second row is kept clear of the next but one, and for head to tail the shift across is
 * searched in steps for the most copies per length.
 * x along the material from 0, y across it from 0, mm; the margins are the caller's.
 */
import type { Matrix, Outline } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { flatten } from '../geometry/flatten.ts';
import { bounds, isEmptyBox } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';
import { compose, mapOutline, rotation, translation } from '../geometry/transform.ts';

/** What fills which ground, how far apart, in which kind of rows. mm. */
export interface GridProblem {
  /** All of one copy, turned and mirrored as it goes onto the material. */
  readonly outline: Outline;
  /** Clear width and length of a sheet, mm. */
  readonly widthMm: number;
  readonly lengthMm: number;
  readonly gapMm: number;
  /** null: one sheet, filled to its end. */
  readonly copies: number | null;
  readonly rows: 'straight' | 'half' | 'head-to-tail';
}

/** A copy: its sheet, its turn and its place. */
export interface GridPlace {
  readonly copy: number;
  readonly sheet: number;
  /** 0, or 180 in a row that is turned. */
  readonly turnDeg: number;
  /** From the outline's own place onto the sheet. */
  readonly map: Matrix;
}

/** The places, how many a sheet takes, and what one more row would take. */
export interface GridResult {
  readonly placed: readonly GridPlace[];
  /** Copies that one sheet takes when it is filled. */
  readonly perSheet: number;
  /** What stays free of a filled sheet along and across it, mm. */
  readonly leftAlongMm: number;
  readonly leftAcrossMm: number;
  /** By how much longer a sheet would have to be for one more row, mm. */
  readonly moreForRowMm: number;
  /** From row to row, the first to the second and the second to the third, mm. */
  readonly pitchMm: readonly [number, number];
}

const MOST_COPIES = 2000;
const BANDS = 4096;
/** Shifts across that are tried for rows head to tail. */
const SHIFTS = 24;
const TOLERANCE_MM = 0.01;

/** How far something reaches in each band across one pitch, to the right or (negated) to the left. */
class Profile {
  readonly reach = new Float64Array(BANDS).fill(-Infinity);

  constructor(
    outline: Outline,
    private readonly pitchMm: number,
    way: 1 | -1,
  ) {
    for (const { closed, xy } of flatten(outline, TOLERANCE_MM)) {
      const n = xy.length / 2;
      for (let i = 0; i < (closed ? n : n - 1); i++) {
        const j = (i + 1) % n;
        this.add(at(xy, 2 * i + 1), way * at(xy, 2 * i), at(xy, 2 * j + 1), way * at(xy, 2 * j));
      }
    }
  }

  private add(y0: number, x0: number, y1: number, x1: number): void {
    if (y0 > y1) return this.add(y1, x1, y0, x0);
    const { reach } = this;
    const band = this.pitchMm / BANDS;
    const slope = y1 - y0 < 1e-12 ? 0 : (x1 - x0) / (y1 - y0);
    const flat = y1 - y0 < 1e-12 ? Math.max(x0, x1) : x0;
    const last = Math.floor((y1 + TOLERANCE_MM) / band);
    let k = Math.floor((y0 - TOLERANCE_MM) / band);
    let slot = ((k % BANDS) + BANDS) % BANDS;
    for (; k <= last; k++, slot = slot === BANDS - 1 ? 0 : slot + 1) {
      // it reaches farthest at the end of the band toward which it leans, but not beyond its own ends
      const y = (slope > 0 ? k + 1 : k) * band;
      const most = flat + slope * ((y < y0 ? y0 : y > y1 ? y1 : y) - y0);
      if (most > (reach[slot] as number)) reach[slot] = most;
    }
  }

  /**
   * Grown by a distance: each band reaches as far as any near it, and a disc beyond that. Which part of a band is at its
   * reach is not known, so bands count as one nearer than they are. Cost: bands times those within the distance.
   */
  grownBy(mm: number): this {
    const band = this.pitchMm / BANDS;
    const bare = this.reach.slice();
    const most = Math.min(BANDS / 2, Math.ceil(mm / band));
    for (let d = -most; d <= most; d++) {
      const aside = Math.max(0, Math.abs(d) - 1) * band;
      if (aside > mm) continue;
      const beyond = Math.sqrt(mm * mm - aside * aside);
      for (let k = 0; k < BANDS; k++) {
        const there = at(bare, (((k + d) % BANDS) + BANDS) % BANDS) + beyond;
        if (there > at(this.reach, k)) this.reach[k] = there;
      }
    }
    return this;
  }

  /** Least way from this row to another one, which is shifted across. */
  pushTo(other: Profile, shiftMm: number): number {
    const steps = Math.round((shiftMm * BANDS) / this.pitchMm);
    let most = 0;
    for (let k = 0; k < BANDS; k++) {
      // rounding of the shift: the neighbours of a band count too
      for (let near = -1; near <= 1; near++) {
        const own = this.reach[(((k + steps + near) % BANDS) + BANDS) % BANDS] as number;
        most = Math.max(most, own + (other.reach[k] as number));
      }
    }
    return most + 2 * TOLERANCE_MM;
  }
}

interface Row {
  readonly outline: Outline;
  readonly map: Matrix;
  readonly turnDeg: number;
  readonly shiftMm: number;
  /** To the next row, mm. */
  readonly pitchMm: number;
}

/** Two rows that take turns. */
function rowsOf({ outline, gapMm, rows, widthMm }: GridProblem): readonly [Row, Row] {
  const box = bounds(outline);
  const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
  const home = translation(-box.minX, -box.minY);
  const across = height + gapMm;
  const plain = { outline: mapOutline(home, outline), map: home, turnDeg: 0, shiftMm: 0, pitchMm: width + gapMm };
  if (rows === 'straight') return [plain, plain];
  const turn = rows === 'half' ? translation(0, 0) : compose(translation(width, height), rotation(180));
  const other = { ...plain, outline: mapOutline(turn, plain.outline), map: compose(turn, home), turnDeg: rows === 'half' ? 0 : 180 };
  const right = (shape: Outline): Profile => new Profile(shape, across, 1).grownBy(gapMm);
  const left = (shape: Outline): Profile => new Profile(shape, across, -1);
  const [plainRight, otherRight, plainLeft, otherLeft] = [
    right(plain.outline),
    right(other.outline),
    left(plain.outline),
    left(other.outline),
  ];
  const fits = (shift: number): number => Math.floor((widthMm - shift + gapMm + 1e-9) / across);
  const tries = (rows === 'half' ? [across / 2] : Array.from({ length: SHIFTS }, (_, i) => (i * across) / SHIFTS)).map((shiftMm) => {
    const there = plainRight.pushTo(otherLeft, shiftMm);
    const back = otherRight.pushTo(plainLeft, -shiftMm);
    // the next row but one must be clear as well
    const twice = Math.max(plainRight.pushTo(plainLeft, 0), otherRight.pushTo(otherLeft, 0));
    return { shiftMm, there, back: Math.max(back, twice - there), count: fits(0) + fits(shiftMm) };
  });
  const best = tries.reduce((a, b) => (b.count / (b.there + b.back) > a.count / (a.there + a.back) + 1e-12 ? b : a));
  return [
    { ...plain, pitchMm: best.there },
    { ...other, shiftMm: best.shiftMm, pitchMm: best.back },
  ];
}

/**
 * @returns what does not fit on a sheet at all leaves `perSheet` 0 and nothing placed
 * @throws InputError for sizes that are none, LimitError beyond 2000 copies
 */
export function gridFill(problem: GridProblem): GridResult {
  checkGrid(problem);
  const { outline, widthMm, lengthMm, gapMm } = problem;
  const box = bounds(outline);
  const none = { placed: [], perSheet: 0, leftAlongMm: lengthMm, leftAcrossMm: widthMm, moreForRowMm: 0, pitchMm: [0, 0] as const };
  if (isEmptyBox(box)) return none;
  const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
  if (height > widthMm + 1e-9) return none;
  const rows = rowsOf(problem);
  const across = height + gapMm;
  const fits = rows.map(({ shiftMm }) => Math.max(0, Math.floor((widthMm - shiftMm + gapMm + 1e-9) / across)));
  const starts: number[] = [];
  let x = 0;
  let perSheet = 0;
  while (x + width <= lengthMm + 1e-9 && perSheet < MOST_COPIES) {
    starts.push(x);
    perSheet += fits[(starts.length - 1) % 2] as number;
    x += (rows[(starts.length - 1) % 2] as Row).pitchMm;
  }
  if (perSheet === 0) return { ...none, moreForRowMm: width - lengthMm };
  perSheet = Math.min(perSheet, MOST_COPIES);
  return {
    placed: placesOf(problem.copies ?? perSheet, perSheet, { rows, fits, starts, across }),
    perSheet,
    leftAlongMm: lengthMm - ((starts.at(-1) as number) + width),
    leftAcrossMm: widthMm - ((fits[0] as number) * across - gapMm),
    moreForRowMm: Math.max(0, x + width - lengthMm),
    pitchMm: [rows[0].pitchMm, rows[1].pitchMm],
  };
}

/** A filled sheet: rows that take turns, how many copies each of them takes, where rows begin, and from copy to copy. */
interface FilledSheet {
  readonly rows: readonly Row[];
  readonly fits: readonly number[];
  readonly starts: readonly number[];
  readonly across: number;
}

/** So many copies on as many sheets as they need, row after row. */
function placesOf(wanted: number, perSheet: number, { rows, fits, starts, across }: FilledSheet): GridPlace[] {
  const placed: GridPlace[] = [];
  for (let sheet = 0; placed.length < wanted; sheet++)
    for (const [r, start] of starts.entries()) {
      const { map, shiftMm, turnDeg } = rows[r % 2] as Row;
      for (let k = 0; k < (fits[r % 2] as number) && placed.length < Math.min(wanted, (sheet + 1) * perSheet); k++)
        placed.push({ copy: placed.length, sheet, turnDeg, map: compose(translation(start, shiftMm + k * across), map) });
    }
  return placed;
}

function checkGrid({ widthMm, lengthMm, gapMm, copies }: GridProblem): void {
  if (!(widthMm > 0 && lengthMm > 0)) throw new InputError('width', 'The sheet is narrower than its margins.');
  if (!(gapMm >= 0) || !Number.isFinite(gapMm)) throw new InputError('gap', `The gap must not be below zero, not ${gapMm}.`);
  if (copies !== null && !(Number.isInteger(copies) && copies >= 1))
    throw new InputError('copies', `The number of copies must be 1 or more, not ${copies}.`);
  if (copies !== null && copies > MOST_COPIES) throw new LimitError('copies', `A grid takes at most ${MOST_COPIES} copies.`);
}
