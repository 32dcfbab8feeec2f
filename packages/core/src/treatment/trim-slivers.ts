/**
 * Slivers: what is thinner than a limit is taken off, so that everything left can be weeded. Corners stay sharp.
 * Method: morphological opening (J. Serra, Image Analysis and Mathematical Morphology, 1982) by half the limit says
 * what is thick enough; grown by as much again it reaches into the corners (all of 60 degrees and more). This is
 * looked for on polylines, which is quick; only where something thin is found the true outline is cut there, so
 * that everything else keeps its spans. Units mm. Cost: polygon offsets, and a weld where something goes.
 */
import { Clipper, EndType, FillRule, JoinType } from 'clipper2-ts';
import type { Outline } from '../types/index.ts';
import { contourArea, contourLength, EMPTY_OUTLINE, polygon } from '../geometry/outline.ts';
import { flatten } from '../geometry/flatten.ts';
import { knockOut } from '../geometry/weld/weld.ts';

type Ring = { x: number; y: number }[];

/** Polyline accuracy as a share of the limit. */
const CHORD_SHARE = 0.1;
/** Units of the polygons a mm. */
const SCALE = 1e4;
/** A thin spot smaller than this share of the limit squared is the tip of a corner. */
const DUST_SHARE = 0.3;

/** Whole contours thinner than the limit on average: parts that vanish and holes that fill. */
function dropThin(shape: Outline, limitMm: number): Outline {
  const contours = shape.contours.filter((contour) => {
    const length = contourLength(contour);
    return length > 0 && (2 * Math.abs(contourArea(contour))) / length >= limitMm;
  });
  return contours.length === shape.contours.length ? shape : { contours };
}

const ringsOf = (shape: Outline, chord: number): Ring[] =>
  flatten(shape, chord).map(({ xy }) => {
    const ring: Ring = [];
    for (let i = 0; i < xy.length; i += 2)
      ring.push({ x: Math.round((xy[i] as number) * SCALE), y: Math.round((xy[i + 1] as number) * SCALE) });
    return ring;
  });

const inflate = (rings: Ring[], byMm: number, join: JoinType, chord: number): Ring[] =>
  Clipper.inflatePaths(rings, byMm * SCALE, join, EndType.Polygon, 3, chord * SCALE);

/** @returns the shape less what is thinner than `limitMm`; the same shape when there is nothing of that kind */
export function trimSlivers(shape: Outline, limitMm: number): Outline {
  if (limitMm <= 0 || shape.contours.length === 0) return shape;
  const bulk = dropThin(shape, limitMm * 0.9);
  const chord = CHORD_SHARE * limitMm;
  const rings = ringsOf(bulk, chord);
  const core = inflate(rings, -limitMm / 2, JoinType.Miter, chord);
  if (core.length === 0) return EMPTY_OUTLINE;
  const reach = inflate(core, limitMm, JoinType.Round, chord);
  const dust = DUST_SHARE * limitMm * limitMm * SCALE * SCALE;
  const thin = Clipper.difference(rings, reach, FillRule.NonZero).filter((ring) => Math.abs(Clipper.area(ring)) > dust);
  if (thin.length === 0) return bulk;
  const cutter = Clipper.difference(inflate(thin, limitMm * 0.75, JoinType.Round, chord), reach, FillRule.NonZero);
  const contours = cutter.map((ring) => polygon(ring.flatMap((p) => [p.x / SCALE, p.y / SCALE])));
  return dropThin(knockOut(bulk, [{ contours }]), limitMm * 0.5);
}
