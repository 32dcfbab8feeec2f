/**
 * Node work on an outline: nodes are where spans meet. Node i of a contour is the start of span i; an open contour
 * has one more at its end. Handles are the inner control points of the curves next to a node.
 * Every operation gives a new outline; spans that nothing is done to are handed on as they are. Units mm.
 */
import type { Contour, Outline, Point, Span } from '../../types/index.ts';
import { InputError } from '../../errors/index.ts';
import { reverseContour } from '../outline.ts';
import { at, endTangent, endX, endY, evaluate, isLine, startX, startY, subSpan } from '../span.ts';
import { fitG1 } from '../offset/fit-g1.ts';

/** A node by its contour and its number there. */
export interface NodeAddress {
  readonly contour: number;
  readonly node: number;
}

/** How a curve goes through a node: with a corner, smoothly, or smoothly with handles of one length. */
export type NodeKind = 'corner' | 'smooth' | 'even';

/** Handles nearer to a straight line than this pass smoothly, radians (0.6 degrees). */
const SMOOTH = 0.01;

/**
 * How many nodes a contour has.
 * @returns one a span, and one more for the end of an open contour
 */
export const nodesOf = (contour: Contour): number => contour.spans.length + (contour.closed ? 0 : 1);

/** Spans that end and begin at a node; -1 beyond the ends of an open contour. */
function spansAt(contour: Contour, node: number): { before: number; after: number } {
  const n = contour.spans.length;
  if (contour.closed) return { before: (node + n - 1) % n, after: node % n };
  return { before: node - 1, after: node < n ? node : -1 };
}

/**
 * Where a node lies.
 * @param node from 0; of a closed contour counted on round it
 */
export function nodePlace(contour: Contour, node: number): Point {
  const span = contour.spans[Math.min(node, contour.spans.length - 1)];
  if (!span) return { x: 0, y: 0 };
  return node < contour.spans.length ? { x: startX(span), y: startY(span) } : { x: endX(span), y: endY(span) };
}

/**
 * The handles of a node: before it and after it; undefined where a line or nothing is.
 * @param node from 0; the ends of an open contour have one handle at most
 */
export function handlesOf(contour: Contour, node: number): { before?: Point; after?: Point } {
  const { before, after } = spansAt(contour, node);
  const a = contour.spans[before];
  const b = after >= 0 ? contour.spans[after] : undefined;
  return {
    ...(a && !isLine(a) ? { before: { x: at(a, 4), y: at(a, 5) } } : {}),
    ...(b && !isLine(b) ? { after: { x: at(b, 2), y: at(b, 3) } } : {}),
  };
}

/**
 * How the line passes through a node.
 * @returns `corner` at the ends of an open contour and between two lines; `even` only with handles of one length (to 1 %)
 */
export function nodeKind(contour: Contour, node: number): NodeKind {
  const { before, after } = spansAt(contour, node);
  const [a, b] = [contour.spans[before], after >= 0 ? contour.spans[after] : undefined];
  if (!a || !b || (isLine(a) && isLine(b))) return 'corner';
  const [ax, ay] = endTangent(a, 1);
  const [bx, by] = endTangent(b, 0);
  if (Math.abs(Math.atan2(ax * by - ay * bx, ax * bx + ay * by)) > SMOOTH) return 'corner';
  const place = nodePlace(contour, node);
  const { before: h, after: k } = handlesOf(contour, node);
  if (!h || !k) return 'smooth';
  const [l, m] = [Math.hypot(h.x - place.x, h.y - place.y), Math.hypot(k.x - place.x, k.y - place.y)];
  return Math.abs(l - m) <= 0.01 * Math.max(l, m) ? 'even' : 'smooth';
}

const withContour = (outline: Outline, index: number, contour: Contour): Outline => ({
  contours: outline.contours.map((c, i) => (i === index ? contour : c)),
});

function contourAt(outline: Outline, index: number): Contour {
  const contour = outline.contours[index];
  if (!contour) throw new InputError('node', 'This node is no longer there.');
  return contour;
}

/**
 * Moves some nodes with their handles.
 * @param nodes those that are not there are passed over
 * @param dx,dy mm
 * @returns a new outline; contours without a chosen node are the same objects
 */
export function moveNodes(outline: Outline, nodes: readonly NodeAddress[], dx: number, dy: number): Outline {
  const chosen = new Map<number, Set<number>>();
  for (const { contour, node } of nodes) chosen.set(contour, (chosen.get(contour) ?? new Set()).add(node));
  return {
    contours: outline.contours.map((contour, c) => {
      const own = chosen.get(c);
      if (!own) return contour;
      const n = contour.spans.length;
      const spans = contour.spans.map((span, i): Span => {
        const first = own.has(i);
        const last = own.has(contour.closed ? (i + 1) % n : i + 1);
        if (!first && !last) return span;
        return span.map((value, k) => {
          const atStart = k < span.length / 2;
          return (atStart ? first : last) ? value + (k % 2 === 0 ? dx : dy) : value;
        });
      });
      return { closed: contour.closed, spans };
    }),
  };
}

