/**
 * Snapping: where a point or a moved box would rather lie, and why. Guides, edges and centres of items and of the
 * surface, nodes, the grid, equal gaps. The nearest within reach wins; points go before lines.
 */
import { isEmptyBox, mapPoint, startX, startY, endX, endY, type Box, type Point } from '@lorvek/core/geometry';
import { bendOf, isShaped, itemOf, leavesOf, pageOf, type Drawing, type LeafItem } from '@lorvek/model';
import { create } from 'zustand';
import { outlineOf, piecesOf, placedBoxOf, useDerivedVersion } from '../worker/derived.ts';
import { anchorPlace, frameOf, type Frame } from './selection.ts';
import type { View } from './view.ts';

export interface SnapSettings {
  readonly on: boolean;
  readonly guides: boolean;
  readonly items: boolean;
  readonly nodes: boolean;
  readonly grid: boolean;
  readonly gridMm: number;
}

const KEY = 'lorvek.snap';
const USUAL: SnapSettings = { on: true, guides: true, items: true, nodes: true, grid: false, gridMm: 10 };

function stored(): SnapSettings {
  try {
    return { ...USUAL, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<SnapSettings>) };
  } catch {
    return USUAL;
  }
}

export const useSnap = create<SnapSettings>(stored);
export function setSnap(fields: Partial<SnapSettings>): void {
  useSnap.setState(fields);
  localStorage.setItem(KEY, JSON.stringify(useSnap.getState()));
}

/** A line to lie on: at x or y, drawn from one end to the other. */
interface SnapLine {
  readonly axis: 'x' | 'y';
  readonly mm: number;
  readonly reason: string;
}

interface SnapPoint extends Point {
  readonly reason: string;
  /** Place in an item's box, to fasten a dimension line to. */
  readonly fast?: { readonly item: string; readonly u: number; readonly v: number };
}

export interface SnapTargets {
  readonly lines: readonly SnapLine[];
  readonly points: readonly SnapPoint[];
  readonly boxes: readonly Box[];
}

const REACH_PX = 7;
const MOST_ITEMS = 2000;
const MOST_NODES = 20_000;

function linesOfBox(box: Box, name: string): SnapLine[] {
  return [
    { axis: 'x', mm: box.minX, reason: `left edge of ${name}` },
    { axis: 'x', mm: (box.minX + box.maxX) / 2, reason: `centre of ${name}` },
    { axis: 'x', mm: box.maxX, reason: `right edge of ${name}` },
    { axis: 'y', mm: box.minY, reason: `lower edge of ${name}` },
    { axis: 'y', mm: (box.minY + box.maxY) / 2, reason: `centre of ${name}` },
    { axis: 'y', mm: box.maxY, reason: `upper edge of ${name}` },
  ];
}

const NINE: readonly (readonly [number, number, string])[] = [
  [0, 0, 'corner'],
  [1, 0, 'corner'],
  [0, 1, 'corner'],
  [1, 1, 'corner'],
  [0.5, 0.5, 'centre'],
  [0.5, 0, 'middle of the edge'],
  [0.5, 1, 'middle of the edge'],
  [0, 0.5, 'middle of the edge'],
  [1, 0.5, 'middle of the edge'],
];

const short = (name: string): string => (name.length > 24 ? `${name.slice(0, 23)}…` : name);

interface Gathered {
  readonly lines: SnapLine[];
  readonly points: SnapPoint[];
  readonly boxes: Box[];
}

/** What one item gives to snap to: its box, the places of its frame, its nodes. */
function addTargets({ lines, points, boxes }: Gathered, drawing: Drawing, leaf: LeafItem, settings: SnapSettings): void {
  const outline = outlineOf(leaf);
  const box = outline && placedBoxOf(outline, leaf.matrix);
  if (!box || isEmptyBox(box)) return;
  const name = `“${short(leaf.name)}”`;
  const frame = frameOf(drawing, [leaf.id]);
  if (settings.items && leaf.kind === 'lettering' && bendOf(leaf)?.line === 'circle')
    points.push({ x: leaf.matrix[4], y: leaf.matrix[5], reason: `centre of the circle of ${name}` });
  if (settings.items && leaf.kind !== 'picture') {
    lines.push(...linesOfBox(box, name));
    boxes.push(box);
    for (const [u, v, what] of frame ? NINE : [])
      points.push({ ...anchorPlace(frame as Frame, { x: u, y: v }), reason: `${what} of ${name}`, fast: { item: leaf.id, u, v } });
  }
  if (settings.nodes && isShaped(leaf)) addNodes(points, leaf, frame, name);
}

