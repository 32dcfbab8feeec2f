/** Blur by a bell curve (Gaussian), by its half from the middle on. Units pixels. */

/**
 * One half of a bell curve from its middle on, that sums to one with the other half; undefined for no blur.
 * @param deviation standard deviation, pixels
 * @returns as far as two and a half deviations reach
 */
export function bellOf(deviation: number): Float64Array | undefined {
  if (deviation === 0) return undefined;
  const reach = Math.ceil(2.5 * deviation);
  const half = Float64Array.from({ length: reach + 1 }, (_, k) => Math.exp(-0.5 * (k / deviation) ** 2));
  const sum = half.reduce((all, v, k) => all + (k === 0 ? v : 2 * v), 0);
  return half.map((v) => v / sum);
}

/**
 * What a whole pixel is worth when blurred: the squares of what becomes of it.
 * @returns 1 without blur
 */
export function energyOf(bell: Float64Array | undefined): number {
  const oneWay = bell ? bell.reduce((sum, v, k) => sum + (k === 0 ? v * v : 2 * v * v), 0) : 1;
  return oneWay * oneWay;
}

/**
 * A pixel of a picture, seen through a blur.
 * @param stride numbers from row to row
 * @returns as if the pixels of the picture's sides went on beyond them
 */
export function blurredAt(
  values: Float32Array,
  stride: number,
  width: number,
  height: number,
  x: number,
  y: number,
  bell: Float64Array | undefined,
): number {
  if (!bell) return values[y * stride + x] as number;
  const reach = bell.length - 1;
  let sum = 0;
  for (let v = -reach; v <= reach; v++) {
    const row = Math.min(height - 1, Math.max(0, y + v)) * stride;
    let along = 0;
    for (let u = -reach; u <= reach; u++)
      along += (bell[Math.abs(u)] as number) * (values[row + Math.min(width - 1, Math.max(0, x + u))] as number);
    sum += along * (bell[Math.abs(v)] as number);
  }
  return sum;
}

/**
 * Blurs a small picture in place; nothing lies beyond its sides.
 * @param stride numbers from row to row, two more than a row has pixels
 * @complexity pixels times the reach of the bell, each way
 */
export function blur(values: Float32Array, stride: number, height: number, bell: Float64Array): void {
  const reach = bell.length - 1;
  const line = new Float64Array(Math.max(stride, height));
  const along = (start: number, step: number, count: number): void => {
    for (let k = 0; k < count; k++) line[k] = values[start + k * step] as number;
    for (let k = 0; k < count; k++) {
      let sum = 0;
      for (let u = Math.max(0, k - reach); u <= Math.min(count - 1, k + reach); u++)
        sum += (line[u] as number) * (bell[Math.abs(u - k)] as number);
      values[start + k * step] = sum;
    }
  };
  for (let y = 0; y < height; y++) along(y * stride, 1, stride - 2);
  for (let x = 0; x < stride - 2; x++) along(x, stride, height);
}
