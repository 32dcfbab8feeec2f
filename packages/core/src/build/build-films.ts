/**
 * What is cut of each film, so that the films laid on one another show the drawing.
 *
 * A film laid over (`overlay`) lies on top of those below, which stay whole. One let in (`inlay`) takes its place: films
 * below are cut out under it, but for the trap, by which they reach under its edge. A film that is left out, for the
 * surface has its colour, is cut out of those below without a trap and not cut itself.
 *
 * Method: from the top down, the outlines of what is let in are welded to one region for each trap; each part of the
 * films below loses what lies deeper in that region than the trap (inset by `offset`, `knockOut`): edges between two
 * things that are let in are no edges of the region, so that nothing is kept under them. A part that only meets the edge
 * of what is let in is carried under it by the trap. Parts of one film that meet are welded. Units mm.
 * Law: at every point the topmost film is that of the drawing; parts that lose nothing keep their very outline.
 * Limits: pieces that come of cutting and are thinner than `sliverMm` are dropped and told; open lines cut nothing and
 * are never cut. Pieces that one item makes of itself meet as the item says (`meets`), and are left as they are.
 */
import type { Box, Contour, Outline } from '../types/index.ts';
import type { Finding } from '../check/cut-check.ts';
import {
  area,
  bounds,
  boxesMeet,
  contourArea,
  contourBox,
  contourLength,
  contourStart,
  EMPTY_OUTLINE,
  growBox,
  isEmptyBox,
} from '../geometry/outline.ts';
import { flatten } from '../geometry/flatten.ts';
import { isInside, lineDistance, windingNumber } from '../geometry/hit.ts';
import { offset } from '../geometry/offset/offset.ts';
import { keepOverlap, knockOut, knockOutWelded, weld } from '../geometry/weld/weld.ts';
import { clustersOf, indexOf, solidOf } from './seen-part.ts';

/** A part of a film as it was drawn. */
export interface BuildPart {
  readonly id: string;
  readonly name: string;
  readonly outline: Outline;
  /** The item it is a piece of, when that says itself how its pieces meet. */
  readonly meets?: string | undefined;
  /** Let in alone, whatever its film does. */
  readonly inlaid?: boolean | undefined;
}

/** A film of the strip with what is drawn on it. */
export interface BuildLayer {
  readonly film: string;
  readonly name: string;
  readonly build: 'overlay' | 'inlay';
  readonly trapMm: number;
  readonly leftOut: boolean;
  /** Strips that come of cutting and are thinner are dropped, mm; as the options say when absent. */
  readonly sliverMm?: number | undefined;
  readonly parts: readonly BuildPart[];
}

/** How films are built. */
export interface BuildOptions {
  /** On glass that is seen from both sides a trap shows: there is none. */
  readonly seenFromBothSides?: boolean;
  /** Pieces that come of cutting and are thinner are dropped, mm. */
  readonly sliverMm?: number;
}

/** What is left of a part; its own outline when it loses nothing. */
export interface BuiltPart {
  /** Number of the part in its film. */
  readonly part: number;
  readonly outline: Outline;
}

/** A film as it is cut, with what it was made of and what was found. */
export interface BuiltFilm {
  readonly film: string;
  /** All that is cut of it: parts that meet are welded. */
  readonly outline: Outline;
  readonly from: readonly BuiltPart[];
  readonly leftOut: boolean;
  readonly findings: readonly Finding[];
}

const SLIVER_MM = 0.3;
/** Edges nearer than this are one edge, mm. */
const MEETS_MM = 0.005;
const USUAL_TRAP = { join: 'mitre' as const, clean: true };

/** What is cut out of films below. */
interface Cutter {
  readonly outline: Outline;
  readonly box: Box;
  readonly trapMm: number;
  readonly meets: string | undefined;
  readonly name: string;
}

function cuttersOf(layer: BuildLayer, trapMm: number): Cutter[] {
  return layer.parts.flatMap((part) => {
    if (!layer.leftOut && layer.build === 'overlay' && !part.inlaid) return [];
    const outline = solidOf(part.outline);
    const box = bounds(outline);
    if (isEmptyBox(box)) return [];
    return [{ outline, box, trapMm: layer.leftOut ? 0 : trapMm, meets: part.meets, name: part.name }];
  });
}