/** What there is to snap to, but for the items that are being moved. Worked out once a drag. */
export function snapTargets(drawing: Drawing, without: ReadonlySet<string>): SnapTargets {
  const settings = useSnap.getState();
  const lines: SnapLine[] = [];
  const points: SnapPoint[] = [];
  const boxes: Box[] = [];
  if (!settings.on) return { lines, points, boxes };
  const page = pageOf(drawing);
  if (settings.guides) for (const guide of page.guides ?? []) lines.push({ axis: guide.axis, mm: guide.mm, reason: 'guide' });
  if (settings.items) {
    const { widthMm, heightMm } = page.surface;
    lines.push(...linesOfBox({ minX: 0, minY: 0, maxX: widthMm, maxY: heightMm }, 'the surface'));
  }
  const leaves = leavesOf(drawing).filter((leaf) => !without.has(leaf.id) && leaf.kind !== 'dimension');
  for (const leaf of leaves.slice(0, MOST_ITEMS)) {
    addTargets({ lines, points, boxes }, drawing, leaf, settings);
  }
  return { lines, points, boxes };
}

let newest: { drawing: Drawing; settings: SnapSettings; version: number; targets: SnapTargets } | undefined;

/** Everything there is to snap to, for tools that make or measure; worked out again when anything of it changed. */
export function allTargets(drawing: Drawing): SnapTargets {
  const settings = useSnap.getState();
  const { version } = useDerivedVersion.getState();
  if (newest?.drawing !== drawing || newest.settings !== settings || newest.version !== version)
    newest = { drawing, settings, version, targets: snapTargets(drawing, new Set()) };
  return newest.targets;
}

function addNodes(points: SnapPoint[], leaf: LeafItem, frame: Frame | undefined, name: string): void {
  for (const { outline } of piecesOf(leaf)) {
    for (const contour of outline.contours) {
      const ends = contour.spans.map((span) => ({ x: startX(span), y: startY(span) }));
      const last = contour.spans.at(-1);
      if (last && !contour.closed) ends.push({ x: endX(last), y: endY(last) });
      for (const end of ends) {
        if (points.length > MOST_NODES) return;
        const p = mapPoint(leaf.matrix, end);
        points.push({ ...p, reason: `node of ${name}`, ...(frame ? { fast: fastenAt(frame, leaf.id, p) } : {}) });
      }
    }
  }
}

/** A place as a share of an item's frame. */
function fastenAt(frame: Frame, id: string, p: Point): { item: string; u: number; v: number } {
  const [a, b, c, d, e, f] = frame.matrix;
  const det = a * d - b * c;
  const [x, y] = [(d * (p.x - e) - c * (p.y - f)) / det, (a * (p.y - f) - b * (p.x - e)) / det];
  const share = (value: number, low: number, high: number): number => (high > low ? (value - low) / (high - low) : 0);
  return { item: id, u: share(x, frame.box.minX, frame.box.maxX), v: share(y, frame.box.minY, frame.box.maxY) };
}

export interface Snapped {
  readonly at: Point;
  readonly reasons: readonly string[];
  /** Lines to show: upright at x or level at y. */
  readonly lines: readonly { readonly axis: 'x' | 'y'; readonly mm: number }[];
  readonly fast?: { readonly item: string; readonly u: number; readonly v: number };
  /** Equal gaps to show, as stretches on the drawing. */
  readonly gaps?: readonly { readonly from: Point; readonly to: Point }[];
}

function gridSnap(value: number, reachMm: number): { mm: number; reason: string } | undefined {
  const { on, grid, gridMm } = useSnap.getState();
  if (!on || !grid || !(gridMm > 0)) return undefined;
  const mm = Math.round(value / gridMm) * gridMm;
  return Math.abs(mm - value) <= reachMm ? { mm, reason: 'grid' } : undefined;
}

function nearestLine(
  lines: readonly SnapLine[],
  axis: 'x' | 'y',
  value: number,
  reachMm: number,
): { mm: number; reason: string } | undefined {
  let best: SnapLine | undefined;
  for (const line of lines)
    if (line.axis === axis && Math.abs(line.mm - value) <= reachMm && (!best || Math.abs(line.mm - value) < Math.abs(best.mm - value)))
      best = line;
  return best ?? gridSnap(value, reachMm);
}

/** Where a single point snaps to. */
export function snapPoint(targets: SnapTargets, at: Point, view: View): Snapped {
  const reach = REACH_PX / view.scale;
  let best: SnapPoint | undefined;
  let least = reach;
  for (const point of targets.points) {
    const far = Math.hypot(point.x - at.x, point.y - at.y);
    if (far <= least) [best, least] = [point, far];
  }
  if (best) return { at: { x: best.x, y: best.y }, reasons: [best.reason], lines: [], ...(best.fast ? { fast: best.fast } : {}) };
  const x = nearestLine(targets.lines, 'x', at.x, reach);
  const y = nearestLine(targets.lines, 'y', at.y, reach);
  return {
    at: { x: x?.mm ?? at.x, y: y?.mm ?? at.y },
    reasons: [...new Set([x?.reason, y?.reason].filter((r): r is string => r !== undefined))],
    lines: [...(x ? [{ axis: 'x' as const, mm: x.mm }] : []), ...(y ? [{ axis: 'y' as const, mm: y.mm }] : [])],
  };
}

