/**
 * The work of a layer as parts: what is cut and printed of each item, and what of it moves as one.
 *
 * A cut line goes with what it goes round, whatever moves as one otherwise. Words and single outlines are made of lettering
 * and shapes on film; what is printed stays whole.
 */
import type { LayerId } from '../records/fields.ts';
import { InputError } from '@lorvek/core';
import type { Finding } from '@lorvek/core/check';
import { bounds, IDENTITY, joinOutlines, invert, mapOutline, mapPoint, nestContours } from '@lorvek/core/geometry';
import type { PrintItem } from '@lorvek/core/print';
import { lyingTogether } from '@lorvek/core/sheet';
import type { Piece } from '../queries/derive.ts';
import { outlinesRound, roundedBy } from '../queries/edge-cuts.ts';
import { isUnknown, type Known, type KnownOf } from '../queries/known-pieces.ts';
import { isAid, isCutLine, type LeafItem } from '../queries/plain-outline.ts';
import { isPrint, itemOf, layerOf, leavesInScope, leavesOf, topOf } from '../queries/queries.ts';
import type { Drawing } from '../records/document.ts';
import type { EdgeCutItem } from '../records/items.ts';
import type { Together } from '../records/lay-up.ts';
import type { Layer } from '../records/layers.ts';
import type { BuiltJob } from './build-plan.ts';
import { bleedArt, endOf } from './bleed-art.ts';
import { findUnknown } from './check-drawing.ts';
import { WHOLE, type LayPart, type SheetSource } from './lay-places.ts';
import { artOf } from './print-art.ts';
import { inkedBy } from './spot-inks.ts';
import { passesOf, type PassPlan } from './print-passes.ts';

interface LeafWork {
  readonly leaf: LeafItem;
  readonly known: Known;
  readonly sources: readonly SheetSource[];
  readonly art: readonly PrintItem[];
  /** Of an edge cut: what is painted under all art, carried outward from what it goes round. */
  readonly under: readonly PrintItem[];
}

/** What of a drawing goes on a layer's sheets. */
export interface LayerWork {
  readonly layer: Layer;
  readonly leaves: readonly LeafWork[];
  /** Place marks of a film. */
  readonly besides: readonly SheetSource[];
  /** Places on the drawing. */
  readonly findings: readonly Finding[];
  readonly itemIds: readonly string[];
  /** Of a print: how it is laid down, one after another; empty: at once. */
  readonly passes: readonly PassPlan[];
}

/** What is left of an item's pieces when the films are built on one another. */
const builtSources = (leaf: LeafItem, layer: Layer, { layers }: BuiltJob): SheetSource[] =>
  (layers.find(({ film }) => film.id === layer.id)?.byItem.get(leaf.id) ?? [])
    .filter(({ contours }) => contours.length > 0)
    .map((outline) => ({ id: leaf.id, name: leaf.name, outline, line: { kind: 'film' as const } }));

function sourcesOf(leaf: LeafItem, layer: Layer, pieces: readonly Piece[], built: BuiltJob | undefined): SheetSource[] {
  if (built && layer.type === 'film' && !isCutLine(leaf)) return builtSources(leaf, layer, built);
  const own = isCutLine(leaf) ? pieces : pieces.filter((piece) => piece.layer === layer.id);
  // of a picture that was lifted off its ground, what is left of it takes room
  if (leaf.kind === 'picture' && isPrint(layer))
    return outlinesRound(leaf, own).map((outline) => ({ id: leaf.id, name: leaf.name, outline, line: undefined }));
  const line = isCutLine(leaf) ? leaf.line : layer.type === 'film' ? ({ kind: 'film' } as const) : undefined;
  return own
    .filter(({ outline }) => outline.contours.length > 0)
    .map(({ outline }) => ({ id: leaf.id, name: leaf.name, outline: mapOutline(leaf.matrix, outline), line }));
}

/** A cut line of which nothing is left, or that goes round nothing. */
const emptyLine = (leaf: LeafItem): Finding => ({
  code: 'edge-cut-empty',
  level: 'stop',
  text: `“${leaf.name}” leaves no line: it runs farther inward than what it goes round is thick. Bring it nearer to the edge.`,
  parts: [leaf.id],
});

