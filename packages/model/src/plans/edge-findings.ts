/**
 * What is wrong with the cut lines of a print: they run into art that they do not go round, meet one another, are too small or
 * too sharp for the blade, cut along the art's very edge without bleed, or cut all through with nothing to hold the piece.
 */
import { area, bounds, boxesMeet, flatten, keepOverlap, type Box, type Outline, type Point, type Polyline } from '@lorvek/core/geometry';
import { listed, type Finding } from '@lorvek/core/check';
import { lyingTogether } from '@lorvek/core/sheet';
import { isUnknown } from '../queries/known-pieces.ts';
import { leastHeldMm, outlinesRound, roundedBy } from '../queries/edge-cuts.ts';
import { isCutLine } from '../queries/plain-outline.ts';
import { isPrint } from '../queries/queries.ts';
import type { Drawing } from '../records/document.ts';
import type { EdgeCutItem } from '../records/items.ts';
import type { LayerWork } from './lay-parts.ts';

/** A line so near to the art's end is cut through the last of its colour. */
const NEAR_MM = 1;
/** Sharper corners lift the film. */
const SHARP_DEG = 28;
/** To each side of a corner, mm. */
const STRETCH_MM = 0.5;
const MOST_LINES = 400;
const MOST_FOUND = 60;

type Leaf = LayerWork['leaves'][number];

interface Line {
  readonly leaf: Leaf;
  readonly outline: Outline;
  readonly box: Box;
  readonly kind: string;
  /** Items that it goes round. */
  readonly of: ReadonlySet<string>;
}

function linesOf(drawing: Drawing, { leaves }: LayerWork): Line[] {
  return leaves.flatMap((leaf): Line[] => {
    const item = leaf.leaf;
    if (!isCutLine(item)) return [];
    const outline = { contours: leaf.sources.flatMap((source) => source.outline.contours) };
    if (outline.contours.length === 0) return [];
    const of = new Set(item.kind === 'edge-cut' ? roundedBy(drawing, item).map(({ id }) => id) : []);
    return [{ leaf, outline, box: bounds(outline), kind: leaf.sources[0]?.line?.kind ?? 'kiss', of }];
  });
}

/** Art that a line crosses although it does not go round it. */
function findIntoArt(lines: readonly Line[], { leaves }: LayerWork): Finding[] {
  const art = leaves.flatMap((leaf) => {
    // a plate lies over the picture that it came with
    const isPlate = leaf.leaf.kind === 'picture' && leaf.leaf.ink !== undefined;
    if (isCutLine(leaf.leaf) || isPlate || isUnknown(leaf.known)) return [];
    const outline = { contours: outlinesRound(leaf.leaf, leaf.known.pieces).flatMap(({ contours }) => contours) };
    return [{ leaf, outline, box: bounds(outline), areaMm2: Math.abs(area(outline)) }];
  });
  return lines.flatMap((line) => {
    if (!line.outline.contours.every(({ closed }) => closed)) return [];
    const sides = flatten(line.outline, 0.02);
    return art.flatMap((one): Finding[] => {
      if (line.of.has(one.leaf.leaf.id) || !boxesMeet(line.box, one.box) || !runsThrough(sides, one.box)) return [];
      const within = Math.abs(area(keepOverlap([one.outline, line.outline])));
      if (within < 0.02 * one.areaMm2 || within > 0.98 * one.areaMm2) return [];
      return [
        {
          code: 'edge-into-art',
          level: 'warning',
          text: `“${line.leaf.leaf.name}” runs through “${one.leaf.leaf.name}”, which it does not go round.`,
          box: one.box,
          parts: [line.leaf.leaf.id, one.leaf.leaf.id],
        },
      ];
    });
  });
}

