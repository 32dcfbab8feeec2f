/** Cleaning of outlines for the worker: single steps, all of them, and what lies between items. Pure. */
import {
  contourEnd,
  contourStart,
  formatPath,
  joinLooseEnds,
  mapOutline,
  nodeCount,
  parsePath,
  type Matrix,
  type Outline,
} from '@lorvek/core/geometry';
import { checkFilm } from '@lorvek/core/check';
import { makeCuttable, type CleanLimits, type CleanStep } from '@lorvek/core/clean';

export interface ShapeToClean {
  readonly id: string;
  readonly path: string;
  readonly matrix: Matrix;
  readonly film: string | null;
}

export interface CleanAsked {
  readonly shapes: readonly ShapeToClean[];
  readonly limits: CleanLimits;
  /** The steps to take; all when absent. */
  readonly only?: readonly CleanStep[];
}

export interface CleanAnswer {
  /** New paths of those that changed; an empty one: nothing is left of it. */
  readonly paths: Readonly<Record<string, string>>;
  /** What was done, by step. */
  readonly done: readonly { readonly step: CleanStep; readonly text: string; readonly shapes: number }[];
  readonly nodesBefore: number;
  readonly nodesAfter: number;
  /** Items of one film whose loose ends meet: the one outline they make together, on the drawing. */
  readonly joined: readonly { readonly ids: readonly string[]; readonly path: string }[];
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
    for (const finding of checkFilm(own.map(({ id, outline }) => ({ id, name: id, outline })))) {
      const [a, b] = finding.parts;
      if ((finding.code === 'crossing' || finding.code === 'doubled') && a && b) home.set(find(a), find(b));
    }
  }
  const groups = new Map<string, string[]>();
  for (const { id } of shapes) groups.set(find(id), [...(groups.get(find(id)) ?? []), id]);
  return [...groups.values()].filter((group) => group.length > 1);
}

/** @throws AppError when a path is no path */
export function cleanShapes({ shapes, limits, only }: CleanAsked): CleanAnswer {
  const paths: Record<string, string> = {};
  const done = new Map<CleanStep, { texts: string[]; shapes: number }>();
  let [nodesBefore, nodesAfter] = [0, 0];
  const results = shapes.map(({ id, path, matrix, film }) => {
    const before = parsePath(path);
    const k = scaleOf(matrix);
    const own: CleanLimits = {
      gapMm: limits.gapMm / k,
      doubledMm: limits.doubledMm / k,
      speckMm: limits.speckMm / k,
      thinMm: limits.thinMm / k,
    };
    const steps = makeCuttable(before, own, only);
    for (const { step, text } of steps) {
      const known = done.get(step) ?? { texts: [], shapes: 0 };
      done.set(step, { texts: [...known.texts, text], shapes: known.shapes + 1 });
    }
    const outline = steps.at(-1)?.outline ?? before;
    nodesBefore += nodeCount(before);
    nodesAfter += nodeCount(outline);
    if (outline !== before) paths[id] = outline.contours.length === 0 ? '' : formatPath(outline, 5);
    return { id, film, outline: mapOutline(matrix, outline) };
  });
  const across = only === undefined || only.includes('join') ? joinAcross(results.slice(0, MOST_ACROSS), limits.gapMm) : [];
  const gone = new Set(across.flatMap(({ ids }) => ids));
  const joinedUp = across.map(({ ids, outline }) => ({ ids, path: formatPath(outline, 5) }));
  const order: CleanStep[] = ['join', 'doubled', 'weld', 'specks', 'thin-out', 'bumps'];
  return {
    paths,
    nodesBefore,
    nodesAfter,
    crossing: only === undefined || only.includes('weld') ? crossingGroups(results.filter(({ id }) => !gone.has(id))) : [],
    joined: joinedUp,
    done: order.flatMap((step) => {
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
