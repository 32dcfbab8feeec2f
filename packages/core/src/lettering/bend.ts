/**
 * Bend: where the letters of a line stand when its baseline is a circle, an arch or a drawn path.
 * Every letter stays as it is and is set upright on the line at the middle of its advance (the sign writer's way:
 * letters are turned, never warped). Positions along the line are arc lengths, mm; y up.
 *
 * Circle: the middle of the item's space is the circle's centre. Over the top the words run clockwise, under the
 * bottom counter-clockwise, so that both read upright. Further lines of one side go inward over the top and
 * outward under the bottom. Arch: the baseline of the longest line is a circular arc of that length and the rise
 * asked for; its ends lie on y = 0, further lines are concentric. Path: the first contour, by arc length; words
 * that are longer than an open path run on straight.
 * Limits: a rise beyond 0.36 of the length is no arc any more and is taken as that.
 */
import type { Contour, Matrix, Outline } from '../types/index.ts';
import { InputError } from '../errors/index.ts';
import { at, derivative, endTangent, endX, endY, evaluate, spanLength, startX, startY } from '../geometry/span.ts';

/** Which side of the line the letters take, in the sense of reading. */
export type Stand = 'above' | 'centred' | 'below';

/** Letters on a circle. */
export interface CircleBend {
  readonly kind: 'circle';
  readonly radiusMm: number;
  /** The lower words' own circle; the same when absent. */
  readonly lowerRadiusMm?: number | undefined;
  /** Over the top, under the bottom, or the first line over and the second under, in turn. */
  readonly lines: 'over' | 'under' | 'both';
  /** Where the middle of the upper words stands, degrees, 90 is the top; the lower ones stand opposite. */
  readonly middleDeg: number;
  readonly stand: Stand;
  /** The lower words take the same side of the circle as the upper ones (both outside, both inside). */
  readonly sameSide: boolean;
  /** Degrees that each line is spread over; undefined: as wide as it is. */
  readonly spreadDeg?: number | undefined;
}

/** Letters on an arch. */
export interface ArchBend {
  readonly kind: 'arch';
  /** Height of the arch over its ends, mm; below zero it sags. */
  readonly riseMm: number;
}

/** Letters along a line that was drawn. */
export interface PathBend {
  readonly kind: 'path';
  /** Only the first contour is used. */
  readonly path: Outline;
  /** Way along the path from where the words would stand by their alignment, mm. */
  readonly startMm: number;
  readonly stand: Stand;
  /** Run along the path the other way, on its other side. */
  readonly reverse: boolean;
}

/** How lines of letters are bent. */
export type Bend = CircleBend | ArchBend | PathBend;

/** Where a line's letters stand: from arc length (zero by the line's alignment) to a map of upright letters there. */
export interface BentLine {
  place(s: number): Matrix;
  /** Length the line shall be spread to, mm. */
  readonly spreadMm: number | undefined;
}

/** A line of letters that is to be bent, among others. */
export interface LineOfBend {
  readonly index: number;
  readonly count: number;
  readonly capHeightMm: number;
  readonly pitchMm: number;
  /** Length of the longest line, mm. */
  readonly longestMm: number;
  readonly align: 'left' | 'centre' | 'right';
}

const standShare = (stand: Stand): number => (stand === 'above' ? 0 : stand === 'centred' ? 0.5 : 1);
const MIRRORED: Record<Stand, Stand> = { above: 'below', centred: 'centred', below: 'above' };

const tooSmall = (radius: number): InputError =>
  new InputError(
    'bend',
    `The circle is too small for these letters: the baseline would have a radius of ${Math.round(radius * 100) / 100} mm.`,
    {
      field: 'radiusMm',
    },
  );

/** Letters upright at a place, their baseline running in a direction (unit). */
const standing = (x: number, y: number, dx: number, dy: number): Matrix => [dx, dy, -dy, dx, x, y];

function onArc(cx: number, cy: number, radius: number, middle: number, over: boolean): (s: number) => Matrix {
  return (s) => {
    const angle = over ? middle - s / radius : middle + s / radius;
    const [c, n] = [Math.cos(angle), Math.sin(angle)];
    return over ? standing(cx + radius * c, cy + radius * n, n, -c) : standing(cx + radius * c, cy + radius * n, -n, c);
  };
}

function circleLine(bend: CircleBend, line: LineOfBend): BentLine {
  const over = bend.lines === 'over' || (bend.lines === 'both' && line.index % 2 === 0);
  const rank = bend.lines === 'both' ? Math.floor(line.index / 2) : line.index;
  const circle = over ? bend.radiusMm : (bend.lowerRadiusMm ?? bend.radiusMm);
  const stand = over || !bend.sameSide ? bend.stand : MIRRORED[bend.stand];
  const lift = standShare(stand) * line.capHeightMm;
  const radius = over ? circle - lift - rank * line.pitchMm : circle + lift + rank * line.pitchMm;
  if (!(radius > 0.05 * line.capHeightMm)) throw tooSmall(radius);
  const middle = ((bend.middleDeg + (over ? 0 : 180)) * Math.PI) / 180;
  return {
    place: onArc(0, 0, radius, middle, over),
    spreadMm: bend.spreadDeg === undefined ? undefined : (bend.spreadDeg * Math.PI * radius) / 180,
  };
}

