/** The frame of what is selected: one item in its own directions, several in the drawing's. */
import {
  compose,
  invert,
  isEmptyBox,
  joinBoxes,
  mapPoint,
  EMPTY_BOX,
  rotation,
  scaling,
  translation,
  type Box,
  type Matrix,
  type Point,
} from '@lorvek/core/geometry';
import { leavesOf, itemOf, pageOf, type Drawing, type ItemId } from '@lorvek/model';
import { localBoxOf, outlineOf, piecesOf, placedBoxOf, useDerivedVersion } from '../worker/derived.ts';
import type { Anchor } from './view.ts';

export interface Frame {
  /** From the frame's own axes (mm, turned with the item) to the drawing: a turn, perhaps a mirror, and a shift. */
  readonly matrix: Matrix;
  readonly box: Box;
  readonly turnDeg: number;
}

export interface Size {
  readonly widthMm: number;
  readonly heightMm: number;
}

const decimals = (n: number): number => Math.round(n * 1e6) / 1e6 + 0;

interface KnownFrame {
  readonly drawing: Drawing;
  readonly version: number;
  readonly frame: Frame | undefined;
}

/** The last frame of each selection: several parts of the page ask for the same one, and it may hold thousands of items. */
const knownFrames = new WeakMap<readonly string[], KnownFrame>();

/** The frame of items; undefined when nothing of them has an extent. */
export function frameOf(drawing: Drawing, ids: readonly ItemId[], preview?: Matrix): Frame | undefined {
  if (preview) return findFrame(drawing, ids, preview);
  const { version } = useDerivedVersion.getState();
  const known = knownFrames.get(ids);
  if (known?.drawing === drawing && known.version === version) return known.frame;
  const frame = findFrame(drawing, ids);
  // outlines that are still being worked out come with the next version
  knownFrames.set(ids, { drawing, version, frame });
  return frame;
}

function findFrame(drawing: Drawing, ids: readonly ItemId[], preview?: Matrix): Frame | undefined {
  const [only] = ids;
  const item = ids.length === 1 && only !== undefined ? itemOf(drawing, only) : undefined;
  if (item && item.kind !== 'group') {
    const outline = outlineOf(item);
    if (!outline) return undefined;
    const box = localBoxOf(outline);
    if (isEmptyBox(box)) return undefined;
    const [a, b, c, d, e, f] = preview ? compose(preview, item.matrix) : item.matrix;
    const scaleX = Math.hypot(a, b);
    const det = a * d - b * c;
    const isSkewed = Math.abs(a * c + b * d) > 1e-6 * Math.abs(det);
    if (!isSkewed) {
      const scaleY = det / scaleX;
      // a mirrored item keeps an upright frame: the axis that points backward is turned round
      const signX = det < 0 && a < 0 ? -1 : 1;
      const signY = det < 0 && a >= 0 ? -1 : 1;
      const kx = signX * scaleX;
      const ky = signY * Math.abs(scaleY);
      return {
        matrix: [a / kx, b / kx, c / ky, d / ky, e, f],
        box: {
          minX: Math.min(box.minX * kx, box.maxX * kx),
          maxX: Math.max(box.minX * kx, box.maxX * kx),
          minY: Math.min(box.minY * ky, box.maxY * ky),
          maxY: Math.max(box.minY * ky, box.maxY * ky),
        },
        turnDeg: decimals((Math.atan2(signX * b, signX * a) * 180) / Math.PI),
      };
    }
  }
  const box = preview ? findBox(drawing, ids, preview) : boxOf(drawing, ids);
  return box && { matrix: [1, 0, 0, 1, 0, 0], box, turnDeg: 0 };
}

function findBox(drawing: Drawing, ids: readonly ItemId[], preview?: Matrix): Box | undefined {
  let box: Box = EMPTY_BOX;
  for (const leaf of leavesOf(drawing, ids)) {
    const outline = outlineOf(leaf);
    if (outline) box = joinBoxes(box, placedBoxOf(outline, preview ? compose(preview, leaf.matrix) : leaf.matrix));
  }
  return isEmptyBox(box) ? undefined : box;
}

/** Boxes of the newest drawing by the items that were asked for: several parts of the page ask for the same ones. */
const knownBoxes = new WeakMap<Drawing, { readonly version: number; readonly boxes: Map<string, Box | undefined> }>();
/** Longer lists are asked for once. */
const MOST_IN_KEY = 40;

/** The upright box of items on the drawing; undefined when nothing of them has an extent. */
export function boxOf(drawing: Drawing, ids: readonly ItemId[]): Box | undefined {
  if (ids.length > MOST_IN_KEY) return findBox(drawing, ids);
  const { version } = useDerivedVersion.getState();
  let known = knownBoxes.get(drawing);
  if (known?.version !== version) knownBoxes.set(drawing, (known = { version, boxes: new Map() }));
  const key = ids.join(' ');
  if (!known.boxes.has(key)) known.boxes.set(key, findBox(drawing, ids));
  return known.boxes.get(key);
}

/** How large items are with all that is cut of them (rings, shades), along the frame's axes, mm; undefined without any. */
export function seenSizeOf(drawing: Drawing, ids: readonly ItemId[], frame: Frame, preview?: Matrix): Size | undefined {
  const back = invert(frame.matrix);
  const leaves = leavesOf(drawing, ids);
  if (!back || !leaves.some((leaf) => piecesOf(leaf).some((piece) => piece.treatment !== undefined))) return undefined;
  const toFrame = preview ? compose(back, preview) : back;
  let box: Box = EMPTY_BOX;
  for (const leaf of leaves) {
    const matrix = compose(toFrame, leaf.matrix);
    for (const { outline } of piecesOf(leaf)) box = joinBoxes(box, placedBoxOf(outline, matrix));
  }
  return isEmptyBox(box) ? undefined : { widthMm: box.maxX - box.minX, heightMm: box.maxY - box.minY };
}

/** Box of everything on the drawing. */
export const boxOfAll = (drawing: Drawing): Box => boxOf(drawing, pageOf(drawing).root) ?? EMPTY_BOX;

export const boxPoint = (box: Box, anchor: Anchor): Point => ({
  x: box.minX + anchor.x * (box.maxX - box.minX),
  y: box.minY + anchor.y * (box.maxY - box.minY),
});

/** The anchor's place on the drawing. */
export const anchorPlace = (frame: Frame, anchor: Anchor): Point => mapPoint(frame.matrix, boxPoint(frame.box, anchor));

/** Scales along the frame's own axes about one of its points. */
export function scaleInFrame(frame: Frame, anchor: Anchor, kx: number, ky: number): Matrix {
  const back = invert(frame.matrix);
  const p = boxPoint(frame.box, anchor);
  if (!back) return [1, 0, 0, 1, 0, 0];
  const local = compose(translation(p.x, p.y), compose(scaling(kx, ky), translation(-p.x, -p.y)));
  return compose(frame.matrix, compose(local, back));
}

/** Mirrors in place: sideways, or upside down. */
export const mirrorInFrame = (frame: Frame, across: 'sideways' | 'upside-down'): Matrix =>
  scaleInFrame(frame, { x: 0.5, y: 0.5 }, across === 'sideways' ? -1 : 1, across === 'sideways' ? 1 : -1);

/** Turns about a point of the drawing. */
export const turnAbout = (p: Point, angleDeg: number): Matrix =>
  compose(translation(p.x, p.y), compose(rotation(angleDeg), translation(-p.x, -p.y)));
