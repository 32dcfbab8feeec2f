/** Nesting of what is selected: what lies on one another stays together, pictures take the room of their clipping outline. */
import { AppError } from '@lorvek/core';
import { bounds, boxShape, EMPTY_OUTLINE, joinOutlines, type Outline } from '@lorvek/core/geometry';
import { lyingTogether, nest, type NestResult } from '@lorvek/core/sheet';

export interface NestRoot {
  readonly id: string;
  /** On the drawing: where it lies, to see what lies on one another. */
  readonly lies: Outline;
  /** On the drawing: what nothing else may lie on; empty for a hidden picture. */
  readonly takes: Outline;
}

export interface NestAsked {
  readonly roots: readonly NestRoot[];
  readonly copies: number;
  readonly widthMm: number;
  readonly gapMm: number;
  readonly turnStepDeg: number;
  readonly intoHoles: boolean;
  readonly keepTogether: boolean;
  readonly budgetMs: number;
}

export interface NestAnswer {
  /** What stays together; `result` names a set by its index. */
  readonly sets: readonly { readonly ids: readonly string[]; readonly takes: Outline }[];
  readonly result: NestResult;
  /** Used length when every set is taken for its box and nothing is turned, mm: what the real outlines save is told against it. */
  readonly boxesLengthMm: number;
}

const boxOf = (outline: Outline): Outline => {
  const { minX, minY, maxX, maxY } = bounds(outline);
  return boxShape(maxX - minX, maxY - minY);
};

/** @throws AppError when there is nothing to nest or a part is wider than the material */
export async function nestRoots(asked: NestAsked, onShare: (share: number, soFar?: NestAnswer) => void): Promise<NestAnswer> {
  const { roots, copies, keepTogether, budgetMs, ...strip } = asked;
  const indices = keepTogether ? lyingTogether(roots.map(({ lies }) => lies)) : roots.map((_, i) => [i]);
  const sets = indices
    .map((set) => ({
      ids: set.map((i) => roots[i]?.id ?? ''),
      takes: joinOutlines(set.map((i) => roots[i]?.takes ?? EMPTY_OUTLINE)),
    }))
    .filter(({ takes }) => takes.contours.length > 0);
  if (sets.length === 0) throw new AppError('input.selection', 'Nothing that takes room is selected.');
  const parts = sets.map(({ takes }, i) => ({ id: String(i), outline: takes, copies }));
  const boxes = await nest(
    { ...strip, turnStepDeg: 0, parts: parts.map((part) => ({ ...part, outline: boxOf(part.outline) })) },
    { budgetMs: 0 },
  );
  const answerOf = (result: NestResult): NestAnswer => ({ sets, result, boxesLengthMm: boxes.usedLengthMm });
  const result = await nest(
    { ...strip, parts },
    {
      budgetMs,
      onProgress: (done, total) => onShare(done / total),
      onBetter: (better) => onShare(0, answerOf(better)),
    },
  );
  return answerOf(result);
}
