/**
 * Cut check of the drawing itself, before any laying up: what is hidden under other parts, lies off the drawing, has
 * no film, lacks letters, or is too coarse a picture. Places in drawing coordinates. Needs the pieces of every item.
 */
import {
  bounds,
  boxesMeet,
  isEmptyBox,
  joinBoxes,
  EMPTY_BOX,
  knockOut,
  area,
  mapOutline,
  type Box,
  type Outline,
  mappedBounds,
} from '@lorvek/core/geometry';
import { listed, type Finding } from '@lorvek/core/check';
import type { Drawing } from '../records/document.ts';
import type { Derived } from '../queries/derive.ts';
import { asksForGround } from '../queries/edge-cuts.ts';
import { isUnknown, type Known, type KnownOf } from '../queries/known-pieces.ts';
import { isAid, isCutLine, type LeafItem } from '../queries/plain-outline.ts';
import { isPrint, layerOf, layerOfCutLine, layersOf, leavesOf, pageOf } from '../queries/queries.ts';

/** Coarser than this a picture shows its pixels at reading distance, dots an inch. */
const COARSE_DPI = 72;
/** A part that shows less than this share of itself is hidden. */
const SHOWN_SHARE = 0.002;
/** Hidden parts are looked for in drawings of at most so many pieces; the search is dear. */
const MOST_PIECES = 1500;
const MOST_FINDINGS = 300;

const centre = (box: Box): { x: number; y: number } => ({ x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 });

interface Seen {
  readonly leaf: LeafItem;
  readonly film: string | null;
  readonly outline: Outline;
  readonly box: Box;
  readonly rank: number;
}

/** What was not looked for is said. */
const tooManyPieces = (count: number): Finding => ({
  code: 'not-worked-out',
  level: 'warning',
  text: `With ${count} pieces nobody looked whether parts lie hidden under others, or within others of their film.`,
  parts: [],
});

function findHidden(seen: readonly Seen[]): Finding[] {
  const sorted = [...seen].sort((a, b) => a.rank - b.rank);
  return sorted.flatMap((low, i): Finding[] => {
    const over = sorted.slice(i + 1).filter((high) => high.leaf.id !== low.leaf.id && boxesMeet(high.box, low.box));
    const all = over.reduce<Box>((sum, { box }) => joinBoxes(sum, box), EMPTY_BOX);
    const inside =
      all.minX <= low.box.minX + 1e-6 &&
      all.maxX >= low.box.maxX - 1e-6 &&
      all.minY <= low.box.minY + 1e-6 &&
      all.maxY >= low.box.maxY - 1e-6;
    const own = Math.abs(area(low.outline));
    if (!inside || own === 0 || !low.outline.contours.every((c) => c.closed)) return [];
    const left = knockOut(
      low.outline,
      over.map(({ outline }) => outline),
    );
    if (Math.abs(area(left)) > SHOWN_SHARE * own) return [];
    return [
      {
        code: 'hidden',
        level: 'warning',
        text: `“${low.leaf.name}” lies wholly under other parts: it is cut and never seen.`,
        place: centre(low.box),
        box: low.box,
        parts: [low.leaf.id],
      },
    ];
  });
}

/**
 * Parts that lie within another part of their own film, on top of it: they look like one piece, and the inner line is cut
 * all the same.
 */
function findInside(seen: readonly Seen[]): Finding[] {
  return seen.flatMap((high): Finding[] => {
    const under = seen.find(
      (low) =>
        low.film === high.film && low.leaf.id !== high.leaf.id && low.rank < high.rank && holds(low.box, high.box) && isWithin(high, low),
    );
    if (!under) return [];
    return [
      {
        code: 'inside-same-film',
        level: 'warning',
        text: `“${high.leaf.name}” lies within “${under.leaf.name}” of the same film: its line is cut and never seen. Weld them, or knock it out.`,
        place: centre(high.box),
        box: high.box,
        parts: [high.leaf.id, under.leaf.id],
      },
    ];
  });
}

const holds = (outer: Box, inner: Box): boolean =>
  outer.minX <= inner.minX + 1e-6 && outer.maxX >= inner.maxX - 1e-6 && outer.minY <= inner.minY + 1e-6 && outer.maxY >= inner.maxY - 1e-6;

function isWithin(inner: Seen, outer: Seen): boolean {
  const own = Math.abs(area(inner.outline));
  if (own === 0 || !inner.outline.contours.every((c) => c.closed)) return false;
  return Math.abs(area(knockOut(inner.outline, [outer.outline]))) <= SHOWN_SHARE * own;
}

function findOff(leaf: LeafItem, box: Box, drawing: Drawing): Finding[] {
  const { surface } = pageOf(drawing);
  const out = Math.max(-box.minX, -box.minY, box.maxX - surface.widthMm, box.maxY - surface.heightMm);
  if (out <= 0.5) return [];
  const whole = box.maxX <= 0 || box.maxY <= 0 || box.minX >= surface.widthMm || box.minY >= surface.heightMm;
  return [
    {
      code: 'off-drawing',
      level: 'warning',
      text: whole ? `“${leaf.name}” lies off the surface.` : `“${leaf.name}” reaches ${out.toFixed(1)} mm beyond the surface.`,
      place: centre(box),
      box,
      parts: [leaf.id],
    },
  ];
}

