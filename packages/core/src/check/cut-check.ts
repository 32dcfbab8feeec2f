/**
 * Cut check: what would go wrong on the cutter, each finding with its place.
 * Crossings by a spatial index over fine polylines; doubled lines by sampling each contour against the others.
 * Units mm; polylines within 0.01 mm. Cost O(n log n) in segments. Not found: crossings of less than 0.01 mm.
 */
import Flatbush from 'flatbush';
import type { Box, Contour, Outline, Point } from '../types/index.ts';
import { flattenContour, type Polyline } from '../geometry/flatten.ts';
import { segmentDistance } from '../geometry/hit.ts';
import { bounds, contourBox, contourEnd, contourStart, EMPTY_BOX, isEmptyBox, joinBoxes } from '../geometry/outline.ts';
import { at } from '../geometry/span.ts';
import { listed } from './listed.ts';
import { findIslands, findThin, findTiny, type FilmLimits, type KnownSpots, type Spot } from './weeding.ts';
import { findBumps, findCrowded } from './nodes.ts';

/** What can be found, by name. */
export type FindingCode =
  | 'nothing-to-cut'
  | 'open-outline'
  | 'crossing'
  | 'doubled'
  | 'off-material'
  | 'tiny-part'
  | 'thin-part'
  | 'thin-gap'
  | 'many-nodes'
  | 'bump'
  | 'hidden'
  | 'off-drawing'
  | 'film-missing'
  | 'coarse-picture'
  | 'missing-letters'
  | 'not-worked-out'
  | 'not-listed'
  | 'no-roll'
  | 'edge-cut-empty'
  | 'marks'
  | 'nothing-printed'
  | 'no-cut-line'
  | 'printed-nowhere'
  | 'opaque-ground'
  | 'inside-same-film'
  | 'island'
  | 'build-sliver'
  | 'trap-wide'
  | 'same-colour'
  | 'in-margin'
  | 'lies-on-another'
  | 'grain-broken'
  | 'no-place'
  | 'nest-old'
  | 'roll-short'
  | 'series'
  | 'row-empty'
  | 'row-too-long'
  | 'row-letters'
  | 'row-picture'
  | 'row-doubled'
  | 'field-gone'
  | 'column-gone'
  | 'counter-over'
  | 'panels'
  | 'seam-crosses'
  | 'edge-into-art'
  | 'lines-meet'
  | 'edge-small'
  | 'bleed-missing'
  | 'edge-sharp'
  | 'no-bridges'
  | 'no-white'
  | 'passes';

/** Something that was found: what, where, and whether it stops the job. */
export interface Finding {
  readonly code: FindingCode;
  /** Stop: must not be sent. Warning: may be meant. */
  readonly level: 'stop' | 'warning';
  readonly text: string;
  readonly place?: Point | undefined;
  readonly box?: Box | undefined;
  /** Ids of the parts concerned. */
  readonly parts: readonly string[];
  /** Row of a series, from 0. */
  readonly row?: number | undefined;
  /** A seam of panels that lies badly, and the nearest place that is free. */
  readonly seam?: { readonly axis: 'x' | 'y'; readonly from: number; readonly to: number } | undefined;
}

/** A part that is looked through. */
export interface CheckPart {
  readonly id: string;
  readonly name: string;
  readonly outline: Outline;
}

const CHORD_MM = 0.01;
/** Lines nearer than this for a stretch are one line cut twice. */
const DOUBLED_MM = 0.05;
/** Shortest stretch that counts as doubled. */
const DOUBLED_LENGTH_MM = 2;
const MOST_FINDINGS = 200;

interface Piece {
  part: CheckPart;
  contour: Contour;
  line: Polyline;
}

interface Segments {
  xy: Float64Array;
  piece: Int32Array;
  tree: Flatbush;
}

function piecesOf(parts: readonly CheckPart[]): Piece[] {
  return parts.flatMap((part) => part.outline.contours.map((contour) => ({ part, contour, line: flattenContour(contour, CHORD_MM) })));
}

function indexSegments(pieces: readonly Piece[]): Segments | undefined {
  const xy: number[] = [];
  const piece: number[] = [];
  pieces.forEach(({ line }, p) => {
    const n = line.xy.length / 2;
    for (let i = 0; i < (line.closed ? n : n - 1); i++) {
      const j = (i + 1) % n;
      xy.push(at(line.xy, 2 * i), at(line.xy, 2 * i + 1), at(line.xy, 2 * j), at(line.xy, 2 * j + 1));
      piece.push(p);
    }
  });
  if (piece.length === 0) return undefined;
  const tree = new Flatbush(piece.length);
  for (let i = 0; i < xy.length; i += 4) {
    tree.add(
      Math.min(at(xy, i), at(xy, i + 2)),
      Math.min(at(xy, i + 1), at(xy, i + 3)),
      Math.max(at(xy, i), at(xy, i + 2)),
      Math.max(at(xy, i + 1), at(xy, i + 3)),
    );
  }
  tree.finish();
  return { xy: Float64Array.from(xy), piece: Int32Array.from(piece), tree };
}

