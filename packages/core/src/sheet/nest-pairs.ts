/**
 * How much the parts of a layout collide, pair by pair, and how much each pair weighs in a search: one that goes on colliding
 * weighs more and more, as guided local search wants it (see `nest-separate.ts`). Collisions in mm².
 */

/** By how much colliding pairs weigh more after a round, the worst by the most; others fall back by the last. */
const HEAVIER = [1.1, 1.5] as const;
const LIGHTER = 0.95;

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;

/** Pairs of so many parts. Memory: sixteen bytes a pair, twice. */
export class Pairs {
  /** Of part i with part j at i × count + j; at least 1. */
  readonly weights: Float64Array;
  private readonly collisions: Float64Array;

  constructor(private readonly count: number) {
    this.weights = new Float64Array(count * count).fill(1);
    this.collisions = new Float64Array(count * count);
  }

  set(i: number, j: number, collision: number): void {
    this.collisions[i * this.count + j] = collision;
    this.collisions[j * this.count + i] = collision;
  }

  /** All pairs weigh the same again. */
  forget(): void {
    this.weights.fill(1);
  }

  sum(): number {
    const { count, collisions } = this;
    let sum = 0;
    for (let i = 0; i < count; i++) for (let j = i + 1; j < count; j++) sum += num(collisions, i * count + j);
    return sum;
  }

  /** Does a part collide with any other? */
  collides(i: number): boolean {
    const { count, collisions } = this;
    for (let j = 0; j < count; j++) if (num(collisions, i * count + j) > 0) return true;
    return false;
  }

  private most(): number {
    const { count, collisions } = this;
    let most = 0;
    for (let i = 0; i < count; i++) for (let j = i + 1; j < count; j++) most = Math.max(most, num(collisions, i * count + j));
    return most;
  }

  /** After a round: what collides still weighs more. */
  reweigh(): void {
    const { count, collisions, weights } = this;
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
