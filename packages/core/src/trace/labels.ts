/**
 * From shares to labels: one colour for each pixel. A line thinner than a pixel is nowhere mostly of its colour; it is
 * followed along its crest, where its share is greater than on both sides; tips that fade away are followed on from
 * where the line is strong.
 */
import type { Shares } from './shares.ts';

/** Lines thinner than a pixel are followed down to this share of it; in pictures with blur or noise less far. */
const FAINTEST = 0.2;
const FAINTEST_ROUGH = 0.27;
/** From there on to this share, while it still stands out by so many levels. */
const FAINTEST_ON_WAY = 0.16;
const STANDS_OUT = 60;
/** Across a line as it was drawn no more than this share of it lies beyond two pixels. */
const BEYOND = 0.25;
/** What blur makes of an edge beside another is no crest: the next pixel has more than this share of it, one beyond so much more. */
const HARDLY_FALLS = 0.5;
const RISES = 0.05;
/** Blur makes a thin line wider: two pixels off its crest it has less than this share of it. */
const FALLS_OFF = 0.65;
/** Pixels beside the crest of a thin line are of it by less than this. */
const BESIDE = 0.45;

/** What labels are given with. */
export interface LabelOptions {
  /** Edges are as drawn, not blurred or made up by enlarging. */
  readonly isSharp: boolean;
  /** Blurred, noisy or squeezed. */
  readonly isRough: boolean;
  /** How far two labels are apart, levels, where tips that fade away are followed on; where absent they are not. */
  readonly apart?: ((one: number, other: number) => number) | undefined;
}

/** @returns the colour that each pixel is mostly of; along the crest of a thin line, the line's */
export function labelsOf(shares: Shares, { isSharp, isRough, apart }: LabelOptions): Uint8Array {
  const { width, height, first, second } = shares;
  const faintest = isSharp ? FAINTEST : FAINTEST_ROUGH;
  const out = first.slice();
  for (let i = 0; i < out.length; i++) if (shares.shareAt(i) < 0.5) out[i] = second[i] as number;
  const kept = out.slice();
  const crests = new Crests(shares, out, { isSharp, isRough });
  const strong: number[] = [];
  const faint = new Map<number, number>();
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      if (first[i] === second[i]) continue;
      const minor = out[i] === first[i] ? (second[i] as number) : (first[i] as number);
      const own = shares.of(i, minor);
      const isFaint = own < faintest;
      if (isFaint && !(apart && own >= FAINTEST_ON_WAY && own * apart(first[i] as number, second[i] as number) >= STANDS_OUT)) continue;
      if (!crests.has(i, minor, own)) continue;
      if (isFaint) faint.set(i, minor);
      else {
        kept[i] = minor;
        strong.push(i);
      }
    }
  followOn(kept, strong, faint, width);
  return kept;
}

/** Where thin lines run: pixels that are more of a colour than those on both sides, which are not of it. */
class Crests {
  private readonly shares: Shares;
  private readonly labels: Uint8Array;
  private readonly edges: Pick<LabelOptions, 'isSharp' | 'isRough'>;

  constructor(shares: Shares, labels: Uint8Array, edges: Pick<LabelOptions, 'isSharp' | 'isRough'>) {
    this.shares = shares;
    this.labels = labels;
    this.edges = edges;
  }

  has(i: number, label: number, own: number): boolean {
    const { shares, labels } = this;
    const { width } = shares;
    for (const d of [1, width, width + 1, width - 1]) {
      const [a, b] = [shares.of(i - d, label), shares.of(i + d, label)];
      if (own <= a || own < b || a >= BESIDE || b >= BESIDE || labels[i - d] === label || labels[i + d] === label) continue;
      if (this.edges.isRough && (this.rises(i, -d, label, own, a) || this.rises(i, d, label, own, b))) continue;
      if (this.edges.isRough && Math.max(shares.of(i - 2 * d, label), shares.of(i + 2 * d, label)) < FALLS_OFF * own) return true;
      if (own > 0.6 * (a + b) && this.isThin(i, d, label, own + a + b, Math.min(a, b))) return true;
    }
    return false;
  }

  /** Beside a third colour it is but the foot of something wider: the share hardly falls, and rises beyond. */
  private rises(i: number, d: number, label: number, own: number, next: number): boolean {
    return next > HARDLY_FALLS * own && this.shares.of(i + 2 * d, label) > next + RISES;
  }

  /** Else it is the side of something wider that runs along the row. */
  private isThin(i: number, d: number, label: number, near: number, less: number): boolean {
    if (!this.edges.isSharp) return true;
    const far = this.shares.of(i - 2 * d, label) + this.shares.of(i + 2 * d, label);
    return less + far < BEYOND * (near + far);
  }
}

/** Faint pixels become of the label of a thin line that leads on to them (hysteresis; J. Canny, 1986). */
function followOn(labels: Uint8Array, strong: number[], faint: Map<number, number>, width: number): void {
  if (faint.size === 0) return;
  const around = [1, -1, width, -width, width + 1, width - 1, -width + 1, -width - 1];
  for (let i = strong.pop(); i !== undefined; i = strong.pop())
    for (const d of around) {
      if (faint.get(i + d) !== labels[i]) continue;
      faint.delete(i + d);
      labels[i + d] = labels[i] as number;
      strong.push(i + d);
    }
}
