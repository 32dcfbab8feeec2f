/**
 * Parts as solids that can be tried against one another quickly (`nest-collision.ts`): their outlines grown by half the gap, of
 * few corners, with circles inscribed in them. Corners are saved outward only, by cutting across hollows and by making
 * neighbouring sides meet farther out: straight sides stay where they are, and a solid never takes less room than its part.
 * Units mm.
 */
import { Clipper, EndType, FillRule, JoinType, type Paths64 } from 'clipper2-ts';
import type { Matrix, Outline } from '../types/index.ts';
import type { Polyline } from '../geometry/flatten.ts';
import { bounds } from '../geometry/outline.ts';
import { compose, rotation, translation, mappedBounds } from '../geometry/transform.ts';
import { boxOfLines } from './nest-grid.ts';
import { rasterOf, ringsRound } from './raster.ts';

/** Units of the polygons a mm. */
const SCALE = 1e5;
/** Solids of few corners are so much less than their parts with the gap, so that what fits exactly does not collide, mm. */
const TOUCH_MM = 0.001;
/** By how much parts are bare that were put together exactly, mm: their corners are kept rounded. */
const HAIR_MM = 0.004;
/** Half the width of a line that is no outline, at least, mm. */
const LINE_MM = 0.05;
/** Corners longer than this many gaps are cut off square. */
const MITRE = 2;
/** Corners of a solid are saved until it has so many, or until it would grow by the last of the shares of its size. */
const MANY_CORNERS = 60;
/** Of more corners a part is not laid along others by them. */
const MOST_CORNERS = 2000;
/** Of more corners, crossing one another perhaps, it is the cells that it touches, so many along its longer side. */
const MOST_LINES = 10_000;
const MANY_CELLS = 512;
/** By so much of its size its lines are off then. */
const OFF_SHARE = 0.001;
const SAVED_SHARES = [0.0005, 0.001, 0.002, 0.004, 0.008, 0.015];
/** Sides that have a box together. */
export const SIDES = 6;
const MOST_CIRCLES = 8;
const CELLS = 20;
/** Circles are added until they cover this share, or are this much smaller than the first. */
const COVERED = 0.9;
const SMALLEST_SHARE = 0.12;

/** A part in no turn yet. */
export interface Solid {
  readonly outline: Outline;
  /** Even-odd; x0, y0, x1, y1 … */
  readonly rings: readonly Float64Array[];
  /** x, y, radius. */
  readonly circles: Float64Array;
  readonly areaMm2: number;
  /** Longest side of its box. */
  readonly sizeMm: number;
}

/** A solid in one turn, the box of its part at the origin. */
export interface TurnedSolid {
  readonly turnDeg: number;
  /** From the part's own place to this one. */
  readonly map: Matrix;
  /** Box of the part, which has to lie on the strip. */
  readonly lengthMm: number;
  readonly acrossMm: number;
  /** x0, y0, x1, y1 a side. */
  readonly sides: Float64Array;
  /** minX, minY, maxX, maxY of every so many sides. */
  readonly boxes: Float64Array;
  /** As many as boxes, for who compares them. */
  readonly scratch: Int32Array;
  readonly circles: Float64Array;
  /** Of each ring where it begins, and its box: x, y, minX, minY, maxX, maxY. It may lie wholly in another solid. */
  readonly rings: Float64Array;
  /** Box of the solid. */
  readonly minX: number;
  readonly minY: number;
  readonly maxX: number;
  readonly maxY: number;
  readonly sizeMm: number;
  /** By which its collisions weigh: large parts are not to be pushed about by small ones. */
  readonly penaltyMm: number;
}

const num = (xy: ArrayLike<number>, i: number): number => xy[i] as number;

type Corner = readonly [x: number, y: number];

