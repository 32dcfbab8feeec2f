/**
 * How long a cut takes. Each stroke is a trapezoid of speed (given acceleration) that slows at corners:
 * the speed through a vertex is the top speed times cos of half the turn, none beyond 60 degrees.
 * Lifting and lowering the tool takes a fixed time. Good to some tens of percent: machines differ.
 */
import type { ToolPath } from './plan-blade.ts';
import { at } from '../geometry/span.ts';

/** How fast the tool goes, and how quickly it gets there. */
export interface SpeedSetup {
  readonly speedMmPerS: number;
  readonly travelSpeedMmPerS?: number;
  readonly accelerationMmPerS2?: number;
  readonly liftS?: number;
  readonly passes?: number;
}

/** How long a cut takes, and how far the tool goes. */
export interface CutEstimate {
  readonly seconds: number;
  readonly cutMm: number;
  readonly travelMm: number;
}

/** Time from rest to rest over a straight way. */
function restToRest(length: number, speed: number, acceleration: number): number {
  const ramp = (speed * speed) / acceleration;
  return length >= ramp ? length / speed + speed / acceleration : 2 * Math.sqrt(length / acceleration);
}

function strokeLength(xy: ArrayLike<number>): { length: number; stops: number[] } {
  let length = 0;
  let since = 0;
  const stops: number[] = [];
  for (let i = 2; i < xy.length; i += 2) {
    const dx = at(xy, i) - at(xy, i - 2);
    const dy = at(xy, i + 1) - at(xy, i - 1);
    const step = Math.hypot(dx, dy);
    length += step;
    since += step;
    if (i + 3 >= xy.length) break;
    const nx = at(xy, i + 2) - at(xy, i);
    const ny = at(xy, i + 3) - at(xy, i + 1);
    const turn = Math.abs(Math.atan2(dx * ny - dy * nx, dx * nx + dy * ny));
    if (turn > Math.PI / 3) {
      stops.push(since);
      since = 0;
    }
  }
  stops.push(since);
  return { length, stops };
}

/** @param paths in the order of cutting, from (0,0) and back with the tool up. @complexity O(points) */
export function estimateCut(paths: readonly ToolPath[], setup: SpeedSetup): CutEstimate {
  const acceleration = setup.accelerationMmPerS2 ?? 2000;
  const travelSpeed = setup.travelSpeedMmPerS ?? Math.max(setup.speedMmPerS, 400);
  const passes = setup.passes ?? 1;
  let seconds = 0;
  let cutMm = 0;
  let travelMm = 0;
  let x = 0;
  let y = 0;
  const travel = (tx: number, ty: number): void => {
    const way = Math.hypot(tx - x, ty - y);
    travelMm += way;
    if (way > 0) seconds += restToRest(way, travelSpeed, acceleration);
  };
  for (const { xy } of paths) {
    if (xy.length < 4) continue;
    travel(at(xy, 0), at(xy, 1));
    const { length, stops } = strokeLength(xy);
    cutMm += length * passes;
    for (const stop of stops) seconds += passes * restToRest(stop, setup.speedMmPerS, acceleration);
    seconds += 2 * (setup.liftS ?? 0.06);
    x = at(xy, xy.length - 2);
    y = at(xy, xy.length - 1);
  }
  travel(0, 0);
  return { seconds, cutMm, travelMm };
}
