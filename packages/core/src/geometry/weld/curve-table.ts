/**
 * The operands of a clip as one table: every span with its ring, and the integer polylines that
 * stand in for them while topology is decided.
 *
 * Only spans that come near another one are flattened finely. A span whose control hull (grown by
 * `NEAR_MM`) meets no other hull but its neighbours' at the shared node, and that runs monotone along
 * its chord, cannot be crossed: its chord stands for it. This is what makes the clip of long texts cheap.
 * Proof: the region between such a span and its chord lies inside the hull, which nothing else enters,
 * so replacing one by the other is an isotopy that moves no crossing.
 *
 * Units: integers at `SCALE` per mm around the drawing's centre.
 */
import Flatbush from 'flatbush';
import type { Box, Contour, Span } from '../../types/index.ts';
import { chordSteps, endTangent, endX, endY, evaluate, isLine, startX, startY } from '../span.ts';

/** Integer steps per mm: 10 nm, fine enough for 1 µm coincidence and for 10 m drawings. */
export const SCALE = 1e5;
/** Chord tolerance of the fine polylines, mm. */
export const CHORD_MM = 0.002;
/** Hulls nearer than this count as meeting, mm. */
const NEAR_MM = 0.01;

/** One ring of a clip: `span` ids first..end-1 in the table, operand 0 = subject, 1 = clip. */
export interface TableRing {
  readonly first: number;
  readonly end: number;
  readonly operand: 0 | 1;
}

/** Spans of outlines with the chords that they are flattened to, and which of them come near one another. */
export interface CurveTable {
  readonly spans: readonly Span[];
  /** Parameter steps of each span's polyline. */
  readonly steps: Int32Array;
  readonly rings: readonly TableRing[];
  /** Pairs of spans that come near one another, flat [a0,b0,a1,b1,…]. */
  readonly nearPairs: readonly number[];
  /** Where each span comes near others, the box of it as minX, minY, maxX, maxY, mm; empty (least above greatest) for those that do not. */
  readonly meets: Float64Array;
  readonly originX: number;
  readonly originY: number;
}

function isPoint(span: Span): boolean {
  for (let i = 2; i < span.length; i++) if ((span[i] as number) !== (span[i & 1] as number)) return false;
  return true;
}

function hullBox(span: Span): Box {
  let minX = Infinity;
  let minY = Infinity;
  let maxX = -Infinity;
  let maxY = -Infinity;
  for (let i = 0; i < span.length; i += 2) {
    const x = span[i] as number;
    const y = span[i + 1] as number;
    if (x < minX) minX = x;
    if (x > maxX) maxX = x;
    if (y < minY) minY = y;
    if (y > maxY) maxY = y;
  }
  return { minX, minY, maxX, maxY };
}

/** Does the span run forward along its own chord throughout (so that it cannot cross itself)? */
function isMonotone(span: Span): boolean {
  if (isLine(span)) return true;
  const cx = endX(span) - startX(span);
  const cy = endY(span) - startY(span);
  for (let i = 0; i < 6; i += 2) {
    if (((span[i + 2] as number) - (span[i] as number)) * cx + ((span[i + 3] as number) - (span[i + 1] as number)) * cy < 0) return false;
  }
  return cx !== 0 || cy !== 0;
}

/** Do two consecutive spans keep to their own sides of a line through the node they share? */
function partAtNode(before: Span, after: Span): boolean {
  const [ax, ay] = endTangent(before, 1);
  const [bx, by] = endTangent(after, 0);
  const dx = ax + bx;
  const dy = ay + by;
  const px = startX(after);
  const py = startY(after);
  const side = (span: Span, sign: 1 | -1): boolean => {
    for (let i = 0; i < span.length; i += 2) {
      const x = (span[i] as number) - px;
      const y = (span[i + 1] as number) - py;
      if ((Math.abs(x) > 1e-9 || Math.abs(y) > 1e-9) && sign * (x * dx + y * dy) <= 1e-9) return false;
    }
    return true;
  };
  return Math.hypot(dx, dy) > 1e-3 && side(before, -1) && side(after, 1);
}

interface Draft {
  spans: Span[];
  rings: TableRing[];
  /** ring number of each span */
  ringOf: number[];
}

function collect(subjects: readonly Contour[], clips: readonly Contour[]): Draft {
  const draft: Draft = { spans: [], rings: [], ringOf: [] };
  [subjects, clips].forEach((contours, operand) => {
    for (const contour of contours) {
      const spans = contour.spans.filter((span) => !isPoint(span));
      if (!contour.closed || spans.length === 0) continue;
      const first = draft.spans.length;
      for (const span of spans) {
        draft.spans.push(span);
        draft.ringOf.push(draft.rings.length);
      }
      draft.rings.push({ first, end: draft.spans.length, operand: operand === 0 ? 0 : 1 });
    }
  });
  return draft;
}