/** Results of steps that were asked for before: after a change most of a drawing is as it was. Nothing stands on it. */
class KeptSteps {
  private readonly known = new Map<string, Outline>();
  private length = 0;

  once(step: string, contours: readonly Contour[], work: () => Outline): Outline {
    const key = `${step} ${contours.map(({ spans }) => spans.join(' ')).join('|')}`;
    const known = this.known.get(key);
    if (known) return known;
    const made = work();
    if (key.length > LONGEST_KEPT) return made;
    if (this.length > MOST_KEPT) {
      this.known.clear();
      this.length = 0;
    }
    this.known.set(key, made);
    this.length += key.length;
    return made;
  }
}

/** Characters of the keys in all, and of one: what is larger is worked out each time. */
const MOST_KEPT = 30_000_000;
const LONGEST_KEPT = 300_000;
const kept = new KeptSteps();

/** Inset piece by piece: pieces do not meet, so that each is on its own. */
const insetOf = (whole: Outline, byMm: number): Outline => ({
  contours: piecesOf(whole).flatMap(
    (contours) => kept.once(`inset ${byMm}`, contours, () => offset({ contours }, -byMm, USUAL_TRAP)).contours,
  ),
});

/** The weld of outlines, those together that may meet. */
const unionOf = (outlines: readonly Outline[]): Outline => ({
  contours: clustersOf(outlines.map(bounds)).flatMap((cluster) => {
    const own = cluster.map((i) => outlines[i] as Outline);
    const contours = own.flatMap((outline) => outline.contours);
    // where one outline ends and the next begins counts: each fills by itself
    const step = `weld ${own.map((outline) => outline.contours.length).join()}`;
    return kept.once(step, contours, () => weld(own)).contours;
  }),
});

/** What is let in above a film, welded. Grows downwards. */
class Above {
  readonly cutters: Cutter[] = [];
  private whole = EMPTY_OUTLINE;
  private known = new Map<string, Outline>();

  add(cutters: readonly Cutter[]): void {
    if (cutters.length === 0) return;
    this.cutters.push(...cutters);
    this.known = new Map();
    this.whole = unionOf(this.cutters.map(({ outline }) => outline));
  }

  /** What a film below is cut out of; without what belongs to an item that says itself how its pieces meet. */
  region(item: string | undefined): Outline {
    const key = item !== undefined && this.cutters.some(({ meets }) => meets === item) ? item : '';
    const known = this.known.get(key) ?? (key === '' ? this.make() : this.others(key).make());
    this.known.set(key, known);
    return known;
  }

  private others(item: string): Above {
    const out = new Above();
    out.add(this.cutters.filter(({ meets }) => meets !== item));
    return out;
  }

  private make(): Outline {
    const traps = new Set(this.cutters.map(({ trapMm }) => trapMm));
    const [only] = traps;
    if (only === undefined) return EMPTY_OUTLINE;
    if (traps.size === 1) return only === 0 ? this.whole : insetOf(this.whole, only);
    const ofTrap = (trapMm: number): Outline[] => this.cutters.filter((one) => one.trapMm === trapMm).map(({ outline }) => outline);
    return weld(
      [...traps].map((trapMm) => (trapMm === 0 ? unionOf(ofTrap(0)) : keepOverlap([unionOf(ofTrap(trapMm)), insetOf(this.whole, trapMm)]))),
    );
  }
}

/** Outlines of a welded shape, each with its holes. */
function piecesOf({ contours }: Outline): Contour[][] {
  const outer = contours.filter((contour) => contourArea(contour) > 0).map((contour) => [contour]);
  for (const hole of contours) {
    if (contourArea(hole) > 0) continue;
    const { x, y } = contourStart(hole);
    const box = contourBox(hole);
    const bySize = outer
      .filter(([rim]) => rim && holdsBox(contourBox(rim), box))
      .sort((a, b) => contourArea(a[0] as Contour) - contourArea(b[0] as Contour));
    // a hole that touches its rim may begin on it: then the box tells
    (bySize.find(([rim]) => rim && isInside({ contours: [rim] }, x, y)) ?? bySize[0])?.push(hole);
  }
  return outer;
}

const holdsBox = (outer: Box, inner: Box): boolean =>
  inner.minX >= outer.minX - MEETS_MM &&
  inner.maxX <= outer.maxX + MEETS_MM &&
  inner.minY >= outer.minY - MEETS_MM &&
  inner.maxY <= outer.maxY + MEETS_MM;