function replaceSpan(contour: Contour, index: number, span: Span): Contour {
  return { closed: contour.closed, spans: contour.spans.map((s, i) => (i === index ? span : s)) };
}

const setControl = (span: Span, k: number, p: Point): Span => span.map((value, i) => (i === k ? p.x : i === k + 1 ? p.y : value));

/**
 * Drags one handle; at a smooth or even node the other one keeps in line (and even).
 * @param to where the handle comes to lie, mm
 * @param kind of the node, which says whether the other handle follows
 * @throws InputError `input.node` when the contour is not there any more
 */
export function moveHandle(outline: Outline, address: NodeAddress, side: 'before' | 'after', to: Point, kind: NodeKind): Outline {
  const contour = contourAt(outline, address.contour);
  const { before, after } = spansAt(contour, address.node);
  const place = nodePlace(contour, address.node);
  const own = side === 'before' ? before : after;
  const other = side === 'before' ? after : before;
  const span = contour.spans[own];
  if (!span || isLine(span)) return outline;
  let next = replaceSpan(contour, own, setControl(span, side === 'before' ? 4 : 2, to));
  const opposite = other >= 0 ? next.spans[other] : undefined;
  if (kind !== 'corner' && opposite && !isLine(opposite)) {
    const k = side === 'before' ? 2 : 4;
    const length = Math.hypot(to.x - place.x, to.y - place.y);
    const kept = kind === 'even' ? length : Math.hypot(at(opposite, k) - place.x, at(opposite, k + 1) - place.y);
    if (length > 1e-9)
      next = replaceSpan(
        next,
        other,
        setControl(opposite, k, { x: place.x - ((to.x - place.x) * kept) / length, y: place.y - ((to.y - place.y) * kept) / length }),
      );
  }
  return withContour(outline, address.contour, next);
}

const toCubic = (span: Span): Span =>
  isLine(span)
    ? [
        at(span, 0),
        at(span, 1),
        evaluate(span, 1 / 3, 0),
        evaluate(span, 1 / 3, 1),
        evaluate(span, 2 / 3, 0),
        evaluate(span, 2 / 3, 1),
        at(span, 2),
        at(span, 3),
      ]
    : span;

/**
 * Makes nodes corners (handles stay), smooth (handles in line) or even (and of one length). Lines next to them become curves where needed.
 * @param nodes an end of an open contour stays what it is
 * @returns an outline through the same nodes
 * @throws InputError `input.node` when a contour is not there any more
 */
export function setNodeKind(outline: Outline, nodes: readonly NodeAddress[], kind: NodeKind): Outline {
  return nodes.reduce((sum, address) => {
    const contour = contourAt(sum, address.contour);
    const { before, after } = spansAt(contour, address.node);
    const [a, b] = [contour.spans[before], after >= 0 ? contour.spans[after] : undefined];
    if (!a || !b || kind === 'corner') return sum;
    const [first, second] = kind === 'even' || (isLine(a) && isLine(b)) ? [toCubic(a), toCubic(b)] : [a, b];
    const place = nodePlace(contour, address.node);
    // a line next to the node gives the direction, else both sides share it
    const [ax, ay] = endTangent(first, 1);
    const [bx, by] = endTangent(second, 0);
    let [dx, dy] = isLine(first) ? [ax, ay] : isLine(second) ? [bx, by] : [ax + bx, ay + by];
    const length = Math.hypot(dx, dy);
    if (length < 1e-9) [dx, dy] = [-ay, ax];
    else [dx, dy] = [dx / length, dy / length];
    const reach = (span: Span, k: number): number => (isLine(span) ? 0 : Math.hypot(at(span, k) - place.x, at(span, k + 1) - place.y));
    const [l, m] = [reach(first, 4), reach(second, 2)];
    const even = (l + m) / 2;
    const [p, q] = kind === 'even' ? [even, even] : [l, m];
    let next = contour;
    if (!isLine(first)) next = replaceSpan(next, before, setControl(first, 4, { x: place.x - dx * p, y: place.y - dy * p }));
    if (!isLine(second))
      next = replaceSpan(
        next,
        after,
        setControl(next.spans[after] === b ? second : (next.spans[after] as Span), 2, { x: place.x + dx * q, y: place.y + dy * q }),
      );
    return withContour(sum, address.contour, next);
  }, outline);
}