/** Where two segments cross in their insides; undefined when they only touch or run along one another. */
function properCrossing(xy: Float64Array, a: number, b: number): Point | undefined {
  const [ax, ay, bx, by] = [at(xy, 4 * a), at(xy, 4 * a + 1), at(xy, 4 * a + 2), at(xy, 4 * a + 3)];
  const [cx, cy, dx, dy] = [at(xy, 4 * b), at(xy, 4 * b + 1), at(xy, 4 * b + 2), at(xy, 4 * b + 3)];
  const det = (bx - ax) * (dy - cy) - (by - ay) * (dx - cx);
  const lengths = Math.hypot(bx - ax, by - ay) * Math.hypot(dx - cx, dy - cy);
  if (Math.abs(det) <= 1e-6 * lengths) return undefined;
  const t = ((cx - ax) * (dy - cy) - (cy - ay) * (dx - cx)) / det;
  const u = ((cx - ax) * (by - ay) - (cy - ay) * (bx - ax)) / det;
  const slack = 1e-7;
  return t > slack && t < 1 - slack && u > slack && u < 1 - slack ? { x: ax + t * (bx - ax), y: ay + t * (by - ay) } : undefined;
}

const pairKey = (a: number, b: number): string => (a < b ? `${a}:${b}` : `${b}:${a}`);

function findCrossings(pieces: readonly Piece[], segments: Segments, doubled: ReadonlySet<string>): Finding[] {
  const found = new Map<string, { place: Point; count: number; a: number; b: number }>();
  const { xy, piece, tree } = segments;
  for (let i = 0; i < piece.length; i++) {
    const box = [
      Math.min(at(xy, 4 * i), at(xy, 4 * i + 2)),
      Math.min(at(xy, 4 * i + 1), at(xy, 4 * i + 3)),
      Math.max(at(xy, 4 * i), at(xy, 4 * i + 2)),
      Math.max(at(xy, 4 * i + 1), at(xy, 4 * i + 3)),
    ] as const;
    tree.search(...box, (j) => {
      if (j <= i) return false;
      const place = properCrossing(xy, i, j);
      if (!place) return false;
      const [a, b] = [at(piece, i), at(piece, j)];
      const key = pairKey(a, b);
      const known = found.get(key);
      if (known) known.count++;
      else if (!doubled.has(key)) found.set(key, { place, count: 1, a, b });
      return false;
    });
  }
  return [...found.values()].map(({ place, count, a, b }) => {
    const [first, second] = [(pieces[a] as Piece).part, (pieces[b] as Piece).part];
    const own = first.id === second.id;
    const times = count > 1 ? ` at ${count} places` : '';
    return {
      code: 'crossing',
      level: 'warning',
      text: own
        ? `The outline of “${first.name}” crosses itself${times}.`
        : `“${first.name}” and “${second.name}” cross in the same film${times}.`,
      place,
      parts: own ? [first.id] : [first.id, second.id],
    };
  });
}

interface Samples {
  x: number;
  y: number;
  step: number;
}

function sampleLine(line: Polyline): Samples[] {
  const out: Samples[] = [];
  const n = line.xy.length / 2;
  for (let i = 0; i < (line.closed ? n : n - 1); i++) {
    const j = (i + 1) % n;
    const [ax, ay, bx, by] = [at(line.xy, 2 * i), at(line.xy, 2 * i + 1), at(line.xy, 2 * j), at(line.xy, 2 * j + 1)];
    const length = Math.hypot(bx - ax, by - ay);
    const parts = Math.max(1, Math.ceil(length / 1));
    for (let k = 0; k < parts; k++)
      out.push({ x: ax + ((k + 0.5) / parts) * (bx - ax), y: ay + ((k + 0.5) / parts) * (by - ay), step: length / parts });
  }
  return out;
}

function findDoubled(pieces: readonly Piece[], segments: Segments): { findings: Finding[]; keys: Set<string> } {
  const shared = new Map<string, { length: number; place: Point; a: number; b: number }>();
  const { xy, piece, tree } = segments;
  pieces.forEach(({ line }, a) => {
    for (const { x, y, step } of sampleLine(line)) {
      const near = new Set<number>();
      tree.search(x - DOUBLED_MM, y - DOUBLED_MM, x + DOUBLED_MM, y + DOUBLED_MM, (s) => {
        const b = at(piece, s);
        const close = b !== a && segmentDistance(x, y, at(xy, 4 * s), at(xy, 4 * s + 1), at(xy, 4 * s + 2), at(xy, 4 * s + 3)) < DOUBLED_MM;
        if (close) near.add(b);
        return false;
      });
      for (const b of near) {
        const key = pairKey(a, b);
        const known = shared.get(key);
        if (known) known.length += step / 2;
        else shared.set(key, { length: step / 2, place: { x, y }, a, b });
      }
    }
  });
  const findings: Finding[] = [];
  const keys = new Set<string>();
  for (const [key, { length, place, a, b }] of shared) {
    const [first, second] = [pieces[a] as Piece, pieces[b] as Piece];
    if (length < DOUBLED_LENGTH_MM) continue;
    keys.add(key);
    const names = first.part.id === second.part.id ? `“${first.part.name}” with itself` : `“${first.part.name}” and “${second.part.name}”`;
    findings.push({
      code: 'doubled',
      level: 'warning',
      text: `${length.toFixed(0)} mm of outline would be cut twice: ${names}.`,
      place,
      parts: [...new Set([first.part.id, second.part.id])],
    });
  }
  return { findings, keys };
}