/** Half of the angle at which (1 - cos x) / x is greatest. */
const STEEPEST = 2.331122370414423;

/**
 * Radius of the arc of a length that rises by `rise` (both above zero).
 * @returns found by halving; more rise than an arc of the length can have gives the one that rises most
 */
export function archRadius(length: number, rise: number): number {
  let [low, high] = [1e-9, STEEPEST];
  for (let k = 0; k < 80; k++) {
    const mid = (low + high) / 2;
    if ((length * (1 - Math.cos(mid))) / (2 * mid) < rise) low = mid;
    else high = mid;
  }
  return length / (low + high);
}

function archLine(bend: ArchBend, line: LineOfBend): BentLine {
  const drop = -line.index * line.pitchMm;
  const rise = Math.abs(bend.riseMm);
  if (rise < 1e-6 || line.longestMm <= 0) return { place: (s) => standing(s, drop, 1, 0), spreadMm: undefined };
  const first = archRadius(line.longestMm, rise);
  const reach = first * (1 - Math.cos(line.longestMm / (2 * first)));
  const over = bend.riseMm > 0;
  const radius = over ? first + drop : first - drop;
  if (!(radius > 0.05 * line.capHeightMm)) throw tooSmall(radius);
  // the words' zero is where their alignment says; the arc's top belongs to their middle
  const shift = line.align === 'centre' ? 0 : ((line.align === 'left' ? 1 : -1) * line.longestMm) / 2;
  const place = onArc(shift, over ? reach - first : first - reach, radius, ((over ? 90 : 270) * Math.PI) / 180, over);
  return { place: (s) => place(s - shift), spreadMm: undefined };
}

function pathLine(bend: PathBend, line: LineOfBend): BentLine {
  const contour = bend.path.contours.find((c) => c.spans.length > 0);
  if (!contour) throw new InputError('bend', 'The path that the words should follow has no length.', { field: 'path' });
  const lengths = contour.spans.map((span) => spanLength(span));
  const total = lengths.reduce((sum, n) => sum + n, 0);
  const base = { left: 0, centre: total / 2, right: total }[line.align] + bend.startMm;
  const lift = -standShare(bend.stand) * line.capHeightMm - line.index * line.pitchMm;
  return {
    spreadMm: undefined,
    place: (s) => {
      const along = bend.reverse ? total - (base + s) : base + s;
      const { x, y, dx, dy } = walk(contour, lengths, total, along);
      const [ux, uy] = bend.reverse ? [-dx, -dy] : [dx, dy];
      return standing(x - uy * lift, y + ux * lift, ux, uy);
    },
  };
}

interface Step {
  x: number;
  y: number;
  dx: number;
  dy: number;
}

/** The place and direction at an arc length; a closed contour is run round, an open one goes on straight. */
function walk(contour: Contour, lengths: readonly number[], total: number, wanted: number): Step {
  const s = contour.closed && total > 0 ? ((wanted % total) + total) % total : wanted;
  const first = contour.spans[0] as readonly number[];
  const last = contour.spans.at(-1) as readonly number[];
  if (s <= 0 && !contour.closed) {
    const [dx, dy] = endTangent(first, 0);
    return { x: startX(first) + s * dx, y: startY(first) + s * dy, dx, dy };
  }
  let rest = s;
  for (let i = 0; i < contour.spans.length; i++) {
    const length = at(lengths, i);
    if (rest <= length) return onSpan(contour.spans[i] as readonly number[], rest, length);
    rest -= length;
  }
  const [dx, dy] = endTangent(last, 1);
  return { x: endX(last) + rest * dx, y: endY(last) + rest * dy, dx, dy };
}

function onSpan(span: readonly number[], s: number, length: number): Step {
  let [low, high] = [0, 1];
  if (span.length === 4) low = high = length > 0 ? s / length : 0;
  else
    for (let k = 0; k < 32; k++) {
      const mid = (low + high) / 2;
      if (spanLength(span, 0, mid) < s) low = mid;
      else high = mid;
    }
  const t = (low + high) / 2;
  const [vx, vy] = [derivative(span, t, 0), derivative(span, t, 1)];
  const speed = Math.hypot(vx, vy);
  const [dx, dy] = speed > 1e-9 ? [vx / speed, vy / speed] : endTangent(span, t < 0.5 ? 0 : 1);
  return { x: evaluate(span, t, 0), y: evaluate(span, t, 1), dx, dy };
}

/**
 * @throws InputError `input.bend` when the circle is too small or the path has no length
 * @returns how far the line is to be spread, if at all, and the map of each place along it
 */
export function bendLine(bend: Bend, line: LineOfBend): BentLine {
  if (bend.kind === 'circle') return circleLine(bend, line);
  return bend.kind === 'arch' ? archLine(bend, line) : pathLine(bend, line);
}