/**
 * A new node on a span at a parameter.
 * @param t beyond 0 and 1 nothing is inserted
 * @returns an outline of the same line
 */
export function insertNode(outline: Outline, contourIndex: number, spanIndex: number, t: number): Outline {
  const contour = contourAt(outline, contourIndex);
  const span = contour.spans[spanIndex];
  if (!span || !(t > 0 && t < 1)) return outline;
  const spans = [...contour.spans];
  spans.splice(spanIndex, 1, subSpan(span, 0, t), subSpan(span, t, 1));
  return withContour(outline, contourIndex, { closed: contour.closed, spans });
}

const SAMPLES = 24;

/** One span instead of several, and how far it is off. */
export interface Redrawn {
  readonly span: Span;
  /** Greatest distance of the old line from the new one, mm. */
  readonly deviation: number;
}

/**
 * One curve (or a line, where the run is straight) for a run of spans, tangent to it at its ends.
 * @param run spans that follow one another; one at least
 * @returns the span, and how far the old line is from it at most, mm
 */
export function oneSpanFor(run: readonly Span[]): Redrawn {
  const [first, last] = [run[0] as Span, run.at(-1) as Span];
  if (run.every(isLine) && run.length === 1) return { span: first, deviation: 0 };
  const xy: number[] = [];
  for (const span of run) for (let k = 0; k < SAMPLES; k++) xy.push(evaluate(span, k / SAMPLES, 0), evaluate(span, k / SAMPLES, 1));
  xy.push(endX(last), endY(last));
  const fit = fitG1(xy, endTangent(first, 0), endTangent(last, 1));
  return { span: fit.span, deviation: fit.error };
}

/** Spans of a contour from one node on to another, in order; wraps round a closed contour. */
function runBetween(contour: Contour, from: number, to: number): Span[] {
  const n = contour.spans.length;
  const count = contour.closed ? (to - from + n) % n || n : to - from;
  return Array.from({ length: count }, (_, i) => contour.spans[(from + i) % n] as Span);
}

/**
 * Redraw span: what lies between the chosen nodes is replaced with one curve. With two or more nodes of one contour
 * the run from the first to the last is taken; on a closed contour the shorter way round.
 * @throws InputError `input.node` when fewer than two nodes of one contour are chosen
 * @returns the outline, and how far the new line is from the old one at most, mm
 */
export function redrawSpan(outline: Outline, nodes: readonly NodeAddress[]): { outline: Outline; deviation: number } {
  const index = nodes[0]?.contour ?? -1;
  const contour = outline.contours[index];
  const own = [...new Set(nodes.map(({ node }) => node))].sort((a, b) => a - b);
  if (!contour || own.length < 2 || nodes.some((node) => node.contour !== index))
    throw new InputError('node', 'Choose the first and the last node of the run that shall be one curve.');
  const n = contour.spans.length;
  let [from, to] = [own[0] as number, own.at(-1) as number];
  if (contour.closed) {
    // leave out the widest way between two chosen neighbours
    let widest = -1;
    own.forEach((node, i) => {
      const next = own[(i + 1) % own.length] as number;
      const way = (next - node + n) % n || n;
      if (way > widest) [widest, from, to] = [way, next, node];
    });
  }
  const { span, deviation } = oneSpanFor(runBetween(contour, from, to));
  const rest = contour.closed ? (from === to ? [] : runBetween(contour, to, from)) : [];
  const spans = contour.closed ? [span, ...rest] : [...contour.spans.slice(0, from), span, ...contour.spans.slice(to)];
  return { outline: withContour(outline, index, { closed: contour.closed, spans }), deviation };
}

function deleteFrom(contour: Contour, chosen: ReadonlySet<number>): Contour | undefined {
  const n = contour.spans.length;
  const kept = Array.from({ length: nodesOf(contour) }, (_, i) => i).filter((i) => !chosen.has(i));
  if (kept.length < 2) return undefined;
  const pairs = kept.map((node, i) => [node, kept[(i + 1) % kept.length] as number] as const);
  const spans = (contour.closed ? pairs : pairs.slice(0, -1)).map(([from, to]): Span => {
    const run = runBetween(contour, from, to === from ? from + n : to);
    if (run.length === 1) return run[0] as Span;
    if (run.every(isLine)) return [startX(run[0] as Span), startY(run[0] as Span), endX(run.at(-1) as Span), endY(run.at(-1) as Span)];
    return oneSpanFor(run).span;
  });
  return { closed: contour.closed, spans };
}

/**
 * Takes nodes away; the spans on both sides become one that follows the old line. Contours left with less than two nodes go.
 * @returns a new outline; fewer contours when some have less than two nodes left
 */