/** Place marks of a film, and what of others' work was not worked out, so that it may have to be cut out of this film. */
function besides(
  drawing: Drawing,
  layer: Layer,
  knownOf: KnownOf,
  built: BuiltJob | undefined,
): { sources: SheetSource[]; findings: Finding[] } {
  if (!built || layer.type !== 'film') return { sources: [], findings: [] };
  const findings = built.unknown.flatMap((id) => {
    const leaf = itemOf(drawing, id);
    const known = leaf && leaf.kind !== 'group' ? knownOf(leaf) : undefined;
    return leaf && leaf.kind !== 'group' && known && isUnknown(known) && leaf.layer !== layer.id ? [findUnknown(leaf, known)] : [];
  });
  const own = built.layers.find(({ film }) => film.id === layer.id)?.findings ?? [];
  const isMarked = layer.placeMarks === true && built.marks.contours.length > 0;
  return {
    sources: isMarked ? [{ id: PLACE_MARKS, name: 'Place marks', outline: built.marks, line: { kind: 'film' } }] : [],
    findings: [...findings, ...own],
  };
}

/** An edge cut with what is carried outward beyond it. */
function withBleed(drawing: Drawing, one: LeafWork, all: readonly LeafWork[]): LeafWork {
  const { leaf, sources } = one;
  if (leaf.kind !== 'edge-cut' || leaf.bleedMm === undefined || sources.length === 0) return one;
  const round = new Set(roundedBy(drawing, leaf).map(({ id }) => id));
  const inside = all.filter((other) => round.has(other.leaf.id));
  const ends = inside.flatMap((other) =>
    other.art.flatMap((item) =>
      endOf(
        item,
        other.sources.map(({ outline }) => outline),
      ),
    ),
  );
  const art = inside.flatMap((other) => other.art);
  return { ...one, under: bleedArt(art, joinOutlines(ends), joinOutlines(sources.map(({ outline }) => outline)), leaf.bleedMm) };
}

/** Art of some leaves, what is carried outward lowest. */
const artOfLeaves = (leaves: readonly LeafWork[]): PrintItem[] => [
  ...leaves.flatMap(({ under }) => under),
  ...leaves.flatMap(({ art }) => art),
];

/** The source that place marks are on a sheet. */
export const PLACE_MARKS = 'place-marks';

/** @throws InputError for an unknown layer */
export function workOf(drawing: Drawing, layerId: LayerId, knownOf: KnownOf, built: BuiltJob | undefined): LayerWork {
  const layer = layerOf(drawing, layerId);
  if (!layer) throw new InputError('film', 'This layer is not in the job.');
  const inScope = leavesInScope(drawing).get(layerId) ?? [];
  const findings: Finding[] = [];
  const leaves: LeafWork[] = [];
  for (const leaf of inScope) {
    const known = knownOf(leaf);
    if (isUnknown(known)) {
      findings.push(findUnknown(leaf, known));
      continue;
    }
    const sources = sourcesOf(leaf, layer, known.pieces, built);
    if (isCutLine(leaf) && sources.length === 0) findings.push(emptyLine(leaf));
    const own = known.pieces.filter((piece) => piece.layer === layerId);
    leaves.push({
      leaf,
      known,
      sources,
      art:
        isPrint(layer) && !isCutLine(leaf)
          ? artOf(leaf, own, layer.hex).map((item) => ({ ...inkedBy(layer.spots, item), of: leaf.id }))
          : [],
      under: [],
    });
  }
  const carried = leaves.map((one) => withBleed(drawing, one, leaves));
  const isEmpty = leaves.every(({ sources }) => sources.length === 0);
  const more = isEmpty ? { sources: [], findings: [] } : besides(drawing, layer, knownOf, built);
  return {
    layer,
    leaves: carried,
    besides: more.sources,
    findings: [...findings, ...more.findings],
    itemIds: inScope.map(({ id }) => id),
    passes: passesOf(drawing, layer),
  };
}

/** All of a layer's work as the one part that lies as it is drawn. */
export const wholeOf = ({ layer, leaves, besides: marks }: LayerWork): LayPart => ({
  id: WHOLE,
  name: layer.name,
  sources: [...leaves.flatMap(({ sources }) => sources), ...marks],
  art: artOfLeaves(leaves),
});

/** Sets of ids that are joined one by one. */
class Sets {
  private readonly parent = new Map<string, string>();

  of(id: string): string {
    const up = this.parent.get(id);
    if (up === undefined || up === id) return id;
    const root = this.of(up);
    this.parent.set(id, root);
    return root;
  }

  join(a: string, b: string): void {
    this.parent.set(this.of(b), this.of(a));
  }
}