/** Does any side reach into a box? Else what lies in the box is all within the lines, or all outside. */
const runsThrough = (lines: readonly Polyline[], { minX, minY, maxX, maxY }: Box): boolean =>
  lines.some(({ xy }) => {
    const n = xy.length;
    for (let i = 0; i < n; i += 2) {
      const [x0, y0, x1, y1] = [xy[i] ?? 0, xy[i + 1] ?? 0, xy[(i + 2) % n] ?? 0, xy[(i + 3) % n] ?? 0];
      // by the boxes of the sides: now and then one too many, never one too few
      if (Math.max(x0, x1) > minX && Math.min(x0, x1) < maxX && Math.max(y0, y1) > minY && Math.min(y0, y1) < maxY) return true;
    }
    return false;
  });

/** Lines that cross or touch; a line within another does not. */
function findMeeting(lines: readonly Line[]): Finding[] {
  const open = lines.map(({ outline }) => ({ contours: outline.contours.map((contour) => ({ ...contour, closed: false })) }));
  return lyingTogether(open)
    .filter((set) => set.length > 1)
    .flatMap((set): Finding[] => {
      const own = set.flatMap((i) => lines[i] ?? []);
      const [first, second] = own;
      if (!first || !second) return [];
      return [
        {
          code: 'lines-meet',
          level: 'warning',
          text: `The cut lines “${first.leaf.leaf.name}” and “${second.leaf.leaf.name}”${own.length > 2 ? ` and ${own.length - 2} more` : ''} cross or touch one another.`,
          box: first.box,
          parts: own.map(({ leaf }) => leaf.leaf.id),
        },
      ];
    });
}

function findSmall({ leaf, outline, kind }: Line): Finding[] {
  const least = leastHeldMm(kind);
  const small = outline.contours.flatMap((contour) => {
    const box = bounds({ contours: [contour] });
    const across = Math.min(box.maxX - box.minX, box.maxY - box.minY);
    return contour.closed && across < least ? [{ box, across }] : [];
  });
  const [first] = small;
  if (!first) return [];
  return [
    {
      code: 'edge-small',
      level: 'warning',
      text: `“${leaf.leaf.name}” cuts ${small.length === 1 ? 'a piece' : `${small.length} pieces`} only ${first.across.toFixed(1)} mm across: the blade drags it along.`,
      place: { x: (first.box.minX + first.box.maxX) / 2, y: (first.box.minY + first.box.maxY) / 2 },
      box: first.box,
      parts: [leaf.leaf.id],
    },
  ];
}

/** The place a stretch on from a corner of a closed polyline, along it. */
function along(xy: ArrayLike<number>, corner: number, step: 1 | -1, mm: number): Point {
  const n = xy.length / 2;
  let here = { x: xy[2 * corner] ?? 0, y: xy[2 * corner + 1] ?? 0 };
  let left = mm;
  for (let k = 1; k <= n; k++) {
    const i = (corner + step * k + n * k) % n;
    const next = { x: xy[2 * i] ?? 0, y: xy[2 * i + 1] ?? 0 };
    const way = Math.hypot(next.x - here.x, next.y - here.y);
    if (way >= left) return { x: here.x + ((next.x - here.x) * left) / way, y: here.y + ((next.y - here.y) * left) / way };
    left -= way;
    here = next;
  }
  return here;
}

const aroundMm = (xy: ArrayLike<number>): number => {
  let sum = 0;
  for (let i = 0, j = xy.length - 2; i < xy.length; j = i, i += 2)
    sum += Math.hypot((xy[i] ?? 0) - (xy[j] ?? 0), (xy[i + 1] ?? 0) - (xy[j + 1] ?? 0));
  return sum;
};