export function deleteNodes(outline: Outline, nodes: readonly NodeAddress[]): Outline {
  return {
    contours: outline.contours.flatMap((contour, c) => {
      const chosen = new Set(nodes.filter((node) => node.contour === c).map(({ node }) => node));
      return chosen.size === 0 ? [contour] : (deleteFrom(contour, chosen) ?? []);
    }),
  };
}

/** Spans whose both ends are chosen; of one node alone the span that begins there. */
function spansBetween(contour: Contour, chosen: ReadonlySet<number>): number[] {
  const n = contour.spans.length;
  const both = contour.spans.flatMap((_, i) => (chosen.has(i) && chosen.has(contour.closed ? (i + 1) % n : i + 1) ? [i] : []));
  const [only] = chosen;
  return both.length === 0 && chosen.size === 1 && only !== undefined && only < n ? [only] : both;
}

/**
 * Makes the spans between chosen nodes straight, or curves that can be bent.
 * @param nodes a span is meant when both of its ends are chosen; of one node alone the span that begins there
 */
export function setSpanKind(outline: Outline, nodes: readonly NodeAddress[], kind: 'line' | 'curve'): Outline {
  return {
    contours: outline.contours.map((contour, c) => {
      const chosen = new Set(nodes.filter((node) => node.contour === c).map(({ node }) => node));
      const which = new Set(spansBetween(contour, chosen));
      if (which.size === 0) return contour;
      const spans = contour.spans.map((span, i): Span =>
        !which.has(i) ? span : kind === 'curve' ? toCubic(span) : [startX(span), startY(span), endX(span), endY(span)],
      );
      return { closed: contour.closed, spans };
    }),
  };
}

/**
 * Opens the line at a node: a closed contour begins and ends there, an open one falls into two.
 * @returns the same outline for an end of an open contour, where there is nothing to open
 */
export function breakAt(outline: Outline, { contour: index, node }: NodeAddress): Outline {
  const contour = contourAt(outline, index);
  if (contour.closed) {
    const spans = [...contour.spans.slice(node), ...contour.spans.slice(0, node)];
    return withContour(outline, index, { closed: false, spans });
  }
  if (node <= 0 || node >= contour.spans.length) return outline;
  const halves = [contour.spans.slice(0, node), contour.spans.slice(node)].map((spans): Contour => ({ closed: false, spans }));
  return { contours: outline.contours.flatMap((c, i) => (i === index ? halves : [c])) };
}

const bridge = (a: Span, b: Span): Span[] => {
  const gap = Math.hypot(endX(a) - startX(b), endY(a) - startY(b));
  return gap < 1e-6 ? [] : [[endX(a), endY(a), startX(b), startY(b)]];
};

const startsExactlyAt = (span: Span, x: number, y: number): Span => [x, y, ...span.slice(2)];

/**
 * Joins two open ends by a line where they lie apart: of one contour it closes, of two they become one.
 * @throws InputError `input.node` for anything but two ends of open contours
 */
export function joinEnds(outline: Outline, a: NodeAddress, b: NodeAddress): Outline {
  const [first, second] = [contourAt(outline, a.contour), contourAt(outline, b.contour)];
  const isEnd = (contour: Contour, node: number): boolean => !contour.closed && (node === 0 || node === contour.spans.length);
  if (!isEnd(first, a.node) || !isEnd(second, b.node)) throw new InputError('node', 'Choose two ends of open lines to join them.');
  if (a.contour === b.contour) {
    if (a.node === b.node) throw new InputError('node', 'Choose the other end as well.');
    return withContour(outline, a.contour, closeContour(first));
  }
  const head = a.node === 0 ? reverseContour(first) : first;
  const tail = b.node === 0 ? second : reverseContour(second);
  const [last, next] = [head.spans.at(-1) as Span, tail.spans[0] as Span];
  const line = bridge(last, next);
  const joined = line.length > 0 ? tail.spans : [startsExactlyAt(next, endX(last), endY(last)), ...tail.spans.slice(1)];
  const whole: Contour = { closed: false, spans: [...head.spans, ...line, ...joined] };
  return { contours: outline.contours.flatMap((c, i) => (i === a.contour ? [whole] : i === b.contour ? [] : [c])) };
}

/**
 * An open contour closed, by a line where its ends lie apart.
 * @returns the same contour when it is closed already
 */
export function closeContour(contour: Contour): Contour {
  const [first, last] = [contour.spans[0], contour.spans.at(-1)];
  if (contour.closed || !first || !last) return contour;
  const line = bridge(last, first);
  if (line.length > 0) return { closed: true, spans: [...contour.spans, ...line] };
  const spans = contour.spans.map((span, i) =>
    i === contour.spans.length - 1 ? [...span.slice(0, -2), startX(first), startY(first)] : span,
  );
  return { closed: true, spans };
}