/** Joins what lies on one another on the drawing, whatever film it is of. */
function joinStacks(sets: Sets, drawing: Drawing, knownOf: KnownOf): void {
  const leaves = leavesOf(drawing).filter((leaf) => leaf.layer !== null && !isAid(leaf) && !isCutLine(leaf));
  const lie = leaves.map((leaf) => {
    const known = knownOf(leaf);
    return isUnknown(known) ? { contours: [] } : mapOutline(leaf.matrix, joinOutlines(known.pieces.map(({ outline }) => outline)));
  });
  for (const [first = 0, ...others] of lyingTogether(lie))
    for (const other of others) sets.join(leaves[first]?.id ?? '', leaves[other]?.id ?? '');
}

/** The number of the word, by line and by the space before it, that a place in a lettering belongs to. */
function wordAt({ leaf, known }: LeafWork, at: { x: number; y: number }): string {
  if (leaf.kind !== 'lettering' || isUnknown(known)) return '';
  const { lines } = known.derived;
  const straight = lines.filter(({ places }) => places === undefined);
  const [first] = straight;
  if (!first) return '';
  const line = straight.reduce((a, b) => (Math.abs(at.y - b.baselineY) < Math.abs(at.y - a.baselineY) ? b : a), first);
  let word = 0;
  for (let i = line.start; i < line.end; i++)
    if (/\s/u.test(leaf.text[i] ?? '') && (line.carets[i - line.start] ?? Infinity) < at.x) word++;
  return `${straight.indexOf(line)}.${word}`;
}

/** One item taken apart: into words of a lettering, or into single outlines. */
function apart(work: LeafWork, together: 'outline' | 'word'): LayPart[] {
  const back = invert(work.leaf.matrix) ?? IDENTITY;
  const groups = new Map<string, SheetSource[]>();
  const single = work.sources.flatMap((source) => nestContours(source.outline.contours).map((outline) => ({ ...source, outline })));
  for (const source of single) {
    const box = bounds(source.outline);
    const middle = mapPoint(back, { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 });
    const key = together === 'outline' ? String(groups.size) : wordAt(work, middle);
    groups.set(key, [...(groups.get(key) ?? []), source]);
  }
  const { id, name } = work.leaf;
  if (groups.size < 2) return [{ id, name, sources: work.sources, art: work.art }];
  return [...groups.values()].map((sources, i) => ({ id: `${id}~${i + 1}`, name: `${name} ${i + 1}`, sources, art: [] }));
}

interface Taken {
  readonly drawing: Drawing;
  readonly knownOf: KnownOf;
  readonly together: Together;
  /** Parts that are taken apart one step further. */
  readonly isApart: (id: string) => boolean;
}

/** A layer's work as parts, in the order of the drawing. */
export function partsOf(work: LayerWork, { drawing, knownOf, together, isApart }: Taken): LayPart[] {
  const sets = new Sets();
  const byGroup = together === 'group' || together === 'stack';
  for (const { leaf } of work.leaves) {
    if (byGroup) sets.join(topOf(drawing, leaf.id), leaf.id);
    if (leaf.kind === 'edge-cut') for (const round of leavesOf(drawing, (leaf as EdgeCutItem).of)) sets.join(round.id, leaf.id);
  }
  if (together === 'stack') joinStacks(sets, drawing, knownOf);
  const groups = new Map<string, LeafWork[]>();
  for (const own of work.leaves) {
    if (own.sources.length === 0 && own.art.length === 0) continue;
    const key = sets.of(own.leaf.id);
    groups.set(key, [...(groups.get(key) ?? []), own]);
  }
  const isCut = !isPrint(work.layer);
  return [...groups].flatMap(([id, own]): LayPart[] => {
    const taken = isCut ? takenApart(own, together, isApart(id)) : undefined;
    if (taken) return taken;
    const name = itemOf(drawing, id)?.name ?? own[0]?.leaf.name ?? id;
    return [{ id, name, sources: own.flatMap(({ sources }) => sources), art: artOfLeaves(own) }];
  });
}

/** What is cut, in smaller parts where that is asked for: by outline, by word, one step further than its group. */
function takenApart(own: readonly LeafWork[], together: Together, further: boolean): LayPart[] | undefined {
  const [only] = own;
  if (own.length === 1 && only) {
    const next = only.leaf.kind === 'lettering' ? 'word' : 'outline';
    const step = together === 'outline' || together === 'word' ? together : further ? next : undefined;
    return step && apart(only, step);
  }
  if (!further || own.some(({ leaf }) => leaf.kind === 'edge-cut')) return undefined;
  return own.map(({ leaf, sources, art }) => ({ id: leaf.id, name: leaf.name, sources, art }));
}
