/** Work that comes in, in the order its films have to lie for it to look as it came. */
import { comparedLooks, seenOfParts, splitKeys, stackKeys, type SeenPart, type SplitKeys } from '@lorvek/core/build';
import { bounds, formatPath, invert, mapOutline, parsePath, type Matrix } from '@lorvek/core/geometry';
import { BELOW_ALL, ranksAbove } from '@lorvek/model';

/** Parts, and what of the order stands already. */
export interface StackAsked {
  /** In the order they are seen, bottom first. */
  readonly parts: readonly StackedPart[];
  /** Films whose order stays, each with the next above it. */
  readonly fixed: readonly (readonly [string, string])[];
}

/** A part with the film it is cut from and what is seen of it. */
export interface StackedPart {
  readonly path: string;
  readonly matrix: Matrix;
  /** The film it is cut from, or its own colour. */
  readonly key: string;
  readonly hasFilm: boolean;
  /** What is seen of it. */
  readonly hex: string;
}

/** The order, and what no order can show. */
export interface StackAnswer {
  /** Keys, bottom first. */
  readonly order: readonly string[];
  /** Keys that lay both over and under one another; their parts were cut out of one another. */
  readonly knots: readonly (readonly string[])[];
  /** New paths by the number of the part; an empty one: nothing of it was seen. */
  readonly paths: Readonly<Record<number, string>>;
  /** The share of the ground that looks otherwise than it came, 0 to 1. */
  readonly differs: number;
}

/** The order of films in which parts look as they came. */
export function stackParts({ parts, fixed }: StackAsked, onShare: (share: number) => void = () => undefined): StackAnswer {
  const seen = parts.map(({ path, matrix, key }): SeenPart => ({ key, outline: mapOutline(matrix, parsePath(path)) }));
  const { order, knots } = stackKeys(seen, fixed);
  const cut = knots.reduce<readonly SeenPart[]>(
    (sum, knot, k) =>
      seenOfParts(sum, new Set(knot), (share) => onShare((k + share) / knots.length)).map((outline, i) => ({
        key: sum[i]?.key ?? '',
        outline,
      })),
    seen,
  );
  const paths: Record<number, string> = {};
  cut.forEach(({ outline }, i) => {
    const back = invert(parts[i]?.matrix ?? [1, 0, 0, 1, 0, 0]);
    if (outline === seen[i]?.outline || !back) return;
    paths[i] = outline.contours.length === 0 ? '' : formatPath(mapOutline(back, outline), 5);
  });
  const look = (list: readonly SeenPart[]): SeenPart[] => list.map(({ outline }, i) => ({ key: parts[i]?.hex ?? '', outline }));
  return { order, knots, paths, differs: comparedLooks(look(seen), asPainted(look(cut), parts, order)) };
}

/** In how many layers whole parts show what is seen. */
export const splitParts = (parts: readonly Pick<StackedPart, 'path' | 'matrix' | 'key'>[]): SplitKeys =>
  splitKeys(parts.map(({ path, matrix, key }) => ({ key, outline: mapOutline(matrix, parsePath(path)) })));

/** Parts as the drawing paints them: by their films, what has none above what it lies on. */
function asPainted(looks: readonly SeenPart[], parts: readonly StackedPart[], order: readonly string[]): SeenPart[] {
  const films = new Map(order.map((key, i) => [key, i]));
  const filmOf = (i: number): number | undefined => (parts[i]?.hasFilm ? films.get(parts[i].key) : undefined);
  const loose = ranksAbove(looks.map(({ outline }, i) => ({ box: bounds(outline), layers: [filmOf(i) ?? []].flat() })));
  return looks
    .map((part, i) => ({ part, i, rank: filmOf(i) ?? (loose.get(i) ?? BELOW_ALL) + 0.5 }))
    .sort((a, b) => a.rank - b.rank || a.i - b.i)
    .map(({ part }) => part);
}