/** Where the sides before and after one meet beyond it; undefined when they do not, or farther out than `mm`. */
function beyond([x0, y0]: Corner, [x1, y1]: Corner, [x2, y2]: Corner, [x3, y3]: Corner, mm: number): Corner | undefined {
  const [ux, uy, vx, vy] = [x1 - x0, y1 - y0, x3 - x2, y3 - y2];
  const [sx, sy] = [x2 - x1, y2 - y1];
  const cross = ux * vy - uy * vx;
  if (!(ux * sy - uy * sx > 0 && sx * vy - sy * vx > 0 && cross > 1e-12)) return undefined;
  const t = (sx * vy - sy * vx) / cross;
  const [qx, qy] = [x1 + t * ux, y1 + t * uy];
  const out = Math.abs(sx * (qy - y1) - (qx - x1) * sy) / (Math.hypot(sx, sy) || 1);
  return t >= 0 && out <= mm ? [qx, qy] : undefined;
}

/** Is a corner in a hollow, or nearly straight, so that going across it is off by no more than `mm`? */
function isShallow([x0, y0]: Corner, [x1, y1]: Corner, [x2, y2]: Corner, mm: number): boolean {
  const turn = (x1 - x0) * (y2 - y1) - (y1 - y0) * (x2 - x1);
  const chord = Math.hypot(x2 - x0, y2 - y0);
  return turn <= 0 && chord > 0 && -turn / chord <= mm;
}

/** Corners of a ring that are saved by growing outward by at most `mm`; the inside is on its left. */
function savedCorners(ring: ArrayLike<number>, mm: number): number[] {
  let xy = Array.from(ring);
  for (let isLess = true; isLess && xy.length > 8;) {
    isLess = false;
    const n = xy.length / 2;
    const next: number[] = [];
    let i = 0;
    const corner = (j: number): Corner => {
      const k = 2 * ((i + j + n) % n);
      return [num(xy, k), num(xy, k + 1)];
    };
    while (i < n) {
      const before: Corner = next.length >= 2 ? [next.at(-2) as number, next.at(-1) as number] : corner(-1);
      const [own, after] = [corner(0), corner(1)];
      const isAcross = i + 1 < n && isShallow(before, own, after, mm);
      const instead = isAcross ? after : i + 2 < n ? beyond(before, own, after, corner(2), mm) : undefined;
      next.push(...(instead ?? own));
      isLess ||= instead !== undefined;
      i += instead ? 2 : 1;
    }
    if (next.length < 6) break;
    xy = next;
  }
  return xy;
}

const toPaths = (lines: readonly Polyline[], closed: boolean): Paths64 =>
  lines
    .filter((line) => line.closed === closed)
    .map(({ xy }) =>
      Array.from({ length: xy.length / 2 }, (_, i) => ({
        x: Math.round(num(xy, 2 * i) * SCALE),
        y: Math.round(num(xy, 2 * i + 1) * SCALE),
      })),
    );

/** A path as a ring; none when it holds nothing. */
function ringOf(path: Paths64[number]): Float64Array[] {
  if (path.length < 3) return [];
  const xy = new Float64Array(2 * path.length);
  path.forEach(({ x, y }, i) => {
    xy[2 * i] = x / SCALE;
    xy[2 * i + 1] = y / SCALE;
  });
  return [xy];
}

/** Rings of a part's lines, grown; holes are filled when nothing may lie in them. */
class Rings {
  private closed: Paths64;
  private readonly open: Paths64;

  /** @param offMm by so much lines may be off: that is grown besides, nothing is smaller by it */
  constructor(
    lines: readonly Polyline[],
    holes: boolean,
    private offMm: number,
  ) {
    this.closed = Clipper.union(toPaths(lines, true), [], FillRule.NonZero).filter((path) => holes || Clipper.area(path) > 0);
    this.open = toPaths(lines, false);
  }

  get corners(): number {
    return this.closed.reduce((sum, path) => sum + path.length, 0);
  }

  /**
   * Saves corners before anything is grown, which takes very long with too many of them (D. Douglas, T. Peucker, 1973).
   */
  saveCorners(offMm: number): void {
    this.closed = Clipper.ramerDouglasPeuckerPaths(this.closed, offMm * SCALE);
    this.offMm += offMm;
  }

