/**
 * How much each pair of parts weighs in a search: one that goes on colliding weighs more and more, as guided local search wants
 * it (see `nest-separate.ts`).
 */
import type { OverlappingLayout } from './nest-overlapping.ts';

/** By how much colliding pairs weigh more after a round, the worst by the most; others fall back by the last. */
const HEAVIER = [1.1, 1.5] as const;
const LIGHTER = 0.95;

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;

/** The pairs of a layout. */
export class Pairs {
  constructor(private readonly of: OverlappingLayout) {}

  /** All pairs weigh the same again. */
  forget(): void {
    this.of.weights.fill(1);
  }

  sum(): number {
    const { count, collisions } = this.of;
    let sum = 0;
    for (let i = 0; i < count; i++) for (let j = i + 1; j < count; j++) sum += num(collisions, i * count + j);
    return sum;
  }

  /** Does a part collide with any other? */
  collides(i: number): boolean {
    const { count, collisions } = this.of;
    for (let j = 0; j < count; j++) if (num(collisions, i * count + j) > 0) return true;
    return false;
  }

  private most(): number {
    const { count, collisions } = this.of;
    let most = 0;
    for (let i = 0; i < count; i++) for (let j = i + 1; j < count; j++) most = Math.max(most, num(collisions, i * count + j));
    return most;
  }

  /** After a round: what collides still weighs more. */
  reweigh(): void {
    const { count, collisions, weights } = this.of;
    const most = this.most();
    if (most === 0) return;
    for (let i = 0; i < count; i++)
      for (let j = i + 1; j < count; j++) {
        const own = num(collisions, i * count + j);
        const weight = num(weights, i * count + j);
        const next = own > 0 ? weight * (HEAVIER[0] + (HEAVIER[1] - HEAVIER[0]) * (own / most)) : Math.max(1, weight * LIGHTER);
        weights[i * count + j] = next;
        weights[j * count + i] = next;
      }
  }
}