function findNearPairs(draft: Draft, boxes: readonly Box[], within: Box | undefined): number[] {
  const { spans, rings, ringOf } = draft;
  const tree = new Flatbush(spans.length);
  for (const box of boxes) tree.add(box.minX - NEAR_MM, box.minY - NEAR_MM, box.maxX + NEAR_MM, box.maxY + NEAR_MM);
  tree.finish();
  const pairs: number[] = [];
  const nextInRing = (id: number): number => {
    const ring = rings[ringOf[id] as number] as TableRing;
    return id + 1 === ring.end ? ring.first : id + 1;
  };
  /** Do two spans meet where the result can lie? */
  const matters = (a: Box, b: Box): boolean =>
    !within ||
    (Math.max(a.minX, b.minX, within.minX) <= Math.min(a.maxX, b.maxX, within.maxX) + 2 * NEAR_MM &&
      Math.max(a.minY, b.minY, within.minY) <= Math.min(a.maxY, b.maxY, within.maxY) + 2 * NEAR_MM);
  const visit = (a: number, b: number): void => {
    if (!matters(boxes[a] as Box, boxes[b] as Box)) return;
    const follows = nextInRing(a) === b;
    const leads = nextInRing(b) === a;
    const spanA = spans[a] as Span;
    const spanB = spans[b] as Span;
    if (follows !== leads && (follows ? partAtNode(spanA, spanB) : partAtNode(spanB, spanA))) return;
    pairs.push(a, b);
  };
  boxes.forEach((box, a) => {
    tree.search(box.minX, box.minY, box.maxX, box.maxY, (b) => {
      if (b > a) visit(a, b);
      return false;
    });
  });
  return pairs;
}

/** Boxes round where the hulls of near spans overlap, by span. */
function meetingBoxes(pairs: readonly number[], boxes: readonly Box[]): Float64Array {
  const meets = new Float64Array(4 * boxes.length);
  for (let i = 0; i < meets.length; i += 4) {
    meets[i] = meets[i + 1] = Infinity;
    meets[i + 2] = meets[i + 3] = -Infinity;
  }
  const grow = (id: number, minX: number, minY: number, maxX: number, maxY: number): void => {
    const i = 4 * id;
    if (minX < (meets[i] as number)) meets[i] = minX;
    if (minY < (meets[i + 1] as number)) meets[i + 1] = minY;
    if (maxX > (meets[i + 2] as number)) meets[i + 2] = maxX;
    if (maxY > (meets[i + 3] as number)) meets[i + 3] = maxY;
  };
  for (let i = 0; i < pairs.length; i += 2) {
    const [idA, idB] = [pairs[i] as number, pairs[i + 1] as number];
    const [a, b] = [boxes[idA] as Box, boxes[idB] as Box];
    const minX = Math.max(a.minX, b.minX) - NEAR_MM;
    const minY = Math.max(a.minY, b.minY) - NEAR_MM;
    const maxX = Math.min(a.maxX, b.maxX) + NEAR_MM;
    const maxY = Math.min(a.maxY, b.maxY) + NEAR_MM;
    grow(idA, minX, minY, maxX, maxY);
    grow(idB, minX, minY, maxX, maxY);
  }
  return meets;
}

/**
 * Gathers the closed contours of both operands; open ones and points are left out.
 * @param within where the result lies, when that is less than everything: spans that meet outside of it alone stay chords,
 *   for what they enclose inside of it is the same
 * @complexity O(n log n + pairs)
 */
export function makeCurveTable(subjects: readonly Contour[], clips: readonly Contour[], within?: Box): CurveTable {
  const draft = collect(subjects, clips);
  const { spans, rings } = draft;
  const boxes = spans.map(hullBox);
  const nearPairs = spans.length > 1 ? findNearPairs(draft, boxes, within) : [];
  const fine = new Uint8Array(spans.length);
  for (const id of nearPairs) fine[id] = 1;
  const steps = Int32Array.from(spans, (span, id) => (fine[id] || !isMonotone(span) ? chordSteps(span, CHORD_MM) : 1));
  for (const ring of rings)
    if (ring.end - ring.first < 3) for (let id = ring.first; id < ring.end; id++) steps[id] = chordSteps(spans[id] as Span, CHORD_MM);
  const all = boxes.reduce(
    (box, b) => [Math.min(box[0], b.minX), Math.min(box[1], b.minY), Math.max(box[2], b.maxX), Math.max(box[3], b.maxY)] as const,
    [Infinity, Infinity, -Infinity, -Infinity] as readonly [number, number, number, number],
  );
  return {
    spans,
    steps,
    rings,
    nearPairs,
    meets: meetingBoxes(nearPairs, boxes),
    originX: spans.length ? Math.round((all[0] + all[2]) / 2) : 0,
    originY: spans.length ? Math.round((all[1] + all[3]) / 2) : 0,
  };
}

/** The integer polylines of a table: vertex v stands on span `span[v]` at `t[v]`; ring r is start[r]..start[r+1]-1. */
export interface Vertices {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly t: Float64Array;
  readonly span: Int32Array;
  readonly start: Int32Array;
}

/**
 * First polylines, before coincident stretches are made alike. Vertices of one span are consecutive.
 * @complexity chords of all spans
 */
export function makeVertices(table: CurveTable): Vertices {
  const total = table.steps.reduce((sum, n) => sum + n, 0);
  const x = new Float64Array(total);
  const y = new Float64Array(total);
  const t = new Float64Array(total);
  const span = new Int32Array(total);
  const start = new Int32Array(table.rings.length + 1);
  let v = 0;
  table.rings.forEach((ring, r) => {
    start[r] = v;
    for (let id = ring.first; id < ring.end; id++) {
      const curve = table.spans[id] as Span;
      const n = table.steps[id] as number;
      for (let k = 0; k < n; k++, v++) {
        x[v] = Math.round((evaluate(curve, k / n, 0) - table.originX) * SCALE);
        y[v] = Math.round((evaluate(curve, k / n, 1) - table.originY) * SCALE);
        t[v] = k / n;
        span[v] = id;
      }
    }
  });
  start[table.rings.length] = v;
  return { x, y, t, span, start };
}