const isSliver = (piece: readonly Contour[], sliverMm: number): boolean => {
  const around = piece.reduce((sum, contour) => sum + contourLength(contour), 0);
  return (2 * Math.abs(area({ contours: piece }))) / around < sliverMm;
};

/** What is left of a part, and slivers that were dropped. */
function cutPart(part: BuildPart, region: Outline, sliverMm: number): { outline: Outline; slivers: Contour[][] } {
  const solid = solidOf(part.outline);
  const box = bounds(solid);
  const near = region.contours.filter((contour) => boxesMeet(box, contourBox(contour)));
  const left = knockOutWelded(solid, { contours: near });
  const own = Math.abs(area(solid));
  if (Math.abs(own - Math.abs(area(left))) < 1e-9 * Math.max(1, own)) return { outline: part.outline, slivers: [] };
  const pieces = piecesOf(left);
  const slivers = pieces.filter((piece) => isSliver(piece, sliverMm));
  const open = part.outline.contours.filter(({ closed }) => !closed);
  return { outline: { contours: [...pieces.filter((piece) => !slivers.includes(piece)).flat(), ...open] }, slivers };
}

/** Points along an outline that are looked at. */
const LOOKS = 24;

/** Does a point of the one lie well within the other? Where they only meet, none does. */
function shares(one: Outline, other: Outline): boolean {
  const lines = flatten(other, 0.01);
  const points = flatten(one, 0.1).flatMap(({ xy }) =>
    Array.from({ length: xy.length / 2 }, (_, i) => [xy[2 * i] ?? 0, xy[2 * i + 1] ?? 0] as const),
  );
  const step = Math.max(1, Math.floor(points.length / LOOKS));
  return points.some(([x, y], i) => i % step === 0 && windingNumber(lines, x, y) !== 0 && lineDistance(lines, x, y) > 2 * MEETS_MM);
}

/** Carries a part under what it only meets the edge of. */
function carryUnder(left: Outline, part: BuildPart, cutters: readonly Cutter[]): Outline {
  const solid = solidOf(part.outline);
  const box = growBox(bounds(solid), MEETS_MM);
  const reach = cutters.flatMap(({ outline, box: other, trapMm, meets }) => {
    if (trapMm === 0 || !boxesMeet(box, other) || (meets !== undefined && meets === part.meets)) return [];
    // lies partly under it: what was kept of it there is the trap
    if (shares(outline, solid) || shares(solid, outline)) return [];
    const near = keepOverlap([offset(solid, MEETS_MM, { join: 'mitre' }), outline]);
    if (near.contours.length === 0 || Math.abs(area(keepOverlap([solid, outline]))) > MEETS_MM) return [];
    const under = keepOverlap([offset(solid, trapMm, { join: 'mitre' }), outline]);
    return under.contours.length > 0 ? [under] : [];
  });
  return reach.length > 0 ? weld([left, ...reach]) : left;
}

/** Parts of one film that meet become one; the others keep their very contours. */
function weldFilm(parts: readonly Outline[]): Outline {
  const solids = parts.map(solidOf);
  const open = parts.flatMap(({ contours }) => contours.filter(({ closed }) => !closed));
  const welded = clustersOf(solids.map(bounds)).flatMap((cluster) => {
    const own = cluster.map((i) => solids[i] as Outline);
    return own.length === 1 ? (own[0] as Outline).contours : unionOf(own).contours;
  });
  return { contours: [...welded, ...open] };
}

const say = (mm: number): string => (Math.round(mm * 100) / 100).toString();

const sliverFinding = (part: BuildPart, film: string, slivers: readonly (readonly Contour[])[], sliverMm: number): Finding => ({
  code: 'build-sliver',
  level: 'warning',
  text: `${slivers.length === 1 ? 'A strip' : `${slivers.length} strips`} of “${part.name}” thinner than ${say(sliverMm)} mm would be left on ${film} between what is let in: ${slivers.length === 1 ? 'it is' : 'they are'} dropped, and the surface shows there. Lay one of the neighbours over instead.`,
  place: contourStart(slivers[0]?.[0] as Contour),
  box: bounds({ contours: slivers.flat() }),
  parts: [part.id],
});

