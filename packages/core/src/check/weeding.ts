/**
 * What tears or is lost when it is weeded: parts smaller than a film's limit, stretches thinner than it, and gaps
 * between parts narrower than it.
 *
 * Method: morphological opening and closing (J. Serra, Image Analysis and Mathematical Morphology, 1982) by half the
 * limit on fine polygons: what opening takes off is thin, what closing fills is a narrow gap. Tips of corners, which
 * opening takes off too, are left out by their size, and so are tapers: what narrows evenly to a point, as the notches
 * between the strokes of letters do, comes out with what is wide. They are told by half the limit, to which a taper
 * is half as long, a stretch of even width none or all. Units mm; widths are told within a tenth of the limit.
 * Rings farther from one another than the limit have nothing to do with one another: each set of near ones is looked at by
 * itself, and sets of one shape, as the letters of a text are, once.
 * Cost: three polygon offsets for each shape of a set, as many again where there is something thin.
 */
import Flatbush from 'flatbush';
import { Clipper, EndType, FillRule, JoinType, type Paths64 } from 'clipper2-ts';
import type { Box, Contour } from '../types/index.ts';
import { contourArea, contourBox } from '../geometry/outline.ts';
import { flatten } from '../geometry/flatten.ts';
import { isInside } from '../geometry/hit.ts';
import { contourStart } from '../geometry/outline.ts';
import type { CheckPart, Finding } from './cut-check.ts';
import { listed } from './listed.ts';

/** What can be weeded from a film. */
export interface FilmLimits {
  /** Parts whose area is below this squared are lost, mm. */
  readonly smallestPartMm: number;
  /** Anything thinner tears, mm. */
  readonly thinnestMm: number;
}

/** Units of the polygons a mm. */
const SCALE = 1e4;
const CHORD_SHARE = 0.05;
const THINNED_SHARE = 0.4;
/** Thin spots shorter than this many times the limit are tips of corners. */
const LEAST_LENGTH = 1.5;
/** A taper longer than this many times the limit is thin all the same. */
const LONGEST_TAPER = 5;
/** Of a taper's length, how much is thinner than half the limit. */
const TAPER_SHARE = [0.2, 0.8] as const;
const MOST_OF_A_KIND = 60;

const round = (mm: number): string => (Math.round(mm * 100) / 100).toString();

/** @returns parts that are too small to be weeded, one finding a contour */
export function findTiny(parts: readonly CheckPart[], { smallestPartMm }: FilmLimits): Finding[] {
  const out: Finding[] = [];
  for (const part of parts)
    for (const contour of part.outline.contours) {
      const size = Math.sqrt(Math.abs(contourArea(contour)));
      if (!contour.closed || size >= smallestPartMm || contour.spans.length === 0) continue;
      const box = contourBox(contour);
      const measure = `only ${round(box.maxX - box.minX)} × ${round(box.maxY - box.minY)} mm`;
      out.push({
        code: 'tiny-part',
        level: 'warning',
        text:
          contourArea(contour) < 0
            ? `A counter of “${part.name}” is ${measure}: what lies in it is too small to be picked out.`
            : `A part of “${part.name}” is ${measure}: it will be lost when it is weeded.`,
        place: contourStart(contour),
        box,
        parts: [part.id],
      });
    }
  return listed(out, MOST_OF_A_KIND);
}

/** Parts so many times the smallest that lie within a counter come off with what is weeded out of it. */
const ISLAND_TIMES = 3;

/**
 * @returns parts that lie alone within a counter of another part and are small: what is weeded out of the counter takes
 * them along
 */
