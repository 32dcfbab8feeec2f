/**
 * Each pixel as one colour or a mixture of two: which, and how much of it is of the first. Three bytes a pixel, for
 * pictures are large; shares are kept in 255 steps, as pixels are.
 */
export class Shares {
  readonly width: number;
  readonly height: number;
  readonly first: Uint8Array;
  readonly second: Uint8Array;
  private readonly parts: Uint8ClampedArray;

  /** Every pixel wholly of its label. */
  constructor(width: number, height: number, labels: Uint8Array) {
    this.width = width;
    this.height = height;
    this.first = labels.slice();
    this.second = labels.slice();
    this.parts = new Uint8ClampedArray(width * height).fill(255);
  }

  /** @param share of the first, 0 to 1 */
  mix(i: number, first: number, second: number, share: number): void {
    this.first[i] = first;
    this.second[i] = second;
    this.parts[i] = 255 * share;
  }

  /** A pixel is wholly of a label. */
  take(i: number, label: number): void {
    this.mix(i, label, label, 1);
  }

  isMixed(i: number): boolean {
    return this.first[i] !== this.second[i];
  }

  /** How much of a pixel is of its first colour, 0 to 1. */
  shareAt(i: number): number {
    return (this.parts[i] as number) / 255;
  }

  /** How much of a pixel is of a label, 0 to 1. */
  of(i: number, label: number): number {
    if (this.first[i] === label) return this.isMixed(i) ? this.shareAt(i) : 1;
    return this.second[i] === label ? 1 - this.shareAt(i) : 0;
  }

  /** Labels become others; mixtures of two that become one are wholly of it. */
  relabel(into: readonly number[]): void {
    for (let i = 0; i < this.first.length; i++) {
      const [a, b] = [this.first[i] as number, this.second[i] as number];
      const [p, q] = [into[a] ?? a, into[b] ?? b];
      if (p === a && q === b) continue;
      this.mix(i, p, q, p === q ? 1 : this.shareAt(i));
    }
  }
}