/** Things that are narrower than twice their trap are not let in anywhere. */
function wideTraps(layer: BuildLayer, trapMm: number): Finding[] {
  if (trapMm === 0 || layer.leftOut) return [];
  const narrow = layer.parts.filter((part) => {
    if (layer.build === 'overlay' && !part.inlaid) return false;
    const { minX, minY, maxX, maxY } = bounds(part.outline);
    return Math.min(maxX - minX, maxY - minY) <= 2 * trapMm;
  });
  const [first] = narrow;
  if (!first) return [];
  const who = narrow.length === 1 ? `“${first.name}” is` : `${narrow.length} parts such as “${first.name}” are`;
  return [
    {
      code: 'trap-wide',
      level: 'warning',
      text: `${who} narrower than twice the trap of ${say(trapMm)} mm: laid over, not let in.`,
      place: contourStart(first.outline.contours[0] as Contour),
      box: bounds(first.outline),
      parts: narrow.slice(0, 50).map(({ id }) => id),
    },
  ];
}

/**
 * @param layers bottom first
 * @returns in the same order, one for each
 * @complexity one weld and inset for each film, one knock-out for each part that something is let into
 */
export function buildFilms(layers: readonly BuildLayer[], options: BuildOptions = {}): BuiltFilm[] {
  const sliverMm = options.sliverMm ?? SLIVER_MM;
  const trapOf = ({ trapMm }: BuildLayer): number => (options.seenFromBothSides ? 0 : trapMm);
  const above = new Above();
  const out: BuiltFilm[] = [];
  for (const layer of [...layers].reverse()) {
    const findings = wideTraps(layer, trapOf(layer));
    const from = layer.leftOut
      ? []
      : layer.parts.map((part, i) => buildPart(part, i, { layer, above, sliverMm: layer.sliverMm ?? sliverMm, findings }));
    out.push({ film: layer.film, outline: weldFilm(from.map(({ outline }) => outline)), from, leftOut: layer.leftOut, findings });
    above.add(cuttersOf(layer, trapOf(layer)));
  }
  return out.reverse();
}

interface BuildContext {
  readonly layer: BuildLayer;
  readonly above: Above;
  readonly sliverMm: number;
  readonly findings: Finding[];
}

function buildPart(part: BuildPart, number: number, { layer, above, sliverMm, findings }: BuildContext): BuiltPart {
  const box = growBox(bounds(solidOf(part.outline)), MEETS_MM);
  const near = isEmptyBox(box) ? [] : above.cutters.filter((cutter) => boxesMeet(box, cutter.box));
  if (near.length === 0) return { part: number, outline: part.outline };
  const { outline, slivers } = cutPart(part, above.region(part.meets), sliverMm);
  if (slivers.length > 0) findings.push(sliverFinding(part, layer.name, slivers, sliverMm));
  return { part: number, outline: carryUnder(outline, part, near) };
}

/** Parts this many times as large as the smallest that can be weeded are small. */
const SMALL_TIMES = 4;

/**
 * Numbers of small parts of a film laid over, by film, that lie wholly on one film below: cut out of it they are held all
 * round and cannot slip.
 * @param smallestMm of each film, what can be weeded
 */
export function smallOnFill(layers: readonly BuildLayer[], smallestMm: (film: string) => number): Map<string, number[]> {
  const out = new Map<string, number[]>();
  // each film's parts by their boxes, looked through once
  const grounds = layers.map(({ parts }) => {
    const solids = parts.map(({ outline }) => solidOf(outline));
    return { solids, index: indexOf(solids.map(bounds)) };
  });
  layers.forEach((layer, level) => {
    if (layer.build === 'inlay' || layer.leftOut) return;
    const limit = SMALL_TIMES * smallestMm(layer.film);
    const small = layer.parts.flatMap((part, i) => {
      const solid = solidOf(part.outline);
      const own = Math.abs(area(solid));
      if (part.inlaid || own === 0 || Math.sqrt(own) > limit) return [];
      const box = bounds(solid);
      const isOn = grounds.slice(0, level).some(({ solids, index }, below) => {
        if (layers[below]?.leftOut) return false;
        const under = index?.search(box.minX, box.minY, box.maxX, box.maxY).map((k) => solids[k] as Outline) ?? [];
        return under.length > 0 && Math.abs(area(knockOut(solid, under))) < 1e-3 * own;
      });
      return isOn ? [i] : [];
    });
    if (small.length > 0) out.set(layer.film, small);
  });
  return out;
}