export function findIslands(parts: readonly CheckPart[], { smallestPartMm }: FilmLimits): Finding[] {
  const holes = parts.flatMap(({ outline }) => outline.contours.filter((contour) => contour.closed && contourArea(contour) < 0));
  if (holes.length === 0) return [];
  const out: Finding[] = [];
  for (const part of parts)
    for (const contour of part.outline.contours) {
      const size = Math.sqrt(Math.max(0, contourArea(contour)));
      if (!contour.closed || size < smallestPartMm || size >= ISLAND_TIMES * smallestPartMm) continue;
      const { x, y } = contourStart(contour);
      const within = holes.some((hole) => contourArea(hole) < -contourArea(contour) && isInside({ contours: [hole] }, x, y));
      if (!within) continue;
      const box = contourBox(contour);
      out.push({
        code: 'island',
        level: 'warning',
        text: `A part of “${part.name}” of ${round(box.maxX - box.minX)} × ${round(box.maxY - box.minY)} mm stands alone within a counter: it comes off with what is weeded out of it.`,
        place: { x, y },
        box,
        parts: [part.id],
      });
    }
  return listed(out, MOST_OF_A_KIND);
}

/** Rings of more points are thinned within a chord's tolerance (D. Douglas, T. Peucker, 1973): offsets of all of them take minutes. */
const MANY_POINTS = 400;

/** Rings of more points are not thinned, and of more than so many that are left not looked at: both may take their square. */
const MOST_READ = 30_000;
const MOST_POINTS = 6000;

/** The rings of contours; `tooMany`: how many were left out. */
function ringsOf(contours: readonly Contour[], chord: number): { own: Paths64; tooMany: number } {
  const lines = flatten({ contours: contours.filter((c) => c.closed) }, chord);
  const own = lines.flatMap(({ xy }): Paths64 => {
    if (xy.length / 2 > MOST_READ) return [];
    const ring = Array.from({ length: xy.length / 2 }, (_, i) => ({
      x: Math.round((xy[2 * i] as number) * SCALE),
      y: Math.round((xy[2 * i + 1] as number) * SCALE),
    }));
    const few = ring.length > MANY_POINTS ? Clipper.ramerDouglasPeucker(ring, THINNED_SHARE * chord * SCALE) : ring;
    return few.length > MOST_POINTS ? [] : [few];
  });
  return { own, tooMany: lines.length - own.length };
}

const grow = (paths: Paths64, mm: number, join: JoinType, chord: number): Paths64 =>
  Clipper.inflatePaths(paths, mm * SCALE, join, EndType.Polygon, 4, chord * SCALE);

/** A place that is too narrow, and for how long it is so. */
export interface Spot {
  readonly x: number;
  readonly y: number;
  readonly lengthMm: number;
  readonly box: Box;
}

/** Spots of what is left over by opening or closing, those as long as asked for. */
function spotsOf(left: Paths64, limitMm: number, leastMm: number): Spot[] {
  return left.flatMap((ring) => {
    const area = Math.abs(Clipper.area(ring)) / (SCALE * SCALE);
    let [minX, minY, maxX, maxY, around] = [Infinity, Infinity, -Infinity, -Infinity, 0];
    ring.forEach((p, i) => {
      const q = ring[(i + 1) % ring.length] ?? p;
      around += Math.hypot(q.x - p.x, q.y - p.y) / SCALE;
      [minX, minY, maxX, maxY] = [Math.min(minX, p.x), Math.min(minY, p.y), Math.max(maxX, p.x), Math.max(maxY, p.y)];
    });
    // a long thin shape has about half its outline as length and twice its area by its outline as width
    const [lengthMm, widthMm] = [around / 2, (2 * area) / around];
    if (lengthMm < leastMm || widthMm < 0.05 * limitMm) return [];
    const box = { minX: minX / SCALE, minY: minY / SCALE, maxX: maxX / SCALE, maxY: maxY / SCALE };
    return [{ x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2, lengthMm, box }];
  });
}

/** What is thinner than the limit, or the gaps narrower than it. */
function leftOver(paths: Paths64, limitMm: number, closing: boolean): Paths64 {
  const chord = CHORD_SHARE * limitMm;
  const [first, back] = closing ? [limitMm / 2, -limitMm / 2] : [-limitMm / 2, limitMm / 2];
  const kept = grow(grow(paths, first, JoinType.Miter, chord), back, JoinType.Miter, chord);
  // a hair more, so that the rounding of the two ways is no spot
  const slack = grow(kept, (closing ? -1 : 1) * 0.05 * limitMm, JoinType.Miter, chord);
  return closing ? Clipper.difference(slack, paths, FillRule.NonZero) : Clipper.difference(paths, slack, FillRule.NonZero);
}

