/**
 * Treatments: live, ordered changes on an item. Each takes what stands there so far and adds pieces in other films;
 * the piece of the item itself is its face. Units mm, angles degrees counter-clockwise, in the item's own space.
 *
 * Ring: the silhouette so far grown (or shrunk) by a distance; backing is solid, band leaves the silhouette out.
 * Shade: the silhouette so far cast away from the letter: drop (a copy), block (the way swept), converging (swept
 * toward a point), cast (leaned and flattened on its foot line). Meeting: full lies under all of it, tucked reaches
 * under by some mm where it meets the letter, flush ends at its edge, gapped keeps off by some mm. Two-tone: the face on one side of an edge
 * goes into another film. Rings and shades widen the silhouette that later ones start from.
 * Pieces come in the order of the treatments, the face last; each is closed, without crossings and without parts
 * thinner than the limit. Cost: some welds and offsets a treatment.
 */
import type { Box, Matrix, Outline } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { area, bounds, isEmptyBox } from '../geometry/outline.ts';
import { mapOutline } from '../geometry/transform.ts';
import { offset } from '../geometry/offset/offset.ts';
import { keepOverlap, knockOut, weld } from '../geometry/weld/weld.ts';
import { sweepAlong, sweepToward } from './sweep.ts';
import { edgeRegion, type ToneEdge } from './tone-edge.ts';
import { trimSlivers } from './trim-slivers.ts';

/** A ring round the shape, mm. */
export interface RingTreatment {
  readonly kind: 'ring';
  /** Outward; inward when negative. */
  readonly distanceMm: number;
  readonly corner: 'round' | 'mitre' | 'bevel';
  readonly fill: 'backing' | 'band';
}

/** How a shade meets what casts it: under all of it, a little under it, edge to edge, or apart. */
export type Meeting = 'full' | 'tucked' | 'flush' | 'gapped';

/** A shade of the shape, in a direction. */
export interface ShadeTreatment {
  readonly kind: 'shade';
  readonly shade: 'drop' | 'block' | 'converging' | 'cast';
  /** Of drop and block: direction the shade falls; of cast: the lean from upright to the right. */
  readonly angleDeg: number;
  /** Of drop and block: how far. */
  readonly depthMm: number;
  /** Of converging: the point, from the middle of the item's box. */
  readonly pointXMm: number;
  readonly pointYMm: number;
  /** Of converging: how far toward the point; of cast: height of the shadow; percent. */
  readonly reachPct: number;
  readonly meeting: Meeting;
  /** Of tucked and gapped. */
  readonly meetingMm: number;
}

/** A shape in two films, along an edge. */
export interface ToneTreatment extends ToneEdge {
  readonly kind: 'two-tone';
}

/** What a shape is given besides itself. */
export type Treatment = RingTreatment | ShadeTreatment | ToneTreatment;

/** What one treatment leaves to be cut; the item’s face is one too. */
export interface Piece {
  /** The treatment's place in the list; -1 is the item's own face. */
  readonly index: number;
  readonly outline: Outline;
}

/** All pieces, and treatments that leave nothing. */
export interface Evaluated {
  /** Treatments in order, the face last; empty ones left out. */
  readonly pieces: readonly Piece[];
  /** Treatments that leave nothing, and why. */
  readonly notes: readonly { readonly index: number; readonly text: string }[];
}

const FARTHEST_MM = 1e4;
const TOL = 0.0048;

function checkLength(name: string, value: number, low: number, high: number): void {
  if (!(value >= low && value <= high))
    throw new InputError('treatment', `${name} is ${value}; it must lie between ${low} and ${high}.`, { field: name });
}

/** The item's shape grown by `mm`, inward when negative; true corners stay true corners. */
const grown = (shape: Outline, mm: number): Outline =>
  mm === 0 ? shape : offset(shape, mm, { join: mm > 0 ? 'round' : 'mitre', tol: TOL, clean: true });

interface Made {
  readonly piece: Outline;
  /** The silhouette afterwards: what was there and what the treatment covers. */
  readonly silhouette: Outline;
}

function ring(base: Outline, t: RingTreatment): Made {
  checkLength('distanceMm', t.distanceMm, -FARTHEST_MM, FARTHEST_MM);
  const outer = offset(base, t.distanceMm, { join: t.corner, tol: TOL, clean: true });
  if (t.distanceMm >= 0) return { piece: t.fill === 'backing' ? outer : knockOut(outer, [base]), silhouette: outer };
  return { piece: t.fill === 'backing' ? outer : knockOut(base, [outer]), silhouette: base };
}

function castMap(box: Box, leanDeg: number, share: number): Matrix {
  const lean = Math.tan((Math.max(-80, Math.min(80, leanDeg)) * Math.PI) / 180) * share;
  return [1, 0, lean, share, -lean * box.minY, box.minY * (1 - share)];
}