  /** @param isRound corners are grown round, no farther than by so much, not to a point */
  grownBy(byMm: number, isRound = false): Float64Array[] {
    const { closed, open } = this;
    const mm = byMm + this.offMm;
    const grown =
      mm === 0
        ? closed
        : Clipper.inflatePaths(
            closed,
            mm * SCALE,
            isRound ? JoinType.Round : JoinType.Miter,
            EndType.Polygon,
            MITRE,
            isRound ? HAIR_MM * SCALE : 0,
          );
    const lined =
      open.length > 0 ? Clipper.inflatePaths(open, Math.max(LINE_MM, mm) * SCALE, JoinType.Miter, EndType.Square, MITRE, 0) : [];
    const all = lined.length > 0 ? Clipper.union(grown, lined, FillRule.NonZero) : grown.length > 0 ? grown : closed;
    return all.flatMap(ringOf);
  }
}

/** Rings of few corners: none of them is smaller. */
function withFewCorners(rings: readonly Float64Array[], sizeMm: number): Float64Array[] {
  return rings.map((ring) => {
    let xy: ArrayLike<number> = ring;
    for (const share of SAVED_SHARES) if (xy.length > 2 * MANY_CORNERS) xy = savedCorners(xy, share * sizeMm);
    return xy === ring ? ring : Float64Array.from(xy);
  });
}

/** Distance to the nearest side, less than nothing outside (even-odd). */
function depthAt(rings: readonly Float64Array[], x: number, y: number): number {
  let least = Infinity;
  let isIn = false;
  for (const xy of rings) {
    const n = xy.length;
    let x0 = xy[n - 2] as number;
    let y0 = xy[n - 1] as number;
    for (let i = 0; i < n; i += 2) {
      const x1 = xy[i] as number;
      const y1 = xy[i + 1] as number;
      const dx = x1 - x0;
      const dy = y1 - y0;
      const ex = x - x0;
      const ey = y - y0;
      const along = ex * dx + ey * dy;
      const length2 = dx * dx + dy * dy;
      const t = along <= 0 || length2 === 0 ? 0 : along >= length2 ? 1 : along / length2;
      const gx = ex - t * dx;
      const gy = ey - t * dy;
      const distance2 = gx * gx + gy * gy;
      if (distance2 < least) least = distance2;
      if (y0 > y !== y1 > y && ex < (ey / dy) * dx) isIn = !isIn;
      x0 = x1;
      y0 = y1;
    }
  }
  return isIn ? Math.sqrt(least) : -Math.sqrt(least);
}

interface Place {
  x: number;
  y: number;
  depth: number;
}

/** Places all over the box of rings, with their depths. @returns the side of a cell besides */
function placesIn(rings: readonly Float64Array[]): { places: Place[]; cell: number } {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const xy of rings)
    for (let i = 0; i < xy.length; i += 2) {
      [minX, maxX] = [Math.min(minX, num(xy, i)), Math.max(maxX, num(xy, i))];
      [minY, maxY] = [Math.min(minY, num(xy, i + 1)), Math.max(maxY, num(xy, i + 1))];
    }
  const cell = Math.max(maxX - minX, maxY - minY) / CELLS;
  const [columns, rows] = [Math.max(3, Math.ceil((maxX - minX) / cell)), Math.max(3, Math.ceil((maxY - minY) / cell))];
  const places: Place[] = [];
  for (let c = 0; c < columns; c++)
    for (let r = 0; r < rows; r++) {
      const [x, y] = [minX + ((c + 0.5) * (maxX - minX)) / columns, minY + ((r + 0.5) * (maxY - minY)) / rows];
      places.push({ x, y, depth: depthAt(rings, x, y) });
    }
  return { places, cell };
}

const WAYS = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;

