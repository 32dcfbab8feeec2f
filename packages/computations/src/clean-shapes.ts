/** Cleaning of outlines: single steps, all of them, and what lies between items. */
import {
  contourEnd,
  contourStart,
  formatPath,
  IDENTITY,
  joinLooseEnds,
  mapOutline,
  mapPoint,
  parsePath,
  type Matrix,
  type Outline,
  type Point,
} from '@lorvek/core/geometry';
import { checkFilm } from '@lorvek/core/check';
import { makeCuttable, type Cleaned, type CleanLimits, type CleanStep } from '@lorvek/core/clean';

/** A shape with its place on the drawing. */
export interface ShapeToClean {
  readonly id: string;
  readonly path: string;
  readonly matrix: Matrix;
  readonly film: string | null;
}

/** Shapes, and how far cleaning may go. */
export interface CleanAsked {
  readonly shapes: readonly ShapeToClean[];
  readonly limits: CleanLimits;
  /** The steps to take; all when absent. */
  readonly only?: readonly CleanStep[];
}

/** What cleaning did and left. */
export interface CleanAnswer {
  /** New paths of those that changed; an empty one: nothing is left of it. */
  readonly paths: Readonly<Record<string, string>>;
  /** What was done, by step. */
  readonly done: readonly { readonly step: CleanStep; readonly text: string; readonly shapes: number }[];
  /** Items of one film whose loose ends meet: the one outline they make together, on the drawing. */
  readonly joined: readonly { readonly ids: readonly string[]; readonly path: string }[];
  /** What was taken away, with its place on the drawing. */
  readonly dropped: readonly { readonly id: string; readonly step: CleanStep; readonly place: Point }[];
  /** How far a line moved at most, on the drawing, mm. */
  readonly deviationMm: number;
  /** Items of one film that cross one another, in groups to be welded. */
  readonly crossing: readonly (readonly string[])[];
}

/** The size that a map gives to a mm, so that limits are true on the drawing. */
const scaleOf = ([a, b, c, d]: Matrix): number => Math.sqrt(Math.abs(a * d - b * c)) || 1;

/** Loose ends are looked for between so many items at most. */
const MOST_ACROSS = 3000;

interface Placed {
  readonly id: string;
  readonly film: string | null;
  readonly outline: Outline;
}

/** Items of open lines whose ends meet within the gap, joined film by film. */
function joinAcross(shapes: readonly Placed[], gapMm: number): { ids: string[]; outline: Outline }[] {
  const open = shapes.filter(({ outline }) => outline.contours.some((c) => !c.closed));
  const ends = open.map(({ outline }) => outline.contours.filter((c) => !c.closed).flatMap((c) => [contourStart(c), contourEnd(c)]));
  const home = open.map((_, i) => i);
  const find = (i: number): number => (home[i] === i ? i : find(home[i] as number));
  for (let a = 0; a < open.length; a++)
    for (let b = a + 1; b < open.length; b++) {
      if (open[a]?.film !== open[b]?.film || find(a) === find(b)) continue;
      const meets = ends[a]?.some((p) => ends[b]?.some((q) => Math.hypot(p.x - q.x, p.y - q.y) <= gapMm));
      if (meets) home[find(a)] = find(b);
    }
  const groups = new Map<number, Placed[]>();
  open.forEach((shape, i) => groups.set(find(i), [...(groups.get(find(i)) ?? []), shape]));
  return [...groups.values()]
    .filter((group) => group.length > 1)
    .map((group) => ({
      ids: group.map(({ id }) => id),
      outline: joinLooseEnds({ contours: group.flatMap(({ outline }) => outline.contours) }, gapMm).outline,
    }));
}

const closedOf = (outline: Outline): Outline => ({ contours: outline.contours.filter(({ closed }) => closed) });

/** Groups of items that cross one another within a film. */
function crossingGroups(shapes: readonly Placed[]): string[][] {
  const home = new Map<string, string>();
  const find = (id: string): string => {
    const up = home.get(id);
    return up === undefined || up === id ? id : find(up);
  };
  const films = new Set(shapes.map(({ film }) => film));
  for (const film of films) {
    const own = shapes.filter((shape) => shape.film === film);
    // a line that is meant as a cut may cross what it cuts through
    for (const finding of checkFilm(own.map(({ id, outline }) => ({ id, name: id, outline: closedOf(outline) })))) {
      const [a, b] = finding.parts;
      if ((finding.code === 'crossing' || finding.code === 'doubled') && a && b) home.set(find(a), find(b));
    }
  }
  const groups = new Map<string, string[]>();
  for (const { id } of shapes) groups.set(find(id), [...(groups.get(find(id)) ?? []), id]);
  return [...groups.values()].filter((group) => group.length > 1);
}

