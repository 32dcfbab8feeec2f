/**
 * A graphic larger than the material, in panels: columns and rows over its box that overlap, as few as can be, divided
 * where least artwork is crossed (`seams.ts`), each with the artwork cut to it and closed at its edges. x runs along the
 * roll and y across it, unless turned. Open lines cannot be closed and are refused; outlines are cut with their curves.
 */
import {
  bounds,
  boxesMeet,
  boxShape,
  flatten,
  joinBoxes,
  keepOverlap,
  mapOutline,
  translation,
  type Box,
  type Outline,
} from '../geometry/index.ts';
import { InputError } from '../errors/index.ts';
import { crossedLengths, findSeams, panelsNeeded, type Seams } from './seams.ts';

/** What is divided, for which material, with which overlaps. mm. */
export interface PanelProblem {
  /** Of the material, across the roll. */
  readonly widthMm: number;
  /** Along the roll; as long as need be when left out. */
  readonly maxLengthMm?: number;
  /** Left free along all edges of the material. */
  readonly marginMm: number;
  readonly overlapMm: number;
  /** Of panels above one another; as sideways when left out. */
  readonly overlapUpMm?: number | undefined;
  /** No panel is narrower, overlap and all. */
  readonly leastPanelMm: number;
  /** Panels may be laid on the material turned by a quarter. */
  readonly turnPanels: boolean;
  /** Seams as the user wants them, middles of the overlaps; else they are found. */
  readonly seams?: { readonly x: readonly number[]; readonly y: readonly number[] };
  readonly artwork: readonly { readonly id: string; readonly outline: Outline }[];
}

/** A panel: its box with overlaps, and what it shows. */
export interface Panel {
  /** Of the panel with its overlaps, in the artwork's place. */
  readonly box: Box;
  /** It fits the material only turned. */
  readonly turned: boolean;
  readonly pieces: readonly { readonly id: string; readonly outline: Outline }[];
}

const FLAT = 0.02;
const MOST_PANELS = 2000;

interface Way {
  readonly x: Seams;
  readonly y: Seams;
}

const overlapsOf = ({ overlapMm, overlapUpMm = overlapMm }: PanelProblem): readonly [number, number] => [overlapMm, overlapUpMm];

function check(problem: PanelProblem): { length: number; width: number } {
  const { widthMm, maxLengthMm = Infinity, marginMm, leastPanelMm, artwork } = problem;
  const overlapMm = Math.max(...overlapsOf(problem));
  const [length, width] = [maxLengthMm - 2 * marginMm, widthMm - 2 * marginMm];
  if ([widthMm, marginMm, overlapMm, leastPanelMm].some((v) => !Number.isFinite(v) || v < 0) || !(length > 0) || !(width > 0))
    throw new InputError('panels', 'Nothing is left of the material between its margins.');
  if (overlapMm >= Math.min(length, width))
    throw new InputError('panels', `An overlap of ${overlapMm} mm is wider than the material between its margins.`);
  if (leastPanelMm > width || (leastPanelMm > length && !problem.turnPanels))
    throw new InputError('panels', `Panels of ${leastPanelMm} mm at least do not fit the material.`);
  const open = artwork.find(({ outline }) => outline.contours.some((contour) => !contour.closed));
  if (open) throw new InputError('outline', 'Open lines cannot be divided into panels. Make them shapes first.', { id: open.id });
  return { length, width };
}

/** Columns and rows when a panel may measure so much along x and y; undefined when they cannot be made. */
function wayOf(problem: PanelProblem, box: Box, most: { x: number; y: number }, lines: ReturnType<typeof flatten>[]): Way | undefined {
  const overlaps = overlapsOf(problem);
  const along = (from: number, to: number, mostMm: number, axis: 0 | 1): Seams | undefined =>
    findSeams(
      {
        from,
        to,
        count: panelsNeeded(to - from, mostMm, overlaps[axis]),
        overlapMm: overlaps[axis],
        mostMm,
        leastMm: problem.leastPanelMm,
      },
      lines,
      axis,
    );
  const x = along(box.minX, box.maxX, most.x, 0);
  const y = along(box.minY, box.maxY, most.y, 1);
  return x && y && { x, y };
}

function wantedWay(seams: NonNullable<PanelProblem['seams']>, box: Box, lines: ReturnType<typeof flatten>[]): Way {
  const along = (wanted: readonly number[], from: number, to: number, axis: 0 | 1): Seams => {
    const places = [...wanted].sort((a, b) => a - b);
    const outside = places.find((v) => !(v > from && v < to));
    if (outside !== undefined) throw new InputError('seams', `The seam at ${outside} mm lies outside of the artwork.`);
    return { places, crossedMm: crossedLengths(Float64Array.from(places), lines, axis).reduce((a, b) => a + b, 0) };
  };
  return { x: along(seams.x, box.minX, box.maxX, 0), y: along(seams.y, box.minY, box.maxY, 1) };
}

