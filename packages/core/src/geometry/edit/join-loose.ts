/**
 * Loose ends that lie within a gap of one another are joined, so that lines drawn one by one become closed outlines.
 * Method: ends in a grid of the gap's size; from each end on, the nearest free end within the gap follows, the
 * straightest of those that lie equally near; both ends move to the middle between them. Units mm. Cost: about linear.
 */
import type { Contour, Outline, Span } from '../../types/index.ts';
import { contourEnd, contourStart, reverseContour } from '../outline.ts';
import { at, endTangent } from '../span.ts';

interface End {
  readonly contour: number;
  /** The contour's end, not its start. */
  readonly atEnd: boolean;
  readonly x: number;
  readonly y: number;
}

/** A span with one end at another place; the handle there moves along. */
function withEnd(span: Span, atEnd: boolean, x: number, y: number): Span {
  const out = span.slice();
  const i = atEnd ? span.length - 2 : 0;
  const [dx, dy] = [x - at(span, i), y - at(span, i + 1)];
  out[i] = x;
  out[i + 1] = y;
  if (span.length === 8) {
    const h = atEnd ? 4 : 2;
    out[h] = at(span, h) + dx;
    out[h + 1] = at(span, h + 1) + dy;
  }
  return out;
}

/** Puts the second chain on the end of the first, which is changed; their ends are drawn together. */
function join(a: Span[], b: readonly Span[]): void {
  const [last, first] = [a.at(-1) as Span, b[0] as Span];
  const [x, y] = [(at(last, last.length - 2) + at(first, 0)) / 2, (at(last, last.length - 1) + at(first, 1)) / 2];
  a[a.length - 1] = withEnd(last, true, x, y);
  a.push(withEnd(first, false, x, y));
  for (let i = 1; i < b.length; i++) a.push(b[i] as Span);
}

function closedUp(spans: readonly Span[]): Span[] {
  const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
  const [x, y] = [(at(last, last.length - 2) + at(first, 0)) / 2, (at(last, last.length - 1) + at(first, 1)) / 2];
  if (spans.length === 1) return [withEnd(withEnd(first, true, x, y), false, x, y)];
  return [withEnd(first, false, x, y), ...spans.slice(1, -1), withEnd(last, true, x, y)];
}

/** Of ends that lie in one place, so many are looked at: more are no drawing but a heap. */
const MOST_AT_ONE_PLACE = 24;

class Ends {
  private readonly cells = new Map<string, End[]>();
  private readonly gap: number;

  constructor(contours: readonly Contour[], gap: number) {
    this.gap = gap;
    contours.forEach((contour, i) => {
      for (const atEnd of [false, true]) {
        const { x, y } = atEnd ? contourEnd(contour) : contourStart(contour);
        const key = this.key(x, y);
        const list = this.cells.get(key);
        const end = { contour: i, atEnd, x, y };
        if (list) list.push(end);
        else this.cells.set(key, [end]);
      }
    });
  }

  private key(x: number, y: number, dx = 0, dy = 0): string {
    return `${Math.floor(x / this.gap) + dx} ${Math.floor(y / this.gap) + dy}`;
  }

  /** Some free ends of a cell. Those that are not free any more are let go, so that a cell is not gone through again and again. */
  private free(key: string, isFree: (end: End) => boolean): End[] {
    const list = this.cells.get(key);
    if (!list) return [];
    const found: End[] = [];
    let kept = 0;
    let i = 0;
    for (; i < list.length && found.length < MOST_AT_ONE_PLACE; i++) {
      const end = list[i] as End;
      if (!isFree(end)) continue;
      found.push(end);
      list[kept++] = end;
    }
    if (kept < i) list.splice(kept, i - kept);
    return found;
  }

  /** Free ends within the gap, nearest first. */
  near(x: number, y: number, isFree: (end: End) => boolean): End[] {
    const out: { end: End; d: number }[] = [];
    for (let dx = -1; dx <= 1; dx++)
      for (let dy = -1; dy <= 1; dy++)
        for (const end of this.free(this.key(x, y, dx, dy), isFree)) {
          const d = Math.hypot(end.x - x, end.y - y);
          if (d <= this.gap) out.push({ end, d });
        }
    return out.sort((a, b) => a.d - b.d).map(({ end }) => end);
  }
}

const backwards = (spans: readonly Span[]): Span[] => [...reverseContour({ closed: false, spans }).spans];

/**
 * Joins open contours whose ends lie within `gapMm`; a chain that comes back to its start is closed.
 * @returns the outline, closed contours and lines that join nothing as they were, and how many joints were made
 */
export function joinLooseEnds(outline: Outline, gapMm: number): { outline: Outline; joints: number } {
  const open = outline.contours.filter((c) => !c.closed && c.spans.length > 0);
  if (open.length === 0) return { outline, joints: 0 };
  const ends = new Ends(open, Math.max(gapMm, 1e-9));
  const used = new Set<number>();
  let joints = 0;
  /** Puts the next contour on a chain. @returns false when none follows */
  const follow = (spans: Span[]): boolean => {
    const last = spans.at(-1) as Span;
    const [x, y] = [at(last, last.length - 2), at(last, last.length - 1)];
    const found = ends.near(x, y, (end) => !used.has(end.contour));
    const [nearest] = found;
    if (!nearest) return false;
    const [tx, ty] = endTangent(last, 1);
    const oriented = (end: End): Contour => (end.atEnd ? reverseContour(open[end.contour] as Contour) : (open[end.contour] as Contour));
    const straightness = (end: End): number => {
      const [ux, uy] = endTangent(oriented(end).spans[0] as Span, 0);
      return tx * ux + ty * uy;
    };
    const reach = Math.hypot(nearest.x - x, nearest.y - y) + 1e-6;
    const next = found
      .filter((end) => Math.hypot(end.x - x, end.y - y) <= reach)
      .reduce((best, end) => (straightness(end) > straightness(best) + 1e-9 ? end : best));
    used.add(next.contour);
    joints++;
    join(spans, oriented(next).spans);
    return true;
  };
  const isLoop = (spans: readonly Span[]): boolean => {
    const [first, last] = [spans[0] as Span, spans.at(-1) as Span];
    const gap = Math.hypot(at(last, last.length - 2) - at(first, 0), at(last, last.length - 1) - at(first, 1));
    return gap <= gapMm && (spans.length > 2 || spans.some((span) => span.length === 8) || gap < 1e-9) && spans.length + first.length > 5;
  };
  const made: Contour[] = [];
  open.forEach((contour, i) => {
    if (used.has(i)) return;
    used.add(i);
    const before = joints;
    let spans: Span[] = [...contour.spans];
    while (!isLoop(spans) && follow(spans));
    if (!isLoop(spans)) {
      // then on from the other end, and back the way it ran
      spans = backwards(spans);
      while (!isLoop(spans) && follow(spans));
      spans = backwards(spans);
    }
    if (isLoop(spans)) {
      joints++;
      made.push({ closed: true, spans: closedUp(spans) });
    } else made.push(joints === before ? contour : { closed: false, spans });
  });
  return { outline: { contours: [...outline.contours.filter((c) => c.closed), ...made] }, joints };
}