interface AxisSnap {
  shift: number;
  mm: number;
  reason: string;
  gaps?: { from: Point; to: Point }[];
}

function bestEdge(targets: SnapTargets, axis: 'x' | 'y', edges: readonly number[], reach: number): AxisSnap | undefined {
  let best: AxisSnap | undefined;
  for (const edge of edges) {
    const line = nearestLine(targets.lines, axis, edge, best ? Math.abs(best.shift) : reach);
    if (line && (!best || Math.abs(line.mm - edge) < Math.abs(best.shift)))
      best = { shift: line.mm - edge, mm: line.mm, reason: line.reason };
  }
  return best;
}

/** Equal gaps: the moved box keeps from its neighbour the way that two neighbours in the same row keep from each other. */
function equalGap(boxes: readonly Box[], box: Box, axis: 'x' | 'y', reach: number): AxisSnap | undefined {
  const [low, high, crossLow, crossHigh] =
    axis === 'x' ? (['minX', 'maxX', 'minY', 'maxY'] as const) : (['minY', 'maxY', 'minX', 'maxX'] as const);
  const row = boxes.filter((b) => b[crossLow] < box[crossHigh] && b[crossHigh] > box[crossLow]).sort((a, b) => a[low] - b[low]);
  const point = (along: number, b: Box): Point => {
    const across = (b[crossLow] + b[crossHigh]) / 2;
    return axis === 'x' ? { x: along, y: across } : { x: across, y: along };
  };
  let best: AxisSnap | undefined;
  for (let i = 0; i + 1 < row.length && i < 60; i++) {
    const [a, b] = [row[i] as Box, row[i + 1] as Box];
    const gap = b[low] - a[high];
    if (gap <= 0) continue;
    const places: [number, Box][] = [
      [b[high] + gap - box[low], b],
      [a[low] - gap - box[high], a],
    ];
    for (const [shift, next] of places) {
      if (Math.abs(shift) > (best ? Math.abs(best.shift) : reach)) continue;
      const own = next === b ? [b[high], b[high] + gap] : [a[low] - gap, a[low]];
      best = {
        shift,
        mm: box[low] + shift,
        reason: 'equal gap',
        gaps: [
          { from: point(a[high], a), to: point(b[low], a) },
          { from: point(own[0] as number, next), to: point(own[1] as number, next) },
        ],
      };
    }
  }
  const before = row.filter((b) => b[high] <= box[low] + reach).at(-1);
  const after = row.find((b) => b[low] >= box[high] - reach);
  if (before && after) {
    const shift = (after[low] + before[high] - box[low] - box[high]) / 2;
    if (Math.abs(shift) <= (best ? Math.abs(best.shift) : reach))
      best = {
        shift,
        mm: box[low] + shift,
        reason: 'midway',
        gaps: [
          { from: point(before[high], before), to: point(box[low] + shift, before) },
          { from: point(box[high] + shift, after), to: point(after[low], after) },
        ],
      };
  }
  return best;
}

/** How far a moved box (at its wanted place) goes on to lie exactly. */
export function snapBox(targets: SnapTargets, box: Box, view: View): Snapped {
  const reach = REACH_PX / view.scale;
  const one = (axis: 'x' | 'y', low: number, high: number): AxisSnap | undefined =>
    bestEdge(targets, axis, [low, (low + high) / 2, high], reach) ??
    (useSnap.getState().items ? equalGap(targets.boxes, box, axis, reach) : undefined);
  const x = one('x', box.minX, box.maxX);
  const y = one('y', box.minY, box.maxY);
  return {
    at: { x: x?.shift ?? 0, y: y?.shift ?? 0 },
    reasons: [...new Set([x?.reason, y?.reason].filter((r): r is string => r !== undefined))],
    lines: [...(x && !x.gaps ? [{ axis: 'x' as const, mm: x.mm }] : []), ...(y && !y.gaps ? [{ axis: 'y' as const, mm: y.mm }] : [])],
    gaps: [...(x?.gaps ?? []), ...(y?.gaps ?? [])],
  };
}

/** The place on the drawing of something fastened to an item's box. */
export function fastenedPlace(drawing: Drawing, item: string, u: number, v: number): Point | undefined {
  if (!itemOf(drawing, item)) return undefined;
  const frame = frameOf(drawing, [item]);
  return frame && anchorPlace(frame, { x: u, y: v });
}