/** From and to of the panels along one axis. */
function spansOf(places: readonly number[], from: number, to: number, overlapMm: number): [number, number][] {
  return [...places, to].map((end, i) => {
    const start = places[i - 1];
    return [start === undefined ? from : start - overlapMm / 2, i === places.length ? to : end + overlapMm / 2];
  });
}

const within = (inner: Box, outer: Box): boolean =>
  inner.minX >= outer.minX && inner.maxX <= outer.maxX && inner.minY >= outer.minY && inner.maxY <= outer.maxY;

function cutTo(box: Box, artwork: readonly { id: string; outline: Outline; box: Box }[]): Panel['pieces'] {
  const frame = mapOutline(translation(box.minX, box.minY), boxShape(box.maxX - box.minX, box.maxY - box.minY));
  return artwork.flatMap(({ id, outline, box: own }) => {
    if (!boxesMeet(own, box)) return [];
    const piece = within(own, box) ? outline : keepOverlap([outline, frame]);
    return piece.contours.length > 0 ? [{ id, outline: piece }] : [];
  });
}

/**
 * @returns panels with artwork on them, row by row from the lower left; empty for no artwork
 * @throws InputError `input.panels` for sizes that leave nothing, `input.seams` for seams outside of the artwork or too
 *   far apart for the material, `input.outline` for open lines
 */
export function splitPanels(problem: PanelProblem): Panel[] {
  const { length, width } = check(problem);
  const artwork = problem.artwork
    .filter(({ outline }) => outline.contours.length > 0)
    .map((piece) => ({ ...piece, box: bounds(piece.outline) }));
  if (artwork.length === 0) return [];
  const box = artwork.map((piece) => piece.box).reduce(joinBoxes);
  const lines = artwork.map(({ outline }) => flatten(outline, FLAT));
  const fits = (w: number, h: number): boolean => w <= length + 1e-6 && h <= width + 1e-6;
  const way = problem.seams ? wantedWay(problem.seams, box, lines) : bestWay(problem, box, lines, length, width);
  const [columns, rows] = [
    spansOf(way.x.places, box.minX, box.maxX, problem.overlapMm),
    spansOf(way.y.places, box.minY, box.maxY, overlapsOf(problem)[1]),
  ];
  return rows.flatMap(([minY, maxY]) =>
    columns.flatMap(([minX, maxX]) => {
      const [w, h] = [maxX - minX, maxY - minY];
      const turned = !fits(w, h);
      if (turned && !(problem.turnPanels && fits(h, w)))
        throw new InputError(
          'seams',
          `A panel of ${Math.round(w)} by ${Math.round(h)} mm is larger than the material. Set the seams nearer.`,
        );
      const panel = { minX, minY, maxX, maxY };
      const pieces = cutTo(panel, artwork);
      return pieces.length > 0 ? [{ box: panel, turned, pieces }] : [];
    }),
  );
}

function bestWay(problem: PanelProblem, box: Box, lines: ReturnType<typeof flatten>[], length: number, width: number): Way {
  const sizes = [{ x: length, y: width }, ...(problem.turnPanels ? [{ x: width, y: length }] : [])];
  const [across, up] = overlapsOf(problem);
  const countOf = (most: { x: number; y: number }): number =>
    panelsNeeded(box.maxX - box.minX, most.x, across) * panelsNeeded(box.maxY - box.minY, most.y, up);
  const least = Math.min(...sizes.map(countOf));
  if (least > MOST_PANELS) throw new InputError('panels', `That would be ${least} panels; at most ${MOST_PANELS} are made.`);
  const byCount = [...sizes].sort((a, b) => countOf(a) - countOf(b));
  const ways = byCount.flatMap((most) => {
    const way = countOf(most) <= MOST_PANELS ? wayOf(problem, box, most, lines) : undefined;
    return way ? [{ way, count: countOf(most), crossed: way.x.crossedMm + way.y.crossedMm }] : [];
  });
  const best = ways.sort((a, b) => a.count - b.count || a.crossed - b.crossed)[0];
  if (!best) throw new InputError('panels', `No panels of at least ${problem.leastPanelMm} mm can be made. Make the least panel smaller.`);
  return best.way;
}

/**
 * Seams of so many panels, all of one width with their overlaps.
 * @returns one fewer than panels, mm; none for one panel
 */
export function evenSeams(from: number, to: number, count: number, overlapMm: number): number[] {
  const step = (to - from - overlapMm) / Math.floor(count);
  return Array.from({ length: Math.max(0, Math.floor(count) - 1) }, (_, i) => from + (i + 1) * step + overlapMm / 2);
}

/**
 * Seams of panels of one width, overlap and all, from the lower end on; the last is what is left, joined to the one before
 * where it would be narrower than its overlap.
 * @param widthMm of a panel, its overlap included
 */
export function seamsByWidth(from: number, to: number, widthMm: number, overlapMm: number): number[] {
  const seams: number[] = [];
  const step = widthMm - overlapMm;
  if (!(step > 0)) return seams;
  for (let at = from + widthMm - overlapMm / 2; at < to - overlapMm && seams.length < MOST_PANELS; at += step) seams.push(at);
  return seams;
}
