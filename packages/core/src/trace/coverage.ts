/**
 * How much of each pixel lies left of closed lines: exact areas by Green's theorem, summed row by row from signed
 * edges (the area buffer of antialiased painting, after E. Catmull, A Hidden-Surface Algorithm with Anti-Aliasing,
 * 1978). Units pixels, y down; left as it is then seen.
 */
export class Coverage {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Numbers in a row of the sums. */
  readonly stride: number;
  private readonly edges: Float32Array;

  /** Of the pixels from (x, y) on; one more column on the right takes what runs out of the row. */
  constructor(x: number, y: number, width: number, height: number) {
    this.x = x;
    this.y = y;
    this.width = width;
    this.height = height;
    this.stride = width + 2;
    this.edges = new Float32Array(this.stride * height);
  }

  clear(): void {
    this.edges.fill(0);
  }

  /** Adds a line so many times, with less than zero against its direction. What lies beyond the sides counts as on them. */
  line(ax: number, ay: number, bx: number, by: number, times: number): void {
    if (ay === by) return;
    const up = ay < by;
    const sign = up ? times : -times;
    const [x0, y0, x1, y1] = up
      ? [ax - this.x, ay - this.y, bx - this.x, by - this.y]
      : [bx - this.x, by - this.y, ax - this.x, ay - this.y];
    const slope = (x1 - x0) / (y1 - y0);
    const last = Math.min(this.height, Math.ceil(y1));
    for (let row = Math.max(0, Math.floor(y0)); row < last; row++) {
      const [top, bottom] = [Math.max(row, y0), Math.min(row + 1, y1)];
      if (bottom <= top) continue;
      this.within(row, x0 + (top - y0) * slope, x0 + (bottom - y0) * slope, sign * (bottom - top));
    }
  }

  /** A line within one row; what lies beyond the sides is put on them. */
  private within(row: number, from: number, to: number, whole: number): void {
    const { edges, width, stride } = this;
    const [left, right] = from < to ? [from, to] : [to, from];
    const low = Math.min(width, Math.max(0, left));
    const high = Math.min(width, Math.max(0, right));
    let rise = whole;
    if (high > low && (left < 0 || right > width)) {
      const [before, beyond] = [(whole * (low - left)) / (right - left), (whole * (right - high)) / (right - left)];
      edges[row * stride] = (edges[row * stride] as number) + before;
      rise -= before + beyond;
    }
    this.inside(row * stride, low, high, rise);
  }

  /** Cut where it passes from one pixel to the next. */
  private inside(start: number, low: number, high: number, rise: number): void {
    const { edges } = this;
    const first = Math.floor(low);
    if (high <= first + 1) {
      const right = rise * ((low + high) / 2 - first);
      edges[start + first] = (edges[start + first] as number) + rise - right;
      edges[start + first + 1] = (edges[start + first + 1] as number) + right;
      return;
    }
    const each = rise / (high - low);
    for (let column = first; column < high; column++) {
      const [a, b] = [Math.max(column, low), Math.min(column + 1, high)];
      const part = each * (b - a);
      const right = part * ((a + b) / 2 - column);
      edges[start + column] = (edges[start + column] as number) + part - right;
      edges[start + column + 1] = (edges[start + column + 1] as number) + right;
    }
  }

  /** Summed up in place, which ends it: each row's coverage, `stride` numbers a row. */
  sums(): Float32Array {
    const { edges, stride, width } = this;
    for (let row = 0; row < this.height; row++) {
      let sum = 0;
      for (let i = row * stride; i < row * stride + width; i++) {
        sum += edges[i] as number;
        edges[i] = sum;
      }
    }
    return edges;
  }
}