const boxOfRing = (ring: Paths64[number]): Box => {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { x, y } of ring) [minX, minY, maxX, maxY] = [Math.min(minX, x), Math.min(minY, y), Math.max(maxX, x), Math.max(maxY, y)];
  return { minX, minY, maxX, maxY };
};

type Ring = Paths64[number];

/** Does a corner of one ring lie within reach of a side of another? Both ways, that is the distance of two that do not cross. */
function hasCornerNear(corners: Ring, sides: Ring, box: Box, reach: number): boolean {
  const isNear = ({ x, y }: Ring[number]): boolean =>
    x > box.minX - reach && x < box.maxX + reach && y > box.minY - reach && y < box.maxY + reach;
  return corners.some((p) => {
    if (!isNear(p)) return false;
    return sides.some((a, i) => {
      const b = sides[(i + 1) % sides.length] ?? a;
      const [dx, dy] = [b.x - a.x, b.y - a.y];
      const along = dx * dx + dy * dy;
      const t = along === 0 ? 0 : Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / along));
      return (p.x - a.x - t * dx) ** 2 + (p.y - a.y - t * dy) ** 2 < reach * reach;
    });
  });
}

/** Rings whose boxes meet, as those of a letter and its counter, or that lie within a reach of one another. */
const haveToDo = (a: Ring, boxA: Box, b: Ring, boxB: Box, reach: number): boolean =>
  (boxA.minX <= boxB.maxX && boxB.minX <= boxA.maxX && boxA.minY <= boxB.maxY && boxB.minY <= boxA.maxY) ||
  hasCornerNear(a, b, boxB, reach) ||
  hasCornerNear(b, a, boxA, reach);

/** Rings that have to do with one another, set by set. */
function nearSets(paths: Paths64, reach: number): Paths64[] {
  if (paths.length < 2) return paths.length === 0 ? [] : [paths];
  const boxes = paths.map(boxOfRing);
  const tree = new Flatbush(boxes.length);
  for (const { minX, minY, maxX, maxY } of boxes) tree.add(minX, minY, maxX, maxY);
  tree.finish();
  const sets: Paths64[] = [];
  const seen = new Uint8Array(paths.length);
  for (let first = 0; first < paths.length; first++) {
    if (seen[first]) continue;
    seen[first] = 1;
    const own = [first];
    for (const i of own) {
      const { minX, minY, maxX, maxY } = boxes[i] as Box;
      for (const near of tree.search(minX - reach, minY - reach, maxX + reach, maxY + reach, (k) => !seen[k])) {
        if (!haveToDo(paths[i] as Ring, boxes[i] as Box, paths[near] as Ring, boxes[near] as Box, reach)) continue;
        seen[near] = 1;
        own.push(near);
      }
    }
    sets.push(own.sort((a, b) => a - b).map((i) => paths[i] as Ring));
  }
  return sets;
}

/** What has been looked at, for the next work that has the same letters. */
export interface KnownSpots {
  get(key: string): readonly Spot[] | undefined;
  set(key: string, spots: readonly Spot[]): unknown;
}

/** Spots of sets of rings; what has been looked at is known by its shape, wherever it lies. */
class ThinSpots {
  constructor(
    private readonly limitMm: number,
    private readonly known: KnownSpots,
  ) {}

  of(paths: Paths64, closing: boolean): Spot[] {
    return nearSets(paths, this.limitMm * SCALE).flatMap((set) => this.ofSet(set, closing));
  }

  private ofSet(set: Paths64, closing: boolean): Spot[] {
    const { x = 0, y = 0 } = set[0]?.[0] ?? {};
    const moved = set.map((ring) => ring.map((p) => ({ x: p.x - x, y: p.y - y })));
    // places differ by their rounding, which is far finer than what is looked for
    const key = `${this.limitMm} ${closing} ${moved.map((ring) => ring.map((p) => `${Math.round(p.x / 20)},${Math.round(p.y / 20)}`).join(' ')).join('/')}`;
    let spots = this.known.get(key);
    if (!spots) this.known.set(key, (spots = thinSpots(moved, this.limitMm, closing)));
    const [dx, dy] = [x / SCALE, y / SCALE];
    return spots.map((spot) => ({
      ...spot,
      x: spot.x + dx,
      y: spot.y + dy,
      box: { minX: spot.box.minX + dx, minY: spot.box.minY + dy, maxX: spot.box.maxX + dx, maxY: spot.box.maxY + dy },
    }));
  }
}

