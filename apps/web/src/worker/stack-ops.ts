/** Work that comes in, in the order its films have to lie for it to look as it came: pure, for the worker. */
import { comparedLooks, seenOfParts, stackKeys, type SeenPart } from '@lorvek/core/build';
import { formatPath, invert, mapOutline, parsePath, type Matrix } from '@lorvek/core/geometry';

export interface StackAsked {
  /** In the order they are seen, bottom first. */
  readonly parts: readonly StackedPart[];
  /** Films whose order stays, each with the next above it. */
  readonly fixed: readonly (readonly [string, string])[];
}

export interface StackedPart {
  readonly path: string;
  readonly matrix: Matrix;
  /** The film it is cut from, or its own colour. */
  readonly key: string;
  /** What is seen of it. */
  readonly hex: string;
}

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

export function stackParts({ parts, fixed }: StackAsked): StackAnswer {
  const seen = parts.map(({ path, matrix, key }): SeenPart => ({ key, outline: mapOutline(matrix, parsePath(path)) }));
  const { order, knots } = stackKeys(seen, fixed);
  const cut = knots.reduce<readonly SeenPart[]>(
    (sum, knot) => seenOfParts(sum, new Set(knot)).map((outline, i) => ({ key: sum[i]?.key ?? '', outline })),
    seen,
  );
  const paths: Record<number, string> = {};
  cut.forEach(({ outline }, i) => {
    const back = invert(parts[i]?.matrix ?? [1, 0, 0, 1, 0, 0]);
    if (outline === seen[i]?.outline || !back) return;
    paths[i] = outline.contours.length === 0 ? '' : formatPath(mapOutline(back, outline), 5);
  });
  const rank = new Map(order.map((key, i) => [key, i]));
  const look = (list: readonly SeenPart[]): SeenPart[] => list.map(({ outline }, i) => ({ key: parts[i]?.hex ?? '', outline }));
  const byFilm = look(cut)
    .map((part, i) => ({ part, i, at: rank.get(cut[i]?.key ?? '') ?? 0 }))
    .sort((a, b) => a.at - b.at || a.i - b.i)
    .map(({ part }) => part);
  return { order, knots, paths, differs: comparedLooks(look(seen), byFilm) };
}