function coverOf(base: Outline, box: Box, t: ShadeTreatment): Outline {
  const angle = (t.angleDeg * Math.PI) / 180;
  const [dx, dy] = [t.depthMm * Math.cos(angle), t.depthMm * Math.sin(angle)];
  switch (t.shade) {
    case 'drop':
      return mapOutline([1, 0, 0, 1, dx, dy], base);
    case 'block':
      return sweepAlong(base, dx, dy);
    case 'converging': {
      const p = { x: (box.minX + box.maxX) / 2 + t.pointXMm, y: (box.minY + box.maxY) / 2 + t.pointYMm };
      return sweepToward(base, p, Math.min(1, Math.max(0, t.reachPct / 100)));
    }
    case 'cast':
      return mapOutline(castMap(box, t.angleDeg, t.reachPct / 100), base);
  }
}

/**
 * What is seen of a shade, and of the letter what lies within the tuck of that: it reaches under where the two meet, and
 * nowhere else.
 */
function tucked(cover: Outline, base: Outline, silhouette: Outline, tuckMm: number): Outline {
  const seen = knockOut(cover, [base]);
  return tuckMm === 0 || seen.contours.length === 0 ? seen : keepOverlap([silhouette, grown(seen, tuckMm)]);
}

function shade(base: Outline, itemBox: Box, t: ShadeTreatment): Made {
  checkLength('depthMm', t.depthMm, 0, FARTHEST_MM);
  checkLength('reachPct', t.reachPct, t.shade === 'cast' ? -1000 : 0, 1000);
  checkLength('meetingMm', t.meetingMm, 0, FARTHEST_MM);
  const cover = coverOf(base, itemBox, t);
  // a sweep holds what is swept; copies and casts do not
  const silhouette = t.shade === 'block' || t.shade === 'converging' ? cover : weld([cover, base]);
  switch (t.meeting) {
    case 'full':
      return { piece: silhouette, silhouette };
    case 'flush':
      return { piece: knockOut(cover, [base]), silhouette };
    case 'tucked':
      return { piece: tucked(cover, base, silhouette, t.meetingMm), silhouette };
    case 'gapped':
      return { piece: knockOut(cover, [grown(base, t.meetingMm)]), silhouette };
  }
}

/**
 * @param item an outline in its own space
 * @param limitMm parts thinner than this are taken off the pieces; 0 keeps all
 * @throws InputError `input.treatment` for impossible figures
 */
export function evaluateTreatments(item: Outline, treatments: readonly Treatment[], limitMm: number): Evaluated {
  const closed: Outline = { contours: item.contours.filter((contour) => contour.closed) };
  const itemBox = bounds(closed);
  if (isEmptyBox(itemBox) || treatments.length === 0) return { pieces: [{ index: -1, outline: item }], notes: [] };
  let silhouette = treatments.every((t) => t.kind === 'two-tone') ? closed : weld([closed]);
  let face = item;
  const pieces: Piece[] = [];
  const notes: { index: number; text: string }[] = [];
  treatments.forEach((t, index) => {
    let piece: Outline;
    if (t.kind === 'two-tone') {
      const region = edgeRegion(itemBox, t);
      piece = keepOverlap([face, region]);
      face = knockOut(face, [region]);
    } else {
      const made = t.kind === 'ring' ? ring(silhouette, t) : shade(silhouette, itemBox, t);
      piece = made.piece;
      silhouette = made.silhouette;
    }
    const kept = trimSlivers(piece, limitMm);
    if (kept.contours.length > 0) pieces.push({ index, outline: kept });
    else notes.push({ index, text: emptyText(t) });
  });
  if (face !== item) face = withoutNewSlivers(face, closed, limitMm);
  return { pieces: [...pieces, { index: -1, outline: face }].filter((piece) => piece.outline.contours.length > 0), notes };
}

/** A face that was divided, less what that left too thin to weed; strokes that were as thin before stay. */
function withoutNewSlivers(face: Outline, before: Outline, limitMm: number): Outline {
  const kept = trimSlivers(face, limitMm);
  if (kept === face) return face;
  const thinBefore = knockOut(before, [trimSlivers(before, limitMm)]);
  const fresh = knockOut(face, [kept, thinBefore]);
  return Math.abs(area(fresh)) <= limitMm * limitMm * NEW_SHARE ? face : knockOut(face, [fresh]);
}

/** Of the limit squared: less is rounding where thin strokes begin. */
const NEW_SHARE = 0.05;

function emptyText(t: Treatment): string {
  if (t.kind === 'ring')
    return t.distanceMm < 0 ? 'The shape is not thick enough for a ring this far inward.' : 'This ring leaves nothing.';
  if (t.kind === 'shade') return 'This shade leaves nothing beside the letters: make it deeper, or let it meet in full.';
  return 'The edge does not run through the shape.';
}