function thinSpots(paths: Paths64, limitMm: number, closing: boolean): Spot[] {
  const spots = spotsOf(leftOver(paths, limitMm, closing), limitMm, LEAST_LENGTH * limitMm);
  if (!spots.some(({ lengthMm }) => lengthMm < LONGEST_TAPER * limitMm)) return spots;
  const thinner = spotsOf(leftOver(paths, limitMm / 2, closing), limitMm / 2, 0);
  return spots.filter(({ box, lengthMm }) => {
    if (lengthMm >= LONGEST_TAPER * limitMm) return true;
    const within = thinner.filter(({ x, y }) => x >= box.minX && x <= box.maxX && y >= box.minY && y <= box.maxY);
    const share = within.reduce((sum, one) => sum + one.lengthMm, 0) / lengthMm;
    return share < TAPER_SHARE[0] || share > TAPER_SHARE[1];
  });
}

/** @returns stretches that are too thin, part by part, and gaps that are too narrow, in the film's whole work */
export function findThin(parts: readonly CheckPart[], { thinnestMm: limit }: FilmLimits, known: KnownSpots): Finding[] {
  if (!(limit > 0)) return [];
  const chord = CHORD_SHARE * limit;
  const out: Finding[] = [];
  const all: Paths64 = [];
  const looked = new ThinSpots(limit, known);
  for (const part of parts) {
    const { own, tooMany } = ringsOf(part.outline.contours, chord);
    if (tooMany > 0)
      out.push({
        code: 'not-worked-out',
        level: 'warning',
        text: `${tooMany === 1 ? 'An outline' : `${tooMany} outlines`} of “${part.name}” ${tooMany === 1 ? 'has' : 'have'} so many nodes that nobody looked whether it is too thin anywhere, or lies too near to others. Thin its nodes out on Draw (Make cuttable), or trace it anew.`,
        parts: [part.id],
      });
    for (const ring of own) all.push(ring);
    const spots = looked.of(own, false);
    if (spots[0]) {
      const longest = spots.reduce((a, b) => (b.lengthMm > a.lengthMm ? b : a));
      out.push({
        code: 'thin-part',
        level: 'warning',
        text: `“${part.name}” is thinner than ${round(limit)} mm${spots.length > 1 ? ` at ${spots.length} places` : ''}, over ${round(longest.lengthMm)} mm at the longest: it tears when it is weeded.`,
        place: { x: longest.x, y: longest.y },
        parts: [part.id],
      });
    }
  }
  const gaps = looked.of(all, true);
  const boxes = gaps.length > 0 ? parts.map(({ outline }) => outline.contours.map(contourBox)) : [];
  const narrow = gaps.map((spot, i): Finding => {
    return {
      code: 'thin-gap',
      level: 'warning',
      text: `A gap of less than ${round(limit)} mm over ${round(spot.lengthMm)} mm: what lies in it tears when it is weeded.`,
      place: { x: spot.x, y: spot.y },
      // of those that are only counted nobody asks whose they are
      parts: i < MOST_OF_A_KIND ? nearestParts(parts, boxes, spot) : [],
    };
  });
  return [...out, ...listed(narrow, MOST_OF_A_KIND)];
}

/** The parts whose boxes lie at a spot. @param boxes of the contours of each part */
function nearestParts(parts: readonly CheckPart[], boxes: readonly (readonly Box[])[], { x, y }: Spot): string[] {
  const reach = 2;
  const isNear = (b: Box): boolean => x > b.minX - reach && x < b.maxX + reach && y > b.minY - reach && y < b.maxY + reach;
  return [...new Set(parts.filter((_, i) => boxes[i]?.some(isNear)).map((part) => part.id))].slice(0, 4);
}