/** A part of open lines alone is meant so: one remark instead of one a line. */
function linesOnly(part: CheckPart): Finding[] {
  const n = part.outline.contours.length;
  return [
    {
      code: 'open-outline',
      level: 'warning',
      text: `“${part.name}” is made of ${n} open lines: right for a pen or an engraver; cut from film they leave nothing to weed.`,
      place: contourStart(part.outline.contours[0] as Contour),
      box: bounds(part.outline),
      parts: [part.id],
    },
  ];
}

function findOpen(parts: readonly CheckPart[]): Finding[] {
  return parts.flatMap((part) => {
    const { contours } = part.outline;
    return contours.length > 1 && contours.every((contour) => !contour.closed) ? linesOnly(part) : openOutlines(part);
  });
}

const openOutlines = (part: CheckPart): Finding[] =>
  part.outline.contours
    .filter((contour) => !contour.closed)
    .map((contour): Finding => {
      const [a, b] = [contourStart(contour), contourEnd(contour)];
      const gapMm = Math.hypot(a.x - b.x, a.y - b.y);
      return {
        code: 'open-outline',
        level: 'warning',
        text: `The outline of “${part.name}” is open: ${gapMm.toFixed(2)} mm lie between its ends, so it cannot be weeded.`,
        place: a,
        box: contourBox(contour),
        parts: [part.id],
      };
    });

/**
 * Findings within one film’s work, with the film’s own limits when given.
 * @param known thin spots of letters that were looked at before; kept by whoever asks again and again
 * @returns at most 200, the last of which tells of those that are not listed; none when all is well
 */
export function checkFilm(
  parts: readonly CheckPart[],
  limits?: FilmLimits,
  known: KnownSpots = new Map<string, readonly Spot[]>(),
): Finding[] {
  const total = parts.reduce((sum, part) => sum + part.outline.contours.length, 0);
  if (total === 0) return [{ code: 'nothing-to-cut', level: 'stop', text: 'There is nothing to cut.', parts: [] }];
  const pieces = piecesOf(parts);
  const segments = indexSegments(pieces);
  const open = findOpen(parts);
  if (!segments) return open;
  const doubled = findDoubled(pieces, segments);
  const small = limits
    ? [
        ...findTiny(parts, limits),
        ...findIslands(parts, limits),
        ...findThin(parts, limits, known),
        ...findCrowded(parts),
        ...findBumps(parts),
      ]
    : [];
  return listed([...open, ...doubled.findings, ...findCrossings(pieces, segments, doubled.keys), ...small], MOST_FINDINGS);
}

/**
 * Pairs of contours that cross one another, by their numbers; a contour that crosses itself is paired with itself.
 * @complexity flattened segments, by an index
 */
export function crossingPairs({ contours }: Outline): [number, number][] {
  const parts = contours.map((contour, i): CheckPart => ({ id: String(i), name: '', outline: { contours: [contour] } }));
  const pieces = piecesOf(parts);
  const segments = indexSegments(pieces);
  if (!segments) return [];
  return findCrossings(pieces, segments, new Set()).map(({ parts: [a, b] }) => [Number(a), Number(b ?? a)]);
}

/**
 * Findings of work on its material: parts beyond the edges of [0,length]×[0,width], by their boxes.
 * @param parts boxes as they lie on the material, mm
 * @returns a finding a part that reaches beyond, told once for all of its copies
 */
export function checkSheet(
  parts: readonly (Omit<CheckPart, 'outline'> & { readonly box: Box })[],
  lengthMm: number,
  widthMm: number,
): Finding[] {
  const out: Finding[] = [];
  const seen = new Set<string>();
  for (const { box, ...part } of parts) {
    if (isEmptyBox(box) || seen.has(part.id)) continue;
    const over = Math.max(-box.minX, -box.minY, box.maxX - lengthMm, box.maxY - widthMm);
    if (over <= 0.005) continue;
    seen.add(part.id);
    out.push({
      code: 'off-material',
      level: 'stop',
      text: `“${part.name}” reaches ${over.toFixed(1)} mm beyond the material.`,
      place: { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 },
      box: joinBoxes(EMPTY_BOX, box),
      parts: [part.id],
    });
  }
  return out;
}