/** From a place to where there is more room, in ever smaller steps, for as long as a step helps. */
function climbed(from: Place, room: (x: number, y: number) => number, cell: number): Place {
  const here = { ...from };
  for (let step = cell / 2; step > cell / 32; step /= 2)
    for (let hasMoved = true; hasMoved;) {
      hasMoved = false;
      for (const [wx, wy] of WAYS) {
        const [x, y] = [here.x + wx * step, here.y + wy * step];
        const depth = room(x, y);
        if (depth <= here.depth + 1e-9) continue;
        Object.assign(here, { x, y, depth });
        hasMoved = true;
      }
    }
  return here;
}

/** Circles in a solid: the largest first, each as large as it can be beside those before it. */
function circlesIn(rings: readonly Float64Array[], areaMm2: number): Float64Array {
  const { places, cell } = placesIn(rings);
  const circles: number[] = [];
  const room = (x: number, y: number): number => {
    let least = depthAt(rings, x, y);
    for (let k = 0; k < circles.length; k += 3)
      least = Math.min(least, Math.hypot(x - num(circles, k), y - num(circles, k + 1)) - num(circles, k + 2));
    return least;
  };
  let covered = 0;
  while (circles.length < 3 * MOST_CIRCLES && covered < COVERED * areaMm2) {
    let best = places[0] as Place;
    for (const place of places) if (place.depth > best.depth) best = place;
    const { x, y, depth } = climbed(best, room, cell);
    if (!(depth > 0) || (circles.length > 0 && depth < SMALLEST_SHARE * num(circles, 2))) break;
    circles.push(x, y, depth);
    covered += Math.PI * depth * depth;
    for (const place of places) place.depth = Math.min(place.depth, Math.hypot(place.x - x, place.y - y) - depth);
  }
  if (circles.length === 0) {
    // thinner than a cell everywhere: a point within it, at a hair's depth
    const [ring = new Float64Array(2)] = rings;
    circles.push((num(ring, 0) + num(ring, 2)) / 2, (num(ring, 1) + num(ring, 3)) / 2, 1e-3);
  }
  return Float64Array.from(circles);
}

function areaOf(rings: readonly Float64Array[]): number {
  let twice = 0;
  for (const xy of rings)
    for (let i = 0, j = xy.length - 2; i < xy.length; j = i, i += 2) twice += num(xy, j) * num(xy, i + 1) - num(xy, i) * num(xy, j + 1);
  return Math.abs(twice / 2);
}

/** A part with half the gap. */
export interface Solids {
  /** Of few corners, outside of the part. */
  readonly quick: Solid;
  /**
   * With all of its corners, for what lies exactly along it, and smaller by a hair, so that this does not collide with it;
   * absent where the corners are too many for that.
   */
  readonly exact?: { readonly whole: Solid; readonly bare: Solid };
}

/**
 * The lines, or rings round all that they touch when they have very many corners: what unites polygons takes the square of the
 * corners that lie at one height, and the saving of corners that of all in the worst case.
 */
function linesWithin(lines: readonly Polyline[], sizeMm: number): readonly Polyline[] {
  const corners = lines.reduce((sum, { xy }) => sum + xy.length / 2, 0);
  if (corners <= MOST_LINES || !(sizeMm > 0)) return lines;
  const cell = sizeMm / MANY_CELLS;
  return ringsRound(rasterOf(lines, boxOfLines(lines), cell, 0), cell);
}

/** How an outline becomes a solid. */
export interface SolidRule {
  readonly gapMm: number;
  /** May other parts lie in its holes? */
  readonly holes: boolean;
  /** Its chords are off by at most this: by so much it is larger, so that nothing is nearer than the gap. */
  readonly chordMm: number;
}

