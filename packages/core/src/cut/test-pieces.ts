/**
 * Small pieces that try a tool out: a test cut, a blade test, squares that a camera looks at to learn where it looks.
 * Units: mm, y up, from the origin to the upper right.
 */
import type { Contour, Outline, Point, Span } from '../types/index.ts';
import { boxShape } from '../geometry/shapes.ts';
import { mapOutline, translation } from '../geometry/transform.ts';

const line = (...points: readonly [number, number][]): Contour => ({
  closed: false,
  spans: points.slice(1).map(([x, y], i): Span => [...(points[i] as [number, number]), x, y]),
});

const boxAt = (x: number, y: number, size: number): Outline => mapOutline(translation(x, y), boxShape(size, size));

/** Side of a test cut, mm. */
export const TEST_CUT_MM = 15;

/**
 * A square with a triangle in it: whether the film lifts clean, and whether the liner is cut, shows at once.
 * @returns `TEST_CUT_MM` wide, its lower left corner at the origin
 */
export function testCut(): Outline {
  const triangle: Contour = {
    closed: true,
    spans: [
      [4, 4, 11, 4],
      [11, 4, 7.5, 11],
      [7.5, 11, 4, 4],
    ],
  };
  return { contours: [triangle, ...boxAt(0, 0, TEST_CUT_MM).contours] };
}

/** One try of a blade test. */
export interface BladeTry {
  readonly bladeOffsetMm: number;
  /** A star and a square, whose corners show a wrong offset. */
  readonly outline: Outline;
}

const STAR_POINTS = 5;
const TRY_MM = 22;

/**
 * The same sharp shapes several times over, from left to right, each to be turned for its own blade offset, in steps
 * about the one that is set; so many short strokes above each tell which it is.
 * @param step between two tries, mm
 */
export function bladeTest(aboutMm: number, step = 0.05, tries = 5): BladeTry[] {
  const first = Math.max(0, aboutMm - step * Math.floor(tries / 2));
  return Array.from({ length: tries }, (_, i): BladeTry => {
    const x = i * TRY_MM;
    const corner = (k: number): [number, number] => {
      const [r, turn] = [k % 2 === 0 ? 8 : 3.2, (k * Math.PI) / STAR_POINTS];
      return [x + 9 + r * Math.sin(turn), 22 + r * Math.cos(turn)];
    };
    const star: Contour = {
      closed: true,
      spans: Array.from({ length: 2 * STAR_POINTS }, (__, k): Span => [...corner(k), ...corner((k + 1) % (2 * STAR_POINTS))]),
    };
    const strokes = Array.from({ length: i + 1 }, (__, k) => line([x + 3 + 3 * k, 33], [x + 3 + 3 * k, 37]));
    return {
      bladeOffsetMm: Math.round((first + i * step) * 1000) / 1000,
      outline: { contours: [star, ...boxAt(x + 4, 0, 10).contours, ...strokes] },
    };
  });
}

/** Half the side of a calibration square, and how far its cross reaches, mm. */
export const CALIBRATION = { halfMm: 8, armMm: 5, lineMm: 0.4 } as const;

/**
 * A square with a cross in its middle.
 * @param x,y its middle, mm
 */
export function calibrationSquare({ x, y }: Point): Outline {
  const { halfMm, armMm } = CALIBRATION;
  return {
    contours: [
      ...boxAt(x - halfMm, y - halfMm, 2 * halfMm).contours,
      line([x - armMm, y], [x + armMm, y]),
      line([x, y - armMm], [x, y + armMm]),
    ],
  };
}
