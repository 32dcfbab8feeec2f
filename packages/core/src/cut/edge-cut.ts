/**
 * The line a blade follows round artwork: at a distance from the outlines, out or in, or a plain shape round their box.
 * Method: the union of the outlines (`weld`), its holes left out unless wanted, parts nearer than a distance joined by a
 * closing (grown and shrunk by half of it; Serra, Image Analysis and Mathematical Morphology, 1982), then the parallel
 * with round joins (`offset`), then smoothed by an opening and a closing with circles of the given radius.
 * Units mm. Every point lies at the distance from the artwork, within 10 µm, where nothing is joined or smoothed. Nodes are as
 * many as the artwork's, the arcs round its corners aside, unless a curve cannot be followed by one so nearly, or that would
 * take too long: outlines that wave by a fifth have a quarter more. Not handled: open outlines, which have no inside; they are
 * left out.
 */
import type { Contour, Outline } from '../types/index.ts';
import { InputError, LimitError } from '../errors/index.ts';
import { offset } from '../geometry/offset/offset.ts';
import { bounds, EMPTY_BOX, EMPTY_OUTLINE, isEmptyBox, joinBoxes, nodeCount } from '../geometry/outline.ts';
import { boxShape, ovalShape } from '../geometry/shapes.ts';
import { mapOutline, translation } from '../geometry/transform.ts';
import { weld } from '../geometry/weld/weld.ts';
import { containment } from './order-cuts.ts';

/** Where the line runs round the art. mm. */
export interface EdgeCutOptions {
  readonly shape: 'follow' | 'box' | 'rounded' | 'oval' | 'circle';
  /** Outward; negative: inward. */
  readonly distanceMm: number;
  /** Radius of the circles that smooth it. */
  readonly smooth?: number;
  /** Radius of the corners of the rounded box. */
  readonly cornerMm?: number;
  readonly holes?: boolean;
  readonly joinWithinMm?: number;
}

const FARTHEST_MM = 1e4;
/** Nodes of one outline that a line follows: of more, where they lie close, it would take minutes. */
const MOST_NODES = 30_000;

/** Contours that no other holds, of a welded outline: those do not overlap, so they need no weld of their own. */
function withoutHoles({ contours }: Outline): Outline {
  if (contours.length < 2) return { contours };
  const parent = containment(contours);
  return { contours: contours.filter((_: Contour, i: number) => (parent[i] ?? -1) < 0) };
}

/** How far the line may be off, a hair less than 10 µm, mm; what is worked on before it may be so much each time. */
const TOLERANCE_MM = 0.0095;
const BEFORE_MM = 0.0005;

function follow(artwork: Outline, options: EdgeCutOptions): Outline {
  const { distanceMm, smooth = 0, holes = false, joinWithinMm = 0 } = options;
  const solidOf = (outline: Outline): Outline => (holes ? outline : withoutHoles(outline));
  const closing = joinWithinMm > 0 ? [joinWithinMm / 2, -joinWithinMm / 2] : [];
  // grown twice by circles is grown once by the sum; only what is shrunk first has to be
  const round = distanceMm >= 0 ? [distanceMm + smooth] : [distanceMm, smooth];
  const distances = [...closing, ...(smooth > 0 ? [...round, -2 * smooth, smooth] : [distanceMm])].filter((byMm) => byMm !== 0);
  const line = distances.reduce((shape, byMm, i) => {
    const isLast = i === distances.length - 1;
    const tol = isLast ? TOLERANCE_MM - BEFORE_MM * (distances.length - 1) : BEFORE_MM;
    const next = offset(shape, byMm, { join: 'round', clean: true, nodes: isLast ? 'likeOutline' : 'any', tol });
    // what was a bay before the parts were joined may be a hole now
    return i === closing.length - 1 ? solidOf(next) : next;
  }, solidOf(artwork));
  return distanceMm > 0 ? solidOf(line) : line;
}

/**
 * @param outlines the artwork, mm
 * @returns closed contours; none when the distance inward is more than the artwork is thick, or there is no artwork
 * @throws InputError `input.distance` beyond 10 m; LimitError `limit.nodes` for an outline of more than 30 000 nodes
 * @complexity that of the weld and of four parallels
 */
export function edgeCut(outlines: readonly Outline[], options: EdgeCutOptions): Outline {
  const { distanceMm } = options;
  if (!(Math.abs(distanceMm) <= FARTHEST_MM)) throw new InputError('distance', 'An edge cut lies at most 10 m from what it goes round.');
  const closed = outlines.map(({ contours }) => ({ contours: contours.filter((contour) => contour.closed) }));
  if (options.shape === 'follow') {
    const nodes = closed
      .flatMap(({ contours }) => contours)
      .reduce((most, contour) => Math.max(most, nodeCount({ contours: [contour] })), 0);
    if (nodes > MOST_NODES)
      throw new LimitError(
        'nodes',
        `A line follows outlines of at most ${MOST_NODES} nodes, and one of this art has ${nodes}. Thin its nodes out (Make cuttable), or go round it with a box.`,
      );
    const artwork = weld(closed);
    return artwork.contours.length === 0 ? EMPTY_OUTLINE : follow(artwork, options);
  }
  const box = closed.reduce((sum, outline) => joinBoxes(sum, bounds(outline)), EMPTY_BOX);
  if (isEmptyBox(box)) return EMPTY_OUTLINE;
  // an oval touches the corners of the box when it is wider by the root of two
  const stretch = options.shape === 'oval' ? Math.SQRT2 : 1;
  const [across, along] = [box.maxX - box.minX, box.maxY - box.minY];
  const round = Math.hypot(across, along);
  const width = (options.shape === 'circle' ? round : across * stretch) + 2 * distanceMm;
  const height = (options.shape === 'circle' ? round : along * stretch) + 2 * distanceMm;
  if (width <= 0 || height <= 0) return EMPTY_OUTLINE;
  const corner = options.shape === 'rounded' ? Math.min(options.cornerMm ?? 0, width / 2, height / 2) : 0;
  const shape = options.shape === 'oval' || options.shape === 'circle' ? ovalShape(width, height) : boxShape(width, height, corner);
  const own = bounds(shape);
  return mapOutline(translation((box.minX + box.maxX - own.minX - own.maxX) / 2, (box.minY + box.maxY - own.minY - own.maxY) / 2), shape);
}