/** Corners sharper than a trailing blade turns in, measured over a stretch of a millimetre, of curves as of straight sides. */
function findSharp({ leaf, outline }: Line): Finding[] {
  for (const { closed, xy } of flatten(outline, 0.02)) {
    // what is as small as that is found as such
    if (!closed || aroundMm(xy) < 4 * STRETCH_MM) continue;
    for (let i = 0; i < xy.length / 2; i++) {
      const [x, y] = [xy[2 * i] ?? 0, xy[2 * i + 1] ?? 0];
      const [p, q] = [along(xy, i, -1, STRETCH_MM), along(xy, i, 1, STRETCH_MM)];
      const length = Math.hypot(p.x - x, p.y - y) * Math.hypot(q.x - x, q.y - y);
      if (length === 0) continue;
      const cosine = ((p.x - x) * (q.x - x) + (p.y - y) * (q.y - y)) / length;
      const deg = (Math.acos(Math.min(1, Math.max(-1, cosine))) * 180) / Math.PI;
      if (deg < SHARP_DEG)
        return [
          {
            code: 'edge-sharp',
            level: 'warning',
            text: `“${leaf.leaf.name}” has a corner of ${Math.round(deg)}°: sharper than ${SHARP_DEG}° the blade lifts the film. Smooth it a little.`,
            place: { x, y },
            parts: [leaf.leaf.id],
          },
        ];
    }
  }
  return [];
}

/** A line along the very end of the art leaves white where the cut strays by a hair. */
function findNoBleed(line: Line): Finding[] {
  const item = line.leaf.leaf;
  if (item.kind !== 'edge-cut' || item.bleedMm !== undefined || Math.abs((item as EdgeCutItem).distanceMm) >= NEAR_MM) return [];
  return [
    {
      code: 'bleed-missing',
      level: 'warning',
      text: `“${item.name}” runs along the end of the art: a cut that strays by a hair shows the medium. Carry the art outward, or move the line.`,
      box: line.box,
      parts: [item.id],
    },
  ];
}

/** What was not looked at is said. */
const tooMany = (count: number): Finding => ({
  code: 'lines-meet',
  level: 'warning',
  text: `There are ${count} cut lines; only the first ${MOST_LINES} were looked at for crossing, small and sharp ones.`,
  parts: [],
});

/** Cut lines of a print layer. @returns findings with places on the drawing */
export function findEdges(drawing: Drawing, work: LayerWork): Finding[] {
  const { layer } = work;
  if (!isPrint(layer)) return [];
  const all = linesOf(drawing, work);
  const lines = all.slice(0, MOST_LINES);
  const loose = layer.medium === 'paper' ? lines.filter(({ kind }) => kind === 'through') : [];
  const found = [
    ...(all.length > MOST_LINES ? [tooMany(all.length)] : []),
    ...findIntoArt(lines, work),
    ...findMeeting(lines),
    ...lines.flatMap((line) => [...findSmall(line), ...findSharp(line), ...findNoBleed(line)]),
    ...loose.map(({ leaf }): Finding => ({
      code: 'no-bridges',
      level: 'warning',
      text: `“${leaf.leaf.name}” cuts all through, and ${layer.name} has no liner that holds the piece. Perforate it, so that bridges hold it.`,
      parts: [leaf.leaf.id],
    })),
  ];
  return listed(found, MOST_FOUND);
}

/** What was found of the edge cuts of one row. */
export interface EdgesOfRow {
  /** From 0. */
  readonly row: number;
  readonly findings: readonly Finding[];
}

const namedRows = (rows: readonly number[]): string => {
  const [first, second, third] = rows.map((row) => row + 1);
  if (rows.length === 1) return `Row ${first}`;
  if (rows.length === 2) return `Rows ${first} and ${second}`;
  return rows.length === 3 ? `Rows ${first}, ${second} and ${third}` : `Rows ${first}, ${second}, ${third} and ${rows.length - 3} more`;
};

/** One finding for a fault that many rows have, with their numbers; it lies where the first of them has it. */
export function edgesByRow(all: readonly EdgesOfRow[]): { row: number; finding: Finding }[] {
  const groups = new Map<string, { finding: Finding; rows: number[] }>();
  for (const { row, findings } of all)
    for (const finding of findings) {
      const key = `${finding.code} ${finding.parts.join()}`;
      const group = groups.get(key);
      if (!group) groups.set(key, { finding, rows: [row] });
      else if (group.rows.at(-1) !== row) group.rows.push(row);
    }
  return [...groups.values()].map(({ finding, rows }) => ({
    row: rows[0] ?? 0,
    finding: { ...finding, text: `${namedRows(rows)}: ${finding.text}`, row: rows[0] ?? 0 },
  }));
}
