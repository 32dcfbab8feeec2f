/**
 * Place marks: small shapes round the work, cut on every film in its own colour, so that films which are cut apart are
 * laid on one another by them. The same box and settings give the same marks. Units mm.
 */
import type { Box, Outline } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { isEmptyBox } from '../geometry/outline.ts';
import { boxShape, ovalShape, polygonShape } from '../geometry/shapes.ts';
import { compose, mapOutline, rotation, translation } from '../geometry/transform.ts';
import { weld } from '../geometry/weld/weld.ts';

/** Marks round the work by which films are laid on one another. */
export interface PlaceMarks {
  readonly shape: 'cross' | 'dot' | 'square' | 'arrow';
  /** Corners of the work, or the middles of its sides. */
  readonly at: 'corners' | 'sides';
  readonly sizeMm: number;
  /** From the work's box to the mark. */
  readonly distanceMm: number;
}

const CROSS_SHARE = 0.2;

function shapeOf(shape: PlaceMarks['shape'], sizeMm: number): Outline {
  const middle = translation(-sizeMm / 2, -sizeMm / 2);
  switch (shape) {
    case 'dot':
      return mapOutline(middle, ovalShape(sizeMm, sizeMm));
    case 'square':
      return mapOutline(middle, boxShape(sizeMm, sizeMm));
    case 'arrow':
      return polygonShape(3, sizeMm / 2);
    case 'cross': {
      const arm = CROSS_SHARE * sizeMm;
      return weld([
        mapOutline(translation(-sizeMm / 2, -arm / 2), boxShape(sizeMm, arm)),
        mapOutline(translation(-arm / 2, -sizeMm / 2), boxShape(arm, sizeMm)),
      ]);
    }
  }
}

/**
 * @param work what the marks stand round: the box of all films together
 * @returns four marks; none for no work
 * @throws InputError `input.place-marks` for an impossible size or distance
 */
export function placeMarksFor(work: Box, { shape, at, sizeMm, distanceMm }: PlaceMarks): Outline {
  if (!(sizeMm > 0 && sizeMm <= 500))
    throw new InputError('place-marks', `A place mark is larger than 0 and at most 500 mm, not ${sizeMm}.`, { field: 'sizeMm' });
  if (!(distanceMm >= 0 && distanceMm <= 1000))
    throw new InputError('place-marks', `Place marks lie 0 to 1000 mm from the work, not ${distanceMm}.`, { field: 'distanceMm' });
  if (isEmptyBox(work)) return { contours: [] };
  const out = distanceMm + sizeMm / 2;
  const [left, low, right, high] = [work.minX - out, work.minY - out, work.maxX + out, work.maxY + out];
  const [midX, midY] = [(work.minX + work.maxX) / 2, (work.minY + work.maxY) / 2];
  const places: readonly (readonly [number, number, number])[] =
    at === 'corners'
      ? [
          [left, low, 0],
          [right, low, 90],
          [right, high, 180],
          [left, high, 270],
        ]
      : [
          [midX, low, 0],
          [right, midY, 90],
          [midX, high, 180],
          [left, midY, 270],
        ];
  const mark = shapeOf(shape, sizeMm);
  return { contours: places.flatMap(([x, y, turn]) => mapOutline(compose(translation(x, y), rotation(turn)), mark).contours) };
}