/** Pairs of items of one film whose closed lines cross. */
function crossingPairs(shapes: readonly Placed[]): Map<string, readonly string[]> {
  const out = new Map<string, readonly string[]>();
  for (const film of new Set(shapes.map((shape) => shape.film)))
    for (const { code, parts } of checkFilm(
      shapes.filter((shape) => shape.film === film).map(({ id, outline }) => ({ id, name: id, outline })),
    ))
      if (code === 'crossing') out.set([...parts].sort().join(' '), parts);
  return out;
}

interface CleanedShape extends Placed {
  readonly before: Outline;
  readonly own: Outline;
  readonly steps: readonly Cleaned[];
  /** Its size on the drawing by its own. */
  readonly scale: number;
}

function cleaned({ id, path, matrix, film }: ShapeToClean, limits: CleanLimits, only: readonly CleanStep[] | undefined): CleanedShape {
  const before = parsePath(path);
  const scale = scaleOf(matrix);
  const own: CleanLimits = {
    gapMm: limits.gapMm / scale,
    doubledMm: limits.doubledMm / scale,
    speckMm: limits.speckMm / scale,
    thinMm: limits.thinMm / scale,
  };
  const steps = makeCuttable(before, own, only);
  const outline = steps.at(-1)?.outline ?? before;
  return { id, film, before, own: outline, steps, scale, outline: mapOutline(matrix, outline) };
}

/** The steps that redraw a line, and so may bring it across another. */
const REDRAWING: readonly CleanStep[] = ['thin-out', 'bumps'];
const ORDER: readonly CleanStep[] = ['join', 'doubled', 'weld', 'specks', 'thin-out', 'bumps'];

/** Items whose redrawn lines cross one another's, which they did not before, keep the lines that they had. */
function withoutNewCrossings(shapes: readonly ShapeToClean[], results: readonly CleanedShape[], asked: CleanAsked): CleanedShape[] {
  if (results.every(({ steps }) => steps.every(({ step }) => !REDRAWING.includes(step)))) return [...results];
  const known = crossingPairs(
    shapes.map(({ id, film, matrix }, i) => ({ id, film, outline: mapOutline(matrix, results[i]?.before ?? { contours: [] }) })),
  );
  const fresh = new Set([...crossingPairs(results)].filter(([pair]) => !known.has(pair)).flatMap(([, parts]) => parts));
  const firm = (asked.only ?? ORDER).filter((step) => !REDRAWING.includes(step));
  return results.map((result, i) => (fresh.has(result.id) ? cleaned(shapes[i] as ShapeToClean, asked.limits, firm) : result));
}

/** @throws AppError when a path is no path */
export function cleanShapes(asked: CleanAsked): CleanAnswer {
  const { shapes, limits, only } = asked;
  const results = withoutNewCrossings(
    shapes,
    shapes.map((shape) => cleaned(shape, limits, only)),
    asked,
  );
  const paths: Record<string, string> = {};
  const done = new Map<CleanStep, { texts: string[]; shapes: number }>();
  const dropped: { id: string; step: CleanStep; place: Point }[] = [];
  let deviationMm = 0;
  results.forEach(({ id, before, own, steps, scale }, i) => {
    for (const { step, text, dropped: places, deviationMm: off } of steps) {
      const known = done.get(step) ?? { texts: [], shapes: 0 };
      done.set(step, { texts: [...known.texts, text], shapes: known.shapes + 1 });
      dropped.push(...places.map((place) => ({ id, step, place: mapPoint(shapes[i]?.matrix ?? IDENTITY, place) })));
      deviationMm = Math.max(deviationMm, off * scale);
    }
    if (own !== before) paths[id] = own.contours.length === 0 ? '' : formatPath(own, 5);
  });
  const across = only === undefined || only.includes('join') ? joinAcross(results.slice(0, MOST_ACROSS), limits.gapMm) : [];
  const gone = new Set(across.flatMap(({ ids }) => ids));
  return {
    paths,
    dropped,
    deviationMm,
    crossing: only === undefined || only.includes('weld') ? crossingGroups(results.filter(({ id }) => !gone.has(id))) : [],
    joined: across.map(({ ids, outline }) => ({ ids, path: formatPath(outline, 5) })),
    done: ORDER.flatMap((step) => {
      const one = done.get(step);
      if (!one) return [];
      return [{ step, shapes: one.shapes, text: one.texts.length === 1 ? (one.texts[0] ?? '') : SUMS[step](one.shapes) }];
    }),
  };
}

const SUMS: Record<CleanStep, (n: number) => string> = {
  join: (n) => `Loose ends joined in ${n} shapes.`,
  doubled: (n) => `Doubled lines dropped in ${n} shapes.`,
  weld: (n) => `What crossed was welded in ${n} shapes.`,
  specks: (n) => `Specks dropped in ${n} shapes.`,
  bumps: (n) => `Bumps smoothed in ${n} shapes.`,
  'thin-out': (n) => `Nodes thinned out in ${n} shapes.`,
};