/** @param lines of the outline, chords */
export function solidsOf(outline: Outline, lines: readonly Polyline[], { gapMm, holes, chordMm }: SolidRule): Solids {
  const { minX, minY, maxX, maxY } = bounds(outline);
  const sizeMm = Math.max(maxX - minX, maxY - minY);
  const rings = new Rings(linesWithin(lines, sizeMm), holes, chordMm);
  const hasTooMany = rings.corners > MOST_CORNERS;
  if (hasTooMany) rings.saveCorners(OFF_SHARE * sizeMm);
  const exact = rings.grownBy(gapMm / 2);
  const areaMm2 = areaOf(exact);
  const quick = withFewCorners(rings.grownBy(gapMm / 2 - TOUCH_MM), sizeMm);
  if (hasTooMany) return { quick: { outline, rings: quick, circles: circlesIn(quick, areaMm2), areaMm2, sizeMm } };
  const bare = rings.grownBy(gapMm / 2 - HAIR_MM, true);
  // circles in the smallest of the three lie in all of them
  const circles = circlesIn(bare, areaMm2);
  const solid = (of: readonly Float64Array[]): Solid => ({ outline, rings: of, circles, areaMm2, sizeMm });
  return { quick: solid(quick), exact: { whole: solid(exact), bare: solid(bare) } };
}

/** Box of sides, from one number of theirs to another: minX, minY, maxX, maxY. */
function boxOfSides(sides: Float64Array, from: number, to: number): [number, number, number, number] {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let s = from; s < to; s += 2) {
    [minX, maxX] = [Math.min(minX, num(sides, s)), Math.max(maxX, num(sides, s))];
    [minY, maxY] = [Math.min(minY, num(sides, s + 1)), Math.max(maxY, num(sides, s + 1))];
  }
  return [minX, minY, maxX, maxY];
}

/** A solid turned about its own origin and moved so that the box of its part begins at 0, 0. Cost: its corners. */
export function turnedSolid({ outline, rings, circles, areaMm2, sizeMm }: Solid, turnDeg: number): TurnedSolid {
  const around = rotation(turnDeg);
  const box = mappedBounds(around, outline);
  const map = compose(translation(-box.minX, -box.minY), around);
  const [a, b, c, d, e, f] = map;
  const count = rings.reduce((sum, xy) => sum + xy.length / 2, 0);
  const sides = new Float64Array(4 * count);
  const ringBoxes = new Float64Array(6 * rings.length);
  let at = 0;
  for (const [r, xy] of rings.entries()) {
    const n = xy.length;
    const from = at;
    for (let i = 0; i < n; i += 2) {
      const j = (i + 2) % n;
      sides[at++] = a * num(xy, i) + c * num(xy, i + 1) + e;
      sides[at++] = b * num(xy, i) + d * num(xy, i + 1) + f;
      sides[at++] = a * num(xy, j) + c * num(xy, j + 1) + e;
      sides[at++] = b * num(xy, j) + d * num(xy, j + 1) + f;
    }
    ringBoxes.set([num(sides, from), num(sides, from + 1), ...boxOfSides(sides, from, at)], 6 * r);
  }
  const [minX, minY, maxX, maxY] = boxOfSides(sides, 0, at);
  const boxes = new Float64Array(4 * Math.ceil(count / SIDES));
  for (let g = 0; g < boxes.length / 4; g++)
    boxes.set(boxOfSides(sides, 4 * SIDES * g, Math.min(sides.length, 4 * SIDES * (g + 1))), 4 * g);
  const turned = new Float64Array(circles.length);
  for (let k = 0; k < circles.length; k += 3) {
    turned[k] = a * num(circles, k) + c * num(circles, k + 1) + e;
    turned[k + 1] = b * num(circles, k) + d * num(circles, k + 1) + f;
    turned[k + 2] = num(circles, k + 2);
  }
  return {
    turnDeg,
    map,
    lengthMm: box.maxX - box.minX,
    acrossMm: box.maxY - box.minY,
    sides,
    boxes,
    scratch: new Int32Array(boxes.length / 4),
    circles: turned,
    rings: ringBoxes,
    minX,
    minY,
    maxX,
    maxY,
    sizeMm,
    penaltyMm: Math.sqrt(Math.sqrt(areaMm2)),
  };
}