function findMissingLetters(leaf: LeafItem, derived: Derived, box: Box): Finding[] {
  if (leaf.kind !== 'lettering' || (derived.missing.length === 0 && derived.missingFont === undefined)) return [];
  const text = derived.missingFont
    ? `The font of “${leaf.name}” is not in this shop.`
    : `The font of “${leaf.name}” has no ${derived.missing.map((c) => `“${c}”`).join(', ')}: it will be missing on the sign.`;
  return [{ code: 'missing-letters', level: 'stop', text, place: isEmptyBox(box) ? undefined : centre(box), parts: [leaf.id] }];
}

function findCoarse(leaf: LeafItem): Finding[] {
  if (leaf.kind !== 'picture' || leaf.locked) return [];
  const [a, b] = leaf.matrix;
  const dpi = 25.4 / (leaf.mmPerPx * Math.hypot(a, b));
  if (dpi >= COARSE_DPI) return [];
  const box = mappedBounds(leaf.matrix, { contours: [] });
  return [
    {
      code: 'coarse-picture',
      level: 'warning',
      text: `The picture “${leaf.name}” has ${Math.round(dpi)} dots an inch at this size: its pixels will be seen when it is printed.`,
      place: isEmptyBox(box) ? { x: leaf.matrix[4], y: leaf.matrix[5] } : centre(box),
      parts: [leaf.id],
    },
  ];
}

/** An item that could not be worked out: whatever goes out would be without it. */
export function findUnknown(leaf: LeafItem, known: Extract<Known, { why: string }>): Finding {
  return {
    code: known.missingFont === undefined ? 'not-worked-out' : 'missing-letters',
    level: 'stop',
    text:
      known.missingFont === undefined
        ? `“${leaf.name}” could not be worked out and would be missing: ${known.why}`
        : `The font of “${leaf.name}” is not in this shop: the words would be missing. Choose another font.`,
    place: { x: leaf.matrix[4], y: leaf.matrix[5] },
    parts: [leaf.id],
  };
}

/** A picture that belongs to no print, in a job that prints: perhaps forgotten. */
const lookedAt = (leaf: LeafItem): Finding => ({
  code: 'printed-nowhere',
  level: 'warning',
  text: `The picture “${leaf.name}” is only looked at: it is on no print.`,
  place: { x: leaf.matrix[4], y: leaf.matrix[5] },
  parts: [leaf.id],
});

/** A cut line that goes with no print is not cut; one round a picture with an opaque ground is a plain rectangle. */
function findCutLine(drawing: Drawing, leaf: LeafItem, box: Box): Finding[] {
  const out: Finding[] = [];
  if (!isPrint(layerOf(drawing, layerOfCutLine(drawing, leaf))))
    out.push({
      code: 'printed-nowhere',
      level: 'warning',
      text: `“${leaf.name}” goes round nothing that is printed: it is not cut.`,
      place: centre(box),
      box,
      parts: [leaf.id],
    });
  const opaque = leaf.kind === 'edge-cut' && leaf.shape === 'follow' ? asksForGround(drawing, leaf)[0] : undefined;
  if (opaque)
    out.push({
      code: 'opaque-ground',
      level: 'warning',
      text: `“${leaf.name}” follows a plain rectangle: the picture “${opaque.name}” has a ground. Lift the ground, or give it a clipping outline.`,
      place: centre(box),
      box,
      parts: [opaque.id],
    });
  return out;
}

const isOnlyLookedAt = (leaf: LeafItem): boolean => leaf.kind === 'picture' && leaf.layer === null && !leaf.locked && !leaf.hidden;

const onNoLayer = ({ id, name }: LeafItem, box: Box): Finding => ({
  code: 'film-missing',
  level: 'warning',
  text: `“${name}” is on no film and no print: it goes nowhere.`,
  place: centre(box),
  box,
  parts: [id],
});

/** @returns findings with places on the drawing, an empty list when all is well */
export function checkDrawing(drawing: Drawing, knownOf: KnownOf): Finding[] {
  const order = new Map(pageOf(drawing).layers.map((film, i) => [film, i]));
  const hasPrint = layersOf(drawing).some(isPrint);
  const out: Finding[] = [];
  const seen: Seen[] = [];
  leavesOf(drawing).forEach((leaf, i) => {
    if (leaf.kind === 'picture') out.push(...findCoarse(leaf), ...(hasPrint && isOnlyLookedAt(leaf) ? [lookedAt(leaf)] : []));
    if (isAid(leaf)) return;
    const known = knownOf(leaf);
    if (isUnknown(known)) return void out.push(findUnknown(leaf, known));
    const box = mappedBounds(leaf.matrix, known.derived.outline);
    out.push(...findMissingLetters(leaf, known.derived, box));
    if (isEmptyBox(box)) return;
    // rings and shades lie on the surface too
    const added = isCutLine(leaf) ? [] : known.pieces.filter(({ outline }) => outline !== known.derived.outline);
    const seenBox = added.reduce((sum, piece) => joinBoxes(sum, mappedBounds(leaf.matrix, piece.outline)), box);
    out.push(...findOff(leaf, seenBox, drawing));
    if (isCutLine(leaf)) return void out.push(...findCutLine(drawing, leaf, box));
    for (const piece of known.pieces) {
      const film = layerOf(drawing, piece.layer);
      if (!film) out.push(onNoLayer(leaf, box));
      else if (film.visible && film.type === 'film') {
        const outline = mapOutline(leaf.matrix, piece.outline);
        const rank = (order.get(film.id) ?? 0) * 1e6 + i;
        if (outline.contours.length > 0) seen.push({ leaf, film: film.id, outline, box: bounds(outline), rank });
      }
    }
  });
  const among = seen.length > MOST_PIECES ? [tooManyPieces(seen.length)] : [...findHidden(seen), ...findInside(seen)];
  return listed([...out, ...among], MOST_FINDINGS);
}
